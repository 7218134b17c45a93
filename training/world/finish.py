"""Looks laid over a whole scene: flat shapes, ink and wash, gouache grain. The same at every size."""

from __future__ import annotations

import numpy as np
from scipy import ndimage

PAPER = np.array([247, 241, 228], np.float32)
#: Of ink, its colour, and how much a line covers.
INKED, LINES_COVER = np.array([44, 38, 48], np.float32), 0.75
#: Grains of paper across what 512 pixels show, and how much a grain lightens and darkens, and a streak of the brush eight grains long.
GRAINS, GRAIN_LIGHT, STREAK_LIGHT = 96, 0.03, 0.035
#: What a pack says of inks: of the look that has one, how much a line covers, and its colour.
INKS = {"ink wash": {"amount": LINES_COVER, "colour": INKED.tolist()}}
#: And of looks that are even: of what deviates so little from what lies so near, in pixels, half is evened out. The world's flat shapes are
#: wholly even; what a denoiser leaves in them is not.
EVEN = {"flat shapes": {"reach": 3.0, "faint": 0.01}}
#: And of papers: how much streaks and grain do, and a grain's side in pixels.
PAPERS = {"gouache grain": {"streaks": STREAK_LIGHT, "grain": GRAIN_LIGHT, "side": 512 / GRAINS}}


def _noise(rng: np.random.Generator, shape: tuple[int, int], cells: tuple[int, int]) -> np.ndarray:
    """Smooth noise about 0, its grain given in cells, so that another size shows the same."""
    small = rng.standard_normal(cells).astype(np.float32)
    return np.asarray(ndimage.zoom(small, (shape[0] / cells[0], shape[1] / cells[1]), order=1, grid_mode=True, mode="nearest"), np.float32)


def lines(pixels: np.ndarray, per_unit: int) -> np.ndarray:
    """The outline drawing of a picture (h, w, 3) uint8: (h, w) float32, 1 where a line is."""
    soft = ndimage.gaussian_filter(pixels.astype(np.float32), (per_unit / 640, per_unit / 640, 0))
    dx, dy = ndimage.sobel(soft, 1), ndimage.sobel(soft, 0)
    strength = np.sqrt((dx * dx + dy * dy).sum(-1)) * per_unit / 256
    return np.asarray(np.clip((strength - 260) / 420, 0, 1), np.float32)


def ink_and_wash(rng: np.random.Generator, pixels: np.ndarray, per_unit: int) -> np.ndarray:
    """Paler colours that pool and run, under dark lines."""
    h, w = pixels.shape[:2]
    cells = (max(2, h * 9 // per_unit), max(2, w * 9 // per_unit))
    pool = 1 + 0.05 * _noise(rng, (h, w), cells) + 0.03 * _noise(rng, (h, w), (cells[0] * 4, cells[1] * 4))
    wash = PAPER + (pixels.astype(np.float32) - PAPER) * 0.72 * pool[..., None]
    drawn = lines(pixels, per_unit)[..., None] * LINES_COVER
    return np.clip(wash * (1 - drawn) + INKED * drawn + 0.5, 0, 255).astype(np.uint8)


def wobbling(rng: np.random.Generator, pixels: np.ndarray, per_unit: int) -> np.ndarray:
    """Edges as a full brush leaves them."""
    (h, w), cells = pixels.shape[:2], _brushed(pixels, per_unit)
    yy, xx = np.mgrid[:h, :w].astype(np.float32)
    reach = per_unit * 0.0035
    at = [yy + reach * _noise(rng, (h, w), cells), xx + reach * _noise(rng, (h, w), cells)]
    return np.stack([ndimage.map_coordinates(pixels[..., c], at, order=1, mode="nearest") for c in range(3)], -1)


def paper_grain(rng: np.random.Generator, pixels: np.ndarray, per_unit: int) -> np.ndarray:
    """Streaks of the brush, grain of the paper."""
    (h, w), cells = pixels.shape[:2], _brushed(pixels, per_unit)
    streaks = _noise(rng, (h, w), (cells[0] * 4, max(2, cells[1] // 2)))
    grain = _noise(rng, (h, w), (cells[0] * 4, cells[1] * 4))
    return np.clip(pixels * (1 + STREAK_LIGHT * streaks + GRAIN_LIGHT * grain)[..., None] + 0.5, 0, 255).astype(np.uint8)


def _brushed(pixels: np.ndarray, per_unit: int) -> tuple[int, int]:
    """In how many cells a brush wobbles, down and across."""
    h, w = pixels.shape[:2]
    return max(2, h * GRAINS // 4 // per_unit), max(2, w * GRAINS // 4 // per_unit)


FINISH = {"ink wash": ink_and_wash, "gouache grain": wobbling}
GRAIN = {"gouache grain": paper_grain}


def finished(rng: np.random.Generator, plain: np.ndarray, look: str, per_unit: int) -> tuple[np.ndarray, np.ndarray]:
    """A picture (h, w, 3) uint8 in a look, and the same before it gets the grain of its paper."""
    bare = FINISH[look](rng, plain, per_unit) if look in FINISH else plain
    return (GRAIN[look](rng, bare, per_unit) if look in GRAIN else bare), bare
