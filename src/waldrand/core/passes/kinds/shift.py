"""Shift: what a mask covers laid down elsewhere, larger or smaller, and its old place painted."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import ClassVar

import numpy as np
from scipy import ndimage

from ...fields import Field
from ...packs import Pack
from ...refused import Refused
from ...values.layers import FARTHEST
from ...values.masks import Mask
from ...values.sheet import Sheet
from ...worded import worded
from ..cautions import percent
from ..kind import COMPUTED, Kind
from ..lifting import ANY, ROUND, Move, laid_down, lifted
from ..masked import masked_stage
from ..request import Request
from ..stage import Stage
from ..take import Take


class Shift(Kind):
    name = "shift"
    title = "Shift"
    tip = "Lay what the mask covers down elsewhere, and paint its old place."
    begins = 0.5
    uses: ClassVar[tuple[str, ...]] = (
        "words",
        "avoid",
        "strength",
        "margin",
        *(n for n in COMPUTED if n not in ("figures", "sketches", "ink", "weather")),
    )
    masked = True
    offered = False
    own: ClassVar[Mapping[str, Field]] = {
        "right": Field("number", 0.0, -FARTHEST, FARTHEST, "A thing is moved", label="right", tip="Pixels to the right."),
        "down": Field("number", 0.0, -FARTHEST, FARTHEST, "A thing is moved", label="down", tip="Pixels down."),
        "times": Field("number", 1.0, 0.05, 20, "A thing is scaled", label="times", tip="How many times as large it becomes.", step=0.1),
    }

    def settled(self, sheet: Sheet, request: Request, pack: Pack) -> Request:
        if not sheet.has_picture or sheet.mask is None or sheet.mask.empty:
            raise Refused(worded("There is nothing to move: mask a thing of a picture first."))
        lifted(sheet, _move(sheet, request))
        return request

    def stages(self, sheet: Sheet, request: Request, pack: Pack, seed: int) -> tuple[Stage, ...]:
        assert sheet.mask is not None
        hole = ndimage.binary_dilation(sheet.mask.read() > 255 * ANY, iterations=ROUND)
        mask = Mask.from_array(np.where(hole, 255, 0).astype(np.uint8))
        settings = replace(request.settings, figures=False, sketches=False)
        return (masked_stage(sheet, mask, request.words, request.avoid, settings, pack, seed, fill="patches"),)

    def finished(self, sheet: Sheet, request: Request, take: Take) -> Take:
        move = _move(sheet, request)
        thing = lifted(sheet, move)
        there = thing.bounds.intersect(sheet.rect)
        frame = take.frame.around(there)
        pixels = laid_down(take.laid_on(sheet, ""), thing, move).flatten(frame)[..., :3]
        region = np.zeros((frame.height, frame.width), np.uint8)
        region[take.frame.moved(-frame.x0, -frame.y0).slices] = take.region
        alpha = thing.shown[there.moved(-thing.bounds.x0, -thing.bounds.y0).slices][..., 3]
        here = there.moved(-frame.x0, -frame.y0).slices
        region[here] = np.maximum(region[here], np.where(alpha > 0, 255, 0).astype(np.uint8))
        # What is laid down is blended into the sheet already.
        return replace(take, frame=frame, pixels=np.ascontiguousarray(pixels), region=region, feather=0.0)

    def describe(self, sheet: Sheet, request: Request, stages: Sequence[Stage], changed: float) -> list[str]:
        return [worded("Moves what the mask covers and paints its old place, {0} of the sheet.", percent(changed))]


def _move(sheet: Sheet, request: Request) -> Move:
    assert sheet.mask is not None
    return Move(sheet.mask.read(), (request.value("right"), request.value("down")), request.value("times"))


KIND = Shift()
