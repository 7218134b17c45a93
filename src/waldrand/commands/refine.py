"""waldrand refine: a picture enlarged, then painted again lightly in tiles, each told only what is in it."""

from __future__ import annotations

import argparse
from dataclasses import replace
from functools import partial
from pathlib import Path
from threading import Event

from ..core.packs import Pack
from ..core.passes.enlarge import crisp
from ..core.passes.kinds import kind_of
from ..core.passes.plan import Plan, plan
from ..core.passes.recipe import picture_recipe
from ..core.passes.request import Request, with_own
from ..core.passes.run import run_take
from ..core.passes.settings import PassSettings
from ..core.passes.take import Take
from ..core.passes.tiles import tiles_of, with_tiles
from ..core.passes.watch import Watch
from ..core.picture.resample import resize_picture
from ..core.refused import Refused
from ..core.seen.changes import Change, changes
from ..core.values.resize import scaled
from ..core.values.sheet import Sheet
from ..files.pictures import write_png
from ..files.tiles import TileFiles
from ..packs.foreign import ForeignPack
from ..packs.onnx_pack import OnnxPack
from . import OK, STOPPED
from .options import (
    forecast_values,
    machines_of,
    pack_of,
    picture_sheet,
    progress_of,
    request_of,
    result_of,
    say,
    says,
    sets,
    size_of,
    spreads,
    tells,
    warned,
    with_guides,
    writes,
)

KIND = "refine"
HELP = "make a picture larger and paint it again lightly, tile by tile, each told only what is in it"
#: What becomes of tiles that lost or got something, one after another, until nothing of the kind is seen.
MENDS = ("weaker", "weaker", "put_back")


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument("picture", type=Path, metavar="PICTURE")
    size = p.add_mutually_exclusive_group()
    size.add_argument("--by", type=float, metavar="FACTOR", help="how many times as wide and high (default: as large as it is)")
    size.add_argument("--size", metavar="WxH", help="pixels, like 4096x3072")
    p.add_argument("--smooth", action="store_true", help="enlarged without the model: soft edges to begin with")
    says(p)
    tells(p)
    spreads(p)
    fields = kind_of(KIND).fields()
    numbers = ("weaker", "put_back")
    sets(p, {name: f for name, f in fields.items() if name not in ("texture", "tile_overlap", *numbers)})
    p.add_argument("--detail", dest="texture", type=float, help=fields["texture"].option)
    p.add_argument("--overlap", dest="tile_overlap", type=int, help=fields["tile_overlap"].option)
    for name in numbers:
        p.add_argument(f"--{name.replace('_', '-')}", dest=name, metavar="N,N", help=fields[name].option)
    p.add_argument("--no-check", action="store_true", help="do not look for what was lost or newly appeared")
    p.add_argument(
        "--mend", action="store_true", help="paint tiles that lost or got something weaker, and put back those where that is no help"
    )
    p.add_argument("--out", type=Path, metavar="FILE", help="PNG to write (default: PICTURE-refine.png beside it)")
    p.add_argument("--with-input", action="store_true", help="store the enlarged start picture in the PNG, so that it repeats by itself")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    kind = kind_of(KIND)
    for name in ("weaker", "put_back"):
        value = getattr(options, name)
        setattr(options, name, None if value is None else kind.own[name].typed(value))
    out, pack = result_of(options, KIND), pack_of(options)
    sheet, notes = picture_sheet(options.picture, options.scene)
    sheet = _enlarged(sheet, options, pack, stop)
    sheet, more = with_guides(sheet, options)
    asked = request_of(kind, PassSettings(strength=kind.begins), options)
    request = replace(asked, more=with_own(asked.more, kind.own))
    p = plan(sheet, request, pack)
    take, seen = _painted(sheet, request, p, pack, options, stop)
    done = sheet.with_layer(take.to_patch(sheet.next_key(), KIND))
    start = sheet.flatten() if options.with_input else None
    write_png(out, done.flatten(), picture_recipe(done), start)
    told = [f"Tile {c.number}: {c.told}." for c in seen or ()]
    if seen == []:
        told = ["Nothing was lost, and nothing appeared."]
    values = {"file": str(out), "size": [sheet.width, sheet.height], "tiles": len(p.stages), "forecast": forecast_values(p)}
    found = None if seen is None else [{"tile": c.number, "lost": c.lost, "new": c.new} for c in seen]
    values |= {"changes": found, "finished": not take.told}
    say(options, values, *notes, *more, *p.sentences, *warned(p), *told, *([take.told] if take.told else []), str(out))
    return STOPPED if take.told else OK


def _enlarged(sheet: Sheet, options: argparse.Namespace, pack: Pack, stop: Event) -> Sheet:
    """The sheet at the size that was asked for."""
    if options.by is not None and not 0.01 <= options.by <= 64:
        raise Refused(f"--by goes from 0.01 to 64; {options.by:g} is outside.")
    width, height = sheet.width, sheet.height
    if options.size is not None:
        width, height = size_of(options.size)
    elif options.by is not None:
        width, height = round(width * options.by), round(height * options.by)
    if (width, height) == (sheet.width, sheet.height):
        return sheet
    draw = resize_picture if options.smooth else partial(crisp, pack=pack, tick=Watch(stop=stop).check)
    return scaled(sheet, width, height, draw)


def _painted(
    sheet: Sheet, request: Request, p: Plan, pack: OnnxPack | ForeignPack, options: argparse.Namespace, stop: Event
) -> tuple[Take, list[Change] | None]:
    """The take, and what was lost and appeared in it; None where nobody looked."""
    kept = TileFiles()
    watch = Watch(progress_of(options), stop, tiles=kept)
    with machines_of(options, pack) as machines:
        far = None if machines is None else machines.tiles(p, sheet, request, pack, kept, stop)
        try:
            take = run_take(p, pack, request.settings.seed, watch if far is None else replace(watch, tiles=far))
        finally:
            if far is not None:
                far.close()
    if options.no_check or pack.finder is None or take.told:
        return take, None
    before, rects = sheet.flatten(), [(tile.number, tile.rect) for tile in tiles_of(sheet, request, pack.info)]

    def looked_at(made: Take) -> list[Change]:
        return changes(before, made.laid_on(sheet, KIND).flatten(), rects, pack, watch.check)

    seen = looked_at(take)
    for name in MENDS if options.mend else ():
        if not seen:
            break
        request = with_tiles(request, name, [c.number for c in seen])
        try:
            again = run_take(plan(sheet, request, pack), pack, request.settings.seed, watch)
        except Refused:
            # All of it would be put back.
            break
        if again.told:
            break
        take, seen = again, looked_at(again)
    return take, seen
