"""A pack's figures: black and white shapes side by side in one picture, and a list of what each of them is."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
from PIL import Image, UnidentifiedImageError

from ..core.packs import Figure
from ..core.refused import Refused

MOST_FIGURES, LARGEST_SIDE, LARGEST_AREA = 20_000, 512, 64_000_000


def read_figures(picture: Path, listed: Path, drawings: Path | None = None) -> tuple[Figure, ...]:
    """The figures of a pack, in the order of their list (docs/pack-format.md). drawings: the picture of their drawings, twice as large.

    Raises:
        Refused: the picture or the list cannot be read, or they do not fit each other.
    """
    try:
        d = json.loads(listed.read_text("utf-8"))
        side, entries = int(d["side"]), list(d["figures"])
        with Image.open(picture) as opened:
            if not 1 <= side <= LARGEST_SIDE or len(entries) > MOST_FIGURES or opened.width * opened.height > LARGEST_AREA:
                raise Refused(f"The pack's figures in {picture} are far too many or too large.")
            sheet = np.where(np.asarray(opened.convert("L")) > 127, 255, 0).astype(np.uint8)
        drawn = None if drawings is None else _drawings(drawings, sheet)
        columns, rows = sheet.shape[1] // side, sheet.shape[0] // side
        if len(entries) > columns * rows:
            raise Refused(f"The pack's figures in {picture} are fewer than {listed.name} lists.")
        out = []
        for i, e in enumerate(entries):
            y, x, w, h = i // columns * side, i % columns * side, int(e["width"]), int(e["height"])
            mask = sheet[y : y + h, x : x + w]
            if not (1 <= w <= side and 1 <= h <= side and mask.any()):
                raise Refused(f"The pack's figure {i + 1} in {listed} cannot be: it is empty, or does not fit its place.")
            traits, mirrored, needs = (frozenset(map(str, e[k])) for k in ("traits", "mirrored", "needs"))
            lines = None if drawn is None else drawn[2 * y : 2 * (y + h), 2 * x : 2 * (x + w)]
            below = e.get("below", 0.0)
            if not isinstance(below, int | float) or not 0 <= below < 1:
                raise Refused(f"The pack's figure {i + 1} in {listed} wears what it wears from {below} of its height on; 0 to 1 can be.")
            out.append(Figure(str(e["label"]), traits, mirrored, needs, mask, bool(e["hangs"]), bool(e["rows"]), lines, below))
    except (KeyError, TypeError, json.JSONDecodeError, UnicodeDecodeError, UnidentifiedImageError, OSError) as error:
        raise Refused(f"The pack's figures in {picture} and {listed.name} cannot be read: {error}") from error
    return tuple(out)


def _drawings(path: Path, sheet: np.ndarray) -> np.ndarray:
    """The picture of all drawings, of twice the sides of that of the shapes.

    Raises:
        Refused: it is of another size.
    """
    with Image.open(path) as opened:
        if opened.size != (2 * sheet.shape[1], 2 * sheet.shape[0]):
            raise Refused(f"The pack's sketches in {path} are not twice as large as its figures.")
        return np.asarray(opened.convert("L"))
