"""Flakes and drops before the picture: the same wherever a part is painted again, other ones with every seed, none where none are said."""

from __future__ import annotations

import json
import shutil
from dataclasses import replace

import numpy as np
import pytest
from by_hand import opened, run
from hypothesis import given, settings
from hypothesis import strategies as st

from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe, settings_from_json
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.refused import Refused
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.fall import Fall, Whole
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.look_ink import LookInk
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.resize import framed
from waldrand.core.values.sheet import Sheet
from waldrand.packs.closed_form import ClosedFormPack
from waldrand.packs.manifest import read_manifest
from waldrand.packs.onnx_pack import own_pack_folder

HAIL = Fall("yellow", ("red",), 30, (0.01, 0.03), (0.0, 0.0), 0.0, (1, 2, 200), 1.0)
SLEET = Fall("blue", (), 30, (0.004, 0.006), (0.05, 0.1), -0.4, (200, 20, 20), 0.5)
WHOLE = Whole(3, 10.0, -4.0, 200.0)
YELLOW = Sheet(256, 256, scene=SceneWords("yellow"))


@pytest.fixture
def icy() -> ClosedFormPack:
    """A model in whose yellow hail falls."""
    pack = ClosedFormPack()
    pack.info = replace(pack.info, falls=(HAIL,))
    return pack


def composed(sheet, pack, seed=0, **more):
    request = Request("compose", PassSettings(steps=6, seed=seed, **more))
    return run_take(plan(sheet, request, pack), pack, seed)


def hail_in(pixels) -> np.ndarray:
    """Where there is nothing but hail."""
    return (np.abs(pixels[..., :3].astype(int) - HAIL.colour) <= 2).all(-1)


@given(st.sampled_from([HAIL, SLEET]), st.integers(-260, 260), st.integers(-260, 260), st.integers(1, 90), st.integers(1, 90))
@settings(max_examples=40)
def test_every_part_of_a_picture_has_the_spots_of_the_whole(fall, x, y, w, h):
    part, around = Rect(x, y, x + w, y + h), Rect(x - 40, y - 30, x + w + 25, y + h + 35)
    for small, large in zip(fall.on(WHOLE, part, h, w), fall.on(WHOLE, around, around.height, around.width), strict=True):
        assert np.abs(small - large[30 : 30 + h, 40 : 40 + w]).max() < 1e-4


@given(st.integers(0, 99), st.integers(-50, 50), st.integers(-50, 50))
@settings(max_examples=20)
def test_spots_go_where_the_picture_goes(seed, dx, dy):
    rect = Rect(0, 0, 120, 90)
    here = SLEET.on(Whole(seed, 5.0, 7.0, 150.0), rect, 90, 120)
    moved = Rect(dx, dy, 120 + dx, 90 + dy)
    there = SLEET.on(Whole(seed, 5.0 + dx, 7.0 + dy, 150.0), moved, 90, 120)
    assert all(np.abs(a - b).max() < 1e-4 for a, b in zip(here, there, strict=True))
    twice = SLEET.on(Whole(seed, 10.0, 14.0, 300.0), Rect(0, 0, 240, 180), 90, 120)
    assert all(np.abs(a - b).max() < 1e-4 for a, b in zip(here, twice, strict=True))


@given(st.floats(0, 1), st.integers(0, 9))
def test_what_falls_only_ever_comes_nearer_to_its_colour(amount, seed):
    rng = np.random.default_rng(seed)
    picture, spots = rng.random((12, 9, 3), np.float32), rng.random((12, 9), np.float32)
    colour = np.array(SLEET.colour) / 255
    done = SLEET.laid(picture, spots, np.full((12, 9), amount, np.float32))
    assert (np.abs(done - colour) <= np.abs(picture - colour) + 1e-5).all()
    assert (SLEET.laid(picture, 0 * spots, np.ones((12, 9), np.float32)) == picture).all()


def test_it_falls_where_words_say_so_and_nowhere_else(icy, closed):
    assert 0.005 < hail_in(composed(YELLOW, icy).pixels).mean() < 0.3
    for sheet, pack in (
        (replace(YELLOW, scene=SceneWords("green")), icy),
        (replace(YELLOW, scene=SceneWords("yellow, red")), icy),
        (YELLOW, closed),
    ):
        assert (composed(sheet, pack).pixels == composed(sheet, pack, weather=False).pixels).all()
    pane = Element(1, "pane", Outline("box", (0, 0, 128, 256)), "yellow")
    inside = hail_in(composed(replace(YELLOW, scene=SceneWords("green"), elements=(pane,)), icy).pixels)
    assert inside[:, :120].any()
    assert not inside[:, 140:].any()


@pytest.mark.parametrize(
    ("words", "more", "said"),
    [("yellow", {}, True), ("green", {}, False), ("yellow, red", {}, False), ("yellow", {"weather": False}, False)],
)
def test_the_forecast_says_what_falls(icy, words, more, said):
    p = plan(replace(YELLOW, scene=SceneWords(words)), Request("compose", PassSettings(**more)), icy)
    assert ("Lays over what is painted: yellow." in p.sentences) is said


@pytest.mark.parametrize(("strength", "said"), [(1.0, True), (0.3, False)])
def test_the_forecast_says_it_where_a_picture_is_painted_anew(icy, strength, said):
    sheet = composed(YELLOW, icy).laid_on(YELLOW, "whole")
    p = plan(sheet, Request("rework", PassSettings(strength=strength)), icy)
    assert ("Lays over what is painted: yellow." in p.sentences) is said


def test_the_forecast_says_that_our_own_stars_shine(own):
    nights = Sheet(256, 256, scene=SceneWords("starry night, meadow"))
    for words, said in (("starry night, meadow", True), ("clear day, meadow", False)):
        p = plan(replace(nights, scene=SceneWords(words)), Request("compose", PassSettings()), own)
        assert ("Lays over what is painted: lights in the sky." in p.sentences) is said


def test_another_seed_has_other_flakes_and_the_same_seed_the_same(icy):
    first, again, other = (hail_in(composed(YELLOW, icy, seed).pixels) for seed in (1, 1, 2))
    assert (first == again).all()
    assert (first & other).sum() < 0.5 * first.sum()


def test_a_part_that_is_painted_again_has_the_flakes_of_the_whole(icy):
    sheet = composed(YELLOW, icy, seed=4).laid_on(YELLOW, "whole")
    mask = Mask.from_array(np.pad(np.full((150, 150), 255, np.uint8), 53))
    asked = Request("inpaint", PassSettings(steps=6, strength=1.0, seed=9), "yellow")
    after = run_take(plan(replace(sheet, mask=mask), asked, icy), icy, 9).laid_on(replace(sheet, mask=mask), "again")
    inside = mask.read() == 255
    was, now = hail_in(sheet.flatten())[inside], hail_in(after.flatten())[inside]
    assert was.any()
    assert (was != now).mean() < 0.01
    assert (repeat(json.loads(json.dumps(picture_recipe(after))), icy).pixels == after.flatten()).all()


def test_what_is_added_beside_a_moved_picture_goes_on_with_its_flakes(icy):
    sheet = composed(YELLOW, icy, seed=4).laid_on(YELLOW, "whole")
    grown = framed(sheet, Rect(-64, 0, 256, 256))
    mask = np.zeros((256, 320), np.uint8)
    mask[:, :64] = 255
    asked = Request("inpaint", PassSettings(steps=6, strength=1.0, seed=9), "yellow")
    masked = replace(grown, mask=Mask.from_array(mask))
    new = hail_in(run_take(plan(masked, asked, icy), icy, 9).laid_on(masked, "beside").flatten())[:, :64]
    there, _ = HAIL.on(Whole(4, 64.0, 0.0, 256.0), grown.rect, 256, 320)
    assert (new == (there[:, :64] > 0.99)).mean() > 0.98
    assert new.any()


def test_a_light_rework_lays_none(icy, painted):
    sheet = replace(painted, scene=SceneWords("yellow"))

    def laid_at(strength: float) -> bool:
        with_it, without = (
            run_take(plan(sheet, Request("rework", PassSettings(steps=6, strength=strength, weather=on)), icy), icy, 0).pixels
            for on in (True, False)
        )
        return bool((with_it != without).any())

    assert not laid_at(0.5)
    assert laid_at(0.9)


def test_damaged_recipes_on_the_sheet_are_passed_over(icy):
    layer = PictureLayer(1, "odd", np.full((256, 256, 4), 255, np.uint8))
    made = composed(YELLOW, icy, seed=4).laid_on(YELLOW, "whole")
    recipe = made.layers[0].recipe | {"sheet": "large"}
    sheet = replace(made, layers=(layer, replace(made.layers[0], recipe=recipe)), mask=Mask.from_array(np.full((256, 256), 255, np.uint8)))
    asked = Request("inpaint", PassSettings(steps=6, strength=1.0, seed=9), "yellow")
    assert hail_in(run_take(plan(sheet, asked, icy), icy, 9).pixels).any()


def test_flakes_are_outlined_in_a_look_that_is_drawn_in_ink(icy):
    icy.info = replace(icy.info, inks=(LookInk("yellow", 1.0, (40, 240, 50)),))
    pixels = composed(YELLOW, icy).pixels.astype(int)
    assert (np.abs(pixels - (40, 240, 50)).max(-1) < 30).mean() > 0.002


def test_recipes_say_whether_it_fell_and_in_older_ones_it_did_not(icy):
    said = composed(YELLOW, icy).recipe["settings"]
    assert said["weather"] is True
    assert settings_from_json(said).weather
    assert not settings_from_json({k: v for k, v in said.items() if k != "weather"}).weather


def test_in_our_own_model_snow_and_rain_fall_out_of_doors(own):
    assert {fall.said for fall in own.info.falls} == {"snowfall", "rain"}
    for words, falls in (("snowing, meadow", True), ("rain, street", True), ("room, snowfall, wall, floor", False), ("meadow", False)):
        sheet = Sheet(384, 384, scene=SceneWords(words))
        with_it, without = (
            run_take(plan(sheet, Request("compose", PassSettings(quick=True, weather=on)), own), own, 0).pixels for on in (True, False)
        )
        assert bool((with_it != without).any()) is falls


@pytest.mark.parametrize(
    "stated",
    [
        "count = 0\nthick = [0.01, 0.02]\nlong = [0, 0]\naslant = 0\ncolour = [1, 2, 3]\ncovers = 1",
        "count = 9\nthick = [0.02, 0.01]\nlong = [0, 0]\naslant = 0\ncolour = [1, 2, 3]\ncovers = 1",
        "count = 9\nthick = [0.01, 0.02]\nlong = [0, 0]\naslant = 0\ncolour = [1, 2]\ncovers = 1",
        "count = 9\nthick = [0.01, 0.02]\nlong = [0, 0]\naslant = 0\ncolour = [1, 2, 3]",
    ],
)
def test_what_cannot_fall_so_is_refused(tmp_path, stated):
    text, part = (own_pack_folder() / "pack.toml").read_text("utf-8"), "[falling.snowfall]"
    shutil.copytree(own_pack_folder(), tmp_path / "pack")
    (tmp_path / "pack" / "pack.toml").write_text(f"{text[: text.index(part)]}{part}\n{stated}\n\n{text[text.index('[files]') :]}", "utf-8")
    with pytest.raises(Refused, match="pack"):
        read_manifest(tmp_path / "pack")


def test_it_can_be_left_out_in_the_window(app, icy, wait):
    with opened(icy) as w:
        w.document.open(YELLOW, w.opening.blank_draft())
        w.passes.weather.click()
        run(w, wait)
        assert not hail_in(w.tray.takes[-1].take.pixels).any()
        assert "weather" in w.passes.fold.line.text()
        w.passes.weather.click()
        run(w, wait)
        assert hail_in(w.tray.takes[-1].take.pixels).any()


def test_a_model_in_which_nothing_falls_does_not_ask(window):
    assert not window.passes.weather.isVisible()
