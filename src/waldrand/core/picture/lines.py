"""The outline drawing of any picture: edges of colour, measured against what lies round them, short pieces left out."""

from __future__ import annotations

import numpy as np
from scipy import ndimage

#: The drawing's own size: pixels are counted as if the picture's shorter side had so many.
SHORTER = 512
#: Slopes of colour, in values of 0..255 over SHORTER pixels, below which nothing is drawn and above which all is.
FAINT, FULL = 260.0, 680.0
#: How much stronger than what lies round it an edge has to be, round it meaning so many pixels.
AGAINST, ROUND = 1.1, 20.0
#: By how much a faint picture is strengthened at the most.
STRENGTHENED = 2.5
#: Pieces shorter than this, in pixels, are left out; with only strong lines, and how strong they have to be somewhere.
SHORT, SHORT_OF_STRONG, STRONG = 11.0, 44.0, 0.95


def lines_of(pixels: np.ndarray, only_strong: bool = False, thin: bool = False) -> np.ndarray:
    """What a pencil would draw of a picture (H, W, 3 or 4) uint8: (H, W) float32 0..1, 1 where a line is.

    A drawn world's flat shapes are drawn along all their edges. Where a photograph is rough, edges are measured against the mean slope
    round them, so that grass stays paper while the roof behind it is drawn. only_strong: long and strong lines alone; thin: one pixel
    wide, by leaving out what is not the greatest across its own slope (Canny, 1986).
    """
    rgb = pixels[..., :3].astype(np.float32)
    if pixels.shape[-1] == 4:
        # What is clear is paper.
        alpha = pixels[..., 3:].astype(np.float32) / 255
        rgb = np.asarray(rgb * alpha + 255 * (1 - alpha), np.float32)
    h, w = rgb.shape[:2]
    k = min(h, w) / SHORTER
    soft = ndimage.gaussian_filter(rgb, (max(0.5, 0.8 * k), max(0.5, 0.8 * k), 0))
    dy, dx = ndimage.sobel(soft, 0), ndimage.sobel(soft, 1)
    slope = np.sqrt((dx * dx + dy * dy).sum(-1)) * 2 * k
    sharpest = float(np.percentile(slope, 98.5))
    if 0 < sharpest < FULL:
        slope = slope * min(STRENGTHENED, FULL / sharpest) if sharpest > FAINT / STRENGTHENED else slope
    rough = ndimage.gaussian_filter(slope, ROUND * k)
    from_ = np.maximum(FAINT, AGAINST * rough)
    drawn = np.clip((slope - from_) / (FULL - FAINT), 0, 1)
    if thin:
        drawn = drawn * _crests(slope, dy, dx)
    return _without_short(drawn, k, only_strong)


def _crests(slope: np.ndarray, dy: np.ndarray, dx: np.ndarray) -> np.ndarray:
    """Where a slope (h, w) is the greatest across its own direction, (h, w) bool. dy, dx: (h, w, 3)."""
    h, w = slope.shape
    strongest = np.abs(dy) + np.abs(dx)
    c = strongest.argmax(-1)[..., None]
    y, x = (np.take_along_axis(d, c, -1)[..., 0] for d in (dy, dx))
    length = np.maximum(np.hypot(y, x), 1e-6)
    yy, xx = np.mgrid[:h, :w]
    ahead, behind = (
        ndimage.map_coordinates(slope, [yy + s * y / length, xx + s * x / length], order=1, mode="nearest") for s in (1.0, -1.0)
    )
    return np.asarray((slope >= ahead) & (slope > behind))


def _without_short(drawn: np.ndarray, k: float, only_strong: bool) -> np.ndarray:
    """A drawing without its short pieces; with only strong ones, without weak ones too."""
    pieces, n = ndimage.label(drawn > 0.2, np.ones((3, 3)))
    if not n:
        return np.zeros(drawn.shape, np.float32)
    boxes = ndimage.find_objects(pieces)
    long = np.array([np.hypot(b[0].stop - b[0].start, b[1].stop - b[1].start) for b in boxes])
    keep = long >= (SHORT_OF_STRONG if only_strong else SHORT) * k
    if only_strong:
        keep &= np.asarray(ndimage.maximum(drawn, pieces, np.arange(1, n + 1))) >= STRONG
    kept = np.concatenate([[False], keep])[pieces]
    # A piece's own soft rim belongs to it.
    near = ndimage.binary_dilation(kept, np.ones((3, 3), bool), iterations=1)
    return np.asarray(np.where(kept | (near & (pieces == 0)), drawn, 0), np.float32)
