"""The benchmarks' fixed layouts and prompts."""

from __future__ import annotations

import tomllib
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TypeVar

import numpy as np

from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet

SIDE = 512
T = TypeVar("T")


@dataclass(frozen=True)
class Layout:
    """scene: words of the whole; things far to near as (words, left, top, right, bottom) in hundredths of the sheet."""

    scene: str
    things: tuple[tuple[str, float, float, float, float], ...] = ()

    def sheet(self) -> Sheet:
        """An empty square sheet with the things as boxes."""
        elements = tuple(
            Element(i + 1, words, Outline("box", tuple(SIDE * v / 100 for v in box)), words)  # type: ignore[arg-type]
            for i, (words, *box) in enumerate(self.things)
        )
        return Sheet(SIDE, SIDE, elements=elements, scene=SceneWords(self.scene))


def load_layouts() -> tuple[list[Layout], list[Layout]]:
    """The 50 layouts of layouts.toml, and its prompts without outlines."""
    d = tomllib.loads((Path(__file__).parent / "layouts.toml").read_text())
    return [Layout(x["scene"], tuple(map(tuple, x["things"]))) for x in d["layout"]], [Layout(scene) for scene in d["prompts"]]


def evenly(items: Sequence[T], count: int) -> list[T]:
    """So many of some items, at most all, evenly chosen: the first and the last among them."""
    return [items[i] for i in np.linspace(0, len(items) - 1, min(count, len(items))).round().astype(int)]
