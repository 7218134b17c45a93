"""Several layers together: merged, moved as a group."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..refused import Refused
from ..worded import worded
from .belonging import laid_elsewhere
from .frame import Rect
from .layers import Layer, PictureLayer
from .sheet import Sheet


def merged_down(sheet: Sheet, key: int) -> Sheet:
    """A layer and the one below it as one picture, as they are seen together.

    Raises:
        Refused: there is none below, or one of them is not seen.
    """
    index = next(i for i, x in enumerate(sheet.layers) if x.key == key)
    if index == 0:
        raise Refused(worded("There is no layer below this one to merge it with."))
    below, over = sheet.layers[index - 1 : index + 1]
    if not below.is_seen or not over.is_seen:
        raise Refused(worded("Only layers that are seen can be merged: show “{0}” and “{1}” first.", below.name, over.name))
    boxes = [below.seen, over.seen]
    r = Rect(min(b.x0 for b in boxes), min(b.y0 for b in boxes), max(b.x1 for b in boxes), max(b.y1 for b in boxes))
    pixels = np.zeros((r.height, r.width, 4), np.uint8)
    # The lower one's own opacity and blending stay its own.
    below.changed(opacity=1.0, blend="normal").lay_on(pixels, r)
    over.lay_on(pixels, r)
    one = PictureLayer(
        below.key, below.name, pixels, r.x0, r.y0, opacity=below.opacity, blend=below.blend, role=below.role, group=below.group
    )
    return replace(sheet, layers=(*sheet.layers[: index - 1], one, *sheet.layers[index + 1 :]))


def grouped_with(sheet: Sheet, key: int) -> list[Layer]:
    """The layers of a layer's group, or it alone."""
    layer = sheet.layer(key)
    return [x for x in sheet.layers if x.group == layer.group] if layer.group else [layer]


def group_elsewhere(sheet: Sheet, key: int, dx: int, dy: int) -> Sheet:
    """A layer, and its group, moved by whole pixels; each brought to what lies below it there by as much as before."""
    for layer in grouped_with(sheet, key):
        sheet = laid_elsewhere(sheet, layer.key, dx, dy)
    return sheet


def mask_of_layer(sheet: Sheet, key: int) -> np.ndarray:
    """How much of a layer is seen at each place of the sheet, (H, W) uint8."""
    layer, out = sheet.layer(key), np.zeros((sheet.height, sheet.width), np.uint8)
    here = layer.bounds.intersect(sheet.rect)
    if here.area:
        out[here.slices] = layer.shown[here.moved(-layer.bounds.x0, -layer.bounds.y0).slices][..., 3]
    return out
