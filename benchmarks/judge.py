"""How many things of true scenes the judge of placement counts as landed: no painter can be seen to place better than that.

Unseen scenes as they were rendered, each thing with the box round it as its outline and its own words; by the box's size. Then the
same boxes with other words: of the kinds that the scene does not show, the one that the finder sees there most.
Needs the training packages. `python benchmarks/judge.py [--scenes N] [--pack DIR] [--judge DIR]`
"""

from __future__ import annotations

import argparse
import sys
from collections import defaultdict
from dataclasses import replace
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
from machine import begun
from placement import failing, share
from quality import as_layout
from unseen import SIDE, unseen

from waldrand.core.packs import Finder
from waldrand.core.seen.find import finder_of, thing_labels
from waldrand.core.seen.score import placement
from waldrand.core.values.element import Element
from waldrand.core.values.outline import rasterise
from waldrand.core.values.sheet import Sheet

#: Sides of a square as large as the box, in hundredths of the sheet's: less than each, and what is larger.
SIZES = (12, 20, 30, 45)


def size_of(element: Element) -> str:
    """Which of the sizes a box is."""
    x0, y0, x1, y1 = element.outline.box
    side = 100 * ((x1 - x0) * (y1 - y0)) ** 0.5 / SIDE
    return next((f"under {most} %" for most in SIZES if side < most), f"{SIZES[-1]} % and more")


def misnamed(pixels: np.ndarray, sheet: Sheet, finder: Finder) -> Sheet:
    """The sheet with each element called what it is most easily taken for, of the things that no element is."""
    maps, _ = finder.look(pixels.astype(np.float32) / 255)
    here = {label for e in sheet.elements for label in finder.labels_of(e.words)}
    others = [i for i in thing_labels(finder) if i not in here]
    out = []
    for e in sheet.elements:
        inside = rasterise(e.outline, sheet.rect, *maps.shape[1:])
        alike = max(others, key=lambda i: float((maps[i] * inside).max()))
        out.append(replace(e, words=finder.labels[alike]))
    return replace(sheet, elements=tuple(out))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--scenes", type=int, default=600)
    options, pack = begun(parser, lambda o: f"{o.scenes} unseen scenes")
    finder = finder_of(pack)
    by_size: dict[str, list[bool]] = defaultdict(list)
    by_kind: dict[str, list[bool]] = defaultdict(list)
    mistaken: list[bool] = []
    for _, scene in unseen(options.scenes, 400_000):
        sheet = as_layout(scene)
        for score in placement(scene.pixels, sheet, pack):
            element = sheet.element(score.key)
            by_size[size_of(element)].append(score.landed)
            by_kind[finder.labels[finder.labels_of(element.words)[0]]].append(score.landed)
        mistaken += [score.landed for score in placement(scene.pixels, misnamed(scene.pixels, sheet, finder), pack)]
    for size in (*(f"under {most} %" for most in SIZES), f"{SIZES[-1]} % and more"):
        if by_size[size]:
            print(f"side {size:14s} {share(by_size[size])}")
    print(f"all                 {share([x for landed in by_size.values() for x in landed])}")
    print(f"called something else {share(mistaken)}")
    print(f"failing: {failing(by_kind, 30)}")


if __name__ == "__main__":
    main()
