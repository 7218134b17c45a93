"""The lines that what is being moved snaps to."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtGui import QColor, QPen
from PyQt6.QtWidgets import QGraphicsLineItem, QGraphicsScene

from ...core.values.sheet import Sheet


class SnapLines:
    """One upright and one level line, seen while something snaps to them."""

    def __init__(self, scene: QGraphicsScene, sheet: Callable[[], Sheet]) -> None:
        self._sheet, self._items = sheet, (QGraphicsLineItem(), QGraphicsLineItem())
        for item in self._items:
            item.setZValue(5002)
            item.hide()
            scene.addItem(item)

    def set_colour(self, colour: str) -> None:
        pen = QPen(QColor(colour), 1.2)
        pen.setCosmetic(True)
        for item in self._items:
            item.setPen(pen)

    def show(self, x: float | None, y: float | None) -> None:
        """The lines that what is being moved has snapped to."""
        sheet = self._sheet()
        for item, at in zip(self._items, (x, y), strict=True):
            item.setVisible(at is not None)
        if x is not None:
            self._items[0].setLine(x, 0, x, sheet.height)
        if y is not None:
            self._items[1].setLine(0, y, sheet.width, y)

    def lines(self, without: tuple[int, ...]) -> tuple[list[float], list[float]]:
        """Upright and level lines to snap to: the sheet's edges, middle and thirds, and all other elements' edges and middles."""
        sheet = self._sheet()
        xs, ys = ([f * n for f in (0, 1 / 3, 0.5, 2 / 3, 1)] for n in (sheet.width, sheet.height))
        for e in sheet.elements:
            if e.key not in without:
                x0, y0, x1, y1 = e.outline.box
                xs += [x0, (x0 + x1) / 2, x1]
                ys += [y0, (y0 + y1) / 2, y1]
        return xs, ys
