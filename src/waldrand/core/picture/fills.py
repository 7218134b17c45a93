"""What a hole in a picture is filled with before a pass paints it, or instead of one."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

import numpy as np
from scipy import ndimage

from ..refused import Refused
from ..worded import worded
from .copied import copied_patches
from .membrane import stretched
from .resample import resize_mask, resize_picture

Fill = Literal["smooth", "mirror", "noise", "patches"]
FILLS: tuple[tuple[str, str], ...] = (
    ("smooth", "edge colours"),
    ("mirror", "mirrored"),
    ("noise", "coloured noise"),
    ("patches", "copied patches"),
)
#: The longest side that patches are looked for at; larger pictures are filled at that size, which is drawn out in the hole.
LARGEST = 768
#: How far coloured noise leaves the colours it lies over, and how coarse it is, in pixels of a picture of 512 a side.
AMOUNT, GRAIN = 0.25, 6.0

#: How far noise of amount 1 leaves its tint.
NOISE_WIDTH = 0.35


def filled(picture: np.ndarray, known: np.ndarray, how: str, seed: int = 0) -> np.ndarray:
    """(H, W, 3) float32 0..1 with what is not known (H, W, 0..1) filled; what is wholly known stays as it is. The same seed fills alike.

    Raises:
        Refused: there is no such way.
    """
    ways: dict[str, Callable[[np.ndarray, np.ndarray, int], np.ndarray]] = {
        "smooth": _smooth,
        "mirror": _mirrored,
        "noise": _noised,
        "patches": _copied,
    }
    if how not in ways:
        raise Refused(worded("There is no fill called “{0}”; choose one of {1}.", how, ", ".join(ways)))
    hole = known < 1
    if not hole.any():
        return np.asarray(picture, np.float32)
    if hole.all():
        return np.full((*hole.shape, 3), 0.5, np.float32)
    made = ways[how](np.asarray(picture, np.float32), hole, seed)
    # Half known pixels are mixed as they are.
    share = np.where(hole, known, 1)[..., None].astype(np.float32)
    return np.asarray(share * picture + (1 - share) * made, np.float32)


def _smooth(picture: np.ndarray, hole: np.ndarray, seed: int) -> np.ndarray:
    return stretched(picture, hole)


def _mirrored(picture: np.ndarray, hole: np.ndarray, seed: int) -> np.ndarray:
    """Each pixel of the hole is the one as far on the other side of the nearest known one; what lies in the hole there too goes on from
    that one in turn, and what never comes out of it has the nearest colour."""
    h, w = hole.shape
    nearest = ndimage.distance_transform_edt(hole, return_distances=False, return_indices=True)
    y, x = np.mgrid[:h, :w]
    for _ in range(6):
        ny, nx = nearest[0][y, x], nearest[1][y, x]
        lost = hole[y, x]
        y = np.where(lost, np.clip(2 * ny - y, 0, h - 1), y)
        x = np.where(lost, np.clip(2 * nx - x, 0, w - 1), x)
    still = hole[y, x]
    y, x = np.where(still, nearest[0][y, x], y), np.where(still, nearest[1][y, x], x)
    return np.asarray(picture[y, x], np.float32)


def _noised(picture: np.ndarray, hole: np.ndarray, seed: int) -> np.ndarray:
    grain = GRAIN * max(hole.shape) / 512
    return np.clip(stretched(picture, hole) + AMOUNT * coloured_noise(hole.shape, seed, grain), 0, 1).astype(np.float32)


def coloured_noise(shape: tuple[int, int], seed: int, grain: float = GRAIN) -> np.ndarray:
    """(H, W, 3) float32 of mean 0 and deviation 1, as coarse as `grain` pixels; the same seed gives the same."""
    random = np.random.Generator(np.random.Philox(key=[seed, 7]))
    plain = random.standard_normal((*shape, 3), np.float32)
    if grain <= 0.5:
        return plain
    soft = ndimage.gaussian_filter(plain, (grain / 2, grain / 2, 0), mode="wrap")
    return np.asarray(soft / max(float(soft.std()), 1e-6), np.float32)


def tinted_noise(
    shape: tuple[int, int], tint: tuple[int, int, int], lightness: float, amount: float, seed: int, grain: float = GRAIN
) -> np.ndarray:
    """Coloured noise round a tint, (H, W, 3) uint8. lightness: -1..1; amount: 0 (the tint alone)..1."""
    noise = np.array(tint, np.float32) / 255 + 0.5 * lightness + NOISE_WIDTH * amount * coloured_noise(shape, seed, grain)
    return np.asarray(np.round(255 * np.clip(noise, 0, 1)), np.uint8)


def _copied(picture: np.ndarray, hole: np.ndarray, seed: int) -> np.ndarray:
    h, w = hole.shape
    k = LARGEST / max(h, w)
    if k >= 1:
        return copied_patches(picture, (~hole).astype(np.float32), seed)
    small = max(8, round(h * k)), max(8, round(w * k))
    share = resize_mask((~hole).astype(np.float32), *small)
    made = copied_patches(resize_picture(np.where(hole[..., None], stretched(picture, hole), picture), *small), share, seed)
    return resize_picture(made, h, w)
