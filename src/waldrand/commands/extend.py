"""waldrand extend: a picture going on beyond its sides."""

from __future__ import annotations

import argparse
from dataclasses import replace
from pathlib import Path
from threading import Event

from ..core.packs import Pack
from ..core.passes.growing import SIDES, Side, grown, parts, pixels_of, ratio_of, to_ratio
from ..core.passes.kinds import kind_of
from ..core.passes.plan import Plan, plan
from ..core.passes.recipe import picture_recipe
from ..core.passes.request import Request
from ..core.passes.run import run_take
from ..core.passes.settings import PassSettings
from ..core.refused import Refused
from ..core.seen.describe import describe
from ..core.values.frame import Rect
from ..core.values.resize import framed
from ..core.values.sheet import Sheet
from ..files.pictures import write_png
from . import OK
from .options import (
    forecast_values,
    names_of,
    pack_of,
    paths_of_takes,
    picture_sheet,
    request_of,
    say,
    says,
    sets,
    warned,
    writes,
)

KIND = "extend"
HELP = "let a picture go on beyond its sides; a strip of the old one is painted over at falling strength, the rest stays"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("picture", type=Path, metavar="PICTURE")
    says(p)
    for side in SIDES:
        p.add_argument(f"--{side}", metavar="N|N%", help=f"room on the {side} side, in pixels or as a share of the picture")
        p.add_argument(f"--{side}-words", metavar="WORDS", help=f"words for the {side} side alone")
    p.add_argument("--ratio", metavar="W:H", help="as much room as the whole needs to get this ratio, instead of sides")
    p.add_argument("--at", metavar="X,Y", help="with --ratio: where the old picture lies, 0 to 1 from the left and from above")
    p.add_argument("--order", metavar="SIDES", help=f"in which order sides are painted (default: {','.join(SIDES)})")
    p.add_argument("--at-once", action="store_true", help="paint all sides in one pass")
    p.add_argument("--takes", type=int, default=1, help="how many, with rising seeds; then --out is a folder")
    sets(p, {name: f for name, f in kind_of(KIND).fields().items() if name != "own_frame"})
    p.add_argument("--out", type=Path, metavar="FILE|DIR", help="PNG to write (default: PICTURE-extend.png beside it), or a folder")
    p.add_argument("--with-input", action="store_true", help="store the start picture in the PNG, so that it repeats by itself")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    sheet, notes = picture_sheet(options.picture, options.scene)
    pack, room = pack_of(options), _room(options, sheet)
    large = framed(sheet, grown(sheet.width, sheet.height, room))
    # The picture lies where it lay; how the sheet came to be as large is not of interest any more.
    large = replace(large, origin=(0, 0))
    request = request_of(kind_of(KIND), PassSettings(strength=kind_of(KIND).begins), options)
    if not large.scene.words and not request.words and pack.finder is not None:
        large = replace(large, scene=replace(large.scene, words=", ".join(describe(sheet.flatten(), pack).scene)))
    out: Path = options.out or options.picture.with_name(f"{options.picture.stem}-extend.png")
    paths = paths_of_takes(options, out, request.settings.seed)
    todo = _todo(options, sheet, room)
    plans, lines = list[Plan](), list[str]()
    for i, path in enumerate(paths):
        done = large
        for side, part in todo:
            p = plan(done, _asked(request, options, side, part, i), pack)
            plans.append(p)
            done = _painted(done, p, pack, side)
            if not i:
                lines += [*p.sentences, *warned(p)]
            if stop.is_set():
                break
        write_png(path, done.flatten(), picture_recipe(done), large.flatten() if options.with_input else None)
    forecasts = [forecast_values(p) for p in plans[: len(todo)]]
    values = {"files": names_of(paths), "size": [large.width, large.height], "sides": [s for s, _ in todo], "forecasts": forecasts}
    say(options, values, *notes, *lines, *names_of(paths))
    return OK


def _painted(sheet: Sheet, p: Plan, pack: Pack, side: str) -> Sheet:
    take = run_take(p, pack, p.request.settings.seed)
    return sheet.with_made(take.to_patch(sheet.next_key(), side))


def _asked(request: Request, options: argparse.Namespace, side: str, part: Rect | None, take: int) -> Request:
    own = getattr(options, f"{side}_words", None)
    more = dict(request.more) | ({} if part is None else {"part": (part.x0, part.y0, part.x1, part.y1)})
    settings = replace(request.settings, seed=request.settings.seed + take)
    return replace(request, settings=settings, words=own or request.words, more=tuple(more.items()))


def _todo(options: argparse.Namespace, sheet: Sheet, room: dict[Side, int]) -> list[tuple[str, Rect | None]]:
    """The passes: what each is called, and which part it paints."""
    if options.at_once:
        return [("all sides", None)]
    order: list[str] = list(SIDES) if options.order is None else [s.strip() for s in options.order.split(",")]
    if sorted(order) != sorted(SIDES):
        raise Refused(f"--order names each side once: {', '.join(SIDES)}.")
    sides: list[Side] = [side for name in order for side in SIDES if side == name]
    return list(parts(sheet.width, sheet.height, room, sides))


def _room(options: argparse.Namespace, sheet: Sheet) -> dict[Side, int]:
    """How much room each side gets."""
    said = {side: getattr(options, side) for side in SIDES if getattr(options, side) is not None}
    if options.ratio is not None:
        if said:
            raise Refused("Give either sides or a ratio.")
        at = (0.5, 0.5)
        if options.at is not None:
            try:
                x, y = (float(v) for v in options.at.split(","))
            except ValueError as error:
                raise Refused(f"--at {options.at}: write two numbers from 0 to 1, like 0.5,1.") from error
            at = (x, y)
        return to_ratio(sheet.width, sheet.height, ratio_of(options.ratio), at)
    if options.at is not None:
        raise Refused("--at goes with --ratio.")
    return {side: pixels_of(text, sheet.width if side in ("left", "right") else sheet.height, side) for side, text in said.items()}
