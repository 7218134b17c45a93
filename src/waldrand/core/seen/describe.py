"""Words read off a picture: the whole, and things as elements."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..packs import Pack
from ..values.element import Element
from ..values.outline import Box, Outline
from .find import LEAST_CELLS, SEEN, confidence, finder_of, looked, pieces_of, seen_box


@dataclass(frozen=True)
class Description:
    """What a picture shows, in the model's words: of the whole, and things as (phrase, confidence, box in sheet pixels)."""

    scene: tuple[str, ...]
    things: tuple[tuple[str, float, Box], ...]


def describe(picture: np.ndarray, pack: Pack) -> Description:
    """What a picture shows: grounds and skies, and things with their colours, each for itself, largest first.

    Raises:
        Refused: the pack has no finder.
    """
    finder = finder_of(pack)
    maps, whole = looked(picture, pack)
    h, w = picture.shape[:2]
    scene = [finder.whole[i] for i in np.argsort(-whole) if whole[i] > SEEN]
    things = []
    for i, label in enumerate(finder.labels):
        if label in finder.traits or seen_box(maps[i], h, w) is None:
            continue
        if label in finder.grounds:
            scene.append(label)
            continue
        for piece in _pieces(maps[i] > SEEN):
            m = np.where(piece, maps[i], 0)
            place = seen_box(m, h, w)
            assert place is not None
            # Of the colours, the one that covers most of the thing.
            shares = ((float(maps[j][piece].mean()), t) for j, t in enumerate(finder.labels) if t in finder.colours)
            colour = max(shares, default=(0.0, ""))
            said = f"{colour[1]} {label}" if colour[0] > SEEN else label
            things.append((int(piece.sum()), said, confidence(m), place))
    things.sort(key=lambda t: -t[0])
    return Description(tuple(scene), tuple((said, c, b) for _, said, c, b in things))


def _pieces(solid: np.ndarray) -> list[np.ndarray]:
    """Things of a kind that stand apart, (h, w) bool each; crumbs beside a larger one are left out."""
    parts, n = pieces_of(solid)
    pieces = [parts == i + 1 for i in range(n)]
    least = max(LEAST_CELLS, 0.1 * max((p.sum() for p in pieces), default=0))
    return [p for p in pieces if p.sum() >= least]


def as_elements(d: Description, most: int, first_key: int = 1) -> tuple[Element, ...]:
    """The largest things of a description as elements in boxes, what stands lower nearer; at most so many."""
    out: list[Element] = []
    for words, _, place in sorted(d.things[:most], key=lambda thing: thing[2][3]):
        n = 1 + sum(e.words == words for e in out)
        out.append(Element(first_key + len(out), words if n == 1 else f"{words} {n}", Outline("box", place), words))
    return tuple(out)
