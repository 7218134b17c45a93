"""Soft round spots, and such that are drawn out to a stroke: stars, flakes, drops."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Spot:
    """In pixels of a picture. x, y: its upper end; right, down: how far from there its lower one lies; thick: half its width."""

    x: float
    y: float
    thick: float
    right: float = 0.0
    down: float = 0.0

    def seen(self, height: int, width: int, beyond: float = 0.0) -> tuple[slice, slice]:
        """Rows and columns of a picture of that size in which it may be seen, and so much beyond it; empty where it lies outside."""
        r = self.thick + beyond + 1
        rows, columns = (
            slice(max(0, math.floor(min(a, a + by) - r)), max(0, min(size, math.ceil(max(a, a + by) + r))))
            for a, by, size in ((self.y, self.down, height), (self.x, self.right, width))
        )
        return rows, columns

    def outside(self, rows: slice, columns: slice) -> np.ndarray:
        """How far the middles of some pixels lie outside it, (rows, columns) float64, less than 0 within."""
        yy = np.arange(rows.start, rows.stop)[:, None] + 0.5 - self.y
        xx = np.arange(columns.start, columns.stop) + 0.5 - self.x
        if self.right or self.down:
            along = np.clip((yy * self.down + xx * self.right) / (self.right**2 + self.down**2), 0, 1)
            yy, xx = yy - along * self.down, xx - along * self.right
        return np.asarray(np.hypot(yy, xx) - self.thick)
