"""Whether clothes get their colour, and heads do not: people who each stand alone on a meadow, in clothes of one colour each.

Painted twice: as is usual, and with clothes told all over (`clothes_apart` off). A pixel has the colour that its own is nearest to, in
OKLab, of those that the world paints with. Said: how much of the bodies (below the chin, down to where legs begin) and of the heads has the
colour of the clothes, and of how many people more than three tenths of the body has it.
`python benchmarks/clothes.py [--seeds N] [--save DIR] [--pack DIR]`
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

from training.world.words import COLOURS
from waldrand.core.packs import Pack
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.picture.cutting import oklab
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.outline import Outline, rasterise
from waldrand.core.values.sheet import Sheet

SIDE = 512
SAID = ("red", "blue", "green", "yellow", "purple", "orange", "white", "turquoise")
WEARERS = (("woman", "coat"), ("man", "shirt"), ("girl", "dress"), ("boy", "jacket"))
PLACE = (170.0, 60.0, 340.0, 490.0)
#: Of what is below the chin, how much is body, and not legs; and from which share on one sees that something has a colour.
BODY, SEEN = 0.55, 0.3


def nearest(pixels: np.ndarray) -> np.ndarray:
    """Of each pixel of (H, W, 3) uint8, which of the world's colours is nearest."""
    paints = oklab(np.array([list(COLOURS.values())], np.float32) / 255)[0]
    lab = oklab(pixels.astype(np.float32) / 255)
    return np.array(list(COLOURS))[np.linalg.norm(lab[:, :, None] - paints, axis=-1).argmin(-1)]


def seen(words: str, colour: str, seed: int, apart: bool, pack: Pack) -> tuple[np.ndarray, float, float]:
    """What is painted, and how much of body and head has the colour."""
    sheet = Sheet(SIDE, SIDE, elements=(Element(1, "one", Outline("box", PLACE), words),), scene=SceneWords("clear day, meadow"))
    p = plan(sheet, Request("compose", PassSettings(seed=seed, clothes_apart=apart)), pack)
    pixels = run_take(p, pack, seed).pixels[..., :3]
    (shape,) = p.stages[0].shapes.values()
    whole = rasterise(shape, sheet.rect, SIDE, SIDE) > 0.5
    chin = shape.box[1] + shape.below * (shape.box[3] - shape.box[1])
    rows = np.arange(SIDE)[:, None] + 0.5
    body = whole & (rows > chin) & (rows < chin + BODY * (shape.box[3] - chin))
    of_it = nearest(pixels) == colour
    return pixels, float(of_it[body].mean()), float(of_it[whole & (rows < chin)].mean())


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seeds", type=int, default=1)
    parser.add_argument("--save", type=Path, help="both ways side by side, for each")
    options, pack = begun(parser, lambda o: f"{len(WEARERS) * len(SAID) * o.seeds} people")
    found: dict[bool, list[tuple[float, float]]] = {True: [], False: []}
    people = list(itertools.product(range(options.seeds), WEARERS, SAID))
    for seed, (who, garment), colour in people:
        both = []
        for apart, shares in found.items():
            pixels, *parts = seen(f"{who}, {colour} {garment}", colour, seed, apart, pack)
            shares.append((parts[0], parts[1]))
            both.append(pixels)
        if options.save is not None:
            options.save.mkdir(parents=True, exist_ok=True)
            Image.fromarray(np.concatenate(both, 1)).save(options.save / f"{who}-{colour}-{seed}.png")
    for apart, shares in found.items():
        (body, head), bodies = np.mean(shares, 0), sum(of_body > SEEN for of_body, _ in shares)
        print(f"clothes told {'below the head' if apart else 'all over'}, of their colour: ", end="")
        print(f"bodies {body:.3f}, {bodies} of {len(people)}; heads {head:.3f}")


if __name__ == "__main__":
    main()
