"""Things of one unseen scene laid into another: how far their colours are from those round them (in Oklab), and how
visible their edge is, before and after matching, without a seam, and with both.

Needs the training packages. `python benchmarks/belonging.py [--things N]`
"""

from __future__ import annotations

import argparse
import itertools
import sys
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
from machine import describe
from scipy import ndimage
from unseen import SIDE, things_of, unseen

from waldrand.core.picture.cutting import oklab
from waldrand.core.values.belonging import belonging, seam_of
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.sheet import Sheet

WAYS = (("as it is", 0.0, 0.0), ("match 0.5", 0.5, 0.0), ("match 1", 1.0, 0.0), ("no seam", 0.0, 1.0), ("match 0.5, no seam", 0.5, 1.0))


def apart(sheet: Sheet, solid: np.ndarray) -> float:
    """A hundred times the distance of mean colours just inside and just outside, in Oklab."""
    lab = oklab(sheet.flatten()[..., :3].astype(np.float32) / 255)
    near = ndimage.binary_dilation(solid, iterations=12) & ~ndimage.binary_dilation(solid, iterations=1)
    rim = solid & ~ndimage.binary_erosion(solid, iterations=12)
    return 100 * float(np.linalg.norm(lab[rim].mean(0) - lab[near].mean(0)))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--things", type=int, default=60)
    options = parser.parse_args()
    print(describe())
    rows: dict[str, list[tuple[float, float]]] = {}
    scenes = [scene for _, scene in unseen(options.things + 1, 800_000)]
    for scene, below in itertools.pairwise(scenes):
        parts = [p for p in things_of(scene) if 0.01 < p.mask.mean() < 0.3]
        if not parts:
            continue
        part = max(parts, key=lambda p: float(p.mask.mean()))
        alpha = np.clip(ndimage.zoom(part.mask, SIDE / part.mask.shape[0], order=1, grid_mode=True, mode="nearest"), 0, 1)
        over = np.dstack([scene.pixels, np.round(255 * alpha).astype(np.uint8)])
        ground = np.dstack([below.pixels, np.full((SIDE, SIDE), 255, np.uint8)])
        sheet = Sheet(SIDE, SIDE, (PictureLayer(1, "ground", ground), PictureLayer(2, "thing", over)))
        solid = alpha > 0.5
        for name, match, seamless in (
            ("as it is", 0, 0),
            ("match 0.5", 0.5, 0),
            ("match 1", 1, 0),
            ("no seam", 0, 1),
            ("match 0.5, no seam", 0.5, 1),
        ):
            made = belonging(sheet, 2, match, seamless)
            rows.setdefault(name, []).append((apart(made, solid), seam_of(made, 2) or 1.0))
    print(f"{'':20s}  things   colour distance   seam")
    for name, values in rows.items():
        a = np.array(values)
        print(f"{name:20s} {len(a):6d} {a[:, 0].mean():14.1f} {a[:, 1].mean():10.2f}")


if __name__ == "__main__":
    main()
