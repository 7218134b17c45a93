"""One layer of the sheet in the column: shown or hidden, higher or lower, its edge and opacity, deleted."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QCheckBox, QDoubleSpinBox, QGridLayout, QHBoxLayout, QLabel, QSizePolicy, QWidget

from ...core.values.layers import Layer
from ..document import Document
from .widgets import number, show_checked, show_number, small_button

#: Screen pixels that the tick takes of the name's room.
TICK_WIDTH = 22


class LayerRow(QWidget):
    """A picture or a patch. A patch's edge is grown, shrunk and feathered here, without computing it again."""

    def __init__(self, document: Document, key: int) -> None:
        super().__init__()
        self.document, self.key = document, key
        self.visible_box = QCheckBox()
        # A long name is cut rather than making the column wider.
        self.visible_box.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.down, self.up = (
            small_button("▲", "Lower: behind the layer before it"),
            small_button("▼", "Higher: over the layer after it"),
        )
        self.copy = small_button("+", "Duplicate this layer")
        self.remove = small_button("✕", "Delete this layer")
        self.grow = number(-500, 500, 1, 0, "Grow the patch's edge by pixels; below 0: shrink it.", "patch grow")
        self.feather = number(0, 500, 1, 0, "Feather of the patch's edge in pixels, inside it.", "patch feather")
        self.opacity = number(0, 1, 0.05, 2, "Opacity of the patch: 0 is not seen, 1 covers.", "patch opacity")
        self.edge = QWidget()
        edge = QGridLayout(self.edge)
        edge.setContentsMargins(0, 0, 0, 0)
        edge.setVerticalSpacing(1)
        self._edges: dict[str, tuple[QLabel, QDoubleSpinBox]] = {}
        for column, (label, box) in enumerate((("opacity", self.opacity), ("grow", self.grow), ("feather", self.feather))):
            faint = QLabel(label)
            faint.setObjectName("faint")
            edge.addWidget(faint, 0, column)
            edge.addWidget(box, 1, column)
            self._edges[label] = faint, box
            box.valueChanged.connect(partial(self._edge, label))
        grid = QGridLayout(self)
        grid.setContentsMargins(2, 0, 0, 0)
        grid.setColumnStretch(0, 1)
        grid.setVerticalSpacing(2)
        grid.addWidget(self.visible_box, 0, 0)
        buttons = QHBoxLayout()
        buttons.setSpacing(0)
        for b in (self.down, self.up, self.copy, self.remove):
            b.setObjectName("tiny")
            buttons.addWidget(b)
        grid.addLayout(buttons, 0, 1)
        grid.addWidget(self.edge, 1, 0, 1, 2)
        self.visible_box.toggled.connect(self._show)
        self.down.clicked.connect(lambda: self._move(-1))
        self.up.clicked.connect(lambda: self._move(1))
        self.copy.clicked.connect(self._duplicate)
        self.remove.clicked.connect(lambda: document.edit(document.sheet.without_layer(key), f"delete layer “{self._layer().name}”"))

    def _layer(self) -> Layer:
        return self.document.sheet.layer(self.key)

    def _show(self, on: bool) -> None:
        layer = self._layer()
        if layer.visible != on:
            self.document.edit(self.document.sheet.with_layer(layer.changed(visible=on)), f"{'show' if on else 'hide'} “{layer.name}”")

    def _move(self, by: int) -> None:
        layers = self.document.sheet.layers
        i = layers.index(self._layer())
        if 0 <= i + by < len(layers):
            self.document.edit(self.document.sheet.moved_layer(self.key, by), f"{'higher' if by > 0 else 'lower'}: “{self._layer().name}”")

    def _duplicate(self) -> None:
        sheet, layer = self.document.sheet, self._layer()
        twin = layer.changed(key=sheet.next_key(), name=f"{layer.name} again")
        at = sheet.layers.index(layer) + 1
        self.document.edit(replace(sheet, layers=(*sheet.layers[:at], twin, *sheet.layers[at:])), f"duplicate “{layer.name}”")

    def _edge(self, what: str, value: float) -> None:
        # A number typed in a row that is just deleted comes when the layer is gone.
        layer = self._layer() if self.document.sheet.has_layer(self.key) else None
        if layer is not None and what in layer.edge:
            self.document.edit(
                self.document.sheet.with_layer(layer.changed(**{what: value})), f"{what} of “{layer.name}”", f"{what} of patch {self.key}"
            )

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if self.document.sheet.has_layer(self.key):
            self._fit_name(self._layer().name)

    def _fit_name(self, name: str) -> None:
        room = max(20, self.visible_box.width() - TICK_WIDTH)
        self.visible_box.setText(self.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, room))

    def show_layer(self) -> None:
        """Shows the layer as it is."""
        layer = self._layer()
        self.visible_box.setToolTip(f"Show or hide this layer. {layer.sort}: {layer.name}")
        self.visible_box.setAccessibleName(f"{layer.sort}: {layer.name}")
        self._fit_name(layer.name)
        show_checked(self.visible_box, layer.visible)
        self.edge.setVisible(bool(layer.edge))
        for what, (label, box) in self._edges.items():
            label.setVisible(what in layer.edge)
            box.setVisible(what in layer.edge)
            show_number(box, layer.edge.get(what, 0.0))
