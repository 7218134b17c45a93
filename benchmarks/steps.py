"""How few steps do: seconds, placement and distance from rendered scenes by steps, guidance and sampler, with and without sketches.

Placement: things of the 50 fixed layouts that land in their outlines, told by the finder. Distance: as in `quality`.
Seconds: the median of the takes of the layouts, of which none has settled sizes of its own.
Needs the training packages. `python benchmarks/steps.py [--layouts N] [--seeds N] [--scenes N] [--ways N] [--pack DIR] [--judge DIR]`
"""

from __future__ import annotations

import argparse
import itertools
import sys
import time
from pathlib import Path

import numpy as np
import torch

sys.path.insert(0, str(Path(__file__).parent))
from layouts import evenly, load_layouts
from machine import describe, judging_pack, named, pack_options
from quality import SIDE, as_layout, distance, shrunk
from unseen import unseen

from training.config import load_config
from training.judge_finder import load_finder
from training.latent import as_input
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.seen.score import placement
from waldrand.packs.onnx_pack import own_pack_folder

#: The usual way first, then the one that is called quick: that one is led beyond its answers, and drawn by the light decoder.
WAYS = (
    PassSettings(),
    PassSettings(quick=True),
    PassSettings(quick=True, sketches=False),
    PassSettings(sketches=False),
    PassSettings(guidance=1.0),
    *(PassSettings(steps=n, guidance=1.0) for n in (8, 6, 5, 4)),
    PassSettings(steps=6, guidance=2.0),
    PassSettings(steps=5, guidance=1.0, sampler="first"),
)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--layouts", type=int, default=50)
    parser.add_argument("--seeds", type=int, default=1)
    parser.add_argument("--scenes", type=int, default=120)
    parser.add_argument("--ways", type=int, default=len(WAYS), help="only the first so many")
    pack_options(parser)
    options = parser.parse_args()
    pack = judging_pack(options)
    net = load_finder(load_config(), options.judge or options.pack or own_pack_folder())

    @torch.no_grad()
    def features(pictures: list[np.ndarray]) -> np.ndarray:
        small = np.stack([shrunk(p, SIDE // 4) for p in pictures])
        return np.concatenate([net.features(as_input(x)).numpy() for x in np.array_split(small, 8)])

    layouts = evenly(load_layouts()[0], options.layouts)
    sheets = [as_layout(scene) for _, scene in unseen(options.scenes, 200_000)]
    rest = features([scene.pixels for _, scene in unseen(options.scenes, 300_000)])
    print(f"{describe()}; {named(pack, options)}; {len(layouts)} layouts, {options.scenes} scenes")
    print("steps guidance sampler  sketches  take s  landed          distance")
    for settings in WAYS[: options.ways]:
        request, seconds, landed = Request("compose", settings), [], []
        for layout, seed in itertools.product(layouts, range(options.seeds)):
            p = plan(layout.sheet(), request, pack)
            t = time.perf_counter()
            take = run_take(p, pack, seed)
            seconds.append(time.perf_counter() - t)
            landed += [s.landed for s in placement(take.pixels, p.sheet, pack)]
        takes = [run_take(plan(sheet, request, pack), pack, i).pixels for i, sheet in enumerate(sheets)]
        far, told = distance(features(takes), rest), "yes" if settings.sketches else "no"
        how = f"{'quick':14s}" if settings.quick else f"{settings.steps:5d} {settings.guidance:8g}"
        placed = f"{sum(landed)} of {len(landed)} = {100 * np.mean(landed):.1f} %"
        print(f"{how} {settings.sampler:8s} {told:8s} {np.median(seconds):6.2f}  {placed:24s} {far:6.0f}", flush=True)


if __name__ == "__main__":
    main()
