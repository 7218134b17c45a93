"""Live: a rough picture of the next pass while the hand works; never a take, never in the history."""

from __future__ import annotations

import threading
from dataclasses import replace

import numpy as np
import pytest
from by_hand import LEFT, at, drag, key, opened, run, say_scene, strip
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.rough import REST_STEPS, at_rest, first_sight, in_steps, rough_stage, seen_small
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.passes.speed import Speed
from waldrand.core.passes.stage import seen
from waldrand.core.passes.watch import Stopped
from waldrand.core.values.frame import FrameLimits, Rect, WorkFrame, no_larger
from waldrand.core.values.masks import Mask
from waldrand.core.values.resize import scaled
from waldrand.packs.closed_form import ClosedFormPack


class Slow(ClosedFormPack):
    """Waits before every answer until it is let go, and counts them."""

    def __init__(self) -> None:
        super().__init__()
        self.go, self.asked = threading.Event(), 0
        self.go.set()

    def answer(self, *args):
        self.asked += 1
        assert self.go.wait(20)
        return super().answer(*args)


@pytest.fixture
def slow(app):
    pack = Slow()
    with opened(pack) as w:
        w.live.slowest = 1e9
        yield w
        pack.go.set()


@pytest.fixture
def live(two):
    say_scene(two, "white")
    # No test may fail because the machine was busy.
    two.live.slowest = 1e9
    two.live.switch(True)
    return two


def live_colour(w, x: float, y: float) -> tuple[int, int, int]:
    """What the rough picture shows at a sheet point, everything else hidden."""
    w.shown.outlines.setChecked(False)
    w.view.selection.choose(None)
    c = w.view.viewport().grab().toImage().pixelColor(at(w, x, y))
    w.shown.outlines.setChecked(True)
    return c.red(), c.green(), c.blue()


def test_a_rough_picture_forms_while_an_element_is_dragged_and_is_no_take(live, wait):
    undone = live.document.undo.count()
    drag(live, 45, 60, 100, 100)
    wait(lambda: live.live.showing)
    settled = []
    live.live.settled.connect(lambda: settled.append(1))
    drag(live, 100, 100, 120, 120)
    wait(lambda: bool(settled))
    assert live.tray.takes == []
    assert live.document.sheet.layers == ()
    assert live.document.undo.count() == undone + 2
    r, _, b = live_colour(live, 120, 120)
    assert b > r + 40
    assert min(live_colour(live, 30, 200)) > 180


def test_it_forms_while_words_are_typed_and_goes_back_when_they_are_given_up(live, wait):
    e = live.document.sheet.elements[0]
    live.view.words.edit(e.key)
    editor = live.view.words.editor
    editor.words.selectAll()
    QTest.keyClicks(editor.words, "red")
    wait(lambda: live.live.showing)
    assert live.document.sheet.element(e.key).words == "blue"
    QTest.keyClick(editor.words, Qt.Key.Key_Escape)
    # Blue again: more blue than red.
    wait(lambda: live_colour(live, 45, 60)[2] > live_colour(live, 45, 60)[0] + 40)


@pytest.mark.parametrize("where", ["strip", "scene", "pass"])
def test_typing_anywhere_shows_what_it_would_become(live, kept_on, where, wait):
    if where == "strip":
        live.view.selection.choose(live.document.sheet.elements[0].key)
        field = strip(live, live.document.sheet.elements[0].key).words
    elif where == "scene":
        field = live.scene.words
    else:
        kept_on(live)
        field = live.passes.words
    field.setFocus()
    QTest.keyClicks(field, ", green")
    wait(lambda: live.live.showing)


@pytest.fixture
def kept_on():
    """Gives a sheet a picture, and asks for a rework of it."""

    def keep(w) -> None:
        from waldrand.core.values.layers import PictureLayer

        sheet = w.document.sheet
        pixels = np.full((sheet.height, sheet.width, 4), 255, np.uint8)
        w.document.edit(sheet.with_layer(PictureLayer(sheet.next_key(), "white", pixels)), "picture")
        w.passes.kinds["rework"].click()

    return keep


def test_with_an_inpaint_it_forms_where_the_mask_is(live, kept_on, wait):
    kept_on(live)
    live.passes.kinds["inpaint"].click()
    live.passes.words.setText("red")
    live.passes.words.editingFinished.emit()
    live.live.clear()
    mask, _ = Mask(256, 256).dab(128, 128, 40, 0)
    live.document.edit(replace(live.document.sheet, mask=mask), "mask")
    wait(lambda: live.live.showing)
    settled = []
    live.live.settled.connect(lambda: settled.append(1))
    live.document.set_draft(replace(live.document.draft, settings=replace(live.document.draft.settings, seed=5)))
    wait(lambda: bool(settled))
    assert not live.view.canvas.live.boundingRect().isEmpty()


def test_each_change_begins_anew_and_only_the_last_one_settles(slow, wait):
    pack = slow.pack
    from by_hand import draw

    draw(slow, Qt.Key.Key_R, "blue", 20, 30, 70, 90)
    slow.live.switch(True)
    settled = []
    slow.live.settled.connect(lambda: settled.append(slow.document.sheet.elements[0].outline.box[0]))
    pack.go.clear()
    e = slow.document.sheet.elements[0]
    for i in range(1, 6):
        slow.document.edit(slow.document.sheet.with_element(replace(e, outline=e.outline.moved(10 * i, 0))), "move", "m")
    pack.go.set()
    wait(lambda: bool(settled))
    QTest.qWait(100)
    assert settled == [pytest.approx(70, abs=1)]
    # Two sights and one picture at rest, whatever was asked for in between.
    assert pack.asked <= 2 * 2 + 2 * REST_STEPS + 2


def test_it_goes_when_a_take_is_shown_a_pass_begins_or_escape_is_pressed(live, wait):
    def form() -> None:
        drag(live, 190, 200, 192, 202)
        wait(lambda: live.live.showing)

    form()
    key(live, Qt.Key.Key_Escape)
    assert not live.live.showing
    form()
    live.passes.takes.setValue(1)
    run(live, wait)
    assert not live.live.showing
    assert live.tray.current is not None
    # What is changed is worked on again, so the take rests.
    form()
    assert live.tray.current is None
    assert len(live.tray.takes) == 1
    live.tray.step(1)
    assert not live.live.showing
    form()
    live.opening.open_demo()
    assert not live.live.showing


def test_before_is_seen_and_outlines_are_thin_over_it(live, wait):
    drag(live, 45, 60, 60, 70)
    wait(lambda: live.live.showing)
    QTest.keyPress(live.view, Qt.Key.Key_B)
    assert not live.view.canvas.live.isVisible()
    QTest.keyRelease(live.view, Qt.Key.Key_B)
    assert live.view.canvas.live.isVisible()


def test_nothing_forms_where_it_is_off_or_nothing_can_be_painted(live, wait):
    live.live.switch(False)
    drag(live, 45, 60, 60, 70)
    QTest.qWait(80)
    assert not live.live.showing
    live.live.switch(True)
    live.passes.kinds["inpaint"].click()
    QTest.qWait(80)
    assert not live.live.showing


def test_what_does_not_change_the_picture_begins_nothing(live):
    asked = []
    live.live._painter.ask = lambda *a: asked.append(a)
    live.passes.kinds["compose"].click()
    live.view.selection.choose(live.document.sheet.elements[0].key)
    mask, _ = Mask(256, 256).dab(128, 128, 40, 0)
    live.document.edit(replace(live.document.sheet, mask=mask), "mask")
    live.passes.takes.setValue(3)
    assert asked == []


def test_it_is_off_by_itself_where_the_machine_is_too_slow(live, monkeypatch):
    said = []
    live.live.slowest = 0.5
    live.live.said.connect(said.append)
    live.live.begin(True, Speed(1.0, 0.0, 0.0))
    assert not live.live.on
    assert not live.shown.live.isChecked()
    assert "live off (F4)" in live.hints.text
    live.live.begin(True, Speed(0.01, 0.0, 0.0))
    assert live.live.on
    assert live.shown.live.isChecked()
    live.live._painter.ask(live.document.sheet, live.document.draft.request())
    picture = np.zeros((8, 8, 4), np.uint8)
    for _ in range(3):
        live.live._formed(picture, live.document.sheet.rect, 0.9, False)
    assert not live.live.on
    assert "two pictures a second" in said[0]
    live.shown.live.trigger()
    assert live.live.on


def test_a_pack_that_fails_ends_no_window(app, wait):
    class Broken(ClosedFormPack):
        def answer(self, *args):
            raise RuntimeError("odd")

    from by_hand import draw

    with opened(Broken()) as w:
        draw(w, Qt.Key.Key_R, "blue", 20, 30, 70, 90)
        w.live.switch(True)
        drag(w, 45, 60, 60, 70)
        QTest.qWait(80)
        assert not w.live.showing
        drag(w, 60, 70, 80, 80)
        assert w.isVisible()


def test_a_hand_that_moves_on_while_the_pack_is_busy_is_not_held_up(slow):
    from by_hand import draw

    draw(slow, Qt.Key.Key_R, "blue", 20, 30, 70, 90)
    slow.live.switch(True)
    slow.pack.go.clear()
    port = slow.view.viewport()
    QTest.mousePress(port, LEFT, Qt.KeyboardModifier.NoModifier, at(slow, 45, 60))
    for i in range(20):
        here = at(slow, 45 + 4 * i, 60)
        QApplication.sendEvent(
            port,
            QMouseEvent(
                QEvent.Type.MouseMove, QPointF(here), QPointF(port.mapToGlobal(here)), LEFT, LEFT, Qt.KeyboardModifier.ControlModifier
            ),
        )
        # The element is where the hand is, though nothing has been answered yet.
        assert slow.document.sheet.elements[0].outline.box[0] == pytest.approx(20 + 4 * i, abs=1.5)
    QTest.mouseRelease(port, LEFT, Qt.KeyboardModifier.NoModifier, at(slow, 121, 60))
    assert not slow.live.showing


# --- what is painted


def settings(**more) -> PassSettings:
    return replace(PassSettings(steps=20, guidance=1.5, seed=3), **more)


def test_a_rough_picture_is_near_the_take(placed, closed):
    request = Request("compose", settings())
    take = run_take(plan(placed, request, closed), closed, 3)
    stage = rough_stage(placed, request, closed)
    sight, rest = first_sight(stage, placed, closed), at_rest(stage, placed, closed, threading.Event())
    assert rest.shape == (stage.frame.height, stage.frame.width, 4)
    assert sight[..., 3].min() == 255
    small = take.pixels[::2, ::2].astype(int)
    step = rest.shape[0] // small.shape[0]
    assert np.abs(rest[::step, ::step, :3].astype(int) - small).mean() < 30


def test_a_rough_rework_keeps_what_it_keeps(painted, closed):
    stage = rough_stage(painted, Request("rework", settings(strength=0.3)), closed)
    rest = at_rest(stage, painted, closed, threading.Event())
    assert in_steps(stage, 4, closed.info, guided=True).settings.steps == 13
    take = run_take(plan(painted, Request("rework", settings(strength=0.3)), closed), closed, 3)
    assert np.abs(rest[..., :3].astype(int) - take.pixels).mean() < 12


def test_at_strength_0_what_is_there_is_seen(painted, closed):
    stage = rough_stage(painted, Request("rework", settings(strength=0.0)), closed)
    sight = first_sight(stage, painted, closed)
    assert sight[..., 3].max() == 0


def test_it_can_be_stopped_between_steps(placed, closed):
    stop = threading.Event()
    stop.set()
    with pytest.raises(Stopped):
        at_rest(rough_stage(placed, Request("compose", settings()), closed), placed, closed, stop)


def test_a_large_picture_is_looked_at_in_small_as_in_full(painted):
    large = scaled(painted, 1024, 1024)
    frame = WorkFrame(large.rect, 128, 128)
    quick, full = seen_small(large, frame), seen(large, frame)
    assert quick.shape == (128, 128, 3)
    assert np.abs(quick - full.reshape(128, 8, 128, 8, 3).mean((1, 3))).mean() < 0.02
    assert seen_small(replace(large, layers=()), frame) is None


@given(st.integers(64, 4096), st.integers(64, 4096))
def test_a_rough_frame_is_no_larger_than_the_model_does_best(w, h):
    limits = FrameLimits()
    small = no_larger(WorkFrame(Rect(0, 0, w, h), 64 * (1 + w // 64), 64 * (1 + h // 64)), limits)
    assert small.rect == Rect(0, 0, w, h)
    assert small.width % limits.multiple == small.height % limits.multiple == 0
    assert small.width * small.height <= max(limits.best_area, limits.least_side * limits.greatest_side) * 1.3
