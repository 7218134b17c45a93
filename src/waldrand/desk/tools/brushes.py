"""Masks and outlines painted with a brush."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QMouseEvent

from ...core.refused import Refused
from ...core.values.masks import Mask
from ...core.values.shaping import drawn, painted
from ...core.worded import worded
from .hand import Hand, UnderHand, picks


class MaskBrush(Hand):
    """Paints what an inpaint may change; with Alt or Ctrl a click masks the thing that is seen there."""

    name, title, shortcut = "brush", "Mask", "M"
    tip = "Paint what an inpaint may change; soft edges keep partly; Alt or Ctrl and a click masks the thing seen there"
    group = "mask"
    hint = "Drag: paint what may change · X: erase · Q, W: size · Shift+Q, Shift+W: softness · Alt or Ctrl+click: the thing seen there"
    has_brush = paints_mask = finds_things = True

    def __init__(self, view: UnderHand) -> None:
        super().__init__(view)
        self._stroke: Mask | None = None
        self._last = QPointF()

    def _to(self, p: QPointF) -> None:
        v = self.view
        assert self._stroke is not None
        a = self._last
        self._stroke, changed = self._stroke.stroke(a.x(), a.y(), p.x(), p.y(), v.brush.reach, v.brush.softness, v.brush.erasing)
        v.canvas.show_mask(self._stroke, changed)
        self._last = p

    def _begin(self) -> Mask:
        sheet = self.document.sheet
        return sheet.mask or Mask(sheet.width, sheet.height)

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        if self.finds_things and picks(event):
            self.view.thing_wanted.emit(p)
            return
        self._stroke, self._last = self._begin(), p
        self._to(p)

    def hover(self, p: QPointF, event: QMouseEvent) -> None:
        self.view.canvas.move_ring(p)

    def drag(self, p: QPointF, event: QMouseEvent) -> None:
        self.view.canvas.move_ring(p)
        if self._stroke is not None:
            self._to(p)

    def release(self, p: QPointF, event: QMouseEvent) -> None:
        stroke, self._stroke = self._stroke, None
        if stroke is not None:
            self._keep(stroke)

    def put_down(self) -> None:
        if self._stroke is not None:
            self._stroke = None
            self.view.canvas.show_mask(self.document.sheet.mask)

    def _keep(self, stroke: Mask) -> None:
        self.document.edit(
            replace(self.document.sheet, mask=stroke), worded("erase mask") if self.view.brush.erasing else worded("paint mask")
        )


class ShapeBrush(MaskBrush):
    """Paints the chosen element's outline; without one, a new element."""

    name, title, shortcut = "shape", "Brush", "S"
    tip = "Paint the chosen element's outline with a soft brush, or a new one; X erases"
    group = "outlines"
    hint = "Drag: paint the chosen outline, or a new one · X: erase · Q, W: size · Shift+Q, Shift+W: softness"
    paints_mask = finds_things = False

    def _begin(self) -> Mask:
        sheet, key = self.document.sheet, self.view.selection.selected
        if key is None:
            return Mask(sheet.width, sheet.height)
        return Mask.from_array(drawn(sheet.element(key).outline, sheet.rect))

    def _keep(self, stroke: Mask) -> None:
        v, sheet = self.view, self.document.sheet
        v.canvas.show_mask(sheet.mask, None)
        try:
            outline = painted(stroke.read(), sheet.rect)
        except Refused as error:
            v.said.emit(str(error))
            return
        if v.selection.selected is None:
            v.laying.take_outline(outline)
            v.set_tool("shape")
        else:
            e = sheet.element(v.selection.selected)
            self.document.edit(
                sheet.with_element(replace(e, outline=outline)),
                worded("{0} outline of “{1}”", "erase" if v.brush.erasing else "paint", e.name),
            )
