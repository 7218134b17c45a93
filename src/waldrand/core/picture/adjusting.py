"""A picture's light and colours adjusted by numbers."""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy import ndimage

from ..fields import check, fields_of, number, refuse_unknown, taken_list, taken_number, taken_table, taken_values, unusual
from ..refused import Refused
from ..worded import worded
from .composite import strips
from .cutting import oklab
from .resample import to_linear, to_srgb

#: The weights of red, green and blue in lightness (ITU-R BT.709).
LIGHT = np.array([0.2126, 0.7152, 0.0722], np.float32)
#: Pixels round each that sharpness is told by, and how many times their difference is added at 1; at -1 they are all that is left.
SHARP_REACH, MOST_SHARP = 1.2, 2.0


@dataclass(frozen=True)
class Adjustment:
    """exposure: stops; contrast, saturation, temperature, tint, sharpness: -1..1; hue: degrees; curve: points (x, y) 0..1 with rising
    x, empty for none.

    Raises:
        Refused: a value outside its range, or a curve that falls or leaves 0..1.
    """

    exposure: float = number(0.0, -8, 8, "Exposure goes", option="exposure in stops: 1 is twice the light", step=0.1, decimals=2)
    contrast: float = number(0.0, -1, 1, "Contrast goes", option="contrast, -1 to 1", step=0.05, decimals=2)
    saturation: float = number(0.0, -1, 1, "Saturation goes", option="saturation, -1 (grey) to 1", step=0.05, decimals=2)
    hue: float = number(0.0, -180, 180, "Hue goes", option="hue turned by degrees", step=5, decimals=0)
    temperature: float = number(0.0, -1, 1, "Temperature goes", option="-1 (cooler) to 1 (warmer)", step=0.05, decimals=2)
    tint: float = number(0.0, -1, 1, "Tint goes", option="-1 (greener) to 1 (pinker)", step=0.05, decimals=2)
    sharpness: float = number(0.0, -1, 1, "Sharpness goes", option="-1 (softer) to 1 (sharper)", step=0.1, decimals=2)
    curve: tuple[tuple[float, float], ...] = ()

    def __post_init__(self) -> None:
        check(self)
        xs, ys = [x for x, _ in self.curve], [y for _, y in self.curve]
        if self.curve and (len(xs) < 2 or min(*xs, *ys) < 0 or max(*xs, *ys) > 1):
            raise Refused(worded("A curve needs two points or more, all within 0 to 1."))
        if any(b <= a for a, b in itertools.pairwise(xs)) or any(b < a for a, b in itertools.pairwise(ys)):
            raise Refused(worded("A curve has to rise from point to point."))

    @property
    def plain(self) -> bool:
        """Whether it changes nothing."""
        return self == UNADJUSTED


#: What changes nothing.
UNADJUSTED = Adjustment()


def curve_of(text: str) -> tuple[tuple[float, float], ...]:
    """Points written like "0,0 .3,.5 1,1".

    Raises:
        Refused: they are not written so.
    """
    points = []
    for piece in text.split():
        match = re.fullmatch(r"(\d*\.?\d+),(\d*\.?\d+)", piece)
        if match is None:
            raise Refused(worded("“{0}” is no point of a curve: write x,y from 0 to 1, like 0,0 .3,.5 1,1.", piece))
        points.append((float(match[1]), float(match[2])))
    return tuple(points)


def adjusted(picture: np.ndarray, a: Adjustment) -> np.ndarray:
    """(H, W, 3) float32 0..1 adjusted: light first, in linear light, then the curve, then colours."""
    if a.plain:
        return np.asarray(picture, np.float32)
    return _coloured(_lit(picture, a), a)


def bent_by(curve: Sequence[tuple[float, float]]) -> Callable[[np.ndarray], np.ndarray]:
    """What a curve through rising points makes of values 0..1: smooth, and never beyond its points (Fritsch and Butland, 1984)."""
    # Half a second of every start otherwise, for what few pictures need.
    from scipy.interpolate import PchipInterpolator

    xs, ys = zip(*curve, strict=True)
    bend = PchipInterpolator(xs, ys)
    return lambda values: np.asarray(bend(np.clip(values, xs[0], xs[-1])))


def _lit(picture: np.ndarray, a: Adjustment) -> np.ndarray:
    """(..., 3) float32 0..1 with other light: every channel for itself."""
    made = to_linear(np.asarray(picture, np.float32)) * np.float32(2**a.exposure)
    # Warmer: more red, less blue; pinker: less green. Of the same lightness as before.
    gains = np.array([1 + 0.3 * a.temperature + 0.1 * a.tint, 1 - 0.2 * a.tint, 1 - 0.3 * a.temperature + 0.1 * a.tint], np.float32)
    made = np.asarray(to_srgb(np.clip(made * gains / float(LIGHT @ gains), 0, 1)), np.float32)
    if a.contrast:
        # A slope through the middle, bent so that nothing is cut off.
        k = np.float32(2 ** (2 * a.contrast))
        made = np.asarray(made**k / np.maximum(made**k + (1 - made) ** k, 1e-6), np.float32)
    if a.curve:
        made = np.asarray(bent_by(a.curve)(made), np.float32)
    return made


def _coloured(made: np.ndarray, a: Adjustment) -> np.ndarray:
    """(H, W, 3) float32 0..1 with other colours, and sharper or softer."""
    if a.saturation or a.hue:
        made = _turned(made, 1 + a.saturation, np.deg2rad(a.hue))
    if a.sharpness:
        soft = ndimage.gaussian_filter(made, (SHARP_REACH, SHARP_REACH, 0), mode="nearest")
        made = made + (a.sharpness if a.sharpness < 0 else MOST_SHARP * a.sharpness) * (made - soft)
    return np.clip(made, 0, 1).astype(np.float32)


def _turned(picture: np.ndarray, saturation: float, angle: float) -> np.ndarray:
    """Colours farther from grey or nearer to it, and turned, at their own lightness."""
    lab = oklab(picture)
    c, s = saturation * np.cos(angle), saturation * np.sin(angle)
    return from_oklab(np.stack([lab[..., 0], c * lab[..., 1] - s * lab[..., 2], s * lab[..., 1] + c * lab[..., 2]], -1))


def from_oklab(lab: np.ndarray) -> np.ndarray:
    """The inverse of `cutting.oklab`, what no screen shows cut to what it does."""
    light, a, b = np.moveaxis(lab, -1, 0)
    long = (light + 0.3963377774 * a + 0.2158037573 * b) ** 3
    middle = (light - 0.1055613458 * a - 0.0638541728 * b) ** 3
    short = (light - 0.0894841775 * a - 1.2914855480 * b) ** 3
    rgb = np.stack(
        [
            4.0767416621 * long - 3.3077115913 * middle + 0.2309699292 * short,
            -1.2684380046 * long + 2.6097574011 * middle - 0.3413193965 * short,
            -0.0041960863 * long - 0.7034186147 * middle + 1.7076147010 * short,
        ],
        -1,
    )
    return to_srgb(np.clip(rgb, 0, 1).astype(np.float32))


def adjusted_within(pixels: np.ndarray, a: Adjustment, within: np.ndarray | None = None) -> np.ndarray:
    """(H, W, 3) uint8 adjusted by a share 0..255 of each pixel, (H, W) uint8; None: all of it. Where nothing is adjusted the bytes
    stay."""
    if a.plain:
        return pixels
    # There are only 256 values of each channel that light can change.
    lit = _lit(np.repeat(np.arange(256, dtype=np.float32)[:, None] / 255, 3, 1), a)
    if within is None and not (a.saturation or a.hue or a.sharpness):
        return _looked_up(np.asarray(np.round(np.clip(lit, 0, 1) * 255), np.uint8), pixels)
    if a.sharpness:
        return _shared(pixels, _coloured(_looked_up(lit, pixels), a), within)
    out = np.empty_like(pixels)
    for rows in strips(*pixels.shape[:2]):
        part = None if within is None else within[rows]
        out[rows] = _shared(pixels[rows], _coloured(_looked_up(lit, pixels[rows]), a), part)
    return out


def _looked_up(table: np.ndarray, pixels: np.ndarray) -> np.ndarray:
    """(H, W, 3) uint8 by a table (256, 3)."""
    return np.stack([table[:, c][pixels[..., c]] for c in range(3)], -1)


def _shared(pixels: np.ndarray, made: np.ndarray, within: np.ndarray | None) -> np.ndarray:
    """What was made (H, W, 3) float32, by a share of each pixel."""
    if within is None:
        return np.asarray(np.round(made * 255), np.uint8)
    share, own = within[..., None].astype(np.float32) / 255, pixels.astype(np.float32) / 255
    return np.asarray(np.where(share > 0, np.round((share * made + (1 - share) * own) * 255), pixels), np.uint8)


def adjustment_to_json(a: Adjustment) -> dict[str, Any]:
    """What of it is not plain, as files hold it."""
    return unusual(a) | ({"curve": [list(p) for p in a.curve]} if a.curve else {})


def adjustment_from_json(d: Any, what: str) -> Adjustment:
    """The inverse of `adjustment_to_json`.

    Raises:
        Refused: what a file says is no adjustment.
    """
    d = taken_table(d, what)
    refuse_unknown(d, (*fields_of(Adjustment), "curve"), what)
    points = [taken_list(p, what) for p in taken_list(d.get("curve", []), what)]
    if any(len(p) != 2 for p in points):
        raise Refused(worded("A curve's points are two numbers each."))
    curve = tuple((taken_number(x, what), taken_number(y, what)) for x, y in points)
    return Adjustment(**taken_values(Adjustment, d, what), curve=curve)
