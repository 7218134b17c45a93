"""Looking through a picture for what a pass is about, beside the window: it takes a second, and the hand does not wait for it."""

from __future__ import annotations

from collections.abc import Callable
from threading import Thread

from PyQt6.QtCore import QObject, pyqtSignal

from ...log import LOG, mistake
from .kindly import count_less


class Looking(QObject):
    """One look at a time; the last one that was wanted counts. Signals: done(trouble), in the window's thread: why it could not be
    looked, or nothing."""

    done = pyqtSignal(str)
    _came_back = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._thread: Thread | None = None
        self._next: Callable[[], object] | None = None
        self._trouble = ""
        self._ended = False
        self._came_back.connect(self._go_on)

    def begin(self, look: Callable[[], object]) -> None:
        """Begins to look, after what is looked for already."""
        if self._ended:
            return
        if self._thread is None:
            self._trouble = ""
            self._thread = Thread(target=self._work, args=(look,), daemon=True)
            self._thread.start()
        else:
            self._next = look

    def finish(self) -> None:
        """Blocks until nothing is looked for any more."""
        while self._thread is not None:
            self._go_on()

    def end(self) -> None:
        """Nothing is looked for or told any more; what is being looked for is waited for."""
        self._ended, self._next = True, None
        if self._thread is not None:
            self._thread.join()
        self._thread = None

    def _work(self, look: Callable[[], object]) -> None:
        count_less()
        try:
            look()
        except Exception as error:
            self._trouble = mistake(error)
            LOG.warning("looking: %s", self._trouble)
        self._came_back.emit()

    def _go_on(self) -> None:
        if self._thread is None:
            return
        # It has said so with its last breath.
        self._thread.join()
        self._thread, following, self._next = None, self._next, None
        if following is not None:
            self.begin(following)
        else:
            self.done.emit(self._trouble)
