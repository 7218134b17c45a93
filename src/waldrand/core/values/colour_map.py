"""Colour maps: a flat-colour picture in which each colour is an element, read and written."""

from __future__ import annotations

import colorsys
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from ..refused import Refused
from ..worded import worded
from .frame import Rect
from .outline import Outline, rasterise
from .shaping import painted
from .sheet import Sheet

MOST_COLOURS = 40
GOLDEN = 0.61803398875
#: How far a pixel may be from the colour it counts as and still be called flat, 0..441.
EVEN = 9.0


@dataclass(frozen=True, eq=False)
class Region:
    """One colour (red, green, blue) and where it is."""

    colour: tuple[int, int, int]
    outline: Outline


def regions(pixels: np.ndarray, tolerance: float = 24.0, least: float = 0.001) -> list[Region]:
    """The flat colours of a picture (H, W, 4) uint8, largest first; transparent places belong to none.

    tolerance: colours within this distance (0..441) are one; least: share of the picture a colour has to have. A pixel that is not
    flat (a soft edge, the dirt of JPEG) goes to the flat colour nearest to it on the picture.

    Raises:
        Refused: no flat colours, or far too many.
    """
    h, w = pixels.shape[:2]
    rgb, there = pixels[..., :3].astype(np.int16), pixels[..., 3] > 127
    calm = _calm(rgb, tolerance) & there
    # Binned coarsely only to find the colours; the mean of what falls to a colour is what it is.
    bins = (rgb >> 3).astype(np.int32)
    code = (bins[..., 0] << 10) | (bins[..., 1] << 5) | bins[..., 2]
    found, count = np.unique(code[calm], return_counts=True)
    order = np.argsort(count)[::-1]
    centres: list[np.ndarray] = []
    for i in order:
        if count[i] < max(4, least * h * w / 4) and len(centres):
            break
        c = np.array([found[i] >> 10, (found[i] >> 5) & 31, found[i] & 31], float) * 8 + 4
        if all(np.linalg.norm(c - o) > tolerance for o in centres):
            centres.append(c)
    # Colour by colour, so that a large picture of many colours needs no more memory than one of few.
    nearest, least_far = np.zeros((h, w), np.int32), np.full((h, w), np.inf, np.float32)
    for i, c in enumerate(centres):
        far = ((rgb - c.astype(np.float32)) ** 2).sum(-1)
        closer = far < least_far
        nearest[closer], least_far[closer] = i, far[closer]
    sure = calm & (least_far <= (1.5 * tolerance) ** 2)
    if not sure.any():
        raise Refused(worded("No flat colours were found in this picture: a colour map is painted in plain colours without shading."))
    # What is nowhere more than a few pixels thick is the fringe between two colours.
    thick = [i for i in range(len(centres)) if ndimage.binary_erosion(sure & (nearest == i), iterations=2, border_value=1).any()]
    sure &= np.isin(nearest, thick or range(len(centres)))
    ys, xs = ndimage.distance_transform_edt(~sure, return_distances=False, return_indices=True)
    label = np.where(there, nearest[ys, xs], -1)
    means = np.stack([rgb[sure & (label == i)].mean(0) if (sure & (label == i)).any() else c for i, c in enumerate(centres)])
    even = np.linalg.norm(rgb[sure] - means[label[sure]], axis=-1) < EVEN
    if even.mean() < 0.75 or sure.sum() < 0.5 * there.sum():
        raise Refused(
            worded("This picture is shaded, not flat: a colour map is painted in plain colours. Is it a photograph or a painting?")
        )
    out = []
    for i in np.argsort([-(label == i).sum() for i in range(len(centres))]):
        mine = label == i
        if mine.sum() < max(4, least * h * w):
            continue
        r, g, b = (round(float(v)) for v in means[i])
        out.append(Region((r, g, b), painted(np.where(mine, 255, 0).astype(np.uint8), Rect(0, 0, w, h))))
    if len(out) > MOST_COLOURS:
        raise Refused(worded("This picture has {0} colours; a colour map has at most {1}. Is it a photograph?", len(out), MOST_COLOURS))
    return out


def _calm(rgb: np.ndarray, tolerance: float) -> np.ndarray:
    """Where a picture (H, W, 3) int16 hardly changes from pixel to pixel, (H, W) bool."""
    h, w = rgb.shape[:2]
    calm = np.ones((h, w), bool)
    for axis in (0, 1):
        step = np.abs(np.diff(rgb, axis=axis)).max(-1) < tolerance / 2
        ahead, back = np.ones((h, w), bool), np.ones((h, w), bool)
        if axis == 0:
            ahead[:-1], back[1:] = step, step
        else:
            ahead[:, :-1], back[:, 1:] = step, step
        calm &= ahead & back
    return calm


def colour_name(colour: tuple[int, int, int]) -> str:
    """A name for a region: #rrggbb."""
    return "#{:02x}{:02x}{:02x}".format(*colour)


def map_colours(n: int) -> list[tuple[int, int, int]]:
    """n colours far apart from their neighbours."""
    out = []
    for i in range(n):
        r, g, b = colorsys.hsv_to_rgb((0.08 + i * GOLDEN) % 1, (0.55, 0.85)[i % 2], (0.92, 0.72, 0.82)[i % 3])
        out.append((round(255 * r), round(255 * g), round(255 * b)))
    return out


def colour_map(sheet: Sheet) -> np.ndarray:
    """The layout as a colour map, (H, W, 4) uint8: a colour for each element, near ones over far ones, the rest transparent."""
    out = np.zeros((sheet.height, sheet.width, 4), np.uint8)
    for e, colour in zip(sheet.elements, map_colours(len(sheet.elements)), strict=True):
        out[rasterise(e.outline, sheet.rect, sheet.height, sheet.width) >= 0.5] = (*colour, 255)
    return out
