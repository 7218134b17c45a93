"""What shines in a drawn sky: stars, laid over what is painted as they are drawn, for a model makes dark specks of half of them."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from scipy import ndimage

from ..told.guides import Sketch, sketched_lines
from ..values.frame import Rect
from ..values.spots import Spot

#: How much a light covers, and the greatest side of one, in pixels of its drawing: what is larger is a cloud.
COVERS, LARGEST = 0.95, 9
#: What of a drawn ring lies outside what it is drawn round, in pixels of the drawing; from this grey on it is a line, 0..255.
OUTSIDE, DRAWN = 0.5, 60
#: x, y and radius, on the sheet.
Light = tuple[float, float, float]


@dataclass(frozen=True, eq=False)
class Lights:
    """colour: sRGB 0..255; spots: on the sheet; sky: where they are seen, and what covers that, far to near."""

    colour: tuple[float, float, float]
    spots: tuple[Light, ...]
    sky: tuple[Sketch, ...]

    def over(self, picture: np.ndarray, rect: Rect, amount: np.ndarray) -> np.ndarray:
        """A picture (h, w, 3) float32 0..1 of a part of the sheet with them; amount: (h, w) 0..1, how much of them there is."""
        h, w = picture.shape[:2]
        sky = sketched_lines(self.sky, rect, h, w)
        shines, (ky, kx) = np.zeros((h, w), np.float32), (h / rect.height, w / rect.width)
        for x, y, r in self.spots:
            spot = Spot((x - rect.x0) * kx, (y - rect.y0) * ky, r * ky)
            at = spot.seen(h, w)
            # Half a star at the edge of what is new would tell where that is.
            if shines[at].size and sky[at].min() >= 0.5:
                np.maximum(shines[at], np.clip(0.5 - spot.outside(*at), 0, 1), out=shines[at])
        if not shines.any():
            return picture
        shines *= COVERS * amount
        return np.asarray(picture + shines[..., None] * (np.array(self.colour, np.float32) / 255 - picture), np.float32)


def lights_in(sketch: Sketch) -> tuple[Light, ...]:
    """The lights that are drawn in a sky."""
    (h, w), (x0, y0, x1, y1) = sketch.lines.shape, sketch.box
    ky, kx = (y1 - y0) / h, (x1 - x0) / w
    out = []
    for at, piece in _pieces(sketch.lines):
        solid = ndimage.binary_fill_holes(piece)
        y, x = ndimage.center_of_mass(solid)
        r = max(0.5, math.sqrt(float(solid.sum()) / math.pi) - OUTSIDE)
        out.append((x0 + (at[1].start + x + 0.5) * kx, y0 + (at[0].start + y + 0.5) * ky, r * math.sqrt(kx * ky)))
    return tuple(out)


def without_lights(sketch: Sketch) -> Sketch:
    """The drawing of a sky without its lights."""
    lines = sketch.lines.copy()
    for at, _ in _pieces(lines):
        y, x = (slice(max(0, s.start - 1), s.stop + 1) for s in at)
        lines[y, x] = 0
    return replace(sketch, lines=lines)


def _pieces(lines: np.ndarray) -> Iterator[tuple[tuple[slice, slice], np.ndarray]]:
    """Where small pieces of a drawing lie, and each alone."""
    pieces, _ = ndimage.label(lines > DRAWN, np.ones((3, 3)))
    for n, (down, across) in enumerate(ndimage.find_objects(pieces), 1):
        if max(down.stop - down.start, across.stop - across.start) <= LARGEST:
            yield (down, across), pieces[down, across] == n
