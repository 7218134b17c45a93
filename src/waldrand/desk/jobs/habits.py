"""Habits: touch-ups under a name, run at once or after every take."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from ...core.passes.kinds import KINDS, parts_kind
from ...core.passes.request import Request
from ...core.refused import Refused
from ...core.worded import worded
from ...files.habits import habit, read_habits, write_habits
from ..dialogs import Dialogs
from .passes import Passes
from .runner import Job, Work


class Habits:
    """What is kept of them lies in a file, which commands read too."""

    def __init__(self, passes: Passes, dialogs: Callable[[], Dialogs], say: Callable[[str], None]) -> None:
        self._passes, self._dialogs, self.say = passes, dialogs, say
        self._document = passes.document

    def turn_to_touch_up(self) -> None:
        """The next pass finds what it paints."""
        kind = parts_kind()
        self._document.set_draft(self._document.draft.turned_to(kind), worded("kind of pass"))

    def turn_to_sentence(self) -> None:
        """The next pass is said in a sentence: that can be typed at once."""
        kind = next(kind for kind in KINDS.values() if "sentence" in kind.own)
        self._document.set_draft(self._document.draft.turned_to(kind), worded("kind of pass"))
        self._passes.column.sentence.setFocus()

    def names(self) -> list[str]:
        try:
            return list(read_habits())
        except Refused as error:
            self.say(str(error))
            return []

    def keep(self) -> None:
        """The touch-up as it is set, as a habit, or as a further round of one that has the name."""
        draft = self._document.draft
        if draft.kind != parts_kind().name:
            self.say(worded("Choose “Touch up” as the pass and set it as you like it; then it can be kept."))
            return
        question = worded("Its name. One that is kept already gets this as a further round.")
        name = (self._dialogs().words(worded("Keep as a habit"), question, draft.habit) or "").strip()
        if name:
            self._dialogs().attempt(lambda: self._add(name, draft.request()))

    def _add(self, name: str, request: Request) -> None:
        kept = read_habits()
        # Which parts were left out was about one picture.
        one = replace(request, more=tuple((n, () if n == "left_out" else v) for n, v in request.more))
        rounds = (*kept.get(name, ()), one)
        write_habits(kept | {name: rounds})
        self.say(worded("“{0}” is kept, with {1} round{2}.", name, len(rounds), "" if len(rounds) == 1 else "s"))

    def forget(self, name: str) -> None:
        self._dialogs().attempt(lambda: write_habits({n: rounds for n, rounds in read_habits().items() if n != name}))
        self.say(worded("“{0}” is forgotten.", name))

    def run(self, name: str) -> None:
        """All rounds of a habit on the picture as it is, as one take."""
        self._dialogs().attempt(lambda: self._run(name))

    def _run(self, name: str) -> None:
        first, *rest = habit(name)
        d = self._document.draft
        asked = replace(first, settings=replace(first.settings, seed=d.settings.seed), rounds=tuple(rest))
        planned = self._passes.plan(replace(self._document.sheet, mask=None), asked)
        if planned is not None:
            self._passes.submit(Job(worded("habit “{0}”", name), (Work(planned, asked.settings.seed, name),)))

    def after_takes(self, name: str) -> None:
        """Every take goes through a habit from now on; an empty name: through none."""
        d = self._document.draft
        self._dialogs().attempt(
            lambda: self._document.set_draft(replace(d, habit=name, rounds=habit(name) if name else ()), worded("what comes after takes"))
        )
