"""A contact sheet of fixed prompts, how far painted pictures are from rendered scenes, and how even their grounds are.

The distance is Frechet's between the finder's features of N takes, painted to the words and outlines of N unseen scenes, and of
N other unseen scenes: |m1 - m2|^2 + tr(C1 + C2 - 2 (C1 C2)^(1/2)) (Dowson and Landau, 1982). The floor is the same with the N
scenes themselves in place of the takes; both shrink as N grows, so only equal N can be compared, and only by the same finder.
Last, by look: the share of places in quarter-size pictures at which neighbouring pixels are alike, painted and rendered.
Needs the training packages.
`python benchmarks/quality.py [--scenes N] [--sheet FILE] [--no-sheet] [--nearer] [--pack DIR] [--judge DIR]
[--guided LEAST GREATEST] [--lead-kept LEVELS]`
"""

from __future__ import annotations

import argparse
import itertools
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import torch
from PIL import Image
from scipy.linalg import sqrtm

sys.path.insert(0, str(Path(__file__).parent))
from layouts import load_layouts
from machine import describe, drawing_option, judging_pack, named, pack_options
from unseen import SIDE, things_of, unseen, words_of

from training.config import load_config
from training.fidelity import gradient
from training.judge_finder import load_finder
from training.latent import as_input
from training.world.scene import Scene
from training.world.words import FINISHES
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.packs.onnx_pack import OnnxPack, own_pack_folder

SHEET = Path(__file__).parent.parent / "docs" / "model" / "contact-sheet.jpg"
THUMB, ACROSS = 192, 8
COMPOSE = Request("compose")
#: Length of a gradient below which a step between neighbours does not show.
ALIKE = 0.01


def painted(sheet: Sheet, pack: OnnxPack, seed: int, request: Request = COMPOSE) -> np.ndarray:
    return run_take(plan(sheet, request, pack), pack, seed).pixels


def shrunk(pixels: np.ndarray, side: int) -> np.ndarray:
    return np.asarray(Image.fromarray(pixels).resize((side, side), Image.Resampling.BOX))


def contact_sheet(pack: OnnxPack, path: Path) -> None:
    """The 50 layouts of the placement benchmark, and 14 prompts of words, which takes give places, seed 0, in rows of eight; things are
    painted from nearer."""
    request = replace(COMPOSE, small_nearer=True)
    small = [shrunk(painted(x.sheet(), pack, 0, request), THUMB) for x in itertools.chain(*load_layouts())]
    small += [np.full_like(small[0], 255)] * (-len(small) % ACROSS)
    rows = [np.hstack(small[i : i + ACROSS]) for i in range(0, len(small), ACROSS)]
    path.parent.mkdir(parents=True, exist_ok=True)
    Image.fromarray(np.vstack(rows)).save(path, quality=88)


def as_layout(scene: Scene) -> Sheet:
    """A sheet with the scene's own words, and a box for each of its things."""
    elements = []
    for p in things_of(scene)[-8:]:
        ys, xs = np.nonzero(p.mask > 0.35)
        if len(ys):
            k = SIDE / p.mask.shape[0]
            box = (xs.min() * k, ys.min() * k, (xs.max() + 1) * k, (ys.max() + 1) * k)
            said = " ".join((*(w for w, _ in p.before[:1]), p.kind))
            elements.append(Element(len(elements) + 1, said, Outline("box", box), said))
    return Sheet(SIDE, SIDE, elements=tuple(elements), scene=SceneWords(words_of(scene)))


def alike(pictures: np.ndarray) -> np.ndarray:
    """Of pictures (N, h, w, 3) uint8 the share of places where the gradient, over all channels in 0..1, is below ALIKE: (N,)."""
    return np.array([(gradient(p.astype(np.float32) / 255) < ALIKE).mean() for p in pictures])


def distance(a: np.ndarray, b: np.ndarray) -> float:
    """Frechet's, between normal distributions fitted to features (N, d) each."""
    ca, cb = np.cov(a.T), np.cov(b.T)
    mixed = np.real(sqrtm(ca @ cb))
    return float(((a.mean(0) - b.mean(0)) ** 2).sum() + np.trace(ca + cb - 2 * mixed))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--scenes", type=int, default=200)
    parser.add_argument("--sheet", type=Path, default=SHEET)
    parser.add_argument("--no-sheet", action="store_true")
    parser.add_argument("--nearer", action="store_true", help="things that are not large are painted once more from nearer")
    drawing_option(parser)
    pack_options(parser)
    options = parser.parse_args()
    pack = judging_pack(options)
    net = load_finder(load_config(), options.judge or options.pack or own_pack_folder())
    if not options.no_sheet:
        contact_sheet(pack, options.sheet)
        print(f"{options.sheet} painted")

    def small_of(pictures: list[np.ndarray]) -> np.ndarray:
        return np.stack([shrunk(p, SIDE // 4) for p in pictures])

    @torch.no_grad()
    def features(small: np.ndarray) -> np.ndarray:
        return np.concatenate([net.features(as_input(x)).numpy() for x in np.array_split(small, 8)])

    request = Request("compose", PassSettings(drawing_guidance=options.drawing_guidance), small_nearer=options.nearer)
    scenes = [scene for _, scene in unseen(options.scenes, 200_000)]
    others = small_of([scene.pixels for _, scene in unseen(options.scenes, 300_000)])
    takes = small_of([painted(as_layout(scene), pack, i, request) for i, scene in enumerate(scenes)])
    rendered = small_of([scene.pixels for scene in scenes])
    true, rest = features(rendered), features(others)
    print(f"{describe()}; {named(pack, options)}; {options.scenes} scenes")
    print(f"painted from rendered:  {distance(features(takes), rest):.2f}")
    print(f"rendered from rendered: {distance(true, rest):.2f}")
    even, evenly = alike(takes), alike(rendered)
    for look in FINISHES:
        of_it = np.array([look in scene.words for scene in scenes])
        if of_it.any():
            print(f"alike neighbours, {look}: painted {even[of_it].mean():.0%}, rendered {evenly[of_it].mean():.0%}")


if __name__ == "__main__":
    main()
