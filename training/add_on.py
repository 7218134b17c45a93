"""Trains an add-on: small differences of the denoiser's weights, and a phrase's own vector, from a few pictures.

`python -m training.add_on PICTURES... --words W [--like KIND] --out FILE [--name N] [--pack DIR] [--minutes M] [--rank R]`

The words are told with every picture, as a whole's (a look) or with `--thing` as what stands in its middle. Beside them it is told what
the pack's finder sees in the picture, where it sees it: else a look would be learned only as far as nothing else is said. `--like` says
which words of the pack they stand beside: the nearest there are. The differences are products of two narrow matrices (Hu et al., "LoRA:
Low-rank adaptation of large language models", 2022) for every convolution and matrix of the denoiser's coarser levels and its attention.
"""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
import torch
from PIL import Image
from torch import Tensor, nn
from torch.nn.utils import parametrize

from waldrand.core.packs import Figure
from waldrand.core.picture.lines import lines_of
from waldrand.core.seen.find import finder_of
from waldrand.packs.add_ons import AddOn, write_add_on
from waldrand.packs.onnx_pack import OnnxPack

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
#: How surely something has to be seen to count, in what share of the picture, and a multiple of what a picture's sides are looked at.
SURE, LEAST_SEEN, MULTIPLE = 0.4, 0.01, 64
#: The longer side of a figure.
FIGURE = 96
#: How often no words are told, so that guidance knows what it leads away from.
NO_WORDS = 0.1
#: Of what a picture shows, at most so many phrases are told at a time, each so often.
SHOWN, OFTEN = 7, 0.8


@dataclass(frozen=True, eq=False)
class Shown:
    """A picture (h, w, 3) uint8; own: where its thing stands, (h', w') 0..1, None: in the middle; said: what else is known of it, each
    phrase with where it is, the same, or None for the whole."""

    pixels: np.ndarray
    own: np.ndarray | None = None
    said: tuple[tuple[str, np.ndarray | None], ...] = ()


def fitted(pixels: np.ndarray) -> np.ndarray:
    """A picture (h, w, 3) uint8 whose sides the finder can look at."""
    h, w = (max(MULTIPLE, round(n / MULTIPLE) * MULTIPLE) for n in pixels.shape[:2])
    return np.asarray(Image.fromarray(pixels).resize((w, h), Image.Resampling.LANCZOS))


def shown_of(pixels: np.ndarray, pack: OnnxPack) -> Shown:
    """A picture, with what the pack's finder sees in it."""
    finder = finder_of(pack)
    maps, _ = finder.look(pixels.astype(np.float32) / 255)
    seen = [(label, m) for label, m in zip(finder.labels, maps, strict=False) if label not in finder.traits]
    return Shown(pixels, None, tuple((label, m) for label, m in seen if (m > SURE).mean() > LEAST_SEEN))


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


def figure_of(cut_out: np.ndarray, words: str) -> Figure:
    """The shape and the drawing of a thing that is cut out, (h, w, 4) uint8, for outlines that only say where.

    Raises:
        ValueError: nothing of it is seen.
    """
    ys, xs = np.nonzero(cut_out[..., 3] > 127)
    if not len(ys):
        raise ValueError("A cut-out of which nothing is seen has no shape.")
    own = cut_out[ys.min() : ys.max() + 1, xs.min() : xs.max() + 1]
    scale = FIGURE / max(own.shape[:2])
    h, w = (max(1, round(n * scale)) for n in own.shape[:2])
    ground = np.full((*own.shape[:2], 3), 255, np.uint8)
    flat = np.dstack([np.where(own[..., 3:] > 127, own[..., :3], ground), np.full(own.shape[:2], 255, np.uint8)])
    mask = np.asarray(Image.fromarray(own[..., 3]).resize((w, h), Image.Resampling.BOX))
    lines = np.asarray(Image.fromarray(np.round(255 * lines_of(flat)).astype(np.uint8)).resize((2 * w, 2 * h), Image.Resampling.BOX))
    return Figure(words, frozenset(), frozenset(), frozenset(), np.where(mask > 127, 255, 0).astype(np.uint8), lines=lines)


def view(shown: Shown, rng: np.random.Generator) -> Shown:
    """A random square of a picture, SIDE pixels large: the whole or a little nearer, mirrored or not; masks of its cells."""
    h, w = shown.pixels.shape[:2]
    side = min(h, w) / rng.uniform(1, NEAREST)
    x, y = rng.uniform(0, w - side) / w, rng.uniform(0, h - side) / h
    turn = -1 if rng.random() < 0.5 else 1

    def cut(a: np.ndarray, to: int) -> np.ndarray:
        box = (x * a.shape[1], y * a.shape[0], (x + side / w) * a.shape[1], (y + side / h) * a.shape[0])
        return np.asarray(Image.fromarray(a).resize((to, to), Image.Resampling.BOX, box))[:, ::turn]

    def where(m: np.ndarray) -> np.ndarray:
        return cut(np.asarray(m, np.float32), SIDE // 4)

    said = tuple((text, None if m is None else where(m)) for text, m in shown.said)
    return Shown(cut(shown.pixels, SIDE), None if shown.own is None else where(shown.own), said)


def told(config: Config, like: str, thing: bool, shown: Sequence[Shown], rng: np.random.Generator) -> tuple[Tensor, ...]:
    """ids (B, R, L), kind, outline and weight of a batch: first the words that the add-on's stand beside, then what else is seen."""
    ids_of, cells = {w: i for i, w in enumerate(vocabulary(kinds()))}, SIDE // 4
    n, length = len(shown), config["denoiser"]["phrase_length"]
    ids = np.zeros((n, 1 + SHOWN, length), np.int64)
    kind, outline = np.zeros((n, 1 + SHOWN), np.float32), np.zeros((n, 1 + SHOWN, cells, cells), np.float32)
    middle = np.zeros((cells, cells), np.float32)
    middle[cells // 8 : -cells // 8, cells // 8 : -cells // 8] = 1
    for i, one in enumerate(shown):
        if rng.random() < NO_WORDS:
            continue
        own = middle if one.own is None or one.own.max() <= SURE else one.own
        rows: list[tuple[str, np.ndarray | None]] = [(like, own if thing else None)]
        rows += [(text, m) for text, m in one.said if rng.random() < OFTEN and (m is None or m.max() > SURE)][:SHOWN]
        for j, (text, m) in enumerate(rows):
            words = [ids_of[w] for w in text.split()][:length]
            ids[i, j, : len(words)] = words
            kind[i, j] = SCENE if m is None else ELEMENT
            if m is not None:
                outline[i, j] = m
    return tuple(torch.from_numpy(a) for a in (ids, kind, outline, (kind > 0).astype(np.float32)))


def train(
    pictures: Sequence[Shown], words: str, like: str, pack: Path, minutes: float, rank: int, thing: bool, name: str, seed: int = 7
) -> AddOn:
    """An add-on from pictures.

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
        shown = [view(pictures[int(rng.integers(len(pictures)))], rng) for _ in range(BATCH)]
        ids, kind, outline, weight = told(config, like, thing, shown, rng)
        with torch.no_grad():
            x = encoder.small(as_input(np.stack([one.pixels for one in shown])))
            known = net.text(ids.flatten(0, 1)).reshape(*ids.shape[:2], -1)
        t = torch.sigmoid(torch.randn(BATCH) * config["denoiser"]["time_deviation"] + config["denoiser"]["time_mean"])
        noise, level = torch.randn_like(x), t[:, None, None, None]
        noisy, kept, hole = (1 - level) * x + level * noise, torch.zeros_like(x), torch.ones(BATCH, 1, *x.shape[2:])
        phrases = torch.cat([known[:, :1] + phrase, known[:, 1:]], 1)
        with fast():
            v = net.denoiser(noisy, kept, hole, t, phrases, kind, outline, weight)
        loss = (v.float() - (noise - x)).square().mean()
        optimiser.zero_grad(set_to_none=True)
        loss.backward()
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
    parser.add_argument("--figure", type=Path, action="append", default=[], help="the thing cut out, whose shape fits outlines; several")
    parser.add_argument("--out", type=Path, required=True)
    parser.add_argument("--name")
    parser.add_argument("--pack", type=Path, default=OWN_PACK)
    parser.add_argument("--minutes", type=float, default=12)
    parser.add_argument("--rank", type=int, default=4)
    o = parser.parse_args()
    pack = OnnxPack(o.pack)
    pictures = [shown_of(fitted(np.asarray(Image.open(path).convert("RGB"))), pack) for path in o.pictures]
    made = train(pictures, o.words, o.like, o.pack, o.minutes, o.rank, o.thing, o.name or o.words)
    shapes = tuple(figure_of(np.asarray(Image.open(path).convert("RGBA")), o.words.lower()) for path in o.figure)
    write_add_on(o.out, replace(made, figures=shapes))
    print(f"{o.out}: {o.out.stat().st_size} bytes")


if __name__ == "__main__":
    main()
