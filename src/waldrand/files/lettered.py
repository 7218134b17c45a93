"""Text drawn as a picture."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from ..core.refused import Refused
from ..core.worded import worded

#: The most pixels that a lettering may have.
MOST_PIXELS = 100_000_000


def lettered(
    words: str,
    typeface: Path,
    size: float,
    colour: tuple[int, int, int],
    spacing: float = 0.0,
    leading: float = 1.2,
    align: str = "left",
    face: int = 0,
) -> np.ndarray:
    """Lines of text as (h, w, 4) uint8. size: of the letters in pixels; spacing, leading: between letters and lines, in shares of it;
    align: left, centre or right; face: which of a file that holds several.

    Raises:
        Refused: there are no words, or they would need too much room.
    """
    if not words.strip():
        raise Refused(worded("A lettering needs words."))
    font = ImageFont.truetype(str(typeface), size, face)
    lines = words.split("\n")
    lengths = [font.getlength(line) + spacing * size * max(0, len(line) - 1) for line in lines]
    # Slanting letters reach beyond what they count for.
    rim = math.ceil(size * 0.2) + 1
    ascent, descent = font.getmetrics()
    width = math.ceil(max(max(lengths), 1)) + 2 * rim
    height = math.ceil(ascent + descent + (len(lines) - 1) * leading * size) + 2
    if width * height > MOST_PIXELS:
        raise Refused(worded("This lettering would be {0} x {1} pixels: too many. Make it smaller.", width, height))
    grey = Image.new("L", (width, height))
    pen = ImageDraw.Draw(grey)
    shares = {"left": 0.0, "centre": 0.5, "right": 1.0}
    for i, (line, length) in enumerate(zip(lines, lengths, strict=True)):
        x, y = rim + shares[align] * (max(lengths) - length), ascent + 1 + i * leading * size
        if spacing == 0:
            pen.text((x, y), line, 255, font, "ls")
            continue
        for n, letter in enumerate(line):
            # Each where it would stand in the line, so that pairs stay kerned.
            before = font.getlength(line[: n + 1]) - font.getlength(letter)
            pen.text((x + before + n * spacing * size, y), letter, 255, font, "ls")
    alpha = np.asarray(grey)
    return np.dstack([np.full((*alpha.shape, 3), colour, np.uint8), alpha])
