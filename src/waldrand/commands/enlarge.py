"""waldrand enlarge: a picture made larger, its edges drawn anew."""

from __future__ import annotations

import argparse
from functools import partial
from pathlib import Path
from threading import Event

import numpy as np

from ..core.passes.enlarge import crisp
from ..core.passes.watch import Watch
from ..core.picture.resample import resize_picture
from ..core.refused import Refused
from ..core.values.layers import PictureLayer
from ..core.values.resize import scaled
from ..core.values.sheet import Sheet
from ..files.pictures import read_picture, write_png
from . import OK
from .options import pack_of, result_of, say, size_of, writes

HELP = "make a picture larger: the model draws its edges anew, and adds nothing else"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("picture", type=Path, metavar="PICTURE")
    size = p.add_mutually_exclusive_group(required=True)
    size.add_argument("--by", type=float, metavar="FACTOR", help="how many times as wide and high")
    size.add_argument("--size", metavar="WxH", help="pixels, like 2048x1536")
    p.add_argument("--smooth", action="store_true", help="without the model: edges get soft")
    p.add_argument("--out", type=Path, metavar="FILE.png", help="PNG to write (default: PICTURE-enlarge.png beside it)")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    picture = read_picture(options.picture)
    h, w = picture.pixels.shape[:2]
    if options.by is not None and not 0.01 <= options.by <= 64:
        raise Refused(f"--by goes from 0.01 to 64; {options.by:g} is outside.")
    width, height = (round(w * options.by), round(h * options.by)) if options.size is None else size_of(options.size)
    out = result_of(options, "enlarge")
    draw = resize_picture if options.smooth else partial(crisp, pack=pack_of(options), tick=Watch(stop=stop).check)
    pixels = scaled(Sheet(w, h, (PictureLayer(1, "picture", picture.pixels),)), width, height, draw).layers[0].shown
    clear = (pixels[..., 3] < 255).any()
    write_png(out, pixels if clear else np.ascontiguousarray(pixels[..., :3]))
    say(options, {"files": [str(out)], "size": [width, height]}, *picture.notes, f"{out}: {width} x {height}")
    return OK
