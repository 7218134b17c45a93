"""What stands behind what is taken away: an element that a hole cuts goes on in it, in the form that it was painted in."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from ..packs import Pack
from ..picture.resample import resize_mask
from ..seen.find import SEEN
from ..told.said import InElement, Where, said_of_elements
from ..told.voices import Area, Cells, element_masks
from ..values.element import Element
from ..values.frame import Rect
from ..values.outline import Outline, rasterise
from ..values.sheet import Sheet
from .fitting import figure_of, sketches_in, with_figures
from .history import passes_over_all
from .request import Request
from .seen_of_sheet import seen_in
from .stage import Stage

#: How much of an element lies in a hole that cuts it, at least and at most: less is its rim, more is what is taken away itself.
CUT = 0.02, 0.6
#: So much of the rest of it is seen by the finder where its form says that it is.
THERE = 0.5
#: A hole is looked at in at most so many pixels a side: plans ask at every change, however large the sheet is.
FINEST = 512


def cut_by(sheet: Sheet, request: Request, hole: np.ndarray, at: Rect, pack: Pack) -> tuple[tuple[int, int], ...]:
    """Keys of the elements that stand behind what is taken away, each with the seed that it was painted by: they are cut by the hole, and
    what is left of them is seen in the form that they got. hole: (h, w) bool over a rectangle of the sheet."""
    finder = pack.finder
    if finder is None or not request.restores or not request.settings.sketches:
        return ()
    step = max(1, max(hole.shape) // FINEST)
    hole = hole[::step, ::step]
    maps, _ = seen_in(sheet.width, sheet.height, sheet.layers, at, pack)
    gone, out = {label for word in request.avoid.split(", ") for label in finder.labels_of(word)[:1]}, []
    for e in sheet.elements:
        labels, seed = finder.labels_of(e.words)[:1], painted_by(sheet, e.key)
        shape = None if seed is None else figure_of(e, sheet, request.settings, pack, seed)
        if seed is None or shape is None or not labels or labels[0] in gone:
            continue
        form = rasterise(shape, at, *hole.shape)
        share = float((form * hole).sum() / max(1.0, form.sum()))
        left = resize_mask(form * ~hole, *maps.shape[1:])
        seen = float((left * (maps[labels[0]] > SEEN)).sum() / max(1.0, left.sum())) if left.any() else 0.0
        if CUT[0] <= share <= CUT[1] and seen >= THERE:
            out.append((e.key, seed))
    return tuple(out)


def painted_by(sheet: Sheet, key: int) -> int | None:
    """The seed of the newest pass that is still to be seen on a sheet and painted an element of it as part of a whole; None where no pass
    says that it did."""
    if not sheet.has_element(key):
        return None
    words = sheet.element(key).words
    for _, recipe, seed in passes_over_all(sheet):
        told = recipe.get("elements")
        listed = [one for one in told if isinstance(one, dict)] if isinstance(told, list) else []
        if any(one.get("key") == key and one.get("words") == words for one in listed):
            return seed
    return None


def shapes_behind(sheet: Sheet, request: Request, pack: Pack) -> dict[int, Outline]:
    """The forms of the elements that go on behind what is taken away, by their keys."""
    out = {}
    for key, seed in request.restored:
        shape = None if seed is None or not sheet.has_element(key) else figure_of(sheet.element(key), sheet, request.settings, pack, seed)
        if shape is not None:
            out[key] = shape
    return out


def standing(sheet: Sheet, shapes: Mapping[int, Outline]) -> tuple[Element, ...]:
    """The elements that go on, far to near. shapes: by their keys."""
    return tuple(e for e in sheet.elements if e.key in shapes)


def with_behind(stage: Stage, sheet: Sheet, shapes: Mapping[int, Outline]) -> Stage:
    """A stage that is told them too, far to near. shapes: by the elements' keys."""
    if not shapes:
        return stage
    behind = replace(sheet, elements=standing(sheet, shapes))
    told, away = said_of_elements(behind)

    def areas(cells: Cells) -> Mapping[Where, Area]:
        forms = element_masks(with_figures(behind, shapes).elements, stage.frame)
        own: dict[Where, Area] = {
            InElement(e.key): Area(resize_mask(m, *cells), e.weight) for e, m in zip(behind.elements, forms, strict=True)
        }
        return {**stage.areas(cells), **own}

    return replace(
        stage,
        told=(*stage.told, *told),
        away=(*stage.away, *away),
        areas=areas,
        sketches=(*sketches_in(shapes[e.key] for e in behind.elements), *stage.sketches),
    )
