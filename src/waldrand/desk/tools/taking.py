"""Masks and outlines that follow what is seen: like colours, strokes on a thing, and an outline that clings to edges."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainterPath

from ...core.picture.clinging import Clinging
from ...core.picture.cutting import like_colour, told_by_strokes
from ...core.refused import Refused
from ...core.values.frame import Rect
from ...core.values.masks import Mask
from ...core.worded import worded
from .drawing import ByCorners
from .hand import CLOSE, Hand, UnderHand, held

#: Screen pixels round the last corner within which the way along edges is looked for.
ROOM = 260


def _joined(view: UnderHand, grey: np.ndarray, event: QMouseEvent | None) -> Mask:
    """What a tool found, added to the mask with Shift, taken from it with Ctrl, else instead of it."""
    had = view.document.sheet.mask
    if event is not None and had is not None and held(event, Qt.KeyboardModifier.ShiftModifier):
        return Mask.from_array(np.maximum(had.read(), grey))
    if event is not None and had is not None and held(event, Qt.KeyboardModifier.ControlModifier):
        return Mask.from_array(np.minimum(had.read(), 255 - grey))
    return Mask.from_array(grey)


class Alike(Hand):
    """Masks what is of like colour."""

    name, title, shortcut = "alike", "Like colour", "7"
    tip = "Mask what is of like colour where you click (Shift adds, Ctrl takes away)"
    group = "mask"
    hint = "Click: what is alike there · Shift+click: added · Ctrl+click: taken away"
    paints_mask = takes_alike = True

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        sheet, paints = self.document.sheet, self.view.paints
        if not sheet.has_picture:
            self.view.said.emit(worded("There is no picture to look in yet."))
            return
        try:
            like = like_colour(sheet.flatten(), p.x(), p.y(), paints.tolerance, not paints.joined)
        except Refused as error:
            self.view.said.emit(str(error))
            return
        mask = _joined(self.view, np.where(like, 255, 0).astype(np.uint8), event)
        self.document.edit(replace(sheet, mask=mask), worded("mask of like colour"))


class Scribble(Hand):
    """Strokes on a thing, and on what is not it: the thing between them is masked."""

    name, title, shortcut = "scribble", "This, not that", "8"
    tip = "Draw over a thing, and with Ctrl over what it is not: the thing is masked"
    group = "mask"
    hint = "Drag: this · Ctrl+drag: not that · Q, W: size · Escape: begin anew"
    has_brush = paints_mask = True

    def __init__(self, view: UnderHand) -> None:
        super().__init__(view)
        self._strokes: dict[bool, Mask] = {}
        self._others = QPainterPath()
        self._of: tuple[object, ...] = ()
        self._last, self._this, self._drawing = QPointF(), True, False

    def _begin(self) -> None:
        """Strokes belong to the picture they were drawn on."""
        sheet = self.document.sheet
        if self._of != (sheet.layers, sheet.rect):
            self._of = sheet.layers, sheet.rect
            self._others = QPainterPath()
            self._strokes = {this: Mask(sheet.width, sheet.height) for this in (True, False)}

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        if not self.document.sheet.has_picture:
            self.view.said.emit(worded("There is no picture to look in yet."))
            return
        self._begin()
        self._others.moveTo(p)
        self._this, self._last, self._drawing = not held(event, Qt.KeyboardModifier.ControlModifier), p, True
        self._to(p)

    def _to(self, p: QPointF) -> None:
        a, this = self._last, self._this
        # A thin stroke says it as well as a thick one, and stays inside.
        reach = max(1.5, min(self.view.brush.reach, 12 / self.view.scale_now))
        self._strokes[this], _ = self._strokes[this].stroke(a.x(), a.y(), p.x(), p.y(), reach, 0)
        self._last = p
        if this:
            self.view.canvas.show_mask(self._strokes[True])
        else:
            self._others.lineTo(p)
        self.view.canvas.show_draft(self._others)

    def drag(self, p: QPointF, event: QMouseEvent) -> None:
        self.view.canvas.move_ring(p)
        if self._drawing:
            self._to(p)

    def hover(self, p: QPointF, event: QMouseEvent) -> None:
        self.view.canvas.move_ring(p)

    def release(self, p: QPointF, event: QMouseEvent) -> None:
        if not self._drawing:
            return
        self._drawing = False
        self.view.canvas.show_draft(None)
        sheet = self.document.sheet
        this, other = (self._strokes[k].read() > 0 for k in (True, False))
        try:
            grey = told_by_strokes(sheet.flatten(), this, other)
        except Refused as error:
            self.view.said.emit(str(error))
            self.view.canvas.show_mask(sheet.mask)
            return
        self.document.edit(replace(sheet, mask=Mask.from_array(np.asarray(np.round(255 * grey), np.uint8))), worded("mask by strokes"))

    def key(self, event: QKeyEvent) -> bool:
        if event.key() != Qt.Key.Key_Escape or not self._of:
            return False
        self.put_down()
        return True

    def put_down(self) -> None:
        self._of, self._drawing = (), False
        self.view.canvas.show_draft(None)
        self.view.canvas.show_mask(self.document.sheet.mask)


class Cling(ByCorners):
    """An outline that clings to edges while it is drawn."""

    name, title, shortcut = "cling", "Clinging", "9"
    tip = "Draw an outline that clings to the picture's edges between the points you click"
    hint = "Click: a point · between them it clings to edges · Enter or the first point: close · Backspace: one back · Escape: give up"

    def __init__(self, view: UnderHand) -> None:
        super().__init__(view)
        #: The ways between the points; what is looked at round the last, and where that lies.
        self._ways: list[list[tuple[float, float]]] = []
        self._near: tuple[Clinging, Rect] | None = None

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        sheet = self.document.sheet
        if not sheet.has_picture:
            self.view.said.emit(worded("There is no picture to cling to yet: draw with F or G."))
            return
        p = QPointF(min(max(p.x(), 0), sheet.width - 1), min(max(p.y(), 0), sheet.height - 1))
        if len(self._points) >= 3 and (p - self._points[0]).manhattanLength() < self.reach(CLOSE):
            self._close()
            return
        if self._points:
            self._ways.append(self._way(p))
        self._points.append(p)
        self._look_round(p)
        self._show()

    def _look_round(self, p: QPointF) -> None:
        sheet, room = self.document.sheet, self.reach(ROOM)
        near = Rect(round(p.x() - room), round(p.y() - room), round(p.x() + room), round(p.y() + room)).intersect(sheet.rect)
        self._near = Clinging(sheet.flatten(near), p.x() - near.x0, p.y() - near.y0), near

    def _way(self, p: QPointF) -> list[tuple[float, float]]:
        """Along edges, as far as was looked; straight on from there."""
        if self._near is None:
            return []
        found, near = self._near
        x, y = min(max(p.x(), near.x0), near.x1 - 1), min(max(p.y(), near.y0), near.y1 - 1)
        return [(near.x0 + a, near.y0 + b) for a, b in found.to(x - near.x0, y - near.y0)] + [(p.x(), p.y())]

    def _show(self, to: QPointF | None = None) -> None:
        if not self._points:
            self.view.canvas.show_draft(None)
            return
        path = QPainterPath(self._points[0])
        for way in (*self._ways, *([self._way(to)] if to is not None else [])):
            for q in way:
                path.lineTo(QPointF(*q))
        r = self.reach(4)
        for corner in self._points:
            path.addEllipse(corner, r, r)
        self.view.canvas.show_draft(path)

    def _back(self) -> None:
        self._points.pop()
        del self._ways[len(self._points) - 1 if self._points else 0 :]
        if self._points:
            self._look_round(self._points[-1])
        self._show()

    def _close(self) -> None:
        if len(self._points) < 2:
            self.put_down()
            return
        points = [q for way in (*self._ways, self._way(self._points[0])) for q in way]
        self.put_down()
        self._take(points)

    def put_down(self) -> None:
        self._ways, self._near = [], None
        super().put_down()
