"""Writes the shapes of the world's things into a pack: each thing drawn alone in several looks, seen from nearby.

`python -m training.figures [--out DIR] [--config FILE]`
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from waldrand.packs.figure_sheet import read_figures

from .config import Config
from .manifest import renew
from .world.canvas import Canvas, Said, Stand, draw_standing
from .world.dress import Dressed, dressed
from .world.finish import lines as drawn_lines
from .world.indoor import paint_window
from .world.pen import Pen
from .world.things import GROUPS, PORTRAIT_TRAITS, THINGS, Light, Thing, Traits
from .world.words import COLOURS, SEASONS

#: Pixels of a figure's longer side; figures side by side; pieces of a cell that it is drawn in first.
SIDE, COLUMNS, FINE = 96, 24, 4
#: Two figures of a kind that share so much of what either covers are one.
ALIKE = 0.95
#: Kinds that several side by side fill a wide place with.
ROWS = frozenset({"flowers", "reeds", "fence", "bush", "mushroom", "sunflower"})
#: What people wear below their heads.
WORN = ("dress", "coat", "shirt", "jacket")
DAY = Light((1.0, 1.0, 1.0), 0.0)
PICTURE, LIST, SKETCHES = "figures.png", "figures.json", "sketches.png"
#: Grey-green, opaque; and steps of grey that sketches are kept in.
GROUND, GREYS = 0xFF9FA8A0, 17


#: For what is left to chance of windows.
WINDOWS = 0x77696E64
Draw = Callable[[Pen], None]


@dataclass(frozen=True, eq=False)
class Drawn:
    """A figure as a pack lists it; mask: (h, w) bool, at most SIDE a side; lines: (2 h, 2 w) uint8, its drawing; below: from
    which share of its height down it wears what it wears, 0: nowhere."""

    label: str
    traits: tuple[str, ...]
    mirrored: tuple[str, ...]
    needs: tuple[str, ...]
    mask: np.ndarray
    lines: np.ndarray
    hangs: bool
    rows: bool
    below: float = 0.0


def _true_of(said: Dressed, season: str) -> tuple[str, ...]:
    """What its shape shows of what is said of a thing, facing aside: neither colours nor hair."""
    shown = [" ".join(w for w in v.split() if w not in COLOURS) for slot, v in said.look.traits.items() if slot != "hair"]
    return tuple(sorted({*filter(None, shown), *([season] if season else [])}))


def _standing(thing: Thing, said: Dressed, portrait: bool) -> Draw:
    """How a thing is drawn by itself, looking right; a portrait ends at the picture's edge."""
    height = min(0.85, 0.9 / (2 * thing.half_width + 0.1))
    return partial(draw_standing, s=Stand(thing, said.look, 0.5, 1.01 if portrait else 0.93, height, flip=False))


def _shape(draw: Draw, name: str) -> tuple[np.ndarray, np.ndarray]:
    """What is drawn alone, (h, w) bool, scaled to SIDE and cut to itself. And its drawing, (2 h, 2 w) uint8."""
    canvas = Canvas((32, 32), 512, FINE)
    # A ground that no thing has the colour of: a drawing is made from what is seen there.
    canvas.loose(lambda p: p.canvas.clear(GROUND))
    canvas.layer(draw, name)
    drawn = canvas.parts[0].mask
    rows, columns = _around(drawn > 0.5)
    cut = np.round(drawn[rows, columns] * 255).astype(np.uint8)
    k = canvas.per_cell // FINE
    there = slice(k * rows.start, k * rows.stop), slice(k * columns.start, k * columns.stop)
    lines = np.round(255 * drawn_lines(canvas.pixels(), canvas.size)[there]).astype(np.uint8)
    scale = SIDE / max(cut.shape)
    h, w = (max(1, round(n * scale)) for n in cut.shape)
    shape = np.asarray(Image.fromarray(cut).resize((w, h), Image.Resampling.BICUBIC)) > 127
    rows, columns = _around(shape)
    lines = np.asarray(Image.fromarray(lines).resize((2 * w, 2 * h), Image.Resampling.BOX))
    return shape[rows, columns], lines[2 * rows.start : 2 * rows.stop, 2 * columns.start : 2 * columns.stop]


def _below_chin(draw: Draw, name: str) -> float:
    """From which share of its height down somebody is clothed: below the face, or seen from behind, below the hair."""
    canvas = Canvas((32, 32), 512, FINE, named=True)
    canvas.layer(draw, name)
    assert canvas.named is not None
    rows, _ = _around(canvas.parts[0].mask > 0.5)
    head, _ = _around(canvas.named.get("face", canvas.named["hair"]) > 0.5)
    return round((head.stop - rows.start) / (rows.stop - rows.start), 3)


def _around(solid: np.ndarray) -> tuple[slice, slice]:
    """The rows and columns that hold all that is solid (h, w)."""
    ys, xs = np.nonzero(solid)
    return slice(int(ys.min()), int(ys.max()) + 1), slice(int(xs.min()), int(xs.max()) + 1)


def _alike(a: np.ndarray, b: np.ndarray) -> bool:
    """Whether two shapes are as good as one, laid foot on foot."""
    h, w = max(a.shape[0], b.shape[0]), max(a.shape[1], b.shape[1])
    pad = [np.pad(m, ((h - m.shape[0], 0), ((w - m.shape[1]) // 2, w - m.shape[1] - (w - m.shape[1]) // 2))) for m in (a, b)]
    return bool((pad[0] & pad[1]).sum() >= ALIKE * (pad[0] | pad[1]).sum())


def draw_kind(thing: Thing, number: int, looks: int, traits: Traits | None = None) -> list[Drawn]:
    """The figures of a kind, all different, of so many looks that are tried. number: its own, for what is left to chance."""
    portrait, seasons = traits is not None, ("", *SEASONS) if thing in GROUPS["plants"] else ("",)
    out: list[Drawn] = []
    for i in range(looks):
        rng = np.random.Generator(np.random.Philox(key=[number, 0x66696775 + i]))
        season = seasons[i % len(seasons)]
        said = dressed(rng, thing, DAY, season, traits=traits)
        draw = _standing(thing, said, portrait)
        (mask, lines), true = _shape(draw, thing.name), _true_of(said, season)
        faces = thing.faces and said.look.traits.get("view", "") not in ("front view", "back view")
        # Who asks for a person wants to see the face.
        needs = tuple(t for t in true if t in (season, "portrait", "back view"))
        right, left = ((*true, f"facing {side}") if faces else true for side in ("right", "left"))
        if not any(d.traits == right and _alike(d.mask, mask) for d in out):
            hangs = "sky" in thing.places or "wall" in thing.places
            below = _below_chin(draw, thing.name) if thing in GROUPS["people"] else 0.0
            out.append(Drawn(thing.name, right, left, needs, mask, lines, hangs, thing.name in ROWS, below))
    return out


class _Kept(Canvas):
    """Remembers how each layer is drawn, and draws nothing."""

    def __init__(self) -> None:
        super().__init__((32, 32), 512)
        self.kept: list[tuple[str, Draw]] = []

    def layer(self, draw: Draw, kind: str, before: tuple[Said, ...] = (), after: tuple[Said, ...] = (), big: bool = False) -> None:
        self.kept.append((kind, draw))


def draw_windows(looks: int) -> list[Drawn]:
    """The figures of windows and curtains, which belong to rooms."""
    out: list[Drawn] = []
    for i in range(looks):
        seen = _Kept()
        paint_window(np.random.Generator(np.random.Philox(key=[WINDOWS, i])), seen, "clear day", DAY, 0.25, 0.5, 0.5)
        for kind, draw in seen.kept:
            mask, lines = _shape(draw, kind)
            if not any(d.label == kind and _alike(d.mask, mask) for d in out):
                out.append(Drawn(kind, (), (), (), mask, lines, hangs=True, rows=False))
    return sorted(out, key=lambda d: d.label, reverse=True)


def draw_all(looks: int) -> list[Drawn]:
    """The figures of every kind."""
    out = [d for n, thing in enumerate(THINGS.values()) for d in draw_kind(thing, n, looks)]
    out += draw_windows(looks)
    return out + [d for n, (name, traits) in enumerate(PORTRAIT_TRAITS.items()) for d in draw_kind(THINGS[name], 1000 + n, looks, traits)]


def write_figures(config: Config, folder: Path) -> dict[str, Any]:
    """Writes them into a folder; what a pack's manifest says of them."""
    drawn = draw_all(config["figures"]["looks"])
    sheet = np.zeros((-(-len(drawn) // COLUMNS) * SIDE, COLUMNS * SIDE), bool)
    sketches = np.zeros((2 * sheet.shape[0], 2 * sheet.shape[1]), np.uint8)
    for i, d in enumerate(drawn):
        y, x = i // COLUMNS * SIDE, i % COLUMNS * SIDE
        sheet[y : y + d.mask.shape[0], x : x + d.mask.shape[1]] = d.mask
        sketches[2 * y : 2 * y + d.lines.shape[0], 2 * x : 2 * x + d.lines.shape[1]] = d.lines
    Image.fromarray(sheet).save(folder / PICTURE, optimize=True)
    # Sixteen greys are enough for lines, and take half the room.
    Image.fromarray(sketches // GREYS * GREYS).save(folder / SKETCHES, optimize=True)
    listed = [
        {
            "label": d.label,
            "traits": d.traits,
            "mirrored": d.mirrored,
            "needs": d.needs,
            "width": d.mask.shape[1],
            "height": d.mask.shape[0],
            "hangs": d.hangs,
            "rows": d.rows,
            **({"below": d.below} if d.below else {}),
        }
        for d in drawn
    ]
    lines = ",\n".join(json.dumps(one) for one in listed)
    (folder / LIST).write_text(f'{{"side": {SIDE}, "figures": [\n{lines}\n]}}\n')
    return {"picture": PICTURE, "list": LIST, "sketches": SKETCHES, "worn": list(WORN)}


def main() -> None:
    out = renew(__doc__, "figures", write_figures)
    figures = read_figures(out / PICTURE, out / LIST)
    print(f"{len(figures)} figures of {len({f.label for f in figures})} kinds in {out}")


if __name__ == "__main__":
    main()
