"""How a take is drawn in the strip: its picture as large as there is room, on it a tick for each element, under it a short line."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QModelIndex, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPixmap
from PyQt6.QtWidgets import QListWidget, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from ..look.look import HATCHES, PARCHMENT, Look, element_colour

#: Screen pixels: round a take, of its row of ticks and of its line, of a tick; the least picture.
MARGIN, TICKS, LINE, TICK, LEAST = 4, 13, 15, 9, 40
#: The least width of a take, for its line.
WIDE = 92
PICTURE = Qt.ItemDataRole.UserRole
#: Of each element that was judged: its place among the elements, and whether it landed.
Landed = list[tuple[int, bool]]


class TakeDelegate(QStyledItemDelegate):
    """landed: of the take in a row, its ticks."""

    def __init__(self, strip: QListWidget, landed: Callable[[int], Landed]) -> None:
        super().__init__(strip)
        self._list, self._landed, self.look = strip, landed, PARCHMENT

    def set_look(self, look: Look) -> None:
        self.look = look
        self._list.viewport().update()  # type: ignore[union-attr]

    def side(self) -> int:
        """Of the pictures, as the strip's height allows."""
        port = self._list.viewport()
        height = 100 if port is None else port.height()
        return max(LEAST, height - LINE - 2 * MARGIN - 4)

    @staticmethod
    def _size(picture: QPixmap | None, side: int) -> QSize:
        ratio = 1.0 if picture is None or picture.isNull() else picture.width() / picture.height()
        return QSize(max(LEAST, round(side * min(ratio, 2.2))), side)

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        size = self._size(index.data(PICTURE), self.side())
        return QSize(max(size.width(), WIDE) + 2 * MARGIN, size.height() + LINE + 2 * MARGIN)

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if painter is None:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        whole, chosen = QRectF(option.rect), bool(option.state & QStyle.StateFlag.State_Selected)
        if chosen:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(self.look.accent))
            painter.drawRoundedRect(whole.adjusted(1, 1, -1, -1), 6, 6)
        picture: QPixmap | None = index.data(PICTURE)
        # The strip may have become higher since its takes were laid out.
        size = self._size(picture, max(LEAST, round(whole.height()) - LINE - 2 * MARGIN))
        width = min(size.width(), whole.width() - 2 * MARGIN)
        place = QRectF(whole.center().x() - width / 2, whole.top() + MARGIN, width, size.height())
        if picture is not None and not picture.isNull():
            at = QRectF(picture.rect())
            k = min(place.width() / at.width(), place.height() / at.height())
            w, h = at.width() * k, at.height() * k
            painter.drawPixmap(QRectF(place.center().x() - w / 2, place.center().y() - h / 2, w, h), picture, at)
        self._paint_ticks(painter, QRectF(place.left(), place.bottom() - TICKS, place.width(), TICKS), self._landed(index.row()))
        painter.setPen(QColor(self.look.on_accent if chosen else self.look.ink))
        text = painter.fontMetrics().elidedText(short(str(index.data() or "")), Qt.TextElideMode.ElideRight, int(whole.width()) - 4)
        painter.drawText(QRectF(whole.left(), place.bottom() + 1, whole.width(), LINE), Qt.AlignmentFlag.AlignCenter, text)
        painter.restore()

    @staticmethod
    def _paint_ticks(painter: QPainter, row: QRectF, landed: Landed) -> None:
        step = min(TICK + 3.0, row.width() / max(1, len(landed)))
        x = row.center().x() - step * len(landed) / 2
        for i, (index, full) in enumerate(landed):
            paint_tick(painter, QRectF(x + i * step + (step - TICK) / 2, row.top() + 2, TICK, TICK), index, full)


def paint_tick(painter: QPainter, at: QRectF, index: int, landed: bool) -> None:
    """An element's tick in its colour and hatch: full where it landed, hollow where it missed."""
    colour = element_colour(index)
    painter.setPen(QPen(QColor("#fffaf0"), 2.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawEllipse(at)
    if landed:
        disc = QPainterPath()
        disc.addEllipse(at)
        painter.fillPath(disc, colour)
        painter.fillPath(disc, QBrush(QColor(255, 250, 240, 150), HATCHES[index % len(HATCHES)]))
    painter.setPen(QPen(colour, 1.6))
    painter.drawEllipse(at)
    if not landed:
        painter.drawPoint(QPointF(at.center()))


def short(label: str) -> str:
    """What made a take, in one line: all that its label says but how it was placed."""
    first, *rest = label.split("\n")
    return " · ".join([first, *(line.removeprefix("seed ") for line in rest if not line.startswith("placed"))])
