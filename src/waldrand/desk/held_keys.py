"""Keys that count while they are held, and Escape, wherever in a window the focus is, unless something is typed there."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication, QLineEdit, QWidget

from .columns.words_field import WordsField


class HeldKeys(QObject):
    """held: what each key does when it is pressed (True) and let go (False); escape: what Escape does."""

    def __init__(self, window: QWidget, held: Mapping[Qt.Key, Callable[[bool], None]], escape: Callable[[QKeyEvent], None]) -> None:
        super().__init__(window)
        self._window, self._held, self._escape = window, held, escape
        self._down: list[Callable[[bool], None]] = []
        app = QApplication.instance()
        assert app is not None
        app.installEventFilter(self)

    def let_go(self) -> None:
        """No key counts any more."""
        app = QApplication.instance()
        if app is not None:
            app.removeEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.WindowDeactivate and watched is self._window:
            # Another window hears of the key that is let go now.
            for let_go in self._down:
                let_go(False)
            self._down.clear()
            return False
        kinds = (QEvent.Type.KeyPress, QEvent.Type.KeyRelease)
        if not isinstance(event, QKeyEvent) or event.type() not in kinds or event.isAutoRepeat():
            return False
        if not isinstance(watched, QWidget) or watched.window() is not self._window:
            return False
        if isinstance(QApplication.focusWidget(), (QLineEdit, WordsField)):
            return False
        pressed = event.type() == QEvent.Type.KeyPress
        act = self._held.get(Qt.Key(event.key()))
        if act is not None and event.modifiers() == Qt.KeyboardModifier.NoModifier:
            self._down = [a for a in self._down if a is not act] + ([act] if pressed else [])
            act(pressed)
            return True
        if event.key() == Qt.Key.Key_Escape and pressed:
            self._escape(event)
            return True
        return False
