"""What is drawn in a picture that is taken for a drawing, and how near everything is in one that is taken for depth."""

from __future__ import annotations

import numpy as np

#: A picture of which so much is clear shows what is drawn by its alpha.
CLEAR = 0.02
#: Of the distance from the ground to the strongest of what is drawn: paler counts as ground, and what counts as drawn in full.
PALEST, FULL = 0.12, 0.7
#: What is drawn is mostly drawn in full; of a photograph more than so much is half drawn, and so many times as much as is in full.
HALF_DRAWN, AGAINST_FULL = 0.09, 1.5
#: Of which nothing is darker than this nothing is drawn.
LEAST_DRAWN = 0.1
#: A place was drawn on when there is ink, darker than this, in so many of its rows and of its columns.
INKED, DRAWN_ON = 0.3, 0.6


def ink(pixels: np.ndarray) -> np.ndarray:
    """How much is drawn, (h, w) float32 0..1, in a picture (h, w, 4) uint8: dark lines on a light ground, light ones on a dark ground, or
    what is not clear."""
    alpha = pixels[..., 3].astype(np.float32) / 255
    if not pixels[..., :3].any() and (alpha < 1).any():
        return alpha
    if float((alpha < 0.5).mean()) > CLEAR:
        return alpha
    light = pixels[..., :3].astype(np.float32).mean(-1) / 255
    ground = float(np.median(light))
    away = ground - light if ground > 0.5 else light - ground
    strongest = float(away.max())
    if strongest < 0.05:
        return np.zeros_like(alpha)
    return np.asarray(np.clip((away / strongest - PALEST) / (FULL - PALEST), 0, 1), np.float32)


def looks_photographed(drawn: np.ndarray) -> bool:
    """Whether what `ink` told is hardly a drawing: far too much is half drawn."""
    full = float((drawn >= 0.95).mean())
    half = float((drawn > 0.02).mean()) - full
    return half > HALF_DRAWN and half > AGAINST_FULL * full


def nearness(pixels: np.ndarray) -> np.ndarray:
    """How near everything is, (h, w) float32 0..1, in a picture (h, w, 4) uint8 whose near is white."""
    return np.asarray(pixels[..., :3].astype(np.float32).mean(-1) / 255)


def shade_of(depth: np.ndarray) -> np.ndarray:
    """The picture (h, w, 4) uint8 of how near everything is, (h, w) 0..1: the inverse of `nearness`."""
    grey = np.asarray(np.round(255 * depth), np.uint8)
    return np.dstack([grey, grey, grey, np.full_like(grey, 255)])


def flat(depth: np.ndarray) -> bool:
    """Whether a depth says the same everywhere."""
    return float(np.ptp(depth)) < 0.02
