"""Refine: a large picture painted again at low strength, in tiles that overlap and share one field of noise."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from functools import partial
from typing import ClassVar

import numpy as np

from ...fields import Field
from ...noise.noise import field_noise
from ...packs import Pack
from ...refused import Refused
from ...seen.by_place import Seen
from ...told.voices import element_masks
from ...values.frame import WorkFrame
from ...values.sheet import Sheet
from ...worded import worded
from ..cautions import Caution, Mend, percent
from ..kind import COMPUTED, Kind
from ..masked import usable_method
from ..mends import strength
from ..own_lines import OWN_LINES, own_lines
from ..request import Request
from ..stage import Stage
from ..strength import laid_out_strength
from ..tiles import Tile, tiles_of
from ..told_by_tile import looked_at, told_of_tile, whole_seen


class Refine(Kind):
    name = "refine"
    title = "Refine"
    tip = "Repaint a large picture lightly, tile by tile, each told only what is in it: fine detail where enlarging left it soft."
    begins = 0.3
    tiled = True
    uses: ClassVar[tuple[str, ...]] = (
        "words",
        "avoid",
        "strength",
        *(n for n in COMPUTED if n not in ("figures", "sketches", "ink", "detail", "weather")),
    )
    own: ClassVar[Mapping[str, Field]] = {
        "tile": Field(
            "whole",
            0,
            0,
            4096,
            "Tiles go",
            label="tile",
            tip="The side of a tile in pixels; 0: what the model does best.",
            option="side of a tile in pixels; 0: what the model does best",
        ),
        "tile_overlap": Field(
            "whole",
            128,
            0,
            2048,
            "An overlap goes",
            label="overlapping",
            tip="By how many pixels tiles overlap, at least. More hides their edges better and takes longer.",
            option="by how many pixels tiles overlap, at least",
        ),
        "own_lines": OWN_LINES,
        "texture": Field(
            "number",
            0.0,
            -1,
            1,
            "Texture goes",
            label="texture",
            tip="Above 0 more fine texture at the same seed, below 0 less: smooth surfaces.",
            option="above 0 more fine texture at the same seed, below 0 less",
            step=0.1,
            decimals=2,
        ),
        "weaker": Field(
            "numbers",
            (),
            label="weaker",
            tip="Tiles painted at half the strength, by their numbers; named twice, at a quarter.",
            option="tiles painted at half the strength, by their numbers; named twice, at a quarter",
        ),
        "put_back": Field(
            "numbers",
            (),
            label="put back",
            tip="Tiles left as they were, by their numbers.",
            option="tiles left as they were, by their numbers",
        ),
        # Only in recipes of passes that were stopped.
        "only": Field("whole", 0, 0, 10**6, "A number of tiles goes"),
    }

    def settled(self, sheet: Sheet, request: Request, pack: Pack) -> Request:
        if not sheet.has_picture:
            raise Refused(worded("There is no picture on the sheet to refine: compose one, or open one."))
        tiles = tiles_of(sheet, request, pack.info)
        unknown = [n for name in ("weaker", "put_back") for n in request.value(name) if not 1 <= n <= len(tiles)]
        if unknown:
            raise Refused(worded("There is no tile {0}: they go from 1 to {1}.", unknown[0], len(tiles)))
        if len(set(request.value("put_back"))) == len(tiles):
            raise Refused(worded("All tiles are left as they were: there is nothing to paint."))
        return request

    def looks(self, sheet: Sheet, request: Request, pack: Pack) -> Callable[[], object] | None:
        if not sheet.has_picture or looked_at(sheet, pack):
            return None
        return lambda: whole_seen(sheet, pack)

    def stages(self, sheet: Sheet, request: Request, pack: Pack, seed: int) -> tuple[Stage, ...]:
        seen, gone = whole_seen(sheet, pack), set(request.value("put_back"))
        tiles = [tile for tile in tiles_of(sheet, request, pack.info) if tile.number not in gone]
        tiles = tiles[: request.value("only") or None]
        return tuple(_stage(sheet, request, tile, seen, pack, seed) for tile in tiles)

    def changes(self, sheet: Sheet, stages: Sequence[Stage]) -> float:
        return min(1.0, sum(float(s.share[0].sum() * s.share[1].sum()) for s in stages if s.share is not None) / sheet.rect.area)

    def describe(self, sheet: Sheet, request: Request, stages: Sequence[Stage], changed: float) -> list[str]:
        n, frame = len(stages), stages[0].frame
        tiles = worded("in {0} tiles of {1} x {2}", n, frame.width, frame.height) if n > 1 else worded("as one tile")
        return [worded("Refines {0} of the sheet at {1:.2f}, {2}.", percent(changed), request.settings.strength, tiles)]

    def notes(self, sheet: Sheet, request: Request, stages: Sequence[Stage]) -> list[str]:
        most = max(len([one for one in s.told if one.owner == "seen"]) for s in stages)
        if not most:
            return []
        return [worded("Each tile is told only what is seen in it, {0} thing{1} at most.", most, "" if most == 1 else "s")]

    def cautions(self, sheet: Sheet, request: Request, stages: Sequence[Stage], pack: Pack) -> list[Caution]:
        out: list[Caution] = []
        if request.settings.strength > 0.45:
            text = worded("At strength {0:.2f} tiles begin to paint things of their own.", request.settings.strength)
            out.append(Caution(text, None, Mend(worded("Use 0.3"), partial(strength, value=0.3))))
        if len(stages) == 1 and not request.value("put_back"):
            out.append(Caution(worded("The sheet is one tile: enlarge it first, or rework it.")))
        if pack.finder is None:
            out.append(Caution(worded("Without a finder each tile is told all the scene's words: keep it weak.")))
        return out


def _stage(sheet: Sheet, request: Request, tile: Tile, seen: Seen | None, pack: Pack, seed: int) -> Stage:
    info, rect = pack.info, tile.rect
    frame, factor = WorkFrame(rect, rect.width, rect.height), 0.5 ** request.value("weaker").count(tile.number)
    # Told as they are: a tile shows parts of things, which figures and their sketches are not.
    settings = replace(request.settings, strength=request.settings.strength * factor, figures=False, sketches=False, detail=1.0)
    own = [e for e in sheet.elements if e.strength is not None and not e.hold]
    told = told_of_tile(sheet, request, frame, seen, pack)

    def strength_at(height: int, width: int) -> np.ndarray:
        masks = element_masks(sheet.elements, WorkFrame(rect, width, height)) if own else None
        s = laid_out_strength(request.settings.strength, sheet.elements, masks, rect, height, width)
        return np.asarray(s * np.float32(factor), np.float32)

    top, left = rect.y0 // info.cell, rect.x0 // info.cell

    def field(purpose: int, shape: tuple[int, ...]) -> np.ndarray:
        channels, rows, columns = shape
        return field_noise(seed, purpose, channels, slice(top, top + rows), slice(left, left + columns))

    return Stage(
        frame,
        seed,
        settings,
        usable_method(settings, info),
        max([request.settings.strength, *(e.strength for e in own if e.strength is not None)]) * factor,
        strength_at,
        told.told,
        told.away,
        told.areas,
        info.guided if settings.guidance != 1 else None,
        field=field,
        drawn=own_lines if request.value("own_lines") and "lines" in info.capabilities else None,
        share=(tile.rows, tile.columns),
        texture=request.value("texture"),
    )


KIND = Refine()
