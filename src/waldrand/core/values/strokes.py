"""A pen's strokes: lines of changing width, kept as such, so that they can be moved, scaled, smoothed and straightened."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from scipy import ndimage

from ..fields import taken_list, taken_number
from ..refused import Refused
from ..worded import worded
from .frame import Rect

#: Sheet pixels: the widest stroke, and how far points may lie from the corner. And the most points of a stroke.
WIDEST, FARTHEST, MOST_POINTS = 500.0, 1e7, 100_000
#: Points of a smoothed stroke lie so many sheet pixels apart; of how many of them each becomes the mean, in the deviation.
APART, SMOOTH = 2.0, 4.0
#: A stroke that leaves the line between its ends by less than this share of its length is meant to be straight.
STRAIGHT = 0.12

Point = tuple[float, float, float]


@dataclass(frozen=True)
class Stroke:
    """points: x and y in pixels of its layer, and the width there; rubs: whether it takes away what earlier ones drew.

    Raises:
        Refused: no point, too many of them, or one that cannot be.
    """

    points: tuple[Point, ...]
    rubs: bool = False

    def __post_init__(self) -> None:
        if not 1 <= len(self.points) <= MOST_POINTS:
            raise Refused(worded("A stroke has from 1 to {0} points, not {1}.", MOST_POINTS, len(self.points)))
        for x, y, width in self.points:
            if not (abs(x) <= FARTHEST and abs(y) <= FARTHEST and 0 < width <= WIDEST):
                raise Refused(worded("A point of a stroke lies too far outside, or is too wide."))

    @property
    def bounds(self) -> Rect:
        """The whole pixels that it may touch."""
        x0, y0 = (math.floor(min(p[i] - p[2] / 2 for p in self.points)) - 1 for i in (0, 1))
        x1, y1 = (math.ceil(max(p[i] + p[2] / 2 for p in self.points)) + 1 for i in (0, 1))
        return Rect(x0, y0, x1, y1)

    def moved(self, dx: float, dy: float) -> Stroke:
        return replace(self, points=tuple((x + dx, y + dy, w) for x, y, w in self.points))

    def scaled(self, kx: float, ky: float) -> Stroke:
        """About the layer's corner; as wide as the mean of both scales says."""
        k = math.sqrt(abs(kx * ky))
        return replace(self, points=tuple((x * kx, y * ky, min(WIDEST, max(0.05, w * k))) for x, y, w in self.points))

    def smoothed(self) -> Stroke:
        """The same without its tremor: evenly spaced points, each the mean of its neighbours; the ends stay."""
        if len(self.points) < 3:
            return self
        p = _even(np.asarray(self.points))
        soft = ndimage.gaussian_filter1d(p, SMOOTH, axis=0, mode="nearest")
        soft[0], soft[-1] = p[0], p[-1]
        return replace(self, points=_as_points(soft))

    def straightened(self) -> Stroke:
        """A line between its ends where it is nearly one, else the few lines that it nearly consists of (Douglas, Peucker, 1973)."""
        p = np.asarray(self.points)
        length = float(np.hypot(*np.diff(p[:, :2], axis=0).T).sum()) if len(p) > 1 else 0.0
        keep = _corners(p[:, :2], max(2.0, STRAIGHT * length))
        width = float(p[:, 2].mean())
        return replace(self, points=tuple((float(x), float(y), width) for x, y in p[keep, :2]))

    def to_json(self) -> dict[str, Any]:
        flat = [round(v, 2) for point in self.points for v in point]
        return {"points": flat} | ({"rubs": True} if self.rubs else {})

    @classmethod
    def from_json(cls, value: Any) -> Stroke:
        """Raises Refused when it is no stroke."""
        what = worded("A stroke")
        d = value if isinstance(value, dict) else {}
        flat = [taken_number(v, what) for v in taken_list(d.get("points"), what)]
        if len(flat) % 3:
            raise Refused(worded("A stroke's points have three numbers each: across, down, width."))
        return cls(tuple(zip(flat[::3], flat[1::3], flat[2::3], strict=True)), d.get("rubs") is True)


def _even(p: np.ndarray) -> np.ndarray:
    """Points (N, 3) along the same line, evenly apart."""
    steps = np.hypot(*np.diff(p[:, :2], axis=0).T)
    at = np.concatenate([[0.0], np.cumsum(steps)])
    n = max(2, round(at[-1] / APART) + 1)
    return np.stack([np.interp(np.linspace(0, at[-1], n), at, p[:, i]) for i in range(3)], 1)


def _as_points(p: np.ndarray) -> tuple[Point, ...]:
    return tuple((float(x), float(y), float(max(w, 0.05))) for x, y, w in p)


def _corners(p: np.ndarray, tolerance: float) -> list[int]:
    """Which of points (N, 2) a line needs so that it passes all others within a tolerance."""
    keep, todo = {0, len(p) - 1}, [(0, len(p) - 1)]
    while todo:
        a, b = todo.pop()
        if b - a < 2:
            continue
        way, off = p[b] - p[a], p[a + 1 : b] - p[a]
        length = math.hypot(*way)
        far = np.hypot(*off.T) if length < 1e-9 else np.abs(way[0] * off[:, 1] - way[1] * off[:, 0]) / length
        i = int(far.argmax())
        if far[i] > tolerance:
            keep.add(a + 1 + i)
            todo += [(a, a + 1 + i), (a + 1 + i, b)]
    return sorted(keep)


def drawn_stroke(grey: np.ndarray, stroke: Stroke) -> Rect:
    """Draws a stroke into (H, W) uint8 in place; returns where that changed anything.

    Each piece covers a pixel as much as its nearer edge reaches into it: 1/2 + width/2 - distance, from 0 to 1, the width going evenly
    from one end to the other.
    """
    h, w = grey.shape
    touched = stroke.bounds.intersect(Rect(0, 0, w, h))
    if not touched.area:
        return touched
    cover = np.zeros((touched.height, touched.width), np.float32)
    points = stroke.points if len(stroke.points) > 1 else (stroke.points[0], stroke.points[0])
    for (ax, ay, aw), (bx, by, bw) in itertools.pairwise(points):
        piece = Stroke(((ax, ay, aw), (bx, by, bw))).bounds.intersect(touched)
        if not piece.area:
            continue
        yy, xx = np.mgrid[piece.y0 : piece.y1, piece.x0 : piece.x1] + 0.5
        dx, dy = bx - ax, by - ay
        along = np.clip(((xx - ax) * dx + (yy - ay) * dy) / max(dx * dx + dy * dy, 1e-12), 0, 1)
        off = np.hypot(xx - ax - along * dx, yy - ay - along * dy)
        width = aw + along * (bw - aw)
        here = cover[piece.moved(-touched.x0, -touched.y0).slices]
        # A line thinner than a pixel is drawn fainter, not wider.
        np.maximum(here, np.clip(0.5 + width / 2 - off, 0, np.minimum(1, width)), out=here)
        for px, py, pw in ((ax, ay, aw), (bx, by, bw)) if aw != bw else ():
            # Its ends are round, however short it is.
            np.maximum(here, np.clip(0.5 + pw / 2 - np.hypot(xx - px, yy - py), 0, min(1, pw)), out=here)
    made, had = np.round(255 * cover), grey[touched.slices].astype(np.float32)
    grey[touched.slices] = np.clip(had - made if stroke.rubs else np.maximum(had, made), 0, 255).astype(np.uint8)
    return touched


def traced(lines: np.ndarray, width: float, shortest: float = 6.0) -> tuple[Stroke, ...]:
    """A drawing (h, w) 0..1 as strokes of a width along the middle of its lines; those shorter than `shortest` pixels are left out."""
    middle = thinned(lines > 0.4)
    left = {(int(y), int(x)) for y, x in np.argwhere(middle)}
    out = []

    def near(y: int, x: int) -> list[tuple[int, int]]:
        around = ((y + dy, x + dx) for dy, dx in ((0, 1), (1, 0), (0, -1), (-1, 0), (1, 1), (1, -1), (-1, 1), (-1, -1)))
        return [n for n in around if n in left]

    # From loose ends first: else a line would begin somewhere in its middle.
    ends = [p for p in sorted(left) if len(near(*p)) == 1]
    for start in [*ends, *sorted(left)]:
        if start not in left:
            continue
        left.discard(start)
        way = [start]
        while following := near(*way[-1]):
            way.append(following[0])
            left.discard(way[-1])
        if len(way) >= shortest:
            p = np.array([(x + 0.5, y + 0.5) for y, x in way])
            kept = p[_corners(p, 0.8)]
            out.append(Stroke(tuple((float(x), float(y), width) for x, y in kept)))
    return tuple(out)


def thinned(solid: np.ndarray) -> np.ndarray:
    """The middle of lines (h, w) bool, one pixel wide, holding together (Zhang and Suen, "A fast parallel algorithm for thinning digital
    patterns", 1984)."""
    a = np.pad(solid, 1)
    while True:
        gone = 0
        for first in (True, False):
            n = [a[:-2, 1:-1], a[:-2, 2:], a[1:-1, 2:], a[2:, 2:], a[2:, 1:-1], a[2:, :-2], a[1:-1, :-2], a[:-2, :-2]]
            total = np.sum(n, 0, dtype=np.int8)
            turns = np.sum([~n[i] & n[(i + 1) % 8] for i in range(8)], 0, dtype=np.int8)
            one, two = (n[0] & n[2] & n[4], n[2] & n[4] & n[6]) if first else (n[0] & n[2] & n[6], n[0] & n[4] & n[6])
            go = a[1:-1, 1:-1] & (total >= 2) & (total <= 6) & (turns == 1) & ~one & ~two
            a[1:-1, 1:-1][go] = False
            gone += int(go.sum())
        if not gone:
            return np.asarray(a[1:-1, 1:-1])


def widths(points: Sequence[tuple[float, float, float]], width: float) -> tuple[Point, ...]:
    """Points with a pen's pressure 0..1 as their width: at a light touch a third of the pen's."""
    return tuple((x, y, width * (1 + 2 * pressure) / 3) for x, y, pressure in points)
