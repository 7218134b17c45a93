"""Skies by the time of day and the weather, and the light they give."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np

from .canvas import Canvas, Stand, draw_standing
from .dress import dressed
from .pen import Colour, Pen, mix, shade
from .things import THINGS, Light


@dataclass(frozen=True)
class Sky:
    """Colours from top to horizon; light: what falls on things; night 0..1."""

    top: Colour
    middle: Colour
    bottom: Colour
    light: Colour
    night: float


SKY = {
    "clear day": Sky((74, 138, 222), (130, 184, 238), (206, 230, 246), (1.0, 1.0, 1.0), 0.0),
    "cloudy day": Sky((150, 166, 186), (182, 194, 206), (216, 222, 226), (0.9, 0.91, 0.93), 0.05),
    "dawn": Sky((132, 136, 196), (226, 178, 196), (255, 222, 190), (0.98, 0.88, 0.88), 0.15),
    "sunset": Sky((78, 56, 132), (206, 92, 108), (255, 176, 96), (1.0, 0.77, 0.66), 0.4),
    "starry night": Sky((10, 14, 46), (22, 34, 84), (50, 72, 126), (0.58, 0.6, 0.82), 0.9),
    "storm": Sky((54, 60, 74), (92, 100, 114), (146, 154, 162), (0.64, 0.67, 0.72), 0.45),
    "rain": Sky((112, 122, 136), (142, 152, 164), (178, 186, 192), (0.76, 0.79, 0.83), 0.25),
    "snowfall": Sky((168, 178, 194), (196, 204, 216), (224, 230, 236), (0.9, 0.92, 0.97), 0.1),
    "fog": Sky((176, 188, 196), (200, 208, 212), (222, 226, 226), (0.86, 0.88, 0.9), 0.1),
}
OFTEN = {
    "clear day": 0.24,
    "cloudy day": 0.1,
    "dawn": 0.11,
    "sunset": 0.15,
    "starry night": 0.18,
    "storm": 0.05,
    "rain": 0.06,
    "snowfall": 0.04,
    "fog": 0.07,
}


#: The colour of stars.
STARS = (255, 250, 226)


def paint_sky(rng: np.random.Generator, canvas: Canvas, name: str, horizon: float, colours: tuple[Colour, Colour, Colour]) -> None:
    """The air from the top to the horizon, with stars and torn clouds."""
    top, middle, bottom = colours
    night = SKY[name].night
    w = canvas.width
    canvas.loose(lambda p: p.fade((0, 0, w, horizon + 0.03), [(0, top, 1), (0.6, middle, 1), (1, bottom, 1)]))
    # Stars, drops and flakes are as large as a denoiser can paint them: what is less than a quarter of a cell wide becomes flecks.
    count = int(rng.integers(14, 34))
    spots = [(rng.uniform(0, w), rng.uniform(0, 1) ** 1.15 * horizon, rng.uniform(0.0045, 0.0095)) for _ in range(count)]
    if night > 0.5:

        def stars(p: Pen) -> None:
            for x, y, r in spots:
                p.dot(x, y, r, STARS, 0.95)

        canvas.loose(stars)
    if name in ("storm", "rain", "cloudy day"):
        clouds = [(rng.uniform(0, w), rng.uniform(0, horizon * 0.7), rng.uniform(0.2, 0.5)) for _ in range(6)]

        def torn(p: Pen) -> None:
            for x, y, s in clouds:
                p.oval(x, y, s, s * 0.2, shade(top, 0.84 if name != "cloudy day" else 1.12), 0.5)

        canvas.loose(torn)
    elif rng.random() < 0.3:
        streaks = [(rng.uniform(0, w), rng.uniform(0.25, 0.95) * horizon, rng.uniform(0.1, 0.35)) for _ in range(4)]

        def veil(p: Pen) -> None:
            for x, y, s in streaks:
                p.oval(x, y, s, 0.012, mix(bottom, (255, 255, 255), 0.3 if night < 0.5 else 0.0), 0.5)

        canvas.loose(veil)


def hang_things(rng: np.random.Generator, canvas: Canvas, name: str, light: Light, horizon: float, season: str) -> float:
    """What hangs in the sky; returns where the light comes from, -1 (left) to 1 (right)."""
    night, clear = light.night > 0.5, name in ("clear day", "dawn", "sunset", "starry night")
    chance = {
        "moon": 0.36 if night else 0.04,
        "crescent moon": 0.36 if night else 0.04,
        "sun": 0.5 if clear and not night else 0.0,
        "rainbow": 0.3 if name == "rain" else 0.05 if name == "clear day" else 0.0,
        "cloud": 0.1 if night else 0.34,
        "balloon": 0.13,
        "airship": 0.07,
        "kite": 0.0 if night else 0.09,
        "bird": 0.2,
        "butterfly": 0.0 if night or season == "winter" else 0.05,
    }
    sun = float(rng.uniform(-1, 1))
    placed: list[tuple[float, float, float]] = []
    shining = False
    for kind, often in chance.items():
        if rng.random() >= often or (shining and kind in ("moon", "crescent moon", "sun")):
            continue
        thing = THINGS[kind]
        height = thing.size * min(canvas.scale, 0.4 + horizon) * rng.uniform(0.6, 1.3)
        for _ in range(8):
            x, y = rng.uniform(0.1, 0.9) * canvas.width, rng.uniform(0.12, 0.9) * horizon + height * 0.5
            if all(abs(x - a) > (height + h) * 0.6 or abs(y - b) > (height + h) * 0.5 for a, b, h in placed):
                break
        if kind in ("sun", "moon"):
            y = min(y, horizon + height * 0.1)
        if kind == "rainbow":
            y, height = horizon + 0.02, height * 1.3
        if kind in ("moon", "crescent moon", "sun"):
            shining, sun = True, 2 * x / canvas.width - 1
        placed.append((x, y, height))
        said = dressed(rng, thing, light, season)
        stand = Stand(thing, said.look, x, y, height, said.flip, sun=sun)
        canvas.layer(partial(draw_standing, s=stand), kind, said.before, said.after)
    return sun


#: What falls before everything out of doors, as a pack states it: how many spots, half their width, how far down and aside they reach.
FALLS: dict[str, dict[str, Any]] = {
    "rain": {"count": 28, "thick": (0.004, 0.004), "long": (0.07, 0.14), "aslant": 0.3, "colour": (226, 234, 242), "covers": 0.55},
    "snowfall": {"count": 48, "thick": (0.008, 0.016), "long": (0.0, 0.0), "aslant": 0.0, "colour": (250, 252, 255), "covers": 0.9},
}


def weather(rng: np.random.Generator, canvas: Canvas, name: str, horizon: float, bottom: Colour) -> None:
    """What falls or lies in front of everything."""
    w, h = canvas.width, canvas.height
    if name == "fog":
        strength = rng.uniform(0.35, 0.6)
        canvas.loose(
            lambda p: p.fade((0, 0, w, h), [(0, bottom, strength * 0.5), (float(horizon / h), bottom, strength), (1, bottom, 0.05)])
        )
    elif name in FALLS:
        fall, rain = FALLS[name], FALLS[name]["aslant"] > 0
        begin, sizes = (-0.1, fall["long"]) if rain else (0.0, fall["thick"])
        spots = [(rng.uniform(begin, w), rng.uniform(begin, h), rng.uniform(*sizes)) for _ in range(fall["count"])]

        def falling(p: Pen) -> None:
            for x, y, size in spots:
                if rain:
                    ends = [(x, y), (x + size * fall["aslant"], y + size)]
                    p.line(ends, 2 * fall["thick"][0], fall["colour"], fall["covers"])
                else:
                    p.dot(x, y, size, fall["colour"], fall["covers"])

        canvas.loose(falling)
