"""From noise to a clean sample in a few steps, written once for every way a pack predicts."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Literal

import numpy as np

from .levels import Schedule

Sampler = Literal["first", "second"]
SAMPLERS: tuple[Sampler, ...] = ("second", "first")
Denoise = Callable[[np.ndarray, float], np.ndarray]
#: Called with (steps done, sample, level, latest x0); returns the sample to go on with.
AfterStep = Callable[[int, np.ndarray, float, np.ndarray], np.ndarray]


def sample(
    denoise: Denoise,
    x: np.ndarray,
    levels: np.ndarray,
    schedule: Schedule,
    sampler: Sampler = "second",
    after_step: AfterStep | None = None,
) -> np.ndarray:
    """Follows the levels down from x, a sample at levels[0].

    "first": x_s = alpha_s x0 + (sigma_s / sigma_t) (x_t - alpha_t x0) (Song et al. 2021, eta = 0).
    "second": exponential multistep in log-SNR (Lu et al. 2022, "2M"): x0 is replaced by
    x0 + (x0 - x0_before) h / (2 h_before), h = log_snr(s) - log_snr(t); the first and the last step are
    first-order, since log-SNR is infinite at both ends.

    Raises:
        ValueError: an unknown sampler, or levels that do not fall.
    """
    if sampler not in SAMPLERS:
        raise ValueError(f"There is no sampler called “{sampler}”; choose one of {', '.join(SAMPLERS)}.")
    if np.any(np.diff(levels) >= 0):
        raise ValueError("Noise levels have to fall from step to step.")
    before: tuple[np.ndarray, float] | None = None
    for i in range(len(levels) - 1):
        t, s = float(levels[i]), float(levels[i + 1])
        x0 = denoise(x, t)
        target = x0
        h = schedule.log_snr(s) - schedule.log_snr(t)
        if sampler == "second" and before is not None and math.isfinite(h) and math.isfinite(before[1]):
            target = x0 + (x0 - before[0]) * np.float32(h / (2 * before[1]))
        ratio = schedule.sigma(s) / schedule.sigma(t)
        x = np.asarray(np.float32(ratio) * x + np.float32(schedule.alpha(s) - ratio * schedule.alpha(t)) * target, x.dtype)
        before = (x0, h)
        if after_step is not None:
            x = after_step(i + 1, x, s, x0)
    return x
