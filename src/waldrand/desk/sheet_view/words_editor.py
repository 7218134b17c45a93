"""Two lines that open on the sheet: what an element is, and what it is not."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QApplication, QFrame, QVBoxLayout, QWidget

from ...core.packs import Pack
from ...core.values.element import Element
from ...core.worded import worded
from ..columns.words_field import WordsField

WIDTH = 230


class _Line(WordsField):
    left = pyqtSignal()
    given_up = pyqtSignal()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape and not self.offered():
            self.given_up.emit()
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self.left.emit()


class WordsEditor(QFrame):
    """Signals: done() with Enter or when both lines are left, given_up() with Escape."""

    done = pyqtSignal()
    given_up = pyqtSignal()

    def __init__(self, element: Element, pack: Pack | None, parent: QWidget) -> None:
        super().__init__(parent)
        self.key = element.key
        self.setObjectName("card")
        self.words = _Line(
            worded("what it is: red fox facing left"),
            worded("Words for this element. Enter: done, Tab: what to avoid, Escape: as it was."),
            worded("words on the sheet"),
            pack,
            emphasis=True,
        )
        self.avoid = _Line(
            worded("not wanted here"),
            worded("Words to avoid inside this outline. Enter: done, Escape: as it was."),
            worded("avoid words on the sheet"),
            pack,
        )
        self.words.show_text(element.words, element.emphasis)
        self.avoid.show_text(element.avoid)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(5, 5, 5, 5)
        layout.setSpacing(3)
        for line in (self.words, self.avoid):
            line.returnPressed.connect(self.done)
            line.given_up.connect(self.given_up)
            # Asked a moment later: the focus may only have gone to the other line.
            line.left.connect(lambda: QTimer.singleShot(0, self._maybe_done))
            layout.addWidget(line)
            line.setFixedWidth(WIDTH)
        # As high as its lines, which grow with what is said.
        layout.setSizeConstraint(QVBoxLayout.SizeConstraint.SetFixedSize)

    def _maybe_done(self) -> None:
        focused = QApplication.focusWidget()
        if self.isVisible() and (focused is None or not self.isAncestorOf(focused)):
            self.done.emit()
