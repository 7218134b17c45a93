"""Compose: the whole sheet painted from its scene and elements."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import ClassVar

from ...packs import Pack
from ...refused import Refused
from ...values.element import phrases
from ...values.outline import Outline
from ...values.sheet import Sheet
from ...worded import worded
from ..cautions import Caution, of_crowd, of_detail, of_elements, of_empty_scene, of_footing, of_given_frame, of_unplaced
from ..given_places import of_own, with_given_places
from ..grounded import Grounded
from ..kind import COMPUTED, Kind
from ..request import Request
from ..stage import Stage
from ..whole import drawn_on_whole, notes_of, outside_frame, part_of, settled_shapes, whole_stages, with_small_named


class Compose(Kind):
    name = "compose"
    title = "Compose"
    tip = "Paint the whole sheet from its scene and elements."
    uses: ClassVar[tuple[str, ...]] = ("strength", "small_nearer", "own_frame", *COMPUTED, "grounds", "places")
    hears_elements = True

    def settled(self, sheet: Sheet, request: Request, pack: Pack) -> Request:
        if not any((*phrases(sheet.scene.words), *(p for e in sheet.elements for p in phrases(e.words)))):
            raise Refused(worded("There are no words yet: say what the scene is, or give an element words."))
        named = with_small_named(sheet, request, pack)
        # Which things without an element are small differs from seed to seed.
        return replace(named, small_nearer=request.small_nearer and _laid_out(sheet, request, pack, request.settings.seed) is not sheet)

    def stages(self, sheet: Sheet, request: Request, pack: Pack, seed: int) -> tuple[Stage, ...]:
        laid_out = _laid_out(sheet, request, pack, seed)
        return whole_stages(laid_out, with_small_named(laid_out, request, pack), pack, seed)

    def drawn(self, sheet: Sheet, request: Request, pack: Pack, seed: int) -> tuple[Mapping[int, Outline], Grounded]:
        laid_out = _laid_out(sheet, request, pack, seed)
        shapes, behind = drawn_on_whole(laid_out, request, pack, seed)
        return of_own(sheet, laid_out, request.settings, shapes, behind)

    def describe(self, sheet: Sheet, request: Request, stages: Sequence[Stage], changed: float) -> list[str]:
        gone, method = outside_frame(sheet, request), stages[0].method
        placed = sum(1 for e in sheet.elements if phrases(e.words) and not e.hold and e not in gone)
        out = [
            worded(
                "Composes {0} with {1} element{2}, computed {3}.",
                part_of(request),
                placed,
                "" if placed == 1 else "s",
                stages[0].frame.told,
            )
        ]
        if method == "text" and placed:
            out.append(worded("Outlines are ignored: all words go into one prompt."))
        elif method == "blend" and placed:
            asked = "" if request.settings.method == "blend" else worded(" (this pack cannot steer)")
            out.append(worded("One prediction for the scene and one for each element, blended by their outlines{0}.", asked))
        return out

    def notes(self, sheet: Sheet, request: Request, stages: Sequence[Stage]) -> list[str]:
        return notes_of(sheet, request, stages[0])

    def cautions(self, sheet: Sheet, request: Request, stages: Sequence[Stage], pack: Pack) -> list[Caution]:
        out = of_elements(sheet, stages[0], pack) + of_given_frame(outside_frame(sheet, request), request)
        if pack.places is not None and request.settings.method == "steer":
            laid_out = _laid_out(sheet, request, pack, stages[0].seed)
            out += of_unplaced(laid_out, pack.places, pack.info.elements) + of_footing(laid_out, pack)
        out += of_crowd(request, len(stages[0].sketches)) + of_empty_scene(sheet)
        return out + of_detail(request, settled_shapes(sheet, stages[0].strongest, stages[0].shapes))


def _laid_out(sheet: Sheet, request: Request, pack: Pack, seed: int) -> Sheet:
    return with_given_places(sheet, request.settings, pack, seed, request.given_rect is not None)


KIND = Compose()
