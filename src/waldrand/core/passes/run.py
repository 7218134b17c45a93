"""Runs a planned pass, stage by stage: sheet -> stages -> take. It knows stages and takes, and no kind of pass."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from functools import partial
from threading import Event
from typing import Any

import numpy as np

from ..packs import Pack
from ..picture.composite import lay_over
from ..picture.patch_edge import edge_alpha
from ..refused import Refused
from ..values.frame import Rect
from ..values.sheet import Sheet
from ..worded import worded
from .at_once import how_many, in_order
from .painting import painted
from .plan import Plan, plan
from .recipe import nearer_of, pixels_hash, recipe_of
from .request import Request
from .stage import Stage
from .take import Take
from .tiled import tiled_take
from .watch import Progress, Watch
from .whole import nearer_stage


def run(plan: Plan, pack: Pack, takes: int = 1, progress: Progress | None = None, stop: Event | None = None) -> Iterator[Take]:
    """Takes with rising seeds, in their order; each is finished when it is yielded.

    Raises:
        Refused: less than one take, or seeds that rise too high.
        Stopped: `stop` was set; takes yielded before stay good.
    """
    makes = [partial(run_take, plan, pack, seed) for seed in seeds_of(plan, takes)]
    yield from in_order(makes, Watch(progress, stop), how_many(pack.info, takes, plan.memory))


def seeds_of(plan: Plan, takes: int) -> range:
    """The rising seeds of so many takes.

    Raises:
        Refused: less than one take, or seeds that rise too high.
    """
    if takes < 1:
        raise Refused(worded("Ask for at least one take, not {0}.", takes))
    first = plan.request.settings.seed
    # Refuses a last seed that is too high before the first take costs time.
    replace(plan.request.settings, seed=first + takes - 1)
    return range(first, first + takes)


def run_take(plan: Plan, pack: Pack, seed: int, watch: Watch | None = None) -> Take:
    """One take. The same plan, pack and seed give the same pixels, whatever ran before.

    Raises:
        Refused: an element that shall be painted from nearer cannot be.
        Stopped: no more was wanted.
    """
    watch = watch or Watch()
    if plan.request.rounds:
        return _with_rounds(plan, pack, seed, watch)
    passes = plan.kind.apart(plan.sheet, plan.request, pack)
    if passes:
        return _of_parts(plan, passes, pack, seed, watch)
    first, *others = plan.stages_by(seed, pack)
    if first.share is not None:
        return tiled_take(plan, (first, *others), pack, seed, watch)
    sheet = first.edit(plan.sheet)
    made = Take(
        first.frame.rect, painted(first, sheet, pack, watch), first.region(), seed, recipe_of(plan, seed), plan.sheet.extent, first.feather
    )
    for stage in others:
        made = _with_stage(made, plan, stage, pack, watch)
    done = plan.kind.finished(plan.sheet, plan.request, made)
    return done if done.frame == made.frame else replace(done, recipe=done.recipe | _of_frame(plan.sheet, done.frame))


def _of_parts(whole: Plan, passes: Sequence[tuple[Sheet, Request]], pack: Pack, seed: int, watch: Watch) -> Take:
    """A take of several passes, each on what those before it left."""
    sheet, parts = whole.sheet, list[Take]()
    for i, (one, request) in enumerate(passes):
        asked = replace(request, settings=replace(request.settings, seed=seed))
        here = replace(_over(watch, parts, sheet), part=i, parts=len(passes))
        parts.append(run_take(plan(replace(one, layers=sheet.layers, last_key=sheet.last_key), asked, pack), pack, seed, here))
        sheet = sheet.with_made(parts[-1].to_patch(sheet.next_key(), ""))
    return joined_take(parts, whole.sheet, sheet, recipe_of(whole, seed))


def _with_rounds(whole: Plan, pack: Pack, seed: int, watch: Watch) -> Take:
    """A take that goes through rounds of its own afterwards; one that has nothing to do in it is left out."""
    alone = replace(whole, request=replace(whole.request, rounds=()))
    made = run_take(alone, pack, seed, watch)
    sheet, parts = whole.sheet, list(made.parts or (made,))
    for part in parts:
        sheet = sheet.with_made(part.to_patch(sheet.next_key(), ""))
    for one in whole.request.rounds:
        asked = replace(one, settings=replace(one.settings, seed=seed))
        try:
            after = run_take(plan(replace(sheet, mask=None), asked, pack), pack, seed, _over(watch, parts, sheet))
        except Refused:
            continue
        parts += after.parts or (after,)
        for part in after.parts or (after,):
            sheet = sheet.with_made(part.to_patch(sheet.next_key(), ""))
    return joined_take(parts, whole.sheet, sheet, recipe_of(whole, seed))


def joined_take(parts: Sequence[Take], before: Sheet, sheet: Sheet, recipe: dict[str, Any]) -> Take:
    """One take of several that were laid on a sheet one after another. before, sheet: as it was before them, and as they left it;
    recipe: of the pass that made all of them."""
    frame, region = _changed(parts)
    whole = recipe | _of_frame(before, frame)
    # What they left is blended into the sheet already.
    return Take(frame, sheet.flatten(frame)[..., :3], region, parts[0].seed, whole, sheet.extent, 0.0, tuple(parts))


def _changed(parts: Sequence[Take]) -> tuple[Rect, np.ndarray]:
    """The frame round several takes, and what they change of it, (h, w) uint8."""
    frame = parts[0].frame
    for part in parts[1:]:
        frame = frame.around(part.frame)
    region = np.zeros((frame.height, frame.width), np.uint8)
    for part in parts:
        here = part.frame.moved(-frame.x0, -frame.y0).slices
        region[here] = np.maximum(region[here], part.region)
    return frame, region


def _over(watch: Watch, parts: Sequence[Take], sheet: Sheet) -> Watch:
    """A watch that shows what forms next over the parts that are done. sheet: as they left it."""
    if watch.progress is None or not parts:
        return watch
    frame, region = _changed(parts)
    return watch.over(np.dstack([sheet.flatten(frame)[..., :3], region]), frame)


def _of_frame(before: Sheet, frame: Rect) -> dict[str, Any]:
    """What a recipe says of its frame, and of what was there."""
    start = pixels_hash(before.flatten(frame)) if before.has_picture else None
    return {"frame": [frame.x0, frame.y0, frame.x1, frame.y1], "start": start}


def run_nearer(made: Take, plan: Plan, pack: Pack, key: int, seed: int, watch: Watch | None = None) -> Take:
    """A take of the whole plan with one element painted once more from nearer; all that lies apart from it stays bit for bit.

    Raises:
        Refused: the element is not there, has no words, or cannot be seen.
        Stopped: no more was wanted.
    """
    stage = nearer_stage(plan.sheet, plan.request, key, pack, seed, made.seed)
    done = _with_stage(made, plan, stage, pack, watch or Watch())
    return replace(done, recipe=made.recipe | {"nearer": [*nearer_of(made.recipe), [key, seed]]})


def _with_stage(made: Take, plan: Plan, stage: Stage, pack: Pack, watch: Watch) -> Take:
    """A take with a further stage painted over it."""
    sheet = stage.edit(made.laid_on(plan.sheet, "take"))
    pixels, region, at = painted(stage, sheet, pack, watch.over(made.pixels, made.frame)), stage.region(), stage.frame.rect
    frame = made.frame.around(at)
    whole, changed = made.pixels.copy(), made.region.copy()
    if frame != made.frame:
        there = made.frame.moved(-frame.x0, -frame.y0).slices
        whole, changed = sheet.flatten(frame)[..., :3].copy(), np.zeros((frame.height, frame.width), np.uint8)
        whole[there], changed[there] = made.pixels, made.region
    here = at.moved(-frame.x0, -frame.y0).slices
    below = np.dstack([whole[here], np.full(region.shape, 255, np.uint8)])
    whole[here] = lay_over(below, pixels, edge_alpha(region, feather=stage.blend))[..., :3]
    changed[here] = np.maximum(changed[here], region)
    return replace(made, frame=frame, pixels=whole, region=changed)
