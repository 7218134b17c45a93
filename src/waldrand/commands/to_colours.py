"""waldrand to-colours: a layout as a flat-colour picture."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

from ..core.values.colour_map import colour_map
from ..files.pictures import write_png
from . import OK
from .options import load_sheet, refuse_existing, say, writes

HELP = "write a layout as a flat-colour picture"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("file", type=Path, metavar="FILE")
    p.add_argument("--out", type=Path, required=True, metavar="MAP.png")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    sheet, _, notes = load_sheet(options.file)
    refuse_existing([options.out], options.force)
    write_png(options.out, colour_map(sheet))
    say(options, {"file": str(options.out)}, *notes, str(options.out))
    return OK
