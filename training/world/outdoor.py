"""Scenes under the sky: meadows, snow, lakes, beaches, streets and fields, with what lies in the distance."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial

import numpy as np
import skia

from .canvas import Canvas, Stand, draw_reflection, draw_shadow, draw_standing, free_place
from .dress import dressed
from .pen import Colour, Pen, mix, shade, times
from .sky import OFTEN, SKY, hang_things, paint_sky, weather
from .things import THINGS, Light, Thing

GROUND: dict[str, tuple[Colour, Colour]] = {
    "meadow": ((104, 154, 72), (76, 128, 58)),
    "snow field": ((238, 243, 250), (212, 224, 240)),
    "lake": ((92, 150, 184), (48, 98, 140)),
    "beach": ((236, 214, 164), (214, 186, 132)),
    "street": ((188, 176, 164), (150, 140, 134)),
    "field": ((214, 186, 96), (184, 150, 72)),
}
CHANCE = {"meadow": 0.3, "snow field": 0.12, "lake": 0.17, "beach": 0.1, "street": 0.16, "field": 0.15}
PLACES: dict[str, tuple[str, ...]] = {
    "meadow": ("land",),
    "snow field": ("land", "snow"),
    "lake": ("water", "shore"),
    "beach": ("shore", "land"),
    "street": ("street",),
    "field": ("field",),
}
#: What would look strange there.
MISPLACED: dict[str, tuple[str, ...]] = {
    "snow field": ("flowers", "sunflower", "mushroom", "umbrella", "reeds"),
    "beach": (
        "birch",
        "pine",
        "tree",
        "willow",
        "church",
        "mushroom",
        "stump",
        "barn",
        "cow",
        "sheep",
        "horse",
        "windmill",
        "bear",
        "flowers",
    ),
    "lake": ("umbrella", "barrel", "lantern"),
}
BANK_PLACES = ("land", "shore")


def _ridge(rng: np.random.Generator, width: float, base: float, height: float, rough: int) -> list[tuple[float, float]]:
    xs = np.linspace(-0.05, width + 0.05, 45)
    ys = np.zeros_like(xs)
    for octave in range(rough):
        f = 1.3 * 2.0**octave
        ys += 0.55**octave * np.sin(xs * f * 2.2 + rng.uniform(0, 6.3)) * rng.uniform(0.6, 1)
    ys = (ys - ys.min()) / max(1e-6, float(np.ptp(ys)))
    return [(float(x), base - height * (0.25 + 0.75 * float(y))) for x, y in zip(xs, ys, strict=True)]


def _distance(rng: np.random.Generator, canvas: Canvas, light: Light, horizon: float, haze: Colour, season: str, street: bool) -> None:
    w = canvas.width
    if rng.random() < 0.34:
        rock = mix(times((128, 130, 156), light.colour), haze, 0.25)
        snow = mix(times((248, 248, 252), light.colour), haze, 0.1)
        peaks = [
            (rng.uniform(-0.1, w + 0.1), min(rng.uniform(0.16, 0.42), horizon * 0.8), rng.uniform(0.8, 1.15))
            for _ in range(int(rng.integers(3, 6)))
        ]

        def mountains(p: Pen) -> None:
            for x, h, k in peaks:
                s, y = h * k, horizon + 0.01
                p.poly([(x - s, y), (x - s * 0.42, y - h * 0.5), (x, y - h), (x + s * 0.36, y - h * 0.56), (x + s, y)], rock)
                p.poly(
                    [(x + s * 0.12, y), (x - s * 0.04, y - h * 0.6), (x, y - h), (x + s * 0.36, y - h * 0.56), (x + s, y)], shade(rock, 0.8)
                )
                p.poly(
                    [
                        (x - s * 0.26, y - h * 0.69),
                        (x, y - h),
                        (x + s * 0.24, y - h * 0.7),
                        (x + s * 0.08, y - h * 0.64),
                        (x - s * 0.06, y - h * 0.74),
                    ],
                    snow,
                )

        canvas.layer(mountains, "mountains", big=True)
    if rng.random() < 0.34:
        green = {"autumn": (168, 140, 84), "winter": (212, 220, 230)}.get(season, (112, 150, 108))
        ridges = [_ridge(rng, w, horizon + 0.01, min(rng.uniform(0.1, 0.2), horizon * 0.6) * f, 2) for f in (1.0, 0.6)]

        def hills(p: Pen) -> None:
            for i, ridge in enumerate(ridges):
                p.poly([*ridge, (w + 0.05, horizon + 0.02), (-0.05, horizon + 0.02)], mix(times(green, light.colour), haze, 0.5 - 0.25 * i))

        canvas.layer(hills, "hills", big=True)
    if rng.random() < (0.75 if street else 0.16):
        houses = []
        x = -0.03
        while x < w:
            s = rng.uniform(0.1, 0.17)
            houses.append((x, s, min(rng.uniform(0.1, 0.22), horizon * 0.7), int(rng.integers(4)), rng.random()))
            x += s
        walls = ((222, 196, 160), (206, 170, 140), (214, 206, 190), (190, 160, 150))

        def town(p: Pen) -> None:
            for x, s, h, tone, r in houses:
                c = mix(times(walls[tone], light.colour), haze, 0.3)
                roof = mix(times((150, 84, 68), light.colour), haze, 0.25)
                y = horizon + 0.012
                p.rect(x, y - h, x + s, y, c)
                p.poly([(x - 0.006, y - h), (x + s / 2, y - h - s * (0.4 + 0.5 * r)), (x + s + 0.006, y - h)], roof)
                for i in range(2):
                    for j in range(max(1, int(h / 0.075))):
                        lit = light.night > 0.3 and (i + j + tone) % 2 == 0
                        a, b = x + s * (0.18 + 0.4 * i), y - h + 0.022 + 0.07 * j
                        p.rect(a, b, a + s * 0.24, b + 0.036, (255, 214, 120) if lit else shade(c, 0.62))

        canvas.layer(town, "town", big=True)
    elif rng.random() < 0.36:
        green = {"autumn": (176, 104, 54), "winter": (120, 136, 136)}.get(season, (44, 84, 66))
        dark = mix(times(green, light.colour), haze, 0.22)
        height = min(rng.uniform(0.07, 0.17), horizon * 0.5)
        trees = [
            (x + rng.normal(0, 0.006), height * rng.uniform(0.6, 1.15)) for x in np.linspace(-0.02, w + 0.02, int(rng.integers(18, 30) * w))
        ]
        pointed = bool(rng.random() < 0.6)

        def forest(p: Pen) -> None:
            for i, (x, h) in enumerate(trees):
                c = shade(dark, 0.88 + 0.12 * (i % 2))
                if pointed:
                    p.poly([(x - h * 0.36, horizon + 0.01), (x, horizon - h), (x + h * 0.36, horizon + 0.01)], c)
                else:
                    p.oval(x, horizon - h * 0.5, h * 0.4, h * 0.5, c)
            p.rect(0, horizon - height * 0.3, w, horizon + 0.012, shade(dark, 0.92))

        canvas.layer(forest, "forest", big=True)


def _ground(rng: np.random.Generator, canvas: Canvas, ground: str, light: Light, horizon: float, haze: Colour, season: str) -> None:
    def wobble(c: Colour) -> Colour:
        return tuple(v + rng.normal(0, 7) for v in c)  # type: ignore[return-value]

    far, near = (wobble(c) for c in GROUND[ground])
    if ground == "meadow" and season:
        turn: Colour = {"autumn": (178, 150, 76), "winter": (222, 228, 228), "spring": (132, 184, 80)}[season]
        far, near = mix(far, turn, 0.55), mix(near, turn, 0.5)
    far, near = times(far, light.colour), times(near, light.colour)
    if ground == "lake":
        near = mix(near, haze, 0.2)
    far = mix(far, haze, 0.3)
    w, h = canvas.width, canvas.height
    swell = 0.0 if ground in ("lake", "street") else rng.uniform(0, 0.022)
    phase = rng.uniform(0, 6.3)

    def edge(x: float) -> float:
        return horizon + swell * math.sin(phase + x * 5)

    bands = [(rng.uniform(0.1, 0.9) * w, rng.uniform(-0.1, 1.0), rng.uniform(0.25, 0.6)) for _ in range(int(rng.integers(3, 6)))]
    vanish, rows = rng.uniform(0.2, 0.8) * w, int(rng.integers(9, 15))
    tufts = [(rng.uniform(0, w), rng.uniform(0.06, 1) ** 0.8, rng.uniform(0.6, 1.3)) for _ in range(26)]

    def draw(p: Pen) -> None:
        outline = [skia.Point(w * x / 40, edge(w * x / 40)) for x in range(41)] + [skia.Point(w, h), skia.Point(0, h)]
        p.canvas.drawPath(skia.Path.Polygon(outline, True), p.fade_paint(horizon - swell, h, [(0, far, 1), (1, near, 1)]))
        if ground == "field":
            for i in range(-rows, rows + 1):
                x = vanish + i * w * 0.16
                p.poly([(vanish + i * 0.012, horizon + 0.012), (x, h), (x + w * 0.07, h)], shade(near, 0.86), 0.55)
            return
        if ground == "street":
            # Slabs in broad tones: a denoiser makes scratches of thin joints.
            for i in range(1, 8, 2):
                y0, y1 = (horizon + (h - horizon) * (k / 8) ** 1.7 for k in (i, i + 1))
                p.poly([(0, y0), (w, y0), (w, y1), (0, y1)], shade(near, 0.9), 0.6)
            for i in range(-8, 9, 2):
                x0, x1 = (vanish + w * 0.3 * k for k in (i, i + 1))
                p.poly([(vanish + i * 0.05, horizon), (vanish + (i + 1) * 0.05, horizon), (x1, h), (x0, h)], shade(near, 0.88), 0.5)
            return
        for x, depth, s in bands:
            y = horizon + 0.03 + (h - horizon) * depth
            if ground == "lake":
                p.oval(x, y, s * (0.4 + depth), 0.008, mix(near, haze, 0.45), 0.6)
            else:
                p.oval(x, y, s * (0.4 + depth), 0.014 + 0.03 * depth, shade(near, 0.94), 0.55)
        if ground == "meadow":
            for x, depth, s in tufts:
                y, r = horizon + (h - horizon) * depth, 0.012 * s * (0.4 + depth)
                p.poly(
                    [(x - r, y), (x - r * 0.5, y - r * 1.8), (x, y - r * 0.4), (x + r * 0.5, y - r * 2.0), (x + r, y)],
                    shade(near, 0.86),
                    0.6,
                )

    canvas.layer(draw, ground, big=True)
    if ground not in ("lake", "street") and rng.random() < 0.3:
        x0, x1, s, bend = rng.uniform(0.25, 0.75) * w, rng.uniform(0.1, 0.9) * w, rng.uniform(0.12, 0.24), rng.uniform(-0.25, 0.25)
        y0, ym = edge(x0) + 0.004, (horizon + h) / 2
        sand = mix(times((198, 170, 124), light.colour), far, 0.1) if ground != "snow field" else times((190, 184, 180), light.colour)
        canvas.layer(
            lambda p: p.curve(
                [(x0 - 0.012, y0), (x0 + bend, ym, x1 - s, h + 0.01), (x1 + s, h + 0.01), (x0 + bend + 0.1, ym, x0 + 0.012, y0)], sand
            ),
            "path",
            big=True,
        )


def _pool(ground: str, rng: np.random.Generator, places: tuple[str, ...]) -> list[Thing]:
    out = [t for t in THINGS.values() if any(p in t.places for p in places) and t.name not in MISPLACED.get(ground, ())]
    # A theme: some of what could be here, so that scenes differ more from one another.
    keep = rng.random(len(out)) < 0.5
    return [t for t, k in zip(out, keep, strict=True) if k] or out


def _near_things(
    rng: np.random.Generator, canvas: Canvas, ground: str, light: Light, horizon: float, haze: Colour, season: str, sun: float
) -> None:
    view = str(rng.choice(["far", "middle", "close"], p=[0.14, 0.6, 0.26]))
    zoom = {"far": 0.62, "middle": 1.0, "close": 1.45}[view]
    counts = {"far": [0.1, 0.2, 0.25, 0.25, 0.2], "middle": [0.22, 0.3, 0.26, 0.15, 0.07], "close": [0.5, 0.38, 0.12, 0, 0]}[view]
    w, h = canvas.width, canvas.height
    pool = _pool(ground, rng, PLACES[ground])
    bank = ground == "lake" and rng.random() < 0.4
    bank_pool = _pool(ground, rng, BANK_PLACES) if bank else pool
    bank_top = horizon + (h - horizon) * rng.uniform(0.55, 0.72)
    count = int(rng.choice([1, 2, 3, 4, 5], p=counts))
    deep = sorted(float(rng.uniform(0.22, 1) ** 0.75) for _ in range(count))
    used: list[tuple[float, float]] = []
    bank_drawn = not bank
    sheet_ground = times(GROUND[ground][1], light.colour)
    for near in deep:
        y = min(h * 1.04, horizon + 0.02 + (h - horizon) * 0.95 * (near - 0.16) / 0.84)
        ashore = bank and y > bank_top + 0.03
        if ashore and not bank_drawn:
            _bank(rng, canvas, light, bank_top)
            bank_drawn = True
        choices = bank_pool if ashore else pool
        odds = np.array([t.often for t in choices])
        thing = choices[int(rng.choice(len(choices), p=odds / odds.sum()))]
        factor = float(rng.uniform(0.7, 1.2))
        height = thing.size * near * factor * zoom * 0.95 * canvas.scale
        if thing.name == "town house":
            y, height = horizon + 0.02 + (h - horizon) * 0.3 * near, max(height, 0.5 * canvas.scale)
        reach = height * thing.half_width
        x = free_place(rng, (0.06, 0.94), w, reach, used, 0.72, 10)
        said = dressed(rng, thing, light, season, factor * zoom)
        stand = Stand(thing, said.look, x, y, height, said.flip, haze, max(0.0, 0.3 * (0.75 - near)), sun)

        def below(p: Pen, s: Stand = stand, wet: bool = ground == "lake" and not ashore) -> None:
            if wet:
                draw_reflection(p, s)
            else:
                draw_shadow(p, s, sheet_ground, light)
            if s.look.lit or s.thing.name == "campfire":
                p.glow(s.x, s.y, s.reach + s.height * 0.5, (255, 196, 110), 0.22)

        canvas.loose(below)
        canvas.layer(partial(draw_standing, s=stand), thing.name, said.before, said.after)
        if ground == "snow field" and rng.random() < 0.6:
            white = times((246, 249, 255), light.colour)
            canvas.loose(partial(Pen.oval, cx=x, cy=y + 0.004, rx=reach * 0.7, ry=height * 0.03, rgb=white, alpha=0.9))
    if not bank_drawn:
        _bank(rng, canvas, light, bank_top)


def _bank(rng: np.random.Generator, canvas: Canvas, light: Light, top: float) -> None:
    w, h = canvas.width, canvas.height
    ridge = _ridge(rng, w, top + 0.05, 0.06, 2)
    green = times((86, 130, 64), light.colour)

    def bank(p: Pen) -> None:
        p.poly([*ridge, (w + 0.05, h + 0.01), (-0.05, h + 0.01)], green)
        p.poly([(x, y + 0.012) for x, y in ridge] + [(w + 0.05, h + 0.01), (-0.05, h + 0.01)], shade(green, 0.92))

    canvas.layer(bank, "river bank", big=True)


def paint_outdoors(rng: np.random.Generator, canvas: Canvas) -> tuple[str, ...]:
    """Paints a scene under the sky; returns the words for the whole."""
    name = str(rng.choice(list(OFTEN), p=list(OFTEN.values())))
    ground = str(rng.choice(list(CHANCE), p=list(CHANCE.values())))
    season = str(rng.choice(["", "spring", "autumn", "winter"], p=[0.58, 0.12, 0.2, 0.1]))
    if name == "snowfall" or ground == "snow field":
        season = "winter"
    sky = SKY[name]
    light = Light(sky.light, sky.night)
    horizon = rng.uniform(0.22, 0.68) * canvas.height

    def wobble(c: Colour) -> Colour:
        return tuple(v + rng.normal(0, 7) for v in c)  # type: ignore[return-value]

    colours: tuple[Colour, Colour, Colour] = (wobble(sky.top), wobble(sky.middle), wobble(sky.bottom))
    paint_sky(rng, canvas, name, horizon, colours)
    sun = hang_things(rng, canvas, name, light, horizon, season)
    _distance(rng, canvas, light, horizon, colours[2], season, ground == "street")
    _ground(rng, canvas, ground, light, horizon, colours[2], season)
    _near_things(rng, canvas, ground, light, horizon, colours[2], season, sun)
    weather(rng, canvas, name, horizon, colours[2])
    return (name, season) if season else (name,)


Painting = Callable[[np.random.Generator, Canvas], tuple[str, ...]]
