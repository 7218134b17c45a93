"""What the hand does on the sheet: one small class for each tool."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING, Literal

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainterPath

from ...core.refused import Refused
from ...core.values.division import Axis, Division, divide, draggable, move_line
from ...core.values.element import Element
from ...core.values.masks import Mask
from ...core.values.outline import Box, Outline, freehand
from ...core.values.shaping import drawn, painted, polygon, rotated, snap, with_new_point, with_point, without_point
from ..sheet_view.items import HANDLES

if TYPE_CHECKING:
    from ..sheet_view.view import SheetView

Tool = Literal["arrange", "box", "ellipse", "polygon", "freehand", "points", "shape", "divide", "brush"]
LEAST_BOX = 8.0
SNAP = 7.0
CLOSE = 10.0


class Hand:
    """A tool in the hand. Points are sheet coordinates; `event` tells which keys are held."""

    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, view: SheetView) -> None:
        self.view = view
        self.document = view.document

    def press(self, p: QPointF, event: QMouseEvent) -> None: ...

    def drag(self, p: QPointF, event: QMouseEvent) -> None: ...

    def hover(self, p: QPointF, event: QMouseEvent) -> None: ...

    def release(self, p: QPointF, event: QMouseEvent) -> None: ...

    def double(self, p: QPointF, event: QMouseEvent) -> None: ...

    def key(self, event: QKeyEvent) -> bool:
        """Whether the key was for this tool."""
        return False

    def put_down(self) -> None:
        """What is half drawn is given up."""

    def reach(self, pixels: float) -> float:
        """Screen pixels in sheet pixels."""
        return pixels / self.view.scale_now


def _held(event: QMouseEvent, key: Qt.KeyboardModifier) -> bool:
    return bool(event.modifiers() & key)


class Arrange(Hand):
    """Choosing, moving, resizing, turning, the strength gauge, dividing lines; empty places pan."""

    cursor = Qt.CursorShape.ArrowCursor

    def __init__(self, view: SheetView) -> None:
        super().__init__(view)
        self._what = ""
        self._from = QPointF()
        self._before: dict[int, Element] = {}
        self._handle = 0
        self._line: tuple[Division, Axis, int] | None = None
        self._stroke = 0

    def line_at(self, p: QPointF) -> tuple[Division, Axis, int] | None:
        """The dividing line under a point: its division, whether it divides across or down, which."""
        near = self.reach(6)
        for outer in draggable(self.document.sheet):
            for d in reversed(outer.within()):
                x0, y0, x1, y1 = d.outline.box
                if not (x0 - near <= p.x() <= x1 + near and y0 - near <= p.y() <= y1 + near):
                    continue
                for axis, cuts, at, a, b in (("across", d.across, p.x(), x0, x1), ("down", d.down, p.y(), y0, y1)):
                    for i in range(1, len(cuts) - 1):
                        if abs(a + cuts[i] * (b - a) - at) < near:
                            return d, ("across" if axis == "across" else "down"), i
        return None

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        v = self.view
        self._from, self._what = p, ""
        self._stroke += 1
        item = v.leading_item()
        if item is not None:
            if item.gauge is not None and item.gauge_rect().adjusted(-self.reach(5), -self.reach(6), self.reach(5), self.reach(6)).contains(
                p
            ):
                self._what = "gauge"
                self._gauge(p)
                return
            if not item.element.locked:
                handle = v.handle_at(p)
                grow = self.reach(4)
                if item.turn_rect().adjusted(-grow, -grow, grow, grow).contains(p):
                    self._what, self._before = "turn", {item.element.key: item.element}
                    return
                if handle is not None:
                    self._what, self._handle, self._before = "resize", handle, {item.element.key: item.element}
                    return
        self._line = self.line_at(p)
        if self._line is not None:
            self._what = "line"
            return
        key = v.element_at(p, beneath=_held(event, Qt.KeyboardModifier.AltModifier))
        if _held(event, Qt.KeyboardModifier.ShiftModifier):
            if key is not None:
                v.choose_also(key)
            return
        if key is None or key not in v.selection:
            v.choose(key)
        elif key != v.selected:
            v.lead(key)
        if key is None:
            v.begin_pan(event.position().toPoint())
        else:
            self._what = "move"
            chosen = [self.document.sheet.element(k) for k in v.selection]
            self._before = {e.key: e for e in chosen if not e.locked}
            if not self._before:
                v.said.emit("This element is locked: unlock it in its card to move it.")

    def hover(self, p: QPointF, event: QMouseEvent) -> None:
        v, shape = self.view, Qt.CursorShape
        item, line = v.leading_item(), self.line_at(p)
        if item is not None and item.gauge is not None and item.gauge_rect().contains(p):
            v.show_cursor(shape.SizeVerCursor)
        elif v.handle_at(p) is not None or (item is not None and item.turn_rect().contains(p)):
            v.show_cursor(shape.SizeAllCursor)
        elif line is not None:
            v.show_cursor(shape.SplitHCursor if line[1] == "across" else shape.SplitVCursor)
        else:
            v.show_cursor(shape.OpenHandCursor if v.element_at(p) is not None else shape.ArrowCursor)

    def _gauge(self, p: QPointF) -> None:
        item = self.view.leading_item()
        if item is not None:
            e = self.document.sheet.element(item.element.key)
            value = round(item.strength_at(p.y()), 2)
            self.document.edit(
                self.document.sheet.with_element(replace(e, strength=value)), f"strength of “{e.name}”", f"gauge {e.key} {self._stroke}"
            )

    def drag(self, p: QPointF, event: QMouseEvent) -> None:
        dx, dy = p.x() - self._from.x(), p.y() - self._from.y()
        if self._what == "gauge":
            self._gauge(p)
        elif self._what == "line" and self._line is not None:
            self._move_line(p)
        elif self._what == "move":
            self._move(dx, dy, free=_held(event, Qt.KeyboardModifier.ControlModifier))
        elif self._what in ("resize", "turn"):
            self._reshape(p, dx, dy, _held(event, Qt.KeyboardModifier.ShiftModifier), _held(event, Qt.KeyboardModifier.ControlModifier))

    def _move_line(self, p: QPointF) -> None:
        assert self._line is not None
        division, axis, index = self._line
        sheet = self.document.sheet
        # The same line in the sheet as it is now: divisions are values, made anew with each move.
        old = [d for outer in sheet.divisions for d in outer.within()]
        at, hit = p.x() if axis == "across" else p.y(), None
        box = division.outline.box
        lines = self.view.snap_lines(())[0 if axis == "across" else 1]
        near = [x for x in lines if (box[0] if axis == "across" else box[1]) < x < (box[2] if axis == "across" else box[3])]
        shift, hit = snap((at,), near, self.reach(SNAP))
        try:
            new = move_line(sheet, division, axis, index, at + shift)
        except Refused as error:
            self.view.said.emit(str(error))
            return
        place = next(i for i, d in enumerate(old) if d is division)
        self.document.edit(new, "move dividing line", f"line {self._stroke}")
        self._line = ([d for outer in new.divisions for d in outer.within()][place], axis, index)
        self.view.show_snap(hit if axis == "across" else None, hit if axis == "down" else None)

    def _move(self, dx: float, dy: float, free: bool) -> None:
        if not self._before:
            return
        boxes = np.array([e.outline.box for e in self._before.values()])
        x0, y0, x1, y1 = boxes[:, 0].min() + dx, boxes[:, 1].min() + dy, boxes[:, 2].max() + dx, boxes[:, 3].max() + dy
        hits: tuple[float | None, float | None] = (None, None)
        if not free:
            xs, ys = self.view.snap_lines(tuple(self._before))
            sx, hx = snap((x0, (x0 + x1) / 2, x1), xs, self.reach(SNAP))
            sy, hy = snap((y0, (y0 + y1) / 2, y1), ys, self.reach(SNAP))
            dx, dy, hits = dx + sx, dy + sy, (hx, hy)
        sheet = self.document.sheet
        for e in self._before.values():
            sheet = sheet.with_element(replace(sheet.element(e.key), outline=e.outline.moved(dx, dy)))
        names = ", ".join(f"“{e.name}”" for e in self._before.values())
        self.document.edit(sheet, f"move {names}", f"move {self._stroke}")
        self.view.show_snap(*hits)

    def _reshape(self, p: QPointF, dx: float, dy: float, even: bool, free: bool) -> None:
        (e,) = self._before.values()
        if self._what == "turn":
            x0, y0, x1, y1 = e.outline.box
            angle = math.degrees(math.atan2(p.x() - (x0 + x1) / 2, (y0 + y1) / 2 - p.y()))
            outline = rotated(e.outline, round(angle / 15) * 15 if even else angle)
        else:
            box = resized(e.outline.box, self._handle, dx, dy, even)
            if not free and not even:
                box = self._snapped_box(box, e.key)
            outline = e.outline.with_box(box)
        now = self.document.sheet.element(e.key)
        self.document.edit(
            self.document.sheet.with_element(replace(now, outline=outline)),
            f"{self._what} “{e.name}”",
            f"{self._what} {e.key} {self._stroke}",
        )

    def _snapped_box(self, box: Box, key: int) -> Box:
        xs, ys = self.view.snap_lines((key,))
        fx, fy = HANDLES[self._handle]
        out = list(box)
        hits: list[float | None] = [None, None]
        for axis, (f, lines) in enumerate(((fx, xs), (fy, ys))):
            if f != 0.5:
                i = axis + (2 if f == 1 else 0)
                shift, hits[axis] = snap((out[i],), lines, self.reach(SNAP))
                out[i] += shift
        self.view.show_snap(hits[0], hits[1])
        return (out[0], out[1], max(out[2], out[0] + 1), max(out[3], out[1] + 1))

    def release(self, p: QPointF, event: QMouseEvent) -> None:
        self._what, self._before = "", {}
        self.view.show_snap(None, None)

    def double(self, p: QPointF, event: QMouseEvent) -> None:
        key = self.view.element_at(p)
        if key is not None:
            self.view.edit_words(key)


class DrawBox(Hand):
    """Rectangles and ellipses, from corner to corner."""

    def __init__(self, view: SheetView, shape: Literal["box", "ellipse"]) -> None:
        super().__init__(view)
        self._shape: Literal["box", "ellipse"] = shape
        self._from = QPointF()

    def _rect(self, p: QPointF, event: QMouseEvent) -> QRectF:
        xs, ys = self.view.snap_lines(())
        free = _held(event, Qt.KeyboardModifier.ControlModifier)
        corners = []
        for q in (self._from, p):
            sx = 0.0 if free else snap((q.x(),), xs, self.reach(SNAP))[0]
            sy = 0.0 if free else snap((q.y(),), ys, self.reach(SNAP))[0]
            corners.append(QPointF(q.x() + sx, q.y() + sy))
        a, b = corners
        if _held(event, Qt.KeyboardModifier.ShiftModifier):
            side = max(abs(b.x() - a.x()), abs(b.y() - a.y()))
            b = QPointF(a.x() + math.copysign(side, b.x() - a.x()), a.y() + math.copysign(side, b.y() - a.y()))
        return QRectF(a, b).normalized()

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        self._from = p

    def drag(self, p: QPointF, event: QMouseEvent) -> None:
        path = QPainterPath()
        (path.addRect if self._shape == "box" else path.addEllipse)(self._rect(p, event))
        self.view.show_draft(path)

    def release(self, p: QPointF, event: QMouseEvent) -> None:
        self.view.show_draft(None)
        r = self._rect(p, event)
        if min(r.width(), r.height()) * self.view.scale_now >= LEAST_BOX:
            self.view.take_outline(Outline(self._shape, (r.left(), r.top(), r.right(), r.bottom())))
        else:
            self.view.said.emit("Drag from corner to corner to draw an outline.")


class Freehand(Hand):
    """An outline drawn in one go."""

    def __init__(self, view: SheetView) -> None:
        super().__init__(view)
        self._points: list[tuple[float, float]] = []

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        self._points = [(p.x(), p.y())]

    def drag(self, p: QPointF, event: QMouseEvent) -> None:
        self._points.append((p.x(), p.y()))
        path = QPainterPath(QPointF(*self._points[0]))
        for q in self._points[1:]:
            path.lineTo(QPointF(*q))
        self.view.show_draft(path)

    def release(self, p: QPointF, event: QMouseEvent) -> None:
        self.view.show_draft(None)
        try:
            self.view.take_outline(freehand(self._points))
        except Refused as error:
            self.view.said.emit(str(error))


class Polygon(Hand):
    """Corner by corner: click, and close with Enter, a double click or a click on the first."""

    def __init__(self, view: SheetView) -> None:
        super().__init__(view)
        self._points: list[QPointF] = []

    def _show(self, to: QPointF | None = None) -> None:
        if not self._points:
            self.view.show_draft(None)
            return
        path = QPainterPath(self._points[0])
        for q in (*self._points[1:], *([to] if to is not None else [])):
            path.lineTo(q)
        r = self.reach(4)
        path.addEllipse(self._points[0], r, r)
        self.view.show_draft(path)

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        if len(self._points) >= 3 and (p - self._points[0]).manhattanLength() < self.reach(CLOSE):
            self._close()
            return
        self._points.append(p)
        self._show()
        if len(self._points) == 1:
            self.view.said.emit("Click the corners; Enter or a click on the first closes the outline, Backspace takes one back.")

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
            self._points.pop()
            self._show()
        elif event.key() == Qt.Key.Key_Escape:
            self.put_down()
        else:
            return False
        return True

    def _close(self) -> None:
        points, self._points = self._points, []
        self.view.show_draft(None)
        try:
            self.view.take_outline(freehand([(q.x(), q.y()) for q in points]))
        except Refused as error:
            self.view.said.emit(str(error))

    def put_down(self) -> None:
        self._points = []
        self.view.show_draft(None)


class Points(Hand):
    """Moves, adds and takes away the corners of the chosen outline."""

    cursor = Qt.CursorShape.PointingHandCursor

    def __init__(self, view: SheetView) -> None:
        super().__init__(view)
        self._index: int | None = None
        self._stroke = 0

    def _element(self) -> Element | None:
        v = self.view
        return None if v.selected is None else self.document.sheet.element(v.selected)

    def corners(self) -> list[tuple[float, float]]:
        e = self._element()
        return [] if e is None or e.outline.shape == "mask" or e.locked else polygon(e.outline)

    def _at(self, p: QPointF) -> int | None:
        near = self.reach(9)
        found = [(math.hypot(x - p.x(), y - p.y()), i) for i, (x, y) in enumerate(self.corners())]
        best = min(found, default=(near, -1))
        return best[1] if best[0] < near else None

    def _change(self, outline: Outline, what: str, merge: str = "") -> None:
        e = self._element()
        if e is not None:
            self.document.edit(self.document.sheet.with_element(replace(e, outline=outline)), f"{what} of “{e.name}”", merge)

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        self._stroke += 1
        self._index = self._at(p)
        if self._index is None:
            self.view.choose(self.view.element_at(p))
            e = self._element()
            if e is not None and e.outline.shape == "mask":
                self.view.said.emit("A painted outline has no points: change it with the outline brush (S).")
        elif _held(event, Qt.KeyboardModifier.AltModifier):
            self._remove()

    def drag(self, p: QPointF, event: QMouseEvent) -> None:
        e = self._element()
        if e is not None and self._index is not None:
            try:
                self._change(with_point(e.outline, self._index, p.x(), p.y()), "move point", f"point {e.key} {self._stroke}")
            except Refused as error:
                self.view.said.emit(str(error))

    def double(self, p: QPointF, event: QMouseEvent) -> None:
        e = self._element()
        if e is not None and self.corners() and self._at(p) is None:
            self._change(with_new_point(e.outline, p.x(), p.y()), "add point")

    def _remove(self) -> None:
        e = self._element()
        if e is not None and self._index is not None:
            try:
                self._change(without_point(e.outline, self._index), "delete point")
            except Refused as error:
                self.view.said.emit(str(error))
            self._index = None


class MaskBrush(Hand):
    """Paints what an inpaint may change; with Alt a click masks the thing that is seen there."""

    finds_things = True

    def __init__(self, view: SheetView) -> None:
        super().__init__(view)
        self._stroke: Mask | None = None
        self._last = QPointF()

    def _to(self, p: QPointF) -> None:
        v = self.view
        assert self._stroke is not None
        a = self._last
        self._stroke, changed = self._stroke.stroke(a.x(), a.y(), p.x(), p.y(), v.brush_radius * v.pressure, v.brush_softness, v.erasing)
        v.show_mask(self._stroke, changed)
        self._last = p

    def _begin(self) -> Mask:
        sheet = self.document.sheet
        return sheet.mask or Mask(sheet.width, sheet.height)

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        if self.finds_things and _held(event, Qt.KeyboardModifier.AltModifier):
            self.view.thing_wanted.emit(p)
            return
        self._stroke, self._last = self._begin(), p
        self._to(p)

    def hover(self, p: QPointF, event: QMouseEvent) -> None:
        self.view.move_ring(p)

    def drag(self, p: QPointF, event: QMouseEvent) -> None:
        self.view.move_ring(p)
        if self._stroke is not None:
            self._to(p)

    def release(self, p: QPointF, event: QMouseEvent) -> None:
        stroke, self._stroke = self._stroke, None
        if stroke is not None:
            self._keep(stroke)

    def _keep(self, stroke: Mask) -> None:
        self.document.edit(replace(self.document.sheet, mask=stroke), "erase mask" if self.view.erasing else "paint mask")


class ShapeBrush(MaskBrush):
    """Paints the chosen element's outline; without one, a new element."""

    finds_things = False

    def _begin(self) -> Mask:
        sheet, key = self.document.sheet, self.view.selected
        if key is None:
            return Mask(sheet.width, sheet.height)
        return Mask.from_array(drawn(sheet.element(key).outline, sheet.rect))

    def _keep(self, stroke: Mask) -> None:
        v, sheet = self.view, self.document.sheet
        v.show_mask(sheet.mask, None)
        try:
            outline = painted(stroke.read(), sheet.rect)
        except Refused as error:
            v.said.emit(str(error))
            return
        if v.selected is None:
            v.take_outline(outline)
            v.set_tool("shape")
        else:
            e = sheet.element(v.selected)
            self.document.edit(
                sheet.with_element(replace(e, outline=outline)), f"{'erase' if v.erasing else 'paint'} outline of “{e.name}”"
            )


class Divide(Hand):
    """A line drawn through the sheet or an element divides it there: upright lines across, level ones down."""

    def __init__(self, view: SheetView) -> None:
        super().__init__(view)
        self._from = QPointF()

    def _cut(self, p: QPointF) -> tuple[Axis, Box, float, int | None]:
        """Which way, through which box, where (0..1), of which element."""
        sheet = self.document.sheet
        middle = QPointF((self._from.x() + p.x()) / 2, (self._from.y() + p.y()) / 2)
        key = self.view.element_at(middle)
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
        self.view.show_draft(path)

    def release(self, p: QPointF, event: QMouseEvent) -> None:
        self.view.show_draft(None)
        if (p - self._from).manhattanLength() < self.reach(LEAST_BOX):
            self.view.said.emit("Draw a line through the sheet or an element: upright to divide across, level to divide down.")
            return
        axis, _, at, key = self._cut(p)
        shares = (at, 1 - at)
        try:
            if not 0 < at < 1:
                raise Refused("That line does not cross anything that can be divided.")
            sheet = (
                divide(self.document.sheet, shares, (1.0,), key) if axis == "across" else divide(self.document.sheet, (1.0,), shares, key)
            )
        except Refused as error:
            self.view.said.emit(str(error))
            return
        self.document.edit(sheet, "divide the sheet" if key is None else f"divide “{self.document.sheet.element(key).name}”")


def resized(box: Box, handle: int, dx: float, dy: float, keep_ratio: bool) -> Box:
    """A box whose handle was dragged; it never turns inside out."""
    fx, fy = HANDLES[handle]
    x0, y0, x1, y1 = box
    if keep_ratio and fx != 0.5 and fy != 0.5:
        sx, sy = (1 if fx else -1), (1 if fy else -1)
        grow = max(sx * dx / (x1 - x0), sy * dy / (y1 - y0))
        dx, dy = sx * grow * (x1 - x0), sy * grow * (y1 - y0)
    if fx == 0:
        x0 = min(x0 + dx, x1 - LEAST_BOX)
    elif fx == 1:
        x1 = max(x1 + dx, x0 + LEAST_BOX)
    if fy == 0:
        y0 = min(y0 + dy, y1 - LEAST_BOX)
    elif fy == 1:
        y1 = max(y1 + dy, y0 + LEAST_BOX)
    return x0, y0, x1, y1
