"""What menus and keys do to what is chosen: what all of it has in common."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace

from ...core.refused import Refused
from ...core.values.element import Element
from ...core.values.layers import Layer
from ...core.values.outline import Outline
from ...core.values.sheet import Sheet
from ...core.worded import worded
from ..dialogs import Dialogs
from ..document import Document
from ..sheet_view.view import SheetView


class Acting:
    """What acts on the chosen elements and the sheet have in common; every act is one undoable edit."""

    def __init__(self, document: Document, view: SheetView, dialogs: Callable[[], Dialogs], say: Callable[[str], None]) -> None:
        self.document, self.view, self._dialogs, self.say = document, view, dialogs, say

    @property
    def acting(self) -> tuple[Document, SheetView, Callable[[], Dialogs], Callable[[str], None]]:
        """What another one that acts on the same needs."""
        return self.document, self.view, self._dialogs, self.say

    @property
    def chosen(self) -> list[Element]:
        """The chosen elements, far to near."""
        return [e for e in self.document.sheet.elements if e.key in self.view.selection.keys]

    def _names(self) -> str:
        return ", ".join(f"“{e.name}”" for e in self.chosen)

    def _each(self, change: Callable[[Element], Element], what: str) -> None:
        """Changes every chosen element that is not locked."""
        sheet, names = self.document.sheet, self._names()
        if not self.chosen:
            self.say(worded("Choose an element first: click it on the sheet."))
            return
        try:
            for e in self.chosen:
                if not e.locked:
                    sheet = sheet.with_element(change(e))
        except Refused as error:
            self.say(str(error))
            return
        self.document.edit(sheet, f"{what} {names}")

    def _try(self, make: Callable[[], Sheet], what: str) -> bool:
        """An edit to what is made; or why it cannot be made is said."""
        try:
            self.document.edit(make(), what)
        except Refused as error:
            self.say(str(error))
            return False
        return True

    def _told(self, why: str) -> None:
        """Why something did not come about; nothing where it was stopped."""
        if why:
            self.say(why)

    def _add_layer(self, layer: Layer, what: str) -> None:
        """A new layer on top, chosen."""
        self.document.edit(self.document.sheet.with_layer(layer), what)
        self.view.selection.choose_layer(layer.key)

    def _choose(self, keys: Iterable[int]) -> None:
        self.view.selection.choose(None)
        for key in keys:
            self.view.selection.choose_also(key)

    def _reshape(self, change: Callable[[Outline], Outline], what: str) -> None:
        self._each(lambda e: replace(e, outline=change(e.outline)), what)
