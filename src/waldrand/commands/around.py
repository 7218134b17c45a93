"""waldrand around: one thing kept exactly, everything round it new."""

from __future__ import annotations

import argparse
from dataclasses import replace
from pathlib import Path
from threading import Event

import numpy as np

from ..core.packs import Pack
from ..core.passes.kinds import kind_of
from ..core.passes.plan import plan
from ..core.passes.recipe import picture_recipe
from ..core.passes.run import run
from ..core.passes.settings import PassSettings
from ..core.picture.cutting import shaped
from ..core.refused import Refused
from ..core.seen.cut_out import subject
from ..core.seen.find import covered, finder_of
from ..core.values.masks import Mask
from ..files.layout import fitted_mask
from ..files.pictures import read_grey, write_png
from . import OK
from .options import (
    forecast_values,
    names_of,
    pack_of,
    paths_of_takes,
    picture_sheet,
    progress_of,
    request_of,
    say,
    says,
    scales_masks,
    sets,
    warned,
    writes,
)

#: What is not held is a mask over all the rest.
THROUGH = "inpaint"
HELP = "keep one thing of a picture bit for bit, and paint everything round it anew"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("picture", type=Path, metavar="PICTURE")
    says(p)
    what = p.add_mutually_exclusive_group(required=True)
    what.add_argument("--hold", type=Path, metavar="MASK.png", help="grey picture: white stays")
    what.add_argument("--subject", action="store_true", help="the whole subject stays")
    p.add_argument("--shrink", type=float, default=0.0, metavar="N", help="what stays is smaller by pixels, to lose a pale fringe")
    scales_masks(p)
    p.add_argument("--takes", type=int, default=1, help="how many, with rising seeds; then --out is a folder")
    sets(p, {n: f for n, f in kind_of(THROUGH).fields().items() if n != "margin"}, needed=("strength",))
    p.add_argument("--out", type=Path, required=True, metavar="FILE|DIR", help="PNG to write, or for several takes a folder")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    sheet, notes = picture_sheet(options.picture, options.scene)
    w, h, pack = sheet.width, sheet.height, pack_of(options)
    if options.hold is not None:
        held = fitted_mask(read_grey(options.hold), w, h, str(options.hold), options.scale_mask).astype(np.float32) / 255
    else:
        held = subject(sheet.flatten(), pack)
    solid = shaped(held, -options.shrink) > 0.5
    if not solid.any():
        raise Refused("Nothing would be held: shrink it less, or choose another mask.")
    if solid.all():
        raise Refused("Everything would be held: nothing is left to paint.")
    sheet = replace(sheet, mask=Mask.from_array(np.where(solid, 0, 255).astype(np.uint8)))
    request = request_of(kind_of(THROUGH), PassSettings(), options)
    # Round what stays everything is context; the whole is computed at once.
    request = replace(request, own_frame=request.own_frame or (0, 0, w, h), clears=False)
    paths = paths_of_takes(options, options.out, request.settings.seed)
    p = plan(sheet, request, pack)
    grows = _named_again(request.words, sheet.flatten(), solid, pack) if pack.finder is not None else []
    for path, take in zip(paths, run(p, pack, options.takes, progress_of(options), stop), strict=True):
        # The edge lies outside what stays, so that not a pixel of it changes.
        done = sheet.with_layer(replace(take.to_patch(2, "around"), feather=0.0))
        write_png(path, done.flatten(), picture_recipe(done))
    values = {"files": names_of(paths), "held": round(float(solid.mean()), 4), "forecast": forecast_values(p)}
    say(options, values, *notes, *p.sentences, *warned(p), *grows, *names_of(paths))
    return OK


def _named_again(words: str, picture: np.ndarray, solid: np.ndarray, pack: Pack) -> list[str]:
    """A warning where the words name what is held: it would grow on."""
    finder = finder_of(pack)
    held = set(covered(picture, solid.astype(np.float32), pack))
    named = {finder.labels[i] for phrase in words.split(",") for i in finder.labels_of(phrase.strip())}
    return [f"Warning: the words name “{name}”, which is held: it may grow on, or come twice." for name in sorted(held & named)]
