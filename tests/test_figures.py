"""FigureBook: the shapes of things, fitted into outlines that only say where, in core, files, recipes and the window."""

from __future__ import annotations

import json
import shutil
import tomllib
from dataclasses import replace

import numpy as np
import pytest
import tomli_w
from by_hand import draw, key, opened, run, say_scene, strip
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from PyQt6.QtCore import Qt

from waldrand import cli
from waldrand.core.packs import Figure
from waldrand.core.passes.fitting import figure_in_mask, fitted_figures, mask_figure, with_figures
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe, settings_from_json
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.seen.score import placement
from waldrand.core.told.figures import STRETCH, FigureBook, chosen, fitted
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline, freehand, rasterise
from waldrand.core.values.sheet import Sheet
from waldrand.desk.window import MainWindow
from waldrand.files.layout import read_layout, write_layout
from waldrand.files.openraster import open_sheet, save_sheet
from waldrand.packs.closed_form import ClosedFormPack
from waldrand.packs.figure_sheet import read_figures
from waldrand.packs.onnx_pack import OnnxPack, own_pack_folder

NONE: frozenset[str] = frozenset()


def corner(side: int = 32) -> np.ndarray:
    """The lower left half of a square."""
    return np.asarray(np.tril(np.full((side, side), 255, np.uint8)))


def with_shapes() -> ClosedFormPack:
    """The closed-form model, whose blue things are lower left or lower right halves of squares."""
    pack = ClosedFormPack()
    words = {"red": [1], "blue": [3], "left": [11], "right": [12], "white": [5], "blue left": [3, 11], "cold": [13]}
    read = lambda phrase: words.get(phrase, pack.read(phrase)[0])  # noqa: E731
    blue = Figure("blue", frozenset({"left"}), frozenset({"right"}), NONE, corner())
    frozen = Figure("blue", frozenset({"cold"}), frozenset({"cold"}), frozenset({"cold"}), np.full((8, 32), 255, np.uint8))
    pack.figures = FigureBook([blue, frozen], read)
    return pack


SHAPES = with_shapes()
COMPOSE = Request("compose", PassSettings(steps=6))
boxes = st.tuples(st.floats(-50, 400), st.floats(-50, 400), st.floats(4, 300), st.floats(4, 300)).map(
    lambda b: (b[0], b[1], b[0] + b[2], b[1] + b[3])
)


@given(boxes, st.integers(1, 96), st.integers(1, 96), st.booleans())
def test_a_figure_stays_in_its_place_and_keeps_its_form(box, w, h, hangs):
    figure = Figure("thing", NONE, NONE, NONE, np.full((h, w), 255, np.uint8), hangs)
    x0, y0, x1, y1 = fitted(figure, box).box
    slack = 1e-6
    assert box[0] - slack <= x0
    assert x1 <= box[2] + slack
    assert box[1] - slack <= y0
    assert y1 <= box[3] + slack
    assert (x0 + x1) / 2 == pytest.approx((box[0] + box[2]) / 2, abs=1e-3)
    ratio = (x1 - x0) / (y1 - y0) / (w / h)
    assert 1 / STRETCH - slack <= ratio <= STRETCH + slack
    # It is as large as the place allows, and stands on its foot unless it hangs.
    assert x1 - x0 == pytest.approx(box[2] - box[0]) or y1 - y0 == pytest.approx(box[3] - box[1])
    assert (y0 + y1) / 2 == pytest.approx((box[1] + box[3]) / 2, abs=1e-3) if hangs else y1 == pytest.approx(box[3])


def test_what_comes_in_rows_fills_a_wide_place():
    reed = Figure("reeds", NONE, NONE, NONE, corner(), rows=True)
    wide = fitted(reed, (0, 0, 330, 100))
    assert wide.box == pytest.approx((0, 0, 330, 100))
    assert np.array_equal(wide.mask, np.hstack([corner()] * 3))
    assert fitted(replace(reed, rows=False), (0, 0, 330, 100)).box[2] < 240
    assert np.array_equal(fitted(reed, (0, 0, 30, 100)).mask, corner())


@given(st.integers(0, 2**31 - 1), st.integers(0, 10_000))
def test_the_same_seed_and_element_get_the_same_figure(seed, number):
    figures = [Figure("thing", frozenset({str(i)}), NONE, NONE, np.full((10, 10 + i), 255, np.uint8)) for i in range(5)]
    assert chosen(figures, 1.2, seed, number) is chosen(figures, 1.2, seed, number)


def test_what_fits_its_place_is_chosen_of_all_that_do_each_comes():
    wide = [Figure("thing", frozenset({str(i)}), NONE, NONE, np.full((10, 30 + i), 255, np.uint8)) for i in range(3)]
    high = Figure("thing", NONE, NONE, NONE, np.full((30, 10), 255, np.uint8))
    got = [chosen([*wide, high], 3.0, seed, 1) for seed in range(60)]
    assert high not in got
    assert all(f in got for f in wide)


def test_words_choose_the_figure():
    figures = with_shapes().figures
    assert figures is not None
    assert {f.traits for f in figures.named(("blue",))} == {frozenset({"left"}), frozenset({"right"})}
    assert [f.traits for f in figures.named(("blue left",))] == [frozenset({"left"})]
    # What is said in a phrase of its own, or of the whole picture, counts too.
    assert [f.traits for f in figures.named(("blue", "right"))] == [frozenset({"right"})]
    assert {f.mask.shape for f in figures.named(("blue",), ("cold",))} == {(8, 32)}
    assert figures.named(("red",)) == ()
    assert np.array_equal(figures.named(("blue", "right"))[0].mask, corner()[:, ::-1])


def test_our_own_pack_has_a_figure_of_everything_it_lists(own):
    groups = ("plants", "buildings", "outdoors", "animals", "people", "vehicles", "in the sky", "in rooms", "small things")
    things = [t for g in groups for t in own.words.groups[g]]
    assert len(things) == 94
    for thing in things:
        found = own.figures.named((thing,))
        assert found
        assert {f.label for f in found} == {thing}
    # The crescent is not taken for a moon, and a horse looks where it is told to.
    assert {f.label for f in own.figures.named(("yellow crescent moon",))} == {"crescent moon"}
    left, right = own.figures.named(("horse, standing, facing left",)), own.figures.named(("horse standing", "facing right"))
    assert len(left) == len(right) == 1
    assert np.array_equal(left[0].mask, right[0].mask[:, ::-1])
    bare, leafy = own.figures.named(("birch",), ("winter",))[0], own.figures.named(("birch",), ("meadow",))[0]
    assert bare.mask.mean() < 0.9 * leafy.mask.mean()
    assert own.figures.named(("fox and owl",)) == own.figures.named(("fox", "owl")) == ()
    assert own.figures.named(("woman", "woman, red dress"))
    # Only a portrait is cut off at the shoulders.
    assert all("portrait" not in f.traits for f in own.figures.named(("woman",)))
    assert all("portrait" in f.traits for f in own.figures.named(("woman",), ("portrait",)))


def told_sheet(sheet: Sheet, pack: ClosedFormPack) -> Sheet:
    """A sheet as a pass of seed 3 tells it."""
    return with_figures(sheet, fitted_figures(sheet, COMPOSE.settings, pack, 3))


def test_figures_are_fitted_where_an_outline_only_says_where(placed):
    pack, box = with_shapes(), (16.0, 64.0, 112.0, 160.0)
    by_hand = freehand([(0, 0), (90, 10), (20, 80)])
    lake = replace(placed.element(1), outline=Outline("box", box))
    for element, has_one in (
        (lake, True),
        (replace(lake, outline=Outline("ellipse", box)), True),
        (replace(lake, figure=False), False),
        (replace(lake, hold=True), False),
        (replace(lake, words="red"), False),
        (replace(lake, words=""), False),
        (replace(lake, outline=by_hand), False),
        (replace(lake, outline=Outline("mask", box, mask=corner())), False),
    ):
        sheet = placed.with_element(element)
        told = told_sheet(sheet, pack)
        assert (told.element(1).outline is not element.outline) == has_one
        assert told.element(2).outline is sheet.element(2).outline
    x0, y0, x1, y1 = told_sheet(placed.with_element(replace(lake, outline=Outline("ellipse", box))), pack).element(1).outline.box
    assert box[0] < x0 < x1 < box[2]
    assert box[1] < y0 < y1 < box[3]


@pytest.mark.parametrize(
    "settings", [PassSettings(figures=False), PassSettings(method="blend"), PassSettings(method="text")], ids=lambda s: s.method
)
def test_other_ways_are_told_outlines_as_they_are(placed, settings):
    assert with_figures(placed, fitted_figures(placed, settings, with_shapes(), 1)) is placed


def test_a_light_rework_follows_the_picture_not_a_figure(painted, placed):
    sheet, pack = replace(painted, elements=placed.elements), with_shapes()
    assert fitted_figures(sheet, PassSettings(strength=0.4), pack, 1) == {}
    assert set(fitted_figures(sheet, PassSettings(strength=0.9), pack, 1)) == {1}
    anew = sheet.with_element(replace(sheet.element(1), strength=1.0))
    assert set(fitted_figures(anew, PassSettings(strength=0.4), pack, 1)) == {1}


@given(st.integers(0, 12), st.integers(0, 12), st.integers(3, 16), st.integers(3, 16), st.integers(0, 99))
def test_an_inpaints_figure_lies_in_its_mask(x, y, w, h, seed):
    place = np.zeros((16, 16), np.float32)
    place[y : y + h, x : x + w] = 1
    settings = PassSettings(strength=1.0, seed=seed)
    told = figure_in_mask(place, mask_figure(place, Sheet(256, 256), "blue", settings, SHAPES, seed))
    assert (told <= place).all()
    assert 0 < told.sum() < place.sum()


def blueness(pixels: np.ndarray) -> np.ndarray:
    """Blue against red of pixels (..., 3)."""
    return pixels[..., 2].astype(float) - pixels[..., 0]


def test_a_take_is_painted_in_the_shape_of_its_figure(placed):
    pack, sheet = with_shapes(), placed.with_element(replace(placed.element(1), words="blue, left"))
    take = run_take(plan(sheet, COMPOSE, pack), pack, 2)
    shape = rasterise(fitted_figures(sheet, COMPOSE.settings, pack, 2)[1], sheet.rect, 256, 256)
    box = rasterise(sheet.element(1).outline, sheet.rect, 256, 256)
    blue = blueness(take.pixels)
    assert blue[shape > 0.5].mean() > blue[(box > 0.5) & (shape < 0.1)].mean() + 60


def test_where_figures_say_what_stands_where_more_pixels_are_computed(placed):
    pack = with_shapes()
    pack.info = replace(pack.info, limits=replace(pack.info.limits, placed_area=320 * 320))
    plain = Request("compose", PassSettings(steps=6, figures=False))
    bare = replace(placed, elements=placed.elements[1:])
    assert plan(placed, COMPOSE, pack).frame.width == 320
    assert [plan(s, r, pack).frame.width for s, r in ((placed, plain), (bare, COMPOSE))] == [256, 256]
    take = run_take(plan(placed, COMPOSE, pack), pack, 1)
    assert take.pixels.shape == (256, 256, 3)
    done = take.laid_on(placed, "take")
    assert np.array_equal(repeat(json.loads(json.dumps(picture_recipe(done))), pack).pixels, done.flatten())
    scores = placement(done.flatten(), placed, pack)
    assert [s.landed for s in scores] == [True, True]
    # A picture that is reworked lightly says it as well; one that is painted anew does not.
    light, anew = (Request("rework", PassSettings(strength=strength, figures=False)) for strength in (0.4, 0.9))
    assert [plan(done, request, pack).frame.width for request in (light, anew)] == [320, 256]
    stubborn = done.with_element(replace(done.elements[0], strength=0.9))
    assert plan(stubborn, light, pack).frame.width == 256


def test_what_the_finer_whole_shows_well_enough_is_not_painted_from_nearer():
    pack, request = with_shapes(), replace(COMPOSE, small_nearer=True)
    sheet = Sheet(256, 256, elements=(Element(7, "lake", Outline("box", (84, 84, 172, 172)), "blue"),), scene=SceneWords("white"))
    assert plan(sheet, request, pack).request.nearer == ((7, None),)
    pack.info = replace(pack.info, limits=replace(pack.info.limits, placed_area=448 * 448))
    assert plan(sheet, request, pack).request.nearer == ()


def test_seeds_decide_which_way_it_looks(placed):
    pack = with_shapes()
    masks = {s: fitted_figures(placed, COMPOSE.settings, pack, s)[1].mask for s in range(12)}
    assert len({m.tobytes() for m in masks.values() if m is not None}) == 2
    own_seed = placed.with_element(replace(placed.element(1), seed=5))
    assert len({fitted_figures(own_seed, COMPOSE.settings, pack, s)[1].mask.tobytes() for s in range(12)}) == 1


def boxed_mask(x0: int, y0: int, x1: int, y1: int) -> Mask:
    grey = np.zeros((256, 256), np.uint8)
    grey[y0:y1, x0:x1] = 255
    return Mask.from_array(grey)


def test_an_inpaint_fits_its_figure_into_a_mask_that_only_says_where(painted):
    pack = with_shapes()
    loose = replace(painted, mask=boxed_mask(48, 48, 208, 208))
    drawn = np.zeros((256, 256), np.uint8)
    drawn[48:208, 48:208] = np.asarray(Image.fromarray(corner()).resize((160, 160)))
    shaped = replace(painted, mask=Mask.from_array(drawn))
    request = Request("inpaint", PassSettings(steps=6, strength=1.0), "blue, left")
    said = [" ".join(plan(s, request, pack).sentences) for s in (loose, shaped)]
    assert "Fits a figure of “blue, left” into the mask" in said[0]
    assert "figure" not in said[1]
    blue = blueness(run_take(plan(loose, request, pack), pack, 1).pixels)
    whole = blueness(run_take(plan(loose, replace(request, settings=replace(request.settings, figures=False)), pack), pack, 1).pixels)
    at = plan(loose, request, pack).frame.rect
    far, near = (
        (slice(64 - at.y0, 96 - at.y0), slice(160 - at.x0, 192 - at.x0)),
        (slice(150 - at.y0, 180 - at.y0), slice(70 - at.x0, 100 - at.x0)),
    )
    assert blue[near].mean() > blue[far].mean() + 40
    assert abs(whole[near].mean() - whole[far].mean()) < 40
    weak = replace(request, settings=replace(request.settings, strength=0.5))
    assert not any("figure" in s for s in plan(loose, weak, pack).sentences)


def test_the_forecast_names_what_gets_a_figure(placed):
    pack = with_shapes()
    assert "Fits a figure of “lake”." in plan(placed, COMPOSE, pack).sentences
    plain = Request("compose", PassSettings(figures=False))
    assert not any("figure" in s for s in plan(placed, plain, pack).sentences)


def test_an_outline_of_another_form_is_told_and_mended(placed):
    pack, sheet = with_shapes(), placed.with_element(replace(placed.element(1), outline=Outline("box", (4, 100, 252, 160))))
    caution = next(w for w in plan(sheet, COMPOSE, pack).warnings if "another form" in w.text)
    assert caution.about == 1
    assert "30 %" in caution.text
    mended, request = caution.mend.apply(sheet, COMPOSE)
    assert not any("another form" in w.text for w in plan(mended, request, pack).warnings)
    assert mended.element(1).outline.box == pytest.approx(fitted_figures(sheet, COMPOSE.settings, pack, 0)[1].box)


def test_a_recipe_repeats_with_its_figures_and_older_ones_without(placed):
    pack = with_shapes()
    pictures = {}
    for figures in (True, False):
        request = Request("compose", PassSettings(steps=6, figures=figures))
        done = run_take(plan(placed, request, pack), pack, 4).laid_on(placed, "take")
        pictures[figures] = done.flatten()
        recipe = json.loads(json.dumps(picture_recipe(done)))
        assert np.array_equal(repeat(recipe, pack).pixels, pictures[figures])
        del recipe["passes"][0]["recipe"]["settings"]["figures"]
        for e in recipe["passes"][0]["recipe"]["elements"]:
            del e["figure"]
        assert np.array_equal(repeat(recipe, pack).pixels, pictures[figures]) != figures
    assert not np.array_equal(pictures[True], pictures[False])


def test_files_keep_whether_an_element_wants_a_figure(placed, tmp_path):
    sheet = placed.with_element(replace(placed.element(1), figure=False))
    write_layout(tmp_path / "a.toml", sheet, PassSettings(figures=False))
    again = read_layout(tmp_path / "a.toml")
    assert [e.figure for e in again.sheet.elements] == [False, True]
    assert not again.settings.figures
    save_sheet(tmp_path / "a.ora", sheet)
    assert [e.figure for e in open_sheet(tmp_path / "a.ora").sheet.elements] == [False, True]


def test_the_command_line_leaves_figures_out_when_told(tmp_path, capsys):
    sheet = Sheet(512, 512, elements=(Element(1, "fox", Outline("box", (100, 200, 400, 400)), "fox"),), scene=SceneWords("meadow"))
    write_layout(tmp_path / "a.toml", sheet)
    assert cli.main(["forecast", str(tmp_path / "a.toml"), "--json"]) == 0
    assert any("figure" in s for s in json.loads(capsys.readouterr().out)["sentences"])
    for extra, differs in (([], False), (["--no-figures"], True)):
        out = tmp_path / f"takes{differs}"
        assert cli.main(["run", str(tmp_path / "a.toml"), "--steps", "1", "--out", str(out), *extra]) == 0
    a, b = (np.asarray(Image.open(tmp_path / f"takes{x}" / "take-0.png")) for x in (False, True))
    assert not np.array_equal(a, b)


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        (lambda d: d.pop("side"), "cannot be read"),
        (lambda d: d.update(side=100_000), "too many or too large"),
        (lambda d: d["figures"][0].update(width=0), "figure 1"),
        (lambda d: d["figures"][0].update(height=97), "figure 1"),
        (lambda d: d["figures"][0].pop("needs"), "cannot be read"),
        (lambda d: d.update(figures=d["figures"] * 30), "fewer than"),
        (lambda d: d.update(figures=3), "cannot be read"),
        (lambda d: d["figures"][3].update(below=1), "wears"),
        (lambda d: d["figures"][3].update(below=-0.1), "wears"),
        (lambda d: d["figures"][3].update(below="chin"), "wears"),
    ],
)
def test_damaged_figures_are_told(tmp_path, spoil, says):
    for name in ("figures.png", "figures.json"):
        shutil.copy(own_pack_folder() / name, tmp_path / name)
    d = json.loads((tmp_path / "figures.json").read_text())
    assert len(read_figures(tmp_path / "figures.png", tmp_path / "figures.json")) == len(d["figures"])
    spoil(d)
    (tmp_path / "figures.json").write_text(json.dumps(d))
    with pytest.raises(ValueError, match=says):
        read_figures(tmp_path / "figures.png", tmp_path / "figures.json")


def test_a_pack_without_figures_is_a_pack(tmp_path):
    shutil.copytree(own_pack_folder(), tmp_path / "pack")
    manifest = tmp_path / "pack" / "pack.toml"
    text = manifest.read_text()
    manifest.write_text(tomli_w.dumps({k: v for k, v in tomllib.loads(text).items() if k != "figures"}))
    assert OnnxPack(tmp_path / "pack").figures is None
    manifest.write_text(text.replace('list = "figures.json"', 'list = "elsewhere.json"'))
    with pytest.raises(ValueError, match=r"elsewhere\.json"):
        OnnxPack(tmp_path / "pack")


@pytest.fixture
def shaping(app):
    with opened(with_shapes()) as w:
        yield w


def hatched(w: MainWindow) -> np.ndarray:
    """How far each screen pixel of the sheet is from what it is without outlines, (h, w)."""
    from waldrand.desk.look.images import from_image

    def seen() -> np.ndarray:
        port = w.view.viewport()
        assert port is not None
        return from_image(port.grab().toImage())[..., :3].astype(int)

    with_outlines = seen()
    w.view.canvas.show_outlines(False)
    without = seen()
    w.view.canvas.show_outlines(True)
    return np.abs(with_outlines - without).sum(-1)


def test_the_sheet_shows_the_figure_and_the_strip_leaves_it_out(shaping):
    w = shaping
    say_scene(w, "white")
    e = draw(w, Qt.Key.Key_R, "blue, left", 32, 32, 224, 224)
    w.view.selection.choose(None)

    def ink(x: float, y: float) -> float:
        at = w.view.mapFromScene(x, y)
        return float(hatched(w)[at.y() - 14 : at.y() + 14, at.x() - 14 : at.x() + 14].mean())

    assert ink(70, 190) > 2 * ink(190, 90)
    strip(w, e.key).figure.setChecked(False)
    assert w.document.sheet.element(e.key).figure is False
    assert ink(190, 90) > 0.6 * ink(70, 190)
    w.document.undo.undo()
    assert w.document.sheet.element(e.key).figure
    w.refresh_forecast()
    assert "Fits a figure" in w.passes.forecast.text()
    w.passes.figures.setChecked(False)
    w.refresh_forecast()
    assert "Fits a figure" not in w.passes.forecast.text()
    assert w.view.figures() == {}


def test_a_figure_becomes_the_outline_to_be_worked_on_by_hand(shaping, wait):
    w = shaping
    say_scene(w, "white")
    e = draw(w, Qt.Key.Key_R, "blue, left", 32, 32, 224, 224)
    told = w.view.figures()[e.key]
    run(w, wait)
    before = w.tray.current.take.pixels
    key(w, Qt.Key.Key_F, Qt.KeyboardModifier.ShiftModifier)
    now = w.document.sheet.element(e.key).outline
    assert now.shape == "mask"
    assert now.box == told.box
    assert not strip(w, e.key).figure.isVisible()
    run(w, wait)
    # The same shape was told, so the same picture comes out.
    assert np.array_equal(w.tray.current.take.pixels, before)
    key(w, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert w.document.sheet.element(e.key).outline.shape == "box"


def test_what_has_no_figure_is_said(shaping):
    w = shaping
    draw(w, Qt.Key.Key_R, "red", 32, 32, 224, 224)
    key(w, Qt.Key.Key_F, Qt.KeyboardModifier.ShiftModifier)
    assert "needs a rectangle or an ellipse" in w.passes.status.text()
    assert w.document.sheet.elements[0].outline.shape == "box"


def test_another_figure_comes_by_a_seed_of_its_own(shaping):
    w = shaping
    say_scene(w, "white")
    e = draw(w, Qt.Key.Key_R, "blue", 32, 32, 224, 224)
    before = w.view.figures()[e.key].mask
    w.outlines.another_figure()
    assert w.document.sheet.element(e.key).seed is not None
    assert not np.array_equal(w.view.figures()[e.key].mask, before)
    # Another seed of the pass leaves it as it is.
    now = w.view.figures()[e.key].mask
    w.passes.seed.setValue(40)
    assert np.array_equal(w.view.figures()[e.key].mask, now)
    strip(w, e.key).words.setText("blue left")
    strip(w, e.key).words.editingFinished.emit()
    w.outlines.another_figure()
    assert "another figure" in w.passes.status.text()


# --- seen from near by


def told_of(own: OnnxPack, words: str, box: tuple[float, float, float, float], settings: PassSettings | None = None) -> set[str]:
    """The words that are told of one element on a sheet, whoever said them."""
    sheet = Sheet(512, 512, elements=(Element(1, "a", Outline("box", box), words),), scene=SceneWords("sunset, lake"))
    (stage,) = plan(sheet, Request("compose", settings or PassSettings()), own).stages
    return {word for one in stage.told if one.about == 1 for word in one.phrase.split()}


@pytest.mark.parametrize(
    ("words", "box", "near"),
    [
        ("man", (30, 20, 480, 512), True),
        ("woman, red coat", (100, 120, 420, 512), True),
        # It stands before the lower edge; it is small; it is narrow, as who stands is.
        ("man", (30, 20, 480, 500), False),
        ("man", (100, 330, 300, 512), False),
        ("man", (200, 20, 380, 512), False),
        # Whose legs are said to be seen, and what has no such figures.
        ("man, sitting", (30, 20, 480, 512), False),
        ("girl, back view", (30, 20, 480, 512), False),
        ("horse", (30, 20, 480, 512), False),
    ],
)
def test_a_large_broad_place_at_the_lower_edge_is_a_portraits(own, words, box, near):
    assert ("portrait" in told_of(own, words, box)) is near


def test_what_a_portraits_figure_shows_is_told_once_and_not_against_what_is_said(own):
    sides = [told_of(own, "man", (30, 20, 480, 512), PassSettings(seed=seed)) for seed in range(12)]
    assert any({"side", "facing"} <= one for one in sides)
    assert any({"front"} <= one for one in sides)
    assert all({"side", "front"}.isdisjoint(one) or not {"side", "front"} <= one for one in sides)
    assert "front" not in told_of(own, "man, side view, facing left", (30, 20, 480, 512))
    assert "right" not in told_of(own, "man, side view, facing left", (30, 20, 480, 512))


def test_older_recipes_know_no_places_of_portraits(own):
    said = {"steps": 6, "figures": True, "sketches": True}
    assert not settings_from_json(said).near_views
    assert settings_from_json(said | {"near_views": True}).near_views
    assert told_of(own, "man", (30, 20, 480, 512), settings_from_json(said)) == {"man"}


def test_windows_and_curtains_have_figures_and_lit_windows_of_a_house_are_none(own):
    for words in ("window", "blue curtains"):
        assert {f.label for f in own.figures.named((words,))} == {words.split()[-1]}
        assert all(f.hangs and f.lines is not None and f.lines.any() for f in own.figures.named((words,)))
    assert {f.label for f in own.figures.named(("cottage", "lit windows"))} == {"cottage"}


# --- clothes


def lines_of(own, words: str, settings: PassSettings | None = None) -> dict[str, np.ndarray]:
    """What is told of somebody in a high box: phrases, and where each counts."""
    sheet = Sheet(
        512, 512, elements=(Element(1, "anna", Outline("box", (180, 90, 330, 490)), words),), scene=SceneWords("clear day, meadow")
    )
    stage = plan(sheet, Request("compose", settings or PassSettings()), own).stages[0]
    return {line.phrase: line.outline for line in stage.voices(own)[0].told if line.owner == "anna"}


@pytest.mark.parametrize("seed", range(4))
@pytest.mark.parametrize("words", ["girl, red dress", "red dress girl", "girl, standing, red dress", "girl, blonde hair, red dress"])
def test_clothes_are_told_below_the_head_alone(own, words, seed):
    """Else a red dress makes red hair."""
    told = lines_of(own, words, PassSettings(seed=seed))
    ((all_over, outline),) = lines_of(own, words, PassSettings(seed=seed, clothes_apart=False)).items()
    (head,), (body,) = ([told[p] for p in told if ("dress" in p) is worn] for worn in (False, True))
    (bare,) = (p for p in told if "dress" not in p)
    assert set(bare.split()) == set(all_over.split()) - {"red", "dress"}
    np.testing.assert_allclose(head + body, outline, atol=1e-6)
    rows = np.arange(len(outline))
    assert (rows @ head).sum() / head.sum() < (rows @ body).sum() / body.sum()
    assert 0.05 * outline.sum() < head.sum() < 0.6 * outline.sum()


@pytest.mark.parametrize("words", ["girl", "girl, blonde hair", "red fox", "white cottage, dress"])
def test_whoever_says_no_clothes_of_a_person_is_told_as_ever(own, words):
    told = lines_of(own, words)
    assert told.keys() == lines_of(own, words, PassSettings(clothes_apart=False)).keys()
    assert len(told) == 1


def test_clothes_stay_with_their_wearers_when_a_model_reads_no_more(own):
    boxes = [(20 + 60 * (i % 8), 40 + 120 * (i // 8), 70 + 60 * (i % 8), 150 + 120 * (i // 8)) for i in range(20)]
    people = tuple(Element(i + 1, f"p{i}", Outline("box", box), "man, blue coat") for i, box in enumerate(boxes))
    told = plan(Sheet(512, 512, elements=people), Request("compose", PassSettings()), own).stages[0].voices(own)[0].told
    assert len(told) == len(people)
    assert len(told) <= own.info.rows
    assert {line.phrase for line in told} == {"man blue coat"}


def test_older_recipes_tell_clothes_all_over():
    assert not settings_from_json({"steps": 6, "figures": True}).clothes_apart
    assert settings_from_json({"steps": 6, "clothes_apart": True}).clothes_apart
