"""A picture extended on several sides: how much room each gets, and in which order they are painted."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from typing import Literal, get_args

from ..refused import Refused
from ..values.frame import Rect
from ..worded import worded

Side = Literal["left", "right", "top", "bottom"]
SIDES: tuple[Side, ...] = get_args(Side)


def pixels_of(text: str, whole: int, side: str) -> int:
    """Pixels that a side gets, written as such or as a share of what is there: "120", "25%".

    Raises:
        Refused: it is no such number, or below 0.
    """
    match = re.fullmatch(r"\s*(\d{1,7}(?:\.\d{1,4})?)\s*(%?)\s*", text)
    if match is None or (not match[2] and "." in match[1]):
        raise Refused(worded("“{0}” is no room for the {1} side: write pixels, like 120, or a share of the picture, like 25%.", text, side))
    return round(float(match[1]) / 100 * whole) if match[2] else int(match[1])


def ratio_of(text: str) -> float:
    """Width against height, written like 16:9.

    Raises:
        Refused: it is no such ratio.
    """
    match = re.fullmatch(r"\s*(\d{1,5}(?:\.\d{1,4})?)\s*:\s*(\d{1,5}(?:\.\d{1,4})?)\s*", text)
    if match is None or not float(match[1]) or not float(match[2]):
        raise Refused(worded("“{0}” is no ratio: write width and height, like 16:9.", text))
    return float(match[1]) / float(match[2])


def to_ratio(width: int, height: int, ratio: float, at: tuple[float, float] = (0.5, 0.5)) -> dict[Side, int]:
    """The room that each side gets so that the whole has a ratio, nothing being cut off. at: where the old picture lies in the new
    room, 0..1 from the left and from above.

    Raises:
        Refused: a place outside 0..1.
    """
    if not (0 <= at[0] <= 1 and 0 <= at[1] <= 1):
        raise Refused(worded("Where the old picture lies goes from 0 to 1, across and down."))
    more_wide = max(0, math.ceil(height * ratio - 1e-9) - width)
    more_high = max(0, math.ceil(width / ratio - 1e-9) - height) if not more_wide else 0
    left, top = round(more_wide * at[0]), round(more_high * at[1])
    return {"left": left, "right": more_wide - left, "top": top, "bottom": more_high - top}


def grown(width: int, height: int, room: Mapping[Side, int]) -> Rect:
    """The larger sheet in the old one's coordinates.

    Raises:
        Refused: a side gets less than nothing, or none gets anything.
    """
    for side, n in room.items():
        if n < 0:
            raise Refused(worded("The {0} side cannot get {1} pixels: cropping is another thing.", side, n))
    if not any(room.values()):
        raise Refused(worded("No side gets any room: say how much, for instance --right 25%."))
    r = {side: room.get(side, 0) for side in SIDES}
    return Rect(-r["left"], -r["top"], width + r["right"], height + r["bottom"])


def parts(width: int, height: int, room: Mapping[Side, int], order: Sequence[Side] = SIDES) -> list[tuple[Side, Rect]]:
    """The sides that get room, in an order, each with the part of the larger sheet that is painted then: beside all that is there by
    then, so that corners come with the later one of their sides."""
    r = {side: room.get(side, 0) for side in SIDES}
    there = Rect(r["left"], r["top"], r["left"] + width, r["top"] + height)
    out: list[tuple[Side, Rect]] = []
    for side in order:
        if not r[side]:
            continue
        part = {
            "left": Rect(there.x0 - r[side], there.y0, there.x0, there.y1),
            "right": Rect(there.x1, there.y0, there.x1 + r[side], there.y1),
            "top": Rect(there.x0, there.y0 - r[side], there.x1, there.y0),
            "bottom": Rect(there.x0, there.y1, there.x1, there.y1 + r[side]),
        }[side]
        out.append((side, part))
        there = there.around(part)
    return out
