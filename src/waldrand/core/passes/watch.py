"""Whoever waits for takes: told of every step, and able to stop."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from threading import Event
from typing import Protocol

import numpy as np

from ..values.frame import Rect


class Stopped(Exception):
    """The artist stopped the pass; nothing has changed."""


@dataclass(frozen=True, eq=False)
class Step:
    """Progress: take (from 0) of takes, part (from 0) of its parts, step of steps, and a small preview (h, w, 4) uint8 of a frame,
    transparent where the pass changes nothing."""

    take: int
    takes: int
    step: int
    steps: int
    preview: np.ndarray
    frame: Rect
    part: int = 0
    parts: int = 1


Progress = Callable[[Step], None]


class KeptTiles(Protocol):
    """Tiles that were painted before, so that a pass that was stopped goes on where it was."""

    def get(self, key: str, shape: tuple[int, ...]) -> np.ndarray | None:
        """A tile's pixels, uint8; None where there are none of that shape."""
        ...

    def put(self, key: str, pixels: np.ndarray) -> None:
        """Keeps a tile."""
        ...


@dataclass(frozen=True, eq=False)
class Watch:
    """Whoever waits for takes. progress: told of every step; stop: set when no more is wanted; take, takes: which of how many this
    is; part, parts: which part of it; tiles: where tiles are kept."""

    progress: Progress | None = None
    stop: Event | None = None
    take: int = 0
    takes: int = 1
    part: int = 0
    parts: int = 1
    tiles: KeptTiles | None = None

    def check(self) -> None:
        """Raises Stopped when no more is wanted."""
        if self.stop is not None and self.stop.is_set():
            raise Stopped

    def step(self, step: int, steps: int, preview: Callable[[], np.ndarray], frame: Rect) -> None:
        """Tells of a step done, if anybody wants to know."""
        self.check()
        if self.progress is not None:
            self.progress(Step(self.take, self.takes, step, steps, preview(), frame, self.part, self.parts))
