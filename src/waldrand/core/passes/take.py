"""A take: what a pass made, whole, and how."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..picture.patch_edge import KEPT_FEATHER
from ..values.frame import Rect
from ..values.layers import Patch
from ..values.sheet import Extent, Sheet


@dataclass(frozen=True, eq=False)
class Take:
    """pixels: (h, w, 3) uint8, the whole frame at the sheet's own resolution; region: (h, w) uint8, painted
    where above 0; seed and recipe: how it was made; extent: of the sheet that it was made on, None where nobody knows it any more;
    feather: sheet pixels over which its edge fades, where it has one inside the sheet; parts: the takes that it is made of, each
    a patch of its own on what those before it left; told: what has to be said of it, if anything."""

    frame: Rect
    pixels: np.ndarray
    region: np.ndarray
    seed: int
    recipe: dict[str, Any]
    extent: Extent | None = None
    feather: float = KEPT_FEATHER
    parts: tuple[Take, ...] = ()
    told: str = ""

    def to_patch(self, key: int, name: str) -> Patch:
        """The take as a layer of the sheet that it was made on. An edge is feathered only where there is one inside the sheet."""
        partial = not bool((self.region > 0).all())
        return Patch(key, name, self.frame, self.pixels, self.region, feather=self.feather if partial else 0.0, recipe=self.recipe)

    def laid_on(self, sheet: Sheet, name: str) -> Sheet:
        """The sheet that it was made on with the take over all that feeds passes."""
        return sheet.with_made(self.to_patch(sheet.next_key(), name))

    def way_to(self, sheet: Sheet) -> tuple[int, int] | None:
        """How far it has to be moved to lie where it was made, on a sheet that was cropped or extended since; None where that one's
        pixels have another size, or nothing of it would lie on it."""
        way = (0, 0) if self.extent is None else self.extent.way_to(sheet.extent)
        if way is None or not self.frame.moved(*way).intersect(sheet.rect).area:
            return None
        return way
