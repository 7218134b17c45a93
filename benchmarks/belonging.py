"""Things of one unseen scene laid into another: how far their colours are from those round them (CIEDE2000), and how visible their edge
is, before and after matching, without a seam, with both, and all of it after a light rework of the whole.

Needs the training packages. `python benchmarks/belonging.py [--things N] [--pack DIR] [--judge DIR]`
"""

from __future__ import annotations

import argparse
import itertools
import sys
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
from machine import begun
from scipy import ndimage
from skimage import color
from unseen import SIDE, as_sheet, things_of, unseen, words_of

from waldrand.core.packs import Pack
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.picture.matching import seam
from waldrand.core.values.belonging import belonging
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.sheet import Sheet

WAYS = (("as it is", 0.0, 0.0), ("match 0.5", 0.5, 0.0), ("match 1", 1.0, 0.0), ("no seam", 0.0, 1.0), ("match 0.5, no seam", 0.5, 1.0))


#: The strength at which all is pulled together.
SETTLED = 0.25


def apart(pixels: np.ndarray, solid: np.ndarray) -> float:
    """The distance of mean colours just inside and just outside, CIEDE2000."""
    lab = color.rgb2lab(pixels[..., :3])
    near = ndimage.binary_dilation(solid, iterations=12) & ~ndimage.binary_dilation(solid, iterations=1)
    rim = solid & ~ndimage.binary_erosion(solid, iterations=12)
    return float(color.deltaE_ciede2000(lab[rim].mean(0), lab[near].mean(0)))


def settled(sheet: Sheet, pack: Pack, seed: int) -> np.ndarray:
    """All of it reworked lightly."""
    settings = PassSettings(steps=pack.info.steps, guidance=pack.info.guidance, seed=seed, strength=SETTLED)
    return run_take(plan(sheet, Request("rework", settings), pack), pack, seed).laid_on(sheet, "settled").flatten()


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--things", type=int, default=60)
    options, pack = begun(parser, lambda o: f"{o.things} things")
    rows: dict[str, list[tuple[float, float]]] = {}
    scenes = [scene for _, scene in unseen(options.things + 1, 800_000)]
    for i, (scene, below) in enumerate(itertools.pairwise(scenes)):
        parts = [p for p in things_of(scene) if 0.01 < p.mask.mean() < 0.3]
        if not parts:
            continue
        part = max(parts, key=lambda p: float(p.mask.mean()))
        alpha = np.clip(ndimage.zoom(part.mask, SIDE / part.mask.shape[0], order=1, grid_mode=True, mode="nearest"), 0, 1)
        over = np.dstack([scene.pixels, np.round(255 * alpha).astype(np.uint8)])
        sheet = as_sheet(below, words_of(below))
        sheet = sheet.with_layer(PictureLayer(sheet.next_key(), "thing", over))
        solid = alpha > 0.5
        for name, match, seamless in WAYS:
            made = belonging(sheet, sheet.layers[-1].key, match, seamless)
            pixels = made.flatten()
            rows.setdefault(name, []).append((apart(pixels, solid), seam(pixels, solid) or 1.0))
            if (match, seamless) in ((0.0, 0.0), (0.5, 1.0)):
                after = settled(made, pack, i)
                rows.setdefault(f"{name}, settled", []).append((apart(after, solid), seam(after, solid) or 1.0))
    print(f"{'':28s}  things   colour distance   seam")
    for name, values in rows.items():
        a = np.array(values)
        print(f"{name:28s} {len(a):6d} {a[:, 0].mean():14.1f} {a[:, 1].mean():10.2f}")


if __name__ == "__main__":
    main()
