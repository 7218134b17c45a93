"""How long a pass will take here: from what this machine was seen to do."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import numpy as np

from ..packs import SCENE, Pack, Rows

#: What a pass needs beyond the pack itself, measured with the pack that is installed: bytes per cell for each answer asked at a
#: time, and for the way up to pixels.
BYTES_PER_ANSWER, BYTES_PER_PICTURE = 18_000, 30_000


@dataclass(frozen=True)
class Speed:
    """Seconds: of an answer by itself, of an answer per cell, and of the way down and up again per cell; quick: the same for quick
    passes, None where it is no other."""

    answer: float
    cell: float
    picture: float
    quick: float | None = None

    def seconds(self, calls: int, cells: int, quick: bool = False) -> float:
        """A take with so many network calls on a frame of so many latent cells."""
        return self.answers(calls, cells) + (self.picture if self.quick is None or not quick else self.quick) * cells

    def answers(self, calls: int, cells: int) -> float:
        """So many network calls alone, without the way down and up again."""
        return calls * (self.answer + self.cell * cells)

    def corrected(self, expected: float, took: float) -> Speed:
        """After a take: half of what it missed by is believed, a hundredfold at most."""
        k = min(max((took / max(expected, 1e-6)) ** 0.5, 0.1), 10.0)
        return Speed(self.answer * k, self.cell * k, self.picture * k, None if self.quick is None else self.quick * k)


def measure(pack: Pack, small: int = 8, large: int = 24) -> Speed:
    """Times the pack on two small frames (cells a side, multiples of the pack's)."""
    info = pack.info
    took = []
    for n in (small, large):
        x = np.zeros((info.channels, n, n), np.float32)
        one = np.ones(1, np.float32)
        asked = [Rows(np.zeros((1, info.phrase_length), np.int64), SCENE * one, np.zeros((1, n, n), np.float32), one)] * 2
        # Twice, and the better one: the first is slowed by what is only set up once.
        ask = partial(pack.answer, x, x, np.ones((n, n), np.float32), 0.5, asked)
        took.append(min(_timed(ask) for _ in range(2)) / len(asked))
    per_cell = max((took[1] - took[0]) / (large * large - small * small), 0.0)
    picture = np.zeros((small * info.cell, small * info.cell, 3), np.float32)
    ways = (partial(pack.decode, pack.encode(picture), light=light) for light in (False, True))
    down = min(_timed(lambda: pack.encode(picture)) for _ in range(2))
    usual, quick = ((down + min(_timed(up) for _ in range(2))) / small**2 for up in ways)
    return Speed(max(took[0] - per_cell * small * small, 0.0), per_cell, usual, quick)


def _timed(act: Callable[[], object]) -> float:
    start = time.perf_counter()
    act()
    return time.perf_counter() - start
