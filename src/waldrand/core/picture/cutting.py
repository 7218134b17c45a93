"""Cutting a thing out of a picture: like colours, colours that tell it from what lies round it, and a soft edge at hair and leaves."""

from __future__ import annotations

import numpy as np
from scipy import ndimage

from ..refused import Refused
from ..worded import worded
from .resample import to_linear

#: Colours that tell a thing, and that tell its surroundings; and how often both are settled anew.
COLOURS, ROUNDS = 6, 6
#: How much the guess counts against a natural logarithm of odds, inside and outside of it, for each time as deep as it errs and so many
#: times at most; what colours alone can say at most.
INSIDE, OUTSIDE, MOST_TIMES, MOST_SAID = 0.5, 3.0, (2.0, 3.0), 4.0
#: A hole in what was told apart is filled where so much of it was guessed to be the thing.
GUESSED = 0.6
#: So many times its own reach round a thing what lies there counts as its surroundings; and the least, in shares of the picture.
ROOM, LEAST_ROOM = 0.4, 0.06
#: Pixels over which an edge may be soft, and how little a picture may vary to count as even (guided filter).
REACH, EVEN = 6, 1e-4


#: How much it counts to lie near a stroke; alpha from which on a pixel counts as solid.
STROKE_LEAN, SOLID = 4.0, 250


def oklab(picture: np.ndarray) -> np.ndarray:
    """(..., 3) sRGB 0..1 -> lightness and two colour axes, in which distances are about as large as they look (Ottosson, 2020)."""
    r, g, b = np.moveaxis(to_linear(np.asarray(picture, np.float32)), -1, 0)
    long = np.cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b)
    middle = np.cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b)
    short = np.cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b)
    return np.stack(
        [
            0.2104542553 * long + 0.7936177850 * middle - 0.0040720468 * short,
            1.9779984951 * long - 2.4285922050 * middle + 0.4505937099 * short,
            0.0259040371 * long + 0.7827717662 * middle - 0.8086757660 * short,
        ],
        -1,
    ).astype(np.float32)


def like_colour(picture: np.ndarray, x: float, y: float, tolerance: float, everywhere: bool = False) -> np.ndarray:
    """Where a picture (H, W, 3) uint8 has nearly the colour that it has at a point, (H, W) bool. tolerance: 0..1 of the greatest distance
    that two of its colours have. everywhere: also where that is not joined to the point.

    Raises:
        Refused: the point lies outside, or the tolerance is outside 0..1.
    """
    h, w = picture.shape[:2]
    if not (0 <= x < w and 0 <= y < h):
        raise Refused(worded("There is no picture at {0:g}, {1:g}: it is {2} x {3} pixels.", x, y, w, h))
    if not 0 <= tolerance <= 1:
        raise Refused(worded("The tolerance goes from 0 to 1; {0:g} is outside.", tolerance))
    lab = oklab(picture[..., :3].astype(np.float32) / 255)
    apart = np.linalg.norm(lab - lab[int(y), int(x)], axis=-1)
    # Two of its colours are nowhere farther apart than from corner to corner of what they span.
    most = float(np.linalg.norm(lab.reshape(-1, 3).max(0) - lab.reshape(-1, 3).min(0)))
    like = apart <= tolerance * most + 1e-6
    if everywhere:
        return np.asarray(like)
    pieces, _ = ndimage.label(like)
    return np.asarray(pieces == pieces[int(y), int(x)])


def told_by_colours(picture: np.ndarray, guess: np.ndarray, errs: float | None = None) -> np.ndarray:
    """A rough guess (H, W) 0..1 of where a thing is, made to fit what a picture (H, W, 3) uint8 shows: (H, W) float32 0..1. errs: by
    how many pixels its edge may be wrong; None: a rough one of a hand, by half of what it is deep.

    Colours of the thing and of its surroundings are told apart as two mixtures, settled in turn with what they say of each pixel (after
    Rother, Kolmogorov and Blake, "GrabCut", 2004, with neighbours holding together by a guided filter instead of a cut).
    """
    solid = guess > 0.5
    if not solid.any() or solid.all():
        return np.asarray(guess, np.float32)
    part = _room_round(solid)
    image, prior = picture[part][..., :3].astype(np.float32) / 255, np.clip(guess[part], 0.02, 0.98).astype(np.float32)
    lab = oklab(image)
    depth = ndimage.distance_transform_edt(prior > 0.5) - ndimage.distance_transform_edt(prior <= 0.5)
    # The farther from its edge, the surer a guess is.
    depth = depth / max(3.0, 0.5 * float(depth.max()) if errs is None else errs)
    lean = np.where(depth > 0, INSIDE * np.minimum(depth, MOST_TIMES[0]), OUTSIDE * np.maximum(depth, -MOST_TIMES[1]))
    random = np.random.Generator(np.random.Philox(key=[int(solid.sum()), 11]))
    inside = prior
    grey = image.mean(-1)
    for _ in range(ROUNDS):
        ours, theirs = (_mixture(lab, share, random) for share in (inside, 1 - inside))
        said = np.clip(ours(lab) - theirs(lab), -MOST_SAID, MOST_SAID) + lean
        inside = np.clip(guided(grey, 1 / (1 + np.exp(-np.clip(said, -12, 12))), 4, 1e-3), 0, 1)
    out = np.zeros(guess.shape, np.float32)
    out[part] = _in_one(inside, prior > 0.5)
    return out


def _in_one(inside: np.ndarray, guessed: np.ndarray) -> np.ndarray:
    """What was told apart (h, w) 0..1 without crumbs that the guess has no part in, and without holes in what it is sure of."""
    pieces, _ = ndimage.label(inside > 0.5)
    kept = np.isin(pieces, np.unique(pieces[guessed & (pieces > 0)]))
    holes, n = ndimage.label(ndimage.binary_fill_holes(kept) & ~kept)
    if n:
        shares = np.asarray(ndimage.mean(guessed.astype(np.float32), holes, np.arange(1, n + 1)))
        kept |= np.concatenate([[False], shares > GUESSED])[holes]
    near = ndimage.binary_dilation(kept, iterations=2)
    return np.where(kept, np.maximum(inside, 0.51), np.where(near, np.minimum(inside, 0.5), 0)).astype(np.float32)


def told_by_strokes(picture: np.ndarray, this: np.ndarray, other: np.ndarray) -> np.ndarray:
    """The thing that strokes were drawn on, told from what others were drawn on, in a picture (H, W, 3) uint8. this, other: (H, W) bool;
    where no other strokes are, the picture's rim counts as such. Returns (H, W) float32 0..1.

    Raises:
        Refused: there is no stroke on the thing.
    """
    if not this.any():
        raise Refused(worded("Draw over the thing that is meant first."))
    other = other & ~this
    if not other.any():
        other = np.zeros_like(this)
        other[:2], other[-2:], other[:, :2], other[:, -2:] = True, True, True, True
        other &= ~this
    image = picture[..., :3].astype(np.float32) / 255
    lab = oklab(image)
    random = np.random.Generator(np.random.Philox(key=[int(this.sum()), 12]))
    ours, theirs = (_mixture(lab, share.astype(np.float32), random) for share in (this, other))
    # Nearer to a stroke of one sort counts for it, the more the nearer.
    near, far = (ndimage.distance_transform_edt(~strokes) for strokes in (this, other))
    lean = (far - near) / (far + near + 1)
    said = np.clip(ours(lab) - theirs(lab), -6, 6) + STROKE_LEAN * lean
    inside = np.clip(guided(lab[..., 0], 1 / (1 + np.exp(-said)), 4, 1e-3), 0, 1)
    inside = np.where(this, 1, np.where(other, 0, inside))
    pieces, _ = ndimage.label(inside > 0.5)
    kept = np.isin(pieces, np.unique(pieces[this & (pieces > 0)]))
    # What hangs together with a stroke, holes in it that no stroke asked for filled.
    whole = ndimage.binary_fill_holes(kept) & ~other
    return np.where(whole & ~kept, 1, np.where(ndimage.binary_dilation(kept, iterations=2), inside, 0)).astype(np.float32)


def clean_edge(pixels: np.ndarray) -> np.ndarray:
    """(H, W, 4) uint8 whose half-clear pixels get the colour of the nearest solid one, so that no fringe of what lay behind is left."""
    alpha = pixels[..., 3]
    solid = alpha >= SOLID
    if not solid.any():
        return pixels
    at = ndimage.distance_transform_edt(~solid, return_distances=False, return_indices=True)
    return np.dstack([np.where(solid[..., None], pixels[..., :3], pixels[..., :3][tuple(at)]), alpha])


def _room_round(solid: np.ndarray) -> tuple[slice, slice]:
    """A thing's box with room round it."""
    rows, columns = np.flatnonzero(solid.any(1)), np.flatnonzero(solid.any(0))
    h, w = solid.shape
    pad = max(LEAST_ROOM * max(h, w), ROOM * max(rows[-1] - rows[0], columns[-1] - columns[0]))
    return (
        slice(max(0, int(rows[0] - pad)), min(h, int(rows[-1] + pad) + 1)),
        slice(max(0, int(columns[0] - pad)), min(w, int(columns[-1] + pad) + 1)),
    )


class _mixture:  # noqa: N801 (called like a function)
    """How likely colours are, as a mixture of round clouds, from pixels that count by their share."""

    def __init__(self, lab: np.ndarray, share: np.ndarray, random: np.random.Generator) -> None:
        flat, weight = lab.reshape(-1, 3), np.asarray(share, np.float64).reshape(-1)
        some = random.choice(len(flat), size=min(4000, len(flat)), p=weight / weight.sum())
        colours = flat[some]
        self._means = colours[random.integers(len(colours), size=COLOURS)]
        for _ in range(6):
            nearest = np.argmin(((colours[:, None] - self._means) ** 2).sum(-1), 1)
            for k in range(COLOURS):
                if (nearest == k).any():
                    self._means[k] = colours[nearest == k].mean(0)
        nearest = np.argmin(((colours[:, None] - self._means) ** 2).sum(-1), 1)
        self._shares = np.array([(nearest == k).mean() for k in range(COLOURS)]) + 1e-3
        spread = [((colours[nearest == k] - self._means[k]) ** 2).mean() if (nearest == k).any() else 1e-3 for k in range(COLOURS)]
        self._spreads = np.maximum(spread, 2e-4)

    def __call__(self, lab: np.ndarray) -> np.ndarray:
        """Log-likelihoods of (..., 3) colours."""
        logs = [
            np.log(s) - 1.5 * np.log(v) - ((lab - m) ** 2).sum(-1) / (2 * v)
            for m, s, v in zip(self._means, self._shares, self._spreads, strict=True)
        ]
        top = np.maximum.reduce(logs)
        return np.asarray(top + np.log(sum(np.exp(x - top) for x in logs)), np.float32)


def guided(guide: np.ndarray, values: np.ndarray, reach: int, even: float) -> np.ndarray:
    """values (H, W) smoothed where a guide (H, W) 0..1 is even, and with an edge where that has one (He, Sun and Tang, "Guided image
    filtering", 2010). even: the variance below which the guide counts as even."""

    def mean(a: np.ndarray) -> np.ndarray:
        return ndimage.uniform_filter(np.asarray(a, np.float32), 2 * reach + 1, mode="nearest")

    i, p = mean(guide), mean(values)
    slope = (mean(guide * values) - i * p) / (mean(guide * guide) - i * i + even)
    return np.asarray(mean(slope) * guide + mean(p - slope * i), np.float32)


def softened(picture: np.ndarray, mask: np.ndarray, reach: int = REACH) -> np.ndarray:
    """A mask (H, W) 0..1 whose edge follows the picture's (H, W, 3) uint8, hair by hair, within `reach` pixels: (H, W) float32 0..1."""
    solid = mask > 0.5
    if not solid.any() or solid.all():
        return np.asarray(mask, np.float32)
    grey = oklab(picture[..., :3].astype(np.float32) / 255)[..., 0]
    soft = np.clip(guided(grey, solid.astype(np.float32), reach, EVEN) * 1.2 - 0.1, 0, 1)
    near = ndimage.binary_dilation(solid, iterations=reach) & ~ndimage.binary_erosion(solid, iterations=reach)
    return np.where(near, soft, solid).astype(np.float32)


def smooth(mask: np.ndarray, pixels: float) -> np.ndarray:
    """A mask (H, W) 0..1 whose corners are rounded over so many pixels."""
    soft = ndimage.gaussian_filter(np.asarray(mask > 0.5, np.float32), pixels / 2, mode="nearest")
    return np.asarray(np.clip((soft - 0.5) * pixels + 0.5, 0, 1), np.float32)


def border(mask: np.ndarray, pixels: float) -> np.ndarray:
    """A ring of so many pixels along the edge of a mask (H, W) 0..1, half of it inside."""
    solid = mask > 0.5
    depth = np.where(solid, ndimage.distance_transform_edt(solid), ndimage.distance_transform_edt(~solid))
    return np.asarray(np.clip(pixels / 2 + 0.5 - depth + 0.5, 0, 1), np.float32)


def shaped(mask: np.ndarray, grow: float = 0.0, feather: float = 0.0) -> np.ndarray:
    """A mask (H, W) 0..1 grown by pixels (below 0: shrunk), then feathered by so many."""
    out = np.asarray(mask, np.float32)
    if grow:
        depth = ndimage.distance_transform_edt(out > 0.5) - ndimage.distance_transform_edt(out <= 0.5)
        out = np.clip(depth + grow + np.where(depth > 0, 0.0, 1.0), 0, 1).astype(np.float32)
    return np.asarray(ndimage.gaussian_filter(out, feather / 2), np.float32) if feather > 0 else out
