"""Lettering put on the sheet."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent

from ...core.values.lettering import Lettering
from .hand import Hand


class Letter(Hand):
    """Typed text as a layer."""

    name, title, shortcut, sign = "letter", "Lettering", "Shift+Y", "letters"
    tip = "Put a line of lettering on the sheet, or change one that is there"
    group = "colour"
    hint = "Click: new words there, or those of a lettering that is there · its strip changes them"
    cursor = Qt.CursorShape.IBeamCursor
    shows_handles = False

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        # What a click asks for is asked when the button is up again, or that would be lost to the question.
        return

    def release(self, p: QPointF, event: QMouseEvent) -> None:
        for layer in reversed(self.document.sheet.layers):
            r = layer.bounds
            if isinstance(layer, Lettering) and layer.visible and r.x0 <= p.x() < r.x1 and r.y0 <= p.y() < r.y1:
                self.view.set_tool("arrange")
                self.view.selection.choose_layer(layer.key)
                return
        self.view.letters_wanted.emit(p)
