"""The hand and the answers of whoever sits before the window in the tests."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from itertools import pairwise
from pathlib import Path

from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialog

from waldrand.core.packs import Pack
from waldrand.core.passes.watch import Stopped
from waldrand.core.values.element import Element
from waldrand.desk.dialogs import Dialogs
from waldrand.desk.window import MainWindow

LEFT = Qt.MouseButton.LeftButton


class Answers:
    """Stands in for the dialogs: answers set beforehand, what was told kept."""

    def __init__(self) -> None:
        self.path: Path | None = None
        self.leave = "discard"
        self.size = (256, 256)
        self.told: list[str] = []
        self.asked = 0
        self.said: list[str] = []
        self.amount: float | None = 8.0
        self.parts = ((1.0, 1.0, 2.0), (1.0,))
        self.new_frame = None
        #: Steps of long work that are waited for.
        self.patience: int | None = None
        self.agrees = False
        #: What becomes of unsaved work, where it is not what `agrees` says.
        self.back: str | None = None
        self.shown: list[QDialog] = []
        self.folder = ""

    def new_size(self, info):
        return self.size

    def open_path(self):
        return self.path

    def any_path(self, title, kind):
        return self.path

    @property
    def parent(self):
        return None

    def save_path(self, title, suggestion, kind, suffix):
        return self.path

    def unsaved(self, name):
        self.asked += 1
        return self.leave

    def tell(self, text):
        self.told.append(text)

    def attempt(self, act):
        return Dialogs.attempt(self, act)

    def words(self, title, question, suggestion=""):
        return self.said.pop(0) if self.said else None

    def number(self, title, question, value, least, most):
        return self.amount

    def shares(self, what):
        return self.parts

    def enlarged_size(self, width, height):
        return self.new_frame

    def sheet_size(self, width, height):
        return self.new_frame

    @contextmanager
    def steps(self, what, count):
        self.counted = (0, count)

        def tick():
            if self.counted[0] == self.patience:
                raise Stopped
            self.counted = (self.counted[0] + 1, count)

        yield tick

    def wait_for(self, beside):
        beside.finish()

    def yes(self, question, yes, no):
        self.asked += 1
        return self.agrees

    def bring_back(self, when):
        self.asked += 1
        return self.back or ("bring" if self.agrees else "drop")

    def show(self, dialog):
        self.shown.append(dialog)
        return self.agrees


@contextmanager
def opened(pack: Pack) -> Iterator[MainWindow]:
    """The window with a pack, open until the test is over."""
    w = MainWindow(pack)
    w.dialogs = Answers()  # type: ignore[assignment]
    # What a test does with files is done when it goes on, however busy the machine is.
    w.bench.beside.patience = 60.0
    w.resize(1280, 800)
    w.passes.fold.unfold(True)
    w.show()
    QTest.qWait(20)
    yield w
    w.dialogs.leave = "discard"
    w.runner.stop()
    w.runner.wait()
    w.close()
    QTest.qWait(5)
    # It goes as in the application: before that, and whole.
    w.deleteLater()
    QApplication.sendPostedEvents(w, QEvent.Type.DeferredDelete)


def at(w: MainWindow, x: float, y: float) -> QPoint:
    return w.view.mapFromScene(QPointF(x, y))


def drag(w: MainWindow, x0: float, y0: float, x1: float, y1: float, steps: int = 4, modifier=Qt.KeyboardModifier.NoModifier) -> None:
    port = w.view.viewport()
    QTest.mousePress(port, LEFT, modifier, at(w, x0, y0))
    for k in range(1, steps + 1):
        here = at(w, x0 + (x1 - x0) * k / steps, y0 + (y1 - y0) * k / steps)
        # QTest moves the mouse without any key held.
        there = QPointF(port.mapToGlobal(here))
        QApplication.sendEvent(port, QMouseEvent(QEvent.Type.MouseMove, QPointF(here), there, LEFT, LEFT, modifier))
    QTest.mouseRelease(port, LEFT, modifier, at(w, x1, y1))


def key(w: MainWindow, k, modifier=Qt.KeyboardModifier.NoModifier) -> None:
    w.view.setFocus()
    QTest.keyClick(w.view, k, modifier)


def type_words(w: MainWindow, words: str) -> None:
    editor = w.view.words.editor
    assert editor is not None
    editor.words.clear()
    QTest.keyClicks(editor.words, words)
    QTest.keyClick(editor.words, Qt.Key.Key_Return)


def draw(w: MainWindow, tool_key, words: str, *where: float) -> Element:
    key(w, tool_key)
    drag(w, *where)
    type_words(w, words)
    return w.document.sheet.elements[-1]


def say_scene(w: MainWindow, words: str) -> None:
    w.scene.words.setText(words)
    w.scene.words.editingFinished.emit()


def run(w: MainWindow, wait) -> None:
    w.run()
    wait(lambda: not w.runner.running and not w.passes.stop.isVisible())


def say_in(w: MainWindow, field, text: str) -> None:
    """Words typed into a field of the pass, and what they make it look for, found."""
    field.setText(text)
    QTest.keyClick(field, Qt.Key.Key_Return)
    w.refresh_forecast()
    w.painting.looking.finish()
    w.refresh_forecast()


def strip(w: MainWindow, key_: int):
    """The strip beside an element, which is chosen for it."""
    w.view.selection.choose(key_)
    return w.strip


def along(w: MainWindow, *points: tuple[float, float], modifier=Qt.KeyboardModifier.NoModifier) -> None:
    """The mouse pressed at the first point, moved to each of the others, and let go at the last."""
    port = w.view.viewport()
    QTest.mousePress(port, LEFT, modifier, at(w, *points[0]))
    for (x0, y0), (x1, y1) in pairwise(points):
        for k in (1, 2, 3):
            here = at(w, x0 + (x1 - x0) * k / 3, y0 + (y1 - y0) * k / 3)
            there = QPointF(port.mapToGlobal(here))
            QApplication.sendEvent(port, QMouseEvent(QEvent.Type.MouseMove, QPointF(here), there, LEFT, LEFT, modifier))
    QTest.mouseRelease(port, LEFT, modifier, at(w, *points[-1]))


def click(w: MainWindow, x: float, y: float, modifier=Qt.KeyboardModifier.NoModifier) -> None:
    QTest.mouseClick(w.view.viewport(), LEFT, modifier, at(w, x, y))


def menu(w: MainWindow, text: str) -> None:
    """An entry of the menus, by what it says."""
    (entry,) = [a for _, actions in w._menu_actions for a in actions if a.text() == text]
    entry.trigger()
