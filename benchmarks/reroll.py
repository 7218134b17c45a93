"""Re-rolling one of four elements: how much changes inside its outline against outside all four. And the other way round: the noise that
one element has in a take is kept, and everything else gets another seed.

`python benchmarks/reroll.py [--seeds N]`
"""

from __future__ import annotations

import argparse
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
from machine import describe
from take import sheet_with

from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.values.outline import rasterise
from waldrand.packs.onnx_pack import OnnxPack


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seeds", type=int, default=4)
    options = parser.parse_args()
    pack = OnnxPack()
    print(f"{describe()}; pack {pack.info.version}; 4 elements, {options.seeds} seeds; mean difference in levels of 255")
    print("element          inside   other elements   no element   ratio inside/outside   whole re-rolled: inside")
    sheet = sheet_with(4)
    masks = [rasterise(e.outline, sheet.rect, 512, 512) > 0.5 for e in sheet.elements]
    free = ~np.any(masks, axis=0)
    ratios = []
    for i, e in enumerate(sheet.elements):
        rows = []
        for seed in range(options.seeds):
            request = Request("compose", PassSettings(seed=seed))
            base, whole = (run_take(plan(sheet, request, pack), pack, s).pixels.astype(int) for s in (seed, seed + 100))
            again = sheet.with_element(replace(e, seed=seed + 100))
            apart = np.abs(run_take(plan(again, request, pack), pack, seed).pixels - base).mean(-1)
            others = np.any([m for j, m in enumerate(masks) if j != i], axis=0)
            rows.append((apart[masks[i]].mean(), apart[others].mean(), apart[free].mean(), np.abs(whole - base).mean(-1)[masks[i]].mean()))
        inside, other, none, whole_inside = np.mean(rows, 0)
        ratio = inside / np.mean([np.average([r[1], r[2]], weights=[others.sum(), free.sum()]) for r in rows])
        ratios.append(ratio)
        print(f"{e.name:14s} {inside:8.1f} {other:16.1f} {none:12.1f} {ratio:22.1f} {whole_inside:25.1f}")
    print(f"mean ratio {np.mean(ratios):.1f}")
    kept_noise(pack, options.seeds)


def kept_noise(pack: OnnxPack, seeds: int) -> None:
    """How much an element changes whose noise is kept from a take, by way of that take's own noise and by way of a seed of its own."""
    print("\nseed + 100 for all but one element: change inside that one, and what share that is of its change when nothing is kept")
    print("element          nothing kept   a seed of its own   the take's noise kept")
    sheet, shares = sheet_with(4), []
    for e in sheet.elements:
        mask, rows = rasterise(e.outline, sheet.rect, 512, 512) > 0.5, []
        for seed in range(seeds):
            base = run_take(plan(sheet, Request("compose", PassSettings(seed=seed)), pack), pack, seed).pixels.astype(int)
            row = []
            for own in (e, replace(e, seed=seed), replace(e, seed=seed, take_noise=True)):
                p = plan(sheet.with_element(own), Request("compose", PassSettings(seed=seed + 100)), pack)
                row.append(np.abs(run_take(p, pack, seed + 100).pixels - base).mean(-1)[mask].mean())
            rows.append(row)
        nothing, seeded, kept = np.mean(rows, 0)
        shares.append((seeded / nothing, kept / nothing))
        print(f"{e.name:14s} {nothing:14.1f} {seeded:19.1f} {kept:23.1f}")
    print(f"mean share     {1:14.2f} {np.mean(shares, 0)[0]:19.2f} {np.mean(shares, 0)[1]:23.2f}")


if __name__ == "__main__":
    main()
