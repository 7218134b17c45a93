"""waldrand adjust: a picture's light and colours, by numbers."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

from ..core.fields import fields_of
from ..core.picture.adjusting import Adjustment, adjusted_within, curve_of
from ..core.refused import Refused
from ..files.layout import fitted_mask
from ..files.pictures import read_grey, read_picture, write_png
from . import OK
from .options import refuse_existing, say, scales_masks, sets, writes

HELP = "adjust a picture's light and colours by numbers, all of it or under a mask"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("picture", type=Path, metavar="PICTURE")
    sets(p, fields_of(Adjustment))
    p.add_argument("--curve", metavar="POINTS", help='a curve through points, like "0,0 .3,.5 1,1"')
    p.add_argument("--mask", type=Path, help="grey picture: white is adjusted, grey partly")
    scales_masks(p)
    p.add_argument("--out", type=Path, required=True, metavar="FILE.png")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    refuse_existing([options.out], options.force)
    given = {name: v for name in fields_of(Adjustment) if (v := getattr(options, name)) is not None}
    how = Adjustment(**given, curve=() if options.curve is None else curve_of(options.curve))
    if how.plain:
        raise Refused("Nothing would change: give an adjustment, for instance --exposure 0.5.")
    picture = read_picture(options.picture)
    pixels = picture.pixels
    within = None
    if options.mask is not None:
        h, w = pixels.shape[:2]
        within = fitted_mask(read_grey(options.mask), w, h, str(options.mask), options.scale_mask)
    out = pixels.copy()
    out[..., :3] = adjusted_within(pixels[..., :3], how, within)
    write_png(options.out, out)
    say(options, {"file": str(options.out)}, *picture.notes, str(options.out))
    return OK
