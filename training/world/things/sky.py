"""What hangs in the sky."""

from __future__ import annotations

import numpy as np
import skia

from ..pen import Pen, mix, shade, times
from ..words import PAINTED
from .kit import Look, Thing, one_of


def moon(p: Pen, k: Look) -> None:
    p.glow(0, -0.5, 0.95, (246, 240, 214), 0.5)
    p.dot(0, -0.5, 0.5, (246, 241, 218))
    for x, y, r in [(-0.16, -0.6, 0.13), (0.17, -0.38, 0.15), (0.13, -0.76, 0.08)]:
        p.dot(x, y, r, (222, 214, 190))


def sun(p: Pen, k: Look) -> None:
    p.glow(0, -0.5, 1.05, (255, 226, 140), 0.6)
    p.dot(0, -0.5, 0.5, (255, 222, 112) if k.light.colour[2] > 0.8 else (255, 196, 96))


def cloud(p: Pen, k: Look) -> None:
    white = shade((252, 252, 254), 0.45 + 0.55 * float(np.mean(k.light.colour)))
    white = mix(white, times((252, 252, 254), k.light.colour), 0.5)
    puffs = k.form(
        ((-0.68, -0.3, 0.28, 0.93), (0.72, -0.28, 0.27, 0.92), (-0.24, -0.54, 0.42, 1.0), (0.32, -0.46, 0.38, 0.97)),
        ((-0.7, -0.24, 0.22, 0.92), (0.66, -0.32, 0.3, 0.94), (0.24, -0.56, 0.4, 1.0), (-0.3, -0.4, 0.34, 0.96)),
        (
            (-0.74, -0.22, 0.2, 0.92),
            (0.76, -0.22, 0.2, 0.92),
            (-0.4, -0.38, 0.28, 0.97),
            (0.06, -0.46, 0.32, 1.0),
            (0.44, -0.36, 0.26, 0.96),
        ),
    )
    for x, y, r, f in puffs:
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


def crescent_moon(p: Pen, k: Look) -> None:
    disc, cut = skia.Path(), skia.Path()
    disc.addCircle(0, -0.5, 0.5)
    cut.addCircle(-0.3, -0.58, 0.46)
    p.canvas.drawPath(skia.Op(disc, cut, skia.PathOp.kDifference_PathOp), p.paint((248, 243, 216)))


def kite(p: Pen, k: Look) -> None:
    c = k.dye((206, 60, 54))
    p.curve([(0, -0.42), (0.3, -0.3, 0.12, -0.16), (0.0, -0.08, 0.24, 0)], k.fixed((90, 84, 90)), width=0.03)
    p.poly([(0, -1), (0.34, -0.74), (0, -0.36), (-0.34, -0.74)], c)
    p.poly([(0, -1), (0.34, -0.74), (0, -0.36)], shade(c, 0.8))
    p.poly([(-0.34, -0.74), (0, -0.68), (0.34, -0.74), (0, -0.8)], k.contrast((248, 232, 170), (220, 120, 80)))
    for x, y in ((0.16, -0.22), (0.14, -0.08)):
        p.poly([(x - 0.1, y - 0.04), (x + 0.1, y + 0.05), (x + 0.1, y - 0.05), (x - 0.1, y + 0.04)], shade(c, 0.9))


def rainbow(p: Pen, k: Look) -> None:
    for i, c in enumerate(((214, 66, 60), (236, 146, 60), (244, 214, 90), (96, 170, 100), (76, 120, 206), (140, 92, 176))):
        r = 0.96 - 0.075 * i
        p.curve([(-r, 0), (-r, -r * 0.55, -r * 0.55, -r, 0, -r), (r * 0.55, -r, r, -r * 0.55, r, 0)], k.fixed(c), 0.8, 0.08)


def airship(p: Pen, k: Look) -> None:
    c = k.dye((190, 186, 180))
    for s in (-1, 1):
        p.poly([(-0.8, -0.6), (-1.16, -0.6 + s * 0.34), (-1.16, -0.6 + s * 0.12)], shade(c, 0.7))
    p.blob([(-1.06, -0.6), (-0.7, -0.86), (0, -0.98), (0.7, -0.88), (1.1, -0.6), (0.7, -0.34), (0, -0.24), (-0.7, -0.34)], c)
    p.blob([(-0.9, -0.5), (0, -0.48), (1.0, -0.52), (0.7, -0.34), (0, -0.24), (-0.7, -0.34)], shade(c, 0.78))
    p.rect(-0.26, -0.24, 0.3, -0.02, k.fixed((112, 78, 58)), 0.06)
    for x in (-0.16, 0.02, 0.18):
        p.rect(x, -0.19, x + 0.09, -0.1, (255, 226, 146))


def bird(p: Pen, k: Look) -> None:
    c = k.dye((240, 240, 240))
    up = not k.is_("posture", "wings down")
    tip = (-0.5, -1.0) if up else (-0.4, -0.06)
    far = (0.06, -0.98) if up else (0.1, -0.14)
    with p.part("wings"):
        p.blob([(0.2, -0.6), (0.1, (-0.6 + far[1]) / 2), far, (-0.16, (-0.5 + far[1]) / 2), (-0.06, -0.54)], shade(c, 0.74))
    p.blob([(-0.72, -0.56), (-0.2, -0.68), (0.3, -0.7), (0.5, -0.6), (0.24, -0.44), (-0.2, -0.44)], c)
    with p.part("tail"):
        p.poly([(-0.5, -0.56), (-0.86, -0.68), (-0.82, -0.46)], shade(c, 0.86))
    with p.part("wings"):
        p.blob([(0.14, -0.62), (-0.1, (-0.7 + tip[1]) / 2), tip, (-0.4, (-0.5 + tip[1]) / 2), (-0.2, -0.52)], shade(c, 0.92))
    p.poly([(0.46, -0.65), (0.72, -0.56), (0.44, -0.52)], k.fixed((236, 170, 70)))
    with p.part("eyes"):
        p.dot(0.36, -0.62, 0.045, (30, 25, 32))


SKY_THINGS = (
    Thing("moon", moon, "sky", 0.26, 0.5),
    Thing("crescent moon", crescent_moon, "sky", 0.3, 0.5, faces=True),
    Thing("sun", sun, "sky", 0.26, 0.5),
    Thing("cloud", cloud, "sky", 0.22, 0.95),
    Thing("balloon", balloon, "sky", 0.48, 0.45, PAINTED),
    Thing("kite", kite, "sky", 0.36, 0.36, PAINTED),
    Thing("rainbow", rainbow, "sky", 0.5, 1.0, flat=True),
    Thing("airship", airship, "sky", 0.26, 1.15, ("grey", "red", "blue", "white", "yellow"), faces=True),
    Thing(
        "bird", bird, "sky", 0.2, 0.7, ("white", "black", "blue", "red", "yellow"), faces=True, traits=one_of("posture", "", "wings down")
    ),
)
