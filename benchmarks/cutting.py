"""How well things are cut out of unseen scenes: overlap (IoU) with their true shapes, by words, by a click in their middle, and the whole
subject; with the finder's own coarse mask, looked at from nearer, fitted to the picture's colours, and with a soft edge; and by how much
their alpha is off within six pixels of the true edge.

Needs the training packages. `python benchmarks/cutting.py [--scenes N] [--pack DIR] [--judge DIR]`
"""

from __future__ import annotations

import argparse
import sys
from collections import defaultdict
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
from machine import begun
from scipy import ndimage
from unseen import FIRST, SIDE, things_of

from training.render import scene_rng
from training.world.scene import paint_scene
from waldrand.core.packs import Pack
from waldrand.core.picture.cutting import softened, told_by_colours
from waldrand.core.refused import Refused
from waldrand.core.seen.cut_out import ERRS, at_point, subject
from waldrand.core.seen.find import find, finder_of, from_nearer, thing_at

#: Cells of the finest true shapes a side, and the least of them that a thing has to fill.
FINE, LEAST = 16, 0.004


def overlap(a: np.ndarray, b: np.ndarray) -> float:
    return float((a & b).sum() / max(1, (a | b).sum()))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--scenes", type=int, default=100)
    options, pack = begun(parser, lambda o: f"{o.scenes} unseen scenes")
    rows: dict[str, list[float]] = defaultdict(list)
    for i in range(options.scenes):
        scene = paint_scene(scene_rng(FIRST + 700_000 + i), SIDE, fine=FINE)
        measure(scene, pack, rows)
    for name, values in rows.items():
        print(f"{name:28s} {len(values):4d}   mean {np.mean(values):.3f}   median {np.median(values):.3f}")


def measure(scene: object, pack: Pack, rows: dict[str, list[float]]) -> None:
    parts = things_of(scene)  # type: ignore[arg-type]
    pixels = scene.pixels  # type: ignore[attr-defined]
    shapes: dict[str, np.ndarray] = {}
    for part in parts:
        true = ndimage.zoom(part.mask, SIDE / part.mask.shape[0], order=1, grid_mode=True, mode="nearest") > 0.5
        shapes[part.kind] = shapes.get(part.kind, np.zeros_like(true)) | true
    for kind, true in shapes.items():
        if true.mean() < LEAST:
            continue
        coarse = find(pixels, kind, pack).mask / 255.0
        if (coarse > 0.5).any():
            nearer = from_nearer(pixels, coarse.astype(np.float32), finder_of(pack).labels_of(kind), pack)
            fit = told_by_colours(pixels, nearer, ERRS * SIDE)
            rows["words, from nearer"].append(overlap(nearer > 0.5, true))
            rows["words, as found"].append(overlap(coarse > 0.5, true))
            rows["words, fitted"].append(overlap(fit > 0.5, true))
            soft = softened(pixels, fit)
            rows["words, with a soft edge"].append(overlap(soft > 0.5, true))
            edge = ndimage.binary_dilation(true, iterations=6) & ~ndimage.binary_erosion(true, iterations=6)
            for name, alpha in (("as found", coarse), ("fitted, hard", (fit > 0.5).astype(float)), ("with a soft edge", soft)):
                rows[f"off at the edge, {name}"].append(float(np.abs(alpha - true)[edge].mean()))
        pieces, n = ndimage.label(true)
        if n:
            best = 1 + int(np.argmax(ndimage.sum_labels(true, pieces, range(1, n + 1))))
            deep = ndimage.distance_transform_edt(pieces == best)
            y, x = np.unravel_index(int(deep.argmax()), deep.shape)
            found = thing_at(pixels, float(x), float(y), pack)
            if found is not None:
                own = pieces == best
                rows["click, as found"].append(overlap(found.mask > 127, own))
                rows["click, cut out"].append(overlap(at_point(pixels, float(x), float(y), pack) > 0.5, own))
    whole = np.logical_or.reduce(list(shapes.values())) if shapes else np.zeros((SIDE, SIDE), bool)
    if whole.mean() >= LEAST:
        try:
            rows["subject"].append(overlap(subject(pixels, pack) > 0.5, whole))
        except Refused:
            rows["subject"].append(0.0)


if __name__ == "__main__":
    main()
