"""What the window takes up from the last time: its place, tools, and what was folded."""

from __future__ import annotations

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QMainWindow, QSplitter

from .columns.fold import Fold
from .sheet_view.view import SheetView


class Remembered:
    """window: whose place; view: whose tool and brush; fold: of the settings; split: between the sheet and the takes."""

    def __init__(self, window: QMainWindow, view: SheetView, fold: Fold, split: QSplitter) -> None:
        self._window, self._view, self._fold, self._split = window, view, fold, split

    def take_up(self) -> None:
        """Sets all as it was left the last time."""
        settings, brush = QSettings("Waldrand", "Waldrand"), self._view.brush
        if settings.value("geometry") is not None:
            self._window.restoreGeometry(settings.value("geometry"))
        brush.set(float(settings.value("radius", 32.0)), float(settings.value("softness", 0.5)))
        tool = str(settings.value("tool", self._view.tool))
        if tool in self._view.hands:
            self._view.set_tool(tool)
        self._fold.unfold(settings.value("unfolded", False, bool))
        if settings.value("tray") is not None:
            self._split.restoreState(settings.value("tray"))

    def keep(self) -> None:
        """Keeps it for the next time."""
        settings = QSettings("Waldrand", "Waldrand")
        for key, value in (
            ("geometry", self._window.saveGeometry()),
            ("radius", self._view.brush.radius),
            ("softness", self._view.brush.softness),
            ("tool", self._view.tool),
            ("unfolded", self._fold.button.isChecked()),
            ("tray", self._split.saveState()),
        ):
            settings.setValue(key, value)
