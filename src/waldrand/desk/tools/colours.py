"""Colours laid by hand on a layer of their own: input of passes as much as picture."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainterPath

from ...core.picture.cutting import like_colour
from ...core.values.frame import Rect
from ...core.values.masks import Mask
from ...core.values.outline import Outline
from ...core.values.paint import Colour, PaintLayer
from ...core.values.shaping import drawn, rounded
from ...core.values.sheet import Sheet
from ...core.worded import worded
from .hand import LEAST_BOX, Hand, UnderHand, held, picks


class Colours(Hand):
    """A tool that lays colours: on the chosen layer of colours, else on the uppermost layer where it is one, else on a new one."""

    group = "colour"
    has_paints = True
    shows_handles = False

    def layer(self) -> PaintLayer:
        """The layer that it paints on, as it is."""
        sheet, key = self.document.sheet, self.view.selection.layer
        chosen = sheet.layer(key) if key is not None and sheet.has_layer(key) else None
        for layer in (chosen, sheet.layers[-1] if sheet.layers else None):
            if isinstance(layer, PaintLayer):
                return layer
        n = sum(isinstance(x, PaintLayer) for x in sheet.layers) + 1
        return PaintLayer(sheet.next_key(), worded("colours {0}", n), sheet.width, sheet.height)

    def pick(self, p: QPointF) -> None:
        """The colour that is seen at a point comes into the hand."""
        sheet = self.document.sheet
        x, y = int(p.x()), int(p.y())
        if 0 <= x < sheet.width and 0 <= y < sheet.height:
            r, g, b, a = (int(v) for v in self.view.layers.as_shown(sheet).flatten(Rect(x, y, x + 1, y + 1))[0, 0])
            if a:
                self.view.paints.set(colour=(r, g, b))

    def lay(self, grey: np.ndarray, rect: Rect, what: str, colours: np.ndarray | None = None) -> None:
        """The colour in the hand, or a picture (h, w, 3), laid over a rectangle of the sheet as much as (h, w) uint8 says."""
        layer, paints = self.layer(), self.view.paints
        share = np.asarray(np.round(grey * paints.opacity), np.uint8)
        there = rect.moved(-layer.x, -layer.y)
        made = layer.painted(there, share, paints.colour if colours is None else colours, self.view.brush.erasing)
        self.keep(made, what)

    def keep(self, layer: PaintLayer, what: str) -> None:
        self.document.edit(self.document.sheet.with_layer(layer), what)
        self.view.selection.choose_layer(layer.key)
        self.view.paints.used()


class Paint(Colours):
    """A soft or hard brush."""

    name, title, shortcut = "paint", "Paint", "Shift+P"
    tip = "Paint colours that a pass starts from, or that are seen; Alt or Ctrl picks a colour, X erases"
    hint = "Drag: paint · Alt or Ctrl+click: pick a colour · Shift+click: a straight line on from the last · X: erase · Q, W: size"
    has_brush = True

    def __init__(self, view: UnderHand) -> None:
        super().__init__(view)
        self._stroke: Mask | None = None
        self._begun: PaintLayer | None = None
        self._made: PaintLayer | None = None
        self._last = QPointF()

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        if picks(event):
            self.pick(p)
            return
        sheet = self.document.sheet
        straight = held(event, Qt.KeyboardModifier.ShiftModifier) and not self._last.isNull()
        self._stroke, self._begun = Mask(sheet.width, sheet.height), self.layer()
        self._made = self._begun
        if not straight:
            self._last = p
        self._to(p)

    def _to(self, p: QPointF) -> None:
        v, a = self.view, self._last
        assert self._stroke is not None
        assert self._begun is not None
        self._stroke, changed = self._stroke.stroke(a.x(), a.y(), p.x(), p.y(), v.brush.reach, v.brush.softness)
        self._last = p
        if not changed.area or self._made is None:
            return
        # Over what was there before the stroke, so that going over a place twice lays it no thicker.
        grey = np.asarray(np.round(self._stroke.read(changed) * self.thick()), np.uint8)
        there = changed.moved(-self._begun.x, -self._begun.y)
        had = self._begun.read(there)
        plain = self._made.changed_in(there, lambda _, part: had[part])
        self._made = plain.painted(there, grey, *self.laid())
        self.view.canvas.show_changed(self._shown(), changed)

    def laid(self) -> tuple[Colour, bool]:
        """The colour that a stroke lays, and whether it takes away instead."""
        return self.view.paints.colour, self.view.brush.erasing

    def thick(self) -> float:
        """How thickly it does, 0..1."""
        return self.view.paints.opacity

    def _shown(self) -> Sheet:
        assert self._made is not None
        return self.view.layers.as_shown(self.document.sheet.with_layer(self._made))

    def hover(self, p: QPointF, event: QMouseEvent) -> None:
        self.view.canvas.move_ring(p)

    def drag(self, p: QPointF, event: QMouseEvent) -> None:
        self.view.canvas.move_ring(p)
        if picks(event) and self._stroke is None:
            self.pick(p)
        elif self._stroke is not None:
            self._to(p)

    def release(self, p: QPointF, event: QMouseEvent) -> None:
        made, self._stroke, self._begun, self._made = self._made, None, None, None
        if made is not None:
            self.keep(made, self.done())

    def done(self) -> str:
        """What a stroke is called."""
        return worded("erase colours") if self.view.brush.erasing else worded("paint")

    def put_down(self) -> None:
        if self._made is not None:
            self._stroke = self._begun = self._made = None
            self.view.canvas.show_picture(self.view.layers.as_shown(self.document.sheet))


class Fill(Colours):
    """Colours what is alike, or an outline."""

    name, title, shortcut = "fill", "Fill", "Shift+O"
    tip = "Fill what is of like colour, or the chosen outline, with the colour in the hand"
    hint = "Click: fill what is alike there · in the chosen outline: fill that · Shift+click: alike anywhere · Alt or Ctrl+click: pick"
    cursor = Qt.CursorShape.CrossCursor
    takes_alike = True

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        if picks(event):
            self.pick(p)
            return
        sheet, key = self.document.sheet, self.view.selection.selected
        if not (0 <= p.x() < sheet.width and 0 <= p.y() < sheet.height):
            return
        if key is not None and self.view.canvas.element_at(p) == key:
            self._fill_outline(sheet.element(key).outline)
            return
        paints = self.view.paints
        seen = self.view.layers.as_shown(sheet).flatten()
        everywhere = held(event, Qt.KeyboardModifier.ShiftModifier) or not paints.joined
        if not sheet.has_picture:
            grey = np.ones(seen.shape[:2], np.float32)
        else:
            grey = like_colour(seen, p.x(), p.y(), paints.tolerance, everywhere)
        self.lay(np.asarray(np.round(255 * grey), np.uint8), sheet.rect, worded("fill"))

    def _fill_outline(self, outline: Outline) -> None:
        rect = rounded(outline.box, 1).intersect(self.document.sheet.rect)
        if rect.area:
            self.lay(drawn(outline, rect), rect, worded("fill outline"))


class _Dragged(Colours):
    """Laid from where the hand is put down to where it lets go."""

    def __init__(self, view: UnderHand) -> None:
        super().__init__(view)
        self._from: QPointF | None = None

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        if picks(event):
            self.pick(p)
        else:
            self._from = p

    def drag(self, p: QPointF, event: QMouseEvent) -> None:
        if self._from is not None:
            self.view.canvas.show_draft(self._path(self._from, self._even(p, event)))

    def release(self, p: QPointF, event: QMouseEvent) -> None:
        a, self._from = self._from, None
        self.view.canvas.show_draft(None)
        if a is None:
            return
        b = self._even(p, event)
        if (b - a).manhattanLength() * self.view.scale_now >= LEAST_BOX:
            self._lay(a, b)
        else:
            self.view.said.emit(worded("Drag from one place to another."))

    def put_down(self) -> None:
        self._from = None
        self.view.canvas.show_draft(None)

    def _even(self, p: QPointF, event: QMouseEvent) -> QPointF:
        """With Shift as wide as high."""
        a = self._from
        if a is None or not held(event, Qt.KeyboardModifier.ShiftModifier):
            return p
        side = max(abs(p.x() - a.x()), abs(p.y() - a.y()))
        return QPointF(a.x() + math.copysign(side, p.x() - a.x()), a.y() + math.copysign(side, p.y() - a.y()))

    def _path(self, a: QPointF, b: QPointF) -> QPainterPath:
        raise NotImplementedError

    def _lay(self, a: QPointF, b: QPointF) -> None:
        raise NotImplementedError


class _Aslant(_Dragged):
    """Along a line, with Shift by steps of fifteen degrees."""

    def _even(self, p: QPointF, event: QMouseEvent) -> QPointF:
        a = self._from
        if a is None or not held(event, Qt.KeyboardModifier.ShiftModifier):
            return p
        length, step = math.hypot(p.x() - a.x(), p.y() - a.y()), math.pi / 12
        angle = round(math.atan2(p.y() - a.y(), p.x() - a.x()) / step) * step
        return QPointF(a.x() + length * math.cos(angle), a.y() + length * math.sin(angle))

    def _path(self, a: QPointF, b: QPointF) -> QPainterPath:
        path = QPainterPath(a)
        path.lineTo(b)
        return path


class ColourLine(_Aslant):
    """A straight line with the brush."""

    name, title, shortcut = "colour-line", "Line of colour", "2"
    tip = "Draw a straight line of colour with the brush (Shift: by steps of 15 degrees)"
    hint = "Drag: from end to end · Shift: by steps of 15 degrees · Q, W: width · Alt or Ctrl+click: pick a colour"
    has_brush = True

    def hover(self, p: QPointF, event: QMouseEvent) -> None:
        self.view.canvas.move_ring(p)

    def _lay(self, a: QPointF, b: QPointF) -> None:
        sheet, brush = self.document.sheet, self.view.brush
        stroke = Mask(sheet.width, sheet.height).stroke(a.x(), a.y(), b.x(), b.y(), brush.reach, brush.softness)[0]
        rect = stroke.box()
        if rect.area:
            self.lay(stroke.read(rect), rect, worded("line of colour"))


class _ColourShape(_Dragged):
    shape: Literal["box", "ellipse"]

    def _path(self, a: QPointF, b: QPointF) -> QPainterPath:
        path = QPainterPath()
        (path.addRect if self.shape == "box" else path.addEllipse)(QRectF(a, b).normalized())
        return path

    def _lay(self, a: QPointF, b: QPointF) -> None:
        r = QRectF(a, b).normalized()
        outline = Outline(self.shape, (r.left(), r.top(), r.left() + max(1.0, r.width()), r.top() + max(1.0, r.height())))
        rect = rounded(outline.box, 1).intersect(self.document.sheet.rect)
        if rect.area:
            self.lay(drawn(outline, rect), rect, worded("{0} of colour", worded("rectangle" if self.shape == "box" else "ellipse")))


class ColourBox(_ColourShape):
    name, title, shortcut, shape = "colour-box", "Rectangle of colour", "3", "box"
    tip = "Draw a rectangle of colour (Shift: square)"
    hint = "Drag: from corner to corner · Shift: square · Alt or Ctrl+click: pick a colour · X: erase"


class ColourEllipse(_ColourShape):
    name, title, shortcut, shape = "colour-ellipse", "Ellipse of colour", "4", "ellipse"
    tip = "Draw an ellipse of colour (Shift: circle)"
    hint = "Drag: from corner to corner · Shift: circle · Alt or Ctrl+click: pick a colour · X: erase"


class Gradient(_Aslant):
    """The colour, fading out along a line; within the chosen outline or the mask where there is one."""

    name, title, shortcut = "gradient", "Gradient", "5"
    tip = "Lay the colour so that it fades out along a line, inside the chosen outline or everywhere"
    hint = "Drag: from full colour to none · Shift: by steps of 15 degrees · Alt or Ctrl+click: pick a colour"

    def _lay(self, a: QPointF, b: QPointF) -> None:
        sheet, key = self.document.sheet, self.view.selection.selected
        rect = sheet.rect if key is None else rounded(sheet.element(key).outline.box, 1).intersect(sheet.rect)
        if not rect.area:
            return
        yy, xx = np.ogrid[rect.y0 : rect.y1, rect.x0 : rect.x1]
        dx, dy = b.x() - a.x(), b.y() - a.y()
        along = ((xx + 0.5 - a.x()) * dx + (yy + 0.5 - a.y()) * dy) / (dx * dx + dy * dy)
        t = np.clip(1 - along, 0, 1).astype(np.float32)
        # Gently at both ends, so that no edge is seen where it begins.
        grey = 255 * t * t * (3 - 2 * t)
        if key is not None:
            grey = grey * (drawn(sheet.element(key).outline, rect).astype(np.float32) / 255)
        self.lay(np.asarray(np.round(grey), np.uint8), rect, worded("gradient"))


class Picker(Colours):
    """Takes a colour from what is seen."""

    name, title, shortcut = "picker", "Pick a colour", "6"
    tip = "Take a colour from the picture into the hand"
    hint = "Click or drag: the colour there · every tool that lays colours does so with Alt or Ctrl"

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        self.pick(p)

    def drag(self, p: QPointF, event: QMouseEvent) -> None:
        self.pick(p)
