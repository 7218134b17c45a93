"""Our own signs for tools: SVG files whose lines take the colour of the ink."""

from __future__ import annotations

from functools import lru_cache
from importlib.resources import files

from PyQt6.QtCore import QByteArray, QRectF, Qt
from PyQt6.QtGui import QIcon, QPainter, QPixmap
from PyQt6.QtSvg import QSvgRenderer

from .look import Look

#: Pixels a side at which signs are drawn for screens of one, two and three pixels to a point.
SIDE, SCALES = 22, (1, 2, 3)


@lru_cache(maxsize=256)
def sign_text(name: str) -> str:
    """The SVG of a sign."""
    return (files("waldrand") / "data" / "signs" / f"{name}.svg").read_text("utf-8")


def drawn(name: str, colour: str, side: int) -> QPixmap:
    """A sign in a colour, so many pixels a side."""
    picture = QPixmap(side, side)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    QSvgRenderer(QByteArray(sign_text(name).replace("currentColor", colour).encode())).render(painter, QRectF(0, 0, side, side))
    painter.end()
    return picture


def sign(name: str, look: Look) -> QIcon:
    """A sign in the look's ink, and on its accent where it is chosen."""
    icon = QIcon()
    for scale in SCALES:
        for state, colour in ((QIcon.State.Off, look.ink), (QIcon.State.On, look.on_accent)):
            picture = drawn(name, colour, SIDE * scale)
            picture.setDevicePixelRatio(scale)
            icon.addPixmap(picture, QIcon.Mode.Normal, state)
    return icon
