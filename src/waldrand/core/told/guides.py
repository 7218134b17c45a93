"""What a pass is told by pictures: drawings, depth, and the looks of other pictures, from the layers that are used so."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

import numpy as np
from scipy import ndimage

from ..packs import ELEMENT, SCENE, Guides, Pack, PackInfo, Rows
from ..picture.ink import ink, nearness
from ..picture.resample import largest_in_cells, resize_grey_part, resize_mask, resize_picture
from ..picture.spread import spread
from ..values.frame import Rect, WorkFrame
from ..values.layers import DEPTH, LINES, LOOK, Layer, meet
from ..values.outline import rasterise
from ..values.sheet import Sheet
from .look import LEAST_CELLS, look_of

#: Values of a guide to a cell's side.
PER_CELL = 4
#: The longest side, in pixels, at which a picture is looked at for its look.
LOOKED_AT = 512
#: How far beyond a sketch's mask its own lines reach, in shares of its longer side.
RIM = 0.02
#: A drawing that is computed smaller by more than this is drawn broader by so many of the sheet's pixels to one of them.
BROADER = 1.5


@dataclass(frozen=True, eq=False)
class Sketch:
    """A thing's own drawing, fitted into a box on the sheet. lines, mask: (h, w) uint8 of any two sizes; weight: 0..1."""

    box: tuple[float, float, float, float]
    lines: np.ndarray
    mask: np.ndarray
    weight: float = 1.0


@dataclass(frozen=True, eq=False)
class _Part:
    """What one layer, or all sketches together, say. acts: from and to which share of the steps; grey: (H, W) float32 of the frame;
    where: 0..1 how much it says there, None: everywhere; behind: whether it is grounds that are drawn; lines_only: whether it is
    not said what is within the lines."""

    what: str
    grey: np.ndarray
    acts: tuple[float, float]
    weight: float = 1.0
    where: np.ndarray | None = None
    behind: bool = False
    lines_only: bool = False


@dataclass(frozen=True, eq=False)
class OnFrame:
    """All guides of one frame. parts at the frame's computed size; rect: of the sheet; sketches: those of things."""

    parts: tuple[_Part, ...]
    cells: tuple[int, int]
    rect: Rect
    sketches: tuple[Sketch, ...] = ()

    def at(self, share: float) -> Guides | None:
        """What is told at a share of the steps, 0..1; None: nothing."""
        now = [(p, small) for p, small in zip(self.parts, self._small, strict=True) if p.acts[0] <= share <= p.acts[1]]
        drawn = [(p, p.weight * small) for p, small in now if p.what == LINES and p.weight > 0]
        lines, behind = [grey for _, grey in drawn], [grey for p, grey in drawn if p.behind]
        depth, given = _over([(p, small) for p, small in now if p.what == DEPTH])
        if not lines and depth is None:
            return None
        return Guides(_greatest(lines), depth, given, behind=_greatest(behind))

    @cached_property
    def _small(self) -> list[np.ndarray]:
        """What each part says, as it is told: asked for at every step."""
        h, w = (PER_CELL * n for n in self.cells)
        return [resize_mask(p.grey, h, w) for p in self.parts]

    def of_things(self, share: float) -> np.ndarray:
        """How much of each cell is a thing that is drawn at a share of the steps, (h, w) float32 0..1: what sketches cover, and where
        lines are of which it is not said what is within them."""
        both = zip(self.parts, self._small, strict=True)
        lines = [p.weight * small for p, small in both if p.lines_only and p.acts[0] <= share <= p.acts[1]]
        return np.maximum.reduce([self._covered, *(largest_in_cells(small, *self.cells) for small in lines)])

    @cached_property
    def _covered(self) -> np.ndarray:
        h, w = self.cells
        out = np.zeros((PER_CELL * h, PER_CELL * w), np.float32)
        for sketch in self.sketches:
            np.maximum(out, sketch.weight * mask_on(sketch, self.rect, *out.shape), out=out)
        return np.asarray(out.reshape(h, PER_CELL, w, PER_CELL).mean((1, 3)))

    @property
    def drawing(self) -> np.ndarray | None:
        """All that is drawn, (H, W) float32 at the frame's computed size: for whoever draws the picture large at the end."""
        lines = [p.weight * p.grey for p in self.parts if p.what == LINES and p.weight > 0 and p.acts[1] >= 1]
        return _greatest(lines)


def _greatest(maps: Sequence[np.ndarray]) -> np.ndarray | None:
    return np.maximum.reduce(maps) if maps else None


def _over(parts: Sequence[tuple[_Part, np.ndarray]]) -> tuple[np.ndarray | None, float]:
    """Depths, each with its part, one over the other, and how much they are given."""
    parts = [(p, small) for p, small in parts if p.weight > 0]
    if not parts:
        return None, 0.0
    depth = np.zeros_like(parts[0][1])
    for p, small in parts:
        share = np.ones_like(small) if p.where is None else resize_mask(p.where, *small.shape)
        depth = depth * (1 - share) + share * small
    return depth, max(p.weight for p, _ in parts)


def seen_of(layer: Layer, rect: Rect) -> np.ndarray:
    """What a layer shows in a rectangle of the sheet, (h, w, 4) uint8, at full opacity."""
    out = np.zeros((rect.height, rect.width, 4), np.uint8)
    if layer.bounds.intersect(rect).area:
        there, here = meet(layer.bounds, rect)
        out[there] = layer.shown[here]
    return out


def drawn_of(layer: Layer) -> np.ndarray:
    """What a drawing shows, (h, w) uint8 of its bounds: 255 where a line is."""
    return _told_ink(layer) if layer.ink is None else layer.ink


@lru_cache(maxsize=8)
def _told_ink(layer: Layer) -> np.ndarray:
    return np.asarray(np.round(255 * ink(layer.shown)), np.uint8)


def drawing_in(layer: Layer, rect: Rect) -> np.ndarray:
    """What a drawing shows in a rectangle of the sheet, (h, w) float32 0..1."""
    out = np.zeros((rect.height, rect.width), np.float32)
    if layer.bounds.intersect(rect).area:
        there, here = meet(layer.bounds, rect)
        out[there] = drawn_of(layer)[here]
        out /= 255
    return out


def on_frame(
    sheet: Sheet,
    frame: WorkFrame,
    sketches: Sequence[Sketch],
    info: PackInfo,
    grounds: Sequence[Sketch] = (),
    own: Sketch | None = None,
) -> OnFrame:
    """The drawings and depths of a sheet, and a stage's sketches, grounds and drawing of the picture itself, as far as the pack can be
    told them."""
    h, w = frame.height, frame.width
    parts = []
    if "lines" in info.capabilities:
        for layer in sheet.guides(LINES):
            parts.append(_Part(LINES, _shrunk_lines(drawing_in(layer, frame.rect), h, w), layer.acts, layer.opacity, lines_only=True))
        things = (*sketches, own) if own is not None else tuple(sketches)
        if things:
            parts.append(_Part(LINES, sketched_lines(things, frame.rect, h, w), (0.0, 1.0), lines_only=own is not None))
        if grounds:
            parts.append(_Part(LINES, sketched_lines(grounds, frame.rect, h, w), (0.0, 1.0), behind=True))
    if "depth" in info.capabilities:
        for layer in sheet.guides(DEPTH):
            seen = seen_of(layer, frame.rect)
            where = resize_mask(seen[..., 3].astype(np.float32) / 255, h, w)
            parts.append(_Part(DEPTH, resize_mask(nearness(seen), h, w), layer.acts, layer.opacity, where))
    return OnFrame(tuple(parts), (h // info.cell, w // info.cell), frame.rect, tuple(sketches) if "lines" in info.capabilities else ())


def drawn_lines(sheet: Sheet, rect: Rect, sketches: Sequence[Sketch], height: int, width: int) -> np.ndarray:
    """All that is drawn in a rectangle of the sheet, (height, width) float32 0..1: its drawings, each as much as it counts, and a stage's
    sketches."""
    out = sketched_lines(sketches, rect, height, width)
    for layer in sheet.guides(LINES):
        out = np.maximum(out, layer.opacity * _shrunk_lines(drawing_in(layer, rect), height, width))
    return np.asarray(out, np.float32)


def _shrunk_lines(drawn: np.ndarray, height: int, width: int) -> np.ndarray:
    """A drawing at a frame's computed size. On a large sheet lines are made broader first: a thin one would be averaged away."""
    times = max(drawn.shape[0] / height, drawn.shape[1] / width)
    return resize_mask(ndimage.maximum_filter(drawn, round(BROADER * times)) if times > BROADER else drawn, height, width)


def sketched_lines(sketches: Sequence[Sketch], rect: Rect, height: int, width: int) -> np.ndarray:
    """Sketches far to near, (height, width) float32 0..1 of a rectangle of the sheet: near ones cover what lies behind them."""
    out = np.zeros((height, width), np.float32)
    for s in sketches:
        at = _lies_at(s, rect, height, width)
        if not at.intersect(Rect(0, 0, width, height)).area:
            continue
        there, here = meet(at, Rect(0, 0, width, height))
        mask = resize_mask(s.mask.astype(np.float32) / 255, at.height, at.width)
        free = out[there] * (1 - mask[here])
        if not s.lines.any():
            out[there] = free
            continue
        lines = mask if s.lines is s.mask else resize_mask(s.lines.astype(np.float32) / 255, at.height, at.width)
        rim = spread(mask, max(1, round(RIM * max(mask.shape))))
        out[there] = np.maximum(free, s.weight * (lines * np.minimum(1, 2 * rim))[here])
    return out


def mask_on(sketch: Sketch, rect: Rect, height: int, width: int) -> np.ndarray:
    """What a sketch covers of a rectangle of the sheet, (height, width) float32 0..1."""
    out, at = np.zeros((height, width), np.float32), _lies_at(sketch, rect, height, width)
    if at.intersect(Rect(0, 0, width, height)).area:
        there, here = meet(at, Rect(0, 0, width, height))
        out[there] = resize_grey_part(sketch.mask, at.height, at.width, *here)
    return out


def _lies_at(sketch: Sketch, rect: Rect, height: int, width: int) -> Rect:
    """Which pixels a sketch covers of a rectangle of the sheet of that size, and beyond it; one at least."""
    kx, ky = width / rect.width, height / rect.height
    x0, y0, x1, y1 = (round((v - start) * k) for v, start, k in zip(sketch.box, 2 * (rect.x0, rect.y0), 2 * (kx, ky), strict=True))
    return Rect(x0, y0, max(x1, x0 + 1), max(y1, y0 + 1))


def look_rows(sheet: Sheet, frame: WorkFrame, pack: Pack) -> Rows | None:
    """The looks that a sheet's layers lend, as rows for the pack; None where there are none, or the pack reads none."""
    if "looks" not in pack.info.capabilities:
        return None
    cells = frame.height // pack.info.cell, frame.width // pack.info.cell
    told = [(layer, look) for layer in sheet.guides(LOOK) if layer.opacity > 0 and (look := look_in(layer, pack)) is not None]
    if not told:
        return None
    n = len(told)
    rows = Rows(
        np.zeros((n, pack.info.phrase_length), np.int64),
        np.full(n, SCENE, np.float32),
        np.zeros((n, *cells), np.float32),
        np.array([layer.opacity for layer, _ in told], np.float32),
        np.stack([look for _, look in told]),
    )
    for i, (layer, _) in enumerate(told):
        if layer.of is not None and sheet.has_element(layer.of):
            rows.kind[i] = ELEMENT
            rows.outline[i] = resize_mask(rasterise(sheet.element(layer.of).outline, frame.rect, frame.height, frame.width), *cells)
    return rows


def look_in(layer: Layer, pack: Pack) -> np.ndarray | None:
    """The look of a layer's own picture, whatever its place on the sheet; None where too little of it is to be seen."""
    seen = layer.shown
    h, w = seen.shape[:2]
    k = min(1.0, LOOKED_AT / max(h, w))
    m = pack.info.limits.multiple
    height, width = (max(m, round(n * k / m) * m) for n in (h, w))
    where = resize_mask(seen[..., 3].astype(np.float32) / 255, height // pack.info.cell, width // pack.info.cell)
    if where.sum() < LEAST_CELLS:
        return None
    picture = resize_picture(seen[..., :3].astype(np.float32) / 255, height, width)
    return look_of(pack.encode(picture), where)


def joined(rows: Rows, more: Rows | None) -> Rows:
    """Rows with others behind them."""
    if more is None:
        return rows
    assert more.looks is not None
    n, looks = len(rows.kind), rows.looks
    had = np.zeros((n, more.looks.shape[1]), np.float32) if looks is None else looks
    return replace(
        rows,
        ids=np.concatenate([rows.ids, more.ids]),
        kind=np.concatenate([rows.kind, more.kind]),
        outline=np.concatenate([rows.outline, more.outline]),
        weight=np.concatenate([rows.weight, more.weight]),
        looks=np.concatenate([had, more.looks]),
    )
