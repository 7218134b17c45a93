"""A rough picture of what a pass would make, for looking while the hand moves: the first stage alone, small, in few steps."""

from __future__ import annotations

from dataclasses import replace
from threading import Event

import numpy as np

from ..packs import Pack, PackInfo
from ..picture.infill import push_pull
from ..picture.resample import resize_mask, resize_picture
from ..values.element import Element
from ..values.frame import WorkFrame, no_larger
from ..values.sheet import Sheet
from .kinds import kind_of
from .painting import painted
from .request import Request, with_own
from .settings import PassSettings
from .stage import Stage, seen
from .watch import Step, Stopped, Watch

#: Steps of the first sight, without guidance, and of the picture that the hand rests on, guided as the pass would be: of all that can be
#: had in that time the nearest to a whole take (docs/desk.md).
SIGHT_STEPS, REST_STEPS = 2, 4


def seen_small(sheet: Sheet, frame: WorkFrame) -> np.ndarray | None:
    """As `stage.seen`, at the size the frame is computed at: of a large sheet far quicker, and nearly the same."""
    if not sheet.has_picture:
        return None
    below = sheet.flatten(frame.rect)
    # Two pixels for each that is computed tell enough of it.
    step = max(1, min(frame.rect.width // (2 * frame.width), frame.rect.height // (2 * frame.height)))
    some = below[::step, ::step].astype(np.float32) / 255
    known = resize_mask(some[..., 3], frame.height, frame.width)
    lit = resize_picture(some[..., :3], frame.height, frame.width)
    return push_pull(lit, np.where(known > 0.999, np.float32(1), known))


def rough_stage(sheet: Sheet, request: Request, pack: Pack) -> Stage:
    """The first stage of a pass, computed no larger than the pack does best.

    Raises:
        Refused: the pass cannot run at all.
    """
    kind = kind_of(request.kind)
    sheet = sheet.as_passes_see_it()
    taking_part: tuple[Element, ...] = tuple(e for e in sheet.elements if e.visible or e.hold)
    sheet = replace(sheet, elements=taking_part)
    # Small things painted from nearer come after the first stage.
    request = replace(request, more=with_own(request.more, kind.own), nearer=(), small_nearer=False)
    stage = kind.stages(sheet, kind.settled(sheet, request, pack), pack, request.settings.seed)[0]
    frame = no_larger(stage.frame, pack.info.limits)
    return replace(stage, frame=frame, start=seen_small if stage.start is seen else stage.start)


def in_steps(stage: Stage, steps: int, info: PackInfo, guided: bool) -> Stage:
    """The stage in so many steps that are really run, whatever its strength."""
    own = stage.settings
    asked = max(1, min(200, round(steps / max(stage.strongest, 0.01))))
    settings: PassSettings = replace(own, steps=asked, sampler="second", quick=not guided, guidance=own.guidance if guided else 1.0)
    return replace(stage, settings=settings, guided=stage.guided if guided else None)


def first_sight(stage: Stage, sheet: Sheet, pack: Pack) -> np.ndarray:
    """What is seen at once, (h, w, 4) uint8, transparent where nothing changes: the linear preview of two steps."""
    quick, enough, last = in_steps(stage, SIGHT_STEPS, pack.info, guided=False), Event(), list[np.ndarray]()

    def look(step: Step) -> None:
        if step.step == step.steps:
            last.append(step.preview)
            # The way up to pixels would take longer than the steps.
            enough.set()

    try:
        whole = painted(quick, sheet, pack, Watch(look, enough), (stage.frame.height, stage.frame.width))
    except Stopped:
        return last[0]
    return _with_region(whole, stage)


def at_rest(stage: Stage, sheet: Sheet, pack: Pack, stop: Event) -> np.ndarray:
    """The picture that the hand rests on, (h, w, 4) uint8 at the size it is computed at, transparent where nothing changes.

    Raises:
        Stopped: `stop` was set.
    """
    rest = in_steps(stage, REST_STEPS, pack.info, guided=True)
    return _with_region(painted(rest, sheet, pack, Watch(stop=stop), (stage.frame.height, stage.frame.width)), stage)


def _with_region(pixels: np.ndarray, stage: Stage) -> np.ndarray:
    region = stage.strength(*pixels.shape[:2]) > 0
    return np.dstack([pixels, np.where(region, 255, 0).astype(np.uint8)])
