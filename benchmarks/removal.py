"""Things taken away from photographs: holes made in those that scikit-image ships, filled from the picture itself (copied patches), by
smooth colours (push and pull), and by the biharmonic equation. How near to what was there (PSNR inside), how visible the edge is (1: as
anywhere else), and how much of its roughness is there (its gradient against what was there; smooth fills have none).

Needs the training packages. `python benchmarks/removal.py [--holes N]`
"""

from __future__ import annotations

import argparse
import sys
import time
from collections import defaultdict
from collections.abc import Callable
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
from machine import describe
from scipy import ndimage
from skimage import data
from skimage.restoration import inpaint_biharmonic

from waldrand.core.picture.fills import filled
from waldrand.core.picture.matching import seam
from waldrand.core.picture.resample import resize_picture

PHOTOGRAPHS = ("astronaut", "chelsea", "coffee", "rocket")
SIDE = 384
#: Of a picture with a hole, what of it is known, and a seed.
WAYS: dict[str, Callable[[np.ndarray, np.ndarray, int], np.ndarray]] = {
    "copied patches": lambda p, known, seed: filled(p, known, "patches", seed),
    "push and pull": lambda p, known, seed: filled(p, known, "smooth", seed),
    "biharmonic": lambda p, known, seed: inpaint_biharmonic(p, known == 0, channel_axis=-1),
}


def hole(rng: np.random.Generator) -> np.ndarray:
    """An ellipse of a 300th to a 30th of the picture, away from its rim, (SIDE, SIDE) bool."""
    a, b = rng.uniform(16, 40, 2)
    x, y = rng.uniform(60, SIDE - 60, 2)
    yy, xx = np.mgrid[:SIDE, :SIDE]
    return np.asarray(((xx - x) / a) ** 2 + ((yy - y) / b) ** 2 < 1)


def psnr(a: np.ndarray, b: np.ndarray) -> float:
    return float(-10 * np.log10(max(1e-9, float(((a - b) ** 2).mean()))))


def rough(picture: np.ndarray, where: np.ndarray) -> float:
    grey = picture.mean(-1)
    return float(np.hypot(ndimage.sobel(grey, 0), ndimage.sobel(grey, 1))[where].mean())


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--holes", type=int, default=40)
    options = parser.parse_args()
    print(describe())
    rows: dict[str, list[tuple[float, float, float, float]]] = defaultdict(list)
    for i in range(options.holes):
        picture = getattr(data, PHOTOGRAPHS[i % len(PHOTOGRAPHS)])()[..., :3]
        picture = np.clip(resize_picture(picture.astype(np.float32) / 255, SIDE, SIDE), 0, 1)
        gone = hole(np.random.default_rng(i))
        known = np.where(gone, 0, 1).astype(np.float32)
        deep = ndimage.binary_erosion(gone, iterations=4)
        for name, fill in WAYS.items():
            begun = time.perf_counter()
            holed = np.where(gone[..., None], 0, picture).astype(np.float32)
            made = np.where(gone[..., None], np.clip(fill(holed, known, i), 0, 1), picture)
            took = time.perf_counter() - begun
            edge = seam(np.round(255 * made).astype(np.uint8), gone) or 1.0
            rows[name].append((psnr(made[gone], picture[gone]), edge, rough(made, deep) / max(1e-6, rough(picture, deep)), took))
    print(f"{'':18s} PSNR dB     seam   roughness (median)   against the quickest")
    least = min(float(np.mean([v[3] for v in values])) for values in rows.values())
    for name, values in rows.items():
        a = np.array(values)
        print(f"{name:18s} {a[:, 0].mean():7.1f} {a[:, 1].mean():8.2f} {np.median(a[:, 2]):20.2f} {a[:, 3].mean() / least:22.1f}")


if __name__ == "__main__":
    main()
