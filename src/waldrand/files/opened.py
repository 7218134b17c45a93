"""What a file that was opened held."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from ..core.passes.settings import PassSettings
from ..core.passes.take import Take
from ..core.values.sheet import Sheet


@dataclass(frozen=True, eq=False)
class SavedTake:
    """A take in the tray: the take, what is special about it, whether it was marked, and whether kept."""

    take: Take
    special: str = ""
    marked: bool = False
    kept: bool = False


@dataclass(frozen=True, eq=False)
class Opened:
    """sheet; settings: the pass column's values as they were saved; notes: what the artist should know; takes: the tray; asked: the
    settings of a pass alone; picture: whether it is a picture, to be worked on; hint: something that is worth a word;
    own_frame: the frame of the pass, where one was set."""

    sheet: Sheet
    settings: dict[str, Any] = field(default_factory=dict)
    notes: tuple[str, ...] = ()
    takes: tuple[SavedTake, ...] = ()
    asked: PassSettings | None = None
    picture: bool = False
    hint: str = ""
    own_frame: tuple[int, int, int, int] | None = None
