"""How many things land where they were put: steered against blended against text only, judged by colour.

12 layouts x 4 seeds. A thing has landed when, of all pixels of its colour in the take, at least 70 % lie inside its
outline, and they fill at least 8 % of it. A thing of the same colour elsewhere therefore counts against it.
`python benchmarks/placement_by_colour.py [--seeds N] [--steps N] [--save DIR]`
"""

from __future__ import annotations

import argparse
import sys
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from PIL import Image

sys.path.insert(0, str(Path(__file__).parent))
from machine import describe

from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run
from waldrand.core.passes.settings import METHODS, PassSettings
from waldrand.core.picture.resample import to_linear
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.outline import Outline, rasterise
from waldrand.core.values.sheet import Sheet
from waldrand.packs.onnx_pack import OnnxPack

Box = tuple[float, float, float, float]
#: The colours as the world paints them in daylight, and those that everything else has.
COLOURS = {"red": (198, 52, 48), "yellow": (240, 202, 76), "purple": (136, 84, 168), "orange": (232, 136, 48), "blue": (62, 108, 196)}
OTHERS = (
    (104, 154, 72),
    (76, 128, 58),
    (74, 138, 222),
    (130, 184, 238),
    (206, 230, 246),
    (238, 243, 250),
    (92, 150, 184),
    (48, 98, 140),
    (236, 214, 164),
    (214, 186, 132),
    (232, 218, 196),
    (126, 66, 50),
    (60, 50, 50),
    (142, 94, 58),
    (240, 238, 230),
    (45, 90, 66),
)


@dataclass(frozen=True)
class Layout:
    """scene words; things as (colour, kind, box in shares)."""

    scene: str
    things: tuple[tuple[str, str, Box], ...]


LEFT, RIGHT, MIDDLE = (0.04, 0.45, 0.46, 0.9), (0.54, 0.45, 0.96, 0.9), (0.3, 0.45, 0.72, 0.9)
LAYOUTS = (
    Layout("clear day, meadow", (("red", "tent", LEFT), ("yellow", "cottage", RIGHT))),
    Layout("clear day, meadow", (("purple", "tent", RIGHT), ("red", "cottage", LEFT))),
    Layout("clear day, snow field", (("red", "lighthouse", (0.08, 0.1, 0.34, 0.85)), ("yellow", "tent", RIGHT))),
    Layout("clear day, snow field", (("purple", "cottage", MIDDLE), ("red", "balloon", (0.08, 0.04, 0.36, 0.42)))),
    Layout("clear day, lake", (("red", "sailing boat", (0.06, 0.2, 0.44, 0.75)), ("yellow", "sailing boat", (0.56, 0.3, 0.94, 0.9)))),
    Layout("clear day, lake", (("purple", "rowing boat", (0.08, 0.62, 0.6, 0.88)), ("red", "balloon", (0.6, 0.05, 0.9, 0.45)))),
    Layout(
        "clear day, meadow",
        (("red", "flowers", (0.04, 0.66, 0.4, 0.95)), ("purple", "balloon", (0.1, 0.04, 0.4, 0.44)), ("yellow", "tent", RIGHT)),
    ),
    Layout(
        "clear day, snow field",
        (("red", "cottage", RIGHT), ("purple", "tent", LEFT), ("yellow", "balloon", (0.35, 0.03, 0.65, 0.42))),
    ),
    Layout("clear day, meadow", (("red", "fox", (0.08, 0.6, 0.6, 0.92)), ("purple", "balloon", (0.58, 0.05, 0.88, 0.48)))),
    Layout("clear day, beach", (("red", "rowing boat", (0.05, 0.65, 0.55, 0.88)), ("purple", "lighthouse", (0.64, 0.08, 0.9, 0.8)))),
    Layout(
        "clear day, snow field",
        (
            ("yellow", "cottage", (0.04, 0.42, 0.44, 0.75)),
            ("red", "tent", (0.5, 0.55, 0.96, 0.95)),
            ("purple", "balloon", (0.6, 0.03, 0.86, 0.4)),
        ),
    ),
    Layout("clear day, snow field", (("purple", "flowers", (0.56, 0.6, 0.94, 0.94)), ("red", "lighthouse", (0.1, 0.12, 0.36, 0.88)))),
)


def chroma(rgb: np.ndarray) -> np.ndarray:
    """(..., 3) uint8 -> opponent colours (red-green, yellow-blue, a little lightness), so that shading matters less."""
    c = np.cbrt(to_linear(np.asarray(rgb, np.float32) / 255) + 1e-4)
    r, g, b = c[..., 0], c[..., 1], c[..., 2]
    return np.stack([r - g, (r + g) / 2 - b, 0.35 * (r + g + b) / 3], -1)


def share_inside(pixels: np.ndarray, colour: str, mask: np.ndarray) -> tuple[float, float]:
    """Of the pixels nearest to the colour: the share inside the mask; and how much of the mask they fill."""
    palette = np.array([*COLOURS.values(), *OTHERS])
    small = pixels[::2, ::2]
    near = np.linalg.norm(chroma(small)[..., None, :] - chroma(palette), axis=-1).argmin(-1) == list(COLOURS).index(colour)
    inside = mask[::2, ::2] > 0.5
    return float((near & inside).sum() / max(1, near.sum())), float((near & inside).sum() / inside.sum())


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seeds", type=int, default=4)
    parser.add_argument("--steps", type=int, default=20)
    parser.add_argument("--save", type=Path)
    options = parser.parse_args()
    pack = OnnxPack()
    print(f"{describe()}; pack {pack.info.name} {pack.info.version}; {options.seeds} seeds, {options.steps} steps")
    totals = {m: [0, 0] for m in METHODS}
    for n, layout in enumerate(LAYOUTS):
        elements = tuple(
            Element(i + 1, kind, Outline("box", tuple(512 * v for v in box)), f"{colour} {kind}")  # type: ignore[arg-type]
            for i, (colour, kind, box) in enumerate(layout.things)
        )
        sheet = Sheet(512, 512, elements=elements, scene=SceneWords(layout.scene))
        landed = {m: [0] * len(elements) for m in METHODS}
        for method in METHODS:
            request = Request("compose", PassSettings(steps=options.steps, method=method))
            strip = []
            for take in run(plan(sheet, replace(request), pack), pack, options.seeds):
                strip.append(take.pixels)
                for i, (colour, _, _) in enumerate(layout.things):
                    inside, filled = share_inside(take.pixels, colour, rasterise(elements[i].outline, sheet.rect, 512, 512))
                    landed[method][i] += inside >= 0.7 and filled >= 0.08
            totals[method][0] += sum(landed[method])
            totals[method][1] += len(elements) * options.seeds
            if options.save:
                options.save.mkdir(parents=True, exist_ok=True)
                Image.fromarray(np.hstack(strip)[::2, ::2]).save(options.save / f"{n + 1:02d}-{method}.png")
        for i, (colour, kind, _) in enumerate(layout.things):
            print(
                f"{n + 1:2d} {layout.scene:24s} {colour + ' ' + kind:20s} "
                + "  ".join(f"{m} {landed[m][i]} of {options.seeds}" for m in METHODS)
            )
    print("   all: " + ", ".join(f"{m} {a} of {b} ({100 * a / b:.0f} %)" for m, (a, b) in totals.items()))


if __name__ == "__main__":
    main()
