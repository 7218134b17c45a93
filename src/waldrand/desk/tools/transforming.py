"""The chosen layer by its handles: scaled, turned, sheared, its corners put anywhere. Its own pixels are never lost."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF

from ...core.picture.warped import Corners, check_corners, turned_corners
from ...core.refused import Refused
from ...core.values.belonging import rejoined
from ...core.values.layers import PictureLayer
from ...core.values.sheet import Sheet
from ...core.worded import worded
from .hand import UnderHand

#: Screen pixels: round a handle that it is taken at, and from the upper edge to the knob that turns.
GRIP, KNOB = 8.0, 26.0
#: The least of a side, sheet pixels; and degrees that turning goes in with Shift.
LEAST_SIDE, STEP = 2.0, 15.0


class LayerCorners:
    """What is dragged of the chosen layer: handles 0 to 3 are its corners, 4 to 7 the middles of its sides, 8 the knob."""

    def __init__(self, view: UnderHand) -> None:
        self.view, self.document = view, view.document
        self._handle: int | None = None
        self._before: PictureLayer | None = None
        self._sheet: Sheet | None = None
        self._now: Corners | None = None
        self._from = QPointF()

    @property
    def layer(self) -> PictureLayer | None:
        """The chosen layer, where it can be changed so."""
        key, sheet = self.view.selection.layer, self.document.sheet
        if key is None or not sheet.has_layer(key) or not sheet.layer(key).visible:
            return None
        return sheet.layer(key).as_picture()

    @property
    def busy(self) -> bool:
        return self._handle is not None

    def handles(self) -> list[tuple[float, float]]:
        """Where they are, in sheet coordinates."""
        layer = self.layer
        if layer is None:
            return []
        c = self._now or layer.corners
        sides = [((c[i][0] + c[(i + 1) % 4][0]) / 2, (c[i][1] + c[(i + 1) % 4][1]) / 2) for i in range(4)]
        (ax, ay), (bx, by), top = c[0], c[1], sides[0]
        length = max(1e-6, math.dist(c[0], c[1]))
        # Out of the layer: to the left of the way from its upper left corner to the upper right one, unless it is mirrored.
        out = 1.0 if _area(c) > 0 else -1.0
        away = out * KNOB / self.view.scale_now / length
        knob = (top[0] + away * (by - ay), top[1] - away * (bx - ax))
        return [*c, *sides, knob]

    def at(self, p: QPointF) -> int | None:
        """The handle under a point."""
        near = GRIP / self.view.scale_now
        found = [i for i, (x, y) in enumerate(self.handles()) if abs(x - p.x()) <= near and abs(y - p.y()) <= near]
        return found[0] if found else None

    def take(self, p: QPointF) -> bool:
        """Whether a handle lies under the point, and is held from here on."""
        handle, layer = self.at(p), self.layer
        if handle is None or layer is None:
            return False
        self._handle, self._before, self._sheet, self._now = handle, layer, self.document.sheet, layer.corners
        self._from = QPointF(round(p.x()), round(p.y()))
        self.view.canvas.show_picture(self._sheet, layer.key)
        self.view.canvas.moving.begin(layer)
        return True

    def drag(self, p: QPointF, even: bool, single: bool) -> None:
        """even: with Shift; single: with Ctrl, one corner alone, or a side along itself."""
        if self._before is None or self._handle is None or self.document.sheet is not self._sheet:
            self.put_down()
            return
        if self._handle < 8:
            # Edges on whole pixels stay sharp.
            p = QPointF(round(p.x()), round(p.y()))
        c, d = self._before.corners, (p.x() - self._from.x(), p.y() - self._from.y())
        if self._handle == 8:
            corners = _turned(c, p, even)
        elif self._handle < 4:
            corners = _corner_alone(c, self._handle, d) if single else _scaled(c, self._handle, p, even)
        else:
            corners = _side(c, self._handle - 4, d, single)
        try:
            check_corners(corners)
        except Refused:
            # Turned inside out: it stays as it was last.
            return
        self._now = corners
        self.view.canvas.moving.show(corners)
        self.view.canvas.show_corners(self.handles(), self.view.scale_now)

    def let_go(self) -> None:
        """What was dragged is done."""
        before, now, sheet = self._before, self._now, self._sheet
        self.put_down()
        if before is None or now is None or sheet is None or now == before.corners:
            return
        set_corners(self.view, before, now, worded("transform “{0}”", before.name))

    def put_down(self) -> None:
        if self._handle is not None:
            self._handle = self._before = self._sheet = self._now = None
            self.view.canvas.moving.end()
            self.view.canvas.show_picture(self.view.layers.as_shown(self.document.sheet))


def set_corners(view: UnderHand, layer: PictureLayer, corners: Corners, what: str, merge: str = "") -> None:
    """A layer between other corners, brought to what lies below as much as before."""
    sheet = view.document.sheet
    try:
        made = layer.with_corners(corners)
        amounts = dict(layer.brought_by)
        view.document.edit(rejoined(sheet.with_layer(made), layer.key, amounts), what, merge)
    except Refused as error:
        view.said.emit(str(error))


def _area(c: Corners) -> float:
    """Above 0 where the corners go round clockwise on the screen."""
    return sum(c[i][0] * c[(i + 1) % 4][1] - c[(i + 1) % 4][0] * c[i][1] for i in range(4)) / 2


def _turned(c: Corners, p: QPointF, even: bool) -> Corners:
    mx, my = (sum(q[i] for q in c) / 4 for i in (0, 1))
    top = ((c[0][0] + c[1][0]) / 2, (c[0][1] + c[1][1]) / 2)
    was = math.degrees(math.atan2(top[1] - my, top[0] - mx))
    angle = math.degrees(math.atan2(p.y() - my, p.x() - mx)) - was
    if even:
        own = math.degrees(math.atan2(c[1][1] - c[0][1], c[1][0] - c[0][0]))
        angle = round((own + angle) / STEP) * STEP - own
    return turned_corners(c, angle)


def _corner_alone(c: Corners, i: int, d: tuple[float, float]) -> Corners:
    out = list(c)
    out[i] = (c[i][0] + d[0], c[i][1] + d[1])
    return out[0], out[1], out[2], out[3]


def _scaled(c: Corners, i: int, p: QPointF, free: bool) -> Corners:
    """By a corner, the opposite one staying; at its own ratio unless free."""
    fixed, right, left = c[(i + 2) % 4], c[(i + 1) % 4], c[(i + 3) % 4]
    # In shares of the two sides that meet in the fixed corner.
    a, b = (right[0] - fixed[0], right[1] - fixed[1]), (left[0] - fixed[0], left[1] - fixed[1])
    det = a[0] * b[1] - a[1] * b[0]
    if abs(det) < 1e-9:
        return c
    dx, dy = p.x() - fixed[0], p.y() - fixed[1]
    u, v = (dx * b[1] - dy * b[0]) / det, (a[0] * dy - a[1] * dx) / det
    least = LEAST_SIDE / max(1e-6, min(math.hypot(*a), math.hypot(*b)))
    u, v = max(u, least), max(v, least)
    if not free:
        u = v = max(u, v)
    out = [(0.0, 0.0)] * 4
    out[(i + 2) % 4] = fixed
    out[(i + 1) % 4] = (fixed[0] + u * a[0], fixed[1] + u * a[1])
    out[(i + 3) % 4] = (fixed[0] + v * b[0], fixed[1] + v * b[1])
    mine = (c[i][0] - fixed[0] - a[0] - b[0], c[i][1] - fixed[1] - a[1] - b[1])
    k = (u + v) / 2
    out[i] = (fixed[0] + u * a[0] + v * b[0] + k * mine[0], fixed[1] + u * a[1] + v * b[1] + k * mine[1])
    return out[0], out[1], out[2], out[3]


def _side(c: Corners, side: int, d: tuple[float, float], shear: bool) -> Corners:
    """By the middle of a side: out and in, or along itself."""
    a, b = c[side], c[(side + 1) % 4]
    length = max(1e-6, math.dist(a, b))
    along = ((b[0] - a[0]) / length, (b[1] - a[1]) / length)
    by = d[0] * along[0] + d[1] * along[1]
    move = (by * along[0], by * along[1]) if shear else (d[0] - by * along[0], d[1] - by * along[1])
    out = list(c)
    for i in (side, (side + 1) % 4):
        out[i] = (c[i][0] + move[0], c[i][1] + move[1])
    return out[0], out[1], out[2], out[3]
