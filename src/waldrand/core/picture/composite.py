"""Laying pixels over pixels: bit-exact wherever an edge is 0, and in strips, so that a large picture needs little memory beside itself."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

#: Pixels that are worked on at a time.
STRIP = 2_000_000


def strips(height: int, width: int) -> Iterator[slice]:
    """Rows of a picture, few enough at a time."""
    step = max(1, STRIP // max(1, width))
    return (slice(y, min(y + step, height)) for y in range(0, height, step))


def lay_over(below: np.ndarray, patch: np.ndarray, alpha: np.ndarray) -> np.ndarray:
    """patch (H, W, 3) over below (H, W, 4), both uint8 sRGB, by alpha (H, W) uint8 -> (H, W, 4) uint8.

    Where alpha is 0 the bytes of `below` come back unchanged; where 255, the patch's, opaque. Between, colours
    are mixed by share of coverage, transparent pixels below counting less.
    """
    out = np.empty_like(below)
    for rows in strips(*alpha.shape):
        out[rows] = _mixed(below[rows], patch[rows], alpha[rows])
    return out


def _mixed(below: np.ndarray, patch: np.ndarray, alpha: np.ndarray) -> np.ndarray:
    a = alpha.astype(np.uint32)
    b = below[..., 3].astype(np.uint32)
    # All in 1/255^2 units, rounded once, so that equal colours stay equal.
    over, under = a * 255, (255 - a) * b
    total = over + under
    mixed = (
        patch.astype(np.uint32) * over[..., None] + below[..., :3].astype(np.uint32) * under[..., None] + total[..., None] // 2
    ) // np.maximum(total, 1)[..., None]
    out = np.empty_like(below)
    out[..., :3] = mixed
    out[..., 3] = (total + 127) // 255
    untouched = alpha == 0
    out[untouched] = below[untouched]
    return out
