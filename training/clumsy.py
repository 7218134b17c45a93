"""Drawings and depth as people give them: in part, broken, doubled, wobbling, shifted, thick or thin, soft or hard, or not at all."""

from __future__ import annotations

import numpy as np
from scipy import ndimage

from .networks import ELEMENT, NONE, SCENE

#: How often no drawing is told, and how often only that of things, or of some of them.
NO_LINES, ONLY_THINGS = 0.33, 0.3
#: How often depth is told beside a drawing, and where there is none.
DEPTH_BESIDE, DEPTH_ALONE = 0.15, 0.45
#: Of the looks that are told, how often of one thing alone.
OF_ONE = 0.35


def field(rng: np.random.Generator, h: int, w: int, knots: int) -> np.ndarray:
    """A smooth random field (h, w) of deviation about 1."""
    small = rng.normal(0, 1, (knots, knots))
    return np.asarray(ndimage.zoom(small, (h / knots, w / knots), order=1, grid_mode=True, mode="nearest"))


def wobbled(lines: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """A drawing (h, w) displaced smoothly, and shifted as a whole, by about three of a sheet's pixels at most."""
    h, w = lines.shape
    yy, xx = np.mgrid[:h, :w]
    knots = int(rng.integers(4, 10))
    dy, dx = (field(rng, h, w, knots) * rng.uniform(0.2, 0.9) + rng.uniform(-0.7, 0.7) for _ in range(2))
    return np.asarray(ndimage.map_coordinates(lines, [yy + dy, xx + dx], order=1, mode="nearest"))


def drawn(lines: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """A drawing (h, w) 0..1 as a hand that is not sure might have made it."""
    h, w = lines.shape
    if rng.random() < 0.35:
        for _ in range(int(rng.integers(1, 5))):
            a, b = rng.integers(min(h, w) // 8, min(h, w) // 2 + 1, 2)
            y, x = rng.integers(0, h), rng.integers(0, w)
            lines = lines.copy()
            lines[y : y + a, x : x + b] = 0
    if rng.random() < 0.4:
        lines = wobbled(lines, rng)
    if rng.random() < 0.2:
        lines = np.maximum(lines, wobbled(lines, rng))
    if rng.random() < 0.25:
        lines = ndimage.gaussian_filter(lines, rng.uniform(0.3, 0.8)) * rng.uniform(1, 1.8)
    if rng.random() < 0.15:
        lines = ndimage.grey_dilation(lines, (2, 2))
    if rng.random() < 0.4:
        lines = lines * rng.uniform(0.5, 2.2)
    if rng.random() < 0.1:
        lines = lines * (rng.random(lines.shape) > 0.25)
    return np.clip(lines, 0, 1)


def shaded(depth: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """Depth (h, w) 0..1 as programs and brushes give it: bent, stretched, soft, in few steps."""
    depth = depth ** np.exp(rng.normal(0, 0.3))
    if rng.random() < 0.4:
        depth = ndimage.gaussian_filter(depth, rng.uniform(0.5, 3))
    if rng.random() < 0.2:
        depth = np.round(depth * (steps := int(rng.integers(4, 12)))) / steps
    if rng.random() < 0.3:
        depth = depth + 0.06 * field(rng, depth.shape[0], depth.shape[1], 6)
    span = float(np.ptp(depth))
    # Whoever gives a depth gives it from black to white.
    return np.clip((depth - depth.min()) / span if span > 0.05 else depth, 0, 1)


def guided(guides: np.ndarray, things: np.ndarray, rng: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    """What a sample is told of a scene's guides (4 h, 4 w, 2) uint8: lines and depth (2, 4 h, 4 w) float32 0..1, and which of them are
    given, (2,). things: their masks (N, h, w) 0..1."""
    lines, depth = (guides[..., i].astype(np.float32) / 255 for i in (0, 1))
    given = np.zeros(2, np.float32)
    if rng.random() >= NO_LINES:
        given[0] = 1
        if rng.random() < ONLY_THINGS / (1 - NO_LINES) and len(things):
            some = things[rng.random(len(things)) < 0.6] if rng.random() < 0.4 else things
            if len(some):
                near = np.kron(some.max(0) > 0.2, np.ones((4, 4), bool))
                lines = lines * ndimage.binary_dilation(near, iterations=2)
        lines = drawn(lines, rng)
    if rng.random() < (DEPTH_BESIDE if given[0] else DEPTH_ALONE):
        given[1] = 1
        depth = shaded(depth, rng)
    return (np.stack([lines, depth]) * given[:, None, None]).astype(np.float32), given


def looked(outlines: list[np.ndarray], shape: tuple[int, int], rng: np.random.Generator, often: float) -> tuple[np.ndarray, np.float32]:
    """Where a sample's own look is told, (h, w) float32, and as what: of the whole, of one of the outlines, or not at all."""
    if rng.random() >= often:
        return np.zeros(shape, np.float32), np.float32(NONE)
    large = [m for m in outlines if m.sum() > 8]
    if large and rng.random() < OF_ONE:
        return large[int(rng.integers(len(large)))].astype(np.float32), np.float32(ELEMENT)
    return np.ones(shape, np.float32), np.float32(SCENE)
