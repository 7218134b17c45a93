"""An element as it is drawn on the sheet: outline, hatch, label, handles and gauge."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QFont, QFontMetricsF, QPainter, QPen, QTransform
from PyQt6.QtWidgets import QGraphicsItem, QStyleOptionGraphicsItem, QWidget

from ...core.values.element import Element
from ...core.values.outline import Outline, same_shape
from ...core.worded import worded
from ..look.look import HATCHES, element_colour
from ..look.typeface import FAMILY
from .picture_items import outline_path, paint_figure, paint_sketch

HANDLES = ((0.0, 0.0), (0.5, 0.0), (1.0, 0.0), (1.0, 0.5), (1.0, 1.0), (0.5, 1.0), (0.0, 1.0), (0.0, 0.5))
HANDLE = 9.0
MOST_CACHED = 2_000_000


TURN = 26.0
GAUGE = 7.0


class ElementItem(QGraphicsItem):
    """An element's outline with its colour, hatch and label; chosen ones show handles, the leading one also its gauge.

    gauge: the denoise strength to show on the right edge, and whether it is the element's own; None for no gauge.
    figure: what is fitted into the outline; it is hatched in the outline's place. plain: a thin line and no hatch, over a picture.
    """

    def __init__(self, element: Element, index: int) -> None:
        super().__init__()
        self.element, self.index, self.chosen = element, index, False
        self.gauge: tuple[float, bool] | None = None
        self.leading = self.plain = False
        self.figure: Outline | None = None
        self._path = outline_path(element.outline)
        self._scale = 1.0
        self._measured: tuple[tuple[Element, float] | None, QRectF] = None, QRectF()

    def show_element(
        self,
        element: Element,
        index: int,
        chosen: bool,
        scale: float,
        gauge: tuple[float, bool] | None = None,
        leading: bool = True,
        figure: Outline | None = None,
    ) -> None:
        """scale: screen pixels per sheet pixel, for the label's and handles' reach; leading: handles are this one's."""
        shown = (element, index, chosen, scale, gauge, leading)
        same_figure = same_shape(figure, self.figure) and element.sketch == self.element.sketch
        if element is self.element and same_figure and shown[1:] == (self.index, self.chosen, self._scale, self.gauge, self.leading):
            return
        self.prepareGeometryChange()
        if element.outline is not self.element.outline:
            self._path = outline_path(element.outline)
        self.figure = figure
        self.element, self.index, self.chosen, self._scale = element, index, chosen, scale
        self.gauge, self.leading = gauge, leading
        self.setZValue(100 + index + (1000 if chosen else 0))
        # Hatched outlines are dear to draw and seldom change; very close up the cache would be larger than it is worth.
        size = self.boundingRect().size() * scale
        small = size.width() * size.height() < MOST_CACHED
        self.setCacheMode(QGraphicsItem.CacheMode.DeviceCoordinateCache if small else QGraphicsItem.CacheMode.NoCache)
        self.update()

    def show_plain(self, plain: bool) -> None:
        """No hatch, and a thin line unless it is chosen."""
        if self.plain != plain:
            self.plain = plain
            self.update()

    def _label(self) -> str:
        e = self.element
        marks = [m for on, m in ((e.hold, worded("held")), (e.locked, worded("locked")), (not e.visible, worded("left out"))) if on]
        return f"{e.words or e.name}" + (f"  ({', '.join(marks)})" if marks else "")

    def _font(self) -> QFont:
        font = QFont(FAMILY)
        font.setPixelSize(12)
        return font

    def label_rect(self) -> QRectF:
        """The label's place on the sheet."""
        # Asked for again and again while anything is drawn, and dear to measure.
        if self._measured[0] != (self.element, self._scale):
            metrics = QFontMetricsF(self._font())
            x0, y0, x1, _ = self.element.outline.box
            text = metrics.elidedText(self._label(), Qt.TextElideMode.ElideRight, max(70.0, (x1 - x0) * self._scale))
            place = QRectF(x0, y0, (metrics.horizontalAdvance(text) + 12) / self._scale, 20 / self._scale)
            self._measured = (self.element, self._scale), place
        return self._measured[1]

    def handle_rects(self) -> list[QRectF]:
        """The eight handles' places on the sheet, in the order of HANDLES."""
        x0, y0, x1, y1 = self.element.outline.box
        r = HANDLE / self._scale
        return [QRectF(x0 + fx * (x1 - x0) - r / 2, y0 + fy * (y1 - y0) - r / 2, r, r) for fx, fy in HANDLES]

    def turn_rect(self) -> QRectF:
        """The knob above the middle that turns the outline."""
        x0, y0, x1, _ = self.element.outline.box
        r = HANDLE / self._scale
        return QRectF((x0 + x1) / 2 - r / 2, y0 - TURN / self._scale - r / 2, r, r)

    def gauge_rect(self) -> QRectF:
        """The track of the strength gauge, inside the right edge."""
        _, y0, x1, y1 = self.element.outline.box
        s = self._scale
        return QRectF(x1 - (GAUGE + 8) / s, y0 + 24 / s, GAUGE / s, max(y1 - y0 - 34 / s, 8 / s))

    def strength_at(self, y: float) -> float:
        """The strength that a height on the gauge means."""
        track = self.gauge_rect()
        return float(min(1.0, max(0.0, (track.bottom() - y) / track.height())))

    def boundingRect(self) -> QRectF:
        m = (TURN + HANDLE + 2 if self.chosen else HANDLE + 2) / self._scale
        return self._path.boundingRect().united(self.label_rect()).adjusted(-m, -m, m, m)

    def covers(self, point: QPointF) -> bool:
        return self._path.contains(point) or self.label_rect().contains(point)

    def _paint_hatch(self, painter: QPainter, colour: QColor) -> None:
        fill, hatch = QColor(colour), HATCHES[self.index % len(HATCHES)]
        if self.figure is not None:
            fill.setAlpha(26 if self.chosen else 14)
            painter.fillPath(self._path, fill)
        fill.setAlpha(90 if self.chosen else 34 if self.element.visible else 12)
        if self.figure is not None:
            paint_figure(painter, self.figure, self._scale, fill, hatch)
            return
        brush = QBrush(fill, hatch)
        brush.setTransform(QTransform.fromScale(1 / self._scale, 1 / self._scale))
        painter.fillPath(self._path, brush)

    def paint(self, painter: QPainter | None, option: QStyleOptionGraphicsItem | None, widget: QWidget | None = None) -> None:
        if painter is None:
            return
        colour = element_colour(self.index)
        s = self._scale
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        thin = self.plain and not self.chosen
        if not self.plain:
            self._paint_hatch(painter, colour)
            if self.figure is not None and self.figure.lines is not None and self.element.sketch:
                paint_sketch(painter, self.figure, self._scale, self.element.sketch)
        # A pale line under the coloured one, so that it shows on dark and light pictures alike.
        for c, width in ((QColor(255, 252, 240, 150), 2.6 if thin else 3.6), (colour, 2.2 if self.chosen else 1.2 if thin else 1.6)):
            pen = QPen(c, width)
            pen.setCosmetic(True)
            if self.element.hold or not self.element.visible:
                pen.setStyle(Qt.PenStyle.DotLine)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(self._path)
        label = self.label_rect()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        painter.drawRoundedRect(label, 4 / s, 4 / s)
        painter.save()
        painter.translate(label.topLeft())
        painter.scale(1 / s, 1 / s)
        painter.setFont(self._font())
        painter.setPen(QColor("#fffaf0"))
        box = QRectF(6, 0, label.width() * s - 8, 20)
        text = QFontMetricsF(self._font()).elidedText(self._label(), Qt.TextElideMode.ElideRight, box.width() + 4)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, text)
        painter.restore()
        if self.chosen and self.leading:
            pen = QPen(colour, 1.6)
            pen.setCosmetic(True)
            painter.setPen(pen)
            painter.setBrush(QColor("#fffaf0"))
            turn = self.turn_rect()
            if not self.element.locked:
                painter.drawLine(QPointF(turn.center().x(), turn.bottom()), QPointF(turn.center().x(), self.element.outline.box[1]))
                for r in (*self.handle_rects(), turn):
                    painter.drawEllipse(r)
        if self.gauge is not None and self.chosen and self.leading:
            self._paint_gauge(painter, colour)

    def _paint_gauge(self, painter: QPainter, colour: QColor) -> None:
        assert self.gauge is not None
        value, own = self.gauge
        track, s = self.gauge_rect(), self._scale
        pen = QPen(colour, 1.2)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.setBrush(QColor(255, 250, 240, 200))
        painter.drawRoundedRect(track, 3 / s, 3 / s)
        y = track.bottom() - value * track.height()
        filled = QRectF(track.left(), y, track.width(), track.bottom() - y)
        painter.setPen(Qt.PenStyle.NoPen)
        # Pale while it is only the pass's strength that shows.
        painter.setBrush(QColor(201, 133, 18, 230 if own else 110))
        painter.drawRoundedRect(filled, 3 / s, 3 / s)
        painter.save()
        painter.translate(track.left() - 4 / s, y)
        painter.scale(1 / s, 1 / s)
        painter.setFont(self._font())
        text = f"{value:.2f}"
        width = QFontMetricsF(self._font()).horizontalAdvance(text)
        painter.setBrush(QColor("#c98512") if own else QColor("#8f8a78"))
        painter.drawRoundedRect(QRectF(-width - 10, -9, width + 8, 18), 4, 4)
        painter.setPen(QColor("#fffaf0"))
        painter.drawText(QRectF(-width - 6, -9, width + 2, 18), Qt.AlignmentFlag.AlignVCenter, text)
        painter.restore()
