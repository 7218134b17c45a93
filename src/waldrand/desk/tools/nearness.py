"""A brush that corrects a depth: what it goes over comes nearer, or goes farther off."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF

from ...core.picture.ink import nearness, shade_of
from ...core.values.layers import DEPTH, PictureLayer
from ...core.values.paint import Colour, PaintLayer
from ...core.worded import worded
from .colours import Paint
from .hand import UnderHand

#: How far towards the nearest or the farthest a stroke goes, 0..1.
BY = 0.25
NEAREST, FARTHEST = 255, 0
#: How near all is where nobody said anything.
BETWEEN = 0.5


class Nearness(Paint):
    """Paints on the chosen depth, else on the uppermost, else on a new one that is equally near everywhere."""

    name, title, shortcut = "near", "Nearness", "Shift+S"
    tip = "Correct a depth that passes follow: bring nearer, with X push away; Alt or Ctrl takes the nearness at a point"
    group = "guides"
    hint = "Drag: nearer · X: farther · Alt or Ctrl+click: take the nearness there, to lay it · Shift+click: on from the last · Q, W: size"
    turned = "farther"
    has_paints = False

    def __init__(self, view: UnderHand) -> None:
        super().__init__(view)
        #: What was taken at a point, and whether it was to be pushed away then: turning that over lets go of it.
        self._taken: tuple[int, bool] | None = None

    def layer(self) -> PaintLayer:
        sheet = self.document.sheet
        layer = sheet.depth(self.view.selection.layer)
        if isinstance(layer, PaintLayer):
            return layer
        drawn = None if layer is None else layer.as_picture()
        if drawn is not None:
            return PaintLayer.upon(drawn)
        even = shade_of(np.full((sheet.height, sheet.width), BETWEEN))
        return PaintLayer.upon(PictureLayer(sheet.next_key(), worded("depth"), even, role=DEPTH))

    def pick(self, p: QPointF) -> None:
        layer = self.layer()
        at = layer.bounds
        x, y = int(p.x()) - at.x0, int(p.y()) - at.y0
        if 0 <= x < at.width and 0 <= y < at.height:
            near = float(nearness(layer.shown[y : y + 1, x : x + 1])[0, 0])
            self._taken = round(255 * near), self.view.brush.erasing
            self.view.said.emit(worded("Lays a nearness of {0:.2f}; X turns back to nearer and farther.", near))

    def laid(self) -> tuple[Colour, bool]:
        grey = self._level()
        if grey is None:
            grey = FARTHEST if self.view.brush.erasing else NEAREST
        return (grey, grey, grey), False

    def thick(self) -> float:
        return BY if self._level() is None else 1.0

    def _level(self) -> int | None:
        if self._taken is not None and self._taken[1] != self.view.brush.erasing:
            self._taken = None
        return None if self._taken is None else self._taken[0]

    def done(self) -> str:
        if self._level() is not None:
            return worded("a nearness")
        return worded("farther") if self.view.brush.erasing else worded("nearer")
