"""Plans a pass before it costs time: its stages, what they cost, and what looks wrong."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..fields import check
from ..noise.levels import executed_steps
from ..packs import Pack, PackInfo
from ..told.said import IN_MASK
from ..told.voices import Method
from ..values.frame import Rect, WorkFrame
from ..values.outline import Outline, sketched
from ..values.sheet import Sheet
from ..worded import worded
from .cautions import Caution, of_shape, of_strength, of_words
from .falling import falls_told
from .guided import guides_told, of_guides, settled_guides
from .held_cautions import of_held
from .kind import Kind
from .kinds import kind_of
from .request import Request, with_own
from .speed import BYTES_PER_ANSWER, BYTES_PER_PICTURE, Speed
from .stage import Stage

#: A side of what holds are counted at.
COUNTED = 64


@dataclass(frozen=True, eq=False)
class Plan:
    """A pass ready to run. sheet: without what takes no part; request: a settled one; stages: of the first take; steps: those of the
    first stage that are really run; changed: share of the sheet 0..1; seconds: a take will take, None while the machine's speed is not
    known; memory: bytes the network needs."""

    sheet: Sheet
    request: Request
    info: PackInfo
    stages: tuple[Stage, ...]
    steps: int
    changed: float
    seconds: float | None
    memory: int
    sentences: tuple[str, ...]
    warnings: tuple[Caution, ...]

    @property
    def kind(self) -> Kind:
        return kind_of(self.request.kind)

    @property
    def frame(self) -> WorkFrame:
        """What the first stage computes."""
        return self.stages[0].frame

    @property
    def method(self) -> Method:
        """The one really used."""
        return self.stages[0].method

    @property
    def calls(self) -> int:
        """Answers of the network that a take asks for."""
        return sum(sum(stage.answers(self.info)) for stage in self.stages)

    @property
    def mask_figure(self) -> Outline | None:
        """What the first take fits into a mask, on the sheet."""
        return self.stages[0].shapes.get(IN_MASK)

    def expected(self, speed: Speed) -> float:
        """Seconds a take would take at a speed."""
        return _seconds(self.stages, self.info, speed)

    def stages_by(self, seed: int, pack: Pack) -> tuple[Stage, ...]:
        """The stages of the take of a seed.

        Raises:
            Refused: the seed is none.
        """
        if seed == self.stages[0].seed:
            return self.stages
        request = replace(self.request, settings=replace(self.request.settings, seed=seed))
        return self.kind.stages(self.sheet, request, pack, seed)


def _seconds(stages: tuple[Stage, ...], info: PackInfo, speed: Speed) -> float:
    return sum(speed.seconds(sum(stage.answers(info)), _cells(stage, info), stage.settings.quick) for stage in stages)


def _cells(stage: Stage, info: PackInfo) -> int:
    rows, columns = stage.cells(info)
    return rows * columns


def plan(sheet: Sheet, request: Request, pack: Pack, speed: Speed | None = None) -> Plan:
    """What the next pass will do. Elements that are not visible take no part, except that a hold still holds.

    Raises:
        Refused: the pass cannot run at all, or an element cannot be painted from nearer, in a sentence that says what to do.
    """
    kind, info = kind_of(request.kind), pack.info
    check(request.settings)
    sheet = settled_guides(sheet.as_passes_see_it())
    sheet = replace(sheet, elements=tuple(e for e in sheet.elements if e.visible or e.hold))
    request = kind.settled(sheet, replace(_quick(request, info), more=with_own(request.more, kind.own)), pack)
    stages = kind.stages(sheet, request, pack, request.settings.seed)
    first = stages[0]
    steps, known = executed_steps(request.settings.steps, first.strongest), kind.changes(sheet, stages)
    changed = _changed(sheet, kind, first.frame.rect) if known is None else known
    said = (
        *kind.describe(sheet, request, stages, changed),
        _steps_told(request, steps),
        *kind.notes(sheet, request, stages),
        *falls_told(first, pack),
        *_rounds_told(request),
        *guides_told(sheet, info),
    )
    most = max(_cells(s, info) * max(BYTES_PER_ANSWER * max(s.answers(info), default=0), BYTES_PER_PICTURE) for s in stages)
    seconds = None if speed is None else _seconds(stages, info, speed)
    return Plan(sheet, request, info, stages, steps, changed, seconds, most, said, _cautions(kind, sheet, request, stages, pack))


def _quick(request: Request, info: PackInfo) -> Request:
    """A quick pass with the steps that it takes."""
    settings = request.settings
    if not settings.quick:
        return request
    return replace(request, settings=replace(settings, steps=info.quick.steps, guidance=info.quick.guidance))


def _changed(sheet: Sheet, kind: Kind, rect: Rect) -> float:
    """Share of the sheet a pass may change; holds are counted coarsely."""
    if kind.masked and sheet.mask is not None:
        box = sheet.mask.box()
        # What lies outside a frame set by hand is not painted.
        within = [sheet.mask.read(rect)] if box.intersect(rect) != box else sheet.mask.tiles.values()
        return sum(int((t > 0).sum()) for t in within) / (sheet.width * sheet.height)
    share = rect.area / sheet.rect.area
    held = [sketched(e.outline, rect, COUNTED) for e in sheet.elements if e.hold and sheet.has_picture]
    return share * float(1 - np.maximum.reduce(held).mean()) if held else share


def _rounds_told(request: Request) -> list[str]:
    """What every take goes through afterwards."""
    parts = [str(one.value("parts")) for one in request.rounds if "parts" in dict(with_own(one.more, kind_of(one.kind).own))]
    return [worded("Then touches up by itself: {0}.", "; ".join(parts))] if parts else []


def _steps_told(request: Request, steps: int) -> str:
    asked = request.settings.steps
    if steps == 0:
        return worded("Strength is 0: no step is run, and the take is what is there already.")
    of = f" of {asked}" if steps != asked else ""
    return worded("Runs {0} step{1}{2}, guidance {3:g}.", steps, "" if steps == 1 else "s", of, request.settings.guidance)


def _cautions(kind: Kind, sheet: Sheet, request: Request, stages: tuple[Stage, ...], pack: Pack) -> tuple[Caution, ...]:
    first = stages[0]
    out = of_words(first, pack, contradictions=not (kind.masked or kind.finds))
    out += of_held(sheet, first, pack, kind.masked, kind.hears_elements)
    out += of_guides(sheet, first.frame, pack)
    out += kind.cautions(sheet, request, stages, pack)
    if "words" in kind.fields():
        out += of_strength(first.strongest)
    return (*out, *of_shape(first, sheet, pack, whole=kind.hears_elements, given=request.own_frame is not None))
