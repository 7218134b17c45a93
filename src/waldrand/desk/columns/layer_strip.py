"""What can be done with the chosen layer, beside it on the sheet."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from PyQt6.QtCore import QPointF, Qt, QTimer
from PyQt6.QtGui import QColor, QPen
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QGraphicsEllipseItem,
    QGraphicsRectItem,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ...core.picture.composite import BLENDS
from ...core.refused import Refused
from ...core.values.belonging import SHOWS, belonging, seam_of, worst_of
from ...core.values.frame import Rect
from ...core.values.layers import BOTH, DEPTH, FEEDS, GUIDES, LINES, LOOK, SEEN, Layer
from ...core.worded import worded
from ..document import Document
from ..jobs.layering import Layering
from ..jobs.writing import Writing
from ..look.look import Look
from ..sheet_view.view import SheetView
from .floating import Floating
from .layer_parts import LettersPart, LightPart, PlacePart, ToldPart
from .widgets import number, show_checked, show_number, small_button
from .words_field import WordsField

#: Of the strip, and half of the ring where an edge shows most, screen pixels.
WIDTH, MARK = 268, 9
#: Sheet pixels from which on a layer's seam is only looked for when the hand rests, and milliseconds until it does.
LARGE, REST = 1_000_000, 400


#: What a layer may be used as, and how that is called.
USES = (
    (BOTH, "both"),
    (SEEN, "only seen"),
    (FEEDS, "only feeds"),
    (LINES, "a drawing"),
    (DEPTH, "depth"),
    (LOOK, "a look"),
)


class LayerStrip(Floating):
    """A layer: its name, shown or hidden, lower or higher, a twin; its edge and how it joins, without computing it again; its place,
    light and letters."""

    def __init__(self, document: Document, view: SheetView, layering: Layering, writing: Writing) -> None:
        super().__init__(view)
        self.document, self.layering, self.writing = document, layering, writing
        self._looked: tuple[Layer | None, Rect] = None, Rect(0, 0, 1, 1)
        self._seam_of: tuple[tuple[Layer, ...], int] = (), -1
        self._resting = QTimer(self)
        self._resting.setSingleShot(True)
        self._resting.setInterval(REST)
        self._resting.timeout.connect(self._look_at_seam)
        self.setFixedWidth(WIDTH)
        self.swatch.setObjectName("grip")
        self._border = QGraphicsRectItem()
        self._border.setZValue(58)
        self._border.hide()
        # As large at any zoom: where its edge shows most.
        self._worst = QGraphicsEllipseItem(-MARK, -MARK, 2 * MARK, 2 * MARK)
        self._worst.setFlag(QGraphicsEllipseItem.GraphicsItemFlag.ItemIgnoresTransformations)
        self._worst.setZValue(59)
        self._worst.hide()
        for item in (self._border, self._worst):
            view.canvas.addItem(item)
        self.name = WordsField(worded("name"), worded("The layer's name, for you."), worded("layer name"))
        self.farther, self.nearer = (
            small_button("▲", worded("Lower: behind the layer before it")),
            small_button("▼", worded("Higher: over the layer after it")),
        )
        self.copy = small_button("+", worded("Duplicate this layer"))
        self.remove = small_button("✕", worded("Delete this layer (Delete)"))
        self.visible_box = QCheckBox(worded("shown"))
        self.visible_box.setToolTip(worded("Show or hide this layer."))
        self.grow = number(-500, 500, 1, 0, worded("Grow the patch's edge by pixels; below 0: shrink it."), worded("patch grow"))
        self.feather = number(0, 500, 1, 0, worded("Feather of the patch's edge in pixels, inside it."), worded("patch feather"))
        self.opacity = number(0, 1, 0.05, 2, worded("Opacity of the layer: 0 is not seen, 1 covers."), worded("layer opacity"))
        match_tip = worded("Match: by so much its colours and light become those of what lies round it.")
        self.match = number(0, 1, 0.1, 2, match_tip, worded("layer match"))
        seam_tip = worded("No seam: by so much the difference at its edge is carried smoothly inward.")
        self.seamless = number(0, 1, 0.1, 2, seam_tip, worded("layer without a seam"))
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 6, 8, 7)
        column.setSpacing(5)
        top = QHBoxLayout()
        top.setSpacing(4)
        for part in (self.swatch, self.name, self.farther, self.nearer, self.copy, self.remove):
            top.addWidget(part)
        column.addLayout(top)
        column.addLayout(self._use_part())
        column.addWidget(self._edge_part())
        column.addLayout(self._more_part())
        self._connect()
        self.hide()

    def _use_part(self) -> QHBoxLayout:
        self.role, self.blend = QComboBox(), QComboBox()
        self.role.setAccessibleName(worded("what the layer is used as"))
        self.role.setToolTip(
            worded(
                "Whether the layer is seen, feeds passes (is what they start from), or both; or what passes are told by it: "
                "lines to follow, how near everything is, or a look. Then it is no part of the picture."
            )
        )
        for value, text in USES:
            self.role.addItem(worded(text), value)
        self.blend.setAccessibleName(worded("blending"))
        self.blend.setToolTip(worded("How it meets what lies below it."))
        for blend in BLENDS:
            self.blend.addItem(worded(blend), blend)
        row = QHBoxLayout()
        row.setSpacing(4)
        row.addWidget(self.visible_box)
        for combo in (self.role, self.blend):
            combo.setMinimumWidth(60)
            combo.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            row.addWidget(combo, 1)
        return row

    def _more_part(self) -> QVBoxLayout:
        """Parts of which one at a time is open, so that the strip stays small."""
        self.place_part, self.light_part, self.letters_part, self.told_part = PlacePart(), LightPart(), LettersPart(), ToldPart()
        self._parts: dict[str, tuple[QToolButton, PlacePart | LightPart | LettersPart | ToldPart]] = {}
        row, column = QHBoxLayout(), QVBoxLayout()
        row.setSpacing(4)
        column.setSpacing(4)
        column.addLayout(row)
        for name, tip, part in (
            ("place", "Place, size and turn by numbers; on the sheet by the handles", self.place_part),
            ("light", "Light, colours and curve, never lost", self.light_part),
            ("letters", "Words, typeface and looks", self.letters_part),
            ("told", "At which steps passes are told of it, and what it belongs to", self.told_part),
        ):
            button = QToolButton()
            button.setObjectName("fold")
            button.setText(worded(name))
            button.setCheckable(True)
            button.setArrowType(Qt.ArrowType.RightArrow)
            button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
            button.setToolTip(worded(tip))
            button.setAccessibleName(worded("layer's {0}", worded(name)))
            button.toggled.connect(partial(self._open, name))
            row.addWidget(button)
            column.addWidget(part)
            part.hide()
            self._parts[name] = button, part
        row.addStretch(1)
        return column

    def _open(self, name: str, on: bool) -> None:
        for other, (button, part) in self._parts.items():
            if other != name and on:
                button.setChecked(False)
            if other == name:
                part.setVisible(on)
                button.setArrowType(Qt.ArrowType.DownArrow if on else Qt.ArrowType.RightArrow)
        self.place()

    def _edge_part(self) -> QWidget:
        self.edge = QWidget()
        grid = QGridLayout(self.edge)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(1)
        self._edges: dict[str, tuple[QLabel, QDoubleSpinBox]] = {}
        self._joins: dict[str, tuple[QLabel, QDoubleSpinBox]] = {}
        for i, (label, box) in enumerate((("opacity", self.opacity), ("grow", self.grow), ("feather", self.feather))):
            faint, row = QLabel(worded(label)), 2 if i else 0
            faint.setObjectName("faint")
            grid.addWidget(faint, row, max(0, i - 1))
            grid.addWidget(box, row + 1, max(0, i - 1))
            self._edges[label] = faint, box
            box.valueChanged.connect(partial(self._change_edge, label))
        self.seam = QLabel()
        self.seam.setObjectName("faint")
        tip = worded(
            "How visible its edge is: 1 is as anywhere else; a cut-out's own outline counts too. Of a patch a ring on the sheet shows "
            "where it is worst, from 1.6 on; match, no seam or a feather help."
        )
        self.seam.setToolTip(tip)
        for column, (label, box) in enumerate((("match", self.match), ("seamless", self.seamless)), 1):
            faint = QLabel(worded("no seam") if label == "seamless" else worded(label))
            faint.setObjectName("faint")
            grid.addWidget(faint, 0, column)
            grid.addWidget(box, 1, column)
            self._joins[label] = faint, box
            box.valueChanged.connect(partial(self._join, label))
        grid.addWidget(self.seam, 3, 2)
        return self.edge

    def _connect(self) -> None:
        self.name.said.connect(self._rename)
        self.visible_box.toggled.connect(self._show)
        self.role.activated.connect(lambda _: self.layering.set_value("role", self.role.currentData()))
        self.blend.activated.connect(lambda _: self.layering.set_value("blend", self.blend.currentData()))
        self.place_part.moved.connect(self.layering.place)
        self.place_part.mirrored.connect(self.layering.mirror)
        self.place_part.wanted_back.connect(self.layering.as_it_was)
        self.light_part.adjusted.connect(self.layering.adjust)
        self.light_part.within.connect(self.layering.adjust_within_mask)
        self.letters_part.said.connect(self.writing.set_letters)
        self.told_part.acted.connect(lambda acts: self.layering.set_value("acts", acts, "acts of a layer"))
        self.told_part.belongs.connect(lambda key: self.layering.set_value("of", key))
        self.farther.clicked.connect(lambda _: self._move(-1))
        self.nearer.clicked.connect(lambda _: self._move(1))
        self.copy.clicked.connect(self._duplicate)
        self.remove.clicked.connect(self.delete)
        self.view.selection.chosen.connect(lambda _: self._chosen())
        self.document.changed.connect(lambda *_: self.refresh())
        self.document.replaced.connect(self.refresh)

    @property
    def layer(self) -> Layer | None:
        """The chosen one; None when there is none, or it is just gone."""
        key, sheet = self.view.selection.layer, self.document.sheet
        return sheet.layer(key) if key is not None and sheet.has_layer(key) else None

    @property
    def about(self) -> tuple[float, float, float, float] | None:
        layer = self.layer
        if layer is None:
            return None
        r = self._seen(layer)
        return r.x0, r.y0, r.x1, r.y1

    def _seen(self, layer: Layer) -> Rect:
        """Where anything of a layer is seen; looked for once for each state of it."""
        if self._looked[0] is not layer:
            self._looked = layer, layer.seen
        return self._looked[1]

    def set_look(self, look: Look) -> None:
        pen = QPen(QColor(look.accent), 1.5, Qt.PenStyle.DotLine)
        pen.setCosmetic(True)
        self._border.setPen(pen)
        self._worst.setPen(QPen(QColor(look.accent), 2.5))
        self.light_part.curve.set_accent(look.accent)

    def place(self) -> None:
        # What is being dragged has no place yet.
        for item in (self._border, self._worst):
            item.setOpacity(0.0 if self.view.busy else 1.0)
        super().place()

    # --- changing

    def _edit(self, layer: Layer, what: str, merge: str = "", **values: object) -> None:
        self.document.edit(self.document.sheet.with_layer(layer.changed(**values)), what, merge)

    def _rename(self, name: str) -> None:
        layer = self.layer
        if layer is not None and name and name != layer.name:
            self._edit(layer, worded("name of “{0}”", name), name=name)

    def _show(self, on: bool) -> None:
        layer = self.layer
        if layer is not None and layer.visible != on:
            self._edit(layer, f"{'show' if on else 'hide'} “{layer.name}”", visible=on)

    def _move(self, by: int) -> None:
        layer, layers = self.layer, self.document.sheet.layers
        if layer is not None and 0 <= layers.index(layer) + by < len(layers):
            self.document.edit(self.document.sheet.moved_layer(layer.key, by), f"{'higher' if by > 0 else 'lower'}: “{layer.name}”")

    def _duplicate(self) -> None:
        sheet, layer = self.document.sheet, self.layer
        if layer is not None:
            twin = layer.changed(key=sheet.next_key(), name=worded("{0} again", layer.name))
            at = sheet.layers.index(layer) + 1
            self.document.edit(replace(sheet, layers=(*sheet.layers[:at], twin, *sheet.layers[at:])), worded("duplicate “{0}”", layer.name))

    def delete(self) -> None:
        """The chosen layer goes."""
        layer = self.layer
        if layer is not None:
            self.document.edit(self.document.sheet.without_layer(layer.key), worded("delete layer “{0}”", layer.name))

    def _change_edge(self, what: str, value: float) -> None:
        # A number typed in a strip whose layer is just deleted comes when the layer is gone.
        layer = self.layer
        if layer is not None and what in layer.edge:
            self._edit(layer, f"{what} of “{layer.name}”", worded("{0} of patch {1}", what, layer.key), **{what: value})

    def _join(self, what: str, value: float) -> None:
        layer = self.layer
        if layer is None or what not in layer.brought_by:
            return
        amounts = {**layer.brought_by, what: value}
        try:
            sheet = belonging(self.document.sheet, layer.key, **amounts)
        except Refused as error:
            self.view.said.emit(str(error))
            return
        self.document.edit(sheet, worded("{0} of “{1}”", worded(what), layer.name), f"{what} of layer {layer.key}")

    # --- showing

    def _chosen(self) -> None:
        focused = self.focusWidget()
        if focused is not None and focused.hasFocus() and self.layer is None:
            self.view.setFocus()
        self.refresh()

    def refresh(self) -> None:
        """Shows the layer as it is, beside it."""
        layer = self.layer
        self._border.setVisible(layer is not None)
        if layer is None:
            self._worst.hide()
            self._seam_of = (), -1
            self.hide()
            return
        r = self._seen(layer)
        self._border.setRect(r.x0, r.y0, r.width, r.height)
        self.name.show_text(layer.name)
        self.setAccessibleName(f"{layer.sort}: {layer.name}")
        show_checked(self.visible_box, layer.visible)
        self.role.setCurrentIndex(self.role.findData(layer.role))
        self.blend.setCurrentIndex(self.blend.findData(layer.blend))
        self.told_part.show_names([(e.key, e.name) for e in self.document.sheet.elements])
        self.blend.setVisible(layer.role not in GUIDES)
        for button, part in self._parts.values():
            can = part.show_layer(layer)
            button.setVisible(can)
            part.setVisible(can and button.isChecked())
        joins = layer.brought_by
        for what, (label, box) in self._joins.items():
            label.setVisible(what in joins)
            box.setVisible(what in joins)
            show_number(box, joins.get(what, 0.0))
        self._show_seam(layer)
        self.edge.setVisible(bool(layer.edge) or bool(joins))
        for what, (label, box) in self._edges.items():
            label.setVisible(what in layer.edge)
            box.setVisible(what in layer.edge)
            show_number(box, layer.edge.get(what, 0.0))
        self.place()

    def _show_seam(self, layer: Layer) -> None:
        """Looked for once for each state of the layers; of a large one when the hand rests."""
        state = self.document.sheet.layers, layer.key
        if self._seam_of == state:
            return
        self._seam_of = state
        if layer.bounds.intersect(self.document.sheet.rect).area < LARGE:
            self._look_at_seam()
        else:
            self.seam.setText("")
            self._worst.hide()
            self._resting.start()

    def _look_at_seam(self) -> None:
        layer, sheet = self.layer, self.document.sheet
        if layer is None:
            return
        found = seam_of(sheet, layer.key) if layer.brought_by else None
        self.seam.setText("" if found is None else worded("seam {0:.1f}", found))
        self.seam.setVisible(found is not None)
        # A cut-out is meant to have an outline; a patch is not.
        at = worst_of(sheet, layer.key) if found is not None and found >= SHOWS and layer.recipe is not None else None
        self._worst.setVisible(at is not None)
        if at is not None:
            self._worst.setPos(QPointF(*at))
