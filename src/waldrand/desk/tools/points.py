"""Single corners of an outline, moved by hand."""

from __future__ import annotations

import math
from dataclasses import replace

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent

from ...core.refused import Refused
from ...core.values.element import Element
from ...core.values.outline import Outline
from ...core.values.shaping import polygon, with_new_point, with_point, without_point
from ...core.worded import worded
from .hand import Hand, UnderHand, picks


class Points(Hand):
    """Moves, adds and takes away the corners of the chosen outline."""

    name, title, shortcut = "points", "Points", "P"
    tip = "Move an outline's corners; double-click adds one, Alt takes one away"
    hint = "Drag: move a corner · double-click: add one · Alt or Ctrl+click: take one away"
    cursor = Qt.CursorShape.PointingHandCursor
    shows_handles = False

    def __init__(self, view: UnderHand) -> None:
        super().__init__(view)
        self._index: int | None = None
        self._stroke = 0

    def _element(self) -> Element | None:
        v = self.view
        key = v.selection.selected
        return self.document.sheet.element(key) if key is not None and self.document.sheet.has_element(key) else None

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
            self.document.edit(self.document.sheet.with_element(replace(e, outline=outline)), worded("{0} of “{1}”", what, e.name), merge)

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        self._stroke += 1
        self._index = self._at(p)
        if self._index is None:
            self.view.selection.choose(self.view.canvas.element_at(p))
            e = self._element()
            if e is not None and e.outline.shape == "mask":
                self.view.said.emit(worded("A painted outline has no points: change it with the outline brush (S)."))
        elif picks(event):
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
