"""How far a training has come: its minutes and steps, and the checkpoint it goes on from."""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, Protocol

import torch
from torch import Tensor, nn

#: Seconds; a step of whole scenes takes six where numbers are not multiplied in matrix units.
LONGEST = 20.0


class Clock:
    """Tells minutes of training; a pause of the process is not training time."""

    def __init__(self) -> None:
        self._last = time.monotonic()

    def passed(self) -> float:
        """Minutes since the last call, LONGEST seconds at most."""
        now = time.monotonic()
        seconds, self._last = min(now - self._last, LONGEST), now
        return seconds / 60


def save_whole(path: Path, state: dict[str, Any]) -> None:
    """Saves a checkpoint so that a process killed while it does leaves the earlier one."""
    partial = path.with_suffix(".partial")
    torch.save(state, partial)
    partial.rename(path)


class Steps(Protocol):
    """An optimiser whose rate is given at each step."""

    def step(self, rate: float) -> None: ...

    def state(self) -> dict[str, Any]: ...

    def restore(self, state: dict[str, Any]) -> None: ...


class Progress:
    """A network and its optimiser, gone on with from the checkpoint if there is one."""

    def __init__(self, path: Path, net: nn.Module, optimiser: Steps) -> None:
        self.path, self.net, self.optimiser = path, net, optimiser
        self.minutes, self.steps = 0.0, 0
        #: Minutes that the weights were trained before this training began.
        self.before = 0.0
        if path.exists():
            state: dict[str, Any] = torch.load(path, weights_only=True)
            net.load_state_dict(state["net"])
            optimiser.restore(state["optimiser"])
            self.minutes, self.steps, self.before = state["minutes"], state["steps"], state["before"]
        self._clock = Clock()

    def begin(self) -> None:
        """Counts the minutes from here."""
        self._clock = Clock()

    def step(self, loss: Tensor, rate: float) -> None:
        """One step at the given rate along the loss, its gradient cut to length 1."""
        self.net.zero_grad(set_to_none=True)
        loss.backward()  # type: ignore[no-untyped-call]
        nn.utils.clip_grad_norm_(self.net.parameters(), 1.0)
        self.optimiser.step(rate)
        self.steps += 1
        self.minutes += self._clock.passed()

    def save(self) -> None:
        """Writes the checkpoint."""
        state = {"net": self.net.state_dict(), "optimiser": self.optimiser.state(), "minutes": self.minutes, "steps": self.steps}
        state["before"] = self.before
        save_whole(self.path, state)


def train_for(run: Progress, minutes: float, rate: float, warm_up: int, loss: Callable[[], Tensor]) -> None:
    """Steps along the loss of ever new samples until so many minutes are trained, the rate rising over so many steps and falling along a
    cosine; tells of every fiftieth and saves the checkpoint."""
    run.begin()
    recent: list[float] = []
    while run.minutes < minutes:
        along, value = run.minutes / minutes, loss()
        run.step(value, rate * min(1, (run.steps + 1) / warm_up) * (0.5 * (1 + math.cos(math.pi * along)) + 0.01))
        recent.append(value.item())
        if run.steps % 50 == 0:
            print(f"{run.minutes:6.1f} min {run.steps:6d} steps  train {sum(recent[-50:]) / len(recent[-50:]):.4f}", flush=True)
            run.save()
            run.begin()
    run.save()
