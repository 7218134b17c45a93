"""What becomes of an outline that was drawn."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

from PyQt6.QtCore import QObject, pyqtSignal

from ...core.refused import Refused
from ...core.values.element import Element
from ...core.values.outline import Outline
from ...core.values.shaping import joined
from ...core.worded import worded
from ..document import Document
from .selection import Selection

Joining = Literal["new", "add", "cut"]


class LayingOut(QObject):
    """joining: whether a drawn outline is a new element, or is added to or cut from the chosen one. Signals: worded(sentence),
    added(key of a new element, ready for its words)."""

    said = pyqtSignal(str)
    added = pyqtSignal(int)

    def __init__(self, document: Document, selection: Selection) -> None:
        super().__init__()
        self._document, self._selection = document, selection
        self.joining: Joining = "new"

    def take_outline(self, outline: Outline) -> None:
        """What was drawn becomes a new element, or is added to or cut from the chosen one's outline."""
        if self.joining == "new" or self._selection.selected is None:
            self.add_element(outline)
            return
        sheet = self._document.sheet
        e = sheet.element(self._selection.selected)
        try:
            new = joined(e.outline, outline, cut=self.joining == "cut")
        except Refused as error:
            self.said.emit(str(error))
            return
        verb = worded("add to") if self.joining == "add" else worded("cut from")
        self._document.edit(sheet.with_element(replace(e, outline=new)), worded("{0} the outline of “{1}”", verb, e.name))

    def add_element(self, outline: Outline) -> None:
        """A new element, nearest of all."""
        sheet = self._document.sheet
        key = sheet.next_key()
        self._document.edit(sheet.with_element(Element(key, sheet.free_name("element"), outline)), worded("add element"))
        self.added.emit(key)
