"""How many things land where they were put, told by the pack's finder: steered against blended against text only.

50 fixed layouts (layouts.toml) x 4 seeds. A thing has landed when at least half of what the finder sees of its words lies
inside its outline (as `waldrand score` tells it). The intervals are Wilson's at 95 %, as if all things were independent; those
of one take are not quite. The finder errs too: its own table is printed by `python -m training.judge_finder`.
`placement_by_colour.py` needs no finder.
`--again N` gives what missed another chance, at most N times a take, and counts what stands in the best.
`python benchmarks/placement.py [--seeds N] [--steps N] [--layouts N] [--methods steer blend text] [--again N] [--nearer] [--no-figures]
[--sampler NAME] [--guided LEAST GREATEST] [--lead-kept LEVELS] [--save DIR] [--pack DIR] [--judge DIR]`
"""

from __future__ import annotations

import argparse
import sys
from collections import defaultdict
from dataclasses import replace
from pathlib import Path

import numpy as np
from PIL import Image
from scipy.stats import binomtest

sys.path.insert(0, str(Path(__file__).parent))
from layouts import evenly, load_layouts
from machine import describe, drawing_option, judging_pack, named, pack_options

from waldrand.core.noise.samplers import SAMPLERS
from waldrand.core.passes.again import run_until_landed
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.settings import METHODS, PassSettings
from waldrand.core.seen.find import finder_of


def share(landed: list[bool]) -> str:
    """So many of so many, in per cent, with the interval."""
    r = binomtest(sum(landed), len(landed)).proportion_ci(method="wilson")
    return f"{sum(landed):4d} of {len(landed):4d} = {100 * np.mean(landed):5.1f} % ({100 * r.low:.0f} to {100 * r.high:.0f})"


def failing(by_kind: dict[str, list[bool]], most: int | None = None) -> str:
    """The kinds of which not all landed, worst first, at most so many."""
    worst = sorted((np.mean(landed), kind, landed) for kind, landed in by_kind.items() if not all(landed))
    return ", ".join(f"{kind} {sum(landed)}/{len(landed)}" for _, kind, landed in worst[:most])


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seeds", type=int, default=4)
    parser.add_argument("--steps", type=int, default=20)
    parser.add_argument("--layouts", type=int, default=50, help="only so many of the 50, evenly chosen")
    parser.add_argument("--methods", nargs="+", choices=METHODS, default=METHODS)
    parser.add_argument("--again", type=int, default=0)
    parser.add_argument("--nearer", action="store_true", help="things that are not large are painted once more from nearer")
    parser.add_argument("--no-figures", dest="figures", action="store_false", help="outlines only say where")
    parser.add_argument("--sampler", choices=SAMPLERS, default=PassSettings().sampler)
    parser.add_argument("--save", type=Path)
    drawing_option(parser)
    pack_options(parser)
    options = parser.parse_args()
    pack = judging_pack(options)
    finder = finder_of(pack)
    layouts = load_layouts()[0]
    chosen = evenly(layouts, options.layouts)
    print(f"{describe()}; {named(pack, options)}")
    how = [f"{options.steps} steps", options.sampler, f"tried again at most {options.again} times"]
    how += ["things from nearer"] if options.nearer else []
    how += [] if options.figures else ["no figures"]
    print(f"{len(chosen)} layouts, {options.seeds} seeds, {', '.join(how)}")
    own = PassSettings(steps=options.steps, sampler=options.sampler, figures=options.figures, drawing_guidance=options.drawing_guidance)
    for method in options.methods:
        by_count: dict[int, list[bool]] = defaultdict(list)
        by_kind: dict[str, list[bool]] = defaultdict(list)
        for n, layout in enumerate(chosen):
            sheet = layout.sheet()
            settings = replace(own, method=method)
            request = Request("compose", settings, small_nearer=options.nearer)
            strip = []
            for seed in range(options.seeds):
                tried = run_until_landed(plan(sheet, request, pack), pack, seed, options.again)
                strip.append(tried.take.pixels)
                for score in tried.scores:
                    by_count[len(layout.things)].append(score.landed)
                    label = finder.labels_of(sheet.element(score.key).words.split(",")[0])[0]
                    by_kind[finder.labels[label]].append(score.landed)
            if options.save:
                options.save.mkdir(parents=True, exist_ok=True)
                Image.fromarray(np.hstack(strip)[::2, ::2]).save(options.save / f"{n + 1:02d}-{method}.png")
        print(f"\n{method}")
        for count, landed in sorted(by_count.items()):
            print(f"  {count} things      {share(landed)}")
        for low, high in ((2, 4), (5, 8)):
            if part := [x for count, landed in by_count.items() if low <= count <= high for x in landed]:
                print(f"  {low} to {high} things {share(part)}")
        print(f"  all           {share([x for landed in by_count.values() for x in landed])}")
        print(f"  failing: {failing(by_kind) or 'none'}")


if __name__ == "__main__":
    main()
