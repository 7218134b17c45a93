"""Averages a trained denoiser or finder with the pack it went on from: between two ends of a training in one basin the loss is often
lower than at either (Wortsman et al., "Robust fine-tuning of zero-shot models", 2022). The fixed validation chooses the share.

`python -m training.soup PACK [--of denoiser|finder] [--config FILE] [--work DIR]`

What is chosen replaces the weights in the checkpoint that are exported: the denoiser's average, while its training goes on from its
own, or the finder's.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import torch
from torch import Tensor, nn

from . import train_denoiser, train_finder
from .config import Config, arguments, load_config, work_folder
from .from_pack import half_again, read_finder, read_weights, widened
from .latent import Encoder
from .progress import save_whole

#: An untrained network, the pack's weights for it, and its validation.
Begun = tuple[nn.Module, dict[str, Tensor], Callable[[Any], float]]
#: Of the trained weights, what the averages that are tried have.
SHARES = (0.25, 0.5, 0.75)


def stir(a: dict[str, Tensor], b: dict[str, Tensor], share: float) -> dict[str, Tensor]:
    """Weights of which `share` is b's, the rest a's."""
    return {name: torch.lerp(a[name], b[name], share) for name in b}


def best(
    net: nn.Module, a: dict[str, Tensor], b: dict[str, Tensor], shares: Sequence[float], measure: Callable[[Any], float]
) -> tuple[float, float]:
    """The share of b at which `measure` is least, 0 and 1 among those tried, and that measure; the net has these weights afterwards."""
    found = {}
    for share in (0.0, *shares, 1.0):
        net.load_state_dict(stir(a, b, share))
        found[share] = measure(net)
        print(f"share {share:.2f}  validation {found[share]:.4f}", flush=True)
    least = min(found, key=found.__getitem__)
    net.load_state_dict(stir(a, b, least))
    return least, found[least]


def _denoiser(config: Config, pack: Path) -> Begun:
    net = train_denoiser.build(config)
    loss = train_denoiser.Loss(config, Encoder(train_denoiser.load_latent(config), config["latent"]["shrink"]))
    told = [train_denoiser.validation(config, loss, 0, shaped) for shaped in (False, True)]

    def measure(painter: Any) -> float:
        loose, shaped = (one(painter) for one in told)
        print(f"outlines {loose:.4f}, figures {shaped:.4f}: ", end="")
        return float((loose * shaped) ** 0.5)

    return net, widened(read_weights(pack)[0], net.state_dict()), measure


def _finder(config: Config, pack: Path) -> Begun:
    net = train_finder.build(config)
    return net, half_again(read_finder(pack)[0], net.state_dict()), train_finder.validation(config, train_denoiser.load_latent(config))


#: By what is averaged: how it begins, and where a checkpoint has what is exported.
OF = {"denoiser": (_denoiser, "average"), "finder": (_finder, "net")}


def stir_into(config: Config, pack: Path, of: str = "denoiser", shares: Sequence[float] = SHARES) -> tuple[float, float]:
    """Averages a checkpoint's weights with the pack's; returns the share that was chosen and its validation, the denoiser's of whole
    scenes: the geometric mean of that with tight outlines and that with figures."""
    begin, kept = OF[of]
    path = work_folder(config) / f"{of}.pt"
    state = torch.load(path, weights_only=True)
    net, before, measure = begin(config, pack)
    share, value = best(net, before, state[kept], shares, measure)
    save_whole(path, state | {kept: net.state_dict()})
    return share, value


def main() -> None:
    parser = arguments(__doc__)
    parser.add_argument("pack", type=Path)
    parser.add_argument("--of", choices=OF, default="denoiser")
    options = parser.parse_args()
    share, value = stir_into(load_config(options.config, options.work), options.pack, options.of)
    print(f"{share:.2f} of the trained weights: validation {value:.4f}")


if __name__ == "__main__":
    main()
