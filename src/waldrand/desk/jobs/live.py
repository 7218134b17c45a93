"""Live: while the hand changes things, a rough picture of the next pass forms under the outlines. It is never a take."""

from __future__ import annotations

import time
from collections import deque
from dataclasses import dataclass, field
from threading import Condition, Event, Thread

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from ...core.packs import Pack
from ...core.passes.request import Request
from ...core.passes.rough import SIGHT_STEPS, at_rest, first_sight, rough_stage
from ...core.passes.speed import Speed
from ...core.passes.watch import Stopped
from ...core.refused import Refused
from ...core.values.frame import Rect
from ...core.values.sheet import Sheet
from ...core.worded import worded
from ...log import LOG, mistake
from ..columns.tray import Tray
from ..document import Document, State
from ..sheet_view.live_sign import LiveSign
from ..sheet_view.view import SheetView
from .kindly import count_less
from .runner import Runner

#: Seconds that a first sight may take, and how many in a row have to be slower before it is given up.
SLOWEST, SLOW_ONES = 0.5, 3


@dataclass(frozen=True, eq=False)
class _Wanted:
    sheet: Sheet
    request: Request
    outdated: Event = field(default_factory=Event)


class Painter(QObject):
    """A thread that paints what was asked for last. Signals: formed(picture, rect, seconds since it was begun, whether the hand may
    rest on it), none(): what was asked for cannot be painted."""

    formed = pyqtSignal(object, object, float, bool)
    none = pyqtSignal()

    def __init__(self, pack: Pack) -> None:
        super().__init__()
        self._pack = pack
        self._turn = Condition()
        self._wanted: _Wanted | None = None
        self._last: _Wanted | None = None
        self._thread: Thread | None = None
        self._ending = False

    def ask(self, sheet: Sheet, request: Request) -> None:
        """Gives up what is being painted for this; its first sight is finished, so that a moving hand sees something at all."""
        self._put(_Wanted(sheet, request))

    def give_up(self) -> None:
        """Nothing is wanted."""
        self._put(None)

    def _put(self, wanted: _Wanted | None) -> None:
        with self._turn:
            if self._last is not None:
                self._last.outdated.set()
            self._wanted = self._last = wanted
            if wanted is not None and self._thread is None:
                self._thread = Thread(target=self._work, daemon=True)
                self._thread.start()
            self._turn.notify()

    def end(self) -> None:
        """The thread comes to its end."""
        self._ending = True
        self._put(None)
        if self._thread is not None:
            self._thread.join()

    @property
    def asked(self) -> bool:
        """Whether anything is wanted, or was painted and not given up."""
        return self._last is not None

    def _work(self) -> None:
        count_less()
        while True:
            with self._turn:
                while self._wanted is None and not self._ending:
                    self._turn.wait()
                if self._wanted is None:
                    return
                wanted, self._wanted = self._wanted, None
            try:
                self._paint(wanted)
            except Stopped:
                continue
            except Refused:
                self._tell_none(wanted)
            except Exception as error:  # whatever goes wrong here, the pass itself says it better
                LOG.warning("live: %s", mistake(error))
                self._tell_none(wanted)

    def _tell_none(self, wanted: _Wanted) -> None:
        if not wanted.outdated.is_set():
            self.none.emit()

    def _paint(self, wanted: _Wanted) -> None:
        begun = time.perf_counter()
        stage = rough_stage(wanted.sheet, wanted.request, self._pack)
        self._show(wanted, first_sight(stage, wanted.sheet, self._pack), stage.frame.rect, begun, False)
        self._show(wanted, at_rest(stage, wanted.sheet, self._pack, wanted.outdated), stage.frame.rect, begun, True)

    def _show(self, wanted: _Wanted, picture: np.ndarray, rect: Rect, begun: float, rests: bool) -> None:
        # A first sight is shown though the hand has moved on.
        if self.asked:
            self.formed.emit(picture, rect, time.perf_counter() - begun, rests)


class Live(QObject):
    """Signals: switched(): it is on or off now, settled(): the hand may rest on what is shown, worded(sentence)."""

    switched = pyqtSignal()
    settled = pyqtSignal()
    said = pyqtSignal(str)

    def __init__(self, document: Document, pack: Pack, view: SheetView, tray: Tray, runner: Runner) -> None:
        super().__init__()
        self._document, self._view, self._tray, self._runner, self._info = document, view, tray, runner, pack.info
        self.on = self.begun = False
        #: Seconds that a first sight may take.
        self.slowest = SLOWEST
        self._took: deque[float] = deque(maxlen=SLOW_ONES)
        self._asked: State | None = None
        self._sign = LiveSign(view)
        self._painter = Painter(pack)
        self._painter.formed.connect(self._formed)
        self._painter.none.connect(self.clear)
        document.changed.connect(self._changed)
        document.typing.connect(self._typing)
        document.replaced.connect(self.clear)
        tray.shown.connect(lambda _: self.clear())
        tray.hovered.connect(lambda entry: self.hide(entry is not None))
        runner.began.connect(lambda _: self.clear())

    @property
    def showing(self) -> bool:
        """Whether a rough picture lies on the sheet."""
        return not self._view.canvas.live.empty

    def switch(self, on: bool) -> None:
        """Lets pictures form from the next change on, or no more."""
        if on != self.on:
            self.on = on
            self._took.clear()
            self.clear()
            self.switched.emit()

    def want(self, on: bool) -> None:
        """By hand."""
        if self.begun:
            self.switch(on)

    def begin(self, on: bool, speed: Speed | None) -> None:
        """Switches it on where it is wanted, and this machine gives two pictures a second."""
        self.begun = True
        cells = self._info.limits.best_area // self._info.cell**2
        self.switch(on and (speed is None or speed.answers(SIGHT_STEPS, cells) <= self.slowest))
        self.switched.emit()

    def clear(self) -> None:
        """What is shown goes, and what is on its way."""
        self._painter.give_up()
        self._asked = None
        if self.showing:
            self._view.canvas.show_live(None, self._document.sheet.rect)
            self._sign.show_sign(False)

    def end(self) -> None:
        """Nothing forms any more; what is being painted is waited for."""
        self.on = False
        self.clear()
        self._painter.end()

    def hide(self, hidden: bool) -> None:
        """The sheet as it is, while `hidden`."""
        self._view.canvas.live.setVisible(not hidden)
        self._sign.show_sign(self.showing and not hidden)

    def _changed(self, before: State, after: State) -> None:
        if before.sheet.layers is not after.sheet.layers or before.sheet.rect != after.sheet.rect:
            self.clear()
        elif self.on and not self._runner.running and _asks_otherwise(before, after):
            if self._tray.current is not None:
                # What is seen is what is worked on.
                self._tray.rest()
            self._ask(after)

    def _ask(self, state: State) -> None:
        """What was typed and shown is not painted once more when it is said."""
        if not (self.showing and self._asked is not None and not _asks_otherwise(self._asked, state)):
            self._asked = state
            self._painter.ask(state.sheet, state.draft.request())

    def _typing(self, state: State) -> None:
        plain = self._document.state
        self._changed(plain, state)
        if self.showing and not _asks_otherwise(plain, state):
            # What was typed is gone again.
            self._ask(plain)

    def _formed(self, picture: np.ndarray, rect: Rect, seconds: float, rests: bool) -> None:
        if not self._painter.asked:
            # Given up meanwhile.
            return
        if not rests:
            self._took.append(seconds)
            if len(self._took) == SLOW_ONES and min(self._took) > self.slowest:
                self.switch(False)
                self.said.emit(worded("Live is off: this machine would show less than two pictures a second. F4 switches it on again."))
                return
        self._view.canvas.show_live(picture, rect)
        self._sign.show_sign(True)
        if rests:
            self.settled.emit()


def _asks_otherwise(before: State, after: State) -> bool:
    """Whether the next pass would paint something else."""
    a, b = before.sheet, after.sheet
    masked = after.draft.of_kind.masked and a.mask is not b.mask
    told = a.scene != b.scene or (not after.draft.of_kind.masked and a.elements is not b.elements)
    return told or masked or (before.draft is not after.draft and before.draft.request() != after.draft.request())
