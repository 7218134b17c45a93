"""waldrand vary: what one or two settings do."""

from __future__ import annotations

import argparse
import re
from collections.abc import Iterator
from pathlib import Path
from threading import Event

from ..core.passes.kinds import kind_of
from ..core.passes.plan import plan
from ..core.passes.recipe import picture_recipe
from ..core.passes.series import Variant, parse_over, run_variants, vary
from ..core.passes.take import Take
from ..far.machines import Work
from ..files.contact import contact_sheet
from ..files.pictures import write_png
from . import OK
from .options import (
    folder_of,
    load_sheet,
    machines_of,
    names_of,
    pack_of,
    progress_of,
    refuse_existing,
    request_of,
    say,
    scales_masks,
    sets,
    spreads,
    writes,
)
from .run import KIND as COMPOSED

HELP = "what one or two settings do, at one seed: a PNG each and overview.png"
OVERVIEW = "overview.png"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("file", type=Path, metavar="FILE")
    p.add_argument("--over", action="append", required=True, metavar="WHAT=VALUES", help="like guidance=2,4 or fox=owl,hare; twice at most")
    scales_masks(p)
    p.add_argument("--out", type=Path, required=True, metavar="DIR")
    spreads(p)
    sets(p, kind_of(COMPOSED).fields())
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    sheet, settings, _ = load_sheet(options.file, options.scale_mask)
    rows = vary(sheet, request_of(kind_of(COMPOSED), settings, options), [parse_over(o) for o in options.over])
    return write_variants(options, stop, rows, len(rows[0]))


def _takes(variants: list[Variant], options: argparse.Namespace, stop: Event) -> Iterator[tuple[Variant, Take]]:
    """A take of each."""
    pack = pack_of(options)
    with machines_of(options, pack) as machines:
        if machines is None:
            yield from run_variants(variants, pack, progress_of(options), stop)
            return
        for v in variants:
            # All are planned before any costs time.
            plan(v.sheet, v.request, pack)
        works = [Work(v.sheet, v.request, v.request.settings.seed) for v in variants]
        yield from zip(variants, machines.takes(works, progress_of(options), stop), strict=True)


def write_variants(options: argparse.Namespace, stop: Event, rows: list[list[Variant]], across: int) -> int:
    """A PNG of each variant and an overview of all, so many in a row."""
    out = folder_of(options.out)
    variants = [v for row in rows for v in row]
    names = [f"{i + 1:02d}-{re.sub('[^a-z0-9.]+', '-', v.label.lower()).strip('-')}.png" for i, v in enumerate(variants)]
    paths = [*(out / n for n in names), out / OVERVIEW]
    refuse_existing(paths, options.force)
    shown = []
    for path, (variant, take) in zip(paths, _takes(variants, options, stop), strict=False):
        whole = take.laid_on(variant.sheet, variant.label)
        pixels = whole.flatten()
        write_png(path, pixels, picture_recipe(whole))
        shown.append((pixels, variant.label))
    write_png(paths[-1], contact_sheet(shown, across))
    say(options, {"files": names_of(paths), "labels": [v.label for v in variants]}, *names_of(paths))
    return OK
