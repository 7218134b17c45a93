"""Wishes written short, so that what a sentence comes to can be compared."""

from __future__ import annotations

from waldrand.core.packs import Pack
from waldrand.core.told.sentence import AT, MOVE, SIZE, TOUCH, WHOLE, Named, Place, Wish, read_sentence


def thing(of: Named) -> str:
    name = f"{of.colour} {of.label}".strip() if not of.others else of.words
    return " ".join(x for x in (name, f"x{of.count}" if of.count > 1 else "", of.which, "all" if of.all else "") if x)


def place(at: Place, moves: bool) -> str:
    if at.relation != AT:
        of = "of " if at.relation in ("left", "right", "front") else ""
        return f"{at.relation} {of}{', '.join(o.label for o in at.of)}"
    x, y = at.at
    if moves and at.at in ((-1.0, None), (1.0, None), (None, -1.0), (None, 1.0)):
        way = {(-1.0, None): "left", (1.0, None): "right", (None, -1.0): "up", (None, 1.0): "down"}[at.at]
        return f"{way}{' little' if at.much < 1 else ' much' if at.much > 1 else ''}"
    across = "" if x is None else "left" if x < 0.4 else "right" if x > 0.6 else "middle"
    down = "" if y is None else "top" if y < 0.4 else "bottom" if y > 0.6 else "back" if x is None else ""
    return f"{'to' if moves else 'at'} {' '.join(w for w in (across, down) if w)}"


def told(wish: Wish) -> str:
    if wish.verb == WHOLE:
        return f"whole: {wish.new}"
    if wish.verb == TOUCH:
        return f"touch {wish.part}{f': {wish.new}' if wish.new else ''}"
    assert wish.thing is not None
    said = f"{wish.verb} {thing(wish.thing)}"
    if wish.verb == SIZE:
        return f"{said} {wish.times:.3g}"
    if wish.new:
        return f"{said}: {wish.new}"
    return said if wish.place is None else f"{said} {place(wish.place, wish.verb == MOVE)}"


def told_all(sentence: str, pack: Pack) -> tuple[list[str], list[str]]:
    """The wishes of a sentence, and what was not understood."""
    read = read_sentence(sentence, pack)
    return [told(wish) for wish in read.wishes], [f"{u.said}: {u.why}" for u in read.unclear]
