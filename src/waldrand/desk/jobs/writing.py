"""Lettering: words as a layer that stays words."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF

from ...core.refused import Refused
from ...core.values.frame import Rect
from ...core.values.layers import SEEN
from ...core.values.lettering import Lettering, Letters, name_of
from ...core.values.paint import Colour
from ...core.worded import worded
from ...files.typefaces import draw_letters
from .acting import Acting
from .layering import Layering

#: The size of new letters, in shares of the sheet's height.
LETTERS = 0.1
#: How far from what lies below letters have to be, of 255; and what they are else.
READABLE, LIGHT, DARK = 90.0, (244, 239, 227), (43, 38, 32)


class Writing(Acting):
    """Every act is one undoable edit."""

    def __init__(self, layering: Layering) -> None:
        super().__init__(*layering.acting)
        self._layering = layering

    def new_letters(self, at: QPointF | None = None) -> None:
        """Lettering whose words are asked for, at a point of the sheet or in its middle."""
        words = self._dialogs().words(worded("Lettering"), worded("What shall it say?"))
        if not words or not words.strip():
            return
        sheet, paints = self.document.sheet, self.view.paints
        colour = "#{:02x}{:02x}{:02x}".format(*self._readable(paints.colour, at))
        says = Letters(words.strip(), size=float(max(8, round(LETTERS * sheet.height))), colour=colour)
        made = self._drawn(says)
        if made is None:
            return
        h, w = made.shape[:2]
        x, y = (round(at.x()), round(at.y() - h / 2)) if at is not None else ((sheet.width - w) // 2, (sheet.height - h) // 2)
        layer = Lettering(sheet.next_key(), name_of(says), made, x, y, says=says, role=SEEN)
        self._add_layer(layer, worded("lettering"))
        self.view.set_tool("arrange")

    def _readable(self, colour: Colour, at: QPointF | None) -> Colour:
        """The colour in the hand, or a light or dark one where it could not be read on the picture."""
        sheet = self.document.sheet
        x, y = (round(at.x()), round(at.y())) if at is not None else (sheet.width // 2, sheet.height // 2)
        reach = round(2 * LETTERS * sheet.height)
        below = sheet.flatten(Rect(x - reach, y - reach // 2, x + 2 * reach, y + reach // 2).intersect(sheet.rect))
        light = float(below[..., :3].mean()) if below.size and below[..., 3].any() else 255.0
        return colour if abs(sum(colour) / 3 - light) >= READABLE else LIGHT if light < 128 else DARK

    def set_letters(self, says: Letters) -> None:
        """Other words or looks of the chosen lettering."""
        layer = self._layering.layer
        if isinstance(layer, Lettering) and says != layer.says:
            made = self._drawn(says)
            if made is not None:
                self._layering.change(layer.drawn(says, made), worded("letters of “{0}”", layer.name), f"letters {layer.key}")

    def _drawn(self, says: Letters) -> np.ndarray | None:
        try:
            made, note = draw_letters(says)
        except Refused as error:
            self.say(str(error))
            return None
        if note:
            self.say(note)
        return made
