"""Boats and vehicles."""

from __future__ import annotations

import math

from ..pen import Pen, shade
from ..words import PAINTED
from .kit import GLOW, INK, Look, Thing


def sailing_boat(p: Pen, k: Look) -> None:
    sail = k.dye((242, 238, 226))
    with p.part("mast"):
        p.rect(-0.025, -1.0, 0.025, -0.15, k.fixed((88, 64, 46)))
    with p.part("sail"):
        main, fore = k.form(
            (((0.05, -0.96), (0.34, -0.6, 0.48, -0.26), (0.05, -0.24)), ((-0.05, -0.9), (-0.3, -0.5, -0.38, -0.26), (-0.05, -0.24))),
            (((0.05, -0.98), (0.5, -0.92), (0.56, -0.3), (0.05, -0.24)), ((-0.05, -0.86), (-0.2, -0.5, -0.44, -0.26), (-0.05, -0.24))),
            (((-0.34, -0.92), (0.34, -0.92), (0.46, -0.5, 0.38, -0.3), (0.0, -0.22, -0.38, -0.3), (-0.46, -0.5, -0.34, -0.92)), ()),
        )
        p.curve(main, sail)
        if fore:
            p.curve(fore, shade(sail, 0.82))
    p.curve([(-0.5, -0.2), (0.56, -0.2), (0.46, 0, 0.3, 0), (-0.34, 0), (-0.46, -0.04, -0.5, -0.2)], k.fixed((122, 76, 48)))


def rowing_boat(p: Pen, k: Look) -> None:
    hull, oar = k.dye((130, 82, 50)), k.fixed((226, 196, 146))
    p.limb([(-0.2, -0.56), (-0.9, -1.0)], [0.09, 0.12], shade(oar, 0.86))
    p.curve([(-1.15, -0.66), (0, -0.42, 1.15, -0.66), (1.0, -0.1, 0.62, 0), (-0.62, 0), (-1.0, -0.1, -1.15, -0.66)], hull)
    p.curve([(-1.15, -0.66), (0, -0.42, 1.15, -0.66), (0, -0.16, -1.15, -0.66)], shade(hull, 0.5))
    p.limb([(-0.3, -0.5), (0.3, -0.5)], [0.09, 0.09], shade(oar, 0.8))
    p.limb([(0.2, -0.5), (0.9, -0.06)], [0.09, 0.13], oar)


def steamship(p: Pen, k: Look) -> None:
    k.form(_liner, _tug)(p, k)


def _tug(p: Pen, k: Look) -> None:
    """Short and high, its bridge before the funnel."""
    hull = k.dye((60, 66, 84))
    for x, y, r in ((-0.3, -1.0, 0.1), (-0.44, -1.06, 0.13)):
        p.dot(x, y, r, k.fixed((206, 206, 208)), 0.7)
    p.rect(-0.36, -0.94, -0.14, -0.4, k.contrast((206, 70, 54), (206, 70, 54)))
    p.rect(-0.36, -0.94, -0.14, -0.84, k.fixed((50, 48, 52)))
    p.rect(-0.5, -0.56, 0.52, -0.34, k.fixed((246, 240, 228)))
    p.rect(0.04, -0.84, 0.44, -0.54, k.fixed((240, 232, 216)), 0.03)
    with p.part("windows"):
        for x in (0.08, 0.27):
            p.rect(x, -0.78, x + 0.14, -0.62, GLOW if k.lit else k.fixed((84, 110, 140)), 0.02)
        for x in (-0.36, 0.0, 0.3):
            p.dot(x, -0.45, 0.05, GLOW if k.lit else k.fixed((84, 110, 140)))
    p.rect(0.2, -0.98, 0.24, -0.84, k.fixed((70, 62, 60)))
    p.curve([(-0.9, -0.36), (0.5, -0.32), (0.9, -0.36, 1.06, -0.52), (1.0, -0.1, 0.84, 0), (-0.8, 0)], hull)
    p.poly([(-0.86, -0.14), (0.95, -0.14), (0.84, 0), (-0.8, 0)], shade(k.fixed((166, 62, 54)), 0.9))


def _liner(p: Pen, k: Look) -> None:
    hull = k.dye((60, 66, 84))
    for x, y, r in ((0.1, -0.98, 0.1), (0.0, -1.06, 0.13), (-0.16, -1.1, 0.16)):
        p.dot(x, y, r, k.fixed((206, 206, 208)), 0.7)
    p.rect(0.0, -0.92, 0.2, -0.5, k.contrast((206, 70, 54), (206, 70, 54)))
    p.rect(0.0, -0.92, 0.2, -0.82, k.fixed((50, 48, 52)))
    p.rect(-0.56, -0.58, 0.5, -0.32, k.fixed((246, 240, 228)))
    p.rect(-0.4, -0.72, 0.0, -0.56, k.fixed((240, 232, 216)))
    with p.part("windows"):
        for i in range(5):
            p.dot(-0.44 + 0.2 * i, -0.45, 0.055, GLOW if k.lit else k.fixed((84, 110, 140)))
    p.poly([(-1.0, -0.36), (1.1, -0.4), (0.9, 0), (-0.82, 0)], hull)
    p.poly([(-0.9, -0.14), (0.97, -0.14), (0.9, 0), (-0.82, 0)], shade(k.fixed((166, 62, 54)), 0.9))


def _wheel(p: Pen, k: Look, x: float, y: float, r: float) -> None:
    with p.part("wheels"):
        p.dot(x, y, r, k.fixed((46, 44, 48)))
        p.dot(x, y, r * 0.5, k.fixed((196, 196, 192)))


def car(p: Pen, k: Look) -> None:
    k.form(_rounded_car, _estate_car, _old_car)(p, k)


def _estate_car(p: Pen, k: Look) -> None:
    """Its roof goes straight to the back."""
    body, glass = k.dye((200, 60, 52)), k.fixed((176, 208, 222))
    p.poly([(-0.98, -0.5), (-0.9, -0.98), (0.22, -0.98), (0.6, -0.5)], shade(body, 0.94))
    with p.part("windows"):
        p.poly([(-0.88, -0.56), (-0.82, -0.88), (-0.46, -0.88), (-0.46, -0.56)], glass)
        p.poly([(-0.38, -0.56), (-0.38, -0.88), (-0.04, -0.88), (-0.04, -0.56)], glass)
        p.poly([(0.04, -0.56), (0.04, -0.88), (0.18, -0.88), (0.44, -0.56)], glass)
    p.rect(-1.05, -0.56, 1.05, -0.14, body, 0.09)
    p.rect(-1.05, -0.26, 1.05, -0.13, shade(body, 0.72), 0.05)
    for x in (-0.62, 0.62):
        _wheel(p, k, x, -0.18, 0.2)
    p.dot(0.96, -0.4, 0.075, (255, 240, 180) if k.lit else k.fixed((240, 234, 206)))


def _old_car(p: Pen, k: Look) -> None:
    """A high cabin behind a long bonnet, the wheels under wings."""
    body, glass, dark = k.dye((200, 60, 52)), k.fixed((176, 208, 222)), k.fixed((52, 48, 52))
    p.rect(-0.72, -1.0, 0.2, -0.3, shade(body, 0.94), 0.1)
    with p.part("windows"):
        for x in (-0.62, -0.2):
            p.rect(x, -0.9, x + 0.32, -0.6, glass, 0.04)
    p.rect(0.1, -0.62, 0.88, -0.3, body, 0.12)
    p.rect(0.84, -0.6, 0.94, -0.26, k.fixed((206, 206, 204)), 0.03)
    p.rect(-0.8, -0.34, 0.96, -0.2, shade(body, 0.7), 0.04)
    for x in (-0.6, 0.62):
        p.curve([(x - 0.4, -0.2), (x - 0.34, -0.56, x, -0.54), (x + 0.34, -0.56, x + 0.4, -0.2)], dark)
        _wheel(p, k, x, -0.2, 0.22)
    p.dot(0.98, -0.5, 0.07, (255, 240, 180) if k.lit else k.fixed((240, 234, 206)))


def _rounded_car(p: Pen, k: Look) -> None:
    body = k.dye((200, 60, 52))
    p.blob([(-0.62, -0.5), (-0.42, -0.94), (-0.1, -1.0), (0.3, -0.96), (0.62, -0.52)], shade(body, 0.94))
    glass = k.fixed((176, 208, 222))
    with p.part("windows"):
        p.poly([(-0.44, -0.56), (-0.32, -0.86), (-0.04, -0.88), (-0.04, -0.56)], glass)
        p.poly([(0.04, -0.56), (0.04, -0.88), (0.26, -0.86), (0.46, -0.56)], glass)
    p.blob([(-1.05, -0.2), (-1.02, -0.5), (-0.6, -0.58), (0.6, -0.58), (1.0, -0.46), (1.08, -0.2), (0.9, -0.12), (-0.9, -0.12)], body)
    p.rect(-1.02, -0.24, 1.06, -0.13, shade(body, 0.72), 0.04)
    for x in (-0.6, 0.62):
        _wheel(p, k, x, -0.18, 0.2)
    p.dot(0.98, -0.38, 0.075, (255, 240, 180) if k.lit else k.fixed((240, 234, 206)))


def bus(p: Pen, k: Look) -> None:
    k.form(_long_bus, _bonneted_bus)(p, k)


def _bonneted_bus(p: Pen, k: Look) -> None:
    """Its engine before it, under a bonnet."""
    body = k.dye((222, 168, 52))
    p.rect(-1.1, -1.0, 0.66, -0.16, body, 0.16)
    p.rect(0.5, -0.56, 1.1, -0.16, shade(body, 0.94), 0.12)
    with p.part("windows"):
        for x in (-1.0, -0.6, -0.2, 0.2):
            p.rect(x, -0.86, x + 0.32, -0.54, GLOW if k.lit else k.fixed((170, 204, 220)), 0.05)
    p.rect(-1.1, -0.42, 1.08, -0.34, k.contrast((246, 238, 224), (190, 70, 60)))
    p.rect(-1.1, -0.26, 1.1, -0.13, shade(body, 0.7), 0.05)
    for x in (-0.66, 0.72):
        _wheel(p, k, x, -0.2, 0.2)
    p.dot(1.04, -0.44, 0.06, (255, 240, 180) if k.lit else k.fixed((240, 234, 206)))


def _long_bus(p: Pen, k: Look) -> None:
    body = k.dye((222, 168, 52))
    p.rect(-1.1, -1.0, 1.1, -0.14, body, 0.1)
    p.rect(-1.1, -0.46, 1.1, -0.36, k.contrast((246, 238, 224), (190, 70, 60)))
    with p.part("windows"):
        for i in range(4):
            x = -1.0 + 0.5 * i
            p.rect(x, -0.9, x + 0.4, -0.54, GLOW if k.lit else k.fixed((170, 204, 220)), 0.05)
    p.rect(-1.08, -0.24, 1.08, -0.12, shade(body, 0.7), 0.05)
    for x in (-0.64, 0.64):
        _wheel(p, k, x, -0.18, 0.19)


def bicycle(p: Pen, k: Look) -> None:
    frame = k.dye((62, 108, 196))
    with p.part("wheels"):
        for x in (-0.52, 0.52):
            p.curve(
                [(x - 0.36, -0.38), (x - 0.36, -0.86, x + 0.36, -0.86, x + 0.36, -0.38), (x + 0.36, 0.08, x - 0.36, 0.08, x - 0.36, -0.38)],
                k.fixed((52, 48, 50)),
                width=0.085,
            )
            p.dot(x, -0.38, 0.06, k.fixed((150, 150, 150)))
    p.line([(-0.52, -0.38), (-0.2, -0.8), (0.36, -0.82), (-0.02, -0.36), (-0.52, -0.38)], 0.085, frame)
    p.line([(-0.02, -0.36), (-0.24, -0.9)], 0.08, frame)
    p.line([(0.52, -0.38), (0.34, -0.98)], 0.08, frame)
    p.rect(-0.38, -0.96, -0.1, -0.88, k.fixed((60, 46, 40)), 0.04)
    p.line([(0.22, -1.0), (0.44, -1.0)], 0.07, k.fixed((60, 46, 40)))


def tractor(p: Pen, k: Look) -> None:
    k.form(_cabin_tractor, _open_tractor)(p, k)


def _open_tractor(p: Pen, k: Look) -> None:
    """With a seat in the open and a tall exhaust."""
    body, iron = k.dye((190, 56, 46)), k.fixed((60, 58, 60))
    p.rect(0.3, -1.0, 0.38, -0.56, iron)
    p.line([(0.02, -0.56), (-0.08, -0.86)], 0.05, iron)
    p.line([(-0.18, -0.84), (0.02, -0.9)], 0.06, iron)
    p.curve([(-0.56, -0.92), (-0.5, -0.6, -0.2, -0.62), (-0.2, -0.54), (-0.5, -0.54)], iron)
    p.rect(0.02, -0.66, 0.74, -0.28, body, 0.1)
    p.rect(0.68, -0.62, 0.76, -0.3, k.fixed((206, 206, 204)), 0.03)
    p.rect(-0.5, -0.5, 0.2, -0.3, shade(body, 0.8))
    for x, r in ((-0.36, 0.4), (0.56, 0.22)):
        _wheel(p, k, x, -r, r)
    p.curve([(-0.78, -0.5), (-0.7, -0.88, -0.36, -0.88), (-0.06, -0.88, 0.02, -0.58)], body, width=0.09)


def _cabin_tractor(p: Pen, k: Look) -> None:
    body = k.dye((190, 56, 46))
    p.rect(0.26, -0.98, 0.34, -0.6, k.fixed((60, 58, 60)))
    p.rect(-0.46, -1.0, 0.06, -0.4, shade(body, 0.9), 0.04)
    with p.part("windows"):
        p.rect(-0.38, -0.92, -0.02, -0.62, k.fixed((180, 210, 222)))
    p.rect(-0.5, -0.62, 0.72, -0.24, body, 0.06)
    for x, r in ((-0.36, 0.4), (0.56, 0.24)):
        _wheel(p, k, x, -r, r)


def cart(p: Pen, k: Look) -> None:
    wood = k.dye((160, 112, 70))
    p.blob([(-0.66, -0.66), (-0.4, -0.98), (0, -1.04), (0.4, -0.98), (0.66, -0.66)], k.fixed((226, 188, 96)))
    p.poly([(-0.8, -0.72), (0.8, -0.72), (0.66, -0.34), (-0.66, -0.34)], wood)
    p.line([(-0.74, -0.54), (0.74, -0.54)], 0.035, shade(wood, 0.7))
    p.limb([(0.66, -0.44), (1.1, -0.3)], [0.07, 0.06], shade(wood, 0.8))
    with p.part("wheels"):
        p.dot(-0.1, -0.3, 0.3, k.fixed((96, 66, 44)))
        p.dot(-0.1, -0.3, 0.22, shade(wood, 1.1))
        for a in range(4):
            dx, dy = 0.25 * math.cos(a * math.pi / 4), 0.25 * math.sin(a * math.pi / 4)
            p.line([(-0.1 - dx, -0.3 - dy), (-0.1 + dx, -0.3 + dy)], 0.04, k.fixed((96, 66, 44)))


def train(p: Pen, k: Look) -> None:
    k.form(_steam_train, _rail_car)(p, k)


def _rail_car(p: Pen, k: Look) -> None:
    """One long car with a slanting nose."""
    body, glass = k.dye((60, 120, 84)), GLOW if k.lit else k.fixed((176, 206, 220))
    p.curve([(-1.14, -0.92), (0.72, -0.92), (1.02, -0.86, 1.16, -0.3), (1.16, -0.16), (-1.14, -0.16)], body)
    with p.part("roof"):
        p.rect(-1.1, -1.0, 0.76, -0.88, shade(body, 0.66), 0.06)
    p.rect(-1.14, -0.42, 1.13, -0.34, k.contrast((244, 232, 200), (190, 70, 60)))
    with p.part("windows"):
        for x in (-1.02, -0.66, -0.02, 0.34):
            p.rect(x, -0.78, x + 0.28, -0.52, glass, 0.04)
        p.poly([(0.74, -0.78), (0.9, -0.76), (1.04, -0.5), (0.74, -0.5)], glass)
    with p.part("doors"):
        p.rect(-0.32, -0.8, -0.08, -0.18, shade(body, 0.74), 0.03)
    with p.part("wheels"):
        for x in (-0.84, -0.54, 0.5, 0.8):
            p.dot(x, -0.13, 0.13, INK)
            p.dot(x, -0.13, 0.05, k.fixed((170, 168, 166)))
    p.dot(1.08, -0.26, 0.05, (255, 240, 180))


def _steam_train(p: Pen, k: Look) -> None:
    body = k.dye((60, 120, 84))
    for x, y, r in ((0.76, -1.02, 0.1), (0.62, -1.1, 0.13)):
        p.dot(x, y, r, k.fixed((214, 214, 214)), 0.7)
    p.rect(0.7, -0.94, 0.86, -0.5, k.fixed((52, 50, 54)))
    p.rect(-0.9, -0.98, -0.2, -0.2, body, 0.03)
    with p.part("roof"):
        p.rect(-0.98, -1.04, -0.12, -0.94, shade(body, 0.7))
    with p.part("windows"):
        p.rect(-0.74, -0.84, -0.38, -0.56, GLOW if k.lit else k.fixed((176, 206, 220)))
    p.rect(-0.26, -0.66, 0.98, -0.24, shade(body, 1.06), 0.14)
    p.rect(0.2, -0.68, 0.28, -0.24, k.fixed((214, 176, 84)))
    p.poly([(0.9, -0.22), (1.24, -0.02), (0.9, -0.02)], k.fixed((150, 60, 50)))
    with p.part("wheels"):
        for x, r in ((-0.62, 0.2), (-0.14, 0.2), (0.34, 0.2), (0.76, 0.16)):
            p.dot(x, -r, r, k.fixed((150, 52, 46)))
            p.dot(x, -r, r * 0.4, INK)


VEHICLES = (
    Thing("rowing boat", rowing_boat, "water shore", 0.34, 1.15, PAINTED),
    Thing("sailing boat", sailing_boat, "water", 0.8, 0.5, PAINTED, often=1.3),
    Thing("steamship", steamship, "water", 0.5, 1.1, ("black", "blue", "red", "green", "white"), faces=True, lights=True),
    Thing("car", car, "street land", 0.36, 1.06, PAINTED, faces=True, lights=True, often=1.3),
    Thing("bus", bus, "street", 0.52, 1.1, PAINTED, lights=True),
    Thing("bicycle", bicycle, "street land", 0.42, 0.88, PAINTED, faces=True),
    Thing("tractor", tractor, "field", 0.5, 0.8, ("red", "green", "blue", "yellow"), faces=True, often=1.2),
    Thing("cart", cart, "field land street", 0.44, 1.0, ("brown", "red", "green", "blue")),
    Thing("train", train, "field land", 0.44, 1.15, ("green", "red", "blue", "black"), faces=True, lights=True),
)
