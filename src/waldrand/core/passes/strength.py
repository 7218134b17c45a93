"""Denoise strength per pixel: how far each place may leave the start picture."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..noise.levels import Schedule
from ..picture.resample import resize_mask
from ..values.element import Element
from ..values.frame import Rect
from ..values.masks import Mask
from ..values.outline import rasterise


def held(elements: Sequence[Element], rect: Rect, height: int, width: int) -> np.ndarray:
    """Where no pass may change anything, (height, width) bool over a rectangle of the sheet."""
    out = np.zeros((height, width), bool)
    for e in elements:
        if e.hold:
            out |= rasterise(e.outline, rect, height, width) > 0
    return out


def masked_strength(strength: float, mask: Mask, elements: Sequence[Element], rect: Rect, height: int, width: int) -> np.ndarray:
    """(height, width) float32 0..1 over a rectangle of the sheet: the mask's grey times a strength, 0 where held."""
    s = strength * resize_mask(mask.read(rect).astype(np.float32) / 255, height, width)
    s[held(elements, rect, height, width)] = 0
    return np.asarray(s, np.float32)


def laid_out_strength(
    strength: float, elements: Sequence[Element], masks: Sequence[np.ndarray] | None, rect: Rect, height: int, width: int
) -> np.ndarray:
    """(height, width) float32 0..1 over a rectangle of the sheet: a strength, where an element has its own that one, 0 where held.
    masks: the elements' outlines at that size; None where no element has its own."""
    s: np.ndarray = np.full((height, width), strength, np.float32)
    for e, m in () if masks is None else zip(elements, masks, strict=True):
        if e.strength is not None:
            s = s * (1 - m) + e.strength * m
    s[held(elements, rect, height, width)] = 0
    return s.astype(np.float32)


def set_back(x: np.ndarray, cells: np.ndarray, t: float, start: np.ndarray, e: np.ndarray, schedule: Schedule) -> np.ndarray:
    """At level t, every cell whose strength (h, w) is t or less is start picture plus noise again."""
    return np.asarray(np.where(cells <= t, schedule.noised(start, e, t), x), np.float32)
