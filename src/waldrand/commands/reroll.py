"""waldrand reroll: a take painted again with other noise inside one element."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

from ..core.passes.recipe import picture_recipe
from ..core.passes.repeat import reroll
from ..files.pictures import read_start, write_png
from . import OK
from .options import inputs_of, pack_of, progress_of, recipe_in, refuse_existing, say, writes

HELP = "paint a take again with other noise inside one element; the others keep theirs"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("picture", type=Path, metavar="TAKE.png")
    p.add_argument("--element", required=True, metavar="N", help="by number, counted from 1, or by name")
    p.add_argument("--seed", type=int, help="seed of its noise (default: the next one)")
    p.add_argument("--nearer", action="store_true", help="paint it over in a frame of its own, so that a small thing gets many pixels")
    p.add_argument("--input", type=Path, action="append", default=[], metavar="FILE", help="the picture it was made from")
    p.add_argument("--out", type=Path, required=True, metavar="FILE.png")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    recipe = recipe_in(options.picture, "none of its elements can be painted again")
    refuse_existing([options.out], options.force)
    inputs, pack = inputs_of(options), pack_of(options)
    done, element, seed = reroll(recipe, pack, options.element, options.seed, inputs, progress_of(options), stop, options.nearer)
    write_png(options.out, done.flatten(), picture_recipe(done), read_start(options.picture))
    told = f"“{element.name}” was painted from nearer with seed {seed}." if options.nearer else f"“{element.name}” has seed {seed} now."
    say(options, {"file": str(options.out), "element": element.name, "seed": seed}, told, str(options.out))
    return OK
