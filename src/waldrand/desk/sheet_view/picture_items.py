"""The picture, a take over it, the mask and figures, as they are drawn on the sheet."""

from __future__ import annotations

import weakref

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QImage, QPainter, QPainterPath, QPolygonF, QTransform
from PyQt6.QtWidgets import QGraphicsItem, QStyleOptionGraphicsItem, QWidget

from ...core.values.frame import Rect
from ...core.values.masks import TILE, Mask
from ...core.values.outline import Outline
from ...core.values.pencil import INK
from ..look.images import to_image

MASK_TINT = (226, 150, 30)
HOLD_TINT = (58, 110, 92)
MASK_FIGURE = (96, 56, 8, 120)
#: Screen pixels of a picture that are kept as they were drawn.
MOST_KEPT = 6_000_000
#: Screen pixels of a figure's side that are drawn; beyond, they are drawn out.
MOST_FIGURE = 2048


class PictureItem(QGraphicsItem):
    """A picture at a place on the sheet, kept at halved sizes too, so that any zoom draws quickly. rough: its pixels are never shown
    as such, however near they are looked at."""

    def __init__(self, rough: bool = False) -> None:
        super().__init__()
        self._rough = rough
        self._levels: list[QImage] = []
        self._rect = QRectF()
        self._until = float("inf")

    def show_pixels(self, pixels: np.ndarray | None, rect: Rect) -> None:
        """Shows (h, w, 3 or 4) uint8 stretched over a sheet rectangle; None: nothing."""
        self.prepareGeometryChange()
        self._rect = QRectF(rect.x0, rect.y0, rect.width, rect.height)
        self._levels = [] if pixels is None else [to_image(pixels)]
        self.update()

    def show_part(self, pixels: np.ndarray, rect: Rect) -> None:
        """Shows other pixels (h, w, 3 or 4) uint8 in a part of what is shown, at the picture's own size."""
        if not self._levels or not rect.area:
            return
        image, at = to_image(pixels), QRectF(rect.x0 - self._rect.left(), rect.y0 - self._rect.top(), rect.width, rect.height)
        for level in self._levels:
            kx, ky = level.width() / self._rect.width(), level.height() / self._rect.height()
            painter = QPainter(level)
            painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Source)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            small = QRectF(at.left() * kx, at.top() * ky, at.width() * kx, at.height() * ky)
            painter.drawImage(small, image)
            painter.end()
        self.update(QRectF(rect.x0, rect.y0, rect.width, rect.height))

    def show_until(self, x: float) -> None:
        """Only what lies left of a sheet coordinate is shown."""
        self._until = x
        self.update()

    def show_at(self, scale: float) -> None:
        """scale: screen pixels per sheet pixel. As it is on the screen it is kept, so that what is dragged over it is quickly drawn; very
        close up that would be larger than it is worth."""
        small = self._rect.width() * self._rect.height() * scale**2 < MOST_KEPT
        self.setCacheMode(QGraphicsItem.CacheMode.DeviceCoordinateCache if small else QGraphicsItem.CacheMode.NoCache)

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
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, scale < 2 or self._rough)
        painter.drawImage(
            QRectF(self._rect.left() + x0 / kx, self._rect.top() + y0 / ky, (x1 - x0) / kx, (y1 - y0) / ky),
            image,
            QRectF(x0, y0, x1 - x0, y1 - y0),
        )


class MaskItem(QGraphicsItem):
    """A mask as a tint, amber where none is said, tile by tile; only tiles that changed are made anew."""

    def __init__(self, tint: tuple[int, int, int] = MASK_TINT) -> None:
        super().__init__()
        self._tint = tint
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
            rgba = np.concatenate([np.broadcast_to(np.array(self._tint, np.uint8), (*tile.shape, 3)), a.astype(np.uint8)], -1)
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


#: Outlines of mask pictures that are still about, by their identity.
_EDGES: dict[int, tuple[weakref.ref[np.ndarray], QPainterPath]] = {}


def _mask_edge(a: np.ndarray) -> QPainterPath:
    """The outline of a mask picture (h, w) uint8, in shares of its box, from its rows' spans; remembered while the picture is about."""
    held = _EDGES.get(id(a))
    if held is None or held[0]() is not a:
        for key in [key for key, (alive, _) in _EDGES.items() if alive() is None]:
            del _EDGES[key]
        held = _EDGES[id(a)] = weakref.ref(a), _traced(a)
    return held[1]


def _traced(a: np.ndarray) -> QPainterPath:
    height, width = a.shape
    step = max(1, height // 96)
    region = QPainterPath()
    for y in range(0, height, step):
        xs = np.flatnonzero(a[y] > 127)
        if len(xs):
            for run in np.split(xs, np.flatnonzero(np.diff(xs) > 1) + 1):
                region.addRect(QRectF(run[0], y, run[-1] + 1 - run[0], min(step, height - y)))
    # Whole numbers until then, so that spans that touch are one.
    return QTransform.fromScale(1 / width, 1 / height).map(region.simplified())


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
        path = place.map(_mask_edge(o.mask))
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


def paint_sketch(painter: QPainter, figure: Outline, scale: float, weight: float) -> None:
    """Draws a figure's drawing on the sheet in pencil. scale: screen pixels per sheet pixel; weight: how much it counts, 0..1."""
    assert figure.lines is not None
    x0, y0, x1, y1 = figure.box
    width, height = (max(1, min(MOST_FIGURE, round(n * scale))) for n in (x1 - x0, y1 - y0))
    ink = np.dstack([np.broadcast_to(np.array(INK, np.uint8), (*figure.lines.shape, 3)), figure.lines])
    small = to_image(ink).scaled(width, height, Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation)
    painter.save()
    painter.setOpacity(0.35 + 0.5 * weight)
    painter.drawImage(QRectF(x0, y0, x1 - x0, y1 - y0), small)
    painter.restore()


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
