"""Sketches on paper: what is drawn, without the paper."""

from __future__ import annotations

import numpy as np
from scipy import ndimage

from ..refused import Refused
from ..worded import worded
from .resample import to_linear, to_srgb

#: The paper is the brightest of what lies round each place, over this share of the picture's longer side.
AROUND = 0.06
#: Shares of the paper's light: darker than the first is drawn in full, lighter than the second is paper.
DRAWN, PAPER = 0.55, 0.86
#: The least share of a picture that has to be drawn on, and the most.
LEAST, MOST = 0.0005, 0.6


def without_paper(pixels: np.ndarray) -> np.ndarray:
    """A photographed or scanned sketch (H, W, 3 or 4) uint8 without its paper, (H, W, 4): the paper's colour and the light that falls
    on it are taken out, and what is as bright as the paper becomes clear.

    Raises:
        Refused: it is no sketch on paper: nearly nothing, or nearly all, is drawn on.
    """
    light = to_linear(pixels[..., :3].astype(np.float32) / 255)
    reach = max(3, round(AROUND * max(light.shape[:2])))
    paper = np.stack([ndimage.maximum_filter(ndimage.uniform_filter(light[..., c], 3), reach) for c in range(3)], -1)
    paper = ndimage.gaussian_filter(paper, (reach, reach, 0))
    own = np.clip(light / np.maximum(paper, 1e-3), 0, 1)
    # As light as the least of its colours: a coloured pencil is drawn as well.
    share = to_srgb(own.min(-1))
    alpha = np.clip((PAPER - share) / (PAPER - DRAWN), 0, 1)
    drawn = float((alpha > 0.5).mean())
    if not LEAST <= drawn <= MOST:
        raise Refused(worded("This does not look like a sketch on paper: {0:.0%} of it would count as drawn.", drawn))
    # Colours as they would be without the paper showing through.
    through = np.maximum(alpha, 0.05)[..., None]
    colours = np.clip((to_srgb(own) - (1 - through)) / through, 0, 1)
    return np.asarray(np.round(255 * np.dstack([colours, alpha])), np.uint8)
