"""Where a pass tells the model drawings of grounds, and what it says of them there."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..packs import Ground, Grounds, Pack
from ..picture.ink import INKED
from ..picture.resample import resize_mask
from ..told.footing import ashore, water_and_bank
from ..told.grounds import horizon_of, laid_out
from ..told.guides import Sketch, drawing_in, mask_on, sketched_lines
from ..told.said import EVERYWHERE, InGround, Said, Where
from ..told.voices import Area, Cells
from ..values.element import phrases
from ..values.frame import Rect, WorkFrame
from ..values.layers import LINES
from ..values.outline import Outline, rasterise
from ..values.shaping import rounded
from ..values.sheet import Sheet
from .fitting import ANEW
from .lights import Lights, lights_in, without_lights
from .ripples import without_cut
from .settings import PassSettings
from .shadows import shadows_of

#: The longer side of the mask of an outline that is kept free of drawn grounds.
COVERED = 256
#: A drawing over more of the sheet's width than this says itself what lies behind.
ACROSS = 0.6


@dataclass(frozen=True, eq=False)
class Grounded:
    """strips: the grounds and their drawings on the sheet, far to near; shadows: on them, under what stands there; covers: what the
    sheet's elements leave free of all that; things: what stands before them and is no element of the sheet's."""

    strips: tuple[tuple[Ground, Sketch], ...] = ()
    shadows: tuple[Sketch, ...] = ()
    covers: tuple[Sketch, ...] = ()
    things: tuple[Sketch, ...] = ()

    @property
    def sketches(self) -> tuple[Sketch, ...]:
        """All that is drawn, far to near."""
        return (*(sketch for _, sketch in self.strips), *self.covers)

    @property
    def shade(self) -> tuple[Sketch, ...]:
        """The shadows, and what covers them."""
        return (*self.shadows, *self.covers) if self.shadows else ()

    @property
    def lights(self) -> tuple[Lights, ...]:
        """What shines in skies, and where it is seen between what is nearer."""
        out = []
        for i, (g, sketch) in enumerate(self.strips):
            if g.light is not None:
                sky = replace(sketch, lines=np.full_like(sketch.mask, 255), mask=np.full_like(sketch.mask, 255))
                near = (replace(one, lines=np.zeros_like(one.lines)) for _, one in self.strips[i + 1 :])
                out.append(Lights(g.light, lights_in(sketch), (sky, *near, *self.covers)))
        return tuple(out)

    @property
    def unlit(self) -> Grounded:
        """The same without what shines in skies: it is laid over what is painted, and told as lines it gets dark rims."""
        strips = ((g, sketch if g.light is None else without_lights(sketch)) for g, sketch in self.strips)
        return replace(self, strips=tuple(strips))

    def lines(self, sheet: Sheet, side: int) -> np.ndarray | None:
        """The grounds' lines, (h, w) float32 0..1 with so many pixels to the sheet's longer side; None where there are none."""
        return self._drawn(self.sketches, sheet, side) if self.strips else None

    def pencil(self, sheet: Sheet, side: int) -> np.ndarray | None:
        """All that is drawn, as `lines`."""
        return self._drawn((*self.sketches, *self.things), sheet, side) if self.strips or self.things else None

    @staticmethod
    def _drawn(sketches: Sequence[Sketch], sheet: Sheet, side: int) -> np.ndarray:
        k = side / max(sheet.width, sheet.height)
        return sketched_lines(sketches, sheet.rect, max(1, round(sheet.height * k)), max(1, round(sheet.width * k)))

    def said(self, told: Sequence[Said], grounds: Grounds | None, weight: float) -> tuple[Said, ...]:
        """What is told, with each ground that is drawn where it is: by the scene's own phrase where that names it alone, else by its
        label at a weight."""
        if grounds is None or not self.strips:
            return tuple(told)
        by = {g.label: Said("scene", "scene", g.label, weight, InGround(g.label)) for g, _ in self.strips if g.told}
        rest = []
        for one in told:
            label = grounds.label(one.phrase) if one.where == EVERYWHERE and one.about in ("scene", "pass") else None
            if label in by:
                by[label] = replace(one, where=InGround(label))
            else:
                rest.append(one)
        scene = [one for one in rest if one.where == EVERYWHERE]
        return (*scene, *by.values(), *(one for one in rest if one.where != EVERYWHERE))

    def areas(self, frame: WorkFrame, cells: Cells, outlines: Sequence[np.ndarray]) -> dict[Where, Area]:
        """Where each of them is seen. outlines: the elements', at the frame's computed size."""
        free = 1 - np.maximum.reduce(outlines) if len(outlines) else np.ones((frame.height, frame.width), np.float32)
        out: dict[Where, Area] = {}
        for g, sketch in reversed([(g, sketch) for g, sketch in self.strips if g.told]):
            mask = mask_on(sketch, frame.rect, frame.height, frame.width)
            out[InGround(g.label)] = Area(resize_mask(mask * free, *cells))
            free = free * (1 - mask)
        return out


def tells_grounds(settings: PassSettings, pack: Pack) -> bool:
    """Whether a pass may tell drawings of grounds: it is to, and the pack has some and follows lines."""
    return pack.grounds is not None and settings.grounds and settings.method == "steer" and "lines" in pack.info.capabilities


def grounded(sheet: Sheet, settings: PassSettings, shapes: Mapping[int, Outline], pack: Pack, seed: int, in_part: bool = False) -> Grounded:
    """The grounds that a scene's words name, drawn. None where a picture is not painted anew as a whole, where the scene names things
    that have no place, where an element names a ground, or where somebody drew the whole by hand. shapes: figures by the elements' keys;
    in_part: whether the pass is over a part of the sheet only."""
    if pack.grounds is None or not tells_grounds(settings, pack):
        return Grounded()
    if not painted_anew(sheet, settings, in_part):
        return Grounded()
    named = pack.grounds.named(phrases(sheet.scene.words))
    # Things that are only named would not be painted where a drawing shows none.
    unplaced = pack.places is not None and bool(pack.places.told(sheet.scene.words).things)
    if not named or unplaced or drawn_across(sheet, sheet.rect):
        return Grounded()
    feet: dict[bool, list[float]] = {True: [], False: []}
    for e in sheet.elements:
        figures = () if pack.figures is None else pack.figures.named(phrases(e.words))
        if figures:
            feet[figures[0].hangs].append(shapes.get(e.key, e.outline).box[3] / sheet.height)
        elif pack.grounds.named(phrases(e.words)):
            return Grounded()
    horizon = horizon_of(named, feet[False], feet[True], seed)
    if horizon is None:
        return Grounded()
    on_sheet = (e for e in sheet.elements if rounded(e.outline.box).intersect(sheet.rect).area)
    covers = tuple(covering(shapes.get(e.key, e.outline), sheet) for e in on_sheet)
    strips = laid_out(named, horizon, sheet.width, sheet.height, seed, shore=_shore(sheet, shapes, named, pack))
    return Grounded(without_cut(strips, covers, sheet), shadows_of(sheet, shapes, named, pack), covers)


def _shore(sheet: Sheet, shapes: Mapping[int, Outline], named: Sequence[Ground], pack: Pack) -> float | None:
    """The highest foot of what stands on a bank that is named, in shares of the height."""
    both = None if pack.grounds is None else water_and_bank(named, pack.grounds)
    if both is None or all(g.label != both[1] for g in named):
        return None
    return min((shapes.get(e.key, e.outline).box[3] / sheet.height for e in ashore(sheet, *both, pack)), default=None)


def painted_anew(sheet: Sheet, settings: PassSettings, in_part: bool) -> bool:
    """Whether a pass over the whole paints all of it anew: nothing of a picture stays, whose horizon and things would have to go on.
    in_part: whether it is over a part of the sheet only."""
    holds = in_part or any(e.hold for e in sheet.elements) or any(area.hold for area in sheet.areas)
    return not sheet.has_picture or (settings.strength >= ANEW and not holds)


def covering(outline: Outline, sheet: Sheet) -> Sketch:
    """Nothing drawn inside an outline."""
    if outline.mask is not None:
        return Sketch(outline.box, np.zeros_like(outline.mask), outline.mask)
    at = rounded(outline.box).intersect(sheet.rect)
    k = min(1.0, COVERED / max(1, at.width, at.height))
    mask = np.round(255 * rasterise(outline, at, max(1, round(at.height * k)), max(1, round(at.width * k)))).astype(np.uint8)
    return Sketch((float(at.x0), float(at.y0), float(at.x1), float(at.y1)), np.zeros_like(mask), mask)


def drawn_across(sheet: Sheet, part: Rect) -> bool:
    """Whether a drawing of the whole reaches from side to side of a part of a sheet, as a horizon does."""
    drawings = (drawing_in(layer, part) > INKED for layer in sheet.guides(LINES) if layer.of is None)
    return any(bool(drawn.any(0).mean() > ACROSS) for drawn in drawings)
