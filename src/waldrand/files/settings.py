"""Where what the artist keeps for all sheets lies, and its tables as JSON files."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Any

from ..core.fields import taken_table
from ..core.refused import Refused
from ..core.worded import worded
from .atomic import write_atomically


def settings_folder() -> Path:
    """Where the desktop keeps settings."""
    return Path(os.environ.get("XDG_CONFIG_HOME") or Path.home() / ".config") / "waldrand"


def read_table(path: Path, largest: int, what: str) -> dict[str, Any]:
    """A table that is kept in a file of at most so many bytes; empty where nothing was kept yet. what: it is, for refusals.

    Raises:
        Refused: the file cannot be read, or is no table.
    """
    if not path.exists():
        return {}
    try:
        known = json.loads(path.read_text("utf-8")) if path.stat().st_size <= largest else None
    except (OSError, ValueError) as error:
        raise Refused(worded("{0} in {1} cannot be read: {2}.", what, path, error)) from error
    if known is None:
        raise Refused(worded("{0} is too large: {1}.", what, path))
    return taken_table(known, what)


def write_table(path: Path, table: dict[str, Any]) -> None:
    """Keeps a table.

    Raises:
        Refused: it cannot be written.
    """
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise Refused(worded("The folder {0} cannot be made: {1}.", path.parent, error.strerror)) from error
    text = json.dumps(table, indent=1)
    write_atomically(path, lambda f: f.write(text.encode()))
