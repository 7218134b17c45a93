"""Layers as they are laid over one another: blended, adjusted, covered, drawn between corners, painted, lettered; and their files."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from waldrand.core.passes.kinds import kind_of
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.picture.adjusting import Adjustment, adjusted_within, adjustment_from_json, adjustment_to_json
from waldrand.core.picture.composite import BLENDS, lay_over
from waldrand.core.picture.palette import main_colours
from waldrand.core.picture.paper import without_paper
from waldrand.core.picture.warped import (
    check_corners,
    corners_of,
    moved_corners,
    projection,
    scaled_corners,
    size_and_turn,
    turned_corners,
    unwarped,
    warped,
)
from waldrand.core.refused import Refused
from waldrand.core.values.area import Area
from waldrand.core.values.belonging import belonging
from waldrand.core.values.differing import changed_rect
from waldrand.core.values.element import SceneWords
from waldrand.core.values.finish import Finish
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import FEEDS, SEEN, Patch, PictureLayer
from waldrand.core.values.lettering import Lettering, Letters, colour_of
from waldrand.core.values.masks import Mask
from waldrand.core.values.paint import PaintLayer
from waldrand.core.values.resize import framed, scaled
from waldrand.core.values.sheet import Sheet
from waldrand.core.values.stacking import group_elsewhere, mask_of_layer, merged_down
from waldrand.files.openraster import open_sheet, save_sheet
from waldrand.files.typefaces import draw_letters, families, styles, typeface_of
from waldrand.packs.closed_form import ClosedFormPack

RED, CLEAR = (200, 30, 20, 255), (0, 0, 0, 0)
FULL = settings(max_examples=25)


def card(h: int = 40, w: int = 60, colour=RED) -> np.ndarray:
    pixels = np.zeros((h, w, 4), np.uint8)
    pixels[:] = colour
    return pixels


def speckled(h: int, w: int, seed: int = 1) -> np.ndarray:
    rng = np.random.default_rng(seed)
    return np.dstack([rng.integers(0, 256, (h, w, 3)), rng.integers(0, 256, (h, w))]).astype(np.uint8)


# --- blending


@given(below=st.integers(0, 255), over=st.integers(0, 255), blend=st.sampled_from(list(BLENDS)), alpha=st.integers(0, 255))
@FULL
def test_blending_does_what_its_name_says(below, over, blend, alpha):
    under, own = np.full((1, 1, 4), below, np.uint8), np.full((1, 1, 3), over, np.uint8)
    under[..., 3] = 255
    made = int(lay_over(under, own, np.full((1, 1), 255, np.uint8), blend)[0, 0, 0])
    b, s = below / 255, over / 255
    expected = {
        "normal": s,
        "multiply": b * s,
        "screen": 1 - (1 - b) * (1 - s),
        "overlay": 2 * b * s if b <= 0.5 else 1 - 2 * (1 - b) * (1 - s),
        "lighter": max(b, s),
        "darker": min(b, s),
    }[blend]
    assert abs(made - 255 * expected) <= 1
    # Over nothing all are alike, and under no alpha nothing changes.
    assert lay_over(np.zeros((1, 1, 4), np.uint8), own, np.full((1, 1), 255, np.uint8), blend)[0, 0].tolist() == [over] * 3 + [255]
    assert lay_over(under, own, np.zeros((1, 1), np.uint8), blend).tolist() == under.tolist()
    partly = int(lay_over(under, own, np.full((1, 1), alpha, np.uint8), blend)[0, 0, 0])
    assert min(below, made) - 1 <= partly <= max(below, made) + 1


def test_a_layer_is_laid_by_its_opacity_and_blending(painted):
    layer = PictureLayer(2, "card", card(), 20, 20, opacity=0.5, blend="multiply")
    made = painted.with_layer(layer).flatten()
    below = painted.flatten()[30, 30, :3].astype(float)
    assert np.allclose(made[30, 30, :3], below * 0.5 + 0.5 * below * np.array(RED[:3]) / 255, atol=2)
    assert (made[100, 100] == painted.flatten()[100, 100]).all()
    for name, value in (("opacity", 1.5), ("opacity", -0.1), ("blend", "sparkle"), ("role", "both ways")):
        with pytest.raises(Refused):
            layer.changed(**{name: value})


# --- adjustments


def test_an_adjustment_never_changes_the_pixels_themselves(painted):
    own = painted.layers[0]
    dark = own.changed(finish=Finish(Adjustment(exposure=-1)))
    assert dark.pixels is own.pixels
    assert dark.shown[..., :3].mean() < own.shown[..., :3].mean() - 10
    assert dark.changed(finish=Finish()).shown is own.pixels
    within = np.zeros((256, 256), np.uint8)
    within[:, :128] = 255
    half = own.changed(finish=Finish(Adjustment(exposure=-1), within)).shown
    assert (half[:, 128:] == own.pixels[:, 128:]).all()
    assert (half[:, :128] == dark.shown[:, :128]).all()


def test_sharper_and_softer():
    pixels = speckled(40, 40)[..., :3]
    assert adjusted_within(pixels, Adjustment(sharpness=-1)).std() < pixels.std() < adjusted_within(pixels, Adjustment(sharpness=1)).std()


@given(
    exposure=st.floats(-8, 8),
    hue=st.floats(-180, 180),
    sharp=st.floats(-1, 1),
    bend=st.floats(0, 1),
)
@FULL
def test_adjustments_come_back_from_their_json(exposure, hue, sharp, bend):
    a = Adjustment(exposure=exposure, hue=hue, sharpness=sharp, curve=((0.0, 0.0), (0.5, bend), (1.0, 1.0)))
    assert adjustment_from_json(adjustment_to_json(a), "it") == a


@pytest.mark.parametrize(
    "bad", [{"exposure": 99}, {"glow": 1}, {"curve": [[0, 0]]}, {"curve": [[0, 1], [1, 0]]}, {"curve": [[0], [1]]}, []]
)
def test_adjustments_that_are_none_are_refused(bad):
    with pytest.raises(Refused):
        adjustment_from_json(bad, "it")


# --- corners


def test_quarter_turns_and_mirrorings_keep_every_pixel():
    pixels = speckled(20, 30)
    assert (warped(pixels, corners_of(0, 0, 30, 20)) == pixels).all()
    assert (warped(pixels, ((20, 0), (20, 30), (0, 30), (0, 0))) == np.rot90(pixels, -1)).all()
    assert (warped(pixels, ((30, 20), (0, 20), (0, 0), (30, 0))) == np.rot90(pixels, 2)).all()
    assert (warped(pixels, ((30, 0), (0, 0), (0, 20), (30, 20))) == pixels[:, ::-1]).all()
    assert (warped(pixels, ((0, 20), (30, 20), (30, 0), (0, 0))) == pixels[::-1]).all()
    assert (warped(pixels, ((0, 0), (0, 30), (20, 30), (20, 0))) == np.rot90(pixels, -1)[:, ::-1]).all()


@given(points=st.lists(st.tuples(st.floats(0, 200), st.floats(0, 200)), min_size=4, max_size=4))
@FULL
def test_corners_are_met_or_refused(points):
    corners = tuple(points)
    try:
        check_corners(corners)
    except Refused:
        return
    way = projection(corners_of(0, 0, 10, 7), corners)
    for (x, y), (u, v) in zip(corners_of(0, 0, 10, 7), corners, strict=True):
        a, b, d = way @ np.array([x, y, 1])
        assert np.allclose((a / d, b / d), (u, v), atol=1e-3)


def test_what_is_drawn_between_corners_covers_them_and_nothing_else():
    corners = ((10, 0), (70, 12), (60, 52), (0, 40))
    made = warped(card(40, 60), corners)
    assert made.shape == (52, 70, 4)
    assert made[26, 35].tolist() == list(RED)
    assert made[50, 2, 3] == 0
    area = sum(corners[i][0] * corners[(i + 1) % 4][1] - corners[(i + 1) % 4][0] * corners[i][1] for i in range(4)) / 2
    assert abs(made[..., 3].sum() / 255 - area) < 0.03 * area
    # A fine pattern made small becomes its mean rather than some of its lines.
    lines = card(200, 200)
    lines[::2, :, :3] = 255
    small = warped(lines, ((1, 0), (21, 1), (20, 21), (0, 20)))[5:15, 5:15, :3]
    assert small[..., 1].std() < 8


def test_a_grey_picture_seen_between_corners_comes_back():
    layer = PictureLayer(1, "c", card(), 5, 6).with_corners(turned_corners(corners_of(40, 40, 100, 80), 30))
    grey = mask_of_layer(Sheet(150, 130, (layer,)), 1)
    assert unwarped(grey, layer.corners, 40, 60)[2:-2, 2:-2].min() > 200
    assert layer.on_own(np.zeros((130, 150), np.uint8)).max() == 0


def test_corners_by_numbers():
    c = turned_corners(corners_of(0, 0, 40, 20), 30)
    assert np.allclose(size_and_turn(c), (40, 20, 30))
    assert np.allclose(size_and_turn(scaled_corners(corners_of(0, 0, 40, 20), 2, 3)), (80, 60, 0))
    assert moved_corners(corners_of(0, 0, 1, 1), 3, 4)[0] == (3, 4)


def test_a_layer_moved_by_its_corners_keeps_its_pixels_and_comes_back():
    layer = PictureLayer(1, "c", speckled(40, 60), 5, 6)
    turned = layer.with_corners(turned_corners(layer.corners, 25))
    assert turned.pixels is layer.pixels
    assert turned.bounds.width > 60
    again = turned.with_corners(layer.corners)
    assert again.finish.corners is None
    assert again.shown is layer.pixels
    assert (again.x, again.y) == (5, 6)
    with pytest.raises(Refused):
        layer.with_corners(((0, 0), (10, 0), (0, 10), (10, 10)))
    larger = scaled(Sheet(100, 100, (turned,)), 200, 200).layers[0]
    assert larger.pixels is layer.pixels
    assert np.allclose(larger.corners, 2 * np.array(turned.corners))


# --- painting


@given(
    x=st.integers(-30, 300),
    y=st.integers(-30, 300),
    w=st.integers(1, 90),
    h=st.integers(1, 90),
    grey=st.integers(0, 255),
    erase=st.booleans(),
)
@FULL
def test_paint_is_as_if_the_layer_were_one_picture(x, y, w, h, grey, erase):
    before = PaintLayer(1, "c", 280, 270).painted(Rect(0, 0, 280, 270), np.full((270, 280), 180, np.uint8), (10, 20, 30))
    rect = Rect(x, y, x + w, y + h)
    after = before.painted(rect, np.full((h, w), grey, np.uint8), (200, 100, 0), erase)
    whole = before.shown
    inside = rect.intersect(Rect(0, 0, 280, 270))
    if inside.area and erase:
        whole[inside.slices][..., 3] = (whole[inside.slices][..., 3].astype(int) * (255 - grey) + 127) // 255
    elif inside.area:
        part = whole[inside.slices]
        whole[inside.slices] = lay_over(part, np.full_like(part[..., :3], (200, 100, 0)), np.full(part.shape[:2], grey, np.uint8))
    assert (after.shown == whole).all()
    untouched = [k for k in before.tiles if not before.place_of(k).intersect(rect).area]
    assert all(after.tiles[k] is before.tiles[k] for k in untouched)


def test_a_painted_layer_is_laid_moved_scaled_and_made_a_picture(painted):
    layer = PaintLayer(2, "c", 256, 256).painted(Rect(30, 40, 70, 60), np.full((20, 40), 255, np.uint8), (200, 100, 0))
    assert layer.seen == Rect(30, 40, 70, 60)
    sheet = painted.with_layer(layer)
    assert sheet.flatten()[50, 50].tolist() == [200, 100, 0, 255]
    assert sheet.with_layer(layer.moved(100, 0)).flatten()[50, 150].tolist() == [200, 100, 0, 255]
    assert scaled(sheet, 512, 512).flatten()[100, 100].tolist() == [200, 100, 0, 255]
    picture = layer.as_picture()
    assert picture.bounds == Rect(30, 40, 70, 60)
    assert (sheet.with_layer(picture).flatten() == sheet.flatten()).all()
    assert PaintLayer(3, "e", 256, 256).as_picture().bounds == Rect(0, 0, 256, 256)


def test_only_what_looks_otherwise_is_drawn_anew(painted):
    layer = PaintLayer(2, "c", 256, 256)
    sheet = painted.with_layer(layer)
    after = sheet.with_layer(layer.painted(Rect(10, 10, 20, 20), np.full((10, 10), 255, np.uint8), (9, 9, 9)))
    assert changed_rect(sheet, after) == Rect(0, 0, 256, 256)
    wide = Sheet(1024, 512, (PaintLayer(1, "c", 1024, 512),))
    there = wide.with_layer(wide.layers[0].painted(Rect(600, 300, 640, 310), np.full((10, 40), 255, np.uint8), (9, 9, 9)))
    assert changed_rect(wide, there) == Rect(512, 256, 768, 512)
    assert changed_rect(wide, wide).area == 0
    small = PictureLayer(7, "card", card(), 300, 200)
    assert changed_rect(wide, wide.with_layer(small)) == small.bounds
    assert changed_rect(wide.with_layer(small), wide.with_layer(small.moved(5, 0))) == Rect(300, 200, 365, 240)
    two = wide.with_layer(small).with_layer(replace(small, key=8, x=0))
    assert changed_rect(two, two.moved_layer(7, 1)) == wide.rect
    assert changed_rect(wide, framed(wide, Rect(0, 0, 100, 100))) == Rect(0, 0, 100, 100)


def test_the_main_colours_of_a_picture():
    pixels = np.concatenate([np.tile([[20, 40, 60]], (500, 1)), np.tile([[200, 180, 40]], (100, 1)), np.tile([[250, 20, 20]], (5, 1))])
    found = main_colours(pixels.astype(np.uint8), 8)
    assert found[0] == (20, 40, 60)
    assert set(found) == {(20, 40, 60), (200, 180, 40), (250, 20, 20)}
    assert main_colours(np.zeros((0, 3), np.uint8), 4) == []


def test_a_sketch_loses_its_paper():
    yy, xx = np.mgrid[:120, :160]
    paper = (215 - 0.5 * xx - 0.2 * yy)[..., None] * np.array([1.0, 0.95, 0.8])
    sketch = paper.copy()
    sketch[40:44, 20:140] = 40
    pixels = np.dstack([np.clip(sketch, 0, 255), np.full((120, 160), 255)]).astype(np.uint8)
    made = without_paper(pixels)
    assert made[42, 60, 3] > 220
    assert made[42, 60, :3].max() < 90
    assert np.median(made[60:110, 10:150, 3]) == 0
    for bad in (
        np.full((50, 50, 4), 255, np.uint8),
        np.dstack([np.random.default_rng(1).integers(0, 90, (50, 50, 3)), np.full((50, 50), 255)]),
    ):
        with pytest.raises(Refused, match="sketch"):
            without_paper(bad.astype(np.uint8))


# --- letters


def test_letters_are_drawn_by_their_numbers():
    plain, note = draw_letters(Letters("Moth Night", size=40))
    assert note == ""
    wide = draw_letters(Letters("Moth Night", size=40, spacing=0.3))[0]
    high = draw_letters(Letters("Moth\nNight", size=40))[0]
    assert wide.shape[1] > plain.shape[1] + 80
    assert high.shape[0] > plain.shape[0]
    assert high.shape[1] < plain.shape[1]
    assert (plain[..., :3] == colour_of(Letters().colour)).all()
    assert 0.05 < (plain[..., 3] > 127).mean() < 0.4
    left, right = (draw_letters(Letters("i\nlong line", size=40, align=a))[0] for a in ("left", "right"))
    assert (left[:40, :60, 3] > 0).any()
    assert not (right[:40, :60, 3] > 0).any()


def test_letters_that_cannot_be():
    for bad in ({"words": "x", "size": 3}, {"words": "x", "colour": "greenish"}, {"words": "x", "align": "middle"}):
        with pytest.raises(Refused):
            Letters(**bad)
    for words, size in (("  ", 30), ("very long " * 400, 2000)):
        with pytest.raises(Refused):
            draw_letters(Letters(words, size=size))


def test_a_missing_typeface_is_said_and_another_one_drawn():
    made, note = draw_letters(Letters("Moth", "No Such Face", "Bold"))
    assert "No Such Face" in note
    assert (made[..., 3] > 0).any()
    assert families()[0] == "Source Sans Pro"
    assert styles("Source Sans Pro")[0] == "Regular"
    assert typeface_of("source sans pro", "nothing like it")[1]


def test_a_turned_lettering_stays_turned_when_its_words_change():
    says = Letters("Moth", size=40)
    layer = Lettering(1, "Moth", draw_letters(says)[0], 50, 60, says=says)
    turned = layer.with_corners(turned_corners(layer.corners, 20))
    longer = replace(says, words="Moth Night")
    again = turned.drawn(longer, draw_letters(longer)[0])
    assert again.name == "Moth Night"
    assert np.allclose(size_and_turn(again.corners)[2], 20)
    assert np.allclose(again.corners[0], turned.corners[0], atol=1)
    assert np.allclose(size_and_turn(again.corners)[0], again.pixels.shape[1])


# --- several together


def test_layers_merge_as_they_were_seen(painted):
    over = PictureLayer(2, "card", speckled(40, 60), 100, 90, opacity=0.6, blend="screen")
    sheet = painted.with_layer(over)
    merged = merged_down(sheet, 2)
    assert len(merged.layers) == 1
    assert (merged.flatten() == sheet.flatten()).all()
    for bad in (painted, sheet.with_layer(over.changed(role=FEEDS))):
        with pytest.raises(Refused):
            merged_down(bad, bad.layers[-1].key)


def test_a_group_is_moved_together(painted):
    a, b = PictureLayer(2, "a", card(), 10, 10, group="crew"), PictureLayer(3, "b", card(), 90, 90, group="crew")
    sheet = group_elsewhere(painted.with_layer(a).with_layer(b), 3, 4, -5)
    assert [(x.bounds.x0, x.bounds.y0) for x in sheet.layers] == [(0, 0), (14, 5), (94, 85)]


# --- what feeds passes, what is held


def test_what_only_feeds_is_the_start_of_passes_and_never_seen(painted, closed):
    under = PictureLayer(2, "under", card(256, 256, (250, 250, 0, 255)), role=FEEDS)
    over = PictureLayer(3, "over", card(20, 20, (0, 0, 255, 255)), 5, 5, role=SEEN)
    sheet = painted.with_layer(under).with_layer(over)
    assert (sheet.flatten()[100, 100] == painted.flatten()[100, 100]).all()
    assert sheet.flatten()[10, 10].tolist() == [0, 0, 255, 255]
    p = plan(sheet, Request("rework", PassSettings(strength=0.02, steps=50)), closed)
    take = run_take(p, closed, 0)
    assert np.abs(take.pixels.astype(int) - (250, 250, 0)).mean() < 12
    kept = take.laid_on(sheet, "kept")
    # What is only seen, and lay on top, still does.
    assert kept.flatten()[10, 10].tolist() == [0, 0, 255, 255]
    assert (kept.flatten()[100, 100, :3] == take.pixels[100, 100]).all()


@given(
    kind=st.sampled_from(["compose", "rework", "inpaint", "extend"]),
    seed=st.integers(0, 50),
    strength=st.floats(0.1, 1),
    boxes=st.lists(st.tuples(st.integers(0, 200), st.integers(0, 200), st.integers(4, 90), st.integers(4, 90)), min_size=1, max_size=3),
)
@settings(max_examples=16)
def test_no_kind_of_pass_changes_what_is_held(kind, seed, strength, boxes):
    pack = ClosedFormPack()
    rng = np.random.default_rng(seed)
    pixels = np.dstack([rng.integers(0, 256, (256, 256, 3)), np.full((256, 256), 255)]).astype(np.uint8)
    sheet = Sheet(256, 256, (PictureLayer(1, "ground", pixels),), scene=SceneWords("green"))
    held = np.zeros((256, 256), np.uint8)
    for x, y, w, h in boxes:
        held[y : y + h, x : x + w] = 255
    sheet = replace(sheet, mask=Mask.from_array(np.full((256, 256), 255, np.uint8)), areas=(Area(9, "hold", Mask.from_array(held), True),))
    if kind == "extend":
        sheet = framed(sheet, Rect(0, 0, 320, 256))
        held = np.pad(held, ((0, 0), (0, 64)))
    before = sheet.flatten()
    request = Request(kind, PassSettings(strength=strength, seed=seed, steps=3))
    own = {n: f.default for n, f in kind_of(kind).own.items()}
    p = plan(sheet, replace(request, more=tuple(own.items())), pack)
    after = run_take(p, pack, seed).laid_on(sheet, "take").flatten()
    solid = held > 0
    assert (after[solid] == before[solid]).all()
    assert (after != before).any()


def test_a_kept_mask_that_is_not_held_holds_nothing(painted, closed):
    area = Area(9, "kept", Mask.from_array(np.full((256, 256), 255, np.uint8)))
    sheet = replace(painted, areas=(area,))
    take = run_take(plan(sheet, Request("rework", PassSettings(strength=0.9, steps=3)), closed), closed, 0)
    assert (take.laid_on(sheet, "t").flatten() != sheet.flatten()).any()


def test_a_pass_over_what_was_held_repeats(painted, closed):
    held = np.zeros((256, 256), np.uint8)
    held[50:90, 60:140] = 255
    sheet = replace(painted, areas=(Area(9, "hold", Mask.from_array(held), True),))
    take = run_take(plan(sheet, Request("rework", PassSettings(strength=0.7, steps=4, seed=5)), closed), closed, 5)
    done = take.laid_on(sheet, "take")
    assert (repeat(picture_recipe(done), closed, [painted.flatten()]).pixels == done.flatten()).all()


# --- files


def everything(sheet: Sheet) -> Sheet:
    """A sheet with one layer of every sort, each finished in its own way, and a mask kept under a name."""
    says = Letters("Moth Night", size=30, spacing=0.1, colour="#ffcc00")
    cover = np.zeros((40, 60), np.uint8)
    cover[5:30, 5:50] = 200
    finish = Finish(Adjustment(exposure=0.5, curve=((0.0, 0.1), (1.0, 0.9))), cover, cover)
    layers = [
        PictureLayer(2, "turned", speckled(40, 60), 50, 60, finish=finish, opacity=0.7, blend="multiply").with_corners(
            turned_corners(corners_of(60, 70, 120, 110), 33)
        ),
        PaintLayer(3, "paint", 256, 256, role=FEEDS).painted(Rect(10, 10, 90, 60), np.full((50, 80), 99, np.uint8), (7, 8, 9)),
        Lettering(4, "Moth Night", draw_letters(says)[0], 20, 200, says=says, role=SEEN, group="poster"),
        Patch(5, "patch", Rect(100, 100, 160, 140), speckled(40, 60)[..., :3], cover, 1.0, 3.0, finish=finish, opacity=0.9),
    ]
    for layer in layers:
        sheet = sheet.with_layer(layer)
    sheet = belonging(sheet, 2, 0.6, 0.3)
    return replace(sheet, areas=(Area(9, "fox", Mask.from_array(np.pad(cover, ((0, 216), (0, 196)))), True),))


def test_a_sheet_of_everything_comes_back_from_its_file(painted, tmp_path):
    sheet = everything(painted)
    save_sheet(tmp_path / "all.ora", sheet)
    back = open_sheet(tmp_path / "all.ora").sheet
    assert (back.flatten() == sheet.flatten()).all()
    assert [type(x) for x in back.layers] == [type(x) for x in sheet.layers]
    for a, b in zip(back.layers, sheet.layers, strict=True):
        assert a.to_json() == b.to_json()
        assert (a.shown == b.shown).all()
    assert (back.layer(2).pixels == sheet.layer(2).pixels).all()
    assert (back.layer(5).pixels == sheet.layer(5).pixels).all()
    assert (back.layer(2).finish.cover == sheet.layer(2).finish.cover).all()
    assert back.layer(4).says == sheet.layer(4).says
    assert (back.area(9).mask.read() == sheet.area(9).mask.read()).all()
    assert back.area(9).hold
    save_sheet(tmp_path / "again.ora", back)
    assert (open_sheet(tmp_path / "again.ora").sheet.flatten() == sheet.flatten()).all()


def test_other_programs_see_layers_with_their_opacity_and_blending(painted, tmp_path):
    import zipfile

    sheet = everything(painted)
    path = tmp_path / "all.ora"
    save_sheet(path, sheet)
    stripped = tmp_path / "plain.ora"
    with zipfile.ZipFile(path) as z, zipfile.ZipFile(stripped, "w") as out:
        for name in z.namelist():
            if not name.startswith("waldrand/"):
                out.writestr(name, z.read(name))
    plain = open_sheet(stripped).sheet
    assert np.abs(plain.flatten().astype(int) - sheet.flatten()).max() <= 1
    assert [x.blend for x in plain.layers] == ["normal", "multiply", "normal", "normal", "normal"]
    assert [x.visible for x in plain.layers] == [True, True, False, True, True]


@pytest.mark.parametrize(
    ("key", "value"),
    [
        ("blend", "sparkle"),
        ("opacity", 7),
        ("role", 3),
        ("corners", [[0, 0], [1, 0], [1, 1]]),
        ("corners", [[0, 0], [60, 0], [0, 40], [60, 40]]),
        ("adjustment", {"exposure": "much"}),
        ("cover", "waldrand/nothing.png"),
        ("original", 4),
        ("letters", {"size": "big"}),
    ],
)
def test_mangled_layers_are_told(painted, tmp_path, key, value):
    import json
    import zipfile

    path = tmp_path / "all.ora"
    save_sheet(path, everything(painted))
    with zipfile.ZipFile(path) as z:
        parts = {name: z.read(name) for name in z.namelist()}
    ours = json.loads(parts["waldrand/sheet.json"])
    ours["layers"][3 if key == "letters" else 1][key] = value
    parts["waldrand/sheet.json"] = json.dumps(ours).encode()
    with zipfile.ZipFile(path, "w") as z:
        for name, data in parts.items():
            z.writestr(name, data)
    with pytest.raises(Refused):
        open_sheet(path)
