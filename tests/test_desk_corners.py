"""Corners of the window: nothing chosen, nothing on the clipboard, failing packs, damaged files, dialogs' own checks."""

from __future__ import annotations

import json
import zipfile
from dataclasses import replace

import numpy as np
import pytest
from by_hand import LEFT, at, drag, draw, key, run, say_scene, strip
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QImage, QMouseEvent, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialogButtonBox

from waldrand.core.passes.recipe import picture_recipe
from waldrand.core.passes.repeat import repeat
from waldrand.core.values.as_json import division_from_json, division_to_json
from waldrand.core.values.dividing import divide, draggable
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.resize import framed, scaled
from waldrand.core.values.sheet import Sheet
from waldrand.desk.columns.tray import same_layout
from waldrand.desk.dialogs import DivideDialog, NewSheet, SheetSize
from waldrand.desk.look.images import from_image, to_image
from waldrand.files.openraster import open_sheet, save_sheet

SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.mark.parametrize(
    ("act", "says"),
    [
        (lambda w: w.outlines.mirror(), "Choose an element first"),
        (lambda w: w.arranging.align("left"), "Choose an element first"),
        (lambda w: w.outlines.join(), "two or more"),
        (lambda w: w.outlines.cut_out(), "the one that cuts"),
        (lambda w: w.maps.mask_from_outline(), "Choose an element first"),
        (lambda w: w.maps.outline_from_mask(), "mask is empty"),
        (lambda w: w.sizing.crop_to_chosen(), "Choose the element"),
        (lambda w: w.arranging.copy(), "nothing to copy"),
        (lambda w: w.takes.keep(), "no take to keep"),
        (lambda w: w.rerolling.reroll(), "Step to the take"),
        (lambda w: w.rerolling.reroll_missed(), "Step to the take"),
        (lambda w: w.rerolling.use_for_chosen(), "Step to a take"),
        (lambda w: w.takes.show_all(), "no takes yet"),
        (lambda w: w.series.run_ladder(), "no picture"),
        (lambda w: w.seeing.mask_by_words(), "no picture"),
        (lambda w: w.seeing.read_off_words(), "no picture"),
        (lambda w: w.seeing.elements_seen(), "no picture"),
        (lambda w: w.saving.export_png(), "no picture to export"),
    ],
)
def test_what_cannot_be_done_yet_is_said(window, act, says):
    act(window)
    assert says in window.passes.status.text()
    assert not window.document.modified


def test_an_empty_clipboard_is_said(window):
    QApplication.clipboard().clear()
    window.arranging.paste()
    assert "clipboard" in window.passes.status.text()


@given(st.integers(1, 40), st.integers(1, 40), st.integers(0, 2**16))
def test_pictures_go_through_qt_unchanged(w, h, seed):
    pixels = np.random.default_rng(seed).integers(0, 256, (h, w, 4)).astype(np.uint8)
    pixels[..., 3] = 255
    image = to_image(pixels)
    assert isinstance(image, QImage)
    assert (from_image(image) == pixels).all()


def test_a_dropped_sheet_is_opened_and_a_broken_one_told(window, tmp_path, placed):
    save_sheet(tmp_path / "s.ora", placed)
    (tmp_path / "broken.ora").write_bytes(b"PK nothing")

    def drop(name: str) -> None:
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(tmp_path / name))])
        none = Qt.KeyboardModifier.NoModifier
        window.dropEvent(QDropEvent(QPointF(5, 5), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, none))

    drop("s.ora")
    assert [e.name for e in window.document.sheet.elements] == ["lake", "roof"]
    drop("broken.ora")
    assert "broken.ora" in window.dialogs.told[-1]
    assert len(window.document.sheet.elements) == 2


def test_the_wheel_with_ctrl_makes_a_phrase_stronger(window):
    say_scene(window, "green, white")
    line = window.scene.words
    here = QPointF(12, line.height() / 2)
    ctrl = Qt.KeyboardModifier.ControlModifier
    none = Qt.MouseButton.NoButton
    wheel = QWheelEvent(here, here, QPoint(), QPoint(0, 120), none, ctrl, Qt.ScrollPhase.NoScrollPhase, False)
    QApplication.sendEvent(line.viewport(), wheel)
    assert window.document.sheet.scene.emphasis == ((0, 5, 1.2),)
    window.document.undo.undo()
    assert window.document.sheet.scene.emphasis == ()


def test_pressing_and_moving_scrubs_through_the_takes(with_take):
    tray = with_take.tray
    first, last = (tray.list.visualItemRect(tray.list.item(i)).center() for i in (0, 1))
    port = tray.list.viewport()
    QTest.mousePress(port, LEFT, Qt.KeyboardModifier.NoModifier, first)
    assert tray.current is tray.takes[0]
    move = QMouseEvent(QEvent.Type.MouseMove, QPointF(last), QPointF(port.mapToGlobal(last)), LEFT, LEFT, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(port, move)
    assert tray.current is tray.takes[1]
    QTest.mouseRelease(port, LEFT, Qt.KeyboardModifier.NoModifier, last)


def test_a_pack_that_fails_leaves_the_window_and_the_sheet(with_take, wait, monkeypatch):
    def broken(*args):
        raise RuntimeError("graph gone")

    before = with_take.document.sheet
    monkeypatch.setattr(with_take.pack, "answer", broken)
    with_take.run()
    with_take.run()
    wait(lambda: not with_take.runner.running and not with_take.runner.waiting and not with_take.passes.stop.isVisible())
    assert "graph gone" in with_take.passes.status.text()
    assert with_take.document.sheet is before


def test_stop_stops_the_running_pass_and_the_next_in_line_begins(with_take, wait):
    n = len(with_take.tray.takes)
    with_take.passes.steps.setValue(200)
    with_take.passes.takes.setValue(16)
    with_take.run()
    with_take.passes.steps.setValue(3)
    with_take.passes.takes.setValue(1)
    with_take.run()
    with_take.painting.stop()
    wait(lambda: not with_take.runner.running and not with_take.runner.waiting and not with_take.passes.stop.isVisible())
    assert n < len(with_take.tray.takes) < n + 17
    assert with_take.tray.takes[-1].plan.steps == 3


def test_leaving_for_another_sheet_empties_the_queue(with_take):
    with_take.passes.steps.setValue(200)
    with_take.run()
    with_take.run()
    with_take.opening.new_sheet()
    assert with_take.runner.waiting == []
    assert with_take.tray.takes == []
    QTest.qWait(30)
    assert with_take.tray.takes == []


@pytest.mark.parametrize(("index", "x", "y"), [(0, 0, 0), (4, -50, -30), (8, -100, -60)])
def test_the_old_sheet_lies_where_it_was_said(app, index, x, y):
    dialog = SheetSize(200, 140)
    for field, text in ((dialog.width_box, "300"), (dialog.height_box, "200")):
        field.setText(text)
        field.editingFinished.emit()
    dialog.anchor.setCurrentIndex(index)
    assert dialog.rect_chosen == Rect(x, y, x + 300, y + 200)


def test_shares_can_only_be_taken_when_they_parse(app):
    dialog = DivideDialog("the sheet")
    ok = dialog.buttons.button(QDialogButtonBox.StandardButton.Ok)
    assert ok.isEnabled()
    dialog.down.setText("1;;1")
    assert not ok.isEnabled()
    assert "shares down" in dialog.problem.text()
    dialog.down.setText("2; 1")
    assert ok.isEnabled()


def test_new_sheets_come_in_common_shapes(app, closed):
    dialog = NewSheet(closed.info)
    shapes = {round(w / h, 1) for w, h in dialog._choices}
    assert {1.0, 1.5, 0.7, 1.8, 0.6} <= shapes
    assert max(shapes) >= 1.9
    for row in range(dialog.sizes.count()):
        dialog.sizes.setCurrentRow(row)
        w, h = dialog.size_chosen
        assert min(w, h) >= 16


def test_a_damaged_division_or_take_is_said(tmp_path, with_take):
    sheet = divide(Sheet(64, 64), (1, 1))
    for key_, change in (("divisions", [{"outline": {}}]), ("takes", [{"src": "nothing.png"}])):
        path = tmp_path / f"{key_}.ora"
        save_sheet(path, sheet)
        with zipfile.ZipFile(path) as z:
            parts = {n: z.read(n) for n in z.namelist()}
        ours = json.loads(parts["waldrand/sheet.json"])
        ours[key_] = change
        parts["waldrand/sheet.json"] = json.dumps(ours).encode()
        with zipfile.ZipFile(path, "w") as z:
            for name, data in parts.items():
                z.writestr(name, data)
        with pytest.raises(ValueError, match="damaged"):
            open_sheet(path)


@given(st.lists(st.integers(1, 5), min_size=2, max_size=4), st.lists(st.integers(1, 5), min_size=1, max_size=3), st.booleans())
def test_divisions_survive_json_with_all_that_is_nested(across, down, round_):
    start = Sheet(400, 300)
    sheet = divide(start, tuple(map(float, across)), tuple(map(float, down)))
    sheet = divide(sheet, (1.0,), (2.0, 1.0), sheet.elements[-1].key)
    (d,) = sheet.divisions
    again = division_from_json(division_to_json(d))
    assert {k: o.box for k, o in again.leaves().items()} == {k: o.box for k, o in d.leaves().items()}
    assert again.whole({e.key: e.outline.box for e in sheet.elements})
    if round_:
        assert replace(sheet, divisions=(again,)).divisions[0].within()[1].outline.box == d.within()[1].outline.box


@given(st.integers(-40, 40), st.integers(-40, 40), st.integers(20, 120), st.integers(20, 120))
def test_framing_moves_all_things_alike(x, y, w, h):
    pixels = np.random.default_rng(1).integers(0, 256, (64, 64, 4)).astype(np.uint8)
    mask, _ = Mask(64, 64).dab(30, 30, 12, 0.3)
    sheet = replace(divide(Sheet(64, 64, (PictureLayer(99, "p", pixels),)), (1, 1)), mask=mask)
    rect = Rect(x, y, x + w, y + h)
    cut = framed(sheet, rect)
    assert (cut.flatten() == sheet.flatten(rect)).all()
    assert (cut.mask.read() == sheet.mask.read(rect)).all()
    assert len(cut.divisions) == 1
    assert len(draggable(cut)) == 1
    assert [e.outline.box[0] for e in cut.elements] == [e.outline.box[0] - x for e in sheet.elements]


def test_scaling_keeps_dividing_lines_draggable():
    sheet = divide(divide(Sheet(200, 100), (1, 2)), (1,), (1, 1), 2)
    big = scaled(sheet, 500, 400)
    assert len(draggable(big)) == 1
    assert max(e.outline.box[2] for e in big.elements) == pytest.approx(500)


def test_layouts_are_compared_by_what_is_told(placed):
    a = placed.elements[0]
    assert same_layout(placed, placed.with_element(replace(a, name="pond", locked=True, seed=3)))
    for change in ({"words": "red"}, {"weight": 2.0}, {"visible": False}, {"outline": a.outline.moved(1, 0)}):
        assert not same_layout(placed, placed.with_element(replace(a, **change)))
    assert not same_layout(placed, replace(placed, scene=replace(placed.scene, words="green")))


def test_a_dividing_line_on_the_sheet_keeps_nested_ones_inside(window):
    window.document.edit(divide(window.document.sheet, (1, 1)), "divide")
    window.document.edit(divide(window.document.sheet, (1,), (1, 1), window.document.sheet.elements[0].key), "divide")
    key(window, Qt.Key.Key_A)
    drag(window, 128, 200, 170, 200)
    right_edges = {round(e.outline.box[2]) for e in window.document.sheet.elements[:2]}
    assert len(right_edges) == 1
    assert 160 < right_edges.pop() < 180
    drag(window, 60, 128, 60, 180)
    heights = [round(e.outline.box[3] - e.outline.box[1]) for e in window.document.sheet.elements[:2]]
    assert heights[0] > heights[1]


def test_an_outline_drawn_outside_is_said_to_leave_the_sheet_and_cropping_to_it_stays_inside(window):
    draw(window, Qt.Key.Key_R, "blue", 100, 100, 252, 252)
    e = window.document.sheet.elements[0]
    window.document.edit(window.document.sheet.with_element(replace(e, outline=e.outline.moved(60, 0))), "move")
    window.view.selection.choose(e.key)
    window.sizing.crop_to_chosen()
    sheet = window.document.sheet
    assert 90 <= sheet.width <= 100
    assert sheet.elements[0].outline.box[0] == pytest.approx(0, abs=1)


def test_a_kept_take_on_a_cropped_sheet_repeats_on_a_scaled_one_it_tells_its_history(kept, closed):
    kept.view.selection.choose(kept.document.sheet.elements[0].key)
    kept.sizing.crop_to_chosen()
    sheet = kept.document.sheet
    assert (repeat(picture_recipe(sheet), closed).pixels == sheet.flatten()).all()
    recipe = picture_recipe(scaled(sheet, 2 * sheet.width, 2 * sheet.height))
    assert recipe["passes"] == []
    assert recipe["history"][0]["recipe"]["kind"] == "compose"


def test_esc_steps_back_from_running_to_take_to_choice(with_take, wait):
    with_take.tray.list.setCurrentRow(0)
    with_take.view.selection.choose(with_take.document.sheet.elements[0].key)
    key(with_take, Qt.Key.Key_Escape)
    assert with_take.tray.current is None
    assert with_take.view.selection.selected is not None
    key(with_take, Qt.Key.Key_Escape)
    assert with_take.view.selection.selected is None


def test_a_click_on_an_element_beneath_the_picture_of_a_take_still_chooses_it(with_take):
    with_take.tray.list.setCurrentRow(0)
    QTest.mouseClick(with_take.view.viewport(), LEFT, Qt.KeyboardModifier.NoModifier, at(with_take, 60, 150))
    assert with_take.view.selection.selected == with_take.document.sheet.elements[0].key


def test_every_pass_goes_on_after_the_sheet_was_scaled(kept, wait):
    kept.dialogs.new_frame = (Rect(0, 0, 320, 256), "smooth")
    kept.sizing.change_size()
    kept.passes.kinds["rework"].click()
    kept.passes.takes.setValue(1)
    run(kept, wait)
    key(kept, Qt.Key.Key_K)
    assert kept.document.sheet.flatten().shape == (256, 320, 4)
    assert isinstance(kept.document.sheet.elements[0].outline, Outline)


def test_a_field_is_as_high_as_its_words_need(window):
    e = draw(window, Qt.Key.Key_R, "green", 20, 20, 90, 90)
    line = strip(window, e.key).words
    low = line.height()
    window.document.edit(window.document.sheet.with_element(replace(e, words=", ".join(["green", "white", "blue"] * 8))), "words")
    QTest.qWait(20)
    assert line.height() > 2 * low - 8
    # All of it is seen.
    last = line.textCursor()
    last.setPosition(len(line.text()))
    assert line.cursorRect(last).bottom() <= line.viewport().height()
    window.document.edit(window.document.sheet.with_element(replace(e, words="green")), "words")
    assert line.height() == low


def test_pasted_rows_become_phrases(window):
    line = window.scene.words
    line.setFocus()
    QApplication.clipboard().setText("green\n  white \n\nblue")
    line.paste()
    QTest.keyClick(line, Qt.Key.Key_Return)
    assert window.document.sheet.scene.words == "green, white, blue"


def test_detail_is_asked_for_in_the_pass_column_and_told_of_the_take(window, wait):
    draw(window, Qt.Key.Key_R, "blue", 10, 60, 110, 240)
    run(window, wait)
    assert "detail" not in window.tray.takes[0].settings
    window.passes.detail.setValue(1.5)
    window.refresh_forecast()
    assert "computed at 384 x 384" in window.passes.forecast.text()
    run(window, wait)
    assert window.tray.takes[-1].settings.endswith(", detail 1.5")
    window.document.undo.undo()
    assert window.document.draft.settings.detail == 1.0
