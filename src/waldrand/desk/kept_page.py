"""The page of kept words: lists under names and what was used last, put into the field that was being written in."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIcon, QPixmap
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QLabel, QLineEdit, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from ..core.worded import worded
from ..files.kept_words import Kept, KeptWords, names_of
from .columns.widgets import heading, hint

#: Sides of the pictures beside names, in screen pixels.
SIDE = 44
NAME, TEXT = Qt.ItemDataRole.UserRole, Qt.ItemDataRole.UserRole + 1


class KeptPage(QDialog):
    """Signals: wanted(Kept): these words are put into the field; keep_wanted(name), forget_wanted(name),
    import_wanted(), export_wanted()."""

    wanted = pyqtSignal(object)
    keep_wanted = pyqtSignal(str)
    forget_wanted = pyqtSignal(str)
    import_wanted = pyqtSignal()
    export_wanted = pyqtSignal()

    def __init__(self, kept: KeptWords, into: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(worded("Kept words"))
        self.setMinimumSize(460, 460)
        self._kept = kept
        self.search = QLineEdit()
        self.search.setPlaceholderText(worded("a name, or a word that is in them"))
        self.search.setAccessibleName(worded("search kept words"))
        self.search.textChanged.connect(lambda _: self._fill())
        self.search.returnPressed.connect(self._take)
        self.lists = QListWidget()
        self.lists.setObjectName("parts")
        self.lists.setIconSize(QSize(SIDE, SIDE))
        self.lists.setToolTip(worded("Enter or a double click puts them into the field, behind what is there."))
        self.lists.setAccessibleName(worded("kept words and those used last"))
        self.lists.itemActivated.connect(lambda _: self._take())
        self.empty = hint(worded("Nothing is kept yet. Write words into a field, come back here, and keep them under a name."))
        self.name = QLineEdit()
        self.name.setPlaceholderText(worded("name"))
        self.name.setAccessibleName(worded("name for the words of the field"))
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 14)
        column.addWidget(heading(worded("Put into: {0}", into)))
        column.addWidget(self.search)
        column.addWidget(self.lists, 1)
        column.addWidget(self.empty)
        keep = QHBoxLayout()
        keep.addWidget(QLabel(worded("Keep what is in the field as")))
        keep.addWidget(self.name, 1)
        tip = worded("Keeps the words of the field, and what is avoided beside it, under this name.")
        self.keep = self._button(keep, worded("Keep"), tip, self._keep)
        column.addLayout(keep)
        row = QHBoxLayout()
        self.forget = self._button(row, worded("Forget"), worded("The chosen list is kept no more."), self._forget)
        tip = worded("Lists from a text file: “# name” on a line, the words below.")
        self._button(row, worded("Take in text…"), tip, self.import_wanted.emit)
        self._button(row, worded("Write as text…"), worded("All lists into a text file."), self.export_wanted.emit)
        row.addStretch(1)
        self._button(row, worded("Close"), worded("Leaves everything as it is."), self.reject)
        column.addLayout(row)
        self._fill()

    def _button(self, row: QHBoxLayout, text: str, tip: str, act: object) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        button.setAutoDefault(False)
        button.clicked.connect(lambda _: act())  # type: ignore[operator]
        row.addWidget(button)
        return button

    def show_kept(self, kept: KeptWords) -> None:
        """What is kept now."""
        self._kept = kept
        self._fill()

    def _fill(self) -> None:
        said = self.search.text().strip().casefold()
        self.lists.clear()
        for name in names_of(self._kept.lists):
            one = self._kept.lists[name]
            avoids = worded(" · avoids {0}", one.avoid) if one.avoid else ""
            if said in f"{name} {one.words} {one.avoid}".casefold():
                self._row(name, one, f"{name}\n{one.words}{avoids}")
        for words in self._kept.recent:
            if said in words.casefold():
                self._row("", Kept(words), worded("used lately\n{0}", words))
        self.lists.setCurrentRow(0)
        self.lists.setVisible(self.lists.count() > 0 or bool(said))
        self.empty.setVisible(self.lists.count() == 0 and not said)

    def _row(self, name: str, kept: Kept, text: str) -> None:
        item = QListWidgetItem(text)
        picture = QPixmap()
        if not (kept.picture and picture.loadFromData(kept.picture, "PNG")):
            # Words without a picture stand in the same line.
            picture = QPixmap(SIDE, SIDE)
            picture.fill(Qt.GlobalColor.transparent)
        item.setIcon(QIcon(picture))
        item.setData(NAME, name)
        item.setData(TEXT, (kept.words, kept.avoid))
        item.setToolTip(text)
        self.lists.addItem(item)

    def _take(self) -> None:
        item = self.lists.currentItem()
        if item is not None:
            self.wanted.emit(Kept(*item.data(TEXT)))
            self.accept()

    def _keep(self) -> None:
        self.keep_wanted.emit(self.name.text())

    def _forget(self) -> None:
        item = self.lists.currentItem()
        if item is not None:
            self.forget_wanted.emit(item.data(NAME))
