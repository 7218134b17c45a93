"""Small parts that columns are made of."""

from __future__ import annotations

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QAbstractSpinBox,
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLayout,
    QScrollArea,
    QSlider,
    QSpinBox,
    QToolButton,
    QWidget,
)

from ...core.fields import Field
from ...core.worded import worded

#: What is turned in the window stays within this.
MOST_TURNED = 999.0


def heading(text: str) -> QLabel:
    label = QLabel(text.upper())
    label.setObjectName("heading")
    return label


def hint(text: str) -> QLabel:
    label = QLabel(text)
    label.setObjectName("hint")
    label.setWordWrap(True)
    return label


def labelled(grid: QGridLayout, *rows: tuple[str, QWidget]) -> dict[str, QLabel]:
    """Rows of a faint label and its field; returns the labels by their text."""
    labels = {}
    for r, (text, field) in enumerate(rows):
        labels[text] = QLabel(worded(text))
        labels[text].setObjectName("faint")
        grid.addWidget(labels[text], r, 0)
        grid.addWidget(field, r, 1)
    return labels


def scrolled(layout: QLayout) -> QScrollArea:
    """A column that scrolls up and down."""
    layout.setContentsMargins(9, 10, 7, 10)
    layout.setSpacing(8)
    inner = QWidget()
    inner.setObjectName("panel")
    inner.setLayout(layout)
    scroll = QScrollArea()
    scroll.setWidgetResizable(True)
    scroll.setWidget(inner)
    scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    return scroll


def small_button(text: str, tip: str) -> QToolButton:
    button = QToolButton()
    button.setObjectName("small")
    button.setFixedWidth(24)
    button.setText(text)
    button.setToolTip(tip)
    button.setAccessibleName(tip.split(":")[0].split(" (")[0])
    return button


def show_number(box: QDoubleSpinBox | QSpinBox | QSlider, value: float) -> None:
    """Shows a value without saying that it changed."""
    with QSignalBlocker(box):
        if isinstance(box, QDoubleSpinBox):
            box.setValue(value)
        else:
            box.setValue(round(value))


def show_checked(box: QCheckBox, on: bool) -> None:
    """Shows a tick without saying that it changed."""
    with QSignalBlocker(box):
        box.setChecked(on)


def _leave_wheel(box: QAbstractSpinBox | QComboBox | QSlider) -> None:
    """The wheel scrolls the column; it must not change values on the way."""
    box.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
    box.wheelEvent = lambda e: e.ignore() if e else None  # type: ignore[method-assign]


def _prepare(box: QAbstractSpinBox, tip: str, name: str) -> None:
    box.setButtonSymbols(QAbstractSpinBox.ButtonSymbols.NoButtons)
    box.setMinimumWidth(44)
    box.setKeyboardTracking(False)
    box.setToolTip(worded("{0} Type it, or use the up and down keys.", tip))
    box.setAccessibleName(name)
    _leave_wheel(box)


def number(least: float, most: float, step: float, decimals: int, tip: str, name: str) -> QDoubleSpinBox:
    box = QDoubleSpinBox()
    box.setRange(least, most)
    box.setSingleStep(step)
    box.setDecimals(decimals)
    _prepare(box, tip, name)
    return box


def whole_number(least: int, most: int, tip: str, name: str) -> QSpinBox:
    box = QSpinBox()
    box.setRange(least, most)
    _prepare(box, tip, name)
    return box


def number_for(field: Field, name: str) -> QDoubleSpinBox:
    """A number as its field says it may be, turned by at most what the window has room for."""
    return number(field.least, min(field.most, MOST_TURNED), field.step, field.decimals, worded(field.tip), name)


def whole_for(field: Field, name: str) -> QSpinBox:
    return whole_number(int(field.least), int(field.most), worded(field.tip), name)


def tick_for(field: Field, name: str = "") -> QCheckBox:
    box = QCheckBox(worded(field.label))
    box.setToolTip(worded(field.tip))
    if name:
        box.setAccessibleName(name)
    return box


def choice_for(field: Field, name: str) -> QComboBox:
    box = QComboBox()
    box.setToolTip(worded(field.tip))
    box.setAccessibleName(name)
    for value, text in field.choices:
        box.addItem(worded(text), value)
    box.setMinimumWidth(60)
    _leave_wheel(box)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    return box


class Dial(QWidget):
    """A slider and a typed number for the same value."""

    turned = pyqtSignal(float)

    def __init__(self, tip: str, name: str, least: float = 0.0, most: float = 1.0, step: float = 0.05, decimals: int = 2) -> None:
        super().__init__()
        self._least, self._most = least, most
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, 100)
        self.slider.setToolTip(tip)
        _leave_wheel(self.slider)
        self.slider.setAccessibleName(name)
        self.box = number(least, most, step, decimals, tip, worded("{0}, typed", name))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.slider, 1)
        self.box.setFixedWidth(58)
        row.addWidget(self.box)
        self.slider.valueChanged.connect(lambda v: self._turn(least + (most - least) * v / 100))
        self.box.valueChanged.connect(self._turn)

    def _turn(self, value: float) -> None:
        self.show_value(value)
        self.turned.emit(value)

    def show_value(self, value: float) -> None:
        show_number(self.slider, 100 * (value - self._least) / (self._most - self._least))
        show_number(self.box, value)
