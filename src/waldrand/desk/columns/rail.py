"""The narrow rail of tools beside the sheet, in groups by what the hand works on."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QAction, QActionGroup
from PyQt6.QtWidgets import QFrame, QToolButton, QVBoxLayout, QWidget

from ...core.worded import worded
from ..look.look import Look
from ..look.signs import SIDE, sign
from ..sheet_view.view import SheetView

WIDTH, BUTTON, GAP = 44, 34, 6
#: The least room for names beside the signs.
NAMED = 118


class Rail(QWidget):
    """tools: the action of each tool, by its name."""

    def __init__(self, view: SheetView) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setFixedWidth(WIDTH)
        self._view = view
        self.tools: dict[str, QAction] = {}
        self._buttons: list[QToolButton] = []
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins((WIDTH - BUTTON) // 2, GAP, (WIDTH - BUTTON) // 2, GAP)
        self._column.setSpacing(2)
        choice, group = QActionGroup(self), ""
        for name, hand in view.hands.items():
            if group and hand.group != group:
                self._column.addWidget(self._line())
            group = hand.group
            title, tip = worded(hand.title), worded(hand.tip)
            action = QAction(title, self)
            action.setCheckable(True)
            action.setShortcut(hand.shortcut)
            action.setToolTip(f"{title}: {tip[:1].lower()}{tip[1:]} ({hand.shortcut})")
            action.triggered.connect(partial(view.set_tool, name))
            choice.addAction(action)
            self.tools[name] = action
            self._buttons.append(self._button(action, title))
            self._column.addWidget(self._buttons[-1])
        self._column.addStretch(1)
        self.tools[view.tool].setChecked(True)
        view.tool_changed.connect(lambda tool: self.tools[tool].setChecked(True))

    @staticmethod
    def _button(action: QAction, name: str) -> QToolButton:
        button = QToolButton()
        button.setObjectName("rail")
        button.setDefaultAction(action)
        button.setAccessibleName(name)
        button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonIconOnly)
        button.setIconSize(QSize(SIDE, SIDE))
        button.setFixedSize(BUTTON, BUTTON)
        return button

    @staticmethod
    def _line() -> QFrame:
        line = QFrame()
        line.setObjectName("line")
        line.setFixedHeight(1)
        return line

    def show_names(self, shown: bool) -> None:
        """Tools' names beside their signs, or the signs alone."""
        style = Qt.ToolButtonStyle.ToolButtonTextBesideIcon if shown else Qt.ToolButtonStyle.ToolButtonIconOnly
        for button in self._buttons:
            button.setToolButtonStyle(style)
        wide = max([NAMED, *(b.sizeHint().width() for b in self._buttons)]) if shown else BUTTON
        for button in self._buttons:
            button.setFixedSize(wide, BUTTON)
        self.setFixedWidth(WIDTH - BUTTON + wide)

    def set_look(self, look: Look) -> None:
        """Signs in the look's ink."""
        for name, action in self.tools.items():
            action.setIcon(sign(self._view.hands[name].sign or name, look))
