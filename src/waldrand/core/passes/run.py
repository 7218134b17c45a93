"""Runs a planned pass, stage by stage: sheet -> latent -> sampler -> take. It knows stages, samplers and packs, and no kind of pass."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from threading import Event

import numpy as np

from ..noise.noise import ANCESTRAL, START, noise, with_own_seeds
from ..noise.samplers import sample
from ..packs import Pack, Rows
from ..picture.composite import lay_over
from ..picture.patch_edge import edge_alpha
from ..picture.resample import largest_in_cells, resize_mask, resize_picture
from ..refused import Refused
from ..told.voices import Voice, to_rows
from ..values.frame import Rect
from ..values.sheet import Sheet
from ..worded import worded
from .plan import Plan
from .recipe import nearer_of, recipe_of
from .stage import Stage
from .strength import set_back
from .take import Take
from .whole import nearer_stage


class Stopped(Exception):
    """The artist stopped the pass; nothing has changed."""


@dataclass(frozen=True, eq=False)
class Step:
    """Progress: take (from 0) of takes, step of steps, and a small preview (h, w, 4) uint8 of a frame,
    transparent where the pass changes nothing."""

    take: int
    takes: int
    step: int
    steps: int
    preview: np.ndarray
    frame: Rect


Progress = Callable[[Step], None]


@dataclass(frozen=True, eq=False)
class Watch:
    """Whoever waits for takes. progress: told of every step; stop: set when no more is wanted; take, takes: which of how many this is."""

    progress: Progress | None = None
    stop: Event | None = None
    take: int = 0
    takes: int = 1

    def check(self) -> None:
        """Raises Stopped when no more is wanted."""
        if self.stop is not None and self.stop.is_set():
            raise Stopped

    def step(self, step: int, steps: int, preview: Callable[[], np.ndarray], frame: Rect) -> None:
        """Tells of a step done, if anybody wants to know."""
        self.check()
        if self.progress is not None:
            self.progress(Step(self.take, self.takes, step, steps, preview(), frame))


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
    first, *others = plan.stages_by(seed, pack)
    sheet = first.edit(plan.sheet)
    made = Take(
        first.frame.rect, painted(first, sheet, pack, watch), first.region(), seed, recipe_of(plan, seed), plan.sheet.extent, first.feather
    )
    for stage in others:
        made = _with_stage(made, plan, stage, pack, watch)
    return made


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
    z_new = _descended(stage, z, s_cells, levels, pack, watch)
    watch.check()
    where = (s_cells > 0).astype(np.float32)
    made = resize_picture(pack.decode(z_new, where), height, width)
    if start is not None and stage.settings.carry_detail:
        share = np.maximum(0, 1 - 2 * resize_mask(s_work, height, width))
        if share.any():
            # Drawn alike, so that what hardly changes is hardly changed.
            drawn = resize_picture(pack.decode(z, where), height, width)
            made = made + share[..., None] * (resize_picture(start, height, width) - drawn)
    return _to_uint8(made)


def _descended(stage: Stage, z: np.ndarray, s_cells: np.ndarray, levels: np.ndarray, pack: Pack, watch: Watch) -> np.ndarray:
    """The latent (C, h, w) at the end of the way down from noise, beginning from that of the start picture."""
    info = pack.info
    schedule, own, first = info.schedule, stage.own_noise(stage.cells(info)), float(levels[0])
    e = with_own_seeds(noise(stage.seed, START, z.shape), own)

    def after(step: int, x: np.ndarray, t: float, x0: np.ndarray) -> np.ndarray:
        watch.step(step, len(levels) - 1, lambda: _preview(np.where(s_cells > 0, x0, z), s_cells, pack), stage.frame.rect)
        return set_back(x, s_cells, t, z, e, schedule)

    def fresh(step: int) -> np.ndarray:
        # An element with its own seed keeps its own noise here too.
        purpose = ANCESTRAL + step
        return with_own_seeds(noise(stage.seed, purpose, z.shape), [(seed, purpose, m) for seed, _, m in own])

    x = set_back(schedule.noised(z, e, first), s_cells, first, z, e, schedule)
    model = _Guided(stage, z, s_cells, levels, pack, watch)
    made = sample(model, x, levels, schedule, stage.settings.sampler, after, fresh)
    model.check_all_led()
    return made


def _preview(latent: np.ndarray, s_cells: np.ndarray, pack: Pack) -> np.ndarray:
    """A small picture (h, w, 4) uint8, transparent where nothing changes."""
    small, (h, w) = _to_uint8(pack.preview(latent)), s_cells.shape
    alpha = np.kron(s_cells > 0, np.full((small.shape[0] // h, small.shape[1] // w), 255, np.uint8))
    return np.dstack([small, alpha.astype(np.uint8)])


class _Guided:
    """What the network says is behind a noisy sample, voices joined and guidance added: x0 = x0_away + g (x0_told - x0_away)."""

    def __init__(self, stage: Stage, z: np.ndarray, s_cells: np.ndarray, levels: np.ndarray, pack: Pack, watch: Watch) -> None:
        self._pack, self._watch = pack, watch
        heard, cells = stage.voices(pack), stage.cells(pack.info)
        self._told: list[Rows] = [to_rows(v.told, pack, cells) for v in heard]
        # Voices that are led away from the same words ask for that only once.
        led = [tuple((line.phrase, line.weight) for line in v.away) for v in heard]
        aways = list(dict.fromkeys(led))
        self._of_voice = [aways.index(words) for words in led]
        self._away: list[Rows] = [to_rows(heard[led.index(words)].away, pack, cells) for words in aways]
        self._shares = _shares(heard)
        # A pack that was not taught to inpaint is asked for everything; `set_back` keeps what has to stay.
        self._hole = (s_cells > 0).astype(np.float32) if "inpaint" in pack.info.capabilities else np.ones(cells, np.float32)
        self._kept = z * (1 - self._hole)
        self._guidance = np.float32(stage.settings.guidance)
        self._leads = stage.leads(levels, pack.info)
        self._asked = 0
        self._lead = np.zeros_like(z)

    def __call__(self, x: np.ndarray, t: float) -> np.ndarray:
        self._watch.check()
        if self._asked >= len(self._leads):
            raise AssertionError(f"The sampler asks more often than the {len(self._leads)} times that were foreseen.")
        how, self._asked = self._leads[self._asked], self._asked + 1
        asked: Sequence[Rows] = [*self._told, *self._away] if how == "asked" else self._told
        each = [self._pack.info.schedule.clean(x, v, t) for v in self._pack.answer(x, self._kept, self._hole, t, asked)]
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
