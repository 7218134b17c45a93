"""Outlines: where an element may be. A shape inside a box, so that moving and scaling is changing the box."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

import numpy as np

from ..picture.resample import resize_grey_part
from ..refused import Refused
from ..worded import worded
from .frame import Rect

Shape = Literal["box", "ellipse", "freehand", "mask"]
SHAPES: tuple[Shape, ...] = ("box", "ellipse", "freehand", "mask")
Box = tuple[float, float, float, float]
SUBROWS = 4
LARGEST_AREA = 100_000_000
#: Sheet pixels from the sheet's corner that no outline may lie beyond.
FARTHEST = 1e7


@dataclass(frozen=True, eq=False)
class Outline:
    """box: x0, y0, x1, y1 in sheet pixels. points: a freehand outline's corners in shares of the box.
    mask: a grey picture (H, W) uint8 stretched over the box; lines: of a figure, its drawing (H', W') uint8 stretched so, too; below: of
    a figure, from which share of its height down it wears what it wears, 0: nowhere.

    Raises:
        Refused: a box without area, or points or mask missing.
    """

    shape: Shape
    box: Box
    points: tuple[tuple[float, float], ...] = ()
    mask: np.ndarray | None = None
    lines: np.ndarray | None = None
    below: float = 0.0

    def __post_init__(self) -> None:
        x0, y0, x1, y1 = self.box
        if not all(np.isfinite(self.box)) or x1 - x0 <= 0 or y1 - y0 <= 0:
            raise Refused(worded("An outline's box needs a width and a height; ({0:g}, {1:g}) to ({2:g}, {3:g}) has none.", x0, y0, x1, y1))
        if max(map(abs, self.box)) > FARTHEST:
            raise Refused(worded("That outline lies far too far outside any sheet."))
        if self.shape == "freehand" and len(self.points) < 3:
            raise Refused(worded("A freehand outline needs at least three points."))
        if self.shape == "mask" and self.mask is None:
            raise Refused(worded("A mask outline needs its mask picture."))

    def moved(self, dx: float, dy: float) -> Outline:
        x0, y0, x1, y1 = self.box
        return replace(self, box=(x0 + dx, y0 + dy, x1 + dx, y1 + dy))

    def with_box(self, box: Box) -> Outline:
        return replace(self, box=box)

    def corners(self) -> list[tuple[float, float]]:
        """A freehand outline's points in sheet pixels."""
        x0, y0, x1, y1 = self.box
        return [(x0 + px * (x1 - x0), y0 + py * (y1 - y0)) for px, py in self.points]


def area(box: Box) -> float:
    """Of a box, in sheet pixels."""
    return (box[2] - box[0]) * (box[3] - box[1])


def same_shape(a: Outline | None, b: Outline | None) -> bool:
    """Whether two painted outlines look alike."""
    if a is None or b is None or a.mask is None or b.mask is None:
        return a is b
    return a.box == b.box and np.array_equal(a.mask, b.mask)


def freehand(points: list[tuple[float, float]]) -> Outline:
    """An outline through sheet points.

    Raises:
        Refused: fewer than three points, or all on a line along an axis.
    """
    if len(points) < 3:
        raise Refused(worded("A freehand outline needs at least three points."))
    p = np.asarray(points, float)
    (x0, y0), (x1, y1) = p.min(0), p.max(0)
    if x1 - x0 < 1 or y1 - y0 < 1:
        raise Refused(worded("That outline encloses no area; draw round the place you mean."))
    q = (p - (x0, y0)) / (x1 - x0, y1 - y0)
    return Outline("freehand", (float(x0), float(y0), float(x1), float(y1)), tuple((float(x), float(y)) for x, y in q))


def _span(a: float, b: float, n: int) -> np.ndarray:
    """How much of each of n unit cells lies between a and b."""
    at = np.arange(n)
    return np.clip(np.minimum(at + 1, b) - np.maximum(at, a), 0, 1)


def _rows(spans: list[list[tuple[float, float]]], height: int, width: int) -> np.ndarray:
    """Coverage from the filled x-spans of SUBROWS lines per pixel row."""
    out = np.zeros((height, width), np.float32)
    for i, row in enumerate(spans):
        for a, b in row:
            if b > 0 and a < width:
                lo, hi = int(max(0, np.floor(a))), int(min(width, np.ceil(b)))
                out[i // SUBROWS, lo:hi] += _span(a - lo, b - lo, hi - lo) / SUBROWS
    return out


def _polygon(points: np.ndarray, height: int, width: int) -> np.ndarray:
    """Even-odd filled polygon (N, 2) in pixels, anti-aliased."""
    a, b = points, np.roll(points, -1, 0)
    spans: list[list[tuple[float, float]]] = []
    for i in range(height * SUBROWS):
        y = (i + 0.5) / SUBROWS
        hit = (a[:, 1] <= y) != (b[:, 1] <= y)
        with np.errstate(divide="ignore", invalid="ignore"):
            xs = np.sort((a[:, 0] + (y - a[:, 1]) / (b[:, 1] - a[:, 1]) * (b[:, 0] - a[:, 0]))[hit])
        spans.append([(float(xs[k]), float(xs[k + 1])) for k in range(0, len(xs) - 1, 2)])
    return _rows(spans, height, width)


def rasterise(outline: Outline, rect: Rect, height: int, width: int) -> np.ndarray:
    """The outline inside a sheet rectangle, drawn at height x width pixels: (height, width) float32 0..1."""
    sx, sy = width / rect.width, height / rect.height
    x0, y0, x1, y1 = (
        (outline.box[0] - rect.x0) * sx,
        (outline.box[1] - rect.y0) * sy,
        (outline.box[2] - rect.x0) * sx,
        (outline.box[3] - rect.y0) * sy,
    )
    if outline.shape == "box":
        return np.asarray(np.outer(_span(y0, y1, height), _span(x0, x1, width)), np.float32)
    if outline.shape == "ellipse":
        cx, cy, rx, ry = (x0 + x1) / 2, (y0 + y1) / 2, (x1 - x0) / 2, (y1 - y0) / 2
        spans: list[list[tuple[float, float]]] = []
        for i in range(height * SUBROWS):
            d = 1 - (((i + 0.5) / SUBROWS - cy) / ry) ** 2
            half = rx * float(np.sqrt(max(d, 0)))
            spans.append([(cx - half, cx + half)] if d > 0 else [])
        return _rows(spans, height, width)
    if outline.shape == "freehand":
        p = np.asarray(outline.corners())
        return _polygon((p - (rect.x0, rect.y0)) * (sx, sy), height, width)
    return _mask(outline, (x0, y0, x1, y1), height, width)


def _mask(outline: Outline, box: Box, height: int, width: int) -> np.ndarray:
    """A painted outline whose box lies at some pixels of a picture; only what of it lies in the picture is ever drawn."""
    assert outline.mask is not None
    out = np.zeros((height, width), np.float32)
    x0, y0, x1, y1 = (round(v) for v in box)
    # Only masks of sensible size are drawn; a sliver is one pixel at least.
    x1, y1 = max(x1, x0 + 1), max(y1, y0 + 1)
    here = Rect(x0, y0, x1, y1).intersect(Rect(0, 0, width, height))
    if here.area:
        out[here.slices] = resize_grey_part(outline.mask, y1 - y0, x1 - x0, *here.moved(-x0, -y0).slices)
    return out


@lru_cache(maxsize=256)
def sketched(outline: Outline, rect: Rect, side: int) -> np.ndarray:
    """The outline inside a sheet rectangle drawn small, (side, side) float32 0..1, not to be written into. Remembered: a forecast asks
    for it at every change of anything."""
    return rasterise(outline, rect, side, side)
