"""Everything Waldrand does, without a window."""

from __future__ import annotations

import argparse
import json
import signal
import sys
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from threading import Event
from typing import Any

import numpy as np

from . import __version__
from .core.element import SceneWords
from .core.masks import Mask
from .core.pack import Pack
from .core.plan import Plan, plan
from .core.recipe import picture_recipe
from .core.repeat import repeat
from .core.request import METHODS, START_STRENGTH, PassSettings, Request
from .core.run import Step, Stopped, run
from .core.samplers import SAMPLERS
from .core.sheet import Layer, Sheet
from .demo import load_demo, output_names, run_demo
from .files.layout import fitted_mask, read_layout
from .files.openraster import open_sheet
from .files.pictures import read_grey, read_picture, read_recipe, read_start, write_png
from .packs.onnx_pack import OnnxPack

OK, DIFFERENT, BAD, STOPPED = 0, 1, 2, 130


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> Any:
        raise ValueError(f"{message[:1].upper()}{message[1:]}. See {self.prog} --help.")


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

    def passes(p: argparse.ArgumentParser, strength: bool) -> None:
        p.add_argument("--seed", type=int, help="seed (default: the file's, else 0)")
        p.add_argument("--steps", type=int, help="steps at full strength")
        p.add_argument("--guidance", type=float, help="how strictly the words are followed; 1: as they are")
        p.add_argument("--sampler", choices=SAMPLERS, help="how noise levels are stepped through")
        if strength:
            p.add_argument("--strength", type=float, required=True, help="denoise strength, 0 to 1")
        p.add_argument("--force", action="store_true", help="write over existing files")

    p = command("open", _window, "open the window with a sheet, a layout or a picture")
    p.add_argument("file", type=Path, metavar="FILE", nargs="?")
    p = command("demo", _demo, "open the window with the demo sheet, or run the whole demo to files")
    p.add_argument("--out", type=Path, metavar="DIR", help="run without a window and write everything here")
    p.add_argument("--force", action="store_true", help="write over existing files")
    p = command("run", _run, "compose takes of a layout or a sheet, a PNG each")
    p.add_argument("file", type=Path, metavar="FILE")
    p.add_argument("--takes", type=int, default=1, help="how many, with rising seeds")
    p.add_argument("--method", choices=METHODS, help="steer: by outlines; text: all words in one prompt, outlines ignored")
    p.add_argument("--out", type=Path, default=Path("."), metavar="DIR", help="folder for take-SEED.png")
    p.add_argument("--scale-mask", action="store_true", help="fit masks of another size to the sheet")
    passes(p, strength=False)
    p = command("forecast", _forecast, "say what composing a layout or a sheet will do, and what looks wrong")
    p.add_argument("file", type=Path, metavar="FILE")
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
    p = command("repeat", _repeat, "make a picture again from its recipe and say whether it is identical")
    p.add_argument("picture", type=Path, metavar="PICTURE.png")
    p.add_argument("--input", type=Path, action="append", default=[], metavar="FILE", help="the picture it was made from")
    command("words", _words, "list what the model knows")
    return parser


def _settings(base: PassSettings, options: argparse.Namespace) -> PassSettings:
    given = {
        k: getattr(options, k)
        for k in ("seed", "steps", "guidance", "sampler", "method", "strength")
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
        raise ValueError(f"{there[0]} exists already. Choose another place, or write over it with --force.")


def _folder(path: Path) -> Path:
    try:
        path.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise ValueError(f"The folder {path} cannot be made: {error.strerror}.") from error
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
        "calls": p.calls,
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
            raise ValueError(f"“{e.name}” lies wholly outside the sheet: give it a box that reaches into 0 to 1, or leave it out.")
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
        raise ValueError(f"{path} is damaged: its pass settings cannot be read.") from error


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
    pack: Pack = OnnxPack(options.pack)
    # A layout's strength says how far a start picture is left; a sheet's takes are composed anew.
    planned = plan(sheet, Request("compose", settings), pack)
    out = _folder(options.out)
    _refuse_existing([out / f"take-{settings.seed + i}.png" for i in range(options.takes)], options.force)
    if not options.json:
        for line in (*notes, *planned.sentences, *(f"Warning: {w.text}" for w in planned.warnings)):
            print(line)
    written = []
    for take in run(planned, pack, options.takes, _progress(options), stop):
        whole = sheet.with_layer(take.to_patch(sheet.next_key(), f"take {take.seed}"))
        path = out / f"take-{take.seed}.png"
        write_png(path, whole.flatten(), picture_recipe(whole))
        written.append(str(path))
    _say(options, {"files": written, "forecast": _forecast_values(planned)}, *written)
    return OK


def _forecast(options: argparse.Namespace, stop: Event) -> int:
    sheet, settings, notes = _load(options.file, options.scale_mask)
    p = plan(sheet, Request("compose", settings), OnnxPack(options.pack))
    _say(options, _forecast_values(p), *notes, *p.sentences, *(f"Warning: {w.text}" for w in p.warnings))
    return OK


def _scene_words(options: argparse.Namespace) -> str:
    if options.scene is not None:
        return str(options.scene)
    recipe = read_recipe(options.picture)
    try:
        return str(recipe["passes"][-1]["recipe"]["scene"]["words"]) if recipe and recipe["passes"] else ""
    except (KeyError, TypeError, IndexError):
        return ""


def _on_picture(options: argparse.Namespace, stop: Event, kind: str) -> int:
    settings = _settings(PassSettings(strength=START_STRENGTH["inpaint" if kind == "inpaint" else "rework"]), options)
    picture = read_picture(options.picture)
    h, w = picture.pixels.shape[:2]
    sheet = Sheet(w, h, (Layer(1, options.picture.stem, picture.pixels),), scene=SceneWords(words=_scene_words(options)))
    if kind == "inpaint":
        sheet = replace(sheet, mask=Mask.from_array(fitted_mask(read_grey(options.mask), w, h, str(options.mask), options.scale_mask)))
        request = Request("inpaint", settings, options.words, options.avoid)
    else:
        request = Request("rework", settings, options.words, options.avoid)
    out = options.out or options.picture.with_name(f"{options.picture.stem}-{kind}.png")
    if out.suffix.lower() != ".png":
        raise ValueError(f"The result is written as a PNG; give --out a name ending in .png, not {out.name}.")
    _refuse_existing([out], options.force)
    pack: Pack = OnnxPack(options.pack)
    p = plan(sheet, request, pack)
    take = next(run(p, pack, 1, _progress(options), stop))
    patch = take.to_patch(2, options.words or kind)
    if getattr(options, "feather", None) is not None:
        patch = replace(patch, feather=max(0.0, options.feather))
    done = sheet.with_layer(patch)
    pixels = done.flatten()
    changed = int(np.abs(pixels.astype(int) - picture.pixels).max())
    write_png(out, pixels, picture_recipe(done), picture.pixels if options.with_input else None)
    _say(
        options,
        {"file": str(out), "forecast": _forecast_values(p), "greatest_change": changed},
        *picture.notes,
        *p.sentences,
        *(f"Warning: {x.text}" for x in p.warnings),
        str(out),
    )
    return OK


def _inpaint(options: argparse.Namespace, stop: Event) -> int:
    return _on_picture(options, stop, "inpaint")


def _rework(options: argparse.Namespace, stop: Event) -> int:
    return _on_picture(options, stop, "rework")


def _repeat(options: argparse.Namespace, stop: Event) -> int:
    recipe = read_recipe(options.picture)
    if recipe is None:
        raise ValueError(f"{options.picture} holds no recipe, so it cannot be made again.")
    inputs = [read_picture(p).pixels for p in options.input]
    stored = read_start(options.picture)
    if stored is not None:
        inputs.append(stored)
    again = repeat(recipe, OnnxPack(options.pack), inputs, _progress(options), stop)
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
    except ValueError as error:
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
