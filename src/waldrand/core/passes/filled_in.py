"""Stages that fill a hole: with what lies round it and behind it, as after something was taken away, or with something that is put in."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import partial

import numpy as np

from ..fields import Field
from ..packs import Pack
from ..picture.joining import joined_in
from ..picture.resample import resize_picture
from ..picture.spread import spread
from ..told.grounds import main_ground
from ..told.guides import Sketch, sketched_lines
from ..told.said import IN_MASK, Where
from ..told.voices import Area, Cells
from ..values.element import Element, phrases
from ..values.frame import WorkFrame
from ..values.outline import Outline, rasterise
from ..values.sheet import Sheet
from .behind import shapes_behind, standing, with_behind
from .fitting import ANEW
from .going_on import at_size, grounds_going_on, lines_going_on, said_by_picture
from .grounded import covering
from .masked import filled_where_bare
from .request import Request
from .shadows import shadows_of
from .stage import Stage, Strength, seen

#: Whether only its form changes.
FORM = Field(
    "flag",
    True,
    label="form",
    tip="Where the mask covers nothing that would have to go, only the form of what is put in and a rim round it change, and the ground "
    "beside it stays as it is. Off: all that the mask covers is painted anew.",
    option="where nothing has to go, change only the form of what is put in and a rim round it",
)
#: How broad that rim is, in shares of its longer side, and at least, in pixels of the sheet.
RIM, LEAST_RIM = 0.04, 4.0
#: How much of the strength the ground is painted with where a shadow falls on it: enough for all of the shadow.
SHADED = 0.55


def goes_on(request: Request, pack: Pack) -> bool:
    """Whether what a mask covers is only to go on as what lies round it: no words are said for it, and nothing of it stays."""
    return not phrases(request.words) and request.settings.strength >= ANEW and "lines" in pack.info.capabilities


def put_in(stage: Stage, sheet: Sheet, words: str, pack: Pack, form: bool = False) -> Stage:
    """A masked stage that puts something in: its ground has the tone of what lies round it, and what stands there a shadow. form: only its
    form and a rim round it change, so that the ground beside it stays what it is; else all that the mask covers."""
    shape, shadows = stage.shapes.get(IN_MASK), _shadow(stage, sheet, words, pack)
    if form and shape is not None and stage.sketches:
        stage = replace(stage, strength=_formed(stage, shape, shadows))
    return replace(in_tone(stage), shadows=shadows)


def _formed(stage: Stage, shape: Outline, shadows: Sequence[Sketch]) -> Strength:
    """A stage's strength as far as a form reaches and a rim round it, and some where its shadow lies."""
    whole, rect = stage.strength, stage.frame.rect
    x0, y0, x1, y1 = shape.box
    rim = max(LEAST_RIM, RIM * max(x1 - x0, y1 - y0))

    def strength(height: int, width: int) -> np.ndarray:
        form = spread(rasterise(shape, rect, height, width), max(1, round(rim * height / rect.height))) > 0.5
        dark = sketched_lines(shadows, rect, height, width) > 0
        return np.asarray(whole(height, width) * np.where(form, 1.0, SHADED * dark), np.float32)

    return strength


def _shadow(stage: Stage, sheet: Sheet, words: str, pack: Pack) -> tuple[Sketch, ...]:
    shape = stage.shapes.get(IN_MASK)
    if pack.grounds is None or shape is None or not stage.sketches:
        return ()
    grounds = pack.grounds.named(phrases(sheet.scene.words))
    if main_ground(grounds) is None:
        return ()
    thing = Element(sheet.next_key(), words, shape, words)
    spot = shadows_of(replace(sheet, elements=(thing,)), {thing.key: shape}, grounds, pack)
    return (*spot, covering(shape, sheet)) if spot else ()


def in_tone(stage: Stage, forms: Sequence[Outline] = ()) -> Stage:
    """A masked stage whose ground has the tone of what lies round the mask, and what goes on in it its own. forms: of that, far to near."""
    return replace(stage, finish=partial(_joined, hole=_hole(stage), forms=forms))


def _hole(stage: Stage) -> np.ndarray:
    """Where a stage paints, (h, w) bool as finely as it computes: plans ask at every change, however large the sheet is."""
    return stage.strength(stage.frame.height, stage.frame.width) > 0


def filled_in(stage: Stage, sheet: Sheet, request: Request, pack: Pack, seed: int) -> Stage:
    """A masked stage by which the picture round a hole goes on in it: its own lines lead into it, its horizon and its grounds go through
    it, its tone is kept; and what was there does not shine through."""
    rect, hole = stage.frame.rect, _hole(stage)
    settings = replace(request.settings, grounds=True)
    shapes = shapes_behind(sheet, request, pack)
    behind = grounds_going_on(replace(sheet, elements=()), request, settings, {}, pack, seed, hole, rect, rect, tuple(shapes.values()))

    def areas(cells: Cells) -> Mapping[Where, Area]:
        return {**stage.areas(cells), **behind.areas(stage.frame, cells, [])}

    dark = shadows_of(replace(sheet, elements=standing(sheet, shapes)), shapes, [ground for ground, _ in behind.strips], pack)

    # Told nothing at all, it would paint anything into an empty sky.
    own = () if stage.told else said_by_picture(sheet, pack, rect)
    filled = replace(
        stage,
        told=behind.said((*stage.told, *own), pack.grounds, sheet.scene.weight),
        away=(*own, *stage.away),
        areas=areas,
        # With lines to go by, guidance at all levels would only paint the opposite of what is taken away.
        guided=pack.info.guided if request.settings.guidance != 1 else None,
        start=partial(filled_where_bare, fill="smooth", seed=seed, bare=stage.strength)
        if request.cleared and stage.start is seen
        else stage.start,
        finish=in_tone(stage, tuple(shapes.values())).finish,
        drawn=partial(lines_going_on, hole=hole),
        grounds=(behind.unlit if settings.weather else behind).sketches,
        lights=behind.lights,
        shadows=replace(behind, shadows=dark).shade if behind.strips else (),
    )
    return with_behind(filled, sheet, shapes)


def _joined(made: np.ndarray, sheet: Sheet, frame: WorkFrame, hole: np.ndarray, forms: Sequence[Outline]) -> np.ndarray:
    size = made.shape[:2]
    old = resize_picture(sheet.flatten(frame.rect)[..., :3].astype(np.float32) / 255, *size)
    parts: list[np.ndarray] = []
    for form in reversed(forms):
        part = rasterise(form, frame.rect, *size) > 0.5
        for nearer in parts:
            part &= ~nearer
        parts.append(part)
    return joined_in(made, old, at_size(hole, *size), parts)
