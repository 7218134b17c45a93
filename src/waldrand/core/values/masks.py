"""Masks painted by hand: grey pictures in tiles, so that undo keeps only what a stroke changed."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from scipy import ndimage

from ..picture.resample import resize_mask
from .frame import Rect

TILE = 256


@dataclass(frozen=True, eq=False)
class Mask:
    """A (height, width) uint8 mask; tiles that are not held are 0. Painting gives a new mask that
    shares all untouched tiles with the old one."""

    width: int
    height: int
    tiles: Mapping[tuple[int, int], np.ndarray] = field(default_factory=dict)

    @classmethod
    def from_array(cls, a: np.ndarray) -> Mask:
        """From (H, W) uint8."""
        h, w = a.shape
        tiles = {}
        for i in range(0, h, TILE):
            for j in range(0, w, TILE):
                t = a[i : i + TILE, j : j + TILE]
                if t.any():
                    tiles[i // TILE, j // TILE] = np.ascontiguousarray(t)
        return cls(w, h, tiles)

    def read(self, rect: Rect | None = None) -> np.ndarray:
        """The values in a rectangle (default: everything), (H, W) uint8; 0 outside the mask."""
        rect = rect or Rect(0, 0, self.width, self.height)
        out = np.zeros((rect.height, rect.width), np.uint8)
        for (i, j), tile in self.tiles.items():
            at = Rect(j * TILE, i * TILE, j * TILE + tile.shape[1], i * TILE + tile.shape[0])
            part = at.intersect(rect)
            if part.area:
                out[part.y0 - rect.y0 : part.y1 - rect.y0, part.x0 - rect.x0 : part.x1 - rect.x0] = tile[
                    part.y0 - at.y0 : part.y1 - at.y0, part.x0 - at.x0 : part.x1 - at.x0
                ]
        return out

    def box(self) -> Rect:
        """The smallest rectangle around all values above 0; empty (0, 0, 0, 0) when there are none."""
        return self._box

    @cached_property
    def _box(self) -> Rect:
        boxes = []
        for (i, j), tile in self.tiles.items():
            ys, xs = np.flatnonzero(tile.any(1)), np.flatnonzero(tile.any(0))
            if len(ys):
                boxes.append((j * TILE + xs[0], i * TILE + ys[0], j * TILE + xs[-1] + 1, i * TILE + ys[-1] + 1))
        if not boxes:
            return Rect(0, 0, 0, 0)
        b = np.array(boxes)
        return Rect(int(b[:, 0].min()), int(b[:, 1].min()), int(b[:, 2].max()), int(b[:, 3].max()))

    @property
    def empty(self) -> bool:
        return self.box().area == 0

    def dab(self, x: float, y: float, radius: float, softness: float, erase: bool = False) -> tuple[Mask, Rect]:
        """One touch of a round brush; returns the new mask and the changed rectangle.

        softness 0..1: the share of the radius over which the edge falls to 0. A dab only ever adds up to
        its own grey (or takes it away), so going over a place twice does not harden a soft edge.
        """
        r = max(0.5, radius)
        rect = Rect(int(np.floor(x - r)), int(np.floor(y - r)), int(np.ceil(x + r)) + 1, int(np.ceil(y + r)) + 1)
        rect = rect.intersect(Rect(0, 0, self.width, self.height))
        if rect.area == 0:
            return self, rect
        yy, xx = np.ogrid[rect.y0 : rect.y1, rect.x0 : rect.x1]
        d = np.sqrt((xx + 0.5 - x) ** 2 + (yy + 0.5 - y) ** 2)
        grey = np.clip((r - d) / max(1.0, softness * r), 0, 1)
        value = np.round(grey * 255).astype(np.uint8)
        if erase:
            return self._changed(rect, lambda had, part: np.minimum(had, 255 - value[part])), rect
        return self._changed(rect, lambda had, part: np.maximum(had, value[part])), rect

    def with_part(self, a: np.ndarray, rect: Rect) -> Mask:
        """With other values (h, w) uint8 in a rectangle inside it."""
        return self._changed(rect, lambda had, part: a[part])

    def _changed(self, rect: Rect, change: Callable[[np.ndarray, tuple[slice, slice]], np.ndarray]) -> Mask:
        """change: of what a tile holds of the rectangle, and where in it that is, makes what it holds then."""
        tiles = dict(self.tiles)
        for i in range(rect.y0 // TILE, (rect.y1 - 1) // TILE + 1):
            for j in range(rect.x0 // TILE, (rect.x1 - 1) // TILE + 1):
                at = Rect(j * TILE, i * TILE, min(self.width, (j + 1) * TILE), min(self.height, (i + 1) * TILE))
                part = at.intersect(rect)
                held = tiles.get((i, j))
                tile = np.zeros((at.height, at.width), np.uint8) if held is None else held.copy()
                here = part.moved(-at.x0, -at.y0).slices
                tile[here] = change(tile[here], part.moved(-rect.x0, -rect.y0).slices)
                tiles[i, j] = tile
        return Mask(self.width, self.height, tiles)

    def stroke(self, x0: float, y0: float, x1: float, y1: float, radius: float, softness: float, erase: bool = False) -> tuple[Mask, Rect]:
        """Dabs along a line, a quarter radius apart."""
        n = max(1, int(np.ceil(np.hypot(x1 - x0, y1 - y0) / max(1.0, radius / 4))))
        mask, changed = self, None
        for k in range(1, n + 1):
            mask, r = mask.dab(x0 + (x1 - x0) * k / n, y0 + (y1 - y0) * k / n, radius, softness, erase)
            if r.area:
                changed = (
                    r
                    if changed is None
                    else Rect(min(changed.x0, r.x0), min(changed.y0, r.y0), max(changed.x1, r.x1), max(changed.y1, r.y1))
                )
        return mask, changed or Rect(0, 0, 0, 0)


def scaled_mask(mask: Mask, height: int, width: int) -> Mask:
    """The same at another size."""
    grey = resize_mask(mask.read().astype(np.float32) / 255, height, width)
    return Mask.from_array(np.asarray(grey * 255 + 0.5, np.uint8))


def feather_inside(mask: np.ndarray, pixels: float) -> np.ndarray:
    """Softens a (H, W) float mask by a ramp of `pixels` that lies inside it; the picture's border is no edge."""
    if pixels <= 0 or not (mask > 0).any():
        return np.asarray(mask, np.float32)
    solid = mask >= 0.5
    if solid.all():
        return np.asarray(mask, np.float32)
    d = ndimage.distance_transform_edt(solid)
    return np.asarray(mask * np.clip(d / (pixels + 1), 0, 1), np.float32)
