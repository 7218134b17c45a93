"""Changing outlines: turning, mirroring, growing, smoothing, joining, cutting, moving single points."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from scipy import ndimage

from ..refused import Refused
from ..worded import worded
from .frame import Rect
from .outline import Box, Outline, freehand, rasterise

ELLIPSE_POINTS = 48
Edge = Literal["left", "right", "top", "bottom", "centre", "middle"]


def polygon(outline: Outline) -> list[tuple[float, float]]:
    """An outline's corners in sheet pixels; a mask has none.

    Raises:
        Refused: the outline is a mask.
    """
    x0, y0, x1, y1 = outline.box
    if outline.shape == "box":
        return [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]
    if outline.shape == "ellipse":
        a = np.linspace(0, 2 * np.pi, ELLIPSE_POINTS, endpoint=False)
        return [((x0 + x1) / 2 + (x1 - x0) / 2 * np.cos(t), (y0 + y1) / 2 + (y1 - y0) / 2 * np.sin(t)) for t in a]
    if outline.shape == "freehand":
        return outline.corners()
    raise Refused(worded("A painted outline has no points; paint it with the brush."))


def rounded(box: Box, margin: float = 0) -> Rect:
    x0, y0, x1, y1 = box
    return Rect(int(np.floor(x0 - margin)), int(np.floor(y0 - margin)), int(np.ceil(x1 + margin)), int(np.ceil(y1 + margin)))


def painted(mask: np.ndarray, at: Rect) -> Outline:
    """An outline from a grey picture (h, w) uint8 lying at a rectangle, cut to what is not black.

    Raises:
        Refused: nothing is left of it.
    """
    ys, xs = np.flatnonzero(mask.any(1)), np.flatnonzero(mask.any(0))
    if not len(ys):
        raise Refused(worded("Nothing would be left of this outline."))
    y0, y1, x0, x1 = int(ys[0]), int(ys[-1]) + 1, int(xs[0]), int(xs[-1]) + 1
    box = (at.x0 + x0, at.y0 + y0, at.x0 + x1, at.y0 + y1)
    return Outline("mask", box, mask=np.ascontiguousarray(mask[y0:y1, x0:x1]))


def drawn(outline: Outline, rect: Rect) -> np.ndarray:
    """The outline at the sheet's resolution inside a rectangle, (h, w) uint8."""
    return np.asarray(np.round(rasterise(outline, rect, rect.height, rect.width) * 255), np.uint8)


def rotated(outline: Outline, degrees: float) -> Outline:
    """Turned clockwise about its middle."""
    x0, y0, x1, y1 = outline.box
    cx, cy = (x0 + x1) / 2, (y0 + y1) / 2
    if outline.shape == "mask":
        rect = rounded(outline.box)
        grey = drawn(outline, rect)
        turned = ndimage.rotate(grey, -degrees, order=1, reshape=True)
        h, w = turned.shape
        left, top = round(cx - w / 2), round(cy - h / 2)
        return painted(turned, Rect(left, top, left + w, top + h))
    a = np.deg2rad(degrees)
    c, s = float(np.cos(a)), float(np.sin(a))
    return freehand([(cx + (x - cx) * c - (y - cy) * s, cy + (x - cx) * s + (y - cy) * c) for x, y in polygon(outline)])


def mirrored(outline: Outline, upside_down: bool = False) -> Outline:
    """Flipped left to right about its middle, or upside down."""
    if outline.shape == "freehand":
        return replace(outline, points=tuple((x, 1 - y) if upside_down else (1 - x, y) for x, y in outline.points))
    if outline.mask is not None:
        return replace(outline, mask=np.ascontiguousarray(outline.mask[::-1] if upside_down else outline.mask[:, ::-1]))
    return outline


def with_point(outline: Outline, index: int, x: float, y: float) -> Outline:
    """One corner moved; a box becomes a free shape."""
    points = polygon(outline)
    points[index] = (x, y)
    return freehand(points)


def with_new_point(outline: Outline, x: float, y: float) -> Outline:
    """A corner added on the side nearest to (x, y)."""
    points = polygon(outline)
    p, at = np.asarray(points), np.array([x, y])
    a, b = p, np.roll(p, -1, 0)
    t = np.clip(((at - a) * (b - a)).sum(1) / np.maximum(((b - a) ** 2).sum(1), 1e-9), 0, 1)
    nearest = int(np.argmin(((a + t[:, None] * (b - a) - at) ** 2).sum(1)))
    return freehand([*points[: nearest + 1], (x, y), *points[nearest + 1 :]])


def without_point(outline: Outline, index: int) -> Outline:
    """A corner taken away; three have to stay."""
    points = polygon(outline)
    if len(points) <= 3:
        raise Refused(worded("An outline needs at least three points."))
    return freehand([p for i, p in enumerate(points) if i != index])


def grown(outline: Outline, pixels: float) -> Outline:
    """Larger (pixels > 0) or smaller by a distance, measured exactly.

    Raises:
        Refused: nothing would be left.
    """
    x0, y0, x1, y1 = outline.box
    if outline.shape in ("box", "ellipse"):
        if min(x1 - x0, y1 - y0) + 2 * pixels < 1:
            raise Refused(worded("Nothing would be left of this outline."))
        return replace(outline, box=(x0 - pixels, y0 - pixels, x1 + pixels, y1 + pixels))
    rect = rounded(outline.box, max(pixels, 0) + 2)
    solid = drawn(outline, rect) > 127
    distance = ndimage.distance_transform_edt(~solid) if pixels > 0 else -ndimage.distance_transform_edt(solid)
    return painted(np.where(distance <= pixels + (0.5 if pixels > 0 else 0), 255, 0).astype(np.uint8), rect)


def smoothed(outline: Outline, pixels: float) -> Outline:
    """Corners and jags rounded off over a distance."""
    rect = rounded(outline.box, 2 * pixels + 2)
    soft = ndimage.gaussian_filter(drawn(outline, rect).astype(np.float32), max(pixels, 0.1))
    # A narrow ramp about the half keeps the edge anti-aliased.
    return painted(np.asarray(np.clip((soft - 127.5) * 3 + 127.5, 0, 255) + 0.5, np.uint8), rect)


def inverted(outline: Outline, sheet: Rect) -> Outline:
    """All of the sheet but the outline."""
    return painted(255 - drawn(outline, sheet), sheet)


def joined(a: Outline, b: Outline, cut: bool = False) -> Outline:
    """Both together, or the first without the second."""
    ra, rb = rounded(a.box), rounded(b.box)
    rect = ra if cut else Rect(min(ra.x0, rb.x0), min(ra.y0, rb.y0), max(ra.x1, rb.x1), max(ra.y1, rb.y1))
    one, other = drawn(a, rect), drawn(b, rect)
    return painted(np.minimum(one, 255 - other) if cut else np.maximum(one, other), rect)


def aligned(box: Box, to: Box, edge: Edge) -> Box:
    """A box moved so that one edge, or its centre (across) or middle (down), meets another box's."""
    x0, y0, x1, y1 = box
    a0, b0, a1, b1 = to
    dx = {"left": a0 - x0, "right": a1 - x1, "centre": (a0 + a1 - x0 - x1) / 2}.get(edge, 0.0)
    dy = {"top": b0 - y0, "bottom": b1 - y1, "middle": (b0 + b1 - y0 - y1) / 2}.get(edge, 0.0)
    return x0 + dx, y0 + dy, x1 + dx, y1 + dy


def snap(moving: tuple[float, ...], lines: list[float], reach: float) -> tuple[float, float | None]:
    """How far to shift so that one of the moving coordinates meets the nearest line within reach, and that line."""
    best: tuple[float, float | None] = (0.0, None)
    nearest = reach
    for m in moving:
        for line in lines:
            if abs(line - m) < nearest:
                nearest, best = abs(line - m), (line - m, line)
    return best
