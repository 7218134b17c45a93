"""The foot of the pass column: what is happening, what waits, Run and Stop."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QProgressBar, QPushButton, QVBoxLayout, QWidget

from ...core.passes.watch import Step
from ...core.worded import worded
from ..look.look import Look
from .forecast import escaped
from .widgets import hint


class Foot(QWidget):
    """Signals: cancel_wanted(place in the queue)."""

    cancel_wanted = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.queue = QLabel()
        self.queue.setWordWrap(True)
        self.queue.setAccessibleName(worded("waiting passes"))
        self.queue.setToolTip(worded("Passes that run when this one is done."))
        self.queue.setTextFormat(Qt.TextFormat.RichText)
        self.queue.linkActivated.connect(lambda i: self.cancel_wanted.emit(int(i)))
        self.queue.hide()
        self.run, self.stop = QPushButton(worded("Run")), QPushButton(worded("Stop"))
        self.run.setObjectName("run")
        self.stop.setToolTip(worded("Stop; finished takes are kept (Escape)"))
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.status = hint("")
        self._link = ""
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 4, 10, 10)
        for w in (self.status, self.queue, self.progress):
            layout.addWidget(w)
        buttons = QHBoxLayout()
        buttons.addWidget(self.run, 1)
        buttons.addWidget(self.stop)
        layout.addLayout(buttons)
        self.show_running(False)

    def set_look(self, look: Look) -> None:
        """Links in the look's own colour."""
        self._link = worded('style="color: {0}"', look.link)

    def show_queue(self, names: list[str]) -> None:
        rows = [f'waiting: {escaped(n)} <a {self._link} href="{i}">cancel</a>' for i, n in enumerate(names)]
        self.queue.setText("<br>".join(rows))
        self.queue.setVisible(bool(rows))

    def show_running(self, running: bool) -> None:
        self.run.setText(worded("Line up") if running else worded("Run"))
        self.run.setToolTip(
            worded("Run this pass when the one before is done (Ctrl+Return)") if running else worded("Run this pass (Ctrl+Return)")
        )
        self.stop.setVisible(running)
        self.progress.setVisible(running)
        if running:
            self.progress.setValue(0)
            self.status.setText(worded("Beginning…"))

    def show_step(self, step: Step) -> None:
        of_take = step.parts * step.steps
        self.progress.setMaximum(step.takes * of_take)
        self.progress.setValue(step.take * of_take + step.part * step.steps + step.step)
        part = worded(", part {0} of {1}", step.part + 1, step.parts) if step.parts > 1 else ""
        self.status.setText(worded("Take {0} of {1}{2}, step {3} of {4}", step.take + 1, step.takes, part, step.step, step.steps))
