"""What a pass over a large picture lost or let appear, place by place, as the finder sees it from near by."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from ..packs import Pack
from ..values.frame import Rect
from .by_place import Seen, seen_in
from .find import SEEN, finder_of, looked, thing_labels

#: A thing counts where it is surely seen on so many cells, and as not there where nothing of it is above so little.
SURE, CELLS, FAINT = 0.6, 12, 0.25


@dataclass(frozen=True)
class Change:
    """number: of the place, from 1; rect: on the picture; lost, new: things by their labels."""

    number: int
    rect: Rect
    lost: tuple[str, ...]
    new: tuple[str, ...]

    @property
    def told(self) -> str:
        """In words: "lost fox, new owl"."""
        both = (("lost", self.lost), ("new", self.new))
        return ", ".join(f"{how} {', '.join(things)}" for how, things in both if things)


def changes(
    before: np.ndarray,
    after: np.ndarray,
    rects: Sequence[tuple[int, Rect]],
    pack: Pack,
    tick: Callable[[], None] = lambda: None,
) -> list[Change]:
    """Where things were lost or appeared between two pictures (H, W, 3 or 4) uint8 of one size, in numbered rectangles of them; places
    where nothing of the kind happened are left out. tick: called before each place; what it raises ends the work.

    Raises:
        Refused: the pack has no finder.
    """
    finder, (h, w) = finder_of(pack), before.shape[:2]
    out = []
    whole_before, whole_after = seen_in(before, pack), seen_in(after, pack)
    for number, rect in rects:
        tick()
        here = rect.intersect(Rect(0, 0, w, h)).slices
        was, now = looked(before[here], pack)[0], looked(after[here], pack)[0]

        def gone(i: int, one: np.ndarray, other: np.ndarray, whole: Seen, rect: Rect = rect) -> bool:
            return _sure(one[i]) and not any(_there(one[i], m) for m in (other[i], whole.at(i, rect, *one.shape[1:])))

        things = thing_labels(finder)
        lost = tuple(finder.labels[i] for i in things if gone(i, was, now, whole_after))
        new = tuple(finder.labels[i] for i in things if gone(i, now, was, whole_before))
        if lost or new:
            out.append(Change(number, rect, lost, new))
    return out


def _sure(m: np.ndarray) -> bool:
    return int((m > SURE).sum()) >= CELLS


def _there(surely: np.ndarray, other: np.ndarray) -> bool:
    """Whether what is surely seen in one map is seen in the other too, about where it is."""
    near = ndimage.binary_dilation(surely > SURE, iterations=2)
    return bool((other[near] > FAINT).sum() >= CELLS / 3) and bool((other[near] > SEEN).any())
