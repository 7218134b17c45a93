"""How pictures go on: unseen scenes cut by 40 % on one side and extended back. The step at the join against the scene's own steps just
beside it (1 is as anywhere else), and the mean difference from the scene as it was; with the usual overlap, without one, and with copied
patches alone.

Needs the training packages. `python benchmarks/extend.py [--scenes N] [--pack DIR] [--judge DIR]`
"""

from __future__ import annotations

import argparse
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
from machine import begun
from unseen import SIDE, as_sheet, unseen, words_of

from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.picture.fills import filled
from waldrand.core.values.frame import Rect
from waldrand.core.values.resize import framed

CUT = 0.4
WAYS = (("overlap 48", 48, "smooth"), ("no overlap, plain fill", 0, "smooth"), ("overlap 48, patches", 48, "patches"))


def steps(pixels: np.ndarray, at: int) -> float:
    """The mean step across a column's left side, against the median of those of the columns beside it."""
    grey = pixels[..., :3].astype(float).mean(-1)
    across = np.abs(np.diff(grey, axis=1)).mean(0)
    near = [across[x] for x in (*range(at - 14, at - 4), *range(at + 3, at + 13))]
    return float((across[at - 1] + 0.5) / (np.median(near) + 0.5))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--scenes", type=int, default=60)
    options, pack = begun(parser, lambda o: f"{o.scenes} unseen scenes")
    rows: dict[str, list[tuple[float, float]]] = {}
    kept = round(SIDE * (1 - CUT))
    for i, (_, scene) in enumerate(unseen(options.scenes, 600_000)):
        whole = as_sheet(scene, words_of(scene))
        cut = framed(whole, Rect(0, 0, kept, SIDE))
        pixels = cut.flatten()
        wide = framed(replace(cut, layers=(replace(cut.layers[0], pixels=pixels),)), Rect(0, 0, SIDE, SIDE))
        rows.setdefault("the scene itself", []).append((steps(scene.pixels, kept), 0.0))
        for name, overlap, fill in (
            ("overlap 48", 48, "smooth"),
            ("no overlap, plain fill", 0, "smooth"),
            ("overlap 48, patches", 48, "patches"),
        ):
            settings = PassSettings(steps=pack.info.steps, guidance=pack.info.guidance, seed=i, strength=0.85)
            request = Request("extend", settings, more=(("overlap", overlap), ("fill", fill)))
            take = run_take(plan(wide, request, pack), pack, i)
            done = take.laid_on(wide, "t").flatten()
            # With an overlap the join lies where the strip begins, too.
            joins = [steps(done, kept)] + ([steps(done, kept - overlap)] if overlap else [])
            apart = np.abs(done[:, kept:, :3].astype(float) - scene.pixels[:, kept:]).mean()
            rows.setdefault(name, []).append((max(joins), float(apart)))
        known = np.zeros((SIDE, SIDE), np.float32)
        known[:, :kept] = 1
        alone = filled(scene.pixels.astype(np.float32) / 255, known, "patches", i) * 255
        rows.setdefault("copied patches alone", []).append(
            (steps(alone, kept), float(np.abs(alone[:, kept:] - scene.pixels[:, kept:]).mean()))
        )
    print(f"{'':26s} step at the join (mean, worst tenth)   difference of 255")
    for name, values in rows.items():
        a = np.array(values)
        print(f"{name:26s} {a[:, 0].mean():8.2f} {np.percentile(a[:, 0], 90):12.2f} {a[:, 1].mean():24.1f}")


if __name__ == "__main__":
    main()
