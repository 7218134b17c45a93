"""Going on from a pack's weights, where checkpoints are gone: denoiser, enlarger and representation."""

from __future__ import annotations

import json
import tomllib
from pathlib import Path
from typing import Any

import torch
from safetensors.torch import load_file
from torch import Tensor, nn

from .latent import Latent
from .world.scene import kinds
from .world.words import vocabulary


def _manifest(pack: Path) -> dict[str, Any]:
    return tomllib.loads((pack / "pack.toml").read_text())


def read_graph(pack: Path, graph: str) -> dict[str, Tensor]:
    """All weights of one of a pack's graphs, as float32."""
    return {k: v.float() for shard in _manifest(pack)["weights"][graph] for k, v in load_file(pack / shard).items()}


def read_weights(pack: Path) -> tuple[dict[str, Tensor], float]:
    """A pack's denoiser weights under their training names, and the minutes they were trained.

    The world may have learned words since: known words keep their vectors, new ones start from small random ones.
    """
    manifest = _manifest(pack)
    weights = {f"{graph}.{k}": v for graph in ("text", "denoiser") for k, v in read_graph(pack, graph).items()}
    weights |= {k: weights[v] for k, v in manifest["same"].items()}
    before = json.loads((pack / "words.json").read_text())["words"]
    old, now = weights["text.embed.weight"], vocabulary(kinds())
    grown = torch.randn(len(now), old.shape[1], generator=torch.Generator().manual_seed(0)) * old.std()
    for i, word in enumerate(now):
        if word in before:
            grown[i] = old[before.index(word)]
    weights["text.embed.weight"] = grown
    return weights, float(manifest["trained"]["denoiser_minutes"])


def read_enlarger(pack: Path) -> tuple[dict[str, Tensor], float]:
    """A pack's enlarger weights under their training names, and the minutes they were trained.

    One that was not told what a denoiser painted does not heed it at first.
    """
    prefix = "enlarger."
    weights = {k.removeprefix(prefix): v for k, v in read_graph(pack, "decoder").items() if k.startswith(prefix)}
    into = weights["into.weight"]
    weights["into.weight"] = nn.functional.pad(into, (0, 0, 0, 0, 0, 4 - into.shape[1]))
    return weights, float(_manifest(pack)["trained"]["enlarger_minutes"])


def read_finder(pack: Path) -> tuple[dict[str, Tensor], float]:
    """A pack's finder weights under their training names, and the minutes they were trained.

    Raises:
        ValueError: the pack has no finder.
    """
    manifest = _manifest(pack)
    if "finder" not in manifest["weights"]:
        raise ValueError(f"The pack in {pack} has no finder.")
    prefix = "finder."
    weights = {k.removeprefix(prefix): v for k, v in read_graph(pack, "finder").items() if k.startswith(prefix)}
    return weights, float(manifest["trained"]["finder_minutes"])


def read_latent(pack: Path) -> Latent:
    """A pack's representation: a denoiser goes on only with the one it was trained on."""
    forward, back = read_graph(pack, "encoder")["weight"], read_graph(pack, "preview")
    matrix = back["preview.weight"][:, :, 0, 0]
    patch = round((matrix.shape[0] / 3) ** 0.5)
    return Latent(back["preview.bias"].numpy(), forward[:, :, 0, 0].T.contiguous().numpy(), matrix.T.contiguous().numpy(), patch)
