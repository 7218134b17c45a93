"""The ink of a look that is drawn in ink: lines of its own colour along all that is drawn."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class LookInk:
    """look: the phrase that asks for it; amount: how much a line covers, 0..1; colour: sRGB 0..255."""

    look: str
    amount: float
    colour: tuple[float, float, float]

    def over(self, picture: np.ndarray, lines: np.ndarray, amount: np.ndarray) -> np.ndarray:
        """A picture (h, w, 3) float32 0..1 with lines (h, w) 0..1 drawn over it; amount: (h, w) 0..1, how much of the ink there is."""
        colour = np.array(self.colour, np.float32) / 255
        return np.asarray(picture + (self.amount * amount * lines)[..., None] * (colour - picture), np.float32)
