"""People: chunky storybook figures with hair, skin and clothes in parts, and near portraits."""

from __future__ import annotations

import numpy as np

from ..pen import Colour, Pen, Point, mix, shade
from ..words import COLOURS
from .kit import INK, Look, Thing, Traits, choose

SKIN: tuple[Colour, ...] = ((246, 214, 186), (226, 178, 140), (186, 130, 94), (132, 88, 62), (96, 64, 48))
HAIR: dict[str, Colour] = {
    "black hair": (44, 38, 42),
    "brown hair": (108, 70, 46),
    "blonde hair": (226, 190, 110),
    "red hair": (190, 84, 44),
    "grey hair": (178, 178, 180),
}
IRIS: dict[str, Colour] = {"blue": (70, 110, 150), "brown": (90, 66, 44), "green": (70, 120, 80)}
#: Pixels of a head's radius from which on its eyes are drawn with all they have.
NEAR_BY = 48.0
CLOTHES = ("red", "blue", "green", "yellow", "white", "black", "purple", "orange", "pink", "turquoise", "brown", "grey")


def _wear(*garments: str, hats: float = 0.2, portrait: bool = False, young: bool = False) -> Traits:
    hair = tuple(h for h in HAIR if not (young and h == "grey hair"))

    def pick(rng: np.random.Generator) -> dict[str, str]:
        out = {
            "hair": choose(rng, *hair),
            "wear": f"{choose(rng, *CLOTHES)} {choose(rng, *garments)}",
            "posture": "portrait" if portrait else choose(rng, "standing", "standing", "walking", "walking", "sitting"),
        }
        if rng.random() < hats:
            out["hat"] = f"{choose(rng, *CLOTHES)} hat"
        if not portrait:
            out["view"] = choose(rng, "front view", "front view", "side view", "back view")
            if out["posture"] == "walking":
                out["view"] = choose(rng, "side view", "side view", "back view")
        else:
            out["view"] = choose(rng, "front view", "front view", "side view")
        if rng.random() < (0.5 if portrait else 0.12):
            out["mood"] = choose(rng, "smiling", "sad", "smiling")
        return out

    return pick


def eyes(k: Look) -> str:
    """The words for a person's eyes, which only a near view shows."""
    return f"{tuple(IRIS)[int(k.r[4] * 2.99)]} eyes"


def _coloured(k: Look, slot: str, default: str = "") -> tuple[Colour, str]:
    """The colour and the noun of "red coat"."""
    words = k.traits.get(slot, default).split()
    return k.fixed(COLOURS[words[0]]), words[-1]


def _head(
    p: Pen, k: Look, at: Point, r: float, view: str, skin: Colour, hair: Colour, long_hair: bool, detail: bool = False, beard: bool = False
) -> None:
    x, y = at
    side = view == "side view"
    if long_hair:
        with p.part("hair"):
            p.blob(
                [
                    (x - r * 1.1, y - r * 0.3),
                    (x, y - r * 1.2),
                    (x + r * (0.7 if side else 1.1), y - r * 0.3),
                    (x + r * (0.1 if side else 1.15), y + r * 1.4),
                    (x - r * 1.2, y + r * 1.45),
                ],
                shade(hair, 0.8),
            )
    p.limb([(x, y + r * 0.6), (x, y + r * 1.35)], [r * 0.8, r * 0.8], shade(skin, 0.86))
    if view == "back view":
        p.oval(x, y, r * 0.92, r * 1.06, skin)
        with p.part("hair"):
            p.oval(x, y - r * 0.06, r * 1.04, r * 1.1, hair)
        return
    with p.part("face"):
        p.oval(x, y, r * 0.92, r * 1.06, skin)
        if side:
            p.poly([(x + r * 0.82, y - r * 0.1), (x + r * 1.14, y + r * 0.24), (x + r * 0.8, y + r * 0.32)], skin)
    with p.part("hair"):
        if beard:
            p.blob([(x + r * dx, y + r * dy) for dx, dy in (BEARD_SIDE if side else BEARD)], shade(hair, 0.9))
        p.blob([(x + r * dx, y + r * dy) for dx, dy in (FRINGE_SIDE if side else FRINGE)], hair)
    with p.part("face"):
        _features(p, k, at, r, side, skin, shade(hair, 0.8), detail)


#: The hair over a forehead, seen from the side and from the front, in radii of the head.
FRINGE_SIDE = ((-1.04, 0.5), (-1.06, -0.5), (-0.2, -1.2), (0.66, -0.86), (0.5, -0.44), (-0.1, -0.3), (-0.3, 0.5))
FRINGE = ((-1.02, 0.1), (-1.0, -0.6), (0.0, -1.24), (1.0, -0.6), (1.02, 0.1), (0.66, -0.42), (-0.5, -0.52))


#: A beard, the same.
BEARD_SIDE = ((-0.5, 0.1), (-0.1, 0.44), (0.9, 0.44), (1.0, 0.9), (0.5, 1.3), (-0.1, 1.1))
BEARD = ((-0.95, 0.0), (-0.6, 0.46), (0.6, 0.46), (0.95, 0.0), (0.8, 0.94), (0.0, 1.36), (-0.8, 0.94))


def _features(p: Pen, k: Look, at: Point, r: float, side: bool, skin: Colour, dark: Colour, detail: bool) -> None:
    """Eyes, nose, cheeks and mouth."""
    x, y = at
    places, mouth = ((0.5,), 0.56) if side else ((-0.36, 0.36), 0.0)
    detail = detail or r * abs(p.canvas.getTotalMatrix().getScaleY()) > NEAR_BY
    if side:
        p.oval(x - r * 0.14, y + r * 0.16, r * 0.16, r * 0.22, shade(skin, 0.86))
    with p.part("eyes"):
        for e in places:
            if detail:
                iris = IRIS[eyes(k).split()[0]]
                p.oval(x + r * e, y + r * 0.04, r * 0.2, r * 0.15, (250, 250, 246))
                p.dot(x + r * (e + 0.02), y + r * 0.04, r * 0.115, k.fixed(iris))
                p.dot(x + r * (e + 0.02), y + r * 0.04, r * 0.06, INK)
                p.limb([(x + r * (e - 0.2), y - r * 0.22), (x + r * (e + 0.2), y - r * 0.24)], [r * 0.07, r * 0.06], dark)
            else:
                p.dot(x + r * e, y + r * 0.06, r * 0.13, INK)
    if not side:
        p.limb([(x + r * 0.02, y + r * 0.12), (x + r * 0.07, y + r * 0.34)], [r * 0.06, r * 0.12], shade(skin, 0.88))
    for e in places:
        p.dot(x + r * e * 1.4, y + r * 0.42, r * 0.17, mix(skin, k.fixed((226, 90, 80)), 0.35), 0.8)
    bend = {"smiling": 0.16, "sad": -0.14}.get(k.traits.get("mood", ""), 0.04)
    p.curve(
        [(x + r * (mouth - 0.26), y + r * 0.58), (x + r * mouth, y + r * (0.58 + bend * 1.6), x + r * (mouth + 0.26), y + r * 0.58)],
        k.fixed((156, 60, 58)),
        width=r * 0.1,
    )


def _hat(p: Pen, k: Look, at: Point, r: float) -> None:
    with p.part("hat"):
        if "hat" in k.traits:
            c, _ = _coloured(k, "hat")
            x, y = at
            p.blob([(x - r * 0.8, y - r * 0.6), (x - r * 0.66, y - r * 1.4), (x + r * 0.66, y - r * 1.4), (x + r * 0.8, y - r * 0.6)], c)
            p.oval(x, y - r * 0.62, r * 1.4, r * 0.24, shade(c, 0.84))


def _figure(p: Pen, k: Look, head: float, wide: float, long_hair: bool, beard: bool = False) -> None:
    view, posture = k.traits.get("view", "front view"), k.traits.get("posture", "standing")
    wear, garment = _coloured(k, "wear", "blue coat")
    skin, hair = k.fixed(SKIN[int(k.r[0] * 4.99)]), k.fixed(HAIR.get(k.traits.get("hair", ""), (108, 70, 46)))
    trousers = k.fixed(((66, 76, 110), (92, 78, 64), (70, 70, 74), (120, 104, 84))[int(k.r[1] * 3.99)])
    shoe = k.fixed((64, 46, 40))
    side = view == "side view"
    sitting = posture == "sitting"
    drop = 0.2 if sitting else 0.0
    top = -1 + 2 * head + drop
    shoulder, hip = top + 0.06, -0.4 + drop
    width = wide * (0.72 if side else 1.0)
    skirted = garment in ("dress", "skirt")
    leg = skin if skirted else trousers
    if sitting:
        p.rect(-0.26, -0.22, 0.16, -0.17, k.fixed((126, 92, 66)))
        p.rect(-0.22, -0.17, -0.16, 0, k.fixed((104, 76, 56)))
        for i, f in ((0, 0.8), (1, 1.0)):
            x = (-0.04 if i else 0.06) if not side else 0.02
            fx = 0.3 if side else (-0.09 if i else 0.11)
            fy = hip + 0.1
            p.limb(
                [(x, hip - 0.02), (fx, fy if side else fy + 0.02), (fx, -0.05)],
                [0.13, 0.11, 0.09],
                shade(wear if garment == "dress" else leg, f),
            )
            p.limb([(fx, -0.035), (fx + 0.05, -0.035)], [0.07, 0.06], shoe)
    else:
        step = 0.17 if posture == "walking" else 0.03
        if not side:
            step = 0.075
        for s, f in ((-1, 0.78 if side else 1.0), (1, 1.0)):
            x = s * (0.02 if side else width * 0.3)
            foot = s * step * (1 if side else 1.1)
            up = 0.07 if (view == "back view" and posture == "walking" and s > 0) else 0.0
            p.limb([(x, hip), ((x + foot) / 2 + (0.03 if side else 0), hip / 2), (foot, -0.06 - up)], [0.13, 0.105, 0.085], shade(leg, f))
            p.limb([(foot, -0.035 - up), (foot + (0.06 if side else 0.012 * s), -0.035 - up)], [0.075, 0.065], shoe)
    swing = 0.14 if posture == "walking" and side else 0.0

    def arm(s: int, f: float) -> None:
        x = s * width * (0.2 if side else 0.92)
        hx = (x + s * swing) if side else x + s * 0.05
        hand = (hx + (0.12 if sitting and side else 0), hip + 0.02 - (0.05 if swing else 0))
        p.limb([(x, shoulder + 0.05), ((x + hand[0]) / 2 + s * 0.01, (shoulder + hand[1]) / 2), hand], [0.1, 0.085, 0.07], shade(wear, f))
        with p.part("hands"):
            p.dot(hand[0], hand[1] + 0.025, 0.042, skin)

    if side:
        arm(-1, 0.7)
    hem = {"coat": hip + 0.12, "dress": hip + 0.2, "skirt": hip + 0.02}.get(garment, hip + 0.05) if not sitting else hip + 0.05
    flare = {"coat": 1.1, "dress": 1.7}.get(garment, 0.98) if not sitting else 1.05
    body = [
        (-width * 0.8, shoulder),
        (0, shoulder - 0.03),
        (width * 0.8, shoulder),
        (width * 0.86, (shoulder + hip) / 2),
        (width * flare, hem),
        (-width * flare, hem),
        (-width * 0.86, (shoulder + hip) / 2),
    ]
    p.curve([body[0], (*body[1], *body[2]), body[3], body[4], body[5], body[6]], wear)
    p.poly([(width * 0.3, shoulder), (width * 0.8, shoulder), (width * flare, hem), (width * 0.4, hem)], shade(wear, 0.84))
    if garment == "coat" and view == "front view":
        p.line([(0, shoulder), (0, hem)], 0.02, shade(wear, 0.6))
    if side:
        arm(1, 0.92)
    else:
        arm(-1, 0.9)
        arm(1, 0.8)
    at = (0.03 if side else 0.0, top - head * 0.95)
    _head(p, k, at, head, view, skin, hair, long_hair, beard=beard)
    _hat(p, k, at, head)


def _portrait(p: Pen, k: Look, wide: float, long_hair: bool, young: float = 1.0, beard: bool = False) -> None:
    """Head and shoulders."""
    view = k.traits.get("view", "front view")
    wear, garment = _coloured(k, "wear", "blue coat")
    skin, hair = k.fixed(SKIN[int(k.r[0] * 4.99)]), k.fixed(HAIR.get(k.traits.get("hair", ""), (108, 70, 46)))
    w, r = wide, 0.29
    at = (0.02, -0.64)
    p.blob([(-w * 1.05, 0.02), (-w * 0.96, -0.2), (-w * 0.4, -0.33), (w * 0.4, -0.33), (w * 0.96, -0.2), (w * 1.05, 0.02)], wear)
    p.poly([(w * 0.2, -0.3), (w * 0.9, -0.2), (w * 1.0, 0.0), (w * 0.3, 0.0)], shade(wear, 0.86))
    if garment == "coat":
        p.line([(0, -0.3), (0, 0)], 0.025, shade(wear, 0.6))
        for s in (-1, 1):
            p.poly([(0, -0.2), (s * 0.16, -0.36), (s * 0.28, -0.26)], shade(wear, 0.74))
    _head(p, k, at, r * young, view, skin, hair, long_hair, detail=True, beard=beard)
    _hat(p, k, at, r * young)


def woman(p: Pen, k: Look) -> None:
    if k.is_("posture", "portrait"):
        _portrait(p, k, 0.4, True)
    else:
        _figure(p, k, 0.115, 0.145, True)


def man(p: Pen, k: Look) -> None:
    beard = k.form(False, True, False)
    if k.is_("posture", "portrait"):
        _portrait(p, k, 0.5, False, beard=beard)
    else:
        _figure(p, k, 0.11, 0.185, False, beard)


def girl(p: Pen, k: Look) -> None:
    if k.is_("posture", "portrait"):
        _portrait(p, k, 0.34, True, 1.06)
    else:
        _figure(p, k, 0.16, 0.15, True)


def boy(p: Pen, k: Look) -> None:
    if k.is_("posture", "portrait"):
        _portrait(p, k, 0.36, False, 1.06)
    else:
        _figure(p, k, 0.16, 0.16, False)


WALKS = "land street floor field"
PEOPLE = (
    Thing("woman", woman, WALKS, 0.82, 0.3, faces=True, often=1.6, traits=_wear("dress", "coat", "shirt")),
    Thing("man", man, WALKS, 0.86, 0.32, faces=True, often=1.6, traits=_wear("coat", "shirt", "jacket", hats=0.35)),
    Thing("girl", girl, WALKS, 0.6, 0.32, faces=True, often=1.2, traits=_wear("dress", "coat", "shirt", young=True)),
    Thing("boy", boy, WALKS, 0.6, 0.32, faces=True, often=1.2, traits=_wear("coat", "shirt", "jacket", young=True)),
)
PORTRAIT_TRAITS: dict[str, Traits] = {
    "woman": _wear("dress", "coat", "shirt", portrait=True),
    "man": _wear("coat", "shirt", "jacket", hats=0.35, portrait=True),
    "girl": _wear("dress", "coat", "shirt", portrait=True, young=True),
    "boy": _wear("coat", "shirt", "jacket", portrait=True, young=True),
}
