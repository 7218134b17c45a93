"""The work frame set by hand: on the sheet, in its strip, in plans, recipes, files and commands."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from by_hand import at, drag, key, run, say_scene
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

from waldrand.cli import main
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe, request_from_json
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.refused import Refused
from waldrand.core.values.frame import LEAST_GIVEN, FrameLimits, Rect, given_frame
from waldrand.core.values.masks import Mask
from waldrand.desk.draft import Draft
from waldrand.files.pictures import read_picture, read_recipe, write_png

LEFT_HALF = (0, 0, 128, 256)


def asked(kind: str, frame=LEFT_HALF, **more) -> Request:
    return Request(kind, PassSettings(steps=6, guidance=1.5, seed=2, **more), own_frame=frame)


# --- what it does


def test_a_pass_paints_the_frame_alone_and_tells_only_what_lies_in_it(placed, closed):
    p = plan(placed, asked("compose"), closed)
    assert p.frame.rect == Rect(*LEFT_HALF)
    assert p.changed == pytest.approx(0.5)
    assert p.sentences[0].startswith("Composes the frame you set with 1 element,")
    assert [w.text for w in p.warnings if "roof" in w.text] == ["“roof” lies outside the frame you set, and will not be painted."]
    assert all(s.phrase != "red" for s in p.stages[0].told)
    take = run_take(p, closed, 2)
    assert take.frame == Rect(*LEFT_HALF)
    done = take.laid_on(p.sheet, "take").flatten()
    assert (done[:, 128:, 3] == 0).all()
    assert done[150, 60, 2] > done[150, 60, 0] + 40


def test_the_mend_lets_it_fit_itself(placed, closed):
    (caution,) = [w for w in plan(placed, asked("compose"), closed).warnings if "roof" in w.text]
    sheet, request = caution.mend.apply(placed, asked("compose"))
    assert request.own_frame is None
    assert plan(sheet, request, closed).frame.rect == placed.rect


def test_a_rework_in_a_frame_leaves_the_rest_bit_for_bit(painted, closed):
    p = plan(painted, asked("rework", strength=0.6), closed)
    assert p.sentences[0].startswith("Reworks the frame you set, 50 % of the sheet, at 0.60")
    done = run_take(p, closed, 2).laid_on(painted, "take").flatten()
    assert (done[:, 128:] == painted.flatten()[:, 128:]).all()
    assert (done[:, :128] != painted.flatten()[:, :128]).any()


def test_an_inpaint_takes_its_context_from_the_frame(painted, closed, round_mask):
    sheet = replace(painted, mask=round_mask)
    p = plan(sheet, asked("inpaint", (20, 0, 256, 256)), closed)
    assert p.frame.rect == Rect(20, 0, 256, 256)
    with pytest.raises(Refused, match="mask lies outside the frame"):
        plan(sheet, asked("inpaint", (0, 200, 100, 256)), closed)
    # What of the mask lies outside is not counted as changed, and not changed.
    half = plan(sheet, asked("inpaint", (0, 0, 120, 256)), closed)
    assert half.changed < p.changed * 0.7
    done = run_take(half, closed, 2).laid_on(sheet, "take").flatten()
    assert (done[:, 120:] == sheet.flatten()[:, 120:]).all()


def test_its_scale_follows_detail(placed, closed):
    square = (0, 0, 200, 200)
    coarse, usual = (plan(placed, asked("compose", square, detail=d), closed).frame for d in (0.5, 1.0))
    assert usual.scale == pytest.approx(usual.width / 200)
    assert usual.width * usual.height == pytest.approx(4 * coarse.width * coarse.height, rel=0.3)


@pytest.mark.parametrize("frame", [(300, 0, 400, 100), (0, 0, 8, 200), (-50, -50, 10, 10)])
def test_a_frame_with_hardly_any_sheet_is_refused_in_words(placed, closed, frame):
    with pytest.raises(Refused, match="less than 16 x 16 pixels of the sheet"):
        plan(placed, asked("compose", frame), closed)


def test_a_frame_inside_out_is_refused():
    with pytest.raises(Refused, match="left, upper, right and lower edge"):
        asked("compose", (100, 0, 50, 50))


@given(st.integers(-200, 400), st.integers(-200, 400), st.integers(1, 500), st.integers(1, 500))
def test_a_given_frame_lies_on_the_sheet(x, y, w, h):
    limits = FrameLimits()
    try:
        frame = given_frame(Rect(x, y, x + w, y + h), 300, 200, limits)
    except Refused:
        inside = Rect(x, y, x + w, y + h).intersect(Rect(0, 0, 300, 200))
        assert min(inside.width, inside.height) < LEAST_GIVEN
        return
    assert frame.rect == frame.rect.intersect(Rect(0, 0, 300, 200))
    assert frame.width % limits.multiple == frame.height % limits.multiple == 0
    assert max(frame.width, frame.height) <= limits.greatest_side


def test_what_the_frame_leaves_out_is_not_judged(own):
    from waldrand.core.passes.again import run_until_landed
    from waldrand.demo import load_demo

    sheet = load_demo().layout.sheet
    request = Request("compose", PassSettings(steps=2, guidance=1.0, seed=2), own_frame=(250, 250, 512, 512))
    tried = run_until_landed(plan(sheet, request, own), own, 2, 0)
    assert {s.name for s in tried.scores} == {"cottage", "lantern", "fox"}


# --- kept


def test_it_is_in_the_recipe_and_repeats(painted, closed):
    take = run_take(plan(painted, asked("rework", strength=0.6), closed), closed, 2)
    assert request_from_json(take.recipe).own_frame == LEFT_HALF
    done = painted.with_layer(take.to_patch(9, "left"))
    again = repeat(picture_recipe(done), closed, [painted.flatten()])
    assert (again.pixels == done.flatten()).all()


def test_it_is_saved_with_the_sheet_and_brought_back_by_a_take():
    draft = replace(Draft(), own_frame=LEFT_HALF)
    assert Draft.from_json(draft.to_json()) == draft
    assert Draft().asking_for(draft.request()).own_frame == LEFT_HALF
    assert Draft.from_json({k: v for k, v in draft.to_json().items() if k != "own_frame"}).own_frame is None
    for wrong in ("all", [1, 2, 3], [1, 2, 3, "4"], [5, 5, 5, 5]):
        with pytest.raises(Refused, match="damaged"):
            Draft.from_json(draft.to_json() | {"own_frame": wrong})


def test_the_command_line_takes_one(tmp_path, painted, capsys):
    path, out = tmp_path / "a.png", tmp_path / "b.png"
    write_png(path, painted.flatten())
    do = ["rework", str(path), "--strength", "0.5", "--steps", "2", "--out", str(out)]
    assert main([*do, "--frame", "0,0,128,256"]) == 0
    assert "Reworks the frame you set" in capsys.readouterr().out
    after = read_picture(out).pixels
    assert (after[:, 128:] == painted.flatten()[:, 128:]).all()
    assert read_recipe(out)["passes"][-1]["recipe"]["own_frame"] == list(LEFT_HALF)
    assert main([*do, "--force", "--frame", "0,0,128"]) == 2
    assert "left, upper, right, lower edge" in capsys.readouterr().err


# --- by hand


@pytest.fixture
def framing(two):
    say_scene(two, "white")
    two.view.set_tool("frame")
    two.refresh_forecast()
    return two


def frame_of(w) -> tuple[int, int, int, int] | None:
    return w.document.draft.own_frame


def test_it_is_drawn_moved_and_resized_on_the_sheet(framing, wait):
    assert framing.view.canvas.frame_rect.width() == 256
    drag(framing, 40, 50, 140, 190, modifier=Qt.KeyboardModifier.ControlModifier)
    assert frame_of(framing) == pytest.approx((40, 50, 140, 190), abs=1)
    framing.refresh_forecast()
    drag(framing, 90, 100, 110, 120, modifier=Qt.KeyboardModifier.ControlModifier)
    assert frame_of(framing) == pytest.approx((60, 70, 160, 210), abs=2)
    framing.refresh_forecast()
    drag(framing, 160, 210, 200, 230, modifier=Qt.KeyboardModifier.ControlModifier)
    assert frame_of(framing) == pytest.approx((60, 70, 200, 230), abs=3)
    # Each of them one step of undo.
    for _ in range(3):
        key(framing, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert frame_of(framing) is None


def test_it_snaps_stays_on_the_sheet_and_is_never_too_small(framing):
    drag(framing, 2, 3, 126, 128)
    assert frame_of(framing) == (0, 0, 128, 128)
    framing.refresh_forecast()
    drag(framing, 60, 60, 400, 300)
    assert frame_of(framing) == (128, 128, 256, 256)
    framing.refresh_forecast()
    drag(framing, 20, 20, 25, 25, modifier=Qt.KeyboardModifier.ControlModifier)
    assert frame_of(framing) == (128, 128, 256, 256)


def test_the_forecast_the_hint_line_and_the_run_follow_it(framing, wait):
    drag(framing, 0, 0, 128, 256)
    framing.refresh_forecast()
    assert "the frame you set" in framing.passes.forecast.text()
    assert "frame set by hand (Shift+R)" in framing.hints.text
    framing.view.set_tool("arrange")
    assert framing.view.canvas.frame_rect.width() == 128
    framing.passes.takes.setValue(1)
    run(framing, wait)
    assert framing.tray.takes[0].take.frame.width == 128
    framing.view.set_tool("frame")
    key(framing, Qt.Key.Key_Delete)
    assert frame_of(framing) is None
    assert "frame set" not in framing.hints.text
    assert len(framing.document.sheet.elements) == 2


def test_a_double_click_lets_it_fit_itself(framing):
    drag(framing, 0, 0, 128, 256)
    QTest.mouseDClick(framing.view.viewport(), Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at(framing, 60, 60))
    assert frame_of(framing) is None


def test_its_strip_says_and_sets_place_size_and_scale(framing):
    strip = framing.bench.frame_strip
    assert strip.isVisible()
    assert not framing.strip.isVisible()
    assert strip.what.text() == "Frame, fits itself"
    for name, value in (("x", 40), ("w", 100), ("y", 20), ("h", 64)):
        strip.sizes[name].setText(str(value))
        strip.sizes[name].editingFinished.emit()
        framing.refresh_forecast()
    assert frame_of(framing) == (40, 20, 140, 84)
    assert strip.what.text() == "Frame, set by hand"
    before = strip.scale.value()
    strip.scale.setValue(before * 0.6)
    framing.refresh_forecast()
    assert framing.document.draft.settings.detail == pytest.approx(0.6, abs=0.05)
    assert strip.scale.value() < before
    # No finer than twice what the model does best.
    strip.scale.setValue(16)
    assert framing.document.draft.settings.detail == 2.0
    strip.fits.click()
    assert frame_of(framing) is None
    framing.view.set_tool("arrange")
    assert not strip.isVisible()


def test_the_frame_lies_where_the_strip_does_not(framing):
    drag(framing, 0, 0, 128, 256)
    framing.refresh_forecast()
    strip, view = framing.bench.frame_strip, framing.view
    r = view.canvas.frame_rect
    on_screen = view.mapFromScene(r).boundingRect()
    met = strip.geometry().intersected(on_screen)
    assert met.width() * met.height() < 0.05 * on_screen.width() * on_screen.height()
    assert view.mapFromScene(QPointF(0, 0)).x() >= 0


def test_the_picture_outside_the_frame_stays_in_a_window_run(framing, wait):
    pixels = np.full((256, 256, 4), (200, 150, 90, 255), np.uint8)
    from waldrand.core.values.layers import PictureLayer

    sheet = framing.document.sheet
    framing.document.edit(sheet.with_layer(PictureLayer(sheet.next_key(), "ground", pixels)), "picture")
    framing.document.set_draft(replace(framing.document.draft, kind="rework", own_frame=(0, 0, 128, 256)).with_strength(0.8))
    framing.passes.takes.setValue(1)
    run(framing, wait)
    framing.takes.keep()
    after = framing.document.sheet.flatten()
    assert (after[:, 128:] == pixels[:, 128:]).all()
    assert (after[:, :128] != pixels[:, :128]).any()


def test_a_mask_brush_and_a_frame_live_together(framing, wait):
    pixels = np.full((256, 256, 4), (200, 150, 90, 255), np.uint8)
    from waldrand.core.values.layers import PictureLayer

    sheet = framing.document.sheet
    mask, _ = Mask(256, 256).dab(60, 60, 30, 0)
    framing.document.edit(replace(sheet.with_layer(PictureLayer(sheet.next_key(), "g", pixels)), mask=mask), "picture")
    framing.document.set_draft(replace(framing.document.draft, kind="inpaint", own_frame=(0, 0, 200, 200)))
    framing.refresh_forecast()
    assert framing.planned.frame.rect == Rect(0, 0, 200, 200)
