"""Trains the enlarger, the last step from latents to pixels; resumes from its checkpoint.

`python -m training.train_enlarger [--config FILE] [--work DIR] [--from-pack DIR]`

Besides true pictures shrunk it is given scenes that the denoiser reworked lightly (`python -m training.rework`, where there is a
denoiser), to make of them what they were: so it learns to mend what a denoiser gets wrong.
"""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import torch
from scipy import ndimage
from torch import Tensor, nn

from .config import Config, arguments, load_config, work_folder
from .decoder import Decoder
from .fidelity import judged
from .from_pack import read_enlarger
from .networks import Enlarger
from .optimiser import Plain
from .precision import fast
from .progress import Progress
from .real import dead_leaves, missing, photographs, unseen_photographs
from .render import averaged
from .rework import small_of
from .train_denoiser import load_latent

#: Deviation in small pixels below which a difference of colour counts as an error rather than as another colour.
TINT = 3.0


def slopes(x: Tensor) -> tuple[Tensor, Tensor]:
    """Differences of neighbours, downwards and across."""
    return x[..., 1:, :] - x[..., :-1, :], x[..., :, 1:] - x[..., :, :-1]


def apart(made: Tensor, true: Tensor) -> tuple[Tensor, Tensor]:
    """Of each picture the mean absolute difference, and that of its slopes, downwards and across added: (B,) each."""
    slope = torch.stack([(a - b).abs().mean((1, 2, 3)) for a, b in zip(slopes(made), slopes(true), strict=True)]).sum(0)
    return (made - true).abs().mean((1, 2, 3)), slope


def sharpness(x: Tensor) -> Tensor:
    """How much pictures change from pixel to pixel around each place, wherever exactly: (B, 1, h, w)."""
    down, across = slopes(x)
    length = (down[..., :, :-1].square() + across[..., :-1, :].square()).sum(1, keepdim=True).add(1e-6).sqrt()
    return nn.functional.avg_pool2d(length, 4)


def error_of(made: Tensor, sharp: Tensor, c: Config, drawn: Tensor | float = 1.0) -> Tensor:
    """The loss of pictures: of pixels, and as far as they are drawn (B,) of slopes where they are and of how steep they are anywhere."""
    pixel, slope = apart(made, sharp)
    blur = (sharpness(made) - sharpness(sharp)).abs().mean((1, 2, 3))
    return (pixel + drawn * (c["gradient_weight"] * slope + c["sharpness_weight"] * blur)).mean()


def tinted(sharp: np.ndarray, by: np.ndarray) -> np.ndarray:
    """A picture (4 h, 4 w, 3) 0..255 with the smooth part of differences (h, w, 3) added."""
    smooth = ndimage.gaussian_filter(by, (TINT, TINT, 0), mode="nearest")
    return np.clip(sharp + ndimage.zoom(smooth, (4, 4, 1), order=1, grid_mode=True, mode="nearest"), 0, 255)


class Cuts:
    """Random squares of the sharp scenes, of photographs and of dead leaves, in the shares given; of scenes that were reworked, a
    share from what they became, with the colours that they got in the large."""

    def __init__(self, folder: Path, c: Config, seed: int) -> None:
        files = sorted(folder.glob("sharp-*.npz"))
        if not files:
            raise ValueError("No sharp pictures were found. Run `python -m training.render` first.")
        self.c, self.crop, self.rng = c, c["crop"], np.random.default_rng(seed)
        self.scenes: list[np.ndarray] = []
        self.reworked: list[tuple[np.ndarray, np.ndarray]] = []
        for file in files:
            pixels = np.load(file)["pixels"]
            self.scenes += list(pixels)
            if small_of(file).exists():
                small = np.load(small_of(file))["pixels"]
                self.reworked += list(zip(pixels, small, strict=False))
        # The last of these are never trained on, neither way.
        kept = c["judged"] if self.reworked else 0
        self.unseen, self.reworked = self.reworked[len(self.reworked) - kept :], self.reworked[: len(self.reworked) - kept]
        known = {id(p) for p, _ in self.unseen}
        self.scenes = [p for p in self.scenes if id(p) not in known]
        self.real = [p for p in photographs() if min(p.shape[:2]) >= self.crop]
        self.unseen_real = unseen_photographs()
        self.leaves = [dead_leaves(np.random.default_rng(i), max(self.crop, 256)) for i in range(c["leaves"])]

    def _pair(self) -> tuple[np.ndarray, np.ndarray | None, bool]:
        u, real = self.rng.random(), self.c["real_share"]
        made_up = real + self.c["leaves_share"]
        if u >= made_up and self.reworked and self.rng.random() < self.c["reworked_share"]:
            return *self.reworked[int(self.rng.integers(len(self.reworked)))], False
        pool = self.real if u < real else self.leaves if u < made_up else self.scenes
        return pool[int(self.rng.integers(len(pool)))], None, u < real

    def judge(self, decoder: Decoder) -> str:
        """What a decoder makes of unseen scenes and photographs brought down as they are, and of the scenes as the denoiser reworked
        them: PSNR and edges kept."""
        rows: dict[str, list[tuple[float, float]]] = {"scenes": [], "reworked": [], "photographs": []}
        for sharp, became in self.unseen:
            true = sharp.astype(np.float32)
            down = averaged(true, 4)
            rows["scenes"].append(self._judged(decoder, down, true, 0.0))
            rows["reworked"].append(self._judged(decoder, became.astype(np.float32), tinted(true, became - down), 1.0))
        for sharp in self.unseen_real:
            true = sharp.astype(np.float32)
            rows["photographs"].append(self._judged(decoder, averaged(true, 4), true, 0.0))
        means = {name: np.mean(of, 0) for name, of in rows.items() if of}
        return ", ".join(f"{name} {psnr:.2f} dB {100 * kept:.1f} %" for name, (psnr, kept) in means.items()) or "nothing to judge by"

    @staticmethod
    @torch.no_grad()
    def _judged(decoder: Decoder, small: np.ndarray, aim: np.ndarray, painted: float) -> tuple[float, float]:
        with fast():
            z = decoder.encoder.small(torch.from_numpy(small / np.float32(127.5) - 1).permute(2, 0, 1)[None])
            made = decoder(z, torch.full((1, 1, *z.shape[2:]), painted)).float()
        return judged(made[0].permute(1, 2, 0).numpy(), aim / 255)

    def next(self) -> tuple[Tensor, Tensor, Tensor, Tensor]:
        """Sharp squares (B, 3, crop, crop) and small ones to be enlarged (B, 3, crop / 4, crop / 4), in -1..1; which of these were
        painted, and which are of photographs, (B,) 0 or 1 each."""
        cuts, smalls, painted, photographed = [], [], [], []
        n = self.crop // 4
        for _ in range(self.c["batch"]):
            picture, small, real = self._pair()
            y, x = (int(self.rng.integers(0, side // 4 - n + 1)) for side in picture.shape[:2])
            cut = picture[4 * y : 4 * (y + n), 4 * x : 4 * (x + n)].astype(np.float32)
            down = averaged(cut, 4)
            if small is not None:
                became = small[y : y + n, x : x + n].astype(np.float32)
                cut, down = tinted(cut, became - down), became
            # There are few photographs; turned and upside down they are others.
            quarters = int(self.rng.integers(4)) if real else 0
            way = slice(None, None, -1 if self.rng.random() < 0.5 else 1)
            painted.append(float(small is not None))
            photographed.append(float(real))
            cuts.append(np.rot90(cut, quarters)[:, way])
            smalls.append(np.rot90(down, quarters)[:, way])
        sharp, small_ = (torch.from_numpy(np.stack(a)).permute(0, 3, 1, 2) / 127.5 - 1 for a in (cuts, smalls))
        return sharp.contiguous(memory_format=torch.channels_last), small_, torch.tensor(painted), torch.tensor(photographed)


def train(config: Config, from_pack: Path | None = None) -> Path:
    """Trains for the config's minutes, from a checkpoint or a pack's weights where there are any; returns the checkpoint."""
    c = config["enlarger"]
    folder = work_folder(config)
    torch.manual_seed(c["seed"])
    net = Enlarger(c["channels"], c["blocks"]).to(memory_format=torch.channels_last)  # type: ignore[call-overload]
    path = folder / "enlarger.pt"
    run = Progress(path, net, Plain(list(net.parameters()), 0.98, 0.01))
    if from_pack is not None and not path.exists():
        weights, run.before = read_enlarger(from_pack)
        net.load_state_dict(weights)
    cuts = Cuts(folder / "scenes", c, c["seed"] + run.steps)
    if packages := missing():
        print(f"More photographs would be trained on with these Debian packages installed: {', '.join(packages)}", flush=True)

    decoder = Decoder(load_latent(config), config["latent"]["shrink"], net)
    told = -math.inf

    def tell() -> None:
        run.save()
        print(f"{run.before + run.minutes:6.1f} min {run.steps:6d} steps  {cuts.judge(decoder)}", flush=True)
        run.begin()

    run.begin()
    while run.minutes < c["minutes"]:
        if run.minutes - told >= c["judge_minutes"]:
            told = run.minutes
            tell()
        rate = c["rate"] * min(1, (run.steps + 1) / 100) * (0.5 * (1 + math.cos(math.pi * run.minutes / c["minutes"])) + 0.01)
        sharp, small, painted, photographed = cuts.next()
        with torch.no_grad():
            # The denoiser's pictures are not perfect either: its errors differ from cell to cell and show as blocks.
            z = decoder.encoder.small(small)
            level = c["cell_noise"] * torch.rand(len(z), 1, 1, 1).square() * (torch.rand(len(z), 1, 1, 1) < c["noisy_share"])
            z = z + level * torch.randn_like(z)
            mended = torch.maximum(painted[:, None, None, None], (level > 0).float())
        with fast():
            made = decoder.drawn(z, mended.expand(-1, 1, *z.shape[2:]))
        # Drawn edges are as steep as they can be; in a photograph, what cannot be known is best left soft.
        drawn = 1 - (1 - c["photographed_weight"]) * photographed
        run.step(error_of(made.float(), sharp, c, drawn), rate)
    tell()
    return run.path


def main() -> None:
    parser = arguments(__doc__)
    parser.add_argument("--from-pack", type=Path)
    options = parser.parse_args()
    train(load_config(options.config, options.work), options.from_pack)


if __name__ == "__main__":
    main()
