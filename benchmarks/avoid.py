"""What avoid words do: how often things that nobody asked for come, told to avoid them and not told, by the pack's finder.

8 scenes in words alone x 8 seeds, painted plainly and again with each of four things to avoid.
`python benchmarks/avoid.py [--seeds N] [--pack DIR] [--judge DIR] [--guided LEAST GREATEST] [--lead-kept LEVELS]`
"""

from __future__ import annotations

import argparse
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
from layouts import SIDE
from machine import begun

from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run
from waldrand.core.passes.settings import PassSettings
from waldrand.core.seen.find import find
from waldrand.core.values.element import SceneWords
from waldrand.core.values.sheet import Sheet

SCENES = (
    "clear day, meadow",
    "clear day, snow field",
    "cloudy day, field",
    "dawn, meadow, hills",
    "sunset, lake",
    "clear day, lake, mountains",
    "clear day, beach",
    "cloudy day, street, town",
)
THINGS = ("cloud", "sun", "tree", "pine")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seeds", type=int, default=8)
    options, pack = begun(parser, lambda o: f"{len(SCENES)} scenes, {o.seeds} seeds")
    request = Request("compose", PassSettings())

    def painted(scene: SceneWords) -> list[np.ndarray]:
        return [t.pixels for t in run(plan(Sheet(SIDE, SIDE, scene=scene), request, pack), pack, options.seeds)]

    plain = {words: painted(SceneWords(words)) for words in SCENES}
    print("thing        seen unasked    seen though avoided")
    for thing in THINGS:
        avoided = {words: painted(replace(SceneWords(words), avoid=thing)) for words in SCENES}
        before, after = (sum(find(p, thing, pack).box is not None for ps in takes.values() for p in ps) for takes in (plain, avoided))
        n = len(SCENES) * options.seeds
        print(f"{thing:12s} {before:4d} of {n:4d} {after:12d} of {n:4d}")


if __name__ == "__main__":
    main()
