"""Takes made side by side: one alone is too many small steps for a processor's threads to share."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from threading import Event, Lock
from typing import TypeVar

from ..packs import PackInfo
from .watch import Progress, Step, Watch

T = TypeVar("T")
#: What takes need altogether, in bytes, up to which they are made side by side.
MOST_MEMORY = 400_000_000
#: Two takes side by side take so much of the time of both one after the other (benchmarks/take.py).
SHARE = 0.65


def how_many(info: PackInfo, takes: int, memory: int) -> int:
    """Of so many takes, how many are made side by side. memory: what one needs, in bytes."""
    return max(1, min(info.at_once, takes, MOST_MEMORY // max(1, memory)))


def together(seconds: float, takes: int, at_once: int) -> float:
    """How long so many takes last, by how long one alone does."""
    alone = takes % 2 if at_once > 1 else takes
    return seconds * (alone + SHARE * (takes - alone))


def alone(seconds: float, at_once: int) -> float:
    """How long one take would have lasted alone, by how long it did with others beside it."""
    return seconds / (at_once * SHARE) if at_once > 1 else seconds


def in_order(makes: Sequence[Callable[[Watch], T]], watch: Watch, at_once: int) -> Iterator[T]:
    """What each makes, in their order, so many at a time. watch: hears of the first that is not done; of what the others did meanwhile
    it hears the last step when it is their turn.

    Raises:
        Stopped: the watch's `stop` was set; what was yielded before stays good. And whatever one of them raises, in its turn.
    """
    watches = [replace(watch, take=i, takes=len(makes)) for i in range(len(makes))]
    if at_once < 2:
        for make, one in zip(makes, watches, strict=True):
            yield make(one)
        return
    turn, stop = _Turn(watch.progress), _Either(watch.stop)
    hears = None if watch.progress is None else turn.hear
    with ThreadPoolExecutor(at_once) as painting:
        made = [painting.submit(_begun, make, replace(one, progress=hears, stop=stop)) for make, one in zip(makes, watches, strict=True)]
        try:
            for done in made:
                yield done.result()
                turn.pass_on()
        finally:
            # Nobody wants the others any more.
            stop.set()
            painting.shutdown(wait=True, cancel_futures=True)


def _begun(make: Callable[[Watch], T], watch: Watch) -> T:
    watch.check()
    return make(watch)


class _Either(Event):
    """Set where it or another event is."""

    def __init__(self, other: Event | None) -> None:
        super().__init__()
        self._other = other

    def is_set(self) -> bool:
        return super().is_set() or (self._other is not None and self._other.is_set())


class _Turn:
    """Tells of the steps of one take after another, though several are made."""

    def __init__(self, tell: Progress | None) -> None:
        self._tell = (lambda _: None) if tell is None else tell
        self._now = 0
        self._last: dict[int, Step] = {}
        self._lock = Lock()

    def hear(self, step: Step) -> None:
        with self._lock:
            if step.take == self._now:
                self._tell(step)
            else:
                self._last[step.take] = step

    def pass_on(self) -> None:
        """It is the next one's turn."""
        with self._lock:
            self._now += 1
            if (last := self._last.pop(self._now, None)) is not None:
                self._tell(last)
