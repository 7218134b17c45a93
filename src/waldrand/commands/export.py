"""waldrand export: a sheet or a picture given away in other formats, sizes and names."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event
from typing import Any

import numpy as np

from ..core.refused import Refused
from ..files.exporting import ENDINGS, About, export_picture, named
from ..files.formats import open_file
from ..files.opened import Opened
from . import OK
from .options import folder_of, names_of, refuse_existing, say, size_of, writes

HELP = "write a sheet's picture, its layers, its mask or its takes as PNG, JPEG, TIFF or WebP"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("file", type=Path, metavar="FILE", help="a sheet or a picture")
    p.add_argument("--to", choices=tuple(ENDINGS), default="png", help="the format (default: png)")
    p.add_argument("--layers", action="store_true", help="each layer by itself, in its place on the sheet, instead of the picture")
    p.add_argument("--takes", action="store_true", help="every take of the sheet, as it would leave it, instead of the picture")
    p.add_argument("--mask", action="store_true", help="the mask and all kept masks instead of the picture")
    p.add_argument("--size", metavar="WxH", help="scaled to this size")
    for name in ("title", "author", "rights", "description"):
        p.add_argument(f"--{name}", default="", help="written into the file")
    p.add_argument("--names", metavar="PATTERN", help="of {sheet}, {kind}, {seed} and {n} (default: {sheet}, for several {sheet}-{n})")
    p.add_argument("--out", type=Path, required=True, metavar="DIR", help="folder to write into")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    if sum((options.layers, options.takes, options.mask)) > 1:
        raise Refused("Choose one of --layers, --takes and --mask.")
    opened = open_file(options.file)
    size = None if options.size is None else size_of(options.size)
    things = _things(opened, options)
    pattern = options.names or ("{sheet}" if len(things) == 1 else "{sheet}-{n}")
    listed = [{"sheet": options.file.stem, "n": i + 1} | about for i, (_, about) in enumerate(things)]
    names = named(pattern, ENDINGS[options.to], listed)
    folder = folder_of(options.out)
    paths = [folder / name for name in names]
    refuse_existing(paths, options.force)
    about = About(options.title, options.author, options.rights, options.description)
    for path, (pixels, _) in zip(paths, things, strict=True):
        export_picture(path, pixels, options.to, size, about)
    say(options, {"files": names_of(paths)}, *opened.notes, *names_of(paths))
    return OK


def _things(opened: Opened, options: argparse.Namespace) -> list[tuple[np.ndarray, dict[str, Any]]]:
    """The pictures that are written, (H, W, 4) uint8, each with what its name may say."""
    sheet = opened.sheet
    if options.layers:
        out = []
        for layer in sheet.layers:
            alone = np.zeros((sheet.height, sheet.width, 4), np.uint8)
            layer.lay_on(alone, sheet.rect)
            out.append((alone, {"kind": layer.name, "seed": (layer.recipe or {}).get("settings", {}).get("seed", 0)}))
        if not out:
            raise Refused("The sheet has no layers.")
        return out
    if options.takes:
        if not opened.takes:
            raise Refused("The sheet has no takes.")
        return [(s.take.laid_on(sheet, "take").flatten(), {"kind": s.take.recipe["kind"], "seed": s.take.seed}) for s in opened.takes]
    if options.mask:
        masks = [] if sheet.mask is None or sheet.mask.empty else [("mask", sheet.mask)]
        masks += [(area.name, area.mask) for area in sheet.areas]
        if not masks:
            raise Refused("The sheet has no mask.")
        greys = [(name, mask.read()) for name, mask in masks]
        return [(np.dstack([g, g, g, np.full_like(g, 255)]), {"kind": name, "seed": 0}) for name, g in greys]
    if not sheet.has_picture:
        raise Refused("There is no picture on the sheet.")
    return [(sheet.flatten(), {"kind": "picture", "seed": 0})]
