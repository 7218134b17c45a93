"""What stands on an empty sheet: what to do next, the demo, and the files of the last time. The hand draws through it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from ...core.worded import worded
from ..document import Document
from ..look.look import PARCHMENT
from ..sheet_view.view import SheetView

WIDTH = 380
#: Files that are offered here.
MOST = 4
STEPS = (
    "Say in the line above what the picture is: <i>starry night, meadow, fox</i>. Things in it get a place by themselves.",
    "Or draw where a thing shall be, a rectangle (R) or an ellipse (E), and type what it is.",
    "Run. Takes appear below; keep the one you like (K).",
)


class StartPage(QWidget):
    """Signals: demo_wanted(), open_wanted(), file_wanted(its path)."""

    demo_wanted = pyqtSignal()
    open_wanted = pyqtSignal()
    file_wanted = pyqtSignal(object)

    def __init__(self, document: Document, view: SheetView, recent: Callable[[], list[Path]]) -> None:
        super().__init__(view.viewport())
        self._document, self._view, self._recent, self._begun = document, view, recent, False
        self.setObjectName("start")
        self.setAccessibleName(worded("an empty sheet"))
        self.setFixedWidth(WIDTH)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.setSpacing(8)
        title = QLabel(worded("An empty sheet"))
        title.setObjectName("title")
        column.addWidget(title)
        for i, text in enumerate(STEPS):
            step = QLabel(f"{i + 1}.&nbsp; {worded(text)}")
            step.setTextFormat(Qt.TextFormat.RichText)
            step.setWordWrap(True)
            column.addWidget(step)
        column.addLayout(self._buttons())
        self.files = QLabel()
        self.files.setTextFormat(Qt.TextFormat.RichText)
        self.files.setWordWrap(True)
        self.files.setAccessibleName(worded("files opened lately"))
        self.files.setTextInteractionFlags(Qt.TextInteractionFlag.LinksAccessibleByMouse | Qt.TextInteractionFlag.LinksAccessibleByKeyboard)
        self.files.linkActivated.connect(lambda name: self.file_wanted.emit(Path(name)))
        column.addWidget(self.files)
        for moved in (view.zoomed, view.moved):
            moved.connect(lambda *_: self.place())
        document.changed.connect(lambda *_: self.place())
        document.replaced.connect(self.place)
        self.hide()

    def _buttons(self) -> QHBoxLayout:
        row = QHBoxLayout()
        for text, tip, wanted in (
            (worded("Open the demo"), worded("A sheet with five things laid out, ready to run."), self.demo_wanted),
            ("Open…", worded("Open a sheet, a layout or a picture (Ctrl+O)."), self.open_wanted),
        ):
            button = QPushButton(worded(text))
            button.setToolTip(tip)
            button.setAutoDefault(False)
            button.clicked.connect(lambda _=False, wanted=wanted: wanted.emit())
            row.addWidget(button)
        row.addStretch(1)
        return row

    def begin(self) -> None:
        """From now on it is shown whenever the sheet is empty."""
        self._begun = True
        self.place()

    @property
    def wanted(self) -> bool:
        """Whether there is nothing on the sheet yet."""
        sheet = self._document.sheet
        there = sheet.elements or sheet.layers or sheet.scene.words or sheet.mask is not None
        return self._begun and not there and self._document.path is None

    def place(self) -> None:
        """In the middle of what is seen, as long as the sheet is empty."""
        if not self.wanted:
            self.hide()
            return
        if not self.isVisible():
            names = [f'<a style="color: {PARCHMENT.link}" href="{path}">{path.name}</a>' for path in self._recent()[:MOST]]
            self.files.setText(worded("Lately: ") + " · ".join(names))
            self.files.setVisible(bool(names))
        port = self._view.viewport()
        assert port is not None
        self.adjustSize()
        self.move((port.width() - self.width()) // 2, max(0, (port.height() - self.height()) // 2))
        self.setVisible(self.width() < port.width() and self.height() < port.height())
