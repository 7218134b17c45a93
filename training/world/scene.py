"""Paints one scene and keeps the true mask of each part."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from .canvas import SHAPES, UNIT, Canvas, Part, View
from .finish import finished
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
#: What lies flat and comes nearer downwards; how near what fills a picture behind it is; and what hangs in the air.
PLANES = frozenset({*GROUNDS, "path", "river bank", "floor", "tabletop"})
BEHIND = {"mountains": 0.06, "hills": 0.1, "town": 0.14, "forest": 0.16, "wall": 0.18}
HANGING = 0.12
FINISH_CHANCE = (0.62, 0.19, 0.19)


@dataclass(frozen=True)
class Scene:
    """pixels: (H, W, 3) uint8 sRGB; bare: the same before it got the grain of its look's paper; plain: before its look was laid over;
    words: of the whole; parts: far to near; named: where named parts of things are seen, as masks are, empty unless they were asked
    for."""

    pixels: np.ndarray
    bare: np.ndarray
    plain: np.ndarray
    words: tuple[str, ...]
    parts: tuple[Part, ...]
    per_unit: int
    named: dict[str, np.ndarray] = field(default_factory=dict)

    def depth(self) -> np.ndarray:
        """How near everything is, as a person would shade it: 0 the sky, 1 the nearest; float32 of the size that masks have.

        The ground comes nearer from its upper edge to the picture's lower one, as the reciprocal of distance does on a plane; things
        are as near as the ground that they stand on.
        """
        h, w = self.parts[0].mask.shape if self.parts else (1, 1)
        out = np.zeros((h, w), np.float32)
        planes = [p.mask for p in self.parts if p.kind in PLANES]
        top = min((int(np.argmax((m > 0.5).any(1))) for m in planes if (m > 0.5).any()), default=h)
        ramp = np.clip(0.2 + 0.8 * (np.arange(h, dtype=np.float32) - top) / max(1, h - top), 0.2, 1)
        for i, part in enumerate(self.parts):
            if part.kind in PLANES:
                near: np.ndarray | np.float32 = ramp[:, None]
            elif part.big:
                near = np.float32(BEHIND.get(part.kind, 0.15))
            elif not planes:
                near = np.float32(0.3 + 0.7 * (i + 1) / len(self.parts))
            else:
                foot = int(np.flatnonzero((part.mask > 0.3).any(1)).max(initial=0))
                near = np.float32(ramp[foot] if foot > top else HANGING)
            out += part.mask * near
        return out.clip(0, 1)

    def lines(self) -> np.ndarray:
        """The outline drawing, (H, W) float32 0..1."""
        return drawn_lines(self.plain, self.per_unit)


def paint_scene(
    rng: np.random.Generator,
    size: int = 512,
    shape: tuple[int, int] = SHAPES[0],
    fine: int = 1,
    named: bool = False,
    view: View = (0.0, 0.0, 1.0),
) -> Scene:
    """One scene from the generator's numbers; size: pixels of CELLS cells; shape: (width, height) in cells; fine: pieces of a
    cell's side that masks have; named: parts of things too; view: what is painted of it, as `Canvas` says.

    All coordinates are in units of CELLS cells, so that another size gives the same scene.
    """
    canvas = Canvas(shape, size, fine, named, view)
    painting = SETTINGS[int(rng.choice(len(SETTINGS), p=[p for _, p in SETTINGS]))][0]
    words = painting(rng, canvas)
    finish = str(rng.choice(FINISHES, p=FINISH_CHANCE))
    plain = canvas.pixels()
    pixels, bare = finished(rng, plain, finish, size)
    parts = tuple(p for p in canvas.parts if float(p.mask.sum()) > 1.2 * fine**2)
    return Scene(pixels, bare, plain, (*words, finish), parts, size, canvas.named or {})


def kinds() -> tuple[str, ...]:
    """Every word a part's kind can have."""
    return (*GROUNDS, *FAR, *INDOORS, *THINGS)
