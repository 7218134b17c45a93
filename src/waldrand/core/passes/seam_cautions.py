"""Edges of layers that show, and what would help."""

from __future__ import annotations

from functools import lru_cache, partial

from ..values.belonging import SHOWS, belonging, seam_of
from ..values.layers import Layer
from ..values.sheet import Sheet
from ..worded import worded
from .cautions import Caution, Mend
from .request import Request

#: Larger layers would hold the forecast up.
MOST_PIXELS = 600_000
#: What is offered: by how much it is matched, and its edge's difference carried inward.
MATCH, NO_SEAM = 0.3, 0.6


@lru_cache(maxsize=2)
def _showing(width: int, height: int, layers: tuple[Layer, ...]) -> tuple[int, float] | None:
    """The topmost patch that was not joined yet, and its seam, where that shows. Remembered, since plans ask at every
    change of words."""
    sheet = Sheet(width, height, layers)
    for layer in reversed(layers):
        if layer.visible and layer.recipe is not None and layer.brought_by and not any(layer.brought_by.values()):
            seam = seam_of(sheet, layer.key) if layer.bounds.area <= MOST_PIXELS else None
            return (layer.key, seam) if seam is not None and seam >= SHOWS else None
    return None


def of_seams(sheet: Sheet) -> list[Caution]:
    """The edge of what was laid down last, where it shows: it is better joined before all is reworked."""
    found = _showing(sheet.width, sheet.height, sheet.layers)
    if found is None:
        return []
    key, seam = found
    mend = Mend(worded("Match it, no seam"), partial(_joined, key=key))
    return [Caution(worded("The edge of “{0}” shows (seam {1:.1f}).", sheet.layer(key).name, seam), None, mend)]


def _joined(sheet: Sheet, request: Request, key: int) -> tuple[Sheet, Request]:
    return belonging(sheet, key, MATCH, NO_SEAM), request
