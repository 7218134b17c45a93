"""How pictures go on: unseen scenes, and the photographs that scikit-image ships, cut by 40 % on one side and extended back. The step at
the join against the picture's own steps just beside it (1 is as anywhere else); by how many pixels what crosses the join (a horizon, a
wall) lies higher or lower beyond it; the mean difference from the picture as it was; with the usual overlap, without one, and with
copied patches alone. And of the things that the cut goes through, how many are whole again, left to themselves and taken in.

Needs the training packages. `python benchmarks/extend.py [--scenes N] [--pack DIR] [--judge DIR]`
"""

from __future__ import annotations

import argparse
import sys
from collections import defaultdict
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
from machine import begun
from skimage import data
from unseen import SIDE, unseen, words_of

from waldrand.core.packs import Pack
from waldrand.core.passes.cut_things import CutThing, cut_things
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.picture.fills import filled
from waldrand.core.picture.resample import resize_picture
from waldrand.core.seen.find import thing_at
from waldrand.core.values.element import SceneWords
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.sheet import Sheet

CUT = 0.4
WAYS = (("overlap 48", 48, "smooth"), ("no overlap, plain fill", 0, "smooth"), ("overlap 48, patches", 48, "patches"))
PHOTOGRAPHS = ("astronaut", "chelsea", "coffee", "rocket")
#: How far beside the join columns are compared, and how far up and down they are looked for.
BESIDE, FAR = 6, 40


def steps(pixels: np.ndarray, at: int) -> float:
    """The mean step across a column's left side, against the median of those of the columns beside it."""
    grey = pixels[..., :3].astype(float).mean(-1)
    across = np.abs(np.diff(grey, axis=1)).mean(0)
    near = [across[x] for x in (*range(at - 14, at - 4), *range(at + 3, at + 13))]
    return float((across[at - 1] + 0.5) / (np.median(near) + 0.5))


def offset(pixels: np.ndarray, at: int) -> float:
    """By how many pixels the columns right of a join fit those left of it best when they are moved up or down."""
    lab = pixels[..., :3].astype(float)
    left, right = (lab[:, x : x + BESIDE].mean(1) for x in (at - 2 * BESIDE, at + BESIDE))
    h = len(left)
    misfit = [np.abs(left[FAR : h - FAR] - right[FAR + d : h - FAR + d]).mean() for d in range(-FAR, FAR + 1)]
    return float(abs(int(np.argmin(misfit)) - FAR))


def cut_off(pixels: np.ndarray, kept: int, words: str) -> Sheet:
    """A picture of which only the left part is there, on a sheet of its old size."""
    h, w = pixels.shape[:2]
    opaque = np.full((h, kept, 1), 255, np.uint8)
    part = np.ascontiguousarray(np.concatenate([pixels[:, :kept, :3], opaque], 2))
    return Sheet(w, h, (PictureLayer(1, "old", part),), scene=SceneWords(words))


def extended(wide: Sheet, pack: Pack, seed: int, overlap: int, fill: str) -> np.ndarray:
    settings = PassSettings(steps=pack.info.steps, guidance=pack.info.guidance, seed=seed, strength=0.85)
    request = Request("extend", settings, more=(("overlap", overlap), ("fill", fill)))
    return run_take(plan(wide, request, pack), pack, seed).laid_on(wide, "t").flatten()


def measure(pixels: np.ndarray, words: str, pack: Pack, seed: int, rows: dict[str, list[tuple[float, float, float]]]) -> None:
    """One picture cut and extended in each way."""
    h, w = pixels.shape[:2]
    kept = round(w * (1 - CUT))
    wide = cut_off(pixels, kept, words)
    rows["as it was"].append((steps(pixels, kept), offset(pixels, kept), 0.0))

    def apart(made: np.ndarray) -> float:
        return float(np.abs(made[:, kept:, :3].astype(float) - pixels[:, kept:, :3]).mean())

    for name, overlap, fill in WAYS:
        done = extended(wide, pack, seed, overlap, fill)
        # With an overlap the join lies where the strip begins, too.
        joins = [steps(done, kept)] + ([steps(done, kept - overlap)] if overlap else [])
        rows[name].append((max(joins), offset(done, kept), apart(done)))
    known = np.zeros((h, w), np.float32)
    known[:, :kept] = 1
    alone = filled(pixels[..., :3].astype(np.float32) / 255, known, "patches", seed) * 255
    rows["copied patches alone"].append((steps(alone, kept), offset(alone, kept), apart(alone)))


def finished(pixels: np.ndarray, words: str, pack: Pack, seed: int, kept: int) -> tuple[int, int, int]:
    """Things that the cut goes through; how many of them are whole again when they are left to themselves, and when they are taken in."""
    wide = cut_off(pixels, kept, words)
    cut = cut_things(wide, pack)
    if not cut:
        return 0, 0, 0
    taken = wide
    for thing in cut:
        taken = taken.with_element(thing.element(taken.next_key()))
    whole = [sum(is_whole(made, t, pack, kept) for t in cut) for made in (extended(s, pack, seed, 48, "smooth") for s in (wide, taken))]
    return len(cut), whole[0], whole[1]


def is_whole(pixels: np.ndarray, thing: CutThing, pack: Pack, kept: int) -> bool:
    """Whether a thing is seen across the join and ends before the picture does."""
    x, y = kept - 1, (thing.box[1] + thing.box[3]) / 2
    for dy in (0.0, 0.25, -0.25):
        at = y + dy * (thing.box[3] - thing.box[1])
        found = thing_at(pixels, x, min(max(at, 0), pixels.shape[0] - 1), pack)
        if found is not None and found.phrase == thing.words and found.box is not None:
            return found.box[2] > kept + 8 and found.box[2] < pixels.shape[1] - 4
    return False


def told(title: str, rows: dict[str, list[tuple[float, float, float]]]) -> None:
    print(f"{title:26s} step at the join (mean, worst tenth)   offset (median, mean)   difference of 255")
    for name, values in rows.items():
        a = np.array(values)
        low = f"{np.median(a[:, 1]):10.0f} {a[:, 1].mean():9.1f}"
        print(f"{name:26s} {a[:, 0].mean():8.2f} {np.percentile(a[:, 0], 90):12.2f} {low} {a[:, 2].mean():24.1f}")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--scenes", type=int, default=60)
    options, pack = begun(parser, lambda o: f"{o.scenes} unseen scenes, and {len(PHOTOGRAPHS)} photographs")
    scenes, photographs = (defaultdict[str, list[tuple[float, float, float]]](list) for _ in range(2))
    whole = np.zeros(3, int)
    for i, (_, scene) in enumerate(unseen(options.scenes, 600_000)):
        measure(scene.pixels, words_of(scene), pack, i, scenes)
        whole += finished(scene.pixels, words_of(scene), pack, i, round(SIDE * (1 - CUT)))
    for i, name in enumerate(PHOTOGRAPHS):
        picture = resize_picture(getattr(data, name)()[..., :3].astype(np.float32) / 255, SIDE, SIDE)
        measure(np.asarray(np.round(255 * np.clip(picture, 0, 1)), np.uint8), "", pack, i, photographs)
    told(f"{options.scenes} scenes", scenes)
    told("photographs", photographs)
    print(f"things that the cut went through: {whole[0]}; whole again: {whole[1]} left to themselves, {whole[2]} taken in")


if __name__ == "__main__":
    main()
