"""waldrand run: takes of a layout or a sheet."""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from threading import Event
from typing import Any

from ..core.passes.again import Tried, run_until_landed
from ..core.passes.kinds import kind_of
from ..core.passes.plan import Plan, plan
from ..core.passes.recipe import picture_recipe
from ..core.passes.request import Request
from ..core.passes.run import run, seeds_of
from ..core.passes.watch import Watch
from ..core.refused import Refused
from ..core.values.sheet import Sheet
from ..far.machines import Work
from ..files.habits import habit
from ..files.pictures import write_png
from ..packs.foreign import ForeignPack
from ..packs.onnx_pack import OnnxPack
from . import OK
from .options import (
    folder_of,
    forecast_values,
    frame_in,
    landed_line,
    load_sheet,
    machines_of,
    pack_of,
    progress_of,
    refuse_existing,
    request_of,
    say,
    say_beforehand,
    scales_masks,
    sets,
    spreads,
    tells,
    warned,
    with_guides,
    writes,
)

KIND = "compose"
HELP = "compose takes of a layout or a sheet, a PNG each"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("file", type=Path, metavar="FILE")
    p.add_argument("--takes", type=int, default=1, help="how many, with rising seeds")
    p.add_argument("--again", type=int, default=0, metavar="N", help="another chance for what missed its outline, at most N times a take")
    p.add_argument("--out", type=Path, default=Path("."), metavar="DIR", help="folder for take-SEED.png")
    p.add_argument("--habit", metavar="NAME", help="a habit that was kept (touch-up --save-habit): every take goes through it")
    scales_masks(p)
    tells(p)
    spreads(p)
    sets(p, kind_of(KIND).fields())
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    sheet, settings, notes = load_sheet(options.file, options.scale_mask)
    sheet, more = with_guides(sheet, options)
    notes = (*notes, *more)
    request = request_of(kind_of(KIND), settings, options)
    request = replace(request, own_frame=request.own_frame or frame_in(options.file, options.scale_mask))
    if options.habit:
        request = replace(request, rounds=habit(options.habit))
    if options.again < 0:
        raise Refused(f"--again is how often, 0 or more, not {options.again}.")
    pack = pack_of(options)
    planned = plan(sheet, request, pack)
    out = folder_of(options.out)
    refuse_existing([out / f"take-{seed}.png" for seed in seeds_of(planned, options.takes)], options.force)
    say_beforehand(options, *notes, *planned.sentences, *warned(planned))
    written, values, lines = [], dict[str, Any](), []
    if options.again and options.on:
        raise Refused("--again looks at every take before the next: leave it out with --on.")
    for whole, seed, tried in _takes(sheet, request, planned, pack, options, stop):
        path = out / f"take-{seed}.png"
        write_png(path, whole.flatten(), picture_recipe(whole))
        written.append(str(path))
        lines.append(str(path))
        if tried is not None:
            values[str(path)] = {s.name: round(s.score, 1) for s in tried.scores}
            lines[-1] += f": {landed_line(tried.scores, tried.tries)}"
            lines += [f"  {s.says}" for s in tried.scores if s.says]
    say(options, {"files": written, "forecast": forecast_values(planned)} | ({"scores": values} if values else {}), *lines)
    return OK


def _takes(
    sheet: Sheet, request: Request, p: Plan, pack: OnnxPack | ForeignPack, options: argparse.Namespace, stop: Event
) -> Iterator[tuple[Sheet, int, Tried | None]]:
    """Sheets with a take laid on, the take's seed, and how it was tried again where that was asked for."""
    if options.again == 0:
        with machines_of(options, pack) as machines:
            takes = run(p, pack, options.takes, progress_of(options), stop)
            if machines is not None:
                takes = machines.takes([Work(sheet, request, seed) for seed in seeds_of(p, options.takes)], progress_of(options), stop)
            for take in takes:
                yield take.laid_on(sheet, f"take {take.seed}"), take.seed, None
        return
    for i, seed in enumerate(seeds_of(p, options.takes)):
        tried = run_until_landed(p, pack, seed, options.again, Watch(progress_of(options), stop, i, options.takes))
        yield tried.take.laid_on(replace(tried.sheet, layers=sheet.layers, areas=sheet.areas), f"take {seed}"), seed, tried
