"""The real window, used as an artist uses it: drawn on, typed into, run, kept, undone, saved."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from by_hand import LEFT, at, drag, draw, key, run, say_scene, strip, type_words
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialog, QLineEdit, QMessageBox

from waldrand.core.values.element import Element
from waldrand.core.values.layers import Patch, PictureLayer
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.desk.columns.words_field import WordsField
from waldrand.desk.dialogs import NewSheet
from waldrand.desk.look.look import PARCHMENT, SPRUCE
from waldrand.desk.window import MainWindow
from waldrand.files.openraster import open_sheet, save_sheet
from waldrand.files.pictures import read_picture, read_recipe, write_png


def test_empty_window_teaches_and_cannot_run(window):
    assert window.elements.empty.isVisible()
    assert window.tray.empty.isVisible()
    assert "no words" in window.passes.forecast.text()
    assert not window.passes.run.isEnabled()


def test_drawing_a_rectangle_asks_for_words_in_place(window):
    e = draw(window, Qt.Key.Key_R, "red", 40, 50, 200, 220)
    assert e.words == "red"
    assert e.outline.shape == "box"
    assert e.outline.box == pytest.approx((40, 50, 200, 220), abs=2)
    assert window.view.tool == "arrange"
    assert strip(window, e.key).words.text() == "red"


def test_ellipse_and_freehand(window):
    assert draw(window, Qt.Key.Key_E, "blue", 20, 20, 120, 90).outline.shape == "ellipse"
    key(window, Qt.Key.Key_F)
    port = window.view.viewport()
    QTest.mousePress(port, LEFT, Qt.KeyboardModifier.NoModifier, at(window, 50, 120))
    for x, y in ((200, 130), (180, 230), (60, 220)):
        QTest.mouseMove(port, at(window, x, y))
    QTest.mouseRelease(port, LEFT, Qt.KeyboardModifier.NoModifier, at(window, 52, 125))
    type_words(window, "green")
    o = window.document.sheet.elements[-1].outline
    assert o.shape == "freehand"
    assert len(o.points) >= 4


def test_a_click_is_no_outline(window):
    key(window, Qt.Key.Key_R)
    drag(window, 50, 50, 51, 51)
    assert window.document.sheet.elements == ()
    assert "Drag" in window.passes.status.text()


def test_escape_leaves_words_as_they_were(window):
    e = draw(window, Qt.Key.Key_R, "red", 40, 50, 200, 220)
    window.view.words.edit(e.key)
    QTest.keyClicks(window.view.words.editor.words, "blue")
    QTest.keyClick(window.view.words.editor.words, Qt.Key.Key_Escape)
    assert window.view.words.editor is None
    assert window.document.sheet.elements[0].words == "red"


def test_moving_and_resizing_by_hand_is_one_undo_each(window):
    e = draw(window, Qt.Key.Key_R, "red", 40, 50, 140, 150)
    drag(window, 90, 110, 120, 130, steps=6)
    moved = window.document.sheet.element(e.key).outline.box
    assert moved == pytest.approx((70, 70, 170, 170), abs=3)
    drag(window, moved[2], moved[3], 220, 230, steps=6)
    assert window.document.sheet.element(e.key).outline.box == pytest.approx((70, 70, 220, 230), abs=4)
    key(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert window.document.sheet.element(e.key).outline.box == moved
    key(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert window.document.sheet.element(e.key).outline.box == e.outline.box
    key(window, Qt.Key.Key_Y, Qt.KeyboardModifier.ControlModifier)
    assert window.document.sheet.element(e.key).outline.box == moved


def test_arrow_keys_nudge_the_chosen_element(window):
    e = draw(window, Qt.Key.Key_R, "red", 40, 50, 140, 150)
    key(window, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    key(window, Qt.Key.Key_Down)
    x0, y0 = window.document.sheet.element(e.key).outline.box[:2]
    assert (x0 - e.outline.box[0], y0 - e.outline.box[1]) == (10, 1)


def test_delete_and_undo(window):
    draw(window, Qt.Key.Key_R, "red", 40, 50, 140, 150)
    key(window, Qt.Key.Key_Delete)
    assert window.document.sheet.elements == ()
    key(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert window.document.sheet.elements[0].words == "red"


def test_column_edits_words_weight_avoid_and_depth(window):
    a = draw(window, Qt.Key.Key_R, "red", 10, 10, 100, 100)
    b = draw(window, Qt.Key.Key_R, "blue", 50, 50, 200, 200)
    card = strip(window, b.key)
    card.words.setText("green")
    card.words.editingFinished.emit()
    card.avoid.setText("black")
    card.avoid.editingFinished.emit()
    card.weight.setValue(1.5)
    card.seed.setText("42")
    card.seed.editingFinished.emit()
    now = window.document.sheet.element(b.key)
    assert (now.words, now.avoid, now.weight, now.seed) == ("green", "black", 1.5, 42)
    card.farther.click()
    assert [e.key for e in window.document.sheet.elements] == [b.key, a.key]
    key(window, Qt.Key.Key_PageDown)
    assert [e.key for e in window.document.sheet.elements] == [a.key, b.key]


def test_bad_seed_is_put_back(window):
    e = draw(window, Qt.Key.Key_R, "red", 10, 10, 100, 100)
    card = strip(window, e.key)
    card.seed.setText("a lot")
    card.seed.editingFinished.emit()
    assert window.document.sheet.element(e.key).seed is None
    assert card.seed.text() == ""


def test_run_fills_the_tray_and_shows_a_take(with_take):
    assert len(with_take.tray.takes) == 2
    assert with_take.tray.current is not None
    take = with_take.tray.current.take
    assert take.pixels[100:200, 30:90].mean((0, 1))[2] > take.pixels[100:200, 30:90].mean((0, 1))[0] + 60
    assert not with_take.document.sheet.has_picture


def test_sheet_can_be_edited_while_a_pass_runs(window, wait):
    draw(window, Qt.Key.Key_R, "blue", 10, 60, 110, 240)
    window.passes.steps.setValue(200)
    window.run()
    assert window.runner.running
    e = draw(window, Qt.Key.Key_R, "red", 140, 60, 240, 240)
    assert e.words == "red"
    wait(lambda: not window.runner.running and not window.passes.stop.isVisible())
    assert len(window.tray.takes) == 2


def test_stop_keeps_the_sheet_and_finished_takes(window, wait):
    say_scene(window, "white")
    window.passes.steps.setValue(200)
    window.passes.takes.setValue(16)
    window.run()
    wait(lambda: len(window.tray.takes) >= 1)
    key(window, Qt.Key.Key_Escape)
    wait(lambda: not window.runner.running and not window.passes.stop.isVisible())
    assert 1 <= len(window.tray.takes) < 16
    assert "Stopped" in window.passes.status.text()
    assert window.document.sheet.layers == ()


def test_stepping_through_takes_and_back_to_the_sheet(with_take):
    first = with_take.tray.current
    key(with_take, Qt.Key.Key_Period)
    assert with_take.tray.current is not first
    key(with_take, Qt.Key.Key_Period)
    assert with_take.tray.current is None
    key(with_take, Qt.Key.Key_Comma)
    assert with_take.tray.current is with_take.tray.takes[1]


def shown(w: MainWindow, x: float, y: float) -> tuple[int, int, int]:
    w.view.canvas.show_outlines(False)
    QTest.qWait(5)
    p = at(w, x, y)
    c = w.view.grab().toImage().pixelColor(p)
    return c.red(), c.green(), c.blue()


def test_holding_b_shows_before(with_take):
    with_take.view.setFocus()
    after = shown(with_take, 60, 150)
    QTest.keyPress(with_take.view, Qt.Key.Key_B)
    before = shown(with_take, 60, 150)
    QTest.keyRelease(with_take.view, Qt.Key.Key_B)
    assert after[2] > after[0] + 40
    assert min(before) > 200
    assert shown(with_take, 60, 150) == after


def test_keep_makes_a_patch_that_can_be_hidden_deleted_and_undone(kept):
    patch = kept.document.sheet.layers[0]
    assert isinstance(patch, Patch)
    kept.view.selection.choose_layer(patch.key)
    row = kept.bench.layer_strip
    row.visible_box.click()
    assert not kept.document.sheet.has_picture
    row.visible_box.click()
    row.remove.click()
    assert kept.document.sheet.layers == ()
    key(kept, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert kept.document.sheet.has_picture
    assert "✓" in kept.tray.list.item(0).text()


def test_holding_b_shows_the_sheet_before_the_last_patch(kept):
    after = shown(kept, 60, 150)
    QTest.keyPress(kept.view, Qt.Key.Key_B)
    assert min(shown(kept, 60, 150)) > 200
    QTest.keyRelease(kept.view, Qt.Key.Key_B)
    assert shown(kept, 60, 150) == after


def test_leaving_the_line_keeps_its_words(window):
    e = draw(window, Qt.Key.Key_R, "red", 40, 50, 200, 220)
    window.view.words.edit(e.key)
    window.view.words.editor.words.setText("blue")
    window.view.words.editor.avoid.setFocus()
    QTest.keyClicks(window.view.words.editor.avoid, "white")
    QTest.qWait(10)
    assert window.view.words.editor is not None
    window.passes.steps.setFocus()
    QTest.qWait(10)
    assert window.view.words.editor is None
    now = window.document.sheet.element(e.key)
    assert (now.words, now.avoid) == ("blue", "white")


def test_dropped_takes_come_back(with_take):
    first = with_take.tray.takes[0]
    with_take.tray.list.setCurrentRow(0)
    key(with_take, Qt.Key.Key_D)
    assert first not in with_take.tray.takes
    key(with_take, Qt.Key.Key_D, Qt.KeyboardModifier.ShiftModifier)
    assert with_take.tray.takes[0] is first
    assert with_take.tray.current is first


def test_dropping_a_take_is_undone_and_done_again(with_take):
    tray, undo = with_take.tray, with_take.document.undo
    both = list(tray.takes)
    tray.list.setCurrentRow(1)
    QTest.mouseClick(tray.drop, Qt.MouseButton.LeftButton)
    assert tray.takes == both[:1]
    assert undo.undoText() == "drop 1 take"
    key(with_take, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert tray.takes == both
    assert tray.current is both[1]
    undo.redo()
    assert tray.takes == both[:1]
    # Brought back without undoing, then undone as far as it goes: nothing comes twice.
    key(with_take, Qt.Key.Key_D, Qt.KeyboardModifier.ShiftModifier)
    assert tray.takes == both
    undo.undo()
    assert tray.takes == both[:1]
    undo.undo()
    assert tray.takes == both
    key(with_take, Qt.Key.Key_D, Qt.KeyboardModifier.ShiftModifier)
    assert tray.takes == both


def test_brush_numbers_can_be_typed(kept):
    kept.bar.radius.box.setValue(77)
    kept.bar.softness.box.setValue(0.25)
    assert (kept.view.brush.radius, kept.view.brush.softness) == (77, 0.25)


def test_own_strength_of_an_element_is_taken_and_a_wrong_one_put_back(window):
    e = draw(window, Qt.Key.Key_R, "red", 10, 10, 100, 100)
    card = strip(window, e.key)
    for text, value in (("0.4", 0.4), ("3", 0.4), ("much", 0.4), ("", None)):
        card.strength.setText(text)
        card.strength.editingFinished.emit()
        assert window.document.sheet.element(e.key).strength == value


def test_a_patchs_edge_is_changed_live(kept):
    patch = replace(kept.document.sheet.layers[0], key=77, region=np.pad(np.full((100, 100), 255, np.uint8), 78))
    kept.document.edit(replace(kept.document.sheet, layers=(patch,)), "test")
    kept.view.selection.choose_layer(77)
    row = kept.bench.layer_strip
    before = int((kept.document.sheet.flatten()[..., 3] > 0).sum())
    row.grow.setValue(12)
    row.feather.setValue(5)
    now = kept.document.sheet.layers[0]
    assert (now.grow, now.feather) == (12, 5)
    assert int((kept.document.sheet.flatten()[..., 3] > 0).sum()) > before
    assert not row.edge.isHidden()


def test_painting_a_mask_then_inpainting_only_that(kept, wait):
    before = kept.document.sheet.flatten()
    key(kept, Qt.Key.Key_M)
    assert kept.document.draft.kind == "inpaint"
    assert kept.bar.radius.isVisible()
    kept.view.brush.set(radius=20, softness=0.5)
    drag(kept, 100, 30, 150, 30)
    kept.passes.words.setText("green")
    kept.passes.words.editingFinished.emit()
    kept.passes.strength.box.setValue(1.0)
    kept.refresh_forecast()
    assert "stays untouched" in kept.passes.forecast.text()
    run(kept, wait)
    kept.tray.list.setCurrentRow(2)
    key(kept, Qt.Key.Key_K)
    after, mask = kept.document.sheet.flatten(), kept.document.sheet.mask.read()
    assert (before[mask == 0] == after[mask == 0]).all()
    assert after[30, 125, 1] > int(after[30, 125, 0]) + 40


@pytest.mark.parametrize("where", ["pass", "scene"])
def test_the_forecast_follows_words_while_they_are_typed(kept, wait, where):
    kept.passes.kinds["inpaint"].click()
    mask, _ = Mask(256, 256).dab(128, 128, 40, 0)
    kept.document.edit(replace(kept.document.sheet, mask=mask), "mask")
    done = kept.document.undo.count()
    field = kept.passes.words if where == "pass" else kept.scene.words
    field.setFocus()
    QTest.keyClicks(field, "blurple")
    wait(lambda: "blurple" in kept.passes.warnings.text())
    assert kept.document.undo.count() == done
    assert kept.document.draft.words == ""
    field.selectAll()
    QTest.keyClicks(field, "red")
    wait(lambda: "blurple" not in kept.passes.warnings.text())


def test_words_that_are_given_up_are_foreseen_no_more(window, wait):
    draw(window, Qt.Key.Key_R, "red", 40, 40, 120, 120)
    window.view.words.edit(window.document.sheet.elements[0].key)
    editor = window.view.words.editor.words
    QTest.keyClicks(editor, ", blurple")
    wait(lambda: "blurple" in window.passes.warnings.text())
    QTest.keyClick(editor, Qt.Key.Key_Escape)
    wait(lambda: "blurple" not in window.passes.warnings.text())
    assert window.document.sheet.elements[0].words == "red"


def test_brush_keys_eraser_and_one_undo_per_stroke(kept):
    key(kept, Qt.Key.Key_M)
    r, s = kept.view.brush.radius, kept.view.brush.softness
    key(kept, Qt.Key.Key_W)
    key(kept, Qt.Key.Key_W, Qt.KeyboardModifier.ShiftModifier)
    assert kept.view.brush.radius > r
    assert kept.view.brush.softness > s
    assert kept.bar.radius.box.value() == round(kept.view.brush.radius)
    drag(kept, 60, 60, 120, 60)
    painted = int(kept.document.sheet.mask.read().astype(int).sum())
    key(kept, Qt.Key.Key_X)
    assert kept.bar.eraser.isChecked()
    drag(kept, 60, 60, 90, 60)
    assert 0 < int(kept.document.sheet.mask.read().astype(int).sum()) < painted
    for expected in (painted, 0):
        key(kept, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        mask = kept.document.sheet.mask
        assert (0 if mask is None else int(mask.read().astype(int).sum())) == expected


def test_rework_at_a_strength(kept, wait):
    kept.passes.kinds["rework"].click()
    kept.passes.strength.slider.setValue(0)
    kept.refresh_forecast()
    assert "no step" in kept.passes.forecast.text()
    run(kept, wait)
    take = kept.tray.takes[-1].take
    assert (take.pixels == kept.document.sheet.flatten()[..., :3]).all()
    kept.passes.strength.box.setValue(0.5)
    assert kept.document.draft.request().settings.strength == 0.5


def test_use_seed_and_next_seeds(with_take):
    with_take.tray.list.setCurrentRow(1)
    key(with_take, Qt.Key.Key_U)
    assert with_take.document.draft.settings.seed == 1
    key(with_take, Qt.Key.Key_N)
    assert with_take.document.draft.settings.seed == 3


def test_zoom_by_wheel_keeps_the_point_under_the_pointer(window):
    p = QPointF(300, 200)
    before, scale = window.view.mapToScene(p.toPoint()), window.view.scale_now
    event = QWheelEvent(
        p,
        window.view.mapToGlobal(p),
        QPoint(),
        QPoint(0, 240),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(window.view.viewport(), event)
    after = window.view.mapToScene(p.toPoint())
    assert window.view.scale_now > scale * 1.3
    assert abs(after.x() - before.x()) < 2
    assert abs(after.y() - before.y()) < 2
    key(window, Qt.Key.Key_1)
    assert window.view.scale_now == pytest.approx(1)
    key(window, Qt.Key.Key_0)
    assert window.view.scale_now == pytest.approx(scale, rel=0.01)


def test_dragging_an_empty_place_pans(window):
    window.view.zoom_to(4)
    before = window.view.mapToScene(QPoint(0, 0))
    port = window.view.viewport()
    QTest.mousePress(port, LEFT, Qt.KeyboardModifier.NoModifier, QPoint(300, 300))
    QTest.mouseMove(port, QPoint(340, 300))
    QTest.mouseRelease(port, LEFT, Qt.KeyboardModifier.NoModifier, QPoint(340, 300))
    assert window.view.mapToScene(QPoint(0, 0)).x() == pytest.approx(before.x() - 10, abs=1)


def test_save_reopen_and_title(kept, wait, tmp_path):
    kept.dialogs.path = tmp_path / "a.ora"
    QTest.qWait(60)
    assert kept.windowTitle().startswith("•")
    key(kept, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    wait(lambda: not kept.document.modified)
    assert kept.windowTitle() == "a.ora — Waldrand"
    picture = kept.document.sheet.flatten()
    assert (open_sheet(tmp_path / "a.ora").sheet.flatten() == picture).all()
    kept.passes.steps.setValue(11)
    kept.save()
    wait(lambda: not kept.document.modified)
    kept.document.open(Sheet(64, 64))
    kept.open_file(tmp_path / "a.ora")
    assert kept.document.draft.settings.steps == 11
    assert (kept.document.sheet.flatten() == picture).all()
    assert [e.words for e in kept.document.sheet.elements] == ["blue", "red"]


def test_a_sheet_without_pass_settings_begins_as_its_last_pass(kept, wait, tmp_path):
    kept.passes.steps.setValue(7)
    run(kept, wait)
    key(kept, Qt.Key.Key_K)
    save_sheet(tmp_path / "bare.ora", kept.document.sheet)
    kept.document.open(Sheet(64, 64))
    kept.open_file(tmp_path / "bare.ora")
    assert kept.document.draft.settings.steps == 7
    assert kept.document.draft.strength == kept.opening.blank_draft().strength


def test_what_is_changed_while_a_sheet_is_saved_stays_unsaved(kept, wait, tmp_path):
    kept.dialogs.path = tmp_path / "a.ora"
    kept.save()
    scene = kept.document.sheet.scene
    kept.document.edit(replace(kept.document.sheet, scene=replace(scene, words="green")), "words")
    wait(lambda: "Saved" in kept.passes.status.text())
    assert kept.document.modified
    assert open_sheet(tmp_path / "a.ora").sheet.scene.words == scene.words
    kept.save()
    wait(lambda: not kept.document.modified)
    assert open_sheet(tmp_path / "a.ora").sheet.scene.words == "green"


def test_unsaved_work_is_asked_about(kept, tmp_path):
    kept.dialogs.leave = "cancel"
    kept.opening.new_sheet()
    assert kept.document.sheet.has_picture
    assert not kept.close()
    kept.dialogs.leave, kept.dialogs.path = "save", tmp_path / "s.ora"
    kept.opening.new_sheet()
    assert (tmp_path / "s.ora").exists()
    assert not kept.document.sheet.has_picture
    asked = kept.dialogs.asked
    kept.opening.new_sheet()
    assert kept.dialogs.asked == asked


def test_failed_save_tells_and_keeps_work(kept, wait, tmp_path):
    kept.dialogs.path = tmp_path / "none" / "a.ora"
    kept.save()
    wait(lambda: bool(kept.dialogs.told))
    assert "could not be written" in kept.dialogs.told[0]
    assert kept.document.modified


@pytest.mark.parametrize("name", ["x.ora", "x.png", "x.toml"])
def test_bad_files_are_told_and_leave_the_sheet(kept, tmp_path, name):
    before = kept.document.sheet
    (tmp_path / name).write_bytes(b"nonsense")
    kept.dialogs.path = tmp_path / name
    kept.opening.open_any()
    assert len(kept.dialogs.told) == 1
    assert kept.document.sheet is before


def test_opening_a_picture_keeps_its_pixels_and_export_holds_the_recipe(window, wait, picture_file, tmp_path):
    window.dialogs.path = picture_file
    window.opening.open_any()
    assert (window.document.sheet.flatten() == read_picture(picture_file).pixels).all()
    mask, _ = Mask(256, 256).dab(128, 128, 30, 0.3)
    window.document.edit(replace(window.document.sheet, mask=mask), "mask")
    run(window, wait)
    window.takes.keep()
    window.dialogs.path = tmp_path / "out.png"
    window.saving.export_png()
    assert (read_picture(tmp_path / "out.png").pixels == window.document.sheet.flatten()).all()
    assert read_recipe(tmp_path / "out.png")["passes"][0]["recipe"]["kind"] == "inpaint"


def test_mask_pictures_of_another_size_are_scaled_saying_so(kept, tmp_path):
    write_png(tmp_path / "m.png", np.full((50, 60), 255, np.uint8))
    kept.dialogs.path = tmp_path / "m.png"
    kept.bench.with_path(kept.maps.take_mask)
    assert (kept.document.sheet.mask.read() == 255).all()
    assert "scaled" in kept.passes.status.text()


def test_forecast_warning_leads_to_its_element(window):
    draw(window, Qt.Key.Key_R, "fuchsia", 10, 10, 100, 100)
    window.view.selection.choose(None)
    window.refresh_forecast()
    assert "fuchsia" in window.passes.warnings.text()
    key_ = window.document.sheet.elements[0].key
    window.passes.warnings.linkActivated.emit("show:" + str(key_))
    assert window.view.selection.selected == key_


def test_demo_opens_laid_out(window):
    window.open_demo()
    assert [e.name for e in window.document.sheet.elements][:2] == ["moon", "birch"]
    assert window.elements.ladder.count() == 5
    assert not window.document.modified


def test_dark_and_light_looks(window):
    window.dark_action.trigger()
    assert window.look is SPRUCE
    window.dark_action.trigger()
    assert window.look is PARCHMENT


def test_every_control_has_a_tooltip_and_a_name(kept):
    kept.view.selection.choose(kept.document.sheet.elements[0].key)
    from PyQt6.QtWidgets import QAbstractButton, QAbstractSpinBox, QComboBox, QSlider

    for kind in (QAbstractButton, QAbstractSpinBox, QComboBox, QSlider, QLineEdit, WordsField):
        for w in kept.findChildren(kind):
            if w.isVisible() and not w.objectName().startswith("qt_"):
                assert w.toolTip(), f"{type(w).__name__} {w.accessibleName()}"


def test_new_sheet_dialog_offers_sizes_the_model_likes(app, closed):
    dialog = NewSheet(closed.info)
    assert dialog.size_chosen == closed.info.best_sizes[0]
    dialog.width_box.setText("600 + 25%")
    dialog.width_box.editingFinished.emit()
    assert dialog.size_chosen[0] == 664
    dialog.width_box.setText("nonsense(")
    dialog.width_box.editingFinished.emit()
    assert dialog.size_chosen[0] == 664
    assert "no length" in dialog.width_box.toolTip() or "not a length" in dialog.width_box.toolTip()
    assert isinstance(dialog, QDialog)


def test_real_question_about_unsaved_work(app, window):
    from PyQt6.QtCore import QTimer

    from waldrand.desk.dialogs import Dialogs

    def press() -> None:
        box = QApplication.activeModalWidget()
        assert isinstance(box, QMessageBox)
        next(b for b in box.buttons() if "Don't" in b.text()).click()

    QTimer.singleShot(50, press)
    assert Dialogs(window).unsaved("a.ora") == "discard"


def test_large_sheet_is_shown_whole_and_close(window):
    pixels = np.zeros((2048, 2048, 4), np.uint8)
    pixels[..., 3] = 255
    pixels[:1024, :, 0] = 200
    window.document.open(Sheet(2048, 2048, (PictureLayer(1, "p", pixels),)))
    assert shown(window, 1000, 300)[0] > 180
    assert shown(window, 1000, 1800)[0] < 20
    window.view.zoom_to(2)
    window.view.centerOn(1000, 1024)
    assert shown(window, 1000, 1018)[0] > 180
    assert shown(window, 1000, 1030)[0] < 20


def test_outline_masks_from_layouts_are_shown(window):
    e = Element(3, "cut", Outline("mask", (40, 40, 200, 200), mask=np.full((9, 9), 255, np.uint8)), "red")
    window.document.edit(window.document.sheet.with_element(e), "add")
    assert window.view.canvas.element_at(QPointF(120, 120)) == 3
    assert window.view.canvas.element_at(QPointF(230, 230)) is None
