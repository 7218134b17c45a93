"""What was done to one sheet, pass after pass, done to another picture."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass, replace
from typing import Any

from ..packs import Pack
from ..refused import Refused
from ..values.belonging import rejoined
from ..values.frame import Rect
from ..values.layers import Layer
from ..values.resize import framed, scaled
from ..values.sheet import Sheet
from ..worded import worded
from .kinds import kind_of
from .plan import plan
from .recipe import recipe_frame, request_from_json, sheet_before, sheet_size
from .request import Request
from .run import run_take
from .watch import Watch


@dataclass(frozen=True, eq=False)
class Step:
    """A pass of the old sheet: which number it has there, counted from 1, its patch, and whether it can be done to another picture."""

    number: int
    patch: Layer
    fits: bool

    @property
    def title(self) -> str:
        recipe: dict[str, Any] = self.patch.recipe or {}
        words = recipe.get("words") or self.patch.name
        return f"{self.number}. {kind_of(str(recipe.get('kind', ''))).title}: {words}"


def chain(sheet: Sheet) -> list[Step]:
    """The passes of a sheet, in the order in which they lie. What began from nothing would cover another picture, and is left out."""
    made = [x for x in sheet.layers if x.visible and x.recipe is not None]
    return [Step(i, x, (x.recipe or {}).get("start") is not None) for i, x in enumerate(made, 1)]


def _ground(sheet: Sheet) -> Rect:
    """Where the picture lay that the sheet was begun with."""
    own: list[Layer] = [x for x in sheet.layers if x.recipe is None and x.visible]
    first = next((x for x in sheet.layers if x.recipe is not None and x.recipe.get("start") is None), None)
    if first is not None:
        return first.bounds
    return own[0].bounds if own else sheet.rect


def replayed(source: Sheet, target: Sheet, pack: Pack, without: Collection[int] = (), watch: Watch | None = None) -> Iterator[Sheet]:
    """A sheet with a picture, after each pass of another sheet was done to it: masks, outlines and frames scaled to its size, seeds and
    settings kept, room given where the other sheet was extended. without: numbers of passes that are left out.

    Raises:
        Refused: there is nothing to replay, a number is none, or a pass cannot run on this picture.
        Stopped: no more was wanted.
    """
    steps = chain(source)
    unknown = [n for n in without if not 1 <= n <= len(steps)]
    if unknown:
        raise Refused(worded("There is no pass {0}: this sheet has {1}.", unknown[0], len(steps)))
    todo = [s for s in steps if s.fits and s.number not in without]
    if not todo:
        raise Refused(worded("There is no pass to be replayed: all began from nothing, or are left out."))
    ground = _ground(source)
    kx, ky = target.width / max(1, ground.width), target.height / max(1, ground.height)
    sheet, there, had = target, target.rect, ground
    for step in steps:
        had = had.around(step.patch.bounds.intersect(source.rect))
        if step not in todo:
            continue
        then = _sheet_then(step.patch, had)
        x0, y0, x1, y1 = (
            v * k
            for v, k in zip((then.x0 - ground.x0, then.y0 - ground.y0, then.x1 - ground.x0, then.y1 - ground.y0), (kx, ky) * 2, strict=True)
        )
        wanted = there.around(Rect(round(x0), round(y0), round(x1), round(y1)))
        if wanted != there:
            sheet, there = framed(sheet, wanted.moved(-there.x0, -there.y0)), wanted
        sheet = _done(sheet, step.patch, then, pack, watch)
        yield sheet


def _sheet_then(patch: Layer, had: Rect) -> Rect:
    """Where on its sheet, as it is now, the sheet lay that a pass was run on. had: what had a picture when it was done."""
    now, then = patch.bounds, recipe_frame(patch.recipe)
    k = now.width / max(1, then.width)
    x, y = round(now.x0 - then.x0 * k), round(now.y0 - then.y0 * k)
    width, height = sheet_size(patch.recipe or {}, round((max(had.x1, now.x1) - x) / k), round((max(had.y1, now.y1) - y) / k))
    return Rect(x, y, x + round(width * k), y + round(height * k))


def _done(sheet: Sheet, patch: Layer, then: Rect, pack: Pack, watch: Watch | None) -> Sheet:
    recipe: dict[str, Any] = patch.recipe or {}
    own_scale = patch.bounds.width / max(1, recipe_frame(recipe).width)
    width, height = round(then.width / own_scale), round(then.height / own_scale)
    before = scaled(sheet_before(recipe, width, height, ()), sheet.width, sheet.height)
    before = replace(before, layers=sheet.layers, origin=sheet.origin, scale=sheet.scale, last_key=sheet.last_key)
    request = _scaled_request(request_from_json(recipe), sheet.width / width, sheet.height / height)
    take = run_take(plan(before, request, pack), pack, request.settings.seed, watch)
    key = sheet.next_key()
    k = (sheet.width * sheet.height / (then.width * then.height)) ** 0.5
    edge = {name: v * (1.0 if name == "opacity" else k) for name, v in patch.edge.items()}
    own = take.to_patch(key, patch.name).changed(**edge, blend=patch.blend)
    return rejoined(sheet.with_layer(own), key, patch.brought_by)


def _scaled_request(request: Request, kx: float, ky: float) -> Request:
    def box(edges: tuple[int, int, int, int]) -> tuple[int, int, int, int]:
        return round(edges[0] * kx), round(edges[1] * ky), round(edges[2] * kx), round(edges[3] * ky)

    more = {name: box(v) if name == "part" and v is not None else v for name, v in request.more}
    own = None if request.own_frame is None else box(request.own_frame)
    return replace(request, own_frame=own, more=tuple(more.items()))
