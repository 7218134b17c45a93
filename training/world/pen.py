"""Drawing in plain colours on a skia canvas: the few strokes every thing is made of."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager

import numpy as np
import skia

Colour = tuple[float, float, float]
Point = tuple[float, float]


def mix(a: Sequence[float], b: Sequence[float], t: float) -> Colour:
    """Colour t of the way from a to b."""
    return tuple(x + (y - x) * t for x, y in zip(a, b, strict=True))  # type: ignore[return-value]


def times(a: Sequence[float], b: Sequence[float]) -> Colour:
    """Colour a under light b."""
    return tuple(x * y for x, y in zip(a, b, strict=True))  # type: ignore[return-value]


def shade(a: Sequence[float], f: float) -> Colour:
    """Colour a made darker (f < 1) or lighter (f > 1)."""
    return tuple(x * f for x in a)  # type: ignore[return-value]


def _color4f(rgb: Sequence[float], alpha: float = 1.0) -> skia.Color4f:
    return skia.Color4f(*(max(0.0, min(1.0, float(v) / 255)) for v in rgb), alpha)


class Pen:
    """Draws filled shapes; coordinates are the canvas's current ones. lit: whether things are modelled by the light."""

    lit = True

    def __init__(self, canvas: skia.Canvas) -> None:
        self.canvas = canvas

    @contextmanager
    def part(self, name: str) -> Iterator[None]:
        """What is drawn within is a named part of the thing, and of the parts that it lies in."""
        yield

    def paint(self, rgb: Sequence[float], alpha: float = 1.0, width: float = 0.0) -> skia.Paint:
        p = skia.Paint(AntiAlias=True)
        p.setColor4f(_color4f(rgb, alpha))
        if width:
            p.setStyle(skia.Paint.kStroke_Style)
            p.setStrokeWidth(width)
            p.setStrokeCap(skia.Paint.kRound_Cap)
            p.setStrokeJoin(skia.Paint.kRound_Join)
        return p

    def poly(self, points: Iterable[Point], rgb: Sequence[float], alpha: float = 1.0) -> None:
        self.canvas.drawPath(skia.Path.Polygon([skia.Point(*p) for p in points], True), self.paint(rgb, alpha))

    def rect(self, x0: float, y0: float, x1: float, y1: float, rgb: Sequence[float], round_: float = 0.0) -> None:
        r = skia.Rect(min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1))
        self.canvas.drawRRect(skia.RRect.MakeRectXY(r, round_, round_), self.paint(rgb))

    def oval(self, cx: float, cy: float, rx: float, ry: float, rgb: Sequence[float], alpha: float = 1.0) -> None:
        self.canvas.drawOval(skia.Rect(cx - rx, cy - ry, cx + rx, cy + ry), self.paint(rgb, alpha))

    def dot(self, x: float, y: float, r: float, rgb: Sequence[float], alpha: float = 1.0) -> None:
        self.oval(x, y, r, r, rgb, alpha)

    def line(self, points: Sequence[Point], width: float, rgb: Sequence[float], alpha: float = 1.0) -> None:
        self.canvas.drawPath(skia.Path.Polygon([skia.Point(*p) for p in points], False), self.paint(rgb, alpha, width))

    def curve(self, steps: Sequence[tuple[float, ...]], rgb: Sequence[float], alpha: float = 1.0, width: float = 0.0) -> None:
        """A path, filled or (width > 0) stroked: its first point, then lines (x, y), quadratic
        (cx, cy, x, y) and cubic (ax, ay, bx, by, x, y) pieces."""
        path = skia.Path()
        path.moveTo(*steps[0])
        draw = {2: path.lineTo, 4: path.quadTo, 6: path.cubicTo}
        for step in steps[1:]:
            draw[len(step)](*step)
        if not width:
            path.close()
        self.canvas.drawPath(path, self.paint(rgb, alpha, width))

    def blob(self, points: Sequence[Point], rgb: Sequence[float], alpha: float = 1.0) -> None:
        """A smooth closed shape through points (Catmull-Rom)."""
        path, n = skia.Path(), len(points)
        path.moveTo(*points[0])
        for i in range(n):
            (ax, ay), (bx, by), (cx, cy), (dx, dy) = (points[(i + j) % n] for j in (-1, 0, 1, 2))
            path.cubicTo(bx + (cx - ax) / 6, by + (cy - ay) / 6, cx - (dx - bx) / 6, cy - (dy - by) / 6, cx, cy)
        path.close()
        self.canvas.drawPath(path, self.paint(rgb, alpha))

    def limb(self, points: Sequence[Point], widths: Sequence[float], rgb: Sequence[float]) -> None:
        """A line that grows or shrinks in width from point to point, round at its ends and bends."""
        for (x, y), w in zip(points, widths, strict=True):
            self.dot(x, y, w / 2, rgb)
        for (a, wa), (b, wb) in itertools.pairwise(zip(points, widths, strict=True)):
            dx, dy = b[0] - a[0], b[1] - a[1]
            length = max(1e-6, math.hypot(dx, dy))
            nx, ny = -dy / length / 2, dx / length / 2
            self.poly(
                [
                    (a[0] + nx * wa, a[1] + ny * wa),
                    (b[0] + nx * wb, b[1] + ny * wb),
                    (b[0] - nx * wb, b[1] - ny * wb),
                    (a[0] - nx * wa, a[1] - ny * wa),
                ],
                rgb,
            )

    def star(self, x: float, y: float, r: float, petals: int, rgb: Sequence[float], fat: float = 0.5) -> None:
        """Round petals about a middle."""
        for i in range(petals):
            a = i * 2 * math.pi / petals - math.pi / 2
            self.dot(x + r * 0.62 * math.cos(a), y + r * 0.62 * math.sin(a), r * fat, rgb)

    def glow(self, x: float, y: float, r: float, rgb: Sequence[float], alpha: float) -> None:
        """A soft round light, strongest in the middle."""
        p = skia.Paint(AntiAlias=True)
        p.setShader(
            skia.GradientShader.MakeRadial(
                skia.Point(x, y),
                r,
                [_color4f(rgb, alpha).toColor(), _color4f(rgb, alpha * 0.35).toColor(), _color4f(rgb, 0).toColor()],
                [0.0, 0.45, 1.0],
            )
        )
        self.canvas.drawCircle(x, y, r, p)

    def fade(self, rect: tuple[float, float, float, float], stops: Sequence[tuple[float, Sequence[float], float]]) -> None:
        """A rectangle shaded from top to bottom; stops are (place 0..1, colour, alpha)."""
        x0, y0, x1, y1 = rect
        self.canvas.drawRect(skia.Rect(x0, y0, x1, y1), self.fade_paint(y0, y1, stops))

    def fade_paint(self, y0: float, y1: float, stops: Sequence[tuple[float, Sequence[float], float]]) -> skia.Paint:
        p = skia.Paint(AntiAlias=True)
        p.setShader(
            skia.GradientShader.MakeLinear(
                [skia.Point(0, y0), skia.Point(0, y1)], [_color4f(c, a).toColor() for _, c, a in stops], [t for t, _, _ in stops]
            )
        )
        return p


class PartsPen(Pen):
    """Draws the same shapes, each in a flat colour that stands for the parts it belongs to: `shown` reads them off again."""

    lit = False

    def __init__(self, canvas: skia.Canvas) -> None:
        super().__init__(canvas)
        self._within: list[str] = []
        self._codes: dict[frozenset[str], int] = {frozenset(): 0}

    @contextmanager
    def part(self, name: str) -> Iterator[None]:
        self._within.append(name)
        yield
        self._within.pop()

    def paint(self, rgb: Sequence[float], alpha: float = 1.0, width: float = 0.0) -> skia.Paint:
        p = super().paint((0, 0, self._codes.setdefault(frozenset(self._within), len(self._codes))), 1.0, width)
        p.setAntiAlias(False)
        return p

    def glow(self, x: float, y: float, r: float, rgb: Sequence[float], alpha: float) -> None:
        """A glow belongs to no part."""

    def fade_paint(self, y0: float, y1: float, stops: Sequence[tuple[float, Sequence[float], float]]) -> skia.Paint:
        return self.paint((0, 0, 0))

    def shown(self, codes: np.ndarray) -> dict[str, np.ndarray]:
        """Where each part is seen, (H, W) bool, from the blue channel (H, W) uint8 of what was drawn; parts of which something is."""
        names = {name for open_ in self._codes for name in open_}
        seen = {name: np.isin(codes, [code for open_, code in self._codes.items() if name in open_]) for name in names}
        return {name: mask for name, mask in seen.items() if mask.any()}
