"""Drawing in plain colours on a skia canvas: the few strokes every thing is made of."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

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
    """Draws filled shapes; coordinates are the canvas's current ones."""

    def __init__(self, canvas: skia.Canvas) -> None:
        self.canvas = canvas

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
