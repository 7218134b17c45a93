"""Colours painted by hand: a layer in tiles, so that undo keeps only what a stroke changed."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, ClassVar, Self

import numpy as np

from ..fields import needed, taken_whole
from ..picture.composite import lay_over
from ..refused import Refused
from ..worded import worded
from .frame import Rect
from .layers import FARTHEST, Draw, Layer, PictureLayer, common_of, kept, meet
from .masks import TILE

Colour = tuple[int, int, int]


@dataclass(frozen=True, eq=False)
class PaintLayer(Layer):
    """width, height: of what can be painted on, from (x, y) of the sheet; tiles: (h, w, 4) uint8 with straight alpha by row and column,
    nothing where none is held. Painting gives a new layer that shares all untouched tiles with the old one."""

    sort: ClassVar[str] = "paint"
    width: int
    height: int
    tiles: Mapping[tuple[int, int], np.ndarray] = field(default_factory=dict)
    x: int = 0
    y: int = 0
    visible: bool = True

    @property
    def bounds(self) -> Rect:
        return Rect(self.x, self.y, self.x + self.width, self.y + self.height)

    @property
    def shown(self) -> np.ndarray:
        return self.read(Rect(0, 0, self.width, self.height))

    @property
    def seen(self) -> Rect:
        found = [self.place_of(key) for key, tile in self.tiles.items() if tile[..., 3].any()]
        if not found:
            return self.bounds
        near = Rect(min(r.x0 for r in found), min(r.y0 for r in found), max(r.x1 for r in found), max(r.y1 for r in found))
        rows, columns = (np.flatnonzero(self.read(near)[..., 3].any(axis)) for axis in (1, 0))
        x, y = near.x0 + self.x, near.y0 + self.y
        return Rect(x + int(columns[0]), y + int(rows[0]), x + int(columns[-1]) + 1, y + int(rows[-1]) + 1)

    @property
    def edge(self) -> Mapping[str, float]:
        return {"opacity": self.opacity}

    @classmethod
    def upon(cls, layer: PictureLayer) -> Self:
        """A picture as something that is painted on, as it is shown."""
        shown, at = layer.shown, layer.bounds
        return cls(layer.key, layer.name, at.width, at.height, in_tiles(shown), at.x0, at.y0, layer.visible, **kept(layer))

    def place_of(self, key: tuple[int, int]) -> Rect:
        """Where a tile lies on the layer."""
        y, x = key[0] * TILE, key[1] * TILE
        return Rect(x, y, min(self.width, x + TILE), min(self.height, y + TILE))

    def read(self, rect: Rect) -> np.ndarray:
        """What is painted in a rectangle of the layer, (h, w, 4) uint8; clear outside of it."""
        out = np.zeros((rect.height, rect.width, 4), np.uint8)
        for key, tile in self.tiles.items():
            at = self.place_of(key)
            if at.intersect(rect).area:
                there, here = meet(at, rect)
                out[there] = tile[here]
        return out

    def changed_in(self, rect: Rect, change: Callable[[np.ndarray, tuple[slice, slice]], np.ndarray]) -> Self:
        """change: of what is painted in a part of the rectangle (h, w, 4) uint8, and where in the rectangle that is, makes what is
        painted there then."""
        rect = rect.intersect(Rect(0, 0, self.width, self.height))
        if not rect.area:
            return self
        tiles = dict(self.tiles)
        for i in range(rect.y0 // TILE, (rect.y1 - 1) // TILE + 1):
            for j in range(rect.x0 // TILE, (rect.x1 - 1) // TILE + 1):
                at = self.place_of((i, j))
                held = tiles.get((i, j))
                tile = np.zeros((at.height, at.width, 4), np.uint8) if held is None else held.copy()
                there, here = meet(at, rect)
                tile[here] = change(tile[here], there)
                tiles[i, j] = tile
        return replace(self, tiles=tiles)

    def painted(self, rect: Rect, grey: np.ndarray, colour: Colour | np.ndarray, erase: bool = False) -> Self:
        """A colour, or a picture (h, w, 3) uint8, laid over a rectangle of the layer as much as (h, w) uint8 says; or taken away."""
        inside = rect.intersect(Rect(0, 0, self.width, self.height))
        cut = inside.moved(-rect.x0, -rect.y0).slices
        grey = grey[cut]
        colours = np.broadcast_to(np.asarray(colour, np.uint8), (*grey.shape, 3)) if isinstance(colour, tuple) else colour[cut]

        def change(had: np.ndarray, part: tuple[slice, slice]) -> np.ndarray:
            if not erase:
                return lay_over(had, colours[part], grey[part])
            out = had.copy()
            out[..., 3] = (had[..., 3].astype(np.uint16) * (255 - grey[part].astype(np.uint16)) + 127) // 255
            return out

        return self.changed_in(inside, change)

    def lay_on(self, below: np.ndarray, rect: Rect) -> None:
        for key, tile in self.tiles.items():
            at = self.place_of(key).moved(self.x, self.y)
            if at.intersect(rect).area:
                there, here = meet(at, rect)
                below[there] = self._laid(below[there], tile[here])

    def as_picture(self) -> PictureLayer:
        """The same as a picture, cut to what is painted."""
        r = self.seen
        pixels = self.read(r.moved(-self.x, -self.y))
        return PictureLayer(self.key, self.name, pixels, r.x0, r.y0, self.visible, **kept(self))

    def moved(self, dx: int, dy: int) -> Self:
        return replace(self, x=self.x + dx, y=self.y + dy)

    def scaled(self, kx: float, ky: float, draw: Draw) -> Self:
        to = self._scaled_bounds(kx, ky)
        whole = PictureLayer(0, "", self.shown, self.x, self.y).scaled(kx, ky, draw).pixels
        return replace(self, width=to.width, height=to.height, x=to.x0, y=to.y0, tiles=in_tiles(whole))

    def to_json(self) -> dict[str, Any]:
        return self._said() | {"sort": self.sort, "x": self.x, "y": self.y}

    @classmethod
    def from_json(cls, key: int, name: str, visible: bool, d: dict[str, Any], pixels: np.ndarray, pictures: object) -> Self:
        x, y = (taken_whole(needed(d, k, "A layer"), f"A layer's {k}") for k in "xy")
        if max(abs(x), abs(y)) > FARTHEST:
            raise Refused(worded("A layer lies too far outside."))
        h, w = pixels.shape[:2]
        return cls(key, name, w, h, in_tiles(pixels), x, y, visible, **common_of(d))


def in_tiles(pixels: np.ndarray) -> dict[tuple[int, int], np.ndarray]:
    """(H, W, 4) uint8 cut into tiles, those left out of which nothing is seen."""
    h, w = pixels.shape[:2]
    return {
        (i // TILE, j // TILE): np.ascontiguousarray(tile)
        for i in range(0, h, TILE)
        for j in range(0, w, TILE)
        if (tile := pixels[i : i + TILE, j : j + TILE])[..., 3].any()
    }
