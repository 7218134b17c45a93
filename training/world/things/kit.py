"""What every thing is drawn with: its own choices, the light on it, and what can be said of it.

A thing is drawn standing at (0, 0), one unit high, y pointing down. Things that look to one side are drawn
looking right. Parts are kept large: what is smaller than a sixteenth of a thing is hardly ever learned. A
drawing uses no random numbers but `Look.r`: it is drawn several times (itself, its shadow, its reflection).
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import TypeVar

import numpy as np

from ..pen import Colour, Pen, shade, times

Form = TypeVar("Form")
INK = (30, 25, 32)
CREAM = (242, 234, 218)
GLOW = (255, 214, 120)
WOOD = (150, 106, 70)
LEAF = (84, 134, 62)


@dataclass(frozen=True)
class Light:
    """What falls on things: colour multipliers 0..1.2, and how dark the hour is (0 day .. 1 night)."""

    colour: Colour
    night: float


@dataclass(frozen=True)
class Look:
    """One thing's own choices. r: eight numbers 0..1; traits: slot -> what is said of it; season: "spring",
    "autumn", "winter" or "" (summer)."""

    tint: Colour | None
    lit: bool
    light: Light
    r: tuple[float, ...]
    traits: Mapping[str, str] = field(default_factory=dict)
    season: str = ""

    def dye(self, default: Colour, factor: float = 1.0) -> Colour:
        """The thing's main colour under the light."""
        return shade(times(self.tint or default, self.light.colour), factor)

    def fixed(self, colour: Colour, factor: float = 1.0) -> Colour:
        """A colour that does not follow the thing's tint, under the light."""
        return shade(times(colour, self.light.colour), factor)

    def contrast(self, light: Colour, dark: Colour) -> Colour:
        """A second colour that can be told from the main one."""
        return self.fixed(dark if self.tint is not None and sum(self.tint) > 560 else light)

    def form(self, *forms: Form) -> Form:
        """One of a thing's forms, each as often as the others."""
        return forms[min(int(self.r[7] * len(forms)), len(forms) - 1)]

    def is_(self, slot: str, *values: str) -> bool:
        return self.traits.get(slot, "") in values


Traits = Callable[[np.random.Generator], dict[str, str]]


def choose(rng: np.random.Generator, *options: str) -> str:
    return options[int(rng.integers(len(options)))]


def one_of(slot: str, *options: str) -> Traits:
    """Traits of one slot; an empty option says nothing."""

    def pick(rng: np.random.Generator) -> dict[str, str]:
        value = choose(rng, *options)
        return {slot: value} if value else {}

    return pick


@dataclass(frozen=True)
class Thing:
    """A kind of thing: its drawing; where it may be ("land", "water", "shore", "sky", "street", "field", "wall",
    "floor", "top", several joined by spaces); how high it is (share of the picture's height when near); its half
    width per height; and what can be said of it."""

    name: str
    draw: Callable[[Pen, Look], None]
    place: str
    size: float
    half_width: float
    colours: tuple[str, ...] = ()
    faces: bool = False
    lights: bool = False
    often: float = 1.0
    traits: Traits | None = None
    flat: bool = False

    @property
    def places(self) -> tuple[str, ...]:
        return tuple(self.place.split())
