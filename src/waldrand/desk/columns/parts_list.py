"""The parts that were found in a picture, each with how surely and how large it is, ticked or not."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtWidgets import QListWidget, QListWidgetItem

from ...core.passes.listed import Listed

NUMBER = Qt.ItemDataRole.UserRole
#: So many rows are seen at once.
MOST_ROWS = 6


class PartsList(QListWidget):
    """Signals: left_out(numbers), when a tick was changed by hand; looked_at(number, 0: none), when the pointer or keys come over one;
    wanted(number), when one is double-clicked, or Enter is pressed on it."""

    left_out = pyqtSignal(object)
    looked_at = pyqtSignal(int)
    wanted = pyqtSignal(int)

    def __init__(self, tip: str, spoken: str) -> None:
        super().__init__()
        self.setObjectName("parts")
        self.setToolTip(tip)
        self.setAccessibleName(spoken)
        self.setMouseTracking(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.itemActivated.connect(lambda item: self.wanted.emit(item.data(NUMBER)))
        self._gone: tuple[int, ...] = ()
        self.itemChanged.connect(lambda _: self.left_out.emit(self._unticked()))
        self.itemEntered.connect(lambda item: self.looked_at.emit(item.data(NUMBER)))
        self.currentItemChanged.connect(lambda item, _: self.looked_at.emit(0 if item is None else item.data(NUMBER)))
        self.show_parts(())

    def show_parts(self, parts: Sequence[Listed]) -> None:
        """Shows what was found, without saying that anything changed."""
        with QSignalBlocker(self):
            row = self.currentRow()
            self.clear()
            for one in parts:
                item = QListWidgetItem(one.text)
                item.setData(NUMBER, one.number)
                item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                item.setCheckState(Qt.CheckState.Checked if one.used else Qt.CheckState.Unchecked)
                item.setToolTip(one.tip)
                self.addItem(item)
            self.setCurrentRow(min(row, self.count() - 1))
        self.setVisible(bool(parts))
        height = self.sizeHintForRow(0) if parts else 0
        self.setFixedHeight(height * min(MOST_ROWS, max(1, self.count())) + 2 * self.frameWidth() + 2)

    def show_numbers(self, numbers: tuple[int, ...]) -> None:
        """Which are left out, without saying that it changed."""
        with QSignalBlocker(self):
            for i in range(self.count()):
                item = self.item(i)
                assert item is not None
                item.setCheckState(Qt.CheckState.Unchecked if item.data(NUMBER) in numbers else Qt.CheckState.Checked)

    def _unticked(self) -> tuple[int, ...]:
        items = (self.item(i) for i in range(self.count()))
        return tuple(item.data(NUMBER) for item in items if item is not None and item.checkState() == Qt.CheckState.Unchecked)
