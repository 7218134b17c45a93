"""Makes training samples: which words are said, where, how exactly, and what is to be painted."""

from __future__ import annotations

import json
import math
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from scipy import ndimage

from .clumsy import guided, looked
from .networks import ELEMENT, NONE, SCENE
from .world.scene import kinds
from .world.things import GROUPS
from .world.words import PARTS, vocabulary

PER_CELL = 4
#: Cells from which on a part of a thing may be told, at most so many of them, and what is said of faces.
PART_CELLS, MOST_PARTS_TOLD = 6, 3
MOODS = ("smiling", "sad")


@dataclass(frozen=True)
class Batch:
    """pixels (B, 4h, 4w, 3) uint8; ids (B, R, L) int64; kind, weight (B, R) float32; outline (B, R, h, w)
    float32 0..1; hole, things (B, h, w) float32: what to paint, and where things are, more than 1 where they are small; lines and depth
    (B, 4h, 4w) float32 0..1, given (B, 2) 1 where these are said, else 0; look (B, h, w): where the picture's look is said, and look_kind
    (B,), NONE where it is not."""

    pixels: np.ndarray
    ids: np.ndarray
    kind: np.ndarray
    weight: np.ndarray
    outline: np.ndarray
    hole: np.ndarray
    things: np.ndarray
    lines: np.ndarray
    depth: np.ndarray
    given: np.ndarray
    look: np.ndarray
    look_kind: np.ndarray


@dataclass(frozen=True)
class Group:
    """Scenes of one shape. pixels (N, 4 h, 4 w, 3), masks (N, P, h, w) and guides (N, 4 h, 4 w, 2), lines and depth, uint8; no
    guides where scenes were rendered without; named (N, Q, h, w) uint8, of parts of things, the same."""

    pixels: np.ndarray
    masks: np.ndarray
    captions: list[dict[str, Any]]
    guides: np.ndarray | None = None
    named: np.ndarray | None = None


def _all(arrays: list[np.ndarray | None]) -> np.ndarray | None:
    """All of them in one, where none is missing."""
    there = [a for a in arrays if a is not None]
    return np.concatenate(there) if len(there) == len(arrays) else None


class Scenes:
    """All rendered scenes of some files, in memory, by shape."""

    def __init__(self, files: list[Path]) -> None:
        if not files:
            raise ValueError("No rendered scenes were found. Run `python -m training.render` first.")
        found: dict[tuple[int, ...], list[Group]] = {}
        for file in files:
            with np.load(file) as z:
                one = Group(z["pixels"], z["masks"], json.loads(str(z["captions"])), z.get("guides"), z.get("named"))
            found.setdefault(one.masks.shape[2:], []).append(one)
        self.groups = [
            Group(
                np.concatenate([g.pixels for g in gs]),
                np.concatenate([g.masks for g in gs]),
                [c for g in gs for c in g.captions],
                _all([g.guides for g in gs]),
                _all([g.named for g in gs]),
            )
            for gs in found.values()
        ]

    def __len__(self) -> int:
        return sum(len(g.captions) for g in self.groups)


def said(part: dict[str, Any], rng: np.random.Generator, mirrored: bool, length: int = 8) -> str:
    """A phrase for a part: its kind, and some of what is true of it, in no fixed order after the kind; at most `length` words."""
    words = [w for w, often in part["before"] if rng.random() < often]
    words += str(part["kind"]).split()
    after = [w for w, often in part["after"] if rng.random() < often]
    rng.shuffle(after)
    for phrase in after:
        pieces = phrase.split()
        if len(words) + len(pieces) <= length:
            words += [MIRRORED.get(w, w) for w in pieces] if mirrored else pieces
    return " ".join(words)


def said_of_part(name: str, owner: dict[str, Any], rng: np.random.Generator) -> str:
    """A phrase for a part of a thing: its name, and what is known of it there: "brown hair", "face smiling", "lit windows"."""
    known = [w for w, _ in (*owner["before"], *owner["after"])]
    own = [w for w in known if w.split()[-1] == name and w != name]
    if own and rng.random() < 0.75:
        return str(own[0])
    moods = [w for w in known if name == "face" and w in MOODS]
    return f"{name} {moods[0]}" if moods and rng.random() < 0.75 else name


#: Least and most that a scene is drawn for the rarity of what it shows.
EVENED = (0.4, 3.0)
#: Cells; smaller things count more.
SMALL = 100.0
#: How often an outline is the thing's own shape, where nothing else is said.
EXACT = 0.12
MIRRORED = {"left": "right", "right": "left"}
#: Kinds whose form is the hardest to learn.
LIVING = frozenset(t.name for group in ("animals", "people") for t in GROUPS[group])
#: Skies full of small things.
DOTTED = frozenset({"starry night", "rain", "snowfall"})


def loosen(mask: np.ndarray, rng: np.random.Generator, roomy: float = 0.0, exact: float = EXACT) -> np.ndarray:
    """An outline as people draw them: exact, as figures are fitted, or grown a little, an ellipse or a box around, more or less tight.

    roomy: how often there is much room, up to half the thing's own size on each side; exact: how often it is exact.
    """
    solid = mask > 0.35
    if not solid.any():
        solid = mask > mask.max() * 0.5
    u = rng.random()
    if u < exact:
        return mask
    # The others share what is left as they do where nothing else is said.
    u = 1 - (1 - u) * (1 - EXACT) / (1 - exact)
    if u < 0.28:
        grow = int(rng.integers(0, 3))
        return (ndimage.binary_dilation(solid, iterations=grow) if grow else solid).astype(np.float32)
    ys, xs = np.nonzero(solid)
    pad = rng.integers(0, 3, 4) if rng.random() < 0.8 else rng.integers(0, 6, 4)
    if roomy and rng.random() < roomy:
        sides = np.array([np.ptp(ys), np.ptp(ys), np.ptp(xs), np.ptp(xs)]) + 1
        pad = np.round(sides * rng.uniform(0, 0.5, 4)).astype(int)
    y0, y1, x0, x1 = ys.min() - pad[0], ys.max() + 1 + pad[1], xs.min() - pad[2], xs.max() + 1 + pad[3]
    yy, xx = np.mgrid[: mask.shape[0], : mask.shape[1]] + 0.5
    if u < 0.5:
        # Around the thing: an ellipse through the corners of a box that is a little smaller.
        r = ((yy - (y0 + y1) / 2) / ((y1 - y0) * 0.58)) ** 2 + ((xx - (x0 + x1) / 2) / ((x1 - x0) * 0.58)) ** 2
        return np.clip((1.0 - r) * 4 + 0.5, 0, 1).astype(np.float32)
    out = np.zeros_like(mask)
    out[max(0, y0) : y1, max(0, x0) : x1] = 1
    return out


def rarity(captions: list[dict[str, Any]], counts: dict[str, int], even: float) -> np.ndarray:
    """How often each scene shall be drawn, (N,), relative to the others: by its rarest thing, the power `even` of how rare it is
    against the kind in the middle, EVENED at least and at most; scenes without things as the kind in the middle."""
    middle = float(np.median(list(counts.values()))) if counts else 1.0
    rarest = [min((counts[p["kind"]] for p in c["parts"] if not p["big"]), default=middle) for c in captions]
    return np.clip((middle / np.array(rarest, float)) ** even, *EVENED)


def lively(captions: list[dict[str, Any]], living: int) -> np.ndarray:
    """`living` for scenes that show an animal or a person, else 1, (N,)."""
    return np.array([living if any(p["kind"] in LIVING for p in c["parts"]) else 1.0 for c in captions])


def dotted(captions: list[dict[str, Any]], often: float) -> np.ndarray:
    """`often` for scenes under stars, drops or flakes, else 1, (N,); those seen through a window do not count."""
    return np.array([often if DOTTED & set(c["words"]) and all(p["kind"] != "wall" for p in c["parts"]) else 1.0 for c in captions])


class Draw:
    """Draws scenes: groups by their number of scenes, and in a group scenes as often as `rarity` says, those with animals or people
    `living` times as often, those under stars, drops or flakes `dots` times; or with `even` 0 all alike."""

    def __init__(self, scenes: Scenes, even: float, living: int = 1, dots: float = 1.0) -> None:
        self._share = np.array([len(g.captions) for g in scenes.groups]) / len(scenes)
        self._counts = [len(g.captions) for g in scenes.groups]
        shown = Counter(p["kind"] for g in scenes.groups for c in g.captions for p in c["parts"] if not p["big"])
        often = [rarity(g.captions, shown, even) * lively(g.captions, living) * dotted(g.captions, dots) for g in scenes.groups if even]
        #: Of each group, the sums of its scenes' shares up to each.
        self._sums = [np.cumsum(one) for one in often]

    def often(self, group: int) -> np.ndarray:
        """How often each scene of a group is drawn against the mean of them, (N,)."""
        if not self._sums:
            return np.ones(self._counts[group])
        shares = np.diff(self._sums[group], prepend=0.0)
        return np.asarray(shares / shares.mean())

    def group(self, rng: np.random.Generator) -> int:
        """The number of a group."""
        return int(rng.choice(len(self._share), p=self._share))

    def one(self, rng: np.random.Generator, group: int) -> int:
        """The number of a scene in a group."""
        if not self._sums:
            return int(rng.integers(self._counts[group]))
        sums = self._sums[group]
        return int(np.searchsorted(sums, rng.random() * sums[-1], "right"))


def brush(rng: np.random.Generator, h: int, w: int) -> np.ndarray:
    """A few round strokes, (h, w)."""
    m = np.zeros((h, w), np.float32)
    yy, xx = np.mgrid[:h, :w] + 0.5
    n = min(h, w)
    for _ in range(int(rng.integers(1, 4))):
        x, y, a = rng.uniform(0, w), rng.uniform(0, h), rng.uniform(0, 6.3)
        r = rng.uniform(n / 16, n / 6)
        for _ in range(int(rng.integers(3, 9))):
            m[(yy - y) ** 2 + (xx - x) ** 2 < r * r] = 1
            a += rng.normal(0, 0.5)
            x, y = x + r * np.cos(a), y + r * np.sin(a)
    return m


def hole_for(rng: np.random.Generator, h: int, w: int, outlines: list[np.ndarray]) -> np.ndarray:
    """What is to be painted, (h, w): everything, a border, boxes, strokes, round an element, or all but it."""
    m = np.zeros((h, w), np.float32)
    u = rng.random()
    if u < 0.5:
        return m + 1
    if u < 0.62:
        side = int(rng.integers(0, 4))
        n = (h, w)[side % 2]
        k = int(rng.integers(n // 4, 3 * n // 4))
        part = (slice(0, k) if side < 2 else slice(n - k, n),)
        m[part if side % 2 == 0 else (slice(None), *part)] = 1
        return m
    if u < 0.8 and outlines:
        e = outlines[int(rng.integers(len(outlines)))] > 0.3
        if e.any():
            ys, xs = np.nonzero(e)
            p = rng.integers(0, 1 + min(h, w) // 6, 4)
            m[max(0, ys.min() - p[0]) : ys.max() + 1 + p[1], max(0, xs.min() - p[2]) : xs.max() + 1 + p[3]] = 1
            if rng.random() < 0.3:
                m = ndimage.binary_dilation(e, iterations=int(rng.integers(1, 4))).astype(np.float32)
            return m if rng.random() < 0.88 else 1 - m
    if u < 0.88:
        return brush(rng, h, w)
    for _ in range(int(rng.integers(1, 4))):
        bh, bw = int(rng.integers(h // 6, 2 * h // 3)), int(rng.integers(w // 6, 2 * w // 3))
        y, x = rng.integers(0, h - bh + 1), rng.integers(0, w - bw + 1)
        m[y : y + bh, x : x + bw] = 1
    return m


class Sampler:
    """Draws samples from scenes: windows of `window` x `window` cells, or with 0 whole scenes, each batch of one shape.

    roomy, exact: see `loosen`; small_things: the most that a small thing counts in `Batch.things`; even: see `rarity`, 0: all scenes alike;
    living: how many times as often scenes with animals or people are drawn, and windows cut around them; dots: the same of scenes under
    stars, drops or flakes; guided: whether drawings and depth are told, to two in three; looks: how often a picture's look is; parts: how
    often parts of things are, where they are seen from near by.
    """

    def __init__(
        self,
        scenes: Scenes,
        window: int,
        rows: int,
        length: int,
        no_words: float,
        no_outlines: float,
        roomy: float = 0.0,
        small_things: float = 1.0,
        even: float = 0.0,
        living: int = 1,
        exact: float = EXACT,
        dots: float = 1.0,
        guided: bool = False,
        looks: float = 0.0,
        parts: float = 0.0,
    ) -> None:
        self.scenes, self.window, self.rows, self.length = scenes, window, rows, length
        self.guided, self.looks, self.parts = guided, looks, parts
        self.exact = exact
        self.roomy, self.small_things, self.living = roomy, small_things, living
        self.no_words, self.no_outlines = no_words, no_outlines
        self.ids = {w: i for i, w in enumerate(vocabulary(kinds()))}
        self._draw = Draw(scenes, even, living, dots)

    def sample(self, rng: np.random.Generator, number: int) -> tuple[np.ndarray, ...]:
        group, i = self.scenes.groups[number], self._draw.one(rng, number)
        n = self.window
        parts = group.captions[i]["parts"]
        masks = group.masks[i, : len(parts)]
        pixels = group.pixels[i]
        guides = np.zeros((*pixels.shape[:2], 2), np.uint8) if group.guides is None else group.guides[i]
        named = np.zeros((0, *masks.shape[1:]), np.uint8) if group.named is None else group.named[i]
        if n:
            y, x = self._window(masks, parts, rng)
            masks, named = (a[:, y : y + n, x : x + n] for a in (masks, named))
            pixels, guides = (a[y * PER_CELL : (y + n) * PER_CELL, x * PER_CELL : (x + n) * PER_CELL] for a in (pixels, guides))
        masks = masks.astype(np.float32) / 255
        h, w = masks.shape[1:]
        mirrored = bool(rng.random() < 0.5)
        if mirrored:
            masks, named, pixels, guides = masks[:, :, ::-1], named[:, :, ::-1], pixels[:, ::-1], guides[:, ::-1]
        seen = [k for k in range(len(parts)) if masks[k].sum() > 1.5]
        things = [k for k in seen if not parts[k]["big"]]
        # Else a picture's large things are learned long before its small ones.
        counts = [min(self.small_things, max(1.0, math.sqrt(SMALL / masks[k].sum()))) for k in things]
        where = sum((masks[k] * c for k, c in zip(things, counts, strict=True)), np.zeros((h, w), np.float32))
        where = np.clip(where, 0, self.small_things)
        phrases = self._phrases(group.captions[i]["words"], parts, masks, seen, things, rng, mirrored)
        if self.parts and any(m is not None for _, m in phrases) and rng.random() < self.parts:
            phrases = phrases[: self.rows - MOST_PARTS_TOLD] + self._of_parts(named > 127, parts, masks, things, rng)

        ids = np.zeros((self.rows, self.length), np.int64)
        kind = np.zeros(self.rows, np.float32)
        outline = np.zeros((self.rows, h, w), np.float32)
        shown = []
        for j, (text, m) in enumerate(phrases[: self.rows]):
            words = [self.ids[w] for w in text.split()][: self.length]
            ids[j, : len(words)] = words
            kind[j] = SCENE if m is None else ELEMENT
            if m is not None:
                outline[j] = m
                shown.append(m)
        if rng.random() < 0.7:
            self._cover(outline, kind)
        hole = hole_for(rng, h, w, shown)
        # Without guides not one number more is drawn: the fixed validation stays what it was.
        none = np.zeros((2, *pixels.shape[:2]), np.float32), np.zeros(2, np.float32)
        (lines, depth), given = guided(guides, masks[things], rng) if self.guided and group.guides is not None else none
        look, look_kind = looked(shown, (h, w), rng, self.looks) if self.looks else (np.zeros((h, w), np.float32), np.float32(NONE))
        heard = (ids, kind, (kind > 0).astype(np.float32), outline)
        return np.ascontiguousarray(pixels), *heard, hole, where, lines, depth, given, look, np.asarray(look_kind)

    def _window(self, masks: np.ndarray, parts: list[dict[str, Any]], rng: np.random.Generator) -> tuple[int, int]:
        things = [k for k, p in enumerate(parts) if not p["big"]]
        h, w = masks.shape[1:]
        cy, cx = int(rng.integers(h)), int(rng.integers(w))
        if things and rng.random() < 0.85:
            pool = [k for k in things for _ in range(self.living if parts[k]["kind"] in LIVING else 1)]
            ys, xs = np.nonzero(masks[pool[int(rng.integers(len(pool)))]] > 128)
            if len(ys):
                j = rng.integers(len(ys))
                cy, cx = int((ys.mean() + ys[j]) / 2), int((xs.mean() + xs[j]) / 2)
        half = self.window // 2
        y, x = (int(np.clip(v - half + rng.integers(-2, 3), 0, n - self.window)) for v, n in ((cy, h), (cx, w)))
        return y, x

    def _phrases(
        self,
        words: list[str],
        parts: list[dict[str, Any]],
        masks: np.ndarray,
        seen: list[int],
        things: list[int],
        rng: np.random.Generator,
        mirrored: bool,
    ) -> list[tuple[str, np.ndarray | None]]:
        u = rng.random()
        if u < self.no_words:
            return []
        scene: list[tuple[str, np.ndarray | None]] = [(w, None) for w in words if rng.random() < 0.85]
        if u < self.no_words + self.no_outlines:
            scene += [(said(parts[k], rng, mirrored), None) for k in seen if rng.random() < 0.92]
            rng.shuffle(scene)
            return scene
        placed = {k for k in things if rng.random() < 0.85} or set(things[:1])
        if rng.random() < 0.3:
            placed |= {k for k in seen if parts[k]["big"] and rng.random() < 0.5}
        if rng.random() < 0.12:
            placed = {k for k in placed if rng.random() < 0.4}
        placed_words = [(k, said(parts[k], rng, mirrored)) for k in seen if k in placed]
        repeat = rng.random() < 0.15
        for k in seen:
            if (k not in placed and rng.random() < 0.85) or (k in placed and repeat):
                scene.append((said(parts[k], rng, mirrored), None))
        return scene[: self.rows // 2] + [(text, loosen(masks[k], rng, self.roomy, self.exact)) for k, text in placed_words]

    def _of_parts(
        self, named: np.ndarray, parts: list[dict[str, Any]], masks: np.ndarray, things: list[int], rng: np.random.Generator
    ) -> list[tuple[str, np.ndarray | None]]:
        """Some of the parts that are seen from near by, each with its outline: phrases and outlines."""
        out: list[tuple[str, np.ndarray | None]] = []
        large = [q for q in range(len(named)) if named[q].sum() >= PART_CELLS] if things else []
        rng.shuffle(large)
        for q in large:
            found, n = ndimage.label(named[q])
            there = (found == 1 + int(rng.integers(n))).astype(np.float32)
            if there.sum() >= PART_CELLS and len(out) < MOST_PARTS_TOLD and rng.random() < 0.7:
                owner = max(things, key=lambda k: float((masks[k] * there).sum()))
                out.append((said_of_part(PARTS[q], parts[owner], rng), loosen(there, rng, self.roomy, self.exact)))
        return out

    @staticmethod
    def _cover(outline: np.ndarray, kind: np.ndarray) -> None:
        """Near outlines (later rows) are cut out of far ones, as the app does."""
        open_ = np.ones_like(outline[0])
        for j in range(len(kind) - 1, -1, -1):
            if kind[j] == ELEMENT:
                full = outline[j].copy()
                outline[j] *= open_
                open_ *= 1 - full

    def batch(self, rng: np.random.Generator, size: int) -> Batch:
        number = self._draw.group(rng)
        return Batch(*(np.stack(a) for a in zip(*(self.sample(rng, number) for _ in range(size)), strict=True)))

    def batches(self, seed: int, size: int) -> Iterator[Batch]:
        rng = np.random.default_rng(seed)
        while True:
            yield self.batch(rng, size)
