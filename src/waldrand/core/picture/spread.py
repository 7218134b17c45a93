"""Masks and drawings made broader."""

from __future__ import annotations

import numpy as np


def spread(mask: np.ndarray, reach: int) -> np.ndarray:
    """A mask (H, W), 0 or more, in which each place has the largest value of those up to `reach` pixels away along each side. Windows are
    doubled (the largest of two that overlap is that of both): a few passes over whole arrays, several times quicker than a look at each
    window by itself."""
    height, width = mask.shape
    out = np.zeros((height + 2 * reach, width + 2 * reach), mask.dtype)
    out[reach : reach + height, reach : reach + width] = mask
    have, side = 1, 2 * reach + 1
    while have < side:
        more = min(have, side - have)
        out = np.maximum(out[:-more], out[more:])
        out = np.maximum(out[:, :-more], out[:, more:])
        have += more
    return out
