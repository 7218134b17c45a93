"""Things cut out of pictures: by words, at a point, by colour, or the whole subject."""

from __future__ import annotations

import numpy as np
from scipy import ndimage

from ..packs import Pack
from ..picture.cutting import oklab, softened, told_by_colours
from ..refused import Refused
from ..worded import worded
from .find import SEEN, Found, find, finder_of, from_nearer, looked, pieces_of, thing_at, thing_labels

#: A thing counts to the subject when it takes up so much of the picture, or lies so near its middle.
LEAST_SUBJECT = 0.004
#: By how much a finder's edges may be wrong, in shares of the picture's longer side.
ERRS = 1 / 64
#: Things of a subject that are fitted each by itself, the largest.
MOST_APART = 8


def by_words(picture: np.ndarray, words: str, pack: Pack) -> np.ndarray:
    """Where a thing is that some words name, as sharp as the picture (H, W, 3 or 4) uint8: (H, W) float32 0..1.

    Raises:
        Refused: the finder knows none of the words, or sees no such thing.
    """
    found = find(picture, words, pack)
    if found.box is None:
        raise Refused(worded("“{0}” was not found in the picture.", words))
    return of_found(picture, found, pack, alone=False)


def at_point(picture: np.ndarray, x: float, y: float, pack: Pack) -> np.ndarray:
    """The thing at a point, (H, W) float32 0..1.

    Raises:
        Refused: the point lies outside, or nothing is surely there.
    """
    found = thing_at(picture, x, y, pack)
    if found is None:
        raise Refused(worded("Nothing is surely seen at {0:g}, {1:g}: name it with words, or take like colours.", x, y))
    return of_found(picture, found, pack, alone=True)


def of_found(picture: np.ndarray, found: Found, pack: Pack, alone: bool) -> np.ndarray:
    """What was found roughly, looked at from nearer and made to fit the picture, (H, W) float32 0..1. alone: without others of its kind."""
    rough = found.mask.astype(np.float32) / 255
    nearer = from_nearer(picture, rough, finder_of(pack).labels_of(found.phrase), pack)
    if alone:
        pieces, _ = ndimage.label(nearer > 0.5)
        own = np.isin(pieces, np.unique(pieces[(rough > 0.5) & (pieces > 0)]))
        nearer = np.where(own | (pieces == 0), nearer, 0).astype(np.float32) if own.any() else rough
    return made_sharp(picture, nearer)


def subject(picture: np.ndarray, pack: Pack) -> np.ndarray:
    """The whole subject: all things that a finder sees; where it sees none, what is unlike the picture's rim, (H, W) float32 0..1.

    Raises:
        Refused: nothing stands out.
    """
    h, w = picture.shape[:2]
    guess = np.zeros((h, w), np.float32)
    if pack.finder is not None:
        maps, _ = looked(picture, pack)
        things = maps[thing_labels(finder_of(pack))].max(0)
        pieces, n = pieces_of(things > SEEN)
        large = [i for i in range(1, n + 1) if (pieces == i).mean() >= LEAST_SUBJECT]
        m = np.where(np.isin(pieces, large), things, 0)
        big = ndimage.zoom(m, (h / m.shape[0], w / m.shape[1]), order=1, grid_mode=True, mode="nearest")
        guess = np.clip((big - 0.25) * 2, 0, 1).astype(np.float32)
        if (guess > 0.5).any():
            guess = from_nearer(picture, guess, thing_labels(finder_of(pack)), pack, together=False)
    if not (guess > 0.5).any():
        guess = _unlike_rim(picture)
    if not (guess > 0.5).any() or (guess > 0.5).all():
        raise Refused(worded("Nothing stands out as the subject: name it with words, or click it."))
    return _each_seen(picture, guess)


def fitted(picture: np.ndarray, guess: np.ndarray, errs: float | None = None) -> np.ndarray:
    """A rough guess made to fit the picture, with a soft edge. errs: by how many pixels it may be wrong; None: it is a hand's."""
    return softened(picture, told_by_colours(picture, guess, errs))


def made_sharp(picture: np.ndarray, guess: np.ndarray) -> np.ndarray:
    """What a finder guessed, (H, W) float32 0..1, made to fit the picture (H, W, 3 or 4) uint8, with a soft edge."""
    return fitted(picture, guess, ERRS * max(guess.shape))


def _each_seen(picture: np.ndarray, guess: np.ndarray) -> np.ndarray:
    """The same for things that stand apart, each by itself: one has other colours than the next."""
    pieces, n = ndimage.label(guess > 0.5)
    sizes = np.asarray(ndimage.sum_labels(pieces > 0, pieces, np.arange(1, n + 1)))
    out = np.zeros(guess.shape, np.float32)
    for i in np.argsort(-sizes)[:MOST_APART]:
        own = pieces == i + 1
        out = np.maximum(out, made_sharp(picture, np.where(own | (pieces == 0), guess, 0).astype(np.float32)))
    return out


def _unlike_rim(picture: np.ndarray) -> np.ndarray:
    """How unlike the colours at its rim each place of a picture is, and joined to its middle, (H, W) float32 0..1."""
    h, w = picture.shape[:2]
    lab = ndimage.gaussian_filter(oklab(picture[..., :3].astype(np.float32) / 255), (2, 2, 0))
    rim = np.ones((h, w), bool)
    pad = max(2, min(h, w) // 24)
    rim[pad:-pad, pad:-pad] = False
    some = lab[rim][:: max(1, int(rim.sum()) // 400)]
    step = max(1, max(h, w) // 256)
    small = lab[::step, ::step]
    apart = np.sqrt(((small[:, :, None] - some) ** 2).sum(-1).min(-1))
    unlike = apart > max(0.04, float(np.percentile(apart, 60)))
    pieces, n = ndimage.label(ndimage.binary_opening(unlike, iterations=1))
    if not n:
        return np.zeros((h, w), np.float32)
    sizes = ndimage.sum_labels(np.ones_like(pieces), pieces, range(1, n + 1))
    keep = np.isin(pieces, 1 + np.flatnonzero(sizes >= 0.2 * sizes.max()))
    filled = ndimage.binary_fill_holes(keep)
    return np.asarray(np.kron(filled, np.ones((step, step)))[:h, :w], np.float32)
