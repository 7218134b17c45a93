"""Contact sheets: several pictures side by side, labelled."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from ..core.refused import Refused
from ..core.worded import worded

GAP, LABEL = 12, 22
PAPER, INK = (236, 229, 213), (52, 44, 38)


def contact_sheet(pictures: Sequence[tuple[np.ndarray, str]], across: int) -> np.ndarray:
    """(H, W, 3) uint8 pictures of one size with labels, `across` in a row -> (H', W', 3) uint8.

    Raises:
        Refused: no pictures.
    """
    if not pictures:
        raise Refused(worded("A contact sheet needs at least one picture."))
    h, w = pictures[0][0].shape[:2]
    down = -(-len(pictures) // across)
    page = Image.new("RGB", (across * (w + GAP) + GAP, down * (h + LABEL + GAP) + GAP), PAPER)
    draw, font = ImageDraw.Draw(page), ImageFont.load_default(14)
    for i, (pixels, label) in enumerate(pictures):
        x, y = GAP + i % across * (w + GAP), GAP + i // across * (h + LABEL + GAP)
        page.paste(Image.fromarray(np.ascontiguousarray(pixels[..., :3])), (x, y))
        draw.text((x, y + h + 3), label, INK, font)
    return np.asarray(page)
