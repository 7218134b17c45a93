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
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from xml.etree import ElementTree as ET

import numpy as np
from PIL import Image

from ..core.passes.recipe import (
    element_from_json,
    element_to_json,
    picture_recipe,
    scene_from_json,
    scene_to_json,
)
from ..core.passes.run import Take
from ..core.refused import Refused
from ..core.values.division import division_from_json, division_to_json, draggable
from ..core.values.frame import Rect
from ..core.values.masks import Mask
from ..core.values.sheet import Layer, Patch, Sheet
from .atomic import write_atomically
from .pictures import png_bytes, read_grey, read_picture

MIMETYPE = b"image/openraster"
OURS = "waldrand/sheet.json"
FORMAT = 1
LARGEST_ENTRY = 500_000_000
LARGEST_TEXT = 200_000_000
MOST_ENTRIES = 5000


@dataclass(frozen=True, eq=False)
class SavedTake:
    """A take in the tray: the take, what is special about it, whether it was marked, and whether kept."""

    take: Take
    special: str = ""
    marked: bool = False
    kept: bool = False


@dataclass(frozen=True, eq=False)
class Opened:
    """sheet; settings: the pass column's values as they were saved; notes: what the artist should know; takes: the tray."""

    sheet: Sheet
    settings: dict[str, Any] = field(default_factory=dict)
    notes: tuple[str, ...] = ()
    takes: tuple[SavedTake, ...] = ()


def _layer_png(layer: Layer | Patch) -> tuple[bytes, int, int]:
    if isinstance(layer, Layer):
        return png_bytes(layer.pixels), layer.x, layer.y
    # Colours stay under full transparency, so the take is stored whole and its edge stays adjustable.
    return png_bytes(layer.shown()), layer.frame.x0, layer.frame.y0


def save_sheet(path: Path, sheet: Sheet, settings: dict[str, Any] | None = None, takes: Sequence[SavedTake] = ()) -> None:
    """Writes the sheet with the takes in its tray, atomically.

    Raises:
        Refused: the file cannot be written.
    """
    merged = sheet.flatten()
    stack = ET.Element("image", version="0.0.6", w=str(sheet.width), h=str(sheet.height))
    tree = ET.SubElement(stack, "stack")
    entries: dict[str, bytes] = {}
    described: list[dict[str, Any]] = []
    for i, layer in enumerate(sheet.layers):
        data, x, y = _layer_png(layer)
        src = f"data/layer-{i + 1:03d}.png"
        entries[src] = data
        one: dict[str, Any] = {
            "src": src,
            "sha256": hashlib.sha256(data).hexdigest(),
            "key": layer.key,
            "name": layer.name,
            "visible": layer.visible,
            "x": x,
            "y": y,
        }
        if isinstance(layer, Patch):
            region = f"waldrand/region-{i + 1:03d}.png"
            entries[region] = png_bytes(layer.region)
            f = layer.frame
            one |= {
                "frame": [f.x0, f.y0, f.x1, f.y1],
                "region": region,
                "grow": layer.grow,
                "feather": layer.feather,
                "opacity": layer.opacity,
                "recipe": layer.recipe,
            }
        described.append(one)
    for one in reversed(described):
        ET.SubElement(
            tree,
            "layer",
            {
                "name": one["name"],
                "src": one["src"],
                "x": str(one["x"]),
                "y": str(one["y"]),
                "opacity": "1.0",
                "visibility": "visible" if one["visible"] else "hidden",
                "composite-op": "svg:src-over",
            },
        )
    ours: dict[str, Any] = {
        "format": FORMAT,
        "width": sheet.width,
        "height": sheet.height,
        "layers": described,
        "elements": [element_to_json(e) for e in sheet.elements],
        "scene": scene_to_json(sheet.scene),
        "divisions": [division_to_json(d) for d in draggable(sheet)],
        "mask": None,
        "settings": settings or {},
        "takes": [],
    }
    if sheet.mask is not None:
        ours["mask"] = "waldrand/mask.png"
        entries["waldrand/mask.png"] = png_bytes(sheet.mask.read())
    for i, saved in enumerate(takes):
        src, t = f"waldrand/take-{i + 1:03d}.png", saved.take
        # Where it was painted stands in its alpha; the colours stay whole under it.
        entries[src] = png_bytes(np.dstack([t.pixels, t.region]))
        f = t.frame
        own = {"special": saved.special, "marked": saved.marked, "kept": saved.kept}
        ours["takes"].append({"src": src, "frame": [f.x0, f.y0, f.x1, f.y1], "seed": t.seed, "recipe": t.recipe} | own)
    small = Image.fromarray(merged)
    small.thumbnail((256, 256))
    entries["mergedimage.png"] = png_bytes(merged, picture_recipe(sheet))
    entries["Thumbnails/thumbnail.png"] = png_bytes(np.asarray(small))
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as z:
        z.writestr(zipfile.ZipInfo("mimetype"), MIMETYPE, zipfile.ZIP_STORED)
        z.writestr(zipfile.ZipInfo("stack.xml"), ET.tostring(stack, encoding="UTF-8", xml_declaration=True), zipfile.ZIP_DEFLATED)
        for name, data in entries.items():
            z.writestr(zipfile.ZipInfo(name), data, zipfile.ZIP_STORED)
        z.writestr(zipfile.ZipInfo(OURS), json.dumps(ours, indent=1), zipfile.ZIP_DEFLATED)
    write_atomically(path, lambda f: f.write(out.getvalue()))


class _Zip:
    """Entries of an archive, sizes checked before they are unpacked."""

    def __init__(self, path: Path) -> None:
        self.path = path
        try:
            self.zip = zipfile.ZipFile(path)
        except FileNotFoundError as error:
            raise Refused(f"There is no file {path}.") from error
        except (zipfile.BadZipFile, OSError) as error:
            raise Refused(f"{path} is not a sheet, or it is damaged or cut short.") from error
        if len(self.zip.infolist()) > MOST_ENTRIES:
            raise Refused(f"{path} holds more parts than any sheet; it is not opened.")

    def has(self, name: str) -> bool:
        return name in self.zip.NameToInfo

    def read(self, name: str, most: int = LARGEST_ENTRY) -> bytes:
        try:
            if self.zip.getinfo(name).file_size > most:
                raise Refused(f"{self.path}: its part {name} is too large to be read.")
            return self.zip.read(name)
        except KeyError as error:
            raise Refused(f"{self.path} is damaged: its part {name} is missing.") from error
        except (zipfile.BadZipFile, OSError, EOFError, NotImplementedError, RuntimeError) as error:
            raise Refused(f"{self.path} is damaged: its part {name} cannot be read.") from error


def open_sheet(path: Path) -> Opened:
    """Opens an OpenRaster file, ours or another program's.

    Raises:
        Refused: missing, damaged or too large, in a sentence.
    """
    z = _Zip(path)
    with z.zip:
        if not z.has("mimetype") or z.read("mimetype", 100).strip() != MIMETYPE:
            raise Refused(f"{path} is not an OpenRaster file.")
        if z.has(OURS):
            try:
                ours = json.loads(z.read(OURS, LARGEST_TEXT))
                if ours["format"] != FORMAT:
                    raise Refused(f"{path} was written by a newer Waldrand (format {ours['format']}).")
                if all(hashlib.sha256(z.read(one["src"])).hexdigest() == one["sha256"] for one in ours["layers"]):
                    return _ours(z, ours)
            except (KeyError, TypeError, AttributeError, RecursionError, json.JSONDecodeError) as error:
                raise Refused(f"{path} is damaged: Waldrand's own part cannot be read.") from error
            return _plain(
                z, "Its layers were changed in another program, so it was opened as plain layers; elements and recipes are left out."
            )
        return _plain(z, "It holds no elements or recipes (another program saved it), so it was opened as plain layers.")


def _ours(z: _Zip, d: dict[str, Any]) -> Opened:
    layers: list[Layer | Patch] = []
    sheet = Sheet(int(d["width"]), int(d["height"]))
    for one in d["layers"]:
        pixels = read_picture(io.BytesIO(z.read(one["src"])), f"{z.path}: {one['src']}").pixels
        if "frame" in one:
            frame = Rect(*(int(v) for v in one["frame"]))
            region = read_grey(io.BytesIO(z.read(one["region"])), f"{z.path}: {one['region']}")
            if pixels.shape[:2] != (frame.height, frame.width) or region.shape != pixels.shape[:2]:
                raise Refused(f"{z.path} is damaged: a patch has another size than its frame.")
            layers.append(
                Patch(
                    int(one["key"]),
                    str(one["name"]),
                    frame,
                    np.ascontiguousarray(pixels[..., :3]),
                    region,
                    float(one["grow"]),
                    float(one["feather"]),
                    bool(one["visible"]),
                    one["recipe"],
                    float(one.get("opacity", 1.0)),
                )
            )
        else:
            layers.append(Layer(int(one["key"]), str(one["name"]), pixels, int(one["x"]), int(one["y"]), bool(one["visible"])))
    mask = None
    if d["mask"] is not None:
        grey = read_grey(io.BytesIO(z.read(d["mask"])), f"{z.path}: {d['mask']}")
        if grey.shape != (sheet.height, sheet.width):
            raise Refused(f"{z.path} is damaged: its mask has another size than the sheet.")
        mask = Mask.from_array(grey)
    divisions = tuple(division_from_json(x) for x in d.get("divisions", ()))
    return Opened(
        Sheet(
            sheet.width,
            sheet.height,
            tuple(layers),
            tuple(element_from_json(e) for e in d["elements"]),
            scene_from_json(d["scene"]),
            mask,
            divisions,
        ),
        dict(d["settings"]),
        takes=tuple(_take(z, one) for one in d.get("takes", ())),
    )


def _take(z: _Zip, d: dict[str, Any]) -> SavedTake:
    rgba = read_picture(io.BytesIO(z.read(d["src"])), f"{z.path}: {d['src']}").pixels
    frame = Rect(*(int(v) for v in d["frame"]))
    if rgba.shape[:2] != (frame.height, frame.width):
        raise Refused(f"{z.path} is damaged: a take has another size than its frame.")
    take = Take(frame, np.ascontiguousarray(rgba[..., :3]), np.ascontiguousarray(rgba[..., 3]), int(d["seed"]), dict(d["recipe"]))
    return SavedTake(take, str(d["special"]), bool(d["marked"]), bool(d["kept"]))


def _plain(z: _Zip, note: str) -> Opened:
    text = z.read("stack.xml", 10_000_000)
    if b"<!DOCTYPE" in text or b"<!ENTITY" in text:
        raise Refused(f"{z.path}: its stack.xml holds declarations that no layer program writes; it is not opened.")
    try:
        image = ET.fromstring(text)
        sheet = Sheet(int(image.attrib["w"]), int(image.attrib["h"]))
        found: list[Layer] = []
        notes = [note]

        def walk(node: ET.Element, dx: int, dy: int, shown: bool) -> None:
            for child in reversed(list(node)):
                x, y = dx + int(child.get("x", "0")), dy + int(child.get("y", "0"))
                visible = shown and child.get("visibility", "visible") == "visible"
                if child.get("composite-op", "svg:src-over") != "svg:src-over" and len(notes) < 2:
                    notes.append("Some layers are blended in ways Waldrand does not know; they are laid over plainly.")
                if child.tag == "stack":
                    walk(child, x, y, visible)
                elif child.tag == "layer":
                    pixels = read_picture(io.BytesIO(z.read(child.attrib["src"])), f"{z.path}: {child.attrib['src']}").pixels
                    opacity = min(1.0, max(0.0, float(child.get("opacity", "1"))))
                    if opacity < 1:
                        pixels = pixels.copy()
                        pixels[..., 3] = np.round(pixels[..., 3] * opacity)
                    found.append(Layer(len(found) + 1, child.get("name", "layer"), pixels, x, y, visible))

        for stack in image.findall("stack"):
            walk(stack, 0, 0, True)
    except (ET.ParseError, KeyError, ValueError) as error:
        if isinstance(error, ValueError) and str(z.path) in str(error):
            raise
        raise Refused(f"{z.path} is damaged: its stack.xml cannot be read ({error}).") from error
    return Opened(Sheet(sheet.width, sheet.height, tuple(found)), {}, tuple(notes))
