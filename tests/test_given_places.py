"""What only the scene's words name gets a place of its own in every take: the one that making an element of it would give."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from by_hand import key, opened, say_scene
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import Qt
from test_placing import PACK, PLACES, scene, told_places

from waldrand import cli
from waldrand.core.noise.noise import LARGEST_SEED
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe, request_from_json
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.told.placing import with_places
from waldrand.core.told.said import InElement
from waldrand.core.values.element import Element
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.packs.closed_form import ClosedFormPack


def compose(**settings) -> Request:
    return Request("compose", PassSettings(steps=4, **settings))


def told_in(sheet: Sheet, request: Request, pack=PACK) -> set[str]:
    """The phrases that are told in places of their own."""
    return {one.phrase for one in plan(sheet, request, pack).stages[0].told if isinstance(one.where, InElement)}


@given(
    st.integers(0, LARGEST_SEED), st.sampled_from([(256, 256), (320, 192), (192, 320)]), st.permutations(["red", "blue", "yellow", "white"])
)
def test_a_take_is_that_of_the_elements_that_ctrl_l_makes(seed, size, words):
    sheet = scene(", ".join(words), *size)
    by_itself = plan(sheet, compose(seed=seed), PACK).stages[0]
    as_elements = plan(with_places(sheet, PLACES, seed, 8), compose(seed=seed), PACK).stages[0]
    assert by_itself.told == as_elements.told
    cells = by_itself.cells(PACK.info)
    mine, theirs = by_itself.areas(cells), as_elements.areas(cells)
    assert mine.keys() == theirs.keys()
    for where, area in mine.items():
        assert np.array_equal(area.outline, theirs[where].outline)


def test_every_seed_has_places_of_its_own_and_the_same_each_time():
    p = plan(scene("blue, white"), compose(), PACK)

    def where(seed):
        stage = p.stages_by(seed, PACK)[0]
        of = next(one.where for one in stage.told if one.phrase == "blue")
        return stage.areas((32, 32))[of].outline.tobytes()

    assert len({where(seed) for seed in range(8)}) > 2
    assert where(3) == where(3)
    a, b = (run_take(p, PACK, 5).pixels for _ in range(2))
    assert np.array_equal(a, b)
    assert not np.array_equal(a, run_take(plan(scene("blue, white"), compose(places=False), PACK), PACK, 5).pixels)


def test_elements_stay_as_they_are_and_what_is_named_comes_beside_them():
    own = Element(4, "mine", Outline("box", (150.0, 20.0, 240.0, 90.0)), "yellow")
    sheet = replace(scene("red, white"), elements=(own,), last_key=9)
    p = plan(sheet, compose(), PACK)
    assert told_in(sheet, compose()) == {"yellow", "red"}
    assert p.sheet.elements == (own,)
    assert any("only words name" in s and "“red”" in s and "“mine”" not in s for s in p.sentences)
    assert not any("no place" in c.text for c in p.warnings)
    # More than the model places at a time are left to the words, and the forecast says so.
    full = replace(sheet, elements=tuple(replace(own, key=k, name=f"e{k}") for k in range(1, PACK.info.elements + 1)))
    assert told_in(full, compose()) == {"yellow"}
    assert any("“red” has no place" in c.text for c in plan(full, compose(), PACK).warnings)


@pytest.mark.parametrize("more", ["", ", red"])
def test_what_is_an_element_already_is_not_painted_twice(more):
    own = Element(4, "mine", Outline("box", (150.0, 20.0, 240.0, 90.0)), "red, standing")
    sheet = replace(scene(f"white, red{more}"), elements=(own,), last_key=4)
    stage = plan(sheet, compose(), PACK).stages[0]
    told = [(one.phrase, one.where) for one in stage.told if "red" in one.phrase]
    assert ("red", InElement(4)) in told
    assert len(told) == (2 if more else 1)
    assert all(isinstance(where, InElement) for _, where in told)
    laid_out = with_places(sheet, PLACES, 0, 8)
    assert len(laid_out.elements) == len(told)
    assert laid_out.scene.words == "white"


@pytest.mark.parametrize(
    ("change", "pack"),
    [
        ({"places": False}, PACK),
        ({"method": "text"}, PACK),
        ({"method": "blend"}, PACK),
        ({}, ClosedFormPack()),
    ],
)
def test_where_no_places_are_given_the_words_say_it_all(change, pack):
    assert told_in(scene("red, white"), compose(**change), pack) == set()


def test_nothing_is_placed_on_a_picture_that_stays(painted):
    sheet = replace(painted, scene=scene("red, white").scene)
    assert told_in(sheet, compose()) == {"red"}
    assert told_in(sheet, compose(strength=0.5)) == set()
    held = Element(1, "held", Outline("box", (0.0, 0.0, 50.0, 50.0)), hold=True)
    assert told_in(replace(sheet, elements=(held,), last_key=1), compose()) == set()
    part = replace(compose(), own_frame=(0, 0, 128, 128))
    assert told_in(sheet, part) == set()


def test_small_ones_are_painted_from_nearer_too():
    sheet = replace(scene("red, blue, white", 512, 512), last_key=30)
    finer = replace(compose(), small_nearer=True)
    p = plan(sheet, finer, PACK)
    assert len(p.stages) == len(plan(with_places(sheet, PLACES, 0, 8), finer, PACK).stages) > 1
    assert any("from nearer" in s and "got a place" in s for s in p.sentences)
    take = run_take(p, PACK, 7)
    assert request_from_json(take.recipe).small_nearer is True
    kept = sheet.with_layer(take.to_patch(sheet.next_key(), "take"))
    assert np.array_equal(repeat(picture_recipe(kept), PACK).pixels, kept.flatten())


def test_a_recipe_says_it_and_older_ones_had_none():
    take = run_take(plan(scene("red, white"), compose(), PACK), PACK, 0)
    assert request_from_json(take.recipe).settings.places is True
    older = {**take.recipe, "settings": {k: v for k, v in take.recipe["settings"].items() if k != "places"}}
    assert request_from_json(older).settings.places is False


def test_commands_and_layouts_know_it(tmp_path, own):
    layout = tmp_path / "words.toml"
    said = 'format = 1\n[sheet]\nwidth = 256\nheight = 256\n[scene]\nwords = "fox, birch, meadow"\n[pass]\nsteps = 2\nplaces = false\n'
    layout.write_text(said)
    for name, more in (("off", []), ("on", ["--places"])):
        assert cli.main(["run", str(layout), "--out", str(tmp_path / name), *more]) == 0
    off, on = (tmp_path / name / "take-0.png" for name in ("off", "on"))
    assert off.read_bytes() != on.read_bytes()


@pytest.fixture
def placing(app):
    with opened(told_places()) as w:
        yield w


def test_the_window_shows_a_switch_and_says_it(placing, wait):
    w = placing
    say_scene(w, "red, blue, white")
    wait(lambda: "only words name" in w.passes.forecast.text())
    w.passes.places.setChecked(False)
    wait(lambda: "only words name" not in w.passes.forecast.text())
    assert w.document.draft.settings.places is False


def test_pencil_shows_where_it_will_come_and_ctrl_l_makes_elements_of_that(own, app):
    with opened(own) as w:
        say_scene(w, "fox, birch")
        drawn = w.view.drawn.grounds
        assert len(drawn.things) == 2
        key(w, Qt.Key.Key_L, Qt.KeyboardModifier.ControlModifier)
        made = sorted(o.box for o in w.view.drawn.figures.values())
        assert made == sorted(sketch.box for sketch in drawn.things)
        assert w.view.drawn.grounds.things == ()
