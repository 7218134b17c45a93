"""Which kinds of things the model can paint: each by itself where it belongs, several takes, told by the pack's finder.

A kind counts when the finder sees it inside its outline in nine of ten takes. The finder errs too, so a kind that does not count
is either not painted or not told; `python -m training.judge_finder` says how well it tells drawn ones.
Needs the training packages. `python benchmarks/kinds.py [--takes N] [--kinds NAME ...] [--no-figures] [--save DIR]
[--pack DIR] [--judge DIR] [--guided LEAST GREATEST] [--lead-kept LEVELS]`
"""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

import numpy as np
from PIL import Image

sys.path[:0] = [str(Path(__file__).parent), str(Path(__file__).parent.parent)]
from layouts import Layout
from machine import begun

from training.world.things import THINGS, Thing
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.seen.score import placement

COUNTS = 0.9
#: By where a thing may be: words of the whole, and how far down its lower edge lies, in hundredths.
BELONGS = {
    "land": ("clear day, meadow", 92),
    "water": ("clear day, lake", 88),
    "shore": ("clear day, beach", 90),
    "sky": ("clear day, meadow, hills", 45),
    "snow": ("clear day, snow field", 92),
    "street": ("clear day, street, town", 92),
    "field": ("clear day, field", 92),
    "wall": ("room, clear day, wall, floor", 50),
    "floor": ("room, clear day, wall, floor", 92),
    "rug": ("room, clear day, wall, floor", 95),
    "top": ("still life, wall, tabletop", 85),
}
NIGHTLY = ("moon", "crescent moon")


def alone(thing: Thing, number: int) -> Layout:
    """A layout of the thing alone, near by, in one of three places across."""
    scene, bottom = BELONGS[thing.places[0]]
    if thing.name in NIGHTLY:
        scene = scene.replace("clear day", "starry night")
    height = float(np.clip(100 * thing.size, 22, min(75, bottom - 4)))
    width = float(np.clip(2 * thing.half_width * height, 14, 80))
    middle = (50, 32, 66)[number % 3]
    left = float(np.clip(middle - width / 2, 3, 97 - width))
    return Layout(scene, ((thing.name, left, bottom - height, left + width, bottom),))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--takes", type=int, default=10)
    parser.add_argument("--kinds", nargs="+", choices=sorted(THINGS), default=list(THINGS), metavar="NAME")
    parser.add_argument("--no-figures", dest="figures", action="store_false", help="outlines only say where")
    parser.add_argument("--save", type=Path, help="a strip of takes for each kind")
    options, pack = begun(parser, lambda o: f"{o.takes} takes of each kind{'' if o.figures else ', no figures'}")
    rows = []
    for name in options.kinds:
        strip, landed = [], 0
        for i in range(options.takes):
            sheet = alone(THINGS[name], i).sheet()
            take = run_take(plan(sheet, Request("compose", PassSettings(figures=options.figures)), pack), pack, i)
            landed += placement(take.pixels, sheet, pack)[0].landed
            strip.append(take.pixels)
        if options.save:
            options.save.mkdir(parents=True, exist_ok=True)
            Image.fromarray(np.hstack(strip)[::2, ::2]).save(options.save / f"{name.replace(' ', '-')}.png")
        rows.append((landed / options.takes, name))
        print(f"{name:16s} {landed:3d} of {options.takes}", flush=True)
    print(f"{sum(share >= COUNTS for share, _ in rows)} of {len(rows)} kinds count; all takes {100 * np.mean([s for s, _ in rows]):.0f} %")
    print("weakest: " + ", ".join(f"{name} {share:.0%}" for share, name in sorted(rows)[:15]))


if __name__ == "__main__":
    main()
