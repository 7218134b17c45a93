"""A curve of light, drawn by hand."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPalette, QPen
from PyQt6.QtWidgets import QWidget

from ...core.picture.adjusting import bent_by
from ...core.worded import worded
from ..look.look import PARCHMENT

Points = tuple[tuple[float, float], ...]
STRAIGHT: Points = ((0.0, 0.0), (1.0, 1.0))
HEIGHT, RIM, GRIP, LEAST_APART = 104, 6, 9.0, 0.02


class Curve(QWidget):
    """Points from dark to light: a drag moves one, a click between makes one, a double click takes it away. Signals: bent(points)."""

    bent = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.points: Points = STRAIGHT
        self._held: int | None = None
        self._accent = QColor(PARCHMENT.accent)
        self.setFixedHeight(HEIGHT)
        self.setAccessibleName(worded("curve"))
        tip = worded(
            "The curve: from dark (left) to light (right), each made darker (lower) or lighter. Drag points; double-click: one less."
        )
        self.setToolTip(tip)

    def set_accent(self, colour: str) -> None:
        self._accent = QColor(colour)
        self.update()

    def show_points(self, points: Points) -> None:
        """Shows a curve; none is straight."""
        if self._held is None:
            self.points = points or STRAIGHT
            self.update()

    def _area(self) -> QRectF:
        return QRectF(self.rect()).adjusted(RIM, RIM, -RIM, -RIM)

    def _at(self, p: tuple[float, float]) -> QPointF:
        r = self._area()
        return QPointF(r.left() + p[0] * r.width(), r.bottom() - p[1] * r.height())

    def _near(self, at: QPointF) -> int | None:
        found = [i for i, p in enumerate(self.points) if (self._at(p) - at).manhattanLength() <= GRIP]
        return found[0] if found else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        at = event.position()
        self._held = self._near(at)
        if self._held is None:
            r = self._area()
            x = min(max((at.x() - r.left()) / r.width(), 0.0), 1.0)
            after = next((i for i, p in enumerate(self.points) if p[0] > x), len(self.points))
            if 0 < after < len(self.points):
                y = min(max((r.bottom() - at.y()) / r.height(), self.points[after - 1][1]), self.points[after][1])
                self.points = (*self.points[:after], (x, y), *self.points[after:])
                self._held = after
                self._tell()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._held is None:
            return
        i, r, at = self._held, self._area(), event.position()
        x, y = (at.x() - r.left()) / r.width(), (r.bottom() - at.y()) / r.height()
        least = self.points[i - 1] if i else (-LEAST_APART, 0.0)
        most = self.points[i + 1] if i + 1 < len(self.points) else (1 + LEAST_APART, 1.0)
        moved = min(max(x, least[0] + LEAST_APART), most[0] - LEAST_APART), min(max(y, least[1]), most[1])
        if least[0] + LEAST_APART <= most[0] - LEAST_APART:
            self.points = (*self.points[:i], (round(moved[0], 3), round(moved[1], 3)), *self.points[i + 1 :])
            self._tell()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._held = None

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        i = None if event is None else self._near(event.position())
        if i is not None and len(self.points) > 2:
            self.points = (*self.points[:i], *self.points[i + 1 :])
            self._tell()

    def _tell(self) -> None:
        self.update()
        self.bent.emit(() if self.points == STRAIGHT else self.points)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, r, palette = QPainter(self), self._area(), self.palette()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(r, palette.color(QPalette.ColorRole.Base))
        faint = QColor(palette.color(QPalette.ColorRole.WindowText))
        faint.setAlpha(50)
        painter.setPen(QPen(faint, 1))
        for k in range(1, 4):
            painter.drawLine(QPointF(r.left() + k * r.width() / 4, r.top()), QPointF(r.left() + k * r.width() / 4, r.bottom()))
            painter.drawLine(QPointF(r.left(), r.top() + k * r.height() / 4), QPointF(r.right(), r.top() + k * r.height() / 4))
        across = np.linspace(0, 1, 64)
        bent = bent_by(self.points)(across)
        path = QPainterPath(self._at((0, float(bent[0]))))
        for x, y in zip(across[1:], bent[1:], strict=True):
            path.lineTo(self._at((float(x), float(y))))
        ink = palette.color(QPalette.ColorRole.WindowText)
        painter.setPen(QPen(ink, 1.6))
        painter.drawPath(path)
        painter.setBrush(self._accent)
        for p in self.points:
            painter.drawEllipse(self._at(p), 4, 4)
