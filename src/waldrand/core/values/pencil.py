"""A drawing by hand: a layer of a pen's strokes, told to passes unless it is wanted otherwise."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Self

import numpy as np

from ..fields import needed, taken_list, taken_whole
from ..refused import Refused
from ..worded import worded
from .frame import Rect
from .layers import FARTHEST, LINES, Draw, Layer, common_of, meet
from .strokes import Stroke, drawn_stroke

#: Graphite, and the most strokes of a drawing.
INK, MOST_STROKES = (40, 36, 44), 20_000


@dataclass(frozen=True, eq=False)
class Pencil(Layer):
    """width, height: of what can be drawn on, from (x, y) of the sheet; strokes: in the order in which they were drawn; grey: what they
    amount to, (height, width) uint8, never changed in place.

    Raises:
        Refused: more strokes than a drawing may have.
    """

    sort: ClassVar[str] = "pencil"
    width: int
    height: int
    strokes: tuple[Stroke, ...] = ()
    x: int = 0
    y: int = 0
    visible: bool = True
    grey: np.ndarray | None = None

    def __post_init__(self) -> None:
        super().__post_init__()
        if len(self.strokes) > MOST_STROKES:
            raise Refused(worded("A drawing has at most {0} strokes: merge it down, or begin another.", MOST_STROKES))
        if self.grey is None:
            grey = np.zeros((self.height, self.width), np.uint8)
            for stroke in self.strokes:
                drawn_stroke(grey, stroke)
            object.__setattr__(self, "grey", grey)

    @classmethod
    def new(cls, key: int, name: str, width: int, height: int, of: int | None = None) -> Self:
        """An empty one, told to passes as a drawing."""
        return cls(key, name, width, height, role=LINES, of=of)

    @property
    def drawn(self) -> np.ndarray:
        """How much is drawn, (height, width) uint8."""
        assert self.grey is not None
        return self.grey

    @property
    def ink(self) -> np.ndarray:
        return self.drawn

    @property
    def bounds(self) -> Rect:
        return Rect(self.x, self.y, self.x + self.width, self.y + self.height)

    @property
    def shown(self) -> np.ndarray:
        return self._rgba(self.drawn)

    @staticmethod
    def _rgba(grey: np.ndarray) -> np.ndarray:
        return np.dstack([np.broadcast_to(np.array(INK, np.uint8), (*grey.shape, 3)), grey])

    @property
    def seen(self) -> Rect:
        rows, columns = (np.flatnonzero(self.drawn.any(axis)) for axis in (1, 0))
        if not len(rows):
            return self.bounds
        return Rect(int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1).moved(self.x, self.y)

    @property
    def edge(self) -> Mapping[str, float]:
        return {"opacity": self.opacity}

    def lay_on(self, below: np.ndarray, rect: Rect) -> None:
        there, here = meet(self.bounds, rect)
        below[there] = self._laid(below[there], self._rgba(self.drawn[here]))

    def with_stroke(self, stroke: Stroke) -> Self:
        """One stroke more, given in sheet pixels."""
        own = stroke.moved(-self.x, -self.y)
        grey = self.drawn.copy()
        drawn_stroke(grey, own)
        return replace(self, strokes=(*self.strokes, own), grey=grey)

    def with_strokes(self, change: Callable[[Stroke], Stroke]) -> Self:
        """Each stroke as it is changed."""
        return replace(self, strokes=tuple(map(change, self.strokes)), grey=None)

    def moved(self, dx: int, dy: int) -> Self:
        return replace(self, x=self.x + dx, y=self.y + dy)

    def scaled(self, kx: float, ky: float, draw: Draw) -> Self:
        to = self._scaled_bounds(kx, ky)
        kx, ky = to.width / self.width, to.height / self.height
        strokes = tuple(stroke.scaled(kx, ky) for stroke in self.strokes)
        return replace(self, width=to.width, height=to.height, x=to.x0, y=to.y0, strokes=strokes, grey=None)

    def to_json(self) -> dict[str, Any]:
        return self._said() | {"sort": self.sort, "x": self.x, "y": self.y, "strokes": [s.to_json() for s in self.strokes]}

    @classmethod
    def from_json(cls, key: int, name: str, visible: bool, d: dict[str, Any], pixels: np.ndarray, pictures: object) -> Self:
        x, y = (taken_whole(needed(d, k, "A layer"), f"A layer's {k}") for k in "xy")
        if max(abs(x), abs(y)) > FARTHEST:
            raise Refused(worded("A layer lies too far outside."))
        listed = taken_list(needed(d, "strokes", "A drawing"), "A drawing's strokes")
        if len(listed) > MOST_STROKES:
            raise Refused(worded("A drawing has at most {0} strokes, not {1}.", MOST_STROKES, len(listed)))
        h, w = pixels.shape[:2]
        return cls(key, name, w, h, tuple(map(Stroke.from_json, listed)), x, y, visible, **common_of(d))
