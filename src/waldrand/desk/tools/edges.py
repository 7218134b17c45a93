"""The sheet's own sides, drawn outward for more room or inward to crop."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainterPath

from ...core.passes.kinds import empty_kind
from ...core.refused import Refused
from ...core.values.frame import LEAST_GIVEN, Rect
from ...core.values.resize import framed
from ...core.worded import worded
from ..sheet_view.element_item import HANDLES
from .arranging import resized
from .hand import Hand, UnderHand, held

#: Screen pixels round a side or corner that it is taken at, and sheet pixels to which it snaps.
GRIP, STEP = 10.0, 8


class SheetEdges(Hand):
    """More room beside the picture, to be extended into."""

    name, title, shortcut = "edges", "Sheet edges", "Shift+E"
    tip = "Draw a side or corner of the sheet outward for more room, or inward to crop"
    group = "frame"
    hint = "Drag a side or a corner · Shift: with the other one alike · Ctrl: to the pixel · the empty part is painted by Extend"

    def __init__(self, view: UnderHand) -> None:
        super().__init__(view)
        self._handle: int | None = None
        self._from, self._rect = QPointF(), Rect(0, 0, 1, 1)

    def corners(self) -> list[tuple[float, float]]:
        sheet = self.document.sheet
        return [(fx * sheet.width, fy * sheet.height) for fx, fy in HANDLES]

    def press(self, p: QPointF, event: QMouseEvent) -> None:
        sheet, reach = self.document.sheet, self.reach(GRIP)
        fx, fy = (_side(v, n, reach) for v, n in ((p.x(), sheet.width), (p.y(), sheet.height)))
        inside = -reach <= p.x() <= sheet.width + reach and -reach <= p.y() <= sheet.height + reach
        self._handle = HANDLES.index((fx, fy)) if inside and (fx, fy) in HANDLES else None
        self._from, self._rect = p, sheet.rect
        if self._handle is None:
            self.view.said.emit(worded("Take the sheet by a side or a corner."))

    def drag(self, p: QPointF, event: QMouseEvent) -> None:
        if self._handle is None:
            return
        sheet = self.document.sheet
        dx, dy = p.x() - self._from.x(), p.y() - self._from.y()
        x0, y0, x1, y1 = resized((0.0, 0.0, float(sheet.width), float(sheet.height)), self._handle, dx, dy, False)
        if held(event, Qt.KeyboardModifier.ShiftModifier):
            left, top, right, low = -x0, -y0, x1 - sheet.width, y1 - sheet.height
            across, down = (left or right), (top or low)
            x0, x1, y0, y1 = -across, sheet.width + across, -down, sheet.height + down
        step = 1 if held(event, Qt.KeyboardModifier.ControlModifier) else STEP
        rect = Rect(
            *(_stepped(v, step) for v in (x0, y0)), *(_stepped(v - n, step) + n for v, n in ((x1, sheet.width), (y1, sheet.height)))
        )
        if min(rect.width, rect.height) < LEAST_GIVEN:
            return
        self._rect = rect
        path = QPainterPath()
        path.addRect(QRectF(rect.x0, rect.y0, rect.width, rect.height))
        self.view.canvas.show_draft(path)
        self.view.said.emit(worded("{0} x {1}", rect.width, rect.height))

    def release(self, p: QPointF, event: QMouseEvent) -> None:
        rect, sheet = self._rect, self.document.sheet
        self.put_down()
        if rect == sheet.rect:
            return
        try:
            new = framed(sheet, rect)
        except Refused as error:
            self.view.said.emit(str(error))
            return
        draft = self.document.draft
        if sheet.has_picture and (rect.x0 < 0 or rect.y0 < 0 or rect.x1 > sheet.width or rect.y1 > sheet.height):
            # What is empty now is what comes next.
            draft = draft.turned_to(empty_kind())
        self.document.edit_both(new, replace(draft, own_frame=None), worded("size of the sheet"))

    def put_down(self) -> None:
        self._handle, self._rect = None, self.document.sheet.rect
        self.view.canvas.show_draft(None)


def _side(value: float, whole: int, reach: float) -> float:
    """0 or 1 at an edge, 0.5 between."""
    return 0 if abs(value) <= reach else 1 if abs(value - whole) <= reach else 0.5


def _stepped(value: float, step: int) -> int:
    return round(value / step) * step
