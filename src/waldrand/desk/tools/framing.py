"""The work frame by hand: drawn, moved and resized on the sheet."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainterPath

from ...core.passes.kinds import empty_kind, picture_kind
from ...core.refused import Refused
from ...core.values.frame import LEAST_GIVEN, Rect
from ...core.values.resize import framed
from ...core.values.shaping import snap
from ...core.worded import worded
from ..sheet_view.element_item import HANDLES
from .arranging import resized
from .hand import SNAP, Hand, UnderHand, held

#: Screen pixels round a handle that it is taken at.
GRIP = 8.0


class Frame(Hand):
    """The part of the sheet that the next pass computes."""

    name, title, shortcut = "frame", "Frame", "Shift+R"
    tip = "Set by hand which part of the sheet the next pass computes"
    group = "frame"
    hint = "Drag: a new frame (over the picture's edge: it goes on there) · in it: move · edges: resize · Delete: fits itself"
    shows_frame = True

    def __init__(self, view: UnderHand) -> None:
        super().__init__(view)
        self._what, self._handle, self._stroke = "", 0, 0
        self._wanted: Rect | None = None
        self._from, self._before = QPointF(), (0.0, 0.0, 0.0, 0.0)

    @property
    def _shown(self) -> QRectF:
        """The frame as it is, set by hand or not."""
        return self.view.canvas.frame_rect

    def corners(self) -> list[tuple[float, float]]:
        r, sheet = self._shown, self.document.sheet
        whole = self.document.draft.own_frame is None and r == QRectF(0, 0, sheet.width, sheet.height)
        # Where the whole sheet is computed a drag begins a new frame, from its corners too.
        return [] if whole or r.isEmpty() else [(r.left() + fx * r.width(), r.top() + fy * r.height()) for fx, fy in HANDLES]

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        r, reach = self._shown, self.reach(GRIP)
        self._stroke += 1
        self._from, self._before, self._what = p, (r.left(), r.top(), r.right(), r.bottom()), "new"
        for i, (x, y) in enumerate(self.corners()):
            if abs(x - p.x()) <= reach and abs(y - p.y()) <= reach:
                self._what, self._handle = "resize", i
                return
        # A frame that fits itself is only moved once it is one's own.
        if r.contains(p) and self.document.draft.own_frame is not None:
            self._what = "move"

    def drag(self, p: QPointF, event: QMouseEvent) -> None:
        free = held(event, Qt.KeyboardModifier.ControlModifier)
        x0, y0, x1, y1 = self._before
        dx, dy = p.x() - self._from.x(), p.y() - self._from.y()
        if self._what == "resize":
            box = resized(self._before, self._handle, dx, dy, held(event, Qt.KeyboardModifier.ShiftModifier))
        elif self._what == "move":
            box = (x0 + dx, y0 + dy, x1 + dx, y1 + dy)
        elif self._what == "new":
            r = QRectF(self._from, p).normalized()
            box = (r.left(), r.top(), r.right(), r.bottom())
        else:
            return
        self._set(box if free else self._snapped(box))

    def _snapped(self, box: tuple[float, float, float, float]) -> tuple[float, float, float, float]:
        xs, ys = self.view.canvas.snaps.lines(())
        if self._what == "move":
            (sx, _), (sy, _) = snap((box[0], box[2]), xs, self.reach(SNAP)), snap((box[1], box[3]), ys, self.reach(SNAP))
            return box[0] + sx, box[1] + sy, box[2] + sx, box[3] + sy
        moved = [v + snap((v,), lines, self.reach(SNAP))[0] for v, lines in zip(box, (xs, ys, xs, ys), strict=True)]
        return moved[0], moved[1], moved[2], moved[3]

    def _set(self, box: tuple[float, float, float, float]) -> None:
        sheet, (x0, y0, x1, y1) = self.document.sheet, (round(v) for v in box)
        if self._what == "move" and not sheet.has_picture:
            x0 = min(max(x0, 0), max(0, sheet.width - (x1 - x0)))
            y0 = min(max(y0, 0), max(0, sheet.height - (y1 - y0)))
            x1, y1 = x0 + round(box[2] - box[0]), y0 + round(box[3] - box[1])
        self._wanted = Rect(x0, y0, x1, y1)
        self._show_beyond(self._wanted)
        inside = self._wanted.intersect(sheet.rect)
        if min(inside.width, inside.height) >= LEAST_GIVEN:
            new = replace(self.document.draft, own_frame=(inside.x0, inside.y0, inside.x1, inside.y1))
            self.document.set_draft(new, worded("frame of the pass"), f"frame {self._stroke}")

    def _show_beyond(self, wanted: Rect) -> None:
        """A frame that reaches over a picture's edge is seen there too."""
        path = QPainterPath()
        if self._reaches_over(wanted):
            path.addRect(QRectF(wanted.x0, wanted.y0, wanted.width, wanted.height))
        self.view.canvas.show_draft(path)

    def _reaches_over(self, wanted: Rect) -> bool:
        """Whether a frame goes beyond a picture of which it takes something in."""
        sheet, inside = self.document.sheet, wanted.intersect(self.document.sheet.rect)
        return sheet.has_picture and inside != wanted and min(inside.width, inside.height) >= LEAST_GIVEN

    def release(self, p: QPointF, event: QMouseEvent) -> None:
        wanted = self._wanted
        self.put_down()
        if wanted is not None:
            self._follow(wanted)

    def _follow(self, wanted: Rect) -> None:
        """What a frame asks for: over the picture's edge, or over empty places, the picture goes on; in it, it is worked over."""
        sheet, draft = self.document.sheet, self.document.draft
        if self._reaches_over(wanted):
            room = sheet.rect.around(wanted)
            at = wanted.moved(-room.x0, -room.y0)
            try:
                grown = framed(sheet, room)
            except Refused as error:
                self.view.said.emit(str(error))
                return
            draft = replace(draft.turned_to(empty_kind()), own_frame=(at.x0, at.y0, at.x1, at.y1))
            self.document.edit_both(grown, draft, worded("room for the frame"))
            self.view.said.emit(worded("The sheet got room where the frame reaches over its edge: Extend paints it."))
        elif sheet.has_picture:
            empty = bool((sheet.flatten(wanted.intersect(sheet.rect))[..., 3] < 255).any())
            if empty != draft.of_kind.fills_empty and (empty or not draft.of_kind.masked):
                kind = empty_kind() if empty else picture_kind()
                self.document.set_draft(draft.turned_to(kind), worded("frame of the pass"), f"frame {self._stroke}")

    def put_down(self) -> None:
        self._what, self._wanted = "", None
        self.view.canvas.show_draft(None)

    def double(self, p: QPointF, event: QMouseEvent) -> None:
        self._fit_itself()

    def delete(self) -> bool:
        mine = self.document.draft.own_frame is not None
        self._fit_itself()
        return mine

    def _fit_itself(self) -> None:
        self.document.set_draft(replace(self.document.draft, own_frame=None), worded("frame of the pass"), "")
