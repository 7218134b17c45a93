"""What a finder sees in a picture: things by words, placement scores, a description."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from ..packs import Finder, Pack
from ..picture.resample import resize_mask, resize_picture
from ..refused import Refused
from ..values.element import Element, phrases
from ..values.frame import Rect, fitted_frame, whole_frame
from ..values.outline import Box, Outline, rasterise
from ..values.sheet import Sheet

#: From this certainty on a cell counts as seen. Settled on true scenes: with less, more things are found and more are misnamed.
SEEN = 0.4
#: A thing of fewer cells than this is taken for an error.
LEAST_CELLS = 2
#: So much of a thing in a mask is as good as all.
COVERED = 0.7
#: A score from here on counts as landed.
LANDED = 50.0
#: An element is looked at from nearer where that shows it so many times larger a side; with so much room round it, in its longer sides.
NEARER, NEARER_ROOM = 1.25, 1.0


@dataclass(frozen=True, eq=False)
class Found:
    """phrase; mask: (H, W) uint8 over the picture; confidence 0..1; box of what is seen, or None when nothing is."""

    phrase: str
    mask: np.ndarray
    confidence: float
    box: Box | None


@dataclass(frozen=True)
class Score:
    """How an element landed: score 0..100, the share of what was found inside its outline; found: whether anything was; says: what
    failed and what to try, empty when it landed."""

    key: int
    name: str
    score: float
    found: bool
    says: str

    @property
    def landed(self) -> bool:
        return self.score >= LANDED


@dataclass(frozen=True)
class Description:
    """What a picture shows, in the model's words: of the whole, and things as (phrase, confidence, box in sheet pixels)."""

    scene: tuple[str, ...]
    things: tuple[tuple[str, float, Box], ...]


def finder_of(pack: Pack) -> Finder:
    """Raises Refused when the pack has none."""
    finder = pack.finder
    if finder is None:
        raise Refused(f"The pack {pack.info.name} {pack.info.version} has no finder, so it cannot tell what a picture shows.")
    return finder


def thing_labels(finder: Finder) -> list[int]:
    """Which of its labels are things: neither what a thing can be nor what fills a picture."""
    return [i for i, label in enumerate(finder.labels) if label not in finder.traits and label not in finder.grounds]


def _looked(picture: np.ndarray, pack: Pack, placed: bool = False) -> tuple[np.ndarray, np.ndarray]:
    """The finder's maps (K, h, w) of a picture (H, W, 3 or 4) uint8, and what it says of the whole (S,). placed: as finely as pictures
    are computed where figures tell what stands where."""
    h, w = picture.shape[:2]
    frame = whole_frame(w, h, pack.info.limits.placed if placed else pack.info.limits)
    rgb = resize_picture(picture[..., :3].astype(np.float32) / 255, frame.height, frame.width)
    return finder_of(pack).look(rgb)


def phrase_map(maps: np.ndarray, labels: Sequence[int]) -> np.ndarray:
    """How surely all of a phrase's labels are seen in each cell, (h, w): the least sure one decides."""
    return np.asarray(maps[list(labels)].min(0), np.float32)


def _confidence(m: np.ndarray) -> float:
    """The mean certainty where it is seen; where it is not, the greatest."""
    solid = m > SEEN
    return float(m[solid].mean()) if solid.sum() >= LEAST_CELLS else float(min(m.max(), SEEN))


def _box(m: np.ndarray, height: int, width: int) -> Box | None:
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
        raise Refused(f"The finder does not know “{phrase}”; `waldrand words` lists what it knows.")
    h, w = picture.shape[:2]
    m = phrase_map(_looked(picture, pack)[0], labels)
    return Found(phrase, _grown(m, h, w), _confidence(m), _box(m, h, w))


def thing_at(picture: np.ndarray, x: float, y: float, pack: Pack) -> Found | None:
    """The thing seen at a point of a picture (H, W, 3 or 4) uint8, without others of its kind elsewhere; None when nothing is sure there.

    Raises:
        Refused: the pack has no finder, or the point lies outside the picture.
    """
    finder = finder_of(pack)
    h, w = picture.shape[:2]
    if not (0 <= x < w and 0 <= y < h):
        raise Refused("There is no picture there.")
    maps, _ = _looked(picture, pack)
    row, column = int(y * maps.shape[1] / h), int(x * maps.shape[2] / w)
    best = max(thing_labels(finder), key=lambda i: float(maps[i, row, column]))
    if maps[best, row, column] <= SEEN:
        return None
    pieces, _ = _numbered(maps[best] > SEEN)
    own = pieces == pieces[row, column]
    # Its soft rim is its own too, as far as one cell.
    m = np.where(ndimage.binary_dilation(own, np.ones((3, 3), bool)) & ((pieces == 0) | own), maps[best], 0)
    return Found(finder.labels[best], _grown(m, h, w), _confidence(m), _box(m, h, w))


def covered(picture: np.ndarray, mask: np.ndarray, pack: Pack) -> tuple[str, ...]:
    """What a mask (H, W) 0..1 covers most of, of all that a picture (H, W, 3 or 4) uint8 shows, by its labels; without what reaches
    far beyond the mask.

    Raises:
        Refused: the pack has no finder.
    """
    finder = finder_of(pack)
    maps, _ = _looked(picture, pack)
    inside = resize_mask(np.asarray(mask, np.float32), *maps.shape[1:])
    out = []
    for label, m in zip(finder.labels, maps, strict=True):
        solid = m > SEEN
        if label not in finder.traits and solid.sum() >= LEAST_CELLS and inside[solid].mean() >= COVERED:
            out.append(label)
    return tuple(out)


def describe(picture: np.ndarray, pack: Pack) -> Description:
    """What a picture shows: grounds and skies, and things with their colours, each for itself, largest first.

    Raises:
        Refused: the pack has no finder.
    """
    finder = finder_of(pack)
    maps, whole = _looked(picture, pack)
    h, w = picture.shape[:2]
    scene = [finder.whole[i] for i in np.argsort(-whole) if whole[i] > SEEN]
    things = []
    for i, label in enumerate(finder.labels):
        if label in finder.traits or _box(maps[i], h, w) is None:
            continue
        if label in finder.grounds:
            scene.append(label)
            continue
        for piece in _pieces(maps[i] > SEEN):
            m = np.where(piece, maps[i], 0)
            box = _box(m, h, w)
            assert box is not None
            # Of the colours, the one that covers most of the thing.
            shares = ((float(maps[j][piece].mean()), t) for j, t in enumerate(finder.labels) if t in finder.colours)
            colour = max(shares, default=(0.0, ""))
            said = f"{colour[1]} {label}" if colour[0] > SEEN else label
            things.append((int(piece.sum()), said, _confidence(m), box))
    things.sort(key=lambda t: -t[0])
    return Description(tuple(scene), tuple((said, c, b) for _, said, c, b in things))


def _numbered(solid: np.ndarray) -> tuple[np.ndarray, int]:
    """(h, w) int: the number of the piece that each cell belongs to, from 1, and how many there are; corners hold together."""
    numbered, n = ndimage.label(solid, np.ones((3, 3)))
    return np.asarray(numbered), int(n)


def _pieces(solid: np.ndarray) -> list[np.ndarray]:
    """Things of a kind that stand apart, (h, w) bool each; crumbs beside a larger one are left out."""
    numbered, n = _numbered(solid)
    pieces = [numbered == i + 1 for i in range(n)]
    least = max(LEAST_CELLS, 0.1 * max((p.sum() for p in pieces), default=0))
    return [p for p in pieces if p.sum() >= least]


def as_elements(d: Description, most: int, first_key: int = 1) -> tuple[Element, ...]:
    """The largest things of a description as elements in boxes, what stands lower nearer; at most so many."""
    out: list[Element] = []
    for words, _, box in sorted(d.things[:most], key=lambda thing: thing[2][3]):
        n = 1 + sum(e.words == words for e in out)
        out.append(Element(first_key + len(out), words if n == 1 else f"{words} {n}", Outline("box", box), words))
    return tuple(out)


def _labels(e: Element, finder: Finder) -> tuple[int, ...]:
    return next((found for found in map(finder.labels_of, phrases(e.words)) if found), ())


@dataclass(frozen=True, eq=False)
class _View:
    """Part of a sheet as the finder sees it: rect, on the sheet; maps (K, h, w)."""

    rect: Rect
    maps: np.ndarray

    def score(self, outline: Outline, labels: Sequence[int], rivals: Sequence[Outline]) -> float | None:
        """Of what is seen of these labels, the share inside the outline, 0..100, without pieces that lie more in a rival; None
        when nothing is seen."""
        h, w = self.maps.shape[1:]
        place, *others = (rasterise(o, self.rect, h, w) for o in (outline, *rivals))
        m = phrase_map(self.maps, labels)
        pieces, n = _numbered(m > SEEN)
        mine = np.zeros((h, w), bool)
        for i in range(1, n + 1):
            piece = pieces == i
            inside = float(place[piece].sum())
            if piece.sum() >= LEAST_CELLS and all(float(r[piece].sum()) <= inside for r in others):
                mine |= piece
        return 100 * float((m * place)[mine].sum() / m[mine].sum()) if mine.any() else None


def _nearer(picture: np.ndarray, sheet: Sheet, e: Element, pack: Pack) -> _View | None:
    """An element with room around it, (H, W, 3) being the whole sheet, or None where that would show it hardly larger."""
    limits = pack.info.limits
    x0, y0, x1, y1 = e.outline.box
    box = Rect(math.floor(x0), math.floor(y0), math.ceil(x1), math.ceil(y1)).intersect(sheet.rect)
    if not box.area:
        return None
    frame = fitted_frame(box, sheet.width, sheet.height, limits, NEARER_ROOM)
    if frame.scale < NEARER * whole_frame(sheet.width, sheet.height, limits.placed).scale:
        return None
    return _View(frame.rect, _looked(picture[frame.rect.slices], pack)[0])


def _missing(view: _View, e: Element, labels: Sequence[int], rivals: Sequence[Outline], finder: Finder) -> list[str]:
    """What a thing that has landed is not seen to be, of what it was said to be; nothing where the thing itself did not land."""

    def landed(of: Sequence[int]) -> bool:
        return (view.score(e.outline, of, rivals) or 0.0) >= LANDED

    thing, *traits = labels
    return [finder.labels[t] for t in traits if not landed((thing, t))] if landed((thing,)) else []


def placement(picture: np.ndarray, sheet: Sheet, pack: Pack) -> list[Score]:
    """How each element landed in a picture of the whole sheet at its size (H, W, 3 or 4) uint8, far to near; those whose words the
    finder does not know, and those not used, are left out. Small ones are looked at from nearer.

    Of several things of a kind each counts for the element it lies in most.

    Raises:
        Refused: the pack has no finder, or the picture has another size than the sheet.
    """
    finder = finder_of(pack)
    if picture.shape[:2] != (sheet.height, sheet.width):
        raise Refused(f"The picture is {picture.shape[1]} x {picture.shape[0]} pixels, the sheet {sheet.width} x {sheet.height}.")
    judged = [(e, _labels(e, finder)) for e in sheet.elements if e.visible and not e.hold]
    judged = [(e, labels) for e, labels in judged if labels]
    if not judged:
        return []
    whole = _View(sheet.rect, _looked(picture, pack, placed=True)[0])
    out = []
    for e, labels in judged:
        rivals = [o.outline for o, theirs in judged if o.key != e.key and theirs[0] == labels[0]]
        near = _nearer(picture, sheet, e, pack)
        score = (near or whole).score(e.outline, labels, rivals)
        if near and score is None:
            # From nearer what strayed is out of sight.
            astray = whole.score(e.outline, labels, rivals)
            score = None if astray is None or astray >= LANDED else astray
        missing = [] if score is not None and score >= LANDED else _missing(near or whole, e, labels, rivals, finder)
        if missing:
            says = f"“{e.name}” is there, but not told to be {', '.join(missing)}: emphasise that, or re-roll it."
        elif score is None:
            says = f"“{e.name}” was not found: give it more room or weight, or re-roll it."
        else:
            says = "" if score >= LANDED else f"“{e.name}” lies mostly outside its outline: re-roll it, or raise its weight."
        out.append(Score(e.key, e.name, score or 0.0, score is not None, says))
    return out
