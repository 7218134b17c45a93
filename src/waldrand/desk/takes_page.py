"""The page of all takes, at full resolution: looked at side by side, zoomed and moved in step, marked and kept."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import (
    QDialog,
    QFrame,
    QGraphicsScene,
    QGraphicsView,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QSpinBox,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ..core.values.frame import Rect
from ..core.worded import worded
from .columns.take_delegate import TICK, Landed, paint_tick
from .sheet_view.picture_items import PictureItem

#: Takes on a page at first, and at the most.
A_PAGE, MOST_A_PAGE = 4, 24
#: Screen pixels of the line below a picture, and below all.
FOOT = 36


@dataclass(frozen=True, eq=False)
class Shown:
    """A take on the page. picture: the whole sheet as it would leave it, (h, w, 3) uint8, asked for when it is seen; label: what made
    it; landed: its ticks; marked, kept: as they are just now."""

    picture: Callable[[], np.ndarray]
    label: Callable[[], str]
    landed: Landed
    marked: Callable[[], bool]
    kept: Callable[[], bool]


class _Look(QGraphicsView):
    """One picture. Signals: zoomed(by what, at which share of it), moved(screen pixels), pressed(), opened()."""

    zoomed = pyqtSignal(float, QPointF)
    moved = pyqtSignal(QPoint)
    pressed = pyqtSignal()
    opened = pyqtSignal()
    resized = pyqtSignal()

    def __init__(self) -> None:
        super().__init__(QGraphicsScene())
        self.item, self._from = PictureItem(), QPoint()
        scene = self.scene()
        assert scene is not None
        scene.addItem(self.item)
        self.setTransformationAnchor(QGraphicsView.ViewportAnchor.NoAnchor)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def show_picture(self, pixels: np.ndarray) -> None:
        h, w = pixels.shape[:2]
        self.item.show_pixels(pixels, Rect(0, 0, w, h))
        # Room to move it about however far it is zoomed.
        self.setSceneRect(QRectF(-w, -h, 3 * w, 3 * h))

    def look_at(self, zoom: float, middle: QPointF) -> None:
        """zoom: 1 shows the whole picture; middle: which share of it lies in the middle."""
        r, port = self.item.boundingRect(), self.viewport()
        if r.isEmpty() or port is None:
            return
        scale = zoom * min(port.width() / r.width(), port.height() / r.height())
        self.resetTransform()
        self.scale(scale, scale)
        self.centerOn(middle.x() * r.width(), middle.y() * r.height())

    def share_at(self, at: QPoint) -> QPointF:
        """Which share of the picture lies at a point of the screen."""
        p, r = self.mapToScene(at), self.item.boundingRect()
        return QPointF(p.x() / max(1.0, r.width()), p.y() / max(1.0, r.height()))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.resized.emit()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            self.zoomed.emit(1.2 ** (event.angleDelta().y() / 120), self.share_at(event.position().toPoint()))
            event.accept()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._from = event.position().toPoint()
            self.pressed.emit()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.buttons() & Qt.MouseButton.LeftButton:
            at = event.position().toPoint()
            self.moved.emit(at - self._from)
            self._from = at

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.opened.emit()


class _Ticks(QWidget):
    """Where a take's elements landed."""

    def __init__(self, landed: Landed) -> None:
        super().__init__()
        self._landed = landed
        self.setFixedSize(max(1, len(landed)) * (int(TICK) + 4), int(TICK) + 4)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for i, (index, full) in enumerate(self._landed):
            paint_tick(painter, QRectF(2 + i * (TICK + 4), 2, TICK, TICK), index, full)


class Pane(QFrame):
    """A take with what made it, and what can be done with it. Signals: mark_wanted(), keep_wanted()."""

    mark_wanted = pyqtSignal()
    keep_wanted = pyqtSignal()

    def __init__(self, shown: Shown) -> None:
        super().__init__()
        self.shown, self.view = shown, _Look()
        self.setObjectName("card")
        self.view.show_picture(shown.picture())
        self.label = QLabel()
        self.label.setObjectName("faint")
        self.label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.mark, self.keep = QToolButton(), QToolButton()
        for button, tip in (
            (self.mark, worded("Mark this take, or take the mark away (V)")),
            (self.keep, worded("Keep it as a patch (K)")),
        ):
            button.setObjectName("small")
            button.setToolTip(tip)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.mark.setAccessibleName(worded("mark"))
        self.mark.clicked.connect(lambda _: self.mark_wanted.emit())
        self.keep.clicked.connect(lambda _: self.keep_wanted.emit())
        foot = QHBoxLayout()
        foot.addWidget(_Ticks(shown.landed))
        foot.addWidget(self.label, 1)
        foot.addWidget(self.mark)
        foot.addWidget(self.keep)
        column = QVBoxLayout(self)
        column.setContentsMargins(4, 4, 4, 2)
        column.setSpacing(2)
        column.addWidget(self.view, 1)
        column.addLayout(foot)
        self.refresh(False)

    def refresh(self, chosen: bool) -> None:
        """Shows the take as it is. chosen: whether the keys are for it."""
        label = self.shown.label()
        self.label.setText(label)
        self.label.setToolTip(label)
        self.setAccessibleName(label)
        self.mark.setText("★" if self.shown.marked() else "☆")
        self.keep.setText(worded("Kept ✓") if self.shown.kept() else worded("Keep"))
        self.setProperty("chosen", chosen)
        self.style().unpolish(self)  # type: ignore[union-attr]
        self.style().polish(self)  # type: ignore[union-attr]


class TakesPage(QDialog):
    """Signals: exported(): the page is wanted as a PNG; mark_wanted(which take), keep_wanted(which). chosen: the take that keys are for;
    accepted when that shall be shown on the sheet."""

    exported = pyqtSignal()
    mark_wanted = pyqtSignal(int)
    keep_wanted = pyqtSignal(int)

    def __init__(self, takes: Sequence[Shown], chosen: int, desk: QColor, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(worded("All takes"))
        self.resize(1180, 720)
        self._takes, self.chosen, self._desk = takes, max(0, chosen), desk
        self.zoom, self.middle = 1.0, QPointF(0.5, 0.5)
        self.panes: list[Pane] = []
        self._grid = QGridLayout()
        self._grid.setSpacing(6)
        column = QVBoxLayout(self)
        column.addLayout(self._grid, 1)
        column.addLayout(self._foot())
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._show_page()
        self.setFocus()

    def _foot(self) -> QHBoxLayout:
        self.a_page = QSpinBox()
        self.a_page.setRange(1, MOST_A_PAGE)
        self.a_page.setValue(min(A_PAGE, max(1, len(self._takes))))
        self.a_page.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
        self.a_page.setAccessibleName(worded("takes a page"))
        self.a_page.setToolTip(worded("How many takes stand on a page."))
        self.a_page.valueChanged.connect(lambda _: self._show_page())
        self.back, self.on, fit, one = QToolButton(), QToolButton(), QToolButton(), QToolButton()
        self.page = QLabel()
        for button, text, tip, act in (
            (self.back, "‹", worded("The page before (Page Up)"), lambda: self._turn(-1)),
            (self.on, "›", worded("The next page (Page Down)"), lambda: self._turn(1)),
            (fit, "fit", worded("Show whole pictures (0)"), self.fit),
            (one, "1:1", worded("One sheet pixel on one screen pixel (1)"), self.show_pixels),
        ):
            button.setText(text)
            button.setToolTip(tip)
            button.setAccessibleName(tip.split(" (")[0])
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(lambda _=False, act=act: act())
        hint = QLabel(worded("Wheel: zoom · drag: move, all in step · V: mark · K: keep · Return: onto the sheet"))
        hint.setObjectName("faint")
        save = QPushButton(worded("Export as PNG…"))
        save.setToolTip(worded("Write all takes, with their labels, as one picture."))
        save.setAutoDefault(False)
        save.clicked.connect(self.exported)
        foot = QHBoxLayout()
        for part in (self.back, self.page, self.on, fit, one, QLabel(worded("a page")), self.a_page):
            foot.addWidget(part)
        foot.addWidget(hint, 1)
        foot.addWidget(save)
        return foot

    @property
    def _pages(self) -> int:
        return -(-len(self._takes) // self.a_page.value())

    def _show_page(self) -> None:
        """The page that the chosen take stands on."""
        for pane in self.panes:
            self._grid.removeWidget(pane)
            pane.deleteLater()
        n = self.a_page.value()
        first = self.chosen // n * n
        shown = self._takes[first : first + n]
        self.panes = [Pane(one) for one in shown]
        across = self._across(min(n, len(self._takes)))
        for i, pane in enumerate(self.panes):
            self._grid.addWidget(pane, i // across, i % across)
            pane.view.setBackgroundBrush(self._desk)
            pane.view.zoomed.connect(self._zoom)
            pane.view.moved.connect(self._move)
            pane.view.pressed.connect(lambda which=first + i: self.choose(which))
            pane.view.opened.connect(self.accept)
            pane.view.resized.connect(self._look)
            pane.mark_wanted.connect(lambda which=first + i: self._mark(which))
            pane.keep_wanted.connect(lambda which=first + i: self._keep(which))
        self.page.setText(worded("page {0} of {1}", first // n + 1, self._pages))
        self.back.setEnabled(first > 0)
        self.on.setEnabled(first + n < len(self._takes))
        self.refresh()

    def _across(self, count: int) -> int:
        """How many stand side by side, so that each is as large as can be."""
        r = self.panes[0].view.item.boundingRect()
        ratio = r.width() / max(1.0, r.height())

        def size(across: int) -> float:
            return min(self.width() / across / ratio, (self.height() - FOOT) / -(-count // across) - FOOT)

        return max(range(1, count + 1), key=size)

    def _turn(self, by: int) -> None:
        n = self.a_page.value()
        page = min(max(self.chosen // n + by, 0), self._pages - 1)
        self.chosen = min(page * n, len(self._takes) - 1)
        self._show_page()

    def choose(self, which: int) -> None:
        """The take that keys are for; its page is shown."""
        before, self.chosen = self.chosen, min(max(which, 0), len(self._takes) - 1)
        if before // self.a_page.value() != self.chosen // self.a_page.value():
            self._show_page()
        self.refresh()

    def refresh(self) -> None:
        """Shows every take as it is."""
        first = self.chosen // self.a_page.value() * self.a_page.value()
        for i, pane in enumerate(self.panes):
            pane.refresh(first + i == self.chosen)
        self._look()

    def _mark(self, which: int) -> None:
        self.mark_wanted.emit(which)
        self.choose(which)

    def _keep(self, which: int) -> None:
        self.keep_wanted.emit(which)
        self.choose(which)

    # --- in step

    def _look(self) -> None:
        for pane in self.panes:
            pane.view.look_at(self.zoom, self.middle)

    def _zoom(self, by: float, at: QPointF) -> None:
        """The share of the pictures at the pointer keeps its place."""
        zoom = min(max(self.zoom * by, 0.5), 64.0)
        k = self.zoom / zoom
        self.middle = at + (self.middle - at) * k
        self.zoom = zoom
        self._look()

    def _move(self, by: QPoint) -> None:
        view = self.panes[0].view
        scale, r = view.transform().m11(), view.item.boundingRect()
        if scale > 0 and not r.isEmpty():
            self.middle -= QPointF(by.x() / scale / r.width(), by.y() / scale / r.height())
            self._look()

    def fit(self) -> None:
        """Whole pictures."""
        self.zoom, self.middle = 1.0, QPointF(0.5, 0.5)
        self._look()

    def show_pixels(self) -> None:
        """One pixel of a picture on one of the screen."""
        view = self.panes[0].view
        scale = view.transform().m11()
        if scale > 0:
            self.zoom /= scale
            self._look()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        acts: dict[int, Callable[[], None]] = {
            Qt.Key.Key_V: lambda: self._mark(self.chosen),
            Qt.Key.Key_K: lambda: self._keep(self.chosen),
            Qt.Key.Key_Right: lambda: self.choose(self.chosen + 1),
            Qt.Key.Key_Left: lambda: self.choose(self.chosen - 1),
            Qt.Key.Key_Period: lambda: self.choose(self.chosen + 1),
            Qt.Key.Key_Comma: lambda: self.choose(self.chosen - 1),
            Qt.Key.Key_PageDown: lambda: self._turn(1),
            Qt.Key.Key_PageUp: lambda: self._turn(-1),
            Qt.Key.Key_0: self.fit,
            Qt.Key.Key_1: self.show_pixels,
            Qt.Key.Key_Plus: lambda: self._zoom(1.25, self.middle),
            Qt.Key.Key_Minus: lambda: self._zoom(0.8, self.middle),
            Qt.Key.Key_Return: self.accept,
            Qt.Key.Key_Enter: self.accept,
        }
        act = acts.get(event.key())
        if act is None:
            super().keyPressEvent(event)
        else:
            act()
