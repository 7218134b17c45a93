"""waldrand edit: a picture changed as a sentence says."""

from __future__ import annotations

import argparse
from dataclasses import replace
from pathlib import Path
from threading import Event
from typing import Any

from ..core.passes.kinds import kind_of
from ..core.passes.plan import plan
from ..core.passes.recipe import picture_recipe
from ..core.passes.request import with_own
from ..core.passes.run import run_take
from ..core.passes.settings import PassSettings
from ..core.passes.watch import Watch
from ..files.pictures import write_png
from . import OK
from .options import pack_of, picture_sheet, progress_of, request_of, result_of, say, says, sets, warned, writes

KIND = "edit"
HELP = 'change a picture as a sentence says: "add two pines left of the cottage", "make it night"'


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("picture", type=Path, metavar="PICTURE")
    p.add_argument("sentence", metavar="SENTENCE", help="what shall be done; several things with commas, “and” or “then” between")
    says(p)
    fields = kind_of(KIND).fields()
    sets(p, {name: f for name, f in fields.items() if name not in ("sentence", "left_out")})
    p.add_argument("--without", dest="left_out", metavar="N,N", help=fields["left_out"].option)
    p.add_argument("--plan", action="store_true", help="only tell what would be done")
    p.add_argument("--out", type=Path, metavar="FILE", help="PNG to write (default: PICTURE-edit.png beside it)")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    kind = kind_of(KIND)
    options.left_out = None if options.left_out is None else kind.own["left_out"].typed(options.left_out)
    sheet, notes = picture_sheet(options.picture, options.scene)
    asked = request_of(kind, PassSettings(), options)
    request, pack = replace(asked, more=with_own(asked.more, kind.own)), pack_of(options)
    p = plan(sheet, request, pack)
    listed = kind.found(sheet, request, pack)
    steps = [{"number": one.number, "told": one.tip, "used": one.used} | _where(one.outline.box) for one in listed]
    lines = [f"{one.number} {one.tip}{'' if one.used else ', left out'}" for one in listed]
    if options.plan:
        say(options, {"steps": steps, "warnings": [w.text for w in p.warnings]}, *notes, *lines, *warned(p))
        return OK
    out = result_of(options, KIND)
    take = run_take(p, pack, request.settings.seed, Watch(progress_of(options), stop))
    for part in take.parts or (take,):
        sheet = sheet.with_made(part.to_patch(sheet.next_key(), KIND))
    write_png(out, sheet.flatten(), picture_recipe(sheet))
    say(options, {"file": str(out), "steps": steps, "warnings": [w.text for w in p.warnings]}, *notes, *lines, *warned(p), str(out))
    return OK


def _where(box: tuple[float, float, float, float]) -> dict[str, Any]:
    return {"box": [round(v) for v in box]}
