"""Rooms, still lifes on a table, and near portraits."""

from __future__ import annotations

from functools import partial

import numpy as np
import skia

from .canvas import Canvas, Stand, draw_shadow, draw_standing, free_place
from .dress import dressed
from .outdoor import GROUND, _ridge
from .pen import Colour, Pen, mix, shade, times
from .sky import SKY
from .things import PORTRAIT_TRAITS, THINGS, Light, Thing
from .words import COLOURS

HOURS = {
    "clear day": Light((1.0, 0.99, 0.96), 0.0),
    "cloudy day": Light((0.93, 0.94, 0.95), 0.05),
    "sunset": Light((0.96, 0.82, 0.7), 0.35),
    "starry night": Light((0.72, 0.66, 0.66), 0.8),
    "rain": Light((0.84, 0.86, 0.88), 0.2),
    "snowfall": Light((0.92, 0.94, 0.97), 0.15),
}
WALLS = ("white", "beige", "green", "blue", "yellow", "pink", "grey", "red", "turquoise", "olive")
CURTAINS = ("red", "green", "blue", "white", "yellow", "orange", "purple")


def _hour(rng: np.random.Generator) -> tuple[str, Light]:
    name = str(rng.choice(list(HOURS), p=[0.36, 0.1, 0.16, 0.22, 0.09, 0.07]))
    return name, HOURS[name]


def _wall_colour(rng: np.random.Generator, light: Light) -> tuple[str, Colour]:
    name = str(rng.choice(WALLS))
    c = mix(COLOURS[name], (236, 228, 214), 0.42)
    return name, times(tuple(v + rng.normal(0, 5) for v in c), light.colour)


def _view(p: Pen, hour: str, box: tuple[float, float, float, float], bend: float) -> None:
    """What is seen through a window."""
    x0, y0, x1, y1 = box
    sky, light = SKY[hour], SKY[hour].light
    p.fade(box, [(0, sky.top, 1), (0.7, sky.bottom, 1), (1, sky.bottom, 1)])
    green = (214, 222, 232) if hour == "snowfall" else (98, 146, 84)
    h = y1 - y0
    p.canvas.save()
    p.canvas.clipRect(skia.Rect(x0, y0, x1, y1))
    p.blob(
        [(x0 - 0.1, y1 + 0.1), (x0 + (x1 - x0) * bend, y1 - h * 0.36), (x1 + 0.1, y1 - h * 0.14), (x1 + 0.1, y1 + 0.1)], times(green, light)
    )
    if hour == "starry night":
        p.dot(x0 + (x1 - x0) * (1 - bend), y0 + h * 0.3, h * 0.09, (246, 241, 218))
    p.canvas.restore()


def paint_window(rng: np.random.Generator, canvas: Canvas, hour: str, light: Light, top: float, x: float, height: float) -> None:
    """A window so high round x, with or without curtains. hour: what it is outside."""
    width, bend = height * rng.uniform(0.7, 1.1), rng.uniform(0.2, 0.8)
    box = (x - width / 2, top, x + width / 2, top + height)
    frame = times((236, 230, 218), light.colour)

    def window(p: Pen) -> None:
        x0, y0, x1, y1 = box
        p.rect(x0 - 0.02, y0 - 0.02, x1 + 0.02, y1 + 0.02, frame)
        _view(p, hour, box, bend)
        p.rect(x - 0.009, y0, x + 0.009, y1, frame)
        p.rect(x0, y0 + height * 0.42, x1, y0 + height * 0.42 + 0.016, frame)
        p.rect(x0 - 0.035, y1 + 0.012, x1 + 0.035, y1 + 0.034, shade(frame, 0.9))

    def shown(p: Pen) -> None:
        with p.part("windows"):
            window(p)

    canvas.layer(shown, "window")
    if rng.random() < 0.55:
        name = str(rng.choice(CURTAINS))
        c = times(COLOURS[name], light.colour)

        def curtains(p: Pen) -> None:
            x0, y0, x1, y1 = box
            p.rect(x0 - 0.06, y0 - 0.045, x1 + 0.06, y0 - 0.028, times((120, 84, 58), light.colour))
            for side, a in ((1, x0 - 0.045), (-1, x1 + 0.045)):
                b = a + side * width * 0.3
                p.curve([(a, y0 - 0.035), (b, y0 - 0.035), (b, y0 + height * 0.5, a + side * width * 0.12, y1 + 0.05), (a, y1 + 0.05)], c)
                p.line([(a + side * width * 0.1, y0 - 0.02), (a + side * width * 0.06, y1 + 0.03)], 0.008, shade(c, 0.76))

        canvas.layer(curtains, "curtains", ((name, 0.85),))


def _stand(
    rng: np.random.Generator, canvas: Canvas, thing: Thing, light: Light, at: tuple[float, float], height: float, size: float, floor: Colour
) -> Stand:
    said = dressed(rng, thing, light, "", size)
    stand = Stand(thing, said.look, at[0], at[1], height, said.flip, sun=float(rng.uniform(-0.6, 0.6)))

    def below(p: Pen) -> None:
        if thing.place != "wall":
            p.oval(stand.x + stand.reach * 0.05, stand.y, stand.reach * 0.95, height * 0.035 + 0.005, shade(floor, 0.5), 0.4)
        if stand.look.lit or thing.name in ("candle", "stove"):
            p.glow(stand.x, stand.y - height * 0.6, height * 0.9 + 0.1, (255, 208, 130), 0.3 + 0.3 * light.night)

    canvas.loose(below)
    canvas.layer(lambda p: draw_standing(p, stand), thing.name, said.before, said.after)
    return stand


def paint_room(rng: np.random.Generator, canvas: Canvas) -> tuple[str, ...]:
    hour, light = _hour(rng)
    w, h = canvas.width, canvas.height
    s = canvas.scale * rng.uniform(0.85, 1.2)
    line = h * rng.uniform(0.6, 0.78)
    name, wall = _wall_colour(rng, light)
    wood = times(
        tuple(v + rng.normal(0, 8) for v in ((168, 122, 82), (196, 156, 112), (150, 140, 136))[int(rng.integers(3))]), light.colour
    )
    stripes, base = bool(rng.random() < 0.35), shade(wall, 0.72)

    def draw_wall(p: Pen) -> None:
        p.fade((0, 0, w, line + 0.01), [(0, shade(wall, 0.9), 1), (0.6, wall, 1), (1, shade(wall, 1.04), 1)])
        if stripes:
            for i in range(int(w / 0.07) + 1):
                p.rect(i * 0.07, 0, i * 0.07 + 0.03, line, shade(wall, 0.94))
        p.rect(0, line - 0.026, w, line + 0.002, base)

    def draw_floor(p: Pen) -> None:
        p.fade((0, line, w, h), [(0, shade(wood, 0.84), 1), (1, wood, 1)])
        for i in range(-9, 10):
            p.line([(w / 2 + i * 0.11, line), (w / 2 + i * 0.24, h)], 0.005, shade(wood, 0.74), 0.7)

    canvas.layer(draw_wall, "wall", ((name, 0.7),), big=True)
    canvas.layer(draw_floor, "floor", big=True)
    spans: list[tuple[float, float]] = []

    def free(x: float, r: float, slack: float = 0.9) -> bool:
        return all(abs(x - a) > (r + b) * slack for a, b in spans)

    if rng.random() < 0.72:
        x, tall = rng.uniform(0.2, 0.8) * w, min(line * 0.56, 0.42 * s)
        paint_window(rng, canvas, hour, light, line * rng.uniform(0.14, 0.22), x, tall)
        spans.append((x, tall * 0.55))
    hung = [t for t in THINGS.values() if t.place == "wall"]
    for _ in range(int(rng.integers(0, 3))):
        thing = hung[int(rng.integers(len(hung)))]
        height = thing.size * s * rng.uniform(0.85, 1.25)
        for _ in range(10):
            x = rng.uniform(0.1, 0.9) * w
            if free(x, height * thing.half_width + 0.02, 1.0):
                spans.append((x, height * thing.half_width))
                _stand(rng, canvas, thing, light, (x, line * rng.uniform(0.42, 0.56) + height * 0.3), height, 1, wall)
                break
    if rng.random() < 0.4:
        _stand(
            rng, canvas, THINGS["rug"], light, (rng.uniform(0.3, 0.7) * w, line + (h - line) * rng.uniform(0.75, 0.95)), 0.2 * s, 1, wood
        )
    kept = [t for t in THINGS.values() if "floor" in t.places]
    spans.clear()
    count = int(rng.choice([1, 2, 3, 4], p=[0.16, 0.34, 0.32, 0.18]))
    people = 0
    for near in sorted(float(rng.uniform(0.0, 1.0)) for _ in range(count)):
        odds = np.array([t.often * (0.55 if t.name in ("woman", "man", "girl", "boy") and people else 1.0) for t in kept])
        thing = kept[int(rng.choice(len(kept), p=odds / odds.sum()))]
        people += thing.name in ("woman", "man", "girl", "boy")
        if thing.name in ("door", "bookshelf", "stove"):
            near *= 0.1
        factor = float(rng.uniform(0.8, 1.15))
        height = thing.size * s * factor * (0.78 + 0.3 * near)
        y, reach = line + 0.012 + (h * 1.02 - line) * 0.85 * near, height * thing.half_width
        for _ in range(10):
            x = rng.uniform(0.08, 0.92) * w
            if free(x, reach, 0.75):
                break
        spans.append((x, reach))
        stand = _stand(rng, canvas, thing, light, (x, y), height, factor, wood)
        if thing.name == "table":
            _on_top(rng, canvas, light, stand, s)
    if light.night > 0.5:
        canvas.loose(lambda p: p.fade((0, 0, w, h), [(0, (24, 18, 44), 0.28), (1, (24, 18, 44), 0.12)]))
    return ("room", hour)


def _on_top(rng: np.random.Generator, canvas: Canvas, light: Light, table: Stand, s: float) -> None:
    small = [t for t in THINGS.values() if "top" in t.places and t.name not in ("lamp",)]
    x = table.x - table.reach * 0.7
    for _ in range(int(rng.integers(0, 4))):
        thing = small[int(rng.integers(len(small)))]
        height = thing.size * s * 0.34
        x += height * thing.half_width + rng.uniform(0.0, 0.04)
        if x > table.x + table.reach * 0.85:
            return
        _stand(rng, canvas, thing, light, (x, table.y - table.height * 0.98), height, 1, (90, 70, 60))
        x += height * thing.half_width


def _backdrop(rng: np.random.Generator, canvas: Canvas, light: Light, hour: str, line: float) -> None:
    """A wall, or the open air out of focus."""
    w = canvas.width
    if rng.random() < 0.6:
        name, wall = _wall_colour(rng, light)
        canvas.layer(
            lambda p: p.fade((0, 0, w, canvas.height), [(0, shade(wall, 0.86), 1), (0.7, wall, 1)]), "wall", ((name, 0.7),), big=True
        )
        if rng.random() < 0.35:
            tall = line * 0.7
            paint_window(rng, canvas, hour, light, line * 0.1, rng.uniform(0.15, 0.85) * w, tall)
    else:
        sky = SKY[hour]
        canvas.loose(lambda p: p.fade((0, 0, w, line + 0.02), [(0, sky.top, 1), (1, sky.bottom, 1)]))
        ridge = _ridge(rng, w, line, line * 0.3, 2)
        ground = str(rng.choice(["meadow", "lake", "beach", "field"]))
        far, near = (times(c, light.colour) for c in GROUND[ground])
        if rng.random() < 0.6:
            canvas.layer(
                lambda p: p.poly(
                    [*ridge, (w + 0.1, line + 0.05), (-0.1, line + 0.05)], mix(times((96, 136, 100), light.colour), sky.bottom, 0.35)
                ),
                "hills",
                big=True,
            )
        canvas.layer(lambda p: p.fade((0, line, w, canvas.height), [(0, far, 1), (1, near, 1)]), ground, big=True)


def paint_still_life(rng: np.random.Generator, canvas: Canvas) -> tuple[str, ...]:
    """One to four small things on a table, close up."""
    hour, light = _hour(rng)
    w, h = canvas.width, canvas.height
    line = h * rng.uniform(0.5, 0.7)
    _backdrop(rng, canvas, light, hour, line)
    name = str(rng.choice(["brown", "white", "blue", "green", "red", "beige"]))
    top = times(mix(COLOURS[name], (210, 190, 160), 0.25), light.colour)

    def tabletop(p: Pen) -> None:
        p.fade((0, line, w, h), [(0, shade(top, 0.86), 1), (1, top, 1)])
        if name == "brown":
            for i in range(1, 6):
                y = line + (h - line) * (i / 6) ** 1.4
                p.line([(0, y), (w, y + 0.006)], 0.004, shade(top, 0.8), 0.8)

    canvas.layer(tabletop, "tabletop", ((name, 0.6),), big=True)
    pool = [t for t in THINGS.values() if "top" in t.places]
    count = int(rng.choice([1, 2, 3, 4], p=[0.26, 0.36, 0.26, 0.12]))
    spans: list[tuple[float, float]] = []
    for near in sorted(float(rng.uniform(0, 1)) for _ in range(count)):
        thing = pool[int(rng.integers(len(pool)))]
        factor = float(rng.uniform(0.75, 1.25))
        height = thing.size * canvas.scale * factor * (1.15 - 0.14 * count) * (0.85 + 0.2 * near)
        reach = height * thing.half_width
        x = free_place(rng, (0.12, 0.88), w, reach, spans, 0.85, 12)
        said = dressed(rng, thing, light, "", factor)
        stand = Stand(thing, said.look, x, line + (h - line) * (0.14 + 0.72 * near), height, said.flip, sun=float(rng.uniform(-0.8, 0.8)))
        canvas.loose(partial(draw_shadow, s=stand, ground=top, light=light))
        canvas.layer(partial(draw_standing, s=stand), thing.name, said.before, said.after)
    return ("still life", hour)


def paint_portrait(rng: np.random.Generator, canvas: Canvas) -> tuple[str, ...]:
    """One or two people from the shoulders up."""
    hour, light = _hour(rng)
    w, h = canvas.width, canvas.height
    _backdrop(rng, canvas, light, hour, h * rng.uniform(0.5, 0.7))
    pair = rng.random() < (0.3 if w >= h else 0.08)
    for x in (0.29, 0.71) if pair else (float(rng.uniform(0.36, 0.64)),):
        thing = THINGS[str(rng.choice(list(PORTRAIT_TRAITS)))]
        height = min(rng.uniform(0.78, 1.0) * h, (0.62 if pair else 1.0) * w)
        said = dressed(rng, thing, light, traits=PORTRAIT_TRAITS[thing.name])
        stand = Stand(thing, said.look, x * w, h * 1.01, height, said.flip, sun=float(rng.uniform(-1, 1)))
        canvas.layer(partial(draw_standing, s=stand), thing.name, said.before, said.after)
    return (hour,)
