"""Figures: the shapes that things have. Fitted into an outline that says only where a thing shall be, they tell the model its shape.

A box round a horse leaves open which way it looks, where its legs are and how it stands; a model that averages over all
of these paints none. A figure decides it beforehand, and the artist sees it.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import lru_cache

import numpy as np
from scipy import ndimage

from ..noise.noise import BEND, FIGURE
from ..packs import Figure, Ids
from ..values.outline import Box, Outline
from .naming import named, said_of

#: So many times wider or higher than it is a figure may be drawn, to fill its outline; beyond, others are preferred: the
#: natural logarithm of what is missing is told from none by this deviation.
STRETCH, BEYOND = 1.25, 0.15
#: What a figure is called that shows the part of a thing that is seen from near by, and ends below at the picture's edge.
NEAR_BY = "portrait"
#: A place is that of such a one where it ends there, is at least so much of the picture's height, and so wide against high.
LARGE, BROAD = 0.5, 0.6
#: The most figures that stand side by side in one outline.
MOST_BESIDE = 12


Read = Callable[[str], Sequence[int]]


class FigureBook:
    """All figures of a pack. read: word ids of a phrase."""

    def __init__(self, figures: Sequence[Figure], read: Read) -> None:
        self._of: Callable[[str], Ids] = lru_cache(4096)(lambda phrase: tuple(read(phrase)))
        self._by_label: dict[Ids, list[Figure]] = defaultdict(list)
        for f in figures:
            self._by_label[self._of(f.label)] += [f, f.flipped()]

    def named(self, own: Sequence[str], scene: Sequence[str] = (), near: bool = False) -> tuple[Figure, ...]:
        """The figures of the thing that some phrases name, those of which most is true that they and the scene's phrases say; none
        when they name no thing that has one, or several things, which no one figure is. near: as if that were said, where nothing is
        that is not seen from near by, like legs."""
        things = {label for p in own for label in named(self._of(p), self._by_label)}
        if len(things) != 1:
            return ()
        figures = self._by_label[things.pop()]
        asked = said_of({t for f in figures for t in f.traits}, (*own, *scene), self._of)
        of_near, of_others = ({t for f in figures if (NEAR_BY in f.needs) == is_near for t in f.traits} for is_near in (True, False))
        if near and of_near and not asked & (of_others - of_near):
            asked |= {NEAR_BY}
        figures = [f for f in figures if f.needs <= asked]
        most = max((len(asked & f.traits) for f in figures), default=0)
        return tuple(f for f in figures if len(asked & f.traits) == most)


def seen_near(box: Box, height: float) -> bool:
    """Whether a box on a picture of this height looks like the place of a thing that is seen from near by."""
    x0, y0, x1, y1 = box
    return y1 >= height and y1 - y0 >= LARGE * height and x1 - x0 >= BROAD * (y1 - y0)


def chosen(figures: Sequence[Figure], ratio: float, seed: int, key: int) -> Figure:
    """One of some figures for a place of this width against height; the same for the same seed and key. All that fill it without
    being stretched too far are as likely.

    The choice falls on the greatest of log-likelihood plus Gumbel noise, so that it follows those likelihoods and yet stays as it
    is while a place is changed a little (Gumbel, 1954).
    """
    luck = np.random.Generator(np.random.Philox(key=[seed, FIGURE + key])).gumbel(size=len(figures))
    off = np.array([max(0.0, abs(math.log(f.ratio * _beside(f, ratio) / ratio)) - math.log(STRETCH)) for f in figures])
    return figures[int(np.argmax(luck - 0.5 * (off / BEYOND) ** 2))]


def _beside(figure: Figure, ratio: float) -> int:
    """How many of a figure stand side by side in a place of this width against height."""
    return max(1, min(MOST_BESIDE, round(ratio / figure.ratio))) if figure.rows else 1


@lru_cache(maxsize=1024)
def _repeated(figure: Figure, n: int) -> np.ndarray:
    """So many of a figure's masks side by side; the same array for the same figure, so that whoever draws it knows it again."""
    return figure.mask if n == 1 else np.tile(figure.mask, n)


#: Of a figure's sides: by how much a place of it is moved, in the deviation, when it is bent so that no two are the same.
BENT, KNOTS = 0.012, 4


@lru_cache(maxsize=64)
def _between_knots(n: int) -> np.ndarray:
    """(n, KNOTS): what each knot of a cubic spline counts at each of n places along a side."""
    return np.asarray(ndimage.zoom(np.eye(KNOTS), (n / KNOTS, 1), order=3, grid_mode=True, mode="nearest"))


@lru_cache(maxsize=256)
def bent(figure: Figure, seed: int, key: int) -> Figure:
    """A figure, and its drawing, gently bent by the seed, so that no two of a kind are the same; its box stays."""
    rng = np.random.Generator(np.random.Philox(key=[seed, BEND + key]))
    knots = rng.normal(0, BENT, (2, KNOTS, KNOTS))
    # What touches its box goes on touching it.
    knots[0, [0, -1]] = knots[1, :, [0, -1]] = 0

    def moved(a: np.ndarray) -> np.ndarray:
        h, w = a.shape
        dy, dx = (_between_knots(h) @ k @ _between_knots(w).T for k in knots)
        yy, xx = np.mgrid[:h, :w]
        at = [yy + dy * max(h, w), xx + dx * max(h, w)]
        return np.asarray(ndimage.map_coordinates(a.astype(np.float32), at, order=1, mode="nearest"))

    mask = np.where(moved(figure.mask) > 127, 255, 0).astype(np.uint8)
    lines = None if figure.lines is None else np.round(moved(figure.lines)).astype(np.uint8)
    return replace(figure, mask=mask, lines=lines) if mask.any() else figure


def fitted(figure: Figure, box: Box) -> Outline:
    """A figure as large as a box allows, in its middle, standing on its lower edge or hanging in its middle; of what comes in rows,
    as many side by side as have room."""
    x0, y0, x1, y1 = box
    width, height = x1 - x0, y1 - y0
    n = _beside(figure, width / height)
    mask, ratio = _repeated(figure, n), n * figure.ratio
    unit = min(height, width / ratio)
    w, h = min(width, unit * ratio * STRETCH), min(height, unit * STRETCH)
    left = (x0 + x1 - w) / 2
    top = (y0 + y1 - h) / 2 if figure.hangs else y1 - h
    lines = None if figure.lines is None else np.tile(figure.lines, n)
    return Outline("mask", (left, top, left + w, top + h), mask=mask, lines=lines, below=figure.below)
