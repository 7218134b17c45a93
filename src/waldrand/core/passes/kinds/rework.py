"""Rework: the whole picture painted again at a strength, so that its parts belong together."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import partial
from typing import Any, ClassVar

from ...fields import Field
from ...packs import Pack
from ...refused import Refused
from ...values.outline import Outline
from ...values.sheet import Sheet
from ...worded import worded
from ..cautions import Caution, Mend, of_detail, of_elements, of_given_frame, percent
from ..fitting import ANEW
from ..grounded import Grounded
from ..kind import COMPUTED, Kind
from ..mends import strength
from ..own_lines import OWN_LINES, lines_kept
from ..request import Request
from ..seam_cautions import of_seams
from ..stage import Hold, Stage
from ..whole import drawn_on_whole, notes_of, outside_frame, part_of, settled_shapes, whole_stages, with_small_named


class Rework(Kind):
    name = "rework"
    title = "Rework"
    tip = "Repaint the whole picture at a strength, so that its parts belong together."
    begins = 0.35
    uses: ClassVar[tuple[str, ...]] = ("words", "avoid", "strength", "small_nearer", "own_frame", *COMPUTED, "grounds")
    hears_elements = True
    older: ClassVar[Mapping[str, Any]] = {"own_lines": False}
    own: ClassVar[Mapping[str, Field]] = {
        "own_lines": replace(
            OWN_LINES,
            tip="The picture's own lines are told as a drawing, wherever the strength is below 0.8: shapes stay as they are while colours, "
            "light and surfaces change. Switch it off where shapes are to change too.",
            option="tell the picture's own lines as a drawing where the strength is below 0.8: shapes stay as they are",
        ),
        "own_noise": Field(
            "flag",
            False,
            label="own noise",
            tip="Begin from the noise that this very picture comes from, found by running the model backwards: what the words do not "
            "change stays nearly as it is, even at strength 1. Takes longer.",
            option="begin from the noise that this very picture comes from: what the words do not change stays nearly as it is",
        ),
        "hold": Field(
            "number",
            0.3,
            0,
            1,
            "A hold goes",
            label="hold",
            tip="With its own noise: how strongly the picture is held on to while it is painted.",
            option="with its own noise: how strongly the picture is held on to, 0 to 1",
            step=0.05,
            decimals=2,
        ),
        "hold_course": Field(
            "choice",
            "falling",
            says="There is no course of a hold called",
            choices=(("falling", "falling"), ("even", "even"), ("rising", "rising")),
            label="course",
            tip="Falling holds the composition, rising the fine detail, even both.",
            option="falling holds the composition, rising the fine detail, even both",
        ),
        "hold_from": Field(
            "number",
            0.0,
            0,
            1,
            "A hold begins",
            label="hold from",
            tip="The share of the steps at which the hold begins, 0 to 1.",
            option="the share of the steps at which the hold begins, 0 to 1",
            step=0.05,
            decimals=2,
        ),
        "hold_to": Field(
            "number",
            1.0,
            0,
            1,
            "A hold ends",
            label="hold to",
            tip="The share of the steps at which the hold ends, 0 to 1.",
            option="the share of the steps at which the hold ends, 0 to 1",
            step=0.05,
            decimals=2,
        ),
    }

    def settled(self, sheet: Sheet, request: Request, pack: Pack) -> Request:
        if not sheet.has_picture:
            raise Refused(worded("There is no picture on the sheet to start from: compose one, or open one."))
        if request.value("own_noise") and request.value("hold_from") >= request.value("hold_to"):
            raise Refused(worded("The hold ends before it begins: let it go from 0 to 1, or to where it shall end."))
        return with_small_named(sheet, request, pack)

    def stages(self, sheet: Sheet, request: Request, pack: Pack, seed: int) -> tuple[Stage, ...]:
        stages = whole_stages(sheet, request, pack, seed)
        if request.value("own_lines") and _below_anew(sheet, request):
            stages = tuple(lines_kept(stage, pack.info) for stage in stages)
        first, *nearer = stages
        hold = None
        if request.value("own_noise"):
            hold = Hold(*(request.value(name) for name in ("hold", "hold_course", "hold_from", "hold_to")))
        return (replace(first, hold=hold), *nearer)

    def drawn(self, sheet: Sheet, request: Request, pack: Pack, seed: int) -> tuple[Mapping[int, Outline], Grounded]:
        return drawn_on_whole(sheet, request, pack, seed)

    def describe(self, sheet: Sheet, request: Request, stages: Sequence[Stage], changed: float) -> list[str]:
        at = worded("at {0:.2f}, computed {1}", request.settings.strength, stages[0].frame.told)
        if request.own_frame is not None:
            return [worded("Reworks {0}, {1} of the sheet, {2}.", part_of(request), percent(changed), at)]
        return [worded("Reworks {0} of the sheet {1}.", percent(changed), at)]

    def notes(self, sheet: Sheet, request: Request, stages: Sequence[Stage]) -> list[str]:
        out = notes_of(sheet, request, stages[0])
        if stages[0].drawn is not None:
            out.append(worded("Keeps to the picture's own lines."))
        if request.value("own_noise"):
            amount, course = request.value("hold"), worded(request.value("hold_course"))
            out.append(worded("Begins from the picture's own noise and holds on to it at {0:.2g}, {1}.", amount, course))
        return out

    def cautions(self, sheet: Sheet, request: Request, stages: Sequence[Stage], pack: Pack) -> list[Caution]:
        strongest = stages[0].strongest
        out = of_elements(sheet, stages[0], pack) + of_given_frame(outside_frame(sheet, request), request)
        out += of_detail(request, settled_shapes(sheet, strongest, stages[0].shapes))
        out += of_seams(sheet)
        if strongest > 0.85:
            mend = Mend(worded("Use 0.35"), partial(strength, value=0.35))
            out.append(Caution(worded("At strength {0:.2f} hardly anything of the picture stays.", strongest), None, mend))
        return out


def _below_anew(sheet: Sheet, request: Request) -> bool:
    """Whether any of it keeps its shape."""
    own = [e.strength for e in sheet.elements if e.strength is not None and not e.hold]
    return min([request.settings.strength, *own]) < ANEW


KIND = Rework()
