"""What a row of a ladder shows: of an element, or of a layer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QBrush, QColor, QPainter, QPen, QPixmap, QTransform

from ...core.values.element import Element
from ...core.values.layers import BOTH, DEPTH, FEEDS, LINES, LOOK, SEEN, Layer
from ...core.values.outline import Outline
from ...core.worded import worded
from ..look.images import thumbnail
from ..look.look import HATCHES, element_colour
from ..sheet_view.picture_items import outline_path

#: Screen pixels a side that a layer's picture is kept at.
SIDE = 64
BEHIND = "#8b8f80"
#: What is said of layers that are used for one thing only.
ROLE_WORDS = {SEEN: "only seen", FEEDS: "only feeds", LINES: "told as a drawing", DEPTH: "told as depth", LOOK: "lends its look"}


@dataclass(frozen=True)
class Switch:
    """Something of a row that a click turns on or off. name: of the value; sign: that is drawn; usual: whether it is as with most, so
    that it need not be seen."""

    name: str
    sign: str
    on: bool
    usual: bool


@dataclass(frozen=True, eq=False)
class Rung:
    """words: as they are drawn; text: the same with what is unusual, as it is read out; tip; miniature: draws into a place; gauge: a
    strength and whether that is its own, None where there is none; tick: an element's index and whether it landed, None where nobody
    knows; faint: whether it takes no part."""

    words: str
    text: str
    tip: str
    miniature: Callable[[QPainter, QRectF], None]
    switches: tuple[Switch, ...]
    gauge: tuple[float, bool] | None = None
    tick: tuple[int, bool] | None = None
    faint: bool = False


def of_element(e: Element, index: int, figure: Outline | None, gauge: tuple[float, bool] | None, landed: bool | None) -> Rung:
    """An element's row."""
    marks = [m for on, m in ((e.hold, worded("held")), (e.locked, worded("locked")), (not e.visible, worded("left out"))) if on]
    words = e.words or e.name
    text = words + (f"  ({', '.join(marks)})" if marks else "")
    switches = (
        Switch("visible", "eye" if e.visible else "eye-shut", e.visible, e.visible),
        Switch("hold", "hold", e.hold, not e.hold),
        Switch("locked", "lock", e.locked, not e.locked),
    )
    tick = None if landed is None else (index, landed)
    return Rung(words, text, text, lambda p, at: _paint_outline(p, figure or e.outline, index, at), switches, gauge, tick, not e.visible)


def of_layer(layer: Layer, picture: QPixmap) -> Rung:
    """A layer's row."""
    marks = [m for on, m in ((not layer.visible, worded("hidden")), (layer.role != BOTH, worded(ROLE_WORDS.get(layer.role, "")))) if on]
    name = f"{layer.group} / {layer.name}" if layer.group else layer.name
    text = name + (f"  ({', '.join(marks)})" if marks else "")
    switches = (Switch("visible", "eye" if layer.visible else "eye-shut", layer.visible, layer.visible),)
    opacity = layer.edge.get("opacity")
    gauge = None if opacity is None else (opacity, opacity < 1)
    tip = f"{layer.sort}: {text}"
    return Rung(name, tip, tip, lambda p, at: paint_picture(p, picture, at), switches, gauge, faint=not layer.visible)


def layer_picture(layer: Layer) -> QPixmap:
    """What is seen of a layer, in small."""
    return thumbnail(layer.shown[layer.seen.moved(-layer.bounds.x0, -layer.bounds.y0).slices], SIDE)


def paint_picture(painter: QPainter, picture: QPixmap, at: QRectF) -> None:
    """A small picture in the middle of a place."""
    w, h = max(1, picture.width()), max(1, picture.height())
    k = min(at.width() / w, at.height() / h)
    place = QRectF(at.center().x() - w * k / 2, at.center().y() - h * k / 2, w * k, h * k)
    # Of a middling grey, so that light and dark things are seen on it.
    painter.fillRect(place, QColor(BEHIND))
    painter.drawPixmap(place, picture, QRectF(picture.rect()))


def _paint_outline(painter: QPainter, outline: Outline, index: int, at: QRectF) -> None:
    """The shape of an element, in its colour and hatch."""
    path = outline_path(outline)
    box = path.boundingRect()
    if box.isEmpty():
        return
    k = min(at.width() / box.width(), at.height() / box.height())
    turn = QTransform.fromTranslate(at.center().x(), at.center().y()).scale(k, k).translate(-box.center().x(), -box.center().y())
    small, colour = turn.map(path), element_colour(index)
    fill = QColor(colour)
    fill.setAlpha(70)
    painter.fillPath(small, fill)
    painter.fillPath(small, QBrush(colour, HATCHES[index % len(HATCHES)]))
    painter.setPen(QPen(colour, 1.4))
    painter.setBrush(QBrush())
    painter.drawPath(small)
