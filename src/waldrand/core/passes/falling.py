"""What falls before a stage's picture, and shines in its sky: what is painted again in a part of a picture has the flakes that it has."""

from __future__ import annotations

import math

import numpy as np

from ..packs import Pack
from ..picture.resample import resize_mask
from ..refused import Refused
from ..values.fall import Fall, Whole
from ..values.frame import Rect
from ..values.layers import rect_from_json
from ..values.sheet import Sheet
from ..worded import worded
from .fitting import ANEW
from .history import passes_over_all
from .stage import Stage
from .telling import where_told

#: Nothing is laid where the strength is so much lower than where the picture is painted anew.
LESS = 0.2


def fallen(made: np.ndarray, stage: Stage, sheet: Sheet, pack: Pack, strength: np.ndarray) -> tuple[np.ndarray, np.ndarray | None]:
    """A picture (h, w, 3) float32 0..1 with what its words let fall before it where it is painted anew, and the lines round that, (h, w)
    0..1, None where there are none. strength: of any size over the frame."""
    falls = [(fall, where) for fall in pack.info.falls if (where := _where_falling(fall, stage, pack)) is not None]
    if not falls:
        return made, None
    size, rims = made.shape[:2], None
    anew = _anew(strength, *size)
    if not anew.any():
        return made, None
    for fall, where in falls:
        amount = resize_mask(where, *size) * anew
        spots, lines = fall.on(_whole(stage, sheet), stage.frame.rect, *size)
        made, lines = fall.laid(made, spots, amount), amount * lines
        rims = lines if rims is None else np.maximum(rims, lines)
    return made, rims


def lit(made: np.ndarray, stage: Stage, strength: np.ndarray) -> np.ndarray:
    """A picture (h, w, 3) float32 0..1 with what shines in its sky where it is painted anew. strength: of any size over the frame."""
    for lights in stage.lights:
        made = lights.over(made, stage.frame.rect, _anew(strength, *made.shape[:2]))
    return made


def falls_told(stage: Stage, pack: Pack) -> list[str]:
    """What a stage will have before its picture and in its sky, for people."""
    if not stage.settings.weather or stage.strongest <= ANEW - LESS:
        return []
    out = [fall.said for fall in pack.info.falls if _where_falling(fall, stage, pack) is not None]
    if any(lights.spots for lights in stage.lights):
        out.append(worded("lights in the sky"))
    return [worded("Lays over what is painted: {0}.", ", ".join(out))] if out else []


def _where_falling(fall: Fall, stage: Stage, pack: Pack) -> np.ndarray | None:
    """Where words let something fall, (h, w) 0..1 of any size; None: nowhere, or in a place where it does not."""
    where = where_told(fall.said, stage, pack)
    return None if not where.any() or any(where_told(word, stage, pack).any() for word in fall.but_in) else where


def _anew(strength: np.ndarray, height: int, width: int) -> np.ndarray:
    """Where a strength of any size paints anew, (height, width) float32 0..1."""
    return resize_mask(np.clip((strength - ANEW + LESS) / LESS, 0, 1).astype(np.float32), height, width)


def _whole(stage: Stage, sheet: Sheet) -> Whole:
    """The picture that something falls before: the one that the stage paints, or else the newest that a pass painted as a whole."""
    if stage.whole is None:
        for layer, recipe, seed in passes_over_all(sheet):
            try:
                was, side = rect_from_json(recipe.get("frame"), worded("The recipe's frame")), _side(Rect(0, 0, *recipe["sheet"]))
            except (Refused, KeyError, TypeError):
                continue
            # It may have been moved and scaled since.
            k = layer.bounds.width / max(1, was.width)
            return Whole(seed, layer.bounds.x0 - k * was.x0, layer.bounds.y0 - k * was.y0, k * side)
    return Whole(stage.seed if stage.whole is None else stage.whole, 0.0, 0.0, _side(sheet.rect))


def _side(rect: Rect) -> float:
    return math.sqrt(max(1, rect.area))
