"""The layers as the sheet view shows them."""

from __future__ import annotations

from ...core.values.differing import changed_rect
from ...core.values.layers import BOTH, DEPTH, FEEDS, LOOK
from ...core.values.sheet import Sheet
from ..document import Document
from .canvas import Canvas
from .selection import Selection

#: Layers that are seen only while they are chosen: whoever works on one has to see it.
UNSEEN = (FEEDS, DEPTH, LOOK)


class LayersShown:
    """Keeps the canvas' picture abreast of what the layers show."""

    def __init__(self, document: Document, selection: Selection, canvas: Canvas) -> None:
        self._document, self._selection, self._canvas = document, selection, canvas
        selection.changed.connect(self._choose)

    def as_shown(self, sheet: Sheet) -> Sheet:
        """With a layer that is no part of the picture, while it is chosen."""
        key = self._selection.layer
        if key is None or not sheet.has_layer(key) or sheet.layer(key).role not in UNSEEN:
            return sheet
        return sheet.with_layer(sheet.layer(key).changed(role=BOTH))

    def show_change(self, before: Sheet, after: Sheet) -> None:
        """Draws anew what differs."""
        shown = self.as_shown(after)
        self._canvas.drawings.show(after)
        if before.rect != after.rect or shown is not after:
            self._canvas.show_picture(shown)
        else:
            self._canvas.show_changed(shown, changed_rect(before, after))

    def _choose(self) -> None:
        """A layer that is no part of the picture comes and goes with its choice."""
        sheet = self._document.sheet
        if any(x.role in UNSEEN for x in sheet.layers):
            self._canvas.show_picture(self.as_shown(sheet))
