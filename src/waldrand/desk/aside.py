"""Writes unsaved work aside on a thread of its own: a large sheet takes seconds, and the hand must not feel them."""

from __future__ import annotations

from collections.abc import Callable
from threading import Thread

from PyQt6.QtCore import QObject, pyqtSignal


class Aside(QObject):
    """Signal: failed(sentence), in the window's thread."""

    failed = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._thread: Thread | None = None

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
        try:
            write()
        except (ValueError, OSError) as error:
            self.failed.emit(f"Unsaved work could not be kept aside: {error}")
