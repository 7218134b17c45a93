"""Layout files: a sheet described in a few lines of TOML (docs/layout-format.md)."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import tomli_w

from ..core.fields import fields_of, refuse_unknown, taken_number, taken_values, taken_whole, taken_words, unusual
from ..core.passes.settings import PassSettings
from ..core.picture.resample import resize_mask
from ..core.refused import Refused
from ..core.values.element import Element, SceneWords
from ..core.values.frame import Rect
from ..core.values.layers import PictureLayer
from ..core.values.outline import Outline, Shape, freehand
from ..core.values.shaping import drawn, painted
from ..core.values.sheet import Sheet, check_size
from ..core.worded import worded
from .atomic import write_atomically
from .layout_more import frame_of, with_holds, with_layers
from .pictures import read_grey, read_picture, write_png

LARGEST_FILE = 10_000_000
#: What an element can say of itself beside where it stands.
SAID = tuple(fields_of(Element))
TABLES: dict[str, tuple[str, ...]] = {
    "sheet": ("width", "height", "start"),
    "scene": tuple(fields_of(SceneWords)),
    "element": ("name", *SAID, "box", "mask", "points", "shape", "depth"),
    "pass": tuple(fields_of(PassSettings)),
}


@dataclass(frozen=True, eq=False)
class Layout:
    """A sheet, the settings of its pass, the frame that was set for it, and what the artist should know."""

    sheet: Sheet
    settings: PassSettings
    own_frame: tuple[int, int, int, int] | None = None
    notes: tuple[str, ...] = ()


def read_layout(path: Path, scale_masks: bool = False) -> Layout:
    """Reads a layout file. scale_masks: fit masks of another size to the sheet instead of refusing them.

    Raises:
        Refused: whatever is missing, unknown or out of range, by name.
    """
    try:
        if path.stat().st_size > LARGEST_FILE:
            raise Refused(worded("{0} is far too large for a layout.", path))
        d = tomllib.loads(path.read_text("utf-8"))
    except FileNotFoundError as error:
        raise Refused(worded("There is no file {0}.", path)) from error
    except (tomllib.TOMLDecodeError, UnicodeDecodeError, RecursionError) as error:
        raise Refused(worded("{0} is not a layout: {1}", path, error)) from error
    except OSError as error:
        raise Refused(worded("{0} cannot be read: {1}.", path, error.strerror)) from error
    if d.get("format") != 1:
        raise Refused(worded("{0} has to begin with format = 1", path) + (worded(", not {0!r}.", d["format"]) if "format" in d else "."))
    refuse_unknown(d, ("format", *TABLES, "layer", "lettering", "hold", "frame"), str(path))
    for name in ("sheet", "scene", "pass"):
        if not isinstance(d.get(name, {}), dict):
            raise Refused(worded("{0}: [{1}] has to be a table.", path, name))
        refuse_unknown(d.get(name, {}), TABLES[name], f"[{name}] in {path}")
    sheet = _sheet(path, d.get("sheet", {}))
    scene = SceneWords(**taken_values(SceneWords, d.get("scene", {}), "[scene]"))
    entries = d.get("element", [])
    if not isinstance(entries, list) or not all(isinstance(e, dict) for e in entries):
        raise Refused(worded("{0}: elements are written as [[element]].", path))
    placed = [
        (taken_number(e.get("depth", i), f"The depth of element {i + 1}"), i, _element(path, e, i, sheet, scale_masks))
        for i, e in enumerate(entries)
    ]
    elements = tuple(e for _, _, e in sorted(placed, key=lambda p: p[:2]))
    settings = PassSettings(**taken_values(PassSettings, d.get("pass", {}), "[pass]"))
    whole, notes = with_layers(Sheet(sheet.width, sheet.height, sheet.layers, elements, scene), d, path)
    whole = with_holds(whole, d, path, lambda e, what: _outline(path, e, what, whole, scale_masks))
    return Layout(whole, settings, frame_of(d, whole, path), notes)


def _sheet(path: Path, d: dict[str, Any]) -> Sheet:
    layers: tuple[PictureLayer, ...] = ()
    if "start" in d:
        start = read_picture(path.parent / taken_words(d["start"], "[sheet] start"))
        height, width = start.pixels.shape[:2]
        layers = (PictureLayer(1, Path(d["start"]).stem, start.pixels),)
        if (d.get("width", width), d.get("height", height)) != (width, height):
            raise Refused(
                worded(
                    "[sheet] says {0} x {1}, but {2} is {3} x {4}. Leave width and height out, or give them the picture's size.",
                    d.get("width", width),
                    d.get("height", height),
                    d["start"],
                    width,
                    height,
                )
            )
        return Sheet(width, height, layers)
    width, height = taken_whole(d.get("width", 512), "[sheet] width"), taken_whole(d.get("height", 512), "[sheet] height")
    check_size(width, height)
    return Sheet(width, height)


def _element(path: Path, d: dict[str, Any], index: int, sheet: Sheet, scale_masks: bool) -> Element:
    name = taken_words(d.get("name", f"element {index + 1}"), f"The name of element {index + 1}")
    what = f"“{name}” in {path}"
    refuse_unknown(d, TABLES["element"], what)
    key = index + 1 + len(sheet.layers)
    return Element(key, name, _outline(path, d, what, sheet, scale_masks), **taken_values(Element, d, what))


def _outline(path: Path, d: dict[str, Any], what: str, sheet: Sheet, scale_masks: bool) -> Outline:
    if sum(k in d for k in ("box", "mask", "points")) != 1:
        raise Refused(worded('{0} needs either a box = [x0, y0, x1, y1], points = [[x, y], ...] or a mask = "file.png".', what))
    if "box" in d:
        shape = d.get("shape", "box")
        if shape not in ("box", "ellipse"):
            raise Refused(worded("The shape of {0} is “box” or “ellipse”, not {1!r}.", what, shape))
        box = d["box"]
        if not isinstance(box, list) or len(box) != 4:
            raise Refused(worded("The box of {0} has to be four numbers: x0, y0, x1, y1 in shares of the sheet.", what))
        x0, y0, x1, y1 = (taken_number(v, f"The box of {what}") for v in box)
        return Outline(_shape(shape), (x0 * sheet.width, y0 * sheet.height, x1 * sheet.width, y1 * sheet.height))
    if "points" in d:
        if not isinstance(d["points"], list) or not all(isinstance(p, list) and len(p) == 2 for p in d["points"]):
            raise Refused(worded("The points of {0} have to be [[x, y], ...] in shares of the sheet.", what))
        places = [(taken_number(x, f"A point of {what}"), taken_number(y, f"A point of {what}")) for x, y in d["points"]]
        return freehand([(x * sheet.width, y * sheet.height) for x, y in places])
    if "shape" in d:
        raise Refused(worded("{0} has a mask, so it takes no shape.", what))
    grey = read_grey(path.parent / taken_words(d["mask"], f"The mask of {what}"))
    return mask_outline(fitted_mask(grey, sheet.width, sheet.height, worded("The mask of {0}", what), scale_masks), what)


def _shape(name: str) -> Shape:
    return "ellipse" if name == "ellipse" else "box"


def fitted_mask(grey: np.ndarray, width: int, height: int, what: str, scale: bool) -> np.ndarray:
    """The mask at the sheet's size: as it is, scaled when allowed, else refused with a sentence."""
    if grey.shape == (height, width):
        return grey
    if not scale:
        raise Refused(
            worded(
                "{0} is {1} x {2} pixels, the picture {3} x {4}. Scale it to that size, or allow it with --scale-mask.",
                what,
                grey.shape[1],
                grey.shape[0],
                width,
                height,
            )
        )
    return np.asarray(np.round(resize_mask(grey.astype(np.float32) / 255, height, width) * 255), np.uint8)


def mask_outline(grey: np.ndarray, what: str) -> Outline:
    """An outline from a whole-sheet mask (H, W) uint8, cut to its box.

    Raises:
        Refused: the mask is black all over.
    """
    if not grey.any():
        raise Refused(worded("{0} is black all over: white is where the thing goes.", what))
    return painted(grey, Rect(0, 0, grey.shape[1], grey.shape[0]))


def written_files(path: Path, sheet: Sheet) -> list[Path]:
    """The files that `write_layout` writes."""
    masks = [_mask_file(path, i) for i, e in enumerate(sheet.elements) if e.outline.mask is not None]
    return [path, *masks, *(_mask_file(path, i, "hold-") for i in range(len(sheet.areas)))]


def _mask_file(path: Path, index: int, sort: str = "") -> Path:
    return path.with_name(f"{path.stem}-{sort}{index + 1}.png")


def write_layout(path: Path, sheet: Sheet, settings: PassSettings | None = None, force: bool = False) -> list[Path]:
    """Writes a sheet's layout (its words, elements and pass, not its picture); returns the files written, masks among them.

    Painted outlines become PNG files beside it, named after it. force: whether these may be written over others.

    Raises:
        Refused: a file cannot be written, or a painted outline's would take the place of another.
    """
    files = written_files(path, sheet)
    taken = [f for f in files[1:] if f.exists()]
    if taken and not force:
        raise Refused(
            worded(
                "{0} exists already: painted outlines are written beside the layout. Give it another name, or write over them.", taken[0]
            )
        )
    d: dict[str, Any] = {"format": 1, "sheet": {"width": sheet.width, "height": sheet.height}, "scene": unusual(sheet.scene)}
    d["element"] = [_entry(path, i, e, sheet) for i, e in enumerate(sheet.elements)]
    d["hold"] = [{"name": a.name, "mask": _mask_file(path, i, "hold-").name, "hold": a.hold} for i, a in enumerate(sheet.areas)]
    d["pass"] = {} if settings is None else unusual(settings)
    text = tomli_w.dumps({k: v for k, v in d.items() if v not in ({}, [])})
    for i, e in enumerate(sheet.elements):
        if e.outline.mask is not None:
            write_png(_mask_file(path, i), drawn(e.outline, sheet.rect))
    for i, a in enumerate(sheet.areas):
        write_png(_mask_file(path, i, "hold-"), a.mask.read())
    write_atomically(path, lambda f: f.write(text.encode()))
    return files


def _entry(path: Path, index: int, e: Element, sheet: Sheet) -> dict[str, Any]:
    """An element as a layout says it."""
    entry: dict[str, Any] = {"name": e.name, "words": e.words}
    x0, y0, x1, y1 = e.outline.box
    if e.outline.shape == "mask":
        entry["mask"] = _mask_file(path, index).name
    elif e.outline.shape == "freehand":
        entry["points"] = [[round(x / sheet.width, 6), round(y / sheet.height, 6)] for x, y in e.outline.corners()]
    else:
        entry["box"] = [round(v, 6) for v in (x0 / sheet.width, y0 / sheet.height, x1 / sheet.width, y1 / sheet.height)]
        if e.outline.shape == "ellipse":
            entry["shape"] = "ellipse"
    return entry | unusual(e)
