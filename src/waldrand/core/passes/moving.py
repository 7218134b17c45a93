"""A thing moved in a picture: cut out, its old place filled, laid down where it is wanted, and made to belong there."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from scipy import ndimage

from ..packs import Pack
from ..picture.placed import placed, visible_box
from ..refused import Refused
from ..values.belonging import belonging
from ..values.layers import PictureLayer
from ..values.masks import Mask
from ..values.sheet import Sheet
from ..worded import worded
from .kinds import mask_kind
from .plan import plan
from .request import Request
from .run import Watch, run_take

#: Pixels beyond a thing's own edge that its old place is filled, and how much of it counts as any.
ROUND, ANY = 10, 0.1


def moved_thing(
    sheet: Sheet,
    mask: np.ndarray,
    by: tuple[float, float],
    request: Request,
    pack: Pack,
    scale: float = 1.0,
    match: float = 0.0,
    watch: Watch | None = None,
) -> Sheet:
    """A sheet with what a mask (H, W) 0..1 covers moved by sheet pixels: its old place is painted as a pass asks (of the kind that paints
    what a mask covers), and the thing lies over it as a layer of its own.

    Raises:
        Refused: the mask is empty or covers everything, or the thing would lie wholly outside.
        Stopped: no more was wanted.
    """
    solid = mask > 0.5
    if not solid.any() or solid.all():
        raise Refused(worded("There is nothing to move: the mask covers {0}.", worded("everything") if solid.all() else worded("nothing")))
    whole = sheet.flatten()
    cut = whole.copy()
    cut[..., 3] = np.round(mask * whole[..., 3])
    x0, y0, x1, y1 = visible_box(cut)
    pixels, x, y = placed(cut, ((x0 + x1) / 2 + by[0], (y0 + y1) / 2 + by[1]), scale)
    thing = PictureLayer(0, worded("moved"), pixels, x, y)
    if not thing.bounds.intersect(sheet.rect).area:
        raise Refused(worded("It would lie wholly outside the sheet."))
    hole = ndimage.binary_dilation(mask > ANY, iterations=ROUND)
    bare = replace(sheet, mask=Mask.from_array(np.where(hole, 255, 0).astype(np.uint8)))
    asked = replace(request, kind=mask_kind().name)
    take = run_take(plan(bare, asked, pack), pack, asked.settings.seed, watch)
    done = sheet.with_made(take.to_patch(sheet.next_key(), worded("behind")))
    key = done.next_key()
    return belonging(done.with_layer(replace(thing, key=key)), key, match, 0.0)
