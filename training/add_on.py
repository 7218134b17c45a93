"""Trains an add-on: small differences of the denoiser's weights, and a phrase's own vector, from a few pictures.

`python -m training.add_on PICTURES... --words W [--like KIND] --out FILE [--name N] [--pack DIR] [--minutes M] [--rank R]`

The words are told with every picture, as a whole's (a look) or with `--thing` as what stands in its middle. `--like` says which words
of the pack they are told beside: the nearest there are. The differences are products of two narrow matrices (Hu et al., "LoRA:
Low-rank adaptation of large language models", 2022) for every convolution and matrix of the denoiser's coarser levels and its attention.
"""

from __future__ import annotations

import argparse
from pathlib import Path

import numpy as np
import torch
from PIL import Image
from torch import Tensor, nn
from torch.nn.utils import parametrize

from waldrand.packs.add_ons import AddOn, write_add_on

from .config import Config, load_config
from .from_pack import read_latent, read_weights, widened
from .latent import Encoder, as_input
from .manifest import OWN_PACK
from .networks import ELEMENT, SCENE, Painter
from .precision import fast
from .progress import Clock
from .train_denoiser import build
from .world.scene import kinds
from .world.words import vocabulary

#: Pixels of a quarter-size picture: a whole one's side, and how near it is looked at.
SIDE, NEAREST = 128, 1.6
BATCH, RATE, PHRASE_RATE = 6, 2e-3, 2e-2
#: How often no words are told, so that guidance knows what it leads away from.
NO_WORDS = 0.1


class LowRank(nn.Module):
    """A weight with a product of narrow matrices added, at first nothing."""

    def __init__(self, weight: Tensor, rank: int) -> None:
        super().__init__()
        self.up = nn.Parameter(torch.zeros(len(weight), rank))
        self.down = nn.Parameter(torch.randn(rank, *weight.shape[1:]) / weight[0].numel() ** 0.5)

    def forward(self, weight: Tensor) -> Tensor:
        return weight + (self.up @ self.down.flatten(1)).reshape(weight.shape)


def adapted(net: Painter, rank: int) -> dict[str, LowRank]:
    """Gives the denoiser's coarser weights low-rank differences; everything else is frozen. By the weights' names in a pack."""
    for p in net.parameters():
        p.requires_grad_(False)
    out = {}
    coarse = ("down1", "look1", "down2", "look2", "up2", "up1", "look_up1")
    for name, module in list(net.denoiser.named_modules()):
        if name.split(".")[0] in coarse and isinstance(module, (nn.Conv2d, nn.Linear)) and "shift" not in name:
            out[f"{name}.weight"] = LowRank(module.weight, rank)
            parametrize.register_parametrization(module, "weight", out[f"{name}.weight"])
    return out


def views(pictures: list[np.ndarray], rng: np.random.Generator) -> np.ndarray:
    """Random squares of pictures, (BATCH, SIDE, SIDE, 3) uint8: the whole or a little nearer, mirrored or not."""
    out = []
    for _ in range(BATCH):
        p = pictures[int(rng.integers(len(pictures)))]
        h, w = p.shape[:2]
        side = min(h, w) / rng.uniform(1, NEAREST)
        x, y = rng.uniform(0, w - side), rng.uniform(0, h - side)
        cut = Image.fromarray(p).resize((SIDE, SIDE), Image.Resampling.BOX, (x, y, x + side, y + side))
        out.append(np.asarray(cut)[:, :: -1 if rng.random() < 0.5 else 1])
    return np.stack(out)


def told(config: Config, like: str, thing: bool, rng: np.random.Generator) -> tuple[Tensor, Tensor, Tensor, Tensor]:
    """ids (B, 1, L), kind, outline and weight of a batch that is told the words that the add-on's stand beside."""
    ids_of, n, cells = {w: i for i, w in enumerate(vocabulary(kinds()))}, BATCH, SIDE // 4
    ids = np.zeros((n, 1, config["denoiser"]["phrase_length"]), np.int64)
    words = [ids_of[w] for w in like.split()]
    ids[:, 0, : len(words)] = words
    said = rng.random(n) >= NO_WORDS
    kind = np.where(said, ELEMENT if thing else SCENE, 0).astype(np.float32)[:, None]
    outline = np.zeros((n, 1, cells, cells), np.float32)
    outline[:, :, cells // 8 : -cells // 8, cells // 8 : -cells // 8] = float(thing)
    return tuple(torch.from_numpy(a) for a in (ids, kind, outline, (kind > 0).astype(np.float32)))  # type: ignore[return-value]


def train(
    pictures: list[np.ndarray], words: str, like: str, pack: Path, minutes: float, rank: int, thing: bool, name: str, seed: int = 7
) -> AddOn:
    """An add-on from pictures (H, W, 3) uint8.

    Raises:
        ValueError: no pictures, or like no words of the pack.
    """
    if not pictures:
        raise ValueError("An add-on is trained from at least one picture.")
    if unknown := [w for w in like.split() if w not in vocabulary(kinds())]:
        raise ValueError(f"The model does not know “{' '.join(unknown)}”: say words that it knows after --like.")
    torch.manual_seed(seed)
    config, rng = load_config(), np.random.default_rng(seed)
    net = build(config)
    net.load_state_dict(widened(read_weights(pack)[0], net.state_dict()))
    pairs, phrase = adapted(net, rank), nn.Parameter(torch.zeros(config["denoiser"]["words"]))
    encoder = Encoder(read_latent(pack), config["latent"]["shrink"])
    optimiser = torch.optim.AdamW(
        [{"params": [p for pair in pairs.values() for p in pair.parameters()], "lr": RATE}, {"params": [phrase], "lr": PHRASE_RATE}],
        weight_decay=1e-3,
    )
    clock, passed, steps, recent = Clock(), 0.0, 0, list[float]()
    while passed < minutes:
        ids, kind, outline, weight = told(config, like, thing, rng)
        with torch.no_grad():
            x = encoder.small(as_input(views(pictures, rng)))
            known = net.text(ids[:, 0])
        t = torch.sigmoid(torch.randn(BATCH) * config["denoiser"]["time_deviation"] + config["denoiser"]["time_mean"])
        noise, level = torch.randn_like(x), t[:, None, None, None]
        noisy, kept, hole = (1 - level) * x + level * noise, torch.zeros_like(x), torch.ones(BATCH, 1, *x.shape[2:])
        phrases = ((known + phrase) * kind.clamp(max=1))[:, None]
        with fast():
            v = net.denoiser(noisy, kept, hole, t, phrases, kind, outline, weight)
        loss = (v.float() - (noise - x)).square().mean()
        optimiser.zero_grad(set_to_none=True)
        loss.backward()  # type: ignore[no-untyped-call]
        optimiser.step()
        steps += 1
        passed += clock.passed()
        recent.append(loss.item())
        if steps % 50 == 0:
            print(f"{passed:5.1f} min {steps:5d} steps  {np.mean(recent[-50:]):.4f}", flush=True)
    made = {key: (pair.up.detach().numpy(), pair.down.detach().numpy()) for key, pair in pairs.items()}
    return AddOn(name, words.lower(), like, phrase.detach().numpy(), made, "")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("pictures", nargs="+", type=Path)
    parser.add_argument("--words", required=True)
    parser.add_argument("--like", default="")
    parser.add_argument("--thing", action="store_true", help="the words are of a thing in the middle, not of the whole")
    parser.add_argument("--out", type=Path, required=True)
    parser.add_argument("--name")
    parser.add_argument("--pack", type=Path, default=OWN_PACK)
    parser.add_argument("--minutes", type=float, default=12)
    parser.add_argument("--rank", type=int, default=4)
    o = parser.parse_args()
    pictures = [np.asarray(Image.open(path).convert("RGB")) for path in o.pictures]
    made = train(pictures, o.words, o.like, o.pack, o.minutes, o.rank, o.thing, o.name or o.words)
    write_add_on(o.out, made)
    print(f"{o.out}: {o.out.stat().st_size} bytes")


if __name__ == "__main__":
    main()
