"""Trains the light enlarger, which quick takes are drawn with, on what the one that is told drawings makes of pictures; resumes from its
checkpoint.

`python -m training.train_light [--config FILE] [--work DIR]`

Needs what `training.train_drawn` painted, and learns from its checkpoint, or else from the installed pack's (after Hinton, Vinyals, Dean,
"Distilling the knowledge in a neural network", 2015).
"""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import torch
from torch import Tensor

from .config import Config, arguments, load_config, work_folder
from .export import drawn_decoder
from .latent import as_input, as_pixels
from .networks import DrawnEnlarger, LightEnlarger
from .optimiser import Plain
from .precision import fast
from .progress import Progress, train_for
from .render import averaged
from .train_denoiser import load_latent
from .train_drawn import drawn_of, near_things
from .train_enlarger import error_of


def light_of(sharp: Path) -> Path:
    """Where that lies which is made of the pictures of a file of sharp scenes."""
    return sharp.with_name(sharp.name.replace("sharp", "light"))


@torch.no_grad()
def make_file(teacher: DrawnEnlarger, config: Config, source: Path, seed: int) -> Path:
    """What the teacher makes of a file's scenes, painted or as they are, told drawings or none; where that is done already it is left."""
    target, c = light_of(source), config["light"]
    if target.exists():
        return target
    rng = np.random.default_rng(seed)
    with np.load(source) as z, np.load(drawn_of(source)) as made:
        pixels, lines, masks, captions = z["pixels"], z["lines"], z["masks"], json.loads(str(z["captions"]))
        small, alone = made["small"].copy(), made["alone"]
    painted, told, aims = rng.random(len(pixels)) < c["painted_share"], lines.copy(), np.empty_like(pixels)
    for i, picture in enumerate(pixels):
        if not painted[i]:
            small[i] = np.round(averaged(picture, 4))
        only, u = painted[i] and alone[i], rng.random()
        if only or c["none"] < u < c["none"] + c["only_things"]:
            told[i] = told[i] * near_things(masks[i], captions[i])
        elif u < c["none"]:
            told[i] = 0
        x = as_input(small[i : i + 1])
        aims[i] = as_pixels(teacher(x, torch.full((1, 1, *x.shape[2:]), float(painted[i])), _shown(told[i][None])))[0]
    partial = target.with_suffix(".partial.npz")
    np.savez(partial, small=small, painted=painted, lines=told, aims=aims)
    partial.rename(target)
    return target


def _shown(lines: np.ndarray) -> Tensor:
    """Drawings (B, H, W) uint8 -> (B, 1, H, W) 0..1."""
    return torch.from_numpy(lines.astype(np.float32) / 255)[:, None]


class LightCuts:
    """Random squares of what the teacher was told and made."""

    def __init__(self, files: list[Path], c: Config, seed: int) -> None:
        self.c, self.rng = c, np.random.default_rng(seed)
        read = [np.load(file) for file in files]
        self.small, self.painted, self.lines, self.aims = (
            np.concatenate([z[name] for z in read]) for name in ("small", "painted", "lines", "aims")
        )

    def next(self) -> tuple[Tensor, Tensor, Tensor, Tensor]:
        """Small squares (B, 3, crop / 4, crop / 4) and what is made of them (B, 3, crop, crop) in -1..1; lines (B, 1, crop, crop) 0..1;
        painted (B, 1, crop / 4, crop / 4)."""
        n, out = self.c["crop"] // 4, []
        for _ in range(self.c["batch"]):
            i = int(self.rng.integers(len(self.small)))
            y, x = (int(self.rng.integers(0, side - n + 1)) for side in self.small[i].shape[:2])
            fine, large = (slice(y, y + n), slice(x, x + n)), (slice(4 * y, 4 * (y + n)), slice(4 * x, 4 * (x + n)))
            way = slice(None, None, -1 if self.rng.random() < 0.5 else 1)
            out.append((self.small[i][fine][:, way], self.aims[i][large][:, way], self.lines[i][large][:, way], self.painted[i]))
        small, aims = (as_input(np.stack([o[k] for o in out])) for k in (0, 1))
        painted = torch.tensor([float(o[3]) for o in out])[:, None, None, None].expand(-1, 1, n, n)
        return small, aims, _shown(np.stack([o[2] for o in out])), painted


def train(config: Config) -> Path:
    """Trains for the config's minutes, from a checkpoint where there is one; returns the checkpoint.

    Raises:
        ValueError: no picture was painted that could be learned from, or nothing to learn from it with.
    """
    c, e, folder = config["light"], config["enlarger"], work_folder(config)
    files = [file for file in sorted((folder / "scenes").glob("sharp-*.npz")) if drawn_of(file).exists()]
    teacher = drawn_decoder(config, load_latent(config).rounded()) if files else None
    if teacher is None:
        raise ValueError("There is nothing to learn from. Run `python -m training.train_drawn` first.")
    assert isinstance(teacher[0].enlarger, DrawnEnlarger)
    made = [make_file(teacher[0].enlarger, config, file, c["seed"] + k) for k, file in enumerate(files)]
    torch.manual_seed(c["seed"])
    net = LightEnlarger().to(memory_format=torch.channels_last)  # type: ignore[call-overload]
    run = Progress(folder / "light.pt", net, Plain(list(net.parameters()), 0.98, 0.01))
    cuts = LightCuts(made, c, c["seed"] + run.steps)

    def loss() -> Tensor:
        small, aims, lines, painted = cuts.next()
        with fast():
            drawn = net(small.clamp(-1, 1), painted, lines)
        return error_of(drawn.float(), aims, e)

    train_for(run, c["minutes"], c["rate"], 200, loss)
    return run.path


def main() -> None:
    options = arguments(__doc__).parse_args()
    train(load_config(options.config, options.work))


if __name__ == "__main__":
    main()
