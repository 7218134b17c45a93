"""What falls before a whole picture: flakes of snow, drops of rain. Laid over what is painted, the same wherever a part of it is painted
again; told as lines, some would be painted dark and some not at all."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ..noise.noise import FALL
from .frame import Rect
from .spots import Spot

#: Places for spots are drawn square by square; the middle one is so many squares from the first.
MIDDLE = 1 << 15
#: Half the width of a line round a spot, in shares of the picture's side.
LINE = 0.0022
Range = tuple[float, float]


@dataclass(frozen=True)
class Whole:
    """The picture that something falls before. seed: by which; x, y: its upper left corner on the sheet; side: of a square one of its
    area, in pixels of the sheet."""

    seed: int
    x: float
    y: float
    side: float


@dataclass(frozen=True)
class Fall:
    """said: the phrase that asks for it; but_in: phrases of what it does not fall in; count: of spots in a square picture; thick: half
    their width, from least to most, in shares of its side; long: how far down they reach; aslant: how far aside on the way, in shares of
    that; colour: sRGB 0..255; covers: how much of what lies behind, 0..1."""

    said: str
    but_in: tuple[str, ...]
    count: int
    thick: Range
    long: Range
    aslant: float
    colour: tuple[float, float, float]
    covers: float

    def on(self, whole: Whole, rect: Rect, height: int, width: int) -> tuple[np.ndarray, np.ndarray]:
        """How much of each place of a part of the sheet is a spot, and how much a line round one, (height, width) float32 0..1 each."""
        spots, rims = np.zeros((2, height, width), np.float32)
        ky, kx = height / rect.height, width / rect.width
        line = LINE * whole.side * ky
        for x, y, thick, long in self._spots(whole, rect):
            spot = Spot((x - rect.x0) * kx, (y - rect.y0) * ky, thick * ky, self.aslant * long * kx, long * ky)
            at = spot.seen(height, width, line)
            if spots[at].size:
                off = spot.outside(*at)
                np.maximum(spots[at], np.clip(0.5 - off, 0, 1), out=spots[at])
                np.maximum(rims[at], np.clip(0.5 + line - np.abs(off), 0, 1), out=rims[at])
        return spots, rims

    def _spots(self, whole: Whole, rect: Rect) -> Iterator[tuple[float, float, float, float]]:
        """Upper ends on the sheet, half the widths and the lengths of all that may reach into a part of it."""
        reach = 1 + self.long[1] * max(1.0, abs(self.aslant)) + self.thick[1]
        (first_x, last_x), (first_y, last_y) = (
            (math.floor((low - at) / whole.side - reach) + 1, math.floor((high - at) / whole.side + reach))
            for low, high, at in ((rect.x0, rect.x1, whole.x), (rect.y0, rect.y1, whole.y))
        )
        for row in range(first_y, last_y + 1):
            for column in range(first_x, last_x + 1):
                rng = np.random.Generator(np.random.Philox(key=[whole.seed, FALL | (MIDDLE + row) << 16 | (MIDDLE + column)]))
                for x, y, thick, long in rng.uniform(size=(self.count, 4)):
                    yield (
                        whole.x + (column + x) * whole.side,
                        whole.y + (row + y) * whole.side,
                        float(np.interp(thick, (0, 1), self.thick)) * whole.side,
                        float(np.interp(long, (0, 1), self.long)) * whole.side,
                    )

    def laid(self, picture: np.ndarray, spots: np.ndarray, amount: np.ndarray) -> np.ndarray:
        """A picture (h, w, 3) float32 0..1 with spots (h, w) 0..1 before it; amount: (h, w) 0..1, how much of them there is."""
        colour = np.array(self.colour, np.float32) / 255
        return np.asarray(picture + (self.covers * amount * spots)[..., None] * (colour - picture), np.float32)
