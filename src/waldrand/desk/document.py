"""The sheet being worked on: one value, changed only through undoable edits."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict, dataclass, field, replace
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QUndoCommand, QUndoStack

from ..core.passes.request import START_STRENGTH, Kind, PassSettings, Request
from ..core.refused import Refused
from ..core.values.sheet import Sheet

UNDO_STEPS = 400


@dataclass(frozen=True)
class Draft:
    """The next pass as it stands in the pass column. strengths: what each kind of pass was last set to; again: how often what
    missed its outline gets another chance in each take; small_nearer: whether small things are painted from nearer."""

    kind: Kind = "compose"
    settings: PassSettings = field(default_factory=PassSettings)
    words: str = ""
    avoid: str = ""
    takes: int = 2
    strengths: tuple[tuple[Kind, float], ...] = tuple(START_STRENGTH.items())
    again: int = 0
    small_nearer: bool = False

    def request(self) -> Request:
        strength = dict(self.strengths)[self.kind]
        own = self.kind != "compose"
        near = self.small_nearer and self.kind != "inpaint"
        settings = replace(self.settings, strength=strength)
        return Request(self.kind, settings, self.words if own else "", self.avoid if own else "", small_nearer=near)

    def with_strength(self, value: float) -> Draft:
        return replace(self, strengths=tuple((k, value if k == self.kind else v) for k, v in self.strengths))

    def to_json(self) -> dict[str, Any]:
        return {
            "pass": asdict(self.settings),
            "kind": self.kind,
            "words": self.words,
            "avoid": self.avoid,
            "takes": self.takes,
            "strengths": dict(self.strengths),
            "again": self.again,
            "small_nearer": self.small_nearer,
        }

    @classmethod
    def from_json(cls, d: dict[str, Any]) -> Draft:
        """Raises Refused when the values are not a draft's."""
        if not d:
            return cls()
        try:
            kept = {k: float(d["strengths"][k]) for k in START_STRENGTH}
            settings, words, avoid = PassSettings(**d["pass"]), str(d["words"]), str(d["avoid"])
            habits = int(d.get("again", 0)), bool(d.get("small_nearer", False))
            return cls(d["kind"], settings, words, avoid, int(d["takes"]), tuple(kept.items()), *habits)
        except (KeyError, TypeError, AttributeError) as error:
            raise Refused("The sheet's pass settings are damaged.") from error


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

    def id(self) -> int:
        return hash(self.merge) & 0x7FFFFFFF if self.merge else -1

    def mergeWith(self, other: QUndoCommand | None) -> bool:
        if isinstance(other, _Edit) and other.merge == self.merge:
            self.after = other.after
            return True
        return False

    def redo(self) -> None:
        self.document._set(self.after)

    def undo(self) -> None:
        self.document._set(self.before)


class _Act(QUndoCommand):
    """Something done beside the sheet, and the way back."""

    def __init__(self, text: str, do: Callable[[], None], back: Callable[[], None]) -> None:
        super().__init__(text)
        self._do, self._back = do, back

    def redo(self) -> None:
        self._do()

    def undo(self) -> None:
        self._back()


class Document(QObject):
    """Signals: changed(before, after) after every edit, undo and redo; replaced() when another sheet is opened."""

    changed = pyqtSignal(object, object)
    replaced = pyqtSignal()

    def __init__(self, sheet: Sheet) -> None:
        super().__init__()
        self.state = State(sheet, Draft())
        self.path: Path | None = None
        self.undo = QUndoStack(self)
        self.undo.setUndoLimit(UNDO_STEPS)

    @property
    def sheet(self) -> Sheet:
        return self.state.sheet

    @property
    def draft(self) -> Draft:
        return self.state.draft

    @property
    def modified(self) -> bool:
        return not self.undo.isClean()

    def open(self, sheet: Sheet, draft: Draft | None = None, path: Path | None = None) -> None:
        """Takes another sheet; the undo history begins anew."""
        self.state, self.path = State(sheet, draft or Draft()), path
        self.undo.clear()
        self.replaced.emit()

    def edit(self, sheet: Sheet, text: str, merge: str = "") -> None:
        """An undoable change of the sheet; text says what undo will undo."""
        if sheet is not self.sheet:
            self.undo.push(_Edit(self, State(sheet, self.draft), text, merge))

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
        self.undo.push(_Act(text, do, back))

    def saved(self, path: Path, state: State) -> None:
        """Something was saved: where, and how things stood then."""
        self.path = path
        if state is self.state:
            self.undo.setClean()

    def _set(self, state: State) -> None:
        before, self.state = self.state, state
        self.changed.emit(before, state)
