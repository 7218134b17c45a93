"""waldrand score: how elements landed in takes."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

from ..core.refused import Refused
from ..core.seen.score import placement
from ..files.pictures import read_picture
from . import OK
from .options import load_sheet, pack_of, say

HELP = "how each element of a layout landed in takes of it"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("takes", type=Path, nargs="+", metavar="TAKE")
    p.add_argument("--layout", type=Path, required=True, metavar="FILE")


def act(options: argparse.Namespace, stop: Event) -> int:
    sheet, _, _ = load_sheet(options.layout)
    pack = pack_of(options)
    values, lines = {}, []
    for path in options.takes:
        pixels = read_picture(path).pixels
        if pixels.shape[:2] != (sheet.height, sheet.width):
            raise Refused(f"{path} is {pixels.shape[1]} x {pixels.shape[0]} pixels, the layout {sheet.width} x {sheet.height}.")
        scores = placement(pixels, sheet, pack)
        values[str(path)] = {s.name: round(s.score, 1) for s in scores}
        lines.append(f"{path}: " + ", ".join(f"{s.name} {s.score:.0f}" for s in scores))
        lines += [f"  {s.says}" for s in scores if s.says]
    say(options, {"scores": values}, *lines)
    return OK
