"""Layout files: a sheet described in a few lines of TOML (docs/layout-format.md)."""

from __future__ import annotations

import tomllib
from dataclasses import asdict, dataclass, fields
from pathlib import Path
from typing import Any

import numpy as np
import tomli_w

from ..core.passes.request import PassSettings
from ..core.picture.resample import resize_mask
from ..core.refused import Refused
from ..core.values.element import Element, SceneWords
from ..core.values.emphasis import Span
from ..core.values.frame import Rect
from ..core.values.outline import Outline, Shape, freehand
from ..core.values.shaping import drawn, painted
from ..core.values.sheet import Layer, Sheet, check_size
from .atomic import write_atomically
from .pictures import read_grey, read_picture, write_png

LARGEST_FILE = 10_000_000
TABLES: dict[str, tuple[str, ...]] = {
    "sheet": ("width", "height", "start"),
    "scene": tuple(f.name for f in fields(SceneWords)),
    "element": (
        *("name", "words", "avoid", "box", "mask", "points", "shape", "weight", "strength", "feather", "seed", "depth", "hold"),
        *("emphasis", "visible", "locked", "figure"),
    ),
    "pass": ("steps", "guidance", "method", "sampler", "spacing", "strength", "seed", "figures", "detail"),
}


@dataclass(frozen=True, eq=False)
class Layout:
    """A sheet, and the settings of its pass."""

    sheet: Sheet
    settings: PassSettings


def _refuse_unknown(table: dict[str, Any], known: tuple[str, ...], where: str) -> None:
    for key in table:
        if key not in known:
            raise Refused(f"{where} has a key that a layout does not know: “{key}”. Known are {', '.join(known)}.")


def _number(value: Any, what: str) -> float:
    if isinstance(value, bool) or not isinstance(value, (int, float)):
        raise Refused(f"{what} has to be a number, not {value!r}.")
    return float(value)


def _whole(value: Any, what: str) -> int:
    if isinstance(value, bool) or not isinstance(value, int):
        raise Refused(f"{what} has to be a whole number, not {value!r}.")
    return value


def _words(value: Any, what: str) -> str:
    if not isinstance(value, str):
        raise Refused(f"{what} has to be words in quotes, not {value!r}.")
    return value


def read_layout(path: Path, scale_masks: bool = False) -> Layout:
    """Reads a layout file. scale_masks: fit masks of another size to the sheet instead of refusing them.

    Raises:
        Refused: whatever is missing, unknown or out of range, by name.
    """
    try:
        if path.stat().st_size > LARGEST_FILE:
            raise Refused(f"{path} is far too large for a layout.")
        d = tomllib.loads(path.read_text("utf-8"))
    except FileNotFoundError as error:
        raise Refused(f"There is no file {path}.") from error
    except (tomllib.TOMLDecodeError, UnicodeDecodeError, RecursionError) as error:
        raise Refused(f"{path} is not a layout: {error}") from error
    except OSError as error:
        raise Refused(f"{path} cannot be read: {error.strerror}.") from error
    if d.get("format") != 1:
        raise Refused(f"{path} has to begin with format = 1" + (f", not {d['format']!r}." if "format" in d else "."))
    _refuse_unknown(d, ("format", *TABLES), str(path))
    for name in ("sheet", "scene", "pass"):
        if not isinstance(d.get(name, {}), dict):
            raise Refused(f"{path}: [{name}] has to be a table.")
        _refuse_unknown(d.get(name, {}), TABLES[name], f"[{name}] in {path}")
    sheet = _sheet(path, d.get("sheet", {}))
    scene = _scene(d.get("scene", {}))
    entries = d.get("element", [])
    if not isinstance(entries, list) or not all(isinstance(e, dict) for e in entries):
        raise Refused(f"{path}: elements are written as [[element]].")
    placed = [
        (_number(e.get("depth", i), f"The depth of element {i + 1}"), i, _element(path, e, i, sheet, scale_masks))
        for i, e in enumerate(entries)
    ]
    elements = tuple(e for _, _, e in sorted(placed, key=lambda p: p[:2]))
    return Layout(Sheet(sheet.width, sheet.height, sheet.layers, elements, scene), _settings(d.get("pass", {})))


def _sheet(path: Path, d: dict[str, Any]) -> Sheet:
    layers: tuple[Layer, ...] = ()
    if "start" in d:
        start = read_picture(path.parent / _words(d["start"], "[sheet] start"))
        height, width = start.pixels.shape[:2]
        layers = (Layer(1, Path(d["start"]).stem, start.pixels),)
        if (d.get("width", width), d.get("height", height)) != (width, height):
            raise Refused(
                f"[sheet] says {d.get('width', width)} x {d.get('height', height)}, but {d['start']} is {width} x {height}. "
                "Leave width and height out, or give them the picture's size."
            )
        return Sheet(width, height, layers)
    width, height = _whole(d.get("width", 512), "[sheet] width"), _whole(d.get("height", 512), "[sheet] height")
    check_size(width, height)
    return Sheet(width, height)


def _scene(d: dict[str, Any]) -> SceneWords:
    read = {"weight": _number, "emphasis": _spans, "house_emphasis": _spans}
    values: dict[str, Any] = {k: read.get(k, _words)(v, f"[scene] {k}") for k, v in d.items()}
    return SceneWords(**values)


def _spans(value: Any, what: str) -> tuple[Span, ...]:
    """Emphasis: [[from, to, factor], ...] in characters."""
    if not isinstance(value, list) or not all(isinstance(s, list) and len(s) == 3 for s in value):
        raise Refused(f"{what} has to be [[from, to, factor], ...], from and to counted in characters of the words.")
    return tuple((_whole(a, what), _whole(b, what), _number(f, what)) for a, b, f in value)


def _flag(value: Any, what: str) -> bool:
    if not isinstance(value, bool):
        raise Refused(f"{what} is true or false, not {value!r}.")
    return value


def _settings(d: dict[str, Any]) -> PassSettings:
    read: dict[str, Any] = {
        "steps": _whole,
        "seed": _whole,
        "guidance": _number,
        "strength": _number,
        "method": _words,
        "sampler": _words,
        "spacing": _number,
        "figures": _flag,
        "detail": _number,
    }
    return PassSettings(**{k: read[k](v, f"[pass] {k}") for k, v in d.items()})


def _element(path: Path, d: dict[str, Any], index: int, sheet: Sheet, scale_masks: bool) -> Element:
    name = _words(d.get("name", f"element {index + 1}"), f"The name of element {index + 1}")
    what = f"“{name}” in {path}"
    _refuse_unknown(d, TABLES["element"], what)
    if sum(k in d for k in ("box", "mask", "points")) != 1:
        raise Refused(f'{what} needs either a box = [x0, y0, x1, y1], points = [[x, y], ...] or a mask = "file.png".')
    if "box" in d:
        shape = d.get("shape", "box")
        if shape not in ("box", "ellipse"):
            raise Refused(f"The shape of {what} is “box” or “ellipse”, not {shape!r}.")
        box = d["box"]
        if not isinstance(box, list) or len(box) != 4:
            raise Refused(f"The box of {what} has to be four numbers: x0, y0, x1, y1 in shares of the sheet.")
        x0, y0, x1, y1 = (_number(v, f"The box of {what}") for v in box)
        outline = Outline(_shape(shape), (x0 * sheet.width, y0 * sheet.height, x1 * sheet.width, y1 * sheet.height))
    elif "points" in d:
        if not isinstance(d["points"], list) or not all(isinstance(p, list) and len(p) == 2 for p in d["points"]):
            raise Refused(f"The points of {what} have to be [[x, y], ...] in shares of the sheet.")
        places = [(_number(x, f"A point of {what}"), _number(y, f"A point of {what}")) for x, y in d["points"]]
        outline = freehand([(x * sheet.width, y * sheet.height) for x, y in places])
    else:
        if "shape" in d:
            raise Refused(f"{what} has a mask, so it takes no shape.")
        outline = mask_outline(
            fitted_mask(
                read_grey(path.parent / _words(d["mask"], f"The mask of {what}")),
                sheet.width,
                sheet.height,
                f"The mask of {what}",
                scale_masks,
            ),
            what,
        )
    return Element(
        index + 1 + len(sheet.layers),
        name,
        outline,
        _words(d.get("words", ""), f"The words of {what}"),
        _words(d.get("avoid", ""), f"avoid of {what}"),
        _number(d.get("weight", 1.0), f"The weight of {what}"),
        _number(d["strength"], f"The strength of {what}") if "strength" in d else None,
        _number(d.get("feather", 0.0), f"The feather of {what}"),
        _whole(d["seed"], f"The seed of {what}") if "seed" in d else None,
        _flag(d.get("hold", False), f"hold of {what}"),
        _spans(d.get("emphasis", []), f"The emphasis of {what}"),
        _flag(d.get("visible", True), f"visible of {what}"),
        _flag(d.get("locked", False), f"locked of {what}"),
        _flag(d.get("figure", True), f"figure of {what}"),
    )


def _shape(name: str) -> Shape:
    return "ellipse" if name == "ellipse" else "box"


def fitted_mask(grey: np.ndarray, width: int, height: int, what: str, scale: bool) -> np.ndarray:
    """The mask at the sheet's size: as it is, scaled when allowed, else refused with a sentence."""
    if grey.shape == (height, width):
        return grey
    if not scale:
        raise Refused(
            f"{what} is {grey.shape[1]} x {grey.shape[0]} pixels, the picture {width} x {height}. "
            "Scale it to that size, or allow it with --scale-mask."
        )
    return np.asarray(np.round(resize_mask(grey.astype(np.float32) / 255, height, width) * 255), np.uint8)


def mask_outline(grey: np.ndarray, what: str) -> Outline:
    """An outline from a whole-sheet mask (H, W) uint8, cut to its box.

    Raises:
        Refused: the mask is black all over.
    """
    if not grey.any():
        raise Refused(f"{what} is black all over: white is where the thing goes.")
    return painted(grey, Rect(0, 0, grey.shape[1], grey.shape[0]))


def write_layout(path: Path, sheet: Sheet, settings: PassSettings | None = None) -> list[Path]:
    """Writes a sheet's layout (its words, elements and pass, not its picture); returns the files written, masks among them.

    Painted outlines become PNG files beside it, named after it.

    Raises:
        Refused: a file cannot be written.
    """
    d: dict[str, Any] = {"format": 1, "sheet": {"width": sheet.width, "height": sheet.height}}
    said, plain = asdict(sheet.scene), asdict(SceneWords())
    d["scene"] = {k: _listed(v) for k, v in said.items() if v != plain[k]}
    written, masks, entries = [path], [], []
    for i, e in enumerate(sheet.elements):
        entry: dict[str, Any] = {"name": e.name, "words": e.words}
        x0, y0, x1, y1 = e.outline.box
        if e.outline.shape == "mask":
            file = path.with_name(f"{path.stem}-{i + 1}.png")
            masks.append((file, drawn(e.outline, sheet.rect)))
            entry["mask"] = file.name
        elif e.outline.shape == "freehand":
            entry["points"] = [[round(x / sheet.width, 6), round(y / sheet.height, 6)] for x, y in e.outline.corners()]
        else:
            entry["box"] = [round(v, 6) for v in (x0 / sheet.width, y0 / sheet.height, x1 / sheet.width, y1 / sheet.height)]
            if e.outline.shape == "ellipse":
                entry["shape"] = "ellipse"
        plain_element = Element(0, e.name, e.outline)
        for key in ("avoid", "weight", "strength", "feather", "seed", "hold", "emphasis", "visible", "locked", "figure"):
            if getattr(e, key) != getattr(plain_element, key):
                entry[key] = _listed(getattr(e, key))
        entries.append(entry)
    d["element"] = entries
    if settings is not None:
        usual = asdict(PassSettings())
        d["pass"] = {k: v for k, v in asdict(settings).items() if k in TABLES["pass"] and v != usual[k]}
    text = tomli_w.dumps({k: v for k, v in d.items() if v != {} and v != []})
    for file, grey in masks:
        write_png(file, grey)
        written.append(file)
    write_atomically(path, lambda f: f.write(text.encode()))
    return written


def _listed(value: Any) -> Any:
    return [list(v) for v in value] if isinstance(value, tuple) else value
