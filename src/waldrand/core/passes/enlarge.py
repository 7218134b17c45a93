"""Pictures made larger by a pack's decoder, which draws edges anew where interpolation leaves them soft.

The decoder draws pictures from latents, and a latent is of a picture brought down. A picture whose every pixel is repeated four
times a side comes down to itself: so what is drawn of it is the same picture, four times as large.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator

import numpy as np

from ..packs import Pack
from ..picture.resample import resize_bands, resize_picture, to_linear, to_srgb

#: How many times as large a side the decoder draws at once; a piece's side before that; its rim, which is cut off again.
BY, PIECE, RIM = 4, 160, 16
Tick = Callable[[], None]


def _rounds(h: int, w: int, height: int, width: int) -> list[tuple[int, int, int]]:
    """What is enlarged one after another to grow to a size: (h, w, times), times 2 or 4."""
    out = []
    while (grown := max(height / h, width / w)) > 1:
        times = 2 if grown <= 2 else BY
        out.append((h, w, times))
        h, w = h * times, w * times
    return out


def _cut(n: int, step: int) -> tuple[int, int]:
    """The side of the pieces along n pixels, and how many there are; sides are multiples of step."""
    side = min(PIECE, n + 2 * RIM)
    side = math.ceil(side / step) * step
    return side, math.ceil(n / (side - 2 * RIM))


def _step(pack: Pack) -> int:
    multiple = pack.info.limits.multiple
    return multiple // math.gcd(multiple, BY)


def pieces(h: int, w: int, height: int, width: int, pack: Pack) -> int:
    """In how many pieces `crisp` draws a picture."""
    step = _step(pack)
    return sum(_cut(a, step)[1] * _cut(b, step)[1] for a, b, _ in _rounds(h, w, height, width))


def crisp(picture: np.ndarray, height: int, width: int, pack: Pack, tick: Tick = lambda: None) -> np.ndarray:
    """(H, W, 3) float32 sRGB 0..1 -> (height, width, 3), edges drawn anew where it grows, area-true where it shrinks. tick: called
    before each piece; what it raises ends the work."""
    h, w = picture.shape[:2]
    *before, last = _rounds(h, w, height, width) or [(h, w, 1)]
    for h, w, times in before:
        whole = np.empty((h * times, w * times, 3), np.float32)
        at = 0
        for band in _drawn(picture, times, pack, tick):
            whole[at : at + len(band)] = band
            at += len(band)
        picture = whole
    h, w, times = last
    if times == 1:
        return resize_picture(picture, height, width)
    return resize_bands(_drawn(picture, times, pack, tick), h * times, w * times, height, width)


def _drawn(picture: np.ndarray, times: int, pack: Pack, tick: Tick) -> Iterator[np.ndarray]:
    """(H, W, 3) -> (times H, times W, 3), in pieces that overlap; bands of rows, from above."""
    h, w = picture.shape[:2]
    (side_y, rows), (side_x, columns) = _cut(h, _step(pack)), _cut(w, _step(pack))
    tall, wide = side_y - 2 * RIM, side_x - 2 * RIM
    padded = np.pad(picture, ((RIM, rows * tall - h + RIM), (RIM, columns * wide - w + RIM), (0, 0)), mode="edge")
    for y in range(0, rows * tall, tall):
        band = np.empty((tall * times, columns * wide * times, 3), np.float32)
        for x in range(0, columns * wide, wide):
            tick()
            piece = padded[y : y + side_y, x : x + side_x]
            large = pack.decode(pack.encode(piece.repeat(BY, 0).repeat(BY, 1)))[BY * RIM : -BY * RIM, BY * RIM : -BY * RIM]
            band[:, x * times : (x + wide) * times] = _averaged(large, BY // times)
        yield band[: (h - y) * times, : w * times]


def _averaged(picture: np.ndarray, by: int) -> np.ndarray:
    """The averages of squares of pixels, in linear light."""
    if by == 1:
        return picture
    h, w = picture.shape[:2]
    return to_srgb(to_linear(picture).reshape(h // by, by, w // by, by, 3).mean((1, 3)))
