"""Looks of even shapes: what is faintly uneven in them is evened out, edges stay."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from .frame import Rect


@dataclass(frozen=True)
class Even:
    """look: the phrase that asks for it; reach: how far round a place is looked, in pixels of the sheet; faint: the deviation within that
    reach, of 0..1, of which half stays; of what differs much more nearly all does."""

    look: str
    reach: float
    faint: float

    def evened(self, picture: np.ndarray, rect: Rect, amount: np.ndarray) -> np.ndarray:
        """A picture (h, w, 3) float32 0..1 of a part of the sheet, evened out as much as amount (h, w) 0..1 says: by a guided filter with
        the picture as its own guide, all channels alike (He, Sun, Tang, "Guided image filtering", 2010)."""
        n, channels = 2 * max(1, round(self.reach * picture.shape[0] / rect.height)) + 1, picture.shape[2]

        def mean(x: np.ndarray) -> np.ndarray:
            return np.asarray(ndimage.uniform_filter(x, (n, n, 1)[: x.ndim], mode="nearest"))

        def squares(x: np.ndarray) -> np.ndarray:
            return np.asarray(np.einsum("hwc,hwc->hw", x, x) / np.float32(channels))

        means = mean(picture)
        spread = np.maximum(mean(squares(picture)) - squares(means), 0)
        keeps = spread / (spread + np.float32(self.faint**2))
        means *= (1 - keeps)[..., None]
        out = mean(means)
        out += (mean(keeps) - 1)[..., None] * picture
        out *= amount[..., None]
        out += picture
        return out
