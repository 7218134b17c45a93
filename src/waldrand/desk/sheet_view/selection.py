"""Which elements are chosen, the one chosen last leading."""

from __future__ import annotations

from collections.abc import Iterable

from PyQt6.QtCore import QObject, pyqtSignal

from ..document import Document


class Selection(QObject):
    """Signals: changed(), chosen(key of the leading one, or None)."""

    changed = pyqtSignal()
    chosen = pyqtSignal(object)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self.keys: tuple[int, ...] = ()

    @property
    def selected(self) -> int | None:
        """The element whose handles are shown: the one chosen last."""
        return self.keys[-1] if self.keys else None

    def choose(self, key: int | None) -> None:
        """Chooses one element alone, or none."""
        self.set(() if key is None else (key,))

    def choose_also(self, key: int) -> None:
        """Adds an element to those chosen, or leaves it out again."""
        rest = tuple(k for k in self.keys if k != key)
        self.set(rest if key in self.keys else (*rest, key))

    def choose_all(self) -> None:
        self.set(e.key for e in self._document.sheet.elements)

    def lead(self, key: int) -> None:
        """Makes one of those chosen the one with handles."""
        self.set((*(k for k in self.keys if k != key), key))

    def set(self, keys: Iterable[int]) -> None:
        keys = tuple(keys)
        if keys != self.keys:
            self.keys = keys
            self.changed.emit()
            self.chosen.emit(self.selected)

    def trim(self) -> bool:
        """Leaves out what is no longer on the sheet; whether there was any."""
        there = tuple(k for k in self.keys if self._document.sheet.has_element(k))
        gone = there != self.keys
        if gone:
            self.keys = there
            self.chosen.emit(self.selected)
        return gone
