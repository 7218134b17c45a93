"""The pen, drawings, sketches, depth and looks by hand: in the real window, with the mouse and the keys."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from by_hand import along, click, drag, draw, key, menu, opened, run, say_scene, strip
from PIL import Image
from PyQt6.QtCore import Qt
from test_guides import cross, rgba, sketching

from waldrand.core.passes.plan import plan
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import BOTH, DEPTH, LINES, LOOK, PictureLayer
from waldrand.core.values.pencil import Pencil
from waldrand.desk.look.images import from_image

SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def desk(app, painted):
    """The window, whose pack has drawings of blue things, with a picture on its sheet."""
    with opened(sketching()) as w:
        w.document.edit(painted, "picture")
        yield w


def drawing(w) -> Pencil:
    layer = w.document.sheet.layers[-1]
    assert isinstance(layer, Pencil)
    return layer


def seen(w) -> np.ndarray:
    """What the sheet view shows, (h, w, 3)."""
    port = w.view.viewport()
    assert port is not None
    return from_image(port.grab().toImage())[..., :3].astype(int)


def at(w, x: float, y: float) -> np.ndarray:
    p = w.view.mapFromScene(x, y)
    return seen(w)[p.y() - 1 : p.y() + 2, p.x() - 1 : p.x() + 2].reshape(-1, 3)


def test_the_pen_draws_what_passes_follow_and_the_picture_stays(desk):
    before = desk.document.sheet.flatten()
    desk.rail.tools["pen"].trigger()
    along(desk, (40, 60), (120, 60), (120, 140))
    assert (drawing(desk).role, drawing(desk).of, len(drawing(desk).strokes)) == (LINES, None, 1)
    assert drawing(desk).drawn[60, 50:110].min() > 200
    assert (desk.document.sheet.flatten() == before).all()
    assert at(desk, 80, 60).sum(1).min() < 200
    along(desk, (40, 180), (120, 180))
    assert len(drawing(desk).strokes) == 2
    desk.refresh_forecast()
    assert "Follows the drawing" in desk.passes.forecast.text()
    desk.document.undo.undo()
    assert len(drawing(desk).strokes) == 1
    desk.document.undo.undo()
    assert len(desk.document.sheet.layers) == 1


def test_a_straight_line_goes_on_and_what_is_drawn_is_rubbed_out(desk):
    desk.rail.tools["pen"].trigger()
    click(desk, 40, 40)
    click(desk, 200, 40, SHIFT)
    assert drawing(desk).drawn[40, 60:180].min() > 150
    key(desk, Qt.Key.Key_X)
    desk.view.brush.set(pen=20)
    drag(desk, 100, 40, 130, 40)
    assert not drawing(desk).drawn[40, 105:125].any()
    assert drawing(desk).strokes[-1].rubs
    key(desk, Qt.Key.Key_X)
    assert not desk.view.brush.erasing


def test_rubbing_out_where_nothing_is_drawn_is_said(desk):
    desk.rail.tools["pen"].trigger()
    key(desk, Qt.Key.Key_X)
    drag(desk, 100, 40, 130, 40)
    assert "nothing drawn yet" in desk.passes.status.text()
    assert len(desk.document.sheet.layers) == 1


def test_the_pen_is_as_wide_as_is_typed(desk):
    desk.rail.tools["pen"].trigger()
    assert desk.bar.pen_width.isVisible()
    desk.bar.pen_width.turned.emit(12.0)
    drag(desk, 40, 100, 200, 100)
    assert (drawing(desk).drawn[:, 120] > 128).sum() == pytest.approx(12, abs=1)
    desk.view.set_tool("arrange")
    assert not desk.bar.pen_width.isVisible()


def test_a_drawing_of_an_element_goes_with_it(desk):
    say_scene(desk, "white")
    e = draw(desk, Qt.Key.Key_R, "red", 40, 40, 120, 120)
    desk.view.selection.choose(e.key)
    desk.rail.tools["pen"].trigger()
    drag(desk, 50, 50, 110, 110)
    assert drawing(desk).of == e.key
    place = drawing(desk).seen
    desk.view.set_tool("arrange")
    desk.view.selection.choose(e.key)
    for _ in range(3):
        key(desk, Qt.Key.Key_Right, SHIFT)
    assert drawing(desk).seen == place.moved(30, 0)
    strip(desk, e.key).sizes["w"].set_to.emit(160.0)
    assert drawing(desk).seen.width > 1.8 * place.width
    for _ in range(2):
        desk.document.undo.undo()
    assert drawing(desk).seen == place


def test_a_sketch_is_seen_before_anything_is_painted_and_its_weight_counts(desk, wait):
    desk.document.edit(replace(desk.document.sheet, layers=()), "bare")
    say_scene(desk, "white")
    e = draw(desk, Qt.Key.Key_R, "blue", 40, 40, 216, 216)
    desk.view.selection.choose(None)

    def inked() -> float:
        return float(at(desk, 128, 80).sum(1).min())

    dark = inked()
    strip(desk, e.key).sketch.setValue(0.0)
    desk.view.selection.choose(None)
    assert inked() > dark + 150
    run(desk, wait)
    without = desk.tray.takes[-1].take.pixels[70:90, 122:134].astype(int).mean()
    desk.document.undo.undo()
    assert desk.document.sheet.element(e.key).sketch == 1
    run(desk, wait)
    assert desk.tray.takes[-1].take.pixels[70:90, 122:134].astype(int).mean() < without - 20
    assert desk.passes.sketches.isVisibleTo(desk.passes)
    desk.passes.sketches.setChecked(False)
    assert all(o.lines is None for o in desk.view.figures().values())


def test_a_sketch_becomes_strokes_that_are_redrawn(desk):
    say_scene(desk, "white")
    e = draw(desk, Qt.Key.Key_R, "blue", 40, 40, 216, 216)
    desk.view.selection.choose(e.key)
    menu(desk, "Sketch, drawing or grounds as strokes")
    assert drawing(desk).of == e.key
    assert len(drawing(desk).strokes) >= 1
    assert drawing(desk).drawn[60:100, 118:138].max() > 100
    assert desk.view.tool == "pen"
    # Its own drawing takes the sketch's place.
    assert desk.view.figures()[e.key].lines is None
    assert not plan(desk.document.sheet, desk.document.draft.request(), desk.pack).stages[0].sketches
    before = drawing(desk).drawn
    menu(desk, "Straighten strokes")
    menu(desk, "Smooth strokes")
    assert drawing(desk).drawn is not before
    menu(desk, "Sketch, drawing or grounds as strokes")
    assert "made of strokes already" in desk.passes.status.text()


def test_lines_of_the_picture_become_a_drawing_and_strokes(desk):
    pixels = np.full((256, 256, 4), 255, np.uint8)
    pixels[..., :3] = (90, 160, 220)
    pixels[100:200, 90:170, :3] = (200, 60, 50)
    desk.document.edit(replace(desk.document.sheet, layers=(PictureLayer(1, "roof", pixels),)), "flat")
    menu(desk, "Lines of this picture")
    lines = desk.document.sheet.layers[-1]
    assert lines.role == LINES
    assert lines.shown[150, 88:92, 3].max() > 200
    assert desk.view.selection.layer == lines.key
    menu(desk, "Sketch, drawing or grounds as strokes")
    assert drawing(desk).key == lines.key
    assert drawing(desk).drawn[150, 86:94].max() > 100
    desk.document.undo.undo()
    assert desk.document.sheet.layers[-1] is lines


def test_even_pictures_have_no_lines_which_is_said(desk):
    plain = PictureLayer(1, "plain", np.full((256, 256, 4), 255, np.uint8))
    desk.document.edit(replace(desk.document.sheet, layers=(plain,)), "plain")
    menu(desk, "Lines of this picture")
    assert "no lines to draw" in desk.passes.status.text()
    desk.document.edit(replace(desk.document.sheet, layers=()), "bare")
    menu(desk, "Lines of this picture")
    menu(desk, "Depth of this picture")
    assert "no picture to look at" in desk.passes.status.text()


def grey_at(w, x: int, y: int) -> int:
    layer = w.document.sheet.layers[-1]
    assert layer.role == DEPTH
    return int(layer.shown[y, x, 0])


def test_a_depth_is_corrected_by_brush(desk):
    menu(desk, "Depth of this picture")
    before = desk.document.sheet.layers[-1]
    picture = desk.document.sheet.flatten()
    desk.rail.tools["near"].trigger()
    desk.view.brush.set(radius=12, softness=0)
    had = grey_at(desk, 100, 60)
    along(desk, (60, 60), (140, 60))
    nearer = grey_at(desk, 100, 60)
    assert nearer > had
    assert desk.document.sheet.layers[-1].key == before.key
    assert grey_at(desk, 100, 200) == int(before.shown[200, 100, 0])
    key(desk, Qt.Key.Key_X)
    along(desk, (60, 60), (140, 60))
    along(desk, (60, 60), (140, 60))
    farther = grey_at(desk, 100, 60)
    assert farther < nearer
    click(desk, 100, 200, CTRL)
    assert "Lays a nearness of" in desk.passes.status.text()
    along(desk, (60, 60), (140, 60))
    assert abs(grey_at(desk, 100, 60) - int(before.shown[200, 100, 0])) <= 1
    key(desk, Qt.Key.Key_X)
    along(desk, (60, 60), (140, 60))
    assert grey_at(desk, 100, 60) > int(before.shown[200, 100, 0])
    assert (desk.document.sheet.flatten() == picture).all()
    for _ in range(5):
        desk.document.undo.undo()
    assert desk.document.sheet.layers[-1] is before


def test_without_a_depth_the_brush_begins_one_that_passes_follow(desk):
    desk.rail.tools["near"].trigger()
    along(desk, (60, 60), (140, 60))
    assert grey_at(desk, 100, 60) > grey_at(desk, 100, 200) == 128
    desk.refresh_forecast()
    assert "Follows the depth" in desk.passes.forecast.text()


def test_a_depth_comes_from_a_file_and_is_turned(desk, tmp_path):
    menu(desk, "Turn near and far")
    assert "There is no depth yet" in desk.passes.status.text()
    Image.fromarray(np.linspace(5000, 9000, 64 * 64).reshape(64, 64).astype(np.uint16)).save(tmp_path / "pass.png")
    desk.dialogs.path = tmp_path / "pass.png"
    menu(desk, "Depth from a file…")
    assert desk.document.sheet.layers[-1].bounds == desk.document.sheet.rect
    assert grey_at(desk, 128, 2) < 10
    assert "finer than 8 bits" in desk.passes.status.text()
    menu(desk, "Turn near and far")
    assert grey_at(desk, 128, 2) > 245
    desk.dialogs.path = tmp_path / "none.png"
    menu(desk, "Depth from a file…")
    assert "no file" in desk.passes.status.text()


def test_a_depth_and_a_look_are_set_in_the_strip_and_seen_while_chosen(desk):
    menu(desk, "Depth of this picture")
    depth = desk.document.sheet.layers[-1]
    assert depth.role == DEPTH
    shown = seen(desk)
    desk.view.selection.choose_layer(None)
    assert (seen(desk) != shown).any()
    desk.arranging.add_picture(rgba(cross()), "card")
    card = desk.document.sheet.layers[-1].key
    desk.view.selection.choose_layer(card)
    menu(desk, "Lend its look")
    assert desk.document.sheet.layer(card).role == LOOK
    s = desk.layer_strip if hasattr(desk, "layer_strip") else desk.bench.layer_strip
    told = s.told_part
    assert s.role.currentData() == LOOK
    assert not s.blend.isVisible()
    told.ends.setValue(0.5)
    assert desk.document.sheet.layer(card).acts == (0.0, 0.5)
    told.begins.setValue(0.8)
    assert desk.document.sheet.layer(card).acts == (0.0, 0.5)
    assert told.begins.value() == 0
    s.role.setCurrentIndex(s.role.findData(BOTH))
    s.role.activated.emit(s.role.currentIndex())
    assert s.blend.isVisible()


def test_a_new_drawing_by_the_menu_and_whose_it_is(desk):
    e = draw(desk, Qt.Key.Key_R, "red", 40, 40, 120, 120)
    desk.view.selection.choose(None)
    menu(desk, "New drawing")
    assert desk.view.tool == "pen"
    of = desk.bench.layer_strip.told_part.of
    of.setCurrentIndex(of.findData(e.key))
    of.activated.emit(of.currentIndex())
    assert drawing(desk).of == e.key


def test_a_drawing_is_never_in_an_export_and_its_layer_is_saved(desk, tmp_path):
    desk.rail.tools["pen"].trigger()
    drag(desk, 40, 100, 200, 100)
    before = desk.document.sheet
    assert (before.flatten(Rect(40, 90, 200, 110)) == before.without_layer(drawing(desk).key).flatten(Rect(40, 90, 200, 110))).all()
    desk.dialogs.path = tmp_path / "a.ora"
    key(desk, Qt.Key.Key_S, CTRL)
    desk.bench.beside.finish()
    from waldrand.files.openraster import open_sheet

    kept = open_sheet(tmp_path / "a.ora").sheet.layers[-1]
    assert isinstance(kept, Pencil)
    assert kept.role == LINES


def test_how_strictly_drawings_are_followed_is_typed_shown_and_compared(desk, wait):
    column = desk.passes
    assert column.drawing_guidance.isVisibleTo(column)
    column.drawing_guidance.setValue(1.5)
    assert desk.document.draft.settings.drawing_guidance == 1.5
    assert "drawings 1.5" in column.fold.line.text()
    desk.document.undo.undo()
    assert desk.document.draft.settings.drawing_guidance == 1
    column.guidance.setValue(1.0)
    assert not column.drawing_guidance.isVisibleTo(column)
    assert not column.askers["drawings"].isVisibleTo(column)
    desk.document.undo.undo()
    desk.rail.tools["pen"].trigger()
    drag(desk, 40, 100, 200, 100)
    column.askers["drawings"].click()
    wait(lambda: not desk.runner.running and len(desk.tray.takes) == 4)
    assert [t.special for t in desk.tray.takes] == [f"drawing guidance {v}" for v in ("0", "0.5", "1", "2")]
    # This model's guidance leads to the end everywhere, so above 1 there is nothing left to lead.
    assert len({t.take.pixels.tobytes() for t in desk.tray.takes}) == 3


def test_a_quick_pass_hides_what_it_does_not_ask_and_says_so(desk):
    assert desk.passes.steps.isVisibleTo(desk.passes)
    desk.passes.quick.setChecked(True)
    assert not desk.passes.steps.isVisibleTo(desk.passes)
    assert not desk.passes.guidance.isVisibleTo(desk.passes)
    assert "quick" in desk.passes.fold.line.text()
    desk.refresh_forecast()
    assert f"Runs {desk.pack.info.quick.steps} step" in desk.passes.forecast.text()
    desk.document.undo.undo()
    assert desk.passes.steps.isVisibleTo(desk.passes)
