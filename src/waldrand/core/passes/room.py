"""What is there in a picture, by name, and where there is room for what is new."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace

import numpy as np
from scipy import ndimage

from ..packs import Finder, Pack, Spot
from ..refused import Refused
from ..seen.cut_out import made_sharp
from ..seen.find import finder_of, looked
from ..seen.parts import Part, Thing, parts_seen, things_seen
from ..told.phrasing import ABOVE, AT, BEHIND, BELOW, BESIDE, BETWEEN, FRONT, LEFT, ON, RIGHT
from ..told.placing import with_places
from ..told.spoken import Named, Place
from ..values.element import Element, phrases
from ..values.frame import Rect
from ..values.outline import Box, Outline
from ..values.sheet import Sheet
from ..worded import worded

#: What of a thing's mask is less than this counts as none of it.
SEEN_GREY = 100
#: A gap between neighbours, in shares of the new one's width.
GAP = 0.12
#: A new thing is at most so many times as high as what it stands on, or beside.
LARGEST_ON, LARGEST_BESIDE = 0.45, 1.6
#: How far beyond its box a new thing's mask fades.
FADE = 22
#: A new thing that nobody knows the size of: its height in shares of the sheet's.
USUAL = 0.3
#: Things of one kind that a wish about "the" thing means at most.
MOST_MEANT = 6


class Room:
    """Keeps what was seen, what is new, and what is gone, from wish to wish."""

    def __init__(self, sheet: Sheet, pack: Pack, seed: int) -> None:
        self._sheet, self._pack, self._seed = sheet, pack, seed
        self._finder: Finder = finder_of(pack)
        self._picture = sheet.flatten()
        self._seen: dict[str, list[Part]] = {}
        self._new: list[tuple[str, Rect]] = []
        self._scene = sheet.scene.words
        self._things: list[Thing] | None = None

    # --- what is there

    def _all(self, thing: Named) -> list[Part]:
        """Everything of a thing's kind that is seen, and was made so by an earlier wish, the largest first."""
        for other in thing.others:
            # Of several kinds that go by one word, the one that is there.
            if not self._all_of(thing) and self._all_of(replace(thing, label=other)):
                return self._all_of(replace(thing, label=other))
        return self._all_of(thing)

    def _all_of(self, thing: Named) -> list[Part]:
        name = thing.label
        if name not in self._seen:
            self._seen[name] = (
                [] if not self._sheet.has_picture else sorted(parts_seen(self._picture, name, self._pack), key=lambda p: -p.size)
            )
        made = [_part(name, rect, self._sheet) for label, rect in self._new if label == name]
        parts = [*self._seen[name], *made]
        if thing.colour:
            coloured = [p for p in parts if p.owner is not None and p.owner.label == name and p.owner.colour == thing.colour]
            parts = coloured or parts
        return parts

    def _meant(self, thing: Named) -> list[Part]:
        """The ones that are meant.

        Raises:
            Refused: none is seen.
        """
        parts = self._all(thing)
        if not parts:
            raise Refused(worded("No “{0}” is seen in the picture.", thing.words))
        by: Mapping[str, Callable[[Part], float]] = {
            "left": lambda p: p.box.x0 + p.box.x1,
            "right": lambda p: -p.box.x0 - p.box.x1,
            "upper": lambda p: p.box.y0 + p.box.y1,
            "lower": lambda p: -p.box.y0 - p.box.y1,
            "smallest": lambda p: p.box.area,
            "largest": lambda p: -p.box.area,
        }
        if thing.which:
            parts = sorted(parts, key=by[thing.which])
        return parts[:MOST_MEANT] if thing.all else parts[: max(1, thing.count if thing.definite else 1)]

    def _mask(self, part: Part, grown: int) -> np.ndarray:
        solid = ndimage.binary_dilation(part.mask > SEEN_GREY, iterations=grown)
        return np.where(solid, 255, 0).astype(np.uint8)

    def _sharp(self, part: Part) -> np.ndarray:
        """A thing's mask with its own edge, (H, W) uint8: what is moved shall bring nothing of its surroundings along."""
        if part.owner is None:
            return part.mask
        made = np.asarray(np.round(255 * made_sharp(self._picture, part.mask.astype(np.float32) / 255)), np.uint8)
        return made if (made > 127).any() else part.mask

    def _forget(self, part: Part, label: str) -> None:
        """What is gone or stands elsewhere now is not spoken of any more where it was."""
        self._seen[label] = [p for p in self._seen.get(label, []) if p is not part]
        self._new = [(name, rect) for name, rect in self._new if not (name == label and rect == part.box)]

    # --- new things and their places

    def _room_for(self, thing: Named, place: Place | None, turn: int) -> Box:
        """Where the next new thing goes. turn: how many of them have a place already."""
        w, h = self._sheet.width, self._sheet.height
        if place is None or place.relation == AT:
            box = self._wont(thing)
            if place is not None:
                x, y = place.at
                box = shifted(
                    box,
                    0 if x is None else x * w - (box[0] + box[2]) / 2,
                    0 if y is None else y * h - (box[1] + box[3]) / 2,
                )
                box = self._clear(box) if x is None else self._clear_of_new(box, thing, turn)
            return inside(box, w, h)
        wide, tall = self._size(thing, place.of[0], place.relation == ON)
        return inside(self._beside(place, wide, tall, turn), w, h)

    def _clear(self, box: Box) -> Box:
        """The same to the left or right, where it lies least over what is there, and near where it was."""
        w, wide = self._sheet.width, box[2] - box[0]
        there = [*(t.box for t in self._seen_things()), *(rect for _, rect in self._new)]

        def against(x: float) -> float:
            rect = rounded((x, box[1], x + wide, box[3]))
            return sum(rect.intersect(r).area for r in there) / rect.area + 0.3 * abs(x - box[0]) / w

        x = min((float(v) for v in np.linspace(0, max(0.0, w - wide), 17)), key=against)
        return (x, box[1], x + wide, box[3])

    def _clear_of_new(self, box: Box, thing: Named, turn: int) -> Box:
        """The same beside those of its kind that have just got places."""
        if not turn:
            return box
        away = (box[2] - box[0]) * (1 + GAP) * ((turn + 1) // 2) * (-1 if turn % 2 else 1)
        return shifted(box, away, 0)

    def _spots(self, thing: Named) -> list[Spot]:
        places = self._pack.places
        label = None if places is None else places.label(thing.words)
        return [] if places is None or label is None else places.spots(label, [*phrases(self._scene), thing.words])

    def _wont(self, thing: Named) -> Box:
        """Where such a thing is wont to be, apart from what is there; about its usual size in the middle where nobody knows."""
        w, h = self._sheet.width, self._sheet.height
        there = [*(t.box for t in self._seen_things()), *(rect for _, rect in self._new)]
        if self._pack.places is not None and self._spots(thing):
            keys = range(1, len(there) + 1)
            beside = tuple(
                Element(k, f"e{k}", Outline("box", (float(r.x0), float(r.y0), float(r.x1), float(r.y1))))
                for k, r in zip(keys, there, strict=True)
            )
            bare = Sheet(
                w, h, elements=beside, scene=replace(self._sheet.scene, words=f"{thing.words}, {self._scene_whole()}", emphasis=())
            )
            made = with_places(bare, self._pack.places, self._seed, len(beside) + 1).elements[len(beside) :]
            if made:
                return made[0].outline.box
        side = USUAL * min(w, h)
        return ((w - side) / 2, 0.92 * h - side, (w + side) / 2, 0.92 * h)

    def _scene_whole(self) -> str:
        """Of the scene's words what names no thing."""
        return ", ".join(
            p for p in phrases(self._scene) if not self._finder.labels_of(p) or self._finder.labels_of(p)[0] in self._grounds()
        )

    def _grounds(self) -> set[int]:
        return {i for i, label in enumerate(self._finder.labels) if label in self._finder.grounds}

    def _seen_things(self) -> list[Thing]:
        """The things that are there, the largest first."""
        if self._things is None and not self._sheet.has_picture:
            self._things = []
        if self._things is None:
            h, w = self._picture.shape[:2]
            self._things = things_seen(looked(self._picture, self._pack, placed=True)[0], self._finder, h, w)
        return self._things

    def _size(self, thing: Named, beside: Named, on: bool) -> tuple[float, float]:
        """Width and height of a new thing: as it is wont to be against what it stands beside."""
        h = self._sheet.height
        spots = self._spots(thing)
        sides = [(s.box[2] - s.box[0], s.box[3] - s.box[1]) for s in spots]
        wide, tall = (float(np.median([s[i] for s in sides])) for i in (0, 1)) if sides else (USUAL, USUAL)
        of = [s.box[3] - s.box[1] for s in self._spots(beside)]
        k = 1.0
        if of:
            k = (self._meant(beside)[0].box.height / h) / float(np.median(of))
        k = min(max(k, 0.4), 1.8)
        # What stands on something is smaller than that.
        most = LARGEST_ON if on else LARGEST_BESIDE
        k = min(k, most * self._meant(beside)[0].box.height / max(1.0, tall * h))
        return wide * h * k, tall * h * k

    def _beside(self, place: Place, wide: float, tall: float, turn: int) -> Box:
        """A box of that size beside what a place speaks of. turn: how many lie between already."""
        ref = self._meant(place.of[0])[0].box
        gap = GAP * max(wide, ref.width * 0.3)
        away = gap + turn * wide * (1 + GAP)
        middle, foot = (ref.x0 + ref.x1) / 2, float(ref.y1)
        relation = place.relation
        if relation == BESIDE:
            # On the side where there is more room.
            relation = (LEFT if ref.x0 > self._sheet.width - ref.x1 else RIGHT) if turn % 2 == 0 else (
                RIGHT if ref.x0 > self._sheet.width - ref.x1 else LEFT
            )  # fmt: skip
            away = gap + (turn // 2) * wide * (1 + GAP)
        match relation:
            case "left":
                x0, y1 = ref.x0 - away - wide, foot
            case "right":
                x0, y1 = ref.x1 + away, foot
            case _ if relation == ABOVE:
                x0, y1 = middle - wide / 2 + _fan(turn, wide), ref.y0 - gap
            case _ if relation == ON:
                x0, y1 = middle - wide / 2 + _fan(turn, wide), ref.y0 + 0.12 * tall
            case _ if relation == BELOW:
                x0, y1 = middle - wide / 2 + _fan(turn, wide), ref.y1 + gap + tall
            case _ if relation == FRONT:
                x0, y1 = middle - wide / 2 + _fan(turn, wide), foot + max(0.35 * tall, 0.06 * self._sheet.height)
            case _ if relation == BEHIND:
                side = -1 if ref.x0 > self._sheet.width - ref.x1 else 1
                x0, y1 = middle - wide / 2 + side * 0.55 * ref.width + _fan(turn, wide), foot - 0.12 * ref.height
            case _ if relation == BETWEEN:
                other = self._meant(place.of[1])[-1 if place.of[1].label == place.of[0].label else 0].box
                x0 = (middle + (other.x0 + other.x1) / 2) / 2 - wide / 2 + _fan(turn, wide)
                y1 = (ref.y1 + other.y1) / 2
            case _:
                raise AssertionError(relation)
        return (x0, y1 - tall, x0 + wide, y1)


def _fan(turn: int, wide: float) -> float:
    """Aside by turns: 0, to the right, to the left, ..."""
    return ((turn + 1) // 2) * (1 if turn % 2 else -1) * wide * (1 + GAP)


def _part(name: str, rect: Rect, sheet: Sheet) -> Part:
    """A thing that an earlier wish makes, as if it were seen: its whole box."""
    return Part(name, boxed(rect, sheet, 0.0), rect, 1.0, rect.area / sheet.rect.area, None)


def boxed(rect: Rect, sheet: Sheet, room: float) -> np.ndarray:
    """A mask of a box with room round it, (H, W) uint8."""
    mask = np.zeros((sheet.height, sheet.width), np.uint8)
    more = round(room * max(rect.width, rect.height))
    grown = Rect(rect.x0 - more, rect.y0 - more, rect.x1 + more, rect.y1 + more).intersect(sheet.rect)
    mask[grown.slices] = 255
    if not room:
        return mask
    # Softly, so that no box shows: what lies farther off is painted more weakly.
    away = ndimage.distance_transform_edt(mask == 0)
    return np.asarray(np.round(255 * np.clip(1 - away / FADE, 0, 1)), np.uint8)


def shifted(box: Box, dx: float, dy: float) -> Box:
    return box[0] + dx, box[1] + dy, box[2] + dx, box[3] + dy


def inside(box: Box, width: int, height: int) -> Box:
    """A box no larger than the sheet, moved into it."""
    w, h = min(box[2] - box[0], 0.96 * width), min(box[3] - box[1], 0.96 * height)
    x = min(max(box[0], 0.0), width - w)
    y = min(max(box[3] - h, 0.0), height - h)
    return x, y, x + w, y + h


def rounded(box: Box) -> Rect:
    x0, y0, x1, y1 = (round(v) for v in box)
    return Rect(x0, y0, max(x1, x0 + 8), max(y1, y0 + 8))
