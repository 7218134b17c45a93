"""waldrand depth: how near everything in a picture is."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

import numpy as np

from ..core.seen.depth import depth_of
from ..files.pictures import read_picture, write_png
from . import OK
from .options import pack_of, refuse_existing, say, writes

HELP = "tell how near everything in a picture is, near white, as a depth that passes can follow"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("picture", type=Path, metavar="PICTURE")
    p.add_argument("--out", type=Path, required=True, metavar="FILE.png")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    refuse_existing([options.out], options.force)
    picture = read_picture(options.picture)
    depth = depth_of(picture.pixels, pack_of(options))
    write_png(options.out, np.asarray(np.round(255 * depth), np.uint8))
    say(options, {"file": str(options.out)}, *picture.notes, str(options.out))
    return OK
