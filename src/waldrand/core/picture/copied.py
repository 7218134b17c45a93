"""A hole filled from the picture itself: every small patch that meets it becomes like one that lies outside.

Nearest patches are found by propagation and random search (Barnes et al., "PatchMatch", 2009); what is filled in is the average of all
patches that cover a pixel, and both are repeated from coarse to fine (Wexler, Shechtman and Irani, "Space-time completion of video", 2007).
"""

from __future__ import annotations

import numpy as np
from scipy import ndimage

from .membrane import stretched
from .resample import resize_mask, resize_picture
from .spread import spread

#: Pixels from the middle of a patch to its edge, and the least side of the coarsest picture.
REACH, COARSEST = 3, 24
#: How often patches are looked for and laid at each size, from the finest on.
ROUNDS = (2, 3, 5, 10, 20)
#: At the finest size patches that fit hardly worse count hardly any more, and pixels far from a patch's middle less, or grain would be
#: averaged away: by how much smaller the differences are that tell, and the square of how far from the middle.
PICKS, CENTRED = 0.1, 4.0
#: Pairs of patches up to which all are compared.
ALL_TRIED = 6_000_000
#: By how much a patch counts less for each pixel deeper in the hole.
FADES = 1.3
#: Offsets to the four neighbours.
BESIDE = ((0, 1), (0, -1), (1, 0), (-1, 0))


def copied_patches(picture: np.ndarray, known: np.ndarray, seed: int = 0) -> np.ndarray:
    """Fills (H, W, 3) float32 0..1 where known (H, W, 0..1) is below 1 with what the rest looks like; known pixels stay as they are.
    The same seed fills alike. Where hardly anything is known, as `stretched`.
    """
    hole = known < 1
    start = stretched(np.where(hole[..., None], 0, picture).astype(np.float32), hole)
    if not hole.any() or _usable(hole).sum() < 16:
        return start
    sizes = _sizes(hole)
    random = np.random.Generator(np.random.Philox(key=[seed, len(sizes)]))
    filled: np.ndarray | None = None
    offsets: np.ndarray | None = None
    for level in reversed(range(len(sizes))):
        h, w = sizes[level]
        small_hole = hole if level == 0 else resize_mask(hole.astype(np.float32), h, w) > 0.01
        if _usable(small_hole).sum() < 16:
            continue
        plain = start if level == 0 else resize_picture(start, h, w)
        image = plain if filled is None else np.where(small_hole[..., None], resize_picture(filled, h, w), plain)
        filled, offsets = _at_size(
            np.ascontiguousarray(image, np.float32), small_hole, offsets, ROUNDS[min(level, len(ROUNDS) - 1)], random, level == 0
        )
    if filled is None:
        return start
    return np.where(hole[..., None], filled, picture).astype(np.float32)


def _usable(hole: np.ndarray) -> np.ndarray:
    """Where whole patches lie outside the hole and inside the picture."""
    out = ~spread(hole, REACH)
    out[:REACH] = out[-REACH:] = False
    out[:, :REACH] = out[:, -REACH:] = False
    return np.asarray(out)


def _sizes(hole: np.ndarray) -> list[tuple[int, int]]:
    """Heights and widths, each half of the one before, until the hole is hardly thicker than a patch."""
    thick = float(ndimage.distance_transform_edt(hole).max())
    sizes = [hole.shape]
    while thick > REACH and min(sizes[-1]) // 2 >= COARSEST:
        h, w = sizes[-1]
        sizes.append(((h + 1) // 2, (w + 1) // 2))
        thick /= 2
    return [(int(h), int(w)) for h, w in sizes]


def _at_size(
    image: np.ndarray, hole: np.ndarray, before: np.ndarray | None, rounds: int, random: np.random.Generator, finest: bool
) -> tuple[np.ndarray, np.ndarray]:
    """The picture filled at one size; and for every pixel (h, w, 2) where the patch that it is in the middle of was found. before: the
    same at half the size."""
    h, w = hole.shape
    usable = _usable(hole)
    sources = np.argwhere(usable)
    touched = spread(hole, REACH)
    # Patches over the border are of pixels that go on there.
    ys, xs = np.nonzero(touched)
    found = np.zeros((h, w, 2), np.int64)
    found[ys, xs] = sources[random.integers(len(sources), size=len(ys))]
    if before is not None:
        old = 2 * before[np.minimum(ys // 2, before.shape[0] - 1), np.minimum(xs // 2, before.shape[1] - 1)] + np.stack([ys % 2, xs % 2], 1)
        old = np.clip(old, 0, (h - 1, w - 1))
        good = usable[old[:, 0], old[:, 1]]
        found[ys[good], xs[good]] = old[good]
    # What is surely known counts more for what a patch looks like.
    deep = ndimage.distance_transform_edt(hole)
    weight = np.where(hole, 0.5 * FADES ** -np.minimum(deep, 20), 1).astype(np.float32)
    near = FADES ** -np.minimum(deep[ys, xs], 40)
    for _ in range(rounds):
        patches = _patches(image)
        distance = _searched(patches, _patches(weight[..., None]), found, touched, usable, ys, xs, random)
        image = _laid(image, hole, found, distance, near, ys, xs, finest)
    return image, found


def _patches(image: np.ndarray) -> np.ndarray:
    """All patches (h * w, values) float32."""
    h, w, c = image.shape
    n = 2 * REACH + 1
    padded = np.pad(image, ((REACH, REACH), (REACH, REACH), (0, 0)), mode="edge")
    # Every second value of a large patch tells as much, in half the time.
    seen = np.lib.stride_tricks.sliding_window_view(padded, (n, n), axis=(0, 1))[..., ::2, ::2]
    return np.ascontiguousarray(seen.reshape(h * w, -1), np.float32) if c else seen


def _searched(
    patches: np.ndarray,
    weights: np.ndarray,
    found: np.ndarray,
    touched: np.ndarray,
    usable: np.ndarray,
    ys: np.ndarray,
    xs: np.ndarray,
    random: np.random.Generator,
) -> np.ndarray:
    """Improves where the patches round (ys, xs) were found, in place; returns their distances (n,)."""
    h, w = touched.shape
    mine = patches[ys * w + xs]
    weight = np.repeat(weights[ys * w + xs], 3, axis=1).reshape(mine.shape)

    def distance(at: np.ndarray, rows: np.ndarray) -> np.ndarray:
        apart = patches[at[:, 0] * w + at[:, 1]] - mine[rows]
        return np.asarray(np.einsum("ij,ij,ij->i", apart, apart, weight[rows]))

    everyone = np.arange(len(ys))
    best = found[ys, xs].copy()
    cost = distance(best, everyone)

    def tried(candidate: np.ndarray, rows: np.ndarray) -> None:
        inside = (candidate >= 0).all(1) & (candidate < (h, w)).all(1)
        rows, candidate = rows[inside], candidate[inside]
        good = usable[candidate[:, 0], candidate[:, 1]]
        rows, candidate = rows[good], candidate[good]
        new = distance(candidate, rows)
        better = new < cost[rows]
        cost[rows[better]], best[rows[better]] = new[better], candidate[better]
        found[ys, xs] = best

    if len(ys) * int(usable.sum()) <= ALL_TRIED:
        sources = np.argwhere(usable)
        root = np.sqrt(weight)
        theirs = patches[sources[:, 0] * w + sources[:, 1]]
        # All at once: |a - b|^2 = a a - 2 a b + b b, each with the weights of the patch that is looked for.
        apart = -2 * (mine * weight) @ theirs.T + weight @ (theirs * theirs).T
        best = sources[np.argmin(apart, 1)]
        found[ys, xs] = best
        return distance(best, everyone) * float(root.max() > 0)
    for step in (4, 2, 1):
        # A neighbour's patch, moved as the neighbour lies, is likely to be like it.
        for dy, dx in BESIDE:
            ny, nx = ys + step * dy, xs + step * dx
            ok = (ny >= 0) & (ny < h) & (nx >= 0) & (nx < w)
            rows = everyone[ok]
            rows = rows[touched[ny[rows], nx[rows]]]
            tried(found[ny[rows], nx[rows]] - (step * dy, step * dx), rows)
    radius = max(h, w)
    while radius >= 1:
        tried(best + random.integers(-radius, radius + 1, size=best.shape), everyone)
        radius //= 3
    return cost


def _laid(
    image: np.ndarray,
    hole: np.ndarray,
    found: np.ndarray,
    cost: np.ndarray,
    near: np.ndarray,
    ys: np.ndarray,
    xs: np.ndarray,
    finest: bool,
) -> np.ndarray:
    """Every pixel of the hole the average of what all patches over it have there; patches that fit well count more, and those near to
    what is known. What the same patches would have just outside tells how far their colours are off; that is taken away smoothly."""
    h, w = hole.shape
    total, share = np.zeros((h, w, 3), np.float64), np.zeros((h, w), np.float64)
    spread = float(np.percentile(cost, 60)) * (PICKS if finest else 1.0) + 1e-6
    # However badly it fits, a patch counts where there is no other.
    weight = (np.exp(-cost / (2 * spread)) + 1e-9) * near
    at = found[ys, xs]
    for dy in range(-REACH, REACH + 1):
        for dx in range(-REACH, REACH + 1):
            y, x = ys + dy, xs + dx
            ok = (y >= 0) & (y < h) & (x >= 0) & (x < w)
            own = weight[ok] * (np.exp(-(dy * dy + dx * dx) / CENTRED) if finest else 1.0)
            # No two patches put the same of their pixels at the same place.
            total[y[ok], x[ok]] += own[:, None] * image[at[ok, 0] + dy, at[ok, 1] + dx]
            share[y[ok], x[ok]] += own
    laid = share > 1e-30
    made = (total / np.maximum(share, 1e-30)[..., None]).astype(np.float32)
    off = stretched(np.where((laid & ~hole)[..., None], image - made, 0).astype(np.float32), hole)
    return np.where((hole & laid)[..., None], np.clip(made + off, 0, 1), image)
