"""waldrand open: the window."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

HELP = "open the window with a sheet, a layout or a picture"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("file", type=Path, metavar="FILE", nargs="?")


def act(options: argparse.Namespace, stop: Event) -> int:
    from ..desk.app import open_window

    return open_window(options.file)
