"""What a finder sees of the picture that lies on a sheet, remembered, since plans ask at every change of words."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from ..packs import Pack
from ..seen.find import looked
from ..values.frame import Rect
from ..values.layers import Layer
from ..values.sheet import Sheet


@lru_cache(maxsize=2)
def emptiness(width: int, height: int, layers: tuple[Layer, ...]) -> np.ndarray:
    """Where a sheet has no picture, (H, W) bool."""
    return np.asarray(Sheet(width, height, layers).flatten()[..., 3] < 255)


def box_of(where: np.ndarray) -> Rect:
    """The smallest rectangle round what is True, empty where nothing is."""
    rows, columns = np.flatnonzero(where.any(1)), np.flatnonzero(where.any(0))
    return Rect(int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1) if len(rows) else Rect(0, 0, 0, 0)


@lru_cache(maxsize=4)
def seen_in(width: int, height: int, layers: tuple[Layer, ...], part: Rect, pack: Pack) -> tuple[np.ndarray, np.ndarray]:
    """The finder's maps of what a part of a sheet shows, (K, h, w), and what it says of the whole, (S,); of a part that is thinner than
    two pixels none."""
    if min(part.width, part.height) < 2:
        return np.zeros((0, 1, 1), np.float32), np.zeros(0, np.float32)
    return looked(Sheet(width, height, layers).flatten(part), pack)
