"""A pass of any kind on a picture: what all of them have in common, and the whole command of a kind that has no module of its own."""

from __future__ import annotations

import argparse
from dataclasses import replace
from pathlib import Path
from threading import Event

import numpy as np

from ..core.passes.kind import Kind
from ..core.passes.plan import plan
from ..core.passes.recipe import picture_recipe
from ..core.passes.run import run
from ..core.passes.settings import PassSettings
from ..files.pictures import write_png
from . import OK
from .options import (
    forecast_values,
    pack_of,
    picture_sheet,
    progress_of,
    request_of,
    result_of,
    say,
    says,
    scales_masks,
    sets,
    tells,
    warned,
    with_guides,
    with_mask,
    writes,
)


def add(p: argparse.ArgumentParser, kind: Kind) -> None:
    p.add_argument("picture", type=Path, metavar="PICTURE")
    says(p)
    if kind.masked:
        p.add_argument("--mask", type=Path, required=True, help="grey picture: white is repainted, grey partly")
        scales_masks(p)
        p.add_argument("--feather", type=float, help="width of the edge in pixels, inside the mask")
    tells(p)
    sets(p, kind.fields(), needed=("strength",))
    p.add_argument("--out", type=Path, metavar="FILE", help=f"PNG to write (default: PICTURE-{kind.name}.png beside it)")
    p.add_argument("--with-input", action="store_true", help="store the start picture in the PNG, so that it repeats by itself")
    writes(p)


def act(options: argparse.Namespace, stop: Event, kind: Kind) -> int:
    sheet, notes = picture_sheet(options.picture, options.scene)
    before = sheet.flatten()
    sheet, more = with_guides(sheet, options)
    notes = (*notes, *more)
    if kind.masked:
        sheet = with_mask(sheet, options)
    request = request_of(kind, PassSettings(strength=kind.begins), options)
    out, pack = result_of(options, kind.name), pack_of(options)
    p = plan(sheet, request, pack)
    take = next(run(p, pack, 1, progress_of(options), stop))
    patch = take.to_patch(2, request.words or kind.name)
    if getattr(options, "feather", None) is not None:
        patch = replace(patch, feather=max(0.0, options.feather))
    done = sheet.with_layer(patch)
    pixels = done.flatten()
    changed = int(np.abs(pixels.astype(int) - before).max())
    write_png(out, pixels, picture_recipe(done), before if options.with_input else None)
    values = {"file": str(out), "forecast": forecast_values(p), "greatest_change": changed}
    say(options, values, *notes, *p.sentences, *warned(p), str(out))
    return OK
