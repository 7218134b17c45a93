"""Layers made to belong to what lies below them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from scipy import ndimage

from ..picture.matching import brought_to, seam, worst_step
from ..refused import Refused
from ..worded import worded
from .brought import PLAIN, Brought
from .frame import Rect
from .layers import Layer
from .sheet import Sheet

#: Sheet pixels round a layer that are looked at, and from which seam on an edge is worth a word.
ROOM, SHOWS = 24, 1.6


def belonging(sheet: Sheet, key: int, match: float, seamless: float) -> Sheet:
    """A layer brought to what lies below it, by so much. Its own pixels stay as they were made: 0 and 0 give them again.

    Raises:
        Refused: the layer cannot be changed so, or an amount is outside 0..1.
    """
    layer = sheet.layer(key)
    own = layer.own_colours
    asked = Brought(match, seamless)
    if match == 0 and seamless == 0:
        return sheet if own is None or not any(layer.brought_by.values()) else sheet.with_layer(layer.changed(brought=PLAIN))
    if own is None:
        raise Refused(worded("“{0}” cannot be brought to its surroundings.", layer.name))
    plain = layer.changed(brought=PLAIN)
    frame, over, region, below = _round(sheet, plain)
    at = layer.bounds.moved(-frame.x0, -frame.y0).slices
    made = brought_to(over, region, below[..., :3], below[..., 3] == 255, asked.match, asked.seamless)[at]
    change = made.astype(np.int16) - own
    solid, seen = region[at], plain.shown[..., 3] > 0
    if solid.any() and (seen & ~solid).any():
        # Its soft rim goes with what is beside it, or it would stay as a line.
        near = ndimage.distance_transform_edt(~solid, return_distances=False, return_indices=True)
        rim = np.clip(own.astype(np.int16) + change[tuple(near)], 0, 255) - own
        change = np.where((seen & ~solid)[..., None], rim, change).astype(np.int16)
    return sheet.with_layer(layer.changed(brought=Brought(match, seamless, change)))


def rejoined(sheet: Sheet, key: int, amounts: Mapping[str, float]) -> Sheet:
    """A layer that was changed brought anew to what lies below it, by as much as it was."""
    return belonging(sheet, key, **amounts) if any(amounts.values()) else sheet


def laid_elsewhere(sheet: Sheet, key: int, dx: int, dy: int) -> Sheet:
    """A layer moved by whole pixels, and brought to what lies below it there by as much as before."""
    layer = sheet.layer(key)
    return rejoined(sheet.with_layer(layer.moved(dx, dy)), key, layer.brought_by)


def _round(sheet: Sheet, layer: Layer) -> tuple[Rect, np.ndarray, np.ndarray, np.ndarray]:
    """A layer with room round it: where that lies, the layer's pixels there (h, w, 3), where it is mostly seen, and what lies
    below (h, w, 4)."""
    b = layer.bounds
    frame = Rect(b.x0 - ROOM, b.y0 - ROOM, b.x1 + ROOM, b.y1 + ROOM)
    index = next(i for i, x in enumerate(sheet.layers) if x.key == layer.key)
    under = replace(sheet, layers=sheet.layers[:index])
    below = np.zeros((frame.height, frame.width, 4), np.uint8)
    inside = frame.intersect(sheet.rect)
    if inside.area:
        below[inside.moved(-frame.x0, -frame.y0).slices] = under.flatten(inside)
    over, region = below[..., :3].copy(), np.zeros(below.shape[:2], bool)
    at = b.moved(-frame.x0, -frame.y0).slices
    shown = layer.shown
    over[at] = shown[..., :3]
    region[at] = shown[..., 3] > 127
    return frame, over, region, below


def _edge_seen(sheet: Sheet, key: int) -> tuple[Rect, np.ndarray, np.ndarray] | None:
    """Of a layer with room round it, as far as it lies on the sheet: where that is, what is seen there up to the layer (h, w, 3), and
    where the layer is; None where nothing of it is on the sheet."""
    layer = sheet.layer(key)
    if not layer.visible:
        return None
    frame, _, region, below = _round(sheet, layer)
    inside = frame.intersect(sheet.rect)
    if not inside.area:
        return None
    there = inside.moved(-frame.x0, -frame.y0).slices
    index = next(i for i, x in enumerate(sheet.layers) if x.key == key)
    seen = replace(sheet, layers=sheet.layers[: index + 1]).flatten(inside)
    known = below[there][..., 3] == 255
    return inside, np.where(known[..., None] | region[there][..., None], seen[..., :3], 0).astype(np.uint8), region[there]


def seam_of(sheet: Sheet, key: int) -> float | None:
    """How visible the edge of a layer is; 1 is as any other place of the picture, None where it has no edge on the sheet."""
    found = _edge_seen(sheet, key)
    return None if found is None else seam(found[1], found[2])


def worst_of(sheet: Sheet, key: int) -> tuple[int, int] | None:
    """Where on the sheet the edge of a layer is most visible, (x, y); None where it has none."""
    found = _edge_seen(sheet, key)
    at = None if found is None else worst_step(found[1], found[2])
    return None if found is None or at is None else (found[0].x0 + at[1], found[0].y0 + at[0])
