"""Small people in unseen scenes, painted and then touched up: their faces before and after, and what else changed.

Scenes with a person are painted anew from their words and outlines (so that faces are the model's own), then touched up: parts "face"
at 0.45, each from near by. Faces: how surely the finder sees one in each head's place before and after; distance: Frechet's between
the finder's features of heads and of rendered ones. Found, false: faces that the finder finds in the rendered scenes, against where
they are. Drift: the greatest difference outside what was painted. Needs the training packages.
`python benchmarks/touch_up.py [--scenes N] [--strength S] [--words W] [--save DIR] [--pack DIR] [--judge DIR]`
"""

from __future__ import annotations

import argparse
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import torch
from PIL import Image
from scipy import ndimage

sys.path.insert(0, str(Path(__file__).parent))
from machine import begun
from quality import as_layout, distance
from unseen import FIRST, SIDE

from training.config import load_config
from training.judge_finder import load_finder
from training.latent import as_input
from training.render import scene_rng
from training.world.scene import paint_scene
from waldrand.core.passes.kinds import kind_of
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request, with_own
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.refused import Refused
from waldrand.core.seen.find import looked
from waldrand.core.seen.parts import parts_seen
from waldrand.core.values.frame import Rect
from waldrand.packs.onnx_pack import own_pack_folder

PART, HEAD = "face", 64


def head_at(mask: np.ndarray) -> list[Rect]:
    """Squares round the faces of a mask (h, w) of a scene, in pixels of SIDE."""
    big = ndimage.zoom(mask, SIDE / mask.shape[0], order=1, grid_mode=True, mode="nearest") > 0.3
    pieces, n = ndimage.label(big)
    out = []
    for ys, xs in ndimage.find_objects(pieces, n):
        side = max(40, round(2.4 * max(ys.stop - ys.start, xs.stop - xs.start)))
        x, y = ((s.start + s.stop - side) // 2 for s in (xs, ys))
        x, y = (min(max(0, v), SIDE - side) for v in (x, y))
        out.append(Rect(x, y, x + side, y + side))
    return out


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--scenes", type=int, default=60)
    parser.add_argument("--strength", type=float, default=0.45)
    parser.add_argument("--words", default="", help="told of each face; none: those of whom it belongs to")
    parser.add_argument("--save", type=Path)
    options, pack = begun(parser, lambda o: f"{o.scenes} scenes with people, at {o.strength:g}, told “{o.words}”")
    if not pack.finder or PART not in pack.finder.labels:
        raise SystemExit("The pack's finder tells no faces apart.")
    at = pack.finder.labels.index(PART)
    net = load_finder(load_config(), options.judge or options.pack or own_pack_folder())

    @torch.no_grad()
    def features(heads: list[np.ndarray]) -> np.ndarray:
        small = np.stack([np.asarray(Image.fromarray(p).resize((HEAD, HEAD), Image.Resampling.BOX)) for p in heads])
        return np.concatenate([net.features(as_input(x)).numpy() for x in np.array_split(small, max(1, len(small) // 32))])

    def sure(pixels: np.ndarray, rect: Rect) -> float:
        return float(looked(pixels[rect.slices], pack)[0][at].max())

    parts = f"{PART} = {options.words}" if options.words else PART
    request = Request(
        "touch-up", PassSettings(strength=options.strength, seed=1), more=(("parts", parts), ("least_sure", 0.3), ("least_size", 0.0))
    )
    request = replace(request, more=with_own(request.more, kind_of("touch-up").own))
    heads: dict[str, list[np.ndarray]] = {"rendered": [], "before": [], "after": []}
    surely: dict[str, list[float]] = {"before": [], "after": []}
    drift = faces = found = false = done = 0
    for i in range(40 * options.scenes):
        if done == options.scenes:
            break
        scene = paint_scene(scene_rng(FIRST + 600_000 + i), SIDE, named=True)
        mask = scene.named.get(PART)
        if mask is None or not 0.0002 < mask.mean() < 0.02:
            continue
        done += 1
        places = head_at(mask)
        seen = parts_seen(scene.pixels, PART, pack)
        true = ndimage.zoom(mask, SIDE / mask.shape[0], order=1, grid_mode=True, mode="nearest") > 0.1
        hits = [bool(true[p.box.slices].any()) for p in seen if p.sureness >= 0.4]
        faces, found, false = faces + len(places), found + min(len(places), sum(hits)), false + hits.count(False)
        sheet = as_layout(scene)
        sheet = run_take(plan(sheet, Request("compose", PassSettings(seed=i)), pack), pack, i).laid_on(sheet, "take")
        pixels = sheet.flatten()
        try:
            take = run_take(plan(sheet, request, pack), pack, 1)
        except Refused:
            take = None
        after = pixels if take is None else take.laid_on(sheet, "made").flatten()
        if take is not None:
            outside = np.ones((SIDE, SIDE), bool)
            outside[take.frame.slices] = take.region == 0
            drift = max(drift, int(np.abs(after.astype(int) - pixels)[outside].max(initial=0)))
        for rect in places:
            for name, made in (("rendered", scene.pixels), ("before", pixels), ("after", after)):
                heads[name].append(np.ascontiguousarray(made[rect.slices][..., :3]))
                if name in surely:
                    surely[name].append(sure(made, rect))
        if options.save:
            options.save.mkdir(parents=True, exist_ok=True)
            Image.fromarray(np.hstack([scene.pixels, pixels[..., :3], after[..., :3]])).save(options.save / f"{i}.png")
    others = [paint_scene(scene_rng(FIRST + 700_000 + i), SIDE, named=True) for i in range(6 * options.scenes)]
    more = [np.ascontiguousarray(s.pixels[r.slices]) for s in others for m in [s.named.get(PART)] if m is not None for r in head_at(m)]
    floor = features(more) if len(more) > 8 else features(heads["rendered"])
    print(f"faces in rendered scenes: found {found} of {faces}, {false} false; greatest drift elsewhere: {drift}")
    for name in ("before", "after"):
        told = f"seen surely {np.mean(np.array(surely[name]) > 0.4):.0%}, mean {np.mean(surely[name]):.2f}"
        print(f"{name:7s} {len(heads[name])} heads: {told}; distance to rendered {distance(features(heads[name]), floor):.1f}")
    print(f"rendered ones: {distance(features(heads['rendered']), floor):.1f}")


if __name__ == "__main__":
    main()
