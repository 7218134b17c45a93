"""Stages that change only what a mask covers, in a frame of their own."""

from __future__ import annotations

from functools import cache

import numpy as np

from ..packs import Pack, PackInfo
from ..told.said import EVERYWHERE, IN_MASK, Said, Where, said_of_scene
from ..told.voices import Area, Cells, Method, mask_outline
from ..values.element import phrases
from ..values.frame import fitted_frame
from ..values.masks import Mask
from ..values.outline import Outline
from ..values.sheet import Sheet
from .fitting import figure_in_mask, mask_figure, on_sheet
from .settings import PassSettings
from .stage import Stage
from .strength import masked_strength


def usable_method(settings: PassSettings, info: PackInfo) -> Method:
    """How elements are told: as asked for, or blended where the pack cannot be told where things are."""
    return "blend" if settings.method == "steer" and "regions" not in info.capabilities else settings.method


def masked_stage(sheet: Sheet, mask: Mask, words: str, avoid: str, settings: PassSettings, pack: Pack, seed: int) -> Stage:
    """What a mask covers of a sheet that has a picture, painted with words of its own at its grey times the strength.

    Raises:
        Refused: the mask is empty.
    """
    info = pack.info
    frame = fitted_frame(mask.box(), sheet.width, sheet.height, info.limits.at(settings.detail), settings.margin)
    rect = frame.rect
    cells: Cells = (frame.height // info.cell, frame.width // info.cell)

    def strength(height: int, width: int) -> np.ndarray:
        return masked_strength(settings.strength, mask, sheet.elements, rect, height, width)

    @cache
    def place() -> np.ndarray:
        return mask_outline(strength(frame.height, frame.width), cells)

    shape = mask_figure(place(), sheet, words, settings, pack, seed) if settings.figures and pack.figures is not None else None

    def areas(_: Cells) -> dict[Where, Area]:
        return {EVERYWHERE: Area(None, sheet.scene.weight), IN_MASK: Area(figure_in_mask(place(), shape))}

    told, away = said_of_scene(sheet.scene)
    # Guidance would else lead away from the surroundings too, and tint the whole hole.
    away = [*told, *away, *(Said("mask", "pass", p, 1.0, IN_MASK) for p in phrases(avoid))]
    told += [Said("mask", "pass", p, 1.0, IN_MASK) for p in phrases(words)]
    shapes: dict[Where, Outline] = {} if shape is None else {IN_MASK: on_sheet(shape, frame, cells)}
    return Stage(
        frame,
        seed,
        settings,
        usable_method(settings, info),
        settings.strength * int(mask.read(rect).max()) / 255,
        strength,
        tuple(told),
        tuple(away),
        areas,
        # At all levels: what is new has to hold its own against its surroundings.
        (0.0, 1.0) if settings.guidance != 1 else None,
        shapes=shapes,
    )
