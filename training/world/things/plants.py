"""Trees, bushes, flowers and other growing things, through the seasons."""

from __future__ import annotations

import math

from ..pen import Colour, Pen, mix, shade
from .kit import LEAF, Look, Thing

TURNING: tuple[Colour, ...] = ((222, 132, 48), (204, 84, 44), (226, 180, 66))
BLOSSOM: tuple[Colour, ...] = ((246, 196, 210), (250, 240, 240))


def _foliage(k: Look, green: Colour) -> Colour:
    if k.tint is None and k.season == "autumn":
        return k.fixed(TURNING[int(k.r[5] * 2.99)])
    if k.tint is None and k.season == "spring" and k.r[5] < 0.5:
        return k.fixed(BLOSSOM[int(k.r[6] * 1.99)])
    return k.dye(green)


def _snow(p: Pen, k: Look, spots: tuple[tuple[float, float, float], ...]) -> None:
    if k.season == "winter":
        for x, y, r in spots:
            p.oval(x, y, r, r * 0.42, k.fixed((246, 249, 255)))


def _bare(p: Pen, wood: Colour, height: float, spread: float) -> None:
    with p.part("crown"):
        for s, y, a in ((-1, -0.42, 0.9), (1, -0.5, 0.8), (-1, -0.62, 0.6), (1, -0.7, 0.5), (-1, -0.78, 0.3), (1, -0.84, 0.16)):
            x = s * spread * a
            p.limb([(0, y), (x * 0.6, y - 0.1), (x, y - 0.2)], [0.05, 0.035, 0.022], wood)
            p.limb([(x * 0.6, y - 0.1), (x * 0.55, y - 0.22)], [0.03, 0.02], wood)
        p.limb([(0, -0.4), (0.01, -height)], [0.07, 0.03], wood)


def _spotted(p: Pen, c: Colour, spots: tuple[tuple[float, float, float, float], ...]) -> None:
    for x, y, r, f in spots:
        p.oval(x, y, r, r * 0.9, shade(c, f))


def birch(p: Pen, k: Look) -> None:
    trunk = k.fixed((238, 234, 226))
    with p.part("trunk"):
        p.curve([(-0.07, 0), (-0.045, -0.5, -0.032, -0.92), (0.032, -0.92), (0.042, -0.5, 0.07, 0)], trunk)
        p.poly([(0.02, 0), (0.012, -0.9), (0.032, -0.9), (0.07, 0)], shade(trunk, 0.82))
        for i in range(6):
            y = -0.07 - 0.1 * i
            s = -1 if i % 2 else 1
            p.poly([(s * 0.064, y), (0.0, y - 0.012), (s * 0.06, y - 0.036)], k.fixed((52, 46, 46)))
    if k.season == "winter":
        _bare(p, k.fixed((150, 138, 132)), 0.99, 0.34)
        return
    leaf = _foliage(k, (154, 178, 70)) if k.season != "spring" else k.dye((176, 200, 92))
    with p.part("crown"):
        _spotted(
            p,
            leaf,
            k.form(
                (
                    (-0.2, -0.56, 0.13, 0.8),
                    (0.2, -0.62, 0.14, 0.76),
                    (0.02, -0.86, 0.15, 0.98),
                    (-0.15, -0.76, 0.14, 1.06),
                    (0.13, -0.8, 0.12, 0.92),
                    (-0.03, -0.66, 0.13, 0.9),
                    (0.22, -0.74, 0.08, 0.84),
                ),
                (
                    (0.12, -0.5, 0.11, 0.76),
                    (-0.12, -0.58, 0.12, 0.84),
                    (0.1, -0.68, 0.12, 0.86),
                    (-0.08, -0.76, 0.12, 1.0),
                    (0.03, -0.88, 0.11, 1.06),
                ),
            ),
        )


def pine(p: Pen, k: Look) -> None:
    with p.part("trunk"):
        p.rect(-0.055, -0.2, 0.055, 0, k.fixed((98, 66, 46)))
    green = k.dye((42, 104, 74))
    tiers = k.form(
        ((-0.12, 0.38, 0.44), (-0.36, 0.31, 0.4), (-0.6, 0.23, 0.4)),
        ((-0.1, 0.25, 0.36), (-0.3, 0.22, 0.34), (-0.5, 0.185, 0.32), (-0.68, 0.14, 0.32)),
        ((-0.14, 0.44, 0.5), (-0.48, 0.31, 0.52)),
    )
    with p.part("crown"):
        for i, (y, w, h) in enumerate(tiers):
            p.curve(
                [(-w, y), (-w * 0.3, y - h * 0.35, 0, y - h), (w * 0.3, y - h * 0.35, w, y), (0, y + 0.07, -w, y)],
                shade(green, 0.86 + 0.13 * i),
            )
            p.curve([(0, y - h), (w * 0.3, y - h * 0.35, w, y), (w * 0.5, y + 0.05, 0, y + 0.034)], shade(green, 0.68 + 0.13 * i))
            if k.season == "winter":
                p.curve(
                    [
                        (-w * 0.62, y - h * 0.26),
                        (-w * 0.24, y - h * 0.5, 0, y - h),
                        (w * 0.24, y - h * 0.5, w * 0.62, y - h * 0.26),
                        (0.1, y - h * 0.42, -w * 0.62, y - h * 0.26),
                    ],
                    k.fixed((244, 248, 255)),
                )


def tree(p: Pen, k: Look) -> None:
    with p.part("trunk"):
        p.curve([(-0.1, 0), (-0.05, -0.2, -0.05, -0.5), (0.05, -0.5), (0.05, -0.2, 0.1, 0)], k.fixed((108, 74, 50)))
    if k.season == "winter" and k.tint is None:
        _bare(p, k.fixed((108, 78, 58)), 0.97, 0.42)
        return
    with p.part("trunk"):
        p.limb([(0, -0.4), (0.16, -0.56)], [0.07, 0.04], k.fixed((98, 66, 46)))
        p.limb([(0, -0.36), (-0.18, -0.54)], [0.07, 0.04], k.fixed((98, 66, 46)))
    leaf = _foliage(k, (96, 152, 64))
    with p.part("crown"):
        _spotted(p, leaf, k.form(ROUND_CROWN, TALL_CROWN, WIDE_CROWN))


#: Crowns of a tree: x, y, radius and shade of what they are made of.
ROUND_CROWN = (
    (0.2, -0.5, 0.22, 0.7),
    (-0.22, -0.52, 0.23, 0.8),
    (0.06, -0.7, 0.28, 0.86),
    (-0.12, -0.68, 0.22, 1.0),
    (-0.16, -0.8, 0.12, 1.14),
    (0.1, -0.86, 0.12, 0.98),
)
TALL_CROWN = (
    (0.1, -0.5, 0.2, 0.72),
    (-0.12, -0.48, 0.19, 0.82),
    (0.08, -0.66, 0.22, 0.82),
    (-0.1, -0.68, 0.2, 0.98),
    (0.02, -0.82, 0.17, 0.94),
    (-0.05, -0.88, 0.11, 1.12),
)
WIDE_CROWN = (
    (0.36, -0.6, 0.17, 0.72),
    (-0.38, -0.58, 0.17, 0.82),
    (0.18, -0.68, 0.21, 0.84),
    (-0.2, -0.7, 0.21, 0.98),
    (0.0, -0.78, 0.2, 0.94),
    (-0.24, -0.8, 0.1, 1.12),
)


def willow(p: Pen, k: Look) -> None:
    bark = k.fixed((112, 88, 66))
    with p.part("trunk"):
        p.limb([(0.03, -0.07), (0, -0.3), (-0.02, -0.7)], [0.18, 0.12, 0.1], bark)
    leaf = _foliage(k, (134, 168, 84))
    if k.season == "winter":
        leaf = k.fixed((176, 160, 130))
    with p.part("crown"):
        for x, y, n in (
            (-0.42, -0.6, 0.46),
            (-0.26, -0.76, 0.62),
            (-0.06, -0.86, 0.5),
            (0.16, -0.84, 0.58),
            (0.34, -0.7, 0.56),
            (0.46, -0.56, 0.36),
        ):
            p.blob(
                [(x - 0.1, y), (x, y - 0.12), (x + 0.1, y), (x + 0.075, y + n * 0.8), (x, y + n), (x - 0.075, y + n * 0.8)],
                shade(leaf, 0.8 + 0.3 * abs(math.sin(7 * x))),
            )


def bush(p: Pen, k: Look) -> None:
    leaf = _foliage(k, (74, 128, 66))
    _spotted(p, leaf, ((-0.5, -0.36, 0.36, 0.82), (0.5, -0.36, 0.38, 0.72), (0.0, -0.56, 0.44, 0.92), (-0.26, -0.6, 0.28, 1.06)))
    p.rect(-0.8, -0.3, 0.84, 0, shade(leaf, 0.76), 0.14)
    berry = k.contrast((206, 60, 60), (206, 60, 60)) if k.r[2] < 0.5 else k.fixed((246, 232, 150))
    if k.r[3] < 0.6:
        for x, y in ((-0.46, -0.5), (-0.1, -0.76), (0.3, -0.56), (0.6, -0.42), (-0.16, -0.34), (0.2, -0.24)):
            p.dot(x, y, 0.075, berry)
    _snow(p, k, ((0, -0.9, 0.3), (-0.5, -0.64, 0.24), (0.5, -0.66, 0.24)))


def flowers(p: Pen, k: Look) -> None:
    petal, stem = k.dye((232, 136, 160)), k.fixed((74, 128, 66))
    middle = k.fixed((246, 206, 90)) if k.tint is None or k.tint[2] > 90 else k.fixed((120, 74, 40))
    for s in (-1, 1):
        p.blob([(0, 0), (s * 0.2, -0.26), (s * 0.5, -0.24), (s * 0.34, -0.02)], shade(stem, 0.9))
    for x, y, r in ((-0.56, -0.52, 0.24), (0.58, -0.6, 0.24), (0.0, -0.74, 0.28)):
        p.line([(x * 0.5, 0), (x, y)], 0.07, stem)
        p.star(x, y, r, 5, petal, 0.56)
        p.dot(x, y, r * 0.42, middle)


def sunflower(p: Pen, k: Look) -> None:
    stem, petal = k.fixed((86, 138, 62)), k.dye((246, 196, 54))
    p.limb([(0, 0), (0.02, -0.66)], [0.06, 0.05], stem)
    for s, y in ((-1, -0.24), (1, -0.38)):
        p.blob([(0, y), (s * 0.14, y - 0.12), (s * 0.28, y - 0.06), (s * 0.14, y + 0.04)], shade(stem, 0.9))
    for i in range(12):
        a = i * math.pi / 6
        p.limb(
            [(0.1 * math.cos(a), -0.76 + 0.1 * math.sin(a)), (0.2 * math.cos(a), -0.76 + 0.2 * math.sin(a))],
            [0.1, 0.05],
            shade(petal, 0.9 + 0.1 * (i % 2)),
        )
    p.dot(0, -0.76, 0.12, k.fixed((108, 68, 40)))
    p.dot(0, -0.76, 0.06, k.fixed((140, 92, 52)))


def mushroom(p: Pen, k: Look) -> None:
    k.form(_two_mushrooms, _flat_mushroom)(p, k)


def _flat_mushroom(p: Pen, k: Look) -> None:
    """Wide, seen a little from below, with two small ones."""
    cap, stem = k.dye((200, 56, 48)), k.fixed((240, 230, 210))
    for x, h in ((-0.38, 0.42), (0.4, 0.34)):
        p.limb([(x, -0.05), (x, -0.7 * h)], [0.1, 0.08], shade(stem, 0.9))
        p.blob([(x - 0.16, -0.66 * h), (x, -1.0 * h), (x + 0.16, -0.66 * h)], shade(cap, 0.9))
    p.limb([(0, -0.1), (0.02, -0.7)], [0.2, 0.16], stem)
    p.oval(0, -0.68, 0.46, 0.09, shade(stem, 0.8))
    p.curve([(-0.52, -0.68), (-0.4, -1.0, 0, -1.0), (0.4, -1.0, 0.52, -0.68), (0, -0.8, -0.52, -0.68)], cap)
    for x, y, r in ((-0.24, -0.82, 0.05), (0.06, -0.9, 0.055), (0.28, -0.82, 0.045)):
        p.dot(x, y, r, k.contrast((250, 244, 232), (196, 120, 96)))


def _two_mushrooms(p: Pen, k: Look) -> None:
    cap, stem = k.dye((200, 56, 48)), k.fixed((240, 230, 210))
    for x, h, w in ((0.34, 0.6, 0.62), (-0.14, 1.0, 1.0)):
        p.limb([(x, -0.1 * w), (x, -0.6 * h)], [0.24 * w, 0.17 * w], stem)
        p.blob(
            [
                (x - 0.42 * w, -0.5 * h),
                (x - 0.3 * w, -0.84 * h),
                (x, -1.0 * h),
                (x + 0.3 * w, -0.84 * h),
                (x + 0.42 * w, -0.5 * h),
                (x, -0.44 * h),
            ],
            cap,
        )
        for dx, y, r in ((-0.16, -0.74, 0.07), (0.08, -0.84, 0.075), (0.2, -0.64, 0.06), (-0.04, -0.62, 0.05)):
            p.dot(x + dx * w, y * h, r * w, k.contrast((250, 244, 232), (196, 120, 96)))


def reeds(p: Pen, k: Look) -> None:
    green = k.fixed((118, 142, 74))
    for i, (x, h, lean) in enumerate(
        ((-0.44, 0.8, -0.14), (-0.24, 1.0, -0.04), (-0.04, 0.86, 0.08), (0.16, 1.0, 0.02), (0.36, 0.78, 0.14))
    ):
        p.limb([(x * 0.7, 0), (x + lean, -h * 0.9)], [0.07, 0.03], shade(green, 0.8 + 0.1 * i))
        if i % 2:
            p.limb([(x + lean * 0.8, -h * 0.72), (x + lean, -h)], [0.11, 0.1], k.fixed((112, 72, 46)))


def water_lily(p: Pen, k: Look) -> None:
    for x, y, r in ((-0.7, -0.2, 0.44), (0.6, -0.14, 0.5), (0.0, -0.28, 0.5)):
        p.oval(x, y, r, r * 0.36, k.fixed((70, 130, 80), 0.9 + 0.2 * x))
    petal = k.dye((244, 190, 208))
    for a in (-0.9, 0.9, -0.45, 0.45, 0.0):
        p.limb([(0, -0.34), (0.36 * a, -0.86 + 0.24 * abs(a))], [0.2, 0.12], shade(petal, 1 - 0.14 * abs(a)))
    p.dot(0, -0.4, 0.1, k.fixed((246, 206, 90)))


def stump(p: Pen, k: Look) -> None:
    bark = k.fixed((112, 80, 56))
    p.curve([(-0.62, 0), (-0.42, -0.2, -0.42, -0.8), (0.42, -0.8), (0.42, -0.2, 0.66, 0)], bark)
    p.poly([(0.16, -0.8), (0.42, -0.8), (0.44, -0.3), (0.6, 0), (0.2, 0)], shade(bark, 0.76))
    p.oval(0, -0.82, 0.43, 0.17, k.fixed((220, 186, 138)))
    p.oval(0, -0.82, 0.24, 0.09, k.fixed((196, 156, 108)))


def potted_plant(p: Pen, k: Look) -> None:
    k.form(_leafy_pot, _cactus_pot, _little_tree)(p, k)


def _pot(p: Pen, k: Look) -> None:
    pot = k.dye((190, 98, 64))
    p.poly([(-0.26, -0.38), (0.26, -0.38), (0.18, 0), (-0.18, 0)], pot)
    p.rect(-0.29, -0.42, 0.29, -0.33, shade(pot, 1.12))
    p.poly([(0.08, -0.33), (0.26, -0.33), (0.18, 0), (0.06, 0)], shade(pot, 0.8))


def _cactus_pot(p: Pen, k: Look) -> None:
    green = k.fixed((92, 140, 92))
    for s, y in ((-1, -0.56), (1, -0.66)):
        p.limb([(0, y), (s * 0.26, y - 0.02), (s * 0.28, y - 0.2)], [0.11, 0.12, 0.11], shade(green, 0.88))
    p.limb([(0, -0.36), (0, -0.9)], [0.22, 0.2], green)
    p.line([(-0.03, -0.44), (-0.03, -0.9)], 0.03, shade(green, 1.25))
    p.star(0, -0.98, 0.07, 5, k.fixed((232, 120, 150)), 0.6)
    _pot(p, k)


def _little_tree(p: Pen, k: Look) -> None:
    green = k.fixed(LEAF)
    p.line([(0, -0.36), (0, -0.66)], 0.05, k.fixed((112, 80, 56)))
    p.dot(0, -0.76, 0.24, green)
    p.blob([(0.04, -0.98), (0.2, -0.9), (0.24, -0.74), (0.14, -0.56), (0.1, -0.76)], shade(green, 0.82))
    _pot(p, k)


def _leafy_pot(p: Pen, k: Look) -> None:
    green = k.fixed(LEAF)
    for s, h, w in ((-1, 0.72, 0.36), (1, 0.76, 0.34), (-1, 0.94, 0.16), (1, 0.98, 0.12), (-1, 0.5, 0.4), (1, 0.52, 0.4)):
        p.blob([(0, -0.36), (s * w * 0.4, -h * 0.8), (s * w, -h), (s * w * 0.9, -h * 0.74)], mix(green, k.fixed((140, 180, 90)), h - 0.5))
    _pot(p, k)


PETALS = ("red", "yellow", "blue", "purple", "white", "orange", "pink")
PLANTS = (
    Thing("birch", birch, "land", 0.94, 0.33, often=1.2),
    Thing("pine", pine, "land", 0.94, 0.38),
    Thing("tree", tree, "land street field", 0.84, 0.45, ("green", "orange", "red", "yellow", "pink")),
    Thing("willow", willow, "land", 0.82, 0.52),
    Thing("bush", bush, "land street", 0.34, 0.85),
    Thing("flowers", flowers, "land field", 0.34, 0.8, PETALS),
    Thing("sunflower", sunflower, "land field", 0.66, 0.28),
    Thing("mushroom", mushroom, "land", 0.3, 0.55, ("red", "brown", "white", "orange")),
    Thing("reeds", reeds, "shore", 0.46, 0.55),
    Thing("water lily", water_lily, "water", 0.2, 1.1, ("pink", "white", "yellow")),
    Thing("stump", stump, "land", 0.26, 0.62),
    Thing("potted plant", potted_plant, "floor top street", 0.4, 0.4, ("orange", "blue", "white", "green", "pink")),
)
