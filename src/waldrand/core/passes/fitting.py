"""Where a pass tells the model a figure instead of an outline that only says where."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

import numpy as np

from ..packs import Figure, Figures, Pack
from ..picture.ink import DRAWN_ON, INKED
from ..told.figures import NEAR_BY, bent, chosen, fitted, seen_near
from ..told.guides import Sketch, drawing_in
from ..told.naming import said_of
from ..told.voices import Area
from ..values.element import Element, phrases
from ..values.frame import Rect, WorkFrame
from ..values.layers import LINES
from ..values.outline import Box, Outline, area, rasterise
from ..values.shaping import rounded
from ..values.sheet import Sheet
from .settings import PassSettings

#: The part of an ellipse's box, a side, that a figure gets.
ELLIPSE = 0.86
#: A figure is fitted where the picture is painted anew: from this strength on.
ANEW = 0.8
#: An inpaint's mask that fills less of its box than this is taken for a shape drawn on purpose.
LOOSE = 0.7


def figures_for(settings: PassSettings, pack: Pack) -> Figures | None:
    """The figures that a pass may fit in; None where it is not to, or the pack has none or cannot be told where things are."""
    told_where = settings.method == "steer" and "regions" in pack.info.capabilities
    return pack.figures if settings.figures and told_where else None


def room_for_figure(outline: Outline) -> Box | None:
    """The box that a figure may fill; None for outlines that are a shape already."""
    x0, y0, x1, y1 = outline.box
    if outline.shape == "box":
        return x0, y0, x1, y1
    if outline.shape == "ellipse":
        dx, dy = (x1 - x0) * (1 - ELLIPSE) / 2, (y1 - y0) * (1 - ELLIPSE) / 2
        return x0 + dx, y0 + dy, x1 - dx, y1 - dy
    return None


def figure_of(e: Element, sheet: Sheet, settings: PassSettings, pack: Pack, seed: int) -> Outline | None:
    """The figure that is fitted into an element's outline by a pass of this seed; None for an element that has none: its outline is a
    shape drawn on purpose, or it wants none, or its words name no thing that has a figure."""
    room = room_for_figure(e.outline)
    if room is None or not e.figure or e.hold:
        return None
    return _fitted(e.words, sheet, settings, pack, room, seed if e.seed is None else e.seed, e.key)


def _chosen(words: str, sheet: Sheet, settings: PassSettings, pack: Pack, room: Box, seed: int, key: int) -> Figure | None:
    """The figure that some words on a sheet name for a box; None where they name none."""
    figures, near = figures_for(settings, pack), settings.near_views and seen_near(room, sheet.height)
    found = () if figures is None else figures.named(phrases(words), phrases(sheet.scene.words), near)
    x0, y0, x1, y1 = room
    return chosen(found, (x1 - x0) / (y1 - y0), seed, key) if found else None


def _fitted(words: str, sheet: Sheet, settings: PassSettings, pack: Pack, room: Box, seed: int, key: int) -> Outline | None:
    """It, fitted into the box."""
    figure = _chosen(words, sheet, settings, pack, room, seed, key)
    if figure is None:
        return None
    # With a drawing it would be the same thing, line for line, each time.
    return fitted(figure if figure.lines is None else bent(figure, seed, key), room)


def shown_near(sheet: Sheet, settings: PassSettings, pack: Pack, seed: int, keys: Iterable[int]) -> dict[int, str]:
    """What figures of things seen from near by show that nobody said, in words, by their elements' keys: untold that a face is seen from
    the side, a model gives it a second eye."""
    out = {}
    for e in (sheet.element(key) for key in keys) if settings.near_views else ():
        room, own = room_for_figure(e.outline), seed if e.seed is None else e.seed
        figure = None if room is None else _chosen(e.words, sheet, settings, pack, room, own, e.key)
        if figure is not None and NEAR_BY in figure.needs:
            said = said_of(figure.traits, phrases(e.words), lambda phrase: tuple(pack.read(phrase)[0]))
            out[e.key] = " ".join(sorted(figure.traits - said))
    return out


def fitted_figures(sheet: Sheet, settings: PassSettings, pack: Pack, seed: int) -> dict[int, Outline]:
    """By the keys of the elements that a pass of this seed over the whole sheet paints anew, the figures it fits into their outlines."""
    out = {}
    for e in sheet.elements:
        strength = settings.strength if e.strength is None else e.strength
        shape = figure_of(e, sheet, settings, pack, seed) if strength >= ANEW or not sheet.has_picture else None
        if shape is not None:
            out[e.key] = shape
    return out


def sketches_of(sheet: Sheet, settings: PassSettings, shapes: Mapping[int, Outline]) -> tuple[Sketch, ...]:
    """The drawings of the figures that a pass fits in, far to near: of those elements that want one, and that nobody drew by hand."""
    if not settings.sketches:
        return ()
    out = []
    for e in sheet.elements:
        if e.key in shapes and e.sketch and not is_drawn(sheet, e):
            out += [replace(sketch, weight=e.sketch) for sketch in sketches_in([shapes[e.key]])]
    return tuple(out)


def sketches_in(shapes: Iterable[Outline]) -> tuple[Sketch, ...]:
    """The drawings of figures on the sheet, of those that have one."""
    return tuple(Sketch(o.box, o.lines, o.mask) for o in shapes if o.lines is not None and o.mask is not None)


def is_drawn(sheet: Sheet, e: Element) -> bool:
    """Whether somebody drew an element by hand: a drawing is its own, or one of the whole fills its place."""
    drawings = sheet.guides(LINES)
    if any(layer.of == e.key for layer in drawings):
        return True
    at = rounded(e.outline.box).intersect(sheet.rect)
    if not at.area:
        return False
    return any(_fills(drawing_in(layer, at) > INKED) for layer in drawings if layer.of is None)


def _fills(drawn: np.ndarray) -> bool:
    """Whether what is drawn (h, w) reaches over most of its place both ways, as a thing does and a horizon does not."""
    return bool(drawn.any(0).mean() > DRAWN_ON and drawn.any(1).mean() > DRAWN_ON)


def with_figures(sheet: Sheet, shapes: Mapping[int, Outline]) -> Sheet:
    """The sheet as a pass tells it: with figures, by the elements' keys, instead of outlines that only say where."""
    for key, shape in shapes.items():
        # A soft edge is for outlines; it would eat up a figure's limbs.
        sheet = sheet.with_element(replace(sheet.element(key), outline=shape, feather=0.0))
    return sheet


def mask_figure(place: np.ndarray, sheet: Sheet, words: str, settings: PassSettings, pack: Pack, seed: int) -> Outline | None:
    """The figure that the words of an inpaint of this seed name, fitted into its outline (h, w) 0..1, in cells; None where they name
    none, where little is painted anew, or where the mask is a shape drawn on purpose."""
    solid = place > 0.5
    if settings.strength < ANEW or not solid.any():
        return None
    ys, xs = np.nonzero(solid)
    room = float(xs.min()), float(ys.min()), float(xs.max() + 1), float(ys.max() + 1)
    return _fitted(words, sheet, settings, pack, room, seed, 0) if solid.sum() >= LOOSE * area(room) else None


def figure_in_mask(place: np.ndarray, shape: Outline | None) -> np.ndarray:
    """An inpaint's outline (h, w) 0..1, in cells, with its figure in its place, where it has one."""
    h, w = place.shape
    return place if shape is None else np.asarray(rasterise(shape, Rect(0, 0, w, h), h, w) * place, np.float32)


def clothed(area: Area, shape: Outline | None, frame: WorkFrame) -> Area:
    """An area, and which part of the figure in it wears what it wears. shape: the figure, if it has one."""
    if area.outline is None or shape is None or not shape.below:
        return area
    h, w = area.outline.shape
    _, y0, _, y1 = in_frame(shape, frame, (h, w)).box
    lower = np.clip(np.arange(1, h + 1) - (y0 + shape.below * (y1 - y0)), 0, 1)
    return replace(area, worn=np.asarray(area.outline * lower[:, None], np.float32))


def in_frame(shape: Outline, frame: WorkFrame, cells: tuple[int, int]) -> Outline:
    """An outline of the sheet, in a frame's cells."""
    (h, w), r = cells, frame.rect
    x0, y0, x1, y1 = shape.box
    kx, ky = w / r.width, h / r.height
    return shape.with_box(((x0 - r.x0) * kx, (y0 - r.y0) * ky, (x1 - r.x0) * kx, (y1 - r.y0) * ky))


def on_sheet(shape: Outline, frame: WorkFrame, cells: tuple[int, int]) -> Outline:
    """An outline of a frame's cells, on the sheet."""
    (h, w), r = cells, frame.rect
    x0, y0, x1, y1 = shape.box
    kx, ky = r.width / w, r.height / h
    return shape.with_box((r.x0 + x0 * kx, r.y0 + y0 * ky, r.x0 + x1 * kx, r.y0 + y1 * ky))
