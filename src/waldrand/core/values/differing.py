"""Where two states of a sheet look otherwise, so that only that is drawn anew."""

from __future__ import annotations

from .frame import Rect
from .layers import Layer
from .paint import PaintLayer
from .sheet import Sheet

NOWHERE = Rect(0, 0, 0, 0)


def changed_rect(before: Sheet, after: Sheet) -> Rect:
    """The part of the second sheet that may look otherwise than the first one's; empty where nothing does."""
    if before.rect != after.rect:
        return after.rect
    # What is seen in neither makes no difference.
    unseen = {x.key for x in after.layers if not x.is_seen} - {x.key for x in before.layers if x.is_seen}
    unseen |= {x.key for x in before.layers if not x.is_seen} - {x.key for x in after.layers if x.is_seen}
    old, new = ({x.key: x for x in s.layers if x.key not in unseen} for s in (before, after))
    stays = [k for k in old if k in new]
    parts = [x.bounds for x in (*old.values(), *new.values()) if x.key not in old or x.key not in new]
    if stays != [k for k in new if k in old]:
        # In another order: wherever any of them lies.
        parts += [x.bounds for x in new.values()]
    for key in stays:
        if old[key] is not new[key]:
            parts += _between(old[key], new[key])
    boxes = [r for part in parts if (r := part.intersect(after.rect)).area]
    if not boxes:
        return NOWHERE
    return Rect(min(r.x0 for r in boxes), min(r.y0 for r in boxes), max(r.x1 for r in boxes), max(r.y1 for r in boxes))


def _between(a: Layer, b: Layer) -> list[Rect]:
    """Where two states of a layer may look otherwise."""
    if isinstance(a, PaintLayer) and isinstance(b, PaintLayer) and _looks(a) == _looks(b):
        keys = {k for k in (*a.tiles, *b.tiles) if a.tiles.get(k) is not b.tiles.get(k)}
        return [b.place_of(k).moved(b.x, b.y) for k in keys]
    return [a.bounds, b.bounds]


def _looks(x: PaintLayer) -> tuple[object, ...]:
    return x.bounds, x.opacity, x.blend, x.role, x.visible
