"""Runs a planned pass, stage by stage: sheet -> latent -> sampler -> take. It knows stages, samplers and packs, and no kind of pass."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from threading import Event
from typing import Any

import numpy as np

from ..noise.noise import ANCESTRAL, START, noise, with_own_seeds
from ..noise.samplers import sample
from ..packs import Pack, Rows
from ..picture.composite import lay_over
from ..picture.patch_edge import edge_alpha
from ..picture.resample import largest_in_cells, resize_mask, resize_picture
from ..refused import Refused
from ..told.guides import OnFrame, joined, look_rows, on_frame
from ..told.voices import Voice, to_rows
from ..values.frame import Rect
from ..values.sheet import Sheet
from ..worded import worded
from .plan import Plan, plan
from .recipe import nearer_of, pixels_hash, recipe_of
from .request import Request
from .stage import Stage
from .strength import set_back
from .take import Take
from .whole import nearer_stage

#: Where the way up from a picture begins, in shares of the lowest level of its way down.
FIRST_NOISE = 0.25


class Stopped(Exception):
    """The artist stopped the pass; nothing has changed."""


@dataclass(frozen=True, eq=False)
class Step:
    """Progress: take (from 0) of takes, part (from 0) of its parts, step of steps, and a small preview (h, w, 4) uint8 of a frame,
    transparent where the pass changes nothing."""

    take: int
    takes: int
    step: int
    steps: int
    preview: np.ndarray
    frame: Rect
    part: int = 0
    parts: int = 1


Progress = Callable[[Step], None]


@dataclass(frozen=True, eq=False)
class Watch:
    """Whoever waits for takes. progress: told of every step; stop: set when no more is wanted; take, takes: which of how many this
    is; part, parts: which part of it."""

    progress: Progress | None = None
    stop: Event | None = None
    take: int = 0
    takes: int = 1
    part: int = 0
    parts: int = 1

    def check(self) -> None:
        """Raises Stopped when no more is wanted."""
        if self.stop is not None and self.stop.is_set():
            raise Stopped

    def step(self, step: int, steps: int, preview: Callable[[], np.ndarray], frame: Rect) -> None:
        """Tells of a step done, if anybody wants to know."""
        self.check()
        if self.progress is not None:
            self.progress(Step(self.take, self.takes, step, steps, preview(), frame, self.part, self.parts))


def run(plan: Plan, pack: Pack, takes: int = 1, progress: Progress | None = None, stop: Event | None = None) -> Iterator[Take]:
    """Takes with rising seeds, one after another; each is finished when it is yielded.

    Raises:
        Refused: less than one take, or seeds that rise too high.
        Stopped: `stop` was set; takes yielded before stay good.
    """
    for i, seed in enumerate(seeds_of(plan, takes)):
        yield run_take(plan, pack, seed, Watch(progress, stop, i, takes))


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
    sheet = first.edit(plan.sheet)
    made = Take(
        first.frame.rect, painted(first, sheet, pack, watch), first.region(), seed, recipe_of(plan, seed), plan.sheet.extent, first.feather
    )
    for stage in others:
        made = _with_stage(made, plan, stage, pack, watch)
    return made


def _of_parts(whole: Plan, passes: Sequence[tuple[Sheet, Request]], pack: Pack, seed: int, watch: Watch) -> Take:
    """A take of several passes, each on what those before it left."""
    sheet, parts = whole.sheet, list[Take]()
    for i, (one, request) in enumerate(passes):
        asked = replace(request, settings=replace(request.settings, seed=seed))
        here = replace(watch, part=i, parts=len(passes))
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
            after = run_take(plan(replace(sheet, mask=None), asked, pack), pack, seed, watch)
        except Refused:
            continue
        parts += after.parts or (after,)
        for part in after.parts or (after,):
            sheet = sheet.with_made(part.to_patch(sheet.next_key(), ""))
    return joined_take(parts, whole.sheet, sheet, recipe_of(whole, seed))


def joined_take(parts: Sequence[Take], before: Sheet, sheet: Sheet, recipe: dict[str, Any]) -> Take:
    """One take of several that were laid on a sheet one after another. before, sheet: as it was before them, and as they left it;
    recipe: of the pass that made all of them."""
    frame = parts[0].frame
    for part in parts[1:]:
        frame = frame.around(part.frame)
    region = np.zeros((frame.height, frame.width), np.uint8)
    for part in parts:
        here = part.frame.moved(-frame.x0, -frame.y0).slices
        region[here] = np.maximum(region[here], part.region)
    whole = recipe | {"frame": [frame.x0, frame.y0, frame.x1, frame.y1]}
    whole["start"] = pixels_hash(before.flatten(frame)) if before.has_picture else None
    # What they left is blended into the sheet already.
    return Take(frame, sheet.flatten(frame)[..., :3], region, parts[0].seed, whole, sheet.extent, 0.0, tuple(parts))


def run_nearer(made: Take, plan: Plan, pack: Pack, key: int, seed: int, watch: Watch | None = None) -> Take:
    """A take of the whole plan with one element painted once more from nearer; all that lies apart from it stays bit for bit.

    Raises:
        Refused: the element is not there, has no words, or cannot be seen.
        Stopped: no more was wanted.
    """
    stage = nearer_stage(plan.sheet, plan.request, key, pack, seed)
    done = _with_stage(made, plan, stage, pack, watch or Watch())
    return replace(done, recipe=made.recipe | {"nearer": [*nearer_of(made.recipe), [key, seed]]})


def _with_stage(made: Take, plan: Plan, stage: Stage, pack: Pack, watch: Watch) -> Take:
    """A take with a further stage painted over it."""
    sheet = stage.edit(made.laid_on(plan.sheet, "take"))
    pixels, region, at = painted(stage, sheet, pack, watch), stage.region(), stage.frame.rect
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


def _to_uint8(picture: np.ndarray) -> np.ndarray:
    return np.asarray(np.clip(picture, 0, 1) * 255 + 0.5, np.uint8)


def painted(stage: Stage, sheet: Sheet, pack: Pack, watch: Watch, size: tuple[int, int] | None = None) -> np.ndarray:
    """What a stage makes of its frame, (h, w, 3) uint8. size: height and width; None: the frame's own on the sheet.

    Raises:
        Stopped: no more was wanted.
    """
    watch.check()
    frame, info = stage.frame, pack.info
    height, width = size or (frame.rect.height, frame.rect.width)
    start, cells = stage.start(sheet, frame), stage.cells(info)
    s_work = stage.strength(frame.height, frame.width)
    s_cells = largest_in_cells(s_work, *cells)
    levels = stage.levels(info, float(s_cells.max()))
    if len(levels) == 1:
        return _to_uint8(np.full((height, width, 3), 0.5, np.float32) if start is None else resize_picture(start, height, width))
    z = np.zeros((info.channels, *cells), np.float32)
    if start is not None:
        z = pack.encode(resize_picture(start, frame.height, frame.width))
    guides = on_frame(sheet, frame, stage.sketches, info)
    z_new = _descended(_Descent(stage, z, s_cells, levels, pack, watch, guides, look_rows(sheet, frame, pack)))
    watch.check()
    where = (s_cells > 0).astype(np.float32)
    made = resize_picture(pack.decode(z_new, where, guides.drawing), height, width)
    if start is not None and stage.settings.carry_detail:
        share = np.maximum(0, 1 - 2 * resize_mask(s_work, height, width))
        if share.any():
            # Drawn alike, so that what hardly changes is hardly changed.
            drawn = resize_picture(pack.decode(z, where, guides.drawing), height, width)
            made = made + share[..., None] * (resize_picture(start, height, width) - drawn)
    return _to_uint8(made)


@dataclass(frozen=True, eq=False)
class _Descent:
    """A stage's way down from noise. z: the latent (C, h, w) of its start picture; s_cells: strengths (h, w); looks: rows for them."""

    stage: Stage
    z: np.ndarray
    s_cells: np.ndarray
    levels: np.ndarray
    pack: Pack
    watch: Watch
    guides: OnFrame
    looks: Rows | None


def _descended(way: _Descent) -> np.ndarray:
    """The latent (C, h, w) at the end of the way down from noise, beginning from that of the start picture."""
    stage, z, s_cells, levels, pack, watch = way.stage, way.z, way.s_cells, way.levels, way.pack, way.watch
    info = pack.info
    schedule, own, first = info.schedule, stage.own_noise(stage.cells(info)), float(levels[0])
    e = with_own_seeds(noise(stage.seed, START, z.shape), own)
    hold = stage.hold
    if hold is not None:
        e = _own_noise(z, levels, pack, watch, stage.cells(info))

    def after(step: int, x: np.ndarray, t: float, x0: np.ndarray) -> np.ndarray:
        watch.step(step, len(levels) - 1, lambda: _preview(np.where(s_cells > 0, x0, z), s_cells, pack), stage.frame.rect)
        x = set_back(x, s_cells, t, z, e, schedule)
        held = 0.0 if hold is None else hold.at(step / (len(levels) - 1))
        return x if not held else np.asarray(x + np.float32(held) * (schedule.noised(z, e, t) - x), np.float32)

    def fresh(step: int) -> np.ndarray:
        # An element with its own seed keeps its own noise here too.
        purpose = ANCESTRAL + step
        return with_own_seeds(noise(stage.seed, purpose, z.shape), [(seed, purpose, m) for seed, _, m in own])

    x = set_back(schedule.noised(z, e, first), s_cells, first, z, e, schedule)
    model = _Guided(way)
    made = sample(model, x, levels, schedule, stage.settings.sampler, after, fresh)
    model.check_all_led()
    return made


def _own_noise(z: np.ndarray, levels: np.ndarray, pack: Pack, watch: Watch, cells: tuple[int, int]) -> np.ndarray:
    """The noise (C, h, w) that a latent comes from: the model, told nothing, run from the picture up to the first level, by the midpoint
    rule (the deterministic way of Song, Meng, Ermon, "Denoising diffusion implicit models", 2021, backwards). The same each time."""
    schedule, nothing = pack.info.schedule, to_rows((), pack, cells)
    kept, hole = np.zeros_like(z), np.ones(cells, np.float32)

    def noise_at(x: np.ndarray, t: float) -> tuple[np.ndarray, np.ndarray]:
        """What is behind a sample, and the noise in it."""
        watch.check()
        x0 = schedule.clean(x, pack.answer(x, kept, hole, t, [nothing])[0], t)
        return x0, (x - np.float32(schedule.alpha(t)) * x0) / np.float32(schedule.sigma(t))

    # Without any noise nothing can be told of it: the way begins just above.
    way = [float(levels[-2]) * FIRST_NOISE, *map(float, levels[-2::-1])]
    x = schedule.noised(z, np.zeros_like(z), way[0])
    for a, b in itertools.pairwise(way):
        middle = (a + b) / 2
        _, e = noise_at(schedule.noised(*noise_at(x, a), middle), middle)
        x = schedule.noised((x - np.float32(schedule.sigma(a)) * e) / np.float32(schedule.alpha(a)), e, b)
    top = float(levels[0])
    return np.asarray((x - np.float32(schedule.alpha(top)) * z) / np.float32(schedule.sigma(top)), np.float32)


def _preview(latent: np.ndarray, s_cells: np.ndarray, pack: Pack) -> np.ndarray:
    """A small picture (h, w, 4) uint8, transparent where nothing changes."""
    small, (h, w) = _to_uint8(pack.preview(latent)), s_cells.shape
    alpha = np.kron(s_cells > 0, np.full((small.shape[0] // h, small.shape[1] // w), 255, np.uint8))
    return np.dstack([small, alpha.astype(np.uint8)])


class _Guided:
    """What the network says is behind a noisy sample, voices joined and guidance added: x0 = x0_away + g (x0_told - x0_away)."""

    def __init__(self, way: _Descent) -> None:
        stage, pack = way.stage, way.pack
        self._pack, self._watch, self._guides = pack, way.watch, way.guides
        heard, cells = stage.voices(pack), stage.cells(pack.info)
        self._told: list[Rows] = [joined(to_rows(v.told, pack, cells), way.looks) for v in heard]
        # Voices that are led away from the same words ask for that only once.
        led = [tuple((line.phrase, line.weight) for line in v.away) for v in heard]
        aways = list(dict.fromkeys(led))
        self._of_voice = [aways.index(words) for words in led]
        self._away: list[Rows] = [to_rows(heard[led.index(words)].away, pack, cells) for words in aways]
        self._shares = _shares(heard)
        # A pack that was not taught to inpaint is asked for everything; `set_back` keeps what has to stay.
        self._hole = (way.s_cells > 0).astype(np.float32) if "inpaint" in pack.info.capabilities else np.ones(cells, np.float32)
        self._kept = way.z * (1 - self._hole)
        self._guidance = np.float32(stage.settings.guidance)
        self._leads = stage.leads(way.levels, pack.info)
        self._asked = 0
        self._lead = np.zeros_like(way.z)

    def __call__(self, x: np.ndarray, t: float) -> np.ndarray:
        self._watch.check()
        if self._asked >= len(self._leads):
            raise AssertionError(f"The sampler asks more often than the {len(self._leads)} times that were foreseen.")
        # The first evaluation is at the beginning of the steps, the last one at their end.
        guides = self._guides.at(self._asked / max(1, len(self._leads) - 1))
        how, self._asked = self._leads[self._asked], self._asked + 1
        asked: Sequence[Rows] = [*self._told, *self._away] if how == "asked" else self._told
        each = [self._pack.info.schedule.clean(x, v, t) for v in self._pack.answer(x, self._kept, self._hole, t, asked, guides)]
        n = len(self._told)
        told = self._joined(each[:n])
        if how == "none":
            return told
        if how == "asked":
            self._lead = told - self._joined([each[n + i] for i in self._of_voice])
        return np.asarray(told + (self._guidance - 1) * self._lead, np.float32)

    def _joined(self, answers: list[np.ndarray]) -> np.ndarray:
        if self._shares is None:
            return answers[0]
        return np.asarray(sum(m * a for m, a in zip(self._shares, answers, strict=True)) / self._shares.sum(0), np.float32)

    def check_all_led(self) -> None:
        """Raises AssertionError where the sampler asked less often than was foreseen, so that guidance led at other levels."""
        if self._asked != len(self._leads):
            raise AssertionError(f"The sampler asked {self._asked} times; {len(self._leads)} were foreseen.")


def _shares(heard: Sequence[Voice]) -> np.ndarray | None:
    """How much each voice says in each cell, (voices, h, w); None where there is one for everything."""
    if heard[0].share is None:
        return None
    shares = np.stack([v.share for v in heard if v.share is not None])
    # Where nobody has a say (a scene weight of 0 between outlines), the scene speaks after all.
    return np.where(shares.sum(0) > 1e-6, shares, np.eye(len(heard), 1)[:, :, None]).astype(np.float32)
