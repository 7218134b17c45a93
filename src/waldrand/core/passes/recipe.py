"""Recipes: everything needed to make a take again, as plain JSON values."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from dataclasses import asdict, replace
from typing import TYPE_CHECKING, Any

import numpy as np

from ... import __version__
from ..refused import Refused
from ..values.element import Element, SceneWords
from ..values.emphasis import Span
from ..values.frame import Rect
from ..values.masks import Mask
from ..values.outline import grey_from_json, grey_to_json, outline_from_json, outline_to_json
from ..values.sheet import Layer, Patch, Sheet
from .request import PassSettings, Request

if TYPE_CHECKING:
    from .plan import Plan

FORMAT = 1


def pixels_hash(rgba: np.ndarray) -> str:
    """sha256 over size and bytes of (H, W, 4) uint8 pixels."""
    h = hashlib.sha256(f"{rgba.shape[1]}x{rgba.shape[0]}:".encode())
    h.update(np.ascontiguousarray(rgba).tobytes())
    return h.hexdigest()


ELEMENT_KEYS = ("key", "name", "words", "avoid", "weight", "strength", "feather", "seed", "hold", "emphasis", "visible", "locked", "figure")


def element_to_json(e: Element) -> dict[str, Any]:
    own = {k: getattr(e, k) for k in ELEMENT_KEYS}
    return own | {"emphasis": [list(s) for s in e.emphasis], "outline": outline_to_json(e.outline)}


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
        spans_from_json(d.get("emphasis", ())),
        bool(d.get("visible", True)),
        bool(d.get("locked", False)),
        bool(d.get("figure", True)),
    )


def spans_from_json(spans: Iterable[Iterable[float]]) -> tuple[Span, ...]:
    return tuple((int(a), int(b), float(factor)) for a, b, factor in spans)


def scene_to_json(scene: SceneWords) -> dict[str, Any]:
    spans = {k: [list(s) for s in getattr(scene, k)] for k in ("emphasis", "house_emphasis")}
    return asdict(scene) | spans


def scene_from_json(d: dict[str, Any]) -> SceneWords:
    """Raises TypeError or Refused when the values are not a scene's."""
    own: dict[str, Any] = {k: spans_from_json(d[k]) for k in ("emphasis", "house_emphasis") if k in d}
    return SceneWords(**(d | own))


def request_from_json(d: dict[str, Any]) -> Request:
    nearer = tuple((int(key), int(seed)) for key, seed in d.get("nearer", ()))
    # Older recipes had no figures, and cleared nothing away.
    return Request(
        d["kind"], PassSettings(**({"figures": False} | d["settings"])), d["words"], d["avoid"], nearer, clears=bool(d.get("clears", False))
    )


def recipe_of(plan: Plan, seed: int, below: np.ndarray) -> dict[str, Any]:
    """The recipe of one take. below: (h, w, 4) uint8, the frame's picture before the pass."""
    sheet, request = plan.sheet, replace(plan.request, settings=replace(plan.request.settings, seed=seed))
    r = plan.frame.rect
    recipe = {
        "kind": request.kind,
        "settings": asdict(request.settings),
        "words": request.words,
        "avoid": request.avoid,
        "clears": request.clears,
        "nearer": [list(one) for one in request.nearer_by(seed)],
        "scene": scene_to_json(sheet.scene),
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
    """What made the picture on a sheet: its own pictures by hash, then every visible patch in order.

    On a sheet that was cropped or scaled afterwards patches no longer lie where they were made; then the picture as it is counts
    as the start, and how it was made is only told (`history`).
    """
    base = replace(sheet, layers=tuple(x for x in sheet.layers if isinstance(x, Layer)))
    made = [(p, p.recipe) for p in sheet.layers if isinstance(p, Patch) and p.visible and p.recipe is not None]
    passes = [{"recipe": recipe, "grow": p.grow, "feather": p.feather, "opacity": p.opacity} for p, recipe in made]
    if any(recipe_frame(recipe) != p.frame for p, recipe in made):
        return {
            "format": FORMAT,
            "width": sheet.width,
            "height": sheet.height,
            "picture": pixels_hash(sheet.flatten()),
            "passes": [],
            "history": passes,
        }
    return {
        "format": FORMAT,
        "width": sheet.width,
        "height": sheet.height,
        "picture": pixels_hash(base.flatten()) if base.has_picture else None,
        "passes": passes,
    }


def last_recipe(recipe: dict[str, Any] | None) -> dict[str, Any] | None:
    """The recipe of a picture's last pass, or None."""
    try:
        entries = (recipe.get("passes") or recipe.get("history")) if recipe else None
        return entries[-1]["recipe"] if entries else None
    except (KeyError, TypeError, IndexError, AttributeError):
        return None


def recipe_words(recipe: dict[str, Any] | None) -> str:
    """The scene words of a picture's last pass; none when it has no recipe that can be read."""
    try:
        last = last_recipe(recipe)
        return str(last["scene"]["words"]) if last else ""
    except (KeyError, TypeError):
        return ""


def sheet_before(recipe: dict[str, Any], width: int, height: int, layers: tuple[Layer | Patch, ...]) -> Sheet:
    """The sheet a pass of this recipe ran on."""
    mask = None
    if "mask" in recipe:
        m = recipe["mask"]
        grey = grey_from_json(m)
        if m["x"] < 0 or m["y"] < 0 or m["x"] + grey.shape[1] > width or m["y"] + grey.shape[0] > height:
            raise Refused("The recipe's mask does not lie on its sheet.")
        full = np.zeros((height, width), np.uint8)
        full[m["y"] : m["y"] + grey.shape[0], m["x"] : m["x"] + grey.shape[1]] = grey
        mask = Mask.from_array(full)
    return Sheet(width, height, layers, tuple(element_from_json(e) for e in recipe["elements"]), scene_from_json(recipe["scene"]), mask)


def recipe_frame(recipe: dict[str, Any]) -> Rect:
    """The rectangle on the sheet that the recipe's pass computed."""
    return Rect(*(int(v) for v in recipe["frame"]))
