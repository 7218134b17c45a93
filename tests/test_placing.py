"""PlaceBook for what the scene only names: words taken apart, arrangements, the forecast, the window, commands, files."""

from __future__ import annotations

import json
import shutil
import tomllib
from dataclasses import replace

import pytest
import tomli_w
from by_hand import draw, key, opened, say_scene
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from waldrand import cli
from waldrand.core.packs import Spot
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.settings import PassSettings
from waldrand.core.told.placing import PlaceBook, placed_elsewhere, things_to_place, with_places
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.emphasis import emphasised, weighed_phrases
from waldrand.core.values.frame import Rect
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.files.layout import read_layout
from waldrand.packs.closed_form import ClosedFormPack
from waldrand.packs.onnx_pack import OnnxPack, own_pack_folder
from waldrand.packs.place_list import read_places

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
COMPOSE = Request("compose", PassSettings(steps=4))
#: Red things stand on the left, on green ones lower, blue ones hang at the right.
SPOTS = {
    "red": (Spot((0.1, 0.5, 0.4, 0.9), horizon=0.5), Spot((0.1, 0.6, 0.4, 1.0), frozenset({"green"}), horizon=0.5)),
    "blue": tuple(Spot((0.6, 0.15 * i, 0.9, 0.15 * i + 0.2), horizon=0.5) for i in range(6)),
    "yellow": (Spot((0.3, 0.2, 0.7, 0.6)), Spot((0.2, 0.1, 0.8, 0.9), needs=frozenset({"black"}))),
}


def told_places() -> ClosedFormPack:
    pack = ClosedFormPack()
    pack.places = PlaceBook(SPOTS, ("white", "green", "black"), pack.read)
    return pack


PACK = told_places()
PLACES = PACK.places
assert PLACES is not None


def scene(words: str, width: int = 256, height: int = 256) -> Sheet:
    return Sheet(width, height, scene=SceneWords(words))


@pytest.mark.parametrize(
    ("words", "things", "rest"),
    [
        ("a red fox and a white owl beside a birch, starry night", ["red fox", "white owl", "birch"], "starry night"),
        ("girl in a blue dress, sitting, meadow", ["girl, blue dress, sitting"], "meadow"),
        ("portrait of a woman, smiling", ["woman, portrait, smiling"], ""),
        ("a hot air balloon over the forest", ["hot air balloon"], "forest"),
        ("the town house in the old town", ["town house"], "old town"),
        ("fox, portrait of a woman", ["fox", "woman, portrait"], ""),
        ("fox owl", ["fox", "owl"], ""),
        ("autumn, field, hills", [], "autumn, field, hills"),
        ("blue, standing", [], "blue, standing"),
        ("man from behind, rain", ["man from behind"], "rain"),
        ("", [], ""),
    ],
)
def test_words_are_taken_apart_as_they_are_meant(own, words, things, rest):
    told = own.places.told(words)
    assert [said for said, _ in told.things] == things
    assert told.rest == rest


@given(st.lists(st.sampled_from(["red", "blue", "a", "the yellow", "white", "red blue", "rust", "grass", "zzz", ","]), max_size=8))
def test_nothing_that_is_said_gets_lost(pieces):
    words = " ".join(pieces)
    told = PLACES.told(words)
    said = " ".join((*(w for w, _ in told.things), told.rest)).replace(",", " ").split()
    small = ("a", "the")
    assert sorted(w for w in said if w not in small) == sorted(w for w in words.replace(",", " ").split() if w not in small)
    assert all(len(PLACES.told(w).things) == 1 for w, _ in told.things)


@given(
    st.lists(st.sampled_from(["red", "blue", "yellow"]), min_size=1, max_size=10),
    st.integers(16, 900),
    st.integers(16, 900),
    st.integers(0, 2**31 - 1),
)
def test_every_thing_gets_a_box_on_the_sheet_and_the_same_seed_the_same(things, width, height, seed):
    sheet = scene(", ".join([*things, "white"]), width, height)
    placed = with_places(sheet, PLACES, seed, 8)
    assert sorted(e.words for e in placed.elements) == sorted(things[:8])
    assert placed.scene.words == ", ".join([*things[8:], "white"])
    assert len({e.key for e in placed.elements} | {e.name for e in placed.elements}) == 2 * len(placed.elements)
    for e in placed.elements:
        x0, y0, x1, y1 = e.outline.box
        assert -1e-6 <= x0 < x1 <= width + 1e-6
        assert -1e-6 <= y0 < y1 <= height + 1e-6
    feet = [e.outline.box[3] for e in placed.elements]
    assert feet == sorted(feet)
    again = with_places(sheet, PLACES, seed, 8)
    assert [e.outline.box for e in again.elements] == [e.outline.box for e in placed.elements]


def test_a_place_suits_what_is_said_round_it():
    feet = {round(with_places(scene("red"), PLACES, seed, 8).elements[0].outline.box[3], 1) for seed in range(20)}
    assert feet == {230.4, 256.0}
    on_green = [with_places(scene("red, green"), PLACES, seed, 8).elements[0] for seed in range(20)]
    assert all(e.outline.box == pytest.approx((25.6, 153.6, 102.4, 256)) for e in on_green)
    # What has to be said is not meant otherwise.
    assert {round(with_places(scene("yellow"), PLACES, seed, 8).elements[0].outline.box[0], 1) for seed in range(8)} == {76.8}
    assert with_places(scene("yellow, black"), PLACES, 1, 8).elements[0].outline.box[0] == pytest.approx(51.2)


def test_things_keep_clear_of_one_another_and_of_what_is_there():
    there = Element(1, "wall", Outline("box", (150, 0, 256, 60)), "green")
    sheet = replace(scene("blue, blue"), elements=(there,))
    for seed in range(6):
        _, a, b = with_places(sheet, PLACES, seed, 8).elements
        assert a.outline.box[1] >= 38
        assert b.outline.box[1] >= a.outline.box[3] - 13
        assert {a.name, b.name} == {"blue", "blue 2"}


def test_emphasis_goes_with_the_words():
    words = "red, blue, white"
    spans = emphasised(words, emphasised(words, (), 1, 0.4), 12, -0.2)
    placed = with_places(replace(scene(words), scene=SceneWords(words, emphasis=spans)), PLACES, 0, 8)
    red = next(e for e in placed.elements if e.words == "red")
    assert weighed_phrases(red.words, red.emphasis) == [("red", 1.4)]
    assert weighed_phrases(placed.scene.words, placed.scene.emphasis) == [("white", 0.8)]


def test_what_cannot_be_placed_is_said():
    with pytest.raises(ValueError, match="name no thing"):
        with_places(scene("white"), PLACES, 0, 8)
    full = tuple(Element(i, str(i), Outline("box", (0, 0, 9, 9)), "blue") for i in (1, 2))
    with pytest.raises(ValueError, match="2 elements already"):
        with_places(replace(scene("red"), elements=full), PLACES, 0, 2)
    with pytest.raises(ValueError, match="could stand elsewhere"):
        placed_elsewhere(scene("red"), frozenset(), PLACES, 0)


def test_elements_go_elsewhere_but_for_those_that_may_not():
    sheet = with_places(scene("blue, blue, red"), PLACES, 0, 8)
    first, *_ = sheet.elements
    locked = sheet.with_element(replace(first, locked=True, weight=2.0))
    keys = frozenset(e.key for e in locked.elements)
    moved = [placed_elsewhere(locked, keys, PLACES, seed) for seed in range(8)]
    assert all(m.element(first.key).outline.box == first.outline.box for m in moved)
    assert all(m.element(first.key).weight == 2 and len(m.elements) == 3 for m in moved)
    assert len({tuple(e.outline.box for e in m.elements) for m in moved}) > 1
    assert all([e.words for e in m.elements] == [e.words for e in locked.elements] for m in moved)


def test_the_forecast_offers_places_for_what_is_only_named():
    sheet, by_words = scene("red, blue, white"), replace(COMPOSE, settings=replace(COMPOSE.settings, places=False))
    assert things_to_place(sheet, PLACES) == ("red", "blue")
    caution = next(c for c in plan(sheet, by_words, PACK).warnings if c.mend and "place" in c.mend.label)
    assert caution.about == "scene"
    assert "“red”, “blue” have no places" in caution.text
    mended, request = caution.mend.apply(sheet, by_words)
    assert request == by_words
    assert {e.words for e in mended.elements} == {"red", "blue"}
    assert mended.scene.words == "white"
    assert not any("no place" in c.text for c in plan(mended, by_words, PACK).warnings)
    # Other ways to tell, and packs that know no places, leave it.
    text = replace(by_words, settings=replace(by_words.settings, method="text"))
    assert not any("no place" in c.text for c in (*plan(sheet, text, PACK).warnings, *plan(sheet, by_words, ClosedFormPack()).warnings))


@pytest.fixture
def placing(app):
    with opened(told_places()) as w:
        yield w


def test_the_scene_is_laid_out_by_a_key_and_undone_in_one_step(placing):
    w = placing
    say_scene(w, "red, blue, white")
    key(w, Qt.Key.Key_L, CTRL)
    sheet = w.document.sheet
    assert {e.words for e in sheet.elements} == {"red", "blue"}
    assert w.scene.words.text() == "white"
    assert set(w.view.selection.keys) == {e.key for e in sheet.elements}
    boxes = [e.outline.box for e in sheet.elements]
    seen = {tuple(boxes)}
    for _ in range(6):
        key(w, Qt.Key.Key_L, CTRL | SHIFT)
        seen.add(tuple(e.outline.box for e in w.document.sheet.elements))
    assert len(seen) > 2
    for _ in range(7):
        w.document.undo.undo()
    assert w.document.sheet.elements == ()
    assert w.document.sheet.scene.words == "red, blue, white"


def test_what_is_just_being_typed_counts(placing, wait):
    line = placing.scene.words
    line.setFocus()
    QTest.keyClicks(line, "red, white")
    QTest.keyClick(line, Qt.Key.Key_L, CTRL)
    assert [e.words for e in placing.document.sheet.elements] == ["red"]
    # What became an element is no longer said, nor said again when the line is left; undo brings it back.
    assert line.text() == "white"
    QTest.keyClick(line, Qt.Key.Key_Z, CTRL)
    assert placing.document.sheet.elements == ()
    assert line.text() == "red, white"
    QTest.keyClick(line, Qt.Key.Key_L, CTRL)
    placing.view.setFocus()
    assert placing.document.sheet.scene.words == "white"
    line.setFocus()
    line.setText("green")
    QTest.keyClick(line, Qt.Key.Key_Return, CTRL)
    wait(lambda: not placing.runner.running and placing.tray.takes)
    assert placing.tray.takes[0].plan.sheet.scene.words == "green"


def test_only_the_chosen_go_elsewhere(placing):
    w = placing
    kept = draw(w, Qt.Key.Key_R, "red", 20, 20, 90, 200)
    say_scene(w, "blue")
    key(w, Qt.Key.Key_L, CTRL)
    assert list(w.view.selection.keys) == [w.document.sheet.elements[-1].key]
    key(w, Qt.Key.Key_L, CTRL | SHIFT)
    assert w.document.sheet.element(kept.key).outline.box == kept.outline.box


def test_the_window_says_what_it_cannot_place(placing):
    key(placing, Qt.Key.Key_L, CTRL)
    assert "name no thing" in placing.passes.status.text()
    key(placing, Qt.Key.Key_L, CTRL | SHIFT)
    assert "stand elsewhere" in placing.passes.status.text()


@pytest.mark.parametrize("modifier", [CTRL, CTRL | SHIFT])
def test_a_pack_without_places_is_told_so(window, modifier):
    key(window, Qt.Key.Key_L, modifier)
    assert "This pack does not say" in window.passes.status.text()


def test_a_layout_of_words_by_command(tmp_path, capsys):
    path = tmp_path / "night.toml"
    args = ["place", "--words", "a fox beside a birch, starry night, meadow", "--size", "768x512", "--seed", "5", "--out", str(path)]
    assert cli.main([*args, "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    layout = read_layout(path)
    sheet = layout.sheet
    assert (sheet.width, sheet.height, layout.settings.seed) == (768, 512, 5)
    assert {e.words for e in sheet.elements} == {"fox", "birch"} == set(said["elements"])
    assert sheet.scene.words == said["scene"] == "starry night, meadow"
    assert cli.main(args) == 2
    assert "--force" in capsys.readouterr().err
    assert cli.main([*args, "--force"]) == 0


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (["--words", "meadow"], "name no thing"),
        (["--size", "big"], "like 768x512"),
        (["--size", "4x4"], "at least 16 x 16"),
        (["--seed", "-1"], "A seed is a whole number"),
    ],
)
def test_a_bad_command_writes_nothing(tmp_path, capsys, change, says):
    path = tmp_path / "night.toml"
    assert cli.main(["place", "--words", "fox", "--out", str(path), *change]) == 2
    assert says in capsys.readouterr().err
    assert not path.exists()


def test_our_own_places_lie_where_things_belong(own):
    for words, inside in (("moon, starry night, meadow", Rect(0, 0, 512, 300)), ("fox, meadow", Rect(0, 100, 512, 512))):
        for seed in range(5):
            x0, y0, x1, y1 = with_places(scene(words, 512, 512), own.places, seed, 8).elements[0].outline.box
            assert inside.x0 <= x0 < x1 <= inside.x1
            assert inside.y0 <= y0 < y1 <= inside.y1


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("{", "cannot be read"),
        ('{"whole": [], "spots": []}', "cannot be read"),
        ('{"whole": [], "spots": {"fox": [{"box": [10, 10, 5, 20], "where": [], "needs": [], "horizon": null}]}}', "cannot be"),
        ('{"whole": [], "spots": {"fox": [{"box": [1, 1, 50], "where": [], "needs": [], "horizon": null}]}}', "cannot be"),
        ('{"whole": [], "spots": {"fox": [{"where": [], "needs": [], "horizon": null}]}}', "cannot be read"),
    ],
)
def test_damaged_places_are_refused(tmp_path, text, says):
    (tmp_path / "places.json").write_text(text)
    with pytest.raises(ValueError, match=says):
        read_places(tmp_path / "places.json")


def test_a_pack_need_not_know_places_but_has_to_list_them(tmp_path):
    folder = tmp_path / "pack"
    shutil.copytree(own_pack_folder(), folder)
    d = tomllib.loads((folder / "pack.toml").read_text())
    digest = d["files"].pop("places.json")
    (folder / "pack.toml").write_text(tomli_w.dumps(d))
    with pytest.raises(ValueError, match=r"uses the file places\.json but does not list it"):
        OnnxPack(folder)
    del d["places"]
    (folder / "pack.toml").write_text(tomli_w.dumps(d))
    assert OnnxPack(folder).places is None
    (folder / "pack.toml").write_text(tomli_w.dumps(d | {"places": {"list": "places.json"}, "files": d["files"] | {"places.json": digest}}))
    assert OnnxPack(folder).places is not None
