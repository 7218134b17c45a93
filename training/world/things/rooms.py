"""Furniture and what hangs on walls, and small things seen close up."""

from __future__ import annotations

import math

from ..pen import Colour, Pen, mix, shade
from ..words import PAINTED
from .kit import GLOW, INK, WOOD, Look, Thing

SHEETS: tuple[Colour, ...] = ((250, 244, 232), (226, 236, 240))


def table(p: Pen, k: Look) -> None:
    k.form(_plain_table, _round_table)(p, k)


def _round_table(p: Pen, k: Look) -> None:
    """On one turned leg."""
    wood = k.dye(WOOD)
    p.limb([(0, -0.84), (0, -0.5), (0, -0.14)], [0.16, 0.26, 0.14], shade(wood, 0.8))
    for s in (-1, 1):
        p.limb([(0, -0.2), (s * 0.3, -0.14), (s * 0.46, -0.04)], [0.14, 0.12, 0.08], shade(wood, 0.72))
    p.rect(-0.8, -0.84, 0.8, -0.76, shade(wood, 0.84), 0.05)
    p.oval(0, -0.9, 0.96, 0.1, wood)


def _plain_table(p: Pen, k: Look) -> None:
    wood = k.dye(WOOD)
    for x in (-0.78, 0.66):
        p.rect(x, -0.84, x + 0.12, 0, shade(wood, 0.76))
    p.rect(-0.84, -0.86, 0.84, -0.72, shade(wood, 0.84))
    p.rect(-0.98, -1.0, 0.98, -0.86, wood, 0.03)


def chair(p: Pen, k: Look) -> None:
    k.form(_plain_chair, _round_backed_chair)(p, k)


def _round_backed_chair(p: Pen, k: Look) -> None:
    """A bow for its back, a cushion on it."""
    wood = k.dye(WOOD)
    p.curve([(-0.26, -0.46), (-0.36, -1.02, -0.08, -1.0), (0.08, -0.96, 0.04, -0.46)], wood, width=0.08)
    for x in (-0.16, -0.06):
        p.line([(x, -0.46), (x + 0.01, -0.92)], 0.035, shade(wood, 0.84))
    for x, f in ((-0.26, 0.84), (-0.04, 0.66), (0.08, 0.66), (0.28, 0.76)):
        p.line([(x * 0.86, -0.4), (x, 0)], 0.07, shade(wood, f))
    p.rect(-0.32, -0.46, 0.34, -0.37, wood, 0.04)
    p.rect(-0.28, -0.53, 0.3, -0.45, k.contrast((206, 90, 74), (236, 206, 160)), 0.04)


def _plain_chair(p: Pen, k: Look) -> None:
    wood = k.dye(WOOD)
    p.rect(-0.3, -1.0, -0.2, 0, shade(wood, 0.84))
    for y in (-0.94, -0.74):
        p.limb([(-0.25, y), (-0.02, y + 0.03)], [0.1, 0.08], wood)
    p.rect(-0.06, -0.98, 0.02, -0.46, shade(wood, 0.9))
    p.rect(0.22, -0.44, 0.31, 0, shade(wood, 0.76))
    p.rect(-0.02, -0.44, 0.06, -0.06, shade(wood, 0.66))
    p.rect(-0.32, -0.5, 0.34, -0.4, wood, 0.03)


def armchair(p: Pen, k: Look) -> None:
    k.form(_club_chair, _winged_chair)(p, k)


def _winged_chair(p: Pen, k: Look) -> None:
    """High, with ears beside the head."""
    cloth = k.dye((150, 84, 70))
    for x in (-0.36, 0.27):
        p.rect(x, -0.14, x + 0.09, 0, k.fixed((88, 62, 48)))
    p.curve([(-0.34, -0.2), (-0.36, -1.0), (-0.1, -1.04, 0, -1.0), (0.1, -1.04, 0.36, -1.0), (0.34, -0.2)], cloth)
    for s in (-1, 1):
        p.curve(
            [(s * 0.24, -0.98), (s * 0.5, -1.0, s * 0.44, -0.62), (s * 0.3, -0.56), (s * 0.22, -0.8, s * 0.24, -0.98)], shade(cloth, 0.88)
        )
        p.rect(s * 0.36 - 0.1, -0.56, s * 0.36 + 0.1, -0.14, shade(cloth, 0.94 if s < 0 else 0.78), 0.08)
    p.rect(-0.27, -0.46, 0.27, -0.32, shade(cloth, 1.16), 0.06)
    p.rect(-0.3, -0.32, 0.3, -0.12, shade(cloth, 0.84), 0.03)
    for x, y in ((-0.1, -0.86), (0.1, -0.86), (-0.1, -0.66), (0.1, -0.66)):
        p.dot(x, y, 0.03, shade(cloth, 0.66))


def _club_chair(p: Pen, k: Look) -> None:
    cloth = k.dye((150, 84, 70))
    for x in (-0.42, 0.32):
        p.rect(x, -0.12, x + 0.1, 0, k.fixed((88, 62, 48)))
    p.blob([(-0.44, -0.2), (-0.46, -0.8), (-0.2, -1.02), (0.2, -1.02), (0.46, -0.8), (0.44, -0.2)], cloth)
    p.blob([(-0.34, -0.3), (-0.34, -0.46), (0.34, -0.46), (0.34, -0.3)], shade(cloth, 1.16))
    p.rect(-0.34, -0.32, 0.34, -0.08, shade(cloth, 0.84), 0.05)
    for s in (-1, 1):
        p.rect(s * 0.36 - 0.14, -0.56, s * 0.36 + 0.14, -0.08, shade(cloth, 0.94 if s < 0 else 0.78), 0.1)


def bed(p: Pen, k: Look) -> None:
    wood, cover = k.fixed((140, 96, 62)), k.dye((92, 124, 176))
    sheet = k.fixed(SHEETS[int(k.r[1] * 1.99)])
    p.rect(-1.15, -1.0, -1.02, 0, wood, 0.03)
    p.rect(1.02, -0.66, 1.15, 0, wood, 0.03)
    p.rect(-1.08, -0.5, 1.08, -0.16, shade(wood, 0.8))
    p.blob([(-0.98, -0.46), (-0.94, -0.72), (-0.6, -0.76), (-0.5, -0.5)], sheet)
    p.blob([(-1.0, -0.3), (-0.56, -0.62), (0.3, -0.66), (1.02, -0.54), (1.06, -0.2), (-1.0, -0.2)], cover)
    p.blob([(-0.62, -0.6), (-0.4, -0.64), (-0.36, -0.22), (-0.6, -0.22)], sheet)
    p.rect(-1.02, -0.3, 1.04, -0.14, shade(cover, 0.8), 0.05)


def lamp(p: Pen, k: Look) -> None:
    k.form(_tall_lamp, _round_lamp)(p, k)


def _round_lamp(p: Pen, k: Look) -> None:
    """A globe on a stand with three feet."""
    globe, foot = k.dye((236, 206, 140)), k.fixed((96, 76, 60))
    if k.lit:
        p.glow(0, -0.8, 0.6, GLOW, 0.7)
    p.line([(0, -0.6), (0, -0.2)], 0.05, foot)
    for x in (-0.18, 0.02, 0.18):
        p.line([(0, -0.24), (x, -0.02)], 0.045, foot)
    p.rect(-0.08, -0.64, 0.08, -0.57, foot, 0.02)
    lit = mix(globe, GLOW, 0.6) if k.lit else globe
    p.oval(0, -0.81, 0.22, 0.19, lit)
    p.curve([(0.06, -1.0), (0.16, -0.82, 0.06, -0.63), (0.3, -0.7, 0.22, -0.86), (0.18, -0.96, 0.06, -1.0)], shade(lit, 0.84))


def _tall_lamp(p: Pen, k: Look) -> None:
    shadec = k.dye((236, 206, 140))
    if k.lit:
        p.glow(0, -0.8, 0.6, GLOW, 0.7)
    p.rect(-0.03, -0.66, 0.03, 0, k.fixed((96, 76, 60)))
    p.rect(-0.16, -0.05, 0.16, 0, k.fixed((96, 76, 60)), 0.02)
    p.poly([(-0.13, -1.0), (0.13, -1.0), (0.25, -0.64), (-0.25, -0.64)], mix(shadec, GLOW, 0.6) if k.lit else shadec)
    p.poly([(0.04, -1.0), (0.13, -1.0), (0.25, -0.64), (0.08, -0.64)], shade(mix(shadec, GLOW, 0.6) if k.lit else shadec, 0.84))


def bookshelf(p: Pen, k: Look) -> None:
    wood = k.dye((132, 90, 60))
    p.rect(-0.4, -1.0, 0.4, 0, wood, 0.02)
    books: tuple[Colour, ...] = ((176, 62, 54), (66, 98, 150), (218, 178, 84), (84, 128, 84), (226, 214, 194), (120, 80, 120))
    for row in range(3):
        y = -0.06 - 0.31 * row
        p.rect(-0.34, y - 0.25, 0.34, y, shade(wood, 0.5))
        left = -0.33
        for i in range(row * 2, row * 2 + 6):
            right = left + 0.08 + 0.03 * ((i * 7) % 3)
            h = 0.17 + 0.03 * ((i * 5) % 3)
            p.rect(left, y - h, min(0.33, right), y, k.fixed(books[(i + int(k.r[2] * 6)) % 6]))
            left = right + 0.012


def stove(p: Pen, k: Look) -> None:
    iron = k.dye((70, 70, 76))
    p.rect(-0.08, -1.0, 0.08, -0.5, shade(iron, 0.84))
    for x in (-0.3, 0.22):
        p.rect(x, -0.08, x + 0.08, 0, shade(iron, 0.7))
    p.rect(-0.34, -0.56, 0.34, -0.06, iron, 0.05)
    p.rect(-0.4, -0.6, 0.4, -0.52, shade(iron, 1.25), 0.02)
    p.rect(-0.2, -0.42, 0.2, -0.14, shade(iron, 0.55), 0.04)
    p.blob([(-0.13, -0.16), (-0.14, -0.28), (0, -0.4), (0.14, -0.28), (0.13, -0.16)], (244, 140, 50))
    p.blob([(-0.07, -0.16), (-0.06, -0.24), (0.01, -0.32), (0.07, -0.22), (0.06, -0.16)], (255, 220, 110))


def painting(p: Pen, k: Look) -> None:
    frame = k.fixed((176, 130, 70))
    p.rect(-0.6, -1.0, 0.6, 0, frame, 0.02)
    p.rect(-0.48, -0.88, 0.48, -0.12, k.fixed((178, 206, 222)))
    p.blob([(-0.48, -0.3), (-0.2, -0.56), (0.1, -0.4), (0.3, -0.6), (0.48, -0.4), (0.48, -0.12), (-0.48, -0.12)], k.fixed((96, 140, 96)))
    p.dot(0.22, -0.72, 0.09, k.fixed((246, 214, 110)))


def clock(p: Pen, k: Look) -> None:
    p.dot(0, -0.5, 0.5, k.dye((132, 84, 56)))
    p.dot(0, -0.5, 0.39, k.fixed((248, 242, 228)))
    for hour in range(12):
        dx, dy = math.cos(hour * math.pi / 6), math.sin(hour * math.pi / 6)
        p.dot(0.32 * dx, -0.5 + 0.32 * dy, 0.035, INK)
    a = k.r[3] * 6.28
    p.line([(0, -0.5), (0.18 * math.cos(a), -0.5 + 0.18 * math.sin(a))], 0.06, INK)
    p.line([(0, -0.5), (0.27 * math.cos(a * 3), -0.5 + 0.27 * math.sin(a * 3))], 0.04, INK)


def mirror(p: Pen, k: Look) -> None:
    p.oval(0, -0.5, 0.36, 0.5, k.dye((190, 150, 80)))
    p.oval(0, -0.5, 0.29, 0.42, k.fixed((196, 216, 226)))
    p.poly([(-0.16, -0.4), (0.1, -0.78), (0.18, -0.7), (-0.1, -0.28)], k.fixed((234, 244, 248)))


def shelf(p: Pen, k: Look) -> None:
    wood = k.fixed(WOOD)
    for x, c, h in ((-0.62, (186, 92, 70), 0.5), (-0.3, (232, 226, 210), 0.36), (0.3, (84, 120, 160), 0.6), (0.6, (214, 178, 84), 0.4)):
        p.rect(x - 0.1, -0.3 - h, x + 0.1, -0.3, k.fixed(c), 0.06)
    p.dot(0.0, -0.46, 0.16, k.fixed((92, 142, 84)))
    p.rect(-0.95, -0.32, 0.95, -0.18, wood, 0.02)
    for x in (-0.7, 0.62):
        p.poly([(x, -0.18), (x + 0.09, -0.18), (x + 0.045, 0)], shade(wood, 0.76))


def door(p: Pen, k: Look) -> None:
    wood = k.dye((150, 104, 68))
    p.rect(-0.29, -1.0, 0.29, 0, shade(wood, 0.66))
    p.rect(-0.24, -0.96, 0.24, 0, wood)
    for y0, y1 in ((-0.88, -0.54), (-0.44, -0.1)):
        p.rect(-0.16, y0, 0.16, y1, shade(wood, 0.84))
    p.dot(0.18, -0.48, 0.03, k.fixed((224, 190, 96)))


def rug(p: Pen, k: Look) -> None:
    c = k.dye((172, 62, 56))
    p.oval(0, -0.5, 2.1, 0.5, c)
    p.oval(0, -0.5, 1.75, 0.39, k.contrast((240, 222, 186), (190, 110, 90)))
    p.oval(0, -0.5, 1.4, 0.28, shade(c, 0.86))


def cup(p: Pen, k: Look) -> None:
    c = k.dye((240, 236, 226))
    p.curve([(0.4, -0.74), (0.8, -0.8, 0.8, -0.2, 0.34, -0.26)], c, width=0.12)
    p.curve([(-0.5, -0.9), (-0.48, -0.2, -0.26, 0), (0.26, 0), (0.48, -0.2, 0.5, -0.9)], c)
    p.curve([(0.16, -0.9), (0.2, -0.2, 0.1, 0), (0.26, 0), (0.48, -0.2, 0.5, -0.9)], shade(c, 0.8))
    p.oval(0, -0.9, 0.5, 0.12, shade(c, 0.9))
    p.oval(0, -0.9, 0.42, 0.085, k.fixed((92, 58, 38)))


def teapot(p: Pen, k: Look) -> None:
    k.form(_round_pot, _tall_pot)(p, k)


def _tall_pot(p: Pen, k: Look) -> None:
    """Narrow, with a long spout from below."""
    c = k.dye((82, 120, 156))
    p.curve([(-0.3, -0.76), (-0.8, -0.82, -0.72, -0.2, -0.36, -0.24)], shade(c, 0.9), width=0.1)
    p.curve([(0.3, -0.14), (0.64, -0.2, 0.5, -0.66), (0.74, -0.8), (0.64, -0.82), (0.34, -0.7, 0.3, -0.44)], c)
    p.curve([(-0.26, -0.82), (-0.44, -0.3, -0.38, 0), (0.38, 0), (0.44, -0.3, 0.26, -0.82)], c)
    p.curve([(0.1, -0.82), (0.26, -0.3, 0.16, 0), (0.38, 0), (0.44, -0.3, 0.26, -0.82)], shade(c, 0.78))
    p.rect(-0.36, -0.4, 0.36, -0.3, k.contrast((244, 236, 214), (90, 110, 150)))
    p.curve([(-0.28, -0.82), (-0.2, -0.94, 0, -0.94), (0.2, -0.94, 0.28, -0.82)], shade(c, 1.16))
    p.dot(0, -0.96, 0.06, shade(c, 0.86))


def _round_pot(p: Pen, k: Look) -> None:
    c = k.dye((82, 120, 156))
    p.curve([(-0.44, -0.66), (-0.98, -0.8, -0.9, -0.16, -0.4, -0.26)], shade(c, 0.9), width=0.1)
    p.limb([(0.36, -0.3), (0.66, -0.5), (0.78, -0.76)], [0.26, 0.15, 0.1], c)
    p.blob([(-0.5, -0.36), (-0.36, -0.74), (0, -0.84), (0.36, -0.74), (0.5, -0.36), (0.3, -0.02), (-0.3, -0.02)], c)
    p.blob([(0.16, -0.78), (0.36, -0.72), (0.5, -0.36), (0.3, -0.02), (0.12, -0.02), (0.3, -0.4)], shade(c, 0.78))
    p.oval(0, -0.82, 0.26, 0.075, shade(c, 1.16))
    p.dot(0, -0.93, 0.075, shade(c, 0.86))


def candle(p: Pen, k: Look) -> None:
    wax = k.dye((246, 238, 216))
    p.glow(0, -0.88, 0.4, GLOW, 0.6)
    p.oval(0, -0.05, 0.3, 0.06, k.fixed((186, 150, 80)))
    p.rect(-0.12, -0.7, 0.12, -0.05, wax, 0.03)
    p.rect(0.03, -0.7, 0.12, -0.05, shade(wax, 0.84), 0.02)
    p.line([(0, -0.7), (0, -0.76)], 0.025, INK)
    p.blob([(-0.06, -0.78), (0, -1.0), (0.06, -0.78), (0, -0.74)], (255, 214, 96))


def bottle(p: Pen, k: Look) -> None:
    glass = k.dye((68, 112, 84))
    p.curve(
        [
            (-0.2, -0.56),
            (-0.07, -0.66, -0.07, -0.76),
            (-0.07, -0.96),
            (0.07, -0.96),
            (0.07, -0.76),
            (0.07, -0.66, 0.2, -0.56),
            (0.2, 0),
            (-0.2, 0),
        ],
        glass,
    )
    p.rect(0.08, -0.56, 0.19, 0, shade(glass, 0.74))
    p.rect(-0.18, -0.42, 0.18, -0.16, k.fixed((244, 234, 208)))
    p.rect(-0.14, -0.54, -0.09, -0.44, shade(glass, 1.6), 0.02)
    p.rect(-0.06, -1.0, 0.06, -0.94, k.fixed((190, 150, 104)))


def apple(p: Pen, k: Look) -> None:
    c = k.dye((206, 54, 48))
    p.blob([(0, -0.8), (-0.3, -0.9), (-0.5, -0.56), (-0.36, -0.12), (0, -0.04), (0.36, -0.12), (0.5, -0.56), (0.3, -0.9)], c)
    p.blob([(0.1, -0.04), (0.36, -0.12), (0.5, -0.56), (0.3, -0.9), (0.34, -0.5)], shade(c, 0.78))
    p.oval(-0.24, -0.62, 0.09, 0.14, shade(c, 1.3))
    p.limb([(0, -0.8), (0.05, -1.0)], [0.06, 0.05], k.fixed((96, 66, 44)))
    p.blob([(0.06, -0.92), (0.24, -1.02), (0.36, -0.92), (0.2, -0.84)], k.fixed((92, 146, 66)))


def pear(p: Pen, k: Look) -> None:
    c = k.dye((196, 198, 84))
    p.blob([(-0.12, -0.84), (0.12, -0.84), (0.22, -0.5), (0.38, -0.2), (0.2, 0), (-0.2, 0), (-0.38, -0.2), (-0.22, -0.5)], c)
    p.blob([(0.06, -0.8), (0.13, -0.82), (0.22, -0.5), (0.38, -0.2), (0.2, 0), (0.1, -0.02), (0.2, -0.26)], shade(c, 0.8))
    p.limb([(0, -0.84), (0.06, -1.0)], [0.05, 0.04], k.fixed((96, 66, 44)))


def bread(p: Pen, k: Look) -> None:
    c = k.fixed((196, 134, 72))
    p.blob([(-0.95, -0.3), (-0.8, -0.76), (-0.2, -0.98), (0.4, -0.94), (0.9, -0.7), (0.96, -0.24), (0.7, 0), (-0.7, 0)], c)
    p.blob([(-0.8, -0.12), (0, -0.2), (0.9, -0.16), (0.7, 0), (-0.7, 0)], shade(c, 0.76))
    for x in (-0.46, 0.0, 0.46):
        p.limb([(x - 0.1, -0.84), (x + 0.12, -0.5)], [0.1, 0.07], k.fixed((236, 196, 136)))


def book(p: Pen, k: Look) -> None:
    c, paper = k.dye((150, 56, 54)), k.fixed((250, 243, 224))
    p.poly([(-1.0, -0.2), (-0.84, -0.86), (0.84, -0.86), (1.0, -0.2), (1.0, 0), (-1.0, 0)], c)
    for s in (-1, 1):
        p.blob(
            [(0, -0.16), (s * 0.1, -0.94), (s * 0.46, -1.0), (s * 0.8, -0.86), (s * 0.92, -0.2), (s * 0.5, -0.26)],
            shade(paper, 1.0 if s < 0 else 0.88),
        )
        for i in range(4):
            y = -0.84 + 0.15 * i
            p.line([(s * 0.2, y), (s * 0.68, y + 0.02)], 0.035, k.fixed((150, 142, 130)))


def vase(p: Pen, k: Look) -> None:
    k.form(_slim_vase, _jug)(p, k)


def _jug(p: Pen, k: Look) -> None:
    """With a handle, and twigs in leaf in it."""
    c, leaf = k.dye((226, 232, 236)), k.fixed((96, 146, 78))
    for top, leaves in (((-0.22, -0.9), 2), ((0.2, -0.94), 3), ((0.0, -0.98), 2)):
        p.line([(0, -0.44), top], 0.03, k.fixed((104, 84, 56)))
        for i in range(leaves):
            t = 0.5 + 0.5 * i / max(1, leaves - 1)
            x, y = top[0] * t, -0.44 + (top[1] + 0.44) * t
            p.oval(x - 0.07, y, 0.09, 0.045, leaf)
            p.oval(x + 0.07, y - 0.03, 0.09, 0.045, shade(leaf, 0.86))
    p.curve([(0.16, -0.42), (0.42, -0.44, 0.36, -0.14, 0.2, -0.14)], shade(c, 0.88), width=0.06)
    p.curve(
        [
            (-0.16, -0.5),
            (-0.1, -0.4, -0.24, -0.3, -0.24, -0.18),
            (-0.24, -0.04, -0.16, 0),
            (0.16, 0),
            (0.24, -0.04, 0.24, -0.18),
            (0.24, -0.3, 0.1, -0.4, 0.14, -0.48),
        ],
        c,
    )
    p.curve(
        [
            (0.05, -0.48),
            (0.04, -0.36, 0.12, -0.28, 0.12, -0.18),
            (0.12, -0.04, 0.08, 0),
            (0.16, 0),
            (0.24, -0.04, 0.24, -0.18),
            (0.24, -0.3, 0.1, -0.4, 0.14, -0.48),
        ],
        shade(c, 0.8),
    )


def _slim_vase(p: Pen, k: Look) -> None:
    c, petal = k.dye((226, 232, 236)), k.fixed(((228, 96, 120), (246, 206, 90), (150, 110, 196))[int(k.r[1] * 2.99)])
    for x, y in ((-0.24, -0.8), (0.24, -0.78), (0.0, -0.9)):
        p.line([(0, -0.46), (x, y)], 0.035, k.fixed((84, 130, 66)))
        p.star(x, y, 0.13, 5, petal, 0.6)
        p.dot(x, y, 0.05, k.fixed((250, 220, 120)))
    p.blob([(-0.1, -0.5), (-0.08, -0.38), (-0.24, -0.18), (-0.14, 0), (0.14, 0), (0.24, -0.18), (0.08, -0.38), (0.1, -0.5)], c)
    p.blob([(0.04, -0.5), (0.03, -0.38), (0.12, -0.18), (0.06, 0), (0.14, 0), (0.24, -0.18), (0.08, -0.38), (0.1, -0.5)], shade(c, 0.8))


def bowl(p: Pen, k: Look) -> None:
    c = k.dye((74, 110, 160))
    for x, y, f in ((-0.34, -0.66, (206, 60, 50)), (0.3, -0.68, (236, 160, 56)), (0.0, -0.8, (170, 190, 80))):
        p.dot(x, y, 0.28, k.fixed(f))
        p.dot(x - 0.08, y - 0.1, 0.06, k.fixed(f, 1.3))
    p.curve([(-0.86, -0.6), (-0.7, -0.06, -0.3, 0), (0.3, 0), (0.7, -0.06, 0.86, -0.6)], c)
    p.curve([(0.3, -0.6), (0.3, -0.06, 0.14, 0), (0.3, 0), (0.7, -0.06, 0.86, -0.6)], shade(c, 0.78))
    p.rect(-0.9, -0.66, 0.9, -0.56, shade(c, 1.2), 0.04)


def cake(p: Pen, k: Look) -> None:
    k.form(_layered_cake, _ring_cake)(p, k)


def _ring_cake(p: Pen, k: Look) -> None:
    """Baked in a fluted form, icing running down it."""
    c, cream = k.fixed((186, 122, 70)), k.dye((246, 206, 214))
    p.blob([(-0.66, -0.06), (-0.62, -0.5), (-0.4, -0.86), (0.4, -0.86), (0.62, -0.5), (0.66, -0.06)], c)
    for x in (-0.4, 0.0, 0.4):
        p.limb([(x * 0.8, -0.7), (x * 1.2, -0.1)], [0.05, 0.08], shade(c, 0.78))
    p.blob(
        [
            (-0.5, -0.72),
            (-0.3, -0.96),
            (0.3, -0.96),
            (0.5, -0.72),
            (0.36, -0.52),
            (0.2, -0.68),
            (0.02, -0.42),
            (-0.16, -0.66),
            (-0.36, -0.5),
        ],
        cream,
    )
    p.oval(0, -0.9, 0.16, 0.04, shade(c, 0.6))
    p.oval(0, -0.04, 0.84, 0.06, k.fixed((236, 236, 232)))


def _layered_cake(p: Pen, k: Look) -> None:
    c, cream = k.fixed((220, 176, 120)), k.dye((246, 206, 214))
    p.rect(-0.62, -0.62, 0.62, -0.06, c, 0.04)
    p.rect(0.2, -0.62, 0.62, -0.06, shade(c, 0.84), 0.04)
    p.rect(-0.64, -0.38, 0.64, -0.28, k.fixed((250, 242, 226)))
    p.blob(
        [(-0.66, -0.6), (-0.6, -0.74), (0.6, -0.74), (0.66, -0.6), (0.5, -0.46), (0.3, -0.56), (0.0, -0.44), (-0.3, -0.56), (-0.5, -0.46)],
        cream,
    )
    for x in (-0.36, 0.0, 0.36):
        p.dot(x, -0.8, 0.1, k.fixed((200, 46, 52)))
    p.oval(0, -0.04, 0.84, 0.06, k.fixed((236, 236, 232)))


FURNITURE = (
    Thing("table", table, "floor", 0.44, 0.98, ("brown", "white", "green", "blue"), often=1.5),
    Thing("chair", chair, "floor", 0.52, 0.34, ("brown", "white", "red", "blue", "green"), faces=True, often=1.2),
    Thing("armchair", armchair, "floor", 0.52, 0.5, PAINTED, often=1.2),
    Thing("bed", bed, "floor", 0.46, 1.15, PAINTED, faces=True),
    Thing("lamp", lamp, "floor top", 0.72, 0.25, ("white", "yellow", "red", "green", "orange"), lights=True, often=1.2),
    Thing("bookshelf", bookshelf, "floor", 0.78, 0.4, ("brown", "white", "grey")),
    Thing("stove", stove, "floor", 0.76, 0.4, ("black", "grey", "green")),
    Thing("door", door, "floor", 0.78, 0.29, ("brown", "white", "red", "blue", "green")),
)
ON_WALL = (
    Thing("painting", painting, "wall", 0.26, 0.6),
    Thing("clock", clock, "wall", 0.22, 0.5, ("brown", "black", "red", "blue")),
    Thing("mirror", mirror, "wall", 0.34, 0.36),
    Thing("shelf", shelf, "wall", 0.22, 0.95),
)
RUG = Thing("rug", rug, "rug", 0.2, 2.1, ("red", "blue", "green", "purple", "orange", "pink"), flat=True)
SMALL = (
    Thing("cup", cup, "top", 0.4, 0.6, PAINTED),
    Thing("teapot", teapot, "top", 0.5, 0.85, PAINTED, faces=True),
    Thing("candle", candle, "top", 0.6, 0.3, ("white", "red", "blue", "green")),
    Thing("bottle", bottle, "top", 0.72, 0.22, ("green", "brown", "blue", "black")),
    Thing("apple", apple, "top", 0.3, 0.5, ("red", "green", "yellow")),
    Thing("pear", pear, "top", 0.36, 0.38, ("green", "yellow")),
    Thing("bread", bread, "top", 0.28, 0.96),
    Thing("book", book, "top", 0.24, 0.95, PAINTED),
    Thing("vase", vase, "top floor", 0.7, 0.36, ("white", "blue", "green", "red", "turquoise")),
    Thing("bowl", bowl, "top", 0.4, 0.9, ("blue", "white", "green", "red", "turquoise")),
    Thing("cake", cake, "top", 0.4, 0.84, ("pink", "white", "brown")),
)
