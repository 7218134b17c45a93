"""What a layout puts on its sheet beside elements: layers, letterings, holds and the frame of its pass."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from ..core.fields import fields_of, needed, refuse_unknown, taken_list, taken_number, taken_table, taken_values, taken_words
from ..core.passes.repeat import find_element
from ..core.picture.warped import corners_of, moved_corners, scaled_corners, turned_corners
from ..core.refused import Refused
from ..core.values.area import Area
from ..core.values.layers import BOTH, SEEN, WHOLE, PictureLayer
from ..core.values.lettering import Lettering, Letters, name_of
from ..core.values.masks import Mask
from ..core.values.outline import Outline
from ..core.values.shaping import drawn
from ..core.values.sheet import Sheet
from ..core.worded import worded
from .pictures import read_picture
from .typefaces import draw_letters

PLACED = ("at", "scale", "turn", "opacity", "blend", "use", "steps", "element")
LAYER = ("name", "picture", *PLACED)
LETTERING = ("name", *fields_of(Letters), *PLACED)
HOLD = ("name", "box", "mask", "points", "shape", "hold")
FRAME = ("box",)


def entries_of(d: dict[str, Any], name: str, known: tuple[str, ...], path: Path) -> list[dict[str, Any]]:
    """The tables of a name, as they are written.

    Raises:
        Refused: they are none, or have a key that is not known.
    """
    found = d.get(name, [])
    if not isinstance(found, list) or not all(isinstance(e, dict) for e in found):
        raise Refused(worded("{0}: {1}s are written as [[{1}]].", path, name))
    for e in found:
        refuse_unknown(e, known, f"[[{name}]] in {path}")
    return found


def with_layers(sheet: Sheet, d: dict[str, Any], path: Path) -> tuple[Sheet, tuple[str, ...]]:
    """The sheet with the layers and letterings that a layout names, and what the artist should know.

    Raises:
        Refused: one of them cannot be made.
    """
    notes: list[str] = []
    for e in entries_of(d, "layer", LAYER, path):
        file = path.parent / taken_words(needed(e, "picture", "A layer"), "The picture of a layer")
        picture = read_picture(file)
        notes += picture.notes
        own = PictureLayer(sheet.next_key(), taken_words(e.get("name", file.stem), "A layer's name"), picture.pixels)
        sheet = sheet.with_layer(_placed(own, e, sheet))
    for e in entries_of(d, "lettering", LETTERING, path):
        says = Letters(**taken_values(Letters, e, worded("a lettering in {0}", path)))
        pixels, note = draw_letters(says)
        notes += [note] if note else []
        name = taken_words(e.get("name", name_of(says)), "A lettering's name")
        sheet = sheet.with_layer(_placed(Lettering(sheet.next_key(), name, pixels, says=says), {"use": SEEN} | e, sheet))
    return sheet, tuple(notes)


def _placed(own: PictureLayer, e: dict[str, Any], sheet: Sheet) -> PictureLayer:
    """A layer where a table says it lies: its middle at shares of the sheet, scaled and turned."""
    what = worded("the layer “{0}”", own.name)
    at = [taken_number(v, f"“at” of {what}") for v in taken_list(e.get("at", [0.5, 0.5]), f"“at” of {what}")]
    if len(at) != 2:
        raise Refused(worded("“at” of {0} has to be two numbers: across and down, in shares of the sheet.", what))
    scale, turn = (taken_number(e.get(k, plain), f"“{k}” of {what}") for k, plain in (("scale", 1.0), ("turn", 0.0)))
    steps = [taken_number(v, f"“steps” of {what}") for v in taken_list(e.get("steps", list(WHOLE)), f"“steps” of {what}")]
    if len(steps) != 2:
        raise Refused(worded("“steps” of {0} has to be two numbers: from and to which share of the steps it is told.", what))
    h, w = own.pixels.shape[:2]
    x, y = at[0] * sheet.width - w / 2, at[1] * sheet.height - h / 2
    own = replace(
        own,
        opacity=taken_number(e.get("opacity", 1.0), f"“opacity” of {what}"),
        blend=taken_words(e.get("blend", "normal"), f"“blend” of {what}"),
        role=taken_words(e.get("use", BOTH), f"“use” of {what}"),
        acts=(steps[0], steps[1]),
        of=None if "element" not in e else find_element(sheet, taken_words(e["element"], f"“element” of {what}")).key,
    )
    if scale == 1 and turn == 0:
        return replace(own, x=round(x), y=round(y))
    if not 0.001 <= scale <= 1000:
        raise Refused(worded("“scale” of {0} goes from 0.001 to 1000; {1:g} is outside.", what, scale))
    return own.with_corners(turned_corners(scaled_corners(moved_corners(corners_of(0, 0, w, h), x, y), scale, scale), turn))


def with_holds(sheet: Sheet, d: dict[str, Any], path: Path, outline: Callable[[dict[str, Any], str], Outline]) -> Sheet:
    """The sheet with the masks that a layout holds, or only keeps. outline: reads where one is, and what it is called."""
    for i, e in enumerate(entries_of(d, "hold", HOLD, path), 1):
        name = taken_words(e.get("name", f"hold {i}"), "A hold's name")
        held = e.get("hold", True)
        if not isinstance(held, bool):
            raise Refused(worded("“hold” of “{0}” is true or false.", name))
        grey = drawn(outline({k: v for k, v in e.items() if k not in ("name", "hold")}, f"“{name}” in {path}"), sheet.rect)
        sheet = sheet.with_area(Area(sheet.next_key(), name, Mask.from_array(np.asarray(grey)), held))
    return sheet


def frame_of(d: dict[str, Any], sheet: Sheet, path: Path) -> tuple[int, int, int, int] | None:
    """The frame of the pass in sheet pixels, where a layout sets one."""
    if "frame" not in d:
        return None
    table = taken_table(d["frame"], worded("[frame] in {0}", path))
    refuse_unknown(table, FRAME, f"[frame] in {path}")
    box = [taken_number(v, "The frame") for v in taken_list(needed(table, "box", "[frame]"), "The frame")]
    if len(box) != 4 or not (0 <= box[0] < box[2] <= 1 and 0 <= box[1] < box[3] <= 1):
        raise Refused(worded("[frame] in {0} needs box = [x0, y0, x1, y1] in shares of the sheet.", path))
    w, h = sheet.width, sheet.height
    return round(box[0] * w), round(box[1] * h), round(box[2] * w), round(box[3] * h)
