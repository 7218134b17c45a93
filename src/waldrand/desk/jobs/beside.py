"""File work on a thread of its own: what is done at once is not noticed; what takes longer shows how far it is, and can be stopped."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from threading import Event, Thread
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from ...core.passes.watch import Stopped
from ...core.refused import Refused
from ...core.worded import worded
from ...log import mistake

NO_MEMORY = "There is not enough memory for this. Close other programs and try again; nothing was lost."
#: Seconds that the window waits for it before it goes on.
PATIENCE = 0.12
#: What the work calls before each of its steps; it raises Stopped where no more is wanted.
Tick = Callable[[], None]


@dataclass(eq=False)
class Errand:
    """what: it does, as a sentence's beginning; steps: how often it ticks, 0 where nobody knows; work: on the thread; then: in the
    window's thread, with what it gave; failed: why not, empty when it was stopped."""

    what: str
    steps: int
    work: Callable[[Tick], Any]
    then: Callable[[Any], object]
    failed: Callable[[str], object]
    stop: Event = field(default_factory=Event)
    result: Any = None
    error: str | None = None
    done: bool = False


class Beside(QObject):
    """One errand after another. Signals, in the window's thread: began(what, steps) of one that takes longer, went_on(steps done),
    over()."""

    began = pyqtSignal(str, int)
    went_on = pyqtSignal(int)
    over = pyqtSignal()
    _ticked = pyqtSignal(object, int)
    _came_back = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        #: Seconds that the window waits for an errand before it goes on.
        self.patience = PATIENCE
        self._errand: Errand | None = None
        self._thread: Thread | None = None
        self._waiting: list[Errand] = []
        self._ticked.connect(self._tell)
        self._came_back.connect(self._end)

    @property
    def busy(self) -> bool:
        return self._errand is not None

    @property
    def what(self) -> str:
        """What is being done."""
        return self._errand.what if self._errand is not None else ""

    def do(
        self, what: str, work: Callable[[Tick], Any], then: Callable[[Any], object], failed: Callable[[str], object], steps: int = 0
    ) -> None:
        """Begins an errand, or lines it up behind the one that is under way."""
        self._waiting.append(Errand(what, steps, work, then, failed))
        if not self.busy:
            self._next()

    def stop(self) -> None:
        """No more is wanted of what is under way."""
        if self._errand is not None:
            self._errand.stop.set()

    def finish(self) -> None:
        """Blocks until nothing is under way any more."""
        while self._errand is not None:
            assert self._thread is not None
            self._thread.join()
            self._end(self._errand)

    def _next(self) -> None:
        errand = self._errand = self._waiting.pop(0)
        self._thread = Thread(target=self._work, args=(errand,))
        self._thread.start()
        self._thread.join(self.patience)
        if self._thread.is_alive():
            self.began.emit(errand.what, errand.steps)
        else:
            self._end(errand)

    def _tell(self, errand: Errand, done: int) -> None:
        if errand is self._errand:
            self.went_on.emit(done)

    def _end(self, errand: Errand) -> None:
        # Whoever waited for it may have ended it already.
        if errand.done:
            return
        errand.done, self._errand = True, None
        if self._thread is not None:
            self._thread.join()
        self.over.emit()
        if errand.error is None:
            errand.then(errand.result)
        else:
            errand.failed(errand.error)
        if self._waiting and not self.busy:
            self._next()

    def _work(self, errand: Errand) -> None:
        ticks = 0

        def tick() -> None:
            nonlocal ticks
            if errand.stop.is_set():
                raise Stopped
            self._ticked.emit(errand, ticks)
            ticks += 1

        try:
            errand.result = errand.work(tick)
        except Stopped:
            errand.error = ""
        except (Refused, OSError) as error:
            errand.error = str(error)
        except MemoryError:
            errand.error = NO_MEMORY
        except BaseException as error:
            errand.error = worded("It could not be done. {0}", mistake(error))
        finally:
            self._came_back.emit(errand)
