"""Writes files on a thread of its own: a large sheet takes seconds, and the hand must not feel them."""

from __future__ import annotations

from collections.abc import Callable
from threading import Thread

from PyQt6.QtCore import QObject, pyqtSignal

from ...core.refused import Refused


class Writer(QObject):
    """Signal: ended(), in the window's thread. error: what failed of the last writing, empty when it went well."""

    ended = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._thread: Thread | None = None
        self.error = ""

    @property
    def writing(self) -> bool:
        return self._thread is not None and self._thread.is_alive()

    def begin(self, write: Callable[[], None]) -> None:
        """Starts a writing, after an earlier one is over."""
        self.wait()
        self._thread = Thread(target=self._work, args=(write,))
        self._thread.start()

    def wait(self) -> None:
        """Blocks until the writing under way is over."""
        if self._thread is not None:
            self._thread.join()

    def _work(self, write: Callable[[], None]) -> None:
        self.error = ""
        try:
            write()
        except (Refused, OSError) as error:
            self.error = str(error)
        self.ended.emit()
