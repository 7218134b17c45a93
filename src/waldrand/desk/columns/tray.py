"""The takes tray: what the passes of this sitting made, to step through, compare, keep or drop."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QEvent, QMimeData, QObject, QPoint, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QDrag, QMouseEvent, QResizeEvent
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QListView, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from ...core.fields import fields_of
from ...core.passes.plan import Plan
from ...core.passes.settings import METHOD_NAMES, SAMPLER_NAMES
from ...core.passes.take import Take
from ...core.seen.score import Score
from ...core.values.element import Element
from ...core.values.sheet import Sheet
from ...core.worded import worded
from ..look.images import thumbnail, to_image
from .take_delegate import PICTURE, Landed, TakeDelegate
from .widgets import hint

#: Of a take's picture as it is kept for the strip, and of the strip itself: its least height and the one it begins with.
SIDE, LEAST_HEIGHT, HEIGHT = 320, 92, 98
#: Milliseconds that the pointer rests on a take before it is shown.
REST_MS = 350


@dataclass(eq=False)
class TrayTake:
    """A take, the plan it was made by, how its elements landed, and what became of it. special: what is special about it; under: the
    layer right below which it belongs, None: over all that feeds passes."""

    take: Take
    plan: Plan
    special: str = ""
    kept: bool = False
    marked: bool = False
    older: bool = False
    scores: tuple[Score, ...] = ()
    saved: bool = False
    under: int | None = None

    @property
    def placed(self) -> float | None:
        """The mean placement score, or None when nothing was judged."""
        return sum(s.score for s in self.scores) / len(self.scores) if self.scores else None

    @property
    def told(self) -> str:
        """Every element's score, and what to try where one failed."""
        return "\n".join(s.says or f"“{s.name}” landed: {s.score:.0f} of 100." for s in self.scores)

    @property
    def settings(self) -> str:
        """The settings it was made with, in a line."""
        s = self.plan.request.settings
        finer = "" if s.detail == 1 else worded(", detail {0:g}", s.detail)
        return worded(
            "{0} steps, guidance {1:g}, {2}, {3}{4}",
            self.plan.steps,
            s.guidance,
            METHOD_NAMES[self.plan.method],
            SAMPLER_NAMES[s.sampler],
            finer,
        )

    @property
    def label(self) -> str:
        kind, strength = self.plan.kind, self.plan.request.settings.strength
        at = "" if kind.begins == strength == 1 else f" at {strength:.2f}"
        signs = "".join(sign for on, sign in ((self.kept, " ✓"), (self.marked, " ★")) if on)
        last = (
            ""
            if self.placed is None
            else worded("\nplaced {0:.0f}", self.placed) + (" !" if any(not s.landed for s in self.scores) else "")
        )
        if self.older:
            last = worded("\nolder layout")
        return worded("{0}\nseed {1}{2}{3}", self.special or kind.name + at, self.take.seed, signs, last)


#: What of an element the model is told.
TOLD = tuple(name for name, field in fields_of(Element).items() if field.told)


def same_layout(a: Sheet, b: Sheet) -> bool:
    """Whether two sheets would tell the model the same; names and locks do not count, nor what noise an element begins from."""

    def told(s: Sheet) -> list[tuple[object, ...]]:
        used = [e for e in s.elements if e.visible or e.hold]
        return [(e.key, *(getattr(e, name) for name in TOLD), id(e.outline)) for e in used]

    return a.rect == b.rect and a.scene == b.scene and told(a) == told(b)


class _List(QListWidget):
    """Pressing and moving sideways scrubs through the takes; with Ctrl a picture is dragged out. Signals: entered_row(the row that
    the pointer comes over, -1 when it leaves)."""

    dragged_out = pyqtSignal()
    entered_row = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setViewMode(QListView.ViewMode.IconMode)
        self.setFlow(QListView.Flow.LeftToRight)
        self.setWrapping(False)
        self.setMovement(QListView.Movement.Static)
        self.setSpacing(4)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName(worded("takes"))
        self.setToolTip(
            worded(
                "Takes of this sitting. Click to look at one on the sheet, or press and move sideways to scrub; comma and full "
                "stop step through them; hold B to see before; C compares two with a line; Ctrl and drag takes a picture out."
            )
        )

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        # Pictures are as large as there is room.
        self.scheduleDelayedItemsLayout()

    def leaveEvent(self, event: QEvent | None) -> None:
        super().leaveEvent(event)
        self.entered_row.emit(-1)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if not event.buttons() & Qt.MouseButton.LeftButton:
            under = self.itemAt(event.position().toPoint())
            self.entered_row.emit(-1 if under is None else self.row(under))
            return
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.dragged_out.emit()
            return
        item = self.itemAt(QPoint(int(event.position().x()), 30))
        if item is not None:
            self.setCurrentItem(item)


class Resting(QObject):
    """Tells which take the pointer rests on. Signals: hovered(TrayTake, or None when it goes on)."""

    hovered = pyqtSignal(object)

    def __init__(self, strip: _List, takes: Callable[[], list[TrayTake]]) -> None:
        super().__init__(strip)
        self._takes, self._over, self._told = takes, -1, False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(REST_MS)
        self._timer.timeout.connect(self._rested)
        strip.setMouseTracking(True)
        strip.entered_row.connect(self._enter)

    def _enter(self, row: int) -> None:
        if row == self._over:
            return
        self._over = row
        self._timer.stop()
        if row >= 0:
            self._timer.start()
        if self._told:
            self._told = False
            self.hovered.emit(None)

    def _rested(self) -> None:
        takes = self._takes()
        if 0 <= self._over < len(takes):
            self._told = True
            self.hovered.emit(takes[self._over])


class Tray(QWidget):
    """Signals: shown(TrayTake or None), hovered(TrayTake that the pointer rests on, or None), keep_wanted(), drop_wanted(), seed_wanted(),
    reroll_wanted(), sheet_wanted()."""

    shown = pyqtSignal(object)
    hovered = pyqtSignal(object)
    keep_wanted = pyqtSignal()
    drop_wanted = pyqtSignal()
    seed_wanted = pyqtSignal()
    reroll_wanted = pyqtSignal()
    sheet_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.takes: list[TrayTake] = []
        self.partner: TrayTake | None = None
        self._forming: QListWidgetItem | None = None
        self.list = _List()
        self.empty = hint(
            worded(
                "Takes appear here when a pass has run. Step through them with the comma and full-stop keys, hold B to see the "
                "sheet before, and press K to keep one as a patch."
            )
        )
        self._make_buttons()
        names = {self.mark: worded("Mark"), self.sheet: worded("All takes")}
        buttons = QGridLayout()
        buttons.setSpacing(4)
        for i, b in enumerate((self.keep, self.drop, self.reuse, self.reroll, self.sheet, self.mark)):
            b.setAccessibleName(names.get(b, b.text()))
            buttons.addWidget(b, i // 2, i % 2)
        column = QVBoxLayout()
        column.addLayout(buttons)
        column.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 4, 8, 4)
        row.addLayout(column)
        row.addWidget(self.empty, 1)
        row.addWidget(self.list, 1)
        self.setMinimumHeight(LEAST_HEIGHT)
        self.delegate = TakeDelegate(self.list, self._landed)
        self.list.setItemDelegate(self.delegate)
        self._resting = Resting(self.list, lambda: self.takes)
        self._resting.hovered.connect(self.hovered)
        self.list.currentRowChanged.connect(lambda _: self._emit())
        self.list.dragged_out.connect(self._drag_out)
        self.keep.clicked.connect(self.keep_wanted)
        self.drop.clicked.connect(self.drop_wanted)
        self.reuse.clicked.connect(self.seed_wanted)
        self.reroll.clicked.connect(self.reroll_wanted)
        self.sheet.clicked.connect(self.sheet_wanted)
        self.mark.clicked.connect(self.mark_current)
        self._refresh()

    def _make_buttons(self) -> None:
        self.keep = QPushButton(worded("Keep"))
        self.keep.setToolTip(worded("Keep the take on the sheet as a patch (K); Shift+K keeps only what the mask covers"))
        self.drop = QPushButton(worded("Drop"))
        self.drop.setToolTip(worded("Drop this take from the tray (D); Shift+D brings back what was dropped last"))
        self.reuse = QPushButton(worded("Use"))
        self.reuse.setToolTip(worded("Set the next pass to this take's seed and settings (U)"))
        self.reroll = QPushButton(worded("Re-roll"))
        self.reroll.setToolTip(
            worded(
                "The same again with another seed (T): inside the chosen elements only, or the whole when none is chosen. "
                "Shift+T: another chance for what missed its outline. Ctrl+T: the chosen elements painted from nearer, with many "
                "pixels each"
            )
        )
        self.sheet = QPushButton(worded("All"))
        self.sheet.setToolTip(worded("See all takes side by side (Y)"))
        self.mark = QPushButton("★")
        self.mark.setToolTip(worded("Mark this take (V); unmarked ones can be dropped together from the Takes menu"))

    def sizeHint(self) -> QSize:
        return QSize(400, HEIGHT)

    def _landed(self, row: int) -> Landed:
        """The ticks of the take in a row."""
        return self.landed_of(self.takes[row]) if 0 <= row < len(self.takes) else []

    @staticmethod
    def landed_of(entry: TrayTake) -> Landed:
        """The ticks of a take."""
        places = {e.key: i for i, e in enumerate(entry.plan.sheet.elements)}
        return [(places.get(s.key, 0), s.landed) for s in entry.scores]

    @property
    def current(self) -> TrayTake | None:
        row = self.list.currentRow()
        return self.takes[row] if 0 <= row < len(self.takes) else None

    def _emit(self) -> None:
        self._refresh()
        self.shown.emit(self.current)

    def _refresh(self) -> None:
        there = bool(self.takes) or self._forming is not None
        self.empty.setVisible(not there)
        self.list.setVisible(there)
        for b in (self.keep, self.drop, self.reuse, self.reroll, self.mark):
            b.setEnabled(self.current is not None)
        self.sheet.setEnabled(bool(self.takes))

    def add(self, entry: TrayTake, show: bool) -> None:
        """Adds a take at the end, and shows it if wanted."""
        self.show_forming(None)
        self._insert(len(self.takes), entry)
        if show:
            self.list.setCurrentRow(len(self.takes) - 1)

    def _insert(self, at: int, entry: TrayTake) -> None:
        self.takes.insert(at, entry)
        item = QListWidgetItem(entry.label)
        item.setData(PICTURE, thumbnail(entry.take.pixels, SIDE))
        item.setTextAlignment(Qt.AlignmentFlag.AlignHCenter)
        item.setToolTip(entry.told)
        self.list.insertItem(at, item)
        self._refresh()

    def show_forming(self, preview: np.ndarray | None, label: str = "") -> None:
        """The picture that is just forming, at the end of the tray; None: no more."""
        if preview is None:
            if self._forming is not None:
                self.list.takeItem(self.list.row(self._forming))
                self._forming = None
            self._refresh()
            return
        if self._forming is None:
            self._forming = QListWidgetItem()
            self._forming.setFlags(Qt.ItemFlag.ItemIsEnabled)
            self._forming.setTextAlignment(Qt.AlignmentFlag.AlignHCenter)
            self.list.addItem(self._forming)
            self._refresh()
        self._forming.setData(PICTURE, thumbnail(preview, SIDE))
        self._forming.setText(label)

    def check_layout(self, sheet: Sheet) -> None:
        """Marks the takes of an older layout as such."""
        for i, entry in enumerate(self.takes):
            older = not same_layout(entry.plan.sheet, sheet)
            if older != entry.older:
                entry.older = older
                self._relabel(i)

    def _relabel(self, row: int) -> None:
        item = self.list.item(row)
        if item is not None:
            item.setText(self.takes[row].label)

    def step(self, by: int) -> None:
        """Shows the next (1) or last (-1) take, round and round; before the first lies the sheet itself."""
        if self.takes:
            n = len(self.takes) + 1
            self.list.setCurrentRow((self.list.currentRow() + 1 + by) % n - 1)
            self._emit()

    def show_entry(self, entry: TrayTake) -> None:
        self.list.setCurrentRow(self.takes.index(entry))

    def rest(self) -> None:
        """Shows no take."""
        self.list.setCurrentRow(-1)

    def mark_kept(self) -> None:
        if self.current is not None:
            self.current.kept = True
            self._relabel(self.list.currentRow())

    def mark_current(self) -> None:
        """Marks the shown take, or takes the mark away."""
        if self.current is not None:
            self.current.marked = not self.current.marked
            self._relabel(self.list.currentRow())

    def compare(self) -> None:
        """The shown take becomes the one others are compared with; again: no more."""
        self.partner = None if self.partner is self.current else self.current
        self._emit()

    def sort_by_placement(self) -> None:
        """The best placed takes first; those that were not judged stay behind them, in their order."""
        shown = self.current
        # The list is built anew; a picture that is forming comes back with its next step.
        self.show_forming(None)
        self.takes.sort(key=lambda t: -1.0 if t.placed is None else t.placed, reverse=True)
        entries, self.takes = self.takes, []
        self.list.clear()
        for entry in entries:
            self._insert(len(self.takes), entry)
        if shown is not None:
            self.show_entry(shown)

    def take_away(self, entries: Sequence[TrayTake]) -> None:
        """Those of the takes that are in the tray leave it."""
        for entry in entries:
            if entry in self.takes:
                row = self.takes.index(entry)
                self.takes.pop(row)
                self.list.takeItem(row)
                if entry is self.partner:
                    self.partner = None
        self._emit()

    def put_back(self, places: Sequence[tuple[int, TrayTake]]) -> None:
        """Takes come back to their places, as (place, take) with places rising, and the first of them is shown."""
        for row, entry in places:
            if entry not in self.takes:
                self._insert(min(row, len(self.takes)), entry)
        self.show_entry(places[0][1])

    def _drag_out(self) -> None:
        if self.current is not None:
            data = QMimeData()
            data.setImageData(to_image(self.current.take.pixels))
            drag = QDrag(self.list)
            drag.setMimeData(data)
            drag.exec(Qt.DropAction.CopyAction)

    def clear(self) -> None:
        self.takes.clear()
        self.partner, self._forming = None, None
        self.list.clear()
        self._emit()
