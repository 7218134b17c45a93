"""Scaling pictures and masks: linear light, Lanczos when growing, area-true when shrinking."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from functools import lru_cache

import numpy as np
from scipy import sparse

from ..refused import Refused
from ..worded import worded

#: Pixels of a picture that are taken into floating point at a time.
SOURCE = 4_000_000
#: Up to so many numbers, a picture is scaled at once; else in strips of at least so many, but in no more strips than that.
FEW, STRIP, STRIPS = 500_000, 200_000, 32
#: Strips that are scaled side by side.
AT_ONCE = 4
#: Numbers that are changed one by one before others are begun with.
NEAR = 64_000


def _in_parts(change: Callable[[np.ndarray], np.ndarray], a: np.ndarray) -> np.ndarray:
    """What a change makes of an array, number by number, float32: so many at a time as stay near the processor, which is quicker."""
    if a.size <= NEAR:
        return change(a)
    out, step = np.empty(a.shape, np.float32), max(1, NEAR * len(a) // a.size)
    for at in range(0, len(a), step):
        out[at : at + step] = change(a[at : at + step])
    return out


def to_linear(srgb: np.ndarray) -> np.ndarray:
    """sRGB 0..1 -> linear light (IEC 61966-2-1), float32."""
    return _in_parts(_linear, srgb)


def to_srgb(linear: np.ndarray) -> np.ndarray:
    """Linear light -> sRGB 0..1, float32; negative ringing is cut."""
    return _in_parts(_srgb, linear)


def _linear(srgb: np.ndarray) -> np.ndarray:
    x = np.array(np.maximum(srgb, 0))
    x += 0.055
    x /= 1.055
    x **= 2.4
    return np.asarray(np.where(srgb <= 0.04045, srgb / 12.92, x), np.float32)


def _srgb(linear: np.ndarray) -> np.ndarray:
    x = np.maximum(linear, 0)
    bright = x ** (1 / 2.4)
    bright *= 1.055
    bright -= 0.055
    return np.asarray(np.where(x <= 0.0031308, x * 12.92, bright), np.float32)


def _lanczos3(x: np.ndarray) -> np.ndarray:
    return np.where(np.abs(x) < 3, np.sinc(x) * np.sinc(x / 3), 0)


@lru_cache(maxsize=512)
def _weights(n: int, m: int, smooth: bool, part: tuple[int, int] | None = None) -> sparse.csr_matrix:
    """(m, n): row j mixes the n samples to output j; rows sum to 1. part: only the rows from one to another. Not to be written to."""
    rows_of = np.arange(*((0, m) if part is None else part))
    step = n / m
    wide = max(1.0, step)
    centre = (rows_of + 0.5) * step - 0.5
    if smooth:
        first, taps = np.floor(centre - 3 * wide), int(np.ceil(6 * wide)) + 2
        at = first[:, None] + np.arange(taps)
        w = _lanczos3((at - centre[:, None]) / wide)
    else:
        low, high = centre - step / 2, centre + step / 2
        # Sample i reaches from i - 0.5 to i + 0.5.
        first, taps = np.floor(low + 0.5), int(np.ceil(step)) + 1
        at = first[:, None] + np.arange(taps)
        w = np.maximum(np.minimum(at + 0.5, high[:, None]) - np.maximum(at - 0.5, low[:, None]), 0)
    w = w / w.sum(1, keepdims=True)
    columns, starts = np.clip(at, 0, n - 1).astype(np.int32), taps * np.arange(len(rows_of) + 1, dtype=np.int32)
    return sparse.csr_matrix((w.ravel().astype(np.float32), columns.ravel(), starts), shape=(len(rows_of), n))


def _resized(
    a: np.ndarray, out: np.ndarray, smooth: bool, before: Callable[[np.ndarray], np.ndarray], after: Callable[[np.ndarray], np.ndarray]
) -> np.ndarray:
    """Fills (height, width, C') from (H, W, C), a strip at a time, so that a large picture needs little memory beside itself, and several
    strips side by side.
    before: of source rows, makes them float32 to be mixed; after: of mixed rows, makes them what is wanted."""
    (h, w), (height, width) = a.shape[:2], out.shape[:2]
    across = None if w == width else _weights(w, width, smooth)
    most = max(a.size, out.size)
    numbers = most if most <= FEW else min(SOURCE, max(STRIP, most // STRIPS))
    step = max(1, round(numbers / (a.shape[2] * max(w, width) * max(1.0, h / height))))

    def strip(at: int) -> None:
        part = slice(at, min(at + step, height))
        n = part.stop - part.start
        if h == height:
            mixed = before(a[part])
        else:
            first, weights = _cut(h, height, smooth, (part.start, part.stop))
            rows = before(a[first : first + weights.shape[1]])
            mixed = (weights @ rows.reshape(len(rows), -1)).reshape(n, w, -1)
        if across is not None:
            mixed = _turned((across @ _turned(mixed).reshape(w, -1)).reshape(width, n, -1))
        out[part] = after(mixed)

    strips = range(0, height, step)
    if len(strips) > 1:
        list(_threads().map(strip, strips))
    else:
        strip(0)
    return out


@lru_cache(maxsize=1)
def _threads() -> ThreadPoolExecutor:
    """For strips of a picture: NumPy and SciPy leave Python to others while they count."""
    return ThreadPoolExecutor(AT_ONCE, "scaling")


@lru_cache(maxsize=512)
def _cut(n: int, m: int, smooth: bool, part: tuple[int, int]) -> tuple[int, sparse.csr_matrix]:
    """The weights of some outputs, cut to the samples that they are mixed from, and the first of those."""
    weights = _weights(n, m, smooth, part)
    first, last = _reach(weights)
    return first, sparse.csr_matrix(
        (weights.data, weights.indices - np.int32(first), weights.indptr), shape=(weights.shape[0], last - first)
    )


def _turned(a: np.ndarray) -> np.ndarray:
    """(h, w, C) float32 -> (w, h, C): whole pixels are moved, which is quicker than their channels one by one."""
    whole = np.ascontiguousarray(a).view(np.dtype((np.void, a.shape[2] * a.itemsize)))[..., 0]
    return np.ascontiguousarray(whole.T).view(a.dtype).reshape(a.shape[1], a.shape[0], a.shape[2])


def resize_picture(picture: np.ndarray, height: int, width: int) -> np.ndarray:
    """(H, W, 3) float32 sRGB 0..1 -> (height, width, 3), filtered in linear light, clipped to 0..1."""
    if picture.shape[:2] == (height, width):
        return np.asarray(picture, np.float32)
    out = np.empty((height, width, picture.shape[2]), np.float32)
    return _resized(picture, out, True, to_linear, lambda linear: np.clip(to_srgb(linear), 0, 1))


def resize_mask(mask: np.ndarray, height: int, width: int) -> np.ndarray:
    """(H, W) float32 0..1 -> (height, width), each cell the average of what it covers."""
    if mask.shape == (height, width):
        return np.asarray(mask, np.float32)
    out = np.empty((height, width, 1), np.float32)
    return _resized(mask[..., None], out, False, lambda rows: np.asarray(rows, np.float32), lambda mixed: np.clip(mixed, 0, 1))[..., 0]


def resize_bands(bands: Iterable[np.ndarray], h: int, w: int, height: int, width: int) -> np.ndarray:
    """As `resize_picture`, of a picture (h, w, 3) that comes in bands of rows, from above, and is never whole in memory."""
    out = np.zeros((height, width, 3), np.float32)
    down = None if h == height else _weights(h, height, smooth=True).tocsc()
    across = None if w == width else _weights(w, width, smooth=True)
    at = 0
    for band in bands:
        rows = slice(at, at + len(band))
        at = rows.stop
        mixed = to_linear(band)
        if across is not None:
            columns = np.ascontiguousarray(np.swapaxes(mixed, 0, 1)).reshape(w, -1)
            mixed = np.ascontiguousarray(np.swapaxes((across @ columns).reshape(width, len(band), 3), 0, 1))
        if down is None:
            out[rows] = mixed
        else:
            weights = down[:, rows].tocsr()
            first, last = (int(v) for v in np.flatnonzero(np.diff(weights.indptr))[[0, -1]])
            out[first : last + 1] += (weights[first : last + 1] @ mixed.reshape(len(band), -1)).reshape(last + 1 - first, width, 3)
    for at in range(0, height, max(1, SOURCE // width)):
        part = slice(at, at + max(1, SOURCE // width))
        out[part] = np.clip(to_srgb(out[part]), 0, 1)
    return out


def resize_grey_part(grey: np.ndarray, height: int, width: int, rows: slice, columns: slice) -> np.ndarray:
    """Part of what `resize_mask` makes of a grey picture (H, W) uint8: its rows and columns, float32 0..1. Needs memory for that part, and
    for little of the picture at a time."""
    h, w = grey.shape
    down = None if h == height else _weights(h, height, False, (rows.start, rows.stop))
    across = None if w == width else _weights(w, width, False, (columns.start, columns.stop))
    first, last = (columns.start, columns.stop) if across is None else _reach(across)
    if across is not None:
        across = across[:, first:last]
    out = np.empty((rows.stop - rows.start, columns.stop - columns.start), np.float32)
    step = max(1, SOURCE // max(1, round((last - first) * max(1.0, h / height))))
    for at in range(0, len(out), step):
        part = slice(at, min(at + step, len(out)))
        if down is None:
            made = grey[rows.start + part.start : rows.start + part.stop, first:last].astype(np.float32) / 255
        else:
            upper, lower = _reach(down[part])
            made = down[part][:, upper:lower] @ (grey[upper:lower, first:last].astype(np.float32) / 255)
        out[part] = np.clip(made if across is None else (across @ np.ascontiguousarray(made.T)).T, 0, 1)
    return out


def _reach(weights: sparse.csr_matrix) -> tuple[int, int]:
    """From which sample to which some outputs are mixed."""
    return int(weights.indices.min()), int(weights.indices.max()) + 1


def resize_rgba(pixels: np.ndarray, height: int, width: int) -> np.ndarray:
    """(H, W, 4) uint8 with straight alpha -> (height, width, 4) uint8; colours weigh by their alpha, in linear light."""
    if pixels.shape[:2] == (height, width):
        return pixels

    def weighed(rows: np.ndarray) -> np.ndarray:
        alpha = rows[..., 3:].astype(np.float32) / 255
        return np.concatenate([to_linear(rows[..., :3].astype(np.float32) / 255) * alpha, alpha], -1)

    def straight(mixed: np.ndarray) -> np.ndarray:
        a = np.clip(mixed[..., 3:], 0, 1)
        rgb = to_srgb(mixed[..., :3] / np.maximum(a, 1 / 255))
        return np.asarray(np.clip(np.concatenate([rgb, a], -1), 0, 1) * 255 + 0.5, np.uint8)

    return _resized(pixels, np.empty((height, width, 4), np.uint8), True, weighed, straight)


def largest_in_cells(values: np.ndarray, height: int, width: int) -> np.ndarray:
    """(H, W) -> (height, width): the greatest value of each cell's pixels; sides must divide."""
    h, w = values.shape
    if h % height or w % width:
        raise Refused(worded("A {0} x {1} map cannot be cut into {2} x {3} cells.", w, h, width, height))
    return np.asarray(values.reshape(height, h // height, width, w // width).max((1, 3)))
