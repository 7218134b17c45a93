"""Choosing, moving, resizing and turning what is there."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent

from ...core.refused import Refused
from ...core.values.dividing import draggable, move_line
from ...core.values.division import Axis, Division
from ...core.values.element import Element
from ...core.values.outline import Box
from ...core.values.shaping import rotated, snap
from ...core.values.sheet import Sheet
from ...core.values.stacking import group_elsewhere
from ...core.worded import worded
from ..sheet_view.element_item import HANDLES
from .hand import LEAST_BOX, SNAP, Hand, UnderHand, held
from .transforming import LayerCorners


class Arrange(Hand):
    """Choosing, moving, resizing, turning, the strength gauge, dividing lines; empty places pan."""

    name, title, shortcut = "arrange", "Arrange", "A"
    tip = "Choose, move, resize, turn elements (Shift: several, Alt: the one beneath); drag empty places to pan"
    group = "hand"
    hint = "Click: choose · drag: move · Shift+click: several · Alt+click: the one beneath · Ctrl: no snapping · double-click: words"
    cursor = Qt.CursorShape.ArrowCursor
    shows_strip = True

    def __init__(self, view: UnderHand) -> None:
        super().__init__(view)
        self._what = ""
        self._from = QPointF()
        self._before: dict[int, Element] = {}
        self._handle = 0
        self._line: tuple[Division, Axis, int] | None = None
        self._layer: Sheet | None = None
        self._stroke = 0
        self._corners = LayerCorners(view)

    def corners(self) -> list[tuple[float, float]]:
        return self._corners.handles()

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
        if self._corners.take(p):
            self._what = "corners"
            return
        item = v.canvas.leading_item()
        if item is not None:
            if item.gauge is not None and item.gauge_rect().adjusted(-self.reach(5), -self.reach(6), self.reach(5), self.reach(6)).contains(
                p
            ):
                self._what = "gauge"
                self._gauge(p)
                return
            if not item.element.locked:
                handle = v.canvas.handle_at(p)
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
        if self._on_layer(p):
            self._what, self._layer = "layer", self.document.sheet
            return
        key = v.canvas.element_at(p, beneath=held(event, Qt.KeyboardModifier.AltModifier))
        if held(event, Qt.KeyboardModifier.ShiftModifier):
            if key is not None:
                v.selection.choose_also(key)
            return
        if key is None or key not in v.selection.keys:
            v.selection.choose(key)
        elif key != v.selection.selected:
            v.selection.lead(key)
        if key is None:
            v.begin_pan(event.position().toPoint())
        else:
            self._what = "move"
            chosen = [self.document.sheet.element(k) for k in v.selection.keys]
            self._before = {e.key: e for e in chosen if not e.locked}
            if not self._before:
                v.said.emit(worded("This element is locked: unlock it in the strip beside it to move it."))

    def hover(self, p: QPointF, event: QMouseEvent) -> None:
        v, shape = self.view, Qt.CursorShape
        item, line, under = v.canvas.leading_item(), self.line_at(p), v.canvas.element_at(p)
        v.canvas.hover(under)
        if item is not None and item.gauge is not None and item.gauge_rect().contains(p):
            v.show_cursor(shape.SizeVerCursor)
        elif self._corners.at(p) is not None or v.canvas.handle_at(p) is not None or (item is not None and item.turn_rect().contains(p)):
            v.show_cursor(shape.SizeAllCursor)
        elif line is not None:
            v.show_cursor(shape.SplitHCursor if line[1] == "across" else shape.SplitVCursor)
        else:
            v.show_cursor(shape.OpenHandCursor if under is not None else shape.ArrowCursor)

    def _gauge(self, p: QPointF) -> None:
        item = self.view.canvas.leading_item()
        if item is not None:
            e = self.document.sheet.element(item.element.key)
            value = round(item.strength_at(p.y()), 2)
            self.document.edit(
                self.document.sheet.with_element(replace(e, strength=value)),
                worded("strength of “{0}”", e.name),
                f"gauge {e.key} {self._stroke}",
            )

    def put_down(self) -> None:
        self._corners.put_down()
        self._what, self._before, self._line, self._layer = "", {}, None, None
        self.view.canvas.snaps.show(None, None)

    def drag(self, p: QPointF, event: QMouseEvent) -> None:
        if self._what == "corners":
            ctrl, shift = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
            self._corners.drag(p, held(event, shift), held(event, ctrl))
            return
        if not all(map(self.document.sheet.has_element, self._before)):
            # Deleted or undone while it was held.
            self.put_down()
            return
        dx, dy = p.x() - self._from.x(), p.y() - self._from.y()
        if self._what == "gauge":
            self._gauge(p)
        elif self._what == "line" and self._line is not None:
            self._move_line(p)
        elif self._what == "move":
            self._move(dx, dy, free=held(event, Qt.KeyboardModifier.ControlModifier))
        elif self._what == "layer" and self._layer is not None:
            self._move_layer(round(dx), round(dy))
        elif self._what in ("resize", "turn"):
            self._reshape(p, dx, dy, held(event, Qt.KeyboardModifier.ShiftModifier), held(event, Qt.KeyboardModifier.ControlModifier))

    def _on_layer(self, p: QPointF) -> bool:
        """Whether the chosen layer is seen at a point."""
        key, sheet = self.view.selection.layer, self.document.sheet
        if key is None or not sheet.has_layer(key) or not sheet.layer(key).visible:
            return False
        r = sheet.layer(key).seen
        return r.x0 <= p.x() < r.x1 and r.y0 <= p.y() < r.y1

    def _move_layer(self, dx: int, dy: int) -> None:
        key, start = self.view.selection.layer, self._layer
        if key is None or start is None or not self.document.sheet.has_layer(key):
            self.put_down()
            return
        new = group_elsewhere(start, key, dx, dy)
        self.document.edit(new, worded("move “{0}”", start.layer(key).name), f"move layer {key} {self._stroke}")

    def _move_line(self, p: QPointF) -> None:
        assert self._line is not None
        division, axis, index = self._line
        sheet = self.document.sheet
        # The same line in the sheet as it is now: divisions are values, made anew with each move.
        old = [d for outer in sheet.divisions for d in outer.within()]
        at, hit = p.x() if axis == "across" else p.y(), None
        box = division.outline.box
        lines = self.view.canvas.snaps.lines(())[0 if axis == "across" else 1]
        near = [x for x in lines if (box[0] if axis == "across" else box[1]) < x < (box[2] if axis == "across" else box[3])]
        place = next((i for i, d in enumerate(old) if d is division), None)
        if place is None:
            self.put_down()
            return
        shift, hit = snap((at,), near, self.reach(SNAP))
        try:
            new = move_line(sheet, division, axis, index, at + shift)
        except Refused as error:
            self.view.said.emit(str(error))
            return
        self.document.edit(new, worded("move dividing line"), f"line {self._stroke}")
        self._line = ([d for outer in new.divisions for d in outer.within()][place], axis, index)
        self.view.canvas.snaps.show(hit if axis == "across" else None, hit if axis == "down" else None)

    def _move(self, dx: float, dy: float, free: bool) -> None:
        if not self._before:
            return
        boxes = np.array([e.outline.box for e in self._before.values()])
        x0, y0, x1, y1 = boxes[:, 0].min() + dx, boxes[:, 1].min() + dy, boxes[:, 2].max() + dx, boxes[:, 3].max() + dy
        hits: tuple[float | None, float | None] = (None, None)
        if not free:
            xs, ys = self.view.canvas.snaps.lines(tuple(self._before))
            sx, hx = snap((x0, (x0 + x1) / 2, x1), xs, self.reach(SNAP))
            sy, hy = snap((y0, (y0 + y1) / 2, y1), ys, self.reach(SNAP))
            dx, dy, hits = dx + sx, dy + sy, (hx, hy)
        sheet = self.document.sheet
        for e in self._before.values():
            sheet = sheet.with_element(replace(sheet.element(e.key), outline=e.outline.moved(dx, dy)))
        names = ", ".join(f"“{e.name}”" for e in self._before.values())
        self.document.edit(sheet, worded("move {0}", names), f"move {self._stroke}")
        self.view.canvas.snaps.show(*hits)

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
        xs, ys = self.view.canvas.snaps.lines((key,))
        fx, fy = HANDLES[self._handle]
        out = list(box)
        hits: list[float | None] = [None, None]
        for axis, (f, lines) in enumerate(((fx, xs), (fy, ys))):
            if f != 0.5:
                i = axis + (2 if f == 1 else 0)
                shift, hits[axis] = snap((out[i],), lines, self.reach(SNAP))
                out[i] += shift
        self.view.canvas.snaps.show(hits[0], hits[1])
        return (out[0], out[1], max(out[2], out[0] + 1), max(out[3], out[1] + 1))

    def release(self, p: QPointF, event: QMouseEvent) -> None:
        if self._what == "corners":
            self._corners.let_go()
        self.put_down()

    def double(self, p: QPointF, event: QMouseEvent) -> None:
        key = self.view.canvas.element_at(p)
        if key is not None:
            self.view.words.edit(key)


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
