"""What lies on the sheet view: the picture, a take over it, the mask, the elements' outlines."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QFont, QFontMetricsF, QImage, QPainter, QPainterPath, QPen, QPolygonF, QTransform
from PyQt6.QtWidgets import QGraphicsItem, QStyleOptionGraphicsItem, QWidget

from ...core.values.element import Element
from ...core.values.frame import Rect
from ...core.values.masks import TILE, Mask
from ...core.values.outline import Outline, same_shape
from ..look.images import to_image
from ..look.look import HATCHES, element_colour

MASK_TINT = (226, 150, 30)
MASK_FIGURE = (96, 56, 8, 120)


class PictureItem(QGraphicsItem):
    """A picture at a place on the sheet, kept at halved sizes too, so that any zoom draws quickly."""

    def __init__(self) -> None:
        super().__init__()
        self._levels: list[QImage] = []
        self._rect = QRectF()
        self._until = float("inf")

    def show_pixels(self, pixels: np.ndarray | None, rect: Rect) -> None:
        """Shows (h, w, 3 or 4) uint8 stretched over a sheet rectangle; None: nothing."""
        self.prepareGeometryChange()
        self._rect = QRectF(rect.x0, rect.y0, rect.width, rect.height)
        self._levels = [] if pixels is None else [to_image(pixels)]
        self.update()

    def show_until(self, x: float) -> None:
        """Only what lies left of a sheet coordinate is shown."""
        self._until = x
        self.update()

    @property
    def empty(self) -> bool:
        return not self._levels

    def boundingRect(self) -> QRectF:
        return self._rect

    def _level(self, scale: float) -> QImage:
        wanted = 0
        while scale < 0.5 and wanted < 6:
            scale *= 2
            wanted += 1
        while len(self._levels) <= wanted and min(self._levels[-1].width(), self._levels[-1].height()) >= 64:
            last = self._levels[-1]
            self._levels.append(
                last.scaled(
                    last.width() // 2, last.height() // 2, Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation
                )
            )
        return self._levels[min(wanted, len(self._levels) - 1)]

    def paint(self, painter: QPainter | None, option: QStyleOptionGraphicsItem | None, widget: QWidget | None = None) -> None:
        if painter is None or option is None or not self._levels:
            return
        scale = option.levelOfDetailFromTransform(painter.worldTransform()) * self._rect.width() / self._levels[0].width()
        image = self._level(scale)
        part = option.exposedRect.intersected(self._rect)
        part.setRight(min(part.right(), self._until))
        if part.isEmpty():
            return
        kx, ky = image.width() / self._rect.width(), image.height() / self._rect.height()
        # Whole source pixels, so that neighbouring updates meet without a seam.
        x0, y0 = int((part.left() - self._rect.left()) * kx), int((part.top() - self._rect.top()) * ky)
        x1 = min(image.width(), int(np.ceil((part.right() - self._rect.left()) * kx)) + 1)
        y1 = min(image.height(), int(np.ceil((part.bottom() - self._rect.top()) * ky)) + 1)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, scale < 2)
        painter.drawImage(
            QRectF(self._rect.left() + x0 / kx, self._rect.top() + y0 / ky, (x1 - x0) / kx, (y1 - y0) / ky),
            image,
            QRectF(x0, y0, x1 - x0, y1 - y0),
        )


class MaskItem(QGraphicsItem):
    """The mask as an amber tint, tile by tile; only tiles that changed are made anew."""

    def __init__(self) -> None:
        super().__init__()
        self._mask: Mask | None = None
        self._tiles: dict[tuple[int, int], tuple[np.ndarray, QImage]] = {}
        self._rect = QRectF()

    def show_mask(self, mask: Mask | None, changed: Rect | None = None) -> None:
        """Shows a mask; changed: where it differs from the last one (None: anywhere)."""
        rect = QRectF(0, 0, mask.width, mask.height) if mask is not None else QRectF()
        if rect != self._rect:
            self.prepareGeometryChange()
            self._rect = rect
        self._mask = mask
        if changed is None:
            self.update()
        else:
            self.update(QRectF(changed.x0, changed.y0, changed.width, changed.height))

    def boundingRect(self) -> QRectF:
        return self._rect

    def _image(self, key: tuple[int, int], tile: np.ndarray) -> QImage:
        held = self._tiles.get(key)
        if held is None or held[0] is not tile:
            a = (tile.astype(np.uint16) * 150 // 255)[..., None]
            rgba = np.concatenate([np.broadcast_to(np.array(MASK_TINT, np.uint8), (*tile.shape, 3)), a.astype(np.uint8)], -1)
            held = (tile, to_image(rgba))
            self._tiles[key] = held
        return held[1]

    def paint(self, painter: QPainter | None, option: QStyleOptionGraphicsItem | None, widget: QWidget | None = None) -> None:
        if painter is None or option is None or self._mask is None:
            return
        part = option.exposedRect
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
        for key, tile in self._mask.tiles.items():
            at = QRectF(key[1] * TILE, key[0] * TILE, tile.shape[1], tile.shape[0])
            if at.intersects(part):
                image = self._image(key, tile)
                here = at.intersected(part).toAlignedRect().intersected(at.toRect())
                painter.drawImage(QRectF(here), image, QRectF(here.translated(-int(at.left()), -int(at.top()))))


@lru_cache(maxsize=256)
def _mask_edge(data: bytes, height: int, width: int) -> QPainterPath:
    """The outline of a mask picture, in shares of its box, from its rows' spans."""
    a = np.frombuffer(data, np.uint8).reshape(height, width)
    step = max(1, height // 96)
    region = QPainterPath()
    for y in range(0, height, step):
        xs = np.flatnonzero(a[y] > 127)
        if len(xs):
            for run in np.split(xs, np.flatnonzero(np.diff(xs) > 1) + 1):
                region.addRect(QRectF(run[0] / width, y / height, (run[-1] + 1 - run[0]) / width, min(step, height - y) / height))
    return region.simplified()


def outline_path(o: Outline) -> QPainterPath:
    """An outline in sheet coordinates."""
    x0, y0, x1, y1 = o.box
    rect, path = QRectF(x0, y0, x1 - x0, y1 - y0), QPainterPath()
    if o.shape == "box":
        path.addRect(rect)
    elif o.shape == "ellipse":
        path.addEllipse(rect)
    elif o.shape == "freehand":
        path.addPolygon(QPolygonF([QPointF(x, y) for x, y in o.corners()]))
        path.closeSubpath()
    elif o.mask is not None:
        place = QTransform.fromTranslate(x0, y0).scale(x1 - x0, y1 - y0)
        path = place.map(_mask_edge(o.mask.tobytes(), *o.mask.shape))
    return path


def paint_figure(painter: QPainter, figure: Outline, scale: float, fill: QColor, hatch: Qt.BrushStyle) -> None:
    """Fills and hatches a figure on the sheet, its edge as smooth as the screen allows. scale: screen pixels per sheet pixel."""
    assert figure.mask is not None
    x0, y0, x1, y1 = figure.box
    width, height = (max(1, min(MOST_FIGURE, round(n * scale))) for n in (x1 - x0, y1 - y0))
    image = QImage(width, height, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(fill)
    inner = QPainter(image)
    inner.fillRect(image.rect(), QBrush(fill, hatch))
    inner.setCompositionMode(QPainter.CompositionMode.CompositionMode_DestinationIn)
    inner.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    inner.drawImage(image.rect(), to_image(np.dstack([figure.mask] * 4)))
    inner.end()
    painter.drawImage(QRectF(x0, y0, x1 - x0, y1 - y0), image)


class FigureItem(QGraphicsItem):
    """The figure that an inpaint fits into its mask."""

    def __init__(self) -> None:
        super().__init__()
        self._figure: Outline | None = None

    def show_figure(self, figure: Outline | None) -> None:
        """Shows a figure on the sheet, or none."""
        self.prepareGeometryChange()
        self._figure = figure
        self.update()

    def boundingRect(self) -> QRectF:
        if self._figure is None:
            return QRectF()
        x0, y0, x1, y1 = self._figure.box
        return QRectF(x0, y0, x1 - x0, y1 - y0)

    def paint(self, painter: QPainter | None, option: QStyleOptionGraphicsItem | None, widget: QWidget | None = None) -> None:
        if painter is not None and option is not None and self._figure is not None:
            scale = option.levelOfDetailFromTransform(painter.worldTransform())
            paint_figure(painter, self._figure, scale, QColor(*MASK_FIGURE), Qt.BrushStyle.BDiagPattern)


HANDLES = ((0.0, 0.0), (0.5, 0.0), (1.0, 0.0), (1.0, 0.5), (1.0, 1.0), (0.5, 1.0), (0.0, 1.0), (0.0, 0.5))
HANDLE = 9.0
MOST_CACHED = 2_000_000


#: Screen pixels of a figure's side that are drawn; beyond, they are drawn out.
MOST_FIGURE = 2048
TURN = 26.0
GAUGE = 7.0


class ElementItem(QGraphicsItem):
    """An element's outline with its colour, hatch and label; chosen ones show handles, the leading one also its gauge.

    gauge: the denoise strength to show on the right edge, and whether it is the element's own; None for no gauge.
    figure: what is fitted into the outline; it is hatched in the outline's place.
    """

    def __init__(self, element: Element, index: int) -> None:
        super().__init__()
        self.element, self.index, self.chosen = element, index, False
        self.gauge: tuple[float, bool] | None = None
        self.leading = False
        self.figure: Outline | None = None
        self._path = outline_path(element.outline)
        self._scale = 1.0

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
        same_figure = same_shape(figure, self.figure)
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

    def _label(self) -> str:
        e = self.element
        marks = [m for on, m in ((e.hold, "held"), (e.locked, "locked"), (not e.visible, "left out")) if on]
        return f"{e.words or e.name}" + (f"  ({', '.join(marks)})" if marks else "")

    def _font(self) -> QFont:
        font = QFont()
        font.setPixelSize(12)
        return font

    def label_rect(self) -> QRectF:
        """The label's place on the sheet."""
        metrics = QFontMetricsF(self._font())
        x0, y0, x1, _ = self.element.outline.box
        text = metrics.elidedText(self._label(), Qt.TextElideMode.ElideRight, max(70.0, (x1 - x0) * self._scale))
        return QRectF(x0, y0, (metrics.horizontalAdvance(text) + 12) / self._scale, 20 / self._scale)

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

    def paint(self, painter: QPainter | None, option: QStyleOptionGraphicsItem | None, widget: QWidget | None = None) -> None:
        if painter is None:
            return
        colour = element_colour(self.index)
        s = self._scale
        fill = QColor(colour)
        if self.figure is not None:
            fill.setAlpha(26 if self.chosen else 14)
            painter.fillPath(self._path, fill)
        fill.setAlpha(90 if self.chosen else 34 if self.element.visible else 12)
        brush = QBrush(fill, HATCHES[self.index % len(HATCHES)])
        brush.setTransform(QTransform.fromScale(1 / s, 1 / s))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.figure is None:
            painter.fillPath(self._path, brush)
        else:
            paint_figure(painter, self.figure, s, fill, HATCHES[self.index % len(HATCHES)])
        # A pale line under the coloured one, so that it shows on dark and light pictures alike.
        for c, width in ((QColor(255, 252, 240, 150), 3.6), (colour, 2.2 if self.chosen else 1.6)):
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
