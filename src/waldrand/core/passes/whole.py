"""Stages over the whole sheet: its scene and elements told, each with its own strength and noise."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from functools import cache

import numpy as np

from ..noise.noise import ELEMENT, START
from ..packs import Pack
from ..picture.resample import resize_mask
from ..refused import Refused
from ..told.said import EVERYWHERE, NOTHING, InElement, InGround, Said, Where, said_of_elements, said_of_scene
from ..told.voices import Area, Cells, element_masks
from ..values.element import Element, phrases
from ..values.frame import WorkFrame, given_frame, whole_frame
from ..values.outline import Outline
from ..values.shaping import rounded
from ..values.sheet import Sheet
from ..worded import worded
from .filled_in import in_tone
from .fitting import ANEW, fitted_figures, shown_near, sketches_of, with_figures
from .grounded import Grounded, grounded, painted_anew
from .masked import masked_stage, usable_method
from .nearer import KEEPING, STRENGTH, nearer_mask, room_of, small_ones
from .request import Request
from .stage import Stage
from .strength import laid_out_strength


def strongest_of(sheet: Sheet, strength: float) -> float:
    """The greatest strength of a pass over the whole sheet; without a picture it is 1."""
    if not sheet.has_picture:
        return 1.0
    return max([strength, *(e.strength for e in sheet.elements if e.strength is not None and not e.hold)])


def settled_shapes(sheet: Sheet, strongest: float, shapes: Mapping[int, Outline] | Mapping[Where, Outline]) -> bool:
    """Whether figures say what stands where, or the picture that is reworked: then more pixels make finer things, else more things."""
    return bool(shapes) or (sheet.has_picture and strongest < ANEW)


def frame_of(sheet: Sheet, request: Request, pack: Pack, shapes: Mapping[int, Outline]) -> WorkFrame:
    """What is computed, the whole sheet or the frame that was set by hand, and how large.

    Raises:
        Refused: hardly anything of that frame lies on the sheet.
    """
    settings, given = request.settings, request.given_rect
    limits = pack.info.limits.at(settings.detail)
    settled = settled_shapes(sheet, strongest_of(sheet, settings.strength), shapes)
    limits = limits.placed if settled else limits
    if given is not None:
        return given_frame(given, sheet.width, sheet.height, limits)
    return whole_frame(sheet.width, sheet.height, limits)


def outside_frame(sheet: Sheet, request: Request) -> tuple[Element, ...]:
    """The elements that lie wholly outside a frame that was set by hand."""
    given = request.given_rect
    if given is None:
        return ()
    return tuple(e for e in sheet.elements if not rounded(e.outline.box).intersect(given).area)


def said_in(sheet: Sheet, request: Request, shown: Mapping[int, str] = NOTHING) -> tuple[tuple[Said, ...], tuple[Said, ...]]:
    """What a pass over the whole sheet tells, and what it leads away from. shown: what is said of elements beside, by their keys."""
    told, away = said_of_scene(sheet.scene)
    told += [Said("pass", "pass", p, sheet.scene.weight, EVERYWHERE) for p in phrases(request.words)]
    away += [Said("pass", "pass", p, 1.0, EVERYWHERE) for p in phrases(request.avoid)]
    of_elements = said_of_elements(sheet, shown)
    return (*told, *of_elements[0]), (*away, *of_elements[1])


def drawn_on_whole(sheet: Sheet, request: Request, pack: Pack, seed: int) -> tuple[dict[int, Outline], Grounded]:
    """The figures that are fitted in, by the elements' keys, and the grounds that are drawn."""
    shapes = fitted_figures(sheet, request.settings, pack, seed)
    return shapes, grounded(sheet, request.settings, shapes, pack, seed, request.given_rect is not None)


def whole_stage(sheet: Sheet, request: Request, pack: Pack, seed: int) -> Stage:
    """The whole sheet, or the part of it in a frame that was set by hand, once.

    Raises:
        Refused: hardly anything of that frame lies on the sheet.
    """
    settings, info = request.settings, pack.info
    gone = {e.key for e in outside_frame(sheet, request)}
    # What is not in the frame is not told, or it would be painted anywhere.
    sheet = replace(sheet, elements=tuple(e for e in sheet.elements if e.key not in gone)) if gone else sheet
    shapes, behind = drawn_on_whole(sheet, request, pack, seed)
    frame = frame_of(sheet, request, pack, shapes)
    own_strengths = any(e.strength is not None for e in sheet.elements)

    @cache
    def masks(height: int, width: int) -> list[np.ndarray]:
        return element_masks(sheet.elements, WorkFrame(frame.rect, width, height))

    def strength(height: int, width: int) -> np.ndarray:
        if not sheet.has_picture:
            return np.ones((height, width), np.float32)
        drawn = masks(height, width) if own_strengths else None
        return laid_out_strength(settings.strength, sheet.elements, drawn, frame.rect, height, width)

    @cache
    def areas(cells: Cells) -> dict[Where, Area]:
        outlines = element_masks(with_figures(sheet, shapes).elements, frame) if shapes else masks(frame.height, frame.width)
        out: dict[Where, Area] = {EVERYWHERE: Area(None, sheet.scene.weight)}
        for e, m in zip(sheet.elements, outlines, strict=True):
            out[InElement(e.key)] = Area(resize_mask(m, *cells), e.weight)
        return out | behind.areas(frame, cells, outlines)

    def own_noise(cells: Cells) -> list[tuple[int, int, np.ndarray]]:
        return [
            (e.seed, START if e.take_noise else ELEMENT, resize_mask(masks(frame.height, frame.width)[i], *cells))
            for i, e in enumerate(sheet.elements)
            if e.seed is not None
        ]

    told, away = said_in(sheet, request, shown_near(sheet, settings, pack, seed, shapes))
    return Stage(
        frame,
        seed,
        settings,
        usable_method(settings, info),
        strongest_of(sheet, settings.strength),
        strength,
        behind.said(told, pack.grounds, sheet.scene.weight),
        away,
        areas,
        info.guided if settings.guidance != 1 else None,
        own_noise,
        shapes={InElement(key): shape for key, shape in shapes.items()},
        sketches=sketches_of(sheet, settings, shapes),
        grounds=(behind.unlit if settings.weather else behind).sketches,
        shadows=behind.shade,
        lights=behind.lights,
        whole=seed if painted_anew(sheet, settings, request.given_rect is not None) else None,
    )


def nearer_stage(sheet: Sheet, request: Request, key: int, pack: Pack, seed: int, of: int) -> Stage:
    """An element of a pass painted once more when the whole is done, in a frame of its own. of: the seed of the whole, by which
    the element is painted in the colours that it has, and over a picture no more strongly than the whole; where it got a figure there,
    along the same lines.

    Raises:
        Refused: there is no such element, it has no words, or nothing of it can be seen.
    """
    shapes = fitted_figures(sheet, request.settings, pack, of) if request.keeps_form else {}
    mask = nearer_mask(with_figures(sheet, shapes), key)
    e, shape = sheet.element(key), shapes.get(key)
    if not phrases(e.words):
        raise Refused(worded("“{0}” has no words, so it cannot be painted from nearer.", e.name))
    if mask.empty:
        raise Refused(worded("Nothing of “{0}” can be seen, so it cannot be painted from nearer.", e.name))
    asked = 1.0 if not sheet.has_picture else request.settings.strength if e.strength is None else e.strength
    strength = min(KEEPING, asked) if request.keeps_form and seed == of else STRENGTH
    settings = replace(request.settings, strength=strength, figures=request.settings.figures and e.figure)
    sketches = () if shape is None else sketches_of(sheet, settings, {key: shape})
    if sketches:
        # By its lines it is as good in half the steps, and of what is all but painted anew no detail is carried over.
        fewest = min(settings.steps, pack.info.quick.steps)
        settings = replace(settings, steps=max(fewest, math.ceil(settings.steps / 2)), carry_detail=False)
    stage = masked_stage(sheet, mask, e.words, e.avoid, settings, pack, seed, figure=shape)
    stage = replace(in_tone(stage) if request.keeps_form else stage, blend=room_of(mask.box()))
    if shape is None:
        return stage
    # Told along which lines, it holds its own as a thing of the whole does.
    return replace(stage, guided=pack.info.guided if settings.guidance != 1 else None, sketches=sketches)


def with_small_named(sheet: Sheet, request: Request, pack: Pack) -> Request:
    """The request with every small element named that shall be painted from nearer."""
    if not request.small_nearer:
        return request
    settings = request.settings
    shapes = fitted_figures(sheet, settings, pack, settings.seed)
    frame = frame_of(sheet, request, pack, shapes)
    named = dict(request.nearer)
    small = small_ones(
        with_figures(sheet, shapes if request.keeps_form else {}), frame, pack.info.limits.at(settings.detail), settings.margin
    )
    first: tuple[tuple[int, int | None], ...] = tuple((key, None) for key in small if key not in named)
    return replace(request, nearer=(*first, *request.nearer), small_nearer=False)


def whole_stages(sheet: Sheet, request: Request, pack: Pack, seed: int) -> tuple[Stage, ...]:
    """The whole sheet, then what is painted from nearer."""
    first = whole_stage(sheet, request, pack, seed)
    near = (nearer_stage(sheet, request, key, pack, own, seed) for key, own in request.nearer_by(seed))
    return (first, *(replace(stage, whole=first.whole) for stage in near))


def part_of(request: Request) -> str:
    """What of the sheet a pass is over, for people."""
    return worded("the whole sheet") if request.own_frame is None else worded("the frame you set")


def notes_of(sheet: Sheet, request: Request, stage: Stage) -> list[str]:
    """Figures that are fitted in, and what is painted from nearer."""
    out = []
    names = {one.where.key: f"“{one.owner}”" for one in stage.told if isinstance(one.where, InElement)}
    given = [name for key, name in names.items() if not sheet.has_element(key)]
    if given:
        out.append(worded("Gives a place to what only words name, another with every seed: {0}.", ", ".join(given)))
    fitted = [names[where.key] for where in stage.shapes if isinstance(where, InElement) and where.key in names]
    if fitted:
        out.append(worded("Fits a figure of {0}.", ", ".join(fitted)))
    behind = [one.where.label for one in stage.told if isinstance(one.where, InGround)]
    if behind:
        out.append(worded("Draws what lies behind: {0}.", ", ".join(behind)))
    near = dict.fromkeys(f"“{sheet.element(key).name}”" for key, _ in request.nearer)
    if request.small_nearer and given:
        near[worded("what got a place and is small")] = None
    if near:
        out.append(worded("Then paints from nearer: {0}.", ", ".join(near)))
    return out
