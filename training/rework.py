"""Reworks scenes lightly with the trained denoiser: painted pictures of which the truth is known.

`python -m training.rework [--config FILE] [--work DIR]`

At these strengths things stay where they are; each part is told by its true mask. The finder learns from such pictures with the
scenes' own masks as labels, the enlarger with the sharp scenes as what should have been painted.
"""

from __future__ import annotations

import itertools
import json
from pathlib import Path
from typing import Any

import numpy as np
import torch
from torch import Tensor

from .config import Config, arguments, load_config, work_folder
from .latent import Encoder, Latent, Preview, as_input, as_pixels
from .networks import ELEMENT, SCENE, Painter
from .precision import fast
from .render import PER_CELL, shrunk
from .samples import said
from .train_denoiser import build, load_latent
from .world.scene import kinds
from .world.words import vocabulary

BATCH = 20


def told_of(captions: list[dict[str, Any]], masks: np.ndarray, config: Config, rng: np.random.Generator) -> tuple[Tensor, ...]:
    """ids, kind, outline and weight of some scenes: the words of the whole, and each part with its mask (B, P, h, w)."""
    c, ids_of = config["denoiser"], {w: i for i, w in enumerate(vocabulary(kinds()))}
    n, h, w = len(captions), *masks.shape[2:]
    ids = np.zeros((n, c["rows"], c["phrase_length"]), np.int64)
    kind, outline = np.zeros((n, c["rows"]), np.float32), np.zeros((n, c["rows"], h, w), np.float32)
    for i, caption in enumerate(captions):
        rows = [(word, SCENE, None) for word in caption["words"]]
        rows += [(said(p, rng, False, c["phrase_length"]), ELEMENT, m) for p, m in zip(caption["parts"], masks[i], strict=False)]
        for j, (text, of, mask) in enumerate(rows[: c["rows"]]):
            words = [ids_of[w] for w in text.split()]
            ids[i, j, : len(words)] = words
            kind[i, j] = of
            if mask is not None:
                outline[i, j] = mask / 255
    return torch.from_numpy(ids), torch.from_numpy(kind), torch.from_numpy(outline), torch.from_numpy((kind > 0).astype(np.float32))


@torch.no_grad()
def reworked(net: Painter, x: Tensor, told: tuple[Tensor, ...], strength: float, how: Config, generator: torch.Generator) -> Tensor:
    """Latents (B, C, h, w) noised to a strength and painted again in `how["rework_steps"]` equal steps, guided away from no words by
    `how["rework_guidance"]`."""
    x = (1 - strength) * x + strength * torch.randn(x.shape, generator=generator)
    kept, hole = torch.zeros_like(x), torch.ones(len(x), 1, *x.shape[2:])
    ids, kind, outline, weight = told
    g = how["rework_guidance"]
    for a, b in itertools.pairwise(np.linspace(strength, 0, how["rework_steps"] + 1, dtype=np.float32)):
        t = torch.full((len(x),), float(a))
        with fast():
            v = net(x, kept, hole, t, *told).float()
            if g != 1:
                without = net(x, kept, hole, t, ids, torch.zeros_like(kind), outline, torch.zeros_like(weight)).float()
                v = without + g * (v - without)
        x = x + float(b - a) * v
    return x


def rework_chunk(net: Painter, latent: Latent, config: Config, how: Config, source: Path, target: Path, count: int) -> None:
    """The first `count` scenes of a file, each batch reworked at a strength of its own, into another file, at the quarter size."""
    encoder, preview = Encoder(latent, config["latent"]["shrink"]), Preview(latent)
    with np.load(source) as z:
        pixels, masks, captions = z["pixels"][:count], z["masks"][:count], json.loads(str(z["captions"]))[:count]
        more = {name: z[name][:count] for name in ("guides", "named") if name in z}
    pixels = shrunk(pixels, pixels.shape[1] // (PER_CELL * masks.shape[2]))
    rng, generator = np.random.default_rng(how["seed"]), torch.Generator().manual_seed(how["seed"])
    out = []
    for i in range(0, len(pixels), BATCH):
        x = encoder.small(as_input(pixels[i : i + BATCH]))
        told = told_of(captions[i : i + BATCH], masks[i : i + BATCH], config, rng)
        x = reworked(net, x, told, float(rng.uniform(*how["rework_strengths"])), how, generator)
        out.append(as_pixels(preview(x)))
    partial = target.with_suffix(".partial.npz")
    np.savez(partial, pixels=np.concatenate(out), masks=masks, captions=np.array(json.dumps(captions)), **more)
    partial.rename(target)


def small_of(sharp: Path) -> Path:
    """Where the reworked pictures of a file of sharp scenes lie."""
    return sharp.with_name(sharp.name.replace("sharp", "small"))


def rework_all(config: Config) -> Path:
    """Reworks what is missing of `reworked-*.npz`, `unseen-reworked.npz` and `small-*.npz`; returns the folder."""
    folder = work_folder(config)
    scenes, latent, c, e = folder / "scenes", load_latent(config), config["finder"], config["enlarger"]
    net = build(config)
    net.load_state_dict(torch.load(folder / "denoiser.pt", weights_only=True)["average"])
    net.eval()
    sources = [*sorted(scenes.glob("chunk-*.npz"))[: c["reworked_chunks"]], *sorted(scenes.glob("close-*.npz"))[: c["reworked_close"]]]
    jobs = [(c, source, scenes / f"reworked-{i}.npz", c["reworked"] // len(sources)) for i, source in enumerate(sources)]
    jobs.append((c, scenes / "held-out-0.npz", scenes / "unseen-reworked.npz", c["reworked_unseen"]))
    sharp = sorted(scenes.glob("sharp-*.npz"))
    jobs += [(e, source, small_of(source), e["reworked"] // len(sharp)) for source in sharp]
    for n, (how, source, target, count) in enumerate(jobs):
        if not target.exists():
            rework_chunk(net, latent, config, how, source, target, count)
        print(f"{n + 1} of {len(jobs)} files reworked", flush=True)
    return scenes


def main() -> None:
    options = arguments(__doc__).parse_args()
    rework_all(load_config(options.config, options.work))


if __name__ == "__main__":
    main()
