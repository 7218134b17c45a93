"""Drawings of grounds: which are meant, where the horizon lies, what is told of them, what is seen of them."""

from __future__ import annotations

import json
import shutil
from dataclasses import replace

import numpy as np
import pytest
from by_hand import draw, key, menu, opened, say_scene
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import Qt
from scipy import ndimage

from waldrand import cli
from waldrand.core.packs import ABOVE, BELOW, STANDS, Ground
from waldrand.core.passes.lights import Lights, lights_in, without_lights
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import recipe_of, request_from_json
from waldrand.core.passes.request import Request
from waldrand.core.passes.ripples import without_cut
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.passes.shadows import shaded, shadow_under
from waldrand.core.refused import Refused
from waldrand.core.told.grounds import FOOT, LEAST_SKY, GroundBook, horizon_of, laid_out
from waldrand.core.told.guides import Sketch, sketched_lines
from waldrand.core.told.said import InElement, InGround
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import LINES, PictureLayer
from waldrand.core.values.outline import Outline, rasterise
from waldrand.core.values.shaping import rounded
from waldrand.core.values.sheet import Sheet
from waldrand.packs.closed_form import ClosedFormPack
from waldrand.packs.ground_sheet import read_grounds
from waldrand.packs.onnx_pack import own_pack_folder

WORDS = ("night", "hills", "town", "meadow", "lake", "floor", "wall", "room")
NAMES = ("grounds.png", "ground-shapes.png", "grounds.json")


def strip(label: str, number: int, way: str, **more) -> Ground:
    lines = np.zeros((40, 384), np.uint8)
    lines[:3] = 255
    return Ground(label, number, way, lines, np.full((20, 192), 255, np.uint8), 256, **more)


GROUNDS = (
    strip("night", 6, ABOVE, needs=("meadow", "lake"), told=False),
    strip("wall", 0, ABOVE, needs=("floor",)),
    strip("hills", 1, STANDS, at=0.01),
    strip("town", 2, STANDS, at=0.01),
    strip("meadow", 3, BELOW, between=(0.2, 0.7)),
    strip("lake", 4, BELOW, between=(0.2, 0.7)),
    strip("floor", 5, BELOW, between=(0.6, 0.8), over=True),
)


def book() -> GroundBook:
    return GroundBook(GROUNDS, {"room": ("floor", "wall")}, lambda p: tuple(WORDS.index(w) + 1 for w in p.lower().split() if w in WORDS))


class Grounded(ClosedFormPack):
    """The pack of closed form, told lines, with grounds."""

    def __init__(self) -> None:
        super().__init__()
        self.grounds = book()


def labels(stage) -> set[str]:
    return {one.where.label for one in stage.told if isinstance(one.where, InGround)}


def stage_of(sheet: Sheet, pack, seed: int = 0, kind: str = "compose", **more):
    request = Request(kind, PassSettings(seed=seed, **more))
    return plan(sheet, request, pack).stages[0]


def scene(words: str, *elements: Element) -> Sheet:
    return Sheet(256, 256, elements=elements, scene=SceneWords(words))


def drawn(stage, side: int = 256) -> np.ndarray:
    return sketched_lines(stage.grounds, stage.frame.rect, side, side)


# --- which, and where


def test_words_name_grounds_and_some_mean_them():
    its = book()
    assert [g.label for g in its.named(["hills", "clear meadow"])] == ["hills", "meadow"]
    assert [g.label for g in its.named(["room"])] == ["wall", "floor"]
    assert its.named(["wall"]) == ()
    assert [g.label for g in its.named(["meadow", "night"])] == ["night", "meadow"]
    assert "night" not in [g.label for g in its.named(["room", "night"])]
    assert its.label("green meadow") == "meadow"
    assert its.label("room") is None
    assert its.label("meadow by a lake") is None


def test_what_lies_over_other_grounds_hides_them_and_what_stands_far_off_stays():
    its = book()
    assert [g.label for g in its.named(["meadow", "floor", "hills"])] == ["hills", "floor"]
    assert [g.label for g in its.named(["lake", "room"])] == ["wall", "floor"]
    assert horizon_of(its.named(["meadow", "floor"]), [], [], 1) is not None


def test_in_our_own_model_a_table_stands_before_meadow_and_wall(own):
    for words, seen in (("still life, sunset, lake", {"tabletop"}), ("still life, wall, tabletop", {"tabletop", "wall"})):
        assert labels(stage_of(scene(words), own)) == seen
    # The wall behind a table is bare; that of a room has its skirting.
    assert [g.lines.any() for g in own.grounds.named(["wall", "tabletop"]) if g.label == "wall"] == [False]
    assert all(g.lines.any() for g in own.grounds.named(["room"]))


SHARES = st.floats(0, 1)


@given(st.lists(SHARES, max_size=5), st.lists(SHARES, max_size=3), st.integers(0, 2**31 - 1))
def test_a_horizon_lies_above_all_feet_and_below_what_hangs_if_it_can(feet, hung, seed):
    at = horizon_of(book().named(["meadow"]), feet, hung, seed)
    lowest = min([0.7, *(f - FOOT for f in feet)])
    if lowest < LEAST_SKY:
        assert at is None
        return
    assert at is not None
    assert LEAST_SKY <= at <= lowest + 1e-9
    assert all(at >= b - 1e-9 for b in hung if b <= lowest)
    assert at == horizon_of(book().named(["meadow"]), feet, hung, seed)


@pytest.mark.parametrize("said", [["meadow", "lake"], ["hills"], []])
def test_without_one_main_ground_there_is_no_horizon(said):
    assert horizon_of(book().named(said), [], [], 1) is None


@given(st.integers(64, 3000), st.integers(64, 3000), st.integers(0, 2**31 - 1), st.floats(LEAST_SKY, 0.9))
@settings(max_examples=60)
def test_grounds_reach_from_side_to_side_round_the_horizon(width, height, seed, horizon):
    out = laid_out(book().named(["hills", "town", "meadow"]), horizon, width, height, seed)
    assert [g.label for g, _ in out] == ["hills", "town", "meadow"]
    for g, sketch in out:
        x0, y0, x1, y1 = sketch.box
        assert x0 <= 0
        assert x1 >= width - 1e-6
        if g.label == "meadow":
            assert (y0, y1) == (pytest.approx(horizon * height), height)
        else:
            assert 0 <= y0 < y1
            assert y1 == pytest.approx(horizon * height + 0.01 * np.sqrt(width * height))
    again = laid_out(book().named(["hills", "town", "meadow"]), horizon, width, height, seed)
    assert [s.box for _, s in again] == [s.box for _, s in out]


# --- in a pass


def test_a_pass_on_an_empty_sheet_tells_the_grounds_its_scene_names():
    pack = Grounded()
    stage = stage_of(scene("green meadow, hills, white"), pack)
    assert labels(stage) == {"meadow", "hills"}
    assert drawn(stage).max() > 0.9
    p = plan(scene("green meadow, hills, white"), Request("compose", PassSettings()), pack)
    assert "Draws what lies behind: hills, meadow." in p.sentences
    # A phrase that names a ground alone is told there, the rest everywhere, and what is only meant by its label.
    assert [(one.phrase, one.where) for one in stage.told if isinstance(one.where, InGround)] == [
        ("hills", InGround("hills")),
        ("green meadow", InGround("meadow")),
    ]
    # A sky is drawn, but holds for all of the picture.
    night = stage_of(scene("meadow, night"), pack)
    assert labels(night) == {"meadow"}
    assert drawn(night)[0].max() > 0.9
    room = stage_of(scene("room"), pack)
    assert [one.phrase for one in room.told] == ["room", "wall", "floor"]


@pytest.mark.parametrize(
    ("sheet", "more"),
    [
        (scene("white"), {}),
        (scene("meadow"), {"grounds": False}),
        (scene("meadow"), {"method": "text"}),
        (scene("meadow", Element(1, "water", Outline("box", (0, 100, 256, 256)), "lake")), {}),
        (scene("meadow, lake"), {}),
    ],
)
def test_where_they_are_not_wanted_or_contradicted_none_are_told(sheet, more):
    stage = stage_of(sheet, Grounded(), **more)
    assert stage.grounds == ()
    assert labels(stage) == set()


def test_a_picture_is_only_told_them_where_it_is_painted_anew(painted):
    sheet = replace(painted, scene=SceneWords("meadow"))
    assert stage_of(sheet, Grounded(), kind="rework", strength=0.5).grounds == ()
    assert stage_of(sheet, Grounded(), kind="rework", strength=0.9).grounds
    # What stays has a horizon of its own.
    kept = Element(1, "kept", Outline("box", (10, 10, 60, 60)), hold=True)
    assert stage_of(sheet.with_element(kept), Grounded(), kind="rework", strength=0.9).grounds == ()
    part = Request("rework", PassSettings(strength=0.9), own_frame=(0, 0, 128, 256))
    assert plan(sheet, part, Grounded()).stages[0].grounds == ()


def test_what_is_only_meant_counts_as_much_as_the_scene():
    sheet = replace(scene("room"), scene=SceneWords("room", weight=0.4))
    assert {one.weight for one in stage_of(sheet, Grounded()).told} == {0.4}


def test_a_drawing_of_the_whole_by_hand_takes_their_place():
    ink = np.zeros((256, 256, 4), np.uint8)
    ink[20:240, 10:246, 3] = 255
    sheet = scene("meadow")
    sheet = sheet.with_layer(PictureLayer(sheet.next_key(), "drawing", ink, role=LINES))
    assert stage_of(sheet, Grounded()).grounds == ()
    hidden = sheet.with_layer(replace(sheet.layers[0], visible=False))
    assert stage_of(hidden, Grounded()).grounds


BOX = st.tuples(st.floats(0, 150), st.floats(0, 150), st.floats(20, 100), st.floats(20, 100))


@given(BOX, st.sampled_from(["box", "ellipse"]), st.integers(0, 1000))
@settings(max_examples=25)
def test_no_ground_is_drawn_inside_an_element_and_no_place_is_told_twice(box, shape, seed):
    x, y, w, h = box
    pack = Grounded()
    stage = stage_of(scene("meadow, hills", Element(1, "thing", Outline(shape, (x, y, x + w, y + h)), "red")), pack, seed)
    middle = np.s_[int(y + h / 2) : int(y + h / 2) + 2, int(x + w / 2) : int(x + w / 2) + 2]
    assert drawn(stage)[middle].max() < 0.05
    cells = stage.cells(pack.info)
    outlines = [area.outline for area in stage.areas(cells).values() if area.outline is not None]
    assert max(np.sum(outlines, 0).max(), 1) == pytest.approx(1, abs=1e-4)
    assert min(o.min() for o in outlines) >= 0


def test_another_seed_is_another_place_and_the_same_seed_the_same():
    pack = Grounded()
    one, same, other = (drawn(stage_of(scene("meadow"), pack, seed)) for seed in (1, 1, 2))
    assert np.array_equal(one, same)
    assert not np.array_equal(one, other)


def test_recipes_that_know_nothing_of_grounds_repeat_without_them():
    pack = Grounded()
    recipe = recipe_of(plan(scene("meadow"), Request("compose", PassSettings(seed=3)), pack), 3)
    assert recipe["settings"].pop("grounds")
    assert not request_from_json(recipe).settings.grounds


# --- the shipped model


def test_the_shipped_grounds_are_all_known_and_fit(own):
    grounds, means = read_grounds(*(own_pack_folder() / name for name in NAMES))
    kinds = {g.label for g in grounds}
    assert kinds >= {"mountains", "town", "forest", "meadow", "street", "lake", "floor", "wall", "tabletop"}
    assert all(not own.read(label)[1] for label in (*kinds, *means))
    assert all(((g.lines > 127).any() or g.needs == ("tabletop",)) and g.mask.any() for g in grounds)
    # Each in several forms, all different.
    assert all(len({g.lines.tobytes() for g in grounds if g.label == kind}) >= 6 for kind in kinds)


@pytest.mark.parametrize(("words", "sky"), [("town house", False), ("red balloon", True), ("white cottage", False)])
def test_things_on_the_sheet_lie_on_the_right_side_of_the_horizon(own, words, sky):
    e = Element(1, "thing", Outline("box", (150, 160, 230, 240) if not sky else (150, 20, 230, 90)), words)
    for seed in range(6):
        stage = stage_of(scene("clear day, meadow, forest", e), own, seed)
        assert labels(stage) == {"meadow", "forest"}
        ground = next(s for s in stage.grounds if s.box[3] == 256 and s.box[0] == 0)
        assert ground.box[1] < 240 if not sky else ground.box[1] > 80


def test_no_line_runs_along_the_lower_edge(own):
    for words in ("lake", "field", "street", "meadow", "beach", "snow field"):
        for seed in range(24):
            stage = stage_of(scene(f"clear day, {words}"), own, seed)
            lines = sketched_lines(stage.grounds, Rect(0, 0, 256, 256), 256, 256)
            along = ndimage.minimum_filter1d((lines[-6:] > 0.3).max(0).astype(np.uint8), 48)
            assert not along.any(), (words, seed)


def test_nothing_is_drawn_where_things_without_a_place_are_named(own):
    assert stage_of(scene("clear day, meadow"), own).grounds
    for words in ("clear day, meadow, red fox", "a fox and an owl in a meadow"):
        assert plan(scene(words), Request("compose", PassSettings(places=False)), own).stages[0].grounds == ()
        assert stage_of(scene(words), own).grounds


def test_the_horizon_is_painted_where_it_is_drawn(own):
    for seed in (1, 2):
        sheet = Sheet(320, 320, scene=SceneWords("clear day, meadow"))
        p = plan(sheet, Request("compose", PassSettings(steps=8, seed=seed)), own)
        y = round(next(s for s in p.stages[0].grounds if s.box[1] > 0).box[1])
        pixels = run_take(p, own, seed).pixels.astype(int)
        above, below = pixels[8 : y - 16, :, :3], pixels[y + 16 :, :, :3]
        assert (above[..., 2] > above[..., 1]).mean() > 0.9
        assert (below[..., 1] > below[..., 2]).mean() > 0.9


def test_the_command_leaves_them_out_when_told(tmp_path, capsys):
    layout = tmp_path / "l.toml"
    layout.write_text('format = 1\n[sheet]\nwidth = 256\nheight = 256\n[scene]\nwords = "clear day, meadow"\n[pass]\nsteps = 4\n')
    with pytest.raises(SystemExit):
        cli.main(["run", str(layout), "--help"])
    assert "--grounds, --no-grounds" in capsys.readouterr().out
    for name, more in (("with", []), ("without", ["--no-grounds"])):
        assert cli.main(["run", str(layout), "--out", str(tmp_path / name), *more]) == 0
    assert (tmp_path / "with" / "take-0.png").read_bytes() != (tmp_path / "without" / "take-0.png").read_bytes()


@pytest.mark.parametrize(
    "damage",
    [
        lambda d: d["grounds"].pop(),
        lambda d: d["grounds"][0].update(way="beside"),
        lambda d: d["grounds"][0].update(height=0),
        lambda d: d["grounds"][3].pop("label"),
        lambda d: d.update(unit=0),
        lambda d: d.update(means=3),
        lambda d: d["grounds"][0].update(between=[0.1]),
    ],
)
def test_mangled_grounds_of_a_pack_are_refused_in_a_sentence(tmp_path, damage):
    for name in NAMES:
        shutil.copy(own_pack_folder() / name, tmp_path / name)
    listed = tmp_path / NAMES[2]
    d = json.loads(listed.read_text())
    damage(d)
    listed.write_text(json.dumps(d))
    with pytest.raises(Refused, match="The pack's ground"):
        read_grounds(*(tmp_path / name for name in NAMES))


# --- shadows


@given(st.integers(10, 200), st.integers(10, 200), st.integers(20, 90), st.integers(30, 90))
def test_a_shadow_lies_under_a_thing_to_either_side_of_its_foot(x, y, w, h):
    shape = Outline("box", (x, y, x + w, y + h))
    if w > 3 * h:
        assert shadow_under(shape, 320) is None
        return
    spot = shadow_under(shape, 320)
    x0, y0, x1, y1 = spot.box
    assert abs((y0 + y1) / 2 - (y + h)) < 1e-6
    assert x - 0.02 * w <= x0 < x1 <= x + 1.03 * w
    assert 0 < (y1 - y0) / 2 < 0.1 * 320
    whole, picture = Rect(0, 0, 320, 320), np.full((320, 320, 3), 0.7, np.float32)
    done = shaded(picture, [spot], whole, np.ones((320, 320), np.float32))
    # Darker there, never lighter, nowhere else; less of it where less is asked for.
    assert (done <= picture).all()
    rows = np.flatnonzero((done < picture).any((1, 2)))
    assert y0 >= 319 or x0 >= 319 or len(rows)
    assert not len(rows) or (rows[0] >= y0 - 4 and rows[-1] <= y1 + 4)
    half = shaded(picture, [spot], whole, np.full((320, 320), 0.5, np.float32))
    assert np.abs((picture - half) - 0.5 * (picture - done)).max() < 1e-5
    assert (shaded(picture, [spot], whole, np.zeros((320, 320), np.float32)) == picture).all()


def test_what_stands_on_dry_ground_gets_a_shadow_and_nothing_else_does(own):
    box = Outline("box", (80, 140, 200, 250))

    def shadows(scene_words: str, words: str, **more) -> int:
        sheet = Sheet(320, 320, elements=(Element(1, "a", box, words, **more),), scene=SceneWords(scene_words))
        return len(plan(sheet, Request("compose", PassSettings(seed=1)), own).kind.drawn(sheet, Request("compose"), own, 1)[1].shadows)

    assert shadows("clear day, meadow", "fox") == 1
    assert shadows("clear day, meadow", "balloon") == 0
    assert shadows("clear day, lake", "red sailing boat") == 0
    assert shadows("clear day", "fox") == 0
    assert shadows("clear day, meadow", "fox", figure=False) == 0


def test_a_shadow_is_painted_beside_a_things_foot_and_not_over_it(own):
    box = Outline("box", (90, 120, 220, 250))
    sheet = Sheet(320, 320, elements=(Element(1, "a", box, "red tent"),), scene=SceneWords("clear day, meadow"))
    (stage,) = plan(sheet, Request("compose", PassSettings(seed=1)), own).stages
    painted = np.full((320, 320, 3), 0.6, np.float32)
    done = shaded(painted, stage.shadows, sheet.rect, np.ones((320, 320), np.float32))
    changed = (done < painted).any(-1)
    assert changed.any()
    (shape,) = stage.shapes.values()
    assert not changed[rasterise(shape, sheet.rect, 320, 320) > 0.99].any()
    assert np.flatnonzero(changed.any(1)).min() > shape.box[1] + 0.7 * (shape.box[3] - shape.box[1])


# --- in the window


def test_grounds_become_strokes_that_take_their_place(app, own):
    with opened(own) as window:
        say_scene(window, "clear day, street, town")
        assert stage_of(window.document.sheet, own).grounds
        menu(window, "Sketch, drawing or grounds as strokes")
        (drawing,) = window.document.sheet.guides(LINES)
        assert len(drawing.strokes) > 10
        assert (drawing.drawn > 100).any(0).mean() > 0.9
        assert plan(window.document.sheet, window.document.draft.request(), own).stages[0].grounds == ()
        key(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        assert window.document.sheet.guides(LINES) == ()


def test_grounds_are_seen_in_pencil_before_anything_is_painted(app, own):
    with opened(own) as window:

        def seen() -> np.ndarray:
            app.processEvents()
            image = window.view.grab().toImage().convertToFormat(window.view.grab().toImage().Format.Format_RGB888)
            data = image.constBits().asarray(image.sizeInBytes())
            return np.frombuffer(bytes(data), np.uint8).reshape(image.height(), -1).astype(int)

        bare = seen()
        say_scene(window, "clear day, street, town")
        drawn_in = seen()
        assert (drawn_in < bare - 20).mean() > 0.005
        window.passes.grounds.setChecked(False)
        assert (np.abs(seen() - bare) > 20).mean() < 0.002
        window.passes.grounds.setChecked(True)
        draw(window, Qt.Key.Key_R, "lake", 20, 150, 240, 240)
        # Who puts a ground somewhere by hand is told no other.
        assert window.document.sheet.elements[0].words == "lake"
        assert plan(window.document.sheet, window.document.draft.request(), own).stages[0].grounds == ()


# --- what shines in skies


def night() -> Sketch:
    """A drawn sky with a cloud and three stars."""
    lines = np.zeros((60, 120), np.uint8)
    lines[40, 20:90] = lines[46, 20:90] = lines[40:47, 20] = lines[40:47, 90] = 255
    for x, y in ((10, 10), (60, 20), (110, 50)):
        lines[y - 1 : y + 2, x - 1 : x + 2] = 255
        lines[y, x] = 0
    return Sketch((0.0, 0.0, 240.0, 120.0), lines, np.full((30, 60), 255, np.uint8))


def test_small_rings_in_a_sky_are_lights_and_large_ones_stay_drawn():
    spots = lights_in(night())
    assert sorted((round(x), round(y)) for x, y, _ in spots) == [(21, 21), (121, 41), (221, 101)]
    assert all(1 <= r <= 4 for _, _, r in spots)
    assert lights_in(without_lights(night())) == ()
    assert without_lights(night()).lines[40, 20:90].all()


@given(st.integers(-20, 100), st.integers(-20, 60), st.integers(30, 120), st.integers(30, 80))
@settings(max_examples=25)
def test_a_part_of_the_sky_has_the_lights_of_the_whole_and_only_they_change(x, y, w, h):
    shining = Lights((255, 250, 220), lights_in(night()), (replace(night(), lines=np.full((30, 60), 255, np.uint8)),))
    whole, part = Rect(-40, -40, 280, 200), Rect(x, y, x + w, y + h)
    dark = np.zeros((240, 320, 3), np.float32)
    over = shining.over(dark, whole, np.ones((240, 320), np.float32))
    assert over.max() > 0.9
    assert (over.max(-1) > 0).mean() < 0.01
    here = shining.over(np.zeros((h, w, 3), np.float32), part, np.ones((h, w), np.float32))
    assert np.abs(here - over[y + 40 : y + 40 + h, x + 40 : x + 40 + w]).max() < 1e-4
    assert (shining.over(dark, whole, np.zeros((240, 320), np.float32)) == dark).all()


def test_our_own_stars_shine_behind_things_and_hills_and_can_be_left_to_the_model(own):
    owl = Element(1, "owl", Outline("box", (40, 20, 200, 250)), "owl")
    sheet = scene("starry night, meadow, mountains", owl)
    stage = stage_of(sheet, own)
    (lights,) = stage.lights
    assert lights.spots
    size = sheet.rect, np.ones((256, 256), np.float32)
    shines = lights.over(np.zeros((256, 256, 3), np.float32), *size).max(-1)
    assert shines.max() > 0.5
    form = rasterise(stage.shapes[InElement(1)], sheet.rect, 256, 256) > 0.9
    assert shines[form].max() < 0.1
    assert not shines[200:].any()
    plain = stage_of(sheet, own, weather=False)
    assert drawn(plain).sum() > drawn(stage).sum()
    with_them, without = (
        run_take(plan(sheet, Request("compose", PassSettings(quick=True, weather=on)), own), own, 0).pixels for on in (True, False)
    )
    assert (with_them.astype(int) - without).max() > 60


# --- what things would cut


def rippled() -> tuple[Ground, Sketch]:
    """A lake whose upper edge is drawn, with ripples on the left, on the right and beyond the sheet, a post in it, and a long wave."""
    lines = np.zeros((80, 160), np.uint8)
    lines[2, 20:70] = lines[2, 90:140] = 255
    for y, x0, x1 in ((20, 10, 60), (20, 100, 150), (50, 10, 60), (70, 5, 155)):
        lines[y, x0:x1] = lines[y + 2, x0:x1] = lines[y : y + 3, x0] = lines[y : y + 3, x1 - 1] = 255
    lines[26:48, 30] = 255
    lake = Ground("lake", 4, BELOW, lines, np.full((40, 80), 255, np.uint8), 256)
    mask = lake.mask.copy()
    mask[:1] = 0
    return lake, Sketch((0.0, 0.0, 320.0, 160.0), lines, mask)


def cover(x0: float, y0: float, x1: float, y1: float) -> Sketch:
    return Sketch((x0, y0, x1, y1), np.zeros((9, 9), np.uint8), np.full((9, 9), 255, np.uint8))


def test_a_ripple_that_a_thing_would_cut_is_left_out_and_nothing_else():
    was = rippled()
    ((_, left),) = without_cut([was], [cover(100, 30, 130, 80)], Sheet(320, 160))
    want = was[1].lines.copy()
    want[20:23, 10:60] = 0
    np.testing.assert_array_equal(left.lines, want)


def test_what_is_high_or_long_or_the_edge_of_a_ground_stays_when_it_is_cut():
    was = rippled()
    for box in ((50, 60, 70, 80), (60, 130, 90, 160), (50, 0, 120, 8)):
        ((_, left),) = without_cut([was], [cover(*box)], Sheet(320, 160))
        np.testing.assert_array_equal(left.lines, was[1].lines)


@given(st.lists(st.tuples(st.integers(-60, 330), st.integers(-60, 170), st.integers(8, 200), st.integers(8, 120)), max_size=4))
def test_less_is_drawn_the_more_stands_there_and_a_thing_beyond_the_sheet_cuts_nothing(boxes):
    was, sheet = rippled(), Sheet(320, 160)
    covers = [cover(x, y, x + w, y + h) for x, y, w, h in boxes]
    seen = was[1].lines
    for n in range(len(covers) + 1):
        ((_, now),) = without_cut([was], covers[:n], sheet)
        assert ((now.lines == 0) | (now.lines == seen)).all()
        if n and not rounded(covers[n - 1].box).intersect(sheet.rect).area:
            np.testing.assert_array_equal(now.lines, seen)
        seen = now.lines


def test_of_our_own_lakes_ripples_some_are_left_out_where_boats_are(own):
    boats = [Element(i + 1, f"boat {i}", Outline("box", (80 * i + 10, 130, 80 * i + 70, 200)), "sailing boat") for i in range(3)]
    gone = 0
    for seed in range(6):
        empty, full = (stage_of(scene("lake, clear day", *those), own, seed) for those in ((), boats))
        gone += any((a.lines != b.lines).any() for a, b in zip(empty.grounds, full.grounds, strict=False))
    assert gone


def test_nothing_but_what_shines_is_drawn_in_our_own_nights(own):
    """Torn clouds were painted black."""
    skies = [g for g in own.grounds.named(("starry night", "meadow")) if g.light is not None]
    assert skies
    for g in skies:
        sky = Sketch((0.0, 0.0, 1.0, 1.0), g.lines, g.mask)
        assert lights_in(sky)
        assert not without_lights(sky).lines.any()
