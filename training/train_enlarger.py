"""Trains the enlarger, the last step from latents to pixels; resumes from its checkpoint.

`python -m training.train_enlarger [--config FILE] [--work DIR]`
"""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import torch
import torch.nn.functional as F
from torch import Tensor

from .config import Config, arguments, load_config, work_folder
from .latent import Encoder, Preview
from .networks import Enlarger
from .optimiser import Plain
from .precision import fast
from .progress import Progress
from .real import dead_leaves, photographs
from .train_denoiser import load_latent


def _slopes(x: Tensor) -> tuple[Tensor, Tensor]:
    return x[..., 1:, :] - x[..., :-1, :], x[..., :, 1:] - x[..., :, :-1]


class Cuts:
    """Random squares of the sharp scenes, of photographs and of dead leaves, in the shares given."""

    def __init__(self, folder: Path, crop: int, batch: int, seed: int, real_share: float, leaves: int) -> None:
        files = sorted(folder.glob("sharp-*.npz"))
        if not files:
            raise ValueError("No sharp pictures were found. Run `python -m training.render` first.")
        self.crop, self.batch, self.rng = crop, batch, np.random.default_rng(seed)
        self.scenes = [p for f in files for p in np.load(f)["pixels"]]
        self.real = [p for p in photographs() if min(p.shape[:2]) >= crop]
        self.leaves = [dead_leaves(np.random.default_rng(i), max(crop, 256)) for i in range(leaves)]
        self.real_share = real_share

    def _pool(self) -> list[np.ndarray]:
        u = self.rng.random()
        return self.real if u < self.real_share else self.leaves if u < 1.5 * self.real_share else self.scenes

    def next(self) -> Tensor:
        cuts = []
        for _ in range(self.batch):
            pool = self._pool()
            picture = pool[int(self.rng.integers(len(pool)))]
            y, x = (int(self.rng.integers(0, (n - self.crop) // 4 + 1)) * 4 for n in picture.shape[:2])
            cut = picture[y : y + self.crop, x : x + self.crop]
            cuts.append(cut[:, ::-1] if self.rng.random() < 0.5 else cut)
        return torch.from_numpy(np.stack(cuts)).permute(0, 3, 1, 2).float() / 127.5 - 1


def train(config: Config) -> Path:
    """Trains for the config's minutes; returns the checkpoint."""
    c = config["enlarger"]
    folder = work_folder(config)
    torch.manual_seed(c["seed"])
    net = Enlarger(c["channels"], c["blocks"]).to(memory_format=torch.channels_last)  # type: ignore[call-overload]
    run = Progress(folder / "enlarger.pt", net, Plain(list(net.parameters()), 0.98, 0.01))
    cuts = Cuts(folder / "scenes", c["crop"], c["batch"], c["seed"] + run.steps, c["real_share"], c["leaves"])

    latent = load_latent(config)
    encoder, preview = Encoder(latent, config["latent"]["shrink"]), Preview(latent)

    run.begin()
    while run.minutes < c["minutes"]:
        rate = c["rate"] * min(1, (run.steps + 1) / 100) * (0.5 * (1 + math.cos(math.pi * run.minutes / c["minutes"])) + 0.01)
        sharp = cuts.next().contiguous(memory_format=torch.channels_last)
        small = F.avg_pool2d(sharp, 4)
        with torch.no_grad():
            # The denoiser's pictures are not perfect either: its errors differ from cell to cell and show as blocks.
            z = encoder.small(small)
            level = c["cell_noise"] * torch.rand(len(z), 1, 1, 1).square() * (torch.rand(len(z), 1, 1, 1) < c["noisy_share"])
            small = preview(z + level * torch.randn_like(z)).clamp(-1, 1)
        with fast():
            made = net(small)
        made = made.float()
        pixel = (made - sharp).abs().mean()
        slope = torch.stack([(a - b).abs().mean() for a, b in zip(_slopes(made), _slopes(sharp), strict=True)]).sum()
        run.step(pixel + c["gradient_weight"] * slope, rate)
        if run.steps % 200 == 0:
            print(f"{run.minutes:6.1f} min {run.steps:6d} steps  pixel {pixel.item():.4f} slope {slope.item():.4f}", flush=True)
            run.save()
    run.save()
    return run.path


def main() -> None:
    options = arguments(__doc__).parse_args()
    train(load_config(options.config, options.work))


if __name__ == "__main__":
    main()
