"""Paints one scene and keeps the true mask of each part."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .canvas import SHAPES, UNIT, Canvas, Part
from .finish import FINISH
from .finish import lines as drawn_lines
from .indoor import paint_portrait, paint_room, paint_still_life
from .outdoor import Painting, paint_outdoors
from .things import THINGS
from .words import FAR, FINISHES, GROUNDS, INDOORS

SETTINGS: tuple[tuple[Painting, float], ...] = (
    (paint_outdoors, 0.66),
    (paint_room, 0.16),
    (paint_still_life, 0.09),
    (paint_portrait, 0.09),
)
CELLS = UNIT
FINISH_CHANCE = (0.62, 0.19, 0.19)


@dataclass(frozen=True)
class Scene:
    """pixels: (H, W, 3) uint8 sRGB; plain: the same before its look was laid over; words: of the whole; parts: far to near."""

    pixels: np.ndarray
    plain: np.ndarray
    words: tuple[str, ...]
    parts: tuple[Part, ...]
    per_unit: int

    def depth(self) -> np.ndarray:
        """(h, w) float32 of cells: 0 the sky, rising to 1 for the nearest part."""
        n = max(1, len(self.parts))
        return np.asarray(sum((p.mask * (i + 1) / n for i, p in enumerate(self.parts)), np.zeros_like(self.parts[0].mask)), np.float32)

    def lines(self) -> np.ndarray:
        """The outline drawing, (H, W) float32 0..1."""
        return drawn_lines(self.plain, self.per_unit)


def paint_scene(rng: np.random.Generator, size: int = 512, shape: tuple[int, int] = SHAPES[0], fine: int = 1) -> Scene:
    """One scene from the generator's numbers; size: pixels of CELLS cells; shape: (width, height) in cells; fine: pieces of a
    cell's side that masks have.

    All coordinates are in units of CELLS cells, so that another size gives the same scene.
    """
    canvas = Canvas(shape, size, fine)
    painting = SETTINGS[int(rng.choice(len(SETTINGS), p=[p for _, p in SETTINGS]))][0]
    words = painting(rng, canvas)
    finish = str(rng.choice(FINISHES, p=FINISH_CHANCE))
    plain = canvas.pixels()
    pixels = FINISH[finish](rng, plain, size) if finish in FINISH else plain
    parts = tuple(p for p in canvas.parts if float(p.mask.sum()) > 1.2 * fine**2)
    return Scene(pixels, plain, (*words, finish), parts, size)


def kinds() -> tuple[str, ...]:
    """Every word a part's kind can have."""
    return (*GROUNDS, *FAR, *INDOORS, *THINGS)
