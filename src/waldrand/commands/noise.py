"""waldrand noise: coloured noise laid into a picture, for a pass to turn into things."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

import numpy as np

from ..core.noise.noise import LARGEST_SEED
from ..core.picture.fills import tinted_noise
from ..core.refused import Refused
from ..core.values.lettering import colour_of
from ..files.layout import fitted_mask
from ..files.pictures import read_grey, read_picture, write_png
from . import OK
from .options import refuse_existing, say, scales_masks, writes

HELP = "lay seeded coloured noise into a picture under a mask: a rework at low strength turns it into things"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("picture", type=Path, metavar="PICTURE")
    p.add_argument("--mask", type=Path, required=True, help="grey picture: white gets the noise, grey partly")
    scales_masks(p)
    p.add_argument("--tint", default="#808080", metavar="#RRGGBB", help="the colour it lies round (default: grey)")
    p.add_argument("--lightness", type=float, default=0.0, help="-1 (darker) to 1 (lighter)")
    p.add_argument("--amount", type=float, default=0.5, help="0 (the tint alone) to 1")
    p.add_argument("--grain", type=float, default=6.0, help="how coarse it is, in pixels")
    p.add_argument("--seed", type=int, default=0)
    p.add_argument("--out", type=Path, required=True, metavar="FILE.png")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    refuse_existing([options.out], options.force)
    tint = colour_of(options.tint)
    for name, least, most in (("lightness", -1, 1), ("amount", 0, 1), ("grain", 0, 500), ("seed", 0, LARGEST_SEED)):
        if not least <= getattr(options, name) <= most:
            raise Refused(f"--{name} goes from {least} to {most}; {getattr(options, name)} is outside.")
    picture = read_picture(options.picture)
    pixels = picture.pixels
    h, w = pixels.shape[:2]
    share = fitted_mask(read_grey(options.mask), w, h, str(options.mask), options.scale_mask).astype(np.float32)[..., None] / 255
    noise = tinted_noise((h, w), tint, options.lightness, options.amount, options.seed, options.grain)
    mixed = (share * noise + (1 - share) * pixels[..., :3]) / 255
    out = pixels.copy()
    out[..., :3] = np.where(share > 0, np.round(mixed * 255), pixels[..., :3])
    out[..., 3] = np.where(share[..., 0] > 0, np.maximum(pixels[..., 3], np.round(share[..., 0] * 255)), pixels[..., 3])
    write_png(options.out, out)
    say(options, {"file": str(options.out)}, *picture.notes, str(options.out))
    return OK
