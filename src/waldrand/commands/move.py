"""waldrand move: a thing moved in a picture, its old place filled."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

import numpy as np

from ..core.passes.kinds import kind_of
from ..core.passes.lifting import Move, laid_down, lifted
from ..core.passes.moving import filled_behind
from ..core.passes.recipe import picture_recipe
from ..core.passes.repeat import MOVED
from ..core.passes.settings import PassSettings
from ..core.passes.watch import Watch
from ..core.seen.cut_out import by_words
from ..files.layout import fitted_mask
from ..files.pictures import read_grey, write_png
from . import OK
from .options import pack_of, picture_sheet, point_of, progress_of, request_of, result_of, say, says, scales_masks, sets, writes

THROUGH = "inpaint"
HELP = "move a thing in a picture: its old place is filled, its new one joined"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("picture", type=Path, metavar="PICTURE")
    says(p)
    what = p.add_mutually_exclusive_group(required=True)
    what.add_argument("--thing", metavar="WORDS", help='what is moved, like "fox"')
    what.add_argument("--mask", type=Path, help="grey picture: white is moved")
    p.add_argument("--by", required=True, metavar="DX,DY", help="how far, in pixels right and down")
    p.add_argument("--scale", type=float, default=1.0, help="how large it becomes, 1: as it is")
    p.add_argument("--match", type=float, default=0.0, help="0 to 1: its colours and light become those of its new place")
    scales_masks(p)
    sets(p, {n: f for n, f in kind_of(THROUGH).fields().items() if n != "own_frame"})
    p.add_argument("--out", type=Path, metavar="FILE", help="PNG to write (default: PICTURE-move.png beside it)")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    sheet, notes = picture_sheet(options.picture, options.scene)
    by, out, pack = point_of(options.by, "--by"), result_of(options, "move"), pack_of(options)
    if options.mask is not None:
        mask = fitted_mask(read_grey(options.mask), sheet.width, sheet.height, str(options.mask), options.scale_mask)
    else:
        mask = np.asarray(np.round(255 * by_words(sheet.flatten(), options.thing, pack)), np.uint8)
    # Without words the place is filled from the picture itself, then painted over lightly.
    base = PassSettings(strength=kind_of(THROUGH).begins if options.words else 0.5)
    request = request_of(kind_of(THROUGH), base, options)
    if options.fill is None and not options.words:
        request = request_of(kind_of(THROUGH), base, argparse.Namespace(**{**vars(options), "fill": "patches"}))
    move = Move(mask, by, options.scale, options.match)
    thing = lifted(sheet, move)
    bare = filled_behind(sheet, move, request, pack, Watch(progress_of(options), stop))
    done = laid_down(bare, thing, move)
    write_png(out, done.flatten(), picture_recipe(bare) | {MOVED: move.to_json()})
    at = done.layers[-1].bounds
    say(options, {"file": str(out), "at": [at.x0, at.y0]}, *notes, str(out))
    return OK
