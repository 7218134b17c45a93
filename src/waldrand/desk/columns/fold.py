"""A part that can be folded away, and says in a line what is in it."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QLabel, QToolButton, QVBoxLayout, QWidget

from ...core.worded import worded


class Fold(QWidget):
    """button: folds and unfolds it; line: what is said of what is in it."""

    def __init__(self, rows: QGridLayout) -> None:
        super().__init__()
        self.button = QToolButton()
        self.button.setObjectName("fold")
        self.button.setCheckable(True)
        self.button.setText(worded("More settings"))
        self.button.setToolTip(
            worded("Seed, steps, guidance and all else that can be set; what stands out in the line below is not as the pack recommends")
        )
        self.button.setArrowType(Qt.ArrowType.RightArrow)
        self.button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.line = QLabel()
        self.line.setObjectName("faint")
        self.line.setWordWrap(True)
        self.line.setAccessibleName(worded("what is set"))
        self.line.setTextFormat(Qt.TextFormat.RichText)
        self.inner = QWidget()
        rows.setContentsMargins(0, 0, 0, 0)
        self.inner.setLayout(rows)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        for part in (self.button, self.line, self.inner):
            column.addWidget(part)
        self.button.toggled.connect(self.unfold)
        self.inner.hide()

    def say(self, text: str) -> None:
        self.line.setText(text)

    def unfold(self, on: bool) -> None:
        """Shows what is in it, or the line alone."""
        self.button.setChecked(on)
        self.button.setArrowType(Qt.ArrowType.DownArrow if on else Qt.ArrowType.RightArrow)
        self.inner.setVisible(on)
