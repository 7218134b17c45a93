"""Editing by a sentence: what is understood, what it comes to, what is painted, and the list in the window."""

from __future__ import annotations

import json
import tomllib
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from by_hand import opened, run, say_in
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import Qt
from sentences import told_all

from waldrand.cli import main
from waldrand.core.passes.kinds import kind_of
from waldrand.core.passes.plan import plan
from waldrand.core.passes.proposals import proposals
from waldrand.core.passes.recipe import picture_recipe
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request, with_own
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.refused import Refused
from waldrand.core.told.sentence import read_sentence
from waldrand.core.values.element import SceneWords
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.sheet import Sheet
from waldrand.files.pictures import write_png

RED, GREEN, BLUE, YELLOW = (204, 38, 38), (38, 153, 51), (38, 64, 204), (242, 217, 51)
SENTENCES = tomllib.loads((Path(__file__).parent / "data" / "sentences.toml").read_text("utf-8"))


def garden(*spots: tuple[tuple[int, int, int], int, int, int, int]) -> Sheet:
    """A green sheet with squares of colour: colour, x0, y0, x1, y1."""
    pixels = np.zeros((256, 384, 4), np.uint8)
    pixels[...] = (*GREEN, 255)
    for colour, x0, y0, x1, y1 in spots:
        pixels[y0:y1, x0:x1, :3] = colour
    return Sheet(384, 256, (PictureLayer(1, "garden", pixels),), scene=SceneWords("green"))


@pytest.fixture
def two() -> Sheet:
    """A red square at the left, a blue one at the right."""
    return garden((RED, 40, 100, 110, 170), (BLUE, 280, 90, 350, 170))


def asked(sentence: str, seed: int = 3, **more) -> Request:
    own = {"sentence": sentence, **more}
    request = Request("edit", PassSettings(steps=4, guidance=1.5, seed=seed), more=tuple(own.items()))
    return replace(request, more=with_own(request.more, kind_of("edit").own))


def proposed(sheet: Sheet, sentence: str, pack):
    return proposals(sheet, read_sentence(sentence, pack).wishes, pack, 3)


# --- what is understood


@pytest.mark.parametrize("sentence", SENTENCES["known"])
def test_a_sentence_is_understood(sentence, own):
    wishes, unclear = told_all(sentence, own)
    assert (wishes, unclear) == (SENTENCES["known"][sentence], [])


@pytest.mark.parametrize("sentence", SENTENCES["parts"])
def test_a_sentence_about_parts_is_understood(sentence, own):
    if not own.finder.parts:
        pytest.skip("this finder tells no parts apart")
    wishes, unclear = told_all(sentence, own)
    assert (wishes, unclear) == (SENTENCES["parts"][sentence], [])


def test_most_sentences_of_other_wordings_are_understood(own):
    right = sum(told_all(s, own)[0] == wanted for s, wanted in SENTENCES["apart"].items())
    assert right >= 36


@pytest.mark.parametrize(
    ("sentence", "why"),
    [
        ("add a dragonfruit", "“dragonfruit” is not known"),
        ("add a lantren", "lantern"),
        ("xylophone the moon", "begin with add"),
        ("romove the moon", "did you mean “remove”"),
        ("make it a fox", "is a thing"),
        ("move the fox", "It does not say where to"),
        ("add forty thousand", "not known"),
        ("add 40 foxes", "40 are too many"),
        ("make it", "begin with add"),
        ("move it to the left", "could be anything"),
    ],
)
def test_what_is_not_understood_is_told_with_the_nearest(sentence, why, own):
    read = read_sentence(sentence, own)
    assert not read.wishes
    assert why in " ".join(f"{one.why}" for one in read.unclear)


@given(st.text(max_size=60))
@settings(max_examples=120)
def test_no_text_breaks_the_grammar(text):
    from waldrand.packs.closed_form import ClosedFormPack

    read = read_sentence(text, ClosedFormPack())
    assert all(wish.said for wish in read.wishes)
    assert all(one.why for one in read.unclear)


def test_it_is_the_thing_that_was_spoken_of_last(own):
    read = read_sentence("add a fox, make it white and move it to the left", own)
    assert [wish.thing.label for wish in read.wishes] == ["fox", "fox", "fox"]


# --- what it comes to


def test_a_new_thing_goes_where_it_is_said(two, closed):
    def box(sentence: str):
        (one,) = proposed(two, sentence, closed)
        return one.box

    assert box("add yellow left of the blue").x1 <= 280
    assert box("add yellow right of the red").x0 >= 110
    assert box("add yellow above the blue").y1 <= 95
    assert box("add yellow at the bottom").y1 > 200
    between = box("add yellow between the red and the blue")
    assert 110 < (between.x0 + between.x1) / 2 < 280
    near = box("add yellow on the blue")
    assert near.y1 <= 130
    assert near.height < 80


def test_several_things_stand_beside_each_other(two, closed):
    one, other = proposed(two, "add two yellow right of the red", closed)
    assert one.box.intersect(other.box).area == 0
    assert other.box.x0 > one.box.x0


def test_what_is_meant_is_masked_and_nothing_else(two, closed):
    for sentence, kind, strength in (
        ("remove the red", "inpaint", 1.0),
        ("turn the red into yellow", "inpaint", 1.0),
        ("move the red to the right", "shift", 0.5),
        ("make the red bigger", "shift", 0.5),
    ):
        (one,) = proposed(two, sentence, closed)
        assert (one.kind, one.strength) == (kind, strength)
        assert (one.mask[110:160, 50:100] > 200).all()
        assert not one.mask[:, 250:].any()


def test_left_and_right_largest_and_all_choose_among_several(closed):
    sheet = garden((RED, 20, 100, 60, 140), (RED, 150, 80, 230, 160), (RED, 320, 100, 350, 130))
    (left,) = proposed(sheet, "remove the left red", closed)
    (right,) = proposed(sheet, "remove the right red", closed)
    (largest,) = proposed(sheet, "remove the largest red", closed)
    assert left.box.x1 < 90
    assert right.box.x0 > 280
    assert 120 < largest.box.x0 < 200
    assert len(proposed(sheet, "remove all red", closed)) == 3


def test_the_whole_becomes_something_else_and_its_opposite_goes(own, two):
    sheet = replace(two, scene=SceneWords("starry night, meadow, gouache grain"))
    (one,) = proposed(sheet, "make it sunset", own)
    assert one.words_of_scene == "meadow, gouache grain, sunset"
    assert one.kind == "rework"


def test_a_later_wish_knows_what_an_earlier_one_made(two, closed):
    first, second = proposed(two, "add yellow left of the blue, then move the yellow to the top", closed)
    assert second.mask[first.box.slices].all()
    assert dict(second.more)["down"] < 0


def test_what_is_not_there_cannot_be_spoken_of(two, closed):
    with pytest.raises(Refused, match="No “yellow” is seen"):
        plan(two, asked("remove the yellow"), closed)


# --- what is painted


def test_an_edit_is_one_take_with_a_patch_for_each_step(two, closed):
    take = run_take(plan(two, asked("remove the red, then add yellow left of the blue"), closed), closed, 3)
    assert len(take.parts) == 2
    after = take.laid_on(two, "edit").flatten()
    assert np.abs(after[120:150, 60:90, :3].astype(int) - GREEN).mean() < 40
    far = np.s_[:60, 300:]
    assert (after[far] == two.flatten()[far]).all()


def test_what_is_moved_stays_itself_and_its_old_place_is_filled(two, closed):
    take = run_take(plan(two, asked("move the red to the right"), closed), closed, 3)
    after = take.laid_on(two, "edit").flatten()
    dx = round(0.22 * 384)
    assert (after[120:150, 60 + dx : 90 + dx] == two.flatten()[120:150, 60:90]).all()
    assert np.abs(after[120:150, 45:60, :3].astype(int) - GREEN).mean() < 40


def test_an_edit_repeats_from_its_recipe(two, closed):
    take = run_take(plan(two, asked("move the red to the right and turn the blue into yellow"), closed), closed, 3)
    sheet = two
    for part in take.parts:
        sheet = sheet.with_made(part.to_patch(sheet.next_key(), "edit"))
    recipe = json.loads(json.dumps(picture_recipe(sheet)))
    assert (repeat(recipe, closed, [two.flatten()]).pixels == sheet.flatten()).all()


def test_steps_are_left_out(two, closed):
    p = plan(two, asked("remove the red, remove the blue", left_out=(1,)), closed)
    take = run_take(p, closed, 3)
    after = take.laid_on(two, "edit").flatten()
    assert (after[:, :200] == two.flatten()[:, :200]).all()
    with pytest.raises(Refused, match="left out"):
        plan(two, asked("remove the red", left_out=(1,)), closed)


def test_what_was_not_understood_is_a_warning_beside_the_rest(two, closed):
    p = plan(two, asked("remove the red, add a dragon"), closed)
    assert len(p.stages) == 1
    assert any("add a dragon" in w.text for w in p.warnings)


@pytest.mark.parametrize("text", ["", "   ", "frobnicate the moon"])
def test_an_edit_that_says_nothing_is_refused(text, two, closed):
    with pytest.raises(Refused):
        plan(two, asked(text), closed)


def test_an_empty_sheet_and_a_pack_without_a_finder_are_refused(placed, two):
    from waldrand.packs.closed_form import ClosedFormPack

    pack = ClosedFormPack()
    with pytest.raises(Refused, match="no picture"):
        plan(placed, asked("remove the red"), pack)
    pack.finder = None
    with pytest.raises(Refused, match="finder"):
        plan(two, asked("remove the red"), pack)


# --- by command


def test_the_command_plans_and_edits(tmp_path, capsys, monkeypatch, two, closed):
    import waldrand.commands.edit as command

    monkeypatch.setattr(command, "pack_of", lambda options: closed)
    path, out = tmp_path / "garden.png", tmp_path / "out.png"
    write_png(path, two.flatten())
    words = [str(path), "remove the red, then turn the blue into yellow", "--scene", "green", "--steps", "4", "--json"]
    assert main(["edit", *words, "--plan", "--out", str(out)]) == 0
    assert not out.exists()
    assert main(["edit", *words, "--without", "1", "--out", str(out)]) == 0
    planned, done = map(json.loads, capsys.readouterr().out.splitlines())
    assert [s["told"].split(" (")[0] for s in planned["steps"]] == ["takes the red away", "turns the blue into: yellow"]
    assert [s["used"] for s in done["steps"]] == [False, True]
    assert main(["edit", str(path), "sing a song", "--out", str(out)]) == 2
    assert "was not understood" in capsys.readouterr().err


# --- in the window


@pytest.fixture
def desk(app, closed, two):
    with opened(closed) as w:
        w.document.open(two, w.opening.blank_draft())
        w.bench.habits.turn_to_sentence()
        yield w


def say(w, text: str) -> None:
    say_in(w, w.passes.sentence, text)


def test_a_sentence_is_proposed_ticked_and_run(desk, wait, two):
    say(desk, "remove the red, then turn the blue into yellow")
    found = desk.passes.found
    assert found.count() == 2
    assert "away: red" in found.item(0).text()
    assert not desk.tray.takes
    found.item(0).setCheckState(Qt.CheckState.Unchecked)
    desk.refresh_forecast()
    desk.passes.takes.setValue(1)
    run(desk, wait)
    after = desk.tray.current.take.laid_on(two, "t").flatten()
    assert (after[:, :200] == two.flatten()[:, :200]).all()
    assert (after[120:150, 300:330] != two.flatten()[120:150, 300:330]).any()


def test_a_step_is_taken_over_by_hand_in_one_edit(desk):
    say(desk, "remove the red, then move the blue to the left")
    desk.passes.found.wanted.emit(1)
    assert desk.document.draft.kind == "inpaint"
    assert desk.document.sheet.mask.read()[130, 70] == 255
    desk.document.undo.undo()
    assert desk.document.draft.kind == "edit"
    assert desk.document.sheet.mask is None
    desk.passes.found.wanted.emit(2)
    assert desk.document.draft.kind == "edit"
    assert desk.document.sheet.mask.read()[130, 320] > 127
    assert "Ctrl+Shift+U" in desk.passes.status.text()


def test_what_is_not_understood_is_said_in_the_forecast(desk):
    say(desk, "sing a song")
    assert desk.planned is None
    assert "was not understood" in desk.passes.forecast.text()


def test_on_an_empty_sheet_things_are_added_as_elements(desk, wait, closed):
    desk.document.open(Sheet(256, 256, scene=SceneWords("white")), desk.opening.blank_draft())
    desk.bench.habits.turn_to_sentence()
    say(desk, "add red on the left, then add two blue in the lower right corner")
    assert desk.planned is not None
    assert "Composes the sheet" in desk.passes.forecast.text()
    assert desk.passes.found.count() == 3
    desk.passes.takes.setValue(1)
    run(desk, wait)
    pixels = desk.tray.current.take.pixels.astype(int)
    first = desk.planned.kind.apart(desk.planned.sheet, desk.planned.request, closed)[0][0].elements[0]
    x0, y0, x1, y1 = (round(v) for v in first.outline.box)
    inside = pixels[(y0 + y1) // 2 - 8 : (y0 + y1) // 2 + 8, (x0 + x1) // 2 - 8 : (x0 + x1) // 2 + 8].mean((0, 1))
    assert inside[0] > inside[2] + 60
    desk.passes.found.wanted.emit(2)
    assert desk.document.draft.kind == "compose"
    assert [e.words for e in desk.document.sheet.elements] == ["red", "blue", "blue"]
