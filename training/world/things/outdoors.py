"""Things that stand about outdoors."""

from __future__ import annotations

from ..pen import Pen, shade
from ..words import PAINTED
from .kit import GLOW, INK, WOOD, Look, Thing


def lantern(p: Pen, k: Look) -> None:
    k.form(_post_lantern, _globe_lantern)(p, k)


def _globe_lantern(p: Pen, k: Look) -> None:
    """Two globes on one post."""
    iron, glass = k.dye((62, 62, 70)), (255, 226, 146) if k.lit else k.fixed((222, 226, 216))
    p.rect(-0.035, -0.86, 0.035, 0, iron)
    p.rect(-0.11, -0.08, 0.11, 0, iron)
    p.curve([(-0.14, -0.72), (-0.14, -0.62, 0, -0.62), (0.14, -0.62, 0.14, -0.72)], iron, width=0.04)
    for x, y in ((-0.14, -0.8), (0.14, -0.8), (0.0, -0.91)):
        if k.lit:
            p.glow(x, y, 0.3, GLOW, 0.5)
        p.dot(x, y, 0.085, glass)
        p.rect(x - 0.05, y + 0.07, x + 0.05, y + 0.1, iron)


def _post_lantern(p: Pen, k: Look) -> None:
    iron = k.dye((62, 62, 70))
    if k.lit:
        p.glow(0, -0.8, 0.42, GLOW, 0.6)
    p.rect(-0.035, -0.68, 0.035, 0, iron)
    p.rect(-0.12, -0.06, 0.12, 0, iron)
    p.poly([(-0.1, -0.66), (0.1, -0.66), (0.15, -0.9), (-0.15, -0.9)], (255, 226, 146) if k.lit else k.fixed((206, 214, 206)))
    p.line([(0, -0.66), (0, -0.9)], 0.03, iron)
    p.poly([(-0.2, -0.88), (0, -1), (0.2, -0.88)], iron)
    p.rect(-0.12, -0.68, 0.12, -0.64, iron)


def signpost(p: Pen, k: Look) -> None:
    wood = k.dye((160, 116, 74))
    p.rect(-0.05, -1.0, 0.05, 0, shade(wood, 0.7))
    p.poly([(-0.3, -0.96), (0.28, -0.96), (0.44, -0.83), (0.28, -0.7), (-0.3, -0.7)], wood)
    p.poly([(0.28, -0.64), (-0.24, -0.64), (-0.4, -0.51), (-0.24, -0.38), (0.28, -0.38)], shade(wood, 0.86))


def rock(p: Pen, k: Look) -> None:
    stone = k.dye((134, 134, 140))
    # Up the left side to the top's two corners, down the right side; and where its three faces meet.
    left, a, b, right, middle = k.form(
        ((-0.66, -0.5), (-0.2, -0.96), (0.3, -0.86), (0.7, -0.4), (0.04, -0.52)),
        ((-0.74, -0.3), (-0.46, -0.6), (0.1, -0.98), (0.56, -0.52), (-0.1, -0.44)),
        ((-0.5, -0.72), (-0.3, -0.98), (0.46, -0.9), (0.74, -0.56), (0.2, -0.62)),
    )
    p.poly([(-0.78, 0), left, a, b, right, (0.82, 0)], stone)
    p.poly([left, a, b, middle], shade(stone, 1.18))
    p.poly([middle, b, right, (0.82, 0), (middle[0] + 0.22, 0)], shade(stone, 0.74))


def fence(p: Pen, k: Look) -> None:
    k.form(_paling, _rails)(p, k)


def _rails(p: Pen, k: Look) -> None:
    """Three posts and two long rails."""
    wood = k.dye((166, 128, 90))
    for y in (-0.34, -0.74):
        p.rect(-1.25, y - 0.1, 1.25, y + 0.1, wood, 0.05)
    for x in (-1.0, 0.0, 1.0):
        p.rect(x - 0.13, -1.0, x + 0.13, 0, shade(wood, 0.78), 0.05)


def _paling(p: Pen, k: Look) -> None:
    wood = k.dye((166, 128, 90))
    for y in (-0.3, -0.68):
        p.rect(-1.25, y - 0.08, 1.25, y + 0.08, shade(wood, 0.76))
    for i in range(5):
        x = -1.0 + 0.5 * i
        p.poly([(x - 0.14, 0), (x - 0.14, -0.84), (x, -1), (x + 0.14, -0.84), (x + 0.14, 0)], wood)


def bench(p: Pen, k: Look) -> None:
    wood, iron = k.dye((156, 104, 66)), k.fixed((60, 62, 68))
    for x in (-0.82, 0.74):
        p.rect(x, -0.42, x + 0.1, 0, iron)
        p.rect(x, -1.0, x + 0.08, -0.42, iron)
    for y in (-1.0, -0.74):
        p.rect(-0.98, y, 0.98, y + 0.18, wood, 0.03)
    p.rect(-1.02, -0.5, 1.02, -0.34, shade(wood, 0.84), 0.03)


def haystack(p: Pen, k: Look) -> None:
    k.form(_heap, _bales)(p, k)


def _bales(p: Pen, k: Look) -> None:
    """Two rolled bales and a third on them."""
    hay = k.fixed((226, 184, 92))
    for x, y, f in ((-0.32, -0.27, 1.0), (0.32, -0.27, 0.86), (0.0, -0.74, 0.95)):
        p.dot(x, y, 0.29, shade(hay, f))
        p.curve(
            [(x + 0.15, y), (x + 0.15, y - 0.2, x - 0.13, y - 0.18, x - 0.13, y), (x - 0.12, y + 0.12, x + 0.06, y + 0.1, x + 0.04, y)],
            shade(hay, 0.66),
            width=0.04,
        )


def _heap(p: Pen, k: Look) -> None:
    hay = k.fixed((226, 184, 92))
    p.blob([(-0.62, 0.0), (-0.64, -0.4), (-0.36, -0.86), (0, -1.02), (0.36, -0.86), (0.64, -0.4), (0.62, 0.0)], hay)
    p.blob([(0.2, 0.0), (0.3, -0.5), (0.14, -0.96), (0.38, -0.84), (0.64, -0.4), (0.62, 0.0)], shade(hay, 0.82))
    for x, y in ((-0.4, -0.3), (-0.2, -0.6), (-0.1, -0.2), (0.1, -0.76), (0.2, -0.4)):
        p.line([(x, y), (x + 0.04, y - 0.14)], 0.03, shade(hay, 0.7))


def scarecrow(p: Pen, k: Look) -> None:
    coat = k.dye((92, 104, 150))
    p.line([(0, 0), (0, -0.8)], 0.05, k.fixed(WOOD))
    p.line([(-0.42, -0.6), (0.42, -0.6)], 0.05, k.fixed(WOOD))
    for s in (-1, 1):
        p.limb([(s * 0.1, -0.6), (s * 0.34, -0.57)], [0.14, 0.15], shade(coat, 0.9))
        p.limb([(s * 0.36, -0.57), (s * 0.46, -0.55)], [0.08, 0.05], k.fixed((230, 196, 110)))
    p.blob([(-0.15, -0.66), (0.15, -0.66), (0.2, -0.26), (0, -0.3), (-0.2, -0.26)], coat)
    with p.part("face"):
        p.dot(0, -0.76, 0.11, k.fixed((226, 196, 140)))
        with p.part("eyes"):
            for x in (-0.04, 0.04):
                p.dot(x, -0.78, 0.018, INK)
        p.line([(-0.04, -0.71), (0.04, -0.71)], 0.016, INK)
    with p.part("hat"):
        p.poly([(-0.11, -0.84), (0.02, -1.04), (0.11, -0.84)], k.fixed((120, 84, 52)))
        p.oval(0, -0.84, 0.19, 0.035, k.fixed((120, 84, 52)))


def snowman(p: Pen, k: Look) -> None:
    snow = k.fixed((248, 250, 255))
    scarf = k.dye((200, 52, 48))
    for s in (-1, 1):
        p.limb([(s * 0.16, -0.5), (s * 0.42, -0.66)], [0.035, 0.03], k.fixed((96, 66, 46)))
    p.dot(0, -0.24, 0.27, shade(snow, 0.94))
    p.dot(0, -0.54, 0.2, snow)
    with p.part("face"):
        p.dot(0, -0.78, 0.15, snow)
    p.rect(-0.15, -0.68, 0.15, -0.62, scarf, 0.03)
    p.limb([(0.08, -0.64), (0.1, -0.48)], [0.07, 0.07], shade(scarf, 0.84))
    with p.part("face"):
        for x in (-0.05, 0.07):
            with p.part("eyes"):
                p.dot(x, -0.81, 0.022, INK)
        p.poly([(0.0, -0.78), (0.19, -0.75), (0.0, -0.73)], k.fixed((236, 130, 46)))
    with p.part("hat"):
        p.rect(-0.17, -0.92, 0.17, -0.89, INK)
        p.rect(-0.11, -1.04, 0.11, -0.9, INK)
    for y in (-0.54, -0.45):
        p.dot(0, y, 0.02, INK)


def campfire(p: Pen, k: Look) -> None:
    p.glow(0, -0.4, 0.9, (255, 190, 90), 0.5)
    for a, b in (((-0.5, -0.02), (0.4, -0.16)), ((0.5, -0.02), (-0.4, -0.16))):
        p.limb([a, b], [0.15, 0.15], k.fixed((112, 74, 50)))
    p.blob([(-0.32, -0.12), (-0.36, -0.44), (-0.14, -0.66), (-0.02, -1.0), (0.2, -0.66), (0.36, -0.4), (0.3, -0.12)], (238, 110, 40))
    p.blob([(-0.2, -0.12), (-0.2, -0.36), (0.02, -0.72), (0.2, -0.36), (0.18, -0.12)], (252, 196, 70))
    p.blob([(-0.1, -0.12), (-0.08, -0.28), (0.02, -0.44), (0.1, -0.26), (0.09, -0.12)], (255, 244, 190))


def barrel(p: Pen, k: Look) -> None:
    wood = k.dye((156, 106, 66))
    p.curve([(-0.3, -0.98), (-0.46, -0.5, -0.3, 0), (0.3, 0), (0.46, -0.5, 0.3, -0.98)], wood)
    p.curve([(0.1, -0.98), (0.2, -0.5, 0.1, 0), (0.3, 0), (0.46, -0.5, 0.3, -0.98)], shade(wood, 0.78))
    for y in (-0.8, -0.24):
        p.rect(-0.39, y, 0.39, y + 0.08, k.fixed((74, 72, 76)))
    p.oval(0, -0.97, 0.3, 0.07, shade(wood, 0.66))


def umbrella(p: Pen, k: Look) -> None:
    cloth = k.dye((206, 60, 54))
    p.rect(-0.025, -0.8, 0.025, 0, k.fixed((230, 224, 210)))
    p.blob([(-0.8, -0.56), (-0.56, -0.86), (0, -1.02), (0.56, -0.86), (0.8, -0.56), (0.4, -0.62), (0, -0.58), (-0.4, -0.62)], cloth)
    p.poly([(-0.26, -0.6), (0, -1), (0.26, -0.6)], k.contrast((246, 238, 224), (200, 120, 90)))


WOODEN = ("white", "brown", "red", "blue", "green")
OUTDOORS = (
    Thing("lantern", lantern, "land street shore", 0.66, 0.22, lights=True, often=1.3),
    Thing("signpost", signpost, "land street field", 0.52, 0.42, WOODEN),
    Thing("rock", rock, "shore land", 0.34, 0.8, ("grey", "brown", "black")),
    Thing("fence", fence, "land field", 0.3, 1.25, WOODEN),
    Thing("bench", bench, "land street", 0.32, 1.02, WOODEN),
    Thing("haystack", haystack, "field", 0.44, 0.64),
    Thing("scarecrow", scarecrow, "field", 0.66, 0.46, ("blue", "red", "green", "brown")),
    Thing("snowman", snowman, "snow", 0.6, 0.42, ("red", "blue", "green", "yellow"), often=2.0),
    Thing("campfire", campfire, "land", 0.34, 0.55),
    Thing("barrel", barrel, "street land shore", 0.32, 0.42, ("brown", "red", "blue")),
    Thing("umbrella", umbrella, "shore street", 0.6, 0.8, PAINTED),
)
