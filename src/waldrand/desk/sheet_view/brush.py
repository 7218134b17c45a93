"""The round brush in the hand."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal


class Brush(QObject):
    """radius: sheet pixels, 1 to 2000; softness 0 to 1; erasing; pressure: of a pen, 1 for a mouse; pen: how wide the pen draws, in sheet
    pixels, 0.5 to 60. Signals: changed()."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.radius, self.softness, self.erasing, self.pressure = 32.0, 0.5, False, 1.0
        self.pen = 2.5

    @property
    def reach(self) -> float:
        """The radius that it paints with, as hard as it is pressed."""
        return self.radius * self.pressure

    def set(
        self, radius: float | None = None, softness: float | None = None, erasing: bool | None = None, pen: float | None = None
    ) -> None:
        if radius is not None:
            self.radius = float(min(max(radius, 1), 2000))
        if softness is not None:
            self.softness = float(min(max(softness, 0), 1))
        if pen is not None:
            self.pen = float(min(max(pen, 0.5), 60))
        if erasing is not None:
            self.erasing = erasing
        self.changed.emit()
