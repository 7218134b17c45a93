"""The colour in the hand, and those used lately."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

Colour = tuple[int, int, int]
#: Colours that are remembered, and of a picture's own that are offered.
MOST_RECENT, OF_PICTURE = 16, 8
#: What one begins with: of a night at the forest's edge.
FIRST: tuple[Colour, ...] = ((41, 58, 74), (94, 110, 76), (201, 140, 62), (240, 229, 200))


class Paints(QObject):
    """colour: (r, g, b) 0..255; opacity 0..1 of what is laid; tolerance 0..1, joined: what a fill takes for alike, and whether only what
    hangs together. Signals: changed()."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.colour: Colour = FIRST[0]
        self.opacity, self.tolerance, self.joined = 1.0, 0.1, True
        self.recent: list[Colour] = list(FIRST)

    def set(
        self,
        colour: Colour | None = None,
        opacity: float | None = None,
        tolerance: float | None = None,
        joined: bool | None = None,
    ) -> None:
        if colour is not None:
            self.colour = colour
        if opacity is not None:
            self.opacity = float(min(max(opacity, 0), 1))
        if tolerance is not None:
            self.tolerance = float(min(max(tolerance, 0), 1))
        if joined is not None:
            self.joined = joined
        self.changed.emit()

    def used(self) -> None:
        """The colour was laid: it comes first among those used lately."""
        self.recent = [self.colour, *(c for c in self.recent if c != self.colour)][:MOST_RECENT]
        self.changed.emit()
