"""The way down to latents and up again: PSNR and edge gradient kept, against averaging and bicubic.

Each picture at its own size, then as the app takes a sheet that it reworks lightly: scaled to the size that the pack computes
such sheets at, and back. Averaging and bicubic go the same way each time.

Needs the training packages (the world and scikit-image's photographs).
`python benchmarks/representation.py [--scenes N] [--pack DIR] [--exact]`
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PIL import Image
from skimage import data as photographs

sys.path[:0] = [str(Path(__file__).parent), str(Path(__file__).parent.parent)]
from machine import describe

from training.fidelity import judged
from training.render import HELD_OUT, averaged, scene_rng
from training.world.scene import paint_scene
from waldrand.core.picture.resample import resize_picture
from waldrand.core.values.frame import whole_frame
from waldrand.packs.onnx_pack import OnnxPack

#: Pictures (H, W, 3) in 0..1 to others as large.
Way = Callable[[np.ndarray], np.ndarray]


def bicubic(x: np.ndarray) -> np.ndarray:
    h, w = x.shape[:2]
    small = np.round(averaged(x, 4) * 255).astype(np.uint8)
    return np.asarray(Image.fromarray(small).resize((w, h), Image.Resampling.BICUBIC)).astype(np.float32) / 255


def computed_larger(x: np.ndarray, pack: OnnxPack, way: Way) -> np.ndarray:
    """A way down and up again at the size at which the pack computes a sheet like this one, and back to its own."""
    h, w = x.shape[:2]
    frame = whole_frame(w, h, pack.info.limits.placed)
    return resize_picture(way(resize_picture(x, frame.height, frame.width)), h, w)


def report(name: str, pictures: list[np.ndarray], pack: OnnxPack) -> None:
    def there_and_back(x: np.ndarray) -> np.ndarray:
        return pack.decode(pack.encode(x))

    rows = []
    for picture in pictures:
        x = picture.astype(np.float32) / 255
        made = [there_and_back(x), bicubic(x), *(computed_larger(x, pack, way) for way in (there_and_back, bicubic))]
        rows.append([judged(m, x) for m in made])
    of_pack, plain, larger, plain_larger = np.mean(rows, 0)
    for said, a, b in ((name, of_pack, plain), ("  as reworked", larger, plain_larger)):
        (p, k), (bp, bk) = a, b
        print(f"{said:22s} {len(rows):5d}  {p:6.2f} {k:6.1%}   {bp:6.2f} {bk:6.1%}   {p - bp:+5.2f} dB {100 * (k - bk):+4.0f} points")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--scenes", type=int, default=100)
    parser.add_argument("--pack", type=Path, help="another pack than the installed one")
    parser.add_argument("--exact", action="store_true", help="in full precision, also where the processor has units for eight bits")
    options = parser.parse_args()
    pack = OnnxPack(options.pack, exact=options.exact)
    print(f"{describe()}; pack {pack.info.version}")
    print("pictures               count   pack: dB, kept   bicubic: dB, kept   difference")
    # Scenes beyond those the training's own validation looks at.
    report("unseen scenes", [paint_scene(scene_rng(HELD_OUT + 500_000 + i), 512).pixels for i in range(options.scenes)], pack)
    shots = []
    for name in ("astronaut", "chelsea", "coffee", "rocket"):
        shot = getattr(photographs, name)()
        h, w = (v // 64 * 64 for v in shot.shape[:2])
        shots.append(shot[:h, :w, :3])
    report("photographs", shots, pack)


if __name__ == "__main__":
    main()
