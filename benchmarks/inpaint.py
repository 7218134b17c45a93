"""Puts a named thing into unseen scenes, and takes one out of them; the pack's finder tells whether it is there.

Put in: a box on the lower half of the sheet, a thing that suits the ground and that the scene does not have; the mask is
roomier than the box. It counts when the finder sees most of it inside. Taken out: a thing of 1.5 to 20 % of the sheet that the
finder sees, its mask grown by 16 pixels, the pass without any words. It counts when the finder no longer sees it there. Drift:
the greatest difference outside the mask.
Needs the training packages. `python benchmarks/inpaint.py [--scenes N] [--only in|out] [--save DIR] [--pack DIR] [--judge DIR]
[--guided LEAST GREATEST] [--lead-kept LEVELS]`
"""

from __future__ import annotations

import argparse
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
from PIL import Image
from scipy import ndimage

sys.path.insert(0, str(Path(__file__).parent))
from machine import begun
from placement import share
from unseen import SIDE, as_sheet, things_of, unseen, words_of

from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.seen.find import find
from waldrand.core.seen.score import placement
from waldrand.core.values.element import Element
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.packs.onnx_pack import OnnxPack

SUITING = {
    "meadow": ("owl", "fox", "red tent", "cow", "barrel", "sheep", "haystack", "campfire"),
    "field": ("scarecrow", "tractor", "haystack", "hare", "cart"),
    "snow field": ("snowman", "bear", "red tent", "pine", "owl"),
    "lake": ("red sailing boat", "swan", "duck", "rowing boat"),
    "beach": ("umbrella", "rowing boat", "dog", "barrel"),
    "street": ("green car", "dog", "bicycle", "bench", "red bus"),
    "floor": ("cat", "chair", "blue armchair", "table"),
    "tabletop": ("red apple", "cup", "teapot", "green bottle"),
}
MARGIN = 16


def difference_outside(after: Sheet, before: Sheet, mask: np.ndarray) -> int:
    return int(np.abs(after.flatten().astype(int) - before.flatten())[mask == 0].max(initial=0))


def inpainted(sheet: Sheet, mask: np.ndarray, words: str, pack: OnnxPack, seed: int) -> Sheet:
    """The sheet with one take of an inpaint at full strength on it."""
    masked = replace(sheet, mask=Mask.from_array(mask))
    take = run_take(plan(masked, Request("inpaint", PassSettings(strength=1.0), words), pack), pack, seed)
    return take.laid_on(masked, "inpaint")


def put_in(sheet: Sheet, words: str, rng: np.random.Generator) -> tuple[Sheet, np.ndarray]:
    """The sheet with an element in a box, to be judged by, and the mask round it."""
    w, h = rng.uniform(0.3, 0.42, 2) * SIDE
    x, y = rng.uniform(0.05, 0.95) * (SIDE - w), rng.uniform(0.82, 0.97) * SIDE - h
    mask = np.zeros((SIDE, SIDE), np.uint8)
    mask[int(max(0, y - MARGIN)) : int(y + h + MARGIN), int(max(0, x - MARGIN)) : int(x + w + MARGIN)] = 255
    return sheet.with_element(Element(10, words, Outline("box", (x, y, x + w, y + h)), words)), mask


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--scenes", type=int, default=100)
    parser.add_argument("--only", choices=("in", "out"), help="only put in, or only take out")
    parser.add_argument("--save", type=Path, help="before and after of each, side by side")
    options, pack = begun(parser, lambda o: f"{o.scenes} scenes each")
    put, gone, outside = list[bool](), list[bool](), 0

    def keep(name: str, before: Sheet, after: Sheet) -> None:
        if options.save:
            options.save.mkdir(parents=True, exist_ok=True)
            Image.fromarray(np.hstack([before.flatten(), after.flatten()])[::2, ::2, :3]).save(options.save / f"{name}.png")

    for rng, scene in unseen(10 * options.scenes):
        there = {p.kind for p in scene.parts}
        ground = next((g for g in SUITING if g in there), None)
        if len(put) == options.scenes or options.only == "out":
            break
        free = [t for t in SUITING.get(ground or "", ()) if not any(t.endswith(kind) for kind in there)]
        if not free:
            continue
        words = str(rng.choice(free))
        sheet, mask = put_in(as_sheet(scene, words_of(scene)), words, rng)
        after = inpainted(sheet, mask, words, pack, len(put))
        put.append(placement(after.flatten(), sheet, pack)[0].landed)
        outside = max(outside, difference_outside(after, sheet, mask))
        keep(f"in-{len(put):03d}-{words.replace(' ', '-')}", sheet, after)
    skipped = 0
    for rng, scene in unseen(10 * options.scenes, 100_000):
        if len(gone) == options.scenes or options.only == "in":
            break
        parts = things_of(scene)
        alone = [p for p in parts if [q.kind for q in parts].count(p.kind) == 1 and 0.015 < p.mask.mean() < 0.2]
        if not alone:
            continue
        part = alone[int(rng.integers(len(alone)))]
        big = ndimage.zoom(part.mask, SIDE / part.mask.shape[0], order=1, grid_mode=True, mode="nearest") > 0.05
        mask = np.where(ndimage.binary_dilation(big, iterations=MARGIN), 255, 0).astype(np.uint8)
        sheet = as_sheet(scene, "")

        def seen(s: Sheet, kind: str = part.kind, where: np.ndarray = mask) -> bool:
            return bool((find(s.flatten(), kind, pack).mask[where > 0] > 127).mean() > 0.02)

        if not seen(sheet):
            skipped += 1
            continue
        after = inpainted(sheet, mask, "", pack, len(gone))
        gone.append(not seen(after))
        outside = max(outside, difference_outside(after, sheet, mask))
        keep(f"out-{len(gone):03d}-{part.kind.replace(' ', '-')}", sheet, after)
    if put:
        print(f"put in and found inside its box:   {share(put)}")
    if gone:
        print(f"taken out and no longer found:     {share(gone)}; {skipped} not seen before either, not counted")
    print(f"greatest difference outside masks: {outside}")


if __name__ == "__main__":
    main()
