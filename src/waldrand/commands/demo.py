"""waldrand demo: the demo sheet in the window, or the whole demo to files."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

from ..demo import load_demo, output_names, run_demo
from . import OK
from .options import folder_of, pack_of, progress_of, refuse_existing, say, writes

HELP = "open the window with the demo sheet, or run the whole demo to files"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("--out", type=Path, metavar="DIR", help="run without a window and write everything here")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    if options.out is None:
        from ..desk.app import open_window

        return open_window(demo=True)
    demo = load_demo()
    out = folder_of(options.out)
    names = output_names(demo)
    refuse_existing([out / n for n in names], options.force)
    run_demo(demo, pack_of(options), out, progress_of(options), stop, say=(lambda _: None) if options.json else print)
    say(options, {"files": [str(out / n) for n in names]})
    return OK
