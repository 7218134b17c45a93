"""Runs passes on a thread of their own, so that the sheet stays free; further ones wait in a queue."""

from __future__ import annotations

import time
from dataclasses import dataclass
from functools import partial
from threading import Event, Thread

from PyQt6.QtCore import QObject, pyqtSignal

from ...core.packs import Pack
from ...core.passes.again import run_until_landed
from ...core.passes.at_once import alone, how_many, in_order
from ...core.passes.plan import Plan
from ...core.passes.run import run_take
from ...core.passes.take import Take
from ...core.passes.watch import Step, Stopped, Watch
from ...core.refused import Refused
from ...core.seen.score import Score
from ...core.worded import worded
from ...files.tiles import TileFiles
from ...log import LOG, mistake

NO_MEMORY = "There is not enough memory for this pass. Close other programs, or use a smaller sheet."


@dataclass(frozen=True, eq=False)
class Work:
    """One take to make. label: what is special about it, or nothing; again: how often what missed its outline gets another chance; under:
    the layer right below which it belongs, None: over all that feeds passes."""

    plan: Plan
    seed: int
    label: str = ""
    again: int = 0
    under: int | None = None


@dataclass(frozen=True, eq=False)
class Job:
    """Takes that are heard of one after another. name: for the queue."""

    name: str
    works: tuple[Work, ...]


@dataclass(frozen=True, eq=False)
class Made:
    """A finished take, what it was made for, the plan that paints it, how long one try would have taken alone, and how its elements
    landed (where the pack can tell)."""

    take: Take
    work: Work
    plan: Plan
    seconds: float
    scores: tuple[Score, ...] = ()


class Runner(QObject):
    """Signals: began(Job), stepped(Step, Work), taken(Made), ended(sentence or ""), queued(), each in the window's thread, and of one job
    after another: a job has ended only when the window has heard of all that it made."""

    began = pyqtSignal(object)
    stepped = pyqtSignal(object, object)
    taken = pyqtSignal(object)
    ended = pyqtSignal(str)
    queued = pyqtSignal()
    _of_job = pyqtSignal(object, object, object)
    _job_over = pyqtSignal(object, str)

    def __init__(self) -> None:
        super().__init__()
        self._stop = Event()
        self._thread: Thread | None = None
        self._job: Job | None = None
        self._pack: Pack | None = None
        self.waiting: list[Job] = []
        self._of_job.connect(self._tell)
        self._job_over.connect(self._end)

    @property
    def running(self) -> bool:
        """Whether there is a job of which the window has not heard the end yet."""
        return self._job is not None

    def submit(self, job: Job, pack: Pack) -> None:
        """Begins a job, or lines it up behind the one that runs."""
        if self.running:
            self.waiting.append(job)
            self.queued.emit()
        else:
            self._begin(job, pack)

    def _begin(self, job: Job, pack: Pack) -> None:
        LOG.info("job: %s", job.name)
        self._stop, self._job, self._pack = Event(), job, pack
        self._thread = Thread(target=self._work, args=(job, pack, self._stop), daemon=True)
        self.began.emit(job)
        self._thread.start()

    def cancel(self, index: int) -> None:
        """Takes a waiting job out of the queue."""
        if 0 <= index < len(self.waiting):
            self.waiting.pop(index)
            self.queued.emit()

    def stop(self) -> None:
        """Asks the running job to stop; `ended` follows within a step."""
        self._stop.set()

    def wait(self) -> None:
        """Blocks until the running job has no more to do; what it made is told afterwards."""
        if self._thread is not None:
            self._thread.join()

    def abandon(self) -> None:
        """Gives up all jobs; what they have still made is told to nobody."""
        self.waiting.clear()
        self.stop()
        self.wait()
        was_running, self._job = self.running, None
        self.queued.emit()
        if was_running:
            self.ended.emit("")

    def _tell(self, job: Job, what: object, work: object) -> None:
        if job is not self._job:
            return
        if isinstance(what, Step):
            self.stepped.emit(what, work)
        else:
            self.taken.emit(what)

    def _end(self, job: Job, message: str) -> None:
        if job is not self._job:
            return
        self.wait()
        self._job = None
        self.ended.emit(message)
        # Whoever heard of the end may have begun another job.
        if self.waiting and not self.running and self._pack is not None:
            following = self.waiting.pop(0)
            self.queued.emit()
            self._begin(following, self._pack)

    def _work(self, job: Job, pack: Pack, stop: Event) -> None:
        try:
            message = ""
            watch = Watch(lambda step: self._of_job.emit(job, step, job.works[step.take]), stop, tiles=TileFiles())
            at_once = how_many(pack.info, len(job.works), max(work.plan.memory for work in job.works))
            for made in in_order([partial(_made, work, pack, at_once) for work in job.works], watch, at_once):
                message = made.take.told
                self._of_job.emit(job, made, made.work)
                if message:
                    break
        except Stopped:
            message = worded("Stopped. Finished takes are kept in the tray.")
        except Refused as error:
            message = str(error)
        except MemoryError:
            message = NO_MEMORY
        except Exception as error:  # a damaged pack can fail in its own ways; the window must survive it
            message = worded("The pass failed. {0} The sheet is as it was.", mistake(error))
        self._job_over.emit(job, message)


def _made(work: Work, pack: Pack, at_once: int, watch: Watch) -> Made:
    start = time.perf_counter()
    if pack.finder is None or not work.plan.kind.hears_elements:
        take = run_take(work.plan, pack, work.seed, watch)
        return Made(take, work, work.plan, alone(time.perf_counter() - start, at_once))
    tried = run_until_landed(work.plan, pack, work.seed, work.again, watch)
    took = alone(time.perf_counter() - start, at_once)
    return Made(tried.take, work, tried.plan, took / (1 + tried.tries), tried.scores)
