"""The sheet and its elements divided by lines."""

from __future__ import annotations

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QMouseEvent, QPainterPath

from ...core.refused import Refused
from ...core.values.dividing import divide
from ...core.values.division import Axis
from ...core.values.outline import Box
from ...core.worded import worded
from .hand import LEAST_BOX, Hand, UnderHand


class Divide(Hand):
    """A line drawn through the sheet or an element divides it there: upright lines across, level ones down."""

    name, title, shortcut = "divide", "Divide", "I"
    tip = "Draw a line through the sheet or an element to divide it; lines stay draggable"
    hint = "Drag: a line through the sheet or an element, upright or level"

    def __init__(self, view: UnderHand) -> None:
        super().__init__(view)
        self._from = QPointF()

    def _cut(self, p: QPointF) -> tuple[Axis, Box, float, int | None]:
        """Which way, through which box, where (0..1), of which element."""
        sheet = self.document.sheet
        middle = QPointF((self._from.x() + p.x()) / 2, (self._from.y() + p.y()) / 2)
        key = self.view.canvas.element_at(middle)
        box: Box = (0, 0, sheet.width, sheet.height) if key is None else sheet.element(key).outline.box
        axis: Axis = "across" if abs(p.y() - self._from.y()) >= abs(p.x() - self._from.x()) else "down"
        at = (middle.x() - box[0]) / (box[2] - box[0]) if axis == "across" else (middle.y() - box[1]) / (box[3] - box[1])
        return axis, box, at, key

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        self._from = p

    def drag(self, p: QPointF, event: QMouseEvent) -> None:
        axis, (x0, y0, x1, y1), at, _ = self._cut(p)
        path = QPainterPath()
        if axis == "across":
            path.moveTo(x0 + at * (x1 - x0), y0)
            path.lineTo(x0 + at * (x1 - x0), y1)
        else:
            path.moveTo(x0, y0 + at * (y1 - y0))
            path.lineTo(x1, y0 + at * (y1 - y0))
        self.view.canvas.show_draft(path)

    def release(self, p: QPointF, event: QMouseEvent) -> None:
        self.view.canvas.show_draft(None)
        if (p - self._from).manhattanLength() < self.reach(LEAST_BOX):
            self.view.said.emit(worded("Draw a line through the sheet or an element: upright to divide across, level to divide down."))
            return
        axis, _, at, key = self._cut(p)
        shares = (at, 1 - at)
        try:
            if not 0 < at < 1:
                raise Refused(worded("That line does not cross anything that can be divided."))
            sheet = (
                divide(self.document.sheet, shares, (1.0,), key) if axis == "across" else divide(self.document.sheet, (1.0,), shares, key)
            )
        except Refused as error:
            self.view.said.emit(str(error))
            return
        self.document.edit(
            sheet, worded("divide the sheet") if key is None else worded("divide “{0}”", self.document.sheet.element(key).name)
        )
