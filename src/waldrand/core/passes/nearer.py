"""Which elements of a take are worth painting once more from nearer, so that they get many pixels, and where."""

from __future__ import annotations

import numpy as np

from ..picture.patch_edge import KEPT_FEATHER, edge_alpha
from ..refused import Refused
from ..values.element import phrases
from ..values.frame import FrameLimits, Rect, WorkFrame, fitted_frame
from ..values.masks import Mask
from ..values.outline import rasterise
from ..values.shaping import rounded
from ..values.sheet import Sheet
from ..worded import worded

#: Strengths: what stands there keeps its colours, or is taken for spoiled. Room round the outline that may change too, in shares of its
#: longer side.
KEEPING, STRENGTH, ROOM = 0.85, 1.0, 0.06
#: An element gains where a frame of its own gives it so many times the whole's pixels a side, for it is alone in it; but not where that
#: frame is nearly the whole, by area.
SMALL, NEARLY_WHOLE = 0.95, 0.7


def room_of(box: Rect) -> float:
    """Sheet pixels round an outline of this box that may change with it, and over which its edge is blended."""
    return min(KEPT_FEATHER, ROOM * max(box.width, box.height))


def nearer_mask(sheet: Sheet, key: int) -> Mask:
    """Where an element may be painted from nearer: what nearer elements leave of its outline, with a little room; perhaps nothing.

    Raises:
        Refused: there is no such element.
    """
    at = next((i for i, e in enumerate(sheet.elements) if e.key == key), None)
    if at is None:
        raise Refused(worded("There is no element {0} on this sheet to paint from nearer.", key))
    whole = Mask(sheet.width, sheet.height)
    near = rounded(sheet.elements[at].outline.box, KEPT_FEATHER + 2).intersect(sheet.rect)
    if not near.area:
        return whole
    # Begun at even pixels: halves are rounded to even ones where outlines are drawn.
    near = Rect(near.x0 & ~1, near.y0 & ~1, near.x1, near.y1)
    own, *before_it = (rasterise(e.outline, near, near.height, near.width) > 0.5 for e in sheet.elements[at:])
    free = ~np.any(before_it, axis=0) if before_it else np.ones_like(own)
    own = own & free
    room = room_of(Mask.from_array(own.astype(np.uint8)).box())
    return whole.with_part(np.where(free, edge_alpha(own, grow=room), 0).astype(np.uint8), near)


def small_ones(sheet: Sheet, whole: WorkFrame, limits: FrameLimits, margin: float) -> tuple[int, ...]:
    """Keys of the elements that would gain from being painted from nearer than in the whole's frame, far to near."""
    out = []
    for e in sheet.elements:
        if e.hold or not e.visible or not phrases(e.words):
            continue
        mask = nearer_mask(sheet, e.key)
        if mask.empty:
            continue
        own = fitted_frame(mask.box(), sheet.width, sheet.height, limits, margin)
        if own.scale >= SMALL * whole.scale and own.rect.area <= NEARLY_WHOLE * whole.rect.area:
            out.append(e.key)
    return tuple(out)
