"""Between arrays and Qt's images."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage, QPixmap


def to_image(pixels: np.ndarray) -> QImage:
    """(h, w, 3) or (h, w, 4) uint8 as a QImage that owns its memory, ready for quick drawing."""
    h, w, c = pixels.shape
    kind = QImage.Format.Format_RGB888 if c == 3 else QImage.Format.Format_RGBA8888
    data = np.ascontiguousarray(pixels)
    image = QImage(data.tobytes(), w, h, c * w, kind)
    return image.convertToFormat(QImage.Format.Format_RGB32 if c == 3 else QImage.Format.Format_ARGB32_Premultiplied)


def from_image(image: QImage) -> np.ndarray:
    """A QImage as (h, w, 4) uint8 with straight alpha."""
    image = image.convertToFormat(QImage.Format.Format_RGBA8888)
    bits = image.constBits()
    assert bits is not None
    bits.setsize(image.sizeInBytes())
    rows = np.frombuffer(bits, np.uint8).reshape(image.height(), image.bytesPerLine())  # type: ignore[call-overload]
    # A copy: the image's memory goes with it.
    return rows[:, : 4 * image.width()].reshape(image.height(), image.width(), 4).copy()


def thumbnail(pixels: np.ndarray, side: int) -> QPixmap:
    """A small pixmap, its longer side `side` at most."""
    step = max(1, max(pixels.shape[:2]) // (2 * side))
    return QPixmap.fromImage(to_image(pixels[::step, ::step])).scaled(
        side, side, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
    )
