"""A pack's drawings of grounds: strips of lines one below the other in one picture, their shapes in another, and a list of what each is."""

from __future__ import annotations

import json
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image, UnidentifiedImageError

from ..core.packs import ABOVE, BELOW, STANDS, Ground
from ..core.refused import Refused

MOST_GROUNDS, LARGEST_AREA = 5_000, 64_000_000


def read_grounds(picture: Path, shapes: Path, listed: Path) -> tuple[tuple[Ground, ...], Mapping[str, tuple[str, ...]]]:
    """The grounds of a pack, in the order of their list (docs/pack-format.md), and what words of the whole mean grounds too.

    Raises:
        Refused: a picture or the list cannot be read, or they do not fit each other.
    """
    try:
        d = json.loads(listed.read_text("utf-8"))
        unit, entries = int(d["unit"]), list(d["grounds"])
        means = {str(word): tuple(map(str, labels)) for word, labels in dict(d["means"]).items()}
        lines, masks = _grey(picture), np.where(_grey(shapes) > 127, 255, 0).astype(np.uint8)
        heights = [int(e["height"]) for e in entries]
        whole = sum(heights), lines.shape[1] // 2
        fit = len(entries) <= MOST_GROUNDS and unit > 0 and min(heights, default=0) > 0
        if not fit or masks.shape != whole or lines.shape != (2 * whole[0], 2 * whole[1]):
            raise Refused(f"The pack's grounds in {picture} do not fit what {listed.name} lists.")
        numbers: dict[str, int] = {}
        out, top = [], 0
        for e, height in zip(entries, heights, strict=True):
            label, way, rows = str(e["label"]), str(e["way"]), slice(top, top + height)
            if way not in (STANDS, BELOW, ABOVE):
                raise Refused(f"The pack's ground {label} in {listed} lies in a way that is not known: {way}.")
            between = None if e["between"] is None else (float(e["between"][0]), float(e["between"][1]))
            number = numbers.setdefault(label, len(numbers))
            strip = lines[2 * top : 2 * (top + height)]
            needs, told = tuple(map(str, e["needs"])), bool(e["told"])
            wet, over = (bool(e.get(name, False)) for name in ("wet", "over"))
            light = None if e.get("light") is None else _colour(e["light"])
            out.append(Ground(label, number, way, strip, masks[rows], unit, float(e["at"]), between, needs, told, wet, over, light))
            top += height
    except (KeyError, TypeError, IndexError, ValueError, UnidentifiedImageError, OSError) as error:
        raise Refused(f"The pack's grounds in {picture} and {listed.name} cannot be read: {error}") from error
    return tuple(out), means


def _colour(stated: Any) -> tuple[float, float, float]:
    """Raises ValueError when it is none."""
    red, green, blue = (float(c) for c in stated)
    if not all(0 <= c <= 255 for c in (red, green, blue)):
        raise ValueError(f"{stated} is no colour")
    return red, green, blue


def _grey(path: Path) -> np.ndarray:
    """A picture's greys, (h, w) uint8.

    Raises:
        Refused: it is far too large.
    """
    with Image.open(path) as opened:
        if opened.width * opened.height > LARGEST_AREA:
            raise Refused(f"The pack's picture {path} is far too large.")
        return np.asarray(opened.convert("L"))
