"""Errors of ours in the window: written down, said plainly, and never the end of it."""

from __future__ import annotations

import sys
from collections.abc import Callable
from types import TracebackType

from PyQt6.QtCore import QTimer

from ..core.worded import worded
from ..log import mistake

Say = Callable[[str], None]
#: Those who say such things, the newest window last.
_SAYERS: list[Say] = []


def survive(say: Say) -> None:
    """From now on an error that nothing caught is told, and the window goes on with the sheet as it was. Qt would end the program."""
    _SAYERS.append(say)
    sys.excepthook = _caught


def leave(say: Say) -> None:
    """A window is closed."""
    if say in _SAYERS:
        _SAYERS.remove(say)


def _caught(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
    if issubclass(kind, KeyboardInterrupt):
        sys.__excepthook__(kind, error, trace)
        return
    text = worded("{0} Your work is kept.", mistake(error))
    print(f"waldrand: {text}", file=sys.stderr)
    if _SAYERS:
        # Not in the middle of what went wrong.
        QTimer.singleShot(0, lambda: _SAYERS and _SAYERS[-1](text))
