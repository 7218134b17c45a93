"""waldrand find: where a thing is in a picture."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

from ..core.seen.find import find
from ..files.pictures import read_picture, write_png
from . import OK
from .options import pack_of, refuse_existing, say, writes

HELP = "where a thing is in a picture: a soft mask, and how surely"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("picture", type=Path, metavar="PICTURE")
    p.add_argument("--words", required=True, help='what to look for, like "owl"')
    p.add_argument("--out", type=Path, metavar="MASK.png", help="where to write the mask")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    picture = read_picture(options.picture)
    if options.out is not None:
        refuse_existing([options.out], options.force)
    found = find(picture.pixels, options.words, pack_of(options))
    if options.out is not None:
        write_png(options.out, found.mask)
    box = None if found.box is None else [round(v) for v in found.box]
    line = f"“{options.words}”: " + (f"found, {100 * found.confidence:.0f} % sure, at {box}." if box else "not found.")
    say(options, {"found": box is not None, "confidence": round(found.confidence, 3), "box": box}, *picture.notes, line)
    return OK
