"""The soft edge of a patch, in pixels of the sheet, changed at any time without painting it again."""

from __future__ import annotations

import math

import numpy as np
from scipy import ndimage

from .composite import strips

#: Feather of a kept inpaint, in sheet pixels.
KEPT_FEATHER = 8.0


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
