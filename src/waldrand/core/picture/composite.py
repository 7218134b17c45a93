"""Laying pixels over pixels: bit-exact wherever an edge is 0, and in strips, so that a large picture needs little memory beside itself."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

import numpy as np

#: Pixels that are worked on at a time.
STRIP = 2_000_000


def strips(height: int, width: int) -> Iterator[slice]:
    """Rows of a picture, few enough at a time."""
    step = max(1, STRIP // max(1, width))
    return (slice(y, min(y + step, height)) for y in range(0, height, step))


def _overlaid(b: np.ndarray, s: np.ndarray) -> np.ndarray:
    return np.where(b <= 0.5, 2 * b * s, 1 - 2 * (1 - b) * (1 - s))


NORMAL = "normal"
#: What becomes of what is below (b) and laid over it (s), both 0..1, where both cover (W3C, Compositing and Blending Level 1).
BLENDS: Mapping[str, Callable[[np.ndarray, np.ndarray], np.ndarray] | None] = {
    NORMAL: None,
    "multiply": lambda b, s: b * s,
    "screen": lambda b, s: b + s - b * s,
    "overlay": _overlaid,
    "lighter": np.maximum,
    "darker": np.minimum,
}


def lay_over(below: np.ndarray, patch: np.ndarray, alpha: np.ndarray, blend: str = NORMAL) -> np.ndarray:
    """patch (H, W, 3) over below (H, W, 4), both uint8 sRGB, by alpha (H, W) uint8 -> (H, W, 4) uint8. blend: one of BLENDS.

    Where alpha is 0 the bytes of `below` come back unchanged; where 255, the patch's (as blended), opaque. Between, colours
    are mixed by share of coverage, transparent pixels below counting less.
    """
    out = below.copy()
    for rows in strips(*alpha.shape):
        a = alpha[rows]
        # Most layers are clear or solid nearly everywhere; only what is neither has to be reckoned.
        columns = np.flatnonzero(a.any(0))
        if not len(columns):
            continue
        at = rows, slice(int(columns[0]), int(columns[-1]) + 1)
        share, under = alpha[at].ravel(), np.ascontiguousarray(out[at])
        over = np.empty_like(under)
        over[..., :3] = _blended(under, patch[at], blend) if blend != NORMAL else patch[at]
        over[..., 3] = 255
        soft = np.flatnonzero((share > 0) & (share < 255))
        # Whole pixels at a time.
        whole, new = under.view(np.uint32).ravel(), over.view(np.uint32).ravel()
        mixed = _mixed(_bytes(whole[soft]), _bytes(new[soft])[:, :3], share[soft])
        np.copyto(whole, new, where=share == 255)
        whole[soft] = mixed.view(np.uint32).ravel()
        out[at] = under
    return out


def _bytes(pixels: np.ndarray) -> np.ndarray:
    """(n,) uint32 as (n, 4) uint8."""
    return pixels.view(np.uint8).reshape(-1, 4)


def _blended(below: np.ndarray, patch: np.ndarray, blend: str) -> np.ndarray:
    """The patch as it comes out over what is below; over nothing it stays as it is."""
    meet = BLENDS[blend]
    assert meet is not None
    share = below[..., 3:].astype(np.float32) / 255
    over, under = patch.astype(np.float32) / 255, below[..., :3].astype(np.float32) / 255
    return np.asarray(((1 - share) * over + share * meet(under, over)) * 255 + 0.5, np.uint8)


def _mixed(below: np.ndarray, patch: np.ndarray, alpha: np.ndarray) -> np.ndarray:
    """Pixels (n, 3) over pixels (n, 4) by alpha (n,) above 0."""
    a = alpha.astype(np.uint32)
    b = below[..., 3].astype(np.uint32)
    # All in 1/255^2 units, rounded once, so that equal colours stay equal.
    over, under = a * 255, (255 - a) * b
    total = over + under
    mixed = (
        patch.astype(np.uint32) * over[..., None] + below[..., :3].astype(np.uint32) * under[..., None] + total[..., None] // 2
    ) // np.maximum(total, 1)[..., None]
    out = np.empty_like(below)
    out[..., :3] = mixed
    out[..., 3] = (total + 127) // 255
    return out
