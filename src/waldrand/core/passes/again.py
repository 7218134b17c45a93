"""Another chance for what missed its outline, until it lands."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from ..noise.noise import LARGEST_SEED
from ..packs import Pack
from ..seen.find import finder_of
from ..seen.score import Score, placement
from ..values.sheet import Sheet
from .nearer import nearer_mask
from .plan import Plan, plan
from .request import Request
from .run import run_nearer, run_take
from .take import Take
from .watch import Watch
from .whole import outside_frame

#: Between the seeds of an element's tries, so that they are not those of the takes next to this one.
STRIDE = 1000


@dataclass(frozen=True, eq=False)
class Tried:
    """The best take there was; the plan it was painted by, whose elements have the seeds that did it; how they landed; how often
    it was tried again."""

    take: Take
    plan: Plan
    scores: tuple[Score, ...]
    tries: int

    @property
    def sheet(self) -> Sheet:
        """What it was painted from."""
        return self.plan.sheet

    @property
    def missed(self) -> tuple[int, ...]:
        """Keys of the elements that did not land."""
        return tuple(s.key for s in self.scores if not s.landed)

    @property
    def worth(self) -> tuple[int, float]:
        """To compare takes by: first how many landed, then how well."""
        return len(self.scores) - len(self.missed), sum(s.score for s in self.scores)


def with_seeds(sheet: Sheet, seeds: Mapping[int, int]) -> Sheet:
    """The sheet with other noise inside some elements, given by key."""
    for key, seed in seeds.items():
        sheet = sheet.with_element(replace(sheet.element(key), seed=seed, take_noise=False))
    return sheet


def rolled(sheet: Sheet, request: Request, seeds: Mapping[int, int]) -> tuple[Sheet, Request]:
    """A pass with other noise inside some elements, given by key; what was painted over them from nearer is left out."""
    return with_seeds(sheet, seeds), replace(request, nearer=tuple(one for one in request.nearer if one[0] not in seeds))


def from_nearer(request: Request, seeds: Mapping[int, int | None]) -> Request:
    """A pass with some elements, given by key, painted once more from nearer, over what it paints already."""
    return replace(request, nearer=(*request.nearer, *seeds.items()))


def next_nearer(request: Request, key: int) -> int | None:
    """The seed by which an element of a pass is painted from nearer the next time: first the take's own (None), then one after another."""
    before = [own for k, own in request.nearer if k == key]
    if not before:
        return None
    return ((request.settings.seed if before[-1] is None else before[-1]) + 1) % (LARGEST_SEED + 1)


def missed_again(p: Plan, scores: Sequence[Score], seeds: Mapping[int, int]) -> tuple[Sheet, Request]:
    """What to ask for so that what missed in a take gets another chance. What was found, but elsewhere, gets other noise; what was not
    found at all is painted again from nearer, and the rest stays bit for bit. seeds: by the keys of what missed.
    """
    astray = {s.key for s in scores if not s.landed and (s.found or nearer_mask(p.sheet, s.key).empty)}
    missed = {s.key for s in scores if not s.landed}
    sheet, request = rolled(p.sheet, p.request, {k: seeds[k] for k in seeds if k in astray})
    return sheet, from_nearer(request, {k: seeds[k] for k in seeds if k in missed - astray})


def run_until_landed(p: Plan, pack: Pack, seed: int, tries: int, watch: Watch | None = None) -> Tried:
    """A take of which what missed gets another chance (`missed_again`), at most `tries` times; the best of all is returned. The progress
    begins anew with each try.

    Raises:
        Refused: the pack has no finder.
        Stopped: no more was wanted.
    """
    finder_of(pack)

    def judged(made: Take, of: Plan, n: int) -> Tried:
        out = {e.key for e in outside_frame(of.sheet, of.request)}
        # What was not painted is not judged.
        judged_by = replace(of.sheet, elements=tuple(e for e in of.sheet.elements if e.key not in out))
        return Tried(made, of, tuple(placement(made.laid_on(of.sheet, "take").flatten(), judged_by, pack)), n)

    def tried(of: Plan, before: Tried, n: int) -> Tried:
        if [e.seed for e in of.sheet.elements] != [e.seed for e in before.sheet.elements]:
            return judged(run_take(of, pack, seed, watch), of, n)
        # The whole is the same: only what is painted from nearer comes on top.
        made = before.take
        for key, own in of.request.nearer_by(seed)[len(before.plan.request.nearer) :]:
            made = run_nearer(made, of, pack, key, own, watch)
        return judged(made, of, n)

    best = judged(run_take(p, pack, seed, watch), p, 0)
    n = 0
    while best.missed and n < tries:
        n += 1
        fresh = (seed + STRIDE * n) % (LARGEST_SEED + 1)
        sheet, request = missed_again(best.plan, best.scores, dict.fromkeys(best.missed, fresh))
        other = tried(plan(sheet, request, pack), best, n)
        best = max(best, other, key=lambda t: t.worth)
    return replace(best, tries=n)
