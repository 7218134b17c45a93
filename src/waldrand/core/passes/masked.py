"""Stages that change only what a mask covers, in a frame of their own."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache, partial

import numpy as np

from ..packs import Pack, PackInfo
from ..picture.fills import filled
from ..picture.resample import resize_mask
from ..refused import Refused
from ..told.guides import Sketch
from ..told.said import EVERYWHERE, IN_MASK, Said, Where, said_of_scene
from ..told.voices import Area, Cells, Method, mask_outline
from ..values.element import phrases
from ..values.frame import Rect, WorkFrame, fitted_frame, given_frame
from ..values.masks import Mask
from ..values.outline import Outline
from ..values.sheet import Sheet
from ..worded import worded
from .fitting import figure_in_mask, in_frame, mask_figure, on_sheet, sketches_in
from .settings import PassSettings
from .stage import Stage, Strength, seen
from .strength import masked_strength

#: An inpaint that starts from what is under its mask.
PICTURE = "picture"


def usable_method(settings: PassSettings, info: PackInfo) -> Method:
    """How elements are told: as asked for, or blended where the pack cannot be told where things are."""
    return "blend" if settings.method == "steer" and "regions" not in info.capabilities else settings.method


def masked_frame(sheet: Sheet, mask: Mask, settings: PassSettings, info: PackInfo, given: Rect | None = None) -> WorkFrame:
    """What is computed for a mask: round it, or the frame that was set by hand.

    Raises:
        Refused: the mask is empty, or lies outside that frame.
    """
    limits = info.limits.at(settings.detail)
    if given is None:
        return fitted_frame(mask.box(), sheet.width, sheet.height, limits, settings.margin)
    frame = given_frame(given, sheet.width, sheet.height, limits)
    if not mask.read(frame.rect).any():
        raise Refused(worded("The mask lies outside the frame you set: move the frame, or let it fit itself."))
    return frame


def masked_stage(
    sheet: Sheet,
    mask: Mask,
    words: str,
    avoid: str,
    settings: PassSettings,
    pack: Pack,
    seed: int,
    given: Rect | None = None,
    fill: str = PICTURE,
    figure: Outline | None = None,
) -> Stage:
    """What a mask covers of a sheet that has a picture, painted with words of its own at its grey times the strength. given: a frame
    that was set by hand; fill: what is under the mask at first, PICTURE: the picture itself; figure: the shape, on the sheet, of what is
    there, None: one is fitted in where settings and words say so.

    Raises:
        Refused: the mask is empty, or lies outside that frame.
    """
    info = pack.info
    frame = masked_frame(sheet, mask, settings, info, given)
    cells: Cells = (frame.height // info.cell, frame.width // info.cell)

    def strength(height: int, width: int) -> np.ndarray:
        return masked_strength(settings.strength, mask, sheet.elements, frame.rect, height, width)

    @cache
    def place() -> np.ndarray:
        return mask_outline(strength(frame.height, frame.width), cells)

    shape = None if figure is None else in_frame(figure, frame, cells)
    if shape is None and settings.figures and pack.figures is not None:
        shape = mask_figure(place(), sheet, words, settings, pack, seed)

    def areas(asked: Cells) -> dict[Where, Area]:
        there = resize_mask(figure_in_mask(place(), shape), *asked)
        return {EVERYWHERE: Area(None, sheet.scene.weight), IN_MASK: Area(there)}

    def bare(height: int, width: int) -> np.ndarray:
        return masked_strength(1.0, mask, sheet.elements, frame.rect, height, width)

    shapes: dict[Where, Outline] = {} if shape is None else {IN_MASK: on_sheet(shape, frame, cells)}
    sketches = sketches_in(shapes.values()) if settings.sketches else ()
    return Stage(
        frame,
        seed,
        settings,
        usable_method(settings, info),
        settings.strength * int(mask.read(frame.rect).max()) / 255,
        strength,
        *_said(sheet, words, avoid),
        areas,
        _guided(settings, info, sketches),
        start=seen if fill == PICTURE else partial(filled_where_bare, fill=fill, seed=seed, bare=bare),
        shapes=shapes,
        # At strength 0 too: what fills the hole is an end in itself.
        shows=None if fill == PICTURE else bare,
        sketches=sketches,
    )


def _guided(settings: PassSettings, info: PackInfo, sketches: Sequence[Sketch]) -> tuple[float, float] | None:
    """At which levels guidance leads: at all, for what is new has to hold its own against its surroundings; but a sketch that leads
    sees to that, and where it leads alone the ground round it stays even."""
    if settings.guidance == 1:
        return None
    return info.guided if sketches and settings.drawing_guidance and "lines" in info.capabilities else (0.0, 1.0)


def _said(sheet: Sheet, words: str, avoid: str) -> tuple[tuple[Said, ...], tuple[Said, ...]]:
    """What is told of a mask, and what guidance leads away from."""
    told, away = said_of_scene(sheet.scene)
    # Guidance would else lead away from the surroundings too, and tint the whole hole.
    away = [*told, *away, *(Said("mask", "pass", p, 1.0, IN_MASK) for p in phrases(avoid))]
    return (*told, *(Said("mask", "pass", p, 1.0, IN_MASK) for p in phrases(words))), tuple(away)


def filled_where_bare(sheet: Sheet, frame: WorkFrame, fill: str, seed: int, bare: Strength | None = None) -> np.ndarray:
    """What is seen in a frame, filled where there is no picture, and where it is bare."""
    below = sheet.flatten(frame.rect)
    known = below[..., 3].astype(np.float32) / 255
    if bare is not None:
        known = np.where(bare(*known.shape) > 0, np.float32(0), known)
    return filled(below[..., :3].astype(np.float32) / 255, known, fill, seed)
