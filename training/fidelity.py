"""How much of a picture is left: its error, and the edges that are kept."""

from __future__ import annotations

import numpy as np

#: Length of a gradient, over all channels in 0..1, from which on it counts as strong.
STRONG = 0.08


def gradient(x: np.ndarray) -> np.ndarray:
    """Its length over all channels, (H - 1, W - 1)."""
    dy, dx = x[1:, :-1] - x[:-1, :-1], x[:-1, 1:] - x[:-1, :-1]
    return np.asarray(np.sqrt((dy**2 + dx**2).sum(-1)))


def judged(made: np.ndarray, true: np.ndarray) -> tuple[float, float]:
    """Of pictures (H, W, 3) in 0..1: PSNR in dB, and the share of the gradient kept where the true one is strong."""
    psnr = -10 * np.log10(float(((made - true) ** 2).mean()))
    strong = gradient(true) > STRONG
    return float(psnr), float(gradient(made)[strong].sum() / gradient(true)[strong].sum())
