"""The sheet, as large as the window: looked at, drawn on, arranged by hand."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QBrush,
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPen,
    QPixmap,
    QResizeEvent,
    QTabletEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import (
    QGraphicsEllipseItem,
    QGraphicsLineItem,
    QGraphicsPathItem,
    QGraphicsRectItem,
    QGraphicsScene,
    QGraphicsView,
)

from ...core.packs import Pack
from ...core.passes.fitting import fitted_figures
from ...core.refused import Refused
from ...core.values.division import draggable
from ...core.values.element import Element
from ...core.values.frame import Rect
from ...core.values.masks import Mask
from ...core.values.outline import Outline
from ...core.values.shaping import joined
from ...core.values.sheet import Patch
from ..document import Document, State
from ..look.look import Look
from ..tools.hand import Arrange, Divide, DrawBox, Freehand, Hand, MaskBrush, Points, Polygon, ShapeBrush, Tool
from .items import ElementItem, FigureItem, MaskItem, PictureItem
from .words_editor import WordsEditor

Joining = Literal["new", "add", "cut"]
LEAST_ZOOM, MOST_ZOOM = 0.02, 32.0


class SheetView(QGraphicsView):
    """Signals: chosen(key or None), zoomed(scale), brush_changed(), said(sentence for the status line), thing_wanted(a point whose
    thing shall be masked)."""

    chosen = pyqtSignal(object)
    zoomed = pyqtSignal(float)
    brush_changed = pyqtSignal()
    said = pyqtSignal(str)
    thing_wanted = pyqtSignal(QPointF)
    tool_changed = pyqtSignal(str)

    def __init__(self, document: Document, look: Look, pack: Pack | None = None) -> None:
        self._scene = QGraphicsScene()
        super().__init__(self._scene)
        self.document, self.pack = document, pack
        self.tool: Tool = "arrange"
        self.joining: Joining = "new"
        self.brush_radius, self.brush_softness, self.erasing = 32.0, 0.5, False
        self.pressure = 1.0
        self.selection: tuple[int, ...] = ()
        self._fitted = True
        self._items: dict[int, ElementItem] = {}
        self._picture, self._overlay, self._mask = PictureItem(), PictureItem(), MaskItem()
        self._beside, self._figure = PictureItem(), FigureItem()
        self._paper, self._frame = QGraphicsRectItem(), QGraphicsRectItem()
        self._draft, self._lines, self._corners = QGraphicsPathItem(), QGraphicsPathItem(), QGraphicsPathItem()
        self._ring = QGraphicsEllipseItem()
        self._snaps = (QGraphicsLineItem(), QGraphicsLineItem())
        self._wipe_line = QGraphicsLineItem()
        for z, item in (
            (-20, self._paper),
            (-10, self._picture),
            (-5, self._overlay),
            (-4, self._beside),
            (50, self._mask),
            (55, self._figure),
            (60, self._frame),
            (3000, self._lines),
            (4000, self._corners),
            (5000, self._draft),
            (5001, self._ring),
            (5002, self._snaps[0]),
            (5002, self._snaps[1]),
            (5003, self._wipe_line),
        ):
            item.setZValue(z)
            self._scene.addItem(item)
        for item in (self._ring, self._frame, *self._snaps, self._wipe_line, self._beside):
            item.hide()
        self.hands: dict[Tool, Hand] = {
            "arrange": Arrange(self),
            "box": DrawBox(self, "box"),
            "ellipse": DrawBox(self, "ellipse"),
            "polygon": Polygon(self),
            "freehand": Freehand(self),
            "points": Points(self),
            "shape": ShapeBrush(self),
            "divide": Divide(self),
            "brush": MaskBrush(self),
        }
        self._pressed = False
        self._pan_from: QPoint | None = None
        self._wipe = 0.5
        self._wiping = False
        self._editor: WordsEditor | None = None
        self.setTransformationAnchor(QGraphicsView.ViewportAnchor.NoAnchor)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMouseTracking(True)
        self.setAcceptDrops(False)
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
        for item, colour, width, style in (
            (self._frame, look.accent, 1.5, Qt.PenStyle.DashLine),
            (self._snaps[0], look.accent, 1.2, Qt.PenStyle.SolidLine),
            (self._snaps[1], look.accent, 1.2, Qt.PenStyle.SolidLine),
            (self._wipe_line, "#fffaf0", 2.0, Qt.PenStyle.SolidLine),
            (self._draft, "#fffaf0", 2.0, Qt.PenStyle.DashLine),
            (self._lines, look.accent, 2.4, Qt.PenStyle.DotLine),
            (self._corners, "#2f2a24", 1.4, Qt.PenStyle.SolidLine),
        ):
            pen = QPen(QColor(colour), width, style)
            pen.setCosmetic(True)
            item.setPen(pen)
        self._corners.setBrush(QColor("#fffaf0"))

    @property
    def selected(self) -> int | None:
        """The element whose handles are shown: the one chosen last."""
        return self.selection[-1] if self.selection else None

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

    def begin_pan(self, at: QPoint) -> None:
        """The mouse moves the view from here on."""
        self._pan_from = at

    def _viewport(self) -> QGraphicsView:
        port = self.viewport()
        assert port is not None
        return port  # type: ignore[return-value]

    def show_cursor(self, shape: Qt.CursorShape) -> None:
        self._viewport().setCursor(shape)

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
        self.selection = ()
        self.hands[self.tool].put_down()
        self._show_all()
        self.fit()
        self.chosen.emit(None)

    def _changed(self, before: State, after: State) -> None:
        if before.sheet.layers is not after.sheet.layers or before.sheet.rect != after.sheet.rect:
            self._show_picture()
        if before.sheet.mask is not after.sheet.mask:
            self._mask.show_mask(after.sheet.mask)
        elements = before.sheet.elements is not after.sheet.elements or before.sheet.divisions is not after.sheet.divisions
        if elements or before.draft is not after.draft or before.sheet.has_picture != after.sheet.has_picture:
            there = {e.key for e in after.sheet.elements}
            if not set(self.selection) <= there:
                self.selection = tuple(k for k in self.selection if k in there)
                self.chosen.emit(self.selected)
            self._show_elements()

    def _show_all(self) -> None:
        self._show_picture()
        self.show_overlay(None, Rect(0, 0, 1, 1))
        self._mask.show_mask(self.document.sheet.mask)
        self._frame.hide()
        self._show_elements()

    def _show_picture(self) -> None:
        sheet = self.document.sheet
        self._paper.setRect(0, 0, sheet.width, sheet.height)
        reach = max(sheet.width, sheet.height)
        self._scene.setSceneRect(QRectF(-reach, -reach, sheet.width + 2 * reach, sheet.height + 2 * reach))
        self._picture.show_pixels(sheet.flatten() if sheet.has_picture else None, sheet.rect)

    def _gauge(self, e: Element) -> tuple[float, bool] | None:
        if not self.document.sheet.has_picture or e.hold or self.document.draft.kind == "inpaint":
            return None
        return (dict(self.document.draft.strengths)[self.document.draft.kind], False) if e.strength is None else (e.strength, True)

    def figures(self) -> dict[int, Outline]:
        """What the next pass fits into outlines, by the elements' keys."""
        draft = self.document.draft
        if self.pack is None or draft.kind == "inpaint":
            return {}
        return fitted_figures(self.document.sheet, draft.request(), self.pack, draft.settings.seed)

    def _show_elements(self) -> None:
        sheet, figures = self.document.sheet, self.figures()
        keys = {e.key for e in sheet.elements}
        for key in [k for k in self._items if k not in keys]:
            self._scene.removeItem(self._items.pop(key))
        for i, e in enumerate(sheet.elements):
            if e.key not in self._items:
                self._items[e.key] = ElementItem(e, i)
                self._items[e.key].setVisible(self._mask.isVisible())
                self._scene.addItem(self._items[e.key])
            chosen, leading = e.key in self.selection, e.key == self.selected and self.tool != "points"
            self._items[e.key].show_element(e, i, chosen, self.scale_now, self._gauge(e) if chosen else None, leading, figures.get(e.key))
        self._show_lines()

    def _show_lines(self) -> None:
        path = QPainterPath()
        for outer in draggable(self.document.sheet) if self.document.sheet.divisions else ():
            for d in outer.within():
                x0, y0, x1, y1 = d.outline.box
                for c in d.across[1:-1]:
                    path.moveTo(x0 + c * (x1 - x0), y0)
                    path.lineTo(x0 + c * (x1 - x0), y1)
                for c in d.down[1:-1]:
                    path.moveTo(x0, y0 + c * (y1 - y0))
                    path.lineTo(x1, y0 + c * (y1 - y0))
        self._lines.setPath(path)
        dots, hand = QPainterPath(), self.hands["points"]
        if self.tool == "points" and isinstance(hand, Points):
            r = 4.5 / self.scale_now
            for x, y in hand.corners():
                dots.addEllipse(QPointF(x, y), r, r)
        self._corners.setPath(dots)

    def show_overlay(self, pixels: np.ndarray | None, rect: Rect) -> None:
        """Lays a take or a forming picture over the sheet without changing it."""
        self._overlay.show_pixels(pixels, rect)
        self.show_wipe(None, rect)

    def show_wipe(self, pixels: np.ndarray | None, rect: Rect) -> None:
        """Lays another take beside the first, up to a line that can be dragged; None: no more."""
        self._beside.show_pixels(pixels, rect)
        self._place_wipe()

    def _place_wipe(self) -> None:
        on, sheet = not self._beside.empty, self.document.sheet
        self._beside.setVisible(on)
        self._wipe_line.setVisible(on)
        x = self._wipe * sheet.width
        self._beside.show_until(x)
        self._wipe_line.setLine(x, 0, x, sheet.height)

    @property
    def wipe(self) -> float:
        """Where the line between two takes stands, 0..1 of the sheet's width."""
        return self._wipe

    def show_before(self, before: bool) -> None:
        """Hides what lies over the sheet, or the topmost patch when nothing does, while `before`."""
        sheet = self.document.sheet
        patches = [x for x in sheet.layers if isinstance(x, Patch) and x.visible]
        if self._overlay.empty and patches:
            shown = sheet.without_layer(patches[-1].key) if before else sheet
            self._picture.show_pixels(shown.flatten() if shown.has_picture else None, sheet.rect)
        else:
            self._overlay.setVisible(not before)
            self._beside.setVisible(not before and not self._beside.empty)

    def show_outlines(self, shown: bool) -> None:
        for item in (*self._items.values(), self._mask, self._figure, self._lines):
            item.setVisible(shown)

    def show_frame(self, rect: Rect | None, figure: Outline | None = None) -> None:
        """Draws the work frame of the next pass, and the figure that it fits into the mask."""
        self._figure.show_figure(figure)
        self._frame.setVisible(rect is not None)
        if rect is not None:
            self._frame.setRect(rect.x0, rect.y0, rect.width, rect.height)

    def show_draft(self, path: QPainterPath | None) -> None:
        """What is just being drawn."""
        self._draft.setPath(path or QPainterPath())

    def show_mask(self, mask: Mask | None, changed: Rect | None) -> None:
        self._mask.show_mask(mask, changed)

    def show_snap(self, x: float | None, y: float | None) -> None:
        """The lines that what is being moved has snapped to."""
        sheet = self.document.sheet
        for line, at in zip(self._snaps, (x, y), strict=True):
            line.setVisible(at is not None)
        if x is not None:
            self._snaps[0].setLine(x, 0, x, sheet.height)
        if y is not None:
            self._snaps[1].setLine(0, y, sheet.width, y)

    def snap_lines(self, without: tuple[int, ...]) -> tuple[list[float], list[float]]:
        """Upright and level lines to snap to: the sheet's edges, middle and thirds, and all other elements' edges and middles."""
        sheet = self.document.sheet
        xs, ys = ([f * n for f in (0, 1 / 3, 0.5, 2 / 3, 1)] for n in (sheet.width, sheet.height))
        for e in sheet.elements:
            if e.key not in without:
                x0, y0, x1, y1 = e.outline.box
                xs += [x0, (x0 + x1) / 2, x1]
                ys += [y0, (y0 + y1) / 2, y1]
        return xs, ys

    # --- choosing

    def choose(self, key: int | None) -> None:
        """Chooses one element alone, or none."""
        self._choose(() if key is None else (key,))

    def choose_also(self, key: int) -> None:
        """Adds an element to those chosen, or leaves it out again."""
        rest = tuple(k for k in self.selection if k != key)
        self._choose(rest if key in self.selection else (*rest, key))

    def choose_all(self) -> None:
        self._choose(tuple(e.key for e in self.document.sheet.elements))

    def lead(self, key: int) -> None:
        """Makes one of those chosen the one with handles."""
        self._choose((*(k for k in self.selection if k != key), key))

    def _choose(self, selection: tuple[int, ...]) -> None:
        if selection != self.selection:
            self.selection = selection
            self._show_elements()
            self.chosen.emit(self.selected)

    def leading_item(self) -> ElementItem | None:
        return None if self.selected is None else self._items.get(self.selected)

    def handle_at(self, point: QPointF) -> int | None:
        """Which of the eight handles of the chosen element lies under a sheet point."""
        item = self.leading_item()
        if item is not None and not item.element.locked:
            for i, r in enumerate(item.handle_rects()):
                grow = r.width() * 0.4
                if r.adjusted(-grow, -grow, grow, grow).contains(point):
                    return i
        return None

    def element_at(self, point: QPointF, beneath: bool = False) -> int | None:
        """The key of the nearest element under a sheet point; a chosen one comes first, or with `beneath` the one behind it."""
        under = [e.key for e in reversed(self.document.sheet.elements) if self._items[e.key].covers(point)]
        if self.selected in under:
            i = under.index(self.selected)
            return under[(i + 1) % len(under)] if beneath else self.selected
        return under[0] if under else None

    def set_tool(self, tool: Tool) -> None:
        self.hands[self.tool].put_down()
        self.tool = tool
        self._ring.setVisible(tool in ("brush", "shape"))
        self.show_cursor(self.hands[tool].cursor)
        self._show_elements()
        self.tool_changed.emit(tool)

    def set_brush(self, radius: float | None = None, softness: float | None = None, erasing: bool | None = None) -> None:
        """radius: sheet pixels, 1 to 2000; softness: 0 to 1."""
        if radius is not None:
            self.brush_radius = float(min(max(radius, 1), 2000))
        if softness is not None:
            self.brush_softness = float(min(max(softness, 0), 1))
        if erasing is not None:
            self.erasing = erasing
        self.move_ring(self._ring.rect().center())
        self.brush_changed.emit()

    def move_ring(self, at: QPointF) -> None:
        """Shows the brush at a sheet point."""
        r = self.brush_radius * self.pressure
        pen = QPen(QColor("#c23b22" if self.erasing else "#fffaf0"), 1.5)
        pen.setCosmetic(True)
        self._ring.setPen(pen)
        self._ring.setRect(at.x() - r, at.y() - r, 2 * r, 2 * r)

    # --- by hand

    def tabletEvent(self, event: QTabletEvent | None) -> None:
        if event is not None:
            # A light touch paints thin; what else a pen does comes as a mouse.
            self.pressure = max(0.05, event.pressure()) if event.pressure() > 0 else 1.0
            event.ignore()

    def _at_wipe(self, point: QPointF) -> bool:
        return not self._beside.empty and abs(point.x() - self._wipe * self.document.sheet.width) * self.scale_now < 10

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self.finish_words()
        if event.button() == Qt.MouseButton.MiddleButton:
            self.begin_pan(event.position().toPoint())
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        point = self.mapToScene(event.position().toPoint())
        if self._at_wipe(point):
            self._wiping = True
            return
        self._pressed = True
        self.hands[self.tool].press(point, event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position().toPoint()
        point = self.mapToScene(at)
        if self._wiping:
            self._wipe = min(1.0, max(0.0, point.x() / self.document.sheet.width))
            self._place_wipe()
        elif self._pan_from is not None:
            self.pan(at.x() - self._pan_from.x(), at.y() - self._pan_from.y())
            self._pan_from = at
        elif self._pressed:
            self.hands[self.tool].drag(point, event)
        elif self._at_wipe(point):
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
        self.pressure = 1.0

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.hands[self.tool].double(self.mapToScene(event.position().toPoint()), event)

    def take_outline(self, outline: Outline) -> None:
        """What was drawn becomes a new element, or is added to or cut from the chosen one's outline."""
        if self.joining == "new" or self.selected is None:
            self.add_element(outline)
            return
        sheet = self.document.sheet
        e = sheet.element(self.selected)
        try:
            new = joined(e.outline, outline, cut=self.joining == "cut")
        except Refused as error:
            self.said.emit(str(error))
            return
        verb = "add to" if self.joining == "add" else "cut from"
        self.document.edit(sheet.with_element(replace(e, outline=new)), f"{verb} the outline of “{e.name}”")

    def add_element(self, outline: Outline) -> None:
        """A new element, nearest of all, ready for its words."""
        sheet = self.document.sheet
        key = sheet.next_key()
        self.document.edit(sheet.with_element(Element(key, sheet.free_name("element"), outline)), "add element")
        self.set_tool("arrange")
        self.choose(key)
        self.edit_words(key)

    # --- words on the sheet

    def edit_words(self, key: int) -> None:
        """Opens two lines on the sheet for an element's words and avoid words."""
        self.finish_words()
        element, item = self.document.sheet.element(key), self._items[key]
        at = self.mapFromScene(item.label_rect().topLeft())
        editor = WordsEditor(element, self.pack, self._viewport())
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
        key, words, avoid, spans = editor.key, editor.words.text().strip(), editor.avoid.text().strip(), editor.words.spans
        editor.hide()
        editor.deleteLater()
        self.setFocus()
        if keep and any(e.key == key for e in self.document.sheet.elements):
            element = self.document.sheet.element(key)
            if (words, avoid, spans) != (element.words, element.avoid, element.emphasis):
                new = replace(element, words=words, avoid=avoid, emphasis=spans)
                self.document.edit(self.document.sheet.with_element(new), f"words of “{element.name}”")

    @property
    def words_editor(self) -> WordsEditor | None:
        return self._editor

    # --- keys

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or self.hands[self.tool].key(event):
            return
        key, big = event.key(), event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        arrows = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        if key in arrows:
            dx, dy = arrows[Qt.Key(key)]
            step = 10 if big else 1
            chosen = [self.document.sheet.element(k) for k in self.selection]
            moved = [e for e in chosen if not e.locked]
            if moved:
                sheet = self.document.sheet
                for e in moved:
                    sheet = sheet.with_element(replace(e, outline=e.outline.moved(dx * step, dy * step)))
                self.document.edit(sheet, "move " + ", ".join(f"“{e.name}”" for e in moved), f"nudge {self.selection}")
            elif not chosen:
                self.pan(-40 * dx, -40 * dy)
        else:
            super().keyPressEvent(event)
