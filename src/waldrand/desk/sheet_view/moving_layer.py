"""A layer on the sheet while it is being moved, scaled or turned."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPixmap, QPolygonF, QTransform
from PyQt6.QtWidgets import QGraphicsPixmapItem, QGraphicsScene

from ...core.picture.warped import Corners, corners_of
from ...core.values.brought import PLAIN
from ...core.values.layers import PictureLayer
from ..look.images import to_image


class MovingLayer:
    """Its pixels, brought to other corners by the screen alone."""

    def __init__(self, scene: QGraphicsScene) -> None:
        self._item = QGraphicsPixmapItem()
        self._item.setTransformationMode(Qt.TransformationMode.SmoothTransformation)
        self._item.setZValue(-9)
        self._item.hide()
        scene.addItem(self._item)

    def begin(self, layer: PictureLayer) -> None:
        """From here on the layer is shown where it is being moved to; the picture has to leave it out."""
        own = layer.changed(finish=replace(layer.finish, corners=None), brought=PLAIN).shown
        if layer.brought.change is not None:
            # About as it was matched, or its colours would jump.
            seen = layer.shown[..., 3] > 0
            by = layer.shown[..., :3][seen].mean(0) - layer.own_colours[seen].mean(0) if seen.any() else 0
            own = np.dstack([np.clip(own[..., :3] + by, 0, 255).astype(np.uint8), own[..., 3]])
        self._item.setPixmap(QPixmap.fromImage(to_image(own)))
        self._item.setOpacity(layer.opacity)
        self.show(layer.corners)
        self._item.show()

    def show(self, corners: Corners) -> None:
        """Where its corners are just now."""
        size, way = self._item.pixmap(), QTransform()
        own = QPolygonF([QPointF(x, y) for x, y in corners_of(0, 0, size.width(), size.height())])
        if QTransform.quadToQuad(own, QPolygonF([QPointF(x, y) for x, y in corners]), way):
            self._item.setTransform(way)

    def end(self) -> None:
        """It has come to rest; the picture has to show it again."""
        self._item.hide()
        self._item.setPixmap(QPixmap())
