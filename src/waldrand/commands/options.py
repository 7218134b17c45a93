"""What commands have in common: their options, the sheets and pictures they are given, and what they print."""

from __future__ import annotations

import argparse
import json
import re
import sys
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from ..core.fields import Field, from_values
from ..core.passes.kind import Kind
from ..core.passes.plan import Plan
from ..core.passes.recipe import recipe_words
from ..core.passes.request import ASKED, Request
from ..core.passes.settings import SETTINGS, PassSettings
from ..core.passes.watch import Step
from ..core.picture.ink import LEAST_DRAWN, ink
from ..core.picture.resample import resize_rgba
from ..core.refused import Refused
from ..core.values.element import SceneWords
from ..core.values.layers import DEPTH, LINES, LOOK, PictureLayer
from ..core.values.masks import Mask
from ..core.values.sheet import Sheet
from ..files.depths import read_depth
from ..files.formats import PICTURE, format_of, open_file, refuse_outside
from ..files.layout import fitted_mask
from ..files.openraster import open_sheet
from ..files.pictures import read_grey, read_picture, read_recipe, read_start
from ..packs.add_ons import Merged, read_add_on
from ..packs.foreign import ForeignPack
from ..packs.installed import installed_add_ons
from ..packs.onnx_pack import OnnxPack
from ..packs.opened import open_pack

if TYPE_CHECKING:
    from ..far.machines import Machines

#: Options that go by another name than their field.
NAMES = {"small_nearer": "nearer", "own_frame": "frame"}


# --- options


def writes(p: argparse.ArgumentParser) -> None:
    p.add_argument("--force", action="store_true", help="write over existing files")


def scales_masks(p: argparse.ArgumentParser) -> None:
    p.add_argument("--scale-mask", action="store_true", help="fit masks of another size to the sheet")


def tells(p: argparse.ArgumentParser) -> None:
    """Pictures that a pass is told of: drawings, depth, looks."""
    how = "; how much it counts, 0 to 1, and from and to which share of the steps"
    p.add_argument("--drawing", action="append", default=[], metavar="FILE[:WEIGHT[:FROM-TO]]", help=f"lines that edges are to follow{how}")
    p.add_argument(
        "--depth", action="append", default=[], metavar="FILE[:WEIGHT[:FROM-TO]]", help=f"how near everything is, near white{how}"
    )
    p.add_argument("--near-black", action="store_true", help="in the depth, near is black")
    p.add_argument("--look", action="append", default=[], metavar="PICTURE[:WEIGHT]", help="a picture that lends its colours and surface")
    p.add_argument(
        "--add-on",
        action="append",
        default=[],
        metavar="FILE[:WEIGHT]",
        help="merged into the model, -1 to 2 (default: 1); those that are installed, cyanotype and snail among them, by their names",
    )
    p.add_argument("--fit-guides", action="store_true", help="fit drawings and depths of another size to the sheet")


def with_guides(sheet: Sheet, options: argparse.Namespace) -> tuple[Sheet, tuple[str, ...]]:
    """The sheet with the pictures that a pass is told of, and what was converted.

    Raises:
        Refused: one cannot be read, is of another size, or is nothing that could be told.
    """
    notes: list[str] = []
    for role, said in ((LINES, options.drawing), (DEPTH, options.depth), (LOOK, options.look)):
        for text in said:
            path, weight, acts = told_of(text, f"--{role}")
            picture = read_depth(path, options.near_black) if role == DEPTH else read_picture(path)
            notes += picture.notes
            pixels = picture.pixels
            if role != LOOK and pixels.shape[:2] != (sheet.height, sheet.width):
                if not options.fit_guides:
                    size = f"{pixels.shape[1]} x {pixels.shape[0]}"
                    raise Refused(f"{path} is {size} pixels, the sheet {sheet.width} x {sheet.height}: fit it with --fit-guides.")
                pixels = resize_rgba(pixels, sheet.height, sheet.width)
            if role == LINES and not ink(pixels).max() > LEAST_DRAWN:
                raise Refused(f"Nothing is drawn in {path}.")
            layer = PictureLayer(sheet.next_key(), path.stem, pixels, opacity=weight, role=role, acts=acts)
            sheet = sheet.with_layer(layer)
    return sheet, tuple(notes)


def told_of(text: str, option: str) -> tuple[Path, float, tuple[float, float]]:
    """A file, how much it counts, and from and to which share of the steps, written FILE[:WEIGHT[:FROM-TO]].

    Raises:
        Refused: a weight or share that is none.
    """
    match = re.fullmatch(r"(.+?)(?::(-?\d{1,4}(?:\.\d+)?)(?::(\d(?:\.\d+)?)-(\d(?:\.\d+)?))?)?", text)
    if match is None or (match[2] is None and Path(text).name.count(":") and not Path(text).exists()):
        raise Refused(f"{option} {text}: write FILE, or FILE:WEIGHT, or FILE:WEIGHT:FROM-TO, like lines.png:0.8:0-0.6.")
    weight = 1.0 if match[2] is None else float(match[2])
    if not 0 <= weight <= 1:
        raise Refused(f"{option} {text}: it counts from 0 to 1; {weight:g} is outside.")
    return Path(match[1]), weight, (float(match[3] or 0), float(match[4] or 1))


def spreads(p: argparse.ArgumentParser) -> None:
    """Other machines to paint on."""
    p.add_argument("--on", metavar="tcp://HOST:8786", help="paint on the workers of this Dask scheduler: the same bytes, sooner")


@contextmanager
def machines_of(options: argparse.Namespace, pack: OnnxPack | ForeignPack) -> Iterator[Machines | None]:
    """The machines that were asked for, while they are needed; None: this one.

    Raises:
        Refused: none answers.
    """
    if not getattr(options, "on", None):
        yield None
        return
    from ..far.machines import Machines

    machines = Machines(options.on, pack, options.pack)
    try:
        yield machines
    finally:
        machines.close()


def says(p: argparse.ArgumentParser) -> None:
    """The words of the whole picture, beside those of a pass."""
    p.add_argument("--scene", help="words of the whole picture (default: from its recipe)")


def sets(p: argparse.ArgumentParser, fields: dict[str, Field], needed: Iterable[str] = ()) -> None:
    """An option for each field that has a text for the command line. needed: those that have to be given."""
    for name, f in fields.items():
        if not f.option:
            continue
        more: dict[str, Any] = {"dest": name, "help": f.option, "default": None, "required": name in needed}
        match f.read:
            case "flag":
                more["action"] = argparse.BooleanOptionalAction
            case "whole" | "number":
                more["type"] = int if f.read == "whole" else float
            case "box":
                more["metavar"] = "X0,Y0,X1,Y1"
            case "choice":
                more["choices"] = tuple(dict(f.choices))
        p.add_argument(f"--{NAMES.get(name, name).replace('_', '-')}", **more)


def settings_of(base: PassSettings, options: argparse.Namespace) -> PassSettings:
    """The settings with those in their place that were given."""
    given = {k: v for k in SETTINGS if (v := getattr(options, k, None)) is not None}
    return replace(base, **given)


def request_of(kind: Kind, base: PassSettings, options: argparse.Namespace) -> Request:
    """What is asked of a kind of pass. base: the settings where none are given."""
    said = {k: v for k in kind.fields() if k in ASKED and (v := getattr(options, k, None)) is not None}
    said |= {k: ASKED[k].typed(v) for k, v in said.items() if ASKED[k].read == "box"}
    more = tuple((k, v) for k in kind.own if (v := getattr(options, k, None)) is not None)
    return Request(kind.name, settings_of(base, options), **said, more=more)


def size_of(text: str) -> tuple[int, int]:
    """Raises Refused when a size is not written as WxH."""
    match = re.fullmatch(r"(\d{1,6})[x×](\d{1,6})", text.strip())
    if match is None:
        raise Refused(f"--size {text}: write width and height in pixels, like 768x512.")
    return int(match[1]), int(match[2])


def point_of(text: str, option: str) -> tuple[float, float]:
    """Raises Refused when a point is not written as X,Y."""
    match = re.fullmatch(r"\s*(-?\d{1,6}(?:\.\d+)?)\s*,\s*(-?\d{1,6}(?:\.\d+)?)\s*", text)
    if match is None:
        raise Refused(f"{option} {text}: write a point in pixels, like 320,180.")
    return float(match[1]), float(match[2])


# --- what is read


def pack_of(options: argparse.Namespace) -> OnnxPack | ForeignPack:
    """The pack, with the add-ons that were asked for.

    Raises:
        Refused: one cannot be read, or is for another model.
    """
    pack, told = open_pack(options.pack), getattr(options, "add_on", [])
    if told and isinstance(pack, ForeignPack):
        raise Refused(f"Add-ons are for packs of our own make; {pack.info.name} is none.")
    if told and isinstance(pack, OnnxPack):
        pack.use_add_ons([add_on_of(text) for text in told])
    return pack


def add_on_of(text: str) -> Merged:
    """An add-on and by how much it is merged, written FILE[:WEIGHT], or NAME[:WEIGHT] of one that is installed.

    Raises:
        Refused: it cannot be read, or the weight is none.
    """
    match = re.fullmatch(r"(.+?)(?::(-?\d{1,4}(?:\.\d+)?))?", text)
    assert match is not None
    path = Path(match[1])
    path = path if path.exists() else installed_add_ons().get(match[1], path)
    return Merged(read_add_on(path), 1.0 if match[2] is None else float(match[2]))


def load_sheet(path: Path, scale_masks: bool = False) -> tuple[Sheet, PassSettings, tuple[str, ...]]:
    """A layout or a sheet, the settings of its pass, and what the artist should know.

    Raises:
        Refused: it cannot be read, is a picture, or an element lies wholly outside.
    """
    known = format_of(path)
    opened = open_file(path, scale_masks) if known is not None and known.name != PICTURE else open_sheet(path)
    refuse_outside(opened.sheet)
    if opened.asked is not None:
        return opened.sheet, opened.asked, opened.notes
    saved = opened.settings.get("pass", {})
    # A layout's strength says how far a start picture is left; a sheet's takes are composed anew.
    settings = from_values(PassSettings, (saved if isinstance(saved, dict) else {}) | {"strength": 1.0}, f"the pass in {path}")
    return opened.sheet, settings, opened.notes


def picture_sheet(path: Path, scene: str | None = None) -> tuple[Sheet, tuple[str, ...]]:
    """A sheet with a picture, the scene's words given or from its recipe; and what was converted."""
    picture = read_picture(path)
    h, w = picture.pixels.shape[:2]
    words = recipe_words(read_recipe(path)) if scene is None else scene
    return Sheet(w, h, (PictureLayer(1, path.stem, picture.pixels),), scene=SceneWords(words=words)), picture.notes


def frame_in(path: Path, scale_masks: bool = False) -> tuple[int, int, int, int] | None:
    """The frame of the pass that a layout sets."""
    known = format_of(path)
    return None if known is None or known.saved or known.name == PICTURE else open_file(path, scale_masks).own_frame


def any_sheet(path: Path, scale_masks: bool = False) -> tuple[Sheet, PassSettings, tuple[str, ...]]:
    """A layout, a sheet, or a picture as a sheet with the words of its recipe."""
    known = format_of(path)
    if known is not None and known.name != PICTURE:
        return load_sheet(path, scale_masks)
    sheet, notes = picture_sheet(path)
    return sheet, PassSettings(), notes


def with_mask(sheet: Sheet, options: argparse.Namespace) -> Sheet:
    """The sheet with the mask that was asked for."""
    grey = fitted_mask(read_grey(options.mask), sheet.width, sheet.height, str(options.mask), options.scale_mask)
    return replace(sheet, mask=Mask.from_array(grey))


def recipe_in(path: Path, so: str) -> dict[str, Any]:
    """Raises Refused when a picture holds no recipe. so: what follows from that."""
    recipe = read_recipe(path)
    if recipe is None:
        raise Refused(f"{path} holds no recipe, so {so}.")
    return recipe


def inputs_of(options: argparse.Namespace) -> list[np.ndarray]:
    """The pictures that the recipe of `options.picture` may have started from: those given, and the one stored inside."""
    stored = read_start(options.picture)
    return [read_picture(p).pixels for p in options.input] + ([] if stored is None else [stored])


# --- what is written


def refuse_existing(paths: Iterable[Path], force: bool) -> None:
    there = [p for p in paths if p.exists()]
    if there and not force:
        raise Refused(f"{there[0]} exists already. Choose another place, or write over it with --force.")


def folder_of(path: Path) -> Path:
    """Raises Refused when a folder cannot be made."""
    try:
        path.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise Refused(f"The folder {path} cannot be made: {error.strerror}.") from error
    return path


def paths_of_takes(options: argparse.Namespace, out: Path, seed: int) -> list[Path]:
    """The PNGs to write for as many takes as were asked for: one file, or a folder's take-SEED.png.

    Raises:
        Refused: no take is wanted, the name is no PNG's, or a file is there already.
    """
    if options.takes < 1:
        raise Refused(f"Ask for at least one take, not {options.takes}.")
    if options.takes == 1 and out.suffix.lower() == ".png":
        paths = [out]
    elif out.suffix:
        raise Refused("The result is written as a PNG; give --out a name ending in .png, or for several takes a folder.")
    else:
        paths = [folder_of(out) / f"take-{seed + i}.png" for i in range(options.takes)]
    refuse_existing(paths, options.force)
    return paths


def result_of(options: argparse.Namespace, what: str) -> Path:
    """The PNG to write: as asked for, or beside the picture."""
    out: Path = options.out or options.picture.with_name(f"{options.picture.stem}-{what}.png")
    if out.suffix.lower() != ".png":
        raise Refused(f"The result is written as a PNG; give --out a name ending in .png, not {out.name}.")
    refuse_existing([out], options.force)
    return out


def progress_of(options: argparse.Namespace) -> Callable[[Step], None] | None:
    if options.json or not sys.stderr.isatty():
        return None

    def show(step: Step) -> None:
        end = "\n" if step.step == step.steps else ""
        print(f"\rtake {step.take + 1} of {step.takes}, step {step.step} of {step.steps} ", end=end, file=sys.stderr, flush=True)

    return show


def say(options: argparse.Namespace, values: dict[str, Any], *lines: str) -> None:
    """Prints one JSON object, or lines."""
    if options.json:
        print(json.dumps(values))
    else:
        for line in lines:
            print(line)


def say_beforehand(options: argparse.Namespace, *lines: str) -> None:
    """Prints lines before the work begins, unless one JSON object is wanted."""
    if not options.json:
        say(options, {}, *lines)


def names_of(paths: Sequence[Path]) -> list[str]:
    return [str(p) for p in paths]


def warned(p: Plan) -> list[str]:
    return [f"Warning: {w.text}" for w in p.warnings]


def forecast_values(p: Plan) -> dict[str, Any]:
    r = p.frame.rect
    return {
        "kind": p.request.kind,
        "frame": [r.x0, r.y0, r.x1, r.y1],
        "computed": [p.frame.width, p.frame.height],
        "scale": round(p.frame.scale, 4),
        "steps": p.steps,
        "method": p.method,
        "calls": p.calls,
        "seconds": None if p.seconds is None else round(p.seconds, 2),
        "memory": p.memory,
        "changed": p.changed,
        "sentences": list(p.sentences),
        "warnings": [w.text for w in p.warnings],
    }


def landed_line(scores: Sequence[Any], tries: int) -> str:
    often = f"tried again {tries} time{'' if tries == 1 else 's'}"
    return f"{sum(s.landed for s in scores)} of {len(scores)} landed, {often}"
