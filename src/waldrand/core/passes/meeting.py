"""How drawn grounds meet those of the picture that they go on from: what is drawn begins as high as what is seen beside it."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..seen.find import SEEN
from ..seen.horizon import horizon_in
from ..told.guides import Sketch
from ..values.frame import Rect

#: How much of the picture beside a join is looked at, in shares of its width, and how much of that has to be seen for something to stand
#: there.
BESIDE, STANDING = 0.06, 0.2
#: How many times as high what stands may become to meet what is seen, and over which share of the new part it comes back to itself.
TALLER, BACK = 2.5, 0.6


@dataclass(frozen=True, eq=False)
class Beside:
    """The picture beside a new part. pixels: (H, W, 3 or 4) uint8 of a rectangle of the sheet; at: that rectangle; new: the new part;
    horizon: of the picture, on the sheet."""

    pixels: np.ndarray
    at: Rect
    new: Rect
    horizon: float

    def joins(self) -> list[tuple[int, slice]]:
        """Where the picture lies to the left and to the right of the new part: the x at which they join, and the columns of `pixels` that
        lie beside."""
        width = max(2, round(BESIDE * self.at.width))
        out = []
        if self.at.x0 < self.new.x0 <= self.at.x1:
            x = self.new.x0 - self.at.x0
            out.append((self.new.x0, slice(max(0, x - width), x)))
        if self.at.x0 <= self.new.x1 < self.at.x1:
            x = self.new.x1 - self.at.x0
            out.append((self.new.x1, slice(x, min(self.at.width, x + width))))
        return out

    def top(self, columns: slice, ground: np.ndarray) -> float | None:
        """How far down on the sheet a ground begins in some columns: at the horizon where nothing of it stands there; None where that
        cannot be told. ground: (h, w) 0..1, how surely each cell of the picture shows it."""
        w, width = ground.shape[1], self.pixels.shape[1]
        first, last = columns.start * w // width, -(-columns.stop * w // width)
        seen = ground[:, first : max(last, first + 1)]
        if (seen > SEEN).any(0).mean() < STANDING:
            return self.horizon
        found = horizon_in(self.pixels[:, columns], seen)
        return None if found is None else self.at.y0 + found


def main_met(sketch: Sketch, beside: Beside) -> Sketch:
    """The main ground's drawing, brought so far up or down that its upper edge meets the picture's horizon where the two join."""
    x0, y0, x1, y1 = sketch.box
    joins = [x for x, _ in beside.joins()] or [beside.at.x0, beside.at.x1]
    edges = [_edge(sketch, x) for x in joins]
    return replace(sketch, box=(x0, y0 + beside.horizon - sum(edges) / len(edges), x1, y1))


def standing_met(sketch: Sketch, beside: Beside, ground: np.ndarray) -> Sketch:
    """The drawing of what stands behind the horizon, made higher or lower near each join, so that it begins there as high as in the
    picture, or from nothing where the picture shows none. ground: (h, w) 0..1, how surely each cell of the picture shows it."""
    x0, _, x1, y1 = sketch.box
    w = sketch.mask.shape[1]
    xs = x0 + (np.arange(w) + 0.5) * (x1 - x0) / w
    times = np.ones(w)
    joins = beside.joins()
    reach = max(1.0, BACK * beside.new.width / len(joins)) if joins else 1.0
    for x, columns in joins:
        top, drawn = beside.top(columns, ground), y1 - _edge(sketch, x)
        if top is None or drawn <= 0:
            continue
        near = np.clip(1 - np.abs(xs - x) / reach, 0, 1)
        times += (min(TALLER, max(0.0, (y1 - top) / drawn)) - 1) * near * near * (3 - 2 * near)
    return sketch if (times == 1).all() else _stretched(sketch, np.clip(times, 0, TALLER))


def _edge(sketch: Sketch, x: float) -> float:
    """How far down on the sheet the upper edge of a drawing lies at an x; its foot where nothing is drawn there."""
    x0, y0, x1, y1 = sketch.box
    h, w = sketch.mask.shape
    column = sketch.mask[:, min(w - 1, max(0, int((x - x0) / (x1 - x0) * w)))] > 127
    return y0 + float(column.argmax()) / h * (y1 - y0) if column.any() else y1


def _stretched(sketch: Sketch, times: np.ndarray) -> Sketch:
    """A drawing with each column of its mask so many times as high, its foot where it was."""
    x0, y0, x1, y1 = sketch.box
    most = max(1.0, float(times.max()))
    lines, mask = (_columns(a, times, most) for a in (sketch.lines, sketch.mask))
    return replace(sketch, box=(x0, y1 - most * (y1 - y0), x1, y1), lines=lines, mask=mask)


def _columns(a: np.ndarray, times: np.ndarray, most: float) -> np.ndarray:
    """(h, w) uint8 -> (most * h, w): each column so many times as high above its lower end, between rows linearly; nothing where it is
    not. times: for columns of any number, evenly."""
    h, w = a.shape
    tall = round(most * h)
    each = np.interp((np.arange(w) + 0.5) / w, (np.arange(len(times)) + 0.5) / len(times), times)
    # From the foot up, in rows of the drawing.
    up = (tall - np.arange(tall) - 0.5)[:, None] / np.maximum(each, 1e-6)[None]
    at = h - up - 0.5
    low = np.floor(at).astype(int)
    padded = np.pad(a.astype(np.float32), ((1, 1), (0, 0)))
    rows, columns = np.clip(low + 1, 0, h), np.arange(w)[None]
    share = np.where((low >= -1) & (low < h), at - low, 0)
    inside = (at > -1) & (at < h)
    made = padded[rows, columns] * (1 - share) + padded[rows + 1, columns] * share
    return np.asarray(np.round(np.where(inside, made, 0)), np.uint8)
