"""All that lies on the sheet view: the picture, a take over it, the mask, outlines, and what is just being drawn."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPixmap
from PyQt6.QtWidgets import (
    QGraphicsEllipseItem,
    QGraphicsPathItem,
    QGraphicsRectItem,
    QGraphicsScene,
)

from ...core.values.dividing import draggable
from ...core.values.frame import Rect
from ...core.values.masks import Mask
from ...core.values.outline import Outline
from ...core.values.sheet import Sheet
from ..look.look import Look
from .brush import Brush
from .drawings import Drawings
from .element_item import ElementItem
from .found_parts import FoundParts
from .moving_layer import MovingLayer
from .picture_items import HOLD_TINT, FigureItem, MaskItem, PictureItem
from .selection import Selection
from .snap_lines import SnapLines
from .wipe import Wipe

#: How much of a mask is seen while colours are laid.
FAINT = 0.25
#: Screen pixels of a corner's dot.
DOT = 4.5
#: The paper's two shades where there is no picture, and their squares in sheet pixels.
PAPER, PAPER_SHADE, SQUARE = "#f4efe3", "#ebe4d4", 12


class Canvas(QGraphicsScene):
    """Shows what it is told, and tells what lies where. It changes nothing."""

    def __init__(self, selection: Selection, brush: Brush) -> None:
        super().__init__()
        self._selection, self._brush = selection, brush
        self.sheet = Sheet(16, 16)
        self._items: dict[int, ElementItem] = {}
        self._picture, self._overlay, self.live, self._mask = PictureItem(), PictureItem(), PictureItem(rough=True), MaskItem()
        self._figure, self.wipe, self._held = FigureItem(), Wipe(self), MaskItem(HOLD_TINT)
        self.grounds = PictureItem(rough=True)
        self.found, self.tiles = FoundParts(), FoundParts()
        self._paper, self._frame = QGraphicsRectItem(), QGraphicsRectItem()
        self._draft, self._lines, self._corners = QGraphicsPathItem(), QGraphicsPathItem(), QGraphicsPathItem()
        self.drawings = Drawings(self)
        self._ring, self.moving, self.snaps = QGraphicsEllipseItem(), MovingLayer(self), SnapLines(self, lambda: self.sheet)
        #: The element that the pointer is on.
        self.hovered: int | None = None
        for z, item in (
            (-20, self._paper),
            (-15, self.grounds),
            (-10, self._picture),
            (-5, self._overlay),
            (-4, self.live),
            (49, self._held),
            (50, self._mask),
            (55, self._figure),
            (60, self._frame),
            (61, self.found),
            (61, self.tiles),
            (3000, self._lines),
            (4000, self._corners),
            (5000, self._draft),
            (5001, self._ring),
        ):
            item.setZValue(z)
            self.addItem(item)
        for item in (self._ring, self._frame):
            item.hide()
        brush.changed.connect(lambda: self.move_ring(self._ring.rect().center()))

    def set_look(self, look: Look) -> None:
        check = QPixmap(2 * SQUARE, 2 * SQUARE)
        check.fill(QColor(PAPER))
        p = QPainter(check)
        p.fillRect(0, 0, SQUARE, SQUARE, QColor(PAPER_SHADE))
        p.fillRect(SQUARE, SQUARE, SQUARE, SQUARE, QColor(PAPER_SHADE))
        p.end()
        self._paper.setBrush(QBrush(check))
        self._paper.setPen(QPen(Qt.PenStyle.NoPen))
        for item, colour, width, style in (
            (self._frame, look.accent, 1.5, Qt.PenStyle.DashLine),
            (self._draft, "#fffaf0", 2.0, Qt.PenStyle.DashLine),
            (self._lines, look.accent, 2.4, Qt.PenStyle.DotLine),
            (self._corners, "#2f2a24", 1.4, Qt.PenStyle.SolidLine),
        ):
            pen = QPen(QColor(colour), width, style)
            pen.setCosmetic(True)
            item.setPen(pen)
        self._corners.setBrush(QColor("#fffaf0"))
        self.snaps.set_colour(look.accent)
        self.found.set_colour(look.accent)
        self.tiles.set_colour(look.accent)

    # --- the sheet

    def show_picture(self, sheet: Sheet, without: int | None = None) -> None:
        """Shows a sheet's layers, one of them left out by its key."""
        self.sheet = sheet
        self._paper.setRect(0, 0, sheet.width, sheet.height)
        reach = max(sheet.width, sheet.height)
        self.setSceneRect(QRectF(-reach, -reach, sheet.width + 2 * reach, sheet.height + 2 * reach))
        seen = sheet if without is None else sheet.without_layer(without)
        self._picture.show_pixels(seen.flatten() if seen.has_picture else None, sheet.rect)

    def show_changed(self, sheet: Sheet, rect: Rect) -> None:
        """Shows a sheet of the same size that looks otherwise only in a rectangle."""
        if not rect.area and self._picture.empty != sheet.has_picture:
            self.sheet = sheet
            return
        if self._picture.empty or not sheet.has_picture or 2 * rect.area > sheet.rect.area:
            self.show_picture(sheet)
            return
        self.sheet = sheet
        self._picture.show_part(sheet.flatten(rect), rect)

    def show_elements(
        self,
        sheet: Sheet,
        scale: float,
        figures: Mapping[int, Outline],
        gauges: Mapping[int, tuple[float, bool]],
        handles: bool,
    ) -> None:
        """scale: screen pixels per sheet pixel; figures, gauges: by elements' keys; handles: whether the leading one shows its own."""
        self.sheet = sheet
        for picture in (self._picture, self._overlay, self.live):
            picture.show_at(scale)
        self.drawings.show_at(scale)
        keys = {e.key for e in sheet.elements}
        for key in [k for k in self._items if k not in keys]:
            self.removeItem(self._items.pop(key))
        for i, e in enumerate(sheet.elements):
            if e.key not in self._items:
                self._items[e.key] = ElementItem(e, i)
                self._items[e.key].setVisible(self._mask.isVisible())
                self.addItem(self._items[e.key])
            chosen, leading = e.key in self._selection.keys, e.key == self._selection.selected and handles
            gauge = gauges.get(e.key) if chosen else None
            self._items[e.key].show_element(e, i, chosen, scale, gauge, leading, figures.get(e.key))
        self._show_hatches()
        self._show_lines()

    def hover(self, key: int | None) -> None:
        """The element that the pointer is on; over a picture only that one is hatched."""
        self.hovered = key
        self._show_hatches()

    def _show_hatches(self) -> None:
        over = self.sheet.has_picture or not (self._overlay.empty and self.live.empty)
        for key, item in self._items.items():
            item.show_plain(over and key != self.hovered)

    def _show_lines(self) -> None:
        """The lines between parts that can be dragged."""
        path = QPainterPath()
        for outer in draggable(self.sheet) if self.sheet.divisions else ():
            for d in outer.within():
                x0, y0, x1, y1 = d.outline.box
                for c in d.across[1:-1]:
                    path.moveTo(x0 + c * (x1 - x0), y0)
                    path.lineTo(x0 + c * (x1 - x0), y1)
                for c in d.down[1:-1]:
                    path.moveTo(x0, y0 + c * (y1 - y0))
                    path.lineTo(x1, y0 + c * (y1 - y0))
        self._lines.setPath(path)

    def show_corners(self, corners: list[tuple[float, float]], scale: float) -> None:
        """The corners of an outline that can be moved singly."""
        dots, r = QPainterPath(), DOT / scale
        for x, y in corners:
            dots.addEllipse(QPointF(x, y), r, r)
        self._corners.setPath(dots)

    def show_mask(self, mask: Mask | None, changed: Rect | None = None) -> None:
        self._mask.show_mask(mask, changed)

    def show_held(self, mask: Mask | None) -> None:
        """What no pass may change."""
        self._held.show_mask(mask)

    def show_outlines(self, shown: bool) -> None:
        for item in (*self._items.values(), self._mask, self._held, self._figure, self._lines, self.grounds):
            item.setVisible(shown)
        self.drawings.set_visible(shown)

    def show_bare(self, bare: bool, outlines: bool) -> None:
        """Nothing but the picture; or everything again, outlines where they are wanted."""
        self.show_outlines(outlines and not bare)
        for item in (self._frame, self.found, self.tiles, self._draft, self._corners, self._ring):
            item.setOpacity(0.0 if bare else 1.0)

    def show_frame(self, rect: Rect | None, figure: Outline | None = None) -> None:
        """Draws the work frame of the next pass, and the figure that it fits into the mask."""
        self._figure.show_figure(figure)
        self._frame.setVisible(rect is not None)
        if rect is not None:
            self._frame.setRect(rect.x0, rect.y0, rect.width, rect.height)

    @property
    def frame_rect(self) -> QRectF:
        """The work frame that is shown; empty where none is."""
        return self._frame.rect() if self._frame.isVisible() else QRectF()

    # --- takes over it

    def show_overlay(self, pixels: np.ndarray | None, rect: Rect) -> None:
        """Lays a take or a forming picture over the sheet without changing it."""
        self._overlay.show_pixels(pixels, rect)
        self.wipe.show(None, rect, (self.sheet.width, self.sheet.height))
        self._show_hatches()

    def show_live(self, pixels: np.ndarray | None, rect: Rect) -> None:
        """Lays a rough picture over everything else; None: none."""
        self.live.show_pixels(pixels, rect)
        self._show_hatches()

    def show_before(self, before: bool) -> None:
        """Hides what lies over the sheet, or the topmost layer that a pass made when nothing does, while `before`."""
        made = [x for x in self.sheet.layers if x.recipe is not None and x.visible]
        if self._overlay.empty and made:
            self.show_picture(self.sheet, made[-1].key if before else None)
        else:
            self._overlay.setVisible(not before)
            self.wipe.hide_beside(before)

    # --- the hand

    def show_draft(self, path: QPainterPath | None) -> None:
        """What is just being drawn."""
        self._draft.setPath(path or QPainterPath())

    def show_tool(self, ring: bool, colours: bool) -> None:
        """ring: whether it has a brush; colours: whether it lays colours, which a mask over them must not change."""
        self._ring.setVisible(ring)
        self._mask.setOpacity(FAINT if colours else 1.0)

    def move_ring(self, at: QPointF) -> None:
        """Shows the brush at a sheet point."""
        r = self._brush.reach
        pen = QPen(QColor("#c23b22" if self._brush.erasing else "#fffaf0"), 1.5)
        pen.setCosmetic(True)
        self._ring.setPen(pen)
        self._ring.setRect(at.x() - r, at.y() - r, 2 * r, 2 * r)

    # --- what lies where

    def label_at(self, key: int) -> QPointF:
        """Where an element's label stands."""
        return self._items[key].label_rect().topLeft()

    def leading_item(self) -> ElementItem | None:
        return None if self._selection.selected is None else self._items.get(self._selection.selected)

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
        under = [e.key for e in reversed(self.sheet.elements) if e.key in self._items and self._items[e.key].covers(point)]
        if self._selection.selected in under:
            i = under.index(self._selection.selected)
            return under[(i + 1) % len(under)] if beneath else self._selection.selected
        return under[0] if under else None
