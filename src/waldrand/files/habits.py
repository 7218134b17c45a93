"""Habits: touch-ups of several rounds under a name, kept where the desktop keeps settings, for the window and for commands."""

from __future__ import annotations

import json
import os
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from ..core.fields import taken_list, taken_table
from ..core.passes.recipe import request_from_json, request_to_json
from ..core.passes.request import Request
from ..core.refused import Refused
from ..core.worded import worded
from .atomic import write_atomically

LARGEST = 1_000_000
#: The rounds of each habit, by its name.
Habits = Mapping[str, tuple[Request, ...]]


def settings_folder() -> Path:
    """Where what the artist keeps for all sheets lies."""
    return Path(os.environ.get("XDG_CONFIG_HOME") or Path.home() / ".config") / "waldrand"


def habits_file() -> Path:
    return settings_folder() / "habits.json"


def read_habits() -> dict[str, tuple[Request, ...]]:
    """All habits that are kept; none where nothing was kept yet.

    Raises:
        Refused: the file cannot be read.
    """
    path = habits_file()
    if not path.exists():
        return {}
    try:
        if path.stat().st_size > LARGEST:
            raise Refused(worded("{0} is too large for a list of habits.", path))
        table: Any = json.loads(path.read_text("utf-8"))
    except (OSError, ValueError) as error:
        raise Refused(worded("The habits in {0} cannot be read: {1}.", path, error)) from error
    what = worded("The list of habits")
    return {name: tuple(map(request_from_json, taken_list(rounds, what))) for name, rounds in taken_table(table, what).items()}


def write_habits(habits: Habits) -> None:
    """Raises Refused when they cannot be written."""
    path = habits_file()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise Refused(worded("The folder {0} cannot be made: {1}.", path.parent, error.strerror or error)) from error
    listed = {name: [request_to_json(one) for one in rounds] for name, rounds in habits.items()}
    write_atomically(path, lambda f: f.write(json.dumps(listed, indent=1).encode()))


def habit(name: str) -> tuple[Request, ...]:
    """The rounds of a habit.

    Raises:
        Refused: there is none of that name.
    """
    habits = read_habits()
    if name not in habits:
        there = ", ".join(f"“{n}”" for n in habits) or worded("none yet")
        raise Refused(worded("There is no habit called “{0}”. There are: {1}.", name, there))
    return habits[name]
