"""The sheet, as large as the window: looked at, and worked on by the tool in the hand."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QResizeEvent, QTabletEvent, QWheelEvent
from PyQt6.QtWidgets import QGraphicsView, QWidget
from scipy import ndimage

from ...core.packs import Pack
from ...core.values.area import HOLDS
from ...core.values.frame import Rect
from ...core.values.masks import Mask
from ...core.values.outline import Outline
from ...core.values.sheet import Sheet
from ...core.values.stacking import group_elsewhere
from ...core.worded import worded
from ..document import Document, State
from ..look.look import Look
from ..tools import TOOLS
from ..tools.hand import Hand
from .brush import Brush
from .canvas import Canvas
from .drawn_next import DrawnNext
from .layers_shown import LayersShown
from .laying_out import LayingOut
from .paints import Paints
from .selection import Selection
from .words_on_sheet import WordsOnSheet

LEAST_ZOOM, MOST_ZOOM = 0.02, 32.0
#: Screen pixels round the sheet when the whole is shown.
MARGIN = 24
#: The line round what is held, in shares of the sheet's longer side, and how much of its tint lies within.
RIM, WITHIN = 1 / 400, 24
#: Screen pixels that an arrow key pans by, and sheet pixels it moves by, alone and with Shift.
PAN, NUDGE, FAR_NUDGE = 40, 1, 10


class SheetView(QGraphicsView):
    """Signals: zoomed(scale), moved() when what is seen lies elsewhere or the hand is done, worded(sentence for the status line),
    thing_wanted(a point whose thing shall be masked), letters_wanted(a point where lettering shall begin), tool_changed(its name)."""

    zoomed = pyqtSignal(float)
    moved = pyqtSignal()
    said = pyqtSignal(str)
    thing_wanted = pyqtSignal(QPointF)
    letters_wanted = pyqtSignal(QPointF)
    tool_changed = pyqtSignal(str)

    def __init__(self, document: Document, look: Look, pack: Pack | None = None) -> None:
        self.selection, self.brush, self.paints = Selection(document), Brush(), Paints()
        self.canvas = Canvas(self.selection, self.brush)
        super().__init__(self.canvas)
        self.document, self.pack = document, pack
        self.laying, self.layers = LayingOut(document, self.selection), LayersShown(document, self.selection, self.canvas)
        self.drawn = DrawnNext(document, pack, self.canvas.grounds)
        self.words = WordsOnSheet(document, pack, self._port, lambda key: self.mapFromScene(self.canvas.label_at(key)))
        self.hands: dict[str, Hand] = {name: make(self) for name, make in TOOLS.items()}
        self.tool = next(iter(self.hands))
        self._fitted = True
        self._pressed, self._wiping = False, False
        self._pan_from: QPoint | None = None
        self.setTransformationAnchor(QGraphicsView.ViewportAnchor.NoAnchor)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMouseTracking(True)
        self.setAcceptDrops(False)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(worded("sheet"))
        self.set_look(look)
        self.selection.changed.connect(self._show_elements)
        self.laying.said.connect(self.said)
        self.laying.added.connect(self._name_new)
        self.words.left.connect(self.setFocus)
        self.words.left.connect(self.moved)
        self.words.opened.connect(self.moved)
        document.changed.connect(self._changed)
        document.replaced.connect(self._replaced)
        self._replaced()

    @property
    def _port(self) -> QWidget:
        port = self.viewport()
        assert port is not None
        return port

    # --- looking

    def set_look(self, look: Look) -> None:
        self.setBackgroundBrush(QColor(look.desk))
        self.canvas.set_look(look)

    @property
    def scale_now(self) -> float:
        """Screen pixels per sheet pixel."""
        return float(self.transform().m11())

    def zoom_to(self, scale: float, at: QPointF | None = None) -> None:
        """Sets the zoom; the viewport point `at` (default: the middle) keeps its place."""
        scale = min(max(scale, LEAST_ZOOM), MOST_ZOOM)
        at = at or QPointF(self._port.rect().center())
        before = self.mapToScene(at.toPoint())
        factor = scale / self.scale_now
        self.scale(factor, factor)
        after = self.mapToScene(at.toPoint())
        self.translate(after.x() - before.x(), after.y() - before.y())
        self._fitted = False
        self._show_elements()
        self.zoomed.emit(self.scale_now)

    def fit(self) -> None:
        """Shows the whole sheet."""
        sheet, port = self.document.sheet, self._port.rect()
        scale = min((port.width() - 2 * MARGIN) / sheet.width, (port.height() - 2 * MARGIN) / sheet.height)
        self.zoom_to(max(scale, LEAST_ZOOM))
        self.centerOn(sheet.width / 2, sheet.height / 2)
        self._fitted = True

    def pan(self, dx: float, dy: float) -> None:
        """Moves what is seen by screen pixels."""
        for bar, d in ((self.horizontalScrollBar(), dx), (self.verticalScrollBar(), dy)):
            if bar is not None:
                bar.setValue(bar.value() - round(d))
        self._fitted = False
        self.moved.emit()

    @property
    def busy(self) -> bool:
        """Whether the hand is at work on the sheet."""
        return self._pressed or self._wiping or self._pan_from is not None or self.words.editor is not None

    def begin_pan(self, at: QPoint) -> None:
        """The mouse moves the view from here on."""
        self._pan_from = at

    def show_cursor(self, shape: Qt.CursorShape) -> None:
        self._port.setCursor(shape)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None:
            return
        d = event.angleDelta()
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.pan(d.y() or d.x(), 0)
        elif event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.pan(0, d.y() or d.x())
        else:
            self.zoom_to(self.scale_now * 1.2 ** (d.y() / 120), event.position())
        event.accept()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if self._fitted:
            self.fit()
        self.moved.emit()

    # --- showing

    def _replaced(self) -> None:
        self.selection.keys = ()
        self._interrupt()
        sheet = self.document.sheet
        self.canvas.show_picture(sheet)
        self.canvas.drawings.show(sheet)
        self.canvas.show_overlay(None, Rect(0, 0, 1, 1))
        self.canvas.show_mask(sheet.mask)
        self.canvas.show_held(_held(sheet))
        self.canvas.show_frame(None)
        self.fit()
        self.selection.chosen.emit(None)

    def _changed(self, before: State, after: State) -> None:
        if before.sheet.layers is not after.sheet.layers or before.sheet.rect != after.sheet.rect:
            self.layers.show_change(before.sheet, after.sheet)
        if before.sheet.rect != after.sheet.rect:
            # What is half drawn belongs to the sheet as it was.
            self._interrupt()
        if before.sheet.areas is not after.sheet.areas:
            self.canvas.show_held(_held(after.sheet))
        if before.sheet.mask is not after.sheet.mask:
            self.canvas.show_mask(after.sheet.mask)
        elements = before.sheet.elements is not after.sheet.elements or before.sheet.divisions is not after.sheet.divisions
        # What lies behind them is named by the scene, and may be drawn by hand.
        elements |= before.sheet.scene is not after.sheet.scene or before.sheet.guides() != after.sheet.guides()
        # Where a picture goes on, it says itself what is drawn.
        elements |= after.draft.of_kind.fills_empty and before.sheet.layers != after.sheet.layers
        if elements or before.draft is not after.draft or before.sheet.has_picture != after.sheet.has_picture:
            if self.selection.trim():
                # What the hand held may be gone.
                self._interrupt()
            self._show_elements()

    def _interrupt(self) -> None:
        self._pressed = self._wiping = False
        self._pan_from = None
        self.hands[self.tool].put_down()

    def figures(self) -> dict[int, Outline]:
        """What the next pass fits into outlines, by the elements' keys."""
        return self.drawn.figures

    def _show_elements(self) -> None:
        self.drawn.show_grounds()
        hand = self.hands[self.tool]
        self.canvas.show_elements(
            self.document.sheet, self.scale_now, self.figures(), _gauges(self.document.state, self.selection), hand.shows_handles
        )
        self.canvas.show_corners(hand.corners(), self.scale_now)

    def _name_new(self, key: int) -> None:
        """A new element is chosen, and its words are asked for."""
        self.set_tool(next(iter(self.hands)))
        self.selection.choose(key)
        self.words.edit(key)

    def set_tool(self, tool: str) -> None:
        self.hands[self.tool].put_down()
        self.tool = tool
        self.canvas.show_tool(self.hands[tool].has_brush, self.hands[tool].has_paints)
        self.show_cursor(self.hands[tool].cursor)
        self._show_elements()
        self.tool_changed.emit(tool)

    # --- by hand

    def tabletEvent(self, event: QTabletEvent | None) -> None:
        if event is not None:
            # A light touch paints thin; what else a pen does comes as a mouse.
            self.brush.pressure = max(0.05, event.pressure()) if event.pressure() > 0 else 1.0
            event.ignore()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self.words.finish()
        if event.button() == Qt.MouseButton.MiddleButton:
            self.begin_pan(event.position().toPoint())
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        point = self.mapToScene(event.position().toPoint())
        if self.canvas.wipe.at(point, self.scale_now):
            self._wiping = True
            return
        self._pressed = True
        self.moved.emit()
        self.hands[self.tool].press(point, event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position().toPoint()
        point = self.mapToScene(at)
        if self._wiping:
            self.canvas.wipe.move(point.x() / self.document.sheet.width)
        elif self._pan_from is not None:
            self.pan(at.x() - self._pan_from.x(), at.y() - self._pan_from.y())
            self._pan_from = at
        elif self._pressed:
            self.hands[self.tool].drag(point, event)
        elif self.canvas.wipe.at(point, self.scale_now):
            self.show_cursor(Qt.CursorShape.SplitHCursor)
        else:
            self.hands[self.tool].hover(point, event)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self._wiping = False
        pressed, self._pressed, self._pan_from = self._pressed, False, None
        if pressed:
            self.hands[self.tool].release(self.mapToScene(event.position().toPoint()), event)
        self.brush.pressure = 1.0
        self.moved.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.hands[self.tool].double(self.mapToScene(event.position().toPoint()), event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or self.hands[self.tool].key(event):
            return
        arrows = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        if event.key() not in arrows:
            super().keyPressEvent(event)
            return
        dx, dy = arrows[Qt.Key(event.key())]
        step = FAR_NUDGE if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else NUDGE
        if self.selection.keys:
            _nudge(self.document, self.selection.keys, dx * step, dy * step)
        elif self.selection.layer is not None:
            sheet, key = self.document.sheet, self.selection.layer
            what = worded("move “{0}”", sheet.layer(key).name)
            self.document.edit(group_elsewhere(sheet, key, dx * step, dy * step), what, f"nudge layer {key}")
        else:
            self.pan(-PAN * dx, -PAN * dy)


def _held(sheet: Sheet) -> Mask | None:
    """All that kept masks hold, as it is shown: a line round it, and hardly anything within, where colours are to be seen."""
    held = [a.mask.read() >= HOLDS for a in sheet.areas if a.hold]
    if not held:
        return None
    solid = np.logical_or.reduce(held)
    width = 2 * max(1, round(max(solid.shape) * RIM)) + 1
    inner = ndimage.minimum_filter(solid, width)
    return Mask.from_array(np.where(solid, np.where(inner, WITHIN, 255), 0).astype(np.uint8))


def _nudge(document: Document, keys: Sequence[int], dx: int, dy: int) -> None:
    """Elements that are not locked, moved by arrow keys."""
    sheet = document.sheet
    moved = [e for e in map(sheet.element, keys) if not e.locked]
    for e in moved:
        sheet = sheet.with_element(replace(e, outline=e.outline.moved(dx, dy)))
    if moved:
        document.edit(sheet, worded("move ") + ", ".join(f"“{e.name}”" for e in moved), f"nudge {keys}")


def _gauges(state: State, selection: Selection) -> dict[int, tuple[float, bool]]:
    """The strength that each chosen element's gauge shows, and whether it is its own."""
    sheet, draft = state.sheet, state.draft
    if not sheet.has_picture or not draft.of_kind.hears_elements:
        return {}
    chosen = (e for e in sheet.elements if e.key in selection.keys and not e.hold)
    return {e.key: (draft.strength, False) if e.strength is None else (e.strength, True) for e in chosen}
