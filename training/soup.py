"""Averages the trained denoiser with the pack it went on from: between two ends of a training in one basin the loss is often lower
than at either (Wortsman et al., "Robust fine-tuning of zero-shot models", 2022). The fixed validation chooses the share.

`python -m training.soup PACK [--config FILE] [--work DIR]`

What is chosen replaces the averaged weights in the checkpoint, which are the ones that are exported; training goes on from its own.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

import torch
from torch import Tensor

from .config import Config, arguments, load_config, work_folder
from .from_pack import read_weights, widened
from .latent import Encoder
from .networks import Painter
from .progress import save_whole
from .train_denoiser import Loss, build, load_latent, validation

#: Of the trained weights, what the averages that are tried have.
SHARES = (0.25, 0.5, 0.75)


def stir(a: dict[str, Tensor], b: dict[str, Tensor], share: float) -> dict[str, Tensor]:
    """Weights of which `share` is b's, the rest a's."""
    return {name: torch.lerp(a[name], b[name], share) for name in b}


def best(
    net: Painter, a: dict[str, Tensor], b: dict[str, Tensor], shares: Sequence[float], measure: Callable[[Painter], float]
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


def stir_into(config: Config, pack: Path, shares: Sequence[float] = SHARES) -> tuple[float, float]:
    """Averages the checkpoint's weights with the pack's; returns the share that was chosen and its validation of whole scenes."""
    path = work_folder(config) / "denoiser.pt"
    state = torch.load(path, weights_only=True)
    net = build(config)
    before = widened(read_weights(pack)[0], net.state_dict())
    loss = Loss(config, Encoder(load_latent(config), config["latent"]["shrink"]))
    share, value = best(net, before, state["average"], shares, validation(config, loss, window=0))
    save_whole(path, state | {"average": net.state_dict()})
    return share, value


def main() -> None:
    parser = arguments(__doc__)
    parser.add_argument("pack", type=Path)
    options = parser.parse_args()
    share, value = stir_into(load_config(options.config, options.work), options.pack)
    print(f"{share:.2f} of the trained weights: validation {value:.4f}")


if __name__ == "__main__":
    main()
