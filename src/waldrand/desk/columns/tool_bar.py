"""What can be set for the tool in the hand, floating over the sheet so that nothing moves when it comes."""

from __future__ import annotations

from typing import get_args

from PyQt6.QtWidgets import QCheckBox, QComboBox, QFrame, QHBoxLayout, QLabel, QToolButton, QWidget

from ...core.worded import worded
from ..sheet_view.laying_out import Joining
from ..sheet_view.view import SheetView
from .paint_part import PaintPart
from .widgets import Dial

JOINING: dict[Joining, str] = {
    "new": "as a new element",
    "add": "added to the chosen one",
    "cut": "cut from the chosen one",
}
#: Screen pixels from the sheet view's upper edge.
TOP = 8


class ToolBar(QFrame):
    """clear_mask: the button that does."""

    def __init__(self, view: SheetView) -> None:
        super().__init__(view)
        self.setObjectName("floating")
        self._view = view
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 5, 10, 5)
        self._brush, self._shape, self.paint, self._pen = self._brush_part(), self._shape_part(), PaintPart(view), self._pen_part()
        for part in (self.paint, self._brush, self._shape, self._pen):
            row.addWidget(part)
        view.tool_changed.connect(self._show_tool)
        view.brush.changed.connect(self._show_brush)
        view.moved.connect(self._place)
        self._show_brush()
        self._show_tool(view.tool)

    def _brush_part(self) -> QWidget:
        part, row = _part()
        brush = self._view.brush
        self.radius = Dial(worded("Brush radius in sheet pixels (Q smaller, W larger)."), worded("brush size"), 1, 500, 5, 0)
        self.softness = Dial(
            worded("Soft edge of the brush, 0 to 1 (Shift+Q harder, Shift+W softer)."), worded("brush softness"), 0, 1, 0.1, 2
        )
        for dial, label in ((self.radius, "size"), (self.softness, "softness")):
            dial.setFixedWidth(132)
            row.addWidget(QLabel(worded(label)))
            row.addWidget(dial)
        self.eraser = QCheckBox(worded("eraser"))
        self.eraser.setToolTip(worded("Take away instead of adding (X)"))
        self.clear_mask = QToolButton()
        self.clear_mask.setText(worded("clear mask"))
        self.clear_mask.setToolTip(worded("Empty the mask"))
        row.addWidget(self.eraser)
        row.addWidget(self.clear_mask)
        self.radius.turned.connect(lambda r: brush.set(radius=r))
        self.softness.turned.connect(lambda s: brush.set(softness=s))
        self.eraser.toggled.connect(lambda on: brush.set(erasing=on))
        return part

    def _pen_part(self) -> QWidget:
        part, row = _part()
        brush = self._view.brush
        self.pen_width = Dial(
            worded("How wide the pen draws, in sheet pixels; a light touch draws thinner."), worded("pen width"), 0.5, 60, 0.5, 1
        )
        self.pen_width.setFixedWidth(132)
        self.rubs = QCheckBox(worded("rub out"))
        self.rubs.setToolTip(worded("Take away what is drawn instead of drawing (X)"))
        row.addWidget(QLabel(worded("width")))
        row.addWidget(self.pen_width)
        row.addWidget(self.rubs)
        self.pen_width.turned.connect(lambda w: brush.set(pen=w))
        self.rubs.toggled.connect(lambda on: brush.set(erasing=on))
        return part

    def _shape_part(self) -> QWidget:
        part, row = _part()
        self.joining = QComboBox()
        self.joining.setAccessibleName(worded("what a drawn outline becomes"))
        self.joining.setToolTip(worded("What a drawn outline becomes (J goes on to the next)."))
        for joining in get_args(Joining):
            self.joining.addItem(worded(JOINING[joining]), joining)
        row.addWidget(QLabel(worded("drawn outlines count")))
        row.addWidget(self.joining)
        self.joining.currentIndexChanged.connect(lambda _: setattr(self._view.laying, "joining", self.joining.currentData()))
        return part

    def next_joining(self) -> None:
        """The next of what drawn outlines become."""
        self.joining.setCurrentIndex((self.joining.currentIndex() + 1) % self.joining.count())

    def _show_tool(self, tool: str) -> None:
        hand = self._view.hands[tool]
        self._brush.setVisible(hand.has_brush)
        self._pen.setVisible(hand.has_pen)
        self.eraser.setText(worded(hand.turned))
        self.clear_mask.setVisible(hand.paints_mask)
        self._shape.setVisible(hand.draws)
        self.paint.setVisible(hand.has_paints or hand.takes_alike)
        self.paint.show_for(hand.has_paints, hand.takes_alike)
        self.setVisible(hand.has_brush or hand.has_pen or hand.draws or hand.has_paints or hand.takes_alike)
        self._place()

    def _show_brush(self) -> None:
        brush = self._view.brush
        self.radius.show_value(brush.radius)
        self.softness.show_value(brush.softness)
        self.eraser.setChecked(brush.erasing)
        self.rubs.setChecked(brush.erasing)
        self.pen_width.show_value(brush.pen)

    def _place(self) -> None:
        """In the middle of the view's upper edge."""
        self.adjustSize()
        self.move(max(0, (self._view.width() - self.width()) // 2), TOP)


def _part() -> tuple[QWidget, QHBoxLayout]:
    part = QWidget()
    row = QHBoxLayout(part)
    row.setContentsMargins(0, 0, 0, 0)
    return part, row
