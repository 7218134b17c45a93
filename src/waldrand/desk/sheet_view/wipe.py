"""Two takes side by side, up to a line that can be dragged."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPen
from PyQt6.QtWidgets import QGraphicsLineItem, QGraphicsScene

from ...core.values.frame import Rect
from .picture_items import PictureItem

#: Screen pixels from which the line is taken hold of.
REACH = 10


class Wipe:
    """share: where the line stands, 0..1 of the sheet's width; beside: the other take, seen left of it."""

    def __init__(self, scene: QGraphicsScene) -> None:
        self.share = 0.5
        self.beside, self._line = PictureItem(), QGraphicsLineItem()
        self._size = (1, 1)
        pen = QPen(QColor("#fffaf0"), 2.0)
        pen.setCosmetic(True)
        pen.setStyle(Qt.PenStyle.SolidLine)
        self._line.setPen(pen)
        for z, item in ((-4, self.beside), (5003, self._line)):
            item.setZValue(z)
            item.hide()
            scene.addItem(item)

    def show(self, pixels: np.ndarray | None, rect: Rect, size: tuple[int, int]) -> None:
        """Lays another take beside the first; None: no more. size: of the sheet."""
        self._size = size
        self.beside.show_pixels(pixels, rect)
        self.move(self.share)

    def move(self, share: float) -> None:
        """Moves the line."""
        self.share = min(1.0, max(0.0, share))
        (width, height), on = self._size, not self.beside.empty
        x = self.share * width
        self.beside.setVisible(on)
        self._line.setVisible(on)
        self.beside.show_until(x)
        self._line.setLine(x, 0, x, height)

    def hide_beside(self, hidden: bool) -> None:
        self.beside.setVisible(not hidden and not self.beside.empty)

    def at(self, point: QPointF, scale: float) -> bool:
        """Whether a point of the sheet lies on the line. scale: screen pixels per sheet pixel."""
        return not self.beside.empty and abs(point.x() - self.share * self._size[0]) * scale < REACH
