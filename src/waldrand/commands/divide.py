"""waldrand divide: a sheet or an element divided into parts."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

from ..core.passes.repeat import find_element
from ..core.refused import Refused
from ..core.values.dividing import divide
from ..core.values.division import SharesError, parse_shares
from ..files.layout import write_layout, written_files
from . import OK
from .options import any_sheet, names_of, refuse_existing, say, writes

HELP = "divide a sheet, or one of its elements, into parts and write the layout"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("file", type=Path, metavar="FILE", help="a layout, a sheet or a picture")
    p.add_argument("--across", default="1", metavar="SHARES", help="shares of the columns from the left, like 1,1,2")
    p.add_argument("--down", default="1", metavar="SHARES", help="shares of the rows from the top")
    p.add_argument("--element", metavar="N", help="divide this element, by number or name, instead of the sheet")
    p.add_argument("--out", type=Path, required=True, metavar="FILE.toml")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    sheet, settings, notes = any_sheet(options.file)
    shares = []
    for name in ("across", "down"):
        text = getattr(options, name)
        try:
            shares.append(parse_shares(text))
        except SharesError as error:
            raise Refused(f"--{name} {text}: {error} (at character {error.at + 1})") from error
    key = None if options.element is None else find_element(sheet, options.element).key
    done = divide(sheet, shares[0], shares[1], key)
    refuse_existing(written_files(options.out, done), options.force)
    written = names_of(write_layout(options.out, done, settings, options.force))
    say(options, {"files": written, "elements": [e.name for e in done.elements]}, *notes, *written)
    return OK
