"""What takes several steps: a thing lifted off its place, all pulled together, another sheet's passes done again."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from ...core.noise.noise import LARGEST_SEED
from ...core.passes.kinds import KINDS, mask_kind
from ...core.passes.lifting import Move, lifted
from ...core.passes.moving import place_behind
from ...core.passes.replay import chain, replayed
from ...core.passes.request import Request
from ...core.passes.watch import Step, Watch
from ...core.refused import Refused
from ...core.values.layers import Layer
from ...core.values.sheet import Sheet
from ...core.worded import worded
from ...files.openraster import open_sheet
from ..dialogs import Dialogs
from .acting import Acting
from .beside import Beside, Tick
from .passes import Passes
from .runner import Job, Work

#: Strengths: of what is painted over what fills a lifted thing's place, and of the rework that pulls all together.
BEHIND, SETTLE = 0.5, 0.25


class Uniting(Acting):
    """Every act is one undoable edit when it is done; the sheet stays free meanwhile."""

    def __init__(self, passes: Passes, beside: Beside, dialogs: Callable[[], Dialogs], say: Callable[[str], None]) -> None:
        super().__init__(passes.document, passes.view, dialogs, say)
        self._passes, self._beside = passes, beside

    def settle(self) -> None:
        """One light rework of the whole, shown with what it changed; then only the parts wanted are kept by painting."""
        if not self.document.sheet.has_picture:
            self.say(worded("There is no picture to settle yet."))
            return
        kind = next(k for k in KINDS.values() if k.hears_elements and not k.masked and k.begins < 1)
        draft = replace(self.document.draft, kind=kind.name)
        self.document.set_draft(draft.with_value("strength", SETTLE), worded("settle"), "")
        self._passes.run_takes(1)
        self.say(worded("When it is there: Shift+C shows what changed; mask what you want of it, and Shift+K keeps only that."))

    def lift(self) -> None:
        """What the mask covers becomes a layer that is dragged where it belongs, while takes of its old place are painted: the first is
        laid under it at once, another by keeping it. All of it is one undoable step."""
        sheet, pack, mask = self.document.sheet, self.view.pack, self.document.sheet.mask
        if pack is None:
            return
        if mask is None or mask.empty or not sheet.has_picture:
            self.say(worded("Mask the thing first: with Ctrl+click, by words, or with the brush."))
            return
        grey, draft = mask.read(), self.document.draft
        settings = replace(draft.settings, strength=BEHIND if not draft.words else mask_kind().begins)
        request = Request(mask_kind().name, settings, draft.words if draft.of_kind.masked else "", more=(("fill", "patches"),))
        move = Move(grey, (0, 0))
        try:
            thing, behind = lifted(sheet, move), place_behind(sheet, move, request, pack)
        except Refused as error:
            self.say(str(error))
            return
        key, first = sheet.next_key(), settings.seed
        laid = replace(sheet, mask=None).with_layer(replace(thing, key=key))
        self.document.edit_and_place(laid, key, worded("move a thing"))
        self.view.set_tool(next(iter(self.view.hands)))
        self.view.selection.choose_layer(key)
        label = worded("behind it")
        works = tuple(Work(behind, min(first + i, LARGEST_SEED), label, under=key) for i in range(draft.takes))
        self._passes.submit(Job(worded("what lies behind, takes: {0}", len(works)), works))
        self.say(worded("Drag it where it belongs. Its old place is being painted; keep (K) another take of that if it suits better."))

    def replay(self, path: Path) -> None:
        """The passes of another sheet, done to this picture."""
        sheet, pack, source = self.document.sheet, self.view.pack, open_sheet(path).sheet
        if pack is None:
            return
        if not sheet.has_picture:
            self.say(worded("There is no picture to do it to yet."))
            return
        steps = [s for s in chain(source) if s.fits]
        asked = worded("Which passes? Numbers apart by commas: {0}", "; ".join(s.title for s in steps) or worded("none fits"))
        text = self._dialogs().words(worded("Replay “{0}”", path.stem), asked, ",".join(str(s.number) for s in steps))
        if not text:
            return
        wanted = {int(n) for n in text.split(",") if n.strip().isdigit()}
        left_out = [s.number for s in steps if s.number not in wanted]

        def work(tick: Tick) -> Sheet:
            done = sheet
            for after in replayed(source, sheet, pack, left_out, _watch(tick)):
                done = after
            return done

        what = worded("replay “{0}”", path.stem)
        self._beside.do(worded("Replaying"), work, lambda made: self._lay_on(sheet, made, what), self._told)

    def _lay_on(self, before: Sheet, made: Sheet, what: str) -> None:
        """The layers that came, over all that is on the sheet by now."""
        sheet, had = self.document.sheet, {x.key for x in before.layers}
        if made.rect != before.rect:
            if sheet is not before:
                self.say(worded("The sheet was changed meanwhile, so what was made for it was left out."))
                return
            self.document.edit(made, what)
            return
        if sheet.rect != before.rect:
            self.say(worded("The sheet got another size meanwhile, so what was made for it was left out."))
            return
        came: list[Layer] = [x for x in made.layers if x.key not in had]
        for layer in came:
            sheet = sheet.with_layer(layer.changed(key=sheet.next_key()))
        self.document.edit(replace(sheet, mask=None), what)


def _watch(tick: Tick) -> Watch:
    def step(_: Step) -> None:
        tick()

    return Watch(step)
