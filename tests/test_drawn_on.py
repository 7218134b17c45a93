"""What is drawn where a picture goes on, over its edge and into holes: its horizon, grounds, things; and the tone that it is brought to."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from by_hand import drag, opened
from hypothesis import given, settings
from hypothesis import strategies as st

from waldrand import cli
from waldrand.core.passes.meeting import Beside, standing_met
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import recipe_of, request_from_json
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.picture.joining import MOST, joined_in, joined_on
from waldrand.core.picture.membrane import stretched
from waldrand.core.seen.horizon import horizon_in
from waldrand.core.told.guides import Sketch, on_frame, sketched_lines
from waldrand.core.told.said import InElement, InGround
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import LINES, PictureLayer
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.resize import framed
from waldrand.core.values.sheet import Sheet
from waldrand.files.pictures import write_png

SIDE, HORIZON = 320, 150
RIGHT = Rect(0, 0, SIDE + 160, SIDE)


def plain(words: str = "clear day, meadow") -> Sheet:
    """A blue sky over a green meadow."""
    rows = np.arange(SIDE)[:, None, None]
    sky, grass = np.array([90, 150, 225]) + rows * np.array([0.5, 0.4, 0.1]), np.array([95, 165, 85]) - (rows - HORIZON) * 0.12
    pixels = np.broadcast_to(np.where(rows < HORIZON, sky, grass), (SIDE, SIDE, 3)).astype(np.uint8)
    layer = PictureLayer(1, "old", np.dstack([pixels, np.full((SIDE, SIDE), 255, np.uint8)]))
    return Sheet(SIDE, SIDE, (layer,), scene=SceneWords(words))


def wider(words: str = "clear day, meadow", *elements: Element, by: Rect = RIGHT) -> Sheet:
    return replace(framed(plain(words), by), elements=elements)


def asked(words: str = "", **more) -> Request:
    own = {"overlap": 32} | {k: more.pop(k) for k in ("drawn", "overlap", "part") if k in more}
    return Request("extend", PassSettings(steps=8, seed=3, strength=0.85, **more), more=tuple(own.items()), words=words)


def stage_of(sheet: Sheet, pack, **more):
    (stage,) = plan(sheet, asked(**more), pack).stages
    return stage


def labels(stage) -> set[str]:
    return {one.where.label for one in stage.told if isinstance(one.where, InGround)}


# --- where the horizon is


@given(st.integers(24, 240), st.integers(-6, 6), st.integers(64, 300))
def test_a_horizon_is_found_to_the_pixel_where_its_ground_is_seen_roughly(y, off, width):
    picture = np.full((256, width, 3), 200, np.uint8)
    picture[y:] = (60, 140, 60)
    ground = np.zeros((32, 40), np.float32)
    ground[max(1, round((y + off) / 8)) :] = 0.9
    found = horizon_in(picture, ground)
    assert found is not None
    assert abs(found - y) <= 1


def test_the_foot_of_a_thing_is_no_horizon():
    picture = np.full((256, 256, 3), 200, np.uint8)
    picture[100:] = (60, 140, 60)
    ground, things = (np.zeros((32, 32), np.float32) for _ in range(2))
    ground[13:] = 0.9
    # A barn over most of it, whose foot is far below the horizon.
    picture[60:200, 40:] = (150, 60, 50)
    ground[:25, 5:], things[8:25, 5:] = 0, 0.9
    assert abs(horizon_in(picture, ground, things) - 100) <= 6
    things[8:25], ground[:25] = 0.9, 0
    assert horizon_in(picture, ground, things) is None


def test_no_horizon_is_made_up(own):
    picture = plain().flatten()
    assert horizon_in(picture, np.zeros((32, 32), np.float32)) is None
    assert horizon_in(picture, np.ones((32, 32), np.float32)) is None
    # Only sky, or only grass.
    for rows in (slice(0, HORIZON - 20), slice(HORIZON + 20, SIDE)):
        pixels = np.ascontiguousarray(picture[rows])
        sheet = Sheet(SIDE + 160, len(pixels), (PictureLayer(1, "old", pixels),), scene=SceneWords("clear day, meadow"))
        assert stage_of(sheet, own).grounds == ()


# --- what is told


def test_what_no_words_name_the_picture_says_itself(own):
    assert labels(stage_of(wider(""), own)) == {"meadow"}
    assert labels(stage_of(wider("clear day, snow field"), own)) <= {"snow field"}


@pytest.mark.parametrize(
    ("by", "old"),
    [
        (Rect(0, 0, SIDE + 160, SIDE), (0, 0)),
        (Rect(-160, 0, SIDE, SIDE), (160, 0)),
        (Rect(0, -120, SIDE, SIDE), (0, 120)),
        (Rect(0, 0, SIDE, SIDE + 96), (0, 0)),
    ],
)
def test_the_grounds_go_on_at_the_height_of_the_picture_and_not_over_it(own, by, old):
    sheet = wider("clear day, meadow, forest", by=by)
    stage = stage_of(sheet, own)
    assert labels(stage) == {"meadow", "forest"}
    lines = sketched_lines(stage.grounds, sheet.rect, sheet.height, sheet.width)
    x, y = old
    inner = lines[y + 2 : y + SIDE - 2, x + 2 : x + SIDE - 2]
    assert inner.max() == 0
    if by.width > SIDE:
        new = np.delete(lines, np.s_[x : x + SIDE], 1)
        # A line from side to side at the horizon, trees above it, no higher than the picture.
        assert (new[y + HORIZON - 12 : y + HORIZON + 13] > 0.3).any(0).mean() > 0.9
        assert new[: y + 10].max() == 0
    else:
        # Nothing stands above or below the picture that begins in it.
        assert lines[:y].max(initial=0) == 0


def test_the_pictures_own_lines_lead_up_to_the_join_which_is_none(own):
    sheet = wider()
    stage = stage_of(sheet, own)
    told = on_frame(sheet, stage.frame, stage.sketches, own.info, stage.grounds, stage.drawn(sheet, stage.frame)).drawing
    k = stage.frame.width / stage.frame.rect.width
    join, row = round((SIDE - stage.frame.rect.x0) * k), round((HORIZON - stage.frame.rect.y0) * k)
    beside = told[:, join - 6 : join + 6].copy()
    assert beside[row - 4 : row + 5].max(0).min() > 0.3
    beside[row - 8 : row + 9] = 0
    assert (beside > 0.3).mean() < 0.02


def test_things_in_the_new_part_are_drawn_and_what_the_edge_cuts_is_not(own):
    boxes = {"a": (340, 120, 460, 280), "b": (250, 120, 400, 280), "c": (20, 120, 140, 280)}
    foxes = (Element(i + 5, name, Outline("box", box), "fox") for i, (name, box) in enumerate(boxes.items()))
    sheet = wider("clear day, meadow", *foxes)
    stage = stage_of(sheet, own)
    assert set(stage.shapes) == {InElement(5)}
    assert len(stage.sketches) == 1
    assert {one.owner for one in stage.told} >= {"a", "b"}
    assert "c" not in {one.owner for one in stage.told}
    # Nothing of the grounds is drawn inside either.
    lines = sketched_lines(stage.grounds, sheet.rect, sheet.height, sheet.width)
    assert lines[130:270, 322:398].max() == 0
    notes = " ".join(plan(sheet, asked(), own).sentences)
    assert "Fits a figure of “a”" in notes
    assert "Draws what lies behind: meadow" in notes
    assert stage_of(sheet, own, drawn=False).sketches == ()


@pytest.mark.parametrize(("words", "stands"), [("red fox", True), ("cottage, autumn", True), ("balloon", False)])
def test_things_that_the_passes_words_name_get_places_in_the_new_part(own, words, stands):
    sheet = wider()
    p = plan(sheet, asked(words), own)
    (stage,) = p.stages
    (where,) = {one.where for one in stage.told if isinstance(one.where, InElement)}
    assert labels(stage) == {"meadow"}
    x0, _, x1, y1 = stage.shapes[where].box
    assert x0 >= SIDE - 1
    assert x1 <= sheet.width + 1
    assert y1 > HORIZON if stands else y1 < HORIZON + 4
    assert any("Gives a place" in said for said in p.sentences)
    # As it is shown in pencil; without drawings it is words alone, as before.
    _, behind = p.kind.drawn(sheet, p.request, own, 3)
    assert [round(v) for v in behind.things[0].box] == [round(v) for v in stage.shapes[where].box]
    for without in (asked(words, drawn=False), asked(words, places=False)):
        bare = plan(sheet, without, own).stages[0]
        assert not any(isinstance(one.where, InElement) for one in bare.told)
        assert bare.grounds == ()


def test_what_stands_behind_the_horizon_begins_as_high_as_in_the_picture():
    lines = np.full((40, 100), 255, np.uint8)
    strip = Sketch((0.0, 60.0, 200.0, 100.0), lines, lines)
    pixels = np.full((160, 100, 3), 200, np.uint8)
    pixels[90:] = (60, 130, 60)
    pixels[70:90] = (90, 110, 140)
    hills = np.zeros((20, 10), np.float32)
    hills[9:11] = 0.9
    beside = Beside(pixels, Rect(0, 0, 100, 160), Rect(100, 0, 200, 160), 100.0)
    for seen, top in ((hills, 70), (np.zeros_like(hills), 100)):
        met = standing_met(strip, beside, seen)
        x0, y0, x1, y1 = met.box
        assert (x0, x1, y1) == (0.0, 200.0, 100.0)
        mask = met.mask > 127
        at_join, far = (y1 - mask[:, round(x / 2)].sum() / len(mask) * (y1 - y0) for x in (100, 190))
        assert abs(at_join - top) <= 3
        assert abs(far - 60) <= 2


def test_where_they_are_contradicted_or_not_wanted_no_grounds_are_drawn(own):
    assert stage_of(wider(), own).grounds
    assert stage_of(wider(), own, drawn=False).grounds == ()
    assert stage_of(wider(), own, drawn=False).drawn is None
    # Who puts a ground there by hand, or draws it, is told no other.
    assert stage_of(wider("clear day, meadow", Element(5, "a", Outline("box", (330, 160, 480, 320)), "lake")), own).grounds == ()
    ink = np.zeros((20, 150, 4), np.uint8)
    ink[8:11, :, 3] = 255
    sheet = wider()
    drawn = sheet.with_layer(PictureLayer(sheet.next_key(), "by hand", ink, 325, 140, role=LINES))
    assert stage_of(drawn, own).grounds == ()
    # The words of the pass may name them.
    assert labels(stage_of(wider("clear day"), own, words="meadow, hills")) == {"meadow", "hills"}


# --- what is painted


def test_the_horizon_goes_on_where_it_was_and_the_join_has_no_step(own):
    sheet = wider()
    p = plan(sheet, asked(), own)
    done = run_take(p, own, 3).laid_on(sheet, "t").flatten().astype(int)
    assert (done[:, : SIDE - 32] == sheet.flatten()[:, : SIDE - 32]).all()
    above, below = done[8 : HORIZON - 8, SIDE:, :3], done[HORIZON + 8 :, SIDE:, :3]
    assert (above[..., 2] > above[..., 1]).mean() > 0.95
    assert (below[..., 1] > below[..., 2]).mean() > 0.95
    # Far into the new part the colours are those of the old one.
    for rows in (slice(8, HORIZON - 8), slice(HORIZON + 8, SIDE)):
        assert np.abs(done[rows, SIDE + 16 :, :3].mean((0, 1)) - done[rows, : SIDE - 40, :3].mean((0, 1))).max() < 14


def test_recipes_from_before_repeat_without_a_drawing(own):
    p = plan(wider(), asked(), own)
    recipe = recipe_of(p, 3)
    assert request_from_json(recipe).value("drawn") is True
    del recipe["more"]["drawn"]
    assert request_from_json(recipe).value("drawn") is False


# --- in a hole


def holed(words: str = "clear day, meadow") -> tuple[Sheet, np.ndarray]:
    """A brown post across the horizon, and a mask round it."""
    sheet, hole = plain(words), np.zeros((SIDE, SIDE), bool)
    pixels = sheet.flatten().copy()
    pixels[90:230, 140:170, :3] = (120, 70, 40)
    hole[78:242, 128:182] = True
    mask = Mask.from_array(np.where(hole, 255, 0).astype(np.uint8))
    return replace(sheet, layers=(replace(sheet.layers[0], pixels=pixels),), mask=mask), hole


def taken_away(**more) -> Request:
    own = {k: more.pop(k) for k in ("drawn",) if k in more}
    words = more.pop("words", "")
    return Request("inpaint", PassSettings(**{"steps": 8, "seed": 1, "strength": 0.9} | more), words, more=tuple(own.items()))


@pytest.mark.parametrize("words", ["clear day, meadow", ""])
def test_the_horizon_goes_through_a_hole_that_gets_no_words(own, words):
    sheet, hole = holed(words)
    p = plan(sheet, taken_away(), own)
    (stage,) = p.stages
    assert labels(stage) == {"meadow"}
    assert "Draws what lies behind: meadow" in " ".join(p.sentences)
    at = stage.frame.rect
    lines = np.zeros((SIDE, SIDE), np.float32)
    lines[at.slices] = sketched_lines(stage.grounds, at, at.height, at.width)
    assert lines[~hole].max() == 0
    assert (lines[HORIZON - 10 : HORIZON + 11, 132:178] > 0.3).any(0).all()
    done = run_take(p, own, 1).laid_on(sheet, "t").flatten().astype(int)
    assert (done[~hole] == sheet.flatten()[~hole]).all()
    was = plain().flatten().astype(int)
    assert np.abs(done - was)[100 : HORIZON - 14, 136:174, :3].mean() < 14
    assert np.abs(done - was)[HORIZON + 14 : 230, 136:174, :3].mean() < 14


def test_what_is_put_in_or_only_reworked_is_told_no_grounds(own):
    sheet, _ = holed()
    for asked_for in (taken_away(words="red fox"), taken_away(strength=0.5), taken_away(drawn=False)):
        (stage,) = plan(sheet, asked_for, own).stages
        assert labels(stage) == set()
        assert stage.drawn is None
    # What is put in casts a shadow; without one it hangs in the air.
    drawn, bare = (plan(sheet, taken_away(words="fox", drawn=draws), own).stages[0] for draws in (True, False))
    rows = np.flatnonzero(sketched_lines(drawn.shadows, sheet.rect, SIDE, SIDE).any(1))
    foot = next(iter(drawn.shapes.values())).box[3]
    assert abs(rows.max() - foot) < 12
    assert bare.shadows == ()


def test_the_ground_round_what_is_put_in_keeps_its_tone(own):
    sheet, hole = holed()
    drawn, bare = (
        run_take(plan(sheet, taken_away(words="fox", drawn=draws), own), own, 1).laid_on(sheet, "t").flatten().astype(int)
        for draws in (True, False)
    )
    was, rim = plain().flatten().astype(int), hole.copy()
    rim[84:236, 134:176] = False
    rim[HORIZON - 10 : HORIZON + 10] = False
    off = [np.abs(np.median((done - was)[rim], 0)[:3]).max() for done in (drawn, bare)]
    assert off[0] <= off[1] + 1
    assert off[0] < 12
    recipe = recipe_of(plan(sheet, taken_away(), own), 1)
    assert request_from_json(recipe).value("drawn") is True
    del recipe["more"]
    assert request_from_json(recipe).value("drawn") is False


def test_a_picture_says_itself_what_nobody_says(own):
    sheet, _ = holed("")
    (stage,) = plan(sheet, taken_away(), own).stages
    told = {one.phrase for one in stage.told}
    assert "clear day" in told
    # Guidance leads away from what was there alone.
    assert {one.phrase for one in stage.away} >= {"clear day"}
    assert not told.intersection({"flat shapes", "ink wash", "gouache grain"})
    assert "clear day" in {one.phrase for one in stage_of(wider(""), own).told}
    said, _ = holed("sunset, meadow")
    assert "clear day" not in {one.phrase for one in plan(said, taken_away(), own).stages[0].told}
    assert plan(sheet, taken_away(drawn=False), own).stages[0].told == ()


def test_a_picture_that_is_no_drawn_ground_is_not_taken_for_one(own):
    noise = np.random.default_rng(4).integers(0, 255, (SIDE, SIDE, 4), np.uint8)
    noise[..., 3] = 255
    sheet, _ = holed("")
    assert plan(replace(sheet, layers=(PictureLayer(1, "noise", noise),)), taken_away(), own).stages[0].grounds == ()


# --- the tone


@given(st.floats(-MOST, MOST), st.floats(-MOST, MOST), st.integers(40, 90), st.integers(0, 3))
@settings(max_examples=25)
def test_a_tone_that_is_off_is_off_nowhere(red, blue, wide, turn):
    old = np.clip(np.random.default_rng(wide).normal(0.5, 0.05, (96, 150, 3)), 0.2, 0.8).astype(np.float32)
    both = np.zeros((96, 150), bool)
    both[:, wide : wide + 16] = True
    made = old + np.array([red, 0, blue], np.float32)
    old, made, both = (np.ascontiguousarray(np.rot90(a, turn)) for a in (old, made, both))
    assert np.abs(joined_on(made, old, both) - old).max() < 1e-3
    # What is right already, or has nothing to be compared with, stays.
    assert np.abs(joined_on(old, old, both) - old).max() < 1e-6
    assert (joined_on(made, old, np.zeros_like(both)) == made).all()


def test_another_thing_at_the_join_is_not_taken_for_a_tone():
    old = np.full((160, 200, 3), 0.6, np.float32)
    both = np.zeros((160, 200), bool)
    both[:, 80:112] = True
    made = old.copy()
    made[72:80, 80:112] = 0.1
    done = joined_on(made, old, both)
    assert np.abs(done[:, 112:] - 0.6).max() < 0.01


@given(st.floats(-0.08, 0.08), st.floats(-0.08, 0.08), st.integers(20, 60), st.integers(20, 60))
@settings(max_examples=25)
def test_a_hole_gets_the_tone_of_what_lies_round_it_and_keeps_what_begins_in_it(red, green, y, x):
    old, hole = np.full((128, 136, 3), 0.5, np.float32), np.zeros((128, 136), bool)
    old[64:] = 0.3
    hole[y : y + 56, x : x + 60] = True
    made = old + np.array([red, green, 0], np.float32)
    done = joined_in(made, old, hole)
    assert np.abs(done - old)[hole].max() < 0.02
    assert (done[~hole] == made[~hole]).all()
    # A wall of another colour beyond the edge hardly tints what is inside.
    walled = old.copy()
    walled[:, x + 60 :] = 0.95
    assert np.abs(joined_in(old, walled, hole) - old)[hole].max() < 0.6 * MOST
    assert (joined_in(made, old, np.zeros_like(hole)) == made).all()


@given(st.integers(300, 420), st.integers(300, 420), st.integers(1, 200), st.integers(0, 3))
@settings(max_examples=30)
def test_a_membrane_held_at_one_side_is_level_at_any_size(h, w, kept, turn):
    values, hole = np.full((h, w, 3), 0.6, np.float32), np.ones((h, w), bool)
    hole[:, :kept] = False
    values[hole] = 0
    values, hole = (np.ascontiguousarray(np.rot90(a, turn)) for a in (values, hole))
    assert np.abs(stretched(values, hole) - 0.6).max() < 0.01


# --- the command and the window


def test_the_command_draws_or_leaves_it(tmp_path):
    path = tmp_path / "a.png"
    write_png(path, plain().flatten())
    for name, more in (("with", []), ("without", ["--no-drawn"])):
        do = ["extend", str(path), "--right", "96", "--words", "clear day, meadow", "--steps", "2", "--out", str(tmp_path / f"{name}.png")]
        assert cli.main([*do, *more]) == 0
    assert (tmp_path / "with.png").read_bytes() != (tmp_path / "without.png").read_bytes()


def test_the_horizon_is_seen_in_pencil_where_the_sheet_got_room(app, own):
    with opened(own) as window:
        window.document.open(plain("clear day, meadow, town"))
        window.view.set_tool("edges")
        window.view.zoom_to(window.view.scale_now / 1.6)
        drag(window, SIDE, 128, SIDE + 120, 128)
        assert window.document.draft.kind == "extend"
        lines = window.view.drawn.grounds.lines(window.document.sheet, SIDE + 120)
        assert {g.label for g, _ in window.view.drawn.grounds.strips} == {"meadow", "town"}
        assert lines[:, : SIDE - 4].max() == 0
        assert lines[HORIZON - 5 : HORIZON + 6, SIDE:].max() > 0.5
        window.passes.drawn.setChecked(False)
        assert window.view.drawn.grounds.strips == ()
