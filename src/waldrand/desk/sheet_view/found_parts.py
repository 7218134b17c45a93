"""The parts of a picture that a touch-up would paint, outlined on the sheet with their numbers."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QPainter, QPainterPath, QPen
from PyQt6.QtWidgets import QGraphicsItem, QStyleOptionGraphicsItem, QWidget

from ...core.passes.listed import Listed
from .picture_items import outline_path

#: Screen pixels of a number's disc.
DISC = 18.0
RIM, PALE, LEFT_OUT = QColor("#fffaf0"), QColor("#2f2a24"), QColor("#776d5e")


class FoundParts(QGraphicsItem):
    """Outlines and numbers; what is left out is drawn faintly."""

    def __init__(self) -> None:
        super().__init__()
        self._shown: list[tuple[Listed, QPainterPath]] = []
        self._rect = QRectF()
        self._accent = QColor("#c98512")
        self._looked_at = 0

    def set_colour(self, accent: str) -> None:
        self._accent = QColor(accent)
        self.update()

    def show_parts(self, parts: Sequence[Listed], width: int, height: int) -> None:
        """parts: none where nothing is to be seen; width, height: of the sheet."""
        self.prepareGeometryChange()
        self._shown = [(one, outline_path(one.outline)) for one in parts]
        self._rect = QRectF(0, 0, width, height) if parts else QRectF()
        self.update()

    def look_at(self, number: int) -> None:
        """Draws one more strongly; 0: none."""
        self._looked_at = number
        self.update()

    def boundingRect(self) -> QRectF:
        return self._rect.adjusted(-40, -40, 40, 40) if not self._rect.isEmpty() else self._rect

    def paint(self, painter: QPainter | None, option: QStyleOptionGraphicsItem | None, widget: QWidget | None = None) -> None:
        if painter is None or option is None:
            return
        scale = option.levelOfDetailFromTransform(painter.worldTransform())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for one, path in self._shown:
            strong = one.number == self._looked_at
            for colour, width in ((PALE, 3.4 if strong else 2.6), (self._accent if one.used else LEFT_OUT, 2.4 if strong else 1.4)):
                pen = QPen(colour, width, Qt.PenStyle.SolidLine if one.used else Qt.PenStyle.DotLine)
                pen.setCosmetic(True)
                painter.setPen(pen)
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawPath(path)
        for one, _ in self._shown:
            self._number(painter, one, scale)

    def _number(self, painter: QPainter, one: Listed, scale: float) -> None:
        b, r = one.outline.box, DISC / 2 / max(scale, 1e-6)
        at = QPointF(b[0], b[1])
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._accent if one.used else LEFT_OUT)
        painter.drawEllipse(at, r, r)
        font = QFont(painter.font())
        font.setPixelSize(round(DISC * 0.66))
        painter.save()
        painter.translate(at)
        painter.scale(1 / scale, 1 / scale)
        painter.setFont(font)
        painter.setPen(QColor("#241a06") if one.used else RIM)
        painter.drawText(QRectF(-DISC, -DISC, 2 * DISC, 2 * DISC), Qt.AlignmentFlag.AlignCenter, str(one.number))
        painter.restore()
