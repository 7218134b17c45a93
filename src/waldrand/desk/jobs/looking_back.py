"""Before and after: the sheet as it looked at some time, wiped against how it looks now."""

from __future__ import annotations

from collections.abc import Callable

from ...core.values.sheet import Sheet
from ...core.worded import worded
from ..dialogs import Dialogs
from ..document import Document
from ..sheet_view.view import SheetView
from .acting import Acting


class LookingBack(Acting):
    """Nothing is changed. Any two states can be compared: one is remembered, the other gone to by the history."""

    def __init__(self, document: Document, view: SheetView, dialogs: Callable[[], Dialogs], say: Callable[[str], None]) -> None:
        super().__init__(document, view, dialogs, say)
        self._remembered: Sheet | None = None
        self.on = False
        document.replaced.connect(self._forget)
        document.changed.connect(lambda before, after: self._follow(before.sheet.extent != after.sheet.extent))

    def remember(self) -> None:
        """How it looks now is what is wiped against from here on."""
        if not self.document.sheet.has_picture:
            self.say(worded("There is no picture to remember yet."))
            return
        self._remembered = self.document.sheet
        self.say(worded("Remembered. Go on, or to any step of the history (Ctrl+H); Shift+B wipes the one against the other."))
        self._follow(self.on)

    def wipe(self) -> None:
        """What was remembered left of a line, what is there now right of it; once more: no longer."""
        if not self.on and self._remembered is None:
            self.say(worded("Remember first how it looks (Ctrl+B)."))
            return
        self.on = not self.on
        self._follow(True)
        self.say(worded("Left of the line: as it was remembered. Drag the line; Shift+B ends it.") if self.on else "")

    def _follow(self, anew: bool) -> None:
        """Shown where it lies on the sheet as it is now."""
        if not anew:
            return
        sheet, old, wipe = self.document.sheet, self._remembered, self.view.canvas.wipe
        way = None if old is None or not self.on else old.extent.way_to(sheet.extent)
        if old is None or way is None:
            if self.on:
                self.say(worded("The sheet was scaled since: its pixels cannot be laid beside each other."))
            self.on = False
            wipe.show(None, sheet.rect, (sheet.width, sheet.height))
            return
        wipe.show(old.flatten(), old.rect.moved(*way), (sheet.width, sheet.height))

    def _forget(self) -> None:
        self._remembered, self.on = None, False
