"""What the next pass is told by drawings of the pack's: figures in outlines, and grounds and what the pass gives places to, in pencil on
the paper behind all elements."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ...core.packs import Pack
from ...core.passes.fitting import is_drawn
from ...core.passes.grounded import Grounded
from ...core.values.outline import Outline
from ...core.values.pencil import INK
from ...core.values.sheet import Sheet
from ..document import Document
from ..draft import Draft
from .picture_items import PictureItem

#: The longer side, in pixels, at which grounds are drawn, and how dark.
SIDE, DARK = 640, 0.45


class DrawnNext:
    """Remembers it for the sheet and the pass settings as they are. item: lies under the picture, and shows the grounds."""

    def __init__(self, document: Document, pack: Pack | None, item: PictureItem) -> None:
        self._document, self._pack, self._item = document, pack, item
        self._for: tuple[Sheet | None, Draft | None] = None, None
        self._figures: dict[int, Outline] = {}
        self._grounds = Grounded()

    @property
    def figures(self) -> dict[int, Outline]:
        """What the next pass fits into outlines, by the elements' keys."""
        self._look()
        return self._figures

    @property
    def grounds(self) -> Grounded:
        """What it is told of what lies behind the things."""
        self._look()
        return self._grounds

    def _look(self) -> None:
        sheet, draft = self._document.sheet, self._document.draft
        # The sheet and the column beside it ask for the same ones.
        if self._pack is None or (self._for[0] is sheet and self._for[1] is draft):
            return
        request = draft.request()
        found, self._grounds = draft.of_kind.drawn(sheet, request, self._pack, draft.settings.seed)
        # What is drawn by hand, or not wanted, has no sketch.
        told = {e.key for e in sheet.elements if request.settings.sketches and not is_drawn(sheet, e)}
        self._figures = {key: o if key in told or o.lines is None else replace(o, lines=None) for key, o in found.items()}
        self._for = sheet, draft

    def show_grounds(self) -> None:
        """Shows them; nothing where there are none, or a picture lies over them."""
        sheet = self._document.sheet
        hidden = sheet.has_picture and not self._document.draft.of_kind.fills_empty
        lines = None if hidden else self.grounds.pencil(sheet, SIDE)
        if lines is None:
            self._item.show_pixels(None, sheet.rect)
            return
        alpha = np.round(255 * DARK * lines).astype(np.uint8)
        self._item.show_pixels(np.dstack([np.broadcast_to(np.array(INK, np.uint8), (*alpha.shape, 3)), alpha]), sheet.rect)
