"""Inpaint: what a mask covers painted anew, everything else staying bit for bit."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import lru_cache, partial
from typing import Any, ClassVar

import numpy as np

from ...fields import Field
from ...packs import Finder, Pack
from ...picture.fills import FILLS
from ...refused import Refused
from ...seen.find import covered
from ...values.element import phrases
from ...values.frame import Rect
from ...values.layers import Layer
from ...values.masks import Mask
from ...values.sheet import Sheet
from ...worded import worded
from ..behind import cut_by
from ..cautions import Caution, Mend, of_given_frame, of_mask, percent
from ..filled_in import FORM, filled_in, goes_on, put_in
from ..fitting import ANEW
from ..going_on import DRAWN
from ..kind import COMPUTED, Kind
from ..masked import PICTURE, masked_frame, masked_stage
from ..mends import read_off
from ..own_lines import own_lines
from ..request import Request, with_own
from ..stage import Stage
from ..whole import notes_of

#: What changes is counted in at most so many pixels a side.
FINEST = 1024


class Inpaint(Kind):
    name = "inpaint"
    title = "Inpaint"
    tip = "Repaint only what the mask covers; everything else stays bit for bit."
    begins = 0.9
    uses: ClassVar[tuple[str, ...]] = ("words", "avoid", "strength", "margin", "own_frame", *COMPUTED)
    masked = True
    older: ClassVar[Mapping[str, Any]] = {"drawn": False, "form": False}
    own: ClassVar[Mapping[str, Field]] = {
        "fill": Field(
            "choice",
            PICTURE,
            says="There is no fill called",
            choices=((PICTURE, "what is there"), *FILLS),
            label="start",
            tip="What is under the mask at first: what is there, its edge's colours, the picture mirrored, coloured noise, or patches "
            "copied from the picture. At strength 0 that is all that is done.",
            option="what is under the mask at first; at strength 0 that is all that is done",
        ),
        "keep_lines": Field(
            "flag",
            False,
            label="its lines",
            tip="The picture's own lines are told as a drawing: shapes stay as they are while colours and surfaces change.",
            option="tell the picture's own lines as a drawing: shapes stay, colours and surfaces change",
        ),
        "drawn": DRAWN,
        "form": FORM,
    }

    def settled(self, sheet: Sheet, request: Request, pack: Pack) -> Request:
        if request.nearer or request.small_nearer:
            raise Refused(worded("An inpaint has no elements that could be painted from nearer."))
        if not sheet.has_picture:
            raise Refused(worded("There is no picture on the sheet to start from: compose one, or open one."))
        if sheet.mask is None or sheet.mask.empty:
            raise Refused(worded("The mask is empty: paint where the picture may change."))
        at = masked_frame(sheet, sheet.mask, request.settings, pack.info, request.given_rect).rect
        if gone := _gone(sheet, sheet.mask, request, at, pack):
            request = replace(request, avoid=", ".join(gone), cleared=True)
        more = dict(request.more)
        if phrases(request.words) and more.get("form", True) and _has_to_go(sheet, sheet.mask, request, at, pack):
            request = replace(request, more=with_own((*request.more, ("form", False)), self.own))
        if request.restored or not more.get("drawn", True) or not goes_on(request, pack):
            return request
        return replace(request, restored=cut_by(sheet, request, sheet.mask.read(at) > 0, at, pack))

    def stages(self, sheet: Sheet, request: Request, pack: Pack, seed: int) -> tuple[Stage, ...]:
        assert sheet.mask is not None
        more, settings = dict(request.more), request.settings
        kept = more.get("keep_lines", False) and "lines" in pack.info.capabilities
        if kept:
            # What is there says what shape it has.
            settings = replace(settings, figures=False, sketches=False)
        fill = more.get("fill", PICTURE)
        stage = masked_stage(sheet, sheet.mask, request.words, request.avoid, settings, pack, seed, request.given_rect, fill)
        if kept:
            return (replace(stage, drawn=own_lines),)
        if settings.strength < ANEW or not more.get("drawn", True):
            return (stage,)
        if goes_on(request, pack):
            return (filled_in(stage, sheet, request, pack, seed),)
        return (put_in(stage, sheet, request.words, pack, more.get("form", True)),)

    def changes(self, sheet: Sheet, stages: Sequence[Stage]) -> float | None:
        stage = stages[0]
        if not stage.sketches:
            return None
        # What is put in may change less than the mask covers.
        rect = stage.frame.rect
        k = min(1.0, FINEST / max(rect.height, rect.width))
        painted = stage.strength(max(1, round(k * rect.height)), max(1, round(k * rect.width))) > 0
        return float(painted.mean()) * rect.area / sheet.rect.area

    def describe(self, sheet: Sheet, request: Request, stages: Sequence[Stage], changed: float) -> list[str]:
        at = worded("at {0:.2f}, computed {1}", request.settings.strength, stages[0].frame.told)
        return [worded("Inpaints {0} of the sheet {1}; {2} stays untouched.", percent(changed), at, percent(1 - changed))]

    def notes(self, sheet: Sheet, request: Request, stages: Sequence[Stage]) -> list[str]:
        out = [worded("Leads away from what stands there: {0}.", request.avoid)] if request.cleared else []
        behind = [f"“{sheet.element(key).name}”" for key, _ in request.restored if sheet.has_element(key)]
        out += [worded("Goes on behind it: {0}.", ", ".join(behind))] if behind else []
        out += [worded("Fits a figure of “{0}” into the mask.", request.words) for _ in stages[0].shapes]
        return out + notes_of(sheet, request, stages[0])

    def cautions(self, sheet: Sheet, request: Request, stages: Sequence[Stage], pack: Pack) -> list[Caution]:
        assert sheet.mask is not None
        out = of_mask(sheet.mask.box(), stages[0], sheet) + of_given_frame((), request)
        if not phrases(sheet.scene.words) and not phrases(request.words):
            mend = Mend(worded("Read the scene off the picture"), partial(read_off, pack=pack)) if pack.finder is not None else None
            out.append(Caution(worded("No words at all: the surroundings are continued as well as the model can."), "pass", mend))
        return out


def _has_to_go(sheet: Sheet, mask: Mask, request: Request, at: Rect, pack: Pack) -> bool:
    """Whether a mask covers things, beside which or instead of which something is put in."""
    if pack.finder is None or request.settings.strength < ANEW:
        return False
    found = _covered(sheet.width, sheet.height, sheet.layers, mask, at, pack, pack.finder)
    return not pack.finder.grounds.issuperset(found)


def _gone(sheet: Sheet, mask: Mask, request: Request, at: Rect, pack: Pack) -> tuple[str, ...]:
    """What an inpaint without words of its own takes away: the things that its mask covers. Else they would be continued too, from
    what is left of their shadows and reflections."""
    settings, said = request.settings, phrases(request.words) or phrases(request.avoid)
    if not request.clears or said or pack.finder is None or not pack.info.avoids or settings.strength < ANEW:
        return ()
    return _covered(sheet.width, sheet.height, sheet.layers, mask, at, pack, pack.finder)


@lru_cache(maxsize=1)
def _covered(width: int, height: int, layers: tuple[Layer, ...], mask: Mask, rect: Rect, pack: Pack, finder: Finder) -> tuple[str, ...]:
    """What a mask covers of the picture in a frame. Remembered: a look costs far more than the rest of a plan, and one is made anew
    at every change of words and settings. finder: the pack's, so that another one looks for itself."""
    return covered(Sheet(width, height, layers).flatten(rect), np.asarray(mask.read(rect) > 0, np.float32), pack)


KIND = Inpaint()
