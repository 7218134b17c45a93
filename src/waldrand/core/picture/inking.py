"""Lines gone over in ink: drawn into a picture in a darker tone of what lies beside them."""

from __future__ import annotations

import numpy as np
from scipy import ndimage

#: How dark ink is, in shares of the darkest colour beside it; how far beside, in shares of the picture's shorter side, at least two pixels.
DARK, BESIDE = 0.35, 1 / 256
#: How soft a line's edge is, in pixels, and how much stronger that makes it again.
SOFT, STRONGER = 0.5, 1.2


def inked(picture: np.ndarray, lines: np.ndarray, amount: np.ndarray) -> np.ndarray:
    """A picture (h, w, 3) float32 0..1 with lines (h, w) 0..1 gone over in ink; amount: (h, w) 0..1, how much of it. Where there is no
    line, or no ink, it stays as it is."""
    cover = amount * np.clip(STRONGER * ndimage.gaussian_filter(lines, SOFT), 0, 1)
    if not cover.any():
        return picture
    reach = max(2, round(BESIDE * min(lines.shape)))
    darkest = ndimage.minimum_filter(picture, (2 * reach + 1, 2 * reach + 1, 1))
    tone = DARK * ndimage.gaussian_filter(darkest, (0.75 * reach, 0.75 * reach, 0))
    return np.asarray(picture + cover[..., None] * (np.minimum(tone, picture) - picture), np.float32)
