"""Rolling again what missed its outline, until it lands."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from threading import Event

from .found import Score, finder_of, placement
from .noise import LARGEST_SEED
from .pack import Pack
from .plan import Plan, plan
from .run import Progress, Take, run_take
from .sheet import Sheet

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
        sheet = sheet.with_element(replace(sheet.element(key), seed=seed))
    return sheet


def run_until_landed(
    p: Plan, pack: Pack, seed: int, tries: int, progress: Progress | None = None, stop: Event | None = None, take: int = 0, takes: int = 1
) -> Tried:
    """A take of which what missed gets other noise, at most `tries` times. What landed keeps its noise; the best of all is returned.
    take, takes: for the progress, which begins anew with each try.

    Raises:
        ValueError: the pack has no finder.
        Stopped: `stop` was set.
    """
    finder_of(pack)

    def tried(of: Plan, n: int) -> Tried:
        made = run_take(of, pack, seed, progress, stop, take, takes)
        return Tried(made, of, tuple(placement(made.laid_on(of.sheet, "take").flatten(), of.sheet, pack)), n)

    best = tried(p, 0)
    n = 0
    while best.missed and n < tries:
        n += 1
        seeds = dict.fromkeys(best.missed, (seed + STRIDE * n) % (LARGEST_SEED + 1))
        other = tried(plan(with_seeds(best.sheet, seeds), p.request, pack), n)
        best = max(best, other, key=lambda t: t.worth)
    return replace(best, tries=n)
