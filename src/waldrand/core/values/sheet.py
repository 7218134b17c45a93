"""The sheet: picture layers, patches, elements, words and the mask. A value: editing gives a new sheet."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from ..picture.composite import edge_alpha, lay_over
from ..refused import Refused
from .division import Division
from .element import Element, SceneWords
from .frame import Rect
from .masks import Mask
from .outline import LARGEST_AREA

LARGEST_SIDE = 16384


def check_not_gigantic(width: int, height: int) -> None:
    """Raises Refused when a picture has more pixels than can be worked with."""
    if width > LARGEST_SIDE or height > LARGEST_SIDE or width * height > LARGEST_AREA:
        raise Refused(
            f"{width} x {height} pixels are too many: at most {LARGEST_SIDE} on a side and "
            f"{LARGEST_AREA // 1_000_000} million altogether. Scale the picture down first."
        )


def check_size(width: int, height: int) -> None:
    """Raises Refused when a sheet of that many pixels cannot be made."""
    if width < 16 or height < 16:
        raise Refused(f"A sheet is at least 16 x 16 pixels; {width} x {height} is too small.")
    check_not_gigantic(width, height)


@dataclass(frozen=True, eq=False)
class Layer:
    """pixels: (h, w, 4) uint8 sRGB with straight alpha, its upper left corner at (x, y)."""

    key: int
    name: str
    pixels: np.ndarray
    x: int = 0
    y: int = 0
    visible: bool = True


@dataclass(frozen=True, eq=False)
class Patch:
    """A kept take. pixels: (h, w, 3) uint8, whole, at frame's place; region: (h, w) uint8, painted where
    above 0; grow and feather: its edge in sheet pixels, opacity 0..1, all adjustable at any time; recipe: how it was made."""

    key: int
    name: str
    frame: Rect
    pixels: np.ndarray
    region: np.ndarray
    grow: float = 0.0
    feather: float = 0.0
    visible: bool = True
    recipe: dict[str, Any] | None = None
    opacity: float = 1.0

    def __post_init__(self) -> None:
        if not 0 <= self.opacity <= 1:
            raise Refused(f"Opacity goes from 0 to 1; {self.opacity:g} is outside.")

    def alpha(self) -> np.ndarray:
        """How much of it shows, (h, w) uint8."""
        alpha = edge_alpha(self.region, self.grow, self.feather)
        return alpha if self.opacity == 1 else np.asarray(np.round(alpha * self.opacity), np.uint8)

    def shown(self) -> np.ndarray:
        """The patch as it is laid over what lies below, (h, w, 4) uint8."""
        return np.dstack([self.pixels, self.alpha()])


@dataclass(frozen=True, eq=False)
class Sheet:
    """layers: pictures and patches, lowest first. elements: far to near. divisions: whose lines may still be dragged."""

    width: int
    height: int
    layers: tuple[Layer | Patch, ...] = ()
    elements: tuple[Element, ...] = ()
    scene: SceneWords = field(default_factory=SceneWords)
    mask: Mask | None = None
    divisions: tuple[Division, ...] = ()

    def __post_init__(self) -> None:
        check_size(self.width, self.height)

    @property
    def rect(self) -> Rect:
        return Rect(0, 0, self.width, self.height)

    @property
    def has_picture(self) -> bool:
        return any(layer.visible for layer in self.layers)

    def next_key(self) -> int:
        """A key that nothing on the sheet has."""
        return 1 + max((x.key for x in (*self.layers, *self.elements)), default=0)

    def free_names(self, stem: str) -> Iterator[str]:
        """The stem with one number after another that no element's name has yet."""
        taken = {e.name for e in self.elements}
        return (name for i in itertools.count(1) if (name := f"{stem} {i}") not in taken)

    def free_name(self, stem: str) -> str:
        """The stem with the first number that no element's name has yet."""
        return next(self.free_names(stem))

    def element(self, key: int) -> Element:
        return next(e for e in self.elements if e.key == key)

    def with_element(self, element: Element) -> Sheet:
        """The element replaced by the one with the same key, or added nearest of all."""
        if any(e.key == element.key for e in self.elements):
            return replace(self, elements=tuple(element if e.key == element.key else e for e in self.elements))
        return replace(self, elements=(*self.elements, element))

    def without_element(self, key: int) -> Sheet:
        return replace(self, elements=tuple(e for e in self.elements if e.key != key))

    def with_layer(self, layer: Layer | Patch) -> Sheet:
        """The layer replaced by the one with the same key, or added on top."""
        if any(x.key == layer.key for x in self.layers):
            return replace(self, layers=tuple(layer if x.key == layer.key else x for x in self.layers))
        return replace(self, layers=(*self.layers, layer))

    def without_layer(self, key: int) -> Sheet:
        return replace(self, layers=tuple(x for x in self.layers if x.key != key))

    def moved_layer(self, key: int, by: int) -> Sheet:
        """The layer higher (by > 0) or lower among the others."""
        i = next(i for i, x in enumerate(self.layers) if x.key == key)
        rest = [x for x in self.layers if x.key != key]
        rest.insert(min(max(i + by, 0), len(rest)), self.layers[i])
        return replace(self, layers=tuple(rest))

    def flatten(self, rect: Rect | None = None) -> np.ndarray:
        """What is seen in a rectangle (default: the whole), (h, w, 4) uint8 with straight alpha."""
        rect = rect or self.rect
        out = np.zeros((rect.height, rect.width, 4), np.uint8)
        for layer in self.layers:
            if not layer.visible:
                continue
            if isinstance(layer, Patch):
                at, alpha, pixels = layer.frame, layer.alpha(), layer.pixels
            else:
                h, w = layer.pixels.shape[:2]
                at = Rect(layer.x, layer.y, layer.x + w, layer.y + h)
                alpha, pixels = layer.pixels[..., 3], layer.pixels[..., :3]
            part = at.intersect(rect)
            if part.area == 0:
                continue
            there = Rect(part.x0 - rect.x0, part.y0 - rect.y0, part.x1 - rect.x0, part.y1 - rect.y0).slices
            here = Rect(part.x0 - at.x0, part.y0 - at.y0, part.x1 - at.x0, part.y1 - at.y0).slices
            if isinstance(layer, Layer) and not out[there].any():
                # Nothing below: the layer's own bytes, also under full transparency.
                out[there] = layer.pixels[here]
            else:
                out[there] = lay_over(out[there], pixels[here], alpha[here])
        return out
