"""Depth passes of 3D programs and other pictures of nearness: 8, 16 or 32 bits, near white or near black."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from ..core.picture.ink import flat, nearness, shade_of
from ..core.refused import Refused
from ..core.worded import worded
from .pictures import Picture, as_seen, opened_picture

#: Kinds of pictures whose values are finer than eight bits, and kinds that have a second channel.
FINE, TWO = ("I", "I;16", "I;16B", "I;16L", "I;16N", "F"), ("LA", "La")


def read_depth(path: Path, near_black: bool = False) -> Picture:
    """A depth, near white, as a grey picture (H, W, 4) uint8. Finer values are spread over all greys between the farthest and the
    nearest that are seen; what is no number, as the sky of some programs, is the farthest.

    Raises:
        Refused: it cannot be read, has two channels, or says that all is equally near.
    """
    image = opened_picture(path, str(path))
    if image.mode in TWO:
        raise Refused(worded("{0} has two channels, and which of them is the depth cannot be told: save it with one.", path))
    if image.mode in FINE:
        values = np.asarray(image).astype(np.float64)
        notes = [worded("{0} is finer than 8 bits: its depth is spread over all greys.", path)]
        pixels = shade_of(_spread(values, near_black))
    else:
        picture = as_seen(image, str(path))
        pixels, notes = picture.pixels, list(picture.notes)
        if near_black:
            pixels = turned(pixels)
    if flat(nearness(pixels)):
        raise Refused(worded("{0} says that all is equally near: it is no depth.", path))
    return Picture(pixels, tuple(notes))


def turned(pixels: np.ndarray) -> np.ndarray:
    """A depth (H, W, 4) uint8 whose near and far change places."""
    return np.dstack([255 - pixels[..., :3], pixels[..., 3:]])


def _spread(values: np.ndarray, near_black: bool) -> np.ndarray:
    """Values (H, W) from the farthest as 0 to the nearest as 1; all of it 0 where they are all the same."""
    known = np.isfinite(values)
    away = -values if near_black else values
    least, most = (float(of(away[known], initial=start)) for of, start in ((np.min, np.inf), (np.max, -np.inf)))
    if most <= least:
        return np.zeros_like(values)
    return np.where(known, (np.where(known, away, least) - least) / (most - least), 0.0)
