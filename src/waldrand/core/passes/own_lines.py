"""A picture's own lines, told as a drawing: edges stay where they are while all else may change."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..fields import Field
from ..packs import PackInfo
from ..picture.lines import lines_of
from ..picture.resample import resize_picture
from ..told.guides import Sketch
from ..values.frame import WorkFrame
from ..values.sheet import Sheet
from .fitting import ANEW
from .stage import Stage

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
    return _drawn(frame, sheet.flatten(frame.rect))


def drawn_at_size(pixels: np.ndarray, frame: WorkFrame) -> Sketch:
    """The drawing of a frame's pixels (h, w, 3 or 4) uint8; of a large sheet at the size that is computed: finer lines could not be
    told."""
    return _drawn(frame, _shrunk(pixels, frame) if pixels.shape[0] > frame.height else pixels)


def lines_kept(stage: Stage, info: PackInfo) -> Stage:
    """A stage that is told the picture's own lines wherever it paints at less than ANEW, as far as the pack can be told them: from there
    on figures and their sketches say what stands where."""
    if "lines" not in info.capabilities:
        return stage

    def drawn(sheet: Sheet, frame: WorkFrame) -> Sketch:
        sketch = drawn_at_size(sheet.flatten(frame.rect), frame)
        kept = stage.strength(*sketch.lines.shape) < ANEW
        return replace(sketch, lines=np.where(kept, sketch.lines, np.uint8(0)), mask=np.where(kept, sketch.mask, np.uint8(0)))

    return replace(stage, drawn=drawn)


def _shrunk(below: np.ndarray, frame: WorkFrame) -> np.ndarray:
    """What a frame shows (H, W, 3 or 4) uint8, on paper, at the size that is computed: (h, w, 3) uint8."""
    on_paper = below[..., :3].astype(np.float32) / 255
    if below.shape[-1] == 4:
        alpha = below[..., 3:].astype(np.float32) / 255
        on_paper = on_paper * alpha + (1 - alpha)
    return np.asarray(np.round(255 * resize_picture(on_paper, frame.height, frame.width)), np.uint8)


def _drawn(frame: WorkFrame, pixels: np.ndarray) -> Sketch:
    """The drawing of a frame's pixels (h, w, 3 or 4) uint8."""
    r = frame.rect
    lines = np.round(255 * lines_of(pixels)).astype(np.uint8)
    return Sketch((float(r.x0), float(r.y0), float(r.x1), float(r.y1)), lines, np.full_like(lines, 255))
