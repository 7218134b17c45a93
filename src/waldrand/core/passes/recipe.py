"""Recipes: everything needed to make a take again, as plain JSON values."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ... import __version__
from ..fields import from_values, needed, taken_list, taken_number, taken_table, taken_values, taken_whole, taken_words, to_values
from ..picture.composite import NORMAL
from ..refused import Refused
from ..values.as_json import element_from_json, element_to_json, grey_from_json, grey_to_json, scene_from_json, scene_to_json
from ..values.frame import Rect
from ..values.layers import BOTH, FARTHEST, GUIDES, Layer, rect_from_json
from ..values.masks import Mask
from ..values.sheet import Sheet, check_size
from ..worded import worded
from .guided import guide_from_json, guide_to_json
from .kinds import kind_of
from .plan import Plan
from .request import Request, with_own
from .settings import PassSettings

FORMAT = 1
#: What a refusal calls a recipe that cannot be read.
THIS = "The recipe"


def pixels_hash(rgba: np.ndarray) -> str:
    """sha256 over size and bytes of (H, W, 4) uint8 pixels."""
    h = hashlib.sha256(f"{rgba.shape[1]}x{rgba.shape[0]}:".encode())
    h.update(np.ascontiguousarray(rgba).data)
    return h.hexdigest()


def settings_from_json(d: Any) -> PassSettings:
    """Raises Refused when the values are no pass's settings."""
    # Older recipes had no figures, or figures without drawings, none seen from near by, and clothes were told all over; no drawn grounds,
    # no weather and no paper; drawings did not lead.
    missing = dict.fromkeys(("figures", "sketches", "grounds", "places", "near_views", "clothes_apart", "weather", "paper"), False)
    older = {**missing, "drawing_guidance": 0.0}
    return from_values(PassSettings, older | taken_table(d, "The settings of the recipe"), "the settings of the recipe")


def request_to_json(request: Request) -> dict[str, Any]:
    """What a pass asked for, but for the elements that it painted from nearer."""
    out = {"kind": request.kind, "settings": to_values(request.settings), **to_values(request, "small_nearer", "nearer")}
    if request.more:
        out["more"] = {name: list(v) if isinstance(v, tuple) else v for name, v in request.more}
    if request.rounds:
        out["rounds"] = [request_to_json(one) for one in request.rounds]
    return out


def request_from_json(d: Any) -> Request:
    """What a pass of this recipe asked for.

    Raises:
        Refused: the recipe is damaged, or of a kind of pass that is not known.
    """
    d = taken_table(d, THIS)
    kind = kind_of(taken_words(needed(d, "kind", THIS), "The kind of pass in the recipe"))
    own = {**kind.older, **taken_table(d.get("more", {}), THIS)}
    more = tuple(
        (name, kind.own[name].taken(value, f"“{name}” of the recipe") if name in kind.own else value) for name, value in own.items()
    )
    # Older ones cleared nothing away, restored nothing behind it, and fitted another figure into what they painted from nearer.
    values = {"clears": False, "restores": False, "keeps_form": False} | taken_values(Request, d, "the recipe")
    listed = taken_list(d.get("rounds", []), THIS)
    if any("rounds" in taken_table(one, THIS) for one in listed):
        raise Refused(worded("{0} has rounds within rounds.", THIS))
    rounds = tuple(map(request_from_json, listed))
    return Request(kind.name, settings_from_json(needed(d, "settings", THIS)), **values, more=with_own(more, kind.own), rounds=rounds)


def settings_of_last(sheet: Sheet) -> PassSettings | None:
    """What the newest pass that is still to be seen on a sheet was set to, as far as its recipe says; None where no pass left one."""
    for layer in reversed(sheet.layers):
        said = (layer.recipe or {}).get("settings") if layer.visible else None
        if said is not None:
            return from_values(PassSettings, taken_table(said, "The settings of the recipe"), "the settings of the recipe")
    return None


def nearer_of(recipe: dict[str, Any]) -> list[Any]:
    """What a take of this recipe painted from nearer, as [key, seed]."""
    return list(recipe.get("nearer", ()))


def recipe_of(plan: Plan, seed: int) -> dict[str, Any]:
    """The recipe of one take."""
    sheet, request, info = plan.sheet, plan.request, plan.info
    r = plan.frame.rect
    recipe = request_to_json(replace(request, settings=replace(request.settings, seed=seed))) | {
        "nearer": [list(one) for one in request.nearer_by(seed)],
        "scene": scene_to_json(sheet.scene),
        "elements": [element_to_json(e) for e in sheet.elements],
        "sheet": [sheet.width, sheet.height],
        "frame": [r.x0, r.y0, r.x1, r.y1],
        "computed": [plan.frame.width, plan.frame.height],
        "start": pixels_hash(sheet.flatten(r)) if sheet.has_picture else None,
        "pack": {"name": info.name, "version": info.version, "digest": info.digest, "threads": info.threads},
        "waldrand": __version__,
    }
    if request.small_nearer:
        # Which ones, every take finds out by itself.
        recipe["small_nearer"] = True
    if guides := sheet.guides():
        recipe["guides"] = [guide_to_json(layer, sheet.rect) for layer in guides]
    if plan.kind.masked and sheet.mask is not None:
        box = sheet.mask.box()
        recipe["mask"] = {"x": box.x0, "y": box.y0} | grey_to_json(sheet.mask.read(box))
    return recipe


def _brought(layer: Layer) -> dict[str, float]:
    """By how much a patch was brought to its surroundings, where it was."""
    return dict(layer.brought_by) if any(layer.brought_by.values()) else {}


def _moved(layer: Layer, recipe: dict[str, Any]) -> dict[str, list[int]]:
    """Where the sheet of a pass lies on the present one, where that got more room since."""
    frame = recipe_frame(recipe)
    by = [layer.bounds.x0 - frame.x0, layer.bounds.y0 - frame.y0]
    return {"at": by} if any(by) else {}


def _elsewhere(layer: Layer, recipe: dict[str, Any]) -> bool:
    """Whether a patch is not what its pass made, or its sheet reaches beyond the present one; of older recipes, whether it was moved."""
    frame, now = recipe_frame(recipe), layer.bounds
    if "sheet" not in recipe:
        return frame != now
    return (frame.width, frame.height) != (now.width, now.height)


def _retouched(layer: Layer) -> bool:
    """Whether more was done to a patch than a recipe can say."""
    finish = layer.finished
    return layer.blend != NORMAL or layer.role != BOTH or (finish is not None and not finish.plain)


def picture_recipe(sheet: Sheet) -> dict[str, Any]:
    """What made the picture on a sheet: its own pictures by hash, then every visible layer that a pass made, in order.

    On a sheet that was scaled or cropped afterwards patches are no longer what was made, and what was adjusted or laid over them by hand
    cannot be made again by a pass; then the picture as it is counts as the start, and how it was made is only told (`history`).
    """
    # What was told to passes is no part of the picture; each pass's recipe holds what it was told.
    sheet = replace(sheet, layers=tuple(x for x in sheet.layers if x.role not in GUIDES))
    base = replace(sheet, layers=tuple(x for x in sheet.layers if x.recipe is None))
    seen = [x for x in sheet.layers if x.visible]
    made = [(x, x.recipe) for x in seen if x.recipe is not None]
    # What was laid over a pass by hand is not below it, where a recipe begins.
    over = any(x.recipe is None for x in seen[next((i for i, x in enumerate(seen) if x.recipe is not None), len(seen)) :])
    plain = {"grow": 0.0, "feather": 0.0, "opacity": 1.0}
    passes = [{"recipe": recipe} | _moved(x, recipe) | plain | dict(x.edge) | _brought(x) for x, recipe in made]
    out: dict[str, Any] = {"format": FORMAT, "width": sheet.width, "height": sheet.height}
    if over or any(_elsewhere(x, recipe) or _retouched(x) for x, recipe in made):
        return out | {"picture": pixels_hash(sheet.flatten()), "passes": [], "history": passes}
    out |= {"picture": pixels_hash(base.flatten()) if base.has_picture else None, "passes": passes}
    if len(base.layers) == 1 and base.layers[0].bounds != base.rect:
        # Where it lies, so that it can be laid there again.
        out["at"] = [base.layers[0].bounds.x0, base.layers[0].bounds.y0]
    return out


def last_recipe(recipe: dict[str, Any] | None) -> dict[str, Any] | None:
    """The recipe of a picture's last pass, or None."""
    entries = (recipe.get("passes") or recipe.get("history")) if recipe else None
    last = entries[-1] if isinstance(entries, list) and entries else None
    one = last.get("recipe") if isinstance(last, dict) else None
    return one if isinstance(one, dict) else None


def recipe_words(recipe: dict[str, Any] | None) -> str:
    """The scene words of a picture's last pass; none when it has no recipe that can be read."""
    last = last_recipe(recipe)
    scene = last.get("scene") if last else None
    return str(scene.get("words", "")) if isinstance(scene, dict) else ""


def sheet_before(recipe: Any, width: int, height: int, layers: tuple[Layer, ...]) -> Sheet:
    """The sheet a pass of this recipe ran on.

    Raises:
        Refused: the recipe is damaged.
    """
    recipe = taken_table(recipe, THIS)
    mask = None
    if "mask" in recipe:
        m = taken_table(recipe["mask"], "The recipe's mask")
        grey = grey_from_json(m)
        x, y = (taken_whole(needed(m, k, "The recipe's mask"), f"“{k}” of the recipe's mask") for k in "xy")
        if x < 0 or y < 0 or x + grey.shape[1] > width or y + grey.shape[0] > height:
            raise Refused(worded("The recipe's mask does not lie on its sheet."))
        mask = Mask(width, height).with_part(grey, Rect(x, y, x + grey.shape[1], y + grey.shape[0]))
    elements = tuple(map(element_from_json, taken_list(needed(recipe, "elements", THIS), "The recipe's elements")))
    sheet = Sheet(width, height, layers, elements, scene_from_json(needed(recipe, "scene", THIS)), mask)
    for told in taken_list(recipe.get("guides", []), "The recipe's guides"):
        sheet = sheet.with_layer(guide_from_json(told, sheet.next_key()))
    return sheet


def recipe_frame(recipe: Any) -> Rect:
    """The rectangle on the sheet that the recipe's pass computed.

    Raises:
        Refused: the recipe is damaged.
    """
    return rect_from_json(needed(taken_table(recipe, THIS), "frame", THIS), worded("The recipe's frame"))


@dataclass(frozen=True, eq=False)
class Entry:
    """One pass of a picture's recipe, and how its patch was laid over."""

    recipe: dict[str, Any]
    grow: float
    feather: float
    opacity: float
    match: float = 0.0
    seamless: float = 0.0
    at: tuple[int, int] = (0, 0)


def sheet_size(recipe: dict[str, Any], width: int, height: int) -> tuple[int, int]:
    """The size of the sheet that a pass was run on; older recipes only know that of the whole.

    Raises:
        Refused: it is none.
    """
    w, h = _two(recipe.get("sheet", [width, height]), worded("The size of a pass's sheet"))
    check_size(w, h)
    return w, h


def _two(value: Any, what: str) -> tuple[int, int]:
    listed = [taken_whole(v, what) for v in taken_list(value, what)]
    if len(listed) != 2 or max(map(abs, listed)) > FARTHEST:
        raise Refused(worded("{0} has to be two numbers.", what))
    return listed[0], listed[1]


def entries_of(recipe: Any) -> Sequence[Entry]:
    """The passes of a picture's recipe, in their order.

    Raises:
        Refused: the recipe is damaged, or of a format that is not known.
    """
    recipe = taken_table(recipe, THIS)
    if needed(recipe, "format", THIS) != FORMAT:
        raise Refused(worded("This recipe has format {0!r:.20}; this version reads format {1}.", recipe["format"], FORMAT))
    out = []
    for d in taken_list(needed(recipe, "passes", THIS), "The recipe's passes"):
        d = taken_table(d, "A pass of the recipe")
        usual = (("grow", 0), ("feather", 0), ("opacity", 1), ("match", 0), ("seamless", 0))
        numbers = {k: taken_number(d.get(k, v), f"“{k}” in the recipe") for k, v in usual}
        at = _two(d.get("at", [0, 0]), worded("The place of a pass's sheet"))
        out.append(Entry(taken_table(needed(d, "recipe", "A pass of the recipe"), "A pass of the recipe"), **numbers, at=at))
    return out
