"""The grain of paper: the same paper all over a sheet, so that what is painted in parts joins."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from ..noise.noise import PAPER, field_noise
from .frame import Rect

#: A streak of the brush is so many grains long.
LONG = 8
#: The paper's middle is so many grains from where it begins, so that it goes on to all sides of a sheet.
MIDDLE = 1 << 19
#: By so much of the light a picture may differ from what lies round a place and still be compared with the paper: more is an edge.
FAINT = 0.1


@dataclass(frozen=True)
class Grain:
    """look: the phrase that asks for it; streaks, grain: how much they lighten and darken, deviations in shares of the light; side: of a
    grain, in pixels of the sheet."""

    look: str
    streaks: float
    grain: float
    side: float

    def on(self, rect: Rect, height: int, width: int) -> np.ndarray:
        """How much lighter or darker the paper makes each place of a part of the sheet, (height, width) float32 about 0."""
        down = (rect.y0 + (np.arange(height) + 0.5) * rect.height / height) / self.side
        across = (rect.x0 + (np.arange(width) + 0.5) * rect.width / width) / self.side
        return np.asarray(self.streaks * _between(PAPER, down, across / LONG) + self.grain * _between(PAPER + 1, down, across), np.float32)

    def laid(self, picture: np.ndarray, rect: Rect, amount: np.ndarray) -> np.ndarray:
        """A picture (h, w, 3) float32 0..1 of a part of the sheet on this paper; amount: (h, w) 0..1, how much of it is laid there. Of what
        was on this paper already, as much is laid as is missing: the share of the paper that is seen is told by least squares."""
        paper = self.on(rect, *picture.shape[:2])
        light = picture.mean(-1)
        reach = 2 * self.side * picture.shape[0] / rect.height
        faint, own = (x - ndimage.gaussian_filter(x, reach, mode="nearest") for x in (light, light * paper))
        near = amount * (np.abs(faint) < FAINT)
        seen = float((near * faint * own).sum() / max(float((near * own * own).sum()), 1e-9))
        missing = 1 - min(1.0, max(0.0, seen))
        return np.asarray(picture * (1 + missing * amount * paper)[..., None], np.float32)


def _between(purpose: int, down: np.ndarray, across: np.ndarray) -> np.ndarray:
    """An endless field of normal numbers, each in the middle of its square, so many squares down (h,) and across (w,) from the sheet's
    corner, linear between them."""
    parts = []
    for at in (MIDDLE + down - 0.5, MIDDLE + across - 0.5):
        first = int(np.floor(at[0]))
        whole = np.floor(at).astype(np.int64) - first
        parts.append((slice(first, first + int(whole[-1]) + 2), whole, (at - np.floor(at)).astype(np.float32)))
    (rows, y, fy), (columns, x, fx) = parts
    field = field_noise(0, purpose, 1, rows, columns)[0]
    rowed = field[:, x] * (1 - fx) + field[:, x + 1] * fx
    return np.asarray(rowed[y] * (1 - fy)[:, None] + rowed[y + 1] * fy[:, None])
