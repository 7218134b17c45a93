"""Which parts of a picture a touch-up paints again, and the pass that each of them is."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..packs import Pack
from ..picture.cutting import shaped
from ..refused import Refused
from ..seen.find import finder_of
from ..seen.parts import Part, covered_share, parts_known, parts_seen
from ..values.element import Element, phrases
from ..values.frame import Rect
from ..values.masks import Mask
from ..values.outline import Outline, rasterise
from ..values.sheet import Sheet
from ..worded import worded
from .cautions import percent
from .listed import Listed
from .remembered import Remembered, picture_key
from .request import Request

#: An element that covers so much of a part is the one it belongs to.
BELONGS = 0.5
#: How parts are painted: each by itself, all of them at once, or all but them.
EACH, TOGETHER, ALL_BUT = "each", "together", "all-but"
#: By what parts are put in order; what stands lowest counts as nearest.
FIRST: dict[str, Callable[[Part], float]] = {
    "largest": lambda part: -part.size,
    "surest": lambda part: -part.sureness,
    "nearest": lambda part: -part.box.y1,
}


@dataclass(frozen=True)
class Asked:
    """A part that shall be touched up, by its name, and the words for it, none: those of what it belongs to."""

    name: str
    words: str = ""


def asked_parts(text: str) -> tuple[Asked, ...]:
    """What was written as "face, hands", with words for some: "face = smiling, red hair; hands".

    Raises:
        Refused: no part is named.
    """
    out = []
    for piece in text.split(";"):
        names, equals, words = piece.partition("=")
        out += [Asked(name, words.strip()) for name in phrases(names)]
        if equals and not phrases(names):
            raise Refused(worded("“{0}” gives words to no part: write face = smiling; hands.", piece.strip()))
    if not out:
        raise Refused(worded("Say which parts shall be touched up, like: face, hands."))
    return tuple(dict.fromkeys(out))


@dataclass(frozen=True, eq=False)
class Chosen:
    """A part that was found within the limits. number: its place in the list, from 1; part; words: for it, "" where none were said; used:
    whether it is ticked."""

    number: int
    part: Part
    words: str
    used: bool


#: A look through a picture costs far more than the rest of a plan.
_SEEN = Remembered[tuple[Part, ...]](8)


def looked_through(sheet: Sheet, text: str, pack: Pack) -> bool:
    """Whether all that is to be touched up has been looked for in this picture already."""
    seen = picture_key(sheet, pack)
    return pack.finder is None or all(_SEEN.get((seen, one.name)) is not None for one in asked_parts(text))


def found(sheet: Sheet, name: str, pack: Pack) -> tuple[Part, ...]:
    """Everything on a sheet that goes by a name. Remembered for the pictures that were looked through last.

    Raises:
        Refused: the pack has no finder, or that knows nothing of that name.
    """
    finder_of(pack)
    key = (picture_key(sheet, pack), name)
    parts = _SEEN.get(key)
    return _SEEN.put(key, tuple(parts_seen(sheet.flatten(), name, pack))) if parts is None else parts


def chosen(sheet: Sheet, request: Request, pack: Pack) -> tuple[Chosen, ...]:
    """The parts within the limits that a touch-up asks for, in its order; those left out are not used.

    Raises:
        Refused: nothing is named, or nothing of it is known.
    """
    value = request.value
    all_of = [(part, one.words) for one in asked_parts(value("parts")) for part in found(sheet, one.name, pack)]
    least, most = sorted((value("least_size"), value("most_size")))
    within = [(p, words) for p, words in all_of if p.sureness >= value("least_sure") and least <= p.size <= most]
    within.sort(key=lambda one: FIRST[value("first")](one[0]))
    gone = value("left_out")
    kept = within[: value("most")]
    return tuple(Chosen(i, part, words, i not in gone) for i, (part, words) in enumerate(kept, 1))


def listed(one: Chosen) -> Listed:
    """A part for a list: its number, its name, whose it is, how sure and how large."""
    part = one.part
    whose = "" if part.owner is None or part.owner.label in part.name else worded(" of {0}", part.owner.words)
    text, tip = (
        worded(line, one.number, part.name, whose, part.sureness, percent(part.size))
        for line in ("{0} {1} · {3:.2f}", "{0}  {1}{2}, sure to {3:.2f} of 1, {4} of the sheet")
    )
    b = part.box
    outline = Outline("mask", (float(b.x0), float(b.y0), float(b.x1), float(b.y1)), mask=part.mask[b.slices])
    return Listed(one.number, text, tip, one.used, outline)


def none_found(sheet: Sheet, request: Request, pack: Pack) -> Refused:
    """Why there is nothing to touch up, in a sentence."""
    asked = asked_parts(request.value("parts"))
    names = ", ".join(f"“{one.name}”" for one in asked)
    parts = [part for one in asked for part in found(sheet, one.name, pack)]
    if not parts:
        known = ", ".join(parts_known(pack))
        more = worded(" The finder knows the parts {0}, and all things.", known) if known else ""
        return Refused(worded("No {0} was found in the picture.", names) + more)
    best, sizes = max(p.sureness for p in parts), [100 * p.size for p in parts]
    text = worded("{0} found of {1}, but the limits leave none: sure to {2:.2f} at most, ", len(parts), names, best)
    return Refused(text + worded("{0:.2f} to {1:.2f} % of the sheet large.", min(sizes), max(sizes)))


def mask_of(part: Part, request: Request) -> np.ndarray:
    """Where a part is painted again, (H, W) uint8: what was seen of it, grown or shrunk, and moved."""
    solid = shaped(part.mask.astype(np.float32) / 255, request.value("grow")) > 0.5
    dx, dy = round(request.value("right")), round(request.value("down"))
    if dx or dy:
        h, w = solid.shape
        out = np.zeros_like(solid)
        there = Rect(0, 0, w, h).moved(dx, dy).intersect(Rect(0, 0, w, h))
        if there.area:
            out[there.slices] = solid[there.moved(-dx, -dy).slices]
        solid = out
    return np.where(solid, 255, 0).astype(np.uint8)


def _with_owner(sheet: Sheet, one: Chosen) -> Sheet:
    """The sheet with what a part belongs to as an element in a box, unless an element with words covers the part."""
    box = one.part.box
    for e in sheet.elements:
        if not e.hold and phrases(e.words):
            covers = rasterise(e.outline, box, box.height, box.width)
            if covered_share(one.part.mask[box.slices], covers) >= BELONGS:
                return sheet
    owner = one.part.owner
    if owner is None:
        return sheet
    x0, y0, x1, y1 = owner.box.x0, owner.box.y0, owner.box.x1, owner.box.y1
    seen = Element(sheet.next_key(), owner.label, Outline("box", (float(x0), float(y0), float(x1), float(y1))), owner.words)
    # Farther than all that was laid out, so that none of that is covered.
    return replace(sheet, elements=(seen, *sheet.elements))


def apart(sheet: Sheet, request: Request, pack: Pack) -> tuple[tuple[Sheet, Request], ...]:
    """The passes that a touch-up is made of, each with a mask of its own; none where the sheet has a mask that says where.

    Raises:
        Refused: nothing was found, or all of it is left out.
    """
    if sheet.mask is not None and not sheet.mask.empty:
        return ()
    parts = chosen(sheet, request, pack)
    if not parts:
        raise none_found(sheet, request, pack)
    used = [one for one in parts if one.used]
    if not used:
        raise Refused(worded("All parts that were found are left out: tick one."))
    how = request.value("how")
    if how == EACH:
        return tuple(_pass_of(sheet, [one], mask_of(one.part, request), request) for one in used)
    whole = np.maximum.reduce([mask_of(one.part, request) for one in used])
    if how == TOGETHER:
        return (_pass_of(sheet, used, whole, request),)
    return (_pass_of(sheet, [], 255 - whole, request),)


def _pass_of(sheet: Sheet, parts: Sequence[Chosen], mask: np.ndarray, request: Request) -> tuple[Sheet, Request]:
    if not mask.any():
        raise Refused(worded("Shrunk or moved so far, nothing is left to paint of a part: grow it, or leave it out."))
    for one in parts:
        sheet = _with_owner(sheet, one)
    said = dict.fromkeys(one.words for one in parts if one.words)
    words = ", ".join(said) if said else request.words
    return replace(sheet, mask=Mask.from_array(mask)), replace(request, words=words)
