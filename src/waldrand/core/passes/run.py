"""Runs a planned pass: sheet -> latent -> sampler -> take."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from threading import Event
from typing import Any

import numpy as np

from ..noise.guidance import leads
from ..noise.levels import spaced_levels
from ..noise.noise import ANCESTRAL, START, noise, with_own_seeds
from ..noise.samplers import evaluations, sample
from ..packs import Pack
from ..picture.composite import edge_alpha, lay_over
from ..picture.infill import push_pull
from ..picture.resample import largest_in_cells, resize_mask, resize_picture
from ..refused import Refused
from ..told.voices import element_masks, mask_outline, to_rows, voices
from ..values.frame import Rect, WorkFrame
from ..values.sheet import Patch, Sheet
from .fitting import figure_in_mask, with_figures
from .nearer import nearer_pass, room_of
from .plan import Plan
from .plan import plan as plan_pass
from .recipe import recipe_of
from .request import KEPT_FEATHER
from .strength import set_back, strength_map


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


@dataclass(frozen=True, eq=False)
class Take:
    """pixels: (h, w, 3) uint8, the whole frame at the sheet's own resolution; region: (h, w) uint8, painted
    where above 0; seed and recipe: how it was made."""

    frame: Rect
    pixels: np.ndarray
    region: np.ndarray
    seed: int
    recipe: dict[str, Any]

    def to_patch(self, key: int, name: str) -> Patch:
        """The take as a layer. An edge is feathered only where there is one inside the sheet."""
        partial = not bool((self.region > 0).all())
        return Patch(key, name, self.frame, self.pixels, self.region, feather=KEPT_FEATHER if partial else 0.0, recipe=self.recipe)

    def laid_on(self, sheet: Sheet, name: str) -> Sheet:
        """The sheet with the take as its topmost layer."""
        return sheet.with_layer(self.to_patch(sheet.next_key(), name))


Progress = Callable[[Step], None]


def _to_uint8(picture: np.ndarray) -> np.ndarray:
    return np.asarray(np.clip(picture, 0, 1) * 255 + 0.5, np.uint8)


def run_take(
    plan: Plan, pack: Pack, seed: int, progress: Progress | None = None, stop: Event | None = None, take: int = 0, takes: int = 1
) -> Take:
    """One take. The same plan, pack and seed give the same pixels, whatever ran before.

    Raises:
        Refused: an element that shall be painted from nearer cannot be.
        Stopped: `stop` was set.
    """
    made = _painted(replace(plan, request=replace(plan.request, nearer=())), pack, seed, progress, stop, take, takes)
    for key, own in plan.request.nearer_by(seed):
        made = run_nearer(made, plan, pack, key, own, progress, stop, take, takes)
    return made


def run_nearer(
    made: Take,
    plan: Plan,
    pack: Pack,
    key: int,
    seed: int,
    progress: Progress | None = None,
    stop: Event | None = None,
    take: int = 0,
    takes: int = 1,
) -> Take:
    """A take of the whole plan with one element painted once more from nearer; all that lies apart from it stays bit for bit.

    Raises:
        Refused: the element is not there, has no words, or cannot be seen.
        Stopped: `stop` was set.
    """
    near = plan_pass(*nearer_pass(plan.sheet, plan.request, made.laid_on(plan.sheet, "take"), key), pack)
    mend = _painted(near, pack, seed, progress, stop, take, takes)
    assert near.sheet.mask is not None
    at = near.frame.rect
    below = np.dstack([made.pixels[at.slices], np.full((at.height, at.width), 255, np.uint8)])
    pixels = made.pixels.copy()
    pixels[at.slices] = lay_over(below, mend.pixels, edge_alpha(mend.region, feather=room_of(near.sheet.mask.box())))[..., :3]
    return replace(made, pixels=pixels, recipe=made.recipe | {"nearer": [*made.recipe["nearer"], [key, seed]]})


def _painted(plan: Plan, pack: Pack, seed: int, progress: Progress | None, stop: Event | None, take: int, takes: int) -> Take:
    sheet, request, frame, info = plan.sheet, plan.request, plan.frame, pack.info
    schedule, settings = info.schedule, request.settings
    rect, cells = frame.rect, (frame.height // info.cell, frame.width // info.cell)
    below = sheet.flatten(rect)
    start = below[..., :3].astype(np.float32) / 255
    if sheet.has_picture:
        start = push_pull(start, below[..., 3].astype(np.float32) / 255)

    masks = element_masks(sheet, frame)
    s_work = strength_map(sheet, request, frame, frame.height, frame.width, masks)
    s_cells = largest_in_cells(s_work, *cells)
    shaped, outlines, place = sheet, masks, None
    if request.kind == "inpaint":
        place = figure_in_mask(mask_outline(s_work, cells), sheet, request, pack, seed)
    else:
        shaped = with_figures(sheet, request, pack, seed)
        outlines = masks if shaped is sheet else element_masks(shaped, frame)
    heard = voices(shaped, request, frame, outlines, place, pack, plan.method)
    told = [to_rows(v.told, pack, cells) for v in heard]
    # Voices that are led away from the same words ask for that only once.
    led = [tuple((line.phrase, line.weight) for line in v.away) for v in heard]
    aways = list(dict.fromkeys(led))
    of_voice = [aways.index(words) for words in led]
    away = [to_rows(heard[led.index(words)].away, pack, cells) for words in aways]
    shares = None if heard[0].share is None else np.stack([v.share for v in heard if v.share is not None])
    # Where nobody has a say (a scene weight of 0 between outlines), the scene speaks after all.
    mixed = None if shares is None else np.where(shares.sum(0) > 1e-6, shares, np.eye(len(heard), 1)[:, :, None]).astype(np.float32)
    z = (
        pack.encode(resize_picture(start, frame.height, frame.width))
        if sheet.has_picture
        else np.zeros((info.channels, *cells), np.float32)
    )
    own = [
        (e.seed, resize_mask(m, *cells))
        for e, m in zip(sheet.elements, masks, strict=True)
        if e.seed is not None and request.kind != "inpaint"
    ]
    e = with_own_seeds(noise(seed, START, z.shape), own)
    # A pack that was not taught to inpaint is asked for everything; `set_back` keeps what has to stay.
    hole = (s_cells > 0).astype(np.float32) if "inpaint" in info.capabilities else np.ones(cells, np.float32)
    kept = z * (1 - hole)
    levels = spaced_levels(settings.steps, float(s_cells.max()), settings.spacing or info.spacing)
    guidance = np.float32(settings.guidance)
    coming = iter(leads(evaluations(levels, schedule, settings.sampler), request, info))
    lead = np.zeros_like(z)

    def check() -> None:
        if stop is not None and stop.is_set():
            raise Stopped

    def heard_together(answers: list[np.ndarray]) -> np.ndarray:
        if mixed is None:
            return answers[0]
        return np.asarray(sum(m * a for m, a in zip(mixed, answers, strict=True)) / mixed.sum(0), np.float32)

    def denoise(x: np.ndarray, t: float) -> np.ndarray:
        check()
        nonlocal lead
        how = next(coming)
        asked = [*told, *away] if how == "asked" else told
        each = [schedule.clean(x, v, t) for v in pack.answer(x, kept, hole, t, asked)]
        a = heard_together(each[: len(told)])
        if how == "none":
            return a
        if how == "asked":
            lead = a - heard_together([each[len(told) + i] for i in of_voice])
        return np.asarray(a + (guidance - 1) * lead, np.float32)

    def after(step: int, x: np.ndarray, t: float, x0: np.ndarray) -> np.ndarray:
        check()
        if progress is not None:
            shown = np.where(s_cells > 0, x0, z)
            small = _to_uint8(pack.preview(shown))
            alpha = np.kron(s_cells > 0, np.full((small.shape[0] // cells[0], small.shape[1] // cells[1]), 255, np.uint8))
            progress(Step(take, takes, step, len(levels) - 1, np.dstack([small, alpha.astype(np.uint8)]), rect))
        return set_back(x, s_cells, t, z, e, schedule)

    check()
    if len(levels) == 1:
        pixels = _to_uint8(start)
    else:
        x = set_back(schedule.noised(z, e, float(levels[0])), s_cells, float(levels[0]), z, e, schedule)

        def fresh(step: int) -> np.ndarray:
            # An element with its own seed keeps its own noise here too.
            return with_own_seeds(noise(seed, ANCESTRAL + step, z.shape), own, ANCESTRAL + step)

        z_new = sample(denoise, x, levels, schedule, settings.sampler, after, fresh)
        check()
        painted = (s_cells > 0).astype(np.float32)
        made = resize_picture(pack.decode(z_new, painted), rect.height, rect.width)
        if sheet.has_picture and settings.carry_detail:
            s = resize_mask(s_work, rect.height, rect.width)
            share = np.maximum(0, 1 - 2 * s)
            if share.any():
                # Drawn alike, so that what hardly changes is hardly changed.
                made = made + share[..., None] * (start - resize_picture(pack.decode(z, painted), rect.height, rect.width))
        pixels = _to_uint8(made)
    region = _region(plan)
    return Take(rect, pixels, region, seed, recipe_of(plan, seed, below))


def _region(plan: Plan) -> np.ndarray:
    """Where the take may show, at the sheet's resolution: wherever its strength is above 0."""
    sheet, rect = plan.sheet, plan.frame.rect
    full = WorkFrame(rect, rect.width, rect.height)
    masks = element_masks(sheet, full) if any(e.strength is not None for e in sheet.elements) else None
    strength = strength_map(sheet, plan.request, full, rect.height, rect.width, masks)
    return np.where(strength > 0, 255, 0).astype(np.uint8)


def run(plan: Plan, pack: Pack, takes: int = 1, progress: Progress | None = None, stop: Event | None = None) -> Iterator[Take]:
    """Takes with rising seeds, one after another; each is finished when it is yielded.

    Raises:
        Refused: less than one take, or seeds that rise too high.
        Stopped: `stop` was set; takes yielded before stay good.
    """
    for i, seed in enumerate(seeds_of(plan, takes)):
        yield run_take(plan, pack, seed, progress, stop, i, takes)


def seeds_of(plan: Plan, takes: int) -> range:
    """The rising seeds of so many takes.

    Raises:
        Refused: less than one take, or seeds that rise too high.
    """
    if takes < 1:
        raise Refused(f"Ask for at least one take, not {takes}.")
    first = plan.request.settings.seed
    # Refuses a last seed that is too high before the first take costs time.
    replace(plan.request.settings, seed=first + takes - 1)
    return range(first, first + takes)
