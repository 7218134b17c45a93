"""A take of tiles that know nothing of each other: painted in any order, joined by how much each counts, never whole in floating point."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from ..packs import Pack
from ..refused import Refused
from ..values.frame import Rect
from ..values.sheet import Sheet
from ..worded import worded
from .painting import painted
from .plan import Plan
from .recipe import pixels_hash, recipe_of
from .stage import Stage
from .take import Take
from .watch import Stopped, Watch

#: What of a recipe, and of what only its kind knows, says nothing of how one tile looks.
_OF_ALL, _OF_TILES = ("more", "frame", "computed", "rounds", "nearer"), ("tile", "tile_overlap", "weaker", "put_back", "only")


def tiled_take(plan: Plan, stages: Sequence[Stage], pack: Pack, seed: int, watch: Watch) -> Take:
    """The take of a pass in tiles. Stopped in the middle, it is what is done so far; tiles that were kept are not painted again.

    Raises:
        Refused: nothing of it would be painted.
        Stopped: no more was wanted before the first tile was done.
    """
    sheet, rect = plan.sheet, plan.sheet.rect
    recipe = _recipe(plan, seed)
    out, done = _Joined(sheet), list[Stage]()
    for i, stage in enumerate(stages):
        try:
            out.add(stage, _tile(stage, sheet, pack, replace(watch, part=i, parts=len(stages)), _key(stage, recipe)))
        except Stopped:
            if not done:
                raise
            break
        done.append(stage)
    pixels, region = out.whole(), _region(done, rect)
    if not region.any():
        raise Refused(worded("All of the picture is held: there is nothing to paint."))
    told = ""
    if len(done) < len(stages):
        recipe["more"] = recipe.get("more", {}) | {"only": len(done)}
        told = worded("Stopped: {0} of {1} tiles are painted. The same pass goes on there.", len(done), len(stages))
    return Take(rect, pixels, region, seed, recipe, sheet.extent, 0.0, told=told)


def _recipe(plan: Plan, seed: int) -> dict[str, Any]:
    rect = plan.sheet.rect
    return recipe_of(plan, seed) | {"frame": [0, 0, rect.x1, rect.y1], "start": pixels_hash(plan.sheet.flatten())}


def tile_keys(plan: Plan, pack: Pack, seed: int) -> list[tuple[str, tuple[int, ...]]]:
    """Under which each tile of a take is kept, and its shape, in the order of its stages."""
    recipe = _recipe(plan, seed)
    return [(_key(stage, recipe), (stage.frame.height, stage.frame.width, 3)) for stage in plan.stages_by(seed, pack)]


def _key(stage: Stage, recipe: dict[str, Any]) -> str:
    """Under which a tile is kept: all that it is made of."""
    own = {name: value for name, value in recipe.items() if name not in _OF_ALL}
    own["more"] = {name: value for name, value in recipe.get("more", {}).items() if name not in _OF_TILES}
    r = stage.frame.rect
    there = [r.x0, r.y0, r.x1, r.y1, stage.settings.strength]
    return hashlib.sha256(json.dumps([own, there], sort_keys=True).encode()).hexdigest()


def _tile(stage: Stage, sheet: Sheet, pack: Pack, watch: Watch, key: str) -> np.ndarray:
    """What a stage makes of its frame, (h, w, 3) uint8, as it was kept or painted now."""
    kept = None if watch.tiles is None else watch.tiles.get(key, (stage.frame.height, stage.frame.width, 3))
    if kept is not None:
        return kept
    made = painted(stage, sheet, pack, watch)
    if watch.tiles is not None:
        watch.tiles.put(key, made)
    return made


def _region(stages: Sequence[Stage], rect: Rect) -> np.ndarray:
    """Where so many stages painted, (H, W) uint8."""
    out = np.zeros((rect.height, rect.width), np.uint8)
    for stage in stages:
        there = stage.frame.rect
        here = there.intersect(rect)
        part = here.moved(-there.x0, -there.y0).slices
        assert stage.share is not None
        counts = np.outer(stage.share[0] > 0, stage.share[1] > 0)[part]
        out[here.slices] |= np.where(counts, stage.region()[part], 0).astype(np.uint8)
    return out


def _thresholds(top: int, rows: int, columns: int) -> np.ndarray:
    """From where on a pixel is rounded up, (rows, columns) 0..1, another for each (evenly spread: Roberts, "The unreasonable
    effectiveness of quasirandom sequences", 2018): rounded all alike, a mixture of two tiles would flip along one line and show it."""
    y, x = np.arange(top, top + rows), np.arange(columns)
    return np.asarray(0.02 + 0.96 * ((0.5698402909980532 * y[:, None] + 0.7548776662466927 * x) % 1), np.float32)


class _Joined:
    """The sheet's picture with tiles added row by row: what is below the last row's upper edge may still change, and only that is in
    floating point."""

    def __init__(self, sheet: Sheet) -> None:
        self._out = np.ascontiguousarray(sheet.flatten()[..., :3])
        self._top = 0
        self._more = np.zeros((0, sheet.width, 3), np.float32)

    def add(self, stage: Stage, pixels: np.ndarray) -> None:
        """Adds what a tile changes of the picture, as much as it counts. Tiles come from above."""
        there, (h, w) = stage.frame.rect, self._out.shape[:2]
        here = there.intersect(Rect(0, 0, w, h))
        self._settle(here.y0)
        missing = here.y1 - self._top - len(self._more)
        if missing > 0:
            self._more = np.concatenate([self._more, np.zeros((missing, w, 3), np.float32)])
        rows, columns = here.moved(-there.x0, -there.y0).slices
        assert stage.share is not None
        counts = stage.share[0][rows, None, None] * stage.share[1][None, columns, None]
        # What lies above is as it was until it is settled.
        change = pixels[rows, columns].astype(np.float32) - self._out[here.slices]
        self._more[here.y0 - self._top : here.y1 - self._top, here.x0 : here.x1] += counts * change

    def _settle(self, upto: int) -> None:
        n = min(max(0, upto - self._top), len(self._more))
        there = self._out[self._top : self._top + n]
        there[:] = np.clip(there + self._more[:n] + _thresholds(self._top, n, there.shape[1])[..., None], 0, 255).astype(np.uint8)
        self._top, self._more = max(self._top, upto), self._more[n:]

    def whole(self) -> np.ndarray:
        """The picture (H, W, 3) uint8."""
        self._settle(len(self._out))
        return self._out
