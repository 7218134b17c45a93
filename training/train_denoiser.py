"""Trains the denoiser; resumes from its last checkpoint, or starts from a pack's weights.

`python -m training.train_denoiser [--config FILE] [--work DIR] [--from-pack DIR] [--for MINUTES]`

The rate follows the minutes trained, so a stopped run goes on as if it had not been stopped.
"""

from __future__ import annotations

import copy
import multiprocessing as mp
import os
from collections.abc import Callable
from multiprocessing.queues import Queue
from pathlib import Path
from queue import Full
from typing import Any, Protocol

import numpy as np
import torch
from torch import Tensor

from waldrand.core.told import look

from .config import Config, arguments, load_config, work_folder
from .from_pack import read_latent, read_weights, widened
from .latent import Encoder, Latent, as_input, fit
from .networks import Painter
from .optimiser import Optimiser
from .precision import fast
from .progress import Clock, save_whole
from .samples import EXACT, Batch, Sampler, Scenes
from .world.scene import kinds
from .world.words import vocabulary


def build(config: Config) -> Painter:
    """An untrained denoiser with its reader of words."""
    c = config["denoiser"]
    return Painter(len(vocabulary(kinds())), config["latent"]["channels"], c["channels"], c["words"], c["text_layers"], c["phrase_length"])


def load_latent(config: Config) -> Latent:
    """The representation, fitted on first use."""
    folder = work_folder(config)
    path = folder / "latent.npz"
    if not path.exists():
        fit(Scenes(sorted((folder / "scenes").glob("chunk-*.npz"))[:1]).groups[0].pixels[:1500], config).save(path)
    return Latent.load(path)


def make_sampler(config: Config, window: int, held_out: bool = False, shaped: bool = False, near: bool = False) -> Sampler:
    """Samples of the training scenes, or of those held out: with tight outlines, so that every version is measured alike, or all of
    them the things' own shapes, or of near views with their parts told."""
    c, folder = config["denoiser"], work_folder(config) / "scenes"
    told = (window, c["rows"], c["phrase_length"], c["no_words"], c["no_outlines"])
    if near:
        return Sampler(Scenes([folder / "unseen-near.npz"]), *told, parts=1.0)
    if held_out:
        return Sampler(Scenes(sorted(folder.glob("held-out-*.npz"))), *told, exact=1.0 if shaped else EXACT)
    return Sampler(
        Scenes(sorted(path for of in ("chunk", "close", "near") for path in folder.glob(f"{of}-*.npz"))),
        *told,
        c["roomy"],
        c["small_things"],
        c["even"],
        c["living"],
        c["exact"],
        c["dots"],
        guided=True,
        looks=c["looks"],
        parts=c["parts"],
    )


def _produce(queue: Queue[Batch], config: Config, window: int, size: int, seed: int, parent: int) -> None:
    torch.set_num_threads(1)
    for batch in make_sampler(config, window).batches(seed, size):
        # Nobody reads any more once the training was killed: the queue stays full.
        while os.getppid() == parent:
            try:
                queue.put(batch, timeout=5)
                break
            except Full:
                continue
        else:
            # Nor does this process wait for what it has left to say.
            queue.cancel_join_thread()
            return


def with_looks(batch: Batch, latents: np.ndarray) -> tuple[list[Tensor], Tensor]:
    """ids, kind, outline and weight of a batch with one row more, for the looks of its own latents (B, C, h, w), and these looks."""
    n = len(batch.kind)
    looks = np.zeros((n, look.length(latents.shape[1])), np.float32)
    for i in np.flatnonzero(batch.look_kind):
        looks[i] = look.look_of(latents[i], batch.look[i])
    ids = np.concatenate([batch.ids, np.zeros_like(batch.ids[:, :1])], 1)
    kind = np.concatenate([batch.kind, batch.look_kind[:, None]], 1)
    outline = np.concatenate([batch.outline, batch.look[:, None]], 1)
    weight = np.concatenate([batch.weight, (batch.look_kind > 0).astype(np.float32)[:, None]], 1)
    return [torch.from_numpy(a) for a in (ids, kind, outline, weight)], torch.from_numpy(looks)


def fit_looks(net: Painter, config: Config, encoder: Encoder, rounds: int = 8, size: int = 48) -> None:
    """Tells a network's reader of looks the means and deviations of looks of the training scenes."""
    sampler, rng, looks = make_sampler(config, 0), np.random.default_rng(17), []
    for _ in range(rounds):
        with torch.no_grad():
            latents = encoder.small(as_input(sampler.batch(rng, size).pixels)).numpy()
        looks += [look.look_of(latent) for latent in latents]
    net.look.centre.data = torch.from_numpy(np.mean(looks, 0))
    net.look.spread.data = torch.from_numpy(np.std(looks, 0) + 1e-3)


class Loss:
    """The mean squared error of the flow, heavier on things and in the hole."""

    def __init__(self, config: Config, encoder: Encoder) -> None:
        self.c, self.encoder = config["denoiser"], encoder

    def times(self, n: int, generator: torch.Generator | None = None, late: float = 0.0) -> Tensor:
        """Noise levels (n,) of samples; `late` of them are those of a take's last steps."""
        c = self.c
        t = torch.sigmoid(torch.randn(n, generator=generator) * c["time_deviation"] + c["time_mean"])
        if late:
            low = torch.rand(n, generator=generator) * c["late_below"]
            t = torch.where(torch.rand(n, generator=generator) < late, low, t)
        return t

    def __call__(self, net: Painter, batch: Batch, noise: Tensor, t: Tensor) -> Tensor:
        with torch.no_grad():
            x = self.encoder.small(as_input(batch.pixels))
        hole = torch.from_numpy(batch.hole)[:, None]
        level = t[:, None, None, None]
        noisy = (1 - level) * x + level * noise
        told, looks = with_looks(batch, x.numpy())
        guides = torch.from_numpy(batch.lines)[:, None], torch.from_numpy(batch.depth)[:, None], torch.from_numpy(batch.given)
        with fast():
            v = net(noisy, x * (1 - hole), hole, t, *told, guides, looks)
        o, k = self.c["outside_weight"], self.c["thing_weight"]
        w = (o + (1 - o) * hole) * (1 + (k - 1) * torch.from_numpy(batch.things)[:, None])
        return ((v.float() - (noise - x)) ** 2 * w).mean() / w.mean()


def latent_shape(config: Config, batch: Batch) -> tuple[int, ...]:
    """(B, C, h, w) of a batch's latents."""
    return (batch.hole.shape[0], config["latent"]["channels"], *batch.hole.shape[1:])


class Measure(Protocol):
    """A painter's loss on fixed samples; late: at the levels of a take's last steps alone."""

    def __call__(self, net: Painter, late: bool = False) -> float: ...


def validation(config: Config, loss: Loss, window: int, shaped: bool = False, near: bool = False) -> Measure:
    """The fixed validation: 288 samples of held-out scenes, the same noise and levels every time. shaped: with the things' own shapes
    as outlines, as figures tell them; near: of near views with their parts told."""
    sampler, g = make_sampler(config, window, True, shaped, near), torch.Generator().manual_seed(1)
    rng, size, rounds = np.random.default_rng(11), (48, 4)[len(sampler.scenes) < 100], 6
    batches = [sampler.batch(rng, size) for _ in range(rounds)]
    noises = [torch.randn(latent_shape(config, batch), generator=g) for batch in batches]
    drawn = g.get_state()

    def times(late: bool) -> list[Tensor]:
        g.set_state(drawn)
        return [loss.times(size, g, float(late)) for _ in range(rounds)]

    @torch.no_grad()
    def measure(net: Painter, late: bool = False) -> float:
        return float(np.mean([loss(net, *a).item() for a in zip(batches, noises, times(late), strict=True)]))

    return measure


class Run:
    """A training in progress: weights, their average, optimiser, minutes in all and before this training's phases."""

    def __init__(self, config: Config) -> None:
        torch.manual_seed(config["denoiser"]["seed"])
        self.config = config
        self.net = build(config).to(memory_format=torch.channels_last)  # type: ignore[call-overload]
        self.average = copy.deepcopy(self.net)
        c = config["denoiser"]
        self.optimiser = Optimiser(self.net, c["momentum"], c["weight_decay"])
        self.minutes, self.before, self.steps, self.samples, self.fresh_steps = 0.0, 0.0, 0, 0, 0
        self.path = work_folder(config) / "denoiser.pt"

    def save(self) -> None:
        save_whole(
            self.path,
            {
                "words": vocabulary(kinds()),
                "net": self.net.state_dict(),
                "average": self.average.state_dict(),
                "optimiser": self.optimiser.state(),
                "minutes": self.minutes,
                "before": self.before,
                "steps": self.steps,
                "samples": self.samples,
            },
        )

    def resume(self) -> None:
        state: dict[str, Any] = torch.load(self.path, weights_only=True)
        if state["words"] != vocabulary(kinds()):
            raise ValueError(
                f"The world's words have changed since {self.path} was saved: go on from a pack (--from-pack) in a new folder."
            )
        self.net.load_state_dict(state["net"])
        self.average.load_state_dict(state["average"])
        self.optimiser.restore(state["optimiser"])
        self.minutes, self.before = state["minutes"], state["before"]
        self.steps, self.samples = state["steps"], state["samples"]

    def start_from(self, weights: dict[str, Tensor], minutes: float) -> None:
        grown = widened(weights, self.net.state_dict())
        self.net.load_state_dict(grown)
        self.average.load_state_dict(grown)
        self.minutes = self.before = minutes

    def step(self, loss: Tensor, rate: float) -> None:
        c = self.config["denoiser"]
        self.net.zero_grad(set_to_none=True)
        loss.backward()  # type: ignore[no-untyped-call]
        torch.nn.utils.clip_grad_norm_(self.net.parameters(), 1.0)
        self.steps += 1
        self.fresh_steps += 1
        rate *= min(1.0, self.fresh_steps / c["warm_up"])
        self.optimiser.step(c["rate"] * rate)
        keep = min(c["average"], (1 + self.steps) / (10 + self.steps))
        with torch.no_grad():
            torch._foreach_lerp_(list(self.average.parameters()), list(self.net.parameters()), 1 - keep)


def train(config: Config, stop_after: float = float("inf"), from_pack: Path | None = None) -> Path:
    """Trains until the config's minutes are over (or `stop_after` more); returns the checkpoint."""
    from .sheet import paint_sheet

    run = Run(config)
    if run.path.exists():
        run.resume()
        print(f"going on after {run.minutes:.1f} minutes, {run.steps} steps", flush=True)
    elif from_pack is not None:
        weights, minutes = read_weights(from_pack)
        run.start_from(weights, minutes)
        read_latent(from_pack).save(work_folder(config) / "latent.npz")
    latent = load_latent(config)
    encoder = Encoder(latent, config["latent"]["shrink"])
    loss = Loss(config, encoder)
    for net in (run.net, run.average):
        if not net.look.centre.any():
            fit_looks(net, config, encoder)
    print(f"{sum(p.numel() for p in run.net.parameters()) / 1e6:.1f} M parameters", flush=True)
    c, begin, until = config["denoiser"], run.before, run.minutes + stop_after
    for phase in c["phase"]:
        end = begin + phase["minutes"]
        if run.minutes < min(end, until):
            _phase(run, loss, phase, begin, min(end, until), lambda label: paint_sheet(run.average, latent, config, label))
            run.save()
        begin = end
    return run.path


def _phase(run: Run, loss: Loss, phase: Config, begin: float, until: float, sheet: Callable[[str], None]) -> None:
    c, config = run.config["denoiser"], run.config
    window, size = phase["window"], phase["batch"]
    measure, of_parts = validation(config, loss, window), validation(config, loss, window, near=True)

    def judged() -> str:
        whole, late = measure(run.average), measure(run.average, late=True)
        return f"validation({window}) {whole:.4f}, late {late:.4f}, near by {of_parts(run.average):.4f}"

    context = mp.get_context("spawn")
    queue: Queue[Batch] = context.Queue(8)
    worker = context.Process(target=_produce, args=(queue, config, window, size, run.steps + c["seed"], os.getpid()), daemon=True)
    worker.start()
    batch = queue.get()
    print(f"{run.minutes:6.1f} min  window {window or 'none'}  {judged()}", flush=True)
    clock = Clock()
    saved = shown = run.minutes
    recent: list[float] = []
    while run.minutes < until:
        along = min(1.0, (run.minutes - begin) / phase["minutes"])
        rate = phase["rate_from"] + (phase["rate_to"] - phase["rate_from"]) * along
        value = loss(run.net, batch, torch.randn(latent_shape(config, batch)), loss.times(size, late=c["late"]))
        run.step(value, rate)
        run.samples += size
        recent.append(value.item())
        run.minutes += clock.passed()
        if run.steps % 250 == 0:
            print(
                f"{run.minutes:6.1f} min {run.steps:6d} steps {run.samples:8d} samples  rate {rate:.2f}  "
                f"train {np.mean(recent[-250:]):.4f}  {judged()}",
                flush=True,
            )
        if run.minutes - saved > c["checkpoint_minutes"]:
            run.save()
            saved = run.minutes
        if run.minutes - shown > c["sheet_minutes"]:
            sheet(f"{run.minutes:05.1f}")
            shown = run.minutes
        batch = queue.get()
    worker.terminate()
    worker.join()
    print(f"{run.minutes:6.1f} min  window {window} done  {judged()}", flush=True)


def main() -> None:
    parser = arguments(__doc__)
    parser.add_argument("--from-pack", type=Path)
    parser.add_argument("--for", dest="minutes", type=float, default=float("inf"), help="stop after so many minutes")
    options = parser.parse_args()
    train(load_config(options.config, options.work), options.minutes, options.from_pack)


if __name__ == "__main__":
    main()
