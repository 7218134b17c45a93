"""What looks wrong about a pass before it costs time, and how each of it is put right."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np

from ..packs import Pack, Places
from ..told.footing import footless
from ..told.placing import things_to_place
from ..told.said import About, InElement, Said, together
from ..values.element import Element, phrases
from ..values.frame import Rect
from ..values.outline import Outline, area, sketched
from ..values.sheet import Sheet
from ..worded import worded
from . import mends
from .request import Request
from .stage import Stage
from .wording import Change, reworded

#: A figure that fills less of its outline's box is worth a word.
LEAST_FILLED = 0.55
#: Smaller a side than so many cells an element is more than the model can draw well.
LEAST_CELLS = 3
#: From so many drawn things on, small ones get lost (docs/model.md).
CROWD = 5
#: A side of what elements are drawn at to be compared.
DRAWN = 96
#: Hidden to more than this an element is as good as not there; heavier than so many times the scene its shape shows.
HIDDEN, HEAVY = 0.7, 2.5


@dataclass(frozen=True, eq=False)
class Mend:
    """A way to put right what a caution is about. label: what a button for it says."""

    label: str
    apply: Change


@dataclass(frozen=True, eq=False)
class Caution:
    """Something that looks wrong. about: an element's key, or the words it is about; mend: how to put it right, where there is one way."""

    text: str
    about: About | None = None
    mend: Mend | None = None


def percent(share: float) -> str:
    """A share of 0..1 as people say it."""
    value = 100 * share
    return f"{value:.1f} %" if 0 < value < 10 else f"{value:.0f} %"


def of_words(stage: Stage, pack: Pack, contradictions: bool) -> list[Caution]:
    """Words that the model does not know, or not so many at a time, and with `contradictions` those both wanted and avoided."""
    out: list[Caution] = []
    for one in (*stage.told, *stage.away):
        ids, unknown = pack.read(one.phrase)
        for u in unknown:
            near = worded(" Nearest: {0}.", ", ".join(u.nearest)) if u.nearest else ""
            mend = Mend(worded("Say “{0}”", u.nearest[0]), partial(reworded, before=u.word, after=u.nearest[0])) if u.nearest else None
            _once(out, Caution(worded("The model does not know “{0}” ({1}).{2}", u.word, one.owner, near), one.about, mend))
        if len(ids) > pack.info.phrase_length:
            most = pack.info.phrase_length
            text = worded(
                "“{0}” ({1}) has more words than the model reads in one phrase: {2}. Cut it with a comma.", one.phrase, one.owner, most
            )
            _once(out, Caution(text, one.about))
    if contradictions:
        out += _contradicted(stage.told, stage.away)
    if (count := len(together(stage.told, pack))) > pack.info.rows:
        out.append(Caution(worded("The model reads at most {0} phrases; these are {1}.", pack.info.rows, count), "scene"))
    return out


def _once(out: list[Caution], caution: Caution) -> None:
    if all((c.text, c.about) != (caution.text, caution.about) for c in out):
        out.append(caution)


def _contradicted(told: Sequence[Said], away: Sequence[Said]) -> list[Caution]:
    wanted = {(one.phrase.lower(), one.where) for one in told}
    return [
        Caution(
            worded("“{0}” is both wanted and avoided ({1}).", one.phrase, one.owner),
            one.about,
            Mend(worded("Do not avoid it"), partial(mends.not_avoided, phrase=one.phrase)),
        )
        for one in away
        if (one.phrase.lower(), one.where) in wanted
    ]


def of_shape(stage: Stage, sheet: Sheet, pack: Pack, whole: bool, given: bool = False) -> list[Caution]:
    """A frame that does not suit the model, or that it can only compute smaller. whole: whether the whole sheet is computed; given:
    whether the frame was set by hand."""
    out, frame = list[Caution](), stage.frame
    stretch = frame.width * frame.rect.height / (frame.height * frame.rect.width)
    fit = mends.fitting(sheet, pack)
    mend = Mend(worded("Let the frame fit itself"), mends.frame_fits_itself) if given else None if fit is None else Mend(*fit)
    if max(stretch, 1 / stretch) > 1.15:
        text = worded(
            "This shape does not suit the model: it is computed at {0} x {1} and stretched, so things will ", frame.width, frame.height
        )
        out.append(Caution(text + worded("look squeezed or drawn out."), None, mend))
    if whole and frame.scale < 0.6:
        what = worded("frame you set") if given else "sheet"
        text = worded(
            "The {0} is larger than the model can compose: it is computed at {1} x {2} and enlarged, ", what, frame.width, frame.height
        )
        out.append(Caution(text + worded("so fine detail will be missing."), None, mend))
    return out


def of_strength(strongest: float) -> list[Caution]:
    """A strength at which hardly anything changes."""
    if not 0 < strongest < 0.1:
        return []
    mend = Mend(worded("Use 0.35"), partial(mends.strength, value=0.35))
    return [Caution(worded("At strength {0:.2f} hardly anything changes.", strongest), None, mend)]


def of_mask(box: Rect, stage: Stage, sheet: Sheet) -> list[Caution]:
    """A mask that touches its frame, or is too large for it."""
    frame = stage.frame
    r, out = frame.rect, []
    for side, touches, border in (
        ("left", box.x0 <= r.x0, r.x0 == 0),
        ("upper", box.y0 <= r.y0, r.y0 == 0),
        ("right", box.x1 >= r.x1, r.x1 == sheet.width),
        ("lower", box.y1 >= r.y1, r.y1 == sheet.height),
    ):
        if touches and not border:
            mend = Mend(worded("More context"), mends.more_context)
            out.append(Caution(worded("The mask touches the work frame's {0} edge: a seam may show. Give more context.", side), None, mend))
    if frame.scale < 0.6:
        text = worded("The mask is large: it is computed at {0:.2g} times the sheet's size and enlarged, ", frame.scale)
        out.append(Caution(text + worded("so fine detail will be missing.")))
    return out


def of_elements(sheet: Sheet, stage: Stage, pack: Pack) -> list[Caution]:
    """Elements that cannot be seen, are too small, weigh too much, or are too many."""
    out: list[Caution] = []
    placed = [e for e in sheet.elements if phrases(e.words) and not e.hold]
    if len(placed) > pack.info.elements:
        out.append(Caution(worded("The model was taught up to {0} elements; with {1} some may fail.", pack.info.elements, len(placed))))
    drawn = {e.key: sketched(e.outline, sheet.rect, DRAWN) for e in sheet.elements}
    # What covers each element, from the nearest one back.
    cover, covers = np.zeros((DRAWN, DRAWN), np.float32), dict[int, np.ndarray]()
    for e in reversed(sheet.elements):
        covers[e.key] = cover
        cover = np.maximum(cover, drawn[e.key])
    for e in sheet.elements:
        m = drawn[e.key]
        if not m.any():
            mend = Mend(worded("Bring it back"), partial(mends.moved_inside, key=e.key))
            out.append(Caution(worded("“{0}” lies wholly outside the sheet and will not be painted.", e.name), e.key, mend))
        elif e.hold:
            if not sheet.has_picture:
                out.append(Caution(worded("“{0}” is held, but there is no picture to keep yet.", e.name), e.key))
        else:
            if not phrases(e.words):
                out.append(Caution(worded("“{0}” has no words yet.", e.name), e.key))
            out += _of_outline(e, sheet, pack.info.cell / stage.frame.scale, stage.shapes.get(InElement(e.key)))
            out += _of_neighbours(e, sheet, float((m * covers[e.key]).sum() / m.sum()))
    return out


def _of_outline(e: Element, sheet: Sheet, cell: float, shape: Outline | None) -> list[Caution]:
    out = []
    x0, y0, x1, y1 = e.outline.box
    if x0 < 0 or y0 < 0 or x1 > sheet.width or y1 > sheet.height:
        mend = Mend(worded("Move it inside"), partial(mends.moved_inside, key=e.key))
        out.append(Caution(worded("The outline of “{0}” leaves the sheet.", e.name), e.key, mend))
    least = LEAST_CELLS * cell
    if min(x1 - x0, y1 - y0) < least:
        mend = Mend(worded("Make it larger"), partial(mends.enlarged, key=e.key, least=least))
        out.append(
            Caution(worded("“{0}” is smaller than the model can draw well: at least {1:.0f} pixels a side.", e.name, least), e.key, mend)
        )
    if shape is not None and (share := area(shape.box) / area(e.outline.box)) < LEAST_FILLED:
        text = worded("“{0}” has another form than its outline, and fills only {1} of it.", e.name, percent(share))
        out.append(Caution(text, e.key, Mend(worded("Fit the outline to it"), partial(mends.fitted_to, key=e.key, box=shape.box))))
    return out


def _of_neighbours(e: Element, sheet: Sheet, hidden: float) -> list[Caution]:
    out = []
    if hidden > HIDDEN:
        mend = Mend(worded("Bring it nearest"), partial(mends.nearest, key=e.key))
        out.append(Caution(worded("“{0}” is hidden to {1} by nearer elements.", e.name, percent(hidden)), e.key, mend))
    if sheet.scene.weight > 0 and e.weight / sheet.scene.weight > HEAVY:
        mend = Mend(worded("Weigh it like the scene"), partial(mends.weighed, key=e.key))
        out.append(Caution(worded("The weight of “{0}” is high against the scene's: a hard shape may show.", e.name), e.key, mend))
    return out


def of_given_frame(outside: Sequence[Element], request: Request) -> list[Caution]:
    """Elements that a frame set by hand leaves out."""
    named = [e for e in outside if phrases(e.words) and not e.hold]
    if not named:
        return []
    said, one = ", ".join(f"“{e.name}”" for e in named), len(named) == 1
    text = worded("{0} {1} outside the frame you set, and will not be painted.", said, "lies" if one else "lie")
    return [Caution(text, named[0].key, Mend(worded("Let the frame fit itself"), mends.frame_fits_itself))]


def of_unplaced(sheet: Sheet, places: Places, most: int) -> list[Caution]:
    """Things that are only named, so that they land anywhere."""
    named = things_to_place(sheet, places)
    if not named:
        return []
    said, one = ", ".join(f"“{words}”" for words in named), len(named) == 1
    lacks = worded("has no place of its own") if one else worded("have no places of their own")
    text = worded("{0} {1}: what only the scene names lands anywhere, or comes twice.", said, lacks)
    mend = Mend(worded("Give it a place") if one else worded("Give them places"), partial(mends.given_places, places=places, most=most))
    return [Caution(text, "scene", mend if len(sheet.elements) < most else None)]


def of_footing(sheet: Sheet, pack: Pack) -> list[Caution]:
    """Things of the land that would stand in water. sheet: with all that has a place."""
    found = footless(sheet, pack)
    if found is None:
        return []
    said, one = ", ".join(f"“{sheet.element(key).name}”" for key in found.keys), len(found.keys) == 1
    has = worded("it has") if one else worded("they have")
    text = worded("{0} would stand in the {1}: where the scene says “{2}” too, {3} ground.", said, found.ground, found.bank, has)
    return [Caution(text, "scene", Mend(worded("Say “{0}” too", found.bank), partial(mends.said_too, words=found.bank)))]


def of_crowd(request: Request, drawn: int) -> list[Caution]:
    """More things than the model draws well at once. drawn: how many are told with a sketch."""
    if drawn < CROWD or request.nearer or request.small_nearer:
        return []
    text = worded("{0} things share the picture: small ones may get lost, or lose their faces.", drawn)
    return [Caution(text, None, Mend(worded("Paint things from nearer"), mends.from_nearer))]


def of_empty_scene(sheet: Sheet) -> list[Caution]:
    """Elements on a scene without words."""
    if phrases(sheet.scene.words) or not any(phrases(e.words) and not e.hold for e in sheet.elements):
        return []
    free = float(1 - np.maximum.reduce([sketched(e.outline, sheet.rect, DRAWN) for e in sheet.elements]).mean())
    text = worded("The scene has no words: the {0} that no element covers is left to the model.", percent(free))
    return [Caution(text, "scene")] if free > 0.02 else []


def of_detail(request: Request, settled: bool) -> list[Caution]:
    """Computed finer than the model can fill. settled: whether something tells it the shapes of things."""
    if request.settings.detail <= mends.FINER or settled:
        return []
    text = worded("Computed finer than the model composes best where nothing tells it the shapes of things: things may come twice.")
    return [Caution(text, None, Mend(worded("Use detail 1"), mends.usual_detail))]
