"""Work frames: which rectangle a pass computes, and at which size."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from ..refused import Refused
from ..worded import worded


@dataclass(frozen=True)
class Rect:
    """Whole pixels: x0 <= x < x1, y0 <= y < y1."""

    x0: int
    y0: int
    x1: int
    y1: int

    @property
    def width(self) -> int:
        return self.x1 - self.x0

    @property
    def height(self) -> int:
        return self.y1 - self.y0

    @property
    def area(self) -> int:
        return max(0, self.width) * max(0, self.height)

    @property
    def slices(self) -> tuple[slice, slice]:
        """Rows and columns, for arrays (H, W, ...) of the whole sheet."""
        return slice(self.y0, self.y1), slice(self.x0, self.x1)

    def moved(self, dx: int, dy: int) -> Rect:
        return Rect(self.x0 + dx, self.y0 + dy, self.x1 + dx, self.y1 + dy)

    def around(self, other: Rect) -> Rect:
        """The smallest rectangle round both."""
        return Rect(min(self.x0, other.x0), min(self.y0, other.y0), max(self.x1, other.x1), max(self.y1, other.y1))

    def intersect(self, other: Rect) -> Rect:
        x0, y0 = max(self.x0, other.x0), max(self.y0, other.y0)
        return Rect(x0, y0, max(x0, min(self.x1, other.x1)), max(y0, min(self.y1, other.y1)))


@dataclass(frozen=True)
class WorkFrame:
    """rect: on the sheet; width, height: pixels it is computed at."""

    rect: Rect
    width: int
    height: int

    @property
    def scale(self) -> float:
        """Computed pixels per sheet pixel, along one side on average."""
        return math.sqrt(self.width * self.height / max(1, self.rect.area))

    @property
    def told(self) -> str:
        """At which size it is computed, for people."""
        of_sheet = worded(", {0:.2g} times the sheet's size", self.scale) if abs(self.scale - 1) > 0.02 else ""
        return worded("at {0} x {1}{2}", self.width, self.height, of_sheet)


@dataclass(frozen=True)
class FrameLimits:
    """What a pack wants: sides in multiples, an area (pixels) it composes best, least and greatest side; placed_area: what it composes
    best where figures, or a picture that is reworked lightly, tell it each thing's shape, so that more pixels do not make more things;
    0: as without."""

    multiple: int = 64
    best_area: int = 512 * 512
    least_side: int = 256
    greatest_side: int = 1024
    placed_area: int = 0

    @property
    def placed(self) -> FrameLimits:
        """The limits where figures or a picture tell what stands where."""
        return replace(self, best_area=self.placed_area or self.best_area)

    def at(self, detail: float) -> FrameLimits:
        """The limits of what is computed so many times as finely, a side, as the pack does best."""
        best, placed = (round(area * detail**2) for area in (self.best_area, self.placed_area))
        return replace(self, best_area=best, placed_area=placed)


def _round_to(value: float, limits: FrameLimits) -> int:
    k = limits.multiple
    return int(min(max(round(value / k), math.ceil(limits.least_side / k)), limits.greatest_side // k)) * k


def _scale(width: float, height: float, limits: FrameLimits) -> float:
    """Computed pixels per pixel, along one side: for the pack's best area, or as many as its greatest side allows."""
    return min(math.sqrt(limits.best_area / (width * height)), limits.greatest_side / max(width, height))


def no_larger(frame: WorkFrame, limits: FrameLimits) -> WorkFrame:
    """The frame computed at no more than the pack's best area; sides rounded to its multiple."""
    s = math.sqrt(limits.best_area / (frame.width * frame.height))
    if s >= 1:
        return frame
    return replace(frame, width=_round_to(frame.width * s, limits), height=_round_to(frame.height * s, limits))


def finer_frame(frame: WorkFrame, scale: float, limits: FrameLimits) -> WorkFrame:
    """The frame computed at so many pixels for each of the sheet's, a side, as far as the model's sides go."""
    return replace(frame, width=_round_to(frame.rect.width * scale, limits), height=_round_to(frame.rect.height * scale, limits))


def whole_frame(width: int, height: int, limits: FrameLimits) -> WorkFrame:
    """The whole sheet, computed at the pack's best area, or as finely as its greatest side allows; sides rounded to its multiple."""
    s = _scale(width, height, limits)
    return WorkFrame(Rect(0, 0, width, height), _round_to(width * s, limits), _round_to(height * s, limits))


#: The least of the sheet that a frame set by hand has to hold, a side.
LEAST_GIVEN = 16


def given_frame(rect: Rect, width: int, height: int, limits: FrameLimits) -> WorkFrame:
    """A frame set by hand, as far as it lies on the sheet, computed as the whole of a sheet of its size would be.

    Raises:
        Refused: hardly anything of it lies on the sheet.
    """
    inside = rect.intersect(Rect(0, 0, width, height))
    if min(inside.width, inside.height) < LEAST_GIVEN:
        raise Refused(worded("The frame holds less than {0} x {0} pixels of the sheet: move it, or let it fit itself.", LEAST_GIVEN))
    work = whole_frame(inside.width, inside.height, limits)
    return replace(work, rect=inside)


def fitted_frame(box: Rect, width: int, height: int, limits: FrameLimits, margin: float = 0.5) -> WorkFrame:
    """Around a mask's box: `margin` of its longer side as context, never less than the model's least side,
    no narrower than 1 : 2, kept inside the sheet where possible.

    Raises:
        Refused: an empty box.
    """
    if box.area == 0:
        raise Refused(worded("The mask is empty: paint where the picture may change."))
    pad = margin * max(box.width, box.height)
    want_w, want_h = max(box.width + 2 * pad, limits.least_side), max(box.height + 2 * pad, limits.least_side)
    want_w, want_h = max(want_w, want_h / 2), max(want_h, want_w / 2)
    w, h = min(width, round(want_w)), min(height, round(want_h))
    s = _scale(w, h, limits)
    work_w, work_h = _round_to(w * s, limits), _round_to(h * s, limits)
    # The frame takes the computed size's proportions, so that nothing is stretched.
    s = math.sqrt(work_w * work_h / (w * h))
    w, h = min(width, max(round(work_w / s), box.width)), min(height, max(round(work_h / s), box.height))
    x0 = min(max(0, round((box.x0 + box.x1 - w) / 2)), width - w)
    y0 = min(max(0, round((box.y0 + box.y1 - h) / 2)), height - h)
    return WorkFrame(Rect(x0, y0, x0 + w, y0 + h), work_w, work_h)
