"""What the next pass will do, in sentences, and what looks wrong, each with what can be done about it."""

from __future__ import annotations

from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import QLabel

from ...core.packs import Pack
from ...core.passes.at_once import how_many, together
from ...core.passes.cautions import Mend
from ...core.passes.plan import Plan
from ...core.worded import worded
from ..draft import Draft
from ..look.look import Look


class Forecast(QObject):
    """sentences, warnings: what they are shown in. Signals: about_wanted(an element's key, or which words), mend_wanted(Mend)."""

    about_wanted = pyqtSignal(object)
    mend_wanted = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.sentences, self.warnings = QLabel(), QLabel()
        self.sentences.setWordWrap(True)
        self.sentences.setAccessibleName(worded("forecast"))
        self.warnings.setWordWrap(True)
        self.warnings.setObjectName("warning")
        self.warnings.setAccessibleName(worded("warnings"))
        self.warnings.setTextFormat(Qt.TextFormat.RichText)
        self.warnings.linkActivated.connect(self._follow)
        self._mends: list[Mend] = []
        self._link = ""
        self._plan: Plan | None = None

    def show_plan(self, plan: Plan | None, problem: str, draft: Draft, pack: Pack | None) -> None:
        """What the next pass will do, or why it cannot run."""
        self._plan = plan
        said = list(plan.sentences) if plan else [problem]
        if plan is not None and plan.seconds is not None and plan.steps:
            takes, again = draft.takes, draft.again
            at_once = 1 if pack is None else how_many(pack.info, takes, plan.memory)
            said.append(
                worded(
                    "{0} for {1} take{2}, {3:.0f} MB.",
                    spoken_time(together(plan.seconds, takes, at_once)),
                    takes,
                    "" if takes == 1 else "s",
                    at_once * plan.memory / 1000000.0,
                )
            )
            if again and pack is not None and pack.finder is not None and plan.kind.hears_elements and plan.sheet.elements:
                said.append(worded("What misses its outline gets up to {0} more pass{1} of its own.", again, "" if again == 1 else "es"))
        self.sentences.setText(" ".join(said))
        self._show_warnings()

    def _show_warnings(self) -> None:
        lines = []
        self._mends = []
        for w in self._plan.warnings if self._plan else ():
            links = [f'<a {self._link} href="show:{w.about}">show</a>'] if w.about is not None else []
            if w.mend is not None:
                links.append(f'<a {self._link} href="mend:{len(self._mends)}">{escaped(w.mend.label)}</a>')
                self._mends.append(w.mend)
            lines.append(" ".join((f"• {escaped(w.text)}", " · ".join(links))))
        self.warnings.setText("<br>".join(lines))
        self.warnings.setVisible(bool(lines))

    def set_look(self, look: Look) -> None:
        """Links in the look's own colour."""
        self._link = worded('style="color: {0}"', look.link)
        self._show_warnings()

    def _follow(self, link: str) -> None:
        what, _, which = link.partition(":")
        if what == "show":
            self.about_wanted.emit(int(which) if which.isdigit() else which)
        elif int(which) < len(self._mends):
            self.mend_wanted.emit(self._mends[int(which)])


def escaped(text: str) -> str:
    """Text as it is written in rich text."""
    return text.replace("&", "&amp;").replace("<", "&lt;")


def spoken_time(seconds: float) -> str:
    """A length of time as it is said."""
    if seconds < 1.5:
        return worded("About a second")
    if seconds < 90:
        return worded("About {0:.0f} seconds", seconds)
    return worded("About {0:.0f} minutes", seconds / 60)
