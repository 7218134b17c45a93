"""One pass at several settings or with several words, at one seed."""

from __future__ import annotations

from collections.abc import Callable

from ...core.noise.samplers import SAMPLERS
from ...core.passes.request import Request
from ...core.passes.series import LADDER, Over, Variant, ladder, parse_over, plain_name, vary
from ...core.passes.settings import METHODS
from ...core.refused import Refused
from ...core.values.element import phrases
from ...core.values.sheet import Sheet
from ...core.worded import worded
from ..dialogs import Dialogs
from .passes import Passes

#: Values a setting is shown at.
SHOWN_AT: dict[str, tuple[str, ...]] = {
    "guidance": ("1", "2", "3", "5"),
    "drawing_guidance": ("0", "0.5", "1", "2"),
    "ink": ("0", "0.3", "0.6", "1"),
    "steps": ("6", "12", "20", "40"),
    "spacing": ("0.7", "1", "2", "4"),
    "method": METHODS,
    "sampler": SAMPLERS,
    "figures": ("on", "off"),
    "grounds": ("on", "off"),
    "places": ("on", "off"),
    "detail": ("0.8", "1", "1.2", "1.4"),
    "scene-weight": ("0.25", "0.5", "1", "2"),
}


class Series:
    """Ladders of strength, what a setting does, other words."""

    def __init__(self, passes: Passes, dialogs: Callable[[], Dialogs]) -> None:
        self._passes, self._dialogs = passes, dialogs
        passes.column.shown_wanted.connect(self.show_setting)

    def _try_variants(self, make: Callable[[Sheet, Request], list[Variant]], name: str) -> None:
        p = self._passes
        p.view.words.finish()
        try:
            p.submit_variants(make(p.document.sheet, p.document.draft.request()), name)
        except Refused as error:
            p.say(str(error))
            return
        p.say(worded("Press on the takes and move sideways to scrub through them; U takes over the shown one's settings."))

    def _try_overs(self, overs: list[Over], name: str) -> None:
        self._try_variants(lambda s, r: [v for row in vary(s, r, overs) for v in row], name)

    def show_setting(self, what: str) -> None:
        """What a setting does: the pass at several of its values, at one seed."""
        if what == "strength":
            self.run_ladder()
        else:
            self._try_overs([Over(what, SHOWN_AT[what])], plain_name(what))

    def run_ladder(self) -> None:
        """The pass at rising strengths, at one seed."""
        self._try_variants(lambda s, r: ladder(s, r, LADDER), "ladder")

    def vary(self) -> None:
        """One or two settings at typed values, side by side."""
        text = self._dialogs().words(
            worded("Try settings"), worded("A setting and its values, or two apart by a semicolon:"), worded("guidance=2,4; steps=10,20")
        )
        if text:
            try:
                self._try_overs([parse_over(o) for o in text.split(";")], "settings")
            except Refused as error:
                self._passes.say(str(error))

    def try_other_words(self) -> None:
        """Other words in a phrase's place, side by side."""
        sheet, key = self._passes.document.sheet, self._passes.view.selection.selected
        said = phrases(sheet.scene.words) if key is None else phrases(sheet.element(key).words)
        dialogs = self._dialogs()
        phrase = dialogs.words(worded("Try other words"), worded("Which words shall change?"), said[0] if said else "")
        others = phrase and dialogs.words(worded("Try other words"), worded("In place of “{0}”, apart by commas:", phrase))
        if phrase and others:
            values = tuple(v.strip() for v in others.split(",") if v.strip())
            self._try_overs([Over(phrase.strip(), (phrase.strip(), *values))], worded("words for “{0}”", phrase))
