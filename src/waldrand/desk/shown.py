"""What of the desk and of the sheet is shown just now, and what is unusual about it."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import QObject, QPoint, pyqtSignal
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMainWindow, QSplitter, QWidget

from ..core.worded import worded
from .document import State
from .jobs.live import Live
from .jobs.takes import Takes
from .menus import switch
from .sheet_view.view import SheetView


class Shown(QObject):
    """Signals: changed(). outlines, bare, difference, live, folds, alone, full: the actions that switch them.

    parts: what can be folded away, with a title and a key each.
    """

    changed = pyqtSignal()

    def __init__(self, window: QMainWindow, view: SheetView, takes: Takes, live: Live, parts: Sequence[tuple[str, QWidget, str]]) -> None:
        super().__init__(window)
        self._window, self._view, self._live, self._held = window, view, live, False
        self.outlines = switch(window, worded("Show outlines and mask"), lambda _: self._show(), True, "O")
        self.bare = switch(window, worded("Only the picture"), lambda _: self._show(), False, "Shift+Z")
        self.difference = switch(window, worded("Show the difference"), takes.show_difference, False, "Shift+C")
        self.difference.toggled.connect(lambda _: self.changed.emit())
        self.live = switch(window, worded("Live: a rough picture while you work"), live.want, True, "F4")
        live.switched.connect(self._live_switched)
        view.document.changed.connect(self._draft_changed)
        self.folds = [switch(window, text, partial(self._fold, part), True, key) for text, part, key in parts]
        self.alone = switch(window, worded("The sheet alone"), self._show_alone, False, "F9")
        self.full = switch(window, worded("Full screen"), self._show_full, False, "F11")

    @property
    def actions(self) -> tuple[QAction, ...]:
        """Those of the View menu, in their order."""
        return (self.outlines, self.bare, self.live, *self.folds, self.alone, self.full)

    def hold_bare(self, held: bool) -> None:
        """Nothing but the picture while a key is held."""
        self._held = held
        self._show()

    def _draft_changed(self, before: State, after: State) -> None:
        if before.draft.own_frame != after.draft.own_frame or before.draft.kind != after.draft.kind:
            self.changed.emit()

    def _live_switched(self) -> None:
        """It may have switched itself off."""
        self.live.setChecked(self._live.on)
        self.changed.emit()

    def _show(self) -> None:
        self._view.canvas.show_bare(self._held or self.bare.isChecked(), self.outlines.isChecked())
        self.changed.emit()

    def _fold(self, part: QWidget, shown: bool) -> None:
        """The sheet stays where it is on the screen, though the room round it changes."""
        before = self._corner()
        # Panned by nothing, it is no longer fitted to the room.
        self._view.pan(0, 0)
        part.setVisible(shown)
        split = part.parentWidget()
        if isinstance(split, QSplitter):
            split.refresh()
        apart = before - self._corner()
        self._view.pan(apart.x(), apart.y())

    def _corner(self) -> QPoint:
        """Where the sheet's corner lies on the screen."""
        return self._view.mapToGlobal(self._view.mapFromScene(0, 0))

    def _show_alone(self, alone: bool) -> None:
        """All folds at once; the sheet is shown as large as there is room for."""
        for fold in self.folds:
            fold.setChecked(not alone)
        self._view.fit()

    def _show_full(self, full: bool) -> None:
        if full:
            self._window.showFullScreen()
        else:
            self._window.showNormal()

    def unusual(self) -> list[str]:
        """What is on that is not usual, each with the key that undoes it."""
        brush, hand, draft = self._view.brush, self._view.hands[self._view.tool], self._view.document.draft
        modes = (
            (brush.erasing and hand.has_brush, worded("{0} on (X)", worded(hand.turned))),
            (self.bare.isChecked(), worded("only the picture (Shift+Z)")),
            (not self.outlines.isChecked(), worded("outlines hidden (O)")),
            (draft.own_frame is not None and "own_frame" in draft.fields, worded("frame set by hand (Shift+R)")),
            (self.difference.isChecked(), worded("difference shown (Shift+C)")),
            (not self.live.isChecked(), worded("live off (F4)")),
        )
        return [text for on, text in modes if on]
