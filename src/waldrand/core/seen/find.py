"""Finding things in a picture by words or at a point."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from ..packs import Finder, Pack
from ..picture.resample import resize_mask, resize_picture
from ..refused import Refused
from ..values.frame import whole_frame
from ..values.outline import Box
from ..worded import worded

#: From this certainty on a cell counts as seen. Settled on true scenes: with less, more things are found and more are misnamed.
SEEN = 0.4
#: A thing of fewer cells than this is taken for an error.
LEAST_CELLS = 2
#: So much of a thing in a mask is as good as all.
COVERED = 0.7
#: From nearer, things are looked at with room round them: so many times as wide as they are; the least of a window, in shares of the
#: picture's shorter side; and how many of a kind, the largest.
NEARER, LEAST_WINDOW, MOST_NEARER = (1.6, 2.2, 3.0), 0.18, 4
#: Where nothing is sure at a point, so much of the picture's shorter side round it is looked at, but not less than so many pixels.
CLOSE, LEAST_CLOSE = 0.6, 96


@dataclass(frozen=True, eq=False)
class Found:
    """phrase; mask: (H, W) uint8 over the picture; confidence 0..1; box of what is seen, or None when nothing is."""

    phrase: str
    mask: np.ndarray
    confidence: float
    box: Box | None


def finder_of(pack: Pack) -> Finder:
    """Raises Refused when the pack has none."""
    finder = pack.finder
    if finder is None:
        raise Refused(worded("The pack {0} {1} has no finder, so it cannot tell what a picture shows.", pack.info.name, pack.info.version))
    return finder


def thing_labels(finder: Finder) -> list[int]:
    """Which of its labels are things: neither what a thing can be nor what fills a picture."""
    return [i for i, label in enumerate(finder.labels) if label not in finder.traits and label not in finder.grounds]


def looked(picture: np.ndarray, pack: Pack, placed: bool = False) -> tuple[np.ndarray, np.ndarray]:
    """The finder's maps (K, h, w) of a picture (H, W, 3 or 4) uint8, and what it says of the whole (S,). placed: as finely as pictures
    are computed where figures tell what stands where."""
    h, w = picture.shape[:2]
    frame = whole_frame(w, h, pack.info.limits.placed if placed else pack.info.limits)
    rgb = resize_picture(picture[..., :3].astype(np.float32) / 255, frame.height, frame.width)
    return finder_of(pack).look(rgb)


def phrase_map(maps: np.ndarray, labels: Sequence[int]) -> np.ndarray:
    """How surely all of a phrase's labels are seen in each cell, (h, w): the least sure one decides."""
    return np.asarray(maps[list(labels)].min(0), np.float32)


def confidence(m: np.ndarray) -> float:
    """The mean certainty where it is seen; where it is not, the greatest."""
    solid = m > SEEN
    return float(m[solid].mean()) if solid.sum() >= LEAST_CELLS else float(min(m.max(), SEEN))


def seen_box(m: np.ndarray, height: int, width: int) -> Box | None:
    """Round all that is seen in a map of cells, on a picture of that size; None when nothing is."""
    solid = m > SEEN
    if solid.sum() < LEAST_CELLS:
        return None
    ys, xs = np.nonzero(solid)
    ky, kx = height / m.shape[0], width / m.shape[1]
    return xs.min() * kx, ys.min() * ky, (xs.max() + 1) * kx, (ys.max() + 1) * ky


def _grown(m: np.ndarray, height: int, width: int) -> np.ndarray:
    """A map of cells as a soft mask at the picture's size."""
    big = ndimage.zoom(m, (height / m.shape[0], width / m.shape[1]), order=1, grid_mode=True, mode="nearest")
    return np.asarray(np.round(np.clip((big - 0.25) * 2, 0, 1) * 255), np.uint8)


def find(picture: np.ndarray, phrase: str, pack: Pack) -> Found:
    """Where a thing is in a picture (H, W, 3 or 4) uint8.

    Raises:
        Refused: the pack has no finder, or the finder knows none of the words.
    """
    labels = finder_of(pack).labels_of(phrase)
    if not labels:
        raise Refused(worded("The finder does not know “{0}”; `waldrand words` lists what it knows.", phrase))
    h, w = picture.shape[:2]
    m = phrase_map(looked(picture, pack)[0], labels)
    return Found(phrase, _grown(m, h, w), confidence(m), seen_box(m, h, w))


def from_nearer(picture: np.ndarray, rough: np.ndarray, labels: Sequence[int], pack: Pack, together: bool = True) -> np.ndarray:
    """Where a thing is, told more finely: a rough answer (H, W) 0..1 with what is seen when each part of it is looked at by itself, from
    several distances, in their mean; (H, W) float32 0..1. together: all labels have to be seen, else any of them."""
    h, w = rough.shape
    pieces, n = ndimage.label(rough > 0.5)
    total, count = np.zeros((h, w), np.float32), np.zeros((h, w), np.float32)
    boxes = ndimage.find_objects(pieces)
    sizes = np.asarray(ndimage.sum_labels(pieces > 0, pieces, np.arange(1, n + 1)))
    for i in np.argsort(-sizes)[:MOST_NEARER]:
        ys, xs = boxes[int(i)]
        for times in NEARER:
            side = max(times * max(ys.stop - ys.start, xs.stop - xs.start), LEAST_WINDOW * min(h, w))
            rows, columns = _window(ys, side, h), _window(xs, side, w)
            maps, _ = looked(picture[rows, columns], pack)
            m = phrase_map(maps, labels) if together else np.asarray(maps[list(labels)].max(0))
            total[rows, columns] += _grown(m, rows.stop - rows.start, columns.stop - columns.start) / np.float32(255)
            count[rows, columns] += 1
    made = np.where(count > 0, total / np.maximum(count, 1), rough)
    return np.asarray(made if (made > 0.5).any() else rough, np.float32)


def _window(part: slice, side: float, whole: int) -> slice:
    """A part with as much on both sides that it is so long, as far as the whole goes."""
    side = min(whole, max(1, round(side)))
    start = min(max(0, (part.start + part.stop - side) // 2), whole - side)
    return slice(start, start + side)


def thing_at(picture: np.ndarray, x: float, y: float, pack: Pack) -> Found | None:
    """The thing seen at a point of a picture (H, W, 3 or 4) uint8, without others of its kind elsewhere; None when nothing is sure there.

    Raises:
        Refused: the pack has no finder, or the point lies outside the picture.
    """
    finder_of(pack)
    h, w = picture.shape[:2]
    if not (0 <= x < w and 0 <= y < h):
        raise Refused(worded("There is no picture there."))
    whole = _thing_at(picture, x, y, pack)
    side = round(CLOSE * min(h, w))
    if whole is not None or side < LEAST_CLOSE:
        return whole
    # What is small in the whole may be sure from nearer.
    rows, columns = _window(slice(int(y), int(y) + 1), side, h), _window(slice(int(x), int(x) + 1), side, w)
    near = _thing_at(picture[rows, columns], x - columns.start, y - rows.start, pack)
    if near is None or near.box is None:
        return None
    mask = np.zeros((h, w), np.uint8)
    mask[rows, columns] = near.mask
    x0, y0, x1, y1 = near.box
    return Found(near.phrase, mask, near.confidence, (x0 + columns.start, y0 + rows.start, x1 + columns.start, y1 + rows.start))


def _thing_at(picture: np.ndarray, x: float, y: float, pack: Pack) -> Found | None:
    finder, (h, w) = finder_of(pack), picture.shape[:2]
    maps, _ = looked(picture, pack)
    row, column = int(y * maps.shape[1] / h), int(x * maps.shape[2] / w)
    best = max(thing_labels(finder), key=lambda i: float(maps[i, row, column]))
    if maps[best, row, column] <= SEEN:
        return None
    pieces, _ = pieces_of(maps[best] > SEEN)
    own = pieces == pieces[row, column]
    # Its soft rim is its own too, as far as one cell.
    m = np.where(ndimage.binary_dilation(own, np.ones((3, 3), bool)) & ((pieces == 0) | own), maps[best], 0)
    return Found(finder.labels[best], _grown(m, h, w), confidence(m), seen_box(m, h, w))


def covered(picture: np.ndarray, mask: np.ndarray, pack: Pack) -> tuple[str, ...]:
    """What a mask (H, W) 0..1 covers most of, of all that a picture (H, W, 3 or 4) uint8 shows, by its labels; without what reaches
    far beyond the mask.

    Raises:
        Refused: the pack has no finder.
    """
    finder = finder_of(pack)
    maps, _ = looked(picture, pack)
    inside = resize_mask(np.asarray(mask, np.float32), *maps.shape[1:])
    out = []
    for label, m in zip(finder.labels, maps, strict=True):
        solid = m > SEEN
        if label not in finder.traits and solid.sum() >= LEAST_CELLS and inside[solid].mean() >= COVERED:
            out.append(label)
    return tuple(out)


def pieces_of(solid: np.ndarray) -> tuple[np.ndarray, int]:
    """(h, w) int: the number of the piece that each cell belongs to, from 1, and how many there are; corners hold together."""
    numbered, n = ndimage.label(solid, np.ones((3, 3)))
    return np.asarray(numbered), int(n)
