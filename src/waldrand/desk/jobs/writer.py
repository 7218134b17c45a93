"""Writes files on a thread of its own: a large sheet takes seconds, and the hand must not feel them."""

from __future__ import annotations

from collections.abc import Callable
from threading import Thread

from PyQt6.QtCore import QObject, pyqtSignal

from ...core.refused import Refused
from ...core.worded import worded
from ...log import mistake

NO_MEMORY = "There is not enough memory to write this. Close other programs and try again; nothing was lost."


class Writer(QObject):
    """Signal: ended(), in the window's thread, whatever became of the writing. error: what failed of the last one, empty when it went
    well."""

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
        # Not written until it is known to be.
        self.error = worded("The writing did not come to its end.")
        try:
            write()
            self.error = ""
        except (Refused, OSError) as error:
            self.error = str(error)
        except MemoryError:
            self.error = NO_MEMORY
        except BaseException as error:
            self.error = worded("It could not be written. {0}", mistake(error))
        finally:
            self.ended.emit()
