"""The takes, as far as files have to do with them, and what is written of a sheet at a moment."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from ...core.values.sheet import Sheet
from ...files.opened import SavedTake
from ...files.openraster import save_sheet, steps_of_saving
from ..document import Document
from ..draft import Draft
from .beside import Tick


@dataclass(frozen=True, eq=False)
class Written:
    """What is being written where: the sheet as it was at a moment."""

    path: Path
    moment: object
    sheet: Sheet
    draft: Draft
    takes: Sequence[SavedTake]

    @property
    def steps(self) -> int:
        """How often the writing ticks."""
        return steps_of_saving(self.sheet, self.takes)

    def write(self, tick: Tick = lambda: None) -> None:
        save_sheet(self.path, self.sheet, self.draft.to_json(), self.takes, tick)


@dataclass(frozen=True, eq=False)
class FiledTakes:
    """The takes, as far as files have to do with them: takes: those there, as they are saved; at_stake: those that are neither kept nor
    saved; show: puts saved ones there; saved: marks them as such."""

    takes: Callable[[], Sequence[SavedTake]]
    at_stake: Callable[[], Sequence[SavedTake]]
    show: Callable[[Sequence[SavedTake]], None]
    saved: Callable[[Sequence[SavedTake]], None]


def written_now(document: Document, takes: FiledTakes, path: Path) -> Written:
    """The sheet as it is, to be written to a file."""
    return Written(path, document.moment, document.sheet, document.draft, takes.takes())
