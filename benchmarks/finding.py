"""How well things are found by their words in true scenes, and how many are described that are not there.

Unseen scenes as they were rendered; by how large a thing is. Found: the mask of `find` covers at least three tenths of it. IoU: of
the mask and the thing's true shape, at the masks' size. Named wrongly: kinds that `describe` names and the scene does not show.
Needs the training packages. `python benchmarks/finding.py [--scenes N] [--pack DIR] [--judge DIR]`
"""

from __future__ import annotations

import argparse
import sys
from collections import defaultdict
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
from machine import begun
from unseen import SIDE, things_of, unseen

from waldrand.core.picture.resample import resize_mask
from waldrand.core.seen.describe import describe
from waldrand.core.seen.find import find, finder_of

#: Sides of a square as large as the thing, in hundredths of the sheet's: less than each, and what is larger.
SIZES = (10, 20, 100)
ENOUGH = 0.3
#: Cells; of things smaller than this nothing is asked.
LEAST = 1.0


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--scenes", type=int, default=100)
    options, pack = begun(parser, lambda o: f"{o.scenes} unseen scenes")
    finder = finder_of(pack)
    by_size: dict[int, list[tuple[bool, float]]] = defaultdict(list)
    wrong = 0
    for _, scene in unseen(options.scenes, 400_000):
        shown: dict[str, np.ndarray] = {}
        for part in things_of(scene):
            shown[part.kind] = np.maximum(shown.get(part.kind, 0), part.mask)
        for kind, mask in shown.items():
            if mask.sum() < LEAST:
                continue
            true = resize_mask(mask, SIDE, SIDE) > 0.5
            seen = find(scene.pixels, kind, pack).mask > 127
            side = 100 * (mask.sum() / mask.size) ** 0.5
            overlap = float((true & seen).sum())
            by_size[next(s for s in SIZES if side < s)].append(
                (overlap >= ENOUGH * max(1, true.sum()), overlap / max(1, (true | seen).sum()))
            )
        said = {finder.labels[finder.labels_of(words)[0]] for words, *_ in describe(scene.pixels, pack).things}
        wrong += len(said - set(shown))
    for size, rows in sorted(by_size.items()):
        found, iou = np.mean(rows, 0)
        print(f"side under {size:3d} %: {len(rows):4d} things, {100 * found:5.1f} % found, IoU {iou:.2f}")
    print(f"named wrongly: {wrong / options.scenes:.2f} kinds a scene")


if __name__ == "__main__":
    main()
