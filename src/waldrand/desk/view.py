"""The sheet, as large as the window: looked at, drawn on, arranged by hand."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QBrush, QColor, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPen, QPixmap, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QGraphicsEllipseItem, QGraphicsPathItem, QGraphicsRectItem, QGraphicsScene, QGraphicsView

from ..core.element import Element
from ..core.frame import Rect
from ..core.masks import Mask
from ..core.outline import Box, Outline, freehand
from ..core.sheet import Patch
from .document import Document, State
from .items import HANDLES, ElementItem, MaskItem, PictureItem
from .look import Look
from .words_editor import WordsEditor

Tool = Literal["arrange", "box", "ellipse", "freehand", "brush"]
LEAST_ZOOM, MOST_ZOOM = 0.02, 32.0
LEAST_BOX = 8.0


class SheetView(QGraphicsView):
    """Signals: chosen(key or None), zoomed(scale), brush_changed(), said(sentence for the status line)."""

    chosen = pyqtSignal(object)
    zoomed = pyqtSignal(float)
    brush_changed = pyqtSignal()
    said = pyqtSignal(str)
    tool_changed = pyqtSignal(str)

    def __init__(self, document: Document, look: Look) -> None:
        self._scene = QGraphicsScene()
        super().__init__(self._scene)
        self.document = document
        self.tool: Tool = "arrange"
        self.brush_radius, self.brush_softness, self.erasing = 32.0, 0.5, False
        self.selected: int | None = None
        self._fitted = True
        self._items: dict[int, ElementItem] = {}
        self._picture, self._overlay, self._mask = PictureItem(), PictureItem(), MaskItem()
        self._paper = QGraphicsRectItem()
        self._frame = QGraphicsRectItem()
        self._draft = QGraphicsPathItem()
        self._ring = QGraphicsEllipseItem()
        for z, item in (
            (-20, self._paper),
            (-10, self._picture),
            (-5, self._overlay),
            (50, self._mask),
            (60, self._frame),
            (5000, self._draft),
            (5001, self._ring),
        ):
            item.setZValue(z)
            self._scene.addItem(item)
        self._ring.hide()
        self._frame.hide()
        self._press: QPointF | None = None
        self._pan_from: QPoint | None = None
        self._points: list[tuple[float, float]] = []
        self._grip: tuple[Element, int | None] | None = None
        self._stroke: Mask | None = None
        self._editor: WordsEditor | None = None
        self.setTransformationAnchor(QGraphicsView.ViewportAnchor.NoAnchor)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("sheet")
        self.set_look(look)
        document.changed.connect(self._changed)
        document.replaced.connect(self._replaced)
        self._replaced()

    # --- looking

    def set_look(self, look: Look) -> None:
        self.setBackgroundBrush(QColor(look.desk))
        check = QPixmap(24, 24)
        check.fill(QColor("#f4efe3"))
        p = QPainter(check)
        p.fillRect(0, 0, 12, 12, QColor("#ebe4d4"))
        p.fillRect(12, 12, 12, 12, QColor("#ebe4d4"))
        p.end()
        self._paper.setBrush(QBrush(check))
        self._paper.setPen(QPen(Qt.PenStyle.NoPen))
        pen = QPen(QColor(look.accent), 1.5, Qt.PenStyle.DashLine)
        pen.setCosmetic(True)
        self._frame.setPen(pen)

    @property
    def scale_now(self) -> float:
        """Screen pixels per sheet pixel."""
        return float(self.transform().m11())

    def zoom_to(self, scale: float, at: QPointF | None = None) -> None:
        """Sets the zoom; the viewport point `at` (default: the middle) keeps its place."""
        scale = min(max(scale, LEAST_ZOOM), MOST_ZOOM)
        at = at or QPointF(self._viewport().rect().center())
        before = self.mapToScene(at.toPoint())
        factor = scale / self.scale_now
        self.scale(factor, factor)
        after = self.mapToScene(at.toPoint())
        self.translate(after.x() - before.x(), after.y() - before.y())
        self._fitted = False
        self._rescaled()

    def fit(self) -> None:
        """Shows the whole sheet."""
        sheet, port = self.document.sheet, self._viewport().rect()
        scale = min((port.width() - 48) / sheet.width, (port.height() - 48) / sheet.height)
        self.zoom_to(max(scale, LEAST_ZOOM))
        self.centerOn(sheet.width / 2, sheet.height / 2)
        self._fitted = True

    def actual(self) -> None:
        """One sheet pixel on one screen pixel."""
        self.zoom_to(1.0)

    def _rescaled(self) -> None:
        self._show_elements()
        self.zoomed.emit(self.scale_now)

    def pan(self, dx: float, dy: float) -> None:
        """Moves what is seen by screen pixels."""
        for bar, d in ((self.horizontalScrollBar(), dx), (self.verticalScrollBar(), dy)):
            if bar is not None:
                bar.setValue(bar.value() - round(d))
        self._fitted = False

    def _viewport(self) -> QGraphicsView:
        port = self.viewport()
        assert port is not None
        return port  # type: ignore[return-value]

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

    # --- showing

    def _replaced(self) -> None:
        self.selected = None
        self._show_all()
        self.fit()
        self.chosen.emit(None)

    def _changed(self, before: State, after: State) -> None:
        if before.sheet.layers is not after.sheet.layers or before.sheet.rect != after.sheet.rect:
            self._show_picture()
        if before.sheet.mask is not after.sheet.mask:
            self._mask.show_mask(after.sheet.mask)
        if before.sheet.elements is not after.sheet.elements:
            if self.selected is not None and all(e.key != self.selected for e in after.sheet.elements):
                self.choose(None)
            self._show_elements()

    def _show_all(self) -> None:
        self._show_picture()
        self._overlay.show_pixels(None, Rect(0, 0, 1, 1))
        self._mask.show_mask(self.document.sheet.mask)
        self._frame.hide()
        self._show_elements()

    def _show_picture(self) -> None:
        sheet = self.document.sheet
        self._paper.setRect(0, 0, sheet.width, sheet.height)
        reach = max(sheet.width, sheet.height)
        self._scene.setSceneRect(QRectF(-reach, -reach, sheet.width + 2 * reach, sheet.height + 2 * reach))
        self._picture.show_pixels(sheet.flatten() if sheet.has_picture else None, sheet.rect)

    def _show_elements(self) -> None:
        elements = self.document.sheet.elements
        keys = {e.key for e in elements}
        for key in [k for k in self._items if k not in keys]:
            self._scene.removeItem(self._items.pop(key))
        for i, e in enumerate(elements):
            if e.key not in self._items:
                self._items[e.key] = ElementItem(e, i)
                self._scene.addItem(self._items[e.key])
            self._items[e.key].show_element(e, i, e.key == self.selected, self.scale_now)

    def show_overlay(self, pixels: np.ndarray | None, rect: Rect) -> None:
        """Lays a take or a forming picture over the sheet without changing it."""
        self._overlay.show_pixels(pixels, rect)

    def show_before(self, before: bool) -> None:
        """Hides what lies over the sheet, or the topmost patch when nothing does, while `before`."""
        sheet = self.document.sheet
        patches = [x for x in sheet.layers if isinstance(x, Patch) and x.visible]
        if self._overlay.empty and patches:
            shown = sheet.without_layer(patches[-1].key) if before else sheet
            self._picture.show_pixels(shown.flatten() if shown.has_picture else None, sheet.rect)
        else:
            self._overlay.setVisible(not before)

    def show_outlines(self, shown: bool) -> None:
        for item in self._items.values():
            item.setVisible(shown)
        self._mask.setVisible(shown)

    def show_frame(self, rect: Rect | None) -> None:
        """Draws the work frame of the next pass."""
        self._frame.setVisible(rect is not None)
        if rect is not None:
            self._frame.setRect(rect.x0, rect.y0, rect.width, rect.height)

    # --- choosing

    def choose(self, key: int | None) -> None:
        if key != self.selected:
            self.selected = key
            self._show_elements()
            self.chosen.emit(key)

    def set_tool(self, tool: Tool) -> None:
        self.tool = tool
        self._ring.setVisible(tool == "brush")
        self._viewport().setCursor(Qt.CursorShape.ArrowCursor if tool == "arrange" else Qt.CursorShape.CrossCursor)
        self.tool_changed.emit(tool)

    def set_brush(self, radius: float | None = None, softness: float | None = None, erasing: bool | None = None) -> None:
        """radius: sheet pixels, 1 to 2000; softness: 0 to 1."""
        if radius is not None:
            self.brush_radius = float(min(max(radius, 1), 2000))
        if softness is not None:
            self.brush_softness = float(min(max(softness, 0), 1))
        if erasing is not None:
            self.erasing = erasing
        self._move_ring(self._ring.rect().center())
        self.brush_changed.emit()

    def _move_ring(self, at: QPointF) -> None:
        r = self.brush_radius
        pen = QPen(QColor("#c23b22" if self.erasing else "#fffaf0"), 1.5)
        pen.setCosmetic(True)
        self._ring.setPen(pen)
        self._ring.setRect(at.x() - r, at.y() - r, 2 * r, 2 * r)

    # --- by hand

    def _handle_at(self, point: QPointF) -> int | None:
        item = self._items.get(self.selected) if self.selected is not None else None
        if item is not None:
            for i, r in enumerate(item.handle_rects()):
                grow = r.width() * 0.4
                if r.adjusted(-grow, -grow, grow, grow).contains(point):
                    return i
        return None

    def element_at(self, point: QPointF) -> int | None:
        """The key of the nearest element under a sheet point; the chosen one comes first."""
        if self.selected is not None and self._items[self.selected].covers(point):
            return self.selected
        return next((e.key for e in reversed(self.document.sheet.elements) if self._items[e.key].covers(point)), None)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self.finish_words()
        if event.button() == Qt.MouseButton.MiddleButton:
            self._pan_from = event.position().toPoint()
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        point = self.mapToScene(event.position().toPoint())
        self._press = point
        if self.tool == "arrange":
            handle = self._handle_at(point)
            key = self.selected if handle is not None else self.element_at(point)
            self.choose(key)
            if key is None:
                self._pan_from = event.position().toPoint()
            else:
                self._grip = (self.document.sheet.element(key), handle)
        elif self.tool == "freehand":
            self._points = [(point.x(), point.y())]
        elif self.tool == "brush":
            sheet = self.document.sheet
            self._stroke = sheet.mask or Mask(sheet.width, sheet.height)
            self._brush_to(point, point)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position().toPoint()
        point = self.mapToScene(at)
        if self.tool == "brush":
            self._move_ring(point)
        if self._pan_from is not None:
            self.pan(at.x() - self._pan_from.x(), at.y() - self._pan_from.y())
            self._pan_from = at
        elif self._press is None:
            if self.tool == "arrange":
                self._viewport().setCursor(
                    Qt.CursorShape.SizeAllCursor
                    if self._handle_at(point) is not None
                    else Qt.CursorShape.OpenHandCursor
                    if self.element_at(point) is not None
                    else Qt.CursorShape.ArrowCursor
                )
        elif self._grip is not None:
            self._drag_element(point, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        elif self.tool in ("box", "ellipse"):
            path, rect = QPainterPath(), QRectF(self._press, point).normalized()
            (path.addRect if self.tool == "box" else path.addEllipse)(rect)
            self._show_draft(path)
        elif self.tool == "freehand":
            self._points.append((point.x(), point.y()))
            path = QPainterPath(QPointF(*self._points[0]))
            for p in self._points[1:]:
                path.lineTo(QPointF(*p))
            self._show_draft(path)
        elif self.tool == "brush" and self._stroke is not None:
            self._brush_to(self._press, point)
            self._press = point

    def _show_draft(self, path: QPainterPath) -> None:
        pen = QPen(QColor("#fffaf0"), 2, Qt.PenStyle.DashLine)
        pen.setCosmetic(True)
        self._draft.setPen(pen)
        self._draft.setPath(path)

    def _brush_to(self, a: QPointF, b: QPointF) -> None:
        assert self._stroke is not None
        self._stroke, changed = self._stroke.stroke(a.x(), a.y(), b.x(), b.y(), self.brush_radius, self.brush_softness, self.erasing)
        self._mask.show_mask(self._stroke, changed)

    def _drag_element(self, point: QPointF, keep_ratio: bool) -> None:
        assert self._grip is not None
        assert self._press is not None
        element, handle = self._grip
        dx, dy = point.x() - self._press.x(), point.y() - self._press.y()
        outline = (
            element.outline.moved(dx, dy)
            if handle is None
            else element.outline.with_box(_resized(element.outline.box, handle, dx, dy, keep_ratio))
        )
        now = self.document.sheet.element(element.key)
        verb = "move" if handle is None else "resize"
        self.document.edit(
            self.document.sheet.with_element(replace(now, outline=outline)),
            f"{verb} “{element.name}”",
            f"{verb} {element.key} {id(self._grip)}",
        )

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        point = self.mapToScene(event.position().toPoint())
        press, self._press, self._pan_from, self._grip = self._press, None, None, None
        self._draft.setPath(QPainterPath())
        if press is None:
            return
        if self.tool in ("box", "ellipse"):
            r = QRectF(press, point).normalized()
            if min(r.width(), r.height()) * self.scale_now >= LEAST_BOX:
                self.add_element(Outline("box" if self.tool == "box" else "ellipse", (r.left(), r.top(), r.right(), r.bottom())))
            else:
                self.said.emit("Drag from corner to corner to draw an outline.")
        elif self.tool == "freehand":
            try:
                self.add_element(freehand(self._points))
            except ValueError as error:
                self.said.emit(str(error))
        elif self.tool == "brush" and self._stroke is not None:
            stroke, self._stroke = self._stroke, None
            self.document.edit(replace(self.document.sheet, mask=stroke), "erase mask" if self.erasing else "paint mask")

    def add_element(self, outline: Outline) -> None:
        """A new element, nearest of all, ready for its words."""
        sheet = self.document.sheet
        key = sheet.next_key()
        taken = {e.name for e in sheet.elements}
        n = next(i for i in range(1, len(taken) + 2) if f"element {i}" not in taken)
        self.document.edit(sheet.with_element(Element(key, f"element {n}", outline)), "add element")
        self.set_tool("arrange")
        self.choose(key)
        self.edit_words(key)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self.tool == "arrange":
            key = self.element_at(self.mapToScene(event.position().toPoint()))
            if key is not None:
                self.edit_words(key)

    # --- words on the sheet

    def edit_words(self, key: int) -> None:
        """Opens two lines on the sheet for an element's words and avoid words."""
        self.finish_words()
        element, item = self.document.sheet.element(key), self._items[key]
        at = self.mapFromScene(item.label_rect().topLeft())
        editor = WordsEditor(key, element.words, element.avoid, self._viewport())
        editor.done.connect(self.finish_words)
        editor.given_up.connect(lambda: self.finish_words(keep=False))
        editor.move(max(2, at.x()), max(2, at.y()))
        editor.show()
        editor.words.setFocus()
        editor.words.selectAll()
        self._editor = editor

    def finish_words(self, keep: bool = True) -> None:
        """Closes the lines; their words are kept unless told otherwise."""
        editor, self._editor = self._editor, None
        if editor is None:
            return
        key, words, avoid = editor.key, editor.words.text().strip(), editor.avoid.text().strip()
        editor.hide()
        editor.deleteLater()
        self.setFocus()
        if keep and any(e.key == key for e in self.document.sheet.elements):
            element = self.document.sheet.element(key)
            if (words, avoid) != (element.words, element.avoid):
                self.document.edit(
                    self.document.sheet.with_element(replace(element, words=words, avoid=avoid)), f"words of “{element.name}”"
                )

    @property
    def words_editor(self) -> WordsEditor | None:
        return self._editor

    # --- keys

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key, big = event.key(), event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        arrows = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        if key in arrows:
            dx, dy = arrows[Qt.Key(key)]
            step = 10 if big else 1
            if self.selected is not None:
                e = self.document.sheet.element(self.selected)
                self.document.edit(
                    self.document.sheet.with_element(replace(e, outline=e.outline.moved(dx * step, dy * step))),
                    f"move “{e.name}”",
                    f"nudge {e.key}",
                )
            else:
                self.pan(-40 * dx, -40 * dy)
        else:
            super().keyPressEvent(event)


def _resized(box: Box, handle: int, dx: float, dy: float, keep_ratio: bool) -> Box:
    """A box whose handle was dragged; it never turns inside out."""
    fx, fy = HANDLES[handle]
    x0, y0, x1, y1 = box
    if keep_ratio and fx != 0.5 and fy != 0.5:
        sx, sy = (1 if fx else -1), (1 if fy else -1)
        grow = max(sx * dx / (x1 - x0), sy * dy / (y1 - y0))
        dx, dy = sx * grow * (x1 - x0), sy * grow * (y1 - y0)
    if fx == 0:
        x0 = min(x0 + dx, x1 - LEAST_BOX)
    elif fx == 1:
        x1 = max(x1 + dx, x0 + LEAST_BOX)
    if fy == 0:
        y0 = min(y0 + dy, y1 - LEAST_BOX)
    elif fy == 1:
        y1 = max(y1 + dy, y0 + LEAST_BOX)
    return x0, y0, x1, y1
