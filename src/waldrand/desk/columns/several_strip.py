"""What can be set for several chosen elements at once, beside them on the sheet."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QLabel, QToolButton, QVBoxLayout

from ...core.fields import fields_of
from ...core.refused import Refused
from ...core.values.element import Element
from ...core.values.shaping import Edge
from ...core.worded import worded
from ..document import Document
from ..look.look import Look
from ..look.signs import sign
from ..sheet_view.view import SheetView
from .floating import Floating
from .widgets import show_checked, small_button
from .words_field import WordsField

FIELDS = fields_of(Element)
NUMBERS, TICKS = ("strength", "weight", "feather"), ("visible", "hold", "locked")
EDGES: tuple[Edge, ...] = ("left", "centre", "right", "top", "middle", "bottom")
WIDTH, SIGN = 268, 18


class SeveralStrip(Floating):
    """align: what lays the chosen at one of their edges; delete: what deletes them."""

    def __init__(self, document: Document, view: SheetView, align: Callable[[Edge], None], delete: Callable[[], None]) -> None:
        super().__init__(view)
        self.document = document
        self.setFixedWidth(WIDTH)
        self.swatch.setObjectName("grip")
        self.what = QLabel()
        self.remove = small_button("✕", worded("Delete them (Delete)"))
        self.remove.clicked.connect(lambda _: delete())
        self.numbers = {
            name: WordsField(worded("differ"), worded("{0} For all of them.", worded(FIELDS[name].tip)), worded("{0} of all", name))
            for name in NUMBERS
        }
        self.ticks = {name: QCheckBox(worded(FIELDS[name].label)) for name in TICKS}
        self.aligns: dict[Edge, QToolButton] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 6, 8, 7)
        column.setSpacing(6)
        top = QHBoxLayout()
        top.addWidget(self.swatch)
        top.addWidget(self.what, 1)
        top.addWidget(self.remove)
        column.addLayout(top)
        column.addLayout(self._number_grid())
        column.addLayout(self._tick_row())
        column.addLayout(self._align_row(align))
        view.selection.chosen.connect(lambda _: self.refresh())
        document.changed.connect(lambda *_: self.refresh())
        document.replaced.connect(self.refresh)
        self.hide()

    def _number_grid(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setVerticalSpacing(1)
        for i, (name, field) in enumerate(self.numbers.items()):
            faint = QLabel(worded(name))
            faint.setObjectName("faint")
            grid.addWidget(faint, 0, i)
            grid.addWidget(field, 1, i)
            field.said.connect(partial(self._set_number, name))
        return grid

    def _tick_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        for name, box in self.ticks.items():
            box.setToolTip(worded("{0} For all of them.", worded(FIELDS[name].tip)))
            box.setAccessibleName(worded("{0}, all of them", FIELDS[name].label))
            # A press on one that differs turns it on for all.
            box.clicked.connect(lambda _=False, name=name: self._tick(name))
            row.addWidget(box)
        row.addStretch(1)
        return row

    def _align_row(self, align: Callable[[Edge], None]) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(2)
        for edge in EDGES:
            button = QToolButton()
            button.setObjectName("rail")
            button.setFixedSize(SIGN + 10, SIGN + 10)
            button.setIconSize(QSize(SIGN, SIGN))
            button.setToolTip(worded("Lay them along one line: {0}", edge))
            button.setAccessibleName(worded("align {0}", edge))
            button.clicked.connect(lambda _=False, edge=edge: align(edge))
            row.addWidget(button)
            self.aligns[edge] = button
        row.addStretch(1)
        return row

    def set_look(self, look: Look) -> None:
        for edge, button in self.aligns.items():
            button.setIcon(sign(f"align-{edge}", look))

    @property
    def _elements(self) -> list[Element]:
        keys = self.view.selection.keys
        return [e for e in self.document.sheet.elements if e.key in keys]

    @property
    def about(self) -> tuple[float, float, float, float] | None:
        chosen = self._elements
        if len(chosen) < 2:
            return None
        xs0, ys0, xs1, ys1 = zip(*(e.outline.box for e in chosen), strict=True)
        return min(xs0), min(ys0), max(xs1), max(ys1)

    # --- changing

    def _edit(self, what: str, values: Sequence[Element]) -> None:
        sheet = self.document.sheet
        for e in values:
            sheet = sheet.with_element(e)
        self.document.edit(sheet, worded("{0} of {1} elements", what, len(values)))

    def _set_number(self, name: str, text: str) -> None:
        """One value for all; empty: the pass's strength, and nothing changes where there is none to fall back to."""
        text = text.strip().replace(",", ".")
        chosen = self._elements
        if len(chosen) < 2 or text == self._common(name) or (not text and not FIELDS[name].optional):
            self.refresh()
            return
        if not text and self.numbers[name].placeholderText() == "differ":
            return
        try:
            value = float(text) if text else None
            changed: dict[str, float | None] = {name: value}
            self._edit(name, [replace(e, **changed) for e in chosen])  # type: ignore[arg-type]
        except (ValueError, Refused) as error:
            self.view.said.emit(str(error) if isinstance(error, Refused) else worded("“{0}” is no number for the {1}.", text, name))
            self.refresh()

    def _tick(self, name: str) -> None:
        chosen = self._elements
        on = not all(getattr(e, name) for e in chosen)
        changed: dict[str, bool] = {name: on}
        self._edit({"visible": "use", "locked": "lock"}.get(name, name), [replace(e, **changed) for e in chosen])  # type: ignore[arg-type]

    # --- showing

    def _common(self, name: str) -> str | None:
        """What all of them have, written; None where they differ."""
        values = {getattr(e, name) for e in self._elements}
        if len(values) != 1:
            return None
        (value,) = values
        return "" if value is None else f"{value:g}"

    def refresh(self) -> None:
        """Shows what the chosen have in common."""
        chosen = self._elements
        if len(chosen) < 2:
            self.hide()
            return
        self.what.setText(worded("{0} elements", len(chosen)))
        for name, field in self.numbers.items():
            common = self._common(name)
            field.setPlaceholderText(worded("differ") if common is None else worded("the pass's"))
            field.show_text(common or "")
        for name, box in self.ticks.items():
            on = {getattr(e, name) for e in chosen}
            box.setTristate(len(on) > 1)
            if len(on) > 1:
                box.setCheckState(Qt.CheckState.PartiallyChecked)
            else:
                show_checked(box, on == {True})
        self.place()
