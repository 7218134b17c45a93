"""Elements or layers as a ladder, far above near: a miniature of each, its words, how strongly, and whether it landed."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PyQt6.QtCore import QEvent, QModelIndex, QPoint, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QDrag, QDropEvent, QMouseEvent, QPainter, QPen, QPixmap
from PyQt6.QtWidgets import QAbstractItemView, QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from ..look.look import PARCHMENT, Look
from ..look.signs import drawn
from .rungs import Rung, Switch
from .take_delegate import TICK, paint_tick

#: Screen pixels: of a row and its miniature, of the gauge's sliver, of a switch's sign and the room it has.
ROW, MINIATURE, GAUGE, SIGN, ROOM = 38, 30, 4, 16, 19
KEY = Qt.ItemDataRole.UserRole


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
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        whole, look = QRectF(option.rect).adjusted(1, 1, -1, -1), self._ladder.look
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setPen(QPen(QColor(look.accent), 2))
            painter.setBrush(QColor(look.card))
            painter.drawRoundedRect(whole, 6, 6)
        at = QRectF(whole.left() + 4, whole.center().y() - MINIATURE / 2, MINIATURE, MINIATURE)
        rung.miniature(painter, at)
        right = whole.right() - 5
        if rung.tick is not None:
            right -= TICK
            paint_tick(painter, QRectF(right, whole.center().y() - TICK / 2, TICK, TICK), *rung.tick)
            right -= 5
        if rung.gauge is not None:
            right -= GAUGE
            _paint_gauge(painter, rung.gauge, look, QRectF(right, whole.top() + 5, GAUGE, whole.height() - 10))
            right -= 5
        for switch, there in self._ladder.switches_at(index):
            self._paint_switch(painter, switch, there, look)
            right = min(right, there.left() - 3)
        painter.setPen(QColor(look.faint if rung.faint else look.ink))
        place = QRectF(at.right() + 7, whole.top(), right - at.right() - 7, whole.height())
        text = painter.fontMetrics().elidedText(rung.words, Qt.TextElideMode.ElideRight, int(place.width()))
        painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, text)
        painter.restore()

    @staticmethod
    def _paint_switch(painter: QPainter, switch: Switch, at: QRect, look: Look) -> None:
        device = painter.device()
        ratio = 1.0 if device is None else device.devicePixelRatioF()
        # What is as with most is only offered.
        painter.setOpacity(0.45 if switch.usual else 1.0)
        painter.drawPixmap(QRect(at.center().x() - SIGN // 2, at.center().y() - SIGN // 2, SIGN, SIGN), _sign(switch.sign, look.ink, ratio))
        painter.setOpacity(1.0)


def _sign(name: str, colour: str, ratio: float) -> QPixmap:
    picture = drawn(name, colour, round(SIGN * ratio))
    picture.setDevicePixelRatio(ratio)
    return picture


def _paint_gauge(painter: QPainter, gauge: tuple[float, bool], look: Look, track: QRectF) -> None:
    value, own = gauge
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(look.line))
    painter.drawRoundedRect(track, 2, 2)
    painter.setBrush(QColor(look.accent if own else look.faint))
    painter.drawRoundedRect(QRectF(track.left(), track.bottom() - value * track.height(), track.width(), value * track.height()), 2, 2)


class Ladder(QListWidget):
    """name, tip: what it is to who hears it, and what can be done. Signals: picked(keys that are chosen, the leading one last),
    reordered(all keys, far to near), opened(key: its words are wanted), switched(key, which switch, on or off)."""

    switched = pyqtSignal(int, str, bool)
    picked = pyqtSignal(object)
    reordered = pyqtSignal(object)
    opened = pyqtSignal(int)

    def __init__(self, name: str, tip: str) -> None:
        super().__init__()
        self._rungs: dict[int, Rung] = {}
        self._over = -1
        self._showing, self.look = False, PARCHMENT
        self.setItemDelegate(_Delegate(self))
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setUniformItemSizes(True)
        self.setMouseTracking(True)
        self.setAccessibleName(name)
        self.setToolTip(tip)
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
            row.setToolTip(rungs[key].tip)
            if row.isSelected() != (key in chosen):
                row.setSelected(key in chosen)
            row.setHidden(not wanted(rungs[key]))
            if chosen and key == chosen[-1]:
                self.scrollToItem(row)
        self._showing = False
        port = self.viewport()
        if port is not None:
            port.update()

    def switches_at(self, index: QModelIndex) -> list[tuple[Switch, QRect]]:
        """The switches that a row shows, and where; usual ones only on the row that the pointer is on, or that is chosen."""
        rung, item = self._rungs.get(index.data(KEY)), self.item(index.row())
        if rung is None or item is None:
            return []
        all_of_them = index.row() == self._over or item.isSelected()
        shown = [s for s in rung.switches if all_of_them or not s.usual]
        rect = self.visualItemRect(item)
        right = rect.right() - 6 - (TICK + 5 if rung.tick is not None else 0) - (GAUGE + 5 if rung.gauge is not None else 0)
        return [(s, QRect(int(right - ROOM * (len(shown) - i)), rect.top(), ROOM, rect.height())) for i, s in enumerate(shown)]

    def _switch_at(self, at: QPoint) -> tuple[int, Switch] | None:
        index = self.indexAt(at)
        for switch, place in self.switches_at(index) if index.isValid() else ():
            if place.contains(at):
                return index.data(KEY), switch
        return None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        found = None if event is None or event.button() != Qt.MouseButton.LeftButton else self._switch_at(event.position().toPoint())
        if found is None:
            super().mousePressEvent(event)
        else:
            key, switch = found
            self.switched.emit(key, switch.name, not switch.on)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        # A switch pressed twice is switched twice.
        if event is not None and self._switch_at(event.position().toPoint()) is not None:
            self.mousePressEvent(event)
        else:
            super().mouseDoubleClickEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        super().mouseMoveEvent(event)
        self._hover(-1 if event is None else self.indexAt(event.position().toPoint()).row())

    def leaveEvent(self, event: QEvent | None) -> None:
        super().leaveEvent(event)
        self._hover(-1)

    def _hover(self, row: int) -> None:
        if row != self._over:
            self._over = row
            self.viewport().update()  # type: ignore[union-attr]

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
