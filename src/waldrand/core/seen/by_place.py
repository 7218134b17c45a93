"""What a picture shows in a part of it, as its finder saw it in the whole."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from ..packs import Finder, Pack
from ..picture.resample import resize_bands
from ..values.frame import Rect, whole_frame
from .find import SEEN, finder_of, looked, thing_labels

#: Pictures of more pixels are looked at in bands of so many rows.
LARGE, BAND = 4_000_000, 256
#: What covers less of a part is not told of it.
LEAST_SHARE = 0.002


@dataclass(frozen=True, eq=False)
class Seen:
    """A finder's maps (K, h, w) of a picture of width x height pixels."""

    maps: np.ndarray
    finder: Finder
    width: int
    height: int

    def at(self, label: int, rect: Rect, rows: int, columns: int) -> np.ndarray:
        """How surely a label is seen in each of so many rows and columns of a rectangle of the picture, float32 0..1."""
        h, w = self.maps.shape[1:]
        y = (rect.y0 + (np.arange(rows) + 0.5) * rect.height / rows) * h / self.height - 0.5
        x = (rect.x0 + (np.arange(columns) + 0.5) * rect.width / columns) * w / self.width - 0.5
        m = ndimage.map_coordinates(self.maps[label], np.meshgrid(y, x, indexing="ij"), order=1, mode="nearest")
        return np.asarray(m, np.float32)


@dataclass(frozen=True, eq=False)
class Here:
    """A thing, or a ground, in a part of a picture. label: the finder's number for it; words: with its colour, where one is sure; where:
    how surely, (rows, columns) 0..1."""

    label: int
    words: str
    where: np.ndarray


def seen_in(picture: np.ndarray, pack: Pack) -> Seen:
    """What is seen in a picture (H, W, 3 or 4) uint8, however large.

    Raises:
        Refused: the pack has no finder.
    """
    h, w = picture.shape[:2]
    if h * w <= LARGE:
        return Seen(looked(picture, pack, placed=True)[0], finder_of(pack), w, h)
    frame = whole_frame(w, h, pack.info.limits.placed)
    bands = (picture[y : y + BAND, :, :3].astype(np.float32) / 255 for y in range(0, h, BAND))
    maps, _ = finder_of(pack).look(resize_bands(bands, h, w, frame.height, frame.width))
    return Seen(maps, finder_of(pack), w, h)


def seen_here(seen: Seen, rect: Rect, rows: int, columns: int, grounds: bool = False) -> list[Here]:
    """The things in a rectangle of a picture, or its grounds, those that cover most first."""
    finder, out = seen.finder, []
    labels = [i for i, label in enumerate(finder.labels) if label in finder.grounds] if grounds else thing_labels(finder)
    colours = [i for i, label in enumerate(finder.labels) if label in finder.colours]
    for i in labels:
        if float(seen.maps[i].max()) <= SEEN:
            continue
        where = seen.at(i, rect, rows, columns)
        solid = where > SEEN
        if solid.mean() < LEAST_SHARE:
            continue
        words = finder.labels[i]
        if not grounds:
            shares = ((float(seen.at(j, rect, rows, columns)[solid].mean()), finder.labels[j]) for j in colours)
            share, colour = max(shares, default=(0.0, ""))
            words = f"{colour} {words}" if share > SEEN else words
        out.append(Here(i, words, where))
    return sorted(out, key=lambda one: -float((one.where > SEEN).sum()))
