"""Reworks scenes lightly with the trained denoiser, so that the finder also learns from painted pictures whose masks are true.

`python -m training.rework [--config FILE] [--work DIR]`

At these strengths things stay where they are; each part is told by its true mask, and the labels stay the scene's own.
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
from .latent import Encoder, Latent, Preview
from .networks import ELEMENT, SCENE, Painter
from .precision import fast
from .samples import said
from .train_denoiser import build, load_latent
from .world.scene import kinds
from .world.words import vocabulary

BATCH = 20


def _told(captions: list[dict[str, Any]], masks: np.ndarray, config: Config, rng: np.random.Generator) -> tuple[Tensor, ...]:
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
def rework_chunk(net: Painter, latent: Latent, config: Config, source: Path, target: Path, count: int) -> None:
    """The first `count` scenes of a file, each batch reworked at a strength of its own, into another file."""
    c, encoder, preview = config["finder"], Encoder(latent, config["latent"]["shrink"]), Preview(latent)
    with np.load(source) as z:
        pixels, masks, captions = z["pixels"][:count], z["masks"][:count], json.loads(str(z["captions"]))[:count]
    rng, generator = np.random.default_rng(c["seed"]), torch.Generator().manual_seed(c["seed"])
    out = []
    for i in range(0, len(pixels), BATCH):
        x = encoder.small(torch.from_numpy(pixels[i : i + BATCH]).permute(0, 3, 1, 2).float() / 127.5 - 1)
        told = _told(captions[i : i + BATCH], masks[i : i + BATCH], config, rng)
        strength = float(rng.uniform(*c["rework_strengths"]))
        x = (1 - strength) * x + strength * torch.randn(x.shape, generator=generator)
        hole = torch.ones(len(x), 1, *x.shape[2:])
        for a, b in itertools.pairwise(np.linspace(strength, 0, c["rework_steps"] + 1, dtype=np.float32)):
            with fast():
                v = net(x, torch.zeros_like(x), hole, torch.full((len(x),), float(a)), *told)
            x = x + float(b - a) * v.float()
        out.append(((preview(x).clamp(-1, 1) + 1) * 127.5 + 0.5).byte().permute(0, 2, 3, 1).numpy())
    partial = target.with_suffix(".partial.npz")
    np.savez(partial, pixels=np.concatenate(out), masks=masks, captions=np.array(json.dumps(captions)))
    partial.rename(target)


def rework_all(config: Config) -> Path:
    """Reworks what is missing of `reworked-*.npz` and `unseen-reworked.npz`; returns the folder."""
    folder = work_folder(config)
    scenes, latent, c = folder / "scenes", load_latent(config), config["finder"]
    net = build(config)
    net.load_state_dict(torch.load(folder / "denoiser.pt", weights_only=True)["average"])
    net.eval()
    sources = sorted(scenes.glob("chunk-*.npz"))[: c["reworked_chunks"]]
    jobs = [(source, scenes / f"reworked-{i}.npz", c["reworked"] // len(sources)) for i, source in enumerate(sources)]
    jobs.append((scenes / "held-out-0.npz", scenes / "unseen-reworked.npz", c["reworked_unseen"]))
    for n, (source, target, count) in enumerate(jobs):
        if not target.exists():
            rework_chunk(net, latent, config, source, target, count)
        print(f"{n + 1} of {len(jobs)} files reworked", flush=True)
    return scenes


def main() -> None:
    options = arguments(__doc__).parse_args()
    rework_all(load_config(options.config, options.work))


if __name__ == "__main__":
    main()
