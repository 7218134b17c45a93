"""What comes of things that only the scene names: by words alone, and given places by the take, as is usual.

The words of the 50 layouts and the 14 prompts, outlines left out. Counted in each take, by the finder's description of it: kinds
that are named and there; there just as often as they are named; there though nobody named them. Nothing is known of where they
should be, so no outline counts. Intervals are Wilson's at 95 %.
`python benchmarks/words_alone.py [--seeds N] [--layouts N] [--save DIR] [--pack DIR] [--judge DIR] [--guided LEAST GREATEST]
[--lead-kept LEVELS]`
"""

from __future__ import annotations

import argparse
import sys
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from PIL import Image

sys.path.insert(0, str(Path(__file__).parent))
from layouts import Layout, evenly, load_layouts
from machine import begun
from placement import share

from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.seen.describe import describe
from waldrand.core.seen.find import finder_of, thing_labels
from waldrand.packs.onnx_pack import OnnxPack


@dataclass
class Tally:
    """there, counted: of every kind named in a take, whether it is there, and as often as named; unasked: things of other kinds."""

    there: list[bool] = field(default_factory=list)
    counted: list[bool] = field(default_factory=list)
    unasked: int = 0
    takes: int = 0

    def add(self, named: Counter[str], seen: Counter[str]) -> None:
        self.there += [seen[kind] > 0 for kind in named]
        self.counted += [seen[kind] == n for kind, n in named.items()]
        self.unasked += sum(n for kind, n in seen.items() if kind not in named)
        self.takes += 1


def kinds_in(phrases: list[str], pack: OnnxPack) -> Counter[str]:
    """How often each of the finder's things is named, once a phrase."""
    finder = finder_of(pack)
    things = set(thing_labels(finder))
    return Counter(finder.labels[found[0]] for p in phrases if (found := finder.labels_of(p)) and found[0] in things)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seeds", type=int, default=1)
    parser.add_argument("--layouts", type=int, default=64, help="only so many of the 64, evenly chosen")
    parser.add_argument("--save", type=Path, help="a strip for each: by words alone, then with places")
    options, pack = begun(parser, lambda o: f"words of {o.layouts} layouts and prompts, {o.seeds} seeds")
    if pack.places is None:
        sys.exit("This pack does not say where things are wont to be.")
    layouts, prompts = load_layouts()
    scenes = [", ".join((x.scene, *(words for words, *_ in x.things))) for x in (*layouts, *prompts)]
    chosen = evenly(scenes, options.layouts)
    tallies = {"by words alone": Tally(), "given places": Tally()}
    for number, words in enumerate(chosen):
        named, strip, sheet = kinds_in(words.split(","), pack), [], Layout(words).sheet()
        for seed in range(options.seeds):
            for places, tally in zip((False, True), tallies.values(), strict=True):
                request = Request("compose", PassSettings(seed=seed, places=places))
                take = run_take(plan(sheet, request, pack), pack, seed)
                strip.append(take.pixels)
                tally.add(named, kinds_in([said for said, *_ in describe(take.pixels, pack).things], pack))
        if options.save:
            options.save.mkdir(parents=True, exist_ok=True)
            Image.fromarray(np.hstack(strip)[::2, ::2]).save(options.save / f"{number + 1:02d}.png")
    for name, t in tallies.items():
        print(f"{name:15s} there {share(t.there)}   as often as named {share(t.counted)}   unasked {t.unasked / t.takes:.2f} a take")


if __name__ == "__main__":
    main()
