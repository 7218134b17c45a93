"""The narrow rail of tools beside the sheet, in groups by what the hand works on."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QAction, QActionGroup, QResizeEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLayout, QToolButton, QVBoxLayout, QWidget

from ...core.worded import worded
from ..look.look import Look
from ..look.signs import SIDE, sign
from ..sheet_view.view import SheetView

WIDTH, BUTTON, GAP, SPACING = 42, 29, 6, 1
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
        #: Buttons, and the lines between groups, in their order.
        self._parts: list[QWidget] = []
        self._wide = BUTTON
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins((WIDTH - BUTTON) // 2, GAP, (WIDTH - BUTTON) // 2, GAP)
        self._row.setSpacing(SPACING)
        # Many tools stand in another column rather than making the window higher.
        self._row.setSizeConstraint(QLayout.SizeConstraint.SetNoConstraint)
        self._columns: list[list[int]] = []
        choice, group = QActionGroup(self), ""
        for name, hand in view.hands.items():
            if group and hand.group != group:
                self._parts.append(self._line())
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
            self._parts.append(self._buttons[-1])
        self._lay_out(10**6)
        self.tools[view.tool].setChecked(True)
        view.tool_changed.connect(lambda tool: self.tools[tool].setChecked(True))

    def minimumSizeHint(self) -> QSize:
        return QSize(self.minimumWidth(), BUTTON + 2 * GAP)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._lay_out(self.height() - 2 * GAP)

    def _lay_out(self, room: int) -> None:
        """As many below one another as there is room for; the rest stands in columns beside them."""
        columns: list[list[int]] = [[]]
        used = 0
        for i, part in enumerate(self._parts):
            needs = (BUTTON if isinstance(part, QToolButton) else 1) + SPACING
            if used + needs > room and columns[-1]:
                columns.append([])
                used = 0
            columns[-1].append(i)
            used += needs
        if columns == self._columns:
            return
        self._columns = columns
        while (item := self._row.takeAt(0)) is not None:
            column = item.layout()
            while column is not None and column.takeAt(0) is not None:
                pass
        for indices in columns:
            column = QVBoxLayout()
            column.setSpacing(SPACING)
            for i in indices:
                column.addWidget(self._parts[i])
            column.addStretch(1)
            self._row.addLayout(column)
        self._set_width()

    def _set_width(self) -> None:
        columns = len(self._columns)
        self.setFixedWidth(WIDTH - BUTTON + columns * self._wide + (columns - 1) * SPACING)

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
        self._wide = max([NAMED, *(b.sizeHint().width() for b in self._buttons)]) if shown else BUTTON
        for button in self._buttons:
            button.setFixedSize(self._wide, BUTTON)
        self._set_width()

    def set_look(self, look: Look) -> None:
        """Signs in the look's ink."""
        for name, action in self.tools.items():
            action.setIcon(sign(self._view.hands[name].sign or name, look))
