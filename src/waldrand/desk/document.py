"""The sheet being worked on: one value, changed only through undoable edits."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, fields, replace
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QUndoCommand, QUndoStack

from ..core.values.following import followed
from ..core.values.sheet import Sheet
from .draft import Draft

UNDO_STEPS = 400


@dataclass(frozen=True, eq=False)
class State:
    """What undo goes back to."""

    sheet: Sheet
    draft: Draft


class _Edit(QUndoCommand):
    """Edits with the same merge key in a row become one."""

    def __init__(self, document: Document, after: State, text: str, merge: str) -> None:
        super().__init__(text)
        self.document, self.before, self.after, self.merge = document, document.state, after, merge
        self._before = document.moment

    def id(self) -> int:
        return hash(self.merge) & 0x7FFFFFFF if self.merge else -1

    def mergeWith(self, other: QUndoCommand | None) -> bool:
        if isinstance(other, _Edit) and other.merge == self.merge:
            self.after = other.after
            return True
        return False

    def redo(self) -> None:
        self.document._set(self.after, self.after)

    def undo(self) -> None:
        self.document._set(self.before, self._before)


class _Act(QUndoCommand):
    """Something done beside the sheet, and the way back."""

    def __init__(self, document: Document, text: str, do: Callable[[], None], back: Callable[[], None]) -> None:
        super().__init__(text)
        self._document, self._do, self._back = document, do, back
        self._before, self._after = document.moment, object()

    def redo(self) -> None:
        self._document.moment = self._after
        self._do()

    def undo(self) -> None:
        self._document.moment = self._before
        self._back()


class Document(QObject):
    """Signals: changed(before, after) after every edit, undo and redo; typing(State): how it would be with what is just being typed;
    replaced() when another sheet is opened."""

    changed = pyqtSignal(object, object)
    typing = pyqtSignal(object)
    replaced = pyqtSignal()

    def __init__(self, sheet: Sheet) -> None:
        super().__init__()
        self.path: Path | None = None
        self.undo = QUndoStack(self)
        self.undo.setUndoLimit(UNDO_STEPS)
        self._begin(State(sheet, Draft()))

    def _begin(self, state: State) -> None:
        self.state = state
        #: Where in its history the document is: the same object again only when everything is as it was then.
        self.moment: object = state
        self._saved: object = state
        self._last_key = state.sheet.last_key
        self._placing: tuple[int, str, str] | None = None
        self._shown: tuple[State, Sheet] | None = None

    @property
    def sheet(self) -> Sheet:
        """The sheet as it is, knowing every key that was ever given out, also of what was undone: a key that comes again would make
        old takes take one element for another."""
        if self._shown is None or self._shown[0] is not self.state:
            sheet = self.state.sheet
            self._shown = self.state, sheet if sheet.last_key >= self._last_key else replace(sheet, last_key=self._last_key)
        return self._shown[1]

    @property
    def draft(self) -> Draft:
        return self.state.draft

    @property
    def modified(self) -> bool:
        return self.moment is not self._saved

    def open(self, sheet: Sheet, draft: Draft | None = None, path: Path | None = None) -> None:
        """Takes another sheet; the undo history begins anew."""
        self.path = path
        self.undo.clear()
        self._begin(State(sheet, draft or Draft()))
        self.replaced.emit()

    def would_be(self, sheet: Sheet | None = None, draft: Draft | None = None) -> None:
        """Tells how all would be with what is just being typed; nothing changes yet."""
        self.typing.emit(State(sheet or self.sheet, draft or self.draft))

    def edit(self, sheet: Sheet, text: str, merge: str = "") -> None:
        """An undoable change of the sheet; text says what undo will undo."""
        if sheet is self.sheet:
            return
        sheet = followed(self.sheet, sheet)
        if self._placing is not None and self._only_places(sheet, self._placing[0]):
            _, text, merge = self._placing
        self.undo.push(_Edit(self, State(sheet, self.draft), text, merge))

    def edit_and_place(self, sheet: Sheet, key: int, text: str) -> None:
        """An undoable change that goes on while nothing but the place of one layer is changed, or what lies right under it comes."""
        self._placing = (key, text, f"place {key}")
        self.undo.push(_Edit(self, State(sheet, self.draft), text, f"place {key}"))

    def _only_places(self, sheet: Sheet, key: int) -> bool:
        """Whether a sheet differs from the present one in that layer alone, and the last that was done was to place it."""
        last, now = self.undo.command(self.undo.index() - 1), self.sheet
        if not isinstance(last, _Edit) or last.merge != f"place {key}":
            return False
        others = [[x for x in s.layers if x.key != key] for s in (sheet, now)]
        came = [x for x in others[0] if all(x is not y for y in others[1])]
        gone = [y for y in others[1] if all(x is not y for x in others[0])]
        rest = (f.name for f in fields(Sheet) if f.name not in ("layers", "last_key"))
        same = all(getattr(sheet, name) is getattr(now, name) or getattr(sheet, name) == getattr(now, name) for name in rest)
        return same and not gone and len(came) <= 1 and sheet.has_layer(key)

    def set_draft(self, draft: Draft, text: str = "pass settings", merge: str = "draft") -> None:
        """An undoable change of the next pass's settings."""
        if draft != self.draft:
            self.undo.push(_Edit(self, State(self.sheet, draft), text, merge))

    def edit_both(self, sheet: Sheet, draft: Draft, text: str) -> None:
        """An undoable change of the sheet and the next pass together."""
        if sheet is not self.sheet or draft != self.draft:
            self.undo.push(_Edit(self, State(sheet, draft), text, ""))

    def act(self, text: str, do: Callable[[], None], back: Callable[[], None]) -> None:
        """Does something undoable that is no change of sheet or settings; do and back may be called again and again."""
        self.undo.push(_Act(self, text, do, back))

    def saved(self, path: Path, moment: object) -> None:
        """Something was saved: where, and at which moment of the history."""
        self.path, self._saved = path, moment

    def _set(self, state: State, moment: object) -> None:
        before, self.state, self.moment = self.state, state, moment
        self._last_key = max(self._last_key, state.sheet.last_key)
        self.changed.emit(before, state)
