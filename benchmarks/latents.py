"""Whether a learned representation serves the denoiser better than the linear one: equal minutes, judged alike.

The learned one is a convolutional autoencoder between the quarter-size picture and as many cells and numbers as the linear one
has, trained for a third of the minutes; its denoiser gets the rest. The linear one is fitted in a second, and its denoiser gets
all of them. Both denoisers begin from nothing, see whole scenes only, and paint the words and masks of unseen scenes; the
distance is Frechet's in the features of the pack's finder, as in `quality.py`. The enlarger comes after either and is left out.
Needs the training packages and scenes of `python -m training.render`.
`python benchmarks/latents.py [--minutes N] [--scenes N] [--save FILE]`
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

import numpy as np
import torch
from PIL import Image
from torch import Tensor, nn

sys.path[:0] = [str(Path(__file__).parent), str(Path(__file__).parent.parent)]
from machine import describe
from quality import distance

from training.config import Config, arguments, load_config, work_folder
from training.judge_finder import load_finder
from training.latent import Encoder, Preview, as_input, as_pixels
from training.manifest import OWN_PACK
from training.networks import EnlargerBlock, Finder, Painter
from training.optimiser import Optimiser, Plain
from training.precision import fast
from training.progress import Clock
from training.rework import BATCH, reworked, told_of
from training.samples import Scenes
from training.train_denoiser import Loss, build, latent_shape, load_latent, make_sampler
from training.train_enlarger import apart

HOW = {"rework_steps": 20, "rework_guidance": 3.0}


class Autoencoder(nn.Module):
    """Pictures (B, 3, 4 h, 4 w) in -1..1 -> (B, C, h, w), each number with deviation 1, and back."""

    def __init__(self, channels: int, width: int) -> None:
        super().__init__()
        a, b = width, 2 * width
        self.down = nn.Sequential(
            *(nn.PixelUnshuffle(2), nn.Conv2d(12, a, 3, padding=1), EnlargerBlock(a), EnlargerBlock(a)),
            *(nn.Conv2d(a, b, 3, 2, 1), EnlargerBlock(b), EnlargerBlock(b), nn.Conv2d(b, channels, 1)),
        )
        self.even = nn.BatchNorm2d(channels, affine=False)
        self.up = nn.Sequential(
            *(nn.Conv2d(channels, b, 3, padding=1), EnlargerBlock(b), EnlargerBlock(b)),
            *(nn.Conv2d(b, 4 * a, 3, padding=1), nn.PixelShuffle(2), EnlargerBlock(a), EnlargerBlock(a)),
            *(nn.Conv2d(a, 12, 3, padding=1), nn.PixelShuffle(2)),
        )

    def small(self, x: Tensor) -> Tensor:
        """As the linear representation's encoder has it."""
        out: Tensor = self.even(self.down(x))
        return out

    def forward(self, z: Tensor) -> Tensor:
        out: Tensor = self.up(z)
        return out


def learned(config: Config, minutes: float) -> Autoencoder:
    """An autoencoder after so many minutes, with noise on its code like a denoiser's errors."""
    torch.manual_seed(1)
    net = Autoencoder(config["latent"]["channels"], config["enlarger"]["channels"] // 2)
    optimiser, sampler, rng = Plain(list(net.parameters()), 0.98, 0.01), make_sampler(config, 0), np.random.default_rng(1)
    clock, along = Clock(), 0.0
    while along < 1:
        x = as_input(sampler.batch(rng, config["finder"]["batch"]).pixels)
        with fast():
            z = net.small(x)
            made = net(z + 0.1 * torch.randn_like(z))
        pixel, slope = apart(made.float(), x)
        net.zero_grad(set_to_none=True)
        (pixel + slope).mean().backward()  # type: ignore[no-untyped-call]
        optimiser.step(1e-3 * (1.01 - along))
        along += clock.passed() / minutes
    return net.eval()


def taught(config: Config, encoder: nn.Module, minutes: float) -> Painter:
    """A denoiser from nothing after so many minutes of whole scenes; the average of its weights."""
    torch.manual_seed(1)
    c, net = config["denoiser"], build(config).to(memory_format=torch.channels_last)  # type: ignore[call-overload]
    average = build(config)
    average.load_state_dict(net.state_dict())
    optimiser, sampler, rng = Optimiser(net, c["momentum"], c["weight_decay"]), make_sampler(config, 0), np.random.default_rng(1)
    loss, size, clock, along, steps = Loss(config, encoder), c["phase"][-1]["batch"], Clock(), 0.0, 0
    while along < 1:
        batch = sampler.batch(rng, size)
        net.zero_grad(set_to_none=True)
        loss(net, batch, torch.randn(latent_shape(config, batch)), loss.times(size)).backward()  # type: ignore[no-untyped-call]
        nn.utils.clip_grad_norm_(net.parameters(), 1.0)
        steps += 1
        optimiser.step(c["rate"] * min(1, steps / c["warm_up"]) * (1.02 - along))
        with torch.no_grad():
            torch._foreach_lerp_(list(average.parameters()), list(net.parameters()), 1 - min(c["average"], (1 + steps) / (10 + steps)))
        along += clock.passed() / minutes
    return average.eval()


@torch.no_grad()
def painted(config: Config, net: Painter, back: nn.Module, source: Path, count: int) -> np.ndarray:
    """The words and masks of a file's first scenes, painted from noise: (count, 4 h, 4 w, 3) uint8."""
    with np.load(source) as z:
        masks, captions = z["masks"][:count], json.loads(str(z["captions"]))[:count]
    rng, generator, out = np.random.default_rng(1), torch.Generator().manual_seed(1), []
    for i in range(0, count, BATCH):
        told = told_of(captions[i : i + BATCH], masks[i : i + BATCH], config, rng)
        empty = torch.zeros(len(captions[i : i + BATCH]), config["latent"]["channels"], *masks.shape[2:])
        z = reworked(net, empty, told, 1.0, HOW, generator)
        out.append(as_pixels(back(z)))
    return np.concatenate(out)


@torch.no_grad()
def fidelity(encoder: nn.Module, back: nn.Module, pictures: np.ndarray) -> float:
    """PSNR in dB of the way there and back."""
    x = as_input(pictures)
    return float(-10 * torch.log10(((back(encoder.small(x)).clamp(-1, 1) - x) / 2).square().mean()))  # type: ignore[operator]


def compare(config: Config, finder: Finder, minutes: float, count: int, save: Path | None = None) -> dict[str, tuple[float, float]]:
    """(PSNR in dB, distance) of each representation; (infinity, distance) of true scenes."""
    folder = work_folder(config) / "scenes"
    source, beside = folder / "held-out-0.npz", folder / "held-out-2.npz"
    true, others = (Scenes([f]).groups[0].pixels[:count] for f in (source, beside))

    @torch.no_grad()
    def features(pictures: np.ndarray) -> np.ndarray:
        return np.concatenate([finder.features(as_input(p)).numpy() for p in np.array_split(pictures, 8) if len(p)])

    latent = load_latent(config)
    linear = Encoder(latent, config["latent"]["shrink"]), Preview(latent)
    code = learned(config, minutes / 3)
    out, rows = {"true scenes": (float("inf"), distance(features(true), features(others)))}, [true[:8]]
    for name, (encoder, back), left in (("linear", linear, minutes), ("learned", (code, code), minutes * 2 / 3)):
        made = painted(config, taught(config, encoder, left), back, source, count)
        out[name] = fidelity(encoder, back, true), distance(features(made), features(others))
        rows.append(made[:8])
    if save:
        Image.fromarray(np.vstack([np.hstack(list(r)) for r in rows])).save(save)
    return out


def main() -> None:
    parser = arguments(__doc__)
    parser.add_argument("--minutes", type=float, default=20, help="for each representation")
    parser.add_argument("--scenes", type=int, default=200)
    parser.add_argument("--save", type=Path, help="a picture: true scenes, then painted in each representation")
    options = parser.parse_args()
    config = load_config(options.config, options.work)
    try:
        finder = load_finder(config, OWN_PACK)
    except ValueError as error:
        sys.exit(str(error))
    print(f"{describe()}; {options.minutes:g} minutes each, {options.scenes} scenes")
    for name, (psnr, far) in compare(config, finder, options.minutes, options.scenes, options.save).items():
        print(f"{name:12s} there and back {psnr:6.2f} dB   distance {far:8.2f}")


if __name__ == "__main__":
    main()
