"""Pictures that are not of the world, for the enlarger: photographs that scikit-image ships, and dead leaves."""

from __future__ import annotations

from importlib.resources import files

import numpy as np
import skia
from PIL import Image

from .world.pen import Pen

#: Photographs the enlarger is trained on; those the benchmark judges (astronaut, chelsea, coffee, rocket) are not among them.
PHOTOGRAPHS = (
    *("motorcycle_left.png", "motorcycle_right.png", "brick.png", "grass.png", "gravel.png", "camera.png", "coins.png", "moon.png"),
    *("ihc.png", "retina.jpg", "hubble_deep_field.jpg", "page.png"),
)


def photographs() -> list[np.ndarray]:
    """Each (H, W, 3) uint8, and again at half its size, where edges are sharper."""
    out = []
    for name in PHOTOGRAPHS:
        with Image.open(str(files("skimage") / "data" / name)) as image:
            rgb = image.convert("RGB")
            out.append(np.asarray(rgb))
            if min(rgb.size) >= 400:
                out.append(np.asarray(rgb.resize((rgb.width // 2, rgb.height // 2), Image.Resampling.BOX)))
    return out


def dead_leaves(rng: np.random.Generator, size: int = 512, leaves: int = 700) -> np.ndarray:
    """Overlapping shapes of all sizes and colours with a little grain, (size, size, 3) uint8.

    Their sizes follow a power law, so that edges and flats are as in photographs (Lee, Mumford and Huang 2001).
    """
    surface = skia.Surface(size, size)
    with surface as canvas:
        pen = Pen(canvas)
        canvas.clear(skia.ColorGRAY)
        tone = rng.uniform(40, 215, 3)
        for _ in range(leaves):
            r = 3.0 * (rng.random() * (1 - (3 / 160) ** 2) + (3 / 160) ** 2) ** -0.5
            x, y = rng.uniform(0, size, 2)
            colour = tuple(float(v) for v in np.clip(rng.normal(tone, 60), 0, 255))
            if rng.random() < 0.5:
                pen.oval(x, y, r, r * rng.uniform(0.3, 1), colour)
            else:
                n, turn = int(rng.integers(3, 7)), rng.uniform(0, 6.3)
                pen.poly([(x + r * np.cos(turn + 6.283 * i / n), y + r * np.sin(turn + 6.283 * i / n)) for i in range(n)], colour)
    pixels = surface.makeImageSnapshot().toarray()[..., [2, 1, 0]].astype(np.float32)
    return np.asarray(np.clip(pixels + rng.normal(0, rng.uniform(0, 6), pixels.shape), 0, 255), np.uint8)
