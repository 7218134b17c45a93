"""waldrand from-colours: a layout made of a flat-colour picture."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

from ..core.refused import Refused
from ..core.values.colour_map import colour_name, regions
from ..core.values.element import Element
from ..core.values.sheet import Sheet
from ..files.layout import write_layout, written_files
from ..files.pictures import read_picture
from . import OK
from .options import names_of, refuse_existing, say, writes

HELP = "make a layout of a flat-colour picture: one element for each colour"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("picture", type=Path, metavar="MAP.png")
    p.add_argument("--tolerance", type=float, default=24.0, help="how unlike two colours may be and still count as one, 1 to 200")
    p.add_argument("--out", type=Path, required=True, metavar="FILE.toml")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    if not 1 <= options.tolerance <= 200:
        raise Refused(f"--tolerance goes from 1 to 200; {options.tolerance:g} is outside.")
    picture = read_picture(options.picture)
    h, w = picture.pixels.shape[:2]
    found = regions(picture.pixels, options.tolerance)
    sheet = Sheet(w, h, elements=tuple(Element(i + 1, colour_name(r.colour), r.outline) for i, r in enumerate(found)))
    refuse_existing(written_files(options.out, sheet), options.force)
    written = names_of(write_layout(options.out, sheet, force=options.force))
    say(options, {"files": written, "elements": [e.name for e in sheet.elements]}, *picture.notes, *written)
    return OK
