"""Habits: touch-ups of several rounds under a name, kept where the desktop keeps settings, for the window and for commands."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from ..core.fields import taken_list
from ..core.passes.recipe import request_from_json, request_to_json
from ..core.passes.request import Request
from ..core.refused import Refused
from ..core.worded import worded
from .settings import read_table, settings_folder, write_table

LARGEST = 1_000_000
#: The rounds of each habit, by its name.
Habits = Mapping[str, tuple[Request, ...]]


def habits_file() -> Path:
    return settings_folder() / "habits.json"


def read_habits() -> dict[str, tuple[Request, ...]]:
    """All habits that are kept; none where nothing was kept yet.

    Raises:
        Refused: the file cannot be read.
    """
    what = worded("The list of habits")
    table = read_table(habits_file(), LARGEST, what)
    return {name: tuple(map(request_from_json, taken_list(rounds, what))) for name, rounds in table.items()}


def write_habits(habits: Habits) -> None:
    """Raises Refused when they cannot be written."""
    write_table(habits_file(), {name: [request_to_json(one) for one in rounds] for name, rounds in habits.items()})


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
