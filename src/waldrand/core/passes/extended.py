"""Stages that paint where there is no picture yet, and a strip of the old one beside it, so that the join is nowhere a line."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from scipy import ndimage

from ..packs import Pack
from ..picture.joining import joined_on
from ..picture.patch_edge import KEPT_FEATHER
from ..picture.resample import resize_mask, resize_picture
from ..refused import Refused
from ..told.said import EVERYWHERE, InElement, Said, Where, said_of_elements, said_of_scene
from ..told.voices import Area, Cells, element_masks
from ..values.element import Element, phrases
from ..values.frame import Rect, WorkFrame, fitted_frame, given_frame
from ..values.outline import Outline, sketched
from ..values.shaping import drawn
from ..values.sheet import Sheet
from ..worded import worded
from .cut_things import cut_things
from .fitting import ANEW, fitted_figures, sketches_of, with_figures
from .given_places import of_own, with_places_in
from .going_on import grounds_beside, grounds_going_on, lines_going_on, said_by_picture
from .grounded import Grounded
from .growing import SIDES, Side, parts
from .masked import filled_where_bare, usable_method
from .request import Request
from .seen_of_sheet import box_of, emptiness
from .settings import PassSettings
from .stage import Stage, Strength, finished
from .strength import held

#: An element reaches into the new part where so much of it lies there, and is all in it where so much does; counted on so many dots a side.
REACHES, INSIDE, DOTS = 0.05, 0.9, 32
#: Under an element that reaches into the new part the strip is wider by so much, so that what the old edge cut can be finished.
WIDER = 4


def empty_in(sheet: Sheet, part: Rect | None) -> np.ndarray:
    """Where there is no picture in a part of a sheet (None: in all of it), (H, W) bool of the whole sheet."""
    empty = emptiness(sheet.width, sheet.height, sheet.layers)
    if part is None:
        return empty
    out = np.zeros_like(empty)
    there = part.intersect(sheet.rect).slices
    out[there] = empty[there]
    return out


def frame_for(sheet: Sheet, empty: np.ndarray, request: Request, pack: Pack, overlap: int, cut: tuple[Element, ...] = ()) -> WorkFrame:
    """What is computed: the new part, its strip, wider under what the old edge cuts, and as much round them as was asked for; or the
    frame that was set by hand.

    Raises:
        Refused: none of the empty part lies in that frame.
    """
    limits, given = pack.info.limits.at(request.settings.detail), request.given_rect
    if given is not None:
        frame = given_frame(given, sheet.width, sheet.height, limits)
        if not empty[frame.rect.slices].any():
            raise Refused(worded("There is no empty place in the frame you set: move the frame, or let it fit itself."))
        return frame
    b = box_of(empty)
    strip = Rect(b.x0 - overlap, b.y0 - overlap, b.x1 + overlap, b.y1 + overlap)
    far = WIDER * overlap
    wide = Rect(b.x0 - far, b.y0 - far, b.x1 + far, b.y1 + far)
    for e in cut:
        x0, y0, x1, y1 = e.outline.box
        strip = strip.around(Rect(math.floor(x0), math.floor(y0), math.ceil(x1), math.ceil(y1)).intersect(wide))
    strip = strip.intersect(sheet.rect)
    return fitted_frame(strip, sheet.width, sheet.height, limits, request.settings.margin)


def falling(empty: np.ndarray, strength: float, overlap: float, height: int, width: int) -> np.ndarray:
    """(height, width) float32: a strength where a part (h, w) bool of a sheet is empty, falling to 0 over `overlap` of its pixels."""
    share = resize_mask(empty.astype(np.float32), height, width)
    if overlap <= 0:
        return np.asarray(strength * (share > 0.5), np.float32)
    away = ndimage.distance_transform_edt(share <= 0.5) * (empty.shape[1] / width)
    return np.asarray(strength * np.clip(1 - away / (overlap + 1), 0, 1), np.float32)


@dataclass(frozen=True)
class _Reaching:
    """Elements that reach into a new part. met: all of them; cut: those that the old edge cuts."""

    met: tuple[Element, ...]
    cut: tuple[Element, ...]


def _reaching(sheet: Sheet, empty: np.ndarray) -> _Reaching:
    new = resize_mask(empty.astype(np.float32), DOTS, DOTS)
    shares = [(e, _new_share(e, new, sheet)) for e in sheet.elements if phrases(e.words) and not e.hold]
    met = tuple(e for e, share in shares if share >= REACHES)
    return _Reaching(met, tuple(e for e, share in shares if REACHES <= share < INSIDE))


def drawn_there(sheet: Sheet, request: Request, pack: Pack, seed: int, part: Rect | None) -> tuple[dict[int, Outline], Grounded]:
    """The figures that are fitted in where a picture goes on, by the elements' keys, and the grounds that are drawn there; nothing where
    nothing is empty."""
    empty = empty_in(sheet, part)
    if not empty.any():
        return {}, Grounded()
    laid_out, request = _laid_out(sheet, request, pack, seed, empty)
    shapes, behind = _drawn_there(laid_out, request, pack, seed, empty)
    return of_own(sheet, laid_out, _drawing(request.settings), shapes, behind)


def _laid_out(sheet: Sheet, request: Request, pack: Pack, seed: int, empty: np.ndarray) -> tuple[Sheet, Request]:
    """The sheet with what the pass's own words name as elements in its new part, and what it says beside that: things without a place
    would not be painted where grounds are drawn."""
    new, seen = box_of(empty), box_of(~emptiness(sheet.width, sheet.height, sheet.layers))
    settings, told_where = request.settings, "regions" in pack.info.capabilities
    if not settings.places or not phrases(request.words) or settings.method != "steer" or not told_where:
        return sheet, request
    _, horizon = grounds_beside(sheet, request, pack, new, seen)
    sheet, words = with_places_in(sheet, request.words, new, pack, seed, horizon)
    return sheet, replace(request, words=words)


def _drawn_there(sheet: Sheet, request: Request, pack: Pack, seed: int, empty: np.ndarray) -> tuple[dict[int, Outline], Grounded]:
    reaching = _reaching(sheet, empty)
    settings = _drawing(request.settings)
    # What the old edge cuts goes on as it is: a figure would be another.
    new = replace(sheet, elements=tuple(e for e in reaching.met if e not in reaching.cut))
    shapes = fitted_figures(new, settings, pack, seed)
    met, there = replace(sheet, elements=reaching.met), box_of(~emptiness(sheet.width, sheet.height, sheet.layers))
    # What the old edge cuts goes on by itself, where no ground is drawn.
    free = [Outline("box", thing.box) for thing in cut_things(sheet, pack)]
    return shapes, grounds_going_on(met, request, settings, shapes, pack, seed, empty, sheet.rect, there, free)


def _drawing(settings: PassSettings) -> PassSettings:
    """Settings by which things are drawn where nothing is, however strongly it is painted."""
    return replace(settings, figures=True, sketches=True, grounds=True, strength=max(settings.strength, ANEW))


def extended_stage(
    sheet: Sheet, request: Request, pack: Pack, seed: int, overlap: int, fill: str, part: Rect | None, draws: bool = True
) -> Stage:
    """The empty part of a sheet painted, its old picture going on. overlap: sheet pixels of the old picture that are painted anew at
    falling strength; fill: what the new part starts from; draws: whether grounds and things there are drawn, the picture's own lines
    told, and what is painted brought to its tone.

    Raises:
        Refused: there is nothing empty where it would be painted.
    """
    settings, info = request.settings, pack.info
    empty = empty_in(sheet, part)
    if not empty.any():
        raise Refused(worded("Nothing is empty: give the sheet more room first (drag one of its sides, Shift+E), or hide a layer."))
    if draws:
        sheet, request = _laid_out(sheet, request, pack, seed, empty)
    reaching = _reaching(sheet, empty)
    met = replace(sheet, elements=reaching.met)
    frame = frame_for(sheet, empty, request, pack, overlap, reaching.cut)
    shapes, behind = _drawn_there(sheet, request, pack, seed, empty) if draws else ({}, Grounded())

    def areas(cells: Cells) -> Mapping[Where, Area]:
        out: dict[Where, Area] = {EVERYWHERE: Area(None, sheet.scene.weight)}
        outlines = element_masks(with_figures(met, shapes).elements, frame)
        for e, m in zip(reaching.met, outlines, strict=True):
            out[InElement(e.key)] = Area(resize_mask(m, *cells), e.weight)
        return out | behind.areas(frame, cells, outlines)

    told, away = said_of_scene(sheet.scene)
    told += [Said("pass", "pass", p, sheet.scene.weight, EVERYWHERE) for p in phrases(request.words)]
    if draws and not told:
        told += said_by_picture(sheet, pack, box_of(~emptiness(sheet.width, sheet.height, sheet.layers)))
    away += [Said("pass", "pass", p, 1.0, EVERYWHERE) for p in phrases(request.avoid)]
    own = said_of_elements(met)
    strength = _strength(sheet, settings.strength, empty[frame.rect.slices], overlap, frame.rect, reaching.cut)
    return Stage(
        frame,
        seed,
        settings,
        usable_method(settings, info),
        settings.strength,
        strength,
        behind.said((*told, *own[0]), pack.grounds, sheet.scene.weight),
        (*away, *own[1]),
        areas,
        info.guided if settings.guidance != 1 else None,
        start=partial(filled_where_bare, fill=fill, seed=seed),
        finish=(lambda made, of, at: _joined_on(made, of, at, strength)) if draws else finished,
        shapes={InElement(key): shape for key, shape in shapes.items()},
        sketches=sketches_of(met, _drawing(settings), shapes),
        grounds=(behind.unlit if settings.weather else behind).sketches,
        shadows=behind.shade,
        lights=behind.lights,
        drawn=lines_going_on if draws and "lines" in info.capabilities else None,
        # Over nothing, an edge that fades would leave a gap.
        feather=min(KEPT_FEATHER, float(max(0, overlap - 1))),
    )


def _strength(sheet: Sheet, strength: float, inside: np.ndarray, overlap: int, rect: Rect, cut: tuple[Element, ...]) -> Strength:
    """What is new in full, a strip beside it less and less; wider under what the old edge cuts. inside: (h, w) bool, the new part."""

    def of(height: int, width: int) -> np.ndarray:
        s = falling(inside, strength, overlap, height, width)
        if cut and overlap:
            under = np.maximum.reduce([drawn(e.outline, rect) for e in cut]).astype(np.float32) / 255
            s = np.maximum(s, falling(inside, strength, WIDER * overlap, height, width) * resize_mask(under, height, width))
        s[held(sheet.elements, rect, height, width)] = 0
        return s

    return of


def _joined_on(made: np.ndarray, sheet: Sheet, frame: WorkFrame, strength: Strength) -> np.ndarray:
    below, size = sheet.flatten(frame.rect), made.shape[:2]
    known = resize_mask((below[..., 3] == 255).astype(np.float32), *size)
    both = (known == 1) & (strength(*size) > 0)
    return joined_on(made, resize_picture(below[..., :3].astype(np.float32) / 255, *size), both)


def _new_share(e: Element, new: np.ndarray, sheet: Sheet) -> float:
    """How much of an element on the sheet lies where there is no picture, 0..1. new: (DOTS, DOTS) 0..1, where that is."""
    shape = sketched(e.outline, sheet.rect, DOTS)
    total = float(shape.sum())
    return float((shape * new).sum()) / total if total > 0 else 0.0


def empty_sides(sheet: Sheet) -> list[tuple[Side, Rect]]:
    """The sides on which a picture is to go on, each with the part beside the old picture alone; none where it has holes."""
    empty = emptiness(sheet.width, sheet.height, sheet.layers)
    there = box_of(~empty)
    room: dict[Side, int] = {
        "left": there.x0,
        "right": sheet.width - there.x1,
        "top": there.y0,
        "bottom": sheet.height - there.y1,
    }
    if not there.area or empty[there.slices].any():
        return []
    return [part for side in SIDES for part in parts(there.width, there.height, room, (side,))]
