"""Pictures drawn into any four corners: scaled, turned, mirrored, sheared, or as seen aslant."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np
from scipy import ndimage

from ..refused import Refused
from ..worded import worded
from .composite import strips
from .resample import resize_rgba, to_linear, to_srgb

Point = tuple[float, float]
#: Where the upper left, upper right, lower right and lower left corner of a picture come to lie.
Corners = tuple[Point, Point, Point, Point]
#: The longest side that is drawn.
LONGEST = 16384


def corners_of(x0: float, y0: float, x1: float, y1: float) -> Corners:
    return (x0, y0), (x1, y0), (x1, y1), (x0, y1)


def check_corners(corners: Corners) -> None:
    """Raises Refused when nothing can be drawn between four corners: they cross, lie in a line, or too far apart."""
    a = np.array(corners, np.float64)
    if not np.isfinite(a).all() or np.ptp(a, axis=0).max() > LONGEST:
        raise Refused(worded("The corners lie too far apart: at most {0} pixels.", LONGEST))
    edge = np.roll(a, -1, 0) - a
    turn = edge[:, 0] * np.roll(edge, -1, 0)[:, 1] - edge[:, 1] * np.roll(edge, -1, 0)[:, 0]
    if not ((turn > 1e-6).all() or (turn < -1e-6).all()):
        raise Refused(worded("The four corners have to span an area without crossing."))


def projection(source: Corners, target: Corners) -> np.ndarray:
    """The 3 x 3 matrix that carries four points to four others (Heckbert 1989, *Fundamentals of Texture Mapping and Image Warping*:
    a projective map has eight unknowns, and each pair of points gives two equations)."""
    rows, right = [], []
    for (x, y), (u, v) in zip(source, target, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
        right += [u, v]
    return np.append(np.linalg.solve(np.array(rows), np.array(right)), 1.0).reshape(3, 3)


def warped(pixels: np.ndarray, corners: Corners) -> np.ndarray:
    """(H, W, 4) uint8 with straight alpha drawn into four corners, as large as they reach from (0, 0). Quarter turns and mirrorings
    keep every pixel; upright scaling is as `resize_rgba`; all else is drawn linearly, in linear light, colours weighing by alpha.

    Raises:
        Refused: nothing can be drawn between the corners.
    """
    check_corners(corners)
    upright = _upright(pixels, corners)
    if upright is not None:
        return upright
    width, height = (max(1, math.ceil(max(p[axis] for p in corners) - 1e-6)) for axis in (0, 1))
    own = _no_finer(pixels, corners)
    h, w = own.shape[:2]
    back = projection(corners, corners_of(0, 0, w, h))
    alpha = np.pad(own[..., 3].astype(np.float32) / 255, 1)
    light = np.pad(to_linear(own[..., :3].astype(np.float32) / 255), ((1, 1), (1, 1), (0, 0)), mode="edge") * alpha[..., None]
    out = np.empty((height, width, 4), np.uint8)
    for rows in strips(height, width):
        yy, xx = np.mgrid[rows, 0:width].astype(np.float64) + 0.5
        d = back[2, 0] * xx + back[2, 1] * yy + back[2, 2]
        at = [(back[i, 0] * xx + back[i, 1] * yy + back[i, 2]) / d + 0.5 for i in (1, 0)]
        a = np.clip(ndimage.map_coordinates(alpha, at, order=1, mode="constant"), 0, 1)
        mixed = np.stack([ndimage.map_coordinates(light[..., c], at, order=1, mode="constant") for c in range(3)], -1)
        rgb = to_srgb(np.clip(mixed / np.maximum(a, 1 / 255)[..., None], 0, 1))
        out[rows] = np.concatenate([rgb, a[..., None]], -1) * 255 + 0.5
    return out


def _upright(pixels: np.ndarray, corners: Corners) -> np.ndarray | None:
    """Drawn by whole pixels where the corners are those of an upright rectangle, turned by quarters or mirrored; else None."""
    xs, ys = [p[0] for p in corners], [p[1] for p in corners]
    x1, y1 = max(xs), max(ys)
    if min(xs) != 0 or min(ys) != 0 or x1 != round(x1) or y1 != round(y1):
        return None
    straight = corners_of(0, 0, x1, y1)
    for quarter in range(4):
        # A quarter turn clockwise carries the upper left corner to where the upper right one is.
        for mirrored in (False, True):
            own = np.rot90(pixels, -quarter)
            here: Sequence[Point] = [straight[(i + quarter) % 4] for i in range(4)]
            if mirrored:
                own, here = own[:, ::-1], [(x1 - x, y) for x, y in here]
            if tuple(here) == tuple(corners):
                return resize_rgba(np.ascontiguousarray(own), round(y1), round(x1))
    return None


def _no_finer(pixels: np.ndarray, corners: Corners) -> np.ndarray:
    """A picture made smaller first where it is drawn smaller, so that nothing of it is skipped."""
    h, w = pixels.shape[:2]
    (a, b, c, d) = corners
    across = max(math.dist(a, b), math.dist(d, c))
    down = max(math.dist(a, d), math.dist(b, c))
    return resize_rgba(pixels, min(h, max(1, math.ceil(down))), min(w, max(1, math.ceil(across))))


def turned_corners(corners: Corners, degrees: float) -> Corners:
    """Turned clockwise about their middle."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    mx, my = (sum(p[i] for p in corners) / 4 for i in (0, 1))
    return _each(corners, lambda x, y: (mx + c * (x - mx) - s * (y - my), my + s * (x - mx) + c * (y - my)))


def scaled_corners(corners: Corners, kx: float, ky: float) -> Corners:
    """Scaled about their middle, along the sheet."""
    mx, my = (sum(p[i] for p in corners) / 4 for i in (0, 1))
    return _each(corners, lambda x, y: (mx + kx * (x - mx), my + ky * (y - my)))


def sheared_corners(corners: Corners, degrees: float) -> Corners:
    """The upper edge pushed to the right, the lower to the left, so that upright lines lean by degrees."""
    my, k = sum(p[1] for p in corners) / 4, math.tan(math.radians(degrees))
    return _each(corners, lambda x, y: (x - k * (y - my), y))


def moved_corners(corners: Corners, dx: float, dy: float) -> Corners:
    return _each(corners, lambda x, y: (x + dx, y + dy))


def _each(corners: Corners, move: Callable[[float, float], Point]) -> Corners:
    a, b, c, d = (move(x, y) for x, y in corners)
    return a, b, c, d


def size_and_turn(corners: Corners) -> tuple[float, float, float]:
    """Width, height, and the angle of the upper edge in degrees clockwise, of what four corners span."""
    (a, b, c, d) = corners
    angle = math.degrees(math.atan2(b[1] - a[1], b[0] - a[0]))
    return (math.dist(a, b) + math.dist(d, c)) / 2, (math.dist(a, d) + math.dist(b, c)) / 2, angle


def unwarped(grey: np.ndarray, corners: Corners, height: int, width: int) -> np.ndarray:
    """What a grey picture (H, W) uint8 has between four of its corners, as a picture of a height and width, uint8; 0 outside of it."""
    way = projection(corners_of(0, 0, width, height), corners)
    yy, xx = np.mgrid[0:height, 0:width].astype(np.float64) + 0.5
    d = way[2, 0] * xx + way[2, 1] * yy + way[2, 2]
    at = [(way[i, 0] * xx + way[i, 1] * yy + way[i, 2]) / d - 0.5 for i in (1, 0)]
    return np.asarray(np.round(ndimage.map_coordinates(grey.astype(np.float32), at, order=1, mode="constant")), np.uint8)
