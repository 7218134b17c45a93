"""Touch up: parts that are found in a picture, or what a mask covers, painted again from near by."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from functools import partial
from typing import ClassVar

from ...fields import Field
from ...noise.noise import LARGEST_SEED
from ...packs import Pack
from ...picture.resample import resize_mask
from ...refused import Refused
from ...told.guides import Sketch
from ...told.said import EVERYWHERE, IN_MASK, InElement, Said, Where, said_of_elements, said_of_scene
from ...told.voices import Area, Cells, element_masks
from ...values.as_json import element_to_json
from ...values.element import phrases
from ...values.frame import finer_frame
from ...values.shaping import rounded
from ...values.sheet import Sheet
from ...worded import worded
from ..cautions import Caution, Mend, percent
from ..fitting import fitted_figures, sketches_of
from ..kind import COMPUTED, Kind
from ..listed import Listed
from ..masked import masked_stage
from ..mends import strength
from ..own_lines import OWN_LINES, own_lines
from ..request import Request
from ..stage import Stage
from ..touching import ALL_BUT, EACH, TOGETHER, apart, asked_parts, chosen, found, listed, looked_through


class TouchUp(Kind):
    name = "touch-up"
    title = "Touch up"
    tip = "Find parts of the picture, faces, hands, windows or any thing, and paint each again from near by; the rest stays."
    begins = 0.45
    uses: ClassVar[tuple[str, ...]] = (
        "words",
        "avoid",
        "strength",
        "margin",
        *(n for n in COMPUTED if n not in ("figures", "ink", "weather")),
    )
    masked = True
    finds = True
    own: ClassVar[Mapping[str, Field]] = {
        "parts": Field(
            "words",
            "face, hands",
            label="parts",
            tip="What is looked for: parts and things with commas between. Words for one come behind an equals sign: "
            "face = smiling, red hair; hands.",
            option='what is looked for, like "face, hands"; words for one behind an equals sign: "face = smiling; hands"',
        ),
        "least_sure": Field(
            "number",
            0.4,
            0,
            1,
            "How sure the finder has to be goes",
            label="sure from",
            tip="What the finder is less sure of is left alone, 0 to 1.",
            option="what the finder is less sure of is left alone, 0 to 1",
            step=0.05,
            decimals=2,
        ),
        "most": Field("whole", 8, 1, 99, "At most so many parts:", label="most", tip="At most so many parts.", option="at most so many"),
        "first": Field(
            "choice",
            "largest",
            says="There is no order of parts called",
            choices=(("largest", "largest first"), ("surest", "surest first"), ("nearest", "nearest first")),
            label="order",
            tip="Which come first, and are painted where there are more than may be.",
            option="which come first, where there are more",
        ),
        "least_size": Field(
            "number",
            0.0002,
            0,
            1,
            "The least size of a part goes",
            label="size from",
            tip="Smaller parts are left alone: shares of the sheet, 0 to 1.",
            option="smaller ones are left alone: share of the sheet",
            step=0.001,
            decimals=4,
        ),
        "most_size": Field(
            "number",
            0.5,
            0,
            1,
            "The greatest size of a part goes",
            label="size to",
            tip="Larger parts are left alone: shares of the sheet, 0 to 1.",
            option="larger ones are left alone: share of the sheet",
            step=0.05,
            decimals=3,
        ),
        "grow": Field(
            "number",
            8,
            -2000,
            2000,
            "A part is grown",
            label="grow",
            tip="How far beyond what was seen of a part is painted, in pixels; below 0 less than it.",
            option="painted so many pixels beyond what was seen, below 0 less",
        ),
        "right": Field(
            "number", 0, -10_000, 10_000, "A part is moved", label="right", tip="Moves what is painted to the right, in pixels."
        ),
        "down": Field("number", 0, -10_000, 10_000, "A part is moved", label="down", tip="Moves what is painted down, in pixels."),
        "feather": Field(
            "number",
            8,
            0,
            2000,
            "The feather of a part goes",
            label="feather",
            tip="Over how many pixels, inside what is painted, the edge fades.",
            option="width of the edge in pixels, inside what is painted",
        ),
        "how": Field(
            "choice",
            EACH,
            says="There is no way to touch up called",
            choices=((EACH, "each by itself"), (TOGETHER, "all in one"), (ALL_BUT, "all but them")),
            label="how",
            tip="Each part in a frame of its own, all of them in one, or all of the picture but them.",
        ),
        "finer": Field(
            "number",
            0,
            0,
            8,
            "How finely parts are computed goes",
            label="scale",
            tip="Computed so many times as finely as the sheet's own pixels; 0: as finely as the model does best.",
            option="computed so many times as finely as the picture's own pixels; 0: as the model does best",
            step=0.5,
            decimals=1,
        ),
        "left_out": Field(
            "numbers",
            (),
            label="found",
            tip="What was found. Without its tick a part is left alone.",
            option="numbers of parts that are left alone, as --list tells them",
        ),
        "own_lines": OWN_LINES,
        # Of the pass whose figures stand in the picture, and of which elements: found by itself, and kept in recipes.
        "sketched_by": Field("whole", -1, -1, LARGEST_SEED, "A seed goes"),
        "sketched": Field("numbers", ()),
    }

    def settled(self, sheet: Sheet, request: Request, pack: Pack) -> Request:
        if not sheet.has_picture:
            raise Refused(worded("There is no picture on the sheet to touch up: compose one, or open one."))
        if request.value("sketched_by") >= 0:
            return request
        seed, keys = _sketched(sheet)
        return replace(request, more=tuple((dict(request.more) | {"sketched_by": seed, "sketched": keys}).items()))

    def looks(self, sheet: Sheet, request: Request, pack: Pack) -> Callable[[], object] | None:
        text = request.value("parts")
        if not sheet.has_picture or (sheet.mask is not None and not sheet.mask.empty) or looked_through(sheet, text, pack):
            return None
        return lambda: [found(sheet, one.name, pack) for one in asked_parts(text)]

    def found(self, sheet: Sheet, request: Request, pack: Pack) -> Sequence[Listed]:
        if not sheet.has_picture or (sheet.mask is not None and not sheet.mask.empty):
            return []
        return [listed(one) for one in chosen(sheet, request, pack)]

    def apart(self, sheet: Sheet, request: Request, pack: Pack) -> tuple[tuple[Sheet, Request], ...]:
        return apart(sheet, request, pack)

    def stages(self, sheet: Sheet, request: Request, pack: Pack, seed: int) -> tuple[Stage, ...]:
        passes = apart(sheet, request, pack) or ((sheet, request),)
        return tuple(_stage(one, asked, pack, seed) for one, asked in passes)

    def changes(self, sheet: Sheet, stages: Sequence[Stage]) -> float:
        painted = (s.frame.rect.area * float((s.strength(128, 128) > 0).mean()) for s in stages)
        return min(1.0, sum(painted) / sheet.rect.area)

    def describe(self, sheet: Sheet, request: Request, stages: Sequence[Stage], changed: float) -> list[str]:
        at = worded("at {0:.2f}", request.settings.strength)
        n = len(stages)
        if sheet.mask is not None and not sheet.mask.empty:
            return [
                worded("Touches up what the mask covers, {0} of the sheet, {1}, computed {2}.", percent(changed), at, stages[0].frame.told)
            ]
        how = request.value("how")
        parts = worded("{0} part{1}", n, "" if n == 1 else "s") if how == EACH else worded("all parts at once")
        if how == ALL_BUT:
            return [worded("Touches up all but what was found, {0} of the sheet, {1}.", percent(changed), at)]
        return [worded("Touches up {0}, {1} of the sheet, {2}; the rest stays bit for bit.", parts, percent(changed), at)]

    def cautions(self, sheet: Sheet, request: Request, stages: Sequence[Stage], pack: Pack) -> list[Caution]:
        out: list[Caution] = []
        if request.settings.strength > 0.75:
            text = worded("At strength {0:.2f} parts become others: an eye may come where none was.", request.settings.strength)
            out.append(Caution(text, None, Mend(worded("Use 0.45"), partial(strength, value=0.45))))
        if (sheet.mask is None or sheet.mask.empty) and pack.finder is not None:
            unsure = [one for one in chosen(sheet, request, pack) if one.used and one.part.sureness < 0.5]
            if unsure:
                text = worded("The finder is not sure of {0} of them: look at the list.", len(unsure))
                out.append(Caution(text))
        return out


def _stage(sheet: Sheet, request: Request, pack: Pack, seed: int) -> Stage:
    """What the mask covers, told with what stands there: the elements that the frame shows, where they are."""
    settings = replace(request.settings, figures=False, sketches=False)
    assert sheet.mask is not None
    base = masked_stage(sheet, sheet.mask, "", request.avoid, settings, pack, seed, request.given_rect)
    frame = finer_frame(base.frame, request.value("finer"), pack.info.limits) if request.value("finer") else base.frame
    there = tuple(e for e in sheet.elements if not e.hold and rounded(e.outline.box).intersect(frame.rect).area)
    told, away = said_of_scene(sheet.scene)
    of_elements = said_of_elements(replace(sheet, elements=there))
    told += [*of_elements[0], *(Said("pass", "pass", p, 1.0, IN_MASK) for p in phrases(request.words))]
    away += [*of_elements[1], *(Said("mask", "pass", p, 1.0, IN_MASK) for p in phrases(request.avoid))]

    def areas(cells: Cells) -> dict[Where, Area]:
        out: dict[Where, Area] = {EVERYWHERE: Area(None, sheet.scene.weight), IN_MASK: base.areas(cells)[IN_MASK]}
        for e, m in zip(there, element_masks(there, frame), strict=True):
            out[InElement(e.key)] = Area(resize_mask(m, *cells), e.weight)
        return out

    sketches: tuple[Sketch, ...] = ()
    if request.value("sketched_by") >= 0 and request.settings.sketches:
        # What was drawn into the picture is drawn from near by: eyes come to lie where they were drawn.
        drawn = tuple(e for e in there if e.key in request.value("sketched"))
        anew, shown = replace(request.settings, strength=1.0, figures=True), replace(sheet, elements=drawn)
        sketches = sketches_of(shown, anew, fitted_figures(shown, anew, pack, request.value("sketched_by")))
    return replace(
        base,
        frame=frame,
        sketches=sketches,
        # Where nobody drew it, what is there is held on to by its own lines: from near by the model knows little of it.
        drawn=own_lines if not sketches and request.value("own_lines") and "lines" in pack.info.capabilities else None,
        told=tuple(told),
        away=tuple(away),
        areas=areas,
        guided=pack.info.guided if settings.guidance != 1 else None,
        feather=request.value("feather"),
    )


def _sketched(sheet: Sheet) -> tuple[int, tuple[int, ...]]:
    """The seed of the pass that painted the whole from its elements, with their figures drawn, and the keys of those that are as they
    were; -1 where none did."""
    for layer in reversed(sheet.layers):
        recipe = layer.recipe
        if layer.visible and recipe is not None and layer.bounds == sheet.rect:
            settings = recipe.get("settings", {})
            if recipe.get("kind") != "compose" or not (settings.get("figures") and settings.get("sketches")):
                break
            before = {e["key"]: e for e in recipe["elements"]}
            return int(settings["seed"]), tuple(e.key for e in sheet.elements if before.get(e.key) == element_to_json(e))
    return -1, ()


KIND = TouchUp()
