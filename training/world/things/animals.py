"""Animals. Four-legged ones share one body, told apart by their proportions, heads, tails and coats."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from ..pen import Colour, Pen, Point, mix, shade
from .kit import CREAM, INK, Look, Thing, one_of

POSTURES = one_of("posture", "standing", "walking", "lying")


@dataclass(frozen=True)
class Beast:
    """Proportions in heights of the standing animal. leg: length of a leg; length: of the trunk; thick: of the
    trunk; neck: how far the head's middle lies (forward, up) from the shoulder; head: its radius; snout: how far
    it sticks out; limb: a leg's width."""

    coat: Colour
    leg: float
    length: float
    thick: float
    neck: Point
    head: float
    snout: float
    limb: float
    neck_width: float = 0.16
    hoof: Colour | None = None


def _legs(p: Pen, k: Look, b: Beast, coat: Colour, base: float, near: bool) -> None:
    x0, x1 = -b.length * 0.42, b.length * 0.4
    f = 1.0 if near else 0.74
    shift = 0.0 if near else 0.075
    foot = shade(k.fixed(b.hoof), f) if b.hoof else shade(coat, f)
    if k.is_("posture", "lying"):
        if near:
            y = -b.limb * 0.5
            p.limb([(x1, base * 0.6), (x1 + 0.2, y)], [b.limb * 1.3, b.limb], coat)
            p.limb([(x0, base - b.thick * 0.3), (x0 + 0.02, y), (x0 + 0.24, y)], [b.thick * 0.5, b.limb, b.limb], shade(coat, 0.92))
        return
    swing = (0.55 if near else -0.55) if k.is_("posture", "walking") else 0.0
    for x, s, knee in ((x0, -swing, -0.05), (x1, swing, 0.03)):
        dx = b.leg * s * 0.9
        p.limb(
            [(x + shift, base - b.thick * 0.1), (x + shift + knee + dx * 0.3, base * 0.5), (x + shift + dx, -b.limb * 0.4)],
            [b.limb * 1.9, b.limb * 1.1, b.limb * 0.95],
            shade(coat, f),
        )
        p.limb([(x + shift + dx * 0.85, base * 0.22), (x + shift + dx, -b.limb * 0.4)], [b.limb * 0.95, b.limb], foot)


def beast(
    p: Pen,
    k: Look,
    b: Beast,
    tail: Callable[[Point], None],
    head: Callable[[Point, float], None],
    marks: Callable[[float], None] | None = None,
) -> None:
    """Draws tail, legs, trunk, neck; `head` is called with its middle and radius, `marks` with the trunk's height."""
    coat = k.dye(b.coat)
    lying = k.is_("posture", "lying")
    base = -b.leg if not lying else -b.limb * 0.6
    mid = base - b.thick * 0.42
    half, t = b.length / 2, b.thick / 2
    with p.part("tail"):
        tail((-half, mid - t * 0.5))
    _legs(p, k, b, coat, base, near=False)
    p.blob(
        [
            (-half * 1.06, mid - t * 0.3),
            (-half * 0.75, mid - t * 1.0),
            (0, mid - t * 0.86),
            (half * 0.75, mid - t * 1.1),
            (half * 1.12, mid - t * 0.1),
            (half * 0.8, mid + t * 0.9),
            (0, mid + t * 0.86),
            (-half * 0.8, mid + t * 0.9),
        ],
        coat,
    )
    if marks:
        marks(mid)
    _legs(p, k, b, coat, base, near=True)
    sx, sy = half * 0.82, mid - t * 0.35
    hx, hy = sx + b.neck[0], sy - b.neck[1] * (0.8 if lying else 1.0)
    p.limb([(sx, sy), ((sx + hx) / 2 + 0.02, (sy + hy) / 2), (hx, hy)], [b.neck_width * 1.7, b.neck_width * 1.15, b.neck_width], coat)
    with p.part("head"):
        head((hx, hy), b.head)


def _face(p: Pen, at: Point, r: float, snout: float, coat: Colour, muzzle: Colour, nose: Colour = INK, drop: float = 0.35) -> None:
    """A head looking right: skull, muzzle, nose and eye."""
    x, y = at
    p.blob(
        [
            (x - r, y - r * 0.1),
            (x - r * 0.3, y - r),
            (x + r * 0.6, y - r * 0.6),
            (x + r + snout, y + r * drop * 0.5),
            (x + r + snout * 0.9, y + r * (drop + 0.35)),
            (x + r * 0.4, y + r * 0.86),
            (x - r * 0.6, y + r * 0.8),
        ],
        coat,
    )
    p.blob(
        [
            (x + r * 0.5, y + r * 0.12),
            (x + r + snout, y + r * drop * 0.5),
            (x + r + snout * 0.9, y + r * (drop + 0.38)),
            (x + r * 0.35, y + r * 0.84),
        ],
        muzzle,
    )
    p.dot(x + r + snout * 0.95, y + r * (drop * 0.5 + 0.08), r * 0.24, nose)
    with p.part("eyes"):
        p.dot(x + r * 0.25, y - r * 0.16, r * 0.2, INK)
        p.dot(x + r * 0.31, y - r * 0.23, r * 0.07, (255, 255, 250))


def fox(p: Pen, k: Look) -> None:
    b = Beast((218, 106, 42), 0.34, 0.84, 0.34, (0.2, 0.26), 0.19, 0.2, 0.1, 0.2, (70, 44, 38))
    fur, cream, dark = k.dye(b.coat), k.fixed(CREAM), k.fixed((70, 44, 38))

    def tail(at: Point) -> None:
        x, y = at
        p.limb([(x + 0.06, y + 0.06), (x - 0.24, y - 0.04), (x - 0.46, y - 0.16)], [0.14, 0.26, 0.2], fur)
        p.limb([(x - 0.46, y - 0.16), (x - 0.6, y - 0.24)], [0.19, 0.07], cream)

    def head(at: Point, r: float) -> None:
        x, y = at
        for dx, c in ((-0.1, dark), (0.04, fur)):
            p.poly([(x + dx - 0.08, y - r * 0.6), (x + dx - 0.01, y - r * 1.9), (x + dx + 0.12, y - r * 0.7)], c)
        _face(p, at, r, 0.2, fur, cream)

    beast(p, k, b, tail, head, lambda mid: p.blob([(0.3, mid - 0.1), (0.5, mid), (0.42, mid + 0.17), (0.24, mid + 0.16)], cream))


def dog(p: Pen, k: Look) -> None:
    b = Beast((172, 122, 78), 0.4, 0.72, 0.34, (0.14, 0.3), 0.18, 0.17, 0.11, 0.2)
    fur = k.dye(b.coat)

    def tail(at: Point) -> None:
        x, y = at
        p.limb([(x + 0.05, y), (x - 0.16, y - 0.16), (x - 0.2, y - 0.36)], [0.12, 0.09, 0.06], fur)

    def head(at: Point, r: float) -> None:
        x, y = at
        _face(p, at, r, 0.17, fur, shade(fur, 1.12))
        p.limb([(x - 0.06, y - r * 0.7), (x - 0.11, y + r * 0.2), (x - 0.09, y + r * 0.9)], [0.09, 0.15, 0.1], shade(fur, 0.66))

    beast(p, k, b, tail, head, lambda mid: p.limb([(0.27, mid - 0.2), (0.42, mid - 0.06)], [0.07, 0.07], k.fixed((190, 50, 50))))


def cat(p: Pen, k: Look) -> None:
    b = Beast((120, 116, 122), 0.34, 0.66, 0.3, (0.16, 0.27), 0.19, 0.05, 0.09, 0.17)
    fur = k.dye(b.coat)
    if k.is_("posture", "sitting"):
        with p.part("tail"):
            p.limb([(-0.2, -0.08), (-0.5, -0.1), (-0.56, -0.4)], [0.12, 0.1, 0.09], fur)
        p.blob([(-0.3, -0.04), (-0.28, -0.4), (-0.08, -0.68), (0.16, -0.7), (0.26, -0.3), (0.28, -0.02)], fur)
        p.limb([(0.14, -0.5), (0.2, -0.05)], [0.13, 0.1], shade(fur, 0.9))
        at, r = (0.12, -0.78), 0.2
    else:
        at, r = (0, 0), 0
    ear = shade(fur, 0.8)

    def head(at: Point, r: float) -> None:
        x, y = at
        for s in (-1, 1):
            p.poly([(x + s * r * 0.95, y - r * 0.3), (x + s * r * 0.85, y - r * 1.45), (x + s * r * 0.15, y - r * 0.85)], ear)
        p.oval(x, y, r * 1.08, r * 0.95, fur)
        p.oval(x + r * 0.28, y + r * 0.36, r * 0.5, r * 0.4, mix(fur, k.fixed(CREAM), 0.7))
        with p.part("eyes"):
            for dx in (-0.18, 0.62):
                p.oval(x + r * dx, y - r * 0.12, r * 0.2, r * 0.25, k.fixed((206, 214, 90)))
                p.oval(x + r * dx, y - r * 0.12, r * 0.09, r * 0.22, INK)
        p.dot(x + r * 0.28, y + r * 0.2, r * 0.11, (206, 110, 110))

    def tail(at: Point) -> None:
        x, y = at
        p.limb([(x + 0.04, y), (x - 0.16, y - 0.04), (x - 0.26, y - 0.28), (x - 0.2, y - 0.46)], [0.1, 0.09, 0.08, 0.07], fur)

    if r:
        with p.part("head"):
            head(at, r)
    else:
        beast(p, k, b, tail, head)


def deer(p: Pen, k: Look) -> None:
    b = Beast((160, 106, 66), 0.4, 0.5, 0.22, (0.17, 0.3), 0.095, 0.12, 0.055, 0.12, (60, 44, 38))
    coat, horn = k.dye(b.coat), k.fixed((112, 84, 62))

    def head(at: Point, r: float) -> None:
        x, y = at
        for s in (-1, 1):
            p.limb([(x, y - r * 0.6), (x + s * 0.1 - 0.02, y - 0.17), (x + s * 0.12, y - 0.3)], [0.04, 0.035, 0.03], horn)
            p.limb([(x + s * 0.07, y - 0.14), (x + s * 0.2, y - 0.2)], [0.035, 0.028], horn)
        p.limb([(x - r * 0.5, y - r * 0.4), (x - 0.16, y - 0.09)], [0.05, 0.07], shade(coat, 0.72))
        _face(p, at, r, 0.12, coat, shade(coat, 1.2))

    def marks(mid: float) -> None:
        p.oval(-0.24, mid, 0.05, 0.08, k.fixed(CREAM))
        p.oval(0, mid + 0.08, 0.18, 0.035, k.fixed(CREAM), 0.8)

    beast(p, k, b, lambda at: p.limb([at, (at[0] - 0.04, at[1] + 0.06)], [0.06, 0.05], k.fixed(CREAM)), head, marks)


def horse(p: Pen, k: Look) -> None:
    b = Beast((132, 82, 52), 0.42, 0.62, 0.29, (0.2, 0.3), 0.11, 0.17, 0.075, 0.17, (52, 42, 40))
    coat = k.dye(b.coat)
    mane = k.contrast((58, 42, 38), (150, 120, 90)) if k.tint is None or sum(k.tint) > 250 else k.fixed((120, 110, 104))

    def tail(at: Point) -> None:
        x, y = at
        p.limb([(x + 0.02, y), (x - 0.1, y + 0.08), (x - 0.12, min(y + 0.36, -0.04))], [0.07, 0.12, 0.05], mane)

    def head(at: Point, r: float) -> None:
        x, y = at
        p.limb([(x - 0.06, y - r * 0.9), (x - 0.18, y + 0.12), (x - 0.24, y + 0.26)], [0.1, 0.13, 0.07], mane)
        p.poly([(x - 0.05, y - r * 0.5), (x - 0.01, y - r * 1.9), (x + 0.06, y - r * 0.6)], shade(coat, 0.85))
        _face(p, at, r, 0.17, coat, shade(coat, 0.8), drop=1.0)

    beast(p, k, b, tail, head)


def cow(p: Pen, k: Look) -> None:
    b = Beast((238, 232, 222), 0.34, 0.9, 0.44, (0.18, 0.16), 0.15, 0.15, 0.1, 0.24, (60, 50, 48))
    coat, patch = k.dye(b.coat), k.contrast((242, 236, 224), (54, 46, 46))

    def head(at: Point, r: float) -> None:
        x, y = at
        p.limb([(x - 0.02, y - r * 0.8), (x + 0.06, y - r * 1.6)], [0.06, 0.03], k.fixed((226, 214, 180)))
        p.limb([(x - 0.06, y - r * 0.5), (x - 0.22, y - r * 0.5)], [0.08, 0.1], shade(coat, 0.7))
        _face(p, at, r, 0.14, coat, k.fixed((226, 168, 156)), (120, 70, 70), drop=0.9)

    def marks(mid: float) -> None:
        p.blob([(-0.4, mid - 0.12), (-0.24, mid - 0.2), (-0.1, mid - 0.1), (-0.2, mid + 0.08), (-0.38, mid + 0.06)], patch)
        p.blob([(0.08, mid - 0.04), (0.24, mid - 0.16), (0.34, mid - 0.02), (0.2, mid + 0.14)], patch)
        p.oval(-0.2, mid + 0.24, 0.1, 0.06, k.fixed((226, 168, 156)))

    beast(
        p,
        k,
        b,
        lambda at: p.limb([at, (at[0] - 0.08, at[1] + 0.1), (at[0] - 0.07, min(at[1] + 0.34, -0.05))], [0.05, 0.04, 0.08], patch),
        head,
        marks,
    )


def sheep(p: Pen, k: Look) -> None:
    wool, face = k.dye((244, 240, 228)), k.contrast((70, 60, 60), (70, 60, 60))
    lying = k.is_("posture", "lying")
    y = 0.26 if lying else 0.0
    if not lying:
        for x, f in ((-0.26, 0.75), (0.3, 0.75), (-0.4, 1.0), (0.18, 1.0)):
            d = (0.1 if f == 1 else -0.1) if k.is_("posture", "walking") else 0.0
            p.limb([(x, -0.4), (x + d, -0.04)], [0.1, 0.09], shade(face, f))
    for dx, dy, r in (
        (-0.44, -0.58, 0.2),
        (-0.2, -0.74, 0.22),
        (0.1, -0.76, 0.22),
        (0.36, -0.64, 0.2),
        (-0.34, -0.42, 0.2),
        (0.24, -0.42, 0.2),
    ):
        p.dot(dx, dy + y, r, shade(wool, 0.94 if dy < -0.5 else 0.84))
    p.oval(-0.03, -0.56 + y, 0.46, 0.26, wool)
    with p.part("head"):
        p.blob([(0.36, -0.86 + y), (0.56, -0.92 + y), (0.7, -0.66 + y), (0.66, -0.52 + y), (0.5, -0.56 + y)], face)
        p.limb([(0.4, -0.8 + y), (0.26, -0.72 + y)], [0.08, 0.1], face)
        p.dot(0.4, -0.92 + y, 0.13, wool)
    with p.part("head"), p.part("eyes"):
        p.dot(0.57, -0.76 + y, 0.035, (240, 236, 220))


def bear(p: Pen, k: Look) -> None:
    b = Beast((112, 78, 56), 0.34, 0.8, 0.52, (0.2, 0.16), 0.19, 0.12, 0.18, 0.36)
    fur = k.dye(b.coat)

    def head(at: Point, r: float) -> None:
        x, y = at
        for dx in (-0.1, 0.08):
            p.dot(x + dx, y - r * 0.9, 0.075, shade(fur, 0.8))
        _face(p, at, r, 0.12, fur, mix(fur, k.fixed(CREAM), 0.45))

    beast(p, k, b, lambda at: p.dot(at[0] - 0.02, at[1], 0.07, fur), head)


def owl(p: Pen, k: Look) -> None:
    feather = k.dye((132, 98, 74))
    for x in (-0.14, 0.14):
        p.oval(x, -0.03, 0.1, 0.05, k.fixed((230, 158, 60)))
    spread = k.is_("posture", "wings spread")
    if spread:
        with p.part("wings"):
            for s in (-1, 1):
                p.blob(
                    [(s * 0.2, -0.66), (s * 0.7, -0.92), (s * 0.98, -0.7), (s * 0.8, -0.36), (s * 0.44, -0.2), (s * 0.24, -0.24)],
                    shade(feather, 0.76),
                )
                for i in range(3):
                    p.limb([(s * 0.34, -0.56 + 0.1 * i), (s * (0.82 - 0.12 * i), -0.58 + 0.12 * i)], [0.07, 0.05], shade(feather, 0.9))
    p.blob(
        [
            (-0.34, -1.0),
            (-0.16, -0.9),
            (0.16, -0.9),
            (0.34, -1.0),
            (0.42, -0.7),
            (0.4, -0.3),
            (0.2, -0.03),
            (-0.2, -0.03),
            (-0.4, -0.3),
            (-0.42, -0.7),
        ],
        feather,
    )
    p.oval(0, -0.28, 0.22, 0.24, k.fixed((222, 202, 172)))
    for i in range(3):
        p.limb([(-0.1 + 0.1 * i, -0.34), (-0.1 + 0.1 * i, -0.25)], [0.05, 0.04], shade(feather, 0.9))
    for s in (-1, 1):
        if not spread:
            with p.part("wings"):
                p.blob([(s * 0.34, -0.6), (s * 0.44, -0.36), (s * 0.3, -0.06), (s * 0.22, -0.3)], shade(feather, 0.72))
        with p.part("eyes"):
            p.dot(s * 0.165, -0.7, 0.165, shade(feather, 1.2))
            p.dot(s * 0.165, -0.7, 0.125, k.fixed((250, 220, 120)) if k.light.night < 0.5 else (255, 236, 150))
            p.dot(s * 0.155, -0.7, 0.07, INK)
    p.poly([(-0.06, -0.63), (0.06, -0.63), (0, -0.5)], k.fixed((234, 156, 56)))


def hare(p: Pen, k: Look) -> None:
    fur = k.dye((166, 138, 112))
    tall = k.is_("posture", "upright")
    with p.part("tail"):
        p.dot(-0.42, -0.14, 0.12, k.fixed(CREAM))
    if tall:
        p.blob([(-0.4, -0.02), (-0.4, -0.3), (-0.14, -0.6), (0.18, -0.62), (0.24, -0.3), (0.22, -0.02)], fur)
        p.limb([(0.14, -0.46), (0.3, -0.3)], [0.11, 0.08], shade(fur, 0.88))
        x, y = 0.14, -0.68
    else:
        p.blob([(-0.46, -0.06), (-0.48, -0.32), (-0.16, -0.52), (0.2, -0.44), (0.3, -0.16), (0.2, 0)], fur)
        x, y = 0.28, -0.5
    p.oval(-0.2, -0.16, 0.22, 0.15, shade(fur, 0.86))
    p.limb([(-0.26, -0.04), (0.02, -0.04)], [0.08, 0.08], shade(fur, 0.8))
    p.limb([(0.16, -0.14), (0.3, -0.04)], [0.1, 0.08], shade(fur, 0.92))
    s = 0.74 if tall else 1.0
    with p.part("head"):
        for dx, f in ((-0.12, 0.78), (0.0, 1.0)):
            p.limb(
                [(x + dx, y - 0.1), (x + dx - 0.1 * s, y - 0.32 * s), (x + dx - 0.1 * s, y - 0.5 * s)], [0.08, 0.13, 0.05], shade(fur, f)
            )
        p.oval(x, y, 0.2, 0.16, fur)
        p.oval(x + 0.12, y + 0.06, 0.1, 0.08, mix(fur, k.fixed(CREAM), 0.7))
    with p.part("head"):
        with p.part("eyes"):
            p.dot(x + 0.06, y - 0.04, 0.042, INK)
        p.dot(x + 0.2, y + 0.02, 0.034, k.fixed((206, 120, 116)))


def hedgehog(p: Pen, k: Look) -> None:
    spine, face = k.dye((104, 82, 66)), k.fixed((214, 182, 146))
    for i in range(15):
        a = math.pi * (0.06 + 0.9 * i / 14)
        x, y = -0.1 - 0.72 * math.cos(a), -0.1 - 0.86 * math.sin(a)
        p.poly(
            [(x * 0.82 - 0.07, -0.12 + (y + 0.1) * 0.8), (x, y), (x * 0.82 + 0.07, -0.12 + (y + 0.1) * 0.8)],
            shade(spine, 0.8 + 0.25 * (i % 2)),
        )
    p.blob([(-0.74, -0.1), (-0.6, -0.6), (-0.1, -0.82), (0.36, -0.6), (0.5, -0.2), (0.3, -0.04), (-0.5, -0.02)], spine)
    with p.part("head"):
        p.blob([(0.3, -0.5), (0.56, -0.4), (0.92, -0.2), (0.8, -0.08), (0.4, -0.05), (0.26, -0.2)], face)
        p.dot(0.9, -0.2, 0.08, INK)
        with p.part("eyes"):
            p.dot(0.56, -0.32, 0.055, INK)
    for x in (-0.4, 0.3):
        p.oval(x, -0.03, 0.12, 0.05, shade(face, 0.8))


def swan(p: Pen, k: Look) -> None:
    white = k.dye((246, 246, 244))
    p.blob([(-0.9, -0.56), (-0.5, -0.52), (0.0, -0.52), (0.46, -0.36), (0.56, -0.12), (0.3, 0), (-0.3, 0), (-0.6, -0.16)], white)
    with p.part("wings"):
        if k.is_("posture", "wings spread"):
            p.blob([(-0.1, -0.3), (-0.5, -0.9), (-0.2, -1.0), (0.1, -0.8), (0.26, -0.36)], shade(white, 0.9))
            p.limb([(0.0, -0.4), (-0.24, -0.84)], [0.06, 0.04], shade(white, 0.78))
        else:
            p.blob([(-0.76, -0.48), (-0.2, -0.46), (0.24, -0.3), (0.0, -0.1), (-0.5, -0.18)], shade(white, 0.86))
    p.curve([(0.42, -0.2), (0.9, -0.46, 0.2, -0.66, 0.5, -0.9)], white, width=0.14)
    with p.part("head"):
        p.dot(0.52, -0.89, 0.12, white)
        p.poly([(0.6, -0.96), (0.9, -0.82), (0.58, -0.79)], k.fixed((238, 140, 46)))
        with p.part("eyes"):
            p.dot(0.57, -0.92, 0.036, INK)


def duck(p: Pen, k: Look) -> None:
    body = k.dye((150, 116, 84))
    head = k.fixed((44, 116, 84)) if k.tint is None or sum(k.tint) < 560 else body
    p.blob([(-0.9, -0.48), (-0.5, -0.4), (0.1, -0.46), (0.44, -0.34), (0.46, -0.1), (0.2, 0), (-0.4, 0), (-0.7, -0.16)], body)
    with p.part("wings"):
        p.blob([(-0.6, -0.34), (-0.1, -0.4), (0.16, -0.26), (-0.06, -0.12), (-0.4, -0.14)], shade(body, 0.78))
    p.limb([(0.3, -0.3), (0.4, -0.72)], [0.24, 0.2], head)
    with p.part("head"):
        p.dot(0.42, -0.78, 0.19, head)
    p.limb([(0.31, -0.42), (0.44, -0.42)], [0.08, 0.08], k.fixed((244, 240, 230)))
    with p.part("head"):
        p.blob([(0.54, -0.82), (0.84, -0.76), (0.82, -0.66), (0.54, -0.68)], k.fixed((240, 176, 56)))
    with p.part("head"), p.part("eyes"):
        p.dot(0.48, -0.82, 0.042, INK)


def crow(p: Pen, k: Look) -> None:
    c = k.dye((46, 46, 56))
    if k.is_("posture", "flying"):
        for s, f in ((1, 0.75), (-1, 1.0)):
            with p.part("wings"):
                p.blob([(-0.1, -0.5), (-0.2 + s * 0.1, -0.98), (-0.5 + s * 0.3, -1.0), (0.24 + s * 0.1, -0.6), (0.24, -0.44)], shade(c, f))
        p.blob([(-0.86, -0.5), (-0.4, -0.54), (0.3, -0.62), (0.5, -0.44), (0.2, -0.3), (-0.4, -0.38)], c)
        x, y = 0.48, -0.52
    else:
        for dx in (-0.04, 0.08):
            p.limb([(dx, -0.3), (dx + 0.04, -0.02), (dx + 0.14, -0.02)], [0.05, 0.045, 0.04], k.fixed((80, 72, 70)))
        p.blob([(-0.84, -0.2), (-0.4, -0.5), (0.0, -0.76), (0.3, -0.8), (0.34, -0.44), (0.1, -0.22), (-0.3, -0.26)], c)
        with p.part("wings"):
            p.blob([(-0.66, -0.26), (-0.2, -0.56), (0.1, -0.52), (-0.1, -0.32)], shade(c, 1.35))
        x, y = 0.26, -0.82
    with p.part("head"):
        p.dot(x, y, 0.17, c)
        p.poly([(x + 0.1, y - 0.1), (x + 0.42, y + 0.04), (x + 0.1, y + 0.1)], k.fixed((108, 98, 90)))
        with p.part("eyes"):
            p.dot(x + 0.05, y - 0.05, 0.04, (236, 232, 210))


def butterfly(p: Pen, k: Look) -> None:
    wing, spot = k.dye((236, 150, 60)), k.contrast((250, 240, 210), (60, 50, 60))
    for s in (-1, 1):
        with p.part("wings"):
            p.blob([(0, -0.5), (s * 0.3, -0.96), (s * 0.72, -0.98), (s * 0.7, -0.6), (s * 0.3, -0.46)], wing)
            p.blob([(0, -0.46), (s * 0.4, -0.46), (s * 0.56, -0.2), (s * 0.34, -0.04), (s * 0.1, -0.24)], shade(wing, 0.82))
            p.dot(s * 0.5, -0.78, 0.09, spot)
            p.dot(s * 0.34, -0.24, 0.07, spot)
        p.limb([(s * 0.02, -0.74), (s * 0.16, -0.98)], [0.03, 0.03], INK)
    p.limb([(0, -0.78), (0, -0.2)], [0.1, 0.06], k.fixed((60, 46, 44)))


FURS = ("brown", "white", "grey", "black")
ANIMALS = (
    Thing("fox", fox, "land field", 0.46, 0.95, ("red", "brown", "white", "grey"), faces=True, often=1.6, traits=POSTURES),
    Thing("deer", deer, "land", 0.66, 0.48, ("brown", "white", "grey"), faces=True, often=1.2, traits=POSTURES),
    Thing("dog", dog, "land street floor field", 0.48, 0.68, (*FURS, "beige"), faces=True, often=1.2, traits=POSTURES),
    Thing(
        "cat",
        cat,
        "land street floor",
        0.4,
        0.6,
        (*FURS, "orange"),
        faces=True,
        often=1.3,
        traits=one_of("posture", "standing", "walking", "lying", "sitting", "sitting"),
    ),
    Thing("horse", horse, "land field", 0.68, 0.62, (*FURS, "beige"), faces=True, often=1.2, traits=POSTURES),
    Thing("cow", cow, "land field", 0.52, 0.85, ("brown", "white", "black", "beige"), faces=True, often=1.1, traits=POSTURES),
    Thing("sheep", sheep, "land field", 0.44, 0.66, ("white", "black", "grey"), faces=True, often=1.1, traits=POSTURES),
    Thing("bear", bear, "land", 0.56, 0.7, ("brown", "black", "white"), faces=True, traits=POSTURES),
    Thing("owl", owl, "land", 0.46, 0.6, ("brown", "white", "grey"), often=1.3, traits=one_of("posture", "", "", "wings spread")),
    Thing("hare", hare, "land field", 0.42, 0.5, ("brown", "white", "grey"), faces=True, traits=one_of("posture", "", "upright")),
    Thing("hedgehog", hedgehog, "land", 0.26, 0.9, (), faces=True),
    Thing("swan", swan, "water", 0.42, 0.9, ("white", "grey", "black"), faces=True, traits=one_of("posture", "", "", "wings spread")),
    Thing("duck", duck, "water land", 0.32, 0.9, ("brown", "white", "yellow"), faces=True),
    Thing("crow", crow, "land street field", 0.3, 0.85, (), faces=True, traits=one_of("posture", "standing", "flying")),
    Thing("butterfly", butterfly, "sky", 0.22, 0.75, ("orange", "yellow", "blue", "white", "red")),
)
