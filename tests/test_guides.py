"""Pictures that passes are told of: drawings, depth, looks, sketches; lines and depth of a picture; own noise; quick passes."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from scipy.ndimage import maximum_filter
from test_figures import corner

from waldrand import cli
from waldrand.core.packs import Figure, Quick
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe, recipe_of, request_from_json, sheet_before
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.picture.ink import ink, looks_photographed
from waldrand.core.picture.lines import lines_of
from waldrand.core.refused import Refused
from waldrand.core.seen.depth import depth_of
from waldrand.core.told.figures import FigureBook, bent, fitted
from waldrand.core.told.guides import Sketch, on_frame, sketched_lines
from waldrand.core.told.look import length, look_of
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.following import followed
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import DEPTH, GUIDES, LINES, LOOK, PictureLayer
from waldrand.core.values.outline import Outline
from waldrand.core.values.pencil import Pencil
from waldrand.core.values.sheet import Sheet
from waldrand.core.values.strokes import Stroke, drawn_stroke, thinned, traced
from waldrand.files.depths import read_depth
from waldrand.files.openraster import open_sheet, save_sheet
from waldrand.files.pictures import read_picture, write_png
from waldrand.packs.closed_form import ClosedFormPack

QUICK = PassSettings(steps=4, guidance=1.0, seed=3)


def rgba(grey: np.ndarray, alpha: np.ndarray | None = None) -> np.ndarray:
    grey = np.asarray(grey, np.uint8)
    return np.dstack([grey, grey, grey, np.full_like(grey, 255) if alpha is None else np.asarray(alpha, np.uint8)])


def cross() -> np.ndarray:
    """(256, 256) 0..255: a broad upright and a broad level bar."""
    out = np.zeros((256, 256), np.uint8)
    out[120:136], out[:, 120:136] = 255, 255
    return out


def told(role: str, pixels: np.ndarray, **more) -> Sheet:
    sheet = Sheet(256, 256, scene=SceneWords("green"))
    return sheet.with_layer(PictureLayer(sheet.next_key(), role, pixels, role=role, **more))


def take(sheet: Sheet, pack: ClosedFormPack, request: Request | None = None) -> np.ndarray:
    return run_take(plan(sheet, request or Request("compose", QUICK), pack), pack, 3).pixels.astype(int)


# --- what is a drawing


@pytest.mark.parametrize(
    "pixels",
    [rgba(255 - cross()), rgba(cross()), rgba(0 * cross(), cross()), rgba(0 * cross() + 200, cross()), rgba(230 - cross() // 2)],
    ids=["dark on light", "light on dark", "black by alpha", "pale by alpha", "grey on pale"],
)
def test_a_drawing_is_told_apart_by_itself(pixels):
    drawn = ink(pixels)
    assert (drawn[cross() > 0] > 0.95).all()
    assert (drawn[cross() == 0] < 0.05).all()
    assert not looks_photographed(drawn)


def test_nothing_is_drawn_on_even_paper():
    assert not ink(rgba(np.full((64, 64), 240))).any()
    assert looks_photographed(ink(rgba(np.random.default_rng(0).integers(0, 255, (64, 64)))))


# --- told to a pass


def test_a_pass_follows_a_drawing_as_much_as_it_counts(closed):
    plain, full, half = (take(told(LINES, rgba(255 - cross()), opacity=w), closed) for w in (0.0, 1.0, 0.25))
    dark = [p[124:132, 10:100].mean() for p in (plain, half, full)]
    assert dark[0] > dark[1] + 15 > dark[2] + 15
    assert np.abs(plain[10:100, 10:100] - full[10:100, 10:100]).max() == 0


def test_a_drawing_acts_in_its_share_of_the_steps(closed):
    whole, first = (take(told(LINES, rgba(255 - cross()), acts=a), closed)[124:132, 10:100].mean() for a in ((0.0, 1.0), (0.0, 0.3)))
    never = take(told(LINES, rgba(255 - cross()), opacity=0.0), closed)[124:132, 10:100].mean()
    assert whole < first <= never


def test_depth_and_looks_are_told(closed):
    ramp = np.repeat(np.arange(256)[:, None], 256, 1)
    deep = take(told(DEPTH, rgba(ramp)), closed)
    assert deep[200:].mean() > deep[:50].mean() + 40
    red = np.zeros((64, 64, 4), np.uint8)
    red[...] = (220, 30, 30, 255)
    lent = take(told(LOOK, red), closed)
    assert lent[..., 0].mean() > take(Sheet(256, 256, scene=SceneWords("green")), closed)[..., 0].mean() + 30


def test_a_look_counts_in_the_place_of_its_element(closed):
    red = np.zeros((64, 64, 4), np.uint8)
    red[...] = (220, 30, 30, 255)
    sheet = told(LOOK, red)
    e = Element(sheet.next_key(), "left", Outline("box", (0, 0, 128, 256)))
    sheet = sheet.with_element(e).with_layer(sheet.layers[0].changed(of=e.key))
    made = take(sheet, closed)
    assert made[:, :100, 0].mean() > made[:, 156:, 0].mean() + 40


def test_what_is_told_is_no_part_of_the_picture(closed, painted):
    sheet = painted
    for role in GUIDES:
        sheet = sheet.with_layer(PictureLayer(sheet.next_key(), role, rgba(cross()), role=role))
    assert (sheet.flatten() == painted.flatten()).all()
    assert not told(LINES, rgba(cross())).has_picture
    done = run_take(plan(sheet, Request("rework", replace(QUICK, strength=0.4)), closed), closed, 3).laid_on(sheet, "take")
    assert done.layers[1].recipe is not None
    assert picture_recipe(done)["passes"][0]["recipe"]["guides"][0]["what"] == LINES


def test_the_forecast_says_what_is_followed_and_what_looks_wrong(closed):
    p = plan(told(LINES, rgba(255 - cross()), opacity=0.5, acts=(0.0, 0.5)), Request("compose", QUICK), closed)
    assert any("Follows the drawing “drawing” at 0.5, from 0% to 50% of the steps" in s for s in p.sentences)
    noise = np.random.default_rng(0).integers(0, 255, (256, 256))
    for sheet, says in (
        (told(LINES, rgba(noise)), "hardly looks like a drawing"),
        (told(LINES, rgba(0 * noise + 255)), "Nothing is drawn"),
        (told(DEPTH, rgba(0 * noise + 90)), "equally near"),
        (told(LOOK, rgba(0 * noise + 90)), "of one colour"),
        (told(LINES, rgba(255 - cross()), x=900), "outside of what is computed"),
    ):
        assert any(says in w.text for w in plan(sheet, Request("compose", QUICK), closed).warnings), says


def test_a_drawing_beside_its_outline_is_told_and_mended(closed):
    e = Element(1, "fox", Outline("box", (10, 10, 60, 60)), "red")
    layer = Pencil.new(2, "mine", 256, 256, of=1).with_stroke(Stroke(((120, 120, 3), (200, 220, 3))))
    sheet = Sheet(256, 256, (layer,), (e,), SceneWords("white"))
    request = Request("compose", QUICK)
    (caution,) = [w for w in plan(sheet, request, closed).warnings if "beside its outline" in w.text]
    mended, _ = caution.mend.apply(sheet, request)
    assert mended.element(1).outline.box == pytest.approx((118, 118, 202, 222), abs=4)
    assert not [w for w in plan(mended, request, closed).warnings if "beside its outline" in w.text]


def test_a_look_that_the_words_contradict_is_told(closed):
    sheet = replace(told(LOOK, rgba(np.kron(cross()[::8, ::8], np.ones((8, 8))) // 6 + 5)), scene=SceneWords("bright, red"))
    assert any("looks like dark, the words say bright" in w.text for w in plan(sheet, Request("compose", QUICK), closed).warnings)
    same = replace(sheet, scene=SceneWords("dark, red"))
    assert not any("looks like" in w.text for w in plan(same, Request("compose", QUICK), closed).warnings)


def test_a_pack_that_cannot_be_told_leaves_it_out_and_says_so(closed):
    deaf = ClosedFormPack()
    deaf.info = replace(deaf.info, capabilities=frozenset({"regions", "inpaint"}))
    sheet = told(LINES, rgba(255 - cross()))
    p = plan(sheet, Request("compose", QUICK), deaf)
    assert any("cannot be told a drawing" in s for s in p.sentences)
    assert (run_take(p, deaf, 3).pixels == take(sheet.without_layer(sheet.layers[0].key), closed)).all()


@settings(max_examples=12)
@given(role=st.sampled_from(GUIDES), seed=st.integers(0, 9), weight=st.floats(0, 1), x=st.integers(-40, 40), begins=st.floats(0, 0.6))
def test_a_pass_that_was_told_repeats_from_its_recipe(closed, role, seed, weight, x, begins):
    grey = np.random.default_rng(seed).integers(0, 255, (200, 180))
    sheet = told(role, rgba(grey // 2 * 2), x=x, y=x, opacity=weight, acts=(begins, 1.0))
    done = run_take(plan(sheet, Request("compose", QUICK), closed), closed, seed).laid_on(sheet, "take")
    recipe = json.loads(json.dumps(picture_recipe(done)))
    assert (repeat(recipe, closed).pixels == done.flatten()).all()


def test_damaged_guides_of_a_recipe_are_told(closed):
    p = plan(told(LINES, rgba(255 - cross())), Request("compose", QUICK), closed)
    recipe = json.loads(json.dumps(recipe_of(p, 3)))
    good = recipe["guides"][0]
    for spoiled in (
        good | {"what": "smell"},
        good | {"acts": [1]},
        good | {"acts": [0.5, 0.2]},
        good | {"weight": 7},
        good | {"at": "here"},
        {k: v for k, v in good.items() if k != "pixels"},
        good | {"pixels": {"width": 3, "height": 2, "deflate": good["pixels"]["deflate"]}},
    ):
        with pytest.raises(Refused):
            sheet_before(recipe | {"guides": [spoiled]}, 256, 256, ())


# --- sketches


def sketching() -> ClosedFormPack:
    """The closed-form model, whose blue things have a drawing: a cross in a square."""
    pack = ClosedFormPack()
    lines = np.zeros((64, 64), np.uint8)
    lines[28:36], lines[:, 28:36] = 255, 255
    none: frozenset[str] = frozenset()
    pack.figures = FigureBook([Figure("blue", none, none, none, np.full((32, 32), 255, np.uint8), lines=lines)], lambda p: pack.read(p)[0])
    return pack


def boxed(**more) -> Sheet:
    e = Element(1, "thing", Outline("box", (48, 48, 208, 208)), "blue", **more)
    return Sheet(256, 256, elements=(e,), scene=SceneWords("white"))


def test_a_figures_drawing_is_told_unless_it_is_not_wanted_or_drawn_by_hand():
    pack = sketching()

    def darkest(sheet: Sheet, **more) -> float:
        p = plan(sheet, Request("compose", replace(QUICK, **more)), pack)
        return float(run_take(p, pack, 3).pixels[60:110, 120:136].astype(int).sum(-1).mean())

    told_ = darkest(boxed())
    assert told_ + 60 < darkest(boxed(sketch=0.3)) + 40 < darkest(boxed(sketch=0.0))
    assert darkest(boxed(), sketches=False) == darkest(boxed(sketch=0.0))
    corner_ = Pencil.new(9, "mine", 256, 256, of=1).with_stroke(Stroke(((60, 60, 3), (70, 70, 3))))
    assert darkest(boxed().with_layer(corner_)) == pytest.approx(darkest(boxed(sketch=0.0)), abs=40)
    horizon = Pencil.new(9, "horizon", 256, 256).with_stroke(Stroke(((0, 180, 3), (255, 180, 3))))
    assert plan(boxed().with_layer(horizon), Request("compose", QUICK), pack).stages[0].sketches
    round_ = Pencil.new(9, "round", 256, 256).with_stroke(Stroke(((60, 60, 3), (200, 200, 3))))
    assert not plan(boxed().with_layer(round_), Request("compose", QUICK), pack).stages[0].sketches


def test_near_sketches_cover_what_lies_behind_them():
    lines, mask = np.full((8, 8), 255, np.uint8), np.full((8, 8), 255, np.uint8)
    clear = np.zeros((8, 8), np.uint8)
    both = sketched_lines([Sketch((0, 0, 64, 64), lines, mask), Sketch((16, 16, 48, 48), clear, mask)], Rect(0, 0, 64, 64), 64, 64)
    assert both[5, 5] == 1
    assert both[32, 32] == 0


@settings(max_examples=30)
@given(seed=st.integers(0, 2**40), key=st.integers(0, 1000))
def test_a_bent_figure_keeps_its_box_and_most_of_its_form(seed, key):
    lines = np.kron(corner(32), np.ones((2, 2), np.uint8))
    none: frozenset[str] = frozenset()
    figure = Figure("blue", none, none, none, corner(32), lines=lines)
    made = bent(figure, seed, key)
    assert made.mask.shape == figure.mask.shape
    assert bent(figure, seed, key) is made
    same = (made.mask > 0) & (figure.mask > 0)
    assert same.sum() > 0.85 * (figure.mask > 0).sum()
    assert fitted(made, (0, 0, 50, 50)).lines is not None


# --- strokes


def test_a_stroke_covers_what_its_width_says():
    grey = np.zeros((40, 60), np.uint8)
    drawn_stroke(grey, Stroke(((10, 20, 4), (50, 20, 4))))
    assert (grey[18:22, 12:48] == 255).all()
    assert not grey[:16].any()
    assert grey.sum() / 255 == pytest.approx(4 * 40 + np.pi * 4, rel=0.05)
    thin = np.zeros((40, 60), np.uint8)
    drawn_stroke(thin, Stroke(((10, 20, 0.5), (50, 20, 0.5))))
    assert 0 < thin.max() < 200
    drawn_stroke(grey, Stroke(((0, 20, 30), (59, 20, 30)), rubs=True))
    assert not grey.any()


@settings(max_examples=40)
@given(st.lists(st.tuples(st.floats(-30, 90), st.floats(-30, 90), st.floats(0.2, 30)), min_size=1, max_size=8), st.booleans())
def test_any_stroke_is_drawn_and_kept(points, rubs):
    stroke = Stroke(tuple(points), rubs)
    layer = Pencil.new(1, "drawing", 64, 48).with_stroke(stroke)
    assert layer.drawn.shape == (48, 64)
    again = Pencil.from_json(1, "drawing", True, json.loads(json.dumps(layer.to_json())), layer.shown, None)
    assert np.abs(again.drawn.astype(int) - layer.drawn).max() <= 6
    for change in (Stroke.smoothed, Stroke.straightened):
        change(stroke)
    assert layer.moved(3, 4).drawn is layer.drawn


@pytest.mark.parametrize("points", [(), ((0, 0, 0),), ((0, 0, 1e9),), ((1e9, 0, 1),), ((0, float("nan"), 1),)])
def test_what_is_no_stroke_is_refused(points):
    with pytest.raises(Refused):
        Stroke(tuple(points))


def test_strokes_are_smoothed_and_straightened():
    rng = np.random.default_rng(2)
    shaky = Stroke(tuple((float(x), float(30 + rng.normal(0, 1.2)), 2.0) for x in range(0, 100, 2)))
    rough = lambda s: np.abs(np.diff([p[1] for p in s.points], 2)).mean()  # noqa: E731
    assert rough(shaky.smoothed()) < 0.2 * rough(shaky)
    assert shaky.smoothed().points[0] == shaky.points[0]
    assert len(shaky.straightened().points) == 2
    corner_ = Stroke((*((float(x), 0.0, 2.0) for x in range(60)), *((59.0, float(y), 2.0) for y in range(60))))
    assert [p[:2] for p in corner_.straightened().points] == [(0, 0), (59, 0), (59, 59)]


def test_a_drawing_is_traced_along_the_middle_of_its_lines():
    strokes = traced(cross() / 255.0, 2.0)
    grey = np.zeros((256, 256), np.uint8)
    for s in strokes:
        drawn_stroke(grey, s)
    assert (grey > 0).sum() < 0.4 * (cross() > 0).sum()
    assert (grey[128, 20:100] > 0).mean() > 0.9
    ring = np.hypot(*(np.mgrid[:80, :80] - 40))
    assert thinned(np.abs(ring - 30) < 4).sum() < 260


def test_a_drawing_scales_and_goes_with_its_element():
    e = Element(1, "thing", Outline("box", (40, 40, 80, 80)), "blue")
    layer = Pencil.new(2, "mine", 200, 200, of=1).with_stroke(Stroke(((40, 40, 2), (80, 80, 2))))
    before = Sheet(200, 200, (layer,), (e,))
    moved = followed(before, before.with_element(replace(e, outline=e.outline.moved(30, 10))))
    assert moved.layers[0].seen == layer.seen.moved(30, 10)
    larger = followed(before, before.with_element(replace(e, outline=e.outline.with_box((40, 40, 120, 120)))))
    r = larger.layers[0].seen
    assert (r.x0, r.y0, r.x1, r.y1) == pytest.approx((39, 39, 121, 121), abs=2)
    other = replace(before, layers=(layer.changed(of=None),))
    assert followed(other, other.with_element(replace(e, outline=e.outline.moved(30, 10)))).layers[0].seen == layer.seen


def test_files_keep_drawings_and_what_they_are_for(tmp_path):
    layer = Pencil.new(2, "mine", 120, 100, of=1).with_stroke(Stroke(((10.25, 12.5, 3), (90, 80, 1))))
    e = Element(1, "thing", Outline("box", (40, 40, 80, 80)), "blue", sketch=0.4)
    depth = PictureLayer(3, "deep", rgba(np.arange(12000).reshape(100, 120) % 250), role=DEPTH, acts=(0.1, 0.8))
    save_sheet(tmp_path / "a.ora", Sheet(120, 100, (layer.changed(opacity=0.7), depth), (e,)))
    sheet = open_sheet(tmp_path / "a.ora").sheet
    drawing, deep = sheet.layers
    assert isinstance(drawing, Pencil)
    assert (drawing.role, drawing.of, drawing.opacity, len(drawing.strokes)) == (LINES, 1, 0.7, 1)
    assert np.abs(drawing.drawn.astype(int) - layer.drawn).max() <= 2
    assert (deep.role, deep.acts) == (DEPTH, (0.1, 0.8))
    assert sheet.elements[0].sketch == 0.4


# --- lines, depth and looks of pictures


def flat_scene() -> np.ndarray:
    pixels = np.full((256, 256, 3), (90, 160, 220), np.uint8)
    pixels[150:] = (80, 140, 70)
    pixels[100:200, 90:170] = (200, 60, 50)
    return pixels


def test_lines_lie_on_the_edges_of_a_picture_and_nowhere_else():
    drawn = lines_of(flat_scene())
    assert drawn[100:200, 88:92].max(1).min() > 0.8
    assert not drawn[10:90, 10:80].any()
    thin = lines_of(flat_scene(), thin=True)
    assert 0 < (thin > 0.5).sum() < 0.7 * (drawn > 0.5).sum()
    specks = flat_scene()
    specks[20, 20] = 255
    assert not lines_of(specks)[10:40, 10:40].any()


@pytest.mark.parametrize("size", [(256, 256), (512, 512), (1024, 1024)])
def test_a_picture_is_drawn_alike_at_any_size(size):
    k = size[0] // 256
    share = float((lines_of(np.kron(flat_scene(), np.ones((k, k, 1), np.uint8))) > 0.5).mean())
    assert share == pytest.approx(float((lines_of(flat_scene()) > 0.5).mean()), rel=0.6)


def test_rough_ground_stays_paper_while_what_stands_out_is_drawn():
    rng = np.random.default_rng(0)
    rough = np.clip(120 + rng.normal(0, 30, (256, 256, 3)), 0, 255)
    rough[60:200, 60:200] = 250
    drawn = lines_of(rough.astype(np.uint8), only_strong=True)
    assert drawn[80:180, 57:64].max(1).mean() > 0.6
    assert (drawn[:40, :40] > 0.5).mean() < 0.12


def test_the_finders_depth_comes_nearer_downwards(own):
    from waldrand.demo import load_demo

    sheet = load_demo().layout.sheet
    made = run_take(plan(sheet, Request("compose", replace(PassSettings(), steps=6, seed=3)), own), own, 3).pixels
    depth = depth_of(made, own)
    assert depth.shape == made.shape[:2]
    assert 0 <= depth.min() <= depth.max() <= 1
    assert depth[-40:].mean() > depth[300:340].mean() > depth[:60].mean()


@settings(max_examples=20)
@given(seed=st.integers(0, 100), gain=st.floats(0.2, 3), shift=st.floats(-2, 2))
def test_a_look_tells_colours_and_not_places(seed, gain, shift):
    z = np.random.default_rng(seed).normal(size=(10, 12, 16)).astype(np.float32)
    told_ = look_of(z)
    assert told_.shape == (length(10),)
    assert look_of(z[:, ::-1, ::-1]) == pytest.approx(told_, abs=1e-4)
    other = look_of(gain * z + shift)
    assert other[:10] == pytest.approx(gain * told_[:10] + shift, abs=1e-3)
    # Relations and evenness are the surface, whatever the colours.
    assert other[20:] == pytest.approx(told_[20:], abs=2e-2)
    with pytest.raises(ValueError, match="cells or more"):
        look_of(z, np.zeros((12, 16), np.float32))


# --- own noise, quick


def test_a_picture_comes_back_from_its_own_noise_and_repeats(closed, painted):
    def made(**more) -> np.ndarray:
        request = Request("rework", replace(QUICK, strength=1.0, steps=8), more=tuple(more.items()))
        return take(painted, closed, request)

    before = painted.flatten()[..., :3].astype(int)
    far, own, held_ = (np.abs(m - before).mean() for m in (made(), made(own_noise=True, hold=0.0), made(own_noise=True, hold=0.6)))
    assert held_ < own < far
    assert (made(own_noise=True, hold=0.4) == made(own_noise=True, hold=0.4)).all()
    courses = [made(own_noise=True, hold=0.5, hold_course=c) for c in ("falling", "even", "rising")]
    assert (courses[0] != courses[2]).any()
    with pytest.raises(Refused, match="A hold goes"):
        made(own_noise=True, hold=2.0)
    # Held on to over a part of the steps it comes to lie between not held and held throughout.
    half = np.abs(made(own_noise=True, hold=0.6, hold_course="even", hold_to=0.5) - before).mean()
    throughout = np.abs(made(own_noise=True, hold=0.6, hold_course="even") - before).mean()
    assert throughout < half < own
    with pytest.raises(Refused, match="ends before it begins"):
        made(own_noise=True, hold_from=0.6, hold_to=0.4)


def kept_lines(sheet: Sheet, pack, strength: float, **more):
    """What a rework of a sheet is told of the picture's own lines: lines and mask, or None."""
    stage = plan(sheet, Request("rework", replace(QUICK, strength=strength), more=tuple(more.items())), pack).stages[0]
    return None if stage.drawn is None else stage.drawn(sheet, stage.frame)


@given(strength=st.floats(0.01, 1), own=st.floats(0.01, 1))
@settings(max_examples=20)
def test_a_rework_keeps_the_pictures_lines_where_it_is_not_painted_anew(strength, own):
    pack, picture = ClosedFormPack(), np.full((256, 256, 4), 255, np.uint8)
    picture[40:90, 150:200, :3] = picture[160:220, 30:90, :3] = 0
    element = Element(2, "box", Outline("box", (10, 140, 110, 240)), "red", strength=own)
    sheet = Sheet(256, 256, (PictureLayer(1, "ground", picture),), (element,), SceneWords("green"))
    assert kept_lines(sheet, pack, strength, own_lines=False) is None
    sketch = kept_lines(sheet, pack, strength)
    if min(strength, own) >= 0.8:
        assert sketch is None
        return
    assert sketch is not None
    for where, its in ((np.s_[30:100, 140:210], strength), (np.s_[150:230, 20:100], own)):
        assert bool((sketch.lines[where] > 200).any()) == (its < 0.8)
        assert bool(sketch.mask[where].any()) == (its < 0.8)


def test_lines_of_a_large_sheet_are_kept_at_the_size_that_is_computed(own):
    picture = np.full((3000, 3000, 4), 255, np.uint8)
    picture[800:2000, 900:2100, :3] = 30
    sheet = Sheet(3000, 3000, (PictureLayer(1, "ground", picture),), scene=SceneWords("snow"))
    sketch = kept_lines(sheet, own, 0.4)
    assert max(sketch.lines.shape) <= 1024
    assert sketch.box == (0, 0, 3000, 3000)
    k = sketch.lines.shape[0] / 3000
    rows = np.flatnonzero((sketch.lines > 200).any(1))
    assert rows[0] == pytest.approx(800 * k, abs=3)
    assert rows[-1] == pytest.approx(2000 * k, abs=3)


def test_a_strong_rework_by_the_shipped_model_keeps_the_shapes_of_things(own):
    picture = np.full((256, 256, 4), (150, 190, 120, 255), np.uint8)
    picture[90:200, 60:190, :3] = (240, 235, 225)
    picture[120:150, 80:105, :3] = picture[120:150, 145:170, :3] = (60, 80, 110)
    sheet = Sheet(256, 256, (PictureLayer(1, "ground", picture),), scene=SceneWords("meadow, white house"))
    lines = lines_of(picture) > 0.5

    def held(**more) -> float:
        request = Request("rework", PassSettings(steps=8, strength=0.7, seed=1), more=tuple(more.items()))
        made = run_take(plan(sheet, request, own), own, 1).pixels
        # Of the picture's lines, how many have one of the rework's beside them.
        return float((maximum_filter(lines_of(made), 5) > 0.5)[lines].mean())

    assert held() > 0.9
    assert held() > held(own_lines=False) + 0.1


def test_recipes_that_know_nothing_of_own_lines_repeat_without_them(closed, painted):
    p = plan(painted, Request("rework", replace(QUICK, strength=0.4)), closed)
    recipe = recipe_of(p, 3)
    assert recipe["more"].pop("own_lines")
    older = request_from_json(recipe)
    assert not older.value("own_lines")
    assert older.value("hold_course") == "falling"


def test_a_quick_pass_takes_the_packs_fewest_steps(closed, painted):
    p = plan(painted, Request("rework", PassSettings(steps=20, guidance=3, strength=1.0, quick=True)), closed)
    assert p.steps == closed.info.quick.steps
    assert p.calls == closed.info.quick.steps
    assert any("guidance 1" in s for s in p.sentences)


def test_a_quick_pass_is_led_beyond_each_answer_by_what_it_changed(placed):
    class Unsure(ClosedFormPack):
        """Answers more and more clearly; ahead of what it says it is led only in a quick pass."""

        def __init__(self, ahead: float) -> None:
            super().__init__()
            self.info = replace(self.info, quick=Quick(4, ahead))

        def answer(self, x, kept, hole, t, told, guides=None):
            clear = [self.info.schedule.clean(x, v, t) for v in super().answer(x, kept, hole, t, told, guides)]
            return [(x - np.float32(1 - t) * one) / np.float32(max(t, 1e-6)) for one in clear]

    def made(ahead: float, **more) -> np.ndarray:
        pack = Unsure(ahead)
        return run_take(plan(placed, Request("compose", PassSettings(seed=3, **more)), pack), pack, 3).pixels.astype(float)

    def colour(pixels: np.ndarray) -> float:
        return float((pixels.max(-1) - pixels.min(-1)).mean())

    plain, ahead, further = (made(k, quick=True) for k in (0.0, 0.5, 1.0))
    assert colour(plain) < colour(ahead) < colour(further)
    usual = {"steps": 4, "guidance": 1.0}
    assert (made(1.0, **usual) == made(0.0, **usual)).all()


# --- by command


def run_cli(*args: object) -> int:
    return cli.main([str(a) for a in args])


def commands_and_layouts_know(files, capsys, name: str, least: str, more: str, beyond: str) -> None:
    """A setting that drawings are followed by does something, is refused beyond its range, and is the same by a layout."""
    option, drawn = f"--{name.replace('_', '-')}", ("--drawing", files / "lines.png", "--steps", "4")
    for folder, much in (("a", least), ("b", more)):
        assert run_cli("run", files / "a.toml", *drawn, option, much, "--out", files / folder) == 0
    assert (files / "a" / "take-0.png").read_bytes() != (files / "b" / "take-0.png").read_bytes()
    assert run_cli("run", files / "a.toml", *drawn, option, beyond, "--out", files / "c") == 2
    assert "goes from 0 to" in capsys.readouterr().err
    (files / "l.toml").write_text((files / "a.toml").read_text() + f"[pass]\nsteps = 4\n{name} = {more}\n")
    assert run_cli("run", files / "l.toml", "--drawing", files / "lines.png", "--out", files / "d") == 0
    assert (files / "d" / "take-0.png").read_bytes() == (files / "b" / "take-0.png").read_bytes()


@pytest.fixture
def files(tmp_path):
    layout = tmp_path / "a.toml"
    layout.write_text('format = 1\n[sheet]\nwidth = 256\nheight = 256\n[scene]\nwords = "meadow"\n')
    for name, pixels in (
        ("lines", rgba(255 - cross())),
        ("small", rgba(255 - cross())[96:160, 96:160]),
        ("empty", rgba(np.full((256, 256), 255))),
        ("deep", rgba(np.repeat(np.arange(256)[:, None], 256, 1))),
        ("scene", np.dstack([flat_scene(), np.full((256, 256), 255, np.uint8)])),
    ):
        write_png(tmp_path / f"{name}.png", pixels)
    return tmp_path


def test_lines_and_depth_by_command(files, capsys):
    assert run_cli("lines", files / "scene.png", "--only-strong", "--out", files / "l.png") == 0
    drawn = read_picture(files / "l.png").pixels
    assert drawn[150, 88:92, 0].min() < 60
    assert drawn[20, 20, 0] == 255
    assert run_cli("lines", files / "empty.png", "--out", files / "no.png") == 2
    assert run_cli("depth", files / "scene.png", "--out", files / "d.png") == 0
    assert read_picture(files / "d.png").pixels.shape[:2] == (256, 256)
    assert run_cli("depth", files / "scene.png", "--out", files / "d.png") == 2
    assert "exists already" in capsys.readouterr().err


SLOPE = np.linspace(1000, 3000, 256 * 256).reshape(256, 256)


@pytest.mark.parametrize("near_black", [False, True])
@pytest.mark.parametrize("kind", ["png16", "tiff16", "tiff32", "float"])
def test_a_depth_finer_than_eight_bits_is_spread_from_the_farthest_to_the_nearest(tmp_path, kind, near_black):
    values = SLOPE.astype(np.uint16 if kind.endswith("16") else np.int32 if kind == "tiff32" else np.float32)
    if kind == "float":
        # The sky of some programs.
        values[0, :40] = np.inf
    path = tmp_path / ("d.png" if kind == "png16" else "d.tiff")
    Image.fromarray(values).save(path)
    picture = read_depth(path, near_black)
    grey = picture.pixels[..., 0].astype(int)
    assert (grey.min(), grey.max()) == (0, 255)
    known = grey.ravel()[40:]
    assert ((np.diff(known) <= 0) if near_black else (np.diff(known) >= 0)).all()
    assert len(np.unique(grey)) == 256
    assert any("finer than 8 bits" in note for note in picture.notes)
    if kind == "float":
        assert (grey[0, :40] == 0).all()


@pytest.mark.parametrize("near_black", [False, True])
def test_a_depth_of_eight_bits_is_taken_as_it_is(tmp_path, near_black):
    greys = np.arange(40, 90, dtype=np.uint8)[None].repeat(8, 0)
    Image.fromarray(greys).save(tmp_path / "d.png")
    read = read_depth(tmp_path / "d.png", near_black).pixels[..., 0]
    assert (read == (255 - greys if near_black else greys)).all()


@pytest.mark.parametrize(
    ("made", "says"),
    [
        (Image.fromarray(np.full((8, 8), 700, np.uint16)), "equally near"),
        (Image.fromarray(np.full((8, 8), np.inf, np.float32)), "equally near"),
        (Image.merge("LA", (Image.new("L", (8, 8), 3), Image.linear_gradient("L").resize((8, 8)))), "two channels"),
    ],
)
def test_what_is_no_depth_is_refused(files, tmp_path, capsys, made, says):
    made.save(tmp_path / "d.tiff")
    assert run_cli("run", files / "a.toml", "--depth", tmp_path / "d.tiff", "--out", tmp_path / "out") == 2
    assert says in capsys.readouterr().err
    with pytest.raises(Refused, match=says):
        read_depth(tmp_path / "d.tiff")


def test_a_take_is_told_by_command_and_repeats(files, capsys):
    out = files / "out"
    told_ = ("--drawing", f"{files / 'lines.png'}:0.8:0-0.9", "--depth", files / "deep.png", "--look", f"{files / 'scene.png'}:0.5")
    assert run_cli("run", files / "a.toml", *told_, "--quick", "--out", out) == 0
    said = capsys.readouterr().out
    assert "lines" in said
    assert run_cli("repeat", out / "take-0.png") == 0
    assert "identical" in capsys.readouterr().out.lower()
    assert run_cli("rework", out / "take-0.png", "--strength", "0.4", "--own-noise", "--hold", "0.3", "--out", files / "r.png") == 0


@pytest.mark.parametrize(
    ("args", "says"),
    [
        (("--drawing", "small.png"), "fit it with --fit-guides"),
        (("--drawing", "empty.png"), "Nothing is drawn"),
        (("--drawing", "lines.png:3"), "counts from 0 to 1"),
        (("--drawing", "lines.png:1:0.9-0.2"), "share of the steps"),
        (("--drawing", "none.png"), "There is no file"),
        (("--drawing", "lines.png:much"), "write FILE"),
        (("--depth", "empty.png"), "equally near"),
        (("--look", "none.png"), "There is no file"),
    ],
)
def test_what_cannot_be_told_is_refused_in_a_sentence(files, capsys, monkeypatch, args, says):
    monkeypatch.chdir(files)
    assert run_cli("run", "a.toml", *args, "--out", "out") == 2
    assert says in capsys.readouterr().err
    assert not (files / "out").exists() or not list((files / "out").iterdir())


def test_drawings_of_another_size_are_fitted_where_asked(files):
    assert run_cli("run", files / "a.toml", "--drawing", files / "small.png", "--fit-guides", "--quick", "--out", files / "o") == 0


def test_a_layout_says_what_is_told(files):
    (files / "b.toml").write_text(
        (files / "a.toml").read_text()
        + '[[element]]\nname = "fox"\nwords = "fox"\nbox = [0.2, 0.2, 0.8, 0.8]\nsketch = 0.5\n'
        + '[[layer]]\npicture = "lines.png"\nuse = "drawing"\nopacity = 0.6\nsteps = [0.0, 0.7]\nelement = "fox"\n'
    )
    from waldrand.files.layout import read_layout

    sheet = read_layout(files / "b.toml").sheet
    (layer,) = sheet.guides(LINES)
    assert (layer.opacity, layer.acts, layer.of) == (0.6, (0.0, 0.7), sheet.elements[0].key)
    assert sheet.elements[0].sketch == 0.5


def test_what_is_told_is_seen_by_the_frame_it_is_computed_in(closed):
    sheet = told(LINES, rgba(255 - cross()))
    p = plan(sheet, Request("compose", QUICK, own_frame=(0, 0, 128, 128)), closed)
    frame = p.stages[0].frame
    drawn = on_frame(p.sheet, frame, (), closed.info).at(0.5)
    assert drawn is not None
    assert drawn.lines is not None
    assert drawn.lines.shape == (frame.height // 4, frame.width // 4)
    assert drawn.lines[-2:].mean() > 0.5 > drawn.lines[: len(drawn.lines) // 2, : len(drawn.lines) // 2].mean()


def test_thin_lines_on_a_large_sheet_are_told_as_well(closed):
    small, large = (
        Sheet(n, n, scene=SceneWords("green")).with_layer(
            Pencil.new(1, "line", n, n).with_stroke(Stroke(((0.0, n / 2, 2.5), (float(n), n / 2, 2.5))))
        )
        for n in (256, 2048)
    )

    def strongest(sheet: Sheet) -> float:
        p = plan(sheet, Request("compose", QUICK), closed)
        told_ = on_frame(p.sheet, p.stages[0].frame, (), closed.info).at(0.5)
        assert told_ is not None
        assert told_.lines is not None
        return float(told_.lines.max())

    assert strongest(large) > 0.6 * strongest(small) > 0.1
