"""A cut-out laid into a picture: moved, scaled and turned, its own pixels drawn once."""

from __future__ import annotations

import math

import numpy as np
from scipy import ndimage

from ..refused import Refused
from ..worded import worded
from .resample import resize_rgba, to_linear, to_srgb

#: How small and how large a cut-out may be drawn.
LEAST_SCALE, MOST_SCALE = 0.01, 64.0


def visible_box(pixels: np.ndarray) -> tuple[int, int, int, int]:
    """x0, y0, x1, y1 round what is visible of (H, W, 4) uint8.

    Raises:
        Refused: nothing is.
    """
    rows, columns = (np.flatnonzero((pixels[..., 3] > 0).any(axis)) for axis in (1, 0))
    if not len(rows):
        raise Refused(worded("The cut-out is empty: nothing of it is visible."))
    return int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1


def placed(pixels: np.ndarray, at: tuple[float, float], scale: float = 1.0, turn: float = 0.0) -> tuple[np.ndarray, int, int]:
    """What is visible of a cut-out (H, W, 4) uint8, scaled and turned clockwise by degrees, its middle at a point of a sheet: its pixels
    (h, w, 4) uint8, and where its upper left corner comes to lie.

    Raises:
        Refused: nothing is visible, or it would be far too small or too large.
    """
    if not LEAST_SCALE <= scale <= MOST_SCALE:
        raise Refused(worded("The scale goes from {0:g} to {1:g}; {2:g} is outside.", LEAST_SCALE, MOST_SCALE, scale))
    x0, y0, x1, y1 = visible_box(pixels)
    own = pixels[y0:y1, x0:x1]
    h, w = max(1, round(scale * own.shape[0])), max(1, round(scale * own.shape[1]))
    own = resize_rgba(np.ascontiguousarray(own), h, w)
    if turn % 360:
        own = turned(own, turn)
    h, w = own.shape[:2]
    return own, round(at[0] - w / 2), round(at[1] - h / 2)


def turned(pixels: np.ndarray, degrees: float) -> np.ndarray:
    """(H, W, 4) uint8 turned clockwise about its middle, with as much room as that needs; quarters exactly."""
    quarters, rest = divmod(degrees % 360, 90)
    own = np.rot90(pixels, -int(quarters))
    if rest < 1e-6:
        return np.ascontiguousarray(own)
    angle = math.radians(rest)
    h, w = own.shape[:2]
    height, width = (math.ceil(abs(a * math.cos(angle)) + abs(b * math.sin(angle))) for a, b in ((h, w), (w, h)))
    c, s = math.cos(angle), math.sin(angle)
    matrix = np.array([[c, -s], [s, c]])
    offset = np.array([h - 1, w - 1]) / 2 - matrix @ (np.array([height - 1, width - 1]) / 2)
    alpha = own[..., 3].astype(np.float32) / 255
    # Colours weigh by their alpha, in linear light.
    parts = [*np.moveaxis(to_linear(own[..., :3].astype(np.float32) / 255) * alpha[..., None], -1, 0), alpha]
    drawn = [ndimage.affine_transform(p, matrix, offset, (height, width), order=1) for p in parts]
    a = np.clip(drawn[3], 0, 1)
    rgb = to_srgb(np.clip(np.stack(drawn[:3], -1) / np.maximum(a, 1 / 255)[..., None], 0, 1))
    return np.asarray(np.concatenate([rgb, a[..., None]], -1) * 255 + 0.5, np.uint8)
