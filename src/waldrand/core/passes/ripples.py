"""Ripples, clouds and tufts of drawn grounds, where things stand before them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from scipy import ndimage

from ..packs import Ground
from ..told.guides import Sketch
from ..values.outline import Box
from ..values.sheet import Sheet

#: What is at most so high and long, in shares of the sheet, and so many pixels of its mask from the edge of a ground, is such a piece.
FLAT, LONG, EDGE = 0.06, 0.7, 2
#: How finely it is looked for what is hidden, in points of the sheet's longer side.
LOOKED_AT = 256


def without_cut(strips: Sequence[tuple[Ground, Sketch]], covers: Sequence[Sketch], sheet: Sheet) -> tuple[tuple[Ground, Sketch], ...]:
    """Grounds without flat pieces that something would cut: open to it, they are painted in its colours. covers: as of `Grounded`."""
    if not covers:
        return tuple(strips)
    k = LOOKED_AT / max(sheet.width, sheet.height)
    whole = (0.0, 0.0, float(sheet.width), float(sheet.height))
    y, x = _points(whole, max(1, round(sheet.height * k)), max(1, round(sheet.width * k)))
    covered = np.logical_or.reduce([_seen_at(cover.mask > 127, cover.box, y, x) for cover in covers])
    return tuple((g, replace(sketch, lines=_uncut(sketch, covered, whole))) for g, sketch in strips)


def _uncut(sketch: Sketch, covered: np.ndarray, whole: Box) -> np.ndarray:
    """A ground's lines without the flat pieces in it that lie under what is covered, (h, w) bool of the whole sheet."""
    lines, (x0, y0, x1, y1) = sketch.lines, sketch.box
    points = _points(sketch.box, *lines.shape)
    under = _seen_at(covered, whole, *points)
    if not under.any():
        return lines
    within = _seen_at(ndimage.binary_erosion(sketch.mask > 127, iterations=EDGE, border_value=1), sketch.box, *points)
    pieces, _ = ndimage.label(lines, np.ones((3, 3)))
    cut = set(np.unique(pieces[under])) - set(np.unique(pieces[~within]))
    out = lines.copy()
    for n, at in enumerate(ndimage.find_objects(pieces), 1):
        high, long = ((s.stop - s.start) / side for s, side in zip(at, lines.shape, strict=True))
        if n in cut and high * (y1 - y0) <= FLAT * whole[3] and long * (x1 - x0) <= LONG * whole[2]:
            out[at][pieces[at] == n] = 0
    return out


def _points(box: Box, rows: int, columns: int) -> tuple[np.ndarray, np.ndarray]:
    """The middles of so many rows and columns of a box, y (rows,) and x (columns,)."""
    x0, y0, x1, y1 = box
    return y0 + (np.arange(rows) + 0.5) * (y1 - y0) / rows, x0 + (np.arange(columns) + 0.5) * (x1 - x0) / columns


def _seen_at(what: np.ndarray, box: Box, y: np.ndarray, x: np.ndarray) -> np.ndarray:
    """What (h, w) bool, in a box, is at rows y (m,) and columns x (n,), (m, n); False beyond it."""
    (h, w), (x0, y0, x1, y1) = what.shape, box
    row, column = np.floor((y - y0) * h / (y1 - y0)).astype(int), np.floor((x - x0) * w / (x1 - x0)).astype(int)
    seen = what[np.clip(row, 0, h - 1)][:, np.clip(column, 0, w - 1)]
    return np.asarray(seen & ((row >= 0) & (row < h))[:, None] & ((column >= 0) & (column < w)))
