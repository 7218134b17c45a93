"""What lies on a sheet, one over the other: pictures and patches."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, ClassVar, Self

import numpy as np
from scipy import ndimage

from ..fields import needed, taken_list, taken_number, taken_table, taken_whole, taken_words
from ..picture.composite import BLENDS, NORMAL, lay_over, strips
from ..picture.patch_edge import edge_alpha
from ..picture.resample import resize_mask, resize_picture, resize_rgba
from ..picture.warped import Corners, corners_of, unwarped
from ..refused import Refused
from ..worded import worded
from .brought import PLAIN, Brought
from .finish import PLAIN_FINISH, Finish, Pictures
from .frame import Rect

#: Sheet pixels from its corner that no layer may lie beyond.
FARTHEST = 10**7
#: How a picture (H, W, 3) float32 0..1 gets another height and width.
Draw = Callable[[np.ndarray, int, int], np.ndarray]
#: What a layer is for: to be seen and to be what passes start from, or only one of both.
BOTH, SEEN, FEEDS = "both", "seen", "feeds"
#: Or it is told to passes: as a drawing, as depth, or for its look; then it is neither seen in the picture nor what they start from.
LINES, DEPTH, LOOK = GUIDES = ("drawing", "depth", "look")
ROLES = (BOTH, SEEN, FEEDS, *GUIDES)
WHOLE = (0.0, 1.0)
ORIGINAL = "original"


@dataclass(frozen=True, eq=False)
class Layer(ABC):
    """key: unlike any other layer's or element's on its sheet; opacity: 0..1; blend: how it meets what lies below, one of
    composite.BLENDS; role: one of ROLES; group: the name of those it belongs to, empty for none; acts: from and to which share of a
    pass's steps it is told, where it is told to passes, its opacity being how much; of: the element that it belongs to, None: the whole.

    Raises:
        Refused: one of them is not what it may be.
    """

    #: What it is called before its name.
    sort: ClassVar[str]
    key: int
    name: str
    opacity: float = field(default=1.0, kw_only=True)
    blend: str = field(default=NORMAL, kw_only=True)
    role: str = field(default=BOTH, kw_only=True)
    group: str = field(default="", kw_only=True)
    acts: tuple[float, float] = field(default=WHOLE, kw_only=True)
    of: int | None = field(default=None, kw_only=True)

    def __post_init__(self) -> None:
        if not 0 <= self.acts[0] < self.acts[1] <= 1:
            raise Refused(worded("A share of the steps goes from 0 to 1, the first being less; {0:g} to {1:g} is none.", *self.acts))
        if not 0 <= self.opacity <= 1:
            raise Refused(worded("Opacity goes from 0 to 1; {0:g} is outside.", self.opacity))
        for value, known, what in ((self.blend, BLENDS, worded("way of blending")), (self.role, ROLES, worded("use of a layer"))):
            if value not in known:
                raise Refused(worded("There is no {0} called “{1:.40}”; known are {2}.", what, value, ", ".join(known)))

    @property
    @abstractmethod
    def bounds(self) -> Rect:
        """Where it lies, in sheet pixels; perhaps partly outside."""

    @property
    @abstractmethod
    def shown(self) -> np.ndarray:
        """As it is laid over what lies below but for its opacity, (h, w, 4) uint8 with straight alpha, of its bounds' size."""

    @property
    @abstractmethod
    def visible(self) -> bool:
        """Whether it counts at all."""

    @property
    def ink(self) -> np.ndarray | None:
        """How much is drawn on it, (h, w) uint8 of its bounds, where it is nothing but a drawing; else that has to be told from what it
        shows."""
        return None

    @property
    def is_seen(self) -> bool:
        return self.visible and self.role in (BOTH, SEEN)

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

    def as_picture(self) -> PictureLayer | None:
        """The same as a picture whose corners can be put anywhere; None where it cannot be one."""
        return None

    def on_own(self, grey: np.ndarray) -> np.ndarray:
        """What a grey picture of the sheet (H, W) uint8 has at its own pixels, (h, w) uint8; 0 outside of the sheet."""
        b = self.bounds
        out = np.zeros((b.height, b.width), np.uint8)
        here = b.intersect(Rect(0, 0, grey.shape[1], grey.shape[0]))
        if here.area:
            out[here.moved(-b.x0, -b.y0).slices] = grey[here.slices]
        return out

    @abstractmethod
    def to_json(self) -> dict[str, Any]:
        """What a file says of it, without its pictures."""

    def _said(self) -> dict[str, Any]:
        """What a file says of any layer."""
        out: dict[str, Any] = {"key": self.key, "name": self.name, "visible": self.visible}
        usual = {"opacity": 1.0, "blend": NORMAL, "role": BOTH, "group": "", "acts": WHOLE, "of": None}
        said = {name: v for name, plain in usual.items() if (v := getattr(self, name)) != plain}
        return out | {name: list(v) if isinstance(v, tuple) else v for name, v in said.items()}

    @classmethod
    @abstractmethod
    def from_json(cls, key: int, name: str, visible: bool, d: dict[str, Any], pixels: np.ndarray, pictures: Pictures) -> Self:
        """The inverse of `to_json`: see `layer_from_json`."""

    @property
    def extra(self) -> Mapping[str, np.ndarray]:
        """Pictures (h, w) or (h, w, 4) uint8 that a file holds beside it, by the key of its JSON under which their names go."""
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
        """Its pixels before they were brought to anything, (h, w, 3) uint8; None where it cannot be."""
        return None

    @property
    def finished(self) -> Finish | None:
        """What is done to its own pixels; None where nothing can be."""
        return None

    def _laid(self, below: np.ndarray, own: np.ndarray) -> np.ndarray:
        """Its pixels (h, w, 4) over what is below, at its opacity."""
        alpha = own[..., 3]
        if self.opacity < 1:
            alpha = np.asarray(np.round(alpha * self.opacity), np.uint8)
        return lay_over(below, own[..., :3], alpha, self.blend)

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
    """pixels: (h, w, 4) uint8 sRGB with straight alpha, its upper left corner at (x, y), or where its finish's corners begin."""

    sort: ClassVar[str] = "picture"
    pixels: np.ndarray
    x: int = 0
    y: int = 0
    visible: bool = True
    brought: Brought = PLAIN
    finish: Finish = PLAIN_FINISH

    @property
    def bounds(self) -> Rect:
        h, w = self.pixels.shape[:2]
        if self.finish.corners is not None:
            w, h = (max(1, math.ceil(max(p[axis] for p in self.finish.corners) - 1e-6)) for axis in (0, 1))
        return Rect(self.x, self.y, self.x + w, self.y + h)

    @property
    def corners(self) -> Corners:
        """Where its own corners lie on the sheet."""
        h, w = self.pixels.shape[:2]
        a, b, c, d = ((self.x + x, self.y + y) for x, y in self.finish.corners or corners_of(0, 0, w, h))
        return a, b, c, d

    def with_corners(self, corners: Corners) -> Self:
        """The same own pixels drawn between other corners on the sheet; what it was brought to is to be looked for anew.

        Raises:
            Refused: nothing can be drawn between them.
        """
        h, w = self.pixels.shape[:2]
        x, y = (math.floor(min(p[axis] for p in corners) + 1e-6) for axis in (0, 1))
        a, b, c, d = ((max(0.0, px - x), max(0.0, py - y)) for px, py in corners)
        own = (a, b, c, d) == corners_of(0, 0, w, h)
        return replace(self, x=x, y=y, finish=replace(self.finish, corners=None if own else (a, b, c, d)), brought=PLAIN)

    def as_picture(self) -> PictureLayer:
        return self

    def on_own(self, grey: np.ndarray) -> np.ndarray:
        return unwarped(grey, self.corners, *self.pixels.shape[:2])

    @property
    def finished(self) -> Finish:
        return self.finish

    @property
    def shown(self) -> np.ndarray:
        made = self.finish.on(self.pixels)
        if self.brought.change is None:
            return made
        return np.dstack([self.brought.on(made[..., :3]), made[..., 3]])

    @property
    def brought_by(self) -> Mapping[str, float]:
        return {"match": self.brought.match, "seamless": self.brought.seamless}

    @property
    def own_colours(self) -> np.ndarray:
        return self.finish.on(self.pixels)[..., :3]

    @property
    def edge(self) -> Mapping[str, float]:
        return {"opacity": self.opacity}

    def lay_on(self, below: np.ndarray, rect: Rect) -> None:
        there, here = meet(self.bounds, rect)
        own = self.finish.on(self.pixels)[here]
        if self.brought.change is not None:
            own = np.dstack([self.brought.on(own[..., :3], here), own[..., 3]])
        if self.opacity == 1 and not below[there].any():
            # Nothing below: the layer's own bytes, also under full transparency.
            below[there] = own
        else:
            below[there] = self._laid(below[there], own)

    @property
    def extra(self) -> Mapping[str, np.ndarray]:
        own = {} if self.finish.plain else {ORIGINAL: self.pixels}
        return {**own, **self.finish.pictures(), **self.brought.pictures()}

    def moved(self, dx: int, dy: int) -> Self:
        return replace(self, x=self.x + dx, y=self.y + dy)

    def scaled(self, kx: float, ky: float, draw: Draw) -> Self:
        if self.finish.corners is not None:
            # Its own pixels are kept, and only drawn larger or smaller.
            a, b, c, d = ((x * kx, y * ky) for x, y in self.corners)
            made = self.with_corners((a, b, c, d))
            return replace(made, brought=self.brought.scaled(made.bounds.height, made.bounds.width))
        to = self._scaled_bounds(kx, ky)
        pixels = _drawn_rgba(self.pixels, to.height, to.width, draw)
        finish, brought = self.finish.scaled(to.height, to.width), self.brought.scaled(to.height, to.width)
        return replace(self, pixels=pixels, x=to.x0, y=to.y0, brought=brought, finish=finish)

    def to_json(self) -> dict[str, Any]:
        return self._said() | {"x": self.x, "y": self.y} | self.finish.to_json() | self.brought.to_json()

    @classmethod
    def from_json(cls, key: int, name: str, visible: bool, d: dict[str, Any], pixels: np.ndarray, pictures: Pictures) -> Self:
        x, y = (taken_whole(needed(d, k, "A layer"), f"A layer's {k}") for k in "xy")
        if max(abs(x), abs(y)) > FARTHEST:
            raise Refused(worded("A layer lies too far outside."))
        brought = Brought.from_json(d, pixels.shape[:2], pictures)
        own = pictures.colours(taken_words(d[ORIGINAL], worded("A layer's original"))) if ORIGINAL in d else brought.off(pixels)
        made = cls(key, name, own, x, y, visible, brought, Finish.from_json(d, own.shape, pictures), **cls._more_of(d), **common_of(d))
        if (made.bounds.height, made.bounds.width) != pixels.shape[:2]:
            raise Refused(worded("A layer has another size than its picture."))
        return made

    @classmethod
    def _more_of(cls, d: dict[str, Any]) -> dict[str, Any]:
        """What only layers of its sort know, out of what a file says."""
        return {}


@dataclass(frozen=True, eq=False)
class Patch(Layer):
    """A kept take. pixels: (h, w, 3) uint8, whole, at frame's place; region: (h, w) uint8, painted where
    above 0; grow and feather: its edge in sheet pixels, adjustable at any time; recipe: how it was made."""

    sort: ClassVar[str] = "patch"
    frame: Rect
    pixels: np.ndarray
    region: np.ndarray
    grow: float = 0.0
    feather: float = 0.0
    visible: bool = True
    recipe: dict[str, Any] | None = None
    brought: Brought = PLAIN
    finish: Finish = PLAIN_FINISH

    def __post_init__(self) -> None:
        super().__post_init__()
        if not (0 <= self.feather <= 10_000 and -10_000 <= self.grow <= 10_000):
            raise Refused(worded("The edge of “{0}” is grown and feathered by at most 10000 pixels.", self.name))

    @property
    def bounds(self) -> Rect:
        return self.frame

    @cached_property
    def _alpha(self) -> np.ndarray:
        return self.finish.covered(edge_alpha(self.region, self.grow, self.feather))

    def alpha(self) -> np.ndarray:
        """How much of it shows, (h, w) uint8."""
        return self._alpha

    @property
    def finished(self) -> Finish:
        return self.finish

    @property
    def shown(self) -> np.ndarray:
        return np.dstack([self.brought.on(self.own_colours), self.alpha()])

    def lay_on(self, below: np.ndarray, rect: Rect) -> None:
        there, here = meet(self.frame, rect)
        colours = self.brought.on(self.own_colours[here], here)
        below[there] = self._laid(below[there], np.dstack([colours, self._alpha[here]]))

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
            finish=self.finish.scaled(to.height, to.width),
        )

    @property
    def brought_by(self) -> Mapping[str, float]:
        return {"match": self.brought.match, "seamless": self.brought.seamless}

    @property
    def own_colours(self) -> np.ndarray:
        return self.finish.colours(self.pixels)

    @property
    def edge(self) -> Mapping[str, float]:
        # A patch that fills its whole frame has no edge to grow.
        partial = not bool(self.region.all())
        return {"opacity": self.opacity} | ({"grow": self.grow, "feather": self.feather} if partial else {})

    @property
    def extra(self) -> Mapping[str, np.ndarray]:
        own = {} if self.finish.adjustment.plain else {ORIGINAL: self.pixels}
        return {"region": self.region, **own, **self.finish.pictures(), **self.brought.pictures()}

    def to_json(self) -> dict[str, Any]:
        f = self.frame
        own = {"x": f.x0, "y": f.y0, "frame": [f.x0, f.y0, f.x1, f.y1], "grow": self.grow, "feather": self.feather, "recipe": self.recipe}
        return self._said() | own | self.finish.to_json() | self.brought.to_json()

    @classmethod
    def from_json(cls, key: int, name: str, visible: bool, d: dict[str, Any], pixels: np.ndarray, pictures: Pictures) -> Patch:
        frame = rect_from_json(needed(d, "frame", "A patch"), worded("A patch's frame"))
        region = pictures(taken_words(needed(d, "region", "A patch"), "A patch's region"))
        if pixels.shape[:2] != (frame.height, frame.width) or region.shape != pixels.shape[:2]:
            raise Refused(worded("A patch has another size than its frame."))
        grow, feather = (taken_number(d.get(k, 0.0), f"A patch's {k}") for k in ("grow", "feather"))
        recipe = d.get("recipe")
        recipe = None if recipe is None else taken_table(recipe, "A patch's recipe")
        brought = Brought.from_json(d, region.shape, pictures)
        finish = Finish.from_json(d, region.shape, pictures)
        whole = pictures.colours(taken_words(d[ORIGINAL], worded("A patch's original"))) if ORIGINAL in d else brought.off(pixels)
        if whole.shape[:2] != region.shape or finish.corners is not None:
            raise Refused(worded("A patch has another size than its frame."))
        own = np.ascontiguousarray(whole[..., :3])
        return Patch(key, name, frame, own, region, grow, feather, visible, recipe, brought, finish, **common_of(d))


def kept(layer: Layer) -> dict[str, Any]:
    """What stays with a layer when it becomes of another sort."""
    return {name: getattr(layer, name) for name in ("opacity", "blend", "role", "group", "acts", "of")}


def common_of(d: Mapping[str, Any]) -> dict[str, Any]:
    """What any layer has, out of what a file says of it."""
    out: dict[str, Any] = {"opacity": taken_number(d.get("opacity", 1.0), worded("A layer's opacity"))}
    usual = {"blend": NORMAL, "role": BOTH, "group": ""}
    what = worded("A layer's share of the steps")
    acts = [taken_number(v, what) for v in taken_list(d.get("acts", list(WHOLE)), what)]
    if len(acts) != 2:
        raise Refused(worded("{0} has to be two numbers.", what))
    of = None if d.get("of") is None else taken_whole(d["of"], worded("The element of a layer"))
    words = {name: taken_words(d.get(name, plain), worded("A layer's {0}", name)) for name, plain in usual.items()}
    return out | words | {"acts": (acts[0], acts[1]), "of": of}


def meet(bounds: Rect, rect: Rect) -> tuple[tuple[slice, slice], tuple[slice, slice]]:
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
