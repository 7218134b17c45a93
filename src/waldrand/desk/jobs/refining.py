"""Enlarging and refining: the sheet made larger, a pass in tiles, and the look at what that lost or let appear."""

from __future__ import annotations

from collections.abc import Callable
from weakref import WeakKeyDictionary

from ...core.passes.kinds import tiled_kind
from ...core.passes.listed import Listed
from ...core.passes.plan import Plan
from ...core.passes.take import Take
from ...core.passes.tiles import tiles_of, with_tiles
from ...core.refused import Refused
from ...core.seen.changes import Change, changes
from ...core.values.outline import Outline
from ...core.worded import worded
from ..columns.tray import TrayTake
from .beside import Beside, Tick
from .passes import Passes
from .runner import Job, Made, Work
from .sizing import Sizing


class Refining:
    """Every take in tiles is looked through once it is there; what was found is shown with the take."""

    def __init__(self, passes: Passes, sizing: Sizing, beside: Beside, say: Callable[[str], None]) -> None:
        self._passes, self._sizing, self._beside, self.say = passes, sizing, beside, say
        self._found: WeakKeyDictionary[Take, list[Change]] = WeakKeyDictionary()
        self._plans: WeakKeyDictionary[Take, Plan] = WeakKeyDictionary()
        passes.runner.taken.connect(self._taken)
        passes.tray.shown.connect(self._show)
        self._list = passes.column.tile_changes
        self._list.wanted.connect(self.again)
        self._list.looked_at.connect(passes.view.canvas.tiles.look_at)

    def enlarge(self) -> None:
        """Asks for the size, draws the picture larger, and turns to the pass that refines it; in one edit."""
        if not self._passes.document.sheet.has_picture:
            self.say(worded("There is no picture to enlarge yet: compose one, or open one."))
            return
        self._sizing.enlarge(tiled_kind())

    def _taken(self, made: Made) -> None:
        plan, pack = made.plan, self._passes.pack
        if plan.stages[0].share is None or pack.finder is None or made.take.told:
            return
        tiles = [(t.number, t.rect) for t in tiles_of(plan.sheet, plan.request, pack.info)]
        self._plans[made.take] = plan

        def look(tick: Tick) -> list[Change]:
            before, after = plan.sheet.flatten(), made.take.laid_on(plan.sheet, "").flatten()
            return changes(before, after, tiles, pack, tick)

        self._beside.do(
            worded("Looking for what was lost or is new"), look, lambda found: self._looked(made.take, found), self.say, len(tiles)
        )

    def _looked(self, take: Take, found: list[Change]) -> None:
        self._found[take] = found
        self._show(self._passes.tray.current)
        if not found:
            self.say(worded("Nothing was lost in any tile, and nothing new appeared."))
        else:
            self.say(worded("In {0} of the tiles something was lost or appeared: see the list.", len(found)))

    def _show(self, entry: TrayTake | None) -> None:
        found = [] if entry is None else self._found.get(entry.take, [])
        self._list.show_changes(found)
        sheet = self._passes.document.sheet
        self._passes.view.canvas.tiles.show_parts([_listed(c) for c in found], sheet.width, sheet.height)

    def again(self, name: str, numbers: tuple[int, ...]) -> None:
        """One more take of the shown one's pass, with some tiles "weaker" or "put_back"."""
        entry = self._passes.tray.current
        plan = None if entry is None else self._plans.get(entry.take)
        if entry is None or plan is None or not numbers:
            self.say(worded("Tick the tiles that shall be painted otherwise."))
            return
        try:
            request = with_tiles(plan.request, name, numbers)
            planned = self._passes.plan(plan.sheet, request)
        except Refused as error:
            self.say(str(error))
            return
        if planned is not None:
            label = worded("{0} tile{1} weaker", len(numbers), "" if len(numbers) == 1 else "s")
            if name == "put_back":
                label = worded("{0} tile{1} put back", len(numbers), "" if len(numbers) == 1 else "s")
            self._passes.submit(Job(label, (Work(planned, entry.take.seed, label),)))


def _listed(change: Change) -> Listed:
    r = change.rect
    outline = Outline("box", (float(r.x0), float(r.y0), float(r.x1), float(r.y1)))
    return Listed(change.number, change.told, change.told, True, outline)
