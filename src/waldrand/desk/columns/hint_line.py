"""The line at the bottom: what the tool in the hand does, what is on that is not usual, and the zoom."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QHBoxLayout, QLabel, QProgressBar, QSizePolicy, QToolButton, QWidget

from ...core.worded import worded
from ..jobs.beside import Beside
from ..sheet_view.view import SheetView

HEIGHT = 26
#: Screen pixels of the bar that shows how far file work is.
BAR = 90


class HintLine(QWidget):
    """unusual: what is on that is not usual, each with the key that undoes it; beside: file work, shown while it is under way."""

    def __init__(self, view: SheetView, unusual: Callable[[], list[str]], beside: Beside) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setFixedHeight(HEIGHT)
        self._view, self._unusual = view, unusual
        self.modes, self.hint = QLabel(), QLabel()
        self.modes.setObjectName("warning")
        self.modes.setAccessibleName(worded("what is on"))
        self.hint.setObjectName("faint")
        self.hint.setAccessibleName(worded("what the hand does"))
        # Longer hints are cut rather than making the window wider.
        self.hint.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.zoom = QLabel("100 %")
        self.zoom.setToolTip(worded("Zoom: wheel, or + and −"))
        self.zoom.setObjectName("faint")
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 0, 8, 0)
        row.setSpacing(8)
        row.addWidget(self.modes)
        row.addWidget(self.hint, 1)
        row.addWidget(self._made_work(beside))
        row.addWidget(self.zoom)
        for text, tip, act in (
            (worded("fit"), worded("Show the whole sheet (0)"), view.fit),
            ("1:1", worded("One sheet pixel on one screen pixel (1)"), lambda: view.zoom_to(1.0)),
        ):
            button = QToolButton()
            button.setObjectName("small")
            button.setText(text)
            button.setToolTip(tip)
            button.setAccessibleName(tip.split(" (")[0])
            button.clicked.connect(lambda _=False, act=act: act())
            row.addWidget(button)
        view.tool_changed.connect(lambda _: self.refresh())
        view.brush.changed.connect(self.refresh)
        view.zoomed.connect(lambda s: self.zoom.setText(f"{100 * s:.0f} %"))
        self.refresh()

    def _made_work(self, beside: Beside) -> QWidget:
        self.work, self.done, stop = QLabel(), QProgressBar(), QToolButton()
        self.work.setAccessibleName(worded("file work"))
        self.done.setTextVisible(False)
        self.done.setFixedWidth(BAR)
        self.done.setAccessibleName(worded("how far it is"))
        stop.setObjectName("small")
        stop.setText(worded("Stop"))
        stop.setToolTip(worded("Stop this; nothing is lost, and the file stays as it was."))
        stop.clicked.connect(beside.stop)
        made = QWidget()
        row = QHBoxLayout(made)
        row.setContentsMargins(0, 0, 0, 0)
        for part in (self.work, self.done, stop):
            row.addWidget(part)
        made.hide()

        def began(what: str, steps: int) -> None:
            self.work.setText(f"{what} …")
            self.done.setRange(0, steps)
            self.done.setValue(0)
            made.show()

        beside.began.connect(began)
        beside.went_on.connect(self.done.setValue)
        beside.over.connect(made.hide)
        return made

    @property
    def text(self) -> str:
        """All that is said."""
        return " · ".join(x for x in (self.modes.text(), self.hint.text()) if x)

    def refresh(self) -> None:
        """Shows what is so just now."""
        modes = self._unusual()
        self.modes.setText(" · ".join(modes))
        self.modes.setVisible(bool(modes))
        self.hint.setText(worded(self._view.hands[self._view.tool].hint))
        self.hint.setToolTip(self.hint.text())
