"""Seeded noise: the same seed and purpose give the same numbers everywhere."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..refused import Refused
from ..worded import worded

START, ELEMENT = 0, 1
#: Fresh noise of step i has the purpose ANCESTRAL + i.
ANCESTRAL = 1000
#: Which figure the element with the key k gets is drawn by FIGURE + k.
FIGURE = 1_000_000
#: How it is bent is drawn by BEND + k.
BEND = 2_000_000_000
#: Where the horizon lies and which form of each ground is drawn: GROUND, and GROUND + 1 + the ground's number.
GROUND = 4_000_000_000
#: Where things that are only named get their places.
PLACE = 900_000
#: The streaks of paper; its grain is drawn by the next.
PAPER = 800_000
#: Where flakes and drops fall, in squares.
FALL = 5 << 32
LARGEST_SEED = 2**31 - 1
#: A field of noise is drawn in squares of so many cells; its purposes are told from all others by their highest bit.
BLOCK, FIELD = 32, 1 << 63


def noise(seed: int, purpose: int, shape: tuple[int, ...]) -> np.ndarray:
    """Normal numbers, float32, from Philox keyed by (seed, purpose).

    Raises:
        Refused: seed outside 0..2^31 - 1.
    """
    if not 0 <= seed <= LARGEST_SEED:
        raise Refused(worded("A seed is a whole number from 0 to {0}, not {1}.", LARGEST_SEED, seed))
    return np.random.Generator(np.random.Philox(key=[seed, purpose])).standard_normal(shape, dtype=np.float32)


def field_noise(seed: int, purpose: int, channels: int, rows: slice, columns: slice) -> np.ndarray:
    """Normal numbers (channels, rows, columns), float32: a part of an endless field, of which every part agrees with every other.
    rows, columns: from 0 to 2^20.

    Raises:
        Refused: seed outside 0..2^31 - 1.
    """
    out = np.empty((channels, rows.stop - rows.start, columns.stop - columns.start), np.float32)
    for by in range(rows.start // BLOCK, (rows.stop - 1) // BLOCK + 1):
        for bx in range(columns.start // BLOCK, (columns.stop - 1) // BLOCK + 1):
            block = noise(seed, FIELD | purpose << 32 | by << 16 | bx, (channels, BLOCK, BLOCK))
            y0, y1 = max(rows.start, by * BLOCK), min(rows.stop, (by + 1) * BLOCK)
            x0, x1 = max(columns.start, bx * BLOCK), min(columns.stop, (bx + 1) * BLOCK)
            part = block[:, y0 - by * BLOCK : y1 - by * BLOCK, x0 - bx * BLOCK : x1 - bx * BLOCK]
            out[:, y0 - rows.start : y1 - rows.start, x0 - columns.start : x1 - columns.start] = part
    return out


def with_own_seeds(base: np.ndarray, own: Sequence[tuple[int, int, np.ndarray]]) -> np.ndarray:
    """Replaces the noise base (C, h, w) inside each outline (h, w, 0..1) by the noise of its seed and purpose: (seed, purpose, outline).

    Soft edges are mixed by (1 - m, m) / sqrt((1 - m)^2 + m^2), which keeps the variance at 1.
    """
    e = base
    for seed, purpose, m in own:
        other = noise(seed, purpose, base.shape)
        e = ((1 - m) * e + m * other) / np.sqrt((1 - m) ** 2 + m**2)
    return np.asarray(e, np.float32)
