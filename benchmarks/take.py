"""Seconds per 512 x 512 take, split into its parts, and of one of 64 x 48 cells; two takes side by side, usual and quick, in shares of
both one after the other; and the drift outside an inpainted quarter.

`python benchmarks/take.py [--rounds N]`
"""

from __future__ import annotations

import argparse
import math
import sys
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
from machine import describe

from waldrand.core.passes.plan import Plan, plan
from waldrand.core.passes.recipe import picture_recipe
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run, run_take
from waldrand.core.passes.settings import METHODS, PassSettings
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.resize import scaled
from waldrand.core.values.sheet import Sheet
from waldrand.packs.onnx_pack import OnnxPack

#: Pixels of the larger sheet.
LARGE = (1024, 768)
WORDS = ("red tent", "owl", "birch", "pine", "white cottage", "red fox", "hare", "yellow balloon")


class Timed(OnnxPack):
    """The pack, with a clock on each of its graphs."""

    def __init__(self) -> None:
        super().__init__()
        self.seconds: dict[str, float] = {}

    def _clock(self, name: str, act: Callable[[], Any]) -> Any:
        t = time.perf_counter()
        out = act()
        self.seconds[name] = self.seconds.get(name, 0.0) + time.perf_counter() - t
        return out

    def answer(self, *args: Any) -> Any:
        return self._clock("denoiser", lambda: super(Timed, self).answer(*args))

    def decode(
        self, latent: np.ndarray, painted: np.ndarray | None = None, drawing: np.ndarray | None = None, light: bool = False
    ) -> np.ndarray:
        return self._clock("decode", lambda: super(Timed, self).decode(latent, painted, drawing, light))

    def _text(self, ids: np.ndarray) -> np.ndarray:
        return self._clock("text", lambda: super(Timed, self)._text(ids))


def sheet_with(n: int) -> Sheet:
    elements = tuple(
        Element(i + 1, w, Outline("box", (20 + 120 * (i % 4), 60 + 220 * (i // 4), 130 + 120 * (i % 4), 260 + 220 * (i // 4))), w)
        for i, w in enumerate(WORDS[:n])
    )
    return Sheet(512, 512, elements=elements, scene=SceneWords("clear day, meadow"))


def measured(pack: Timed, p: Plan, rounds: int) -> np.ndarray:
    """Medians of a plan's takes: seconds in all, of the words, the denoiser and the decoder."""
    rows = []
    for seed in range(rounds + 1):
        pack.seconds.clear()
        pack._phrases.clear()
        t = time.perf_counter()
        run_take(p, pack, seed)
        total, text = time.perf_counter() - t, pack.seconds.get("text", 0.0)
        # The denoiser's clock runs while words are read for the first time.
        rows.append((total, text, pack.seconds["denoiser"] - text, pack.seconds["decode"]))
    return np.asarray(np.median(rows[1:], 0))


def beside(p: Plan, pack: OnnxPack, rounds: int) -> float:
    """How long two takes side by side last, in shares of both one after the other."""
    shares = []
    for _ in range(rounds):
        took = []
        for info in (replace(pack.info, at_once=1), pack.info):
            kept, pack.info = pack.info, info
            t = time.perf_counter()
            list(run(p, pack, 2))
            took.append(time.perf_counter() - t)
            pack.info = kept
        shares.append(took[1] / took[0])
    return float(np.median(shares))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rounds", type=int, default=5)
    options = parser.parse_args()
    t = time.perf_counter()
    pack = Timed()
    loaded = time.perf_counter() - t
    print(f"{describe()}; pack {pack.info.version} loaded in {loaded:.2f} s")
    print(f"medians of {options.rounds} takes, 20 steps, guidance {PassSettings().guidance:g}")
    print("method elements    cells   take s   text ms  denoiser s  decode ms")
    large = math.sqrt(LARGE[0] * LARGE[1] / pack.info.limits.placed.best_area)
    asked = [(sheet_with(n), PassSettings(method=method), n) for method in METHODS for n in (1, 4, 8)]
    asked.append((scaled(sheet_with(4), *LARGE), PassSettings(detail=large), 4))
    for sheet, settings, n in asked:
        p = plan(sheet, Request("compose", settings), pack)
        total, text, denoiser, decode = measured(pack, p, options.rounds)
        cells = f"{p.frame.width // pack.info.cell} x {p.frame.height // pack.info.cell}"
        print(f"{settings.method:6s} {n:8d} {cells:>8s} {total:8.2f} {1000 * text:9.1f} {denoiser:11.2f} {1000 * decode:10.1f}")
    for name, settings in (("usual", PassSettings()), ("quick", PassSettings(quick=True))):
        share = beside(plan(sheet_with(4), Request("compose", settings), pack), pack, options.rounds)
        print(f"two {name} takes side by side: {share:.2f} of both one after the other")
    if pack.finder is not None:
        picture, looks = np.random.default_rng(1).random((512, 512, 3), np.float32), []
        for _ in range(5 * options.rounds):
            t = time.perf_counter()
            pack.finder.look(picture)
            looks.append(1000 * (time.perf_counter() - t))
        print(f"the finder's look at 512 x 512: {np.median(looks):.0f} ms")
    sheet = sheet_with(4)
    sheet = sheet.with_layer(run_take(plan(sheet, Request("compose", PassSettings()), pack), pack, 1).to_patch(50, "take"))
    grey = np.zeros((512, 512), np.uint8)
    grey[256:, 256:] = 255
    masked = replace(sheet, mask=Mask.from_array(grey))
    take = run_take(plan(masked, Request("inpaint", PassSettings(), "owl"), pack), pack, 2)
    done = masked.with_layer(take.to_patch(51, "owl"))
    d = np.abs(done.flatten().astype(int) - sheet.flatten())
    same = (repeat(picture_recipe(done), pack).pixels == done.flatten()).all()
    said = "identical" if same else "DIFFERENT"
    print(f"inpainted quarter: greatest difference outside {d[grey == 0].max()}, inside {d[grey > 0].max()}; repeat {said}")


if __name__ == "__main__":
    main()
