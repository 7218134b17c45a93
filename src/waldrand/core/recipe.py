"""Recipes: everything needed to make a take again, as plain JSON values."""

from __future__ import annotations

import base64
import hashlib
import zlib
from dataclasses import asdict, replace
from typing import TYPE_CHECKING, Any

import numpy as np

from .. import __version__
from .element import Element, SceneWords
from .frame import Rect
from .masks import Mask
from .outline import Outline
from .request import PassSettings, Request
from .sheet import LARGEST_AREA, Layer, Patch, Sheet

if TYPE_CHECKING:
    from .plan import Plan

FORMAT = 1


def pixels_hash(rgba: np.ndarray) -> str:
    """sha256 over size and bytes of (H, W, 4) uint8 pixels."""
    h = hashlib.sha256(f"{rgba.shape[1]}x{rgba.shape[0]}:".encode())
    h.update(np.ascontiguousarray(rgba).tobytes())
    return h.hexdigest()


def grey_to_json(a: np.ndarray) -> dict[str, Any]:
    """(H, W) uint8 -> {"width", "height", "deflate"}: raw rows, deflated, base64."""
    return {
        "width": a.shape[1],
        "height": a.shape[0],
        "deflate": base64.b64encode(zlib.compress(np.ascontiguousarray(a).tobytes(), 6)).decode(),
    }


def grey_from_json(d: dict[str, Any]) -> np.ndarray:
    """The inverse of `grey_to_json`.

    Raises:
        ValueError: sizes that do not fit the data, or are too large.
    """
    w, h = int(d["width"]), int(d["height"])
    if w < 1 or h < 1 or w * h > LARGEST_AREA:
        raise ValueError(f"A mask of {w} x {h} pixels cannot be read.")
    unpack = zlib.decompressobj()
    try:
        raw = unpack.decompress(base64.b64decode(d["deflate"]), w * h + 1)
    except (zlib.error, ValueError) as error:
        raise ValueError("A mask in the recipe is damaged.") from error
    if len(raw) != w * h:
        raise ValueError("A mask in the recipe is damaged: its size is not what it says.")
    return np.frombuffer(raw, np.uint8).reshape(h, w)


def outline_to_json(o: Outline) -> dict[str, Any]:
    out: dict[str, Any] = {"shape": o.shape, "box": list(o.box)}
    if o.points:
        out["points"] = [list(p) for p in o.points]
    if o.mask is not None:
        out["mask"] = grey_to_json(o.mask)
    return out


def outline_from_json(d: dict[str, Any]) -> Outline:
    x0, y0, x1, y1 = (float(v) for v in d["box"])
    mask = grey_from_json(d["mask"]) if "mask" in d else None
    return Outline(d["shape"], (x0, y0, x1, y1), tuple((float(x), float(y)) for x, y in d.get("points", ())), mask)


ELEMENT_KEYS = ("key", "name", "words", "avoid", "weight", "strength", "feather", "seed", "hold")


def element_to_json(e: Element) -> dict[str, Any]:
    return {k: getattr(e, k) for k in ELEMENT_KEYS} | {"outline": outline_to_json(e.outline)}


def element_from_json(d: dict[str, Any]) -> Element:
    strength, seed = d["strength"], d["seed"]
    return Element(
        int(d["key"]),
        str(d["name"]),
        outline_from_json(d["outline"]),
        str(d["words"]),
        str(d["avoid"]),
        float(d["weight"]),
        None if strength is None else float(strength),
        float(d["feather"]),
        None if seed is None else int(seed),
        bool(d["hold"]),
    )


def request_from_json(d: dict[str, Any]) -> Request:
    return Request(d["kind"], PassSettings(**d["settings"]), d["words"], d["avoid"])


def recipe_of(plan: Plan, seed: int, below: np.ndarray) -> dict[str, Any]:
    """The recipe of one take. below: (h, w, 4) uint8, the frame's picture before the pass."""
    sheet, request = plan.sheet, replace(plan.request, settings=replace(plan.request.settings, seed=seed))
    r = plan.frame.rect
    recipe = {
        "kind": request.kind,
        "settings": asdict(request.settings),
        "words": request.words,
        "avoid": request.avoid,
        "scene": asdict(sheet.scene),
        "elements": [element_to_json(e) for e in sheet.elements],
        "frame": [r.x0, r.y0, r.x1, r.y1],
        "computed": [plan.frame.width, plan.frame.height],
        "start": pixels_hash(below) if sheet.has_picture else None,
        "pack": {"name": plan.info.name, "version": plan.info.version, "digest": plan.info.digest, "threads": plan.info.threads},
        "waldrand": __version__,
    }
    if request.kind == "inpaint" and sheet.mask is not None:
        box = sheet.mask.box()
        recipe["mask"] = {"x": box.x0, "y": box.y0} | grey_to_json(sheet.mask.read(box))
    return recipe


def picture_recipe(sheet: Sheet) -> dict[str, Any]:
    """What made the picture on a sheet: its own pictures by hash, then every visible patch in order."""
    base = replace(sheet, layers=tuple(x for x in sheet.layers if isinstance(x, Layer)))
    passes = [
        {"recipe": p.recipe, "grow": p.grow, "feather": p.feather}
        for p in sheet.layers
        if isinstance(p, Patch) and p.visible and p.recipe is not None
    ]
    return {
        "format": FORMAT,
        "width": sheet.width,
        "height": sheet.height,
        "picture": pixels_hash(base.flatten()) if base.has_picture else None,
        "passes": passes,
    }


def sheet_before(recipe: dict[str, Any], width: int, height: int, layers: tuple[Layer | Patch, ...]) -> Sheet:
    """The sheet a pass of this recipe ran on."""
    mask = None
    if "mask" in recipe:
        m = recipe["mask"]
        grey = grey_from_json(m)
        if m["x"] < 0 or m["y"] < 0 or m["x"] + grey.shape[1] > width or m["y"] + grey.shape[0] > height:
            raise ValueError("The recipe's mask does not lie on its sheet.")
        full = np.zeros((height, width), np.uint8)
        full[m["y"] : m["y"] + grey.shape[0], m["x"] : m["x"] + grey.shape[1]] = grey
        mask = Mask.from_array(full)
    return Sheet(width, height, layers, tuple(element_from_json(e) for e in recipe["elements"]), SceneWords(**recipe["scene"]), mask)


def recipe_frame(recipe: dict[str, Any]) -> Rect:
    """The rectangle on the sheet that the recipe's pass computed."""
    return Rect(*(int(v) for v in recipe["frame"]))
