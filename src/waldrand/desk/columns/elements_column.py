"""The elements as a ladder, far above near, and the layers below them."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QLineEdit, QSplitter, QVBoxLayout, QWidget

from ...core.packs import Pack
from ...core.values.sheet import Sheet
from ..document import Document, State
from ..sheet_view.view import SheetView
from .ladder import Ladder, Rung
from .layer_row import LayerRow
from .widgets import heading, hint, scrolled

#: From so many elements on they can be looked for by their words.
MANY = 12
EMPTY = (
    "No elements yet. Press R for a rectangle, E for an ellipse or F for a freehand outline, draw on the sheet where "
    "a thing shall stand, and say what it is. Or press I and draw lines through the sheet to divide it. Or say things in "
    "the scene above, like “fox, birch”, and press Ctrl+L: each gets a place, to be moved."
)


class ElementsColumn(QWidget):
    """Signals: picked(keys, the leading one last), opened(key: its words are wanted)."""

    picked = pyqtSignal(object)
    opened = pyqtSignal(int)

    def __init__(self, document: Document, view: SheetView, pack: Pack | None = None) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.document, self.pack, self._view = document, pack, view
        self.rows: dict[int, LayerRow] = {}
        self._landed: dict[int, bool] = {}
        self.empty, self.ladder, self.search = hint(EMPTY), Ladder(), QLineEdit()
        self.search.setPlaceholderText("look for an element")
        self.search.setToolTip("Shows only the elements in whose words this stands.")
        self.search.setAccessibleName("look for an element")
        self.search.textChanged.connect(lambda _: self.refresh())
        self.ladder.picked.connect(self.picked)
        self.ladder.opened.connect(self.opened)
        self.ladder.reordered.connect(self._reorder)
        self._rows = QVBoxLayout()
        outer = QVBoxLayout(self)
        outer.setContentsMargins(8, 8, 4, 4)
        outer.setSpacing(6)
        outer.addWidget(heading("Elements, far to near"))
        outer.addWidget(self.search)
        outer.addWidget(self.empty)
        self._split = QSplitter(Qt.Orientation.Vertical)
        self._split.setHandleWidth(3)
        self._split.addWidget(self.ladder)
        self._split.addWidget(self._layers())
        self._split.setStretchFactor(0, 1)
        self._split.setStretchFactor(1, 1)
        outer.addWidget(self._split, 1)
        self._spare = QWidget()
        outer.addWidget(self._spare, 1)
        view.selection.changed.connect(self.refresh)
        view.selection.chosen.connect(lambda _: self.refresh())
        document.changed.connect(self._changed)
        document.replaced.connect(self.refresh)
        self.refresh()

    def _layers(self) -> QWidget:
        self.layers_part = QWidget()
        column = QVBoxLayout(self.layers_part)
        column.setContentsMargins(0, 4, 0, 0)
        column.addWidget(heading("Layers, lowest first"))
        rows = QVBoxLayout()
        rows.addLayout(self._rows)
        rows.addStretch(1)
        area = scrolled(rows)
        area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        rows.setContentsMargins(0, 0, 0, 0)
        column.addWidget(area)
        return self.layers_part

    def show_landed(self, landed: dict[int, bool]) -> None:
        """Which elements landed in the take that is shown."""
        self._landed = landed
        self.refresh()

    def _changed(self, before: State, after: State) -> None:
        if before.sheet is not after.sheet or before.draft is not after.draft:
            self.refresh()

    def _reorder(self, keys: tuple[int, ...]) -> None:
        """Rows that were dragged change what is far and near."""
        sheet = self.document.sheet
        by_key = {e.key: e for e in sheet.elements}
        if set(keys) == set(by_key) and keys != tuple(by_key):
            self.document.edit(replace(sheet, elements=tuple(by_key[k] for k in keys)), "other depth")
        else:
            self.refresh()

    def refresh(self) -> None:
        """Shows the sheet as it is."""
        sheet = self.document.sheet
        self.search.setVisible(len(sheet.elements) > MANY)
        asked = self.search.text().strip().lower() if len(sheet.elements) > MANY else ""
        self.empty.setVisible(not sheet.elements)
        self.ladder.setVisible(bool(sheet.elements))
        self.ladder.show_rungs(self._rungs(sheet), self._view.selection.keys, lambda rung: asked in rung.text.lower())
        self.layers_part.setVisible(bool(sheet.layers))
        self._split.setVisible(bool(sheet.elements or sheet.layers))
        self._spare.setVisible(not (sheet.elements or sheet.layers))
        self._show_layers(sheet)

    def _rungs(self, sheet: Sheet) -> dict[int, Rung]:
        figures, draft = self._view.figures(), self.document.draft
        gauged = sheet.has_picture and draft.of_kind.hears_elements
        out = {}
        for i, e in enumerate(sheet.elements):
            own = e.strength is not None
            gauge = (draft.strength if e.strength is None else e.strength, own) if gauged and not e.hold else None
            out[e.key] = Rung(e, i, figures.get(e.key), gauge, self._landed.get(e.key))
        return out

    def _show_layers(self, sheet: Sheet) -> None:
        for key in [k for k in self.rows if not sheet.has_layer(k)]:
            # Deleted when there is time for it, and not to be seen until then.
            row = self.rows.pop(key)
            row.hide()
            row.deleteLater()
        for i, layer in enumerate(sheet.layers):
            if layer.key not in self.rows:
                self.rows[layer.key] = LayerRow(self.document, layer.key)
            row = self.rows[layer.key]
            if self._rows.indexOf(row) != i:
                self._rows.removeWidget(row)
                self._rows.insertWidget(i, row)
            row.show_layer()
