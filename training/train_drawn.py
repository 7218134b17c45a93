"""Trains the enlarger that is told drawings, from the one that is not or from a pack's own; resumes from its last checkpoint.

`python -m training.train_drawn [--config FILE] [--work DIR] [--from-pack DIR]`

It learns from sharp scenes that the denoiser painted again from much noise, most of them following their drawing, to make of them what
they were: with the whole drawing, that of things alone, or none. Needs a denoiser's checkpoint.
"""

from __future__ import annotations

import itertools
import json
from pathlib import Path
from typing import Any

import numpy as np
import torch
from scipy import ndimage
from torch import Tensor

from .config import Config, arguments, load_config, work_folder
from .fidelity import gradient
from .from_pack import read_drawn, read_enlarger
from .latent import Encoder, Latent, Preview, as_input, as_pixels
from .networks import DrawnEnlarger, Enlarger, Painter
from .optimiser import Plain
from .precision import fast
from .progress import Progress, train_for
from .render import averaged, shrunk
from .rework import BATCH, told_of
from .train_denoiser import build, load_latent
from .train_enlarger import error_of

#: Small pixels about each place in which a shape's colour is compared, and the deviation in 0..255 below which nothing there is a shape.
ABOUT, EVEN = 8, 5.0
#: Length of a true gradient that is an edge, how many small pixels beside it what was painted spills, and the least that counts there.
EDGE, SPILT, LEAST = 0.06, 2.5, 0.001
#: Pixels round things in which a picture counts that was painted from their drawing alone: farther off it is another one.
ROUND = 28


def drawn_of(sharp: Path) -> Path:
    """Where the pictures of a file of sharp scenes lie that were painted from their drawings."""
    return sharp.with_name(sharp.name.replace("sharp", "drawn"))


def recoloured(sharp: np.ndarray, became: np.ndarray) -> np.ndarray:
    """A picture (4 h, 4 w, 3) 0..255 in which each shape has the colour that it has in `became` (h, w, 3), evenly: what changed, as a
    linear function of the true colours round each place (He, Sun, Tang, "Guided image filtering", 2013). What was painted beside a true
    edge counts little: it may be the other shape's."""
    true = averaged(sharp, 4).astype(np.float32)
    change = became - true
    edges = np.pad(gradient(true / 255) > EDGE, ((0, 1), (0, 1)), mode="edge")
    beside = ndimage.distance_transform_edt(~edges) if edges.any() else np.full(edges.shape, SPILT)
    counts = np.clip(beside / SPILT, 0, 1).astype(np.float32) ** 2 + LEAST

    def mean_of(x: np.ndarray) -> np.ndarray:
        return np.asarray(ndimage.uniform_filter(x, (2 * ABOUT + 1, 2 * ABOUT + 1, *[1] * (x.ndim - 2)), mode="nearest"))

    def about(x: np.ndarray) -> np.ndarray:
        by = counts.reshape(*counts.shape, *[1] * (x.ndim - 2))
        return mean_of(x * by) / mean_of(by)

    mean, mean_change = about(true), about(change)
    within = about(true[..., :, None] * true[..., None, :]) - mean[..., :, None] * mean[..., None, :]
    across = about(true[..., :, None] * change[..., None, :]) - mean[..., :, None] * mean_change[..., None, :]
    by = np.linalg.solve(within + np.eye(3, dtype=np.float32) * EVEN**2, across)
    rest = mean_change - np.einsum("hwc,hwcd->hwd", mean, by)
    large = ndimage.zoom(
        about(np.concatenate([by.reshape(*mean.shape[:2], 9), rest], -1)), (4, 4, 1), order=1, grid_mode=True, mode="nearest"
    )
    changed = np.einsum("hwc,hwcd->hwd", sharp.astype(np.float32), large[..., :9].reshape(*sharp.shape[:2], 3, 3)) + large[..., 9:]
    return np.asarray(np.clip(sharp + changed, 0, 255), np.float32)


@torch.no_grad()
def painted(
    net: Painter, x: Tensor, told: tuple[Tensor, ...], lines: Tensor, strength: float, c: Config, rng: np.random.Generator
) -> Tensor:
    """Latents (B, C, h, w) noised to a strength and painted again, told lines (B, 1, 4 h, 4 w) where there are any; where words lead,
    lines lead too, as in passes."""
    generator = torch.Generator().manual_seed(int(rng.integers(1 << 62)))
    guidance = 1.0 if rng.random() < 0.5 else c["guidance"]
    given, none = torch.zeros(len(x), 2), torch.zeros_like(lines)
    given[:, 0] = (lines.amax((1, 2, 3)) > 0).float()
    guides, away = (lines, none, given), (none, none, given)
    x = (1 - strength) * x + strength * torch.randn(x.shape, generator=generator)
    kept, hole = torch.zeros_like(x), torch.ones(len(x), 1, *x.shape[2:])
    ids, kind, outline, weight = told
    for a, b in itertools.pairwise(np.linspace(strength, 0, c["steps"] + 1, dtype=np.float32)):
        t = torch.full((len(x),), float(a))
        with fast():
            v = net(x, kept, hole, t, *told, guides).float()
            if guidance != 1:
                without = net(x, kept, hole, t, ids, torch.zeros_like(kind), outline, torch.zeros_like(weight), away).float()
                v = without + guidance * (v - without)
        x = x + float(b - a) * v
    return x


def paint_file(net: Painter, latent: Latent, config: Config, source: Path) -> Path:
    """The scenes of a file painted again; where that is done already it is left."""
    target, c = drawn_of(source), config["drawn"]
    if target.exists():
        return target
    encoder, preview, rng = Encoder(latent, config["latent"]["shrink"]), Preview(latent), np.random.default_rng(c["seed"])
    with np.load(source) as z:
        pixels, lines, masks, captions = z["pixels"], z["lines"], z["masks"], json.loads(str(z["captions"]))
    out, alone = [], []
    for i in range(0, len(pixels), BATCH):
        part = slice(i, i + BATCH)
        x = encoder.small(as_input(shrunk(pixels[part], 4)))
        shown = lines[part].astype(np.float32) / 255
        how = str(rng.choice(list(c["strengths"]), p=c["shares"]))
        if how != "whole":
            near = [near_things(m, one) for m, one in zip(masks[part], captions[part], strict=True)]
            shown = shown * (np.stack(near) if how == "things" else 0)
        drawn = torch.from_numpy(averaged(shown[..., None], 4)[..., 0]).float()[:, None]
        strength = float(rng.uniform(*c["strengths"][how]))
        alone += [how == "things"] * len(x)
        out.append(as_pixels(preview(painted(net, x, told_of(captions[part], masks[part], config, rng), drawn, strength, c, rng))))
    partial = target.with_suffix(".partial.npz")
    np.savez(partial, small=np.concatenate(out), alone=alone)
    partial.rename(target)
    return target


class DrawnCuts:
    """Random squares of sharp scenes, their drawings, and what the denoiser made of them."""

    def __init__(self, files: list[Path], c: Config, seed: int) -> None:
        self.c, self.rng = c, np.random.default_rng(seed)
        self.pixels, self.aims, self.lines, self.small, self.near, self.alone = [], [], [], [], [], []
        for file in files:
            with np.load(file) as z, np.load(drawn_of(file)) as made:
                self.pixels += list(z["pixels"])
                self.lines += list(z["lines"])
                self.small += list(made["small"])
                self.alone += list(made["alone"])
                aims = (recoloured(b, m) for b, m in zip(z["bare"], made["small"], strict=True))
                self.aims += [np.round(aim).astype(np.uint8) for aim in aims]
                self.near += [near_things(m, one) for m, one in zip(z["masks"], json.loads(str(z["captions"])), strict=True)]

    def next(self) -> tuple[Tensor, Tensor, Tensor, Tensor, Tensor]:
        """Sharp squares (B, 3, crop, crop) and small ones (B, 3, crop / 4, crop / 4) in -1..1; lines, and where it counts, (B, 1, crop,
        crop) 0..1; painted (B,)."""
        n, out = self.c["crop"] // 4, []
        for _ in range(self.c["batch"]):
            i = int(self.rng.integers(len(self.pixels)))
            y, x = (int(self.rng.integers(0, side // 4 - n + 1)) for side in self.pixels[i].shape[:2])
            large = slice(4 * y, 4 * (y + n)), slice(4 * x, 4 * (x + n))
            painted = float(self.rng.random() < self.c["painted_share"])
            cut = (self.aims if painted else self.pixels)[i][large].astype(np.float32)
            lines = self.lines[i][large].astype(np.float32) / 255
            down = self.small[i][y : y + n, x : x + n].astype(np.float32) if painted else averaged(cut, 4)
            u, near = self.rng.random(), self.near[i][large]
            # One painted from its things' drawing alone is told that, and is the true picture only where they are.
            alone = bool(painted and self.alone[i])
            counts = ndimage.maximum_filter(near, 2 * ROUND + 1) if alone else np.ones_like(near)
            if u < self.c["none"] and not alone:
                lines = lines * 0
            elif u < self.c["none"] + self.c["only_things"] or alone:
                lines = lines * near
            elif self.rng.random() < 0.3:
                lines = np.clip(lines * self.rng.uniform(0.6, 2), 0, 1)
            way = slice(None, None, -1 if self.rng.random() < 0.5 else 1)
            out.append((cut[:, way], down[:, way], lines[:, way], counts[:, way], painted))
        sharp, small = (torch.from_numpy(np.stack([o[k] for o in out])).permute(0, 3, 1, 2).float() / 127.5 - 1 for k in (0, 1))
        lines_, counted = (torch.from_numpy(np.stack([o[k] for o in out])).float()[:, None] for k in (2, 3))
        return sharp.contiguous(memory_format=torch.channels_last), small, lines_, counted, torch.tensor([o[4] for o in out])


def near_things(masks: np.ndarray, caption: dict[str, Any]) -> np.ndarray:
    """Where the things of a scene are and a little round them, as large as its picture, bool. masks: (P, h, w) uint8."""
    things = [i for i, p in enumerate(caption["parts"]) if not p["big"]]
    solid = masks[things].max(0) > 40 if things else np.zeros(masks.shape[1:], bool)
    return np.asarray(ndimage.binary_dilation(np.kron(solid, np.ones((16, 16), bool)), iterations=6))


def train(config: Config, from_pack: Path | None = None) -> Path:
    """Trains for the config's minutes, from a checkpoint where there is one, else from a pack's own, else from the enlarger; returns the
    checkpoint."""
    c, e, folder = config["drawn"], config["enlarger"], work_folder(config)
    files = sorted((folder / "scenes").glob("sharp-*.npz"))
    if not files:
        raise ValueError("No sharp pictures were found. Run `python -m training.render` first.")
    latent, painter = load_latent(config), build(config)
    painter.load_state_dict(torch.load(folder / "denoiser.pt", weights_only=True)["average"])
    for file in files:
        paint_file(painter.eval(), latent, config, file)
    torch.manual_seed(c["seed"])
    plain, (before, minutes) = Enlarger(e["channels"], e["blocks"]), ({}, 0.0) if from_pack is None else read_drawn(from_pack)
    if from_pack is not None:
        plain.load_state_dict(read_enlarger(from_pack)[0])
    elif (folder / "enlarger.pt").exists():
        plain.load_state_dict(torch.load(folder / "enlarger.pt", weights_only=True)["net"])
    net = DrawnEnlarger(plain).to(memory_format=torch.channels_last)  # type: ignore[call-overload]
    run = Progress(folder / "drawn.pt", net, Plain(list(net.parameters()), 0.98, 0.01))
    if before and not run.path.exists():
        net.load_state_dict(before)
        run.before = minutes
    cuts = DrawnCuts(files, c, c["seed"] + run.steps)

    def loss() -> Tensor:
        sharp, small, lines, counted, mended = cuts.next()
        with fast():
            made = net(small.clamp(-1, 1), mended[:, None, None, None].expand(-1, 1, *small.shape[2:]), lines)
        return error_of(sharp + counted * (made.float() - sharp), sharp, e)

    train_for(run, c["minutes"], c["rate"], 100, loss)
    return run.path


def main() -> None:
    parser = arguments(__doc__)
    parser.add_argument("--from-pack", type=Path)
    options = parser.parse_args()
    train(load_config(options.config, options.work), options.from_pack)


if __name__ == "__main__":
    main()
