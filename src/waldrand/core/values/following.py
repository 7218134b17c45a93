"""What belongs to an element goes with it."""

from __future__ import annotations

from functools import partial

from ..picture.resample import resize_picture
from .layers import Layer
from .outline import Box
from .sheet import Sheet

#: Sheet pixels, or shares of a side, below which an outline counts as where it was.
NEARLY = 1e-6


def followed(before: Sheet, after: Sheet) -> Sheet:
    """A sheet on which the layers that belong to an element are moved and scaled as its outline was since; those that were changed by
    themselves stay as they are now."""
    if before.elements is after.elements or before.rect != after.rect or not any(x.of is not None for x in after.layers):
        return after
    boxes = {e.key: e.outline.box for e in before.elements}
    now = {e.key: e.outline.box for e in after.elements}
    for layer in after.layers:
        if layer.of not in boxes or layer.of not in now or boxes[layer.of] == now[layer.of]:
            continue
        if before.has_layer(layer.key) and before.layer(layer.key) is layer:
            after = after.with_layer(_gone_with(layer, boxes[layer.of], now[layer.of]))
    return after


def _gone_with(layer: Layer, was: Box, now: Box) -> Layer:
    kx, ky = (now[2] - now[0]) / (was[2] - was[0]), (now[3] - now[1]) / (was[3] - was[1])
    if max(abs(kx - 1), abs(ky - 1)) < NEARLY:
        return layer.moved(round(now[0] - was[0]), round(now[1] - was[1]))
    # Scaling goes about the sheet's corner; what that moves too far is moved back.
    scaled = layer.scaled(kx, ky, partial(resize_picture))
    return scaled.moved(round(now[0] - was[0] * kx), round(now[1] - was[1] * ky))
