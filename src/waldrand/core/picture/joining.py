"""The tone of what was painted on, or in a hole, brought to that of the picture it goes on from."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from scipy import ndimage

from .membrane import stretched
from .resample import resize_mask

#: Pixels of a patch in which tones are compared, and by how much one may be brought to another: more is no tone, but another thing.
PATCH, MOST = 8, 0.1
#: The same of a thing that is known to be the same one.
MOST_OF_PART = 0.25
#: Pixels on either side of a hole's edge that are compared, and what of a patch has to be compared for it to have a say.
RING, LEAST = 5, 0.04


def joined_on(made: np.ndarray, old: np.ndarray, both: np.ndarray) -> np.ndarray:
    """A picture (H, W, 3) float32 0..1 whose tone is that of an old one where both show the same, and which goes over from there into
    what is new as a membrane would.

    both: (H, W) bool, where the old one was painted again.
    """
    old_mean, share = _means(old, both)
    made_mean, _ = _means(made, both)
    return _brought(made, np.clip(old_mean - made_mean, -MOST, MOST), share > LEAST)


def joined_in(made: np.ndarray, old: np.ndarray, hole: np.ndarray, parts: Sequence[np.ndarray] = ()) -> np.ndarray:
    """The same for what was painted in a hole (H, W) bool of an old picture: what lies just inside its edge gets the tone of what lies
    just outside of it. Where the two differ by more than a tone, something else begins, which stays.

    parts: (H, W) bool each, apart from each other, what belongs to a thing that goes on in the hole: its tone is its own.
    """
    rest = ~np.any(parts, 0) if len(parts) else np.ones_like(hole)
    out = np.array(made, np.float32)
    for part, most in ((rest, MOST), *((part, MOST_OF_PART) for part in parts)):
        inner, outer = (~w & ndimage.binary_dilation(w, iterations=RING) & part for w in (~hole, hole))
        old_mean, shown = _lent(*_means(old, outer))
        made_mean, within = _lent(*_means(made, inner))
        apart = old_mean - made_mean
        alike = (shown > LEAST) & (within > LEAST) & (np.abs(apart).max(-1) <= most)
        out = np.where((hole & part)[..., None], _brought(made, apart, alike), out)
    return out


def _means(picture: np.ndarray, where: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """A picture's mean in each patch of what lies where it counts, (rows, columns, 3), and how much of the patch that is."""
    rows, columns = (max(1, n // PATCH) for n in where.shape)
    share = resize_mask(where.astype(np.float32), rows, columns)
    of = [resize_mask(np.where(where, picture[..., c], 0).astype(np.float32), rows, columns) for c in range(3)]
    return np.stack(of, -1) / np.maximum(share, 1e-6)[..., None], share


def _lent(means: np.ndarray, share: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The same, but patches that have too little to compare are lent what one beside them has: an edge may run between two."""
    n, m = share.shape
    shares, of = np.pad(share, 1), np.pad(means, ((1, 1), (1, 1), (0, 0)))
    beside = [(slice(y, y + n), slice(x, x + m)) for y, x in ((0, 1), (2, 1), (1, 0), (1, 2))]
    most = np.argmax([shares[at] for at in beside], 0)
    short = share <= LEAST
    means = np.where(short[..., None], np.choose(most[..., None], [of[at] for at in beside]), means)
    return means, np.where(short, np.choose(most, [shares[at] for at in beside]), share)


def _brought(made: np.ndarray, apart: np.ndarray, given: np.ndarray) -> np.ndarray:
    """A picture changed by what is given in some patches, carried over a membrane to all others."""
    if not given.any():
        return made
    h, w = made.shape[:2]
    # One patch that shows something else has no say.
    framed = np.pad(np.where(given[..., None], apart, np.nan), ((1, 1), (1, 1), (0, 0)), constant_values=np.nan)
    around = sliding_window_view(framed, (3, 3), (0, 1))
    tone = np.zeros((*given.shape, 3), np.float32)
    tone[given] = np.nanmedian(around[given], (-2, -1))
    tone = stretched(tone, ~given)
    large = ndimage.zoom(tone, (h / given.shape[0], w / given.shape[1], 1), order=1, grid_mode=True, mode="nearest")
    return np.asarray(np.clip(made + large, 0, 1), np.float32)
