"""What is drawn where a picture goes on, over its edge or into a hole: its horizon and the grounds round it, and its own lines."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import lru_cache
from math import ceil

import numpy as np

from ..fields import Field
from ..packs import BELOW, STANDS, Finder, Ground, Grounds, Pack
from ..picture.fills import filled
from ..picture.resample import resize_mask
from ..seen.find import SEEN, thing_labels
from ..seen.horizon import horizon_in
from ..told.grounds import laid_out, main_ground
from ..told.guides import Sketch
from ..told.said import EVERYWHERE, Said
from ..values.element import phrases
from ..values.frame import Rect, WorkFrame
from ..values.layers import Layer
from ..values.outline import Outline
from ..values.sheet import Sheet
from .grounded import Grounded, covering, drawn_across, tells_grounds
from .meeting import Beside, main_met, standing_met
from .own_lines import drawn_at_size
from .request import Request
from .seen_of_sheet import box_of, seen_in
from .settings import PassSettings
from .shadows import shadows_of

#: Whether it is drawn.
DRAWN = Field(
    "flag",
    True,
    label="drawn",
    tip="Where the picture goes on, over its edge or into a mask without words of its own, it is drawn before it is painted: its own lines "
    "lead into it, its horizon goes on with what the scene's words put round it, and elements beyond its edge get figures.",
    option="draw what is new before it is painted: the picture's lines lead into it, its horizon and grounds go on",
)
#: How much of a picture beside a new part is looked at for its horizon, first and then more nearly, in shares of its width; and by how
#: much, in shares of its height, it may lie higher and lower there.
HALF, NEAR, HIGHER, LOWER = 0.5, 0.15, 0.12, 0.05
#: What stays of a large picture is told by at most so many cells to its longer side: more are not computed.
FINEST = 1024
#: A ground that no words name is meant where so much of a picture shows it, so surely in the mean: of 36 in drawn scenes 35 are seen so
#: surely, of photographs only those that are nothing else.
SHOWN, SURELY = 0.04, 0.88


def grounds_going_on(
    sheet: Sheet,
    request: Request,
    settings: PassSettings,
    shapes: Mapping[int, Outline],
    pack: Pack,
    seed: int,
    hole: np.ndarray,
    at: Rect,
    seen: Rect,
    free: Sequence[Outline] = (),
) -> Grounded:
    """The grounds that the words name, or else the picture shows, drawn in a hole of it round its horizon. None where none of that is
    seen, where somebody drew there, where an element is a ground, or where things are wanted that have no place.

    sheet: with the elements that are told; shapes: figures by their keys; hole: (h, w) bool of any size over a rectangle of the sheet;
    seen: the part of the sheet's picture that is looked at; free: where nothing is drawn, too.
    """
    if not tells_grounds(settings, pack) or pack.grounds is None or pack.finder is None or not hole.any():
        return Grounded()
    if pack.places is not None and pack.places.told(request.words).things:
        # Things that are wanted there would not be painted where a drawing shows none.
        return Grounded()
    if any(pack.grounds.named(phrases(e.words)) for e in sheet.elements):
        return Grounded()
    new = _on_sheet(box_of(hole), hole.shape, at)
    named, horizon = grounds_beside(sheet, request, pack, new, seen)
    main = main_ground(named)
    if main is None or horizon is None or drawn_across(sheet, new):
        return Grounded()
    maps, _ = seen_in(sheet.width, sheet.height, sheet.layers, seen, pack)
    step = max(1, max(hole.shape) // FINEST)
    kept = np.where(hole[::step, ::step], np.uint8(0), np.uint8(255))
    corners = float(at.x0), float(at.y0), float(at.x1), float(at.y1)
    outlines = [*(shapes.get(e.key, e.outline) for e in sheet.elements), *free]
    covers = (*(covering(o, sheet) for o in outlines), Sketch(corners, np.zeros_like(kept), kept))
    picture = seen if at == sheet.rect else sheet.rect
    # Of what else lies below, a path or a bank, nobody knows where it would go on.
    named = tuple(g for g in named if g.way != BELOW or g.label == main.label)
    strips = laid_out(named, horizon / sheet.height, sheet.width, sheet.height, seed, picture)
    beside = Beside(sheet.flatten(seen), seen, new, horizon)
    strips = tuple((g, _met(g, s, main, beside, pack.finder, maps)) for g, s in strips)
    return Grounded(strips, shadows_of(sheet, shapes, named, pack), covers)


def grounds_beside(sheet: Sheet, request: Request, pack: Pack, new: Rect, seen: Rect) -> tuple[tuple[Ground, ...], float | None]:
    """The drawings of the grounds that words name or the picture shows beside a new part, and how far down on the sheet its horizon lies
    there; None where it is not seen. seen: the part of the sheet's picture that is looked at."""
    if pack.grounds is None or pack.finder is None:
        return (), None
    maps, whole = seen_in(sheet.width, sheet.height, sheet.layers, seen, pack)
    named = _named((*phrases(sheet.scene.words), *phrases(request.words)), pack.grounds, pack.finder, maps, whole)
    main = main_ground(named)
    if main is None or main.label not in pack.finder.labels:
        return named, None
    return named, _horizon(sheet.width, sheet.height, sheet.layers, seen, new, main.label, pack)


def said_by_picture(sheet: Sheet, pack: Pack, seen: Rect) -> tuple[Said, ...]:
    """What a part of a sheet's picture surely shows as a whole, its hour, its season and its weather, as words that nobody said; its look
    is in its colours already."""
    if pack.finder is None:
        return ()
    _, whole = seen_in(sheet.width, sheet.height, sheet.layers, seen, pack)
    info = pack.info
    looks = {g.look for g in info.grains} | {i.look for i in info.inks} | {e.look for e in info.evens}
    sure = [label for label, share in zip(pack.finder.whole, whole, strict=False) if share >= SURELY and label not in looks]
    return tuple(Said("picture", "scene", label, sheet.scene.weight, EVERYWHERE) for label in sure)


def _on_sheet(box: Rect, size: tuple[int, ...], at: Rect) -> Rect:
    """A box of cells of a map of that size over a rectangle of the sheet, on the sheet."""
    ky, kx = at.height / size[0], at.width / size[1]
    return Rect(at.x0 + int(box.x0 * kx), at.y0 + int(box.y0 * ky), at.x0 + ceil(box.x1 * kx), at.y0 + ceil(box.y1 * ky))


def _named(said: Sequence[str], grounds: Grounds, finder: Finder, maps: np.ndarray, whole: np.ndarray) -> tuple[Ground, ...]:
    """The drawings of what phrases name; where they name no main ground, of what the finder sees widely too."""
    named = grounds.named(said)
    if main_ground(named) is not None or not len(maps):
        return named
    shown = [label for label, m in zip(finder.labels, maps, strict=True) if label in finder.grounds and _surely(m)]
    return grounds.named((*said, *shown, *(label for label, sure in zip(finder.whole, whole, strict=True) if sure > SEEN)))


def _surely(m: np.ndarray) -> bool:
    solid = m > SEEN
    return bool(solid.mean() >= SHOWN and m[solid].mean() >= SURELY)


@lru_cache(maxsize=8)
def _horizon(width: int, height: int, layers: tuple[Layer, ...], seen: Rect, new: Rect, label: str, pack: Pack) -> float | None:
    """How far down on the sheet the horizon of its picture lies beside a new part; None where it is not seen there."""
    maps, _ = seen_in(width, height, layers, seen, pack)
    assert pack.finder is not None
    if not len(maps):
        return None
    ground, things = maps[pack.finder.labels.index(label)], maps[thing_labels(pack.finder)].max(0)
    picture = Sheet(width, height, layers).flatten(seen)
    beside = new.moved(-seen.x0, -seen.y0)
    found = horizon_in(*_beside((picture, ground, things), beside, HALF))
    if found is not None:
        # Beside the join it may lie higher, or a little lower; much lower it is the foot of what stands there.
        near = horizon_in(*_beside((picture, ground, things), beside, NEAR))
        found = near if near is not None and -HIGHER <= (near - found) / seen.height <= LOWER else found
    return None if found is None else seen.y0 + found


def _beside(maps: Sequence[np.ndarray], new: Rect, share: float) -> list[np.ndarray]:
    """So much of a picture and of maps of it as lies on either side of a new part, in shares of its width."""
    w = maps[0].shape[1]
    n = share * w
    x0, x1 = max(0.0, min(new.x0 - n, w - n)), min(float(w), max(new.x1 + n, n))

    def part(columns: int) -> slice:
        first, last = round(x0 / w * columns), round(x1 / w * columns)
        return slice(min(first, columns - 1), max(last, first + 1))

    return [m[:, part(m.shape[1])] for m in maps]


def _met(g: Ground, sketch: Sketch, main: Ground, beside: Beside, finder: Finder, maps: np.ndarray) -> Sketch:
    """A ground's drawing as it meets what the picture shows of it."""
    if g.label == main.label:
        return main_met(sketch, beside)
    if g.way == STANDS and g.label in finder.labels and len(maps):
        return standing_met(sketch, beside, maps[finder.labels.index(g.label)])
    return sketch


def lines_going_on(sheet: Sheet, frame: WorkFrame, hole: np.ndarray | None = None) -> Sketch:
    """The picture's own lines as far as a frame shows it, so that what they draw goes on. hole: (h, w) bool of any size over the
    frame, what is painted anew though there is a picture."""
    rgba = sheet.flatten(frame.rect)
    known = rgba[..., 3] if hole is None else np.where(at_size(hole, *rgba.shape[:2]), np.uint8(0), rgba[..., 3])
    # Its edge is no line: across it, all is alike.
    whole = filled(rgba[..., :3].astype(np.float32) / 255, known.astype(np.float32) / 255, "mirror")
    sketch = drawn_at_size(np.asarray(np.round(255 * whole), np.uint8), frame)
    inside = resize_mask((known == 255).astype(np.float32), *sketch.lines.shape) == 1
    return replace(sketch, lines=np.where(inside, sketch.lines, np.uint8(0)), mask=known)


def at_size(hole: np.ndarray, height: int, width: int) -> np.ndarray:
    """A hole (h, w) bool at another size, (height, width) bool: all that it touches."""
    return np.asarray(resize_mask(hole.astype(np.float32), height, width) > 0)
