"""Drawings that are told to passes, as pencil over the sheet."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen
from PyQt6.QtWidgets import QGraphicsItem, QGraphicsScene, QStyleOptionGraphicsItem, QWidget

from ...core.picture.spread import spread
from ...core.told.guides import drawing_in
from ...core.values.frame import Rect
from ...core.values.layers import LINES, Layer
from ...core.values.pencil import INK, Pencil
from ...core.values.sheet import Sheet
from ...core.values.strokes import Stroke
from .picture_items import PictureItem

#: A pale rim under the lines, so that they show on dark pictures too.
RIM, PALE = (255, 252, 240), 0.45


def pencilled(grey: np.ndarray) -> np.ndarray:
    """What is drawn, (h, w) float32 0..1, as pencil with a pale rim: (h, w, 4) uint8."""
    rim = PALE * spread(grey, 1)
    alpha = grey + rim * (1 - grey)
    share = (grey / np.maximum(alpha, 1e-6))[..., None]
    colours = share * np.array(INK, np.float32) + (1 - share) * np.array(RIM, np.float32)
    return np.asarray(np.round(np.dstack([colours, 255 * alpha])), np.uint8)


class Drawings:
    """All drawings of a sheet, and the stroke that is just being drawn."""

    def __init__(self, scene: QGraphicsScene) -> None:
        self._item, self._stroke = PictureItem(), _StrokeItem()
        for z, item in ((40, self._item), (41, self._stroke)):
            item.setZValue(z)
            scene.addItem(item)
        self._shown: tuple[Rect, tuple[Layer, ...]] = Rect(0, 0, 0, 0), ()

    def show(self, sheet: Sheet) -> None:
        """Shows the drawings of a sheet; made anew only where one of them changed."""
        layers: Sequence[Layer] = sheet.guides(LINES)
        before, now = self._shown, (sheet.rect, tuple(layers))
        if before[0] == now[0] and len(before[1]) == len(now[1]) and all(a is b for a, b in zip(before[1], now[1], strict=True)):
            return
        part = _drawn_since(before[1], now[1]) if before[0] == now[0] and not self._item.empty else None
        self._shown = now
        if not layers:
            self._item.show_pixels(None, sheet.rect)
        elif part is None:
            self._item.show_pixels(pencilled(_inked(layers, sheet.rect)), sheet.rect)
        else:
            at = part.intersect(sheet.rect)
            if at.area:
                self._item.show_part(pencilled(_inked(layers, at)), at)

    def show_stroke(self, stroke: Stroke | None) -> None:
        """The stroke that is just being drawn, in sheet pixels."""
        self._stroke.show_stroke(stroke)

    def show_at(self, scale: float) -> None:
        self._item.show_at(scale)

    def set_visible(self, visible: bool) -> None:
        self._item.setVisible(visible)


def _inked(layers: Sequence[Layer], rect: Rect) -> np.ndarray:
    """All that layers draw in a rectangle of the sheet, (h, w) float32 0..1, paler where it counts less."""
    grey = np.zeros((rect.height, rect.width), np.float32)
    for layer in layers:
        np.maximum(grey, np.float32(0.25 + 0.75 * layer.opacity) * drawing_in(layer, rect), out=grey)
    return grey


def _drawn_since(before: Sequence[Layer], now: Sequence[Layer]) -> Rect | None:
    """Where drawings differ from what they were, when nothing but strokes came or went; None: it may be anywhere."""
    if len(before) != len(now):
        return None
    part: Rect | None = None
    for a, b in zip(before, now, strict=True):
        if a is b:
            continue
        if not (isinstance(a, Pencil) and isinstance(b, Pencil) and a.bounds == b.bounds and a.key == b.key and a.opacity == b.opacity):
            return None
        fewer, more = sorted((a.strokes, b.strokes), key=len)
        if more[: len(fewer)] != fewer:
            return None
        for stroke in more[len(fewer) :]:
            at = stroke.bounds.moved(a.x, a.y)
            # As far as the pale rim reaches.
            at = Rect(at.x0 - 2, at.y0 - 2, at.x1 + 2, at.y1 + 2)
            part = at if part is None else part.around(at)
    return part or Rect(0, 0, 0, 0)


class _StrokeItem(QGraphicsItem):
    def __init__(self) -> None:
        super().__init__()
        self._stroke: Stroke | None = None

    def show_stroke(self, stroke: Stroke | None) -> None:
        self.prepareGeometryChange()
        self._stroke = stroke
        self.update()

    def boundingRect(self) -> QRectF:
        if self._stroke is None:
            return QRectF()
        r = self._stroke.bounds
        return QRectF(r.x0, r.y0, r.width, r.height)

    def paint(self, painter: QPainter | None, option: QStyleOptionGraphicsItem | None, widget: QWidget | None = None) -> None:
        if painter is None or self._stroke is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colour = QColor("#c23b22") if self._stroke.rubs else QColor(*INK)
        points = self._stroke.points if len(self._stroke.points) > 1 else self._stroke.points * 2
        for (ax, ay, aw), (bx, by, bw) in itertools.pairwise(points):
            painter.setPen(QPen(colour, (aw + bw) / 2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            painter.drawLine(QPointF(ax, ay), QPointF(bx, by))
