"""The loop artists repeat: laying out, tuning, running, comparing, re-rolling, all on the real window."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from by_hand import LEFT, at, drag, draw, key, run, say_scene, strip, type_words
from PyQt6.QtCore import QEvent, QItemSelectionModel, QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QPointingDevice, QTabletEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QUndoView

from waldrand.core.passes.speed import Speed
from waldrand.core.values.dividing import draggable
from waldrand.core.values.element import Element
from waldrand.core.values.layers import Patch, PictureLayer
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.shaping import drawn
from waldrand.core.values.sheet import Sheet
from waldrand.desk.dialogs import DivideDialog, SheetSize, Shortcuts
from waldrand.desk.jobs.safekeeping import autosave_path
from waldrand.desk.takes_page import TakesPage
from waldrand.desk.window import MainWindow
from waldrand.files.openraster import open_sheet
from waldrand.files.pictures import read_picture, write_png

SHIFT, ALT, CTRL = (getattr(Qt.KeyboardModifier, m) for m in ("ShiftModifier", "AltModifier", "ControlModifier"))


def boxes(w) -> list[tuple[float, ...]]:
    return [tuple(round(v) for v in e.outline.box) for e in w.document.sheet.elements]


def click(w, x, y, modifier=Qt.KeyboardModifier.NoModifier) -> None:
    QTest.mouseClick(w.view.viewport(), LEFT, modifier, at(w, x, y))


def test_a_line_through_the_sheet_divides_it_and_stays_draggable(window):
    key(window, Qt.Key.Key_I)
    drag(window, 100, 10, 102, 200)
    drag(window, 20, 120, 90, 121)
    assert len(window.document.sheet.elements) == 3
    key(window, Qt.Key.Key_A)
    left, right = boxes(window)[0], boxes(window)[2]
    assert left[2] == right[0]
    drag(window, left[2], 230, left[2] + 40, 230)
    assert boxes(window)[2][0] == pytest.approx(right[0] + 40, abs=3)
    assert boxes(window)[0][2] == boxes(window)[2][0]
    window.document.undo.undo()
    assert boxes(window)[2] == right
    click(window, 200, 100)
    key(window, Qt.Key.Key_Right)
    assert not draggable(window.document.sheet)


def test_typed_shares_divide_the_chosen_element(two):
    two.view.selection.choose(two.document.sheet.elements[1].key)
    key(two, Qt.Key.Key_I, SHIFT)
    assert boxes(two)[1:] == [(150, 160, 170, 240), (170, 160, 190, 240), (190, 160, 230, 240)]
    assert two.document.undo.undoText() == "divide “element 2”"


def test_wrong_shares_are_marked_where_they_are_wrong(app):
    dialog = DivideDialog("the sheet")
    dialog.show()
    dialog.across.setFocus()
    dialog.across.setText("1, two, 3")
    assert "“two” is not a share" in dialog.problem.text()
    dialog.across.setText("1, 2")
    assert dialog.problem.text() == ""
    assert dialog.shares == ((1, 2), (1,))


def test_polygons_are_clicked_corner_by_corner(window):
    key(window, Qt.Key.Key_G)
    for x, y in ((40, 40), (200, 60), (120, 200)):
        click(window, x, y)
    click(window, 60, 180)
    key(window, Qt.Key.Key_Backspace)
    key(window, Qt.Key.Key_Return)
    type_words(window, "green")
    o = window.document.sheet.elements[0].outline
    assert o.shape == "freehand"
    assert np.array(o.corners()) == pytest.approx(np.array([(40, 40), (200, 60), (120, 200)]), abs=1.5)


def test_escape_gives_up_a_polygon(window):
    key(window, Qt.Key.Key_G)
    click(window, 40, 40)
    click(window, 90, 40)
    key(window, Qt.Key.Key_Escape)
    key(window, Qt.Key.Key_Return)
    assert window.document.sheet.elements == ()


def test_points_are_moved_added_and_taken_away(two):
    two.view.selection.choose(two.document.sheet.elements[1].key)
    key(two, Qt.Key.Key_P)
    drag(two, 150, 160, 120, 130)
    outline = two.document.sheet.elements[1].outline
    assert np.array(outline.corners()[0]) == pytest.approx(np.array((120, 130)), abs=2)
    QTest.mouseDClick(two.view.viewport(), LEFT, Qt.KeyboardModifier.NoModifier, at(two, 230, 200))
    assert len(two.document.sheet.elements[1].outline.points) == 5
    click(two, 230, 240, ALT)
    assert len(two.document.sheet.elements[1].outline.points) == 4


def test_several_are_chosen_and_moved_together_and_alt_reaches_beneath(two):
    a, b = (e.key for e in two.document.sheet.elements)
    click(two, 40, 60)
    click(two, 200, 200, SHIFT)
    assert two.view.selection.keys == (a, b)
    drag(two, 200, 200, 207, 211)
    assert boxes(two) == [(27, 41, 77, 101), (157, 171, 237, 251)]
    two.document.undo.undo()
    assert boxes(two) == [(20, 30, 70, 90), (150, 160, 230, 240)]
    draw(two, Qt.Key.Key_R, "white", 30, 40, 60, 80)
    two.view.selection.choose(None)
    click(two, 45, 70)
    assert two.view.selection.selected == two.document.sheet.elements[2].key
    click(two, 45, 70, ALT)
    assert two.view.selection.selected == a


def test_moving_snaps_to_other_elements_unless_ctrl_is_held(two):
    drag(two, 190, 230, 112, 230)
    assert boxes(two)[1][0] == 70
    two.document.undo.undo()
    drag(two, 190, 230, 112, 230, modifier=CTRL)
    assert boxes(two)[1][0] == pytest.approx(72, abs=1)


def test_the_knob_turns_an_outline(two):
    two.view.selection.choose(two.document.sheet.elements[1].key)
    item = two.view.canvas.leading_item()
    knob = item.turn_rect().center()
    drag(two, knob.x(), knob.y(), 300, 200, modifier=SHIFT)
    x0, y0, x1, y1 = two.document.sheet.elements[1].outline.box
    assert (x1 - x0, y1 - y0) == pytest.approx((80, 80), abs=1)
    assert two.document.sheet.elements[1].outline.shape == "freehand"


def test_drawn_outlines_are_added_to_or_cut_from_the_chosen_one(two):
    two.view.selection.choose(two.document.sheet.elements[1].key)
    before = drawn(two.document.sheet.elements[1].outline, two.document.sheet.rect).sum()
    key(two, Qt.Key.Key_J)
    key(two, Qt.Key.Key_R)
    drag(two, 120, 200, 160, 240)
    more = drawn(two.document.sheet.elements[1].outline, two.document.sheet.rect).sum()
    key(two, Qt.Key.Key_J)
    drag(two, 140, 150, 250, 190)
    less = drawn(two.document.sheet.elements[1].outline, two.document.sheet.rect).sum()
    assert less < before < more
    assert len(two.document.sheet.elements) == 2


def test_the_outline_brush_paints_and_erases(two):
    two.view.selection.choose(two.document.sheet.elements[0].key)
    key(two, Qt.Key.Key_S)
    two.view.brush.set(radius=12, softness=0.2)
    drag(two, 80, 60, 110, 60)
    assert boxes(two)[0][2] > 100
    key(two, Qt.Key.Key_X)
    two.view.brush.set(radius=20)
    drag(two, 90, 60, 125, 60)
    assert boxes(two)[0][2] < 100
    two.view.selection.choose(None)
    key(two, Qt.Key.Key_X)
    drag(two, 100, 200, 130, 220)
    assert len(two.document.sheet.elements) == 3


def test_a_light_pen_paints_thin(window):
    key(window, Qt.Key.Key_M)
    window.view.brush.set(radius=40)
    here = QPointF(at(window, 128, 128))
    device = QPointingDevice.primaryPointingDevice()
    none = Qt.KeyboardModifier.NoModifier
    pen = QTabletEvent(QEvent.Type.TabletMove, device, here, here, 0.25, 0, 0, 0, 0, 0, none, LEFT, LEFT)
    window.view.tabletEvent(pen)
    QTest.mousePress(window.view.viewport(), LEFT, Qt.KeyboardModifier.NoModifier, at(window, 128, 128))
    QTest.mouseRelease(window.view.viewport(), LEFT, Qt.KeyboardModifier.NoModifier, at(window, 128, 128))
    box = window.document.sheet.mask.box()
    assert box.width == pytest.approx(20, abs=3)


def test_place_and_size_are_typed_with_sums_and_shares(two):
    e = two.document.sheet.elements[1]
    two.view.selection.choose(e.key)
    card = strip(two, e.key)
    for name, text in (("x", "100 + 28"), ("w", "50%")):
        card.sizes[name].setText(text)
        card.sizes[name].editingFinished.emit()
    assert boxes(two)[1] == (128, 160, 256, 240)
    card.sizes["h"].setText("import os")
    card.sizes["h"].editingFinished.emit()
    assert boxes(two)[1] == (128, 160, 256, 240)
    assert "put back" in card.sizes["h"].toolTip()


def test_outlines_are_mirrored_grown_joined_cut_and_aligned(two):
    a, b = two.document.sheet.elements
    two.view.selection.choose(a.key)
    two.outlines.grow(1)
    assert boxes(two)[0] == (12, 22, 78, 98)
    two.arranging.align("centre")
    assert sum(boxes(two)[0][::2]) == 256
    two.view.selection.choose_also(b.key)
    two.arranging.align("bottom")
    assert boxes(two)[0][3] == boxes(two)[1][3]
    two.outlines.join()
    assert [e.name for e in two.document.sheet.elements] == [b.name]
    two.outlines.mirror()
    two.outlines.rotate()
    two.outlines.smooth()
    two.outlines.invert()
    two.outlines.fill()
    assert len(two.document.sheet.elements) == 1


def test_copy_paste_and_duplicate(two):
    two.view.selection.choose(two.document.sheet.elements[0].key)
    key(two, Qt.Key.Key_C, CTRL)
    key(two, Qt.Key.Key_V, CTRL)
    key(two, Qt.Key.Key_D, CTRL)
    assert [e.words for e in two.document.sheet.elements] == ["blue", "red", "blue", "blue"]
    assert len({e.key for e in two.document.sheet.elements}) == 4
    assert boxes(two)[2] == (36, 46, 86, 106)


def test_pictures_come_and_go_by_clipboard_and_drop(window, painted, tmp_path):
    window.document.open(painted)
    key(window, Qt.Key.Key_C, CTRL)
    key(window, Qt.Key.Key_V, CTRL)
    assert (window.document.sheet.layers[1].pixels == painted.flatten()).all()
    path = tmp_path / "leaf.png"
    write_png(path, np.full((20, 30, 4), 255, np.uint8))
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    event = QDropEvent(QPointF(9, 9), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)
    window.dropEvent(event)
    assert [x.name for x in window.document.sheet.layers] == ["ground", "pasted picture", "leaf"]


def test_a_colour_map_becomes_elements_and_is_written(window, tmp_path):
    picture = np.zeros((128, 128, 4), np.uint8)
    picture[:, :64] = (200, 30, 30, 255)
    picture[:, 64:] = (30, 30, 200, 255)
    path = tmp_path / "map.png"
    write_png(path, picture)
    window.maps.take_colours(path)
    assert boxes(window) == [(0, 0, 128, 256), (128, 0, 256, 256)]
    window.maps.write_colours(tmp_path / "out.png")
    assert len(np.unique(read_picture(tmp_path / "out.png").pixels.reshape(-1, 4), axis=0)) == 2


def test_a_mask_becomes_an_element_and_back(window, round_mask):
    window.document.edit(replace(window.document.sheet, mask=round_mask), "mask")
    window.maps.outline_from_mask()
    window.view.words.finish()
    assert window.document.sheet.elements[0].outline.shape == "mask"
    window.maps.empty_mask()
    window.maps.mask_from_outline()
    assert np.abs(window.document.sheet.mask.read().astype(int) - round_mask.read()).max() <= 1


def test_known_words_are_offered_and_unknown_ones_marked(window):
    line = window.scene.words
    line.setFocus()
    QTest.keyClicks(line, "gre")
    assert line.offered() == ["green"]
    QTest.keyClick(line, Qt.Key.Key_Down)
    QTest.keyClick(line, Qt.Key.Key_Return)
    QTest.keyClicks(line, ", fuchsia")
    assert line.text() == "green, fuchsia"
    assert line.unknown() == [(7, 14)]
    assert "“fuchsia” is not known" in line.toolTip()
    QTest.keyClick(line, Qt.Key.Key_Return)
    assert window.document.sheet.scene.words == "green, fuchsia"


def test_phrases_are_made_stronger_and_stay_so_when_words_are_added(window):
    say_scene(window, "green, white")
    line = window.scene.words
    line.setFocus()
    line.setCursorPosition(8)
    QTest.keyClick(line, Qt.Key.Key_Up, CTRL)
    QTest.keyClick(line, Qt.Key.Key_Up, CTRL)
    assert window.document.sheet.scene.emphasis == ((7, 12, 1.4),)
    line.setText("blue, green, white")
    line.editingFinished.emit()
    assert window.document.sheet.scene.emphasis == ((13, 18, 1.4),)


def test_what_the_model_is_told_is_readable(two):
    say_scene(two, "green")
    e = two.document.sheet.elements[1]
    two.view.selection.choose(e.key)
    assert "green, red" in strip(two, e.key).told.text()


def test_rows_are_dragged_to_another_depth(two):
    first, second = (e.key for e in two.document.sheet.elements)
    ladder = two.elements.ladder
    ladder.setCurrentRow(0, QItemSelectionModel.SelectionFlag.ClearAndSelect)
    rows = ladder.model().mimeData(ladder.selectedIndexes())
    below = ladder.visualItemRect(ladder.item(1)).bottomLeft() + QPoint(20, -2)
    drop = QDropEvent(QPointF(below), Qt.DropAction.MoveAction, rows, LEFT, Qt.KeyboardModifier.NoModifier)
    ladder.dropEvent(drop)
    assert [e.key for e in two.document.sheet.elements] == [second, first]
    assert two.elements.ladder.count() == 2
    key(two, Qt.Key.Key_Z, CTRL)
    assert [e.key for e in two.document.sheet.elements] == [first, second]


def test_a_locked_element_stays_and_an_unused_one_is_not_told(two):
    e = two.document.sheet.elements[1]
    two.view.selection.choose(e.key)
    card = strip(two, e.key)
    card.locked.click()
    drag(two, 190, 200, 120, 120)
    assert boxes(two)[1] == (150, 160, 230, 240)
    card.visible_box.click()
    two.refresh_forecast()
    assert "with 1 element," in two.passes.forecast.text()


def test_the_gauge_on_the_sheet_and_the_card_are_one(kept):
    e = kept.document.sheet.elements[0]
    kept.view.selection.choose(e.key)
    track = kept.view.canvas.leading_item().gauge_rect()
    drag(kept, track.center().x(), track.bottom() - 2, track.center().x(), track.top() + track.height() * 0.4)
    value = kept.document.sheet.elements[0].strength
    assert value == pytest.approx(0.6, abs=0.03)
    assert strip(kept, e.key).strength.text() == f"{value:g}"
    kept.document.undo.undo()
    assert kept.document.sheet.elements[0].strength is None


def test_a_warning_is_mended_by_its_link_and_undone(two):
    e = two.document.sheet.elements[0]
    two.document.edit(two.document.sheet.with_element(replace(e, outline=e.outline.moved(-40, 0))), "move")
    two.refresh_forecast()
    assert "Move it inside" in two.passes.warnings.text()
    two.passes.warnings.linkActivated.emit("mend:0")
    assert boxes(two)[0] == (0, 30, 50, 90)
    two.document.undo.undo()
    assert boxes(two)[0] == (-20, 30, 30, 90)


def test_a_warning_about_words_leads_to_where_they_are_typed(two):
    say_scene(two, "")
    two.refresh_forecast()
    assert "The scene has no words" in two.passes.warnings.text()
    assert 'href="show:scene"' in two.passes.warnings.text()
    two.passes.warnings.linkActivated.emit("show:scene")
    assert QApplication.focusWidget() is two.scene.words
    two.passes.warnings.linkActivated.emit(f"show:{two.document.sheet.elements[1].key}")
    assert two.view.selection.selected == two.document.sheet.elements[1].key
    say_scene(two, "white, castle")
    two.refresh_forecast()
    assert "castle" in two.passes.warnings.text()
    assert 'href="show:scene"' in two.passes.warnings.text()


def test_the_forecast_says_seconds_once_the_machine_is_known(two):
    assert "About" not in two.passes.forecast.text()
    two.painting.measure_speed()
    two.refresh_forecast()
    assert "About" in two.passes.forecast.text()
    assert "MB" in two.passes.forecast.text()


def test_the_forecast_learns_from_what_takes_really_took(with_take, wait):
    painting = with_take.painting
    painting.speed = Speed(5.0, 0.0, 0.0)
    with_take.passes.takes.setValue(6)
    run(with_take, wait)
    # Far too slow a guess comes down take by take, and settles instead of running past.
    expected = with_take.planned.expected(painting.speed)
    assert 0 < expected < 5 * with_take.planned.calls / 50
    before = painting.speed
    painting.speed = before.corrected(with_take.planned.expected(before), with_take.planned.expected(before))
    assert painting.speed == before


def test_passes_line_up_while_one_runs_and_can_be_cancelled(with_take, wait):
    n = len(with_take.tray.takes)
    with_take.passes.steps.setValue(200)
    with_take.run()
    with_take.run()
    with_take.run()
    assert len(with_take.runner.waiting) == 2
    assert with_take.passes.queue.isVisible()
    with_take.passes.queue.linkActivated.emit("1")
    assert len(with_take.runner.waiting) == 1
    wait(lambda: not with_take.runner.running and not with_take.runner.waiting and not with_take.passes.stop.isVisible())
    assert len(with_take.tray.takes) == n + 4


def test_wipe_and_difference_between_two_takes(with_take):
    tray, view = with_take.tray, with_take.view
    tray.list.setCurrentRow(0)
    key(with_take, Qt.Key.Key_C)
    tray.list.setCurrentRow(1)
    assert tray.partner is tray.takes[0]
    drag(with_take, 128, 100, 60, 100)
    assert view.canvas.wipe.share == pytest.approx(60 / 256, abs=0.02)
    assert boxes(with_take)[0] == (10, 60, 110, 240)
    with_take.shown.difference.trigger()
    assert with_take.takes.difference
    with_take.shown.difference.trigger()
    key(with_take, Qt.Key.Key_C)
    key(with_take, Qt.Key.Key_C)
    assert tray.partner is None


def test_marked_takes_stay_when_the_others_are_dropped_and_all_come_back(with_take):
    tray = with_take.tray
    tray.list.setCurrentRow(1)
    key(with_take, Qt.Key.Key_V)
    kept = tray.takes[1]
    key(with_take, Qt.Key.Key_V, SHIFT)
    assert tray.takes == [kept]
    key(with_take, Qt.Key.Key_D, SHIFT)
    assert tray.takes[1] is kept
    assert len(tray.takes) == 2


def test_takes_of_an_older_layout_are_marked(with_take):
    assert not any(t.older for t in with_take.tray.takes)
    with_take.view.selection.choose(with_take.document.sheet.elements[0].key)
    key(with_take, Qt.Key.Key_Right)
    with_take.refresh_forecast()
    assert all(t.older for t in with_take.tray.takes)
    assert "older layout" in with_take.tray.list.item(0).text()
    with_take.document.undo.undo()
    with_take.refresh_forecast()
    assert not any(t.older for t in with_take.tray.takes)


def test_re_rolling_one_element_leaves_the_others(with_take, wait):
    tray = with_take.tray
    tray.list.setCurrentRow(0)
    before = tray.takes[0].take.pixels.astype(int)
    with_take.view.selection.choose(with_take.document.sheet.elements[1].key)
    key(with_take, Qt.Key.Key_T)
    wait(lambda: len(tray.takes) == 3 and not with_take.runner.running)
    after = tray.takes[2].take.pixels.astype(int)
    inside = drawn(with_take.document.sheet.elements[1].outline, with_take.document.sheet.rect) > 127
    apart = np.abs(after - before).mean(-1)
    assert apart[inside].mean() > 5 * apart[~inside].mean()
    assert with_take.document.sheet.elements[1].seed is not None
    assert with_take.document.draft.settings.seed == tray.takes[0].take.seed


def test_re_rolling_takes_the_element_under_the_pointer_where_none_is_chosen(with_take, wait):
    with_take.tray.list.setCurrentRow(0)
    with_take.view.selection.choose(None)
    lake = with_take.document.sheet.elements[0]
    QTest.mouseMove(with_take.view.viewport(), at(with_take, 60, 150))
    with_take.view.setAttribute(Qt.WidgetAttribute.WA_UnderMouse, True)
    key(with_take, Qt.Key.Key_T)
    wait(lambda: not with_take.runner.running and with_take.tray.list.count() == 3)
    assert with_take.document.sheet.element(lake.key).seed is not None
    with_take.view.setAttribute(Qt.WidgetAttribute.WA_UnderMouse, False)


def test_re_rolling_the_whole_uses_a_seed_not_yet_seen(with_take, wait):
    tray = with_take.tray
    tray.list.setCurrentRow(0)
    with_take.view.selection.choose(None)
    key(with_take, Qt.Key.Key_T)
    wait(lambda: len(tray.takes) == 3 and not with_take.runner.running)
    assert len({t.take.seed for t in tray.takes}) == 3


def test_a_ladder_shows_rising_strengths_and_one_is_taken_over(kept, wait):
    n = len(kept.tray.takes)
    kept.passes.kinds["rework"].click()
    key(kept, Qt.Key.Key_L)
    wait(lambda: not kept.runner.running and not kept.passes.stop.isVisible())
    rungs = kept.tray.takes[n:]
    assert [t.special for t in rungs] == [f"strength {s:.2f}" for s in (0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9)]
    assert len({t.take.pixels.tobytes() for t in rungs}) == 8
    assert {t.take.seed for t in rungs} == {kept.document.draft.settings.seed}
    kept.tray.show_entry(rungs[2])
    key(kept, Qt.Key.Key_U)
    assert kept.document.draft.request().settings.strength == 0.4


def test_a_setting_shows_what_it_does(with_take, wait):
    n = len(with_take.tray.takes)
    with_take.passes.askers["method"].click()
    wait(lambda: not with_take.runner.running and len(with_take.tray.takes) == n + 3)
    assert [t.special for t in with_take.tray.takes[n:]] == ["method steer", "method blend", "method text"]
    assert len({t.take.seed for t in with_take.tray.takes[n:]}) == 1


def test_other_words_in_a_phrases_place(with_take, wait):
    n = len(with_take.tray.takes)
    with_take.view.selection.choose(with_take.document.sheet.elements[1].key)
    with_take.dialogs.said = ["red", "yellow, black"]
    with_take.series.try_other_words()
    wait(lambda: not with_take.runner.running and len(with_take.tray.takes) == n + 3)
    assert [t.special for t in with_take.tray.takes[n:]] == ["red", "yellow", "black"]
    assert with_take.document.sheet.elements[1].words == "red"


def test_only_what_the_mask_covers_is_kept(with_take):
    mask, _ = Mask(256, 256).dab(60, 150, 30, 0)
    with_take.document.edit(replace(with_take.document.sheet, mask=mask), "paint")
    with_take.tray.list.setCurrentRow(0)
    key(with_take, Qt.Key.Key_K, SHIFT)
    (patch,) = with_take.document.sheet.layers
    assert isinstance(patch, Patch)
    assert ((patch.region > 0) == (mask.read() > 127)).all()
    assert with_take.document.sheet.mask is None


def test_all_takes_are_seen_side_by_side_and_exported(with_take, tmp_path):
    with_take.dialogs.path = tmp_path / "page.png"
    key(with_take, Qt.Key.Key_Y)
    dialog = with_take.dialogs.shown[0]
    assert isinstance(dialog, TakesPage)
    assert len(dialog.panes) == 2
    assert "8 steps, guidance 1.5, steer" in dialog.panes[0].label.text()
    dialog.exported.emit()
    assert read_picture(tmp_path / "page.png").pixels.shape[1] > 512


def test_patches_are_reordered_duplicated_and_made_clear(kept):
    sheet = kept.document.sheet
    kept.document.edit(sheet.with_layer(PictureLayer(sheet.next_key(), "over", np.full((256, 256, 4), 255, np.uint8))), "add")
    patch = kept.document.sheet.layers[0]
    kept.view.selection.choose_layer(patch.key)
    kept.bench.layer_strip.nearer.click()
    assert kept.document.sheet.layers[1].key == patch.key
    assert (kept.document.sheet.flatten()[..., :3] == patch.pixels).all()
    kept.bench.layer_strip.opacity.setValue(0)
    assert (kept.document.sheet.flatten() == 255).all()
    kept.bench.layer_strip.copy.click()
    assert len(kept.document.sheet.layers) == 3


def test_the_sheet_is_extended_cropped_and_scaled(kept):
    dialog = SheetSize(256, 256)
    dialog.width_box.setText("150%")
    dialog.width_box.editingFinished.emit()
    rect = dialog.rect_chosen
    assert (rect.x0, rect.width, rect.height) == (-64, 384, 256)
    kept.dialogs.new_frame = (rect, "framed")
    kept.sizing.change_size()
    assert boxes(kept)[0] == (74, 60, 174, 240)
    kept.view.selection.choose(kept.document.sheet.elements[0].key)
    kept.sizing.crop_to_chosen()
    assert (kept.document.sheet.width, kept.document.sheet.height) == (100, 180)
    for _ in range(2):
        kept.document.undo.undo()
    kept.dialogs.new_frame = (type(rect)(0, 0, 128, 128), "smooth")
    kept.sizing.change_size()
    assert boxes(kept)[0] == (5, 30, 55, 120)
    assert kept.document.sheet.layers[0].pixels.shape == (128, 128, 3)


def test_the_history_lists_steps_to_jump_to(two):
    key(two, Qt.Key.Key_H, CTRL)
    steps = two.history.findChild(QUndoView)
    assert steps.isVisible()
    steps.setCurrentIndex(steps.model().index(1, 0))
    assert len(two.document.sheet.elements) == 1


def test_all_keys_are_listed(window):
    key(window, Qt.Key.Key_F1)
    (dialog,) = window.dialogs.shown
    assert isinstance(dialog, Shortcuts)


def test_unsaved_work_comes_back(app, closed, two, tmp_path):
    two.aside.autosave()
    two.aside.finish_autosave()
    assert len(open_sheet(autosave_path()).sheet.elements) == 2
    other = MainWindow(closed)
    other.dialogs = two.dialogs
    other.dialogs.agrees = True
    other.aside.begin_autosave()
    assert [e.words for e in other.document.sheet.elements] == ["blue", "red"]
    assert other.document.modified
    two.dialogs.leave = "discard"
    other.close()
    assert not autosave_path().exists()


def test_work_that_cannot_be_kept_aside_is_told_and_tried_again(app, two, tmp_path):
    two.aside.end_autosave()
    blocked = autosave_path().parent
    blocked.parent.mkdir(parents=True, exist_ok=True)
    moved = tmp_path / "moved"
    blocked.rename(moved)
    blocked.write_text("a file where the folder should be")
    try:
        two.aside.autosave()
        two.aside.finish_autosave()
        app.processEvents()
        assert "could not be kept aside" in two.passes.status.text()
    finally:
        blocked.unlink()
        moved.rename(blocked)
    two.aside.autosave()
    two.aside.finish_autosave()
    assert len(open_sheet(autosave_path()).sheet.elements) == 2


def test_two_windows_do_not_take_each_others_unsaved_work(app, closed, two):
    two.aside.begin_autosave()
    two.aside.autosave()
    two.aside.finish_autosave()
    assert autosave_path().exists(), two.passes.status.text()
    other = MainWindow(closed)
    other.dialogs = two.dialogs
    other.dialogs.agrees = True
    asked = two.dialogs.asked
    other.aside.begin_autosave()
    assert two.dialogs.asked == asked
    assert other.document.sheet.elements == ()
    other.close()
    assert autosave_path().exists()


def test_the_window_remembers_its_tools_and_look(app, closed, window):
    window.dark_action.trigger()
    window.view.brush.set(radius=77)
    key(window, Qt.Key.Key_G)
    window.remembered.keep()
    other = MainWindow(closed)
    other.dialogs = window.dialogs
    other.begin()
    assert other.look.name == "spruce"
    assert other.view.brush.radius == 77
    assert other.view.tool == "polygon"
    other.close()
    window.dark_action.trigger()
    window.view.set_tool("arrange")
    window.remembered.keep()


def test_a_pictures_recipe_is_started_from(kept, tmp_path):
    kept.dialogs.path = tmp_path / "made.png"
    kept.saving.export_png()
    kept.opening.take_recipe(tmp_path / "made.png")
    assert [e.words for e in kept.document.sheet.elements] == ["blue", "red"]
    assert kept.document.sheet.scene.words == "white"
    assert not kept.document.sheet.has_picture


def test_every_new_thing_survives_saving(two, tmp_path):
    two.arranging.divide()
    e = two.document.sheet.elements[0]
    two.document.edit(two.document.sheet.with_element(replace(e, emphasis=((0, 4, 1.4),), locked=True, visible=False)), "x")
    two.dialogs.path = tmp_path / "a.ora"
    assert two.save()
    assert two.saving.finish_saving()
    again = open_sheet(tmp_path / "a.ora").sheet
    assert len(draggable(again)) == 1
    first = again.elements[0]
    assert (first.emphasis, first.locked, first.visible) == (((0, 4, 1.4),), True, False)


def test_marked_takes_are_asked_about_before_leaving(window, wait):
    window.document.open(Sheet(256, 256, elements=(Element(1, "a", Outline("box", (0, 0, 99, 99)), "red"),)))
    run(window, wait)
    window.tray.mark_current()
    window.document.saved(None, window.document.moment)
    window.close()
    assert window.isVisible()
    window.dialogs.agrees = True


def test_two_settings_are_tried_together(with_take, wait):
    n = len(with_take.tray.takes)
    with_take.dialogs.said = ["guidance=1,2; steps=3,5"]
    key(with_take, Qt.Key.Key_L, SHIFT)
    wait(lambda: not with_take.runner.running and len(with_take.tray.takes) == n + 4)
    assert with_take.tray.takes[-1].special == "guidance 2, steps 5"
    with_take.dialogs.said = ["owl"]
    with_take.series.vary()
    assert "does not say" in with_take.passes.status.text()


def test_an_element_keeps_the_noise_it_has_in_a_take(with_take):
    with_take.tray.list.setCurrentRow(1)
    with_take.view.selection.choose(with_take.document.sheet.elements[0].key)
    key(with_take, Qt.Key.Key_U, SHIFT)
    assert with_take.document.sheet.elements[0].seed == with_take.tray.takes[1].take.seed


def test_words_beyond_the_limit_are_marked(window):
    line = window.scene.words
    line.setText("red " * 8 + "blue")
    assert line.unknown() == [(32, 36)]


def test_takes_are_saved_with_the_sheet(kept, tmp_path):
    kept.tray.list.setCurrentRow(1)
    kept.tray.mark_current()
    kept.dialogs.path = tmp_path / "takes.ora"
    assert kept.save()
    assert kept.saving.finish_saving()
    before = [(t.take.pixels.tobytes(), t.take.seed, t.marked, t.kept) for t in kept.tray.takes]
    kept.opening.new_sheet()
    assert kept.tray.takes == []
    kept.open_file(tmp_path / "takes.ora")
    assert [(t.take.pixels.tobytes(), t.take.seed, t.marked, t.kept) for t in kept.tray.takes] == before
    assert kept.tray.takes[1].plan.request.kind == "compose"
    assert kept.tray.current is None
    assert not kept.document.modified
    kept.close()
    assert not kept.isVisible()
