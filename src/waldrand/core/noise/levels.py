"""Noise levels: how much picture and how much noise a sample holds at level t, 0 (clean) to 1."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..refused import Refused
from ..worded import worded

Prediction = Literal["flow", "v", "eps"]
CURVES = ("linear", "quadratic")
PREDICTIONS: tuple[Prediction, ...] = ("flow", "v", "eps")


@dataclass(frozen=True)
class Schedule:
    """x_t = alpha(t) x0 + sigma(t) e.

    prediction: what a network answers: "flow" (e - x0, on the straight line alpha = 1 - t, sigma = t;
    Lipman et al. 2023), "v" (alpha e - sigma x0; Salimans and Ho 2022) or "eps" (the noise). The latter
    two use alpha = cos(pi t / 2), sigma = sin(pi t / 2), so alpha^2 + sigma^2 = 1; or, where a network was taught discrete steps, kept:
    alpha^2 after each of them (the running product of 1 - beta; Ho, Jain, Abbeel 2020).
    """

    prediction: Prediction = "flow"
    kept: tuple[float, ...] = ()

    def _kept(self, t: float) -> float:
        """alpha(t)^2 between the steps that a network was taught, evenly spaced over t: t = 0 is clean, t = 1 the last of them."""
        return float(np.interp(t * len(self.kept), np.arange(len(self.kept) + 1), (1.0, *self.kept)))

    def alpha(self, t: float) -> float:
        if self.kept:
            return math.sqrt(self._kept(t))
        return 1.0 - t if self.prediction == "flow" else math.cos(math.pi / 2 * t)

    def sigma(self, t: float) -> float:
        if self.kept:
            return math.sqrt(1 - self._kept(t))
        return t if self.prediction == "flow" else math.sin(math.pi / 2 * t)

    def log_snr(self, t: float) -> float:
        """log(alpha / sigma); infinite at both ends."""
        a, s = self.alpha(t), self.sigma(t)
        if s <= 0:
            return math.inf
        return math.log(a / s) if a > 1e-12 else -math.inf

    def noised(self, x0: np.ndarray, e: np.ndarray, t: float) -> np.ndarray:
        """The sample at level t of a clean x0 with noise e."""
        return np.asarray(np.float32(self.alpha(t)) * x0 + np.float32(self.sigma(t)) * e, np.float32)

    def clean(self, x: np.ndarray, answer: np.ndarray, t: float) -> np.ndarray:
        """x0 from a sample at level t and the network's answer."""
        if self.prediction == "flow":
            return np.asarray(x - np.float32(t) * answer, np.float32)
        a, s = np.float32(self.alpha(t)), np.float32(self.sigma(t))
        if self.prediction == "v":
            return np.asarray(a * x - s * answer, np.float32)
        return np.asarray((x - s * answer) / max(float(a), 1e-3), np.float32)


def kept_after(steps: int, first: float, last: float, curve: str) -> tuple[float, ...]:
    """alpha^2 after each of so many steps whose betas rise from `first` to `last`: "linear", or "quadratic" (their roots rise evenly).

    Raises:
        Refused: betas that cannot be.
    """
    if not (1 <= steps <= 100_000 and 0 < first <= last < 1 and curve in CURVES):
        raise Refused(worded("Noise levels of {0} steps from {1:g} to {2:g}, {3}, cannot be.", steps, first, last, curve))
    betas = np.linspace(first, last, steps) if curve == "linear" else np.linspace(first**0.5, last**0.5, steps) ** 2
    return tuple(float(v) for v in np.cumprod(1 - betas))


def executed_steps(steps: int, strength: float) -> int:
    """Steps really run at a strength (0..1): none at 0, else at least one."""
    return 0 if strength <= 0 else max(1, round(steps * strength))


def spaced_levels(steps: int, strength: float = 1.0, shift: float = 2.0) -> np.ndarray:
    """Levels from `strength` down to 0, shape (executed_steps + 1,), float64.

    shift > 1 puts more of them at high noise: t = shift u / (1 + (shift - 1) u) for evenly spaced u.

    Raises:
        Refused: steps below 1, strength outside 0..1, or shift not positive.
    """
    if steps < 1:
        raise Refused(worded("A pass needs at least 1 step, not {0}.", steps))
    if not 0 <= strength <= 1:
        raise Refused(worded("Denoise strength goes from 0 to 1; {0:g} is outside.", strength))
    if shift <= 0:
        raise Refused(worded("The spacing of noise levels has to be above 0, not {0:g}.", shift))
    n = executed_steps(steps, strength)
    if n == 0:
        return np.zeros(1)
    top = strength / (shift - (shift - 1) * strength)
    u = np.linspace(top, 0, n + 1)
    levels = shift * u / (1 + (shift - 1) * u)
    levels[0] = strength
    return np.asarray(levels)
