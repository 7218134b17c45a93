"""The sheet as an OpenRaster file: layers any program reads, and our own part beside them.

OpenRaster 0.0.6 (freedesktop.org "Create" project): a zip with `mimetype` first and stored, `stack.xml`,
`mergedimage.png`, `Thumbnails/thumbnail.png` (256 pixels at most) and a PNG per layer. Ours: `waldrand/sheet.json`
(docs/sheet-format.md), masks beside it.
"""

from __future__ import annotations

import hashlib
import io
import json
import zipfile
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any, BinaryIO
from xml.etree import ElementTree as ET

import numpy as np
from PIL import Image

from ..core.fields import needed, taken_list, taken_number, taken_table, taken_whole, taken_words
from ..core.passes.recipe import picture_recipe
from ..core.passes.take import Take
from ..core.picture.patch_edge import KEPT_FEATHER
from ..core.refused import Refused
from ..core.values.area import Area
from ..core.values.as_json import (
    division_from_json,
    division_to_json,
    element_from_json,
    element_to_json,
    scene_from_json,
    scene_to_json,
)
from ..core.values.dividing import draggable
from ..core.values.layers import FARTHEST, PictureLayer, rect_from_json
from ..core.values.masks import Mask
from ..core.values.sheet import Extent, Sheet
from ..core.values.sorts import layer_from_json
from ..core.worded import worded
from .atomic import write_atomically
from .opened import Opened, SavedTake
from .pictures import png_bytes, read_grey, read_picture, size_of

MIMETYPE = b"image/openraster"
OURS = "waldrand/sheet.json"
FORMAT = 1
LARGEST_ENTRY = 500_000_000
LARGEST_TEXT = 200_000_000
MOST_ENTRIES = 5000
#: OpenRaster's names for ways of blending.
OPERATIONS = {
    "normal": "svg:src-over",
    "multiply": "svg:multiply",
    "screen": "svg:screen",
    "overlay": "svg:overlay",
    "lighter": "svg:lighten",
    "darker": "svg:darken",
}
#: Pixels of all the pictures in a sheet together.
MOST_PIXELS = 800_000_000


# --- writing


def save_sheet(
    path: Path,
    sheet: Sheet,
    settings: dict[str, Any] | None = None,
    takes: Sequence[SavedTake] = (),
    tick: Callable[[], None] = lambda: None,
) -> None:
    """Writes the sheet with the takes in its tray, atomically, one picture after another. tick: called before each; what it raises ends
    the writing, and the file stays as it was.

    Raises:
        Refused: the file cannot be written.
    """
    write_atomically(path, lambda f: _write(f, sheet, settings or {}, takes, tick))


def steps_of_saving(sheet: Sheet, takes: Sequence[SavedTake] = ()) -> int:
    """How often `save_sheet` ticks."""
    return len(sheet.layers) + len(takes) + 1


def _write(f: BinaryIO, sheet: Sheet, settings: dict[str, Any], takes: Sequence[SavedTake], tick: Callable[[], None]) -> None:
    with zipfile.ZipFile(f, "w") as z:

        def put(name: str, data: bytes, packed: int = zipfile.ZIP_STORED) -> str:
            z.writestr(zipfile.ZipInfo(name), data, packed)
            return hashlib.sha256(data).hexdigest()

        put("mimetype", MIMETYPE)
        put("stack.xml", _stack(sheet), zipfile.ZIP_DEFLATED)
        layers = []
        for i, layer in enumerate(sheet.layers):
            tick()
            src = _source(i)
            one = {"src": src, "sha256": put(src, png_bytes(layer.shown))} | layer.to_json()
            for what, picture in layer.extra.items():
                one[what] = f"waldrand/{what}-{i + 1:03d}.png"
                put(one[what], png_bytes(picture))
            layers.append(one)
        tray = []
        for i, saved in enumerate(takes):
            tick()
            src = f"waldrand/take-{i + 1:03d}.png"
            put(src, png_bytes(np.dstack([saved.take.pixels, saved.take.region])))
            tray.append({"src": src} | _take_to_json(saved))
        tick()
        merged = sheet.flatten()
        put("mergedimage.png", png_bytes(merged, picture_recipe(sheet)))
        put("Thumbnails/thumbnail.png", png_bytes(_thumbnail(merged)))
        if sheet.mask is not None:
            put("waldrand/mask.png", png_bytes(sheet.mask.read()))
        areas = []
        for i, area in enumerate(sheet.areas):
            src = f"waldrand/area-{i + 1:03d}.png"
            put(src, png_bytes(area.mask.read()))
            areas.append({"src": src} | area.to_json())
        ours = {"format": FORMAT, "layers": layers, "takes": tray, "settings": settings} | _sheet_to_json(sheet)
        ours |= {"areas": areas} if areas else {}
        put(OURS, json.dumps(ours, indent=1).encode(), zipfile.ZIP_DEFLATED)


def _source(index: int) -> str:
    return f"data/layer-{index + 1:03d}.png"


def _stack(sheet: Sheet) -> bytes:
    image = ET.Element("image", version="0.0.6", w=str(sheet.width), h=str(sheet.height))
    stack = ET.SubElement(image, "stack")
    for i, layer in reversed(list(enumerate(sheet.layers))):
        at = layer.bounds
        # A patch's edge is in its PNG's alpha, under which the take is stored whole, so that the edge stays adjustable.
        said = {"name": _plain_name(layer.name), "src": _source(i), "x": str(at.x0), "y": str(at.y0)}
        said |= {"opacity": f"{layer.opacity:g}", "composite-op": OPERATIONS[layer.blend]}
        ET.SubElement(stack, "layer", said | {"visibility": "visible" if layer.is_seen else "hidden"})
    return ET.tostring(image, encoding="UTF-8", xml_declaration=True)


def _plain_name(name: str) -> str:
    """A name without what XML cannot hold."""
    return "".join(c for c in name if c.isprintable())


def _thumbnail(merged: np.ndarray) -> np.ndarray:
    # Every so manieth pixel first: a thumbnail needs no more, and a huge picture no second copy.
    step = max(1, max(merged.shape[:2]) // 1024)
    small = Image.fromarray(np.ascontiguousarray(merged[::step, ::step]))
    small.thumbnail((256, 256))
    return np.asarray(small)


def _sheet_to_json(sheet: Sheet) -> dict[str, Any]:
    return {
        "width": sheet.width,
        "height": sheet.height,
        "origin": list(sheet.origin),
        "scale": list(sheet.scale),
        "last_key": sheet.last_key,
        "elements": [element_to_json(e) for e in sheet.elements],
        "scene": scene_to_json(sheet.scene),
        "divisions": [division_to_json(d) for d in draggable(sheet)],
        "mask": None if sheet.mask is None else "waldrand/mask.png",
    }


def _take_to_json(saved: SavedTake) -> dict[str, Any]:
    f, e = saved.take.frame, saved.take.extent
    out = {
        "frame": [f.x0, f.y0, f.x1, f.y1],
        "seed": saved.take.seed,
        "recipe": saved.take.recipe,
        "special": saved.special,
        "marked": saved.marked,
        "kept": saved.kept,
    }
    if saved.take.feather != KEPT_FEATHER:
        out["feather"] = saved.take.feather
    return out if e is None else out | {"extent": [e.width, e.height, e.x, e.y, *e.scale]}


# --- reading


class _Zip:
    """Entries of an archive, sizes checked before they are unpacked."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._pixels = 0
        try:
            self.zip = zipfile.ZipFile(path)
        except FileNotFoundError as error:
            raise Refused(worded("There is no file {0}.", path)) from error
        except (zipfile.BadZipFile, OSError, ValueError) as error:
            raise Refused(worded("{0} is not a sheet, or it is damaged or cut short.", path)) from error
        if len(self.zip.infolist()) > MOST_ENTRIES:
            raise Refused(worded("{0} holds more parts than any sheet; it is not opened.", path))

    def has(self, name: str) -> bool:
        return name in self.zip.NameToInfo

    def read(self, name: str, most: int = LARGEST_ENTRY) -> bytes:
        try:
            if self.zip.getinfo(name).file_size > most:
                raise Refused(worded("{0}: its part {1} is too large to be read.", self.path, name))
            return self.zip.read(name)
        except KeyError as error:
            raise Refused(worded("{0} is damaged: its part {1} is missing.", self.path, name)) from error
        except Refused:
            raise
        except (zipfile.BadZipFile, OSError, EOFError, NotImplementedError, RuntimeError, ValueError) as error:
            raise Refused(worded("{0} is damaged: its part {1} cannot be read.", self.path, name)) from error

    def _counted(self, name: str) -> tuple[io.BytesIO, str]:
        """A part that is a picture, and what to call it; counted before it takes memory."""
        said, data = f"{self.path}: {name}", self.read(name)
        width, height = size_of(io.BytesIO(data), said)
        self._pixels += width * height
        if self._pixels > MOST_PIXELS:
            raise Refused(
                worded(
                    "{0} holds pictures of more than {1} million pixels altogether; it is not opened.", self.path, MOST_PIXELS // 1000000
                )
            )
        return io.BytesIO(data), said

    def picture(self, name: str) -> np.ndarray:
        """(H, W, 4) uint8."""
        return read_picture(*self._counted(name)).pixels

    def grey(self, name: str) -> np.ndarray:
        """(H, W) uint8."""
        return read_grey(*self._counted(name))

    __call__, colours = grey, picture


def open_sheet(path: Path) -> Opened:
    """Opens an OpenRaster file, ours or another program's.

    Raises:
        Refused: missing, damaged or too large, in a sentence.
    """
    z = _Zip(path)
    with z.zip:
        if not z.has("mimetype") or z.read("mimetype", 100).strip() != MIMETYPE:
            raise Refused(worded("{0} is not an OpenRaster file.", path))
        if not z.has(OURS):
            return _plain(z, worded("It holds no elements or recipes (another program saved it), so it was opened as plain layers."))
        try:
            ours = taken_table(json.loads(z.read(OURS, LARGEST_TEXT)), "It")
            if needed(ours, "format", "It") != FORMAT:
                raise Refused(worded("{0} was written by a newer Waldrand (format {1!r:.20}).", path, ours["format"]))
            listed = [taken_table(one, "A layer") for one in taken_list(needed(ours, "layers", "It"), "Its list of layers")]
            whole = all(hashlib.sha256(z.read(_src(one))).hexdigest() == one.get("sha256") for one in listed)
        except Refused as error:
            raise _damaged(path, error) from error
        except (ValueError, RecursionError) as error:
            raise Refused(worded("{0} is damaged: Waldrand's own part cannot be read.", path)) from error
        if not whole:
            return _plain(
                z,
                worded("Its layers were changed in another program, so it was opened as plain layers; elements and recipes are left out."),
            )
        try:
            return _ours(z, ours, listed)
        except Refused as error:
            raise _damaged(path, error) from error


def _damaged(path: Path, error: Refused) -> Refused:
    """The refusal of a part, of which its file is told."""
    said = str(error)
    return (
        error
        if str(path) in said
        else Refused(worded("{0} is damaged: Waldrand's own part cannot be read. {1}{2}", path, said[:1].upper(), said[1:]))
    )


def _src(one: dict[str, Any]) -> str:
    return taken_words(needed(one, "src", "A layer"), "A layer's picture")


def _ours(z: _Zip, d: dict[str, Any], listed: Sequence[dict[str, Any]]) -> Opened:
    width, height = (taken_whole(needed(d, k, "The sheet"), f"The sheet's {k}") for k in ("width", "height"))
    sheet = Sheet(width, height)
    mask = None
    if needed(d, "mask", "The sheet") is not None:
        grey = z.grey(taken_words(d["mask"], "The mask"))
        if grey.shape != (height, width):
            raise Refused(worded("its mask has another size than the sheet."))
        mask = Mask.from_array(grey)
    origin = [taken_whole(v, "The sheet's origin") for v in taken_list(d.get("origin", [0, 0]), "The sheet's origin")]
    scale = [taken_number(v, "The sheet's scale") for v in taken_list(d.get("scale", [1.0, 1.0]), "The sheet's scale")]
    if len(origin) != 2 or len(scale) != 2 or min(scale) <= 0:
        raise Refused(worded("its origin or scale cannot be."))
    sheet = Sheet(
        width,
        height,
        tuple(layer_from_json(one, z.picture(_src(one)), z) for one in listed),
        tuple(map(element_from_json, taken_list(needed(d, "elements", "The sheet"), "The sheet's elements"))),
        scene_from_json(needed(d, "scene", "The sheet")),
        mask,
        tuple(map(division_from_json, taken_list(d.get("divisions", []), "The sheet's divisions"))),
        (origin[0], origin[1]),
        (scale[0], scale[1]),
        taken_whole(d.get("last_key", 0), "The sheet's last key"),
        tuple(_area(z, one, sheet) for one in taken_list(d.get("areas", []), "The sheet's masks")),
    )
    keys = sheet.keys
    if len(set(keys)) != len(keys) or min(keys, default=0) < 0:
        raise Refused(worded("two of its layers, elements or masks have the same key."))
    takes = tuple(_take(z, one) for one in taken_list(d.get("takes", []), "The sheet's takes"))
    return Opened(sheet, taken_table(needed(d, "settings", "The sheet"), "The sheet's settings"), takes=takes)


def _area(z: _Zip, d: Any, sheet: Sheet) -> Area:
    d = taken_table(d, "A mask")
    grey = z.grey(taken_words(needed(d, "src", "A mask"), "A mask's picture"))
    if grey.shape != (sheet.height, sheet.width):
        raise Refused(worded("one of its masks has another size than the sheet."))
    return Area.from_json(d, Mask.from_array(grey))


def _take(z: _Zip, d: Any) -> SavedTake:
    d = taken_table(d, "A take")
    rgba = z.picture(taken_words(needed(d, "src", "A take"), "A take's picture"))
    frame = rect_from_json(needed(d, "frame", "A take"), worded("A take's frame"))
    if rgba.shape[:2] != (frame.height, frame.width):
        raise Refused(worded("A take has another size than its frame."))
    extent = None
    if "extent" in d:
        numbers = [taken_number(v, "A take's extent") for v in taken_list(d["extent"], "A take's extent")]
        if len(numbers) != 6:
            raise Refused(worded("A take's extent has to be six numbers."))
        width, height, x, y = (round(v) for v in numbers[:4])
        extent = Extent(width, height, x, y, (numbers[4], numbers[5]))
    seed, recipe = taken_whole(needed(d, "seed", "A take"), "A take's seed"), taken_table(needed(d, "recipe", "A take"), "A take's recipe")
    pixels, region = np.ascontiguousarray(rgba[..., :3]), np.ascontiguousarray(rgba[..., 3])
    special = taken_words(needed(d, "special", "A take"), "What is special about a take")
    feather = taken_number(d.get("feather", KEPT_FEATHER), worded("A take's feather"))
    take = Take(frame, pixels, region, seed, recipe, extent, min(max(feather, 0.0), 10_000.0))
    return SavedTake(take, special, needed(d, "marked", "A take") is True, needed(d, "kept", "A take") is True)


def _plain(z: _Zip, note: str) -> Opened:
    text = z.read("stack.xml", 10_000_000)
    if b"<!DOCTYPE" in text or b"<!ENTITY" in text:
        raise Refused(worded("{0}: its stack.xml holds declarations that no layer program writes; it is not opened.", z.path))
    notes = [note]
    try:
        image = ET.fromstring(text)
        sheet = Sheet(int(image.attrib["w"]), int(image.attrib["h"]))
        found = [layer for stack in image.findall("stack") for layer in _layers(z, stack, 0, 0, True, notes)]
    except Refused as error:
        raise error if str(z.path) in str(error) else Refused(worded("{0} is damaged: {1}", z.path, error)) from error
    except (ET.ParseError, KeyError, ValueError, OverflowError, RecursionError) as error:
        raise Refused(worded("{0} is damaged: its stack.xml cannot be read ({1}).", z.path, error)) from error
    layers = tuple(replace(one, key=i + 1) for i, one in enumerate(found))
    return Opened(Sheet(sheet.width, sheet.height, layers), {}, tuple(notes))


def _layers(z: _Zip, node: ET.Element, dx: int, dy: int, shown: bool, notes: list[str], group: str = "") -> list[PictureLayer]:
    """The layers of a stack, lowest first."""
    out: list[PictureLayer] = []
    blends = {operation: blend for blend, operation in OPERATIONS.items()}
    for child in reversed(list(node)):
        x, y = dx + int(child.get("x", "0")), dy + int(child.get("y", "0"))
        if max(abs(x), abs(y)) > FARTHEST:
            raise Refused(worded("A layer lies too far outside."))
        visible = shown and child.get("visibility", "visible") == "visible"
        operation = child.get("composite-op", "svg:src-over")
        if (operation not in blends or (child.tag == "stack" and operation != "svg:src-over")) and len(notes) < 2:
            notes.append(worded("Some layers are blended in ways Waldrand does not know; they are laid over plainly."))
        if child.tag == "stack":
            out += _layers(z, child, x, y, visible, notes, child.get("name", "") or group)
        elif child.tag == "layer":
            pixels, opacity = z.picture(child.attrib["src"]), float(child.get("opacity", "1"))
            opacity = min(max(opacity, 0.0), 1.0) if opacity == opacity else 0.0
            made = PictureLayer(0, child.get("name", "layer"), pixels, x, y, visible)
            out.append(replace(made, opacity=opacity, blend=blends.get(operation, "normal"), group=group))
    return out
