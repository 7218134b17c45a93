"""Going on from a pack's weights, where checkpoints are gone: denoiser, enlarger and representation."""

from __future__ import annotations

import json
import tomllib
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import torch
from safetensors.torch import load_file
from torch import Tensor, nn

from waldrand.packs.manifest import DRAWN, LIGHT

from .latent import Latent
from .world.scene import kinds
from .world.words import vocabulary


def _manifest(pack: Path) -> dict[str, Any]:
    return tomllib.loads((pack / "pack.toml").read_text())


def read_graph(pack: Path, graph: str) -> dict[str, Tensor]:
    """All weights of one of a pack's graphs, as float32."""
    manifest, of_it = _manifest(pack), f"{graph}."
    weights = {k: v.float() for shard in manifest["weights"][graph] for k, v in load_file(pack / shard).items()}
    same = {k.removeprefix(of_it): v.removeprefix(of_it) for k, v in manifest["same"].items() if k.startswith(of_it)}
    return weights | {k: weights[v] for k, v in same.items()}


def read_weights(pack: Path) -> tuple[dict[str, Tensor], float]:
    """A pack's denoiser weights under their training names, and the minutes they were trained.

    The world may have learned words since: known words keep their vectors, new ones start from small random ones.
    """
    manifest = _manifest(pack)
    graphs = [graph for graph in ("text", "look", "denoiser") if graph in manifest["weights"]]
    weights = {f"{graph}.{k}": v for graph in graphs for k, v in read_graph(pack, graph).items()}
    before = json.loads((pack / "words.json").read_text())["words"]
    old, now = weights["text.embed.weight"], vocabulary(kinds())
    grown = torch.randn(len(now), old.shape[1], generator=torch.Generator().manual_seed(0)) * old.std()
    for i, word in enumerate(now):
        if word in before:
            grown[i] = old[before.index(word)]
    weights["text.embed.weight"] = grown
    return weights, float(manifest["trained"]["denoiser_minutes"])


def _kept(old: int, new: int, narrow: int, wide: int) -> Tensor:
    """Where a dimension's old entries stand among the new ones: those of one or of two sets of channels side by side."""
    if old == new:
        return torch.arange(old)
    if (old, new) == (narrow, wide):
        return torch.arange(narrow)
    if (old, new) == (2 * narrow, 2 * wide):
        return torch.cat([torch.arange(narrow), torch.arange(narrow) + wide])
    raise ValueError(f"Weights of {old} cannot become {new}: only the finest level's channels can be more than the pack's.")


def widened(weights: dict[str, Tensor], fresh: dict[str, Tensor]) -> dict[str, Tensor]:
    """A network's weights in one of more channels at its finest level, which gives what the narrower one gave.

    fresh: the wider network's own at its beginning. What it adds reads from everything, but nothing old reads from it yet. Weights
    that the narrower one lacked stay fresh; they have to begin at zero.

    Raises:
        ValueError: the networks differ elsewhere.
    """
    key = "denoiser.into.bias"
    narrow, wide = len(weights[key]), len(fresh[key])
    out = {}
    for name, now in fresh.items():
        if name not in weights:
            out[name] = now.clone()
            continue
        old, grown = weights[name], now.clone()
        for axis in range(1, old.ndim):
            spread = torch.zeros(*old.shape[:axis], now.shape[axis], *old.shape[axis + 1 :])
            old = spread.index_copy_(axis, _kept(old.shape[axis], now.shape[axis], narrow, wide), old)
        grown[_kept(len(old), len(now), narrow, wide)] = old
        out[name] = grown
    return out


def half_again(weights: dict[str, Tensor], fresh: dict[str, Tensor], noise: float = 0.1) -> dict[str, Tensor]:
    """A network's weights in one of half as many channels again, which gives nearly what the narrower one gave: every second channel
    comes twice, what reads from it halved, a little apart so that the two can learn different things. (Chen, Goodfellow, Shlens,
    "Net2Net", 2016. Only nearly, for a norm's groups now count some channels twice.)

    Raises:
        ValueError: a dimension is neither as it was nor half as large again.
    """
    generator = torch.Generator().manual_seed(0)
    out = {}
    for name, now in fresh.items():
        old = weights[name]
        for axis, (before, after) in enumerate(zip(old.shape, now.shape, strict=True)):
            if before == after:
                continue
            if 2 * after != 3 * before:
                raise ValueError(f"{name}: {before} cannot become {after}; only half as many channels again.")
            n = torch.arange(after)
            # Of each pair of channels, the first comes before and behind the second: groups of channels stay together.
            old = old.index_select(axis, 2 * (n // 3) + (n % 3) % 2)
            if axis == 1:
                halved = torch.where(n % 3 == 1, 1.0, 0.5).reshape(-1, *[1] * (old.ndim - 2))
                old = old * halved * (1 + noise * torch.randn(old.shape, generator=generator))
        out[name] = old.clone()
    return out


def read_enlarger(pack: Path) -> tuple[dict[str, Tensor], float]:
    """A pack's enlarger weights under their training names, and the minutes they were trained.

    One that was not told what a denoiser painted does not heed it at first. What is drawn more strongly than it was trained to be is
    brought back to that.
    """
    prefix, trained = "enlarger.", _manifest(pack)["trained"]
    weights = {k.removeprefix(prefix): v for k, v in read_graph(pack, "decoder").items() if k.startswith(prefix)}
    into = weights["into.weight"]
    weights["into.weight"] = nn.functional.pad(into, (0, 0, 0, 0, 0, 4 - into.shape[1]))
    for name in ("out.weight", "out.bias"):
        weights[name] = weights[name] / trained.get("enlarger_sharper", 1.0)
    return weights, float(trained["enlarger_minutes"])


def read_drawn(pack: Path) -> tuple[dict[str, Tensor], float]:
    """The weights of a pack's enlarger that is told drawings under their training names, none where it has none, and the minutes they
    were trained. As with `read_enlarger`, as strongly drawn as they were trained to."""
    manifest, prefix = _manifest(pack), "enlarger."
    if DRAWN not in manifest["weights"]:
        return {}, 0.0
    weights, trained = {k.removeprefix(prefix): v for k, v in read_graph(pack, DRAWN).items() if k.startswith(prefix)}, manifest["trained"]
    for name in [k for k in weights if k.removeprefix(prefix).startswith("out.")]:
        weights[name] = weights[name] / trained.get("drawn_sharper", 1.0)
    return weights, float(trained.get("drawn_minutes", 0.0))


def read_light(pack: Path) -> tuple[dict[str, Tensor], float]:
    """The weights of a pack's light enlarger under their training names, none where it has none, and the minutes they were trained."""
    manifest, prefix = _manifest(pack), "enlarger."
    if LIGHT not in manifest["weights"]:
        return {}, 0.0
    weights = {k.removeprefix(prefix): v for k, v in read_graph(pack, LIGHT).items() if k.startswith(prefix)}
    return weights, float(manifest["trained"]["light_minutes"])


def with_finder(pack: Path) -> dict[str, Any]:
    """What a pack's manifest says.

    Raises:
        ValueError: the pack has no finder.
    """
    manifest = _manifest(pack)
    if "finder" not in manifest["weights"]:
        raise ValueError(f"The pack in {pack} has no finder.")
    return manifest


def read_finder(pack: Path) -> tuple[dict[str, Tensor], float]:
    """A pack's finder weights under their training names, and the minutes they were trained.

    Raises:
        ValueError: the pack has no finder.
    """
    manifest = with_finder(pack)
    prefix = "finder."
    weights = {k.removeprefix(prefix): v for k, v in read_graph(pack, "finder").items() if k.startswith(prefix)}
    return weights, float(manifest["trained"]["finder_minutes"])


def with_more_labels(weights: dict[str, Tensor], fresh: dict[str, Tensor], before: Sequence[str], now: Sequence[str]) -> dict[str, Tensor]:
    """A finder's weights in one that tells more labels apart, which says of those that it knew what it said.

    before, now: the labels, without that of none, which comes last in both; fresh: the new finder's own weights at its beginning.

    Raises:
        ValueError: a label that it knew is gone.
    """
    gone = set(before) - set(now)
    if gone:
        raise ValueError(f"The finder of that pack knows labels that are gone: {', '.join(sorted(gone))}.")
    out = dict(weights)
    places = torch.tensor([*(now.index(label) for label in before), len(now)])
    for name in ("out.weight", "out.bias"):
        out[name] = fresh[name].clone().index_copy_(0, places, weights[name])
    return out


def finder_labels(pack: Path) -> tuple[str, ...]:
    """What a pack's finder tells apart.

    Raises:
        ValueError: the pack has no finder.
    """
    return tuple(with_finder(pack)["finder"]["labels"])


def read_latent(pack: Path) -> Latent:
    """A pack's representation: a denoiser goes on only with the one it was trained on."""
    forward, back = read_graph(pack, "encoder")["weight"], read_graph(pack, "preview")
    matrix = back["preview.weight"][:, :, 0, 0]
    patch = round((matrix.shape[0] / 3) ** 0.5)
    return Latent(back["preview.bias"].numpy(), forward[:, :, 0, 0].T.contiguous().numpy(), matrix.T.contiguous().numpy(), patch)
