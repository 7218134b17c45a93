"""Writes the drawings of the world's grounds into a pack: what fills a picture behind its things, each alone, in several forms.

`python -m training.grounds [--out DIR] [--config FILE]`
"""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PIL import Image
from scipy import ndimage

from waldrand.core.packs import ABOVE, BELOW, STANDS
from waldrand.core.passes.lights import LARGEST
from waldrand.packs.ground_sheet import read_grounds

from .config import Config
from .figures import GREYS
from .manifest import renew
from .world.canvas import Canvas, Said
from .world.finish import lines as drawn_lines
from .world.indoor import paint_room, paint_still_life
from .world.outdoor import Painting, paint_outdoors
from .world.pen import Pen
from .world.sky import STARS
from .world.words import GROUNDS

#: Cells of a canvas, wider than any usual sheet; pixels of a unit; pieces of a cell, and how many pixels of a drawing are kept as one.
WIDE, UNIT, FINE, SHRUNK = (48, 24), 512, 4, 2
PICTURE, LIST, SHAPES = "grounds.png", "grounds.json", "ground-shapes.png"
#: Where the upper edge of the main grounds lies, in shares of the height, as the world draws them.
BETWEEN = {**dict.fromkeys(GROUNDS, (0.22, 0.68)), "floor": (0.6, 0.78), "tabletop": (0.5, 0.7)}
#: What some words of the whole mean, and which grounds are drawn only beside another.
MEANS = {"room": ("floor", "wall"), "still life": ("tabletop",)}
NEEDS = {"starry night": GROUNDS, "wall": ("floor",), "river bank": ("lake",)}
WAYS = {**dict.fromkeys((*BETWEEN, "path", "river bank"), BELOW), "wall": ABOVE, "starry night": ABOVE}
#: The air that grounds are seen against, and the most scenes that they are looked for in.
AIR, SCENES = 0xFFDCE6EC, 2000
#: Skies that something is drawn in.
SKIES = frozenset({"starry night"})
#: The colour of what shines in them.
LIGHTS = {"starry night": STARS}
#: On which nothing casts a shadow: it is mirrored.
WET = frozenset({"lake"})
#: What hides other main grounds that are named with it; a wall behind a table is all but bare.
OVER = frozenset({"floor", "tabletop"})
BARE = {"wall": ("tabletop",)}
#: All grounds, far to near, and what paints them.
ORDER = ("starry night", "wall", "mountains", "hills", "town", "forest", *BETWEEN, "path", "river bank")
PAINTINGS = (paint_outdoors, paint_outdoors, paint_room, paint_still_life)
#: Over how many pixels it is counted how much is drawn, and from which share on lines are paler, to which they are left out.
CROWDED = 6.0, 0.32, 0.45
#: Rows of a mask above what it shows.
RIM = 2
#: What lies in so much of a drawing's height above its lower edge, and is longer than so much of its width, lies along it.
ALONG = 0.15, 0.15
#: A strip lower than this, in units, is no drawing.
LEAST = 0.04
#: What fills all above the horizon is kept where that is so high: drawn out, it would be out of shape.
HIGH = 0.44
Draw = Callable[[Pen], None]


class _Recorded(Canvas):
    """Remembers how each ground of a scene is drawn, and draws nothing else."""

    def __init__(self) -> None:
        super().__init__(WIDE, FINE * 32, FINE)
        self.kept: list[tuple[str, Draw, np.ndarray]] = []
        self.sky: list[Draw] = []

    def layer(self, draw: Draw, kind: str, before: tuple[Said, ...] = (), after: tuple[Said, ...] = (), big: bool = False) -> None:
        if big:
            super().layer(draw, kind)
            self.kept.append((kind, draw, self.parts[-1].mask))

    def loose(self, draw: Draw) -> None:
        """What comes before all grounds is the sky; light, shadow and weather are none."""
        if not self.kept:
            self.sky.append(draw)


@dataclass(frozen=True, eq=False)
class Drawn:
    """A ground as a pack lists it. mask: (h, w) bool; lines: (2 h, 2 w) uint8; at: of what stands, how far its foot lies below the
    horizon, in units; of what lies below, how far down from the horizon it begins, in shares of what is left; needs: the labels of which
    one has to be named as well."""

    label: str
    mask: np.ndarray
    lines: np.ndarray
    at: float
    needs: tuple[str, ...]


def _kept(rng: np.random.Generator, paint: Painting) -> tuple[list[tuple[str, Draw, np.ndarray]], float]:
    """How each ground of one scene is drawn and where it lies, and where the horizon is, in units."""
    seen = _Recorded()
    words = paint(rng, seen)
    tops = [_top(mask) for kind, _, mask in seen.kept if kind in BETWEEN]
    if not tops:
        return [], 0.0
    above = np.zeros_like(seen.parts[0].mask)
    above[: round(tops[0] * FINE * 32)] = 1

    def sky(p: Pen) -> None:
        for draw in seen.sky:
            draw(p)

    skies: list[tuple[str, Draw, np.ndarray]] = [(name, sky, above) for name in words if name in SKIES]
    return [*skies, *seen.kept], tops[0]


def _top(mask: np.ndarray) -> float:
    """How far down a ground begins, in units: the middle over all columns."""
    return float(np.median((mask > 0.5).argmax(0))) / (FINE * 32)


def _alone(kind: str, draw: Draw, mask: np.ndarray, horizon: float) -> Drawn | None:
    """One ground's strip; None where it is hardly there, or nothing in it is drawn, though something should be."""
    solid = mask > 0.5
    rows = np.flatnonzero(solid.any(1))
    per_unit, height = FINE * 32, mask.shape[0]
    if not len(rows) or len(rows) / per_unit < (HIGH if WAYS.get(kind) == ABOVE else LEAST):
        return None
    canvas = Canvas(WIDE, UNIT, FINE)
    canvas.loose(lambda p: p.canvas.clear(AIR))
    canvas.layer(draw, kind)
    k = UNIT // per_unit
    # A line lies half beyond what it goes round.
    top, end = max(0, int(rows[0]) - RIM), int(rows[-1]) + 1
    there = _uncrowded(drawn_lines(canvas.pixels(), UNIT))[top * k : end * k]
    needs = tuple(NEEDS.get(kind, ()))
    if there.max() < 0.5:
        if kind not in BARE:
            return None
        there, needs = np.zeros_like(there), BARE[kind]
    way = WAYS.get(kind, STANDS)
    if way == BELOW:
        there = _open_below(there)
    if kind in LIGHTS:
        there = _only_small(there)
    lines = np.asarray(Image.fromarray(np.round(255 * there).astype(np.uint8)).reduce(SHRUNK))
    left = height / per_unit - horizon
    at = {STANDS: end / per_unit - horizon, BELOW: (top / per_unit - horizon) / left, ABOVE: 0.0}[way]
    return Drawn(kind, solid[top:end], lines, at, needs)


def _uncrowded(lines: np.ndarray) -> np.ndarray:
    """A drawing without what lies so close together that nothing could be told by it."""
    crowd = ndimage.gaussian_filter(lines, CROWDED[0])
    return np.asarray(lines * np.clip((CROWDED[2] - crowd) / (CROWDED[2] - CROWDED[1]), 0, 1), np.float32)


def _open_below(lines: np.ndarray) -> np.ndarray:
    """A drawing without long lines that lie along its lower edge: they would be taken for a bank."""
    h, w = lines.shape
    banks = _in_pieces(lines, lambda down, across: down.start > (1 - ALONG[0]) * h and across.stop - across.start > ALONG[1] * w)
    return np.where(banks, np.float32(0), lines)


def _only_small(lines: np.ndarray) -> np.ndarray:
    """A drawing of what shines, without torn clouds: they are painted black at night."""
    most = (LARGEST - 1) * SHRUNK
    small = _in_pieces(lines, lambda down, across: max(down.stop - down.start, across.stop - across.start) <= most)
    return np.where(small, lines, np.float32(0))


def _in_pieces(lines: np.ndarray, such: Callable[[slice, slice], bool]) -> np.ndarray:
    """Where those pieces of a drawing lie that are such by their rows and columns, (h, w) bool."""
    pieces, _ = ndimage.label(lines > 0.05, np.ones((3, 3)))
    return np.isin(pieces, [n for n, at in enumerate(ndimage.find_objects(pieces), 1) if such(*at)])


def draw_all(forms: int) -> list[Drawn]:
    """So many forms of every ground, those of what stands behind far to near."""
    out, had = [], Counter[tuple[str, bool]]()
    for n in range(SCENES):
        kept, horizon = _kept(np.random.Generator(np.random.Philox(key=[n, 0x67726F75])), PAINTINGS[n % len(PAINTINGS)])
        for kind, draw, mask in kept:
            wanted = kind in ORDER and (had[kind, True] < forms or (kind in BARE and not had[kind, False]))
            one = _alone(kind, draw, mask, horizon) if wanted else None
            drawn = one is not None and bool(one.lines.any())
            if one is not None and had[kind, drawn] < (forms if drawn else 1):
                had[kind, drawn] += 1
                out.append(one)
        if all(had[kind, True] == forms for kind in ORDER) and all(had[kind, False] for kind in BARE):
            break
    return sorted(out, key=lambda one: ORDER.index(one.label))


def write_grounds(config: Config, folder: Path) -> dict[str, str]:
    """Writes them into a folder; what a pack's manifest says of them."""
    drawn = draw_all(config["grounds"]["forms"])
    # Sixteen greys are enough for lines, and take half the room.
    Image.fromarray(np.concatenate([one.lines for one in drawn]) // GREYS * GREYS).save(folder / PICTURE, optimize=True)
    Image.fromarray(np.concatenate([one.mask for one in drawn])).save(folder / SHAPES, optimize=True)
    listed = [
        {
            "label": one.label,
            "way": WAYS.get(one.label, STANDS),
            "height": one.mask.shape[0],
            "at": round(one.at, 4),
            "between": BETWEEN.get(one.label),
            "needs": one.needs,
            "told": one.label not in SKIES,
            "wet": one.label in WET,
            "over": one.label in OVER,
            "light": LIGHTS.get(one.label),
        }
        for one in drawn
    ]
    lines = ",\n".join(json.dumps(one) for one in listed)
    unit = drawn[0].lines.shape[1] // WIDE[0] * 32
    (folder / LIST).write_text(f'{{"unit": {unit}, "means": {json.dumps(MEANS)}, "grounds": [\n{lines}\n]}}\n')
    return {"picture": PICTURE, "list": LIST, "shapes": SHAPES}


def main() -> None:
    out = renew(__doc__, "grounds", write_grounds)
    grounds, _ = read_grounds(out / PICTURE, out / SHAPES, out / LIST)
    print(f"{len(grounds)} drawings of {len({g.label for g in grounds})} grounds in {out}")


if __name__ == "__main__":
    main()
