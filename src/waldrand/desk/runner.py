"""Runs passes on a thread of their own, so that the sheet stays free."""

from __future__ import annotations

from threading import Event, Thread

from PyQt6.QtCore import QObject, pyqtSignal

from ..core.pack import Pack
from ..core.plan import Plan
from ..core.run import Stopped, run


class Runner(QObject):
    """Signals: stepped(Step), taken(Take), ended(sentence or ""), each in the window's thread."""

    stepped = pyqtSignal(object)
    taken = pyqtSignal(object)
    ended = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._stop = Event()
        self._thread: Thread | None = None

    @property
    def running(self) -> bool:
        return self._thread is not None and self._thread.is_alive()

    def start(self, plan: Plan, pack: Pack, takes: int) -> None:
        """Begins a pass; one at a time."""
        if self.running:
            raise ValueError("A pass is running already; stop it first.")
        self._stop = Event()
        self._thread = Thread(target=self._work, args=(plan, pack, takes, self._stop), daemon=True)
        self._thread.start()

    def stop(self) -> None:
        """Asks the pass to stop; `ended` follows within a step."""
        self._stop.set()

    def wait(self) -> None:
        """Blocks until the pass is over."""
        if self._thread is not None:
            self._thread.join()

    def _work(self, plan: Plan, pack: Pack, takes: int, stop: Event) -> None:
        try:
            for take in run(plan, pack, takes, self.stepped.emit, stop):
                self.taken.emit(take)
            self.ended.emit("")
        except Stopped:
            self.ended.emit("Stopped. Finished takes are kept in the tray.")
        except ValueError as error:
            self.ended.emit(str(error))
        except MemoryError:
            self.ended.emit("There is not enough memory for this pass. Close other programs, or use a smaller sheet.")
        except Exception as error:  # a damaged pack can fail in its own ways; the window must survive it
            self.ended.emit(
                f"The pass failed: {str(error).splitlines()[0] if str(error) else type(error).__name__}. The sheet is as it was."
            )
