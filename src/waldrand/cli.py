"""Everything Waldrand does, without a window."""

from __future__ import annotations

import argparse
import json
import re
import signal
import sys
from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import partial
from pathlib import Path
from threading import Event
from typing import Any

import numpy as np

from . import __version__
from .core.noise.samplers import SAMPLERS
from .core.packs import Pack
from .core.passes.again import Tried, run_until_landed
from .core.passes.enlarge import crisp
from .core.passes.plan import Plan, plan
from .core.passes.recipe import picture_recipe, recipe_words
from .core.passes.repeat import find_element, repeat, reroll
from .core.passes.request import METHODS, START_STRENGTH, Kind, PassSettings, Request
from .core.passes.run import Step, Stopped, run, seeds_of
from .core.passes.series import LADDER, Variant, ladder, parse_over, run_variants, vary
from .core.passes.speed import measure
from .core.picture.resample import resize_picture
from .core.refused import Refused
from .core.seen.found import as_elements, describe, find, placement
from .core.told.placing import places_of, with_places
from .core.values.colour_map import colour_map, colour_name, regions
from .core.values.division import SharesError, divide, parse_shares
from .core.values.element import Element, SceneWords
from .core.values.masks import Mask
from .core.values.resize import scaled
from .core.values.sheet import Layer, Sheet
from .demo import load_demo, output_names, run_demo
from .files.contact import contact_sheet
from .files.layout import fitted_mask, read_layout, write_layout
from .files.openraster import open_sheet
from .files.pictures import read_grey, read_picture, read_recipe, read_start, write_png
from .packs.onnx_pack import OnnxPack

OK, DIFFERENT, BAD, STOPPED = 0, 1, 2, 130
METHOD_HELP = "steer: by outlines; blend: a prediction for each element, slower; text: all words in one prompt, outlines ignored"
NEARER_HELP = "paint each small thing once more from nearer: finer, and about as long again for each"


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> Any:
        raise Refused(f"{message[:1].upper()}{message[1:]}. See {self.prog} --help.")


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="waldrand", description="Place elements on a sheet, then inpaint and composite chosen areas.")
    parser.add_argument("--version", action="version", version=f"waldrand {__version__}")
    parser.set_defaults(act=_window, file=None)
    commands = parser.add_subparsers(title="commands", metavar="COMMAND", parser_class=_Parser)

    def command(name: str, act: Callable[[argparse.Namespace, Event], int], help_: str) -> argparse.ArgumentParser:
        p = commands.add_parser(name, help=help_, description=help_)
        p.set_defaults(act=act)
        p.add_argument("--pack", type=Path, metavar="DIR", help="another pack's folder (default: the one installed with Waldrand)")
        p.add_argument("--json", action="store_true", help="print one JSON object")
        return p

    def writes(p: argparse.ArgumentParser) -> None:
        p.add_argument("--force", action="store_true", help="write over existing files")

    def passes(p: argparse.ArgumentParser, strength: bool) -> None:
        p.add_argument("--seed", type=int, help="seed (default: the file's, else 0)")
        p.add_argument("--steps", type=int, help="steps at full strength")
        p.add_argument("--guidance", type=float, help="how strictly the words are followed; 1: as they are")
        p.add_argument("--sampler", choices=SAMPLERS, help="how noise levels are stepped through")
        p.add_argument("--detail", type=float, help="how finely it is computed, 0.5 to 2; 1: as the pack does best")
        p.add_argument("--figures", action=argparse.BooleanOptionalAction, help="fit the shapes of things into loose outlines")
        if strength:
            p.add_argument("--strength", type=float, required=True, help="denoise strength, 0 to 1")
        writes(p)

    p = command("open", _window, "open the window with a sheet, a layout or a picture")
    p.add_argument("file", type=Path, metavar="FILE", nargs="?")
    p = command("demo", _demo, "open the window with the demo sheet, or run the whole demo to files")
    p.add_argument("--out", type=Path, metavar="DIR", help="run without a window and write everything here")
    writes(p)
    p = command("run", _run, "compose takes of a layout or a sheet, a PNG each")
    p.add_argument("file", type=Path, metavar="FILE")
    p.add_argument("--takes", type=int, default=1, help="how many, with rising seeds")
    p.add_argument("--method", choices=METHODS, help=METHOD_HELP)
    p.add_argument("--again", type=int, default=0, metavar="N", help="another chance for what missed its outline, at most N times a take")
    p.add_argument("--nearer", action="store_true", help=NEARER_HELP)
    p.add_argument("--out", type=Path, default=Path("."), metavar="DIR", help="folder for take-SEED.png")
    p.add_argument("--scale-mask", action="store_true", help="fit masks of another size to the sheet")
    passes(p, strength=False)
    p = command("forecast", _forecast, "say what composing a layout or a sheet will do, and what looks wrong")
    p.add_argument("file", type=Path, metavar="FILE")
    p.add_argument("--nearer", action="store_true", help=NEARER_HELP)
    p.add_argument("--scale-mask", action="store_true", help="fit masks of another size to the sheet")
    for name, act, help_ in (
        ("inpaint", _inpaint, "repaint what a mask shows; everything else stays bit for bit"),
        ("rework", _rework, "repaint a whole picture at a strength"),
    ):
        p = command(name, act, help_)
        p.add_argument("picture", type=Path, metavar="PICTURE")
        p.add_argument("--words", default="", help="what is wanted there")
        p.add_argument("--avoid", default="", help="what is not wanted")
        p.add_argument("--scene", help="words of the whole picture (default: from its recipe)")
        if name == "inpaint":
            p.add_argument("--mask", type=Path, required=True, help="grey picture: white is repainted, grey partly")
            p.add_argument("--scale-mask", action="store_true", help="fit a mask of another size to the picture")
            p.add_argument("--feather", type=float, help="width of the edge in pixels, inside the mask")
        p.add_argument("--out", type=Path, metavar="FILE", help=f"PNG to write (default: PICTURE-{name}.png beside it)")
        p.add_argument("--with-input", action="store_true", help="store the start picture in the PNG, so that it repeats by itself")
        passes(p, strength=True)
    p = command("place", _place, "make a layout of words: each thing they name where such a thing is wont to be")
    p.add_argument("--words", required=True, help='of the whole picture, like "fox, birch, starry night, meadow"')
    p.add_argument("--size", default=None, metavar="WxH", help="pixels of the sheet, like 768x512 (default: the pack's first best size)")
    p.add_argument("--seed", type=int, default=0, help="another seed, other places")
    p.add_argument("--out", type=Path, required=True, metavar="FILE.toml")
    writes(p)
    p = command("enlarge", _enlarge, "make a picture larger: the model draws its edges anew, and adds nothing else")
    p.add_argument("picture", type=Path, metavar="PICTURE")
    size = p.add_mutually_exclusive_group(required=True)
    size.add_argument("--by", type=float, metavar="FACTOR", help="how many times as wide and high")
    size.add_argument("--size", metavar="WxH", help="pixels, like 2048x1536")
    p.add_argument("--smooth", action="store_true", help="without the model: edges get soft")
    p.add_argument("--out", type=Path, metavar="FILE.png", help="PNG to write (default: PICTURE-enlarge.png beside it)")
    writes(p)
    p = command("divide", _divide, "divide a sheet, or one of its elements, into parts and write the layout")
    p.add_argument("file", type=Path, metavar="FILE", help="a layout, a sheet or a picture")
    p.add_argument("--across", default="1", metavar="SHARES", help="shares of the columns from the left, like 1,1,2")
    p.add_argument("--down", default="1", metavar="SHARES", help="shares of the rows from the top")
    p.add_argument("--element", metavar="N", help="divide this element, by number or name, instead of the sheet")
    p.add_argument("--out", type=Path, required=True, metavar="FILE.toml")
    writes(p)
    p = command("from-colours", _from_colours, "make a layout of a flat-colour picture: one element for each colour")
    p.add_argument("picture", type=Path, metavar="MAP.png")
    p.add_argument("--tolerance", type=float, default=24.0, help="how unlike two colours may be and still count as one, 1 to 200")
    p.add_argument("--out", type=Path, required=True, metavar="FILE.toml")
    writes(p)
    p = command("to-colours", _to_colours, "write a layout as a flat-colour picture")
    p.add_argument("file", type=Path, metavar="FILE")
    p.add_argument("--out", type=Path, required=True, metavar="MAP.png")
    writes(p)
    p = command("ladder", _ladder, "one pass at rising denoise strengths on the same seed")
    p.add_argument("file", type=Path, metavar="FILE|PICTURE")
    p.add_argument("--mask", type=Path, help="inpaint this mask instead of reworking the whole")
    p.add_argument("--words", default="", help="what is wanted there")
    p.add_argument("--avoid", default="", help="what is not wanted")
    p.add_argument("--scene", help="words of the whole picture (default: the file's own)")
    p.add_argument("--strengths", default=",".join(f"{s:g}" for s in LADDER), metavar="LIST", help="strengths, like .2,.4,.6,.8")
    p.add_argument("--scale-mask", action="store_true", help="fit masks of another size to the sheet")
    p.add_argument("--out", type=Path, required=True, metavar="DIR", help="folder for a PNG each and overview.png")
    passes(p, strength=False)
    p = command("vary", _vary, "what one or two settings do, at one seed: a PNG each and overview.png")
    p.add_argument("file", type=Path, metavar="FILE")
    p.add_argument("--over", action="append", required=True, metavar="WHAT=VALUES", help="like guidance=2,4 or fox=owl,hare; twice at most")
    p.add_argument("--method", choices=METHODS, help=METHOD_HELP)
    p.add_argument("--scale-mask", action="store_true", help="fit masks of another size to the sheet")
    p.add_argument("--out", type=Path, required=True, metavar="DIR")
    passes(p, strength=False)
    p = command("reroll", _reroll, "paint a take again with other noise inside one element; the others keep theirs")
    p.add_argument("picture", type=Path, metavar="TAKE.png")
    p.add_argument("--element", required=True, metavar="N", help="by number, counted from 1, or by name")
    p.add_argument("--seed", type=int, help="seed of its noise (default: the next one)")
    p.add_argument("--nearer", action="store_true", help="paint it over in a frame of its own, so that a small thing gets many pixels")
    p.add_argument("--input", type=Path, action="append", default=[], metavar="FILE", help="the picture it was made from")
    p.add_argument("--out", type=Path, required=True, metavar="FILE.png")
    writes(p)
    p = command("find", _find, "where a thing is in a picture: a soft mask, and how surely")
    p.add_argument("picture", type=Path, metavar="PICTURE")
    p.add_argument("--words", required=True, help='what to look for, like "owl"')
    p.add_argument("--out", type=Path, metavar="MASK.png", help="where to write the mask")
    writes(p)
    p = command("describe", _describe, "words read off a picture")
    p.add_argument("picture", type=Path, metavar="PICTURE")
    p.add_argument("--out", type=Path, metavar="FILE.toml", help="also write a layout: what is seen, each thing in a box")
    writes(p)
    p = command("score", _score, "how each element of a layout landed in takes of it")
    p.add_argument("takes", type=Path, nargs="+", metavar="TAKE")
    p.add_argument("--layout", type=Path, required=True, metavar="FILE")
    p = command("repeat", _repeat, "make a picture again from its recipe and say whether it is identical")
    p.add_argument("picture", type=Path, metavar="PICTURE.png")
    p.add_argument("--input", type=Path, action="append", default=[], metavar="FILE", help="the picture it was made from")
    command("words", _words, "list what the model knows")
    return parser


def _settings(base: PassSettings, options: argparse.Namespace) -> PassSettings:
    given = {
        k: getattr(options, k)
        for k in ("seed", "steps", "guidance", "sampler", "method", "strength", "figures", "detail")
        if getattr(options, k, None) is not None
    }
    return replace(base, **given)


def _progress(options: argparse.Namespace) -> Callable[[Step], None] | None:
    if options.json or not sys.stderr.isatty():
        return None

    def show(step: Step) -> None:
        end = "\n" if step.step == step.steps else ""
        print(f"\rtake {step.take + 1} of {step.takes}, step {step.step} of {step.steps} ", end=end, file=sys.stderr, flush=True)

    return show


def _refuse_existing(paths: list[Path], force: bool) -> None:
    there = [p for p in paths if p.exists()]
    if there and not force:
        raise Refused(f"{there[0]} exists already. Choose another place, or write over it with --force.")


def _folder(path: Path) -> Path:
    try:
        path.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise Refused(f"The folder {path} cannot be made: {error.strerror}.") from error
    return path


def _say(options: argparse.Namespace, values: dict[str, Any], *lines: str) -> None:
    if options.json:
        print(json.dumps(values))
    else:
        for line in lines:
            print(line)


def _forecast_values(p: Plan) -> dict[str, Any]:
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


def _load(path: Path, scale_masks: bool = False) -> tuple[Sheet, PassSettings, tuple[str, ...]]:
    loaded = _read(path, scale_masks)
    sheet = loaded[0]
    for e in sheet.elements:
        x0, y0, x1, y1 = e.outline.box
        if x1 <= 0 or y1 <= 0 or x0 >= sheet.width or y0 >= sheet.height:
            raise Refused(f"“{e.name}” lies wholly outside the sheet: give it a box that reaches into 0 to 1, or leave it out.")
    return loaded


def _read(path: Path, scale_masks: bool) -> tuple[Sheet, PassSettings, tuple[str, ...]]:
    if path.suffix.lower() == ".toml":
        layout = read_layout(path, scale_masks)
        return layout.sheet, layout.settings, ()
    opened = open_sheet(path)
    saved = opened.settings.get("pass", {})
    try:
        return opened.sheet, PassSettings(**{**saved, "strength": 1.0}), opened.notes
    except TypeError as error:
        raise Refused(f"{path} is damaged: its pass settings cannot be read.") from error


def _window(options: argparse.Namespace, stop: Event) -> int:
    from .desk.app import open_window

    return open_window(options.file)


def _demo(options: argparse.Namespace, stop: Event) -> int:
    if options.out is None:
        from .desk.app import open_window

        return open_window(demo=True)
    demo = load_demo()
    out = _folder(options.out)
    names = output_names(demo)
    _refuse_existing([out / n for n in names], options.force)
    run_demo(demo, OnnxPack(options.pack), out, _progress(options), stop, say=(lambda _: None) if options.json else print)
    _say(options, {"files": [str(out / n) for n in names]})
    return OK


def _run(options: argparse.Namespace, stop: Event) -> int:
    sheet, settings, notes = _load(options.file, options.scale_mask)
    settings = _settings(settings, options)
    if options.again < 0:
        raise Refused(f"--again is how often, 0 or more, not {options.again}.")
    pack: Pack = OnnxPack(options.pack)
    # A layout's strength says how far a start picture is left; a sheet's takes are composed anew.
    planned = plan(sheet, Request("compose", settings, small_nearer=options.nearer), pack)
    out = _folder(options.out)
    _refuse_existing([out / f"take-{settings.seed + i}.png" for i in range(options.takes)], options.force)
    if not options.json:
        for line in (*notes, *planned.sentences, *(f"Warning: {w.text}" for w in planned.warnings)):
            print(line)
    written, values, lines = [], dict[str, Any](), []
    for whole, seed, tried in _takes(planned, pack, options, stop):
        path = out / f"take-{seed}.png"
        write_png(path, whole.flatten(), picture_recipe(whole))
        written.append(str(path))
        lines.append(str(path))
        if tried is not None:
            values[str(path)] = {s.name: round(s.score, 1) for s in tried.scores}
            often = f"tried again {tried.tries} time{'' if tried.tries == 1 else 's'}"
            lines[-1] += f": {len(tried.scores) - len(tried.missed)} of {len(tried.scores)} landed, {often}"
            lines += [f"  {s.says}" for s in tried.scores if s.says]
    _say(options, {"files": written, "forecast": _forecast_values(planned)} | ({"scores": values} if values else {}), *lines)
    return OK


def _takes(p: Plan, pack: Pack, options: argparse.Namespace, stop: Event) -> Iterator[tuple[Sheet, int, Tried | None]]:
    """Sheets with a take laid on, the take's seed, and how it was tried again where that was asked for."""
    if options.again == 0:
        for take in run(p, pack, options.takes, _progress(options), stop):
            yield take.laid_on(p.sheet, f"take {take.seed}"), take.seed, None
        return
    for i, seed in enumerate(seeds_of(p, options.takes)):
        tried = run_until_landed(p, pack, seed, options.again, _progress(options), stop, i, options.takes)
        yield tried.take.laid_on(tried.sheet, f"take {seed}"), seed, tried


def _forecast(options: argparse.Namespace, stop: Event) -> int:
    sheet, settings, notes = _load(options.file, options.scale_mask)
    pack = OnnxPack(options.pack)
    p = plan(sheet, Request("compose", settings, small_nearer=options.nearer), pack, measure(pack))
    cost = f"About {p.seconds:.1f} s a take here, {p.memory / 1e6:.0f} MB."
    _say(options, _forecast_values(p), *notes, *p.sentences, cost, *(f"Warning: {w.text}" for w in p.warnings))
    return OK


def _picture_sheet(path: Path, scene: str | None = None) -> tuple[Sheet, tuple[str, ...]]:
    """A sheet with a picture, the scene's words given or from its recipe; and what was converted."""
    picture = read_picture(path)
    h, w = picture.pixels.shape[:2]
    words = recipe_words(read_recipe(path)) if scene is None else scene
    return Sheet(w, h, (Layer(1, path.stem, picture.pixels),), scene=SceneWords(words=words)), picture.notes


def _masked(sheet: Sheet, options: argparse.Namespace) -> Sheet:
    """The sheet with the mask that was asked for."""
    grey = fitted_mask(read_grey(options.mask), sheet.width, sheet.height, str(options.mask), options.scale_mask)
    return replace(sheet, mask=Mask.from_array(grey))


def _inputs(options: argparse.Namespace) -> list[np.ndarray]:
    """The pictures that the recipe of `options.picture` may have started from: those given, and the one stored inside."""
    stored = read_start(options.picture)
    return [read_picture(p).pixels for p in options.input] + ([] if stored is None else [stored])


def _result(options: argparse.Namespace, kind: str) -> Path:
    """The PNG to write: as asked for, or beside the picture."""
    out: Path = options.out or options.picture.with_name(f"{options.picture.stem}-{kind}.png")
    if out.suffix.lower() != ".png":
        raise Refused(f"The result is written as a PNG; give --out a name ending in .png, not {out.name}.")
    _refuse_existing([out], options.force)
    return out


def _on_picture(options: argparse.Namespace, stop: Event, kind: str) -> int:
    settings = _settings(PassSettings(strength=START_STRENGTH["inpaint" if kind == "inpaint" else "rework"]), options)
    sheet, notes = _picture_sheet(options.picture, options.scene)
    before = sheet.flatten()
    if kind == "inpaint":
        sheet = _masked(sheet, options)
        request = Request("inpaint", settings, options.words, options.avoid)
    else:
        request = Request("rework", settings, options.words, options.avoid)
    out = _result(options, kind)
    pack: Pack = OnnxPack(options.pack)
    p = plan(sheet, request, pack)
    take = next(run(p, pack, 1, _progress(options), stop))
    patch = take.to_patch(2, options.words or kind)
    if getattr(options, "feather", None) is not None:
        patch = replace(patch, feather=max(0.0, options.feather))
    done = sheet.with_layer(patch)
    pixels = done.flatten()
    changed = int(np.abs(pixels.astype(int) - before).max())
    write_png(out, pixels, picture_recipe(done), before if options.with_input else None)
    _say(
        options,
        {"file": str(out), "forecast": _forecast_values(p), "greatest_change": changed},
        *notes,
        *p.sentences,
        *(f"Warning: {x.text}" for x in p.warnings),
        str(out),
    )
    return OK


def _inpaint(options: argparse.Namespace, stop: Event) -> int:
    return _on_picture(options, stop, "inpaint")


def _rework(options: argparse.Namespace, stop: Event) -> int:
    return _on_picture(options, stop, "rework")


def _any_sheet(path: Path, scale_masks: bool = False) -> tuple[Sheet, PassSettings, tuple[str, ...]]:
    """A layout, a sheet, or a picture as a sheet with the words of its recipe."""
    if path.suffix.lower() in (".toml", ".ora"):
        return _load(path, scale_masks)
    sheet, notes = _picture_sheet(path)
    return sheet, PassSettings(), notes


def _divide(options: argparse.Namespace, stop: Event) -> int:
    sheet, settings, notes = _any_sheet(options.file)
    _refuse_existing([options.out], options.force)
    shares = []
    for name in ("across", "down"):
        text = getattr(options, name)
        try:
            shares.append(parse_shares(text))
        except SharesError as error:
            raise Refused(f"--{name} {text}: {error} (at character {error.at + 1})") from error
    key = None if options.element is None else find_element(sheet, options.element).key
    done = divide(sheet, shares[0], shares[1], key)
    written = write_layout(options.out, done, settings)
    _say(options, {"files": [str(p) for p in written], "elements": [e.name for e in done.elements]}, *notes, *(str(p) for p in written))
    return OK


def _place(options: argparse.Namespace, stop: Event) -> int:
    _refuse_existing([options.out], options.force)
    settings, pack = PassSettings(seed=options.seed), OnnxPack(options.pack)
    size = pack.info.best_sizes[0] if options.size is None else _size(options.size)
    sheet = with_places(Sheet(*size, scene=SceneWords(options.words)), places_of(pack), settings.seed, pack.info.elements)
    written = write_layout(options.out, sheet, settings)
    lines = [f"  {e.words}  at {[round(v) for v in e.outline.box]}" for e in sheet.elements]
    values = {"scene": sheet.scene.words, "elements": {e.name: [round(v) for v in e.outline.box] for e in sheet.elements}}
    _say(options, {"files": [str(p) for p in written], **values}, f"scene: {sheet.scene.words}", *lines, *(str(p) for p in written))
    return OK


def _enlarge(options: argparse.Namespace, stop: Event) -> int:
    picture = read_picture(options.picture)
    h, w = picture.pixels.shape[:2]
    if options.by is not None and not 0.01 <= options.by <= 64:
        raise Refused(f"--by goes from 0.01 to 64; {options.by:g} is outside.")
    width, height = (round(w * options.by), round(h * options.by)) if options.size is None else _size(options.size)
    out = _result(options, "enlarge")

    def tick() -> None:
        if stop.is_set():
            raise Stopped

    draw = resize_picture if options.smooth else partial(crisp, pack=OnnxPack(options.pack), tick=tick)
    sheet = scaled(Sheet(w, h, (Layer(1, "picture", picture.pixels),)), width, height, draw)
    (layer,) = sheet.layers
    clear = (layer.pixels[..., 3] < 255).any()
    write_png(out, layer.pixels if clear else np.ascontiguousarray(layer.pixels[..., :3]))
    _say(options, {"files": [str(out)], "size": [width, height]}, *picture.notes, f"{out}: {width} x {height}")
    return OK


def _size(text: str) -> tuple[int, int]:
    match = re.fullmatch(r"(\d{1,6})[x×](\d{1,6})", text.strip())
    if match is None:
        raise Refused(f"--size {text}: write width and height in pixels, like 768x512.")
    return int(match[1]), int(match[2])


def _from_colours(options: argparse.Namespace, stop: Event) -> int:
    if not 1 <= options.tolerance <= 200:
        raise Refused(f"--tolerance goes from 1 to 200; {options.tolerance:g} is outside.")
    _refuse_existing([options.out], options.force)
    picture = read_picture(options.picture)
    h, w = picture.pixels.shape[:2]
    found = regions(picture.pixels, options.tolerance)
    elements = tuple(Element(i + 1, colour_name(r.colour), r.outline) for i, r in enumerate(found))
    written = write_layout(options.out, Sheet(w, h, elements=elements))
    _say(options, {"files": [str(p) for p in written], "elements": [e.name for e in elements]}, *picture.notes, *(str(p) for p in written))
    return OK


def _to_colours(options: argparse.Namespace, stop: Event) -> int:
    sheet, _, notes = _load(options.file)
    _refuse_existing([options.out], options.force)
    write_png(options.out, colour_map(sheet))
    _say(options, {"file": str(options.out)}, *notes, str(options.out))
    return OK


def _write_variants(options: argparse.Namespace, stop: Event, rows: list[list[Variant]], across: int) -> int:
    out = _folder(options.out)
    variants = [v for row in rows for v in row]
    names = [f"{i + 1:02d}-{re.sub('[^a-z0-9.]+', '-', v.label.lower()).strip('-')}.png" for i, v in enumerate(variants)]
    paths = [*(out / n for n in names), out / "overview.png"]
    _refuse_existing(paths, options.force)
    shown = []
    for path, (variant, take) in zip(paths, run_variants(variants, OnnxPack(options.pack), _progress(options), stop), strict=False):
        whole = take.laid_on(variant.sheet, variant.label)
        pixels = whole.flatten()
        write_png(path, pixels, picture_recipe(whole))
        shown.append((pixels, variant.label))
    write_png(paths[-1], contact_sheet(shown, across))
    _say(options, {"files": [str(p) for p in paths], "labels": [v.label for v in variants]}, *(str(p) for p in paths))
    return OK


def _ladder(options: argparse.Namespace, stop: Event) -> int:
    sheet, settings, notes = _any_sheet(options.file, options.scale_mask)
    if options.scene is not None:
        sheet = replace(sheet, scene=SceneWords(words=options.scene))
    try:
        strengths = [float(s) for s in options.strengths.split(",") if s.strip()]
    except ValueError as error:
        raise Refused(f"--strengths {options.strengths}: write numbers from 0 to 1 with commas between them.") from error
    kind: Kind = "rework"
    if options.mask is not None:
        sheet, kind = _masked(sheet, options), "inpaint"
    request = Request(kind, _settings(settings, options), options.words, options.avoid)
    steps = ladder(sheet, request, strengths)
    if not options.json:
        for line in notes:
            print(line)
    return _write_variants(options, stop, [steps], min(len(steps), 5))


def _vary(options: argparse.Namespace, stop: Event) -> int:
    sheet, settings, _ = _load(options.file, options.scale_mask)
    rows = vary(sheet, Request("compose", _settings(settings, options)), [parse_over(o) for o in options.over])
    return _write_variants(options, stop, rows, len(rows[0]))


def _reroll(options: argparse.Namespace, stop: Event) -> int:
    recipe = read_recipe(options.picture)
    if recipe is None:
        raise Refused(f"{options.picture} holds no recipe, so none of its elements can be painted again.")
    _refuse_existing([options.out], options.force)
    inputs = _inputs(options)
    pack = OnnxPack(options.pack)
    done, element, seed = reroll(recipe, pack, options.element, options.seed, inputs, _progress(options), stop, options.nearer)
    write_png(options.out, done.flatten(), picture_recipe(done), read_start(options.picture))
    _say(
        options,
        {"file": str(options.out), "element": element.name, "seed": seed},
        f"“{element.name}” was painted from nearer with seed {seed}." if options.nearer else f"“{element.name}” has seed {seed} now.",
        str(options.out),
    )
    return OK


def _find(options: argparse.Namespace, stop: Event) -> int:
    picture = read_picture(options.picture)
    if options.out is not None:
        _refuse_existing([options.out], options.force)
    found = find(picture.pixels, options.words, OnnxPack(options.pack))
    if options.out is not None:
        write_png(options.out, found.mask)
    box = None if found.box is None else [round(v) for v in found.box]
    line = f"“{options.words}”: " + (f"found, {100 * found.confidence:.0f} % sure, at {box}." if box else "not found.")
    _say(options, {"found": box is not None, "confidence": round(found.confidence, 3), "box": box}, *picture.notes, line)
    return OK


def _describe(options: argparse.Namespace, stop: Event) -> int:
    picture = read_picture(options.picture)
    if options.out is not None:
        _refuse_existing([options.out], options.force)
    pack = OnnxPack(options.pack)
    d = describe(picture.pixels, pack)
    if options.out is not None:
        h, w = picture.pixels.shape[:2]
        write_layout(options.out, Sheet(w, h, elements=as_elements(d, pack.info.elements), scene=SceneWords(", ".join(d.scene))))
    things = [{"words": w, "confidence": round(c, 3), "box": [round(v) for v in b]} for w, c, b in d.things]
    lines = [", ".join(d.scene) or "nothing is told of the whole", *(f"  {t['words']}  at {t['box']}" for t in things)]
    _say(options, {"scene": list(d.scene), "things": things}, *picture.notes, *lines)
    return OK


def _score(options: argparse.Namespace, stop: Event) -> int:
    sheet, _, _ = _load(options.layout)
    pack = OnnxPack(options.pack)
    values, lines = {}, []
    for path in options.takes:
        pixels = read_picture(path).pixels
        if pixels.shape[:2] != (sheet.height, sheet.width):
            raise Refused(f"{path} is {pixels.shape[1]} x {pixels.shape[0]} pixels, the layout {sheet.width} x {sheet.height}.")
        scores = placement(pixels, sheet, pack)
        values[str(path)] = {s.name: round(s.score, 1) for s in scores}
        lines.append(f"{path}: " + ", ".join(f"{s.name} {s.score:.0f}" for s in scores))
        lines += [f"  {s.says}" for s in scores if s.says]
    _say(options, {"scores": values}, *lines)
    return OK


def _repeat(options: argparse.Namespace, stop: Event) -> int:
    recipe = read_recipe(options.picture)
    if recipe is None:
        raise Refused(f"{options.picture} holds no recipe, so it cannot be made again.")
    again = repeat(recipe, OnnxPack(options.pack), _inputs(options), _progress(options), stop)
    there = read_picture(options.picture).pixels
    same = there.shape == again.pixels.shape and bool((there == again.pixels).all())
    if same:
        line = "Identical, pixel for pixel."
    elif there.shape != again.pixels.shape:
        line = "Different: the picture has another size than its recipe makes."
    else:
        d = np.abs(there.astype(int) - again.pixels)
        line = f"Different: {int((d.max(-1) > 0).sum())} pixels, by {int(d.max())} of 255 at most."
    _say(options, {"identical": same, "notes": list(again.notes), "says": line}, *again.notes, line)
    return OK if same else DIFFERENT


def _words(options: argparse.Namespace, stop: Event) -> int:
    words = OnnxPack(options.pack).words
    same: dict[str, list[str]] = {}
    for written, own in words.synonyms.items():
        same.setdefault(own, []).append(written)
    lines = []
    for group, known in words.groups.items():
        lines.append(f"{group}:")
        lines += [f"  {w}" + (f"  (also: {', '.join(same[w])})" if w in same else "") for w in known]
    _say(options, {"groups": {g: list(k) for g, k in words.groups.items()}, "synonyms": words.synonyms}, *lines)
    return OK


def main(arguments: list[str] | None = None) -> int:
    """Runs a command; returns its exit status: 0, 1 a check found a difference, 2 bad input, 130 stopped."""
    stop = Event()
    before = signal.getsignal(signal.SIGINT)
    try:
        options = _parser().parse_args(arguments)
        if options.act not in (_window,):
            signal.signal(signal.SIGINT, lambda *_: stop.set())
        return int(options.act(options, stop))
    except Refused as error:
        print(f"waldrand: {error}", file=sys.stderr)
        return BAD
    except (Stopped, KeyboardInterrupt):
        print("waldrand: stopped; what was finished before is kept.", file=sys.stderr)
        return STOPPED
    except BrokenPipeError:
        return OK
    finally:
        signal.signal(signal.SIGINT, before)


if __name__ == "__main__":
    sys.exit(main())
