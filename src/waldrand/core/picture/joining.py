"""The tone of what was painted on brought to that of the picture it goes on from."""

from __future__ import annotations

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from scipy import ndimage

from .membrane import stretched
from .resample import resize_mask

#: Pixels of a patch in which tones are compared, and by how much one may be brought to another: more is no tone, but another thing.
PATCH, MOST = 8, 0.1


def joined_on(made: np.ndarray, old: np.ndarray, both: np.ndarray) -> np.ndarray:
    """A picture (H, W, 3) float32 0..1 whose tone is that of an old one where both show the same, and which goes over from there into
    what is new as a membrane would.

    both: (H, W) bool, where the old one was painted again.
    """
    h, w = both.shape
    rows, columns = max(1, h // PATCH), max(1, w // PATCH)
    share = resize_mask(both.astype(np.float32), rows, columns)
    if not share.any():
        return made
    # From 0 on, as values of masks are.
    apart = np.where(both[..., None], np.clip(old - made, -MOST, MOST) + MOST, 0).astype(np.float32)
    given = share > 0
    mean = np.stack([resize_mask(apart[..., c], rows, columns) for c in range(3)], -1) / np.maximum(share, 1e-6)[..., None] - MOST
    # One patch that shows something else has no say.
    framed = np.pad(np.where(given[..., None], mean, np.nan), ((1, 1), (1, 1), (0, 0)), constant_values=np.nan)
    around = sliding_window_view(framed, (3, 3), (0, 1))
    tone = np.zeros((rows, columns, 3), np.float32)
    tone[given] = np.nanmedian(around[given], (-2, -1))
    tone = stretched(tone, ~given)
    large = ndimage.zoom(tone, (h / rows, w / columns, 1), order=1, grid_mode=True, mode="nearest")
    return np.asarray(np.clip(made + large, 0, 1), np.float32)
