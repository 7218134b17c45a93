"""What lies where there is no picture yet: colours drawn inwards from what there is."""

from __future__ import annotations

import numpy as np

from .resample import resize_mask


def push_pull(picture: np.ndarray, known: np.ndarray) -> np.ndarray:
    """Fills (H, W, 3) float32 where known (H, W, 0..1) is 0 from a pyramid of averages of what is known
    (Gortler et al. 1996, "push-pull"). Known pixels stay as they are; nothing known gives mid-grey."""
    if (known >= 1).all():
        return np.asarray(picture, np.float32)
    h, w = known.shape
    if max(h, w) <= 2:
        total = float(known.sum())
        mean = (picture * known[..., None]).sum((0, 1)) / total if total > 0 else np.full(3, 0.5, np.float32)
        return np.asarray(picture * known[..., None] + mean * (1 - known[..., None]), np.float32)
    hh, ww = (h + 1) // 2, (w + 1) // 2
    padded_k = np.pad(known, ((0, hh * 2 - h), (0, ww * 2 - w)))
    padded_p = np.pad(picture, ((0, hh * 2 - h), (0, ww * 2 - w), (0, 0))) * padded_k[..., None]
    weight = padded_k.reshape(hh, 2, ww, 2).sum((1, 3))
    small = padded_p.reshape(hh, 2, ww, 2, 3).sum((1, 3)) / np.maximum(weight, 1e-6)[..., None]
    coarse = push_pull(small.astype(np.float32), np.minimum(weight, 1).astype(np.float32))
    grown = np.stack([resize_mask(coarse[..., c], h, w) for c in range(3)], -1)
    return np.asarray(picture * known[..., None] + grown * (1 - known[..., None]), np.float32)
