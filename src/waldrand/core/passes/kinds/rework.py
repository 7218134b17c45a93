"""Rework: the whole picture painted again at a strength, so that its parts belong together."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import ClassVar

from ...packs import Pack
from ...refused import Refused
from ...values.sheet import Sheet
from ...worded import worded
from ..cautions import Caution, Mend, of_detail, of_elements, of_given_frame, percent
from ..kind import COMPUTED, Kind
from ..mends import strength
from ..request import Request
from ..seam_cautions import of_seams
from ..stage import Stage
from ..whole import notes_of, outside_frame, part_of, settled_shapes, whole_stages, with_small_named


class Rework(Kind):
    name = "rework"
    title = "Rework"
    tip = "Repaint the whole picture at a strength, so that its parts belong together."
    begins = 0.35
    uses: ClassVar[tuple[str, ...]] = ("words", "avoid", "strength", "small_nearer", "own_frame", *COMPUTED)
    hears_elements = True

    def settled(self, sheet: Sheet, request: Request, pack: Pack) -> Request:
        if not sheet.has_picture:
            raise Refused(worded("There is no picture on the sheet to start from: compose one, or open one."))
        return with_small_named(sheet, request, pack)

    def stages(self, sheet: Sheet, request: Request, pack: Pack, seed: int) -> tuple[Stage, ...]:
        return whole_stages(sheet, request, pack, seed)

    def describe(self, sheet: Sheet, request: Request, stages: Sequence[Stage], changed: float) -> list[str]:
        at = worded("at {0:.2f}, computed {1}", request.settings.strength, stages[0].frame.told)
        if request.own_frame is not None:
            return [worded("Reworks {0}, {1} of the sheet, {2}.", part_of(request), percent(changed), at)]
        return [worded("Reworks {0} of the sheet {1}.", percent(changed), at)]

    def notes(self, sheet: Sheet, request: Request, stages: Sequence[Stage]) -> list[str]:
        return notes_of(sheet, request, stages[0])

    def cautions(self, sheet: Sheet, request: Request, stages: Sequence[Stage], pack: Pack) -> list[Caution]:
        strongest = stages[0].strongest
        out = of_elements(sheet, stages[0], pack) + of_given_frame(outside_frame(sheet, request), request)
        out += of_detail(request, settled_shapes(sheet, strongest, stages[0].shapes))
        out += of_seams(sheet)
        if strongest > 0.85:
            mend = Mend(worded("Use 0.35"), partial(strength, value=0.35))
            out.append(Caution(worded("At strength {0:.2f} hardly anything of the picture stays.", strongest), None, mend))
        return out


KIND = Rework()
