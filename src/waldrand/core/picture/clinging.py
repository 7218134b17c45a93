"""The way along a picture's edges from one point to another."""

from __future__ import annotations

import numpy as np
from scipy import ndimage, sparse
from scipy.sparse.csgraph import dijkstra

from .cutting import oklab

#: What a step costs where there is no edge at all, against one along the clearest; and pixels that edges are looked for over.
OFF_EDGE, BLUR = 1.0, 1.2
ON_EDGE = 0.04
#: Pixels a side of what is looked at; larger parts are looked at more coarsely.
MOST_SIDE = 320


def edge_cost(picture: np.ndarray) -> np.ndarray:
    """What a step through each pixel of (H, W, 3 or 4) uint8 costs: little along its edges, (H, W) float32 0..1."""
    lab = oklab(picture[..., :3].astype(np.float32) / 255)
    soft = ndimage.gaussian_filter(lab, (BLUR, BLUR, 0))
    slope = np.sqrt(sum(np.gradient(soft[..., c], axis=axis) ** 2 for c in range(3) for axis in (0, 1)))
    if picture.shape[-1] == 4:
        alpha = ndimage.gaussian_filter(picture[..., 3].astype(np.float32) / 255, BLUR)
        slope = slope + np.hypot(*np.gradient(alpha))
    clear = np.percentile(slope, 98) + 1e-6
    return np.asarray(ON_EDGE + (OFF_EDGE - ON_EDGE) * (1 - np.clip(slope / clear, 0, 1)) ** 2, np.float32)


class Clinging:
    """Ways along edges from one point of a picture (H, W, 3 or 4) uint8 to any other: all are found at once (Mortensen and Barrett,
    "Intelligent scissors for image composition", 1995: the cheapest path over a graph of neighbouring pixels)."""

    def __init__(self, picture: np.ndarray, x: float, y: float) -> None:
        h, w = picture.shape[:2]
        self._step = max(1, -(-max(h, w) // MOST_SIDE))
        cost = edge_cost(picture[:: self._step, :: self._step])
        self._shape = cost.shape
        start = np.array([self._index(x, y)])
        self._before = dijkstra(_graph(cost), directed=True, indices=start, return_predecessors=True)[1][0]

    def _index(self, x: float, y: float) -> int:
        rows, columns = self._shape
        row, column = (min(max(int(v / self._step), 0), n - 1) for v, n in ((y, rows), (x, columns)))
        return row * columns + column

    def to(self, x: float, y: float) -> list[tuple[float, float]]:
        """The points of the way, its begin first."""
        out, at = [], self._index(x, y)
        while at >= 0:
            row, column = divmod(at, self._shape[1])
            out.append(((column + 0.5) * self._step, (row + 0.5) * self._step))
            at = int(self._before[at])
        return out[::-1]


def _graph(cost: np.ndarray) -> sparse.csr_matrix:
    """Neighbouring pixels, aslant ones too, joined by what it costs to go from one to the other."""
    rows, columns = cost.shape
    index = np.arange(rows * columns).reshape(rows, columns)
    parts = []
    for dy, dx in ((0, 1), (1, 0), (1, 1), (1, -1)):
        here = (slice(0, rows - dy), slice(max(0, -dx), columns - max(0, dx)))
        there = (slice(dy, rows), slice(max(0, dx), columns - max(0, -dx)))
        weight = (cost[here] + cost[there]) / 2 * np.hypot(dx, dy)
        parts.append((index[here].ravel(), index[there].ravel(), weight.ravel()))
    a, b, w = (np.concatenate(p) for p in zip(*parts, strict=True))
    n = rows * columns
    return sparse.coo_matrix((np.r_[w, w], (np.r_[a, b], np.r_[b, a])), shape=(n, n)).tocsr()
