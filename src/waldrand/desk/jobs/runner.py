"""Runs passes on a thread of their own, so that the sheet stays free; further ones wait in a queue."""

from __future__ import annotations

import time
from dataclasses import dataclass
from functools import partial
from threading import Event, Thread

from PyQt6.QtCore import QObject, pyqtSignal

from ...core.packs import Pack
from ...core.passes.again import run_until_landed
from ...core.passes.plan import Plan
from ...core.passes.run import Progress, Step, Stopped, Take, run_take
from ...core.refused import Refused
from ...core.seen.found import Score


@dataclass(frozen=True, eq=False)
class Work:
    """One take to make. label: what is special about it, or nothing; again: how often what missed its outline gets another chance."""

    plan: Plan
    seed: int
    label: str = ""
    again: int = 0


@dataclass(frozen=True, eq=False)
class Job:
    """Takes made one after another. name: for the queue."""

    name: str
    works: tuple[Work, ...]


@dataclass(frozen=True, eq=False)
class Made:
    """A finished take, what it was made for, the plan that paints it, how long one try took, and how its elements landed (where the
    pack can tell)."""

    take: Take
    work: Work
    plan: Plan
    seconds: float
    scores: tuple[Score, ...] = ()


class Runner(QObject):
    """Signals: began(Job), stepped(Step, Work), taken(Made), ended(sentence or ""), queued(), each in the window's thread."""

    began = pyqtSignal(object)
    stepped = pyqtSignal(object, object)
    taken = pyqtSignal(object)
    ended = pyqtSignal(str)
    queued = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._stop = Event()
        self._thread: Thread | None = None
        self.waiting: list[Job] = []

    @property
    def running(self) -> bool:
        return self._thread is not None and self._thread.is_alive()

    def submit(self, job: Job, pack: Pack) -> None:
        """Begins a job, or lines it up behind the one that runs."""
        if self.running:
            self.waiting.append(job)
            self.queued.emit()
        else:
            self._begin(job, pack)

    def _begin(self, job: Job, pack: Pack) -> None:
        self._stop = Event()
        self._thread = Thread(target=self._work, args=(job, pack, self._stop), daemon=True)
        self.began.emit(job)
        self._thread.start()

    def go_on(self, pack: Pack) -> None:
        """Begins the next waiting job, if there is one and nothing runs."""
        self.wait()
        if self.waiting:
            job = self.waiting.pop(0)
            self.queued.emit()
            self._begin(job, pack)

    def cancel(self, index: int) -> None:
        """Takes a waiting job out of the queue."""
        if 0 <= index < len(self.waiting):
            self.waiting.pop(index)
            self.queued.emit()

    def stop(self) -> None:
        """Asks the running job to stop; `ended` follows within a step."""
        self._stop.set()

    def wait(self) -> None:
        """Blocks until the running job is over."""
        if self._thread is not None:
            self._thread.join()

    def _step(self, step: Step, work: Work) -> None:
        self.stepped.emit(step, work)

    def _work(self, job: Job, pack: Pack, stop: Event) -> None:
        try:
            for i, w in enumerate(job.works):
                self.taken.emit(_made(w, pack, partial(self._step, work=w), stop, i, len(job.works)))
            self.ended.emit("")
        except Stopped:
            self.ended.emit("Stopped. Finished takes are kept in the tray.")
        except Refused as error:
            self.ended.emit(str(error))
        except MemoryError:
            self.ended.emit("There is not enough memory for this pass. Close other programs, or use a smaller sheet.")
        except Exception as error:  # a damaged pack can fail in its own ways; the window must survive it
            self.ended.emit(
                f"The pass failed: {str(error).splitlines()[0] if str(error) else type(error).__name__}. The sheet is as it was."
            )


def _made(w: Work, pack: Pack, progress: Progress, stop: Event, i: int, n: int) -> Made:
    start = time.perf_counter()
    if pack.finder is None or w.plan.request.kind == "inpaint":
        take = run_take(w.plan, pack, w.seed, progress, stop, i, n)
        return Made(take, w, w.plan, time.perf_counter() - start)
    tried = run_until_landed(w.plan, pack, w.seed, w.again, progress, stop, i, n)
    return Made(tried.take, w, tried.plan, (time.perf_counter() - start) / (1 + tried.tries), tried.scores)
