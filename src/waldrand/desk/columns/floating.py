"""A strip that floats on the sheet beside what it is about, and never over it."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRect, QSize, Qt
from PyQt6.QtGui import QCursor, QMouseEvent
from PyQt6.QtWidgets import QApplication, QFrame, QLabel

from ...core.worded import worded
from ..sheet_view.view import SheetView
from ..tools.hand import Hand

#: Screen pixels: round what it is about, and above that for the knob that turns it.
GAP, TURN = 12, 44


class Floating(QFrame):
    """swatch: its grip. Dragged by that it stays where it was put; a double click on it lets it follow again."""

    def __init__(self, view: SheetView) -> None:
        super().__init__(view)
        self.view = view
        self._grip_at: QPoint | None = None
        self._put: QPoint | None = None
        self.setObjectName("floating")
        self.swatch = QLabel()
        self.swatch.setFixedSize(14, 18)
        self.swatch.setCursor(Qt.CursorShape.SizeAllCursor)
        self.swatch.setToolTip(worded("Drag this strip elsewhere; a double click lets it follow the element again."))
        for moved in (view.zoomed, view.tool_changed, view.moved):
            moved.connect(lambda *_: self.place())

    @property
    def about(self) -> tuple[float, float, float, float] | None:
        """The box of what it is about, sheet pixels; None: it is not wanted."""
        raise NotImplementedError

    def wanted_by(self, hand: Hand) -> bool:
        """Whether it is shown while a tool is in the hand."""
        return hand.shows_strip

    def place(self) -> None:
        """Beside what it is about, where there is room; not while the hand is at work on the sheet."""
        box, view = self.about, self.view
        if box is None or view.busy or not self.wanted_by(view.hands[view.tool]):
            self.hide()
            return
        if self._grip_at is None and self.isVisible() and self._held():
            # What is just being pressed does not move away from under the hand.
            return
        layout = self.layout()
        if layout is not None:
            # As high as what it shows at its width, wrapped lines too.
            layout.activate()
            wrapped = layout.hasHeightForWidth()
            self.resize(self.width(), layout.totalHeightForWidth(self.width()) if wrapped else layout.totalSizeHint().height())
        x0, y0, x1, y1 = box
        around = QRect(view.mapFromScene(x0, y0), view.mapFromScene(x1, y1)).normalized().adjusted(-GAP, -TURN, GAP, GAP)
        at = beside(around, self.size(), view.rect()) if self._put is None else self._put
        right, low = max(0, view.width() - self.width()), max(0, view.height() - self.height())
        self.move(min(max(0, at.x()), right), min(max(0, at.y()), low))
        self.show()
        self.raise_()

    def _held(self) -> bool:
        pressed = QApplication.mouseButtons() & Qt.MouseButton.LeftButton
        return bool(pressed) and self.rect().contains(self.mapFromGlobal(QCursor.pos()))

    def _on_grip(self, event: QMouseEvent) -> bool:
        return self.swatch.geometry().adjusted(-8, -6, 6, 6).contains(event.position().toPoint())

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._on_grip(event):
            self._grip_at = event.position().toPoint()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._grip_at is not None:
            self._put = self.mapToParent(event.position().toPoint() - self._grip_at)
            self.place()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._grip_at = None

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._on_grip(event):
            self._put = None
            self.place()


def beside(around: QRect, size: QSize, port: QRect) -> QPoint:
    """Where a strip of a size lies beside a rectangle in a view, covering as little of it as can be: right of it, left, below or above."""
    w, h = size.width(), size.height()
    y = min(max(around.top(), 0), max(0, port.height() - h))
    x = min(max(around.left(), 0), max(0, port.width() - w))
    places = (QPoint(around.right() + 1, y), QPoint(around.left() - w, y), QPoint(x, around.bottom() + 1), QPoint(x, around.top() - h))

    def covers(at: QPoint) -> tuple[int, int]:
        inside = QPoint(min(max(at.x(), 0), max(0, port.width() - w)), min(max(at.y(), 0), max(0, port.height() - h)))
        met = QRect(inside, size).intersected(around)
        return max(0, met.width()) * max(0, met.height()), abs(inside.x() - at.x()) + abs(inside.y() - at.y())

    return min(places, key=covers)
