"""What is drawn where a picture goes on: its horizon and the grounds round it, the things there, and the picture's own lines."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import lru_cache

import numpy as np

from ..packs import Pack
from ..picture.fills import filled
from ..picture.resample import resize_mask
from ..seen.horizon import horizon_in
from ..told.grounds import laid_out, main_ground
from ..told.guides import Sketch
from ..values.element import phrases
from ..values.frame import Rect, WorkFrame
from ..values.layers import Layer
from ..values.outline import Outline
from ..values.sheet import Sheet
from .grounded import Grounded, covering, drawn_across, tells_grounds
from .own_lines import drawn_at_size
from .request import Request
from .seen_of_sheet import box_of, seen_there

#: How much of a picture beside a new part is looked at for its horizon, first and then more nearly, in shares of its width; and by how
#: much, in shares of its height, they may differ.
HALF, NEAR, ABOUT = 0.5, 0.15, 0.05


def grounds_going_on(sheet: Sheet, request: Request, shapes: Mapping[int, Outline], pack: Pack, seed: int, empty: np.ndarray) -> Grounded:
    """The grounds that the words name, drawn round the horizon of the picture where it goes on. None where none of it is seen there, or
    an element is a ground.

    sheet: with the elements that reach into the new part; shapes: figures by their keys; empty: (H, W) bool, the new part.
    """
    if not tells_grounds(request.settings, pack) or pack.grounds is None or pack.finder is None:
        return Grounded()
    named = pack.grounds.named((*phrases(sheet.scene.words), *phrases(request.words)))
    main = main_ground(named)
    if pack.places is not None and pack.places.told(request.words).things:
        # Things that are wanted there would not be painted where a drawing shows none.
        return Grounded()
    if main is None or main.label not in pack.finder.labels or any(pack.grounds.named(phrases(e.words)) for e in sheet.elements):
        return Grounded()
    new = box_of(empty)
    there, horizon = _horizon(sheet.width, sheet.height, sheet.layers, new, main.label, pack)
    if horizon is None or drawn_across(sheet, new):
        return Grounded()
    below = sheet.flatten(there)[..., 3]
    kept = Sketch((float(there.x0), float(there.y0), float(there.x1), float(there.y1)), np.zeros_like(below), below)
    covers = (*(covering(shapes.get(e.key, e.outline), sheet) for e in sheet.elements), kept)
    strips = laid_out(named, horizon / sheet.height, sheet.width, sheet.height, seed, there)
    return Grounded(tuple((g, _met(s, horizon, there, new) if g.label == main.label else s) for g, s in strips), covers)


@lru_cache(maxsize=8)
def _horizon(width: int, height: int, layers: tuple[Layer, ...], new: Rect, label: str, pack: Pack) -> tuple[Rect, float | None]:
    """Where the picture lies, and how far down on the sheet its horizon does, in the half beside a new part."""
    there, maps = seen_there(width, height, layers, pack)
    assert pack.finder is not None
    if not len(maps):
        return there, None
    ground = maps[pack.finder.labels.index(label)]
    picture = Sheet(width, height, layers).flatten(there)
    found = horizon_in(*_beside(picture, ground, there, new, HALF))
    if found is not None:
        # Beside the join it may lie a little higher or lower; much lower it is the foot of what stands there.
        near = horizon_in(*_beside(picture, ground, there, new, NEAR))
        found = near if near is not None and abs(near - found) <= ABOUT * there.height else found
    return there, None if found is None else there.y0 + found


def _beside(picture: np.ndarray, ground: np.ndarray, there: Rect, new: Rect, share: float) -> tuple[np.ndarray, np.ndarray]:
    """The share of a picture and of its ground's map that lies beside a new part on the left or on the right; all where that is above,
    below or round it."""

    def part(columns: int) -> slice:
        n = max(1, round(columns * share))
        return slice(columns - n, columns) if new.x0 >= there.x1 else slice(0, n) if new.x1 <= there.x0 else slice(0, columns)

    return picture[:, part(picture.shape[1])], ground[:, part(ground.shape[1])]


def _met(sketch: Sketch, horizon: float, there: Rect, new: Rect) -> Sketch:
    """The main ground's drawing, brought so far up or down that its upper edge meets the picture's horizon at the join."""
    x0, y0, x1, y1 = sketch.box
    h, w = sketch.mask.shape
    joins = [x for x, open_ in ((there.x0, new.x0 < there.x0), (there.x1, new.x1 > there.x1)) if open_]
    columns = [min(w - 1, max(0, int((x - x0) / (x1 - x0) * w))) for x in joins]
    edges = [y0 + float((sketch.mask[:, c] > 127).argmax()) / h * (y1 - y0) for c in columns]
    by = horizon - sum(edges) / len(edges) if edges else 0.0
    return replace(sketch, box=(x0, y0 + by, x1, y1))


def lines_going_on(sheet: Sheet, frame: WorkFrame) -> Sketch:
    """The picture's own lines as far as a frame shows it, so that what they draw goes on."""
    rgba = sheet.flatten(frame.rect)
    known = rgba[..., 3]
    # Its edge is no line: across it, all is alike.
    whole = filled(rgba[..., :3].astype(np.float32) / 255, known.astype(np.float32) / 255, "mirror")
    sketch = drawn_at_size(np.asarray(np.round(255 * whole), np.uint8), frame)
    inside = resize_mask((known == 255).astype(np.float32), *sketch.lines.shape) == 1
    return replace(sketch, lines=np.where(inside, sketch.lines, np.uint8(0)), mask=known)
