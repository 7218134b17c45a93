"""The picture in the making: layers far to near, each with its true mask."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
import skia

from .pen import Colour, PartsPen, Pen, mix, times
from .things import Light, Look, Thing

UNIT = 32
#: Shapes (width, height) in cells: square first, then landscapes and portraits of like area.
SHAPES = ((32, 32), (40, 28), (28, 40), (44, 24), (24, 44), (36, 28), (48, 24))
Said = tuple[str, float]
#: What a canvas shows of a scene: the left and upper edge in units, and how many times nearer than the whole.
View = tuple[float, float, float]
P = TypeVar("P", bound=Pen)


@dataclass(frozen=True)
class Part:
    """One named part of a scene.

    kind: its words; before and after: what else is true of it, each with how often it is said; big: whether it fills the
    picture like a ground does; mask: (h, w) float32 visible share 0..1 of each cell, or of each piece of a cell on a fine canvas.
    """

    kind: str
    before: tuple[Said, ...]
    after: tuple[Said, ...]
    big: bool
    mask: np.ndarray


class Canvas:
    """A picture of cells_w x cells_h cells; coordinates are in units of UNIT cells, from 0 to `width` and `height`.

    fine: masks have so many pieces to a cell's side. named: things are drawn a second time, for the masks of their parts. view: a
    part of the scene is drawn, as large and sharp as the whole; coordinates stay the whole's.
    """

    def __init__(self, shape: tuple[int, int], size: int, fine: int = 1, named: bool = False, view: View = (0.0, 0.0, 1.0)) -> None:
        if size % (UNIT * fine):
            raise ValueError(f"A scene's size has to be a multiple of {UNIT * fine}, not {size}.")
        self.fine, self.view = fine, view
        self.cells_w, self.cells_h = shape
        self.width, self.height = self.cells_w / UNIT, self.cells_h / UNIT
        self.size, self.per_cell = size, size // UNIT
        self.pixels_w, self.pixels_h = self.cells_w * self.per_cell, self.cells_h * self.per_cell
        self.surface = skia.Surface(self.pixels_w, self.pixels_h)
        self.canvas = self.surface.getCanvas()
        self.parts: list[Part] = []
        self.named: dict[str, np.ndarray] | None = {} if named else None

    @property
    def scale(self) -> float:
        """How large a thing of size 1 may be here."""
        return min(self.height, 1.1 * self.width)

    def layer(
        self, draw: Callable[[Pen], None], kind: str, before: tuple[Said, ...] = (), after: tuple[Said, ...] = (), big: bool = False
    ) -> None:
        image, _ = self._drawn(draw, Pen)
        # A soft glow belongs to the air, not to the thing: only what is nearly opaque counts.
        mask = self._pieces(np.clip(image.toarray()[..., 3].astype(np.float32) - 96, 0, 128) / 128)
        self.canvas.drawImage(image, 0, 0)
        if self.named is not None:
            codes, pen = self._drawn(draw, PartsPen)
            seen = {name: self._pieces(there) for name, there in pen.shown(codes.toarray()[..., 0]).items()}
            self.named = {name: m * (1 - mask) for name, m in self.named.items()}
            self.named |= {name: np.maximum(self.named.get(name, 0), m) for name, m in seen.items()}
        self.parts = [Part(p.kind, p.before, p.after, p.big, p.mask * (1 - mask)) for p in self.parts]
        self.parts.append(Part(kind, before, after, big, mask))

    def _drawn(self, draw: Callable[[Pen], None], pen: type[P]) -> tuple[skia.Image, P]:
        surface = skia.Surface(self.pixels_w, self.pixels_h)
        with surface as canvas:
            self._look(canvas)
            drawn = pen(canvas)
            draw(drawn)
        return surface.makeImageSnapshot(), drawn

    def _look(self, canvas: skia.Canvas) -> None:
        """Has a canvas of pixels drawn on in units."""
        x, y, nearer = self.view
        canvas.scale(self.size * nearer, self.size * nearer)
        canvas.translate(-x, -y)

    def _pieces(self, pixels: np.ndarray) -> np.ndarray:
        """The means (h, w) of the pieces of cells of (H, W)."""
        k = self.per_cell // self.fine
        return np.asarray(pixels.reshape(self.cells_h * self.fine, k, self.cells_w * self.fine, k).mean((1, 3)), np.float32)

    def loose(self, draw: Callable[[Pen], None]) -> None:
        """Something that belongs to no part: shadow, reflection, weather."""
        self.canvas.save()
        self._look(self.canvas)
        draw(Pen(self.canvas))
        self.canvas.restore()

    def pixels(self) -> np.ndarray:
        return np.ascontiguousarray(self.surface.makeImageSnapshot().toarray()[..., [2, 1, 0]])


@dataclass(frozen=True)
class Stand:
    """A thing in its place: standing at (x, y), `height` units high; haze: colour of the air, and how thick it is 0..1."""

    thing: Thing
    look: Look
    x: float
    y: float
    height: float
    flip: bool
    haze: Colour = (255, 255, 255)
    thick: float = 0.0
    sun: float = 0.0

    @property
    def reach(self) -> float:
        return self.height * self.thing.half_width


def free_place(
    rng: np.random.Generator,
    between: tuple[float, float],
    width: float,
    reach: float,
    taken: list[tuple[float, float]],
    apart: float,
    tries: int,
) -> float:
    """A place across the picture for something that reaches so far to both sides, now taken; the last one tried if none is free.

    between: shares of the width; taken: (x, reach) of what stands already; apart: 1 allows no overlap, less allows some.
    """
    for _ in range(tries):
        x = float(rng.uniform(*between) * width)
        if all(abs(x - a) > (reach + b) * apart for a, b in taken):
            break
    taken.append((x, reach))
    return x


def draw_standing(p: Pen, s: Stand) -> None:
    """Draws a thing, modelled by the light from one side and a little veiled by the air."""
    c, wide = p.canvas, s.thing.half_width + 0.3
    c.save()
    c.translate(s.x, s.y)
    c.scale(-s.height if s.flip else s.height, s.height)
    shaded = p.lit and not s.thing.flat and s.thing.place != "sky"
    if shaded:
        c.saveLayer()
    s.thing.draw(p, s.look)
    if shaded:
        light = skia.Paint(AntiAlias=True, BlendMode=skia.BlendMode.kSrcATop)
        towards = 1.0 if (s.sun >= 0) != s.flip else -1.0
        a, b = skia.Point(towards * wide, -1.0), skia.Point(-towards * wide * 0.8, 0.1)
        warm, cool = skia.Color4f(1.0, 0.95, 0.8, 0.2), skia.Color4f(0.1, 0.08, 0.26, 0.26)
        light.setShader(
            skia.GradientShader.MakeLinear([a, b], [warm.toColor(), skia.Color4f(0.5, 0.45, 0.5, 0.0).toColor(), cool.toColor()])
        )
        c.drawRect(skia.Rect(-wide - 1, -1.6, wide + 1, 0.3), light)
        if s.thick > 0:
            veil = skia.Paint(BlendMode=skia.BlendMode.kSrcATop)
            veil.setColor4f(skia.Color4f(*(v / 255 for v in s.haze), s.thick))
            c.drawRect(skia.Rect(-wide - 1, -1.6, wide + 1, 0.3), veil)
        c.restore()
    c.restore()


def draw_shadow(p: Pen, s: Stand, ground: Colour, light: Light) -> None:
    """The thing's own shape, lying on the ground away from the light, and a soft dark spot under it."""
    dark = times(mix((44, 46, 84), ground, 0.3), light.colour)
    r = s.reach
    p.oval(s.x + r * 0.06, s.y, r * 0.98, s.height * 0.035 + 0.006, dark, 0.42)
    if s.thing.flat or light.night > 0.7:
        return
    strength = 0.34 * (1 - light.night) * (1 if light.colour[0] > 0.95 else 0.8)
    c = p.canvas
    c.save()
    c.translate(s.x, s.y)
    c.concat(skia.Matrix().setAll(1, -s.sun * 1.0, 0, 0, 0.34, 0, 0, 0, 1))
    c.scale(-s.height if s.flip else s.height, s.height)
    paint = skia.Paint(Alphaf=strength)
    paint.setColorFilter(skia.ColorFilters.Blend(skia.ColorSetRGB(*(int(max(0, min(255, v))) for v in dark)), skia.BlendMode.kSrcIn))
    c.saveLayer(None, paint)
    s.thing.draw(p, s.look)
    c.restore()
    c.restore()


def draw_reflection(p: Pen, s: Stand) -> None:
    """The thing upside down in the water, shorter and faint."""
    c = p.canvas
    c.save()
    c.translate(s.x, s.y - 0.004)
    c.scale(-s.height if s.flip else s.height, -s.height * 0.6)
    c.saveLayer(None, skia.Paint(Alphaf=0.34))
    s.thing.draw(p, s.look)
    c.restore()
    c.restore()
