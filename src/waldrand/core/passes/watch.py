"""Whoever waits for takes: told of every step, and able to stop."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
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

#: The most pixels a side of what is shown under a stage that is forming.
SHOWN = 1024


@dataclass(frozen=True, eq=False)
class Painted:
    """What a take has painted before the stage or part that is forming: pixels (h, w, 3 or 4) uint8 of a frame, transparent where it
    changes nothing."""

    pixels: np.ndarray
    frame: Rect

    def with_forming(self, preview: np.ndarray, at: Rect) -> tuple[np.ndarray, Rect]:
        """It, with a small preview (h, w, 4) of another frame laid over it; and the frame of both."""
        frame = self.frame.around(at)
        scale = min(1.0, SHOWN / max(frame.width, frame.height))
        out = np.zeros((max(1, round(frame.height * scale)), max(1, round(frame.width * scale)), 4), np.uint8)
        for pixels, rect in ((self.pixels, self.frame), (preview, at)):
            x0, x1 = (round((x - frame.x0) * scale) for x in (rect.x0, rect.x1))
            y0, y1 = (round((y - frame.y0) * scale) for y in (rect.y0, rect.y1))
            there, (h, w) = out[y0:y1, x0:x1], pixels.shape[:2]
            seen = pixels[np.arange(there.shape[0])[:, None] * h // (y1 - y0), np.arange(there.shape[1]) * w // (x1 - x0)]
            shown = seen[..., 3] > 0 if seen.shape[-1] == 4 else np.ones(seen.shape[:2], bool)
            there[shown, :3], there[shown, 3] = seen[shown][:, :3], 255
        return out, frame


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
    is; part, parts: which part of it; tiles: where tiles are kept; under: what this take has painted already."""

    progress: Progress | None = None
    stop: Event | None = None
    take: int = 0
    takes: int = 1
    part: int = 0
    parts: int = 1
    tiles: KeptTiles | None = None
    under: Painted | None = None

    def check(self) -> None:
        """Raises Stopped when no more is wanted."""
        if self.stop is not None and self.stop.is_set():
            raise Stopped

    def over(self, pixels: np.ndarray, frame: Rect) -> Watch:
        """A watch that shows what forms over these pixels (`Painted`), and over what it was shown over before."""
        if self.progress is None:
            return self
        if self.under is not None:
            pixels, frame = self.under.with_forming(pixels, frame)
        return replace(self, under=Painted(pixels, frame))

    def step(self, step: int, steps: int, preview: Callable[[], np.ndarray], frame: Rect) -> None:
        """Tells of a step done, if anybody wants to know."""
        self.check()
        if self.progress is not None:
            shown, at = (preview(), frame) if self.under is None else self.under.with_forming(preview(), frame)
            self.progress(Step(self.take, self.takes, step, steps, shown, at, self.part, self.parts))
