"""The masks that are kept under names, as a small ladder: used again, joined, and held."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from ...core.values.area import Area
from ...core.values.sheet import Sheet
from ...core.worded import worded
from ..look.images import thumbnail
from ..look.look import Look
from .ladder import Ladder
from .rungs import SIDE, Rung, Switch, paint_picture
from .widgets import heading, small_button

TIP = (
    "Masks with names. Click: choose; double-click: another name; the sign on the right: held, so that no pass changes what lies under it."
)

#: Rows that are seen at a time.
MOST_ROWS = 4


class AreasPart(QWidget):
    """Signals, each with a mask's key: switched(key, held), used(key, how), renamed(key), deleted(key), grown(key, 1 or -1)."""

    switched = pyqtSignal(int, bool)
    used = pyqtSignal(int, str)
    renamed = pyqtSignal(int)
    deleted = pyqtSignal(int)
    grown = pyqtSignal(int, int)

    def __init__(self) -> None:
        super().__init__()
        self._pictures: dict[int, tuple[Area, QPixmap]] = {}
        self.ladder = Ladder(worded("kept masks"), worded(TIP))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(3)
        column.addWidget(heading(worded("Kept masks")))
        column.addWidget(self.ladder)
        row = QHBoxLayout()
        row.setSpacing(3)
        for text, tip, act in (
            ("=", "Use: it becomes the mask", lambda key: self.used.emit(key, "instead")),
            ("+", "Add: to the mask", lambda key: self.used.emit(key, "add")),
            ("−", "Cut: out of the mask", lambda key: self.used.emit(key, "cut")),
            ("∩", "Meet: what the mask has in common with it", lambda key: self.used.emit(key, "meet")),
            ("‹ ›", "Grow: by pixels", lambda key: self.grown.emit(key, 1)),
            ("› ‹", "Shrink: by pixels, to lose a pale fringe", lambda key: self.grown.emit(key, -1)),
            ("✕", "Delete: this kept mask", self.deleted.emit),
        ):
            button = small_button(text, worded(tip))
            button.clicked.connect(lambda _, act=act: self._with_chosen(act))
            row.addWidget(button)
        row.addStretch(1)
        column.addLayout(row)
        self.chosen: int | None = None
        self.ladder.picked.connect(self._pick)
        self.ladder.opened.connect(self.renamed.emit)
        self.ladder.switched.connect(lambda key, _name, on: self.switched.emit(key, on))

    def set_look(self, look: Look) -> None:
        self.ladder.set_look(look)

    def _pick(self, keys: tuple[int, ...]) -> None:
        self.chosen = keys[-1] if keys else None

    def _with_chosen(self, act: Callable[[int], object]) -> None:
        if self.chosen is not None:
            act(self.chosen)

    def show_sheet(self, sheet: Sheet) -> None:
        """Shows the kept masks of a sheet; the first is chosen where none is."""
        keys = [a.key for a in sheet.areas]
        if self.chosen not in keys:
            self.chosen = keys[-1] if keys else None
        rungs = {a.key: self._rung(a) for a in sheet.areas}
        self.ladder.show_rungs(rungs, () if self.chosen is None else (self.chosen,), lambda _: True)
        self.setVisible(bool(keys))
        # As high as its rows, so that the ladders above keep their room.
        self.ladder.setFixedHeight(min(MOST_ROWS, max(1, len(keys))) * max(1, self.ladder.sizeHintForRow(0)) + 8)
        self.setMaximumHeight(self.sizeHint().height())

    def _rung(self, area: Area) -> Rung:
        held = self._pictures.get(area.key)
        if held is None or held[0].mask is not area.mask:
            box = area.mask.box()
            step = max(1, max(box.width, box.height) // (2 * SIDE))
            held = self._pictures[area.key] = area, thumbnail(area.mask.read(box)[::step, ::step, None].repeat(3, -1), SIDE)
        picture = held[1]
        text = area.name + (worded("  (held)") if area.hold else "")

        return Rung(area.name, text, text, lambda p, at: paint_picture(p, picture, at), (Switch("hold", "hold", area.hold, not area.hold),))
