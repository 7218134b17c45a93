"""How each thing looks. A thing is drawn standing at (0, 0), one unit high, y pointing down.

Things that look to one side are drawn looking right. Parts are kept large: what is smaller than a
sixteenth of a thing is hardly ever learned.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import skia

from .pen import Colour, Pen, mix, shade, times
from .words import PAINTED

INK = (24, 20, 26)
CREAM = (242, 234, 218)
GLOW = (255, 214, 120)


@dataclass(frozen=True)
class Light:
    """What falls on a thing: colour multipliers 0..1.2, and how dark the hour is (0 day .. 1 night)."""

    colour: Colour
    night: float


@dataclass(frozen=True)
class Look:
    """One thing's own choices."""

    tint: Colour | None
    lit: bool
    light: Light
    rng: np.random.Generator

    def dye(self, default: Colour, factor: float = 1.0) -> Colour:
        """The thing's main colour under the light."""
        return shade(times(self.tint or default, self.light.colour), factor)

    def fixed(self, colour: Colour, factor: float = 1.0) -> Colour:
        """A colour that does not follow the thing's tint, under the light."""
        return shade(times(colour, self.light.colour), factor)


def birch(p: Pen, k: Look) -> None:
    trunk = k.fixed((238, 234, 226))
    p.curve([(-0.075, 0), (-0.05, -0.5, -0.035, -0.92), (0.035, -0.92), (0.045, -0.5, 0.075, 0)], trunk)
    p.poly([(0.02, 0), (0.012, -0.9), (0.035, -0.9), (0.075, 0)], shade(trunk, 0.84))
    for i in range(6):
        y = -0.08 - 0.1 * i
        p.poly(
            [(-0.07, y), (0.0, y - 0.012), (-0.066, y - 0.034)] if i % 2 else [(0.066, y), (0.0, y - 0.012), (0.062, y - 0.034)],
            k.fixed((52, 46, 46)),
        )
    leaf = k.dye((154, 178, 70))
    for x, y, r, f in [
        (-0.17, -0.6, 0.15, 0.82),
        (0.17, -0.66, 0.16, 0.78),
        (0, -0.84, 0.16, 0.98),
        (-0.13, -0.78, 0.13, 1.06),
        (0.12, -0.8, 0.11, 0.94),
        (-0.02, -0.66, 0.12, 0.9),
    ]:
        p.oval(x, y, r, r * 0.86, shade(leaf, f))


def pine(p: Pen, k: Look) -> None:
    p.rect(-0.055, -0.2, 0.055, 0, k.fixed((98, 66, 46)))
    green = k.dye((42, 104, 74))
    for i, (y, w, h) in enumerate([(-0.12, 0.38, 0.44), (-0.36, 0.31, 0.4), (-0.6, 0.23, 0.4)]):
        p.curve(
            [(-w, y), (-w * 0.3, y - h * 0.35, 0, y - h), (w * 0.3, y - h * 0.35, w, y), (0, y + 0.07, -w, y)],
            shade(green, 0.86 + 0.13 * i),
        )
        p.curve([(0, y - h), (w * 0.3, y - h * 0.35, w, y), (w * 0.5, y + 0.05, 0, y + 0.034)], shade(green, 0.68 + 0.13 * i))


def tree(p: Pen, k: Look) -> None:
    p.curve([(-0.1, 0), (-0.05, -0.2, -0.05, -0.5), (0.05, -0.5), (0.05, -0.2, 0.1, 0)], k.fixed((108, 74, 50)))
    green = k.dye((96, 152, 64))
    for x, y, r, f in [
        (0.2, -0.5, 0.22, 0.72),
        (-0.22, -0.52, 0.23, 0.82),
        (0.04, -0.72, 0.27, 0.88),
        (-0.1, -0.68, 0.2, 1.02),
        (-0.15, -0.8, 0.11, 1.14),
    ]:
        p.dot(x, y, r, shade(green, f))


def cottage(p: Pen, k: Look) -> None:
    w = 0.6
    wall = k.dye((232, 218, 196))
    roof = k.fixed((126, 66, 50))
    p.rect(w - 0.36, -1.0, w - 0.2, -0.7, k.fixed((120, 106, 100)))
    p.rect(-w, -0.58, w, 0, wall)
    p.rect(0.12, -0.58, w, 0, shade(wall, 0.84))
    p.poly([(-w - 0.12, -0.54), (-w + 0.2, -0.96), (w - 0.18, -0.96), (w + 0.12, -0.54)], roof)
    p.poly([(0.12, -0.54), (0.16, -0.96), (w - 0.18, -0.96), (w + 0.12, -0.54)], shade(roof, 0.8))
    glass = GLOW if k.lit else k.fixed((92, 128, 162))
    frame = k.fixed((84, 54, 42))
    for x in (-0.5, 0.28):
        p.rect(x - 0.025, -0.445, x + 0.235, -0.185, frame)
        p.rect(x, -0.42, x + 0.21, -0.21, glass)
        p.line([(x + 0.105, -0.42), (x + 0.105, -0.21)], 0.03, frame)
    p.rect(-0.15, -0.4, 0.08, 0, k.fixed((88, 54, 38)), 0.03)


def tent(p: Pen, k: Look) -> None:
    cloth = k.dye((216, 132, 52))
    p.poly([(-0.9, 0), (-0.05, -1), (0.9, 0)], cloth)
    p.poly([(0.26, 0), (-0.05, -1), (0.9, 0)], shade(cloth, 0.74))
    p.poly([(-0.34, 0), (-0.05, -0.74), (0.22, 0)], GLOW if k.lit else shade(cloth, 0.36))


def lantern(p: Pen, k: Look) -> None:
    iron = k.dye((62, 62, 70))
    if k.lit:
        p.glow(0, -0.8, 0.42, GLOW, 0.6)
    p.rect(-0.035, -0.68, 0.035, 0, iron)
    p.rect(-0.12, -0.06, 0.12, 0, iron)
    p.poly([(-0.1, -0.66), (0.1, -0.66), (0.15, -0.9), (-0.15, -0.9)], (255, 226, 146) if k.lit else k.fixed((206, 214, 206)))
    p.line([(0, -0.66), (0, -0.9)], 0.03, iron)
    p.poly([(-0.2, -0.88), (0, -1), (0.2, -0.88)], iron)
    p.rect(-0.12, -0.68, 0.12, -0.64, iron)


def fox(p: Pen, k: Look) -> None:
    fur = k.dye((218, 106, 42))
    dark = k.fixed((74, 46, 40))
    cream = k.fixed(CREAM)
    p.curve([(-0.42, -0.42), (-0.8, -0.86, -1.2, -0.5), (-1.1, -0.28, -0.46, -0.28)], fur)
    p.curve([(-1.2, -0.5), (-1.02, -0.7, -0.92, -0.62), (-0.98, -0.45, -0.94, -0.37), (-1.08, -0.36, -1.2, -0.5)], cream)
    for x, f in ((-0.36, 0.8), (0.24, 0.8), (-0.46, 1.0), (0.36, 1.0)):
        p.rect(x - 0.06, -0.34, x + 0.06, 0, shade(dark, f), 0.03)
    p.curve([(-0.56, -0.3), (-0.62, -0.66, -0.2, -0.62), (0.3, -0.6, 0.52, -0.7), (0.62, -0.3, 0.36, -0.24), (0, -0.2, -0.56, -0.3)], fur)
    p.curve([(0.36, -0.6), (0.62, -0.58, 0.56, -0.34), (0.46, -0.2, 0.34, -0.28)], cream)
    p.poly([(0.34, -0.82), (0.38, -1.04), (0.56, -0.86)], dark)
    p.poly([(0.56, -0.86), (0.66, -1.04), (0.74, -0.8)], fur)
    p.curve([(0.3, -0.74), (0.36, -0.94, 0.6, -0.92), (0.84, -0.9, 1.06, -0.6), (0.8, -0.48, 0.54, -0.5), (0.32, -0.52, 0.3, -0.74)], fur)
    p.curve([(0.56, -0.5), (0.76, -0.66, 1.06, -0.6), (0.82, -0.48, 0.56, -0.5)], cream)
    p.dot(1.04, -0.6, 0.05, INK)
    p.dot(0.7, -0.73, 0.05, INK)


def owl(p: Pen, k: Look) -> None:
    feather = k.dye((132, 98, 74))
    for x in (-0.14, 0.14):
        p.oval(x, -0.03, 0.1, 0.05, k.fixed((230, 158, 60)))
    p.curve(
        [
            (-0.38, -0.5),
            (-0.46, -0.86, -0.34, -1.0),
            (-0.2, -0.9, 0, -0.88),
            (0.2, -0.9, 0.34, -1.0),
            (0.46, -0.86, 0.38, -0.5),
            (0.42, -0.02, 0, -0.02),
            (-0.42, -0.02, -0.38, -0.5),
        ],
        feather,
    )
    p.oval(0, -0.28, 0.22, 0.24, k.fixed((222, 202, 172)))
    for s in (-1, 1):
        p.curve([(s * 0.36, -0.56), (s * 0.5, -0.2, s * 0.26, -0.06), (s * 0.16, -0.3, s * 0.36, -0.56)], shade(feather, 0.72))
        p.dot(s * 0.165, -0.7, 0.155, k.fixed((250, 226, 140) if k.light.night < 0.5 else (255, 244, 190)))
        p.dot(s * 0.155, -0.7, 0.075, INK)
    p.poly([(-0.06, -0.63), (0.06, -0.63), (0, -0.5)], k.fixed((234, 156, 56)))


def deer(p: Pen, k: Look) -> None:
    coat = k.dye((160, 106, 66))
    dark = shade(coat, 0.7)
    for x, c in ((-0.24, dark), (0.14, dark), (-0.32, coat), (0.24, coat)):
        p.rect(x - 0.04, -0.4, x + 0.04, 0, c, 0.02)
    p.oval(-0.4, -0.52, 0.07, 0.09, k.fixed(CREAM))
    p.curve(
        [
            (-0.4, -0.56),
            (-0.3, -0.68, 0.12, -0.6),
            (0.24, -0.62, 0.32, -0.86),
            (0.46, -0.84),
            (0.42, -0.5, 0.3, -0.36),
            (0, -0.28, -0.34, -0.34),
            (-0.44, -0.4, -0.4, -0.56),
        ],
        coat,
    )
    horn = k.fixed((92, 66, 48))
    for s in (-1, 1):
        x = 0.4 + s * 0.04
        p.line([(x, -0.86), (x + s * 0.14, -0.98), (x + s * 0.12, -1.1)], 0.045, horn)
        p.line([(x + s * 0.1, -0.95), (x + s * 0.24, -1.02)], 0.045, horn)
    p.curve(
        [(0.28, -0.84), (0.34, -0.92, 0.46, -0.9), (0.62, -0.84, 0.66, -0.76), (0.6, -0.68, 0.48, -0.72), (0.36, -0.74, 0.28, -0.84)], coat
    )
    p.oval(0.27, -0.86, 0.08, 0.04, dark)
    p.dot(0.64, -0.76, 0.036, INK)
    p.dot(0.47, -0.82, 0.034, INK)


def hare(p: Pen, k: Look) -> None:
    fur = k.dye((166, 138, 112))
    p.dot(-0.48, -0.2, 0.12, k.fixed(CREAM))
    p.curve([(-0.5, -0.12), (-0.5, -0.5, -0.08, -0.52), (0.2, -0.5, 0.3, -0.2), (0.36, 0, 0.1, 0), (-0.4, 0, -0.5, -0.12)], fur)
    p.oval(-0.2, -0.16, 0.22, 0.15, shade(fur, 0.86))
    p.oval(0.24, -0.05, 0.17, 0.06, shade(fur, 0.92))
    for x, f in ((0.1, 0.78), (0.24, 1.0)):
        p.curve([(x - 0.05, -0.6), (x - 0.2, -0.98, x - 0.06, -1.02), (x + 0.1, -0.96, x + 0.07, -0.6)], shade(fur, f))
    p.oval(0.26, -0.52, 0.22, 0.17, fur)
    p.dot(0.32, -0.56, 0.045, INK)
    p.dot(0.47, -0.5, 0.035, k.fixed((214, 140, 130)))


def swan(p: Pen, k: Look) -> None:
    white = k.dye((246, 246, 244))
    p.curve(
        [
            (-0.62, -0.28),
            (-0.92, -0.6),
            (-0.5, -0.56),
            (-0.1, -0.62, 0.2, -0.4),
            (0.6, -0.36, 0.56, -0.12),
            (0.4, 0, 0, 0),
            (-0.5, 0, -0.62, -0.28),
        ],
        white,
    )
    p.curve([(-0.6, -0.3), (-0.2, -0.56, 0.16, -0.3), (-0.1, -0.08, -0.6, -0.3)], shade(white, 0.86))
    p.curve([(0.44, -0.2), (0.9, -0.46, 0.2, -0.66, 0.5, -0.9)], white, width=0.14)
    p.dot(0.52, -0.89, 0.12, white)
    p.poly([(0.6, -0.96), (0.88, -0.82), (0.58, -0.8)], k.fixed((238, 140, 46)))
    p.dot(0.56, -0.92, 0.032, INK)


def rowing_boat(p: Pen, k: Look) -> None:
    hull = k.dye((130, 82, 50))
    oar = k.fixed((214, 182, 130))
    p.line([(-0.3, -0.5), (-1.0, -0.98)], 0.08, shade(oar, 0.86))
    p.curve([(-1.15, -0.62), (0, -0.42, 1.15, -0.62), (1.0, -0.1, 0.62, 0), (-0.62, 0), (-1.0, -0.1, -1.15, -0.62)], hull)
    p.curve([(-1.15, -0.62), (0, -0.42, 1.15, -0.62), (0, -0.2, -1.15, -0.62)], shade(hull, 0.55))
    p.line([(0.2, -0.46), (0.98, -0.02)], 0.08, oar)


def sailing_boat(p: Pen, k: Look) -> None:
    sail = k.dye((242, 238, 226))
    p.rect(-0.025, -1.0, 0.025, -0.15, k.fixed((88, 64, 46)))
    p.curve([(0.05, -0.96), (0.34, -0.6, 0.48, -0.26), (0.05, -0.24)], sail)
    p.curve([(-0.05, -0.9), (-0.3, -0.5, -0.38, -0.26), (-0.05, -0.24)], shade(sail, 0.82))
    p.curve([(-0.5, -0.2), (0.56, -0.2), (0.46, 0, 0.3, 0), (-0.34, 0), (-0.46, -0.04, -0.5, -0.2)], k.fixed((122, 76, 48)))


def lighthouse(p: Pen, k: Look) -> None:
    stripe = k.dye((200, 52, 48))
    plain = k.fixed((240, 238, 230)) if k.tint is None or min(k.tint) < 200 else k.fixed((150, 152, 156))
    for i in range(4):
        y0, y1 = -0.185 * i, -0.185 * (i + 1)
        w0, w1 = 0.19 - 0.024 * i, 0.19 - 0.024 * (i + 1)
        c = stripe if i % 2 == 0 else plain
        p.poly([(-w0, y0), (w0, y0), (w1, y1), (-w1, y1)], c)
        p.poly([(w0 * 0.25, y0), (w0, y0), (w1, y1), (w1 * 0.25, y1)], shade(c, 0.82))
    if k.lit:
        p.glow(0, -0.82, 0.34, GLOW, 0.55)
    p.rect(-0.13, -0.76, 0.13, -0.73, k.fixed((70, 62, 66)))
    p.rect(-0.075, -0.89, 0.075, -0.76, (255, 228, 150) if k.lit else k.fixed((166, 200, 214)))
    p.poly([(-0.12, -0.88), (0, -1), (0.12, -0.88)], k.fixed((70, 58, 62)))


def fence(p: Pen, k: Look) -> None:
    wood = k.dye((166, 128, 90))
    for y in (-0.32, -0.7):
        p.rect(-1.25, y - 0.07, 1.25, y + 0.07, shade(wood, 0.78))
    for i in range(6):
        x = -1.05 + 0.42 * i
        p.poly([(x - 0.1, 0), (x - 0.1, -0.86), (x, -1), (x + 0.1, -0.86), (x + 0.1, 0)], wood)


def signpost(p: Pen, k: Look) -> None:
    wood = k.dye((160, 116, 74))
    p.rect(-0.05, -1.0, 0.05, 0, shade(wood, 0.7))
    p.poly([(-0.3, -0.96), (0.28, -0.96), (0.44, -0.83), (0.28, -0.7), (-0.3, -0.7)], wood)
    p.poly([(0.28, -0.64), (-0.24, -0.64), (-0.4, -0.51), (-0.24, -0.38), (0.28, -0.38)], shade(wood, 0.86))


def rock(p: Pen, k: Look) -> None:
    stone = k.dye((134, 134, 140))
    p.poly([(-0.78, 0), (-0.66, -0.5), (-0.2, -0.96), (0.3, -0.86), (0.7, -0.4), (0.82, 0)], stone)
    p.poly([(-0.66, -0.5), (-0.2, -0.96), (0.3, -0.86), (0.04, -0.52)], shade(stone, 1.18))
    p.poly([(0.04, -0.52), (0.3, -0.86), (0.7, -0.4), (0.82, 0), (0.26, 0)], shade(stone, 0.74))


def moon(p: Pen, k: Look) -> None:
    p.glow(0, -0.5, 0.95, (246, 240, 214), 0.5)
    p.dot(0, -0.5, 0.5, (246, 241, 218))
    for x, y, r in [(-0.16, -0.6, 0.13), (0.17, -0.38, 0.15), (0.13, -0.76, 0.08)]:
        p.dot(x, y, r, (222, 214, 190))


def crescent_moon(p: Pen, k: Look) -> None:
    disc, cut = skia.Path(), skia.Path()
    disc.addCircle(0, -0.5, 0.5)
    cut.addCircle(-0.28, -0.6, 0.44)
    p.glow(0.1, -0.45, 0.8, (246, 240, 214), 0.35)
    p.canvas.drawPath(skia.Op(disc, cut, skia.PathOp.kDifference_PathOp), p.paint((246, 241, 218)))


def sun(p: Pen, k: Look) -> None:
    p.glow(0, -0.5, 1.05, (255, 226, 140), 0.6)
    p.dot(0, -0.5, 0.5, (255, 222, 112) if k.light.colour[2] > 0.8 else (255, 196, 96))


def cloud(p: Pen, k: Look) -> None:
    white = shade((252, 252, 254), 0.45 + 0.55 * float(np.mean(k.light.colour)))
    white = mix(white, times((252, 252, 254), k.light.colour), 0.5)
    for x, y, r, f in [(-0.68, -0.3, 0.28, 0.93), (0.72, -0.28, 0.27, 0.92), (-0.24, -0.54, 0.42, 1.0), (0.32, -0.46, 0.38, 0.97)]:
        p.dot(x, y, r, shade(white, f))
    p.rect(-0.92, -0.34, 0.96, -0.02, shade(white, 0.92), 0.16)


def balloon(p: Pen, k: Look) -> None:
    cloth = k.dye((200, 52, 48))
    stripe = k.fixed((244, 234, 212)) if k.tint is None or min(k.tint) < 200 else k.fixed((196, 120, 100))
    p.curve([(-0.12, -0.24), (-0.58, -0.52, -0.5, -1, 0, -1), (0.5, -1, 0.58, -0.52, 0.12, -0.24)], cloth)
    p.curve([(0.06, -0.24), (0.44, -0.52, 0.3, -1, 0, -1), (0.5, -1, 0.58, -0.52, 0.12, -0.24)], shade(cloth, 0.78))
    p.curve([(-0.05, -0.24), (-0.24, -0.52, -0.18, -1, 0, -1), (0.18, -1, 0.24, -0.52, 0.05, -0.24)], stripe)
    for x in (-0.1, 0.1):
        p.line([(x, -0.26), (x * 0.8, -0.12)], 0.022, k.fixed((76, 58, 48)))
    p.rect(-0.11, -0.14, 0.11, 0, k.fixed((142, 94, 58)), 0.02)


def flowers(p: Pen, k: Look) -> None:
    petal = k.dye((232, 136, 160))
    for x, y, r in [(-0.62, -0.5, 0.2), (-0.22, -0.78, 0.22), (0.26, -0.56, 0.2), (0.64, -0.8, 0.2), (0.0, -0.28, 0.16)]:
        p.line([(x * 0.7, 0), (x, y)], 0.06, k.fixed((74, 128, 66)))
        for a in range(5):
            t = a * 2 * np.pi / 5 - np.pi / 2
            p.dot(x + r * 0.62 * float(np.cos(t)), y + r * 0.62 * float(np.sin(t)), r * 0.52, petal)
        p.dot(x, y, r * 0.36, k.fixed((246, 206, 90)) if k.tint is None or k.tint[2] > 90 else k.fixed((120, 74, 40)))
    for s in (-1, 1):
        p.curve([(0, 0), (s * 0.2, -0.3, s * 0.42, -0.2), (s * 0.3, 0, 0, 0)], k.fixed((74, 128, 66)))


@dataclass(frozen=True)
class Thing:
    """A kind of thing: its drawing, where it may stand, how high it is (share of the sheet's
    height when near), its half width per height, and what can be said of it."""

    name: str
    draw: Callable[[Pen, Look], None]
    place: str
    size: float
    half_width: float
    colours: tuple[str, ...] = ()
    faces: bool = False
    lights: bool = False
    often: float = 1.0


ANIMAL = ("red", "brown", "white", "grey")
THINGS = {
    t.name: t
    for t in (
        Thing("birch", birch, "land", 0.92, 0.33),
        Thing("pine", pine, "land", 0.92, 0.38),
        Thing("tree", tree, "land", 0.8, 0.45, ("green", "orange", "red", "yellow")),
        Thing("cottage", cottage, "land", 0.56, 0.72, PAINTED, lights=True, often=1.5),
        Thing("tent", tent, "land", 0.46, 0.9, PAINTED, lights=True),
        Thing("lantern", lantern, "land", 0.66, 0.2, lights=True),
        Thing("fox", fox, "land", 0.42, 1.1, ANIMAL, faces=True, often=1.6),
        Thing("owl", owl, "land", 0.44, 0.42, ("brown", "white", "grey"), often=1.4),
        Thing("deer", deer, "land", 0.6, 0.6, ("brown", "white", "grey"), faces=True, often=1.2),
        Thing("hare", hare, "land", 0.4, 0.55, ("brown", "white", "grey"), faces=True),
        Thing("swan", swan, "water", 0.42, 0.9, ("white", "grey"), faces=True),
        Thing("rowing boat", rowing_boat, "water", 0.3, 1.15, PAINTED),
        Thing("sailing boat", sailing_boat, "water", 0.78, 0.5, PAINTED),
        Thing("lighthouse", lighthouse, "shore", 0.98, 0.2, PAINTED, lights=True),
        Thing("fence", fence, "land", 0.26, 1.25, ("white", "brown", "red", "blue")),
        Thing("signpost", signpost, "land", 0.5, 0.42, ("white", "brown", "red", "blue")),
        Thing("rock", rock, "shore", 0.32, 0.8, ("grey", "brown")),
        Thing("flowers", flowers, "land", 0.3, 0.8, ("red", "yellow", "blue", "purple", "white", "orange")),
        Thing("moon", moon, "sky", 0.24, 0.5),
        Thing("crescent moon", crescent_moon, "sky", 0.26, 0.5, faces=True),
        Thing("sun", sun, "sky", 0.24, 0.5),
        Thing("cloud", cloud, "sky", 0.2, 0.95),
        Thing("balloon", balloon, "sky", 0.46, 0.45, PAINTED),
    )
}
