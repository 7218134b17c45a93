"""Masks with names: kept on the sheet to be used again, and to hold what lies under them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np

from ..fields import needed, taken_table, taken_whole, taken_words
from .element import Element
from .frame import Rect
from .masks import Mask, scaled_mask
from .shaping import painted

#: Grey from which on a pixel is held.
HOLDS = 128


@dataclass(frozen=True, eq=False)
class Area:
    """key: unlike any other on its sheet; mask: of the sheet's size; hold: whether no pass may change what lies under it."""

    key: int
    name: str
    mask: Mask
    hold: bool = False

    @cached_property
    def holding(self) -> Element | None:
        """An element that holds what lies under the mask, pixel by pixel; None where nothing is held."""
        box = self.mask.box()
        solid = np.where(self.mask.read(box) >= HOLDS, 255, 0).astype(np.uint8)
        return Element(self.key, self.name, painted(solid, box), hold=True) if self.hold and solid.any() else None

    def framed(self, rect: Rect) -> Area:
        return replace(self, mask=Mask.from_array(self.mask.read(rect)))

    def scaled(self, height: int, width: int) -> Area:
        return replace(self, mask=scaled_mask(self.mask, height, width))

    def to_json(self) -> dict[str, Any]:
        """What a file says of it, without its picture."""
        return {"key": self.key, "name": self.name, "hold": self.hold}

    @classmethod
    def from_json(cls, d: Any, mask: Mask) -> Area:
        """Raises Refused when what a file says of it is damaged."""
        d = taken_table(d, "A mask")
        key, name = taken_whole(needed(d, "key", "A mask"), "A mask's key"), taken_words(needed(d, "name", "A mask"), "A mask's name")
        return cls(key, name, mask, d.get("hold") is True)
