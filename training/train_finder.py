"""Trains the finder, which tells what is seen where in a picture; resumes from its checkpoint.

`python -m training.train_finder [--config FILE] [--work DIR] [--for MINUTES] [--from-pack DIR]`

It learns from the true masks of scenes, never from outlines that were asked for; half of the pictures go through the
representation with errors like a denoiser's, and some are reworked lightly (`python -m training.rework`, where there is a denoiser),
so that painted pictures are no stranger to it than drawn ones. It sees close views too: small things are looked at from nearer.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import torch
import torch.nn.functional as F
from torch import Tensor

from .config import Config, arguments, load_config, work_folder
from .from_pack import finder_labels, half_again, read_finder, with_more_labels
from .latent import Encoder, Latent, Preview, as_input
from .networks import Finder
from .optimiser import Optimiser
from .precision import fast
from .progress import Progress
from .render import PER_CELL, averaged
from .samples import SMALL, Draw, Group, Scenes
from .train_denoiser import load_latent
from .world.scene import kinds
from .world.words import COLOURS, FINISHES, PARTS, SEASONS, SETTINGS, SKIES

#: How near everything is, told in every cell as what it has is.
NEAR = "near"
ATTRIBUTES = ("facing left", "facing right", "lit", "standing", "walking", "sitting", "lying", "portrait")


#: Files of scenes: to learn from, to learn from as reworked, and to judge by.
SCENES, CLOSE, REWORKED = "chunk-*.npz", "close-*.npz", "reworked-*.npz"
UNSEEN, UNSEEN_CLOSE, UNSEEN_REWORKED = "held-out-*.npz", "unseen-close.npz", "unseen-reworked.npz"


def labels() -> tuple[str, ...]:
    """What is told apart in every cell."""
    return (*kinds(), *COLOURS, *ATTRIBUTES, *PARTS, NEAR)


def whole_labels() -> tuple[str, ...]:
    """What is told of the whole picture."""
    return (*SETTINGS, *SKIES, *SEASONS, *FINISHES)


def build(config: Config) -> Finder:
    return Finder(len(kinds()), len(COLOURS) + len(ATTRIBUTES) + len(PARTS) + 1, len(whole_labels()), config["finder"]["channels"])


class Truth:
    """Pictures with what is true of them. even, living: scenes with rare things, and with animals or people, come more often, see `Draw`;
    blurred: how often pictures are as soft as a painted one is that is looked at from half as far."""

    def __init__(
        self, scenes: Scenes, latent: Latent, shrink: int, cell_noise: float, even: float = 0.0, living: int = 1, blurred: float = 0.0
    ) -> None:
        self.scenes = scenes
        self._of = {name: i for i, name in enumerate(labels())}
        self._whole = {name: i for i, name in enumerate(whole_labels())}
        self._encoder, self._preview, self._noise = Encoder(latent, shrink), Preview(latent), cell_noise
        self._draw, self._blurred = Draw(scenes, even, living), blurred

    def cells(self) -> Tensor:
        """Share of all cells that shows each kind, and none, (K + 1,), as scenes are drawn."""
        shown, total = np.zeros(len(kinds()) + 1), 0.0
        for number, group in enumerate(self.scenes.groups):
            total += group.masks.shape[0] * np.prod(group.masks.shape[2:])
            cells = group.masks.sum((2, 3), dtype=np.int64) / 255
            for caption, of_parts, often in zip(group.captions, cells, self._draw.often(number), strict=True):
                for part, n in zip(caption["parts"], of_parts, strict=False):
                    shown[self._of[part["kind"]]] += often * n
        shown[-1] = max(total - shown.sum(), 0)
        return torch.from_numpy(shown / total).float()

    def _target(self, group: Group, i: int, mirrored: bool) -> tuple[np.ndarray, np.ndarray]:
        h, w = group.masks.shape[2:]
        target, whole = np.zeros((len(self._of), h, w), np.float32), np.zeros(len(self._whole), np.float32)
        caption = group.captions[i]
        for word in caption["words"]:
            whole[self._whole[word]] = 1
        for part, mask in zip(caption["parts"], group.masks[i], strict=False):
            m = mask.astype(np.float32) / 255
            said = [str(part["kind"]), *(word for word, _ in (*part["before"], *part["after"]))]
            for word in said:
                if mirrored and word.startswith("facing"):
                    word = "facing left" if word.endswith("right") else "facing right"
                if word in self._of:
                    j = self._of[word]
                    target[j] = np.maximum(target[j], m)
        if group.named is not None:
            target[self._of[PARTS[0]] : self._of[NEAR]] = group.named[i].astype(np.float32) / 255
        if group.guides is not None:
            target[self._of[NEAR]] = averaged(group.guides[i, ..., 1:].astype(np.float32) / 255, PER_CELL)[..., 0]
        return (target[:, :, ::-1] if mirrored else target), whole

    @torch.no_grad()
    def batch(self, rng: np.random.Generator, size: int) -> tuple[Tensor, Tensor, Tensor]:
        """Pictures (B, 3, 4 h, 4 w) in -1..1, targets (B, K, h, w) and of the whole (B, S), 0..1."""
        number = self._draw.group(rng)
        group = self.scenes.groups[number]
        pictures, targets, wholes = [], [], []
        for _ in range(size):
            i, mirrored = self._draw.one(rng, number), bool(rng.random() < 0.5)
            target, whole = self._target(group, i, mirrored)
            pictures.append(group.pixels[i][:, ::-1] if mirrored else group.pixels[i])
            targets.append(target)
            wholes.append(whole)
        x = as_input(np.stack(pictures))
        g = torch.Generator().manual_seed(int(rng.integers(2**31)))
        level = self._noise * torch.rand(size, 1, 1, 1, generator=g) * (torch.rand(size, 1, 1, 1, generator=g) < 0.5)
        z = self._encoder.small(x)
        x = self._preview(z + level * torch.randn(z.shape, generator=g)).clamp(-1, 1)
        if self._blurred:
            soft = torch.rand(size, 1, 1, 1, generator=g) < self._blurred
            x = torch.where(soft, F.interpolate(F.avg_pool2d(x, 2), scale_factor=2.0, mode="bicubic"), x).clamp(-1, 1)
        # Tints and brightness vary a little, as they do in other hands.
        x = ((x + 1) * (1 + 0.12 * (torch.rand(size, 3, 1, 1, generator=g) - 0.5)) - 1).clamp(-1, 1)
        return x, torch.from_numpy(np.stack(targets)), torch.from_numpy(np.stack(wholes))


def load_truth(config: Config, latent: Latent, *patterns: str, **how: Any) -> Truth:
    """The scenes of the files that match the patterns. how: see `Truth`."""
    c, folder = config["finder"], work_folder(config) / "scenes"
    files = [file for pattern in patterns for file in sorted(folder.glob(pattern))[: c["chunks"]]]
    return Truth(Scenes(files), latent, config["latent"]["shrink"], c["cell_noise"], **how)


def weights_of(cells: Tensor) -> Tensor:
    """How much a cell of each kind counts, (K + 1,), from the kinds' shares of all cells: a pear as rare as it is small would never
    be learned beside meadows. By the root of the share: fully evened out, every cell would be taken for something rare."""
    return (0.01 / cells.clamp(min=1e-6)).sqrt().clamp(0.3, 4)


def small_ones_more(there: Tensor, most: float) -> Tensor:
    """How much the cells of each kind in each picture count above their kind's weight, (B, K + 1, 1, 1), from their shares of cells
    (B, K, h, w): more where there are few of them, `most` at most; of none, 1."""
    few = (SMALL / there.sum((2, 3)).clamp(min=1)).sqrt().clamp(1, most)
    return torch.cat([few, torch.ones(len(few), 1)], 1)[:, :, None, None]


def loss_of(net: Finder, weights: Tensor, x: Tensor, target: Tensor, whole: Tensor, small_things: float = 1.0) -> Tensor:
    """Weighted cross-entropy of the kinds in every cell; binary for traits, and for the whole. small_things: see `small_ones_more`."""
    with fast():
        found, said = net(x)
    kinds, traits = net.parted(found.float())
    there, true = target[:, : net.kinds], target[:, net.kinds :]
    share = there.sum(1, keepdim=True)
    mix = torch.cat([there, (1 - share).clamp(min=0)], 1)
    mix = mix / mix.sum(1, keepdim=True)
    weighted = mix * weights[:, None, None] * small_ones_more(there, small_things)
    # Parts are few and small; how near something is is no more often one than the other.
    heavier = true.new_full((true.shape[1],), 3.0)
    heavier[-1 - len(PARTS) : -1], heavier[-1] = 8.0, 0.0
    of_traits = F.binary_cross_entropy_with_logits(traits, true, weight=1 + heavier[:, None, None] * true)
    of_kinds = -(weighted * F.log_softmax(kinds, 1)).sum() / weighted.sum()
    return of_kinds + 5 * of_traits + F.binary_cross_entropy_with_logits(said.float(), whole)


def validation(config: Config, latent: Latent) -> Callable[[Finder], float]:
    """The loss on fixed batches of unseen scenes, of close views and of reworked ones, as far as there are any: the geometric mean of
    the three, so that what is hardest does not decide alone."""
    c, rng = config["finder"], np.random.default_rng(13)
    there = [p for p in (UNSEEN, UNSEEN_CLOSE, UNSEEN_REWORKED) if any((work_folder(config) / "scenes").glob(p))]
    truths = [load_truth(config, latent, pattern) for pattern in there]
    weights, sets = weights_of(truths[0].cells()), [[truth.batch(rng, c["batch"]) for _ in range(6)] for truth in truths]

    @torch.no_grad()
    def measure(net: Finder) -> float:
        of_sets = [np.mean([loss_of(net, weights, *batch, c["small_things"]).item() for batch in batches]) for batches in sets]
        return float(np.exp(np.mean(np.log(of_sets))))

    return measure


@dataclass(frozen=True)
class Judged:
    """precision and recall of pictures, overlap (intersection over union) of cells, all 0..1; pictures that have it."""

    precision: float
    recall: float
    overlap: float
    pictures: int


@torch.no_grad()
def judged(net: Finder, truth: Truth, batches: int = 20, size: int = 24) -> dict[str, Judged]:
    """How well each label is found in fixed batches of scenes."""
    net.eval()
    names = labels()
    hit, said, there = np.zeros(len(names)), np.zeros(len(names)), np.zeros(len(names))
    overlap, union = np.zeros(len(names)), np.zeros(len(names))
    rng = np.random.default_rng(5)
    for _ in range(batches):
        x, target, _ = truth.batch(rng, size)
        p = net.certainties(net(x)[0]).numpy()
        t = target.numpy()
        seen, true = (p > 0.5).sum((2, 3)) >= 2, (t > 0.5).sum((2, 3)) >= 2
        hit += (seen & true).sum(0)
        said += seen.sum(0)
        there += true.sum(0)
        overlap += (np.minimum(p > 0.5, t > 0.5)).sum((0, 2, 3))
        union += (np.maximum(p > 0.5, t > 0.5)).sum((0, 2, 3))
    net.train()
    return {
        n: Judged(hit[i] / max(said[i], 1), hit[i] / max(there[i], 1), overlap[i] / max(union[i], 1), int(there[i]))
        for i, n in enumerate(names)
    }


def mean_of_kinds(table: dict[str, Judged]) -> str:
    """Precision, recall and overlap, the mean of all kinds that were there."""
    rows = [row for name, row in table.items() if row.pictures and name in kinds()]
    p, r, o = np.mean([(row.precision, row.recall, row.overlap) for row in rows], 0)
    return f"precision {p:.3f} recall {r:.3f} IoU {o:.3f}"


def train(config: Config, stop_after: float = float("inf"), from_pack: Path | None = None) -> Path:
    """Trains for the config's minutes (or `stop_after` more), from a checkpoint or a pack's weights where there are any; returns the
    checkpoint. A pack whose labels are all there can be gone on from; its finder may have two thirds of the channels."""
    c = config["finder"]
    folder = work_folder(config)
    torch.manual_seed(c["seed"])
    net = build(config).to(memory_format=torch.channels_last)  # type: ignore[call-overload]
    path = folder / "finder.pt"
    run = Progress(path, net, Optimiser(net, c["momentum"], c["weight_decay"], plain=("stem", "out", "whole")))
    if from_pack is not None and not path.exists():
        begun, run.before = read_finder(from_pack)
        begun = with_more_labels(begun, net.state_dict(), finder_labels(from_pack), labels())
        net.load_state_dict(half_again(begun, net.state_dict()))
    latent = load_latent(config)
    held, how = load_truth(config, latent, UNSEEN), {name: c[name] for name in ("even", "living", "blurred")}
    truth = load_truth(config, latent, SCENES, CLOSE, **how)
    painted = load_truth(config, latent, REWORKED, **how) if any((folder / "scenes").glob(REWORKED)) else truth
    rng, weights = np.random.default_rng(c["seed"] + run.steps), weights_of(truth.cells())

    until = min(c["minutes"], run.minutes + stop_after)
    run.begin()
    while run.minutes < until:
        rate = c["rate"] * min(1, (run.steps + 1) / 200) * max(0.02, 1 - run.minutes / c["minutes"])
        loss = loss_of(net, weights, *(painted if rng.random() < c["reworked_share"] else truth).batch(rng, c["batch"]), c["small_things"])
        run.step(loss, rate)
        if run.steps % 250 == 0:
            found = mean_of_kinds(judged(net, held, 4))
            print(f"{run.minutes:6.1f} min {run.steps:6d} steps  loss {loss.item():.4f}  {found}", flush=True)
            run.save()
    run.save()
    return run.path


def main() -> None:
    parser = arguments(__doc__)
    parser.add_argument("--for", dest="minutes", type=float, default=float("inf"), help="stop after so many minutes")
    parser.add_argument("--from-pack", type=Path)
    options = parser.parse_args()
    train(load_config(options.config, options.work), options.minutes, options.from_pack)


if __name__ == "__main__":
    main()
