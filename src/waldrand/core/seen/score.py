"""How elements landed in a picture."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..packs import Finder, Pack
from ..refused import Refused
from ..values.element import Element, phrases
from ..values.frame import Rect, fitted_frame, whole_frame
from ..values.outline import Outline, rasterise
from ..values.sheet import Sheet
from ..worded import worded
from .find import LEAST_CELLS, SEEN, finder_of, looked, phrase_map, pieces_of

#: A score from here on counts as landed.
LANDED = 50.0
#: An element is looked at from nearer where that shows it so many times larger a side; with so much room round it, in its longer sides.
NEARER, NEARER_ROOM = 1.25, 1.0


@dataclass(frozen=True)
class Score:
    """How an element landed: score 0..100, the share of what was found inside its outline; found: whether anything was; says: what
    failed and what to try, empty when it landed."""

    key: int
    name: str
    score: float
    found: bool
    says: str

    @property
    def landed(self) -> bool:
        return self.score >= LANDED


def _labels(e: Element, finder: Finder) -> tuple[int, ...]:
    return next((found for found in map(finder.labels_of, phrases(e.words)) if found), ())


@dataclass(frozen=True, eq=False)
class _View:
    """Part of a sheet as the finder sees it: rect, on the sheet; maps (K, h, w)."""

    rect: Rect
    maps: np.ndarray

    def score(self, outline: Outline, labels: Sequence[int], rivals: Sequence[Outline]) -> float | None:
        """Of what is seen of these labels, the share inside the outline, 0..100, without pieces that lie more in a rival; None
        when nothing is seen."""
        h, w = self.maps.shape[1:]
        place, *others = (rasterise(o, self.rect, h, w) for o in (outline, *rivals))
        m = phrase_map(self.maps, labels)
        pieces, n = pieces_of(m > SEEN)
        mine = np.zeros((h, w), bool)
        for i in range(1, n + 1):
            piece = pieces == i
            inside = float(place[piece].sum())
            if piece.sum() >= LEAST_CELLS and all(float(r[piece].sum()) <= inside for r in others):
                mine |= piece
        return 100 * float((m * place)[mine].sum() / m[mine].sum()) if mine.any() else None


def _nearer(picture: np.ndarray, sheet: Sheet, e: Element, pack: Pack) -> _View | None:
    """An element with room around it, (H, W, 3) being the whole sheet, or None where that would show it hardly larger."""
    limits = pack.info.limits
    x0, y0, x1, y1 = e.outline.box
    box = Rect(math.floor(x0), math.floor(y0), math.ceil(x1), math.ceil(y1)).intersect(sheet.rect)
    if not box.area:
        return None
    frame = fitted_frame(box, sheet.width, sheet.height, limits, NEARER_ROOM)
    if frame.scale < NEARER * whole_frame(sheet.width, sheet.height, limits.placed).scale:
        return None
    return _View(frame.rect, looked(picture[frame.rect.slices], pack)[0])


def _missing(view: _View, e: Element, labels: Sequence[int], rivals: Sequence[Outline], finder: Finder) -> list[str]:
    """What a thing that has landed is not seen to be, of what it was said to be; nothing where the thing itself did not land."""

    def landed(of: Sequence[int]) -> bool:
        return (view.score(e.outline, of, rivals) or 0.0) >= LANDED

    thing, *traits = labels
    return [finder.labels[t] for t in traits if not landed((thing, t))] if landed((thing,)) else []


def placement(picture: np.ndarray, sheet: Sheet, pack: Pack) -> list[Score]:
    """How each element landed in a picture of the whole sheet at its size (H, W, 3 or 4) uint8, far to near; those whose words the
    finder does not know, and those not used, are left out. Small ones are looked at from nearer.

    Of several things of a kind each counts for the element it lies in most.

    Raises:
        Refused: the pack has no finder, or the picture has another size than the sheet.
    """
    finder = finder_of(pack)
    if picture.shape[:2] != (sheet.height, sheet.width):
        raise Refused(
            worded("The picture is {0} x {1} pixels, the sheet {2} x {3}.", picture.shape[1], picture.shape[0], sheet.width, sheet.height)
        )
    judged = [(e, _labels(e, finder)) for e in sheet.elements if e.visible and not e.hold]
    judged = [(e, labels) for e, labels in judged if labels]
    if not judged:
        return []
    whole = _View(sheet.rect, looked(picture, pack, placed=True)[0])
    out = []
    for e, labels in judged:
        rivals = [o.outline for o, theirs in judged if o.key != e.key and theirs[0] == labels[0]]
        near = _nearer(picture, sheet, e, pack)
        score = (near or whole).score(e.outline, labels, rivals)
        if near and score is None:
            # From nearer what strayed is out of sight.
            astray = whole.score(e.outline, labels, rivals)
            score = None if astray is None or astray >= LANDED else astray
        missing = [] if score is not None and score >= LANDED else _missing(near or whole, e, labels, rivals, finder)
        if missing:
            says = worded("“{0}” is there, but not told to be {1}: emphasise that, or re-roll it.", e.name, ", ".join(missing))
        elif score is None:
            says = worded("“{0}” was not found: give it more room or weight, or re-roll it.", e.name)
        else:
            says = "" if score >= LANDED else worded("“{0}” lies mostly outside its outline: re-roll it, or raise its weight.", e.name)
        out.append(Score(e.key, e.name, score or 0.0, score is not None, says))
    return out
