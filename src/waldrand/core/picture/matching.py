"""What was laid over a picture brought to its surroundings: colour and light, and no seam; and how visible an edge is."""

from __future__ import annotations

import numpy as np
from scipy import ndimage

from .membrane import stretched
from .resample import to_linear, to_srgb
from .spread import spread

#: Pixels on either side of an edge that are compared, and how far contrast may be changed.
RING, MOST_GAIN = 16, 2.0
#: Pixels from an edge at which a picture's own gradients are taken.
BESIDE = (2, 6)
#: Pixels of an edge over which its steps are averaged when the worst of it is looked for.
ALONG = 15


def brought_to(over: np.ndarray, region: np.ndarray, below: np.ndarray, known: np.ndarray, match: float, seamless: float) -> np.ndarray:
    """over (H, W, 3) uint8, seen where region (H, W) bool, brought to what lies below (H, W, 3) uint8, which is known where `known`
    (H, W) bool: (H, W, 3) uint8, changed only in the region.

    match, 0..1: by so much its mean and spread, in linear light, become those of what lies round it; seamless, 0..1: by so much of the
    difference at its edge, carried smoothly inward, it is changed. Where nothing lies round it, it stays as it is.
    """
    outside = ~region & known
    near_in, near_out = region & spread(outside, RING), outside & spread(region, RING)
    made = over.astype(np.float32) / 255
    if match > 0 and near_in.any() and near_out.any():
        made = _matched(made, region, made[near_in], below[near_out].astype(np.float32) / 255, match)
    if seamless > 0 and near_out.any():
        made = made + seamless * _difference(made, region, outside, below.astype(np.float32) / 255)
    out = np.where(region[..., None], np.clip(made, 0, 1) * 255 + 0.5, over)
    return out.astype(np.uint8)


def _matched(made: np.ndarray, region: np.ndarray, mine: np.ndarray, theirs: np.ndarray, amount: float) -> np.ndarray:
    a, b = to_linear(mine), to_linear(theirs)
    gain = np.clip((b.std(0) + 1e-3) / (a.std(0) + 1e-3), 1 / MOST_GAIN, MOST_GAIN) ** amount
    inside = to_linear(made[region])
    mean = a.mean(0)
    out = made.copy()
    out[region] = to_srgb(np.clip((inside - mean) * gain + mean + amount * (b.mean(0) - mean), 0, 1))
    return out


def _difference(made: np.ndarray, region: np.ndarray, outside: np.ndarray, below: np.ndarray) -> np.ndarray:
    """What is missing at a region's edge to go on from outside without a step, carried inward over a membrane, (H, W, 3)."""
    # At the outermost pixels of the region: what lies just outside of it, on the mean of their neighbours there.
    share = ndimage.uniform_filter(outside.astype(np.float32), 3, mode="constant")
    rim = region & (share > 1e-6)
    beside = np.stack([ndimage.uniform_filter(np.where(outside, below[..., c], 0), 3, mode="constant") for c in range(3)], -1)
    off = np.where(rim[..., None], beside / np.maximum(share, 1e-6)[..., None] - made, 0).astype(np.float32)
    inner = region & ~rim
    # Where the region meets the end of the picture there is nothing to go on from.
    return np.where(region[..., None], stretched(off, inner), 0).astype(np.float32)


def seam(picture: np.ndarray, region: np.ndarray) -> float | None:
    """How visible a region's edge is in a picture (H, W, 3) uint8: the mean step across it against the picture's own mean step a few
    pixels to either side; 1 is as anywhere else. None where there is no edge inside the picture."""
    if region.all() or not region.any():
        return None
    grey = picture[..., :3].astype(np.float32).mean(-1)
    across, own = [], []
    # So near to an edge steps along the rows and columns are as good a measure as any, and soon counted.
    depth = np.where(region, *(ndimage.distance_transform_cdt(r, "chessboard") for r in (region, ~region)))
    for axis in (0, 1):
        step = np.abs(np.diff(grey, axis=axis))
        a, b = (np.take(region, range(n, region.shape[axis] - 1 + n), axis) for n in (0, 1))
        near = np.minimum(*(np.take(depth, range(n, region.shape[axis] - 1 + n), axis) for n in (0, 1)))
        across.append(step[a != b])
        own.append(step[(a == b) & (near >= BESIDE[0]) & (near <= BESIDE[1])])
    steps, usual = np.concatenate(across), np.concatenate(own)
    if not len(steps) or not len(usual):
        return None
    return float((steps.mean() + 0.5) / (usual.mean() + 0.5))


def worst_step(picture: np.ndarray, region: np.ndarray) -> tuple[int, int] | None:
    """Where a region's edge is most visible in a picture (H, W, 3) uint8: row and column, the steps across it averaged along a bit of
    it. None where there is no edge inside the picture."""
    if region.all() or not region.any():
        return None
    grey = picture[..., :3].astype(np.float32).mean(-1)
    steps, count = np.zeros(region.shape, np.float32), np.zeros(region.shape, np.float32)
    for axis in (0, 1):
        crosses = np.diff(region, axis=axis)
        here = tuple(slice(None, -1) if i == axis else slice(None) for i in (0, 1))
        steps[here] += np.abs(np.diff(grey, axis=axis)) * crosses
        count[here] += crosses
    if not count.any():
        return None
    along = ndimage.uniform_filter(steps, ALONG) / np.maximum(ndimage.uniform_filter(count, ALONG), 1e-6)
    row, column = np.unravel_index(int(np.argmax(np.where(count > 0, along, -1))), region.shape)
    return int(row), int(column)
