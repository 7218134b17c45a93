"""waldrand ladder: one pass at rising strengths."""

from __future__ import annotations

import argparse
from dataclasses import replace
from pathlib import Path
from threading import Event

from ..core.passes.kinds import mask_kind, picture_kind
from ..core.passes.series import LADDER, ladder
from ..core.refused import Refused
from ..core.values.element import SceneWords
from .options import any_sheet, request_of, say_beforehand, says, scales_masks, sets, spreads, with_mask, writes
from .vary import write_variants

HELP = "one pass at rising denoise strengths on the same seed"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("file", type=Path, metavar="FILE|PICTURE")
    p.add_argument("--mask", type=Path, help="inpaint this mask instead of reworking the whole")
    says(p)
    p.add_argument("--strengths", default=",".join(f"{s:g}" for s in LADDER), metavar="LIST", help="strengths, like .2,.4,.6,.8")
    scales_masks(p)
    spreads(p)
    p.add_argument("--out", type=Path, required=True, metavar="DIR", help="folder for a PNG each and overview.png")
    sets(p, {name: f for name, f in (picture_kind().fields() | mask_kind().fields()).items() if name != "strength"})
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    sheet, settings, notes = any_sheet(options.file, options.scale_mask)
    if options.scene is not None:
        sheet = replace(sheet, scene=SceneWords(words=options.scene))
    try:
        strengths = [float(s) for s in options.strengths.split(",") if s.strip()]
    except ValueError as error:
        raise Refused(f"--strengths {options.strengths}: write numbers from 0 to 1 with commas between them.") from error
    kind = picture_kind()
    if options.mask is not None:
        sheet, kind = with_mask(sheet, options), mask_kind()
    steps = ladder(sheet, request_of(kind, settings, options), strengths)
    say_beforehand(options, *notes)
    return write_variants(options, stop, [steps], min(len(steps), 5))
