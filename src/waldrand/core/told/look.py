"""What a picture looks like, told in numbers: its colours, light and surface, not its things."""

from __future__ import annotations

import numpy as np

#: Components whose relations, and whose evenness from cell to cell, are told.
RELATED, EVEN = 6, 8
#: Cells; of fewer no look can be told.
LEAST_CELLS = 4.0
_LEAST_DEVIATION = 1e-3


def length(channels: int) -> int:
    """How many numbers tell the look of latents with so many components."""
    related = min(RELATED, channels)
    return 2 * channels + related * (related - 1) // 2 + min(EVEN, channels)


def look_of(latent: np.ndarray, where: np.ndarray | None = None) -> np.ndarray:
    """The look of a latent (C, h, w), of where a mask (h, w) 0..1 says: float32 (length(C),).

    Means and logarithms of deviations of all components, correlations of the first RELATED, and how like neighbouring cells are in
    the first EVEN, each against its own deviation. The components inside a cell are edges of several widths, so their deviations tell
    of grain and of sharpness.

    Raises:
        ValueError: the mask covers fewer than LEAST_CELLS cells.
    """
    h, w = latent.shape[1:]
    share = np.ones((h, w), np.float32) if where is None else where
    total = float(share.sum())
    if total < LEAST_CELLS:
        raise ValueError(f"A look is told of {LEAST_CELLS:g} cells or more, not of {total:.1f}.")
    mean = (latent * share).sum((1, 2)) / total
    apart = latent - mean[:, None, None]
    deviation = np.sqrt((apart**2 * share).sum((1, 2)) / total) + _LEAST_DEVIATION
    normal = (apart / deviation[:, None, None])[: max(RELATED, EVEN)]
    related = np.einsum("ahw,bhw,hw->ab", normal[:RELATED], normal[:RELATED], share) / total
    steps = []
    for axis in (1, 2):
        a, b = (slice(None, -1), slice(1, None)) if axis == 1 else (slice(None), slice(None))
        p, q = (slice(None), slice(None)) if axis == 1 else (slice(None, -1), slice(1, None))
        both = share[a, p] * share[b, q]
        step = np.abs(normal[:EVEN, a, p] - normal[:EVEN, b, q])
        steps.append((step * both).sum((1, 2)) / max(float(both.sum()), 1.0))
    told = mean, np.log(deviation), related[np.triu_indices(len(related), 1)], (steps[0] + steps[1]) / 2
    return np.concatenate(told).astype(np.float32)
