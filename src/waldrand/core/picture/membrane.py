"""A smooth sheet stretched over a hole: the solution of Laplace's equation inside it that meets what is given round it.

Carried as a difference it makes a seam vanish (Pérez, Gangnet and Blake, "Poisson image editing", 2003, with a zero guidance field).
"""

from __future__ import annotations

import numpy as np
from scipy import sparse
from scipy.sparse.linalg import splu

from .resample import resize_mask

#: Pixels up to which the equations are solved at once; larger holes begin from half their size.
AT_ONCE = 30_000
#: Sweeps that smooth what comes from half the size: at the most and at the least, and over how many pixels altogether; what half a large
#: size leaves to be smoothed is only what is next to the edge.
SWEEPS, LEAST_SWEEPS, SWEPT = 60, 10, 6_000_000
#: What is given of a pixel of half the size for it to count as given: of a line one pixel wide at an odd size, a little less than half.
LEAST_GIVEN = 0.25


def stretched(values: np.ndarray, hole: np.ndarray) -> np.ndarray:
    """(H, W, C) float32 with what lies in the hole (H, W) bool replaced by a membrane over it; where the picture ends, it ends level.
    Without anything round the hole: zeros in it."""
    out = np.array(values, np.float32)
    if not hole.any():
        return out
    if hole.all():
        out[:] = 0
        return out
    rows, columns = np.flatnonzero(hole.any(1)), np.flatnonzero(hole.any(0))
    # With one pixel round it, where there is one.
    y0, y1 = max(0, rows[0] - 1), min(hole.shape[0], rows[-1] + 2)
    x0, x1 = max(0, columns[0] - 1), min(hole.shape[1], columns[-1] + 2)
    part = slice(y0, y1), slice(x0, x1)
    out[part] = _solved(out[part], hole[part])
    return out


def _solved(values: np.ndarray, hole: np.ndarray) -> np.ndarray:
    if int(hole.sum()) <= AT_ONCE or min(hole.shape) < 8:
        return _exact(values, hole)
    h, w = (n // 2 for n in hole.shape)
    share = resize_mask((~hole).astype(np.float32), h, w)
    given = np.stack([resize_mask(np.where(hole, 0, values[..., c]).astype(np.float32), h, w) for c in range(values.shape[2])], -1)
    inner = share < LEAST_GIVEN
    # What little is given is not lost.
    inner = share <= 0 if inner.all() else inner
    small = _solved((given / np.maximum(share, 1e-6)[..., None]).astype(np.float32), inner)
    out = values.copy()
    for c in range(values.shape[2]):
        out[..., c] = np.where(hole, _twice(small[..., c], *hole.shape), values[..., c])
    for _ in range(int(np.clip(SWEPT / int(hole.sum()), LEAST_SWEEPS, SWEEPS))):
        out = np.where(hole[..., None], _neighbours(out), out)
    return out


def _twice(small: np.ndarray, height: int, width: int) -> np.ndarray:
    """A small picture drawn large, evenly between its middles."""
    ys = np.clip((np.arange(height) + 0.5) * small.shape[0] / height - 0.5, 0, small.shape[0] - 1)
    xs = np.clip((np.arange(width) + 0.5) * small.shape[1] / width - 0.5, 0, small.shape[1] - 1)
    y0, x0 = np.minimum(ys.astype(int), small.shape[0] - 2).clip(0), np.minimum(xs.astype(int), small.shape[1] - 2).clip(0)
    fy, fx = (ys - y0)[:, None].astype(np.float32), (xs - x0)[None].astype(np.float32)
    y1, x1 = np.minimum(y0 + 1, small.shape[0] - 1), np.minimum(x0 + 1, small.shape[1] - 1)
    top = small[y0][:, x0] * (1 - fx) + small[y0][:, x1] * fx
    return np.asarray(top * (1 - fy) + (small[y1][:, x0] * (1 - fx) + small[y1][:, x1] * fx) * fy, np.float32)


def _neighbours(values: np.ndarray) -> np.ndarray:
    """The mean of each pixel's four neighbours, the border's being its own."""
    p = np.pad(values, ((1, 1), (1, 1), (0, 0)), mode="edge")
    return np.asarray((p[:-2, 1:-1] + p[2:, 1:-1] + p[1:-1, :-2] + p[1:-1, 2:]) / 4, np.float32)


def _exact(values: np.ndarray, hole: np.ndarray) -> np.ndarray:
    h, w = hole.shape
    number = np.full((h, w), -1)
    ys, xs = np.nonzero(hole)
    n = len(ys)
    number[ys, xs] = np.arange(n)
    right, count = np.zeros((n, values.shape[2])), np.zeros(n)
    row, column = [np.arange(n)], [np.arange(n)]
    for dy, dx in ((0, 1), (0, -1), (1, 0), (-1, 0)):
        y, x = ys + dy, xs + dx
        ok = (y >= 0) & (y < h) & (x >= 0) & (x < w)
        count += ok
        at = number[y[ok], x[ok]]
        mine = np.flatnonzero(ok)
        inner = at >= 0
        row.append(mine[inner])
        column.append(at[inner])
        outer = mine[~inner]
        right[outer] += values[y[ok][~inner], x[ok][~inner]]
    if not right.any() and not values[~hole].any():
        return np.where(hole[..., None], 0, values).astype(np.float32)
    data = np.concatenate([count, *(-np.ones(len(r)) for r in row[1:])])
    matrix = sparse.csc_matrix((data, (np.concatenate(row), np.concatenate(column))), (n, n))
    out = np.array(values, np.float32)
    # A part of the hole that nothing touches has no answer; a trace of pull towards 0 gives it one.
    out[ys, xs] = splu(matrix + sparse.identity(n, format="csc") * 1e-9).solve(right)
    return out
