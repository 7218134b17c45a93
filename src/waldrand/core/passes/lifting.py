"""What is moved in a picture: cut out, and laid down where it is wanted, larger or smaller."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..fields import needed, taken_list, taken_number, taken_table
from ..picture.placed import placed, visible_box
from ..refused import Refused
from ..values.as_json import grey_from_json, grey_to_json
from ..values.belonging import belonging
from ..values.layers import FARTHEST, PictureLayer
from ..values.sheet import Sheet
from ..worded import worded

#: Pixels beyond a thing's own edge that its old place is filled, and how much of it counts as any.
ROUND, ANY = 10, 0.1


@dataclass(frozen=True, eq=False)
class Move:
    """mask: (H, W) uint8, what is moved; by: sheet pixels right and down; scale: how large it becomes; match: 0..1, how much its colours
    and light become those of its new place."""

    mask: np.ndarray
    by: tuple[float, float]
    scale: float = 1.0
    match: float = 0.0

    def to_json(self) -> dict[str, Any]:
        return {"mask": grey_to_json(self.mask), "by": list(self.by), "scale": self.scale, "match": self.match}

    @classmethod
    def from_json(cls, value: Any, height: int, width: int) -> Move:
        """Raises Refused when it is no move on a sheet of that size."""
        what = worded("What was moved")
        d = taken_table(value, what)
        mask = grey_from_json(taken_table(needed(d, "mask", what), what))
        by = [taken_number(v, what) for v in taken_list(needed(d, "by", what), what)]
        if mask.shape != (height, width) or len(by) != 2 or max(map(abs, by)) > FARTHEST:
            raise Refused(worded("What was moved does not fit the picture: its recipe is damaged."))
        scale, match = (taken_number(needed(d, k, what), what) for k in ("scale", "match"))
        return cls(mask, (by[0], by[1]), scale, match)


def lifted(sheet: Sheet, move: Move) -> PictureLayer:
    """What is moved, cut out of what is seen, where it comes to lie.

    Raises:
        Refused: the mask is empty or covers everything, or the thing would lie wholly outside.
    """
    solid = move.mask > 127
    if not solid.any() or solid.all():
        raise Refused(worded("There is nothing to move: the mask covers {0}.", worded("everything") if solid.all() else worded("nothing")))
    cut = sheet.flatten()
    cut[..., 3] = np.round(move.mask / 255.0 * cut[..., 3])
    x0, y0, x1, y1 = visible_box(cut)
    pixels, x, y = placed(cut, ((x0 + x1) / 2 + move.by[0], (y0 + y1) / 2 + move.by[1]), move.scale)
    thing = PictureLayer(0, worded("moved"), pixels, x, y)
    if not thing.bounds.intersect(sheet.rect).area:
        raise Refused(worded("It would lie wholly outside the sheet."))
    return thing


def laid_down(sheet: Sheet, thing: PictureLayer, move: Move) -> Sheet:
    """What was lifted, over all else."""
    key = sheet.next_key()
    return belonging(sheet.with_layer(replace(thing, key=key)), key, move.match, 0.0)
