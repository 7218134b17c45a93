"""The word that says that what is seen is rough, and no take."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QLabel

from ...core.worded import worded
from .view import SheetView

#: Screen pixels from the corner of the sheet, or of what is seen of it.
APART = 8


class LiveSign(QLabel):
    """Stays in the upper left corner of what is seen of the sheet."""

    def __init__(self, view: SheetView) -> None:
        super().__init__(worded("live"), view.viewport())
        self.setObjectName("live")
        self.setAccessibleName(worded("live"))
        self.setToolTip(worded("A rough picture of the next pass, formed anew at each change. It is no take: Run makes those."))
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self._view = view
        view.moved.connect(self._place)
        view.zoomed.connect(lambda _: self._place())
        self.hide()

    def show_sign(self, shown: bool) -> None:
        self.setVisible(shown)
        self._place()

    def _place(self) -> None:
        if self.isVisible():
            corner = self._view.mapFromScene(0, 0)
            self.adjustSize()
            self.move(QPoint(max(corner.x(), 0) + APART, max(corner.y(), 0) + APART))
