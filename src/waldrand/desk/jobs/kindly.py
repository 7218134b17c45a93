"""What is painted comes after the hand: threads that count less than the window's where both want the processor."""

from __future__ import annotations

import os
import sys
import threading
from collections.abc import Callable
from threading import Thread
from typing import TypeVar

T = TypeVar("T")
#: How much less, of 19.
NICENESS = 10
#: Seconds after which a thread that computes in Python lets the window have its turn.
TURN = 0.001


def count_less() -> None:
    """The thread that calls this, and all that it begins, count less than the window from now on."""
    os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), NICENESS)


def begun_kindly(make: Callable[[], T]) -> Callable[[], T]:
    """Begins to make something on a thread that counts less, with threads of its own that do so too. What it returns waits for it, and
    raises whatever `make` did."""
    sys.setswitchinterval(TURN)
    made, wrong = list[T](), list[BaseException]()

    def work() -> None:
        count_less()
        try:
            made.append(make())
        except BaseException as error:
            wrong.append(error)

    thread = Thread(target=work)
    thread.start()

    def wait() -> T:
        thread.join()
        if wrong:
            raise wrong[0]
        return made[0]

    return wait
