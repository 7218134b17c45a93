"""The old place of a thing that is moved, painted."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from scipy import ndimage

from ..packs import Pack
from ..values.masks import Mask
from ..values.sheet import Sheet
from ..worded import worded
from .kinds import mask_kind
from .lifting import ANY, ROUND, Move
from .plan import Plan, plan
from .request import Request
from .run import run_take
from .watch import Watch


def place_behind(sheet: Sheet, move: Move, request: Request, pack: Pack) -> Plan:
    """The pass that paints the old place of what is moved, as a pass is asked for (of the kind that paints what a mask covers).

    Raises:
        Refused: it cannot run.
    """
    hole = ndimage.binary_dilation(move.mask > 255 * ANY, iterations=ROUND)
    bare = replace(sheet, mask=Mask.from_array(np.where(hole, 255, 0).astype(np.uint8)))
    return plan(bare, replace(request, kind=mask_kind().name), pack)


def filled_behind(sheet: Sheet, move: Move, request: Request, pack: Pack, watch: Watch | None = None) -> Sheet:
    """The old place of what is moved, painted.

    Raises:
        Stopped: no more was wanted.
    """
    take = run_take(place_behind(sheet, move, request, pack), pack, request.settings.seed, watch)
    return sheet.with_made(take.to_patch(sheet.next_key(), worded("behind")))
