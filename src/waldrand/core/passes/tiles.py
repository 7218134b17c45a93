"""Tiles over a large picture: where they lie, and how much each counts where they overlap."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np

from ..packs import PackInfo
from ..refused import Refused
from ..values.frame import Rect
from ..values.sheet import Sheet
from ..worded import worded
from .request import Request

#: Pixels at a tile's rim that count for nothing where a neighbour has them: it knows too little of what goes on there.
RIM = 16


@dataclass(frozen=True, eq=False)
class Tile:
    """number: from 1, row by row; rect: on the sheet, at the right and below perhaps beyond it; rows, columns: how much it counts in
    each of its rows and columns, float32: over all tiles 1 everywhere."""

    number: int
    rect: Rect
    rows: np.ndarray
    columns: np.ndarray


def best_side(info: PackInfo) -> int:
    """The side of the tiles that a pack does best, in pixels."""
    limits, multiple = info.limits.placed, info.limits.multiple
    return max(limits.least_side, min(limits.greatest_side, int(math.sqrt(limits.best_area)) // multiple * multiple))


def checked_tile(tile: int, overlap: int, info: PackInfo) -> tuple[int, int]:
    """Side and overlap in pixels as they are used: the side in the pack's multiples, 0 for its best.

    Raises:
        Refused: sides that the pack cannot compute, or tiles that overlap by half and more.
    """
    limits = info.limits
    side = math.ceil(tile / limits.multiple) * limits.multiple if tile else best_side(info)
    if not limits.least_side <= side <= limits.greatest_side:
        raise Refused(
            worded("Tiles go from {0} to {1} pixels with this model; {2} is outside.", limits.least_side, limits.greatest_side, tile)
        )
    if 2 * overlap > side:
        raise Refused(worded("Tiles of {0} pixels may overlap by {1} at most, not by {2}.", side, side // 2, overlap))
    return side, overlap


def _along(n: int, tile: int, overlap: int, info: PackInfo) -> tuple[int, list[int], list[np.ndarray]]:
    """Tiles along n pixels: their side, where each begins, in whole cells, and how much each counts along it."""
    cell, multiple = info.cell, info.limits.multiple
    side = min(tile, max(info.limits.least_side, math.ceil(n / multiple) * multiple))
    if n <= side:
        return side, [0], [np.ones(side, np.float32)]
    # The last one may reach beyond the end by less than a cell; no step is longer than tiles less their overlap, in whole cells.
    last, longest = math.ceil((n - side) / cell), (side - overlap) // cell
    count = 1 + math.ceil(last / longest)
    begins = [k * last // (count - 1) * cell for k in range(count)]
    reach = np.zeros((count, begins[-1] + side))
    for k, at in enumerate(begins):
        x = np.arange(side) + 0.5
        up = _ramp(x, at, begins[k - 1] + side) if k else np.ones(side)
        down = _ramp(x[::-1], 0, at + side - begins[k + 1]) if k < count - 1 else np.ones(side)
        reach[k, at : at + side] = np.maximum(np.minimum(up, down), 1e-6)
    reach /= reach.sum(0)
    return side, begins, [reach[k, at : at + side].astype(np.float32) for k, at in enumerate(begins)]


def _ramp(x: np.ndarray, begins: int, ends: int) -> np.ndarray:
    """From 0 to 1 over an overlap of two tiles, but for their rims."""
    overlap = ends - begins
    rim = min(RIM, overlap / 4)
    s = np.clip((x - rim) / max(1.0, overlap - 2 * rim), 0, 1)
    return np.asarray(s * s * (3 - 2 * s))


def tiles_over(width: int, height: int, tile: int, overlap: int, info: PackInfo) -> tuple[Tile, ...]:
    """Equal tiles that overlap by at least so many pixels, spread evenly over a picture, row by row. tile, overlap: checked ones."""
    tall, ys, rows = _along(height, tile, overlap, info)
    wide, xs, columns = _along(width, tile, overlap, info)
    places = [(j, i) for j in range(len(ys)) for i in range(len(xs))]
    return tuple(Tile(n, Rect(xs[i], ys[j], xs[i] + wide, ys[j] + tall), rows[j], columns[i]) for n, (j, i) in enumerate(places, 1))


def tiles_of(sheet: Sheet, request: Request, pack_info: PackInfo) -> tuple[Tile, ...]:
    """The tiles of a pass over a sheet.

    Raises:
        Refused: tiles that the pack cannot compute.
    """
    side, overlap = checked_tile(request.value("tile"), request.value("tile_overlap"), pack_info)
    return tiles_over(sheet.width, sheet.height, side, overlap, pack_info)


def with_tiles(request: Request, name: str, numbers: Iterable[int]) -> Request:
    """The request with some more tiles "weaker" or "put_back"."""
    return replace(request, more=tuple((n, (*v, *numbers) if n == name else v) for n, v in request.more))
