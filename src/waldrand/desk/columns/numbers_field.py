"""A field of whole numbers with commas between."""

from __future__ import annotations

import re

from PyQt6.QtCore import QRegularExpression, pyqtSignal
from PyQt6.QtGui import QRegularExpressionValidator
from PyQt6.QtWidgets import QLineEdit

from ...core.worded import worded


class NumbersField(QLineEdit):
    """Signal: said(numbers), when it is left or Enter is pressed with others in it."""

    said = pyqtSignal(object)

    def __init__(self, tip: str, spoken: str) -> None:
        super().__init__()
        self.setToolTip(tip)
        self.setAccessibleName(spoken)
        self.setPlaceholderText(worded("none"))
        self.setValidator(QRegularExpressionValidator(QRegularExpression(r"[0-9]{0,5}([ ,]+[0-9]{0,5})*"), self))
        self._numbers: tuple[int, ...] = ()
        self.editingFinished.connect(self._say)

    def show_numbers(self, numbers: tuple[int, ...]) -> None:
        """Shows numbers without saying that they changed."""
        self._numbers = tuple(numbers)
        self.setText(", ".join(map(str, numbers)))

    def _say(self) -> None:
        numbers = tuple(map(int, re.findall(r"[0-9]+", self.text())))
        if numbers != self._numbers:
            self._numbers = numbers
            self.said.emit(numbers)
