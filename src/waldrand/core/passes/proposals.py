"""From what a sentence wishes to passes over a picture: masks, places, words and their order, from what the finder sees."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..packs import Finder, Pack
from ..refused import Refused
from ..seen.parts import Part, parts_seen
from ..told.naming import contains
from ..told.phrasing import AT
from ..told.sentence import ADD, ALTER, MOVE, REMOVE, REPLACE, SIZE, TOUCH, WHOLE, Wish
from ..told.spoken import Named, Place
from ..values.element import Element, phrases
from ..values.frame import Rect
from ..values.masks import Mask
from ..values.outline import Box, Outline
from ..values.sheet import Sheet
from ..worded import worded
from .room import Room, boxed, inside, rounded, shifted

#: Pixels beyond a thing's edge that are painted with it: taken away, altered.
ROUND_GONE, ROUND_ALTERED = 14, 5
#: Room round a new thing's box, in shares of its longer side; how far a move goes, in shares of the sheet.
ROOM, STEP = 0.08, 0.22
#: Strengths: of what is altered in its own lines, of parts that get something new, of parts that are only touched up.
ALTERED, PART_NEW, PART_SAME = 0.85, 0.8, 0.45
#: How strongly the picture is held on to while the whole becomes something else.
HELD = 0.25
#: Things that the picture shows are told so many of, where the whole becomes something else.
MOST_TOLD = 10


@dataclass(frozen=True, eq=False)
class Proposed:
    """A pass that a wish comes to. told, short: what it does, in a sentence and for a list; kind: of pass, by name; words, strength,
    more: what is asked for; mask: (H, W) uint8 where it paints, None: everywhere; box: of what it is about, on the sheet;
    words_of_scene: what the scene's words become, None: what they are; things: what is there and stays, as elements, where the sheet
    has none."""

    told: str
    short: str
    kind: str
    words: str
    strength: float
    box: Rect
    mask: np.ndarray | None = None
    more: tuple[tuple[str, Any], ...] = ()
    words_of_scene: str | None = None
    things: tuple[Element, ...] = ()


def proposals(sheet: Sheet, wishes: Sequence[Wish], pack: Pack, seed: int) -> tuple[Proposed, ...]:
    """What wishes come to on a sheet with a picture, in their order. seed: of places that are drawn by chance.

    Raises:
        Refused: a thing that is spoken of is not seen, or there is no room.
    """
    return _Proposing(sheet, pack, seed).all_of(wishes)


class _Proposing(Room):
    """Every wish in turn."""

    def all_of(self, wishes: Sequence[Wish]) -> tuple[Proposed, ...]:
        by: dict[str, Callable[[Wish], list[Proposed]]] = {
            ADD: self._added,
            REMOVE: self._removed,
            ALTER: self._altered,
            REPLACE: self._replaced,
            MOVE: self._moved,
            SIZE: self._sized,
            WHOLE: self._whole,
            TOUCH: self._touched,
        }
        return tuple(one for wish in wishes for one in by[wish.verb](wish))

    # --- wishes

    def _removed(self, wish: Wish) -> list[Proposed]:
        assert wish.thing is not None
        out = []
        for part in self._meant(wish.thing):
            told = worded("takes the {0} away", wish.thing.words)
            out.append(Proposed(told, worded("away: {0}", wish.thing.words), "inpaint", "", 1.0, part.box, self._mask(part, ROUND_GONE)))
            self._forget(part, wish.thing.label)
        return out

    def _altered(self, wish: Wish) -> list[Proposed]:
        assert wish.thing is not None
        words = _said(wish.new, wish.thing.label, self._finder)
        return [
            Proposed(
                worded("makes the {0} {1}", wish.thing.label, wish.new),
                worded("{0}: {1}", wish.thing.label, wish.new),
                "inpaint",
                words,
                ALTERED,
                part.box,
                self._mask(part, ROUND_ALTERED),
                (("keep_lines", True),),
            )
            for part in self._meant(wish.thing)
        ]

    def _replaced(self, wish: Wish) -> list[Proposed]:
        assert wish.thing is not None
        out = []
        for part in self._meant(wish.thing):
            mask = np.maximum(self._mask(part, ROUND_GONE), boxed(part.box, self._sheet, ROOM))
            told, short = worded("turns the {0} into: {1}", wish.thing.words, wish.new), worded("{0}: {1}", wish.thing.words, wish.new)
            out.append(Proposed(told, short, "inpaint", wish.new, 1.0, part.box, mask, (("form", False),)))
            self._forget(part, wish.thing.label)
            self._add_new(wish.new, part.box)
        return out

    def _add_new(self, words: str, rect: Rect) -> None:
        labels = self._finder.labels_of(words)
        self._new.append((self._finder.labels[labels[0]] if labels else words, rect))

    def _moved(self, wish: Wish) -> list[Proposed]:
        assert wish.thing is not None
        assert wish.place is not None
        out = []
        for part in self._meant(wish.thing):
            to = self._moved_to(part, wish.place)
            dx, dy = round((to[0] + to[2] - part.box.x0 - part.box.x1) / 2), round((to[1] + to[3] - part.box.y0 - part.box.y1) / 2)
            told = worded("moves the {0} by {1}, {2} pixels", wish.thing.words, dx, dy)
            mask = self._sharp(part)
            short = worded("move: {0} {1}, {2}", wish.thing.words, dx, dy)
            out.append(Proposed(told, short, "shift", "", 0.5, part.box, mask, (("right", float(dx)), ("down", float(dy)))))
            self._forget(part, wish.thing.label)
            self._new.append((wish.thing.label, part.box.moved(dx, dy)))
        return out

    def _moved_to(self, part: Part, place: Place) -> Box:
        """Where a thing comes to lie, inside the sheet."""
        b, (w, h) = part.box, (self._sheet.width, self._sheet.height)
        box: Box = (float(b.x0), float(b.y0), float(b.x1), float(b.y1))
        if place.relation != AT:
            box = self._beside(place, b.width, b.height, 0)
        elif place.at in _STEPS:
            dx, dy = place.at
            far = place.much * STEP
            box = shifted(box, (dx or 0) * far * w, (dy or 0) * far * h)
        else:
            x, y = place.at
            box = shifted(
                box,
                0 if x is None else x * w - (box[0] + box[2]) / 2,
                0 if y is None else y * h - (box[1] + box[3]) / 2,
            )
        return inside(box, w, h)

    def _sized(self, wish: Wish) -> list[Proposed]:
        assert wish.thing is not None
        out = []
        for part in self._meant(wish.thing):
            b = part.box
            # What stands keeps its foot.
            down = b.height * (1 - wish.times) / 2
            more = (("right", 0.0), ("down", float(round(down))), ("times", wish.times))
            told = worded("makes the {0} {1:.2g} times as large", wish.thing.words, wish.times)
            out.append(
                Proposed(told, worded("size: {0} {1:.2g}", wish.thing.words, wish.times), "shift", "", 0.5, b, self._sharp(part), more)
            )
        return out

    def _whole(self, wish: Wish) -> list[Proposed]:
        words = self._scene_with(wish.new)
        self._scene = words
        told = worded("makes the whole: {0}", wish.new)
        return [
            Proposed(
                told,
                worded("whole: {0}", wish.new),
                "rework",
                "",
                1.0,
                self._sheet.rect,
                None,
                (("own_noise", True), ("hold", HELD), ("hold_course", "falling")),
                words,
                self._as_elements(),
            )
        ]

    def _as_elements(self) -> tuple[Element, ...]:
        """What the picture shows, each thing in its own shape, what stands lower nearer: else a new sky would paint them over."""
        labels = list(dict.fromkeys(t.label for t in self._seen_things()))[:MOST_TOLD]
        parts = sorted((p for label in labels for p in self._all_of(Named(label, label))), key=lambda p: p.box.y1)
        out = []
        for key, p in enumerate(parts[-MOST_TOLD:], 1):
            b = p.box
            outline = Outline("mask", (float(b.x0), float(b.y0), float(b.x1), float(b.y1)), mask=p.mask[b.slices])
            words = p.name if p.owner is None or p.owner.label != p.name else p.owner.words
            out.append(Element(key, words, outline, words, feather=0.0))
        return tuple(out)

    def _scene_with(self, new: str) -> str:
        """The scene's words with something else said: of what stands under one heading, the picture is one at a time."""

        def ids(text: str) -> tuple[int, ...]:
            return tuple(self._pack.read(text)[0])

        said, known = ids(new), {**{p: i for i, group in enumerate(self._pack.groups().values()) for p in group}}
        of_whole = {*self._finder.whole, *self._finder.grounds}
        ours = {known[p] for p in known if p in of_whole and contains(said, ids(p))}

        def goes(phrase: str) -> bool:
            return any(known[p] in ours and contains(ids(phrase), ids(p)) for p in known if p in of_whole)

        kept = [p for p in phrases(self._scene) if not goes(p)]
        return ", ".join((*kept, new))

    def _touched(self, wish: Wish) -> list[Proposed]:
        words, of = wish.new, wish.part
        text = f"{of} = {words}" if words else of
        parts = parts_seen(self._picture, of, self._pack)
        if not parts:
            raise Refused(worded("No “{0}” is seen in the picture.", of))
        told = worded("gives the {0}: {1}", wish.thing.label, words) if wish.thing is not None else worded("touches up the {0}", of)
        box = parts[0].box
        for part in parts[1:]:
            box = box.around(part.box)
        return [
            Proposed(
                told,
                worded("{0}: {1}", of, words) if words else of,
                "touch-up",
                "",
                PART_NEW if words else PART_SAME,
                box,
                None,
                (("parts", text),),
            )
        ]

    # --- new things and their places

    def _added(self, wish: Wish) -> list[Proposed]:
        assert wish.thing is not None
        out = []
        for i in range(wish.thing.count):
            box = self._room_for(wish.thing, wish.place, i)
            rect = rounded(box)
            mask = boxed(rect, self._sheet, ROOM)
            n = worded(" ({0} of {1})", i + 1, wish.thing.count) if wish.thing.count > 1 else ""
            told, short = (worded(text, wish.thing.words, n) for text in ("adds: {0}{1}", "new: {0}{1}"))
            out.append(Proposed(told, short, "inpaint", wish.thing.words, 1.0, rect, mask))
            self._new.append((wish.thing.label, rect))
        return out


#: Ways of a move, one step.
_STEPS = {(-1.0, None), (1.0, None), (None, -1.0), (None, 1.0)}


def _said(new: str, label: str, finder: Finder) -> str:
    """What a thing is told to be, its name with it."""
    return new if finder.labels_of(new) else f"{new} {label}"


def masked(sheet: Sheet, one: Proposed) -> Sheet:
    """The sheet that a proposed pass runs on."""
    if one.things and not sheet.elements:
        first = sheet.next_key()
        sheet = replace(sheet, elements=tuple(replace(e, key=first + i) for i, e in enumerate(one.things)))
    scene = sheet.scene if one.words_of_scene is None else replace(sheet.scene, words=one.words_of_scene, emphasis=())
    return replace(sheet, mask=None if one.mask is None else Mask.from_array(one.mask), scene=scene)
