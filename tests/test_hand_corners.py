"""The hand at its limits: squares by Shift, outlines too small or torn, sheets too large, what is typed wrongly."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from by_hand import LEFT, at, drag, draw, key, run, say_scene
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt
from PyQt6.QtGui import QMouseEvent, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from waldrand.core.noise.noise import LARGEST_SEED
from waldrand.core.passes.recipe import last_recipe, picture_recipe
from waldrand.core.passes.repeat import reroll
from waldrand.core.passes.settings import PassSettings
from waldrand.core.picture.infill import push_pull
from waldrand.core.values.element import Element
from waldrand.core.values.frame import Rect
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.files.layout import read_layout, write_layout
from waldrand.files.pictures import write_png

SHIFT, ALT, CTRL, NONE = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.AltModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.NoModifier,
)


@pytest.fixture
def one(window):
    """An element drawn on an empty sheet, chosen."""
    draw(window, Qt.Key.Key_R, "red", 60, 60, 160, 180)
    key(window, Qt.Key.Key_A)
    window.view.selection.choose(window.document.sheet.elements[0].key)
    return window


def box(w) -> tuple[float, ...]:
    return w.document.sheet.elements[0].outline.box


def said(w) -> str:
    return w.passes.status.text()


def test_shift_draws_squares_and_keeps_the_shape_of_what_is_resized(one):
    key(one, Qt.Key.Key_R)
    drag(one, 20, 20, 60, 45, modifier=SHIFT)
    x0, y0, x1, y1 = one.document.sheet.elements[-1].outline.box
    assert x1 - x0 == pytest.approx(y1 - y0, abs=0.5)
    one.view.words.finish()
    key(one, Qt.Key.Key_A)
    one.view.selection.choose(one.document.sheet.elements[0].key)
    before = box(one)
    drag(one, before[2], before[3], before[2] + 50, before[3] + 10, modifier=SHIFT)
    after = box(one)
    assert after[:2] == before[:2]
    assert after[2] - after[0] > before[2] - before[0] + 20
    ratio = (before[2] - before[0]) / (before[3] - before[1])
    assert (after[2] - after[0]) / (after[3] - after[1]) == pytest.approx(ratio, rel=0.03)


def test_outlines_too_small_to_see_are_said_and_not_added(window):
    key(window, Qt.Key.Key_F)
    drag(window, 50, 50, 51, 50, steps=2)
    key(window, Qt.Key.Key_G)
    for x in (40, 42):
        QTest.mouseClick(window.view.viewport(), LEFT, NONE, at(window, x, 40))
    key(window, Qt.Key.Key_Return)
    assert window.document.sheet.elements == ()
    assert said(window)


def test_a_line_too_short_to_divide_is_said(window):
    key(window, Qt.Key.Key_I)
    drag(window, 50, 50, 51, 51, steps=1)
    assert "Draw a line" in said(window)
    assert window.document.sheet.elements == ()


def test_the_last_three_points_stay(one):
    key(one, Qt.Key.Key_P)
    for _ in range(3):
        corner = one.document.sheet.elements[0].outline
        x, y = corner.points[0] if corner.points else (0, 0)
        x0, y0, x1, y1 = corner.box
        where = (x0 + x * (x1 - x0), y0 + y * (y1 - y0))
        QTest.mouseClick(one.view.viewport(), LEFT, ALT, at(one, *where))
    assert len(one.document.sheet.elements[0].outline.points) == 3
    assert said(one)


def test_cutting_all_of_an_outline_away_is_said(one):
    one.view.laying.joining = "cut"
    key(one, Qt.Key.Key_R)
    drag(one, 40, 40, 200, 220)
    assert box(one) == pytest.approx((60, 60, 160, 180), abs=1.5)
    assert said(one)


def test_one_outline_cuts_the_other(one):
    draw(one, Qt.Key.Key_R, "blue", 110, 40, 200, 220)
    a, b = one.document.sheet.elements
    one.view.selection.choose(a.key)
    one.view.selection.choose_also(b.key)
    one.outlines.cut_out()
    assert box(one)[2] == pytest.approx(110, abs=2)
    assert one.document.sheet.elements[1] is b


def test_all_are_chosen_and_another_leads_when_it_is_pressed(one):
    draw(one, Qt.Key.Key_R, "blue", 180, 60, 240, 180)
    key(one, Qt.Key.Key_A)
    key(one, Qt.Key.Key_A, CTRL)
    first, second = (e.key for e in one.document.sheet.elements)
    assert set(one.view.selection.keys) == {first, second}
    lead, other = one.view.selection.selected, ({first, second} - {one.view.selection.selected}).pop()
    x0, y0, x1, y1 = one.document.sheet.element(other).outline.box
    QTest.mouseClick(one.view.viewport(), LEFT, NONE, at(one, (x0 + x1) / 2, (y0 + y1) / 2))
    assert one.view.selection.selected == other != lead


def test_f2_and_a_double_click_edit_the_words_on_the_sheet(one):
    key(one, Qt.Key.Key_F2)
    assert one.view.words.editor is not None
    one.view.words.finish()
    QTest.mouseDClick(one.view.viewport(), LEFT, NONE, at(one, 110, 120))
    editor = one.view.words.editor
    editor.words.setText("green")
    QTest.keyClick(editor.words, Qt.Key.Key_Return)
    assert one.document.sheet.elements[0].words == "green"


def test_what_is_cut_comes_back_by_pasting_and_damaged_elements_are_said(one):
    one.arranging.cut()
    assert one.document.sheet.elements == ()
    one.arranging.paste()
    assert [e.words for e in one.document.sheet.elements] == ["red"]
    data = QMimeData()
    clipboard = QApplication.clipboard()
    (kind,) = (f for f in clipboard.mimeData().formats() if "waldrand" in f)
    data.setData(kind, b'[{"name": 3}]')
    clipboard.setMimeData(data)
    one.arranging.paste()
    assert "damaged" in said(one)
    assert len(one.document.sheet.elements) == 1


def test_divisions_and_sizes_that_cannot_be_are_said(one):
    one.dialogs.parts = ((1.0, 500.0), (1.0,))
    one.arranging.divide()
    assert "too small" in said(one)
    one.dialogs.new_frame = (Rect(0, 0, 20000, 20000), "framed")
    before = one.document.sheet
    one.sizing.change_size()
    assert one.document.sheet is before
    assert "too many" in said(one)


@pytest.mark.parametrize(("modifier", "moves"), [(SHIFT, (1, 0)), (ALT, (0, 1)), (CTRL, None)])
def test_the_wheel_zooms_and_pans(window, modifier, moves):
    view = window.view
    window.view.zoom_to(4)
    before, scale = view.mapToScene(QPoint(0, 0)), view.scale_now
    here = QPointF(200, 200)
    wheel = QWheelEvent(here, here, QPoint(), QPoint(0, -120), Qt.MouseButton.NoButton, modifier, Qt.ScrollPhase.NoScrollPhase, False)
    view.wheelEvent(wheel)
    gone = view.mapToScene(QPoint(0, 0)) - before
    if moves is None:
        assert view.scale_now != scale
    else:
        assert view.scale_now == scale
        assert (abs(gone.x()) > 1, abs(gone.y()) > 1) == tuple(map(bool, moves))


def test_the_middle_button_pans_and_the_right_one_does_nothing(one):
    view, port = one.view, one.view.viewport()
    view.zoom_to(4)
    before, elements = view.mapToScene(QPoint(0, 0)), one.document.sheet.elements
    QTest.mousePress(port, Qt.MouseButton.MiddleButton, NONE, QPoint(200, 200))
    to = QPointF(150, 170)
    QApplication.sendEvent(
        port,
        QMouseEvent(
            QEvent.Type.MouseMove, to, QPointF(port.mapToGlobal(to)), Qt.MouseButton.MiddleButton, Qt.MouseButton.MiddleButton, NONE
        ),
    )
    QTest.mouseRelease(port, Qt.MouseButton.MiddleButton, NONE, QPoint(150, 170))
    gone = view.mapToScene(QPoint(0, 0)) - before
    assert gone.x() == pytest.approx(50 / view.scale_now, abs=1)
    assert gone.y() == pytest.approx(30 / view.scale_now, abs=1)
    QTest.mouseClick(port, Qt.MouseButton.RightButton, NONE, QPoint(150, 170))
    assert one.document.sheet.elements == elements


def test_arrow_keys_pan_when_nothing_is_chosen(window):
    window.view.zoom_to(4)
    before = window.view.mapToScene(QPoint(0, 0))
    key(window, Qt.Key.Key_Right)
    assert window.view.mapToScene(QPoint(0, 0)).x() > before.x()


def test_seeds_beyond_the_largest_are_said(one, wait):
    say_scene(one, "white")
    one.passes.takes.setValue(4)
    d = one.document.draft
    one.document.set_draft(replace(d, settings=replace(d.settings, seed=LARGEST_SEED)))
    one.run()
    assert "larger than" in said(one)
    assert not one.runner.running
    assert one.tray.takes == []


def test_a_take_for_a_sheet_of_another_size_is_not_kept(with_take):
    with_take.tray.list.setCurrentRow(0)
    with_take.dialogs.new_frame = (Rect(0, 0, 200, 200), "smooth")
    with_take.sizing.change_size()
    with_take.tray.list.setCurrentRow(1)
    with_take.takes.keep()
    assert "another size" in said(with_take)
    assert not with_take.document.sheet.has_picture


def test_keeping_a_part_needs_a_mask_or_a_choice_that_meets_the_take(with_take):
    with_take.tray.list.setCurrentRow(0)
    with_take.view.selection.choose(None)
    with_take.takes.keep(part=True)
    assert "mask brush" in said(with_take)
    assert not with_take.document.sheet.has_picture


def test_words_that_mean_nothing_to_the_finder_are_said(kept):
    before = kept.document.sheet.mask
    kept.dialogs.said = ["castle"]
    kept.seeing.mask_by_words()
    assert "does not know" in said(kept)
    kept.dialogs.said = []
    kept.seeing.mask_by_words()
    assert kept.document.sheet.mask is before


def test_a_take_is_chosen_among_all_and_a_page_that_cannot_be_written_is_told(with_take, tmp_path):
    with_take.dialogs.agrees = True
    with_take.dialogs.path = tmp_path / "none" / "page.png"
    with_take.takes.show_all()
    dialog = with_take.dialogs.shown[-1]
    dialog.exported.emit()
    assert "could not be written" in with_take.dialogs.told[-1]


def test_ctrl_s_where_nothing_was_chosen_leaves_all_as_it_is(one):
    one.dialogs.path = None
    assert not one.save()
    assert one.document.modified


def test_layouts_that_are_no_layouts_are_told(tmp_path):
    def told(text: str, says: str) -> None:
        (tmp_path / "l.toml").write_text(text)
        with pytest.raises(ValueError, match=says):
            read_layout(tmp_path / "l.toml")

    told('format = 1\nscene = "meadow"\n', "has to be a table")
    told('format = 1\nelement = "fox"\n', r"\[\[element\]\]")
    told('format = 1\n[[element]]\nwords = "fox"\n', "needs either a box")
    told('format = 1\n[[element]]\nwords = "fox"\npoints = [[0, 0, 1]]\n', "points of")
    told('format = 1\n[[element]]\nwords = "fox"\nbox = [0, 0, 1, 1]\nweight = "much"\n', "has to be a number")
    told('format = 1\n[[element]]\nwords = "fox"\nbox = [0, 0, 1, 1]\nemphasis = [[0, 1]]\n', "from, to, factor")
    with pytest.raises(ValueError, match="cannot be read"):
        read_layout(tmp_path)


def test_a_start_picture_decides_the_size(tmp_path):
    write_png(tmp_path / "s.png", np.full((64, 96, 3), 200, np.uint8))
    (tmp_path / "l.toml").write_text('format = 1\n[sheet]\nstart = "s.png"\nwidth = 100\n')
    with pytest.raises(ValueError, match="96"):
        read_layout(tmp_path / "l.toml")


@given(
    st.lists(
        st.tuples(st.floats(0, 0.6), st.floats(0, 0.6), st.floats(0.1, 0.4), st.floats(0.1, 0.4), st.sampled_from(["box", "ellipse"])),
        min_size=1,
        max_size=5,
    )
)
def test_layouts_come_back_as_they_were_written(tmp_path_factory, places):
    elements = tuple(
        Element(i + 1, f"thing {i}", Outline(shape, (400 * x, 300 * y, 400 * (x + w), 300 * (y + h))), "red", weight=1 + i / 4)
        for i, (x, y, w, h, shape) in enumerate(places)
    )
    path = tmp_path_factory.mktemp("layout") / "l.toml"
    write_layout(path, Sheet(400, 300, elements=elements), PassSettings(seed=5))
    again = read_layout(path)
    assert again.settings.seed == 5
    for before, after in zip(elements, again.sheet.elements, strict=True):
        assert (after.words, after.weight, after.outline.shape) == (before.words, before.weight, before.outline.shape)
        assert after.outline.box == pytest.approx(before.outline.box, abs=1e-3)


def test_a_picture_nobody_painted_cannot_be_rolled_again(painted, closed):
    recipe = picture_recipe(painted)
    assert last_recipe(recipe) is None
    with pytest.raises(ValueError, match="Nothing was painted"):
        reroll(recipe, closed, 1, inputs=[painted.layers[0].pixels])


@given(st.integers(4, 40), st.integers(4, 40), st.integers(0, 2**31))
def test_infill_keeps_what_is_known_and_stays_within_it(h, w, seed):
    rng = np.random.default_rng(seed)
    picture = rng.random((h, w, 3)).astype(np.float32)
    known = (rng.random((h, w)) < 0.5).astype(np.float32)
    known[0, 0] = 1
    filled = push_pull(picture, known)
    assert np.allclose(filled[known == 1], picture[known == 1], atol=1e-5)
    seen = picture[known == 1]
    assert filled.min() >= seen.min() - 1e-4
    assert filled.max() <= seen.max() + 1e-4


@given(st.integers(1, 90), st.integers(1, 90), st.integers(0, 2**31))
def test_masks_hold_what_they_were_given_in_every_part(h, w, seed):
    rng = np.random.default_rng(seed)
    grey = rng.integers(0, 256, (h, w)).astype(np.uint8) * (rng.random((h, w)) < 0.3)
    mask = Mask.from_array(grey)
    assert (mask.read() == grey).all()
    x, y = int(rng.integers(w)), int(rng.integers(h))
    assert (mask.read(Rect(x, y, w, h)) == grey[y:, x:]).all()
    assert mask.empty == (not grey.any())
    b = mask.box()
    outside = grey.copy()
    outside[b.y0 : b.y1, b.x0 : b.x1] = 0
    assert not outside.any()


def test_a_setting_called_strength_shows_the_ladder(kept, wait):
    kept.series.show_setting("strength")
    wait(lambda: not kept.runner.running and len(kept.tray.takes) > 2)
    strengths = [t.plan.request.settings.strength for t in kept.tray.takes[2:]]
    assert strengths == sorted(strengths)
    assert len(set(strengths)) > 2


def test_takes_of_two_shapes_make_one_page(kept, wait, tmp_path):
    kept.document.edit(replace(kept.document.sheet, mask=Mask(256, 256).dab(60, 60, 20, 0.5)[0]), "mask")
    kept.document.set_draft(replace(kept.document.draft, kind="inpaint"))
    run(kept, wait)
    kept.dialogs.path = tmp_path / "page.png"
    kept.takes.show_all()
    kept.dialogs.shown[-1].exported.emit()
    assert (tmp_path / "page.png").stat().st_size > 1000
