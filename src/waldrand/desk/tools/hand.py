"""What a tool is, and what it may ask of the sheet it works on."""

from __future__ import annotations

from typing import Protocol

from PyQt6.QtCore import QPoint, QPointF, Qt, pyqtBoundSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent

from ..document import Document
from ..sheet_view.brush import Brush
from ..sheet_view.canvas import Canvas
from ..sheet_view.layers_shown import LayersShown
from ..sheet_view.laying_out import LayingOut
from ..sheet_view.paints import Paints
from ..sheet_view.selection import Selection
from ..sheet_view.words_on_sheet import WordsOnSheet

#: Screen pixels: the least side of what is drawn, from where things snap, from where a polygon's first corner closes it.
LEAST_BOX, SNAP, CLOSE = 8.0, 7.0, 10.0


class UnderHand(Protocol):
    """The sheet as a tool finds it. said: takes a sentence for the status line; thing_wanted: a point whose thing shall be masked;
    letters_wanted: one where lettering shall begin."""

    document: Document
    canvas: Canvas
    selection: Selection
    brush: Brush
    paints: Paints
    laying: LayingOut
    layers: LayersShown
    words: WordsOnSheet
    said: pyqtBoundSignal
    thing_wanted: pyqtBoundSignal
    letters_wanted: pyqtBoundSignal

    @property
    def scale_now(self) -> float: ...

    def show_cursor(self, shape: Qt.CursorShape) -> None: ...

    def begin_pan(self, at: QPoint) -> None: ...

    def set_tool(self, tool: str) -> None: ...


class Hand:
    """A tool in the hand. Points are sheet coordinates; `event` tells which keys are held.

    name: in settings; title, shortcut, tip: in the window; sign: of a file in data/signs, its own name where none is said; group: what
    it works on; hint: what press, drag and held keys do. draws: whether it draws outlines; turned: what X makes of it; has_brush:
    whether it has the round brush; paints_mask: whether it paints the mask; has_pen: whether it draws with the pen; has_paints: whether
    it lays colours; takes_alike: whether it takes what is of like colour; shows_handles: whether the chosen element shows its own;
    shows_strip: whether what is said of it is shown beside it, which would be in the way of a hand that draws; shows_frame: whether the
    work frame is shown whatever the pass.
    """

    name: str
    title: str
    shortcut: str
    tip: str
    sign: str = ""
    group: str = "outlines"
    hint: str = ""
    cursor = Qt.CursorShape.CrossCursor
    turned = "eraser"
    draws = has_brush = has_pen = paints_mask = has_paints = takes_alike = shows_strip = shows_frame = False
    shows_handles = True

    def __init__(self, view: UnderHand) -> None:
        self.view = view
        self.document = view.document

    def press(self, p: QPointF, event: QMouseEvent) -> None: ...

    def drag(self, p: QPointF, event: QMouseEvent) -> None: ...

    def hover(self, p: QPointF, event: QMouseEvent) -> None: ...

    def release(self, p: QPointF, event: QMouseEvent) -> None: ...

    def double(self, p: QPointF, event: QMouseEvent) -> None: ...

    def key(self, event: QKeyEvent) -> bool:
        """Whether the key was for this tool."""
        return False

    def delete(self) -> bool:
        """Deletes what this tool works on; False: there is nothing."""
        return False

    def put_down(self) -> None:
        """What is half done is given up."""

    def corners(self) -> list[tuple[float, float]]:
        """The corners of the chosen outline that it can move."""
        return []

    def reach(self, pixels: float) -> float:
        """Screen pixels in sheet pixels."""
        return pixels / self.view.scale_now


def held(event: QMouseEvent, key: Qt.KeyboardModifier) -> bool:
    return bool(event.modifiers() & key)


def picks(event: QMouseEvent) -> bool:
    """Whether a click takes what is there: with Alt, or with Ctrl where the desktop keeps Alt for itself."""
    return held(event, Qt.KeyboardModifier.AltModifier) or held(event, Qt.KeyboardModifier.ControlModifier)
