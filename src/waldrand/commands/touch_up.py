"""waldrand touch-up: parts that are found in a picture, each painted again from near by."""

from __future__ import annotations

import argparse
from dataclasses import replace
from pathlib import Path
from threading import Event
from typing import Any

from ..core.packs import Pack
from ..core.passes.kinds import kind_of
from ..core.passes.plan import plan
from ..core.passes.recipe import picture_recipe
from ..core.passes.request import Request, with_own
from ..core.passes.run import run_take
from ..core.passes.settings import PassSettings
from ..core.passes.touching import ALL_BUT, EACH, TOGETHER, Chosen, chosen
from ..core.passes.watch import Watch
from ..core.refused import Refused
from ..core.values.sheet import Sheet
from ..files.habits import habit, read_habits, write_habits
from ..files.pictures import write_png
from . import OK
from .options import (
    pack_of,
    picture_sheet,
    point_of,
    progress_of,
    request_of,
    result_of,
    say,
    says,
    scales_masks,
    sets,
    tells,
    warned,
    with_guides,
    with_mask,
    writes,
)

KIND = "touch-up"
HELP = "find parts of a picture (faces, hands, windows, any thing) and paint each again from near by"
#: Options that are written otherwise than their fields.
NAMED = {"finer": "scale", "left_out": "without"}


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("picture", type=Path, metavar="PICTURE")
    says(p)
    fields = kind_of(KIND).fields()
    sets(p, {name: f for name, f in fields.items() if name not in ("how", *NAMED)})
    for name, option in NAMED.items():
        p.add_argument(f"--{option}", dest=name, type=float if fields[name].read == "number" else str, help=fields[name].option)
    p.add_argument("--by", metavar="DX,DY", help="moves what is painted, in pixels right and down")
    how = p.add_mutually_exclusive_group()
    for value, told in ((EACH, "each part by itself (default)"), (TOGETHER, "all in one"), (ALL_BUT, "all of the picture but them")):
        how.add_argument(f"--{value}", dest="how", action="store_const", const=value, help=told)
    p.add_argument("--mask", type=Path, help="grey picture: what it covers is touched up, and nothing is looked for")
    scales_masks(p)
    tells(p)
    p.add_argument("--list", action="store_true", help="only tell what would be done")
    p.add_argument("--habit", metavar="NAME", help="a habit that was kept: its rounds with their own settings")
    p.add_argument(
        "--save-habit", metavar="NAME", help="keep these settings as a habit, or as a further round of one; --force begins it anew"
    )
    p.add_argument("--out", type=Path, metavar="FILE", help="PNG to write (default: PICTURE-touch-up.png beside it)")
    writes(p)


def _asked(options: argparse.Namespace) -> Request:
    kind = kind_of(KIND)
    if options.left_out is not None:
        options.left_out = kind.own["left_out"].typed(options.left_out)
    if options.by is not None:
        options.right, options.down = point_of(options.by, "--by")
    request = request_of(kind, PassSettings(strength=kind.begins), options)
    return replace(request, more=with_own(request.more, kind.own))


def act(options: argparse.Namespace, stop: Event) -> int:
    request = _asked(options)
    if options.save_habit:
        kept = read_habits()
        rounds = () if options.force else kept.get(options.save_habit, ())
        write_habits(kept | {options.save_habit: (*rounds, request)})
    rounds = habit(options.habit) if options.habit else (request,)
    sheet, notes = picture_sheet(options.picture, options.scene)
    sheet, more = with_guides(sheet, options)
    if options.mask is not None:
        sheet = with_mask(sheet, options)
    pack = pack_of(options)
    if options.list:
        return _told(options, sheet, rounds, pack)
    out = result_of(options, KIND)
    before, said = sheet.flatten(), [*notes, *more]
    painted = 0
    for one in rounds:
        if options.seed is not None:
            one = replace(one, settings=replace(one.settings, seed=options.seed))
        try:
            p = plan(sheet, one, pack)
        except Refused:
            # In a habit what one round does not find the next may.
            if len(rounds) == 1:
                raise
            continue
        said += [*p.sentences, *warned(p)]
        take = run_take(p, pack, one.settings.seed, Watch(progress_of(options), stop))
        for part in take.parts or (take,):
            sheet = sheet.with_made(part.to_patch(sheet.next_key(), f"{KIND} {painted + 1}"))
            painted += 1
    if not painted:
        raise Refused("Nothing was found that this habit touches up.")
    pixels = sheet.flatten()
    write_png(out, pixels, picture_recipe(sheet))
    changed = round(float((pixels != before).any(-1).mean()), 4)
    say(options, {"file": str(out), "parts": painted, "changed": changed}, *said, str(out))
    return OK


def _told(options: argparse.Namespace, sheet: Sheet, rounds: tuple[Request, ...], pack: Pack) -> int:
    """What would be done, a line for each part."""
    values: list[dict[str, Any]] = []
    lines: list[str] = []
    for n, one in enumerate(rounds, 1):
        for part in chosen(sheet, replace(one, more=with_own(one.more, kind_of(KIND).own)), pack):
            values.append({"round": n} | _values(part))
            v = values[-1]
            of = f" of {v['of']}" if v["of"] else ""
            gone = "" if part.used else ", left out"
            lines.append(
                f"{v['number']}: {v['name']}{of}, sure to {v['sureness']:.2f}, {100 * v['size']:.2f} % of the picture, at {v['box']}{gone}"
            )
    say(options, {"parts": values}, *(lines or ["Nothing was found."]))
    return OK


def _values(one: Chosen) -> dict[str, Any]:
    b, part = one.part.box, one.part
    owner = None if part.owner is None or part.owner.label == part.name else part.owner.words
    return {
        "number": one.number,
        "name": part.name,
        "of": owner,
        "sureness": round(part.sureness, 3),
        "size": round(part.size, 5),
        "box": [b.x0, b.y0, b.x1, b.y1],
        "used": one.used,
    }
