"""The soft dark spot under what stands on a ground, laid over what is painted: told as lines, it would be taken for a part of the thing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from ..packs import Ground, Pack
from ..told.guides import Sketch, sketched_lines
from ..values.element import phrases
from ..values.frame import Rect
from ..values.outline import Outline
from ..values.sheet import Sheet

#: A spot is so high to either side of a thing's foot, in shares of the thing's height and of the picture's shorter side; so much narrower
#: than the thing, and so far aside, in shares of its width; of what is wider than so many times its height there is none.
HIGH, HIGHER, NARROWER, ASIDE, WIDEST = 0.035, 0.006, 0.02, 0.03, 3.0
#: Over which share of it a spot fades, how much it covers, its colour in full light, sRGB 0..1, and how much of the ground is in it.
FADES, COVERS, DARK, OF_GROUND = 0.25, 0.42, (0.17, 0.18, 0.33), 0.3


def shadows_of(sheet: Sheet, shapes: Mapping[int, Outline], grounds: Sequence[Ground], pack: Pack) -> tuple[Sketch, ...]:
    """The shadows of a sheet's elements that have a figure and stand on dry ground. shapes: figures by their keys."""
    if pack.figures is None or any(g.wet for g in grounds):
        return ()
    out = []
    for e in sheet.elements:
        figures = pack.figures.named(phrases(e.words)) if e.key in shapes else ()
        spot = shadow_under(shapes[e.key], min(sheet.width, sheet.height)) if figures and not figures[0].hangs else None
        out += [] if spot is None else [spot]
    return tuple(out)


def shadow_under(shape: Outline, side: float) -> Sketch | None:
    """How dark it is under a thing, as if it were drawn; None under what is far wider than high. side: the shorter one of the picture."""
    x0, y0, x1, y1 = shape.box
    width, height = x1 - x0, y1 - y0
    if width > WIDEST * height:
        return None
    half = HIGH * height + HIGHER * side
    box = x0 + (ASIDE + NARROWER / 2) * width, y1 - half, x1 + (ASIDE - NARROWER / 2) * width, y1 + half
    h, w = (max(8, round(n)) for n in (2 * half, box[2] - box[0]))
    yy, xx = ((2 * np.arange(n) + 1 - n) / n for n in (h, w))
    dark = np.round(255 * np.clip((1 - np.hypot(yy[:, None], xx[None])) / FADES, 0, 1)).astype(np.uint8)
    return Sketch(box, dark, dark)


def shaded(picture: np.ndarray, shadows: Sequence[Sketch], rect: Rect, amount: np.ndarray) -> np.ndarray:
    """A picture (h, w, 3) float32 0..1 of a part of the sheet with shadows, and what covers them, far to near; amount: (h, w) 0..1."""
    cover = COVERS * amount * sketched_lines(shadows, rect, *picture.shape[:2])
    rows, columns = (np.flatnonzero(cover.any(axis)) for axis in (1, 0))
    if not len(rows):
        return picture
    at = slice(rows[0], rows[-1] + 1), slice(columns[0], columns[-1] + 1)
    below, out = picture[at], np.array(picture, np.float32)
    # In the dark a shadow is darker too.
    light = np.minimum(1, 2 * below.max(-1, keepdims=True))
    dark = OF_GROUND * below + (1 - OF_GROUND) * light * np.array(DARK, np.float32)
    out[at] = below + cover[at][..., None] * (np.minimum(dark, below) - below)
    return out
