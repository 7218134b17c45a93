"""The grounds that the next pass is told of, in pencil on the paper, behind all things."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ...core.packs import Pack
from ...core.passes.grounded import grounded
from ...core.values.outline import Outline
from ...core.values.pencil import INK
from ...core.values.sheet import Sheet
from ..draft import Draft
from .picture_items import PictureItem

#: The longer side, in pixels, at which they are drawn, and how dark.
SIDE, DARK = 640, 0.45


class GroundsShown:
    """Draws them on an item that lies under the picture."""

    def __init__(self, item: PictureItem) -> None:
        self._item = item

    def show(self, sheet: Sheet, draft: Draft, figures: Mapping[int, Outline], pack: Pack | None) -> None:
        """Shows what a pass would be told; nothing where it is told none, or a picture covers them. figures: by the elements' keys."""
        lines = None if sheet.has_picture else lines_behind(sheet, draft, figures, pack)
        if lines is None:
            self._item.show_pixels(None, sheet.rect)
            return
        alpha = np.round(255 * DARK * lines).astype(np.uint8)
        self._item.show_pixels(np.dstack([np.broadcast_to(np.array(INK, np.uint8), (*alpha.shape, 3)), alpha]), sheet.rect)


def lines_behind(sheet: Sheet, draft: Draft, figures: Mapping[int, Outline], pack: Pack | None) -> np.ndarray | None:
    """What the next pass is told of grounds, (h, w) float32 0..1 with SIDE pixels to the sheet's longer side; None: nothing."""
    if pack is None or not draft.of_kind.hears_elements:
        return None
    return grounded(sheet, draft.request().settings, figures, pack, draft.settings.seed).lines(sheet, SIDE)
