"""waldrand place: a layout made of words."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

from ..core.passes.settings import PassSettings
from ..core.told.placing import places_of, with_places
from ..core.values.element import SceneWords
from ..core.values.sheet import Sheet
from ..files.layout import write_layout, written_files
from . import OK
from .options import names_of, pack_of, refuse_existing, say, size_of, writes

HELP = "make a layout of words: each thing they name where such a thing is wont to be"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("--words", required=True, help='of the whole picture, like "fox, birch, starry night, meadow"')
    p.add_argument("--size", default=None, metavar="WxH", help="pixels of the sheet, like 768x512 (default: the pack's first best size)")
    p.add_argument("--seed", type=int, default=0, help="another seed, other places")
    p.add_argument("--out", type=Path, required=True, metavar="FILE.toml")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    settings, pack = PassSettings(seed=options.seed), pack_of(options)
    size = pack.info.best_sizes[0] if options.size is None else size_of(options.size)
    sheet = with_places(Sheet(*size, scene=SceneWords(options.words)), places_of(pack), settings.seed, pack.info.elements)
    refuse_existing(written_files(options.out, sheet), options.force)
    written = names_of(write_layout(options.out, sheet, settings, options.force))
    lines = [f"  {e.words}  at {[round(v) for v in e.outline.box]}" for e in sheet.elements]
    values = {"scene": sheet.scene.words, "elements": {e.name: [round(v) for v in e.outline.box] for e in sheet.elements}}
    say(options, {"files": written, **values}, f"scene: {sheet.scene.words}", *lines, *written)
    return OK
