"""waldrand forecast: what composing will do, and what looks wrong."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

from ..core.passes.kinds import kind_of
from ..core.passes.plan import plan
from ..core.passes.speed import measure
from . import OK
from .options import forecast_values, load_sheet, pack_of, request_of, say, scales_masks, sets, warned
from .run import KIND as COMPOSED

HELP = "say what composing a layout or a sheet will do, and what looks wrong"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("file", type=Path, metavar="FILE")
    scales_masks(p)
    sets(p, kind_of(COMPOSED).fields())


def act(options: argparse.Namespace, stop: Event) -> int:
    sheet, settings, notes = load_sheet(options.file, options.scale_mask)
    pack = pack_of(options)
    p = plan(sheet, request_of(kind_of(COMPOSED), settings, options), pack, measure(pack))
    cost = f"About {p.seconds:.1f} s a take here, {p.memory / 1e6:.0f} MB."
    say(options, forecast_values(p), *notes, *p.sentences, cost, *warned(p))
    return OK
