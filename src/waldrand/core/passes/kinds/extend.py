"""Extend: the picture going on where the sheet is empty, everything but a strip beside it staying bit for bit."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import partial
from typing import Any, ClassVar

from ...fields import Field
from ...packs import Pack
from ...picture.fills import FILLS
from ...refused import Refused
from ...values.element import phrases
from ...values.frame import Rect
from ...values.outline import Outline
from ...values.sheet import Sheet
from ...worded import worded
from ..cautions import Caution, Mend, percent
from ..cut_things import CutThing, cut_things
from ..extended import drawn_there, empty_in, empty_sides, extended_stage
from ..going_on import DRAWN
from ..grounded import Grounded
from ..growing import SIDES, Side
from ..kind import COMPUTED, Kind
from ..mends import read_off
from ..request import Request
from ..stage import Stage
from ..whole import notes_of

#: Sheet pixels that an overlap may have at the most.
MOST_OVERLAP = 2000


class Extend(Kind):
    name = "extend"
    title = "Extend"
    tip = "Let the picture go on where the sheet is empty; only a strip of the old one beside it is painted over."
    begins = 0.85
    uses: ClassVar[tuple[str, ...]] = (
        "words",
        "avoid",
        "strength",
        "margin",
        "own_frame",
        *(n for n in COMPUTED if n not in ("figures", "sketches")),
        "places",
    )
    fills_empty = True
    older: ClassVar[Mapping[str, Any]] = {"drawn": False}
    own: ClassVar[Mapping[str, Field]] = {
        "overlap": Field(
            "whole",
            48,
            0,
            MOST_OVERLAP,
            "An overlap goes",
            label="overlap",
            tip="Pixels of the old picture beside the new part that are painted over at falling strength, so that the join is no line. "
            "0: none.",
            option="pixels of the old picture that are painted over at falling strength; 0: none",
            step=8,
        ),
        "fill": Field(
            "choice",
            "smooth",
            says="There is no fill called",
            choices=FILLS,
            label="start",
            tip="What the new part starts from: the colours of the edge, the picture mirrored, coloured noise, or patches copied from the "
            "picture.",
            option="what the new part starts from",
        ),
        "sides": Field(
            "order",
            (),
            says="The sides to extend are",
            choices=tuple((side, side) for side in SIDES),
            label="sides",
            tip="One side of the sheet after another, in this order, each kept before the next: surer than all at once, since the later "
            "ones see the earlier.",
        ),
        "drawn": DRAWN,
        "part": Field(
            "box", None, says="The part has a", optional=True, label="part", tip="The part of the sheet that is extended; none: all of it."
        ),
    }

    def begun(self) -> Mapping[str, Any]:
        return {"sides": SIDES, "part": None}

    def settled(self, sheet: Sheet, request: Request, pack: Pack) -> Request:
        if request.nearer or request.small_nearer:
            raise Refused(worded("Extending has no elements that could be painted from nearer."))
        if not sheet.has_picture:
            raise Refused(worded("There is no picture on the sheet to start from: compose one, or open one."))
        part = request.value("part")
        if part is not None and not empty_in(sheet, Rect(*part)).any() and empty_in(sheet, None).any():
            # That side is done: what is left comes next.
            request, part = _with(request, part=None), None
        left = _in_order(sheet, request) if part is None else []
        return _with(request, part=_edges(left[0][1])) if len(left) > 1 else request

    def stages(self, sheet: Sheet, request: Request, pack: Pack, seed: int) -> tuple[Stage, ...]:
        part = request.value("part")
        at = None if part is None else Rect(*part)
        return (extended_stage(sheet, request, pack, seed, request.value("overlap"), request.value("fill"), at, request.value("drawn")),)

    def describe(self, sheet: Sheet, request: Request, stages: Sequence[Stage], changed: float) -> list[str]:
        part = request.value("part")
        new = float(empty_in(sheet, None if part is None else Rect(*part)).mean())
        at = worded("at {0:.2f}, computed {1}", request.settings.strength, stages[0].frame.told)
        out = [worded("Extends the picture by {0} of the sheet {1}.", percent(new), at)]
        if len(left := _in_order(sheet, request)) > 1 and part == _edges(left[0][1]):
            names = [worded(side) for side, _ in left]
            out.append(worded("The {0} side now; when a take of it is kept, {1}.", names[0], worded(", then ").join(names[1:])))
        if overlap := request.value("overlap"):
            out.append(worded("A strip of {0} pixels beside it is painted over, less and less; the rest stays untouched.", overlap))
        return out

    def drawn(self, sheet: Sheet, request: Request, pack: Pack, seed: int) -> tuple[Mapping[int, Outline], Grounded]:
        try:
            request = self.settled(sheet, request, pack)
        except Refused:
            return {}, Grounded()
        if not request.value("drawn"):
            return {}, Grounded()
        part = request.value("part")
        return drawn_there(sheet, request, pack, seed, None if part is None else Rect(*part))

    def notes(self, sheet: Sheet, request: Request, stages: Sequence[Stage]) -> list[str]:
        return notes_of(sheet, request, stages[0])

    def cautions(self, sheet: Sheet, request: Request, stages: Sequence[Stage], pack: Pack) -> list[Caution]:
        out, frame = [], stages[0].frame
        if frame.scale < 0.6:
            text = worded("The new part is large: it is computed at {0:.2g} times the sheet's size and enlarged, ", frame.scale)
            out.append(Caution(text + worded("so fine detail will be missing. Extend in smaller steps.")))
        if request.value("overlap") == 0:
            mend = Mend(worded("Overlap by 48"), partial(_overlapping, overlap=48))
            out.append(Caution(worded("Without an overlap the join may be seen as a line."), None, mend))
        out += [
            Caution(
                worded("The old edge cuts “{0}”: it may go on as something else.", thing.words),
                "pass",
                Mend(worded("Finish it"), partial(_taken_in, thing=thing)),
            )
            for thing in cut_things(sheet, pack)
        ]
        if request.value("part") is None and len(empty_sides(sheet)) > 1:
            text = worded("Several sides at once: one after the other is surer, since the later ones see the earlier.")
            out.append(Caution(text, None, Mend(worded("One after the other"), _one_by_one)))
        if not phrases(sheet.scene.words) and not phrases(request.words):
            read = Mend(worded("Read the scene off the picture"), partial(read_off, pack=pack)) if pack.finder is not None else None
            out.append(Caution(worded("No words at all: the picture goes on as well as the model can."), "pass", read))
        return out


def _with(request: Request, **values: Any) -> Request:
    return replace(request, more=tuple({**dict(request.more), **values}.items()))


def _overlapping(sheet: Sheet, request: Request, overlap: int) -> tuple[Sheet, Request]:
    return sheet, _with(request, overlap=overlap)


def _one_by_one(sheet: Sheet, request: Request) -> tuple[Sheet, Request]:
    return sheet, _with(request, sides=SIDES)


def _in_order(sheet: Sheet, request: Request) -> list[tuple[Side, Rect]]:
    """The sides that are left where they are painted one after another, in the order that is asked for."""
    order = request.value("sides")
    return sorted((s for s in empty_sides(sheet) if s[0] in order), key=lambda side: order.index(side[0]))


def _edges(at: Rect) -> tuple[int, int, int, int]:
    return at.x0, at.y0, at.x1, at.y1


def _taken_in(sheet: Sheet, request: Request, thing: CutThing) -> tuple[Sheet, Request]:
    return sheet.with_element(thing.element(sheet.next_key())), request


KIND = Extend()
