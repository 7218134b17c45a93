"""The elements as a ladder, far above near: a miniature of each, its words, how strongly, and whether it landed."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PyQt6.QtCore import QModelIndex, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QBrush, QColor, QDrag, QDropEvent, QPainter, QPen, QTransform
from PyQt6.QtWidgets import QAbstractItemView, QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from ...core.values.element import Element
from ...core.values.outline import Outline
from ..look.look import HATCHES, PARCHMENT, Look, element_colour
from ..sheet_view.picture_items import outline_path
from .take_delegate import TICK, paint_tick

#: Screen pixels: of a row and its miniature, and of the gauge's sliver.
ROW, MINIATURE, GAUGE = 38, 30, 4
KEY = Qt.ItemDataRole.UserRole


class Rung:
    """What a row shows. gauge: its strength and whether that is its own, None where there is none; landed: None where nobody knows."""

    def __init__(self, element: Element, index: int, figure: Outline | None, gauge: tuple[float, bool] | None, landed: bool | None) -> None:
        self.element, self.index, self.figure, self.gauge, self.landed = element, index, figure, gauge, landed

    @property
    def text(self) -> str:
        """Its words, and what is unusual about it."""
        e = self.element
        marks = [m for on, m in ((e.hold, "held"), (e.locked, "locked"), (not e.visible, "left out")) if on]
        return (e.words or e.name) + (f"  ({', '.join(marks)})" if marks else "")


class _Delegate(QStyledItemDelegate):
    def __init__(self, ladder: Ladder) -> None:
        super().__init__(ladder)
        self._ladder = ladder

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(80, ROW)

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        rung = self._ladder.rung(index.data(KEY))
        if painter is None or rung is None:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        whole, look = QRectF(option.rect).adjusted(1, 1, -1, -1), self._ladder.look
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        if chosen:
            painter.setPen(QPen(QColor(look.accent), 2))
            painter.setBrush(QColor(look.card))
            painter.drawRoundedRect(whole, 6, 6)
        at = QRectF(whole.left() + 4, whole.center().y() - MINIATURE / 2, MINIATURE, MINIATURE)
        _paint_miniature(painter, rung, at)
        right = whole.right() - 5
        if rung.landed is not None:
            right -= TICK
            paint_tick(painter, QRectF(right, whole.center().y() - TICK / 2, TICK, TICK), rung.index, rung.landed)
            right -= 5
        if rung.gauge is not None:
            right -= GAUGE
            _paint_gauge(painter, rung.gauge, look, QRectF(right, whole.top() + 5, GAUGE, whole.height() - 10))
            right -= 5
        painter.setPen(QColor(look.ink if rung.element.visible else look.faint))
        place = QRectF(at.right() + 7, whole.top(), right - at.right() - 7, whole.height())
        text = painter.fontMetrics().elidedText(rung.text, Qt.TextElideMode.ElideRight, int(place.width()))
        painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, text)
        painter.restore()


def _paint_miniature(painter: QPainter, rung: Rung, at: QRectF) -> None:
    """The shape of an element, in its colour and hatch."""
    path = outline_path(rung.figure or rung.element.outline)
    box = path.boundingRect()
    if box.isEmpty():
        return
    k = min(at.width() / box.width(), at.height() / box.height())
    turn = QTransform.fromTranslate(at.center().x(), at.center().y()).scale(k, k).translate(-box.center().x(), -box.center().y())
    small, colour = turn.map(path), element_colour(rung.index)
    fill = QColor(colour)
    fill.setAlpha(70)
    painter.fillPath(small, fill)
    painter.fillPath(small, QBrush(colour, HATCHES[rung.index % len(HATCHES)]))
    painter.setPen(QPen(colour, 1.4))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(small)


def _paint_gauge(painter: QPainter, gauge: tuple[float, bool], look: Look, track: QRectF) -> None:
    value, own = gauge
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(look.line))
    painter.drawRoundedRect(track, 2, 2)
    painter.setBrush(QColor(look.accent if own else look.faint))
    painter.drawRoundedRect(QRectF(track.left(), track.bottom() - value * track.height(), track.width(), value * track.height()), 2, 2)


class Ladder(QListWidget):
    """Signals: picked(keys that are chosen, the leading one last), reordered(all keys, far to near), opened(key: its words are wanted)."""

    picked = pyqtSignal(object)
    reordered = pyqtSignal(object)
    opened = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self._rungs: dict[int, Rung] = {}
        self._showing, self.look = False, PARCHMENT
        self.setItemDelegate(_Delegate(self))
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setUniformItemSizes(True)
        self.setAccessibleName("elements, far to near")
        self.setToolTip("Elements, far above near. Click: choose, Shift or Ctrl: several; drag: nearer or farther; double-click: words.")
        self.itemSelectionChanged.connect(self._picked)
        self.itemDoubleClicked.connect(lambda item: self.opened.emit(item.data(KEY)))

    def set_look(self, look: Look) -> None:
        self.look = look
        self.viewport().update()  # type: ignore[union-attr]

    def rung(self, key: int) -> Rung | None:
        return self._rungs.get(key)

    def show_rungs(self, rungs: Mapping[int, Rung], chosen: tuple[int, ...], wanted: Callable[[Rung], bool]) -> None:
        """Shows rows by their keys, far to near. wanted: whether a row is looked for."""
        self._showing = True
        self._rungs = dict(rungs)
        keys = list(rungs)
        if [self.item(i).data(KEY) for i in range(self.count())] != keys:  # type: ignore[union-attr]
            self.clear()
            for key in keys:
                item = QListWidgetItem()
                item.setData(KEY, key)
                self.addItem(item)
        for i, key in enumerate(keys):
            row = self.item(i)
            assert row is not None
            row.setText(rungs[key].text)
            row.setToolTip(rungs[key].text)
            row.setSelected(key in chosen)
            row.setHidden(not wanted(rungs[key]))
            if chosen and key == chosen[-1]:
                self.scrollToItem(row)
        self._showing = False
        port = self.viewport()
        if port is not None:
            port.update()

    def _picked(self) -> None:
        if not self._showing:
            current = self.currentItem()
            keys = [item.data(KEY) for item in self.selectedItems()]
            lead = current.data(KEY) if current is not None else None
            self.picked.emit(tuple(sorted(keys, key=lambda k: k == lead)))

    def startDrag(self, actions: Qt.DropAction) -> None:
        # Qt's own would take the rows away afterwards; they go where the sheet says.
        model = self.model()
        assert model is not None
        drag = QDrag(self)
        drag.setMimeData(model.mimeData(self.selectedIndexes()))
        drag.exec(Qt.DropAction.MoveAction)

    def dropEvent(self, event: QDropEvent | None) -> None:
        if event is None:
            return
        keys = list(self._rungs)
        moved = [keys[i] for i in sorted(i.row() for i in self.selectedIndexes())]
        place = event.position().toPoint()
        under = self.itemAt(place)
        row = len(keys) if under is None else self.row(under) + (place.y() > self.visualItemRect(under).center().y())
        before = [k for k in keys[:row] if k not in moved]
        event.accept()
        self.reordered.emit((*before, *moved, *(k for k in keys[row:] if k not in moved)))
