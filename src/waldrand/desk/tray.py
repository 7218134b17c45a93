"""The takes tray: what the passes of this sitting made, to step through, keep or drop."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import QHBoxLayout, QListView, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from ..core.run import Take
from .images import thumbnail
from .widgets import heading, hint

SIDE = 84


@dataclass(eq=False)
class TrayTake:
    """A take and whether it was kept."""

    take: Take
    kept: bool = False

    @property
    def label(self) -> str:
        kind = self.take.recipe["kind"]
        strength = self.take.recipe["settings"]["strength"]
        at = "" if kind == "compose" and strength == 1 else f" at {strength:.2f}"
        return f"{kind}{at}\nseed {self.take.seed}" + (" ✓" if self.kept else "")


class Tray(QWidget):
    """Signals: shown(take or None), keep_wanted(), seed_wanted()."""

    shown = pyqtSignal(object)
    keep_wanted = pyqtSignal()
    seed_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.takes: list[TrayTake] = []
        self._dropped: list[TrayTake] = []
        self.list = QListWidget()
        self.list.setViewMode(QListView.ViewMode.IconMode)
        self.list.setFlow(QListView.Flow.LeftToRight)
        self.list.setWrapping(False)
        self.list.setMovement(QListView.Movement.Static)
        self.list.setIconSize(QSize(SIDE, SIDE))
        self.list.setSpacing(4)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.list.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setAccessibleName("takes")
        self.list.setToolTip(
            "Takes of this sitting. Click to look at one on the sheet; comma and full stop step through them; hold B to see before."
        )
        self.empty = hint(
            "Takes appear here when a pass has run. Step through them with the comma and full-stop keys, hold B to see the sheet "
            "before, and press K to keep one as a patch."
        )
        self.keep = QPushButton("Keep")
        self.keep.setToolTip("Keep the take on the sheet as a patch (K)")
        self.drop = QPushButton("Drop")
        self.drop.setToolTip("Drop this take from the tray (D); Shift+D brings it back")
        self.reuse = QPushButton("Use seed")
        self.reuse.setToolTip("Set the next pass to this take's seed (U)")
        buttons = QVBoxLayout()
        buttons.addWidget(heading("Takes"))
        for b in (self.keep, self.drop, self.reuse):
            buttons.addWidget(b)
        buttons.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 6, 10, 6)
        row.addLayout(buttons)
        row.addWidget(self.empty, 1)
        row.addWidget(self.list, 1)
        self.setFixedHeight(SIDE + 66)
        self.list.currentRowChanged.connect(lambda _: self._emit())
        self.keep.clicked.connect(self.keep_wanted)
        self.drop.clicked.connect(self.drop_current)
        self.reuse.clicked.connect(self.seed_wanted)
        self._refresh()

    @property
    def current(self) -> TrayTake | None:
        row = self.list.currentRow()
        return self.takes[row] if 0 <= row < len(self.takes) else None

    def _emit(self) -> None:
        self._refresh()
        self.shown.emit(self.current.take if self.current else None)

    def _refresh(self) -> None:
        self.empty.setVisible(not self.takes)
        self.list.setVisible(bool(self.takes))
        for b in (self.keep, self.drop, self.reuse):
            b.setEnabled(self.current is not None)

    def add(self, take: Take, show: bool) -> None:
        """Adds a take at the end, and shows it if wanted."""
        self._append(TrayTake(take))
        if show:
            self.list.setCurrentRow(len(self.takes) - 1)

    def _append(self, entry: TrayTake) -> None:
        self.takes.append(entry)
        small = thumbnail(entry.take.pixels, SIDE)
        icon = QIcon(small)
        # Else the chosen take would be shown tinted.
        icon.addPixmap(small, QIcon.Mode.Selected)
        item = QListWidgetItem(icon, entry.label)
        item.setTextAlignment(Qt.AlignmentFlag.AlignHCenter)
        self.list.addItem(item)
        self._refresh()

    def step(self, by: int) -> None:
        """Shows the next (1) or last (-1) take, round and round; before the first lies the sheet itself."""
        if self.takes:
            n = len(self.takes) + 1
            self.list.setCurrentRow((self.list.currentRow() + 1 + by) % n - 1)
            self._emit()

    def rest(self) -> None:
        """Shows no take."""
        self.list.setCurrentRow(-1)

    def mark_kept(self) -> None:
        entry, item = self.current, self.list.currentItem()
        if entry is not None and item is not None:
            entry.kept = True
            item.setText(entry.label)

    def drop_current(self) -> None:
        row = self.list.currentRow()
        if row >= 0:
            self._dropped.append(self.takes.pop(row))
            self.list.takeItem(row)
            self._emit()

    def bring_back(self) -> None:
        """Puts the take dropped last at the end of the tray."""
        if self._dropped:
            self._append(self._dropped.pop())
            self.list.setCurrentRow(len(self.takes) - 1)

    def clear(self) -> None:
        self.takes.clear()
        self._dropped.clear()
        self.list.clear()
        self._emit()
