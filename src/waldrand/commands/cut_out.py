"""waldrand cut-out: a thing cut out of a picture."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

import numpy as np

from ..core.picture.cutting import like_colour, shaped, softened
from ..core.refused import Refused
from ..core.seen.cut_out import at_point, by_words, subject
from ..files.pictures import read_picture, write_png
from . import OK
from .options import pack_of, point_of, refuse_existing, say, writes

HELP = "cut a thing out of a picture: by words, at a point, by colour, or the whole subject"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("picture", type=Path, metavar="PICTURE")
    what = p.add_mutually_exclusive_group(required=True)
    what.add_argument("--words", help='what is cut out, like "owl"')
    what.add_argument("--at", metavar="X,Y", help="the thing at a point")
    what.add_argument("--like", metavar="X,Y", help="what has nearly the colour of a point")
    what.add_argument("--subject", action="store_true", help="the whole subject, without its background")
    p.add_argument("--tolerance", type=float, default=0.1, help="with --like: 0 to 1 of the greatest distance of colours (default: 0.1)")
    p.add_argument("--everywhere", action="store_true", help="with --like: also where it is not joined to the point")
    p.add_argument("--grow", type=float, default=0.0, help="grow it by pixels; below 0: shrink it")
    p.add_argument("--feather", type=float, default=0.0, help="width of its soft edge in pixels, beside what the picture gives")
    p.add_argument("--out", type=Path, required=True, metavar="CUT.png", help="RGBA of the picture's own size")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    refuse_existing([options.out], options.force)
    if abs(options.grow) > 10_000 or not 0 <= options.feather <= 10_000:
        raise Refused("An edge is grown and feathered by at most 10000 pixels.")
    picture = read_picture(options.picture)
    pixels = picture.pixels
    if options.words is not None:
        mask = by_words(pixels, options.words, pack_of(options))
    elif options.at is not None:
        mask = at_point(pixels, *point_of(options.at, "--at"), pack_of(options))
    elif options.like is not None:
        solid = like_colour(pixels, *point_of(options.like, "--like"), options.tolerance, options.everywhere)
        mask = softened(pixels, solid.astype(np.float32), 2)
    else:
        mask = subject(pixels, pack_of(options))
    mask = shaped(mask, options.grow, options.feather)
    cut = pixels.copy()
    cut[..., 3] = np.round(mask * pixels[..., 3])
    if not cut[..., 3].any():
        raise Refused("Nothing would be left of the cut-out.")
    write_png(options.out, cut)
    share = float((mask > 0.5).mean())
    say(
        options,
        {"file": str(options.out), "share": round(share, 4)},
        *picture.notes,
        f"{100 * share:.1f} % of the picture.",
        str(options.out),
    )
    return OK
