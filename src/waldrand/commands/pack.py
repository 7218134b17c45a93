"""waldrand pack: tries a model pack, or drafts the description of one."""

from __future__ import annotations

import argparse
from dataclasses import asdict
from pathlib import Path
from threading import Event

from ..core.refused import Refused
from ..packs.checking import checked
from ..packs.drafting import draft
from . import OK
from .options import refuse_existing, say, writes

HELP = "check a model pack (its files, its shapes, a small pass), or draft pack.toml for graphs that were made elsewhere"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("what", choices=("check", "new"), help="check: tries it; new: drafts pack.toml from the graphs in the folder")
    p.add_argument("folder", type=Path, metavar="DIR")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    folder: Path = options.folder
    if not folder.is_dir():
        raise Refused(f"{folder} is no folder.")
    if options.what == "new":
        path = folder / "pack.toml"
        refuse_existing([path], options.force)
        path.write_text(draft(folder), "utf-8")
        say(options, {"file": str(path)}, f"{path} is drafted. Look at every line, then: waldrand pack check {folder}")
        return OK
    c = checked(folder)
    costs = (
        f"loaded in {c.loading:.1f} s; a picture of {c.side} x {c.side}: in {c.encoding:.2f} s, out {c.decoding:.2f} s, "
        f"an answer {c.answering:.2f} s; {c.megabytes:.0f} MB at the most"
    )
    say(options, asdict(c), f"{c.name} {c.version} ({c.licence}) works.", *c.can, costs)
    return OK
