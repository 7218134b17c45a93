"""Values of a sheet as plain JSON, and back, as if whoever wrote it were hostile."""

from __future__ import annotations

import base64
import itertools
import zlib
from typing import Any

import numpy as np

from ..fields import needed, refuse_unknown, taken_list, taken_number, taken_table, taken_values, taken_whole, taken_words, to_values
from ..refused import Refused
from .division import MOST_PARTS, Division
from .element import Element, SceneWords
from .outline import LARGEST_AREA, SHAPES, Outline

MOST_POINTS = 100_000
#: How often a part may be divided again.
DEEPEST = 64


def grey_to_json(a: np.ndarray) -> dict[str, Any]:
    """(H, W) uint8 -> {"width", "height", "deflate"}: raw rows, deflated, base64."""
    return {
        "width": a.shape[1],
        "height": a.shape[0],
        "deflate": base64.b64encode(zlib.compress(np.ascontiguousarray(a).tobytes(), 6)).decode(),
    }


def grey_from_json(d: Any) -> np.ndarray:
    """The inverse of `grey_to_json`.

    Raises:
        Refused: sizes that do not fit the data, or are too large.
    """
    d = taken_table(d, "A mask")
    w, h = (taken_whole(needed(d, k, "A mask"), f"A mask's {k}") for k in ("width", "height"))
    if w < 1 or h < 1 or w * h > LARGEST_AREA:
        raise Refused(f"A mask of {w} x {h} pixels cannot be read.")
    unpack = zlib.decompressobj()
    try:
        raw = unpack.decompress(base64.b64decode(taken_words(needed(d, "deflate", "A mask"), "A mask's pixels")), w * h + 1)
    except (zlib.error, ValueError) as error:
        raise Refused("A mask in the recipe is damaged.") from error
    if len(raw) != w * h:
        raise Refused("A mask in the recipe is damaged: its size is not what it says.")
    return np.frombuffer(raw, np.uint8).reshape(h, w)


def outline_to_json(o: Outline) -> dict[str, Any]:
    out: dict[str, Any] = {"shape": o.shape, "box": list(o.box)}
    if o.points:
        out["points"] = [list(p) for p in o.points]
    if o.mask is not None:
        out["mask"] = grey_to_json(o.mask)
    return out


def outline_from_json(d: Any) -> Outline:
    """Raises Refused when the values are no outline's."""
    d = taken_table(d, "An outline")
    shape = needed(d, "shape", "An outline")
    known = next((s for s in SHAPES if s == shape), None)
    if known is None:
        raise Refused(f"There is no outline of the shape {shape!r:.40}; known are {', '.join(SHAPES)}.")
    box = [taken_number(v, "An outline's box") for v in taken_list(needed(d, "box", "An outline"), "An outline's box")]
    if len(box) != 4:
        raise Refused("An outline's box has to be four numbers.")
    listed = taken_list(d.get("points", []), "An outline's points")
    if len(listed) > MOST_POINTS:
        raise Refused(f"An outline has at most {MOST_POINTS} points.")
    points = []
    for p in listed:
        place = [taken_number(v, "An outline's point") for v in taken_list(p, "An outline's point")]
        if len(place) != 2:
            raise Refused("An outline's point has to be two numbers.")
        points.append((place[0], place[1]))
    mask = grey_from_json(d["mask"]) if "mask" in d else None
    return Outline(known, (box[0], box[1], box[2], box[3]), tuple(points), mask)


def element_to_json(e: Element) -> dict[str, Any]:
    return {"key": e.key, "name": e.name} | to_values(e) | {"outline": outline_to_json(e.outline)}


def element_from_json(d: Any) -> Element:
    """Raises Refused when the values are no element's."""
    d = taken_table(d, "An element")
    key, name = needed(d, "key", "An element"), taken_words(needed(d, "name", "An element"), "An element's name")
    what = f"“{name}”"
    values = taken_values(Element, d, what)
    return Element(taken_whole(key, f"The key of {what}"), name, outline_from_json(needed(d, "outline", what)), **values)


def scene_to_json(scene: SceneWords) -> dict[str, Any]:
    return to_values(scene)


def scene_from_json(d: Any) -> SceneWords:
    """Raises Refused when the values are no scene's."""
    d = taken_table(d, "The scene")
    refuse_unknown(d, to_values(SceneWords()), "The scene")
    return SceneWords(**taken_values(SceneWords, d, "the scene"))


def division_to_json(d: Division) -> dict[str, Any]:
    parts = [division_to_json(p) if isinstance(p, Division) else p for p in d.parts]
    return {"outline": outline_to_json(d.outline), "across": list(d.across), "down": list(d.down), "parts": parts}


def division_from_json(d: Any, depth: int = 0) -> Division:
    """Raises Refused when the values are no division's."""
    what = "A division of the sheet"
    d = taken_table(d, what)
    if depth > DEEPEST:
        raise Refused(f"{what} is damaged: its parts are divided too often.")
    across, down = (tuple(taken_number(v, what) for v in taken_list(needed(d, k, what), what)) for k in ("across", "down"))
    listed = taken_list(needed(d, "parts", what), what)
    rising = all(a < b for c in (across, down) for a, b in itertools.pairwise(c))
    whole = all(c and c[0] == 0 and abs(c[-1] - 1) < 1e-6 for c in (across, down))
    if not (rising and whole) or len(listed) > MOST_PARTS or len(listed) != (len(across) - 1) * (len(down) - 1):
        raise Refused(f"{what} is damaged.")
    parts = tuple(division_from_json(p, depth + 1) if isinstance(p, dict) else taken_whole(p, what) for p in listed)
    return Division(outline_from_json(needed(d, "outline", what)), across, down, parts)
