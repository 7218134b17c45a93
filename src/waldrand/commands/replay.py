"""waldrand replay: what was done to a sheet, done to another picture."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

from ..core.passes.recipe import picture_recipe
from ..core.passes.replay import chain, replayed
from ..core.passes.watch import Watch
from ..core.refused import Refused
from ..files.openraster import open_sheet, save_sheet
from ..files.pictures import write_png
from . import OK
from .options import pack_of, picture_sheet, progress_of, refuse_existing, result_of, say, writes

HELP = "do to a picture what was done to a sheet, pass after pass"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("sheet", type=Path, metavar="SHEET.ora", help="the sheet whose passes are replayed")
    p.add_argument("--on", type=Path, metavar="PICTURE", help="the picture that they are done to")
    p.add_argument("--without", metavar="N,N", help="numbers of passes that are left out; --list tells them")
    p.add_argument("--list", action="store_true", help="only tell the passes there are")
    p.add_argument("--out", type=Path, metavar="FILE", help="PNG, or .ora with every pass as a layer (default: PICTURE-replay.png)")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    source = open_sheet(options.sheet).sheet
    steps = chain(source)
    lines = [s.title + ("" if s.fits else " (began from nothing: left out)") for s in steps]
    if options.list:
        say(options, {"passes": lines}, *(lines or ["There are no passes in this sheet."]))
        return OK
    if options.on is None:
        raise Refused("Say which picture they are done to: --on PICTURE.")
    options.picture = options.on
    sheet, notes = picture_sheet(options.on, "")
    layered = options.out is not None and options.out.suffix.lower() == ".ora"
    if layered:
        refuse_existing([options.out], options.force)
    out: Path = options.out if layered else result_of(options, "replay")
    done = sheet
    for after in replayed(source, sheet, pack_of(options), _numbers(options.without), Watch(progress_of(options), stop)):
        done = after
    if layered:
        save_sheet(out, done)
    else:
        write_png(out, done.flatten(), picture_recipe(done), sheet.flatten())
    say(options, {"file": str(out), "passes": len(done.layers) - len(sheet.layers)}, *notes, str(out))
    return OK


def _numbers(text: str | None) -> tuple[int, ...]:
    try:
        return tuple(int(n) for n in text.split(",")) if text else ()
    except ValueError as error:
        raise Refused(f"--without takes numbers apart by commas, like 1,3; not “{text}”.") from error
