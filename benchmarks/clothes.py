"""Whether clothes get their colour, and heads do not: people who each stand alone on a meadow, in clothes of one colour each.

Painted twice: as is usual, and with clothes told all over (`clothes_apart` off). Counted, by the finder, of all colours in a place: those
whose body is most likely of the said colour, and those whose head is.
`python benchmarks/clothes.py [--seeds N] [--save DIR] [--pack DIR] [--judge DIR]`
"""

from __future__ import annotations

import argparse
import itertools
import sys
from pathlib import Path

import numpy as np
from PIL import Image

sys.path.insert(0, str(Path(__file__).parent))
from machine import begun

from waldrand.core.packs import Pack
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.picture.resample import resize_mask
from waldrand.core.seen.find import finder_of, looked
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.outline import Outline, rasterise
from waldrand.core.values.sheet import Sheet

SIDE = 512
COLOURS = ("red", "blue", "green", "yellow", "purple", "orange", "white", "turquoise")
WEARERS = (("woman", "coat"), ("man", "shirt"), ("girl", "dress"), ("boy", "jacket"))
PLACE = (170.0, 60.0, 340.0, 490.0)


def seen(words: str, colour: str, seed: int, apart: bool, pack: Pack) -> tuple[np.ndarray, bool, bool]:
    """What is painted, and whether body and head are most likely of the colour."""
    sheet = Sheet(SIDE, SIDE, elements=(Element(1, "one", Outline("box", PLACE), words),), scene=SceneWords("clear day, meadow"))
    p = plan(sheet, Request("compose", PassSettings(seed=seed, clothes_apart=apart)), pack)
    pixels = run_take(p, pack, seed).pixels[..., :3]
    (shape,) = p.stages[0].shapes.values()
    finder, (maps, _) = finder_of(pack), looked(pixels, pack)
    whole = resize_mask(rasterise(shape, sheet.rect, SIDE, SIDE), *maps.shape[1:])
    chin = (shape.box[1] + shape.below * (shape.box[3] - shape.box[1])) / SIDE * maps.shape[1]
    lower = np.clip(np.arange(1, maps.shape[1] + 1) - chin, 0, 1)[:, None]
    colours = [label for label in finder.labels if label in finder.colours]
    of_colours = maps[[finder.labels.index(label) for label in colours]]
    body, head = (colours[int((of_colours * whole * part).sum((1, 2)).argmax())] == colour for part in (lower, 1 - lower))
    return pixels, body, head


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seeds", type=int, default=1)
    parser.add_argument("--save", type=Path, help="both ways side by side, for each")
    options, pack = begun(parser, lambda o: f"{len(WEARERS) * len(COLOURS) * o.seeds} people")
    counts = {apart: [0, 0] for apart in (True, False)}
    people = list(itertools.product(range(options.seeds), WEARERS, COLOURS))
    for seed, (who, garment), colour in people:
        both = []
        for apart, count in counts.items():
            pixels, body, head = seen(f"{who}, {colour} {garment}", colour, seed, apart, pack)
            count[0] += body
            count[1] += head
            both.append(pixels)
        if options.save is not None:
            options.save.mkdir(parents=True, exist_ok=True)
            Image.fromarray(np.concatenate(both, 1)).save(options.save / f"{who}-{colour}-{seed}.png")
    for apart, (bodies, heads) in counts.items():
        told = "below the head" if apart else "all over"
        print(f"clothes told {told:15s} bodies of their colour {bodies} of {len(people)}, heads of it {heads} of {len(people)}")


if __name__ == "__main__":
    main()
