"""Laying pixels over pixels: bit-exact wherever an edge is 0, and in strips, so that a large picture needs little memory beside itself."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
from scipy import ndimage

#: Pixels that are worked on at a time.
STRIP = 2_000_000


def strips(height: int, width: int) -> Iterator[slice]:
    """Rows of a picture, few enough at a time."""
    step = max(1, STRIP // max(1, width))
    return (slice(y, min(y + step, height)) for y in range(0, height, step))


def edge_alpha(region: np.ndarray, grow: float = 0.0, feather: float = 0.0) -> np.ndarray:
    """How much of a patch shows, (H, W) uint8.

    region: (H, W), painted where above 0. grow: pixels outwards (negative: inwards), by exact Euclidean
    distance. feather: width in pixels of the ramp, which lies inside the grown outline. The picture's own
    border is no edge: what runs into it stays opaque there.
    """
    solid = region > 0
    if grow == 0 and feather <= 1e-3:
        return np.where(solid, 255, 0).astype(np.uint8)
    if not solid.any():
        return np.zeros(region.shape, np.uint8)
    if solid.all():
        return np.full(region.shape, 255, np.uint8)
    height, width = solid.shape
    # Farther from the edge than this nothing is between all and nothing, so strips need no longer look round them.
    reach = math.ceil(abs(grow) + feather) + 2
    out = np.empty(solid.shape, np.uint8)
    for rows in strips(height, width):
        first, last = max(0, rows.start - reach), min(height, rows.stop + reach)
        out[rows] = _edge(solid[first:last], grow, feather)[rows.start - first : rows.stop - first]
    return out


def _edge(solid: np.ndarray, grow: float, feather: float) -> np.ndarray:
    if solid.all() or not solid.any():
        return np.full(solid.shape, 255 if solid.all() else 0, np.uint8)
    inside = ndimage.distance_transform_edt(solid) - 0.5
    outside = ndimage.distance_transform_edt(~solid) - 0.5
    depth = np.where(solid, inside, -outside) + grow
    alpha = np.clip(depth / feather, 0, 1) if feather > 1e-3 else (depth > 0).astype(float)
    return np.asarray(np.round(alpha * 255), np.uint8)


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
