"""Buildings and what stands about them."""

from __future__ import annotations

import math

from ..pen import Pen, shade
from ..words import PAINTED
from .kit import GLOW, WOOD, Look, Thing


def cottage(p: Pen, k: Look) -> None:
    k.form(_long_cottage, _gabled_cottage, _thatched_cottage)(p, k)


def _gabled_cottage(p: Pen, k: Look) -> None:
    """Its gable towards the eye."""
    wall, roof, frame = k.dye((232, 218, 196)), k.fixed((112, 76, 58)), k.fixed((84, 54, 42))
    p.rect(-0.46, -0.92, -0.3, -0.5, k.fixed((120, 106, 100)))
    p.poly([(-0.5, 0), (-0.5, -0.5), (0, -0.94), (0.5, -0.5), (0.5, 0)], wall)
    p.poly([(0.2, 0), (0.2, -0.76), (0.5, -0.5), (0.5, 0)], shade(wall, 0.84))
    with p.part("roof"):
        p.poly([(-0.64, -0.4), (0, -1.0), (0.64, -0.4), (0.56, -0.34), (0, -0.84), (-0.56, -0.34)], roof)
    for x, y in ((-0.36, -0.42), (0.17, -0.42), (-0.1, -0.7)):
        _window(p, k, x, y, 0.2, 0.18)
    with p.part("doors"):
        p.rect(-0.11, -0.36, 0.11, 0, frame, 0.03)


def _thatched_cottage(p: Pen, k: Look) -> None:
    """Low under a thick round roof."""
    wall, roof = k.dye((232, 218, 196)), k.fixed((176, 142, 86))
    p.rect(-0.58, -0.46, 0.58, 0, wall)
    p.rect(0.24, -0.46, 0.58, 0, shade(wall, 0.84))
    with p.part("roof"):
        p.curve(
            [(-0.74, -0.36), (-0.62, -0.94, 0, -0.96), (0.62, -0.94, 0.74, -0.36), (0.3, -0.5, 0, -0.44), (-0.3, -0.5, -0.74, -0.36)], roof
        )
        p.curve([(0.14, -0.46), (0.3, -0.8, 0.2, -0.94), (0.64, -0.86, 0.74, -0.36), (0.5, -0.46, 0.14, -0.46)], shade(roof, 0.82))
    for x in (-0.48, 0.06, 0.34):
        _window(p, k, x, -0.34, 0.16, 0.16)
    with p.part("doors"):
        p.rect(-0.22, -0.36, -0.02, 0, k.fixed((88, 54, 38)), 0.06)


def _long_cottage(p: Pen, k: Look) -> None:
    w = 0.6
    wall = k.dye((232, 218, 196))
    roof = k.fixed((126, 66, 50))
    p.rect(w - 0.36, -1.0, w - 0.2, -0.7, k.fixed((120, 106, 100)))
    p.rect(-w, -0.58, w, 0, wall)
    p.rect(0.12, -0.58, w, 0, shade(wall, 0.84))
    with p.part("roof"):
        p.poly([(-w - 0.12, -0.54), (-w + 0.2, -0.96), (w - 0.18, -0.96), (w + 0.12, -0.54)], roof)
        p.poly([(0.12, -0.54), (0.16, -0.96), (w - 0.18, -0.96), (w + 0.12, -0.54)], shade(roof, 0.8))
    glass = GLOW if k.lit else k.fixed((92, 128, 162))
    frame = k.fixed((84, 54, 42))
    with p.part("windows"):
        for x in (-0.5, 0.28):
            p.rect(x - 0.025, -0.445, x + 0.235, -0.185, frame)
            p.rect(x, -0.42, x + 0.21, -0.21, glass)
            p.line([(x + 0.105, -0.42), (x + 0.105, -0.21)], 0.03, frame)
    with p.part("doors"):
        p.rect(-0.15, -0.4, 0.08, 0, k.fixed((88, 54, 38)), 0.03)


def tent(p: Pen, k: Look) -> None:
    k.form(_ridge_tent, _pole_tent)(p, k)


def _pole_tent(p: Pen, k: Look) -> None:
    """Round about one pole, its eaves hanging down."""
    cloth = k.dye((216, 132, 52))
    p.poly([(-0.62, 0), (-0.66, -0.42), (0.66, -0.42), (0.62, 0)], shade(cloth, 0.9))
    p.poly([(0.2, 0), (0.2, -0.42), (0.66, -0.42), (0.62, 0)], shade(cloth, 0.7))
    with p.part("doors"):
        p.poly([(-0.3, 0), (-0.06, -0.4), (0.12, 0)], GLOW if k.lit else shade(cloth, 0.36))
    with p.part("roof"):
        p.curve([(-0.8, -0.38), (-0.24, -0.6, 0, -0.98), (0.24, -0.6, 0.8, -0.38), (0, -0.5, -0.8, -0.38)], cloth)
        p.curve([(0.1, -0.42), (0.16, -0.66, 0, -0.98), (0.24, -0.6, 0.8, -0.38)], shade(cloth, 0.76))


def _ridge_tent(p: Pen, k: Look) -> None:
    cloth = k.dye((216, 132, 52))
    p.poly([(-0.9, 0), (-0.05, -1), (0.9, 0)], cloth)
    p.poly([(0.26, 0), (-0.05, -1), (0.9, 0)], shade(cloth, 0.74))
    with p.part("doors"):
        p.poly([(-0.34, 0), (-0.05, -0.74), (0.22, 0)], GLOW if k.lit else shade(cloth, 0.36))


def lighthouse(p: Pen, k: Look) -> None:
    k.form(_striped_lighthouse, _stout_lighthouse)(p, k)


def _stout_lighthouse(p: Pen, k: Look) -> None:
    """Of one colour under a broad gallery and a round cap."""
    wall, iron = k.dye((236, 230, 216)), k.fixed((84, 62, 58))
    p.curve([(-0.2, 0), (-0.12, -0.3, -0.12, -0.7), (0.12, -0.7), (0.12, -0.3, 0.2, 0)], wall)
    p.curve([(0.04, 0), (0.05, -0.3, 0.04, -0.7), (0.12, -0.7), (0.12, -0.3, 0.2, 0)], shade(wall, 0.82))
    if k.lit:
        p.glow(0, -0.8, 0.34, GLOW, 0.55)
    p.rect(-0.11, -0.88, 0.11, -0.72, (255, 228, 150) if k.lit else k.fixed((166, 200, 214)))
    p.line([(0, -0.72), (0, -0.88)], 0.025, iron)
    p.rect(-0.18, -0.74, 0.18, -0.69, iron)
    with p.part("roof"):
        p.curve([(-0.15, -0.87), (-0.12, -1.02, 0, -1.0), (0.12, -1.02, 0.15, -0.87)], k.contrast((176, 58, 50), (176, 58, 50)))
    for y in (-0.56, -0.34):
        _window(p, k, -0.04, y, 0.08, 0.1)
    with p.part("doors"):
        p.blob([(-0.07, 0), (-0.07, -0.1), (0, -0.16), (0.07, -0.1), (0.07, 0)], k.fixed((88, 58, 44)))


def _striped_lighthouse(p: Pen, k: Look) -> None:
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
    with p.part("roof"):
        p.poly([(-0.12, -0.88), (0, -1), (0.12, -0.88)], k.fixed((70, 58, 62)))


def _window(p: Pen, k: Look, x: float, y: float, w: float, h: float) -> None:
    with p.part("windows"):
        p.rect(x - 0.02, y - 0.02, x + w + 0.02, y + h + 0.02, k.fixed((84, 58, 46)))
        p.rect(x, y, x + w, y + h, GLOW if k.lit else k.fixed((96, 132, 164)))


def town_house(p: Pen, k: Look) -> None:
    wall, roof = k.dye((222, 190, 150)), k.fixed(((150, 72, 54), (92, 88, 104), (124, 92, 70))[int(k.r[1] * 2.99)])
    p.rect(-0.34, -0.74, 0.34, 0, wall)
    p.rect(0.12, -0.74, 0.34, 0, shade(wall, 0.86))
    if k.r[2] < 0.5:
        p.poly([(-0.4, -0.72), (0, -1), (0.4, -0.72)], roof)
    else:
        p.poly(
            [
                (-0.34, -0.7),
                (-0.34, -0.8),
                (-0.22, -0.8),
                (-0.22, -0.89),
                (-0.1, -0.89),
                (-0.1, -1),
                (0.1, -1),
                (0.1, -0.89),
                (0.22, -0.89),
                (0.22, -0.8),
                (0.34, -0.8),
                (0.34, -0.7),
            ],
            wall,
        )
        p.poly([(-0.12, -0.74), (0.12, -0.74), (0.12, -0.9), (-0.12, -0.9)], shade(wall, 0.9))
    for y in (-0.64, -0.4):
        for x in (-0.25, 0.09):
            _window(p, k, x, y, 0.15, 0.15)
    with p.part("doors"):
        p.rect(-0.26, -0.2, -0.06, 0, k.fixed((92, 60, 48)), 0.02)
    _window(p, k, 0.04, -0.2, 0.22, 0.12)


def church(p: Pen, k: Look) -> None:
    k.form(_spired_church, _domed_church)(p, k)


def _domed_church(p: Pen, k: Look) -> None:
    """Its gable towards the eye, a tower with a bulb of copper in the middle."""
    wall, copper, roof = k.dye((240, 226, 190)), k.fixed((92, 148, 132)), k.fixed((120, 70, 58))
    p.rect(-0.5, -0.36, 0.5, 0, wall)
    p.rect(0.18, -0.36, 0.5, 0, shade(wall, 0.84))
    with p.part("roof"):
        p.poly([(-0.6, -0.34), (-0.36, -0.54), (0.36, -0.54), (0.6, -0.34)], roof)
    p.rect(-0.16, -0.72, 0.16, 0, shade(wall, 1.03))
    p.rect(0.06, -0.72, 0.16, 0, shade(wall, 0.86))
    with p.part("roof"):
        p.curve(
            [(-0.16, -0.7), (-0.28, -0.82, -0.1, -0.88), (-0.03, -0.92, 0, -1.0), (0.03, -0.92, 0.1, -0.88), (0.28, -0.82, 0.16, -0.7)],
            copper,
        )
    p.dot(0, -0.56, 0.065, k.fixed((246, 240, 224)))
    with p.part("windows"):
        for x in (-0.4, 0.28):
            p.blob(
                [(x, -0.1), (x, -0.22), (x + 0.06, -0.29), (x + 0.12, -0.22), (x + 0.12, -0.1)], GLOW if k.lit else k.fixed((88, 110, 146))
            )
    with p.part("doors"):
        p.blob([(-0.08, 0.0), (-0.08, -0.18), (0, -0.26), (0.08, -0.18), (0.08, 0.0)], k.fixed((88, 58, 44)))


def _spired_church(p: Pen, k: Look) -> None:
    wall, roof = k.dye((236, 228, 212)), k.fixed((120, 70, 58))
    p.rect(-0.1, -0.36, 0.6, 0, wall)
    with p.part("roof"):
        p.poly([(-0.14, -0.34), (0.0, -0.56), (0.52, -0.56), (0.66, -0.34)], roof)
    p.rect(-0.42, -0.6, -0.1, 0, shade(wall, 1.02))
    p.rect(-0.22, -0.6, -0.1, 0, shade(wall, 0.84))
    with p.part("roof"):
        p.poly([(-0.46, -0.58), (-0.26, -0.97), (-0.06, -0.58)], shade(roof, 0.84))
    p.line([(-0.26, -0.95), (-0.26, -1.02)], 0.022, k.fixed((200, 170, 90)))
    with p.part("windows"):
        for x in (0.02, 0.22, 0.42):
            p.blob(
                [(x, -0.08), (x, -0.2), (x + 0.05, -0.27), (x + 0.1, -0.2), (x + 0.1, -0.08)], GLOW if k.lit else k.fixed((88, 110, 146))
            )
    p.dot(-0.26, -0.46, 0.065, k.fixed((246, 240, 224)))
    with p.part("doors"):
        p.blob([(-0.34, 0.0), (-0.34, -0.16), (-0.26, -0.24), (-0.18, -0.16), (-0.18, 0.0)], k.fixed((88, 58, 44)))


def barn(p: Pen, k: Look) -> None:
    k.form(_broken_roofed_barn, _long_barn)(p, k)


def _long_barn(p: Pen, k: Look) -> None:
    """Its long side towards the eye, with a high gate and a round store beside it."""
    wall, roof = k.dye((166, 60, 50)), k.fixed((96, 88, 92))
    p.rect(0.5, -0.9, 0.76, 0, k.fixed((190, 190, 192)))
    p.rect(0.64, -0.9, 0.76, 0, k.fixed((150, 150, 154)))
    with p.part("roof"):
        p.blob([(0.48, -0.88), (0.56, -1.0), (0.7, -1.0), (0.78, -0.88)], roof)
    p.rect(-0.72, -0.52, 0.5, 0, wall)
    p.rect(0.24, -0.52, 0.5, 0, shade(wall, 0.82))
    with p.part("roof"):
        p.poly([(-0.78, -0.48), (-0.6, -0.86), (0.38, -0.86), (0.56, -0.48)], roof)
    trim = k.contrast((240, 232, 218), (120, 84, 66))
    with p.part("doors"):
        p.rect(-0.3, -0.4, 0.08, 0, shade(wall, 0.6))
        p.line([(-0.3, 0), (-0.3, -0.4), (0.08, -0.4), (0.08, 0)], 0.05, trim)
        p.line([(-0.11, 0), (-0.11, -0.4)], 0.04, trim)
    with p.part("windows"):
        for x in (-0.62, 0.24):
            p.rect(x, -0.36, x + 0.16, -0.2, GLOW if k.lit else k.fixed((70, 52, 48)))


def _broken_roofed_barn(p: Pen, k: Look) -> None:
    wall, roof = k.dye((166, 60, 50)), k.fixed((96, 88, 92))
    p.poly([(-0.7, 0), (-0.7, -0.5), (-0.5, -0.82), (0, -1), (0.5, -0.82), (0.7, -0.5), (0.7, 0)], wall)
    p.poly([(0.3, 0), (0.3, -0.9), (0.5, -0.82), (0.7, -0.5), (0.7, 0)], shade(wall, 0.82))
    with p.part("roof"):
        for s in (-1, 1):
            p.line([(s * 0.76, -0.46), (s * 0.52, -0.84), (0, -1.02)], 0.08, roof)
    trim = k.contrast((240, 232, 218), (120, 84, 66))
    with p.part("doors"):
        p.rect(-0.3, -0.46, 0.3, 0, shade(wall, 0.62))
        for a, b in (((-0.3, -0.46), (0.3, 0)), ((0.3, -0.46), (-0.3, 0))):
            p.line([a, b], 0.05, trim)
        p.line([(-0.3, 0), (-0.3, -0.46), (0.3, -0.46), (0.3, 0)], 0.06, trim)
    with p.part("windows"):
        p.rect(-0.12, -0.78, 0.12, -0.58, GLOW if k.lit else k.fixed((70, 52, 48)))


def windmill(p: Pen, k: Look) -> None:
    k.form(_tower_mill, _post_mill)(p, k)


def _sails(p: Pen, k: Look, y: float) -> None:
    turn, sail = 0.35 + k.r[3], k.fixed((246, 238, 220))
    with p.part("sail"):
        for i in range(4):
            a = turn + i * math.pi / 2
            dx, dy = math.cos(a), math.sin(a)
            p.poly(
                [
                    (dx * 0.1 - dy * 0.01, y + dy * 0.1 + dx * 0.01),
                    (dx * 0.38, y + dy * 0.38),
                    (dx * 0.38 - dy * 0.1, y + dy * 0.38 + dx * 0.1),
                    (dx * 0.1 - dy * 0.1, y + dy * 0.1 + dx * 0.1),
                ],
                sail,
            )
            p.line([(0, y), (dx * 0.38, y + dy * 0.38)], 0.028, k.fixed((110, 80, 60)))
        p.dot(0, y, 0.035, k.fixed((80, 56, 46)))


def _post_mill(p: Pen, k: Look) -> None:
    """A wooden house on a trestle."""
    wall, wood = k.dye((232, 222, 202)), k.fixed((112, 78, 60))
    for x in (-0.18, 0.18):
        p.line([(x, 0), (0, -0.26)], 0.05, wood)
    p.line([(0, 0), (0, -0.3)], 0.06, wood)
    p.rect(-0.18, -0.72, 0.18, -0.24, wall)
    p.rect(0.06, -0.72, 0.18, -0.24, shade(wall, 0.82))
    with p.part("roof"):
        p.poly([(-0.22, -0.7), (0, -0.88), (0.22, -0.7)], wood)
    with p.part("doors"):
        p.rect(-0.06, -0.4, 0.06, -0.24, k.fixed((92, 62, 48)))
    _sails(p, k, -0.6)


def _tower_mill(p: Pen, k: Look) -> None:
    wall, cap = k.dye((232, 222, 202)), k.fixed((112, 78, 60))
    p.poly([(-0.2, 0), (0.2, 0), (0.12, -0.6), (-0.12, -0.6)], wall)
    p.poly([(0.06, 0), (0.2, 0), (0.12, -0.6), (0.05, -0.6)], shade(wall, 0.82))
    with p.part("roof"):
        p.blob([(-0.15, -0.58), (-0.08, -0.7), (0.08, -0.7), (0.15, -0.58)], cap)
    with p.part("doors"):
        p.rect(-0.06, -0.16, 0.06, 0, k.fixed((92, 62, 48)), 0.02)
    _window(p, k, -0.04, -0.42, 0.08, 0.09)
    _sails(p, k, -0.62)


def tower(p: Pen, k: Look) -> None:
    k.form(_square_tower, _round_tower)(p, k)


def _round_tower(p: Pen, k: Look) -> None:
    """Broad, under a pointed roof, ivy up one side."""
    stone, roof = k.dye((158, 152, 148)), k.fixed((86, 92, 116))
    p.rect(-0.22, -0.64, 0.22, 0, stone)
    p.rect(0.08, -0.64, 0.22, 0, shade(stone, 0.78))
    p.blob([(-0.24, 0), (-0.26, -0.2), (-0.2, -0.5), (-0.12, -0.3), (-0.1, 0)], k.fixed((84, 128, 66)))
    with p.part("roof"):
        p.curve([(-0.27, -0.6), (-0.1, -0.74, 0, -1.04), (0.1, -0.74, 0.27, -0.6)], roof)
        p.curve([(0.07, -0.6), (0.05, -0.8, 0, -1.04), (0.1, -0.74, 0.27, -0.6)], shade(roof, 0.76))
    with p.part("windows"):
        for x, y in ((-0.07, -0.52), (0.0, -0.32)):
            p.rect(x, y, x + 0.1, y + 0.13, GLOW if k.lit else k.fixed((56, 52, 60)), 0.05)
    with p.part("doors"):
        p.blob([(-0.09, 0), (-0.09, -0.12), (0, -0.19), (0.09, -0.12), (0.09, 0)], k.fixed((78, 54, 44)))


def _square_tower(p: Pen, k: Look) -> None:
    stone = k.dye((158, 152, 148))
    p.rect(-0.2, -0.74, 0.2, 0, stone)
    p.rect(0.05, -0.74, 0.2, 0, shade(stone, 0.8))
    p.rect(-0.26, -0.84, 0.26, -0.72, shade(stone, 1.06))
    for x in (-0.26, -0.06, 0.14):
        p.rect(x, -0.91, x + 0.12, -0.83, shade(stone, 1.06 if x < 0 else 0.86))
    if k.r[1] < 0.6:
        p.poly([(-0.2, -0.86), (0, -1.06), (0.2, -0.86)], k.fixed((146, 66, 56)))
    with p.part("windows"):
        for y in (-0.6, -0.34):
            p.rect(-0.05, y, 0.05, y + 0.14, GLOW if k.lit else k.fixed((56, 52, 60)), 0.05)
    with p.part("doors"):
        p.blob([(-0.1, 0), (-0.1, -0.12), (0, -0.2), (0.1, -0.12), (0.1, 0)], k.fixed((78, 54, 44)))


def well(p: Pen, k: Look) -> None:
    k.form(_roofed_well, _open_well)(p, k)


def _open_well(p: Pen, k: Look) -> None:
    """Round, without a roof: a bucket hangs from an iron bow."""
    stone, iron, bucket = k.fixed((150, 146, 144)), k.fixed((70, 66, 70)), k.dye((156, 74, 56))
    p.curve([(-0.36, -0.46), (-0.36, -1.0, 0, -1.0), (0.36, -1.0, 0.36, -0.46)], iron, width=0.05)
    p.line([(0, -0.98), (0, -0.74)], 0.03, k.fixed((190, 170, 130)))
    p.poly([(-0.13, -0.76), (0.13, -0.76), (0.1, -0.54), (-0.1, -0.54)], bucket)
    p.rect(-0.46, -0.48, 0.46, 0, stone, 0.06)
    p.rect(0.16, -0.48, 0.46, 0, shade(stone, 0.8), 0.06)
    p.oval(0, -0.47, 0.46, 0.07, shade(stone, 1.15))
    p.oval(0, -0.47, 0.34, 0.045, k.fixed((58, 60, 70)))
    for x, y in ((-0.4, -0.3), (-0.06, -0.32), (-0.24, -0.16), (0.12, -0.16)):
        p.rect(x, y, x + 0.2, y + 0.1, shade(stone, 1.12), 0.03)


def _roofed_well(p: Pen, k: Look) -> None:
    stone, roof = k.fixed((150, 146, 144)), k.dye((156, 74, 56))
    for s in (-1, 1):
        p.line([(s * 0.34, -0.3), (s * 0.34, -0.76)], 0.07, k.fixed(WOOD))
    p.line([(-0.34, -0.56), (0.34, -0.56)], 0.05, k.fixed(WOOD))
    p.line([(0.04, -0.56), (0.04, -0.4)], 0.03, k.fixed((190, 170, 130)))
    with p.part("roof"):
        p.poly([(-0.54, -0.7), (-0.2, -1), (0.2, -1), (0.54, -0.7)], roof)
    p.rect(-0.44, -0.4, 0.44, 0, stone, 0.05)
    p.rect(0.14, -0.4, 0.44, 0, shade(stone, 0.8), 0.05)
    for x, y in ((-0.4, -0.3), (-0.1, -0.3), (-0.26, -0.16), (0.04, -0.16)):
        p.rect(x, y, x + 0.2, y + 0.1, shade(stone, 1.15), 0.03)


def bridge(p: Pen, k: Look) -> None:
    k.form(_arched_bridge, _bridge_of_two)(p, k)


def _bridge_of_two(p: Pen, k: Look) -> None:
    """Level, on two arches."""
    stone = k.dye((166, 156, 146))
    p.curve(
        [
            (-1.5, 0),
            (-1.5, -0.86),
            (1.5, -0.86),
            (1.5, 0),
            (1.16, 0),
            (1.16, -0.6, 0.65, -0.6),
            (0.14, -0.6, 0.14, 0),
            (-0.14, 0),
            (-0.14, -0.6, -0.65, -0.6),
            (-1.16, -0.6, -1.16, 0),
        ],
        stone,
    )
    p.rect(-1.54, -0.98, 1.54, -0.84, shade(stone, 1.16))
    for x in (-0.65, 0.65):
        p.curve([(x - 0.51, 0), (x - 0.51, -0.6, x, -0.6), (x + 0.51, -0.6, x + 0.51, 0)], shade(stone, 0.7), width=0.07)


def _arched_bridge(p: Pen, k: Look) -> None:
    stone = k.dye((166, 156, 146))
    p.curve(
        [
            (-1.5, 0),
            (-1.5, -0.5),
            (-0.7, -0.92, 0, -0.92),
            (0.7, -0.92, 1.5, -0.5),
            (1.5, 0),
            (0.8, 0),
            (0.7, -0.58, 0, -0.58),
            (-0.7, -0.58, -0.8, 0),
        ],
        stone,
    )
    p.curve([(-1.5, -0.5), (-0.7, -0.92, 0, -0.92), (0.7, -0.92, 1.5, -0.5)], shade(stone, 1.16), width=0.13)
    p.curve([(-0.8, 0), (-0.7, -0.58, 0, -0.58), (0.7, -0.58, 0.8, 0)], shade(stone, 0.7), width=0.07)


BUILDINGS = (
    Thing("cottage", cottage, "land", 0.6, 0.72, PAINTED, lights=True, often=1.6),
    Thing("tent", tent, "land", 0.5, 0.9, PAINTED, lights=True),
    Thing("lighthouse", lighthouse, "shore", 0.98, 0.2, PAINTED, lights=True),
    Thing("town house", town_house, "street", 0.98, 0.4, PAINTED, lights=True, often=2.4),
    Thing("church", church, "land", 0.8, 0.62, lights=True),
    Thing("barn", barn, "land field", 0.62, 0.76, ("red", "brown", "white", "green", "blue"), lights=True),
    Thing("windmill", windmill, "field land", 0.96, 0.38, ("white", "red", "brown")),
    Thing("tower", tower, "land", 0.96, 0.26, ("grey", "beige"), lights=True),
    Thing("well", well, "land street", 0.46, 0.54, ("red", "brown", "green")),
    Thing("bridge", bridge, "water", 0.34, 1.5),
)
