"""What the edge of a picture cuts, so that it is finished when the picture goes on."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..packs import Pack
from ..seen.find import LEAST_CELLS, SEEN, pieces_of, seen_box, thing_labels
from ..values.element import Element
from ..values.frame import Rect
from ..values.layers import Layer
from ..values.outline import Box, Outline
from ..values.sheet import Sheet
from .seen_of_sheet import box_of, emptiness, seen_in

#: So much of what is seen of a thing is thought to be missing beyond the edge, at the most.
MISSING = 0.8
#: Outlines that overlap by so much of the smaller one are of the same thing.
SAME = 0.5


@dataclass(frozen=True)
class CutThing:
    """words: what it is; box: where it is seen and may go on, in sheet pixels."""

    words: str
    box: Box

    def element(self, key: int) -> Element:
        """The thing as an element that reaches beyond the edge."""
        return Element(key, self.words, Outline("box", self.box), self.words)


@lru_cache(maxsize=2)
def _seen_at_edges(width: int, height: int, layers: tuple[Layer, ...], pack: Pack) -> tuple[CutThing, ...]:
    there = box_of(~emptiness(width, height, layers))
    maps, _ = seen_in(width, height, layers, there, pack)
    if not len(maps):
        return ()
    finder = pack.finder
    out = []
    for i in [] if finder is None else thing_labels(finder):
        pieces, n = pieces_of(maps[i] > SEEN)
        for piece in (pieces == k + 1 for k in range(n)):
            box = seen_box(np.where(piece, maps[i], 0), there.height, there.width)
            beyond = _beyond(piece, there, Rect(0, 0, width, height))
            if finder is not None and box is not None and any(beyond):
                w, h = (MISSING * (box[2] - box[0]), MISSING * (box[3] - box[1]))
                left, top, right, low = (min(room, m) for room, m in zip(beyond, (w, h, w, h), strict=True))
                x0, y0, x1, y1 = (float(v) for v in box)
                found = (there.x0 + x0 - left, there.y0 + y0 - top, there.x0 + x1 + right, there.y0 + y1 + low)
                out.append(CutThing(finder.labels[i], found))
    return tuple(out)


def _beyond(piece: np.ndarray, there: Rect, sheet: Rect) -> tuple[int, int, int, int]:
    """The empty pixels beyond each edge that a piece (h, w) bool of a picture touches with more than a crumb: left, top, right, low."""
    edges = piece[:, 0], piece[0], piece[:, -1], piece[-1]
    room = there.x0 - sheet.x0, there.y0 - sheet.y0, sheet.x1 - there.x1, sheet.y1 - there.y1
    a, b, c, d = (r if int(e.sum()) >= LEAST_CELLS else 0 for e, r in zip(edges, room, strict=True))
    return a, b, c, d


def cut_things(sheet: Sheet, pack: Pack) -> list[CutThing]:
    """Things that the edge of the picture cuts where the sheet is empty beyond it, and that no element tells yet; none without a finder.
    Remembered for the layers, since plans ask at every change of words."""
    if pack.finder is None or not sheet.has_picture:
        return []
    found = _seen_at_edges(sheet.width, sheet.height, sheet.layers, pack)
    return [thing for thing in found if not any(_same(thing.box, e.outline.box) for e in sheet.elements)]


def _same(a: Box, b: Box) -> bool:
    w, h = min(a[2], b[2]) - max(a[0], b[0]), min(a[3], b[3]) - max(a[1], b[1])
    least = min((x[2] - x[0]) * (x[3] - x[1]) for x in (a, b))
    return w > 0 and h > 0 and w * h >= SAME * least
