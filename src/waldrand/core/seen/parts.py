"""Things, and parts of things, that a picture shows: each by itself, with how surely it is seen and whose part it is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from ..packs import Finder, Pack
from ..picture.resample import resize_mask
from ..refused import Refused
from ..values.frame import Rect
from ..worded import worded
from .find import LEAST_CELLS, LEAST_WINDOW, SEEN, finder_of, from_nearer, looked, phrase_map, pieces_of, thing_labels

#: Parts are looked for round so many of the largest things, in a square so many times as wide as each.
MOST_ROUND, ROUND = 10, 1.3
#: Pieces of a part that lie nearer to each other than so many times their own width are one: two eyes, the windows of a house.
TOGETHER = 1.2
#: A piece of fewer pixels a side is a speck.
LEAST_SIDE = 3


@dataclass(frozen=True, eq=False)
class Thing:
    """label: the finder's; box: of what is seen of it, in pixels; colour: the one that covers most of it, "" where none is sure."""

    label: str
    box: Rect
    colour: str

    @property
    def words(self) -> str:
        return f"{self.colour} {self.label}" if self.colour else self.label


@dataclass(frozen=True, eq=False)
class Part:
    """name: as it was asked for; mask: (H, W) uint8, soft; box: of it; sureness: 0..1; size: share of the picture; owner: whose part it
    is, None where nothing is seen there, itself where it is a whole thing."""

    name: str
    mask: np.ndarray
    box: Rect
    sureness: float
    size: float
    owner: Thing | None


def things_seen(maps: np.ndarray, finder: Finder, height: int, width: int) -> list[Thing]:
    """All things in the finder's maps (K, h, w) of a picture of that size, largest first."""
    ky, kx = height / maps.shape[1], width / maps.shape[2]
    colours = [i for i, label in enumerate(finder.labels) if label in finder.colours]
    out: list[Thing] = []
    for i in thing_labels(finder):
        pieces, n = pieces_of(maps[i] > SEEN)
        for k, found in enumerate(ndimage.find_objects(pieces, n), 1):
            own = pieces == k
            if own.sum() < LEAST_CELLS:
                continue
            ys, xs = found
            box = Rect(int(xs.start * kx), int(ys.start * ky), int(np.ceil(xs.stop * kx)), int(np.ceil(ys.stop * ky)))
            share, colour = max(((float(maps[j][own].mean()), finder.labels[j]) for j in colours), default=(0.0, ""))
            out.append(Thing(finder.labels[i], box, colour if share > SEEN else ""))
    return sorted(out, key=lambda t: -t.box.area)


def parts_seen(picture: np.ndarray, name: str, pack: Pack) -> list[Part]:
    """Everything in a picture (H, W, 3 or 4) uint8 that goes by a name: a part of things ("face", "girl's eyes") or things ("owl"), the
    surest first. Parts are looked for from nearer too, round the things that the picture shows.

    Raises:
        Refused: the pack has no finder, or it knows neither a part nor a thing of that name.
    """
    finder = finder_of(pack)
    h, w = picture.shape[:2]
    part, of = finder.part_of(name)
    labels = finder.labels_of(of if part is not None else name)
    if part is None and not labels:
        known = ", ".join(parts_known(pack))
        more = worded(" It knows the parts {0}.", known) if known else ""
        raise Refused(worded("The finder knows no part or thing called “{0}”.", name) + more)
    maps, _ = looked(picture, pack, placed=True)
    things = things_seen(maps, finder, h, w)
    if part is None:
        rough = _large(phrase_map(maps, labels), h, w)
        seen = from_nearer(picture, rough, labels, pack) if (rough > 0.5).any() else rough
    else:
        owners = [t for t in things if not labels or t.label == finder.labels[labels[0]]]
        seen = _of_parts(picture, part, owners, _large(maps[part], h, w) if not labels else None, pack)
        # A window in a wall is a thing, one of a house a part.
        seen = np.maximum(seen, _large(phrase_map(maps, same), h, w)) if (same := finder.labels_of(name)) and not labels else seen
    return sorted(_pieces(seen, name, things, together=part is not None), key=lambda p: -p.sureness)


def parts_known(pack: Pack) -> tuple[str, ...]:
    """The names of parts that a pack's finder tells apart."""
    finder = finder_of(pack)
    return tuple(label for label in finder.labels if label in finder.parts)


def _large(m: np.ndarray, height: int, width: int) -> np.ndarray:
    """A map of cells at a picture's size."""
    zoom = (height / m.shape[0], width / m.shape[1])
    return np.asarray(ndimage.zoom(m, zoom, order=1, grid_mode=True, mode="nearest"), np.float32).clip(0, 1)


def _square(box: Rect, height: int, width: int) -> Rect:
    """About a box, with room round it, inside the picture."""
    side = max(ROUND * max(box.width, box.height), LEAST_WINDOW * min(height, width))
    w, h = (min(limit, round(side)) for limit in (width, height))
    x = min(max(0, round((box.x0 + box.x1 - w) / 2)), width - w)
    y = min(max(0, round((box.y0 + box.y1 - h) / 2)), height - h)
    return Rect(x, y, x + w, y + h)


def _of_parts(picture: np.ndarray, part: int, owners: list[Thing], whole: np.ndarray | None, pack: Pack) -> np.ndarray:
    """How surely a part is seen in each pixel, (H, W): what is seen from nearer counts more, by how much nearer that is."""
    h, w = picture.shape[:2]
    total, count = np.zeros((h, w)), np.zeros((h, w))
    if whole is not None:
        total, count = whole / (h * w), np.full((h, w), 1 / (h * w))
    for thing in owners[:MOST_ROUND]:
        at = _square(thing.box, h, w)
        maps, _ = looked(picture[at.slices], pack)
        share = 1 / at.area
        total[at.slices] += share * _large(maps[part], at.height, at.width)
        count[at.slices] += share
    return np.divide(total, count, out=np.zeros((h, w)), where=count > 0).astype(np.float32)


def _pieces(seen: np.ndarray, name: str, things: list[Thing], together: bool) -> list[Part]:
    """The pieces of a map of pixels (H, W), each by itself."""
    h, w = seen.shape
    solid = seen > SEEN
    pieces, n = ndimage.label(solid, np.ones((3, 3)))
    boxes: list[tuple[slice, slice]] = [(found[0], found[1]) for found in ndimage.find_objects(pieces, n)]
    wide = [min(ys.stop - ys.start, xs.stop - xs.start) for ys, xs in boxes]
    if together and n > 1:
        # Those that lie near each other, measured by the smaller one, are one.
        pieces = _joined(pieces, boxes, wide)
    out = []
    for k, found in enumerate(ndimage.find_objects(pieces), 1):
        if found is None:
            continue
        ys, xs = found
        box = Rect(xs.start, ys.start, xs.stop, ys.stop)
        own = pieces == k
        if min(box.width, box.height) < LEAST_SIDE:
            continue
        near = ndimage.binary_dilation(own, iterations=max(1, round(0.1 * max(box.width, box.height))))
        mask = np.where(near & ((pieces == 0) | own), np.clip((seen - 0.25) * 4, 0, 1), 0)
        grey = np.asarray(np.round(255 * np.maximum(mask, own)), np.uint8)
        owner = _owner(box, things)
        out.append(Part(name, grey, box, float(seen[own].mean()), float(own.sum() / (h * w)), owner))
    return out


def _joined(pieces: np.ndarray, boxes: list[tuple[slice, slice]], wide: list[int]) -> np.ndarray:
    """Numbered pieces with one number for those that lie near each other."""
    to = list(range(len(boxes)))

    def root(i: int) -> int:
        while to[i] != i:
            i = to[i]
        return i

    for i, a in enumerate(boxes):
        for j in range(i):
            b = boxes[j]
            gap = max(*(max(p.start - q.stop, q.start - p.stop, 0) for p, q in zip(a, b, strict=True)))
            if gap <= TOGETHER * max(wide[i], wide[j]):
                to[root(i)] = root(j)
    numbers = np.array([0, *(root(i) + 1 for i in range(len(boxes)))])
    return np.asarray(numbers[pieces])


def _owner(box: Rect, things: list[Thing]) -> Thing | None:
    """The smallest thing that holds most of a box."""
    holding = [t for t in things if t.box.intersect(box).area > 0.6 * box.area]
    return min(holding, key=lambda t: t.box.area, default=None)


def covered_share(mask: np.ndarray, outline: np.ndarray) -> float:
    """How much of a mask (H, W) uint8 an outline (h, w) 0..1 of the same place covers."""
    m = mask.astype(np.float32) / 255
    return float((m * resize_mask(outline, *m.shape)).sum() / max(1e-6, m.sum()))
