"""Places for things that so far are only named: words of the scene become elements, each where such a thing is wont to be.

A model that is told things by words alone has to find places for all of them while it paints, and paints some twice and
runs others together. Places decided beforehand can be seen, and moved.
"""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from functools import lru_cache

import numpy as np

from ..noise.noise import PLACE
from ..packs import Ids, Pack, Places, Spot, Told
from ..refused import Refused
from ..values.element import Element, phrases
from ..values.emphasis import carried
from ..values.outline import Box, Outline
from ..values.sheet import Sheet
from ..worded import worded
from .naming import contains, named, said_of

#: Arrangements that are drawn; how often each thing then moves; where hardly more speaks against one than against the best, chance decides.
TRIED, SWEEPS, HARDLY = 300, 2, 0.15
#: What speaks against an arrangement: shares of things that lie in others; horizons that differ, in shares of the sheet's height;
#: sides that are less of the sheet's than LARGE, or less where things are many; all leaning to one side, in shares of its width.
CROWDED, TILTED, TINY, LEANING = 8.0, 3.0, 4.0, 0.5
LARGE, MANY = 0.42, -0.2
#: How wide a sheet may be against its height before things keep to its height alone.
WIDEST = 1.1

Read = Callable[[str], tuple[Sequence[int], Sequence[object]]]


class PlaceBook:
    """Where a pack's things are wont to be. spots: by a thing's words; whole: phrases that describe a whole picture; read: word ids
    of a phrase, and the words that are not known."""

    def __init__(self, spots: Mapping[str, Sequence[Spot]], whole: Sequence[str], read: Read) -> None:
        # Forecasts are made anew at every change, mostly of the same words.
        self._read: Read = lru_cache(4096)(read)
        self._spots = {ids: tuple(of) for label, of in spots.items() if of and (ids := self._ids(label))}
        self._whole = tuple(ids for phrase in whole if (ids := self._ids(phrase)))

    def _ids(self, text: str) -> Ids:
        return tuple(self._read(text)[0])

    def _things(self, text: str) -> tuple[Ids, ...]:
        return named(self._ids(text), self._spots)

    def _is_joint(self, words: Sequence[str], i: int) -> bool:
        """Whether a word only joins others: it says nothing, not even as part of what they say."""
        ids, unknown = self._read(words[i])
        return not ids and not unknown and self._ids(" ".join(words)) == self._ids(" ".join((*words[:i], *words[i + 1 :])))

    def _pieces(self, phrase: str) -> list[str]:
        """A phrase cut at the words that join others, and between things, so that no piece names two."""
        words, out = phrase.split(), [""]
        joints = [self._is_joint(words, i) for i in range(len(words))]
        for word, joint in zip(words, joints, strict=True):
            both = f"{out[-1]} {word}".strip()
            if joint:
                out.append("")
            elif len(self._things(both)) > 1:
                out.append(word)
            else:
                out[-1] = both
        return [piece for piece in out if piece]

    def told(self, words: str) -> Told:
        """Words taken apart: what is said of a thing goes with it, what is said of the whole stays."""
        things: list[tuple[str, Ids]] = []
        rest: list[str] = []
        for phrase in phrases(words):
            pieces = self._pieces(phrase)
            if not any(map(self._things, pieces)) and not (things and self._is_trait(phrase)):
                rest.append(phrase)
                continue
            before, waiting = len(things), list[str]()
            for piece in pieces:
                if found := self._things(piece):
                    things.append((", ".join((piece, *waiting)), found[0]))
                    waiting = []
                elif not self._is_trait(piece):
                    rest.append(piece)
                elif len(things) > before:
                    things[-1] = f"{things[-1][0]}, {piece}", things[-1][1]
                else:
                    waiting.append(piece)
            if waiting:
                things[-1] = ", ".join((things[-1][0], *waiting)), things[-1][1]
        return Told(tuple(things), ", ".join(rest))

    def _is_trait(self, text: str) -> bool:
        """Whether something is said that is neither a thing nor of the whole."""
        ids = self._ids(text)
        return bool(ids) and not any(contains(ids, phrase) for phrase in self._whole)

    def spots(self, label: Ids, said: Sequence[str]) -> list[Spot]:
        """The spots of a kind that suit best what some phrases say; those whose needs are not said only where there are no others."""
        true = said_of({p for s in self._spots[label] for p in s.where | s.needs}, said, self._ids)
        meant = [s for s in self._spots[label] if s.needs <= true] or list(self._spots[label])
        most = max(len((s.where | s.needs) & true) for s in meant)
        return [s for s in meant if len((s.where | s.needs) & true) == most]

    def label(self, words: str) -> Ids | None:
        """The one thing that an element's words name; None where they name none, or several."""
        found = {label for p in phrases(words) for label in self._things(p)}
        return found.pop() if len(found) == 1 else None


def places_of(pack: Pack) -> Places:
    """Raises Refused when the pack has none."""
    if pack.places is None:
        raise Refused(
            worded(
                "This pack does not say where things are wont to be ({0} {1}): draw outlines for them.", pack.info.name, pack.info.version
            )
        )
    return pack.places


def things_to_place(sheet: Sheet, places: Places) -> tuple[str, ...]:
    """What the scene's words name that could be given a place of its own."""
    return tuple(words for words, _ in places.told(sheet.scene.words).things)


def as_elements_say(sheet: Sheet, places: Places) -> Sheet:
    """The sheet with those things left out of its scene's words that are elements already: a fox in a meadow, and a fox drawn there, are
    one fox."""
    there, told = Counter(places.label(e.words) for e in sheet.elements), places.told(sheet.scene.words)
    left = []
    for words, label in told.things:
        if there[label]:
            there[label] -= 1
        else:
            left.append(words)
    if len(left) == len(told.things):
        return sheet
    words, scene = ", ".join((*left, *phrases(told.rest))), sheet.scene
    return replace(sheet, scene=replace(scene, words=words, emphasis=carried(scene.words, scene.emphasis, words)))


def with_places(sheet: Sheet, places: Places, seed: int, most: int) -> Sheet:
    """The sheet with elements for the things that its scene's words name and no element is yet, in boxes beside those there are; the scene
    keeps the rest of its words. most: elements that the sheet shall have altogether.

    Raises:
        Refused: the scene's words name nothing that has a place, or there are enough elements already.
    """
    if not places.told(sheet.scene.words).things:
        raise Refused(worded("The scene's words name no thing that could be given a place. Say some, like “fox, birch, lantern”."))
    sheet = as_elements_say(sheet, places)
    told, before = places.told(sheet.scene.words), sheet.scene
    if not told.things:
        return sheet
    room = most - len(sheet.elements)
    if room < 1:
        raise Refused(worded("There are {0} elements already, as many as the model can place at a time.", len(sheet.elements)))
    taken, left = told.things[:room], [words for words, _ in told.things[room:]]
    said = phrases(before.words)
    boxes = _arranged(sheet, [places.spots(label, [*said, words]) for words, label in taken], sheet.elements, seed)
    rest = ", ".join((*left, *phrases(told.rest)))
    sheet = replace(sheet, scene=replace(before, words=rest, emphasis=carried(before.words, before.emphasis, rest)))
    # What stands lower stands nearer.
    for (words, _), box in sorted(zip(taken, boxes, strict=True), key=lambda one: one[1][3]):
        name = words if all(e.name != words for e in sheet.elements) else next(n for n in sheet.free_names(words) if n != f"{words} 1")
        spans = carried(before.words, before.emphasis, words)
        sheet = sheet.with_element(Element(sheet.next_key(), name, Outline("box", box), words, emphasis=spans))
    return sheet


def placed_elsewhere(sheet: Sheet, keys: frozenset[int], places: Places, seed: int) -> Sheet:
    """The sheet with some of its elements moved to other places where such things are wont to be; those that are locked or whose
    words name no one thing stay.

    Raises:
        Refused: none of them names a thing that has a place.
    """
    moving = [(e, label) for e in sheet.elements if e.key in keys and not e.locked and not e.hold and (label := places.label(e.words))]
    if not moving:
        raise Refused(worded("Nothing chosen names one thing that could stand elsewhere."))
    said = phrases(sheet.scene.words)
    going = {e.key for e, _ in moving}
    spots = [places.spots(label, [*said, *phrases(e.words)]) for e, label in moving]
    boxes = _arranged(sheet, spots, [e for e in sheet.elements if e.key not in going], seed)
    for (e, _), box in zip(moving, boxes, strict=True):
        sheet = sheet.with_element(replace(e, outline=e.outline.with_box(box)))
    return sheet


def _on_sheet(spot: Spot, width: int, height: int) -> Box:
    """A spot's box on a sheet: as large as on a square of its height, or hardly wider, and wholly inside."""
    unit = min(height, WIDEST * width)
    x0, y0, x1, y1 = spot.box
    w, h = min((x1 - x0) * unit, width), min((y1 - y0) * unit, height)
    # What hangs keeps its middle, what stands its foot.
    hangs = spot.horizon is not None and y1 <= spot.horizon
    top = (y0 + y1) / 2 * height - h / 2 if hangs else y1 * height - h
    left = min(max((x0 + x1) / 2 * width - w / 2, 0.0), width - w)
    top = min(max(top, 0.0), height - h)
    return left, top, left + w, top + h


def _arranged(sheet: Sheet, spots: Sequence[Sequence[Spot]], beside: Sequence[Element], seed: int) -> list[Box]:
    """One spot of each row, as boxes on the sheet: an arrangement drawn by chance, in which one thing after another then moves to
    where little speaks against it."""
    rng = np.random.Generator(np.random.Philox(key=[seed, PLACE]))
    scale = np.array([sheet.width, sheet.height] * 2, float)
    boxes = [np.array([_on_sheet(s, sheet.width, sheet.height) for s in of]) / scale for of in spots]
    horizons = [np.array([np.nan if s.horizon is None else s.horizon for s in of]) for of in spots]
    fixed = np.array([e.outline.box for e in beside]).reshape(-1, 4) / scale
    # (things, arrangements): which of its spots each thing has.
    picks = np.stack([rng.integers(len(of), size=TRIED) for of in spots])

    def good(picks: np.ndarray) -> np.ndarray:
        """One of the arrangements, (things,)."""
        at = np.stack([b[i] for b, i in zip(boxes, picks, strict=True)]), np.stack([h[i] for h, i in zip(horizons, picks, strict=True)])
        against = _against(*at, fixed)
        return np.asarray(picks[:, int(rng.choice(np.flatnonzero(against <= against.min() + HARDLY)))])

    taken = good(picks)
    for i in [*range(len(spots))] * SWEEPS:
        options = np.repeat(taken[:, None], len(spots[i]), 1)
        options[i] = np.arange(len(spots[i]))
        taken = good(options)
    return [(float(x0), float(y0), float(x1), float(y1)) for x0, y0, x1, y1 in (b[i] * scale for b, i in zip(boxes, taken, strict=True))]


def _against(boxes: np.ndarray, horizons: np.ndarray, fixed: np.ndarray) -> np.ndarray:
    """What speaks against each of N arrangements, (N,). boxes: of things (T, N, 4) in shares of the sheet; horizons (T, N), NaN where
    none is seen; fixed (F, 4): boxes to keep clear of."""
    n = boxes.shape[1]
    there = [np.broadcast_to(f, (n, 4)) for f in fixed]
    pairs = (*itertools.combinations(boxes, 2), *itertools.product(boxes, there))
    against = CROWDED * sum((_shared(a, b) for a, b in pairs), np.zeros(n))
    seen = ~np.isnan(horizons)
    count = np.maximum(1, seen.sum(0))
    mean = np.where(seen, horizons, 0).sum(0) / count
    against += TILTED * (np.where(seen, np.abs(horizons - mean), 0).sum(0) / count)
    sides = np.sqrt((boxes[..., 2] - boxes[..., 0]) * (boxes[..., 3] - boxes[..., 1]))
    against += TINY * np.maximum(0, LARGE * len(boxes) ** MANY - sides).mean(0)
    against += LEANING * np.abs((boxes[..., 0] + boxes[..., 2]).mean(0) / 2 - 0.5)
    return np.asarray(against)


def _shared(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """The share of the smaller of two boxes (N, 4) each that lies in the other, (N,)."""
    sides = np.maximum(0, np.minimum(a[:, 2:], b[:, 2:]) - np.maximum(a[:, :2], b[:, :2]))
    least = np.minimum(*(np.prod(x[:, 2:] - x[:, :2], 1) for x in (a, b)))
    return np.asarray(np.prod(sides, 1) / np.maximum(least, 1e-9))
