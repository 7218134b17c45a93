"""Which elements are chosen, the one chosen last leading; or which layer."""

from __future__ import annotations

from collections.abc import Iterable

from PyQt6.QtCore import QObject, pyqtSignal

from ..document import Document


class Selection(QObject):
    """Signals: changed(), chosen(key of the leading element, or None). layer: the key of the chosen layer, None while elements are."""

    changed = pyqtSignal()
    chosen = pyqtSignal(object)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self.keys: tuple[int, ...] = ()
        self.layer: int | None = None

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
        if keys != self.keys or self.layer is not None:
            self.keys, self.layer = keys, None
            self.changed.emit()
            self.chosen.emit(self.selected)

    def choose_layer(self, key: int | None) -> None:
        """Chooses one layer and no element, or nothing."""
        if key != self.layer or self.keys:
            self.keys, self.layer = (), key
            self.changed.emit()
            self.chosen.emit(None)

    def trim(self) -> bool:
        """Leaves out what is no longer on the sheet; whether there was any."""
        sheet = self._document.sheet
        if self.layer is not None and not sheet.has_layer(self.layer):
            self.choose_layer(None)
        there = tuple(k for k in self.keys if sheet.has_element(k))
        gone = there != self.keys
        if gone:
            self.keys = there
            self.chosen.emit(self.selected)
        return gone
