"""The denoiser in eight bits against the same in full precision, in one run: seconds, how far their takes are apart, and how many
things land in them by the pack's finder.

`python benchmarks/quantised.py [--layouts N] [--save FILE] [--pack DIR]`
"""

from __future__ import annotations

import argparse
import sys
import time
from pathlib import Path

import numpy as np
from PIL import Image

sys.path.insert(0, str(Path(__file__).parent))
from layouts import evenly, load_layouts
from machine import describe
from placement import share

from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.seen.score import placement
from waldrand.packs.onnx_pack import OnnxPack, has_eight_bit_units


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--layouts", type=int, default=16)
    parser.add_argument("--save", type=Path, help="the takes of both, in two rows")
    parser.add_argument("--pack", type=Path, help="another pack than the installed one")
    options = parser.parse_args()
    if not has_eight_bit_units():
        sys.exit("This processor has no units for sums of eight-bit products; both would be the same.")
    packs = {"float32": OnnxPack(options.pack, exact=True), "int8": OnnxPack(options.pack)}
    layouts = load_layouts()[0]
    sheets = [layout.sheet() for layout in evenly(layouts, options.layouts)]
    request = Request("compose", PassSettings())
    seconds: dict[str, list[float]] = {name: [] for name in packs}
    takes: dict[str, list[np.ndarray]] = {name: [] for name in packs}
    landed: dict[str, list[bool]] = {name: [] for name in packs}
    for i, sheet in enumerate(sheets):
        # Side by side, so that the machine's moods meet both alike.
        for name, pack in packs.items():
            t = time.perf_counter()
            takes[name].append(run_take(plan(sheet, request, pack), pack, i).pixels)
            seconds[name].append(time.perf_counter() - t)
            landed[name] += [score.landed for score in placement(takes[name][-1], sheet, pack)]
    apart = [-10 * np.log10(((a.astype(float) - b) ** 2).mean() / 255**2) for a, b in zip(*takes.values(), strict=True)]
    exact, quick = (float(np.median(v)) for v in seconds.values())
    print(f"{describe()}; pack {packs['int8'].info.version}; takes of {len(sheets)} layouts, 20 steps")
    print(f"float32 {exact:.2f} s, int8 {quick:.2f} s: {exact / quick:.2f} times as fast")
    print(f"takes of both {np.mean(apart):.1f} dB apart, at least {min(apart):.1f}")
    for name, of in landed.items():
        print(f"{name}: landed {share(of)}")
    if options.save:
        Image.fromarray(np.vstack([np.hstack(t) for t in takes.values()])[::2, ::2]).save(options.save)


if __name__ == "__main__":
    main()
