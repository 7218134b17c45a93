"""Dividing the sheet or an element into parts, by shares, with lines that stay draggable."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..refused import Refused
from ..worded import worded
from .frame import Rect
from .outline import Box, Outline
from .shaping import drawn

Axis = Literal["across", "down"]
MOST_PARTS = 64
LEAST_PART = 4.0


class SharesError(Refused):
    """Shares that do not parse; at: where in the text."""

    def __init__(self, text: str, at: int) -> None:
        super().__init__(text)
        self.at = at


def parse_shares(text: str) -> tuple[float, ...]:
    """ "1, 1, 2" -> (1.0, 1.0, 2.0).

    Raises:
        SharesError: something is not a number above 0, or there are too many; it says where.
    """
    out, at = [], 0
    for piece in re.split(r"([,;:])", text):
        if not re.fullmatch(r"[,;:]", piece):
            inner = at + len(piece) - len(piece.lstrip())
            try:
                value = float(piece)
            except ValueError:
                raise SharesError(
                    worded("“{0}” is not a share: write numbers like 1, 1, 2.", piece.strip())
                    if piece.strip()
                    else worded("A share is missing here."),
                    inner,
                ) from None
            if not 0 < value < 1e6:
                raise SharesError(worded("A share is a number above 0, not {0}.", piece.strip()), inner)
            out.append(value)
        at += len(piece)
    if len(out) > MOST_PARTS:
        raise SharesError(worded("At most {0} parts, not {1}.", MOST_PARTS, len(out)), 0)
    return tuple(out)


def cuts(shares: tuple[float, ...]) -> tuple[float, ...]:
    """Where the parts begin and end, from 0 to 1."""
    edges = np.concatenate([[0.0], np.cumsum(shares)])
    return tuple(float(v) for v in edges / edges[-1])


@dataclass(frozen=True, eq=False)
class Division:
    """An outline cut into columns and rows. across, down: cuts from 0 to 1; parts, row by row: an element's key, or divided again."""

    outline: Outline
    across: tuple[float, ...]
    down: tuple[float, ...]
    parts: tuple[int | Division, ...]

    def boxes(self) -> list[Box]:
        x0, y0, x1, y1 = self.outline.box
        xs, ys = ([a + c * (b - a) for c in cs] for a, b, cs in ((x0, x1, self.across), (y0, y1, self.down)))
        return [(xs[i], ys[j], xs[i + 1], ys[j + 1]) for j in range(len(ys) - 1) for i in range(len(xs) - 1)]

    def places(self) -> list[Box]:
        """The box of each part: exact for a box, whole pixels for what is cut out of another outline."""
        if self.outline.shape == "box":
            return self.boxes()
        return [(round(x0), round(y0), max(round(x1), round(x0) + 1), max(round(y1), round(y0) + 1)) for x0, y0, x1, y1 in self.boxes()]

    def pieces(self) -> list[Outline]:
        """Boxes of a box, else the piece of the outline in each box.

        Raises:
            Refused: a part in which nothing of the outline lies.
        """
        if self.outline.shape == "box":
            return [Outline("box", b) for b in self.places()]
        out = []
        for box in self.places():
            piece = drawn(self.outline, Rect(*(int(v) for v in box)))
            if not piece.any():
                raise Refused(worded("One of the parts would hold nothing of this outline; use other shares."))
            out.append(Outline("mask", box, mask=piece))
        return out

    def settled(self) -> Division:
        """The same with all that is divided again fitted into its part."""
        parts = tuple(
            replace(part, outline=o).settled() if isinstance(part, Division) else part
            for part, o in zip(self.parts, self.pieces(), strict=True)
        )
        return replace(self, parts=parts)

    def leaves(self) -> dict[int, Outline]:
        """The outline of each element's key."""
        out: dict[int, Outline] = {}
        for part, piece in zip(self.parts, self.pieces(), strict=True):
            out |= part.leaves() if isinstance(part, Division) else {part: piece}
        return out

    def whole(self, held: Mapping[int, Box]) -> bool:
        """Whether all parts are still as they were divided, so that the lines can be dragged. held: the box of each element, by its key.
        Draws nothing: it is asked at every move of the mouse."""
        return all(
            part.whole(held) if isinstance(part, Division) else part in held and np.allclose(held[part], box, atol=1e-6)
            for part, box in zip(self.parts, self.places(), strict=True)
        )

    def within(self) -> list[Division]:
        """This division and all inside it."""
        return [self, *(d for part in self.parts if isinstance(part, Division) for d in part.within())]

    def replaced(self, old: int | Division, new: Division) -> Division:
        """The same with a part (or itself) exchanged."""
        if old is self:
            return new
        parts = tuple(new if part == old else part.replaced(old, new) if isinstance(part, Division) else part for part in self.parts)
        return replace(self, parts=parts)
