"""From noise to a clean sample in a few steps, written once for every way a pack predicts."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from typing import Literal

import numpy as np

from ..refused import Refused
from ..worded import worded
from .levels import Schedule

Sampler = Literal["first", "second", "heun", "ancestral", "ancestral-second"]
SAMPLERS: tuple[Sampler, ...] = ("second", "first", "heun", "ancestral", "ancestral-second")
#: Those that draw fresh noise on the way.
ANCESTRAL: tuple[Sampler, ...] = ("ancestral", "ancestral-second")
Denoise = Callable[[np.ndarray, float], np.ndarray]
#: Called with (steps done, sample, level, latest x0); returns the sample to go on with.
AfterStep = Callable[[int, np.ndarray, float, np.ndarray], np.ndarray]
#: Fresh noise of the sample's shape for each step, from 0.
Fresh = Callable[[int], np.ndarray]


def evaluations(levels: np.ndarray, schedule: Schedule, sampler: Sampler) -> list[float]:
    """The levels that `denoise` is called at on the way down: once a step, Heun twice where log-SNR is finite at both ends."""
    at = []
    for t, s in itertools.pairwise(map(float, levels)):
        at.append(t)
        if sampler == "heun" and math.isfinite(schedule.log_snr(s) - schedule.log_snr(t)):
            at.append(s)
    return at


def sample(
    denoise: Denoise,
    x: np.ndarray,
    levels: np.ndarray,
    schedule: Schedule,
    sampler: Sampler = "second",
    after_step: AfterStep | None = None,
    fresh: Fresh | None = None,
) -> np.ndarray:
    """Follows the levels down from x, a sample at levels[0].

    "first": x_s = alpha_s x0 + (sigma_s / sigma_t) (x_t - alpha_t x0) (Song et al. 2021, eta = 0).
    "second": exponential multistep in log-SNR (Lu et al. 2022, "2M"): x0 is replaced by
    x0 + (x0 - x0_before) h / (2 h_before), h = log_snr(s) - log_snr(t); the first and the last step are
    first-order, since log-SNR is infinite at both ends.
    "heun": x0 is replaced by (1 - c) x0(x_t) + c x0(x_s'), x_s' from the first-order step, and
    c = (exp(-h) - 1 + h) / (h (1 - exp(-h))), which is 1/2 for small h (the exponential form of Heun's rule, Cox and Matthews 2002).
    "ancestral": the part of the noise that x_s does not share with x_t is drawn anew: with
    tau^2 = sigma_s^2 (1 - (alpha_t sigma_s / (alpha_s sigma_t))^2), x_s = alpha_s x0 + sqrt(sigma_s^2 - tau^2) e + tau fresh,
    e = (x_t - alpha_t x0) / sigma_t (Song et al. 2021, eta = 1, for any alpha and sigma).
    "ancestral-second": the same with x0 as "second" replaces it (Lu et al. 2022, "SDE 2M").

    Raises:
        Refused: an unknown sampler, levels that do not fall, or no fresh noise for one that needs it.
    """
    if sampler not in SAMPLERS:
        raise Refused(worded("There is no sampler called “{0}”; choose one of {1}.", sampler, ", ".join(SAMPLERS)))
    if np.any(np.diff(levels) >= 0):
        raise Refused(worded("Noise levels have to fall from step to step."))
    if sampler in ANCESTRAL and fresh is None:
        raise Refused(worded("An ancestral sampler needs fresh noise for each step."))
    before: tuple[np.ndarray, float] | None = None
    for i in range(len(levels) - 1):
        t, s = float(levels[i]), float(levels[i + 1])
        x0 = denoise(x, t)
        target = x0
        h = schedule.log_snr(s) - schedule.log_snr(t)
        if sampler in ("second", "ancestral-second") and before is not None and math.isfinite(h) and math.isfinite(before[1]):
            target = x0 + (x0 - before[0]) * np.float32(h / (2 * before[1]))
        elif sampler == "heun" and math.isfinite(h):
            c = np.float32((math.expm1(-h) + h) / (h * -math.expm1(-h)))
            target = (1 - c) * x0 + c * denoise(_stepped(x, x0, t, s, schedule), s)
        if sampler in ANCESTRAL and fresh is not None:
            x = _ancestral(x, target, t, s, schedule, fresh(i))
        else:
            x = _stepped(x, target, t, s, schedule)
        before = (x0, h)
        if after_step is not None:
            x = after_step(i + 1, x, s, x0)
    return x


def _stepped(x: np.ndarray, x0: np.ndarray, t: float, s: float, schedule: Schedule) -> np.ndarray:
    ratio = schedule.sigma(s) / schedule.sigma(t)
    return np.asarray(np.float32(ratio) * x + np.float32(schedule.alpha(s) - ratio * schedule.alpha(t)) * x0, x.dtype)


def _ancestral(x: np.ndarray, x0: np.ndarray, t: float, s: float, schedule: Schedule, fresh: np.ndarray) -> np.ndarray:
    a_t, s_t, a_s, s_s = schedule.alpha(t), schedule.sigma(t), schedule.alpha(s), schedule.sigma(s)
    tau = s_s * math.sqrt(max(0.0, 1 - (a_t * s_s / (a_s * s_t)) ** 2)) if s_s > 0 else 0.0
    e = (x - np.float32(a_t) * x0) / np.float32(s_t)
    kept = math.sqrt(max(0.0, s_s**2 - tau**2))
    return np.asarray(np.float32(a_s) * x0 + np.float32(kept) * e + np.float32(tau) * fresh, x.dtype)
