"""What a field of words offers while words are typed, and which of them the model does not know."""

from __future__ import annotations

import re

from PyQt6.QtCore import QObject, QPoint, Qt, pyqtSignal
from PyQt6.QtWidgets import QListWidget, QWidget

from ...core.packs import Pack
from ...core.values.emphasis import located_phrases
from ...core.worded import worded

MOST_OFFERS = 7
#: Letters from which on phrases are offered; screen pixels: a row's height, the least and the greatest width.
LEAST_TYPED, ROW, NARROW, WIDE = 2, 22, 160, 240


class Offers(QObject):
    """Known phrases under a field. Signals: taken(phrase)."""

    taken = pyqtSignal(str)

    def __init__(self, field: QWidget, phrases: tuple[str, ...]) -> None:
        super().__init__(field)
        self._field, self._phrases = field, phrases
        self._list: QListWidget | None = None

    def shown(self) -> list[str]:
        """The phrases offered just now."""
        if self._list is None or not self._list.isVisible():
            return []
        items = [self._list.item(i) for i in range(self._list.count())]
        return [i.text() for i in items if i is not None]

    def offer(self, piece: str) -> None:
        """Shows known phrases that begin with, or hold, what is being typed; none when it is one already."""
        found: list[str] = []
        if len(piece) >= LEAST_TYPED and piece not in self._phrases:
            begin = [p for p in self._phrases if p.startswith(piece)]
            found = [*begin, *(p for p in self._phrases if piece in p and p not in begin)][:MOST_OFFERS]
        window = self._field.window()
        if not found or window is None:
            self.withdraw()
            return
        if self._list is None:
            self._list = self._made(window)
        self._list.clear()
        self._list.addItems(found)
        self._list.setCurrentRow(-1)
        at = self._field.mapTo(window, QPoint(0, self._field.height() + 2))
        self._list.setGeometry(at.x(), at.y(), max(NARROW, min(self._field.width(), WIDE)), ROW * len(found) + 8)
        self._list.show()
        self._list.raise_()

    def _made(self, window: QWidget) -> QListWidget:
        # Part of the window, not a window of its own: it must not take the keys away.
        made = QListWidget(window)
        made.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        made.setObjectName("offers")
        made.setAccessibleName(worded("known phrases"))
        made.setToolTip(worded("Known phrases: step with the down key and take one with Enter, or click it."))
        made.itemPressed.connect(lambda item: self._take(item.text()))
        return made

    def withdraw(self) -> None:
        if self._list is not None:
            self._list.hide()

    def _take(self, phrase: str) -> None:
        self.taken.emit(phrase)
        self.withdraw()

    def key(self, key: int) -> bool:
        """Whether a key was for the offers: they are stepped through, taken or withdrawn."""
        if self._list is None or not self._list.isVisible():
            return False
        row = self._list.currentRow()
        if key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            self._list.setCurrentRow((row + 1 + (1 if key == Qt.Key.Key_Down else -1)) % (self._list.count() + 1) - 1)
            return True
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Tab):
            # An offered phrase is taken only when it was stepped to.
            if row >= 0:
                self._take(self.shown()[row])
                return True
            self.withdraw()
        elif key == Qt.Key.Key_Escape:
            self.withdraw()
            return True
        return False


def unknown_in(text: str, pack: Pack) -> list[tuple[int, int]]:
    """Where the words are that a model does not know, or that are too many for one phrase."""
    return [place for a, b, phrase in located_phrases(text) for place in _unknown_in(phrase, a, pack)]


def _unknown_in(phrase: str, at: int, pack: Pack) -> list[tuple[int, int]]:
    out, low = [], phrase.lower()
    ids, strange = pack.read(phrase)
    if len(ids) > pack.info.phrase_length:
        # Words are counted as they are written; the model stops reading at its limit.
        over = [m.start() for m in re.finditer(r"\S+", phrase)][pack.info.phrase_length :]
        if over:
            out.append((at + over[0], at + len(phrase)))
    for u in strange:
        i = low.find(u.word)
        if i >= 0:
            out.append((at + i, at + i + len(u.word)))
    return out
