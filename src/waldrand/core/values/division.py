"""Dividing the sheet or an element into parts, by shares, with lines that stay draggable."""

from __future__ import annotations

import itertools
import re
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any, Literal

import numpy as np

from ..refused import Refused
from .element import Element
from .frame import Rect
from .outline import Box, Outline, outline_from_json, outline_to_json
from .shaping import drawn

if TYPE_CHECKING:
    from .sheet import Sheet

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
                    f"“{piece.strip()}” is not a share: write numbers like 1, 1, 2." if piece.strip() else "A share is missing here.", inner
                ) from None
            if not 0 < value < 1e6:
                raise SharesError(f"A share is a number above 0, not {piece.strip()}.", inner)
            out.append(value)
        at += len(piece)
    if len(out) > MOST_PARTS:
        raise SharesError(f"At most {MOST_PARTS} parts, not {len(out)}.", 0)
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
                raise Refused("One of the parts would hold nothing of this outline; use other shares.")
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

    def whole(self, sheet: Sheet) -> bool:
        """Whether all parts are still as they were divided, so that the lines can be dragged. Draws nothing: it is asked at every
        move of the mouse."""
        held = {e.key: e.outline.box for e in sheet.elements}
        return all(
            part.whole(sheet) if isinstance(part, Division) else part in held and np.allclose(held[part], box, atol=1e-6)
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


def divide(sheet: Sheet, across: tuple[float, ...], down: tuple[float, ...] = (1.0,), key: int | None = None) -> Sheet:
    """The sheet with elements for the parts of itself, or of one element, which they replace (keeping its settings, not its words).

    Raises:
        Refused: parts too small to be seen.
    """
    whole = None if key is None else sheet.element(key)
    outline = Outline("box", (0, 0, sheet.width, sheet.height)) if whole is None else whole.outline
    n = len(across) * len(down)
    if n > MOST_PARTS:
        raise Refused(f"At most {MOST_PARTS} parts, not {n}.")
    first = sheet.next_key()
    division = Division(outline, cuts(across), cuts(down), tuple(range(first, first + n)))
    if any(min(x1 - x0, y1 - y0) < LEAST_PART for x0, y0, x1, y1 in division.boxes()):
        raise Refused("Some of these parts would be too small; use fewer or larger shares.")
    base = Element(0, "part", outline) if whole is None else whole
    names = sheet.free_names(base.name)
    parts = [replace(base, key=k, name=next(names), outline=o, words="", emphasis=()) for k, o in division.leaves().items()]
    at = len(sheet.elements) if whole is None else sheet.elements.index(whole)
    rest = [e for e in sheet.elements if e is not whole]
    # A part that is divided again belongs to its division, so that the outer lines stay draggable too.
    before = draggable(sheet)
    outer = None if key is None else next((d for d in before if key in d.leaves()), None)
    kept = tuple(d for d in before if d is not outer)
    new = division if outer is None or key is None else outer.replaced(key, division)
    return replace(sheet, elements=(*rest[:at], *parts, *rest[at:]), divisions=(*kept, new))


def draggable(sheet: Sheet) -> tuple[Division, ...]:
    """The divisions whose parts are all as they were divided."""
    return tuple(d for d in sheet.divisions if d.whole(sheet))


def move_line(sheet: Sheet, division: Division, axis: Axis, index: int, at: float) -> Sheet:
    """The sheet with an inner line of a division (or of one inside it) moved to a sheet coordinate; parts keep a least size.

    Raises:
        Refused: there is no such line, or parts inside would become too small.
    """
    outer = next((d for d in sheet.divisions if any(x is division for x in d.within())), None)
    x0, y0, x1, y1 = division.outline.box
    a, b = (x0, x1) if axis == "across" else (y0, y1)
    lines = list(division.across if axis == "across" else division.down)
    if outer is None or not 0 < index < len(lines) - 1:
        raise Refused("Only the lines between parts can be moved.")
    least = LEAST_PART / (b - a)
    lines[index] = min(max((at - a) / (b - a), lines[index - 1] + least), lines[index + 1] - least)
    moved = replace(division, across=tuple(lines)) if axis == "across" else replace(division, down=tuple(lines))
    new = outer.replaced(division, moved).settled()
    outlines = new.leaves()
    elements = tuple(replace(e, outline=outlines[e.key]) if e.key in outlines else e for e in sheet.elements)
    return replace(sheet, elements=elements, divisions=tuple(new if d is outer else d for d in sheet.divisions))


def division_to_json(d: Division) -> dict[str, Any]:
    parts = [division_to_json(p) if isinstance(p, Division) else p for p in d.parts]
    return {"outline": outline_to_json(d.outline), "across": list(d.across), "down": list(d.down), "parts": parts}


def division_from_json(d: dict[str, Any]) -> Division:
    """Raises KeyError, TypeError or Refused when the values are not a division's."""
    across, down = (tuple(float(v) for v in d[k]) for k in ("across", "down"))
    parts = tuple(division_from_json(p) if isinstance(p, dict) else int(p) for p in d["parts"])
    rising = all(a < b for c in (across, down) for a, b in itertools.pairwise(c))
    if not rising or len(across) < 2 or len(down) < 2 or len(parts) != (len(across) - 1) * (len(down) - 1):
        raise Refused("A division of the sheet is damaged.")
    return Division(outline_from_json(d["outline"]), across, down, parts)
