"""A picture's own lines, told as a drawing: edges stay where they are while all else may change."""

from __future__ import annotations

import numpy as np

from ..fields import Field
from ..picture.lines import lines_of
from ..told.guides import Sketch
from ..values.frame import WorkFrame
from ..values.sheet import Sheet

#: Whether they are told.
OWN_LINES = Field(
    "flag",
    True,
    label="own lines",
    tip="The picture's own lines are told as a drawing: edges stay where they are and come out sharp.",
    option="tell the picture's own lines as a drawing: edges stay where they are and come out sharp",
)


def own_lines(sheet: Sheet, frame: WorkFrame) -> Sketch:
    """The drawing of what a frame shows, over all of it."""
    r = frame.rect
    lines = np.round(255 * lines_of(sheet.flatten(r))).astype(np.uint8)
    return Sketch((float(r.x0), float(r.y0), float(r.x1), float(r.y1)), lines, np.full_like(lines, 255))
