"""Denoise strength per pixel: how far each place may leave the start picture."""

from __future__ import annotations

import numpy as np

from ..noise.levels import Schedule
from ..picture.resample import resize_mask
from ..refused import Refused
from ..values.frame import WorkFrame
from ..values.outline import rasterise
from ..values.sheet import Sheet
from .request import Request


def held(sheet: Sheet, frame: WorkFrame, height: int, width: int) -> np.ndarray:
    """Where no pass may change anything, (height, width) bool over the frame."""
    out = np.zeros((height, width), bool)
    for e in sheet.elements:
        if e.hold:
            out |= rasterise(e.outline, frame.rect, height, width) > 0
    return out


def strength_map(
    sheet: Sheet, request: Request, frame: WorkFrame, height: int, width: int, masks: list[np.ndarray] | None = None
) -> np.ndarray:
    """S, (height, width) float32 0..1 over the frame: the mask's grey (an inpaint's) times the element's strength
    (masks: their outlines at that size) or the pass's; 0 where held.

    Without any picture on the sheet it is 1 everywhere.
    """
    if not sheet.has_picture:
        return np.ones((height, width), np.float32)
    s: np.ndarray = np.full((height, width), request.settings.strength, np.float32)
    if request.kind == "inpaint":
        if sheet.mask is None:
            raise Refused("There is no mask: paint where the picture may change.")
        grey = sheet.mask.read(frame.rect)
        s = s * resize_mask(grey.astype(np.float32) / 255, height, width)
    elif masks is not None:
        for e, m in zip(sheet.elements, masks, strict=True):
            if e.strength is not None:
                s = s * (1 - m) + e.strength * m
    s[held(sheet, frame, height, width)] = 0
    return s.astype(np.float32)


def set_back(x: np.ndarray, cells: np.ndarray, t: float, start: np.ndarray, e: np.ndarray, schedule: Schedule) -> np.ndarray:
    """At level t, every cell whose strength (h, w) is t or less is start picture plus noise again."""
    return np.asarray(np.where(cells <= t, schedule.noised(start, e, t), x), np.float32)
