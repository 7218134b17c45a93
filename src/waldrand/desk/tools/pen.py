"""A pen that draws lines for passes to follow: strokes on a drawing of the whole, or of the chosen element."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent

from ...core.values.layers import LINES
from ...core.values.pencil import Pencil
from ...core.values.strokes import Stroke, widths
from ...core.worded import worded
from .hand import Hand, UnderHand, held

#: Screen pixels between points that are worth keeping.
APART = 1.5


class Pen(Hand):
    """Draws, or with X rubs out. A drawing that is told to passes is no part of the picture."""

    name, title, shortcut = "pen", "Pen", "Shift+G"
    tip = "Draw lines that passes follow: on the chosen drawing, else on one of the chosen element, or of the whole"
    group = "guides"
    hint = "Drag: draw · Shift+click: a straight line on from the last · X: rub out · it is told to passes, in the picture only as ink"
    cursor = Qt.CursorShape.CrossCursor
    has_pen = True
    shows_handles = False

    def __init__(self, view: UnderHand) -> None:
        super().__init__(view)
        self._points: list[tuple[float, float, float]] = []
        self._on: Pencil | None = None
        self._last: QPointF | None = None

    def drawing(self) -> Pencil:
        """What it draws on, as it is: the chosen drawing, else the uppermost of the chosen element or of the whole, else a new one."""
        sheet, selection = self.document.sheet, self.view.selection
        chosen = sheet.layer(selection.layer) if selection.layer is not None and sheet.has_layer(selection.layer) else None
        if isinstance(chosen, Pencil):
            return chosen
        of = selection.selected
        for layer in reversed(sheet.layers):
            if isinstance(layer, Pencil) and layer.of == of and layer.visible and layer.role == LINES:
                return layer
        name = worded("drawing") if of is None else worded("drawing of {0}", sheet.element(of).name)
        return Pencil.new(sheet.next_key(), name, sheet.width, sheet.height, of)

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        self._on = self.drawing()
        self._points = []
        if held(event, Qt.KeyboardModifier.ShiftModifier) and self._last is not None:
            self._add(self._last)
        self._add(p)

    def drag(self, p: QPointF, event: QMouseEvent) -> None:
        if self._on is None:
            return
        x, y, _ = self._points[-1]
        if abs(p.x() - x) + abs(p.y() - y) >= self.reach(APART):
            self._add(p)

    def _add(self, p: QPointF) -> None:
        assert self._on is not None
        self._points.append((p.x(), p.y(), self.view.brush.pressure))
        self.view.canvas.drawings.show_stroke(self._stroke())

    def _stroke(self) -> Stroke:
        return Stroke(widths(self._points, self.view.brush.pen), self.view.brush.erasing)

    def release(self, p: QPointF, event: QMouseEvent) -> None:
        on, points = self._on, self._points
        if on is None or not points:
            return
        self._last = p
        stroke = self._stroke()
        self.put_down()
        if stroke.rubs and not on.strokes:
            self.view.said.emit(worded("There is nothing drawn yet to rub out: X turns it into a pen again."))
            return
        what = worded("rub out") if stroke.rubs else worded("draw")
        self.document.edit(self.document.sheet.with_layer(on.with_stroke(stroke)), what)

    def put_down(self) -> None:
        self._on, self._points = None, []
        self.view.canvas.drawings.show_stroke(None)
