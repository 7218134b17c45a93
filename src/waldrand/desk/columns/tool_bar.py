"""The tools over the sheet, what can be set for the one in the hand, and the zoom."""

from __future__ import annotations

from functools import partial
from typing import get_args

from PyQt6.QtGui import QAction, QActionGroup
from PyQt6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QLabel, QToolButton, QVBoxLayout, QWidget

from ..sheet_view.laying_out import Joining
from ..sheet_view.view import SheetView
from .widgets import Dial

JOINING: dict[Joining, str] = {
    "new": "as a new element",
    "add": "added to the chosen one",
    "cut": "cut from the chosen one",
}


class ToolBar(QWidget):
    """actions: of the tools, by their names; clear_mask: the button that does."""

    def __init__(self, view: SheetView) -> None:
        super().__init__()
        self._view = view
        self.tools: dict[str, QAction] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for part in (self._tool_row(), self._brush_row(), self._shape_row()):
            column.addWidget(part)
        view.tool_changed.connect(self._show_tool)
        view.brush.changed.connect(self._show_brush)
        view.zoomed.connect(lambda s: self.zoom_label.setText(f"{100 * s:.0f} %"))
        self._show_brush()

    def _tool_row(self) -> QWidget:
        bar, row = _bar(8, 5)
        row.setSpacing(3)
        group = QActionGroup(self)
        for name, hand in self._view.hands.items():
            action = QAction(hand.title, self)
            action.setCheckable(True)
            action.setShortcut(hand.shortcut)
            action.setToolTip(f"{hand.tip} ({hand.shortcut})")
            action.triggered.connect(partial(self._view.set_tool, name))
            group.addAction(action)
            self.tools[name] = action
            button = QToolButton()
            button.setObjectName("tool")
            button.setDefaultAction(action)
            row.addWidget(button)
        self.tools[self._view.tool].setChecked(True)
        row.addStretch(1)
        self.zoom_label = QLabel("100 %")
        self.zoom_label.setToolTip("Zoom: wheel, or + and −")
        row.addWidget(self.zoom_label)
        for text, tip, act in (
            ("Fit", "Show the whole sheet (0)", self._view.fit),
            ("1:1", "One sheet pixel on one screen pixel (1)", partial(self._view.zoom_to, 1.0)),
        ):
            button = QToolButton()
            button.setObjectName("tool")
            button.setText(text)
            button.setToolTip(tip)
            button.clicked.connect(lambda _=False, act=act: act())
            row.addWidget(button)
        return bar

    def _brush_row(self) -> QWidget:
        self._brush_bar, row = _bar(10, 0)
        self._brush_bar.hide()
        brush = self._view.brush
        self.radius = Dial("Brush radius in sheet pixels (Q smaller, W larger).", "brush size", 1, 500, 5, 0)
        self.softness = Dial("Soft edge of the brush, 0 to 1 (Shift+Q harder, Shift+W softer).", "brush softness", 0, 1, 0.1, 2)
        for dial, label in ((self.radius, "size"), (self.softness, "softness")):
            dial.setFixedWidth(170)
            row.addWidget(QLabel(label))
            row.addWidget(dial)
        self.eraser = QCheckBox("eraser")
        self.eraser.setToolTip("Take away instead of adding (X)")
        self.clear_mask = QToolButton()
        self.clear_mask.setText("clear mask")
        self.clear_mask.setToolTip("Empty the mask")
        row.addWidget(self.eraser)
        row.addWidget(self.clear_mask)
        row.addStretch(1)
        self.radius.turned.connect(lambda r: brush.set(radius=r))
        self.softness.turned.connect(lambda s: brush.set(softness=s))
        self.eraser.toggled.connect(lambda on: brush.set(erasing=on))
        return self._brush_bar

    def _shape_row(self) -> QWidget:
        self._shape_bar, row = _bar(10, 0)
        self._shape_bar.hide()
        self.joining = QComboBox()
        self.joining.setAccessibleName("what a drawn outline becomes")
        self.joining.setToolTip("What a drawn outline becomes (J goes on to the next).")
        for joining in get_args(Joining):
            self.joining.addItem(JOINING[joining], joining)
        row.addWidget(QLabel("drawn outlines count"))
        row.addWidget(self.joining)
        row.addStretch(1)
        self.joining.currentIndexChanged.connect(lambda _: setattr(self._view.laying, "joining", self.joining.currentData()))
        return self._shape_bar

    def next_joining(self) -> None:
        """The next of what drawn outlines become."""
        self.joining.setCurrentIndex((self.joining.currentIndex() + 1) % self.joining.count())

    def _show_tool(self, tool: str) -> None:
        hand = self._view.hands[tool]
        self.tools[tool].setChecked(True)
        self._brush_bar.setVisible(hand.has_brush)
        self.clear_mask.setVisible(hand.paints_mask)
        self._shape_bar.setVisible(hand.draws)

    def _show_brush(self) -> None:
        brush = self._view.brush
        self.radius.show_value(brush.radius)
        self.softness.show_value(brush.softness)
        self.eraser.setChecked(brush.erasing)


def _bar(left: int, upper: int) -> tuple[QWidget, QHBoxLayout]:
    bar = QWidget()
    bar.setObjectName("panel")
    row = QHBoxLayout(bar)
    row.setContentsMargins(left, upper, 8, 5)
    return bar, row
