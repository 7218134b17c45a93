"""One layer of the sheet in the column: shown or hidden, its edge, deleted."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtWidgets import QCheckBox, QGridLayout, QLabel, QWidget

from ..core.sheet import Layer, Patch
from .document import Document
from .widgets import number, show_checked, show_number, small_button


class LayerRow(QWidget):
    """A picture or a patch. A patch's edge is grown, shrunk and feathered here, without computing it again."""

    def __init__(self, document: Document, key: int) -> None:
        super().__init__()
        self.document, self.key = document, key
        self.visible_box = QCheckBox()
        self.visible_box.setToolTip("Show or hide this layer.")
        self.remove = small_button("✕", "Delete this layer")
        self.grow = number(-500, 500, 1, 0, "Grow the patch's edge by pixels; below 0: shrink it.", "patch grow")
        self.feather = number(0, 500, 1, 0, "Feather of the patch's edge in pixels, inside it.", "patch feather")
        self.edge = QWidget()
        edge = QGridLayout(self.edge)
        edge.setContentsMargins(20, 0, 0, 0)
        for column, (label, box) in enumerate((("grow", self.grow), ("feather", self.feather))):
            faint = QLabel(label)
            faint.setObjectName("faint")
            edge.addWidget(faint, 0, 2 * column)
            edge.addWidget(box, 0, 2 * column + 1)
        grid = QGridLayout(self)
        grid.setContentsMargins(2, 0, 0, 0)
        grid.setColumnStretch(0, 1)
        grid.addWidget(self.visible_box, 0, 0)
        grid.addWidget(self.remove, 0, 1)
        grid.addWidget(self.edge, 1, 0, 1, 2)
        self.visible_box.toggled.connect(self._show)
        self.grow.valueChanged.connect(lambda v: self._edge("grow", grow=v))
        self.feather.valueChanged.connect(lambda v: self._edge("feather", feather=v))
        self.remove.clicked.connect(lambda: document.edit(document.sheet.without_layer(key), f"delete layer “{self._layer().name}”"))

    def _layer(self) -> Layer | Patch:
        return next(x for x in self.document.sheet.layers if x.key == self.key)

    def _show(self, on: bool) -> None:
        layer = self._layer()
        if layer.visible != on:
            self.document.edit(self.document.sheet.with_layer(replace(layer, visible=on)), f"{'show' if on else 'hide'} “{layer.name}”")

    def _edge(self, what: str, **values: float) -> None:
        patch = self._layer()
        if isinstance(patch, Patch):
            self.document.edit(
                self.document.sheet.with_layer(replace(patch, **values)),  # type: ignore[arg-type]
                f"{what} of “{patch.name}”",
                f"{what} of patch {self.key}",
            )

    def show_layer(self) -> None:
        """Shows the layer as it is."""
        layer = self._layer()
        partial = isinstance(layer, Patch) and not bool(layer.region.all())
        self.visible_box.setText(("patch: " if isinstance(layer, Patch) else "picture: ") + layer.name)
        show_checked(self.visible_box, layer.visible)
        # A patch that fills its whole frame has no edge to change.
        self.edge.setVisible(partial)
        if isinstance(layer, Patch):
            show_number(self.grow, layer.grow)
            show_number(self.feather, layer.feather)
