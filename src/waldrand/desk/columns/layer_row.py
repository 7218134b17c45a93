"""One layer of the sheet in the column: shown or hidden, higher or lower, its edge and opacity, deleted."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QLabel, QSizePolicy, QWidget

from ...core.values.sheet import Layer, Patch
from ..document import Document
from .widgets import number, show_checked, show_number, small_button


class LayerRow(QWidget):
    """A picture or a patch. A patch's edge is grown, shrunk and feathered here, without computing it again."""

    def __init__(self, document: Document, key: int) -> None:
        super().__init__()
        self.document, self.key = document, key
        self.visible_box = QCheckBox()
        self.visible_box.setToolTip("Show or hide this layer.")
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
        edge.setContentsMargins(20, 0, 0, 0)
        self._partial: list[QWidget] = []
        for column, (label, box) in enumerate((("opacity", self.opacity), ("grow", self.grow), ("feather", self.feather))):
            faint = QLabel(label)
            faint.setObjectName("faint")
            edge.addWidget(faint, 0, column)
            edge.addWidget(box, 1, column)
            if column:
                self._partial += [faint, box]
        grid = QGridLayout(self)
        grid.setContentsMargins(2, 0, 0, 0)
        grid.setColumnStretch(0, 1)
        grid.addWidget(self.visible_box, 0, 0)
        buttons = QHBoxLayout()
        buttons.setSpacing(0)
        for b in (self.down, self.up, self.copy, self.remove):
            buttons.addWidget(b)
        grid.addLayout(buttons, 0, 1)
        grid.addWidget(self.edge, 1, 0, 1, 2)
        self.visible_box.toggled.connect(self._show)
        self.grow.valueChanged.connect(lambda v: self._edge("grow", grow=v))
        self.feather.valueChanged.connect(lambda v: self._edge("feather", feather=v))
        self.opacity.valueChanged.connect(lambda v: self._edge("opacity", opacity=v))
        self.down.clicked.connect(lambda: self._move(-1))
        self.up.clicked.connect(lambda: self._move(1))
        self.copy.clicked.connect(self._duplicate)
        self.remove.clicked.connect(lambda: document.edit(document.sheet.without_layer(key), f"delete layer “{self._layer().name}”"))

    def _layer(self) -> Layer | Patch:
        return next(x for x in self.document.sheet.layers if x.key == self.key)

    def _show(self, on: bool) -> None:
        layer = self._layer()
        if layer.visible != on:
            self.document.edit(self.document.sheet.with_layer(replace(layer, visible=on)), f"{'show' if on else 'hide'} “{layer.name}”")

    def _move(self, by: int) -> None:
        layers = self.document.sheet.layers
        i = layers.index(self._layer())
        if 0 <= i + by < len(layers):
            self.document.edit(self.document.sheet.moved_layer(self.key, by), f"{'higher' if by > 0 else 'lower'}: “{self._layer().name}”")

    def _duplicate(self) -> None:
        sheet, layer = self.document.sheet, self._layer()
        twin = replace(layer, key=sheet.next_key(), name=f"{layer.name} again")
        at = sheet.layers.index(layer) + 1
        self.document.edit(replace(sheet, layers=(*sheet.layers[:at], twin, *sheet.layers[at:])), f"duplicate “{layer.name}”")

    def _edge(self, what: str, **values: float) -> None:
        patch = self._layer()
        if isinstance(patch, Patch):
            new = replace(patch, **values)  # type: ignore[arg-type]
            self.document.edit(self.document.sheet.with_layer(new), f"{what} of “{patch.name}”", f"{what} of patch {self.key}")

    def show_layer(self) -> None:
        """Shows the layer as it is."""
        layer = self._layer()
        self.visible_box.setText(("patch: " if isinstance(layer, Patch) else "picture: ") + layer.name)
        show_checked(self.visible_box, layer.visible)
        self.edge.setVisible(isinstance(layer, Patch))
        if isinstance(layer, Patch):
            # A patch that fills its whole frame has no edge to change.
            for w in self._partial:
                w.setVisible(not bool(layer.region.all()))
            show_number(self.grow, layer.grow)
            show_number(self.feather, layer.feather)
            show_number(self.opacity, layer.opacity)
