"""Lettering: typed text as a layer, whose words stay words."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Self

import numpy as np

from ..fields import check, choice, from_values, number, taken_table, text, to_values
from ..refused import Refused
from ..worded import worded
from .layers import PictureLayer


def colour_of(text: str) -> tuple[int, int, int]:
    """A colour written "#rrggbb", or without the sign.

    Raises:
        Refused: it is none.
    """
    match = re.fullmatch(r"#?([0-9a-fA-F]{2})([0-9a-fA-F]{2})([0-9a-fA-F]{2})", text.strip())
    if match is None:
        raise Refused(worded("“{0:.20}” is no colour: write it like #406080.", text))
    return int(match[1], 16), int(match[2], 16), int(match[3], 16)


@dataclass(frozen=True)
class Letters:
    """What is said and how it looks: words, typeface (a family's name), size in sheet pixels, colour "#rrggbb", spacing between
    letters and between lines in shares of the size, alignment.

    Raises:
        Refused: a value outside its range.
    """

    words: str = text()
    typeface: str = text("Source Sans Pro", label="typeface")
    style: str = text("Regular", label="style")
    size: float = number(64, 4, 2000, "The size of letters goes", label="size", tip="Height of the letters in sheet pixels.", step=2)
    colour: str = text("#f4efe3", label="colour")
    spacing: float = number(
        0.0, -0.5, 4, "The spacing of letters goes", label="spacing", tip="Room between letters.", step=0.02, decimals=2
    )
    leading: float = number(1.2, 0.5, 4, "The spacing of lines goes", label="lines", tip="From line to line.", step=0.1, decimals=2)
    align: str = choice(
        "left", (("left", "left"), ("centre", "centre"), ("right", "right")), "There is no alignment", label="align", tip="Of the lines."
    )

    def __post_init__(self) -> None:
        check(self)
        colour_of(self.colour)


def name_of(says: Letters) -> str:
    """What a lettering is called until it gets another name."""
    return says.words.split("\n")[0][:40]


@dataclass(frozen=True, eq=False)
class Lettering(PictureLayer):
    """says: what its pixels were drawn from."""

    sort: ClassVar[str] = "lettering"
    says: Letters = Letters()

    def drawn(self, says: Letters, pixels: np.ndarray) -> Self:
        """The same with other words or looks, drawn anew; what it was named after goes with it."""
        named = name_of(says) if self.name == name_of(self.says) else self.name
        made = replace(self, says=says, name=named, pixels=pixels, finish=replace(self.finish, within=None, cover=None, corners=None))
        if self.finish.corners is None:
            return made
        # As far from its upper left corner as before, turned and scaled as it was.
        h, w = self.pixels.shape[:2]
        a, b, _, d = self.corners
        across, down = ((b[0] - a[0]) / w, (b[1] - a[1]) / w), ((d[0] - a[0]) / h, (d[1] - a[1]) / h)
        h, w = pixels.shape[:2]
        right, low = (w * across[0], w * across[1]), (h * down[0], h * down[1])
        return made.with_corners(
            (
                a,
                (a[0] + right[0], a[1] + right[1]),
                (a[0] + right[0] + low[0], a[1] + right[1] + low[1]),
                (a[0] + low[0], a[1] + low[1]),
            )
        )

    @property
    def brought_by(self) -> Mapping[str, float]:
        # Letters are meant to stand out.
        return {}

    def to_json(self) -> dict[str, Any]:
        return super().to_json() | {"sort": self.sort, "letters": to_values(self.says)}

    @classmethod
    def _more_of(cls, d: dict[str, Any]) -> dict[str, Any]:
        what = worded("A lettering")
        return {"says": from_values(Letters, taken_table(d.get("letters", {}), what), what)}
