"""waldrand repeat: a picture made again from its recipe."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

import numpy as np

from ..core.passes.repeat import repeat
from ..files.pictures import read_picture
from . import DIFFERENT, OK
from .options import inputs_of, pack_of, progress_of, recipe_in, say

HELP = "make a picture again from its recipe and say whether it is identical"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("picture", type=Path, metavar="PICTURE.png")
    p.add_argument("--input", type=Path, action="append", default=[], metavar="FILE", help="the picture it was made from")


def act(options: argparse.Namespace, stop: Event) -> int:
    recipe = recipe_in(options.picture, "it cannot be made again")
    again = repeat(recipe, pack_of(options), inputs_of(options), progress_of(options), stop)
    there = read_picture(options.picture).pixels
    same = there.shape == again.pixels.shape and bool((there == again.pixels).all())
    if same:
        line = "Identical, pixel for pixel."
    elif there.shape != again.pixels.shape:
        line = "Different: the picture has another size than its recipe makes."
    else:
        d = np.abs(there.astype(int) - again.pixels)
        line = f"Different: {int((d.max(-1) > 0).sum())} pixels, by {int(d.max())} of 255 at most."
    say(options, {"identical": same, "notes": list(again.notes), "says": line}, *again.notes, line)
    return OK if same else DIFFERENT
