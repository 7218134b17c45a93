"""Edit: what a sentence wishes, as the passes that it comes to, one after another."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import ClassVar

import numpy as np

from ...fields import Field
from ...packs import Pack
from ...refused import Refused
from ...told.sentence import ADD, WHOLE, Sentence, read_sentence
from ...values.element import Element
from ...values.frame import Rect
from ...values.outline import Outline
from ...values.sheet import Sheet
from ...worded import worded
from ..cautions import Caution, percent
from ..kind import Kind
from ..listed import Listed
from ..proposals import Proposed, masked, proposals
from ..remembered import Remembered, picture_key
from ..request import Request, with_own
from ..stage import Stage

#: Looks through a picture cost far more than the rest of a plan.
_PROPOSED = Remembered[tuple[Proposed, ...]](6)


class Edit(Kind):
    name = "edit"
    title = "Edit"
    tip = "Say what shall become of the picture, like “turn the owl into a deer, and make it night”: nothing runs before Run."
    finds = True
    uses: ClassVar[tuple[str, ...]] = ("seed", "steps", "guidance", "sampler", "spacing")
    own: ClassVar[Mapping[str, Field]] = {
        "sentence": Field(
            "words",
            "",
            label="sentence",
            tip="What shall be done: add two pines left of the cottage; take the fence away; make the boat red; turn the owl into a deer; "
            "move the moon to the right; make the fox bigger; make it night.",
        ),
        "left_out": Field(
            "numbers",
            (),
            label="found",
            tip="What is proposed. Without its tick a step is left out.",
            option="numbers of steps that are left out, as --plan tells them",
        ),
    }

    def __init__(self) -> None:
        self._kinds: Mapping[str, Kind] = {}

    def meet(self, kinds: Mapping[str, Kind]) -> None:
        self._kinds = kinds

    def settled(self, sheet: Sheet, request: Request, pack: Pack) -> Request:
        if not sheet.has_picture and any(wish.verb not in (ADD, WHOLE) for wish in _read(request, pack).wishes):
            raise Refused(worded("There is no picture on the sheet yet: things can be added to it, and nothing else be changed."))
        return request

    def looks(self, sheet: Sheet, request: Request, pack: Pack) -> Callable[[], object] | None:
        if not sheet.has_picture or _PROPOSED.get(_key(sheet, request, pack)) is not None:
            return None
        _read(request, pack)
        return lambda: proposed(sheet, request, pack)

    def found(self, sheet: Sheet, request: Request, pack: Pack) -> Sequence[Listed]:
        gone, out = request.value("left_out"), []
        for i, one in enumerate(proposed(sheet, request, pack), 1):
            tip = worded("{0} ({1} at {2:.2f})", one.told, worded(one.kind), one.strength)
            out.append(Listed(i, f"{i} {one.short}", tip, i not in gone, _outline(one)))
        return out

    def apart(self, sheet: Sheet, request: Request, pack: Pack) -> tuple[tuple[Sheet, Request], ...]:
        gone = request.value("left_out")
        used = [one for i, one in enumerate(proposed(sheet, request, pack), 1) if i not in gone]
        if not used:
            raise Refused(worded("All that is proposed is left out: tick one."))
        if not sheet.has_picture:
            return (_composed(sheet, used, request),)
        out, scene = [], sheet.scene
        for one in used:
            # What became of the whole holds for what comes after it.
            made = masked(replace(sheet, scene=scene), one)
            scene = made.scene
            out.append((made, pass_of(one, request)))
        return tuple(out)

    def stages(self, sheet: Sheet, request: Request, pack: Pack, seed: int) -> tuple[Stage, ...]:
        out: list[Stage] = []
        for one, asked in self.apart(sheet, request, pack):
            kind = self._kinds[asked.kind]
            asked = replace(asked, more=with_own(asked.more, kind.own))
            out += kind.stages(one, kind.settled(one, asked, pack), pack, seed)
        return tuple(out)

    def changes(self, sheet: Sheet, stages: Sequence[Stage]) -> float:
        return min(1.0, sum(s.frame.rect.area * float((s.strength(128, 128) > 0).mean()) for s in stages) / sheet.rect.area)

    def describe(self, sheet: Sheet, request: Request, stages: Sequence[Stage], changed: float) -> list[str]:
        n = len(stages)
        steps = worded("{0} step{1}", n, "" if n == 1 else "s")
        if not sheet.has_picture:
            return [worded("Composes the sheet with what is added, {0}.", stages[0].frame.told)]
        return [worded("Edits in {0}, {1} of the sheet; what is not named stays.", steps, percent(changed))]

    def cautions(self, sheet: Sheet, request: Request, stages: Sequence[Stage], pack: Pack) -> list[Caution]:
        read = read_sentence(request.value("sentence"), pack)
        return [Caution(worded("“{0}” was not understood. {1}", one.said, one.why)) for one in read.unclear]


def _read(request: Request, pack: Pack) -> Sentence:
    """Raises Refused when nothing of the sentence is understood."""
    text = request.value("sentence")
    if not text.strip():
        raise Refused(worded("Say what shall be done, like: turn the owl into a deer; make it night."))
    read = read_sentence(text, pack)
    if not read.wishes:
        raise Refused(" ".join(worded("“{0}” was not understood. {1}", one.said, one.why) for one in read.unclear))
    return read


def _key(sheet: Sheet, request: Request, pack: Pack) -> tuple[object, ...]:
    return (picture_key(sheet, pack), request.value("sentence"), sheet.scene.words, request.settings.seed)


def proposed(sheet: Sheet, request: Request, pack: Pack) -> tuple[Proposed, ...]:
    """What a sentence comes to on a sheet, in its order. Remembered for the last few.

    Raises:
        Refused: nothing of it is understood, or what it speaks of is not there.
    """
    key = _key(sheet, request, pack)
    known = _PROPOSED.get(key)
    return _PROPOSED.put(key, proposals(sheet, _read(request, pack).wishes, pack, request.settings.seed)) if known is None else known


def pass_of(one: Proposed, request: Request) -> Request:
    """The pass that was proposed, with the steps and the seed that an edit asks for."""
    return Request(one.kind, replace(request.settings, strength=one.strength), one.words, more=one.more)


def _composed(sheet: Sheet, used: Sequence[Proposed], request: Request) -> tuple[Sheet, Request]:
    """On a sheet without a picture: what is added as elements, and the pass that composes them."""
    for one in used:
        if one.words:
            b = one.box
            box = Outline("box", (float(b.x0), float(b.y0), float(b.x1), float(b.y1)))
            name = one.words if all(e.name != one.words for e in sheet.elements) else sheet.free_name(one.words)
            sheet = sheet.with_element(Element(sheet.next_key(), name, box, one.words))
        elif one.words_of_scene is not None:
            sheet = replace(sheet, scene=replace(sheet.scene, words=one.words_of_scene, emphasis=()))
    return replace(sheet, mask=None), Request("compose", replace(request.settings, strength=1.0))


def _outline(one: Proposed) -> Outline:
    b = one.box
    if one.mask is None:
        return Outline("box", (float(b.x0), float(b.y0), float(b.x1), float(b.y1)))
    rows, columns = np.flatnonzero(one.mask.any(1)), np.flatnonzero(one.mask.any(0))
    r = Rect(int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1)
    return Outline("mask", (float(r.x0), float(r.y0), float(r.x1), float(r.y1)), mask=one.mask[r.slices])


KIND = Edit()
