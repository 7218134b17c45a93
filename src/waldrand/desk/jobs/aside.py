"""Unsaved work kept aside every minute, and offered when a window was left with some."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QTimer

from ...core.refused import Refused
from ...core.values.sheet import Sheet
from ...core.worded import worded
from ...files.openraster import open_sheet
from ..dialogs import Dialogs
from ..document import Document
from ..draft import Draft
from .beside import Beside, Tick
from .filed import FiledTakes, written_now
from .safekeeping import Safe, autosave_path

AUTOSAVE_MS = 60_000


class Aside:
    """Keeps what would be lost."""

    def __init__(self, document: Document, dialogs: Callable[[], Dialogs], say: Callable[[str], None], takes: FiledTakes) -> None:
        self.document, self._dialogs, self.say, self._tray = document, dialogs, say, takes
        self._aside: tuple[object, ...] = ()
        self._safe = Safe(autosave_path())
        self._keeper = Beside()
        # Nobody asked for it, so nobody waits for it.
        self._keeper.patience = 0.0
        self._timer = QTimer()
        self._timer.setInterval(AUTOSAVE_MS)
        self._timer.timeout.connect(self.autosave)

    def begin_autosave(self) -> None:
        """Work unsaved from an earlier time is offered; from now on it is kept every minute."""
        try:
            self._safe = Safe.open()
        except OSError as error:
            self.say(worded("Unsaved work cannot be kept aside: {0}", error))
        for left in self._safe.left:
            match self._dialogs().bring_back(left.stat().st_mtime):
                case "bring":
                    if self._recover(left):
                        self._safe.adopt(left)
                        break
                case "drop":
                    left.unlink(missing_ok=True)
                case "later":
                    if left == self._safe.path:
                        self._safe.set_aside()
        self._timer.start()

    def _recover(self, path: Path) -> bool:
        """Whether it could be brought back."""
        try:
            opened = open_sheet(path)
            draft = Draft.from_json(opened.settings)
        except Refused as error:
            self._dialogs().tell(str(error))
            return False
        self.document.open(Sheet(opened.sheet.width, opened.sheet.height))
        # As an edit, so that it counts as unsaved.
        self.document.edit_both(opened.sheet, draft, worded("bring back unsaved work"))
        self._tray.show(opened.takes)
        return True

    def _unsaved(self) -> tuple[object, ...]:
        """What would be lost, to be known again: nothing when nothing would."""
        stake = self._tray.at_stake()
        if not self.document.modified and not stake:
            return ()
        return (self.document.moment, *(x for s in self._tray.takes() for x in (s.take, s.marked, s.kept)))

    def autosave(self) -> None:
        """Begins to keep unsaved work aside, takes too; a failure is only said, since nobody asked for it."""
        unsaved = self._unsaved()
        if not unsaved or unsaved == self._aside or self._keeper.busy:
            return
        path = self._safe.path
        saving = written_now(self.document, self._tray, path)

        def write(tick: Tick) -> None:
            path.parent.mkdir(parents=True, exist_ok=True)
            saving.write(tick)

        self._aside = unsaved
        self._keeper.do(worded("Keeping unsaved work aside"), write, lambda _: None, self._not_kept)

    def _not_kept(self, why: str) -> None:
        self._aside = ()
        self.say(worded("Unsaved work could not be kept aside: {0}", why))

    def finish_autosave(self) -> None:
        """Blocks until what is being kept aside is written."""
        self._keeper.finish()

    def end_autosave(self) -> None:
        """The window is closed: nothing is left aside, and another may use the place."""
        self._timer.stop()
        self.discard_autosave()
        self._safe.close()

    def discard_autosave(self) -> None:
        self.finish_autosave()
        self._aside = ()
        self._safe.discard()
