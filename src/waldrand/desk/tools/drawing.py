"""Outlines drawn: rectangles, ellipses, polygons and by free hand."""

from __future__ import annotations

import math
from typing import Literal

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainterPath

from ...core.refused import Refused
from ...core.values.outline import Outline, freehand
from ...core.values.shaping import snap
from ...core.worded import worded
from .hand import CLOSE, LEAST_BOX, SNAP, Hand, UnderHand, held


class _Cornered(Hand):
    """Shapes drawn from corner to corner."""

    shape: Literal["box", "ellipse"]
    draws = True

    def __init__(self, view: UnderHand) -> None:
        super().__init__(view)
        self._from = QPointF()

    def _rect(self, p: QPointF, event: QMouseEvent) -> QRectF:
        xs, ys = self.view.canvas.snaps.lines(())
        free = held(event, Qt.KeyboardModifier.ControlModifier)
        corners = []
        for q in (self._from, p):
            sx = 0.0 if free else snap((q.x(),), xs, self.reach(SNAP))[0]
            sy = 0.0 if free else snap((q.y(),), ys, self.reach(SNAP))[0]
            corners.append(QPointF(q.x() + sx, q.y() + sy))
        a, b = corners
        if held(event, Qt.KeyboardModifier.ShiftModifier):
            side = max(abs(b.x() - a.x()), abs(b.y() - a.y()))
            b = QPointF(a.x() + math.copysign(side, b.x() - a.x()), a.y() + math.copysign(side, b.y() - a.y()))
        return QRectF(a, b).normalized()

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        self._from = p

    def drag(self, p: QPointF, event: QMouseEvent) -> None:
        path = QPainterPath()
        (path.addRect if self.shape == "box" else path.addEllipse)(self._rect(p, event))
        self.view.canvas.show_draft(path)

    def release(self, p: QPointF, event: QMouseEvent) -> None:
        self.view.canvas.show_draft(None)
        r = self._rect(p, event)
        if min(r.width(), r.height()) * self.view.scale_now >= LEAST_BOX:
            self.view.laying.take_outline(Outline(self.shape, (r.left(), r.top(), r.right(), r.bottom())))
        else:
            self.view.said.emit(worded("Drag from corner to corner to draw an outline."))


class Rectangle(_Cornered):
    name, title, shortcut, shape = "box", "Rectangle", "R", "box"
    tip = "Draw an element's outline as a rectangle (Shift: square)"
    hint = "Drag: from corner to corner · Shift: square · Ctrl: no snapping"


class Ellipse(_Cornered):
    name, title, shortcut, shape = "ellipse", "Ellipse", "E", "ellipse"
    tip = "Draw an element's outline as an ellipse (Shift: circle)"
    hint = "Drag: from corner to corner · Shift: circle · Ctrl: no snapping"


class Freehand(Hand):
    """An outline drawn in one go."""

    name, title, shortcut = "freehand", "Freehand", "F"
    tip = "Draw an element's outline by hand"
    hint = "Drag: round the place you mean"
    draws = True

    def __init__(self, view: UnderHand) -> None:
        super().__init__(view)
        self._points: list[tuple[float, float]] = []

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        self._points = [(p.x(), p.y())]

    def drag(self, p: QPointF, event: QMouseEvent) -> None:
        self._points.append((p.x(), p.y()))
        path = QPainterPath(QPointF(*self._points[0]))
        for q in self._points[1:]:
            path.lineTo(QPointF(*q))
        self.view.canvas.show_draft(path)

    def release(self, p: QPointF, event: QMouseEvent) -> None:
        self.view.canvas.show_draft(None)
        try:
            self.view.laying.take_outline(freehand(self._points))
        except Refused as error:
            self.view.said.emit(str(error))


class ByCorners(Hand):
    """What is drawn corner by corner, by clicks; Enter or a double click closes it, Backspace takes one back, Escape gives it up."""

    draws = True

    def __init__(self, view: UnderHand) -> None:
        super().__init__(view)
        self._points: list[QPointF] = []

    def _show(self, to: QPointF | None = None) -> None:
        """Draws what there is, and on to a point."""
        raise NotImplementedError

    def _close(self) -> None:
        """Makes an outline of it."""
        raise NotImplementedError

    def _back(self) -> None:
        """Takes the last corner back."""
        self._points.pop()
        self._show()

    def _take(self, points: list[tuple[float, float]]) -> None:
        try:
            self.view.laying.take_outline(freehand(points))
        except Refused as error:
            self.view.said.emit(str(error))

    def hover(self, p: QPointF, event: QMouseEvent) -> None:
        if self._points:
            self._show(p)

    def double(self, p: QPointF, event: QMouseEvent) -> None:
        self._close()

    def key(self, event: QKeyEvent) -> bool:
        if not self._points:
            return False
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._close()
        elif event.key() == Qt.Key.Key_Backspace:
            self._back()
        elif event.key() == Qt.Key.Key_Escape:
            self.put_down()
        else:
            return False
        return True

    def put_down(self) -> None:
        self._points = []
        self.view.canvas.show_draft(None)


class Polygon(ByCorners):
    """Corner by corner: click, and close with Enter, a double click or a click on the first."""

    name, title, shortcut = "polygon", "Polygon", "G"
    tip = "Click an outline's corners; Enter closes it"
    hint = "Click: a corner · Enter or the first corner: close · Backspace: one back · Escape: give up"

    def _show(self, to: QPointF | None = None) -> None:
        if not self._points:
            self.view.canvas.show_draft(None)
            return
        path = QPainterPath(self._points[0])
        for q in (*self._points[1:], *([to] if to is not None else [])):
            path.lineTo(q)
        r = self.reach(4)
        path.addEllipse(self._points[0], r, r)
        self.view.canvas.show_draft(path)

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        if len(self._points) >= 3 and (p - self._points[0]).manhattanLength() < self.reach(CLOSE):
            self._close()
            return
        self._points.append(p)
        self._show()
        if len(self._points) == 1:
            self.view.said.emit(worded("Click the corners; Enter or a click on the first closes the outline, Backspace takes one back."))

    def _close(self) -> None:
        points = self._points
        self.put_down()
        self._take([(q.x(), q.y()) for q in points])
