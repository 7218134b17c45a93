"""Takes enlarged, then refined in tiles, against plain enlarging and against a rework of the whole.

Takes of fixed layouts at 512 x 512 are enlarged crisply; each is refined at 0.3 and, from the same start, reworked as a whole at 0.3
(computed as finely as the model does best, then brought to the size). Seam: slope across the lines on which tiles are joined half and
half, against beside them, where the picture is alike (1: no edge shows). Lost, new: things by the finder, tile by tile.
Distance: Frechet's between the finder's features of crops and of crops of rendered scenes as large. Needs the training packages.
`python benchmarks/refine.py [--takes N] [--by K] [--strength S] [--detail D] [--save DIR] [--pack DIR] [--judge DIR]`
"""

from __future__ import annotations

import argparse
import itertools
import sys
import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np
import torch
from PIL import Image

sys.path.insert(0, str(Path(__file__).parent))
from layouts import load_layouts
from machine import begun
from quality import distance, painted
from unseen import FIRST

from training.config import load_config
from training.judge_finder import load_finder
from training.latent import as_input
from training.render import scene_rng
from training.world.scene import paint_scene
from waldrand.core.passes.enlarge import crisp
from waldrand.core.passes.kinds import kind_of
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request, with_own
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.passes.tiles import Tile, tiles_of
from waldrand.core.seen.changes import changes
from waldrand.core.values.element import SceneWords
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.resize import scaled
from waldrand.core.values.sheet import Sheet
from waldrand.packs.onnx_pack import own_pack_folder

#: Sides of the crops that are compared with rendered ones.
CROP = 512
#: What lies beside a join: from and to so many columns away.
NEAR, FAR = 4, 40


def joins(tiles: tuple[Tile, ...], width: int) -> np.ndarray:
    """The columns at which two tiles of the first row count alike."""
    row = [t for t in tiles if t.rect.y0 == tiles[0].rect.y0]
    out = []
    for a, b in itertools.pairwise(row):
        counts = np.zeros(width + 64)
        counts[b.rect.x0 : b.rect.x0 + len(b.columns)] = b.columns
        own = slice(b.rect.x0, a.rect.x1)
        out.append(b.rect.x0 + int(np.argmin(np.abs(counts[own] - 0.5))))
    return np.array(out)


def across(pixels: np.ndarray, columns: np.ndarray) -> tuple[float, float]:
    """Slope across some columns, and across those beside them, where the picture is alike: sums."""
    slope = np.abs(np.diff(pixels[..., :3].astype(np.float32), axis=1)).mean((0, 2))
    near = np.concatenate([np.r_[c - 1 - FAR : c - 1 - NEAR, c - 1 + NEAR + 1 : c - 1 + FAR + 1] for c in columns])
    return float(slope[columns - 1].mean()), float(slope[near].mean())


def crops(pixels: np.ndarray) -> list[np.ndarray]:
    h, w = pixels.shape[:2]
    return [pixels[y : y + CROP, x : x + CROP, :3] for y in range(0, h - CROP + 1, CROP) for x in range(0, w - CROP + 1, CROP)]


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--takes", type=int, default=12)
    parser.add_argument("--by", type=int, default=4)
    parser.add_argument("--strength", type=float, default=0.3)
    parser.add_argument("--detail", type=float, default=0.0)
    parser.add_argument("--save", type=Path)
    options, pack = begun(parser, lambda o: f"{o.takes} takes by {o.by}, strength {o.strength:g}, detail {o.detail:g}")
    net = load_finder(load_config(), options.judge or options.pack or own_pack_folder())

    @torch.no_grad()
    def features(pictures: list[np.ndarray]) -> np.ndarray:
        small = np.stack([np.asarray(Image.fromarray(p).resize((CROP // 4, CROP // 4), Image.Resampling.BOX)) for p in pictures])
        return np.concatenate([net.features(as_input(x)).numpy() for x in np.array_split(small, max(1, len(small) // 16))])

    rendered = [c for i in range(options.takes) for c in crops(paint_scene(scene_rng(FIRST + 400_000 + i), CROP * options.by).pixels)]
    made: dict[str, list[np.ndarray]] = {"enlarged": [], "refined": [], "reworked whole": []}
    lost = {"refined": [0, 0], "reworked whole": [0, 0]}
    seams, seconds, things = list[tuple[float, ...]](), 0.0, 0
    for i, layout in enumerate(load_layouts()[0][: options.takes]):
        empty = layout.sheet()
        pixels = np.dstack([painted(empty, pack, i), np.full((CROP, CROP), 255, np.uint8)])
        taken = Sheet(CROP, CROP, (PictureLayer(1, "take", pixels),), scene=SceneWords(layout.scene))
        side = CROP * options.by
        sheet = scaled(taken, side, side, partial(crisp, pack=pack))
        settings = PassSettings(strength=options.strength, seed=i)
        request = Request("refine", settings, more=(("texture", options.detail),))
        request = replace(request, more=with_own(request.more, kind_of("refine").own))
        tiles = tiles_of(sheet, request, pack.info)

        def of(request: Request, sheet: Sheet = sheet, seed: int = i) -> np.ndarray:
            return run_take(plan(sheet, request, pack), pack, seed).laid_on(sheet, "made").flatten()

        begun_at = time.perf_counter()
        whole = Request("rework", settings)
        results: dict[str, Callable[[], np.ndarray]] = {"refined": partial(of, request), "reworked whole": partial(of, whole)}
        before = sheet.flatten()
        made["enlarged"] += crops(before)
        for name, act in results.items():
            after = act()
            if name == "refined":
                seconds += time.perf_counter() - begun_at
                columns = joins(tiles, side)
                # Whole pictures lie both ways.
                for a, b in ((after, before), (after.swapaxes(0, 1), before.swapaxes(0, 1))):
                    seams.append((*across(a, columns), *across(b, columns)))
            made[name] += crops(after)
            found = changes(before, after, [(t.number, t.rect) for t in tiles], pack)
            lost[name][0] += sum(len(c.lost) for c in found)
            lost[name][1] += sum(len(c.new) for c in found)
            if options.save:
                options.save.mkdir(parents=True, exist_ok=True)
                Image.fromarray(after[..., :3]).save(options.save / f"{i}-{name.replace(' ', '-')}.png")
        things += len(layout.things)
    megapixels = options.takes * (CROP * options.by) ** 2 / 1e6
    at, beside, at_before, beside_before = np.sum(seams, 0)
    print(f"slope at tile edges against beside them: {at / beside:.3f} refined, {at_before / beside_before:.3f} before")
    print(f"{things} things in {options.takes} takes; seconds per megapixel refined: {seconds / megapixels:.1f}")
    floor = features(rendered)
    for name, pictures in made.items():
        told = "" if name not in lost else f", lost {lost[name][0]}, new {lost[name][1]}"
        print(f"{name:16s} distance to rendered crops {distance(features(pictures), floor):8.1f}{told}")


if __name__ == "__main__":
    main()
