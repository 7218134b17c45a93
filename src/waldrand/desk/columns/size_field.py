"""Typed lengths that do sums: "640 * 5/4", "50%"."""

from __future__ import annotations

import re

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QLineEdit
from simpleeval import SimpleEval

from ...core.refused import Refused
from ...core.worded import worded

LONGEST = 60


def worked_out(text: str, whole: float) -> float:
    """The value of a sum; "%" means of the whole.

    Raises:
        Refused: it is no sum, in a sentence.
    """
    sums = SimpleEval(functions={}, names={})
    try:
        if len(text) > LONGEST or "**" in text:
            raise ValueError
        value = float(
            sums.eval(re.sub(r"(\d+(?:\.\d+)?)\s*%", rf"(\1 * {whole / 100!r})", text.replace(",", ".").replace("×", "*").strip()))
        )
    except Exception as error:  # simpleeval raises its own and Python's, for any nonsense typed
        raise Refused(worded("“{0}” is not a length: write a number, a sum like 640 * 5/4, or a share like 50%.", text)) from error
    if not abs(value) < 1e6:
        raise Refused(worded("“{0}” is far too large.", text))
    return value


class SizeField(QLineEdit):
    """set_to(value) comes when a length is typed; one that cannot be is put back, and the tooltip says why."""

    set_to = pyqtSignal(float)

    def __init__(self, tip: str, name: str, least: float = -1e5) -> None:
        super().__init__()
        self._tip = worded("{0} Sums (640 * 5/4) and shares (50%) are worked out.", tip)
        self.setToolTip(self._tip)
        self.setAccessibleName(name)
        self.setMinimumWidth(40)
        self.value, self.whole, self._least = 0.0, 1.0, least
        self.editingFinished.connect(self._done)

    def show_value(self, value: float, whole: float) -> None:
        """whole: what a share is of."""
        self.value, self.whole = value, whole
        if not self.hasFocus():
            self.setText(f"{value:.10g}" if value == round(value) else f"{value:.1f}")

    def _done(self) -> None:
        try:
            value = worked_out(self.text(), self.whole)
            if value < self._least:
                raise Refused(worded("At least {0:g}.", self._least))
        except Refused as error:
            self.setToolTip(worded("{0} was put back: {1}", self.text(), error))
            value = self.value
            self.setText(f"{value:g}")
            return
        self.setToolTip(self._tip)
        self.setText(f"{value:.10g}")
        if abs(value - self.value) > 0.05:
            self.value = value
            self.set_to.emit(value)
