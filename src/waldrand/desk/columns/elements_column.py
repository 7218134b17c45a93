"""The column of what lies on the sheet: the ladder of elements, and below it that of layers."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QLineEdit, QSplitter, QVBoxLayout, QWidget

from ...core.packs import Pack
from ...core.values.layers import Layer
from ...core.values.sheet import Sheet
from ...core.worded import worded
from ..document import Document, State
from ..look.look import Look
from ..sheet_view.view import SheetView
from .areas_part import AreasPart
from .ladder import Ladder
from .rungs import Rung, layer_picture, of_element, of_layer
from .widgets import heading, hint

#: From so many elements on they can be looked for by typing.
MANY = 12
EMPTY = (
    "No elements yet. Press R for a rectangle, E for an ellipse or F for a freehand outline, draw on the sheet where a thing shall stand, "
    "and say what it is. Or press I and draw lines through the sheet to divide it. Or say things in the scene above, like “fox, birch”, "
    "which get a place in every take; Ctrl+L makes elements of them, to be moved."
)
ELEMENTS_TIP = (
    "Elements, far above near. Click: choose, Shift or Ctrl: several; drag: nearer or farther; double-click: words. "
    "The signs on the right: used, held, locked."
)
LAYERS_TIP = "Layers, the lowest above the highest. Click: choose one; drag: lower or higher. The sign on the right: shown or hidden."
#: What undo says of a switch.
SAID = {"visible": "use", "hold": "hold", "locked": "lock"}


class ElementsColumn(QWidget):
    """Signals of its ladders lead straight to the selection and the document."""

    def __init__(self, document: Document, view: SheetView, pack: Pack | None = None) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.document, self.pack, self._view = document, pack, view
        self._landed: dict[int, bool] = {}
        self._pictures: dict[int, tuple[Layer, QPixmap]] = {}
        self.empty, self.search = hint(worded(EMPTY)), QLineEdit()
        self.ladder, self.layers = (
            Ladder(worded("elements, far to near"), worded(ELEMENTS_TIP)),
            Ladder(worded("layers, lowest first"), worded(LAYERS_TIP)),
        )
        self.search.setPlaceholderText(worded("look for an element"))
        self.search.setToolTip(worded("Shows only the elements in whose words this stands."))
        self.search.setAccessibleName(worded("look for an element"))
        self._lay_out()
        self._connect()
        self.refresh()

    def _lay_out(self) -> None:
        outer = QVBoxLayout(self)
        outer.setContentsMargins(8, 8, 4, 4)
        outer.setSpacing(6)
        outer.addWidget(heading(worded("Elements, far to near")))
        outer.addWidget(self.search)
        outer.addWidget(self.empty)
        self.layers_part = QWidget()
        column = QVBoxLayout(self.layers_part)
        column.setContentsMargins(0, 4, 0, 0)
        column.addWidget(heading(worded("Layers, lowest first")))
        column.addWidget(self.layers)
        self._split = QSplitter()
        self._split.setOrientation(Qt.Orientation.Vertical)
        self._split.setHandleWidth(3)
        self._split.addWidget(self.ladder)
        self._split.addWidget(self.layers_part)
        self.areas = AreasPart()
        self._split.addWidget(self.areas)
        self._split.setStretchFactor(0, 3)
        self._split.setStretchFactor(1, 2)
        outer.addWidget(self._split, 1)
        self._spare = QWidget()
        outer.addWidget(self._spare, 1)

    def _connect(self) -> None:
        selection = self._view.selection
        self.search.textChanged.connect(lambda _: self.refresh())
        self.ladder.picked.connect(selection.set)
        self.ladder.opened.connect(self._view.words.edit)
        self.ladder.reordered.connect(self._reorder)
        self.ladder.switched.connect(self._switch)
        self.layers.picked.connect(lambda keys: selection.choose_layer(keys[-1] if keys else None))
        self.layers.reordered.connect(self._reorder_layers)
        self.layers.switched.connect(self._show_layer)
        selection.changed.connect(self.refresh)
        self.document.changed.connect(self._changed)
        self.document.replaced.connect(self.refresh)

    def set_look(self, look: Look) -> None:
        for ladder in (self.ladder, self.layers, self.areas):
            ladder.set_look(look)

    def show_landed(self, landed: dict[int, bool]) -> None:
        """Which elements landed in the take that is shown."""
        self._landed = landed
        self.refresh()

    # --- changing

    def _changed(self, before: State, after: State) -> None:
        if before.sheet is not after.sheet or before.draft is not after.draft:
            self.refresh()

    def _reorder(self, keys: tuple[int, ...]) -> None:
        """Rows that were dragged change what is far and near."""
        sheet = self.document.sheet
        by_key = {e.key: e for e in sheet.elements}
        if set(keys) == set(by_key) and keys != tuple(by_key):
            self.document.edit(replace(sheet, elements=tuple(by_key[k] for k in keys)), worded("other depth"))
        else:
            self.refresh()

    def _reorder_layers(self, keys: tuple[int, ...]) -> None:
        sheet = self.document.sheet
        by_key = {x.key: x for x in sheet.layers}
        if set(keys) == set(by_key) and keys != tuple(by_key):
            self.document.edit(replace(sheet, layers=tuple(by_key[k] for k in keys)), worded("other order of layers"))
        else:
            self.refresh()

    def _switch(self, key: int, name: str, on: bool) -> None:
        sheet = self.document.sheet
        # A switch of one of several that are chosen is all of theirs.
        chosen = self._view.selection.keys
        keys = chosen if key in chosen else (key,)
        names = ", ".join(f"“{sheet.element(k).name}”" for k in keys)
        for k in keys:
            changed: dict[str, bool] = {name: on}
            sheet = sheet.with_element(replace(sheet.element(k), **changed))  # type: ignore[arg-type]
        self.document.edit(sheet, worded("{0} of {1}", SAID[name], names))

    def _show_layer(self, key: int, name: str, on: bool) -> None:
        sheet = self.document.sheet
        layer = sheet.layer(key)
        self.document.edit(sheet.with_layer(layer.changed(visible=on)), f"{'show' if on else 'hide'} “{layer.name}”")

    # --- showing

    def refresh(self) -> None:
        """Shows the sheet as it is."""
        sheet, selection = self.document.sheet, self._view.selection
        self.search.setVisible(len(sheet.elements) > MANY)
        asked = self.search.text().strip().lower() if len(sheet.elements) > MANY else ""
        self.empty.setVisible(not sheet.elements)
        self.ladder.setVisible(bool(sheet.elements))
        self.ladder.show_rungs(self._rungs(sheet), selection.keys, lambda rung: asked in rung.text.lower())
        self.layers_part.setVisible(bool(sheet.layers))
        self.areas.show_sheet(sheet)
        there = bool(sheet.elements or sheet.layers or sheet.areas)
        self._split.setVisible(there)
        self._spare.setVisible(not there)
        chosen = () if selection.layer is None else (selection.layer,)
        self.layers.show_rungs({x.key: of_layer(x, self._picture(x)) for x in sheet.layers}, chosen, lambda _: True)

    def _rungs(self, sheet: Sheet) -> dict[int, Rung]:
        figures, draft = self._view.figures(), self.document.draft
        gauged = sheet.has_picture and draft.of_kind.hears_elements
        out = {}
        for i, e in enumerate(sheet.elements):
            own = e.strength is not None
            gauge = (draft.strength if e.strength is None else e.strength, own) if gauged and not e.hold else None
            out[e.key] = of_element(e, i, figures.get(e.key), gauge, self._landed.get(e.key))
        return out

    def _picture(self, layer: Layer) -> QPixmap:
        """A layer in small, made once for each state of it."""
        held = self._pictures.get(layer.key)
        if held is None or held[0] is not layer:
            held = self._pictures[layer.key] = layer, layer_picture(layer)
        return held[1]
