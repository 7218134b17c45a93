"""waldrand place-in: a cut-out laid into a picture, and brought to it."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

from ..core.picture.placed import placed
from ..core.values.belonging import belonging, seam_of
from ..core.values.layers import PictureLayer
from ..core.values.sheet import Sheet
from ..files.openraster import save_sheet
from ..files.pictures import read_picture, write_png
from . import OK
from .options import point_of, refuse_existing, say, writes

HELP = "lay a cut-out into a picture: moved, scaled, turned, matched, without a seam"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("picture", type=Path, metavar="PICTURE")
    p.add_argument("cut", type=Path, metavar="CUT.png")
    p.add_argument("--at", required=True, metavar="X,Y", help="where the middle of what is visible comes to lie, in pixels")
    p.add_argument("--scale", type=float, default=1.0, help="how large, 1: as it is")
    p.add_argument("--turn", type=float, default=0.0, help="turned clockwise by degrees")
    p.add_argument("--match", type=float, default=0.0, help="0 to 1: its colours and light become those of what lies round it")
    p.add_argument("--no-seam", type=float, default=0.0, metavar="A", help="0 to 1: the difference at its edge is carried smoothly inward")
    p.add_argument("--out", type=Path, required=True, metavar="FILE", help="a PNG, or a sheet (.ora) in which it stays a layer")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    refuse_existing([options.out], options.force)
    below, cut = read_picture(options.picture), read_picture(options.cut)
    pixels, x, y = placed(cut.pixels, point_of(options.at, "--at"), options.scale, options.turn)
    h, w = below.pixels.shape[:2]
    sheet = Sheet(w, h, (PictureLayer(1, options.picture.stem, below.pixels), PictureLayer(2, options.cut.stem, pixels, x, y)))
    notes = [*below.notes, *cut.notes]
    if not sheet.layer(2).bounds.intersect(sheet.rect).area:
        notes.append("The cut-out lies wholly outside the picture.")
    sheet = belonging(sheet, 2, options.match, options.no_seam)
    if options.out.suffix.lower() == ".ora":
        save_sheet(options.out, sheet)
    else:
        write_png(options.out, sheet.flatten())
    seen = seam_of(sheet, 2)
    line = [] if seen is None else [f"Its edge steps {seen:.2f} times as much as the picture beside it."]
    say(options, {"file": str(options.out), "seam": None if seen is None else round(seen, 3)}, *notes, *line, str(options.out))
    return OK
