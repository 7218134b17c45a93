"""The sheet: layers, elements, words and the mask. A value: editing gives a new sheet."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import dataclass, field, replace

import numpy as np

from ..refused import Refused
from ..worded import worded
from .area import Area
from .division import Division
from .element import Element, SceneWords
from .frame import Rect
from .layers import BOTH, DEPTH, FEEDS, GUIDES, SEEN, Layer
from .masks import Mask
from .outline import LARGEST_AREA

LARGEST_SIDE = 16384


def check_not_gigantic(width: int, height: int) -> None:
    """Raises Refused when a picture has more pixels than can be worked with."""
    if width > LARGEST_SIDE or height > LARGEST_SIDE or width * height > LARGEST_AREA:
        raise Refused(
            worded(
                "{0} x {1} pixels are too many: at most {2} on a side and {3} million altogether. Scale the picture down first.",
                width,
                height,
                LARGEST_SIDE,
                LARGEST_AREA // 1000000,
            )
        )


def check_size(width: int, height: int) -> None:
    """Raises Refused when a sheet of that many pixels cannot be made."""
    if width < 16 or height < 16:
        raise Refused(worded("A sheet is at least 16 x 16 pixels; {0} x {1} is too small.", width, height))
    check_not_gigantic(width, height)


@dataclass(frozen=True)
class Extent:
    """Which part of the plane a sheet covers: its size in its own pixels, where its upper left corner came to lie, cropped and
    extended, and how many of its pixels make one of those it was begun with."""

    width: int
    height: int
    x: int = 0
    y: int = 0
    scale: tuple[float, float] = (1.0, 1.0)

    def way_to(self, other: Extent) -> tuple[int, int] | None:
        """How far what lies on this one has to be moved to lie on another one at the same place; None where their pixels differ."""
        return (self.x - other.x, self.y - other.y) if np.allclose(self.scale, other.scale) else None


@dataclass(frozen=True, eq=False)
class Sheet:
    """layers: lowest first. elements: far to near. divisions: whose lines may still be dragged. origin, scale: see Extent;
    last_key: the greatest key that anything on it, or on the sheets it was made from, ever had; areas: masks with names, some held."""

    width: int
    height: int
    layers: tuple[Layer, ...] = ()
    elements: tuple[Element, ...] = ()
    scene: SceneWords = field(default_factory=SceneWords)
    mask: Mask | None = None
    divisions: tuple[Division, ...] = ()
    origin: tuple[int, int] = (0, 0)
    scale: tuple[float, float] = (1.0, 1.0)
    last_key: int = 0
    areas: tuple[Area, ...] = ()

    def __post_init__(self) -> None:
        check_size(self.width, self.height)
        # A key is never used again, so that an old take cannot take another element for one of its own.
        object.__setattr__(self, "last_key", max([self.last_key, *self.keys]))

    @property
    def keys(self) -> list[int]:
        """Of everything on it."""
        return [*(x.key for x in self.layers), *(e.key for e in self.elements), *(a.key for a in self.areas)]

    @property
    def rect(self) -> Rect:
        return Rect(0, 0, self.width, self.height)

    @property
    def extent(self) -> Extent:
        return Extent(self.width, self.height, *self.origin, self.scale)

    @property
    def has_picture(self) -> bool:
        """Whether anything is seen."""
        return any(layer.is_seen for layer in self.layers)

    def guides(self, *roles: str) -> tuple[Layer, ...]:
        """The layers that are told to passes, as one of some roles; all of them where none is named."""
        return tuple(layer for layer in self.layers if layer.visible and layer.role in (roles or GUIDES))

    def depth(self, key: int | None) -> Layer | None:
        """The layer of a key where that is a depth, else the uppermost depth; None where there is none."""
        depths = [layer for layer in self.layers if layer.role == DEPTH]
        return next((layer for layer in depths if layer.key == key), depths[-1] if depths else None)

    def next_key(self) -> int:
        """A key that nothing on the sheet has or had."""
        return self.last_key + 1

    def free_names(self, stem: str) -> Iterator[str]:
        """The stem with one number after another that no element's name has yet."""
        taken = {e.name for e in self.elements}
        return (name for i in itertools.count(1) if (name := f"{stem} {i}") not in taken)

    def free_name(self, stem: str) -> str:
        """The stem with the first number that no element's name has yet."""
        return next(self.free_names(stem))

    def has_element(self, key: int) -> bool:
        return any(e.key == key for e in self.elements)

    def element(self, key: int) -> Element:
        return next(e for e in self.elements if e.key == key)

    def with_element(self, element: Element) -> Sheet:
        """The element replaced by the one with the same key, or added nearest of all."""
        if self.has_element(element.key):
            return replace(self, elements=tuple(element if e.key == element.key else e for e in self.elements))
        return replace(self, elements=(*self.elements, element))

    def without_element(self, key: int) -> Sheet:
        return replace(self, elements=tuple(e for e in self.elements if e.key != key))

    def has_layer(self, key: int) -> bool:
        return any(x.key == key for x in self.layers)

    def layer(self, key: int) -> Layer:
        return next(x for x in self.layers if x.key == key)

    def with_layer(self, layer: Layer) -> Sheet:
        """The layer replaced by the one with the same key, or added on top."""
        if any(x.key == layer.key for x in self.layers):
            return replace(self, layers=tuple(layer if x.key == layer.key else x for x in self.layers))
        return replace(self, layers=(*self.layers, layer))

    def with_made(self, layer: Layer) -> Sheet:
        """What a pass made, over all that feeds passes: what is only seen, and lies on top, stays on top."""
        at = next((i + 1 for i in range(len(self.layers) - 1, -1, -1) if self.layers[i].role in (BOTH, FEEDS)), 0)
        return replace(self, layers=(*self.layers[:at], layer, *self.layers[at:]))

    def without_layer(self, key: int) -> Sheet:
        return replace(self, layers=tuple(x for x in self.layers if x.key != key))

    def area(self, key: int) -> Area:
        return next(a for a in self.areas if a.key == key)

    def with_area(self, area: Area) -> Sheet:
        """The area replaced by the one with the same key, or added."""
        if any(a.key == area.key for a in self.areas):
            return replace(self, areas=tuple(area if a.key == area.key else a for a in self.areas))
        return replace(self, areas=(*self.areas, area))

    def without_area(self, key: int) -> Sheet:
        return replace(self, areas=tuple(a for a in self.areas if a.key != key))

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
            if layer.is_seen and layer.bounds.intersect(rect).area:
                layer.lay_on(out, rect)
        return out

    def as_passes_see_it(self) -> Sheet:
        """With the layers that feed passes, all of them seen, those that passes are told of, and what is held as elements that hold."""
        held = tuple(e for a in self.areas if (e := a.holding) is not None)
        used = [layer for layer in self.layers if layer.visible and layer.role != SEEN]
        fed = tuple(layer if layer.role in (BOTH, *GUIDES) else layer.changed(role=BOTH) for layer in used)
        same = len(fed) == len(self.layers) and all(a is b for a, b in zip(fed, self.layers, strict=True))
        if same and not self.areas:
            return self
        return replace(self, layers=self.layers if same else fed, elements=(*self.elements, *held), areas=())
