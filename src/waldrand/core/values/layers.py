"""What lies on a sheet, one over the other. A new sort of layer is a class like these, and known by its sort."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Self

import numpy as np
from scipy import ndimage

from ..fields import needed, taken_list, taken_number, taken_table, taken_whole, taken_words
from ..picture.composite import lay_over, strips
from ..picture.patch_edge import edge_alpha
from ..picture.resample import resize_mask, resize_picture, resize_rgba
from ..refused import Refused
from ..worded import worded
from .brought import PLAIN, Brought
from .frame import Rect

#: Sheet pixels from its corner that no layer may lie beyond.
FARTHEST = 10**7
#: How a picture (H, W, 3) float32 0..1 gets another height and width.
Draw = Callable[[np.ndarray, int, int], np.ndarray]
#: A picture of a file by its name, (H, W, 4) uint8, or a grey one, (H, W) uint8.
Pictures = Callable[[str], np.ndarray]


@dataclass(frozen=True, eq=False)
class Layer(ABC):
    """key: unlike any other layer's or element's on its sheet."""

    #: What it is called before its name.
    sort: ClassVar[str]
    key: int
    name: str

    @property
    @abstractmethod
    def bounds(self) -> Rect:
        """Where it lies, in sheet pixels; perhaps partly outside."""

    @property
    @abstractmethod
    def shown(self) -> np.ndarray:
        """As it is laid over what lies below, (h, w, 4) uint8 with straight alpha, of its bounds' size."""

    @property
    @abstractmethod
    def visible(self) -> bool: ...

    @property
    def seen(self) -> Rect:
        """Where anything of it is seen; its bounds where nothing is."""
        rows, columns = (np.flatnonzero(self.shown[..., 3].any(axis)) for axis in (1, 0))
        if not len(rows):
            return self.bounds
        return Rect(int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1).moved(self.bounds.x0, self.bounds.y0)

    @abstractmethod
    def lay_on(self, below: np.ndarray, rect: Rect) -> None:
        """Lays it over a picture (h, w, 4) uint8 of a rectangle of the sheet, in place."""

    @abstractmethod
    def moved(self, dx: int, dy: int) -> Self: ...

    @abstractmethod
    def scaled(self, kx: float, ky: float, draw: Draw) -> Self: ...

    @abstractmethod
    def to_json(self) -> dict[str, Any]:
        """What a file says of it, without its pictures."""

    @classmethod
    @abstractmethod
    def from_json(cls, key: int, name: str, visible: bool, d: dict[str, Any], pixels: np.ndarray, pictures: Pictures) -> Self:
        """The inverse of `to_json`: see `layer_from_json`."""

    @property
    def extra(self) -> Mapping[str, np.ndarray]:
        """Grey pictures (h, w) uint8 that a file holds beside it, by the key of its JSON under which their names go."""
        return {}

    @property
    def recipe(self) -> dict[str, Any] | None:
        """How it was made, where a pass made it."""
        return None

    @property
    def edge(self) -> Mapping[str, float]:
        """What of its edge can be changed without making it anew, by name; nothing where nothing can."""
        return {}

    @property
    def brought_by(self) -> Mapping[str, float]:
        """By how much it was brought to what lies below it, by name; nothing where that cannot be."""
        return {}

    @property
    def own_colours(self) -> np.ndarray | None:
        """Its pixels as they were made, (h, w, 3) uint8; None where it cannot be brought to anything."""
        return None

    def changed(self, **values: Any) -> Self:
        """The same with other values."""
        return replace(self, **values)

    def _scaled_bounds(self, kx: float, ky: float) -> Rect:
        r = self.bounds
        x0, y0 = round(r.x0 * kx), round(r.y0 * ky)
        return Rect(x0, y0, max(round(r.x1 * kx), x0 + 1), max(round(r.y1 * ky), y0 + 1))

    def scaled_sizes(self, kx: float, ky: float) -> tuple[int, int, int, int]:
        """Height and width of its picture, and what they are when it is scaled."""
        now, then = self.bounds, self._scaled_bounds(kx, ky)
        return now.height, now.width, then.height, then.width


@dataclass(frozen=True, eq=False)
class PictureLayer(Layer):
    """pixels: (h, w, 4) uint8 sRGB with straight alpha, its upper left corner at (x, y)."""

    sort: ClassVar[str] = "picture"
    pixels: np.ndarray
    x: int = 0
    y: int = 0
    visible: bool = True
    brought: Brought = PLAIN

    @property
    def bounds(self) -> Rect:
        h, w = self.pixels.shape[:2]
        return Rect(self.x, self.y, self.x + w, self.y + h)

    @property
    def shown(self) -> np.ndarray:
        if self.brought.change is None:
            return self.pixels
        return np.dstack([self.brought.on(self.pixels[..., :3]), self.pixels[..., 3]])

    @property
    def brought_by(self) -> Mapping[str, float]:
        return {"match": self.brought.match, "seamless": self.brought.seamless}

    @property
    def own_colours(self) -> np.ndarray:
        return self.pixels[..., :3]

    def lay_on(self, below: np.ndarray, rect: Rect) -> None:
        there, here = _meet(self.bounds, rect)
        own = self.shown[here]
        if not below[there].any():
            # Nothing below: the layer's own bytes, also under full transparency.
            below[there] = own
        else:
            below[there] = lay_over(below[there], own[..., :3], own[..., 3])

    @property
    def extra(self) -> Mapping[str, np.ndarray]:
        return self.brought.pictures()

    def moved(self, dx: int, dy: int) -> PictureLayer:
        return replace(self, x=self.x + dx, y=self.y + dy)

    def scaled(self, kx: float, ky: float, draw: Draw) -> PictureLayer:
        to = self._scaled_bounds(kx, ky)
        pixels = _drawn_rgba(self.pixels, to.height, to.width, draw)
        return replace(self, pixels=pixels, x=to.x0, y=to.y0, brought=self.brought.scaled(to.height, to.width))

    def to_json(self) -> dict[str, Any]:
        return {"key": self.key, "name": self.name, "visible": self.visible, "x": self.x, "y": self.y} | self.brought.to_json()

    @classmethod
    def from_json(cls, key: int, name: str, visible: bool, d: dict[str, Any], pixels: np.ndarray, pictures: Pictures) -> PictureLayer:
        x, y = (taken_whole(needed(d, k, "A layer"), f"A layer's {k}") for k in "xy")
        if max(abs(x), abs(y)) > FARTHEST:
            raise Refused(worded("A layer lies too far outside."))
        brought = Brought.from_json(d, pixels.shape[:2], pictures)
        return PictureLayer(key, name, brought.off(pixels), x, y, visible, brought)


@dataclass(frozen=True, eq=False)
class Patch(Layer):
    """A kept take. pixels: (h, w, 3) uint8, whole, at frame's place; region: (h, w) uint8, painted where
    above 0; grow and feather: its edge in sheet pixels, opacity 0..1, all adjustable at any time; recipe: how it was made."""

    sort: ClassVar[str] = "patch"
    frame: Rect
    pixels: np.ndarray
    region: np.ndarray
    grow: float = 0.0
    feather: float = 0.0
    visible: bool = True
    recipe: dict[str, Any] | None = None
    opacity: float = 1.0
    brought: Brought = PLAIN

    def __post_init__(self) -> None:
        if not 0 <= self.opacity <= 1:
            raise Refused(worded("Opacity goes from 0 to 1; {0:g} is outside.", self.opacity))
        if not (0 <= self.feather <= 10_000 and -10_000 <= self.grow <= 10_000):
            raise Refused(worded("The edge of “{0}” is grown and feathered by at most 10000 pixels.", self.name))

    @property
    def bounds(self) -> Rect:
        return self.frame

    def alpha(self) -> np.ndarray:
        """How much of it shows, (h, w) uint8."""
        alpha = edge_alpha(self.region, self.grow, self.feather)
        return alpha if self.opacity == 1 else np.asarray(np.round(alpha * self.opacity), np.uint8)

    @property
    def shown(self) -> np.ndarray:
        return np.dstack([self.brought.on(self.pixels), self.alpha()])

    def lay_on(self, below: np.ndarray, rect: Rect) -> None:
        there, here = _meet(self.frame, rect)
        below[there] = lay_over(below[there], self.brought.on(self.pixels)[here], self.alpha()[here])

    def moved(self, dx: int, dy: int) -> Patch:
        return replace(self, frame=self.frame.moved(dx, dy))

    def scaled(self, kx: float, ky: float, draw: Draw) -> Patch:
        to, k = self._scaled_bounds(kx, ky), (kx * ky) ** 0.5
        region = resize_mask(self.region.astype(np.float32) / 255, to.height, to.width)
        return replace(
            self,
            frame=to,
            pixels=_drawn(self.pixels, to.height, to.width, draw),
            region=np.where(region >= 0.5, 255, 0).astype(np.uint8),
            grow=self.grow * k,
            feather=self.feather * k,
            brought=self.brought.scaled(to.height, to.width),
        )

    @property
    def brought_by(self) -> Mapping[str, float]:
        return {"match": self.brought.match, "seamless": self.brought.seamless}

    @property
    def own_colours(self) -> np.ndarray:
        return self.pixels[..., :3]

    @property
    def edge(self) -> Mapping[str, float]:
        # A patch that fills its whole frame has no edge to grow.
        partial = not bool(self.region.all())
        return {"opacity": self.opacity} | ({"grow": self.grow, "feather": self.feather} if partial else {})

    @property
    def extra(self) -> Mapping[str, np.ndarray]:
        return {"region": self.region, **self.brought.pictures()}

    def to_json(self) -> dict[str, Any]:
        f = self.frame
        return {
            "key": self.key,
            "name": self.name,
            "visible": self.visible,
            "x": f.x0,
            "y": f.y0,
            "frame": [f.x0, f.y0, f.x1, f.y1],
            "grow": self.grow,
            "feather": self.feather,
            "opacity": self.opacity,
            "recipe": self.recipe,
        } | self.brought.to_json()

    @classmethod
    def from_json(cls, key: int, name: str, visible: bool, d: dict[str, Any], pixels: np.ndarray, pictures: Pictures) -> Patch:
        frame = rect_from_json(needed(d, "frame", "A patch"), worded("A patch's frame"))
        region = pictures(taken_words(needed(d, "region", "A patch"), "A patch's region"))
        if pixels.shape[:2] != (frame.height, frame.width) or region.shape != pixels.shape[:2]:
            raise Refused(worded("A patch has another size than its frame."))
        numbers = {k: taken_number(d.get(k, v), f"A patch's {k}") for k, v in (("grow", 0.0), ("feather", 0.0), ("opacity", 1.0))}
        recipe = d.get("recipe")
        recipe = None if recipe is None else taken_table(recipe, "A patch's recipe")
        brought = Brought.from_json(d, region.shape, pictures)
        own = np.ascontiguousarray(brought.off(pixels[..., :3]))
        return Patch(key, name, frame, own, region, visible=visible, recipe=recipe, brought=brought, **numbers)


def _meet(bounds: Rect, rect: Rect) -> tuple[tuple[slice, slice], tuple[slice, slice]]:
    """Where two rectangles meet, as rows and columns of the second and of the first."""
    part = bounds.intersect(rect)
    return part.moved(-rect.x0, -rect.y0).slices, part.moved(-bounds.x0, -bounds.y0).slices


def _drawn(colours: np.ndarray, height: int, width: int, draw: Draw) -> np.ndarray:
    """(H, W, 3) uint8 -> (height, width, 3) uint8."""
    shares = colours.astype(np.float32)
    shares /= 255
    made = draw(shares, height, width)
    del shares
    out = np.empty(made.shape, np.uint8)
    for rows in strips(height, width):
        out[rows] = np.clip(made[rows], 0, 1) * 255 + 0.5
    return out


def _drawn_rgba(pixels: np.ndarray, height: int, width: int, draw: Draw) -> np.ndarray:
    """(H, W, 4) uint8 -> (height, width, 4). Under clear pixels the nearest colours go on, so that no rim gets others."""
    if draw is resize_picture:
        return resize_rgba(pixels, height, width)
    colours, alpha = pixels[..., :3], pixels[..., 3]
    if alpha.any() and not alpha.all():
        at = ndimage.distance_transform_edt(alpha == 0, return_distances=False, return_indices=True)
        colours = colours[tuple(at)]
    out = np.empty((height, width, 4), np.uint8)
    out[..., :3] = _drawn(colours, height, width, draw)
    out[..., 3] = 255 if (alpha == 255).all() else resize_rgba(pixels, height, width)[..., 3]
    return out


def rect_from_json(value: Any, what: str) -> Rect:
    """Raises Refused when a value that cannot be trusted is no rectangle with an area."""
    sides = [taken_whole(v, what) for v in taken_list(value, what)]
    if len(sides) != 4 or sides[2] <= sides[0] or sides[3] <= sides[1] or max(map(abs, sides)) > FARTHEST:
        raise Refused(worded("{0} is no rectangle [x0, y0, x1, y1].", what))
    return Rect(*sides)


#: The sorts of layers there are, by the name that files have for them. Another one may be put in.
SORTS: dict[str, type[Layer]] = {cls.sort: cls for cls in (PictureLayer, Patch)}


def layer_from_json(d: Any, pixels: np.ndarray, pictures: Pictures) -> Layer:
    """A layer from what a file says of it. pixels: its picture (H, W, 4) uint8; pictures: reads the grey ones beside it.

    Raises:
        Refused: what is said is no layer's, or does not fit its picture.
    """
    d = taken_table(d, "A layer")
    # The first two sorts are told apart by what they have.
    sort = taken_words(d.get("sort", Patch.sort if "frame" in d else PictureLayer.sort), "A layer's sort")
    if sort not in SORTS:
        raise Refused(worded("There is no sort of layer called “{0:.40}”; known are {1}.", sort, ", ".join(SORTS)))
    key, name = taken_whole(needed(d, "key", "A layer"), "A layer's key"), taken_words(needed(d, "name", "A layer"), "A layer's name")
    return SORTS[sort].from_json(key, name, needed(d, "visible", "A layer") is True, d, pixels, pictures)
