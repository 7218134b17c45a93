"""The next pass foreseen, run and lined up, and what comes of it put into the tray."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ...core.noise.noise import LARGEST_SEED
from ...core.packs import Pack
from ...core.passes.cautions import Mend
from ...core.passes.kinds import kind_of
from ...core.passes.listed import Listed
from ...core.passes.plan import Plan, plan
from ...core.passes.request import Request, with_own
from ...core.passes.series import Variant
from ...core.passes.speed import Speed, measure
from ...core.passes.watch import Step
from ...core.refused import Refused
from ...core.values.sheet import Sheet
from ...core.worded import worded
from ..columns.pass_column import PassColumn
from ..columns.tray import Tray, TrayTake
from ..document import Document, State
from ..sheet_view.view import SheetView
from .looking import Looking
from .runner import Job, Made, Runner, Work


class Passes:
    """The runner, the tray and the pass column, working together."""

    def __init__(self, document: Document, pack: Pack, view: SheetView, column: PassColumn, tray: Tray, runner: Runner) -> None:
        self.document, self.pack, self.view, self.column, self.tray, self.runner = document, pack, view, column, tray, runner
        self.planned: Plan | None = None
        self.speed: Speed | None = None
        self._used: set[int] = set()
        self._typed: State | None = None
        self.looking = Looking()
        document.typing.connect(self._believe)
        document.changed.connect(lambda *_: self._believe(None))
        document.replaced.connect(lambda: self._believe(None))
        self.column.found.wanted.connect(self.take_over)
        self.looking.done.connect(self._looked)
        column.found.looked_at.connect(view.canvas.found.look_at)
        column.run_wanted.connect(self.run)
        column.stop_wanted.connect(self.stop)
        column.mend_wanted.connect(self.mend)
        column.cancel_wanted.connect(runner.cancel)
        runner.began.connect(lambda _: column.show_running(True))
        runner.stepped.connect(self._stepped)
        runner.taken.connect(self._taken)
        runner.ended.connect(self._ended)
        runner.queued.connect(lambda: column.show_queue([j.name for j in runner.waiting]))

    def say(self, text: str) -> None:
        self.column.status.setText(text)

    # --- forecast

    def measure_speed(self) -> None:
        """Times the pack on this machine, once; a moment's work."""
        if self.speed is None and not self.runner.running:
            self.speed = measure(self.pack)

    def plan(self, sheet: Sheet, request: Request) -> Plan | None:
        """What a pass would do; why it cannot run is said."""
        try:
            return plan(sheet, request, self.pack, self.speed)
        except Refused as error:
            self.say(str(error))
            return None

    def _believe(self, typed: State | None) -> None:
        self._typed = typed

    @property
    def _meant(self) -> State:
        """Sheet and pass as they are, with what is just being typed."""
        return self._typed or State(self.document.sheet, self.document.draft)

    def refresh_forecast(self) -> None:
        """Plans the next pass anew and shows what it would do."""
        meant = self._meant
        try:
            asked = meant.draft.request()
            if self._looks_first(meant.sheet, asked):
                return
            self.planned = plan(meant.sheet, asked, self.pack, self.speed)
            self._show_found()
            self.column.show_forecast(self.planned)
            hand, request = self.view.hands[self.view.tool], self.planned.request
            framed = (self.planned.kind.masked and len(self.planned.stages) == 1) or request.own_frame is not None or hand.shows_frame
            self.view.canvas.show_frame(self.planned.frame.rect if framed else None, self.planned.mask_figure)
        except Refused as error:
            self.planned = None
            self._show_found()
            self.column.show_forecast(None, str(error))
            self.view.canvas.show_frame(None)
        self.view.canvas.show_corners(self.view.hands[self.view.tool].corners(), self.view.scale_now)
        self.tray.check_layout(self.document.sheet)

    def _looks_first(self, sheet: Sheet, request: Request) -> bool:
        """Whether the picture has to be looked through before this pass can be planned: that is begun, and said."""
        kind = kind_of(request.kind)
        request = replace(request, more=with_own(request.more, kind.own))
        look = kind.looks(sheet.as_passes_see_it(), request, self.pack)
        if look is None:
            return False
        self.planned = None
        self.looking.begin(look)
        what = worded("Looking for {0}…", request.value("parts")) if "parts" in kind.own else worded("Looking at what is there…")
        self.column.show_forecast(None, what)
        self.view.canvas.show_frame(None)
        return True

    def _looked(self, trouble: str) -> None:
        """What was looked for is known; a look that failed is said, not tried over and over."""
        if trouble:
            self.column.show_forecast(None, trouble)
        else:
            self.refresh_forecast()

    def _show_found(self) -> None:
        """What the next pass found in the picture, in its list and on the sheet."""
        parts: Sequence[Listed] = ()
        sheet, request = self._meant.sheet.as_passes_see_it(), self._meant.draft.request()
        kind = kind_of(request.kind)
        if kind.finds and self.pack.finder is not None:
            try:
                parts = kind.found(sheet, replace(request, more=with_own(request.more, kind.own)), self.pack)
            except Refused:
                parts = ()
        self.column.show_found(parts)
        self.view.canvas.found.show_parts(parts, sheet.width, sheet.height)

    def take_over(self, number: int) -> None:
        """One of the passes that the next pass is made of becomes the next pass itself, to be worked on by hand: one undoable edit."""
        d = self.document.draft
        try:
            kind, request = d.of_kind, replace(d.request(), more=with_own(d.request().more, d.of_kind.own))
            sheet = self.document.sheet.as_passes_see_it()
            used = [one.number for one in kind.found(sheet, request, self.pack) if one.used]
            if number not in used:
                self.say(worded("Tick it first: what is left out cannot be worked on."))
                return
            passes = kind.apart(sheet, request, self.pack)
            # Several together may be one pass.
            made, asked = passes[min(used.index(number), len(passes) - 1)]
        except Refused as error:
            self.say(str(error))
            return
        here = replace(self.document.sheet, mask=made.mask, scene=made.scene)
        if not sheet.has_picture:
            here = replace(here, elements=made.elements)
        if not kind_of(asked.kind).offered:
            self.document.edit(here, worded("by hand"))
            self.say(worded("What moves is masked: Ctrl+Shift+U lifts it, to be dragged where it shall be."))
            return
        self.document.edit_both(here, d.asking_for(asked), worded("by hand"))

    def mend(self, mend: Mend) -> None:
        """Puts right what a warning is about: one undoable edit."""
        d = self.document.draft
        try:
            sheet, request = mend.apply(self.document.sheet, d.request())
        except Refused as error:
            self.say(str(error))
            return
        self.document.edit_both(sheet, d.asking_for(request), mend.label.lower())

    # --- running

    def run(self) -> None:
        """Runs the planned pass, or lines it up; the sheet stays free meanwhile."""
        self.view.words.finish()
        self._believe(None)
        self.refresh_forecast()
        if self.planned is None:
            return
        p, takes = self.planned, self.document.draft.takes
        first = p.request.settings.seed
        if first + takes - 1 > LARGEST_SEED:
            self.say(worded("The last take's seed would be larger than {0}: begin with a smaller one.", LARGEST_SEED))
            return
        kind = p.request.kind + (f" at {p.request.settings.strength:.2f}" if self.document.sheet.has_picture else "")
        works = tuple(Work(p, first + i, again=self.document.draft.again) for i in range(takes))
        self.submit(Job(worded("{0}, {1} take{2} from seed {3}", kind, takes, "" if takes == 1 else "s", first), works))

    def run_takes(self, takes: int) -> None:
        """The same with so many takes."""
        self.view.words.finish()
        self.document.set_draft(replace(self.document.draft, takes=takes), worded("takes of the pass"), "draft takes")
        self.run()

    def submit(self, job: Job) -> None:
        if not self.runner.running:
            self.tray.rest()
        self.runner.submit(job, self.pack)

    def submit_variants(self, variants: Sequence[Variant], name: str) -> None:
        """A take of each.

        Raises:
            Refused: one of them cannot run.
        """
        plans = [plan(v.sheet, v.request, self.pack, self.speed) for v in variants]
        works = tuple(Work(p, v.request.settings.seed, v.label) for p, v in zip(plans, variants, strict=True))
        self.submit(Job(worded("{0}, {1} takes", name, len(works)), works))

    def stop(self) -> None:
        self.runner.stop()

    def forget(self) -> None:
        """Stops all; takes still on their way belong to a sheet that is left."""
        self.runner.abandon()

    def use_seed(self, seed: int) -> None:
        """A seed that takes here have from now on."""
        self._used.add(seed)

    def next_seed(self, after: int) -> int:
        """The next seed no take here has used."""
        seed = after
        while True:
            seed = (seed + 1) % (LARGEST_SEED + 1)
            if seed not in self._used:
                return seed

    def _stepped(self, step: Step, work: Work) -> None:
        self.column.show_step(step)
        self.tray.show_forming(step.preview[..., :3], worded("{0}\nseed {1}", work.label or "forming", work.seed))
        if self.tray.current is None and work.plan.sheet.extent == self.document.sheet.extent:
            self.view.canvas.show_overlay(step.preview, step.frame)

    def _taken(self, made: Made) -> None:
        if self.speed is not None and made.work.plan.calls:
            # What this machine really did teaches the forecast: against what is believed now, not when the pass was planned.
            self.speed = self.speed.corrected(made.work.plan.expected(self.speed), made.seconds)
        self.use_seed(made.take.seed)
        entry = TrayTake(made.take, made.plan, made.work.label, scores=made.scores, under=made.work.under)
        self.tray.add(entry, show=self.tray.current is None)
        self.tray.check_layout(self.document.sheet)

    def _ended(self, message: str) -> None:
        self.tray.show_forming(None)
        self.say(message)
        if self.runner.waiting:
            return
        self.column.show_running(False)
        if self.tray.current is None:
            self.view.canvas.show_overlay(None, self.document.sheet.rect)


def again_by(plan_: Plan, seed: int) -> Request:
    """What a plan asked for, by another seed."""
    request = plan_.request
    return replace(request, settings=replace(request.settings, seed=seed))
