"""Colour laid on layers of its own: painted on, filled in."""

from __future__ import annotations

import numpy as np

from ...core.picture.fills import tinted_noise
from ...core.values.paint import PaintLayer
from ...core.values.shaping import drawn
from ...core.worded import worded
from .acting import Acting


class Colouring(Acting):
    """Every act is one undoable edit."""

    def new_colours(self) -> None:
        """An empty layer to paint on."""
        sheet = self.document.sheet
        n = sum(isinstance(x, PaintLayer) for x in sheet.layers) + 1
        layer = PaintLayer(sheet.next_key(), worded("colours {0}", n), sheet.width, sheet.height)
        self._add_layer(layer, worded("new layer of colours"))
        self.view.set_tool("paint")

    def _area(self) -> np.ndarray | None:
        """The chosen outlines, else the mask, (H, W) uint8; None, saying so, where there is neither."""
        sheet = self.document.sheet
        if self.chosen:
            return np.maximum.reduce([drawn(e.outline, sheet.rect) for e in self.chosen])
        if sheet.mask is None or sheet.mask.empty:
            self.say(worded("Choose an outline or paint a mask first: that is what gets the colour."))
            return None
        return sheet.mask.read()

    def fill_with_colour(self) -> None:
        """The chosen outlines, or the mask, in the colour in the hand."""
        grey = self._area()
        if grey is not None:
            self._lay(grey, self.view.paints.colour, worded("fill with colour"))

    def fill_with_noise(self) -> None:
        """The same with seeded noise round that colour: at low strength a pass turns it into things."""
        grey = self._area()
        asked = worded("How much: 0 the colour alone, 1 as wild as can be")
        amount = None if grey is None else self._dialogs().number(worded("Coloured noise"), asked, 0.5, 0, 1)
        if grey is None or amount is None:
            return
        noise = tinted_noise(grey.shape, self.view.paints.colour, 0.0, amount, self.document.draft.settings.seed)
        self._lay(grey, noise, worded("coloured noise"))

    def _lay(self, grey: np.ndarray, colour: tuple[int, int, int] | np.ndarray, what: str) -> None:
        sheet = self.document.sheet
        found = next((x for x in reversed(sheet.layers) if x.key == self.view.selection.layer or x is sheet.layers[-1]), None)
        layer = found if isinstance(found, PaintLayer) else PaintLayer(sheet.next_key(), what, sheet.width, sheet.height)
        made = layer.painted(sheet.rect.moved(-layer.x, -layer.y), grey, colour)
        keys = self.view.selection.keys
        self.document.edit(sheet.with_layer(made), what)
        self.view.paints.used()
        if not keys:
            self.view.selection.choose_layer(made.key)
