"""Colours, letters, kept masks and layers' handles by hand: in the real window, with the mouse and the keys."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from by_hand import along, click, key, menu
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QToolButton

from waldrand.core.values.element import SceneWords
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import FEEDS, SEEN, PictureLayer
from waldrand.core.values.lettering import Lettering
from waldrand.core.values.masks import Mask
from waldrand.core.values.paint import PaintLayer
from waldrand.core.values.shaping import drawn

SHIFT, CTRL, ALT = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier
GOLD = (201, 140, 62)


@pytest.fixture
def desk(window, painted):
    """The window with a picture on its sheet, and gold in the hand."""
    window.document.edit(painted, "picture")
    window.view.paints.set(colour=GOLD)
    window.view.brush.set(radius=10, softness=0)
    return window


def seen(window, x, y):
    return tuple(int(v) for v in window.document.sheet.flatten(Rect(x, y, x + 1, y + 1))[0, 0, :3])


def top(window):
    return window.document.sheet.layers[-1]


# --- colours


def test_a_stroke_lays_colour_on_a_layer_of_its_own_and_is_one_step(desk):
    before = desk.document.sheet
    desk.rail.tools["paint"].trigger()
    along(desk, (60, 60), (120, 60), (120, 120))
    assert isinstance(top(desk), PaintLayer)
    assert seen(desk, 90, 60) == GOLD
    assert seen(desk, 120, 100) == GOLD
    assert desk.view.selection.layer == top(desk).key
    along(desk, (60, 160), (120, 160))
    assert len(desk.document.sheet.layers) == 2
    desk.document.undo.undo()
    assert seen(desk, 90, 160) != GOLD
    assert seen(desk, 90, 60) == GOLD
    desk.document.undo.undo()
    assert (desk.document.sheet.flatten() == before.flatten()).all()


def test_going_over_a_place_in_one_stroke_lays_it_no_thicker(desk):
    desk.view.paints.set(opacity=0.5)
    desk.rail.tools["paint"].trigger()
    along(desk, (60, 60), (120, 60), (60, 60), (120, 60))
    assert abs(int(top(desk).shown[60, 90, 3]) - 128) <= 1
    along(desk, (60, 60), (120, 60))
    assert top(desk).shown[60, 90, 3] > 180


def test_the_eraser_and_a_stroke_given_up(desk):
    desk.rail.tools["paint"].trigger()
    along(desk, (60, 60), (120, 60))
    desk.view.brush.set(erasing=True)
    along(desk, (60, 60), (90, 60))
    assert seen(desk, 70, 60) != GOLD
    assert seen(desk, 115, 60) == GOLD
    desk.view.brush.set(erasing=False)


def test_alt_picks_the_colour_that_is_seen(desk, painted):
    desk.document.edit(disc_sheet(painted)[0], "flat colours")
    for tool in ("paint", "fill", "colour-box", "gradient"):
        desk.view.paints.set(colour=(1, 2, 3))
        desk.rail.tools[tool].trigger()
        click(desk, 200, 30, ALT)
        assert desk.view.paints.colour == (60, 130, 70)
    desk.rail.tools["picker"].trigger()
    click(desk, 120, 120)
    assert desk.view.paints.colour == (190, 50, 40)
    assert len(desk.document.sheet.layers) == 1


@pytest.mark.parametrize("tool", ["colour-box", "colour-ellipse", "colour-line"])
def test_simple_shapes(desk, tool):
    desk.rail.tools[tool].trigger()
    along(desk, (40, 40), (100, 90))
    assert seen(desk, 70, 65) == GOLD
    corner = top(desk).shown[42, 42, 3]
    assert corner == (255 if tool != "colour-ellipse" else 0)
    click(desk, 10, 10)
    assert len(desk.document.sheet.layers) == 2


def test_a_gradient_fades_out(desk):
    desk.rail.tools["gradient"].trigger()
    along(desk, (20, 128), (236, 128))
    alpha = top(desk).shown[128, :, 3].astype(int)
    assert alpha[5] == 255
    assert alpha[250] == 0
    assert (np.diff(alpha) <= 0).all()


def test_a_fill_takes_what_is_alike_or_the_chosen_outline(desk):
    flat = np.zeros((256, 256, 4), np.uint8)
    flat[:] = (10, 60, 20, 255)
    flat[100:140, 100:140] = (200, 200, 210, 255)
    flat[200:210, 200:210] = (200, 200, 210, 255)
    desk.document.edit(desk.document.sheet.with_layer(PictureLayer(50, "flat", flat)), "flat")
    desk.rail.tools["fill"].trigger()
    click(desk, 120, 120)
    assert seen(desk, 101, 101) == GOLD
    assert seen(desk, 205, 205) != GOLD
    assert seen(desk, 50, 50) == (10, 60, 20)
    desk.document.undo.undo()
    click(desk, 120, 120, SHIFT)
    assert seen(desk, 205, 205) == GOLD


def test_outlines_and_masks_get_colour_or_coloured_noise(desk):
    desk.document.edit(replace(desk.document.sheet, mask=Mask(256, 256).dab(100, 100, 30, 0)[0]), "mask")
    menu(desk, "Fill with the colour")
    assert seen(desk, 100, 100) == GOLD
    assert seen(desk, 200, 200) != GOLD
    desk.dialogs.amount = 1.0
    menu(desk, "Fill with coloured noise…")
    wild = top(desk).shown[80:120, 80:120, :3]
    assert wild.std((0, 1)).min() > 20
    once = wild.copy()
    desk.document.undo.undo()
    menu(desk, "Fill with coloured noise…")
    assert (top(desk).shown[80:120, 80:120, :3] == once).all()


def test_a_layer_that_only_feeds_is_seen_while_it_is_chosen(desk):
    desk.rail.tools["paint"].trigger()
    along(desk, (60, 60), (120, 60))
    strip, layer = desk.bench.layer_strip, top(desk).key
    desk.rail.tools["arrange"].trigger()
    strip.role.setCurrentIndex(strip.role.findData(FEEDS))
    strip.role.activated.emit(strip.role.currentIndex())
    assert top(desk).role == FEEDS
    assert seen(desk, 90, 60) != GOLD
    assert desk.view.layers.as_shown(desk.document.sheet).flatten()[60, 90, :3].tolist() == list(GOLD)
    desk.view.selection.choose_layer(None)
    assert desk.view.layers.as_shown(desk.document.sheet) is desk.document.sheet
    desk.view.selection.choose_layer(layer)


def test_the_bar_shows_what_the_tool_needs(desk):
    bar = desk.bar
    desk.rail.tools["paint"].trigger()
    assert not bar.paint.opacity.isHidden()
    assert bar.paint.tolerance.isHidden()
    desk.rail.tools["alike"].trigger()
    assert bar.paint.swatch.isHidden()
    assert not bar.paint.tolerance.isHidden()
    desk.rail.tools["arrange"].trigger()
    assert bar.isHidden()
    desk.rail.tools["fill"].trigger()
    bar.paint.typed.setText("#102030")
    bar.paint.typed.editingFinished.emit()
    assert desk.view.paints.colour == (16, 32, 48)
    bar.paint.typed.setText("greenish")
    bar.paint.typed.editingFinished.emit()
    assert desk.view.paints.colour == (16, 32, 48)
    assert "greenish" in desk.passes.status.text()
    bar.paint.menu.aboutToShow.emit()
    swatches = [b.toolTip() for b in bar.paint.menu.findChildren(QToolButton)]
    assert len(swatches) >= 8
    assert all(s.startswith("#") for s in swatches)


# --- masks that follow what is seen


def disc_sheet(painted):
    yy, xx = np.mgrid[:256, :256]
    disc = (yy - 120) ** 2 + (xx - 120) ** 2 < 50**2
    rgb = np.where(disc[..., None], (190, 50, 40), (60, 130, 70))
    pixels = np.dstack([rgb, np.full((256, 256), 255)]).astype(np.uint8)
    return replace(painted, layers=(PictureLayer(1, "disc", pixels),)), disc


def overlap(a, b):
    return (a & b).sum() / (a | b).sum()


def test_like_colour_and_strokes_mask_a_thing(desk, painted):
    sheet, disc = disc_sheet(painted)
    desk.document.edit(sheet, "disc")
    desk.rail.tools["alike"].trigger()
    click(desk, 120, 120)
    assert overlap(desk.document.sheet.mask.read() > 127, disc) > 0.97
    click(desk, 10, 10, SHIFT)
    assert (desk.document.sheet.mask.read() > 127).all()
    click(desk, 10, 10, CTRL)
    assert overlap(desk.document.sheet.mask.read() > 127, disc) > 0.97
    desk.document.edit(replace(desk.document.sheet, mask=None), "none")
    desk.rail.tools["scribble"].trigger()
    along(desk, (100, 120), (140, 125))
    assert overlap(desk.document.sheet.mask.read() > 127, disc) > 0.9
    along(desk, (10, 10), (240, 20), modifier=CTRL)
    assert overlap(desk.document.sheet.mask.read() > 127, disc) > 0.9


def test_an_outline_clings_to_edges(desk, painted):
    sheet, disc = disc_sheet(painted)
    desk.document.edit(sheet, "disc")
    desk.rail.tools["cling"].trigger()
    for angle in range(0, 360, 72):
        click(desk, 120 + 50 * np.cos(np.radians(angle)), 120 + 50 * np.sin(np.radians(angle)))
    QTest.keyClick(desk.view, Qt.Key.Key_Return)
    (element,) = desk.document.sheet.elements
    # Five clicks alone would make a pentagon, of which a quarter is missing.
    assert overlap(drawn(element.outline, sheet.rect) > 127, disc) > 0.93


# --- kept masks


def test_a_mask_is_kept_used_joined_grown_held_and_deleted(desk):
    desk.document.edit(replace(desk.document.sheet, mask=Mask(256, 256).dab(100, 100, 30, 0)[0]), "mask")
    menu(desk, "Keep the mask under a name")
    (area,) = desk.document.sheet.areas
    part = desk.elements.areas
    assert not part.isHidden()
    desk.document.edit(replace(desk.document.sheet, mask=Mask(256, 256).dab(180, 100, 30, 0)[0]), "another")
    buttons = {b.accessibleName(): b for b in part.findChildren(QToolButton)}
    buttons["Add"].click()
    both = desk.document.sheet.mask.read()
    assert both[100, 100] == both[100, 180] == 255
    buttons["Cut"].click()
    assert desk.document.sheet.mask.read()[100, 100] == 0
    buttons["Use"].click()
    assert desk.document.sheet.mask.read()[100, 180] == 0
    desk.dialogs.amount = 10.0
    buttons["Grow"].click()
    assert desk.document.sheet.areas[0].mask.box().width > area.mask.box().width + 15
    part.ladder.switched.emit(area.key, "hold", True)
    assert desk.document.sheet.areas[0].hold
    desk.dialogs.said.append("the fox")
    part.ladder.opened.emit(area.key)
    assert desk.document.sheet.areas[0].name == "the fox"
    buttons["Delete"].click()
    assert not desk.document.sheet.areas
    assert part.isHidden()


def test_all_but_this_holds_the_mask_and_masks_the_rest(desk):
    desk.document.edit(replace(desk.document.sheet, mask=Mask(256, 256).dab(100, 100, 30, 0)[0]), "mask")
    menu(desk, "Hold it, and mask all but it")
    sheet = desk.document.sheet
    assert sheet.areas[0].hold
    assert sheet.mask.read()[100, 100] == 0
    assert sheet.mask.read()[10, 10] == 255


# --- layers by their handles, and by numbers


@pytest.fixture
def card(desk):
    pixels = np.zeros((40, 60, 4), np.uint8)
    pixels[:] = (200, 30, 20, 255)
    desk.document.edit(desk.document.sheet.with_layer(PictureLayer(50, "card", pixels, 100, 100)), "card")
    desk.rail.tools["arrange"].trigger()
    desk.view.selection.choose_layer(50)
    return desk


def handles(window):
    return window.view.hands["arrange"].corners()


def test_a_corner_scales_a_side_stretches_and_the_knob_turns(card):
    own = card.document.sheet.layer(50).pixels
    along(card, handles(card)[2], (220, 180))
    layer = card.document.sheet.layer(50)
    assert np.allclose((layer.bounds.x0, layer.bounds.y0, layer.bounds.width, layer.bounds.height), (100, 100, 120, 80), atol=1)
    assert layer.pixels is own
    along(card, handles(card)[5], (200, 140))
    assert np.allclose((card.document.sheet.layer(50).bounds.width, card.document.sheet.layer(50).bounds.height), (100, 80), atol=1)
    x, y = handles(card)[8]
    along(card, (x, y), (230, 142), modifier=SHIFT)
    assert card.document.sheet.layer(50).bounds.height >= 99
    for _ in range(3):
        card.document.undo.undo()
    assert card.document.sheet.layer(50).shown is own


def test_ctrl_moves_a_corner_alone_and_leans_a_side(card):
    along(card, handles(card)[0], (80, 90), modifier=CTRL)
    c = card.document.sheet.layer(50).corners
    assert np.allclose(c[0], (80, 90), atol=1)
    assert np.allclose(c[2], (160, 140), atol=1)
    card.document.undo.undo()
    along(card, handles(card)[4], (150, 100), modifier=CTRL)
    c = card.document.sheet.layer(50).corners
    assert np.allclose((c[0], c[1]), ((120, 100), (180, 100)), atol=1)
    assert np.allclose(c[3], (100, 140), atol=1)


def test_a_handle_pulled_inside_out_changes_nothing_worse(card):
    along(card, handles(card)[0], (400, 400), modifier=CTRL)
    layer = card.document.sheet.layer(50)
    assert layer.bounds.area > 0
    along(card, handles(card)[2], (-50, -50))
    assert card.document.sheet.layer(50).bounds.area > 0


def test_place_and_light_by_numbers(card):
    strip = card.bench.layer_strip
    boxes = strip.place_part.boxes
    boxes["x"].setValue(20)
    boxes["width"].setValue(120)
    assert card.document.sheet.layer(50).bounds.width == 120
    boxes["turn"].setValue(90)
    assert card.document.sheet.layer(50).bounds.width == 40
    strip.place_part.wanted_back.emit()
    assert card.document.sheet.layer(50).finish.corners is None
    strip.place_part.mirrored.emit(False)
    strip.light_part.boxes["exposure"].setValue(-2.0)
    assert card.document.sheet.layer(50).shown[20, 30, 0] < 140
    strip.light_part.curve.bent.emit(((0.0, 0.0), (1.0, 0.0)))
    assert card.document.sheet.layer(50).shown[20, 30, 0] == 0
    strip.blend.setCurrentIndex(strip.blend.findData("screen"))
    strip.blend.activated.emit(strip.blend.currentIndex())
    assert card.document.sheet.layer(50).blend == "screen"
    strip.opacity.setValue(0.5)
    assert card.document.sheet.layer(50).opacity == 0.5
    for _ in range(20):
        card.document.undo.undo()
    assert card.document.sheet.has_picture or not card.document.sheet.layers


def test_a_layer_is_covered_by_the_mask_and_shown_whole_again(card):
    card.document.edit(replace(card.document.sheet, mask=Mask(256, 256).dab(110, 110, 8, 0)[0]), "mask")
    menu(card, "Seen under the mask alone")
    assert seen(card, 110, 110) == (200, 30, 20)
    assert seen(card, 150, 130) != (200, 30, 20)
    menu(card, "All of it seen")
    assert seen(card, 150, 130) == (200, 30, 20)
    menu(card, "Mask from the layer")
    assert card.document.sheet.mask.box() == Rect(100, 100, 160, 140)
    card.view.selection.choose_layer(50)
    menu(card, "Merge with the layer below")
    assert len(card.document.sheet.layers) == 1
    assert seen(card, 150, 130) == (200, 30, 20)


def test_a_grouped_layer_takes_its_group_along(card):
    sheet = card.document.sheet
    card.document.edit(sheet.with_layer(replace(sheet.layer(50), key=51, x=10, y=10)), "twin")
    for layer in (50, 51):
        card.dialogs.said.append("crew")
        card.view.selection.choose_layer(layer)
        menu(card, "Group…")
    QTest.keyClick(card.view, Qt.Key.Key_Right, SHIFT)
    assert card.document.sheet.layer(50).bounds.x0 == 110
    assert card.document.sheet.layer(51).bounds.x0 == 20
    assert "crew / card" in card.elements.layers.rung(50).text


# --- letters


def test_letters_are_put_on_the_sheet_and_changed_in_the_strip(desk):
    desk.dialogs.said.append("Moth Night")
    desk.rail.tools["letter"].trigger()
    click(desk, 30, 128)
    layer = top(desk)
    assert isinstance(layer, Lettering)
    assert layer.role == SEEN
    assert desk.view.tool == "arrange"
    part = desk.bench.layer_strip.letters_part
    part.words.setPlainText("Moth Day")
    part.boxes["size"].setValue(40.0)
    assert top(desk).says.words == "Moth Day"
    assert top(desk).says.size == 40
    assert top(desk).name == "Moth Day"
    part.colour.setText("#ff0000")
    part.colour.editingFinished.emit()
    assert (top(desk).pixels[..., :3] == (255, 0, 0)).all()
    part.colour.setText("reddish")
    part.colour.editingFinished.emit()
    assert part.colour.text() == "#ff0000"
    desk.rail.tools["letter"].trigger()
    click(desk, 50, 128)
    assert desk.view.selection.layer == layer.key
    assert len(desk.document.sheet.layers) == 2


def test_a_new_take_does_not_cover_the_letters(desk, wait):
    desk.dialogs.said.append("Moth")
    menu(desk, "New lettering…")
    desk.passes.takes.setValue(1)
    menu(desk, "Settle: a light rework of the whole")
    wait(lambda: not desk.runner.running and desk.tray.takes)
    key(desk, Qt.Key.Key_K)
    assert isinstance(top(desk), Lettering)
    assert len(desk.document.sheet.layers) == 3


# --- a thing lifted, a chain replayed


def test_a_thing_is_moved_in_one_step_with_takes_of_its_old_place(desk, painted, wait):
    sheet, disc = disc_sheet(painted)
    masked = replace(sheet, mask=Mask.from_array(np.where(disc, 255, 0).astype(np.uint8)))
    desk.document.edit(masked, "disc")
    desk.passes.takes.setValue(2)
    menu(desk, "Move it away, and fill its place")
    wait(lambda: not desk.runner.running and len(desk.tray.takes) == 2 and len(desk.document.sheet.layers) == 3)
    assert desk.document.sheet.mask is None
    thing = desk.view.selection.layer
    assert thing == top(desk).key
    assert seen(desk, 120, 120) == (190, 50, 40)
    for _ in range(60):
        key(desk, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert seen(desk, 120, 120) != (190, 50, 40)
    behind = desk.document.sheet.layers[-2]
    desk.tray.show_entry(next(t for t in desk.tray.takes if not t.kept))
    key(desk, Qt.Key.Key_K)
    assert [x.key == thing for x in desk.document.sheet.layers] == [False, False, True]
    assert desk.document.sheet.layers[-2].key != behind.key
    desk.document.undo.undo()
    assert desk.document.sheet.layers[-2] is behind
    desk.document.undo.undo()
    assert desk.document.sheet.layers == masked.layers
    assert desk.document.sheet.mask is masked.mask


def test_what_is_done_between_is_a_step_of_its_own(desk, painted, wait):
    sheet, disc = disc_sheet(painted)
    desk.document.edit(replace(sheet, mask=Mask.from_array(np.where(disc, 255, 0).astype(np.uint8))), "disc")
    menu(desk, "Move it away, and fill its place")
    wait(lambda: not desk.runner.running and len(desk.document.sheet.layers) == 3)
    desk.document.edit(replace(desk.document.sheet, scene=SceneWords("snow")), "words")
    key(desk, Qt.Key.Key_Right)
    desk.document.undo.undo()
    assert desk.document.sheet.scene.words == "snow"
    assert len(desk.document.sheet.layers) == 3


@pytest.mark.parametrize(("ground", "light"), [((20, 24, 60), True), ((240, 236, 220), False)])
def test_new_letters_can_be_read_on_the_picture(desk, ground, light):
    pixels = np.full((256, 256, 4), 255, np.uint8)
    pixels[..., :3] = ground
    sheet = desk.document.sheet
    desk.document.edit(replace(sheet, layers=(PictureLayer(sheet.next_key(), "ground", pixels),)), "ground")
    desk.view.paints.set(colour=ground)
    desk.dialogs.said = ["Eve"]
    desk.rail.tools["letter"].trigger()
    click(desk, 60, 60)
    red = int(desk.document.sheet.layers[-1].says.colour[1:3], 16)
    assert (red > 128) == light
    assert not desk.view.busy
