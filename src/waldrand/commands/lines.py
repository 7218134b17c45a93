"""waldrand lines: the outline drawing of a picture."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

import numpy as np

from ..core.picture.lines import lines_of
from ..core.refused import Refused
from ..files.pictures import read_picture, write_png
from . import OK
from .options import refuse_existing, say, writes

HELP = "draw the outlines of a picture, dark on white, as a drawing that passes can follow"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("picture", type=Path, metavar="PICTURE")
    p.add_argument("--only-strong", action="store_true", help="leave out what is short or faint")
    p.add_argument("--thin", action="store_true", help="one pixel wide")
    p.add_argument("--out", type=Path, required=True, metavar="FILE.png")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    refuse_existing([options.out], options.force)
    picture = read_picture(options.picture)
    drawn = lines_of(picture.pixels, options.only_strong, options.thin)
    if not drawn.any():
        raise Refused(f"There are no lines to draw in {options.picture}: it is nearly even.")
    write_png(options.out, np.asarray(np.round(255 * (1 - drawn)), np.uint8))
    share = float((drawn > 0.5).mean())
    say(options, {"file": str(options.out), "drawn": round(share, 4)}, *picture.notes, f"{share:.1%} of it is drawn.", str(options.out))
    return OK
