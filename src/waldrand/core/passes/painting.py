"""What a stage makes of its frame: start picture -> latent -> sampler -> picture. It knows samplers and packs, and no kind of pass."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from scipy import ndimage

from ..noise.noise import ANCESTRAL, START, with_own_seeds
from ..noise.samplers import sample
from ..packs import Guides, Pack, Rows
from ..picture.inking import inked
from ..picture.resample import largest_in_cells, resize_mask, resize_picture
from ..picture.spread import spread
from ..told.guides import OnFrame, drawn_lines, joined, look_rows, on_frame, sketched_lines
from ..told.voices import Voice, to_rows
from ..values.sheet import Sheet
from .falling import fallen, lit
from .fitting import ANEW
from .shadows import shaded
from .stage import Stage
from .strength import set_back
from .telling import where_told
from .watch import Watch

#: Where the way up from a picture begins, in shares of the lowest level of its way down.
FIRST_NOISE = 0.25
#: How much of guidance leads on near a drawing where it leads no more elsewhere: in full, things get a seam of uneven ground.
LEADS_ON = 0.5
#: From this strength on everywhere, all of a picture is painted anew.
ALL_ANEW = 0.51


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
    own = None if stage.drawn is None else stage.drawn(sheet, frame)
    guides = on_frame(sheet, frame, stage.sketches, info, stage.grounds, own)
    z_new = _descended(_Descent(stage, z, s_cells, levels, pack, watch, guides, look_rows(sheet, frame, pack)))
    watch.check()
    where = (s_cells > 0).astype(np.float32)
    made = resize_picture(pack.decode(z_new, where, guides.drawing, stage.settings.quick), height, width)
    if start is not None and stage.settings.carry_detail:
        share = np.maximum(0, 1 - 2 * resize_mask(s_work, height, width))
        if share.any():
            # Drawn alike, so that what hardly changes is hardly changed.
            drawn = resize_picture(pack.decode(z, where, guides.drawing, stage.settings.quick), height, width)
            made = made + share[..., None] * (resize_picture(start, height, width) - drawn)
    made = stage.finish(made, sheet, frame)
    anew = np.ones((height, width), np.float32)
    if s_work.min() < ALL_ANEW:
        anew = np.minimum(anew, 2 * resize_mask(s_work, height, width))
    if stage.shadows:
        made = shaded(made, stage.shadows, frame.rect, anew)
    rims = None
    if stage.settings.weather:
        made, rims = fallen(lit(made, stage, s_work), stage, sheet, pack, s_work)
    # What grounds and the picture itself draw is told, but not gone over.
    if stage.settings.ink and _draws(stage):
        lines = drawn_lines(sheet, frame.rect, stage.sketches, height, width)
        made = inked(made, lines, stage.settings.ink * anew)
    return _to_uint8(_in_looks(made, stage, sheet, pack, anew, rims) if stage.settings.paper else made)


def _in_looks(made: np.ndarray, stage: Stage, sheet: Sheet, pack: Pack, anew: np.ndarray, rims: np.ndarray | None) -> np.ndarray:
    """A picture (h, w, 3) float32 as even, with the ink and on the paper of the looks that are told; anew: (h, w) 0..1, how far each place
    is painted anew; rims: lines (h, w) 0..1 round what falls before it."""
    (height, width), rect = made.shape[:2], stage.frame.rect
    for even in pack.info.evens:
        where = where_told(even.look, stage, pack)
        if where.any():
            made = even.evened(made, rect, resize_mask(where, height, width) * anew)
    for ink in pack.info.inks:
        where = where_told(ink.look, stage, pack)
        if where.any() and (_draws(stage) or rims is not None):
            lines = np.zeros((height, width), np.float32) if rims is None else rims
            if _draws(stage):
                lines = np.maximum(lines, drawn_lines(sheet, rect, stage.sketches, height, width))
                lines = np.maximum(lines, sketched_lines(stage.grounds, rect, height, width))
            made = ink.over(made, lines, resize_mask(where, height, width) * anew)
    for grain in pack.info.grains:
        where = where_told(grain.look, stage, pack)
        if where.any():
            made = grain.laid(made, rect, resize_mask(where, height, width) * anew)
    return made


def _draws(stage: Stage) -> bool:
    """Whether something is drawn that the picture does not show already, by its own lines."""
    return stage.drawn is None or stage.strongest >= ANEW or bool(stage.sketches or stage.grounds)


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
    e = with_own_seeds(stage.noise(START, z.shape), own)
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
        return with_own_seeds(stage.noise(purpose, z.shape), [(seed, purpose, m) for seed, _, m in own])

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
    """What the network says is behind a noisy sample, voices joined and guidance added: x0 = x0_away + g (x0_told - x0_away). What
    guidance leads away from is told less of the drawing, or nothing, so that the drawing leads too."""

    def __init__(self, way: _Descent) -> None:
        stage, pack = way.stage, way.pack
        self._pack, self._watch, self._guides = pack, way.watch, way.guides
        heard, cells = stage.voices(pack), stage.cells(pack.info)
        self._told: list[Rows] = [joined(to_rows(v.told, pack, cells), way.looks) for v in heard]
        # Voices that are led away from the same words ask for that only once.
        led = [tuple((line.phrase, line.weight) for line in v.away) for v in heard]
        aways = list(dict.fromkeys(led))
        self._of_voice = [aways.index(words) for words in led]
        self._guidance, self._drawing_leads = np.float32(stage.settings.guidance), np.float32(stage.settings.drawing_guidance)
        # Told less of a drawing, or none, while told that there is one, so that grounds without lines are left out of it.
        drawn = max(0.0, 1 - stage.settings.drawing_guidance)
        self._away: list[Rows] = [replace(to_rows(heard[led.index(words)].away, pack, cells), drawn=drawn) for words in aways]
        self._shares = _shares(heard)
        # A pack that was not taught to inpaint is asked for everything; `set_back` keeps what has to stay.
        self._hole = (way.s_cells > 0).astype(np.float32) if "inpaint" in pack.info.capabilities else np.ones(cells, np.float32)
        self._kept = way.z * (1 - self._hole)
        self._leads = stage.leads(way.levels, pack.info, way.guides.drawing is not None)
        self._told_level = partial(stage.told_level, pack.info)
        self._quick, self._ahead = stage.settings.quick, np.float32(pack.info.quick.ahead)
        self._before: np.ndarray | None = None
        self._asked = 0
        self._lead = np.zeros_like(way.z)

    def __call__(self, x: np.ndarray, t: float) -> np.ndarray:
        self._watch.check()
        if self._asked >= len(self._leads):
            raise AssertionError(f"The sampler asks more often than the {len(self._leads)} times that were foreseen.")
        # The first evaluation is at the beginning of the steps, the last one at their end.
        n = len(self._leads)
        share = self._asked / max(1, n - 1)
        guides, level = self._guides.at(share), self._told_level(t, (self._asked + 0.5) / n)
        if "guidance" in self._pack.info.capabilities:
            guides = replace(guides or Guides(), guidance=float(self._guidance))
        how, self._asked = self._leads[self._asked], self._asked + 1
        # Grounds would get motley by it.
        lines = None if guides is None else guides.lines_of_things
        each = self._behind(x, t, level, [*self._told, *(self._away if how == "asked" else ())], guides)
        answer, away = self._joined(each[: len(self._told)]), each[len(self._told) :]
        if how == "asked":
            self._lead = answer - self._joined([away[i] for i in self._of_voice])
        before, self._before = self._before, answer
        led = answer
        if how in ("asked", "kept"):
            # So strictly, in one of a few steps, grounds would become motley, and things get coloured rims.
            where = self._guides.of_things(share) if self._quick else np.float32(1)
            led = answer + (self._guidance - 1) * where * self._lead
        elif how == "near" and lines is not None:
            led = answer + (self._guidance - 1) * LEADS_ON * self._drawing_leads * _near(lines, answer.shape[1:]) * self._lead
        if self._quick and before is not None:
            # Few steps leave what the model is not sure of pale and vague; what each answer makes clearer is made so further.
            led = led + self._ahead * (answer - before)
        return np.asarray(led, np.float32)

    def _behind(self, x: np.ndarray, t: float, level: float, asked: Sequence[Rows], guides: Guides | None) -> list[np.ndarray]:
        """What is behind a sample by each set of rows. level: what the network is told of its noise."""
        answers = self._pack.answer(x, self._kept, self._hole, level, asked, guides)
        return [self._pack.info.schedule.clean(x, v, t) for v in answers]

    def _joined(self, answers: list[np.ndarray]) -> np.ndarray:
        if self._shares is None:
            return answers[0]
        return np.asarray(sum(m * a for m, a in zip(self._shares, answers, strict=True)) / self._shares.sum(0), np.float32)

    def check_all_led(self) -> None:
        """Raises AssertionError where the sampler asked less often than was foreseen, so that guidance led at other levels."""
        if self._asked != len(self._leads):
            raise AssertionError(f"The sampler asked {self._asked} times; {len(self._leads)} were foreseen.")


def _near(lines: np.ndarray, cells: tuple[int, ...]) -> np.ndarray:
    """How near to a drawing (4 h, 4 w) each cell lies, (h, w) 0..1: 1 with a line in it or beside it."""
    with_line = largest_in_cells(lines, *cells)
    return np.asarray(np.minimum(1, 2 * ndimage.uniform_filter(spread(with_line, 1), 3)), np.float32)


def _shares(heard: Sequence[Voice]) -> np.ndarray | None:
    """How much each voice says in each cell, (voices, h, w); None where there is one for everything."""
    if heard[0].share is None:
        return None
    shares = np.stack([v.share for v in heard if v.share is not None])
    # Where nobody has a say (a scene weight of 0 between outlines), the scene speaks after all.
    return np.where(shares.sum(0) > 1e-6, shares, np.eye(len(heard), 1)[:, :, None]).astype(np.float32)
