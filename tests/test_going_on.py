"""Pictures that go on: what the old edge cuts, which side first, a frame over the edge; what is held and named; moves that repeat."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from by_hand import drag, key, menu
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from waldrand.cli import main
from waldrand.core.passes.cut_things import cut_things
from waldrand.core.passes.kinds import kind_of
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.refused import Refused
from waldrand.core.values.area import Area
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.resize import framed, scaled
from waldrand.core.values.sheet import Sheet
from waldrand.files.pictures import write_png

RED = (204, 38, 38)


def with_red(x0: int, x1: int) -> Sheet:
    """A green picture with a red block between two columns."""
    pixels = np.full((256, 256, 4), 255, np.uint8)
    pixels[..., :3] = (38, 153, 51)
    pixels[96:192, x0:x1, :3] = RED
    return Sheet(256, 256, (PictureLayer(1, "ground", pixels),), scene=SceneWords("green"))


def asked(kind: str = "extend", strength: float = 0.85, **more) -> Request:
    own = {k: more.pop(k) for k in ("overlap", "fill", "part", "sides") if k in more}
    return Request(kind, PassSettings(steps=6, guidance=1.5, seed=2, strength=strength), more=tuple(own.items()), **more)


def mends(sheet, request, pack, label: str):
    return [w.mend for w in plan(sheet, request, pack).warnings if w.mend is not None and label in w.mend.label]


# --- what the old edge cuts


def test_a_thing_that_the_edge_cuts_is_offered_and_finished(closed):
    sheet = framed(with_red(160, 256), Rect(0, 0, 400, 256))
    (thing,) = [t for t in cut_things(sheet, closed) if t.words == "red"]
    assert thing.box[0] == pytest.approx(160, abs=16)
    assert 256 < thing.box[2] < 350
    offered = [w for w in plan(sheet, asked(), closed).warnings if "cuts “red”" in w.text]
    taken, request = offered[0].mend.apply(sheet, asked())
    assert taken.elements[-1].words == "red"
    assert not [w for w in plan(taken, request, closed).warnings if "cuts “red”" in w.text]
    done = run_take(plan(taken, replace(request, settings=replace(request.settings, strength=1.0)), closed), closed, 2)
    seen = done.laid_on(taken, "take").flatten().astype(int)
    assert seen[144, 290, 0] > seen[144, 290, 1] + 60
    # Nothing far from the edge was touched, above all not beside the thing.
    assert (seen[:90, :200] == sheet.flatten()[:90, :200]).all()


def test_a_thing_inside_is_not_offered(closed):
    assert [t.words for t in cut_things(framed(with_red(80, 180), Rect(0, 0, 400, 256)), closed)].count("red") == 0
    assert [t.words for t in cut_things(framed(with_red(160, 256), Rect(-100, 0, 256, 256)), closed)].count("red") == 0
    assert cut_things(Sheet(64, 64), closed) == []


# --- which side first


def test_sides_are_painted_one_after_another_in_an_order(closed):
    sheet = framed(with_red(80, 180), Rect(0, -64, 352, 256))
    _, request = mends(sheet, asked(), closed, "One after the other")[0].apply(sheet, asked())
    request = replace(request, more=(*((n, v) for n, v in request.more if n != "sides"), ("sides", ("right", "top"))))
    planned = plan(sheet, request, closed)
    assert planned.request.value("part") == (256, 64, 352, 320)
    assert any("The right side now" in text and "top" in text for text in planned.sentences)
    done = run_take(planned, closed, 2).laid_on(sheet, "right")
    alpha = done.flatten()[..., 3]
    assert (alpha[64:] == 255).all()
    # Only the strip's end reaches round the corner.
    assert (alpha[:64, :200] == 0).all()
    # That side is done: the same request paints what is left.
    again = run_take(plan(done, request, closed), closed, 2).laid_on(done, "top").flatten()
    assert (again[..., 3] == 255).all()
    other = replace(request, more=(*((n, v) for n, v in request.more if n != "sides"), ("sides", ("top", "right"))))
    assert plan(sheet, other, closed).request.value("part")[1] == 0
    assert mends(framed(with_red(80, 180), Rect(0, 0, 352, 256)), asked(), closed, "One after") == []


@pytest.mark.parametrize("sides", [("up",), ("left", "left"), ("left", "right", "top", "bottom", "left")])
def test_an_order_of_what_are_no_sides_is_refused(closed, sides):
    sheet = framed(with_red(80, 180), Rect(0, -64, 352, 256))
    with pytest.raises(Refused, match="sides to extend are"):
        plan(sheet, asked(sides=sides), closed)


def test_the_order_of_sides_is_shown_and_changed_by_hand(kept):
    drawn = kept.passes.sides
    kept.document.edit_both(framed(kept.document.sheet, Rect(0, -64, 352, 256)), kept.document.draft.turned_to(kind_of("extend")), "room")
    kept.refresh_forecast()
    assert drawn.isVisible()
    assert drawn.one_by_one.isChecked()
    assert "The right side now" in kept.passes.forecast.text()
    drawn.row.setFocus()
    drawn.row.setCurrentRow(2)
    for _ in range(2):
        QTest.keyClick(drawn.row, Qt.Key.Key_Left, Qt.KeyboardModifier.AltModifier)
    assert kept.document.draft.value("sides")[0] == "top"
    kept.refresh_forecast()
    assert "The top side now" in kept.passes.forecast.text()
    drawn.one_by_one.click()
    assert kept.document.draft.value("sides") == ()
    kept.document.undo.undo()
    assert drawn.one_by_one.isChecked()
    assert drawn.row.item(0).text() == "top"


# --- a frame over the edge


@pytest.fixture
def framing(kept):
    kept.view.set_tool("frame")
    kept.refresh_forecast()
    return kept


def test_a_frame_over_the_edge_extends_one_in_it_reworks(framing):
    drag(framing, 100, 60, 330, 200, modifier=Qt.KeyboardModifier.ControlModifier)
    doc = framing.document
    assert (doc.sheet.width, doc.sheet.height) == (pytest.approx(330, abs=2), 256)
    assert doc.draft.kind == "extend"
    frame = doc.draft.own_frame
    assert (frame[0], frame[2]) == (pytest.approx(100, abs=2), doc.sheet.width)
    assert framing.view.canvas.sheet.width == doc.sheet.width
    framing.refresh_forecast()
    drag(framing, 20, 20, 120, 120, modifier=Qt.KeyboardModifier.ControlModifier)
    assert doc.draft.kind == "rework"
    key(framing, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    key(framing, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert doc.sheet.width == 256


def test_before_there_is_a_picture_the_frame_stays_on_the_sheet(two):
    two.view.set_tool("frame")
    two.refresh_forecast()
    drag(two, 100, 60, 330, 200)
    assert two.document.sheet.width == 256
    assert two.document.draft.own_frame[2] <= 256


# --- holds


def test_words_that_name_what_is_held_are_warned_of(closed):
    sheet = with_red(80, 180)
    grey = np.zeros((256, 256), np.uint8)
    grey[80:208, 64:192] = 255
    held = replace(sheet, areas=(Area(9, "block", Mask.from_array(grey), hold=True),))
    for words, warned in (("red", True), ("blue", False)):
        told = plan(replace(held, scene=SceneWords(words)), asked("rework", 0.5), closed).warnings
        assert any("is held, and the words name it" in w.text for w in told) == warned
    own = replace(sheet, elements=(Element(5, "fox", Outline("box", (0, 0, 90, 90)), "blue", hold=True),), scene=SceneWords("blue"))
    assert any("“blue” is held" in w.text for w in plan(own, asked("rework", 0.5), closed).warnings)


def test_holds_that_leave_no_room_are_told(closed):
    sheet = with_red(80, 180)

    def held(share: float) -> Sheet:
        grey = np.zeros((256, 256), np.uint8)
        grey[:, : round(256 * share)] = 255
        return replace(sheet, areas=(Area(9, "h", Mask.from_array(grey), hold=True),))

    assert not [w for w in plan(held(0.5), asked("rework", 0.5), closed).warnings if "hardly room" in w.text]
    assert [w for w in plan(held(0.96), asked("rework", 0.5), closed).warnings if "hardly room" in w.text]
    # A small mask beside a hold has all the room that it wants.
    small = replace(held(0.5), mask=Mask(256, 256).dab(200, 100, 12, 0)[0])
    assert not [w for w in plan(small, asked("inpaint", 0.5), closed).warnings if "hardly room" in w.text]
    # However small what is left beside a hold, it is painted.
    grey = np.full((256, 256), 255, np.uint8)
    grey[100:102, 100:102] = 0
    gap = replace(sheet, areas=(Area(9, "h", Mask.from_array(grey), hold=True),))
    assert [w for w in plan(gap, asked("rework", 0.5), closed).warnings if "hardly room" in w.text]
    with pytest.raises(Refused, match="All that would be painted is held"):
        plan(held(1), asked("rework", 0.5), closed)


@given(
    kind=st.sampled_from(["compose", "rework", "inpaint", "extend"]),
    seed=st.integers(0, 1000),
    boxes=st.lists(st.tuples(st.integers(0, 180), st.integers(0, 180), st.integers(8, 76), st.integers(8, 76)), min_size=1, max_size=3),
    strength=st.floats(0.2, 1),
    under_mask=st.booleans(),
)
@settings(max_examples=25)
def test_what_is_held_outside_or_only_seen_never_changes(closed, kind, seed, boxes, strength, under_mask):
    rng = np.random.default_rng(seed)
    pixels = rng.integers(0, 255, (256, 256, 4), dtype=np.uint8)
    pixels[..., 3] = 255
    held = np.zeros((256, 256), np.uint8)
    for x, y, w, h in boxes:
        held[y : y + h, x : x + w] = 255
    mask = np.zeros((256, 256), np.uint8)
    mask[40:200, 60:220] = 255
    sheet = Sheet(256, 256, (PictureLayer(1, "ground", pixels),), scene=SceneWords("green"), mask=Mask.from_array(mask))
    sheet = replace(sheet, areas=(Area(7, "kept", Mask.from_array(held), hold=True),))
    if kind == "extend":
        sheet = framed(sheet, Rect(0, 0, 320, 256))
    request = asked(kind, strength, own_frame=(16, 16, 240, 240) if under_mask and kind in ("compose", "rework", "inpaint") else None)
    done = run_take(plan(sheet, request, closed), closed, seed).laid_on(sheet, "take")
    seen, was = done.flatten()[:, :256], pixels
    stays = held > 0
    if kind == "inpaint":
        stays = stays | (mask == 0)
    elif kind == "extend":
        stays[:, :200] = True
    elif request.own_frame is not None:
        outside = np.ones((256, 256), bool)
        outside[16:240, 16:240] = False
        stays = stays | outside
    assert (seen[stays] == was[stays]).all()
    assert done.layers[0] is sheet.layers[0]


# --- moves


def test_a_moved_picture_repeats(tmp_path, capsys):
    yy, xx = np.mgrid[:128, :160]
    disc = (yy - 60) ** 2 + (xx - 80) ** 2 < 30**2
    rgb = np.where(disc[..., None], (190, 50, 40), (60, 130, 70)) + np.random.default_rng(3).normal(0, 9, (128, 160, 3))
    write_png(tmp_path / "p.png", np.dstack([np.clip(rgb, 0, 255), np.full((128, 160), 255)]).astype(np.uint8))
    write_png(tmp_path / "m.png", np.where(disc, 255, 0).astype(np.uint8))
    do = ["move", str(tmp_path / "p.png"), "--mask", str(tmp_path / "m.png"), "--by=40,20", "--match", "0.4", "--scale", "0.8"]
    assert main([*do, "--steps", "2", "--out", str(tmp_path / "v.png")]) == 0
    assert main(["repeat", str(tmp_path / "v.png"), "--input", str(tmp_path / "p.png")]) == 0
    assert "Identical" in capsys.readouterr().out


def test_a_recipe_says_where_something_was_laid_over_a_pass(painted, closed):
    take = run_take(plan(painted, asked("rework", 0.5), closed), closed, 2)
    done = take.laid_on(painted, "take")
    assert picture_recipe(done)["passes"]
    over = done.with_layer(PictureLayer(done.next_key(), "sticker", np.full((8, 8, 4), 255, np.uint8)))
    recipe = picture_recipe(over)
    assert recipe["passes"] == []
    assert len(recipe["history"]) == 1


# --- a layer on the clipboard


def test_a_layer_is_copied_and_pasted_as_it_is_seen(window):
    pixels = np.zeros((20, 30, 4), np.uint8)
    pixels[5:15, 5:25] = (200, 30, 30, 255)
    window.document.edit(window.document.sheet.with_layer(PictureLayer(1, "card", pixels, 40, 50, opacity=0.5)), "card")
    window.view.selection.choose_layer(1)
    key(window, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    key(window, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    pasted = window.document.sheet.layers[-1]
    assert pasted.key != 1
    assert (pasted.shown[..., 3] == pixels[..., 3]).all()
    assert window.view.selection.layer == pasted.key
    QApplication.clipboard().clear()


def test_a_thing_is_moved_by_the_menu(window, wait):
    pixels = with_red(96, 160).layers[0].pixels
    window.document.edit(window.document.sheet.with_layer(PictureLayer(1, "ground", pixels)), "ground")
    window.document.edit(replace(window.document.sheet, mask=Mask(256, 256).dab(128, 144, 60, 0)[0]), "mask")
    menu(window, "Move it away, and fill its place")
    wait(lambda: len(window.document.sheet.layers) == 3)
    assert window.view.selection.layer == window.document.sheet.layers[-1].key


@given(left=st.integers(0, 60), top=st.integers(0, 60), right=st.integers(0, 60), crop=st.integers(0, 30))
@settings(max_examples=8)
def test_what_was_composed_extended_cropped_and_inpainted_repeats(closed, left, top, right, crop):
    sheet = Sheet(192, 160, scene=SceneWords("green"), elements=(Element(1, "lake", Outline("box", (16, 40, 90, 140)), "blue"),))

    def done(sheet: Sheet, request: Request) -> Sheet:
        return run_take(plan(sheet, request, closed), closed, 2).laid_on(sheet, request.kind)

    sheet = done(sheet, asked("compose", 1.0))
    if left or top or right:
        sheet = done(framed(sheet, Rect(-left, -top, 192 + right, 160)), asked("extend", overlap=16))
    sheet = framed(sheet, Rect(crop, 0, sheet.width, sheet.height))
    mask, _ = Mask(sheet.width, sheet.height).dab(90, 80, 30, 0.3)
    sheet = done(replace(sheet, mask=mask), asked("inpaint", 0.9, words="red"))
    recipe = picture_recipe(sheet)
    assert len(recipe["passes"]) >= 2
    assert (repeat(recipe, closed).pixels == sheet.flatten()).all()


# --- before and after


def test_any_two_states_are_wiped_against_each_other(kept):
    key(kept, Qt.Key.Key_B, Qt.KeyboardModifier.ShiftModifier)
    assert "Remember first" in kept.passes.status.text()
    key(kept, Qt.Key.Key_B, Qt.KeyboardModifier.ControlModifier)
    plain = kept.view.grab().toImage()
    sheet = kept.document.sheet
    dark = np.zeros((256, 256, 4), np.uint8)
    dark[..., 3] = 255
    kept.document.edit(sheet.with_layer(PictureLayer(sheet.next_key(), "dark", dark)), "dark")
    all_dark = kept.view.grab().toImage()
    key(kept, Qt.Key.Key_B, Qt.KeyboardModifier.ShiftModifier)
    wiped = kept.view.grab().toImage()
    left, right = (kept.view.mapFromScene(x, 30) for x in (60, 200))
    assert wiped.pixelColor(left) == plain.pixelColor(left) != all_dark.pixelColor(left)
    assert wiped.pixelColor(right) == all_dark.pixelColor(right)
    key(kept, Qt.Key.Key_B, Qt.KeyboardModifier.ShiftModifier)
    assert kept.view.grab().toImage().pixelColor(left) == all_dark.pixelColor(left)
    # What was cropped since still lies where it lay; what was scaled does not.
    key(kept, Qt.Key.Key_B, Qt.KeyboardModifier.ShiftModifier)
    kept.document.edit(framed(kept.document.sheet, Rect(0, 0, 128, 256)), "crop")
    assert kept.bench.looking_back.on
    kept.document.edit(scaled(kept.document.sheet, 256, 512), "scale")
    assert not kept.bench.looking_back.on
