"""What of a layer can be set beside its name: its place, its light and colours, its letters."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from functools import partial

from PyQt6.QtCore import QSignalBlocker, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QPlainTextEdit, QVBoxLayout, QWidget

from ...core.fields import fields_of
from ...core.picture.adjusting import Adjustment
from ...core.picture.warped import Corners, moved_corners, scaled_corners, sheared_corners, size_and_turn, turned_corners
from ...core.refused import Refused
from ...core.values.layers import GUIDES, WHOLE, Layer
from ...core.values.lettering import Lettering, Letters
from ...core.worded import worded
from ...files.typefaces import families, styles
from .curve import Curve
from .widgets import choice_for, number, number_for, show_checked, show_number, small_button

#: The greatest numbers of a place, and the least of a size, in sheet pixels.
FAR, LEAST = 16384.0, 2.0


def _grid(part: QWidget) -> QGridLayout:
    grid = QGridLayout(part)
    grid.setContentsMargins(0, 0, 0, 0)
    grid.setVerticalSpacing(1)
    return grid


def _faint(text: str) -> QLabel:
    label = QLabel(worded(text))
    label.setObjectName("faint")
    return label


class PlacePart(QWidget):
    """Where a layer lies, how large, turned and leaning, by numbers. Signals: moved(corners, what of it), mirrored(upside down),
    wanted_back()."""

    moved = pyqtSignal(object, str)
    mirrored = pyqtSignal(bool)
    wanted_back = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        grid = _grid(self)
        self._corners: Corners | None = None
        tips = {
            "x": "Where its left edge lies.",
            "y": "Where its upper edge lies.",
            "width": "How wide it is drawn, in sheet pixels.",
            "height": "How high it is drawn, in sheet pixels.",
            "turn": "Turned clockwise by degrees.",
            "lean": "Its upright lines lean by degrees.",
        }
        self.boxes = {}
        for i, (name, tip) in enumerate(tips.items()):
            least = {"width": LEAST, "height": LEAST, "turn": -180.0, "lean": -80.0}.get(name, -FAR)
            most = {"turn": 180.0, "lean": 80.0}.get(name, FAR)
            box = number(least, most, 1, 1 if name in ("turn", "lean") else 0, worded(tip), worded("layer {0}", worded(name)))
            grid.addWidget(_faint(name), 2 * (i // 3), i % 3)
            grid.addWidget(box, 2 * (i // 3) + 1, i % 3)
            box.valueChanged.connect(partial(self._set, name))
            self.boxes[name] = box
        row = QHBoxLayout()
        across, down = small_button("↔", worded("Mirror this layer")), small_button("↕", worded("Mirror this layer upside down"))
        back = small_button("1:1", worded("Its own size: every pixel as it was brought in"))
        back.setFixedWidth(34)
        across.clicked.connect(lambda _: self.mirrored.emit(False))
        down.clicked.connect(lambda _: self.mirrored.emit(True))
        back.clicked.connect(lambda _: self.wanted_back.emit())
        for button in (across, down, back):
            row.addWidget(button)
        row.addStretch(1)
        grid.addLayout(row, 4, 0, 1, 3)

    def show_layer(self, layer: Layer) -> bool:
        """Shows where a layer lies; whether that can be set."""
        own = layer.as_picture()
        self._corners = None if own is None else own.corners
        if self._corners is not None:
            for name, value in _numbers(self._corners).items():
                show_number(self.boxes[name], value)
        return own is not None

    def _set(self, name: str, value: float) -> None:
        c = self._corners
        if c is None:
            return
        now = _numbers(c)
        if name in ("x", "y"):
            made = moved_corners(c, value - now["x"] if name == "x" else 0, value - now["y"] if name == "y" else 0)
        elif name == "turn":
            made = turned_corners(c, value - now["turn"])
        else:
            # As if it stood upright, then turned again.
            made = turned_corners(c, -now["turn"])
            if name == "lean":
                made = sheared_corners(sheared_corners(made, -now["lean"]), value)
            else:
                k = value / max(1e-6, now[name])
                made = scaled_corners(made, k if name == "width" else 1, k if name == "height" else 1)
            made = turned_corners(made, now["turn"])
        self.moved.emit(made, name)


def _numbers(c: Corners) -> dict[str, float]:
    width, height, turn = size_and_turn(c)
    side = math.degrees(math.atan2(c[3][1] - c[0][1], c[3][0] - c[0][0]))
    lean = (side - turn - 90 + 180) % 360 - 180
    # A mirrored layer's left side points up.
    lean = lean if abs(lean) <= 90 else (lean + 360) % 360 - 180
    return {"x": min(p[0] for p in c), "y": min(p[1] for p in c), "width": width, "height": height, "turn": turn, "lean": lean}


class LightPart(QWidget):
    """Light and colours. Signals: adjusted(an adjustment), within(whether only under the mask)."""

    adjusted = pyqtSignal(object)
    within = pyqtSignal(bool)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        inner = QWidget()
        grid = _grid(inner)
        self._now = Adjustment()
        self.boxes = {}
        for i, (name, field) in enumerate(fields_of(Adjustment).items()):
            tip = worded(field.option[:1].upper() + field.option[1:] + ".")
            box = number_for(replace(field, tip=tip), worded("layer {0}", worded(name)))
            grid.addWidget(_faint(name), 2 * (i // 3), i % 3)
            grid.addWidget(box, 2 * (i // 3) + 1, i % 3)
            box.valueChanged.connect(lambda v, name=name: self._set(**{name: v}))
            self.boxes[name] = box
        self.curve = Curve()
        self.curve.bent.connect(lambda points: self._set(curve=points))
        self.under = QCheckBox(worded("only under the mask"))
        self.under.setToolTip(worded("Adjust only what the mask covers just now; taken away, all of the layer is adjusted."))
        self.under.toggled.connect(self.within.emit)
        for part in (inner, self.curve, self.under):
            column.addWidget(part)

    def _set(self, **values: object) -> None:
        try:
            self.adjusted.emit(replace(self._now, **values))  # type: ignore[arg-type]
        except Refused:
            self.curve.show_points(self._now.curve)

    def show_layer(self, layer: Layer) -> bool:
        """Shows how a layer is adjusted; whether that can be set."""
        own = layer.as_picture() or layer
        finish = own.finished
        if finish is None:
            return False
        self._now = finish.adjustment
        for name, box in self.boxes.items():
            show_number(box, getattr(finish.adjustment, name))
        self.curve.show_points(finish.adjustment.curve)
        show_checked(self.under, finish.within is not None)
        return True


class ToldPart(QWidget):
    """How a layer is told to passes: at which steps, and of what. Signals: acted(from and to which share of the steps), belongs(an
    element's key, or None: the whole)."""

    acted = pyqtSignal(object)
    belongs = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        grid = _grid(self)
        self._acts = WHOLE
        self.begins = number(0, 1, 0.05, 2, worded("From which share of the steps on it is told; 0: from the first."), worded("told from"))
        self.ends = number(0, 1, 0.05, 2, worded("To which share of the steps it is told; 1: to the last."), worded("told to"))
        self.of = QComboBox()
        self.of.setAccessibleName(worded("what it belongs to"))
        self.of.setToolTip(worded("What it belongs to: the whole, or an element, with which it moves and in whose place it counts."))
        for i, (text, box) in enumerate((("from", self.begins), ("to", self.ends), ("of", self.of))):
            grid.addWidget(_faint(text), 0, i)
            grid.addWidget(box, 1, i)
        self.begins.valueChanged.connect(lambda v: self._set(v, self._acts[1]))
        self.ends.valueChanged.connect(lambda v: self._set(self._acts[0], v))
        self.of.activated.connect(lambda _: self.belongs.emit(self.of.currentData()))

    def show_names(self, elements: Sequence[tuple[int, str]]) -> None:
        """Keys and names of the elements that a layer may belong to."""
        with QSignalBlocker(self.of):
            self.of.clear()
            self.of.addItem(worded("the whole"), None)
            for key, name in elements:
                self.of.addItem(name, key)

    def show_layer(self, layer: Layer) -> bool:
        """Shows how a layer is told; whether it is."""
        self._acts = layer.acts
        show_number(self.begins, layer.acts[0])
        show_number(self.ends, layer.acts[1])
        with QSignalBlocker(self.of):
            self.of.setCurrentIndex(max(0, self.of.findData(layer.of)))
        return layer.role in GUIDES

    def _set(self, begins: float, ends: float) -> None:
        if begins < ends:
            self.acted.emit((begins, ends))
        else:
            show_number(self.begins, self._acts[0])
            show_number(self.ends, self._acts[1])


class LettersPart(QWidget):
    """Words and looks of a lettering. Signals: said(letters)."""

    said = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        self._now: Letters | None = None
        self.words = QPlainTextEdit()
        self.words.setFixedHeight(52)
        self.words.setTabChangesFocus(True)
        self.words.setAccessibleName(worded("words of the lettering"))
        self.words.setToolTip(worded("What it says; Enter begins another line."))
        self.words.textChanged.connect(lambda: self._set(words=self.words.toPlainText()))
        column.addWidget(self.words)
        self.family, self.style_box = QComboBox(), QComboBox()
        self.family.addItems(families())
        for combo, name, tip in ((self.family, "typeface", "Its typeface"), (self.style_box, "style", "Regular, bold, slanting, ...")):
            combo.setAccessibleName(worded(name))
            combo.setToolTip(worded(tip))
            combo.setMinimumWidth(60)
            combo.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            column.addWidget(combo)
        self.family.currentTextChanged.connect(self._set_family)
        self.style_box.currentTextChanged.connect(lambda style: self._set(style=style))
        inner = QWidget()
        grid = _grid(inner)
        known = fields_of(Letters)
        self.boxes = {}
        for i, name in enumerate(("size", "spacing", "leading")):
            box = number_for(known[name], worded("letters' {0}", worded(known[name].label)))
            grid.addWidget(_faint(known[name].label), 0, i)
            grid.addWidget(box, 1, i)
            box.valueChanged.connect(lambda v, name=name: self._set(**{name: v}))
            self.boxes[name] = box
        self.colour, self.align = QLineEdit(), choice_for(known["align"], worded("alignment"))
        self.colour.setAccessibleName(worded("colour of the letters"))
        self.colour.setToolTip(worded("Their colour: #rrggbb"))
        self.colour.editingFinished.connect(lambda: self._set(colour=self.colour.text()))
        self.align.currentIndexChanged.connect(lambda _: self._set(align=self.align.currentData()))
        grid.addWidget(self.colour, 2, 0)
        grid.addWidget(self.align, 2, 1, 1, 2)
        column.addWidget(inner)

    def _set_family(self, family: str) -> None:
        known = styles(family)
        if self._now is not None and family:
            style = self._now.style if self._now.style in known else (known[0] if known else "Regular")
            self._set(typeface=family, style=style)

    def _set(self, **values: object) -> None:
        if self._now is None:
            return
        try:
            said = replace(self._now, **values)  # type: ignore[arg-type]
        except Refused:
            self.colour.setText(self._now.colour)
            return
        if said.words.strip():
            self.said.emit(said)

    def show_layer(self, layer: Layer) -> bool:
        """Shows what a lettering says; whether it is one."""
        if not isinstance(layer, Lettering):
            self._now = None
            return False
        self._now = None
        says = layer.says
        if self.words.toPlainText().strip() != says.words.strip():
            self.words.setPlainText(says.words)
        for combo, known, value in ((self.family, families(), says.typeface), (self.style_box, styles(says.typeface), says.style)):
            with QSignalBlocker(combo):
                if [combo.itemText(i) for i in range(combo.count())] != known:
                    combo.clear()
                    combo.addItems(known)
                # What is missing here is still said.
                if combo.findText(value) < 0:
                    combo.addItem(value)
                combo.setCurrentText(value)
        for name, box in self.boxes.items():
            show_number(box, getattr(says, name))
        if not self.colour.hasFocus():
            self.colour.setText(says.colour)
        with QSignalBlocker(self.align):
            self.align.setCurrentIndex(self.align.findData(says.align))
        self._now = says
        return True
