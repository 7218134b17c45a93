"""What a pass in tiles lost or let appear, tile by tile, and what may be done about it."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from ...core.seen.changes import Change
from ...core.worded import worded
from .widgets import heading

NUMBER = Qt.ItemDataRole.UserRole
#: So many rows are seen at once.
MOST_ROWS = 5


class TileChanges(QWidget):
    """Signals: wanted("weaker" or "put_back", numbers of tiles), looked_at(number, 0: none)."""

    wanted = pyqtSignal(str, object)
    looked_at = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.list = QListWidget()
        self.list.setObjectName("parts")
        self.list.setMouseTracking(True)
        self.list.setToolTip(worded("Tiles of the take that is shown in which the finder misses a thing, or sees a new one."))
        self.list.setAccessibleName(worded("tiles that changed"))
        self.list.itemEntered.connect(lambda item: self.looked_at.emit(item.data(NUMBER)))
        self.list.currentItemChanged.connect(lambda item, _: self.looked_at.emit(0 if item is None else item.data(NUMBER)))
        self.weaker = QPushButton(worded("Paint weaker"))
        self.weaker.setToolTip(worded("Another take with the ticked tiles painted at half the strength; the others stay."))
        self.put_back = QPushButton(worded("Put back"))
        self.put_back.setToolTip(worded("Another take with the ticked tiles as they were; the others stay."))
        buttons = QHBoxLayout()
        for button, name in ((self.weaker, "weaker"), (self.put_back, "put_back")):
            button.clicked.connect(lambda _, n=name: self.wanted.emit(n, self._ticked()))
            buttons.addWidget(button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(heading(worded("Lost or new")))
        layout.addWidget(self.list)
        layout.addLayout(buttons)
        self.show_changes(())

    def show_changes(self, changes: Sequence[Change]) -> None:
        """Nothing is shown where nothing was lost and nothing appeared."""
        self.list.clear()
        for c in changes:
            text = worded("tile {0}: {1}", c.number, c.told)
            item = QListWidgetItem(text)
            item.setData(NUMBER, c.number)
            item.setToolTip(text)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked)
            self.list.addItem(item)
        self.setVisible(bool(changes))
        height = self.list.sizeHintForRow(0) if changes else 0
        self.list.setFixedHeight(height * min(MOST_ROWS, max(1, self.list.count())) + 2 * self.list.frameWidth() + 2)

    def _ticked(self) -> tuple[int, ...]:
        items = (self.list.item(i) for i in range(self.list.count()))
        return tuple(item.data(NUMBER) for item in items if item is not None and item.checkState() == Qt.CheckState.Checked)
