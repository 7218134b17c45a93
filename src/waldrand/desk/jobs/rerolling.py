"""Takes made once more with something else in them, and their settings and noise taken over."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace

from ...core.passes.again import from_nearer, missed_again, rolled, with_seeds
from ...core.passes.request import Request
from ...core.values.element import Element
from ...core.values.sheet import Sheet
from ...core.worded import worded
from ..columns.tray import TrayTake
from .passes import Passes, again_by
from .runner import Job, Work


class Rerolling:
    """What begins from a take that is there."""

    def __init__(self, passes: Passes) -> None:
        self._passes = passes
        self.document, self.tray, self.view, self.say = passes.document, passes.tray, passes.view, passes.say
        self.tray.seed_wanted.connect(self.use)
        self.tray.reroll_wanted.connect(self.reroll)

    def use(self) -> None:
        """The next pass takes over the shown take's seed, settings and strength."""
        entry = self.tray.current
        if entry is not None:
            request = again_by(entry.plan, entry.take.seed)
            self.document.set_draft(self.document.draft.asking_for(request), worded("take over settings"), "")

    def use_for_chosen(self) -> None:
        """The chosen elements keep the noise they have in the shown take, whatever seed comes next."""
        entry, sheet = self.tray.current, self.document.sheet
        if entry is None or not self.view.selection.keys:
            self.say(worded("Step to a take, and choose the elements that shall keep their noise."))
            return
        had = {e.key: e for e in entry.plan.sheet.elements}
        names = []
        for e in sheet.elements:
            if e.key in self.view.selection.keys and e.key in had:
                own = had[e.key]
                # Without a seed of its own it had the take's noise, and has that again.
                kept = (entry.take.seed, True) if own.seed is None else (own.seed, own.take_noise)
                sheet = sheet.with_element(replace(e, seed=kept[0], take_noise=kept[1]))
                names.append(f"“{e.name}”")
        if names:
            self.document.edit(sheet, worded("seed of {0}", ", ".join(names)))

    def reroll(self) -> None:
        """The shown take once more with another seed: inside the chosen elements alone, or the one under the pointer; else the whole."""
        entry = self.tray.current
        if entry is None:
            self.say(worded("Step to the take that shall be rolled again."))
            return
        chosen = self._chosen_in(entry)
        if chosen:
            seeds = self._fresh_seeds(entry, {e.key for e in chosen})
            self._submit_changed(entry, *rolled(entry.plan.sheet, entry.plan.request, seeds), "re-roll", seeds)
            return
        seed = self._passes.next_seed(entry.take.seed)
        again = self._passes.plan(entry.plan.sheet, again_by(entry.plan, seed))
        if again is not None:
            self._passes.submit(Job(worded("re-roll, seed {0}", seed), (Work(again, seed, "re-rolled"),)))

    def _chosen_in(self, entry: TrayTake) -> Sequence[Element]:
        """The chosen elements of a take, else the one under the pointer, where its kind of pass hears elements."""
        hears, keys = entry.plan.kind.hears_elements, self.view.selection.keys
        if not keys and self.view.underMouse() and self.view.canvas.hovered is not None:
            keys = (self.view.canvas.hovered,)
        return [e for e in entry.plan.sheet.elements if hears and e.key in keys]

    def reroll_missed(self) -> None:
        """The shown take with another chance for what missed: painted from nearer if it was not found, with other noise if it strayed."""
        entry = self.tray.current
        if entry is None:
            self.say(worded("Step to the take of which what missed shall have another chance."))
            return
        missed = {s.key for s in entry.scores if not s.landed}
        if not entry.scores:
            self.say(worded("Nothing in this take was judged: its pass has no elements whose words the finder knows."))
        elif not missed:
            self.say(worded("Everything that was judged landed in this take."))
        else:
            seeds = self._fresh_seeds(entry, missed)
            self._submit_changed(entry, *missed_again(entry.plan, entry.scores, seeds), worded("try again"), seeds)

    def paint_nearer(self) -> None:
        """The chosen elements of the shown take painted over, each in a frame of its own, so that small things get many pixels."""
        entry = self.tray.current
        chosen = set() if entry is None else {e.key for e in self._chosen_in(entry)}
        if entry is None or not chosen:
            self.say(worded("Step to a take of the whole, and choose the elements that shall be painted from nearer."))
            return
        # The first time it becomes finer, then another one.
        again = {k for k in chosen if any(key == k for key, _ in entry.plan.request.nearer)}
        seeds: dict[int, int | None] = dict.fromkeys(chosen - again) | self._fresh_seeds(entry, again)
        self._submit_changed(entry, entry.plan.sheet, from_nearer(entry.plan.request, seeds), worded("from nearer"), seeds)

    def _fresh_seeds(self, entry: TrayTake, keys: Collection[int]) -> dict[int, int]:
        """By key, for each element one that no take here has used."""
        seeds: dict[int, int] = {}
        for e in entry.plan.sheet.elements:
            if e.key in keys:
                seeds[e.key] = self._passes.next_seed(e.seed if e.seed is not None else entry.take.seed)
                self._passes.use_seed(seeds[e.key])
        return seeds

    def _submit_changed(self, entry: TrayTake, sheet: Sheet, request: Request, what: str, keys: Collection[int]) -> None:
        """A take once more with something else in some elements; noise that is theirs from now on is the document's too."""
        document = self.document.sheet
        names = ", ".join(f"“{e.name}”" for e in sheet.elements if e.key in keys)
        request = replace(request, settings=replace(request.settings, seed=entry.take.seed))
        again = self._passes.plan(sheet, request)
        if again is None:
            return
        new = {e.key: e.seed for e, old in zip(sheet.elements, entry.plan.sheet.elements, strict=True) if e.seed != old.seed}
        changed = {e.key: s for e in document.elements if (s := new.get(e.key)) is not None}
        self.document.edit_both(with_seeds(document, changed), self.document.draft.asking_for(request), f"{what} {names}")
        self._passes.submit(Job(f"{what} {names}", (Work(again, entry.take.seed, f"{what} {names}"),)))
