"""Where Waldrand writes down what it does and what went wrong: a file in the folder for such things, and with --verbose the screen."""

from __future__ import annotations

import logging
import os
import sys
from logging.handlers import RotatingFileHandler
from pathlib import Path

LARGEST, KEPT = 1_000_000, 2
LOG = logging.getLogger("waldrand")


def log_path() -> Path:
    """The file, by the XDG base directory specification."""
    state = os.environ.get("XDG_STATE_HOME", "")
    folder = Path(state) if state.startswith("/") else Path.home() / ".local" / "state"
    return folder / "waldrand" / "waldrand.log"


def begin_logging(verbose: bool = False) -> None:
    """From now on everything is written down; where no file can be, nothing is, and nothing else suffers."""
    LOG.setLevel(logging.DEBUG)
    LOG.propagate = False
    for old in LOG.handlers[:]:
        LOG.removeHandler(old)
        old.close()
    handlers: list[logging.Handler] = []
    try:
        log_path().parent.mkdir(parents=True, exist_ok=True)
        handlers.append(RotatingFileHandler(log_path(), maxBytes=LARGEST, backupCount=KEPT, encoding="utf-8", delay=True))
    except OSError:
        pass
    if verbose:
        handlers.append(logging.StreamHandler(sys.stderr))
    for handler in handlers:
        handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
        LOG.addHandler(handler)
    # A full disk must not end a pass.
    logging.raiseExceptions = False


def mistake(error: BaseException) -> str:
    """Writes an error of ours down with its traceback, and returns what to say of it."""
    LOG.error("a mistake of ours", exc_info=error)
    lines = str(error).splitlines()
    said = f"{type(error).__name__}: {lines[0]}" if lines else type(error).__name__
    return f"Something went wrong that should not: {said[:200]} (written down in {log_path()})."
