"""Where the ground of a picture begins."""

from __future__ import annotations

import numpy as np

from .find import SEEN

#: Over so much of the width ground has to be seen for its upper edge to be there.
WIDE = 0.08
#: How many cells above and below the edge may lie, and by how much the picture changes there at least, of 255.
NEAR, PLAIN = 1.5, 3.0


def horizon_in(picture: np.ndarray, ground: np.ndarray, things: np.ndarray | None = None) -> float | None:
    """How far down the ground of a picture (H, W, 3 or 4) uint8 begins, in its pixels; None where none of its upper edge is seen.

    ground, things: (h, w) 0..1, how surely each cell shows it, and anything that stands or hangs: where ground begins below a thing, it is
    the thing's foot. Of the rows near the first that shows ground widely, the one where the picture changes most from above to below.
    """
    solid = ground > SEEN
    if things is not None:
        first_of = solid.argmax(0)
        above = things[np.maximum(first_of - 1, 0), np.arange(solid.shape[1])] > SEEN
        solid = solid & ~(above & (first_of > 0))
    rows = np.flatnonzero(solid.mean(1) > WIDE)
    if not len(rows) or rows[0] == 0:
        return None
    cell, top = picture.shape[0] / len(ground), int(rows[0])
    width = picture.shape[1]
    columns = np.asarray(solid[top : top + 2].any(0))[np.arange(width) * ground.shape[1] // width]
    first, last = max(1, round((top - NEAR) * cell)), min(len(picture) - 2, round((top + NEAR) * cell))
    if not columns.any() or last < first:
        return None
    light = picture[first - 1 : last + 2, columns, :3].astype(np.float32).mean(-1)
    change = np.abs(light[2:] - light[:-2]).mean(1)
    return float(first + int(change.argmax())) if change.max() > PLAIN else float(round(top * cell))
