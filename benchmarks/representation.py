"""The way down to latents and up again: PSNR and edge gradient kept, against averaging and bicubic.

Needs the training packages (the world and scikit-image's photographs).
`python benchmarks/representation.py [--scenes N] [--pack DIR] [--exact]`
"""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

import numpy as np
from PIL import Image
from skimage import data as photographs

sys.path[:0] = [str(Path(__file__).parent), str(Path(__file__).parent.parent)]
from machine import describe

from training.fidelity import judged
from training.render import HELD_OUT, scene_rng
from training.world.scene import paint_scene
from waldrand.packs.onnx_pack import OnnxPack


def bicubic(x: np.ndarray) -> np.ndarray:
    h, w = x.shape[:2]
    small = np.round(x.reshape(h // 4, 4, w // 4, 4, 3).mean((1, 3)) * 255).astype(np.uint8)
    return np.asarray(Image.fromarray(small).resize((w, h), Image.Resampling.BICUBIC)).astype(np.float32) / 255


def report(name: str, pictures: list[np.ndarray], pack: OnnxPack) -> None:
    rows = []
    for picture in pictures:
        x = picture.astype(np.float32) / 255
        rows.append((*judged(pack.decode(pack.encode(x)), x), *judged(bicubic(x), x)))
    p, k, bp, bk = np.mean(rows, 0)
    print(f"{name:22s} {len(rows):5d}  {p:6.2f} {k:6.2f}   {bp:6.2f} {bk:6.2f}   {p - bp:+5.2f} dB {100 * (k - bk):+4.0f} points")


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
