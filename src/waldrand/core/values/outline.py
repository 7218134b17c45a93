"""Outlines: where an element may be. A shape inside a box, so that moving and scaling is changing the box."""

from __future__ import annotations

import base64
import zlib
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np

from ..picture.resample import resize_mask
from ..refused import Refused
from .frame import Rect

Shape = Literal["box", "ellipse", "freehand", "mask"]
Box = tuple[float, float, float, float]
SUBROWS = 4
LARGEST_AREA = 100_000_000


@dataclass(frozen=True, eq=False)
class Outline:
    """box: x0, y0, x1, y1 in sheet pixels. points: a freehand outline's corners in shares of the box.
    mask: a grey picture (H, W) uint8 stretched over the box.

    Raises:
        Refused: a box without area, or points or mask missing.
    """

    shape: Shape
    box: Box
    points: tuple[tuple[float, float], ...] = ()
    mask: np.ndarray | None = None

    def __post_init__(self) -> None:
        x0, y0, x1, y1 = self.box
        if not all(np.isfinite(self.box)) or x1 - x0 <= 0 or y1 - y0 <= 0:
            raise Refused(f"An outline's box needs a width and a height; ({x0:g}, {y0:g}) to ({x1:g}, {y1:g}) has none.")
        if self.shape == "freehand" and len(self.points) < 3:
            raise Refused("A freehand outline needs at least three points.")
        if self.shape == "mask" and self.mask is None:
            raise Refused("A mask outline needs its mask picture.")

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
        raise Refused("A freehand outline needs at least three points.")
    p = np.asarray(points, float)
    (x0, y0), (x1, y1) = p.min(0), p.max(0)
    if x1 - x0 < 1 or y1 - y0 < 1:
        raise Refused("That outline encloses no area; draw round the place you mean.")
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
    assert outline.mask is not None
    out = np.zeros((height, width), np.float32)
    ix0, iy0, ix1, iy1 = round(x0), round(y0), round(x1), round(y1)
    # Only masks of sensible size are drawn; a sliver is one pixel at least.
    ix1, iy1 = max(ix1, ix0 + 1), max(iy1, iy0 + 1)
    drawn = resize_mask(outline.mask.astype(np.float32) / 255, iy1 - iy0, ix1 - ix0)
    here = Rect(ix0, iy0, ix1, iy1).intersect(Rect(0, 0, width, height))
    if here.area:
        out[here.slices] = drawn[here.y0 - iy0 : here.y1 - iy0, here.x0 - ix0 : here.x1 - ix0]
    return out


def grey_to_json(a: np.ndarray) -> dict[str, Any]:
    """(H, W) uint8 -> {"width", "height", "deflate"}: raw rows, deflated, base64."""
    return {
        "width": a.shape[1],
        "height": a.shape[0],
        "deflate": base64.b64encode(zlib.compress(np.ascontiguousarray(a).tobytes(), 6)).decode(),
    }


def grey_from_json(d: dict[str, Any]) -> np.ndarray:
    """The inverse of `grey_to_json`.

    Raises:
        Refused: sizes that do not fit the data, or are too large.
    """
    w, h = int(d["width"]), int(d["height"])
    if w < 1 or h < 1 or w * h > LARGEST_AREA:
        raise Refused(f"A mask of {w} x {h} pixels cannot be read.")
    unpack = zlib.decompressobj()
    try:
        raw = unpack.decompress(base64.b64decode(d["deflate"]), w * h + 1)
    except (zlib.error, ValueError) as error:
        raise Refused("A mask in the recipe is damaged.") from error
    if len(raw) != w * h:
        raise Refused("A mask in the recipe is damaged: its size is not what it says.")
    return np.frombuffer(raw, np.uint8).reshape(h, w)


def outline_to_json(o: Outline) -> dict[str, Any]:
    out: dict[str, Any] = {"shape": o.shape, "box": list(o.box)}
    if o.points:
        out["points"] = [list(p) for p in o.points]
    if o.mask is not None:
        out["mask"] = grey_to_json(o.mask)
    return out


def outline_from_json(d: dict[str, Any]) -> Outline:
    x0, y0, x1, y1 = (float(v) for v in d["box"])
    mask = grey_from_json(d["mask"]) if "mask" in d else None
    return Outline(d["shape"], (x0, y0, x1, y1), tuple((float(x), float(y)) for x, y in d.get("points", ())), mask)
