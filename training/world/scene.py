"""Paints one scene far to near and keeps the true mask of each part."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import skia

from .pen import Colour, Pen, mix, shade, times
from .things import THINGS, Light, Look, Thing
from .words import COLOURS, FAR, GROUNDS, SKIES

CELLS = 32


@dataclass(frozen=True)
class Sky:
    top: Colour
    middle: Colour
    bottom: Colour
    light: Colour
    night: float


SKY = {
    "clear day": Sky((74, 138, 222), (130, 184, 238), (206, 230, 246), (1.0, 1.0, 1.0), 0.0),
    "dawn": Sky((132, 136, 196), (226, 178, 196), (255, 222, 190), (0.98, 0.88, 0.88), 0.15),
    "sunset": Sky((78, 56, 132), (206, 92, 108), (255, 176, 96), (1.0, 0.77, 0.66), 0.4),
    "starry night": Sky((10, 14, 46), (22, 34, 84), (50, 72, 126), (0.58, 0.6, 0.82), 0.9),
    "storm": Sky((54, 60, 74), (92, 100, 114), (146, 154, 162), (0.64, 0.67, 0.72), 0.45),
    "fog": Sky((176, 188, 196), (200, 208, 212), (222, 226, 226), (0.86, 0.88, 0.9), 0.1),
}
GROUND = {
    "meadow": ((104, 154, 72), (76, 128, 58)),
    "snow field": ((238, 243, 250), (212, 224, 240)),
    "lake": ((92, 150, 184), (48, 98, 140)),
    "beach": ((236, 214, 164), (214, 186, 132)),
}


@dataclass(frozen=True)
class Part:
    """One named part of a scene.

    kind: its word; colour, facing ("left"/"right"/""), lit: what else is true of it; big: whether it
    fills the picture like a ground does; mask: (CELLS, CELLS) float32 visible share 0..1.
    """

    kind: str
    colour: str
    facing: str
    lit: bool
    big: bool
    mask: np.ndarray


@dataclass(frozen=True)
class Scene:
    """pixels: (size, size, 3) uint8 sRGB; sky: its word; parts: far to near."""

    pixels: np.ndarray
    sky: str
    parts: tuple[Part, ...]


class _Painter:
    """A square picture in the making; every layer's alpha is the part's true mask."""

    def __init__(self, size: int) -> None:
        self.size = size
        self.surface = skia.Surface(size, size)
        self.canvas = self.surface.getCanvas()
        self.parts: list[tuple[str, str, str, bool, bool, np.ndarray]] = []

    def layer(
        self, draw: Callable[[Pen], None], kind: str, colour: str = "", facing: str = "", lit: bool = False, big: bool = False
    ) -> None:
        surface = skia.Surface(self.size, self.size)
        with surface as canvas:
            canvas.scale(self.size, self.size)
            draw(Pen(canvas))
        image = surface.makeImageSnapshot()
        k = self.size // CELLS
        alpha = image.toarray()[..., 3].reshape(CELLS, k, CELLS, k)
        # A soft glow belongs to the air, not to the thing: only what is nearly opaque counts.
        mask = (np.clip(alpha.astype(np.float32) - 96, 0, 128) / 128).mean((1, 3))
        self.canvas.drawImage(image, 0, 0)
        self.parts = [(*p[:5], p[5] * (1 - mask)) for p in self.parts]
        self.parts.append((kind, colour, facing, lit, big, mask))

    def loose(self, draw: Callable[[Pen], None]) -> None:
        """Something that belongs to no part: shadow, reflection, weather."""
        self.canvas.save()
        self.canvas.scale(self.size, self.size)
        draw(Pen(self.canvas))
        self.canvas.restore()


def _placed(thing: Thing, look: Look, x: float, y: float, height: float, flip: bool) -> Callable[[Pen], None]:
    """Draws a thing standing at (x, y)."""

    def draw(pen: Pen) -> None:
        pen.canvas.save()
        pen.canvas.translate(x, y)
        pen.canvas.scale(-height if flip else height, height)
        thing.draw(pen, look)
        pen.canvas.restore()

    return draw


def paint_scene(rng: np.random.Generator, size: int = 512) -> Scene:
    """One scene from the generator's numbers; size is a multiple of CELLS.

    All coordinates are shares of the picture, so that another size gives the same scene.
    """
    if size % CELLS:
        raise ValueError(f"A scene's size has to be a multiple of {CELLS}, not {size}.")
    painter = _Painter(size)
    sky_name = str(rng.choice(SKIES, p=[0.26, 0.14, 0.18, 0.22, 0.1, 0.1]))
    ground = str(rng.choice(GROUNDS, p=[0.4, 0.2, 0.24, 0.16]))
    sky = SKY[sky_name]
    light = Light(sky.light, sky.night)
    horizon = rng.uniform(0.34, 0.66)

    def wobble(c: Colour, spread: float = 7) -> Colour:
        return tuple(v + rng.normal(0, spread) for v in c)  # type: ignore[return-value]

    top, middle, bottom = wobble(sky.top), wobble(sky.middle), wobble(sky.bottom)
    painter.loose(lambda p: p.fade((0, 0, 1, horizon + 0.02), [(0, top, 1), (0.6, middle, 1), (1, bottom, 1)]))
    if sky.night > 0.5:
        for _ in range(int(rng.integers(18, 46))):
            x, y, r = rng.uniform(0, 1), rng.uniform(0, horizon) ** 1.15, rng.uniform(0.0016, 0.0042)
            painter.loose(lambda p, x=x, y=y, r=r: p.dot(x, y, r, (255, 250, 226), 0.9))  # type: ignore[misc]
    if sky_name == "storm":
        for _ in range(6):
            x, y, w = rng.uniform(0, 1), rng.uniform(0, horizon * 0.7), rng.uniform(0.2, 0.5)
            painter.loose(lambda p, x=x, y=y, w=w: p.oval(x, y, w, w * 0.18, shade(top, 0.85), 0.5))  # type: ignore[misc]

    _sky_things(rng, painter, sky_name, light, horizon)
    _distance(rng, painter, light, horizon, bottom)
    _ground(rng, painter, ground, light, horizon, bottom, wobble)
    _near_things(rng, painter, ground, light, horizon, sky_name)

    if sky_name == "fog":
        strength = rng.uniform(0.35, 0.6)
        painter.loose(lambda p: p.fade((0, 0, 1, 1), [(0, bottom, strength * 0.5), (float(horizon), bottom, strength), (1, bottom, 0.05)]))
    pixels = np.ascontiguousarray(painter.surface.makeImageSnapshot().toarray()[..., [2, 1, 0]])
    parts = tuple(Part(*p) for p in painter.parts if float(p[5].sum()) > 1.2)
    return Scene(pixels, sky_name, parts)


def _look(rng: np.random.Generator, thing: Thing, light: Light) -> tuple[str, str, bool, Look, bool]:
    colour = str(rng.choice(thing.colours)) if thing.colours and rng.random() < 0.8 else ""
    flip = bool(rng.random() < 0.5)
    facing = ("left" if flip else "right") if thing.faces else ""
    lit = bool(thing.lights and light.night > 0.3 and rng.random() < 0.8)
    tint = COLOURS[colour] if colour else None
    if colour == "red" and thing.name == "fox":
        tint = (208, 84, 36)
    if tint is not None:
        tint = tuple(v + rng.normal(0, 6) for v in tint)  # type: ignore[assignment]
    return colour, facing, lit, Look(tint, lit, light, rng), flip


def _sky_things(rng: np.random.Generator, painter: _Painter, sky: str, light: Light, horizon: float) -> None:
    night = light.night > 0.5
    chance = {
        "moon": 0.42 if night else 0.06,
        "crescent moon": 0.36 if night else 0.05,
        "sun": 0.0 if night or sky in ("storm", "fog") else 0.5,
        "cloud": 0.12 if night else 0.36,
        "balloon": 0.2,
    }
    drawn: list[tuple[float, float, float]] = []
    for name, often in chance.items():
        shining = any(p[0] in ("moon", "crescent moon") for p in painter.parts)
        if rng.random() >= often or (shining and name in ("crescent moon", "sun")):
            continue
        thing = THINGS[name]
        height = thing.size * rng.uniform(0.6, 1.35)
        for _ in range(8):
            x, y = rng.uniform(0.1, 0.9), rng.uniform(0.12, 0.9) * horizon + height * 0.5
            if all(abs(x - a) > (height + h) * 0.6 or abs(y - b) > (height + h) * 0.5 for a, b, h in drawn):
                break
        y = min(y, horizon + height * 0.1) if name in ("sun", "moon") else y
        drawn.append((x, y, height))
        colour, facing, lit, look, flip = _look(rng, thing, light)
        painter.layer(_placed(thing, look, x, y, height, flip), name, colour, facing, lit)


def _ridge(rng: np.random.Generator, base: float, height: float, rough: int) -> list[tuple[float, float]]:
    xs = np.linspace(-0.05, 1.05, 45)
    ys = np.zeros_like(xs)
    for octave in range(rough):
        f = 1.3 * 2.0**octave
        ys += 0.55**octave * np.sin(xs * f * 2.2 + rng.uniform(0, 6.3)) * rng.uniform(0.6, 1)
    ys = (ys - ys.min()) / max(1e-6, float(np.ptp(ys)))
    return [(float(x), base - height * (0.25 + 0.75 * float(y))) for x, y in zip(xs, ys, strict=True)]


def _distance(rng: np.random.Generator, painter: _Painter, light: Light, horizon: float, haze: Colour) -> None:
    if rng.random() < 0.34:
        rock = mix(times((128, 130, 156), light.colour), haze, 0.25)
        snow = mix(times((248, 248, 252), light.colour), haze, 0.1)
        peaks = [(rng.uniform(-0.1, 1.1), rng.uniform(0.14, 0.32), rng.uniform(0.8, 1.15)) for _ in range(int(rng.integers(3, 6)))]

        def mountains(p: Pen) -> None:
            for x, h, k in peaks:
                w, y = h * k, horizon + 0.01
                p.poly([(x - w, y), (x, y - h), (x + w, y)], rock)
                p.poly([(x + w * 0.15, y), (x, y - h), (x + w, y)], shade(rock, 0.82))
                p.poly(
                    [
                        (x - w * 0.3, y - h * 0.7),
                        (x, y - h),
                        (x + w * 0.3, y - h * 0.7),
                        (x + w * 0.1, y - h * 0.62),
                        (x - w * 0.06, y - h * 0.72),
                    ],
                    snow,
                )

        painter.layer(mountains, "mountains", big=True)
    if rng.random() < 0.34:
        ridges = [_ridge(rng, horizon + 0.01, rng.uniform(0.09, 0.17) * f, 2) for f in (1.0, 0.6)]

        def hills(p: Pen) -> None:
            for i, ridge in enumerate(ridges):
                p.poly(
                    [*ridge, (1.05, horizon + 0.02), (-0.05, horizon + 0.02)],
                    mix(times((112, 150, 108), light.colour), haze, 0.5 - 0.25 * i),
                )

        painter.layer(hills, "hills", big=True)
    if rng.random() < 0.34:
        green = mix(times((44, 84, 66), light.colour), haze, 0.22)
        height = rng.uniform(0.06, 0.13)
        trees = [(x + rng.normal(0, 0.006), height * rng.uniform(0.6, 1.15)) for x in np.linspace(-0.02, 1.02, int(rng.integers(18, 30)))]

        def forest(p: Pen) -> None:
            for i, (x, h) in enumerate(trees):
                p.poly(
                    [(x - h * 0.36, horizon + 0.01), (x, horizon - h), (x + h * 0.36, horizon + 0.01)], shade(green, 0.9 + 0.1 * (i % 2))
                )
            p.rect(0, horizon - height * 0.3, 1, horizon + 0.012, shade(green, 0.92))

        painter.layer(forest, "forest", big=True)


def _ground(
    rng: np.random.Generator, painter: _Painter, ground: str, light: Light, horizon: float, haze: Colour, wobble: Callable[[Colour], Colour]
) -> None:
    far, near = (times(wobble(c), light.colour) for c in GROUND[ground])
    far = mix(far, haze, 0.3)
    swell = 0.0 if ground == "lake" else rng.uniform(0, 0.022)
    phase = rng.uniform(0, 6.3)

    def edge(x: float) -> float:
        return horizon + swell * math.sin(phase + x * 5)

    bands = [(rng.uniform(0.1, 0.9), rng.uniform(-0.2, 1.0), rng.uniform(0.25, 0.6)) for _ in range(int(rng.integers(3, 6)))]

    def draw(p: Pen) -> None:
        outline = [skia.Point(x / 40, edge(x / 40)) for x in range(41)] + [skia.Point(1, 1), skia.Point(0, 1)]
        p.canvas.drawPath(skia.Path.Polygon(outline, True), p.fade_paint(horizon - swell, 1, [(0, far, 1), (1, near, 1)]))
        for depth, x, w in bands:
            y = horizon + 0.03 + (1 - horizon) * depth
            p.oval(
                x,
                y,
                w * (0.4 + depth),
                0.014 + 0.03 * depth if ground != "lake" else 0.008,
                mix(near, haze, 0.35) if ground == "lake" else shade(near, 0.94),
                0.55,
            )

    painter.layer(draw, ground, big=True)
    if ground != "lake" and rng.random() < 0.3:
        x0, x1, w, bend = rng.uniform(0.25, 0.75), rng.uniform(0.1, 0.9), rng.uniform(0.12, 0.24), rng.uniform(-0.25, 0.25)
        y0, ym = edge(x0) + 0.004, (horizon + 1) / 2
        sand = mix(times((198, 170, 124), light.colour), far, 0.1) if ground != "snow field" else times((190, 184, 180), light.colour)
        painter.layer(
            lambda p: p.curve(
                [(x0 - 0.012, y0), (x0 + bend, ym, x1 - w, 1.01), (x1 + w, 1.01), (x0 + bend + 0.1, ym, x0 + 0.012, y0)], sand
            ),
            "path",
            big=True,
        )


def _near_things(rng: np.random.Generator, painter: _Painter, ground: str, light: Light, horizon: float, sky: str) -> None:
    places = {"lake": ("water", "shore"), "beach": ("land", "shore")}.get(ground, ("land",))
    pool = [
        t
        for t in THINGS.values()
        if t.place in places
        or (ground == "beach" and t.name == "rowing boat")
        or (ground in ("meadow", "snow field") and t.name in ("rock", "lighthouse") and rng.random() < 0.5)
    ]
    odds = np.array([t.often for t in pool])
    odds /= odds.sum()
    count = int(rng.choice([1, 2, 3, 4, 5], p=[0.2, 0.3, 0.27, 0.16, 0.07]))
    stand = sorted((float(rng.uniform(0.22, 1) ** 0.75), int(rng.choice(len(pool), p=odds))) for _ in range(count))
    used: list[tuple[float, float]] = []
    for near, index in stand:
        thing = pool[index]
        height = thing.size * near * rng.uniform(0.75, 1.15) * 0.92
        y = min(1.04, horizon + 0.02 + (1 - horizon) * 0.95 * (near - 0.16) / 0.84)
        reach = height * thing.half_width
        for _ in range(10):
            x = rng.uniform(0.06, 0.94)
            if all(abs(x - u) > (reach + r) * 0.72 for u, r in used):
                break
        used.append((x, reach))
        colour, facing, lit, look, flip = _look(rng, thing, light)

        def below(
            p: Pen, t: Thing = thing, k: Look = look, x: float = x, y: float = y, h: float = height, r: float = reach, f: bool = flip
        ) -> None:
            if ground == "lake":
                p.canvas.save()
                p.canvas.translate(x, y)
                p.canvas.scale(-h if f else h, -h * 0.55)
                p.canvas.saveLayerAlpha(skia.Rect(-2, -1.2, 2, 0.1), 72)
                t.draw(p, k)
                p.canvas.restore()
                p.canvas.restore()
            else:
                p.oval(x + r * 0.18, y, r * 1.02, h * 0.045 + 0.006, shade(times((40, 44, 62), light.colour), 0.7), 0.38)
                if k.lit:
                    p.oval(x, y + 0.01, r + h * 0.16, h * 0.09, (255, 206, 120), 0.25)

        painter.loose(below)
        painter.layer(_placed(thing, look, x, y, height, flip), thing.name, colour, facing, lit)


def kinds() -> tuple[str, ...]:
    """Every word a part's kind can have."""
    return (*GROUNDS, *FAR, *THINGS)
