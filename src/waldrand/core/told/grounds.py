"""Grounds: drawings of what fills a picture behind its things, laid out on a sheet round a horizon that suits what stands there.

A model that is told nothing of a town far off but its word paints a mean of all towns; told one drawing, it paints that one.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence

import numpy as np

from ..noise.noise import GROUND
from ..packs import BELOW, STANDS, Ground, Ids
from ..values.frame import Rect
from .figures import Read
from .guides import Sketch
from .naming import named

#: How far below a horizon the foot of a thing has to be, and the least that is left above one, in shares of the height.
FOOT, LEAST_SKY = 0.03, 0.08
#: The least that is left of water above its bank, in shares of what lies below the horizon.
LEAST_WATER = 0.3
#: What stands is at most so much of what is above the horizon, and by how much its height is changed by chance.
HIGHEST, HIGHER = 0.85, (0.85, 1.15)


class GroundBook:
    """All drawings of grounds of a pack. means: what words of the whole mean grounds too; read: word ids of a phrase."""

    def __init__(self, grounds: Sequence[Ground], means: Mapping[str, Sequence[str]], read: Read) -> None:
        self._read = read
        self._grounds = tuple(grounds)
        labels = dict.fromkeys(g.label for g in grounds)
        self._labels = {tuple(read(label)): label for label in labels}
        self._meant: dict[Ids, set[str]] = defaultdict(set, {ids: {label} for ids, label in self._labels.items()})
        for word, its in means.items():
            self._meant[tuple(read(word))] |= {label for label in its if label in labels}

    def named(self, scene: Sequence[str]) -> tuple[Ground, ...]:
        """The drawings of all grounds that a scene's phrases name, far to near, each label's in all its forms; without what one of them
        hides."""
        said = {label for phrase in scene for ids in named(tuple(self._read(phrase)), self._meant) for label in self._meant[ids]}
        if any(g.over for g in self._grounds if g.label in said):
            said -= {g.label for g in self._grounds if g.between is not None and not g.over}
        return tuple(g for g in self._grounds if g.label in said and (not g.needs or said.intersection(g.needs)))

    def label(self, phrase: str) -> str | None:
        """The one ground that a phrase itself names; None where it names none, or several, or only means some."""
        found = set(named(tuple(self._read(phrase)), self._labels))
        return self._labels[found.pop()] if len(found) == 1 else None

    def beside(self, label: str) -> str | None:
        """The ground that is there only beside another one, and below it as that is, like the bank of a lake; None where there is none."""
        return next((g.label for g in self._grounds if g.way == BELOW and g.needs == (label,)), None)


def main_ground(grounds: Sequence[Ground]) -> Ground | None:
    """The one ground whose upper edge is the horizon; None where there is none, or several."""
    main = {g.label: g for g in grounds if g.between is not None}
    return next(iter(main.values())) if len(main) == 1 else None


def horizon_of(grounds: Sequence[Ground], feet: Sequence[float], hung: Sequence[float], seed: int) -> float | None:
    """Where the horizon lies, in shares of the height: by chance where the main ground is wont to begin, above the feet of all that
    stands and below all that hangs, if that can be. None where there is not one main ground, or no room for a sky.

    feet, hung: lower edges of things that stand and that hang, in shares of the height from above.
    """
    main = main_ground(grounds)
    if main is None or main.between is None:
        return None
    least, most = main.between
    most = min([most, *(f - FOOT for f in feet)])
    least = min(most, max([least, *(b for b in hung if b <= most)]))
    at = least + (most - least) * float(_luck(seed, 0).uniform())
    return at if LEAST_SKY <= at < 1 - FOOT else None


def laid_out(
    grounds: Sequence[Ground],
    horizon: float,
    width: int,
    height: int,
    seed: int,
    picture: Rect | None = None,
    shore: float | None = None,
) -> tuple[tuple[Ground, Sketch], ...]:
    """One form of each ground round a horizon, on a sheet of this size, far to near; the same for the same seed. picture: a part of the
    sheet, for which they are as large as it is, and beyond whose upper edge nothing stands out; None: all of it. shore: the
    highest foot of what stands on the bank of the main ground, in shares of the height, where something does.
    """
    picture = picture or Rect(0, 0, width, height)
    forms: dict[str, list[Ground]] = defaultdict(list)
    for g in grounds:
        forms[g.label].append(g)
    out = []
    for each in forms.values():
        rng = _luck(seed, 1 + each[0].number)
        g = each[int(rng.integers(len(each)))]
        lines, mask = (g.lines, g.mask) if rng.random() < 0.5 else (g.lines[:, ::-1], g.mask[:, ::-1])
        out.append((g, _laid(g, lines, mask, horizon * height, (width, height), picture, rng, shore)))
    return tuple(out)


def _laid(
    g: Ground,
    lines: np.ndarray,
    mask: np.ndarray,
    y: float,
    size: tuple[int, int],
    picture: Rect,
    rng: np.random.Generator,
    shore: float | None,
) -> Sketch:
    """A ground's strip where it belongs. y: of the horizon, in pixels; size: width and height of the sheet."""
    width, height = size
    if g.way == BELOW:
        top = g.at
        if g.needs and shore is not None:
            top = max(LEAST_WATER, min(top, ((shore - 2 * FOOT) * height - y) / (height - y)))
        return Sketch((0.0, y + top * (height - y), float(width), float(height)), lines, mask)
    # A picture of any form is as large as a square one of its area.
    unit = math.sqrt(picture.area) / g.unit
    # A sky or a wall that is higher than its place goes on beyond it.
    foot, high = y, max(y, lines.shape[0] * unit)
    if g.way == STANDS:
        foot = y + g.at * unit * g.unit
        high = min(lines.shape[0] * unit * float(rng.uniform(*HIGHER)), HIGHEST * (y - picture.y0) + foot - y)
    long = lines.shape[1] * unit
    times = max(1, math.ceil(width / long))
    if times > 1:
        # Every other one turned over, so that they join.
        lines, mask = (np.concatenate([a if i % 2 == 0 else a[:, ::-1] for i in range(times)], 1) for a in (lines, mask))
    left = -float(rng.uniform(0, times * long - width))
    return Sketch((left, foot - high, left + times * long, foot), lines, mask)


def _luck(seed: int, purpose: int) -> np.random.Generator:
    return np.random.Generator(np.random.Philox(key=[seed, GROUND + purpose]))
