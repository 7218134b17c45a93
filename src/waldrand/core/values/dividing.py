"""Sheets and elements divided into parts, and the lines between them moved."""

from __future__ import annotations

from dataclasses import replace

from ..refused import Refused
from ..worded import worded
from .division import LEAST_PART, MOST_PARTS, Axis, Division, cuts
from .element import Element
from .outline import Outline
from .sheet import Sheet


def divide(sheet: Sheet, across: tuple[float, ...], down: tuple[float, ...] = (1.0,), key: int | None = None) -> Sheet:
    """The sheet with elements for the parts of itself, or of one element, which they replace (keeping its settings, not its words).

    Raises:
        Refused: parts too small to be seen.
    """
    whole = None if key is None else sheet.element(key)
    outline = Outline("box", (0, 0, sheet.width, sheet.height)) if whole is None else whole.outline
    n = len(across) * len(down)
    if n > MOST_PARTS:
        raise Refused(worded("At most {0} parts, not {1}.", MOST_PARTS, n))
    first = sheet.next_key()
    division = Division(outline, cuts(across), cuts(down), tuple(range(first, first + n)))
    if any(min(x1 - x0, y1 - y0) < LEAST_PART for x0, y0, x1, y1 in division.boxes()):
        raise Refused(worded("Some of these parts would be too small; use fewer or larger shares."))
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
    held = {e.key: e.outline.box for e in sheet.elements}
    return tuple(d for d in sheet.divisions if d.whole(held))


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
        raise Refused(worded("Only the lines between parts can be moved."))
    least = LEAST_PART / (b - a)
    lines[index] = min(max((at - a) / (b - a), lines[index - 1] + least), lines[index + 1] - least)
    moved = replace(division, across=tuple(lines)) if axis == "across" else replace(division, down=tuple(lines))
    new = outer.replaced(division, moved).settled()
    outlines = new.leaves()
    elements = tuple(replace(e, outline=outlines[e.key]) if e.key in outlines else e for e in sheet.elements)
    return replace(sheet, elements=elements, divisions=tuple(new if d is outer else d for d in sheet.divisions))
