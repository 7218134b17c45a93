"""waldrand describe: words read off a picture."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

from ..core.seen.describe import as_elements, describe
from ..core.values.element import SceneWords
from ..core.values.sheet import Sheet
from ..files.layout import write_layout
from ..files.pictures import read_picture
from . import OK
from .options import pack_of, refuse_existing, say, writes

HELP = "words read off a picture"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("picture", type=Path, metavar="PICTURE")
    p.add_argument("--out", type=Path, metavar="FILE.toml", help="also write a layout: what is seen, each thing in a box")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    picture = read_picture(options.picture)
    if options.out is not None:
        refuse_existing([options.out], options.force)
    pack = pack_of(options)
    d = describe(picture.pixels, pack)
    if options.out is not None:
        h, w = picture.pixels.shape[:2]
        write_layout(options.out, Sheet(w, h, elements=as_elements(d, pack.info.elements), scene=SceneWords(", ".join(d.scene))))
    things = [{"words": w, "confidence": round(c, 3), "box": [round(v) for v in b]} for w, c, b in d.things]
    lines = [", ".join(d.scene) or "nothing is told of the whole", *(f"  {t['words']}  at {t['box']}" for t in things)]
    say(options, {"scene": list(d.scene), "things": things}, *picture.notes, *lines)
    return OK
