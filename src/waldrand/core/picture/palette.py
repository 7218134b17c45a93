"""The main colours of a picture."""

from __future__ import annotations

import numpy as np

from .adjusting import from_oklab
from .cutting import oklab

ROUNDS, MOST = 8, 4000


def main_colours(pixels: np.ndarray, count: int) -> list[tuple[int, int, int]]:
    """At most so many colours that pixels (N, 3) uint8 gather round, the most frequent first: means of clouds in Oklab (Lloyd 1982),
    begun from those that lie farthest apart, so that a small bright spot gets its own. The same pixels give the same."""
    if not len(pixels):
        return []
    lab = oklab(pixels[:: max(1, len(pixels) // MOST)].astype(np.float32)[None] / 255)[0]
    means = [lab.mean(0)]
    for _ in range(count - 1):
        apart = np.min([((lab - m) ** 2).sum(-1) for m in means], 0)
        if apart.max() < 1e-4:
            break
        means.append(lab[int(apart.argmax())])
    centres = np.array(means)
    for _ in range(ROUNDS):
        nearest = ((lab[:, None] - centres) ** 2).sum(-1).argmin(1)
        centres = np.array([lab[nearest == k].mean(0) if (nearest == k).any() else centres[k] for k in range(len(centres))])
    often = np.bincount(nearest, minlength=len(centres))
    rgb = np.round(255 * from_oklab(centres[None].astype(np.float32))[0]).astype(int)
    order = [k for k in np.argsort(-often, kind="stable") if often[k]]
    return list(dict.fromkeys((int(r), int(g), int(b)) for r, g, b in rgb[order]))
