"""Touching up: parts that are found, each painted again by itself; habits; the list in the window."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest
from by_hand import key, opened, run, say_in
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import Qt

from waldrand.cli import main
from waldrand.core.passes.kinds import kind_of
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe, recipe_of, request_from_json
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request, with_own
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.passes.take import Take
from waldrand.core.passes.touching import asked_parts, chosen
from waldrand.core.passes.watch import Step, Watch
from waldrand.core.refused import Refused
from waldrand.core.seen.parts import parts_seen
from waldrand.core.values.area import Area
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.files.habits import habits_file, read_habits, write_habits
from waldrand.files.openraster import open_sheet, save_sheet
from waldrand.files.pictures import read_picture, write_png
from waldrand.packs.closed_form import ClosedFormPack, ColourFinder

RED, GREEN, BLUE = (200, 40, 40), (60, 160, 60), (40, 60, 200)


def yard(*spots: tuple[tuple[int, int, int], int, int, int, int]) -> Sheet:
    """A green sheet of 384 x 256 with squares of colour: colour, x0, y0, x1, y1."""
    pixels = np.zeros((256, 384, 4), np.uint8)
    pixels[...] = (*GREEN, 255)
    for colour, x0, y0, x1, y1 in spots:
        pixels[y0:y1, x0:x1, :3] = colour
    return Sheet(384, 256, (PictureLayer(1, "yard", pixels),), scene=SceneWords("green"))


@pytest.fixture
def three() -> Sheet:
    """A small red square, a large one, and a blue one."""
    return yard((RED, 40, 40, 100, 100), (RED, 200, 150, 300, 230), (BLUE, 300, 60, 340, 100))


def asked(parts: str = "red, blue", strength: float = 0.6, **more) -> Request:
    own = {"parts": parts, **more}
    return Request("touch-up", PassSettings(strength=strength, steps=4, guidance=1.5, seed=3), more=tuple(own.items()))


def whole(request: Request) -> Request:
    return replace(request, more=with_own(request.more, kind_of("touch-up").own))


def kept(sheet: Sheet, take) -> Sheet:
    for part in take.parts:
        sheet = sheet.with_made(part.to_patch(sheet.next_key(), "part"))
    return sheet


# --- what is found


def test_parts_are_written_with_commas_and_words_behind_an_equals_sign():
    both = asked_parts("face = smiling, red hair; hands, eyes")
    assert [(one.name, one.words) for one in both] == [("face", "smiling, red hair"), ("hands", ""), ("eyes", "")]
    for nothing in ("", " ; ", "= smiling"):
        with pytest.raises(Refused, match="part"):
            asked_parts(nothing)


def test_things_are_found_each_by_itself_in_the_order_asked_for(three, closed):
    by_size = chosen(three, whole(asked()), closed)
    assert [one.part.name for one in by_size] == ["red", "red", "blue"]
    assert by_size[0].part.box.x0 > 150
    boxes = [(one.part.box.x0, one.part.box.y0, one.part.box.x1, one.part.box.y1) for one in by_size]
    assert np.abs(np.array(boxes) - [(200, 150, 300, 230), (40, 40, 100, 100), (300, 60, 340, 100)]).max() <= 4
    nearest = chosen(three, whole(asked(first="nearest")), closed)
    assert [one.part.box.y1 for one in nearest] == sorted((one.part.box.y1 for one in nearest), reverse=True)
    surest = chosen(three, whole(asked(first="surest")), closed)
    assert [one.part.sureness for one in surest] == sorted((one.part.sureness for one in surest), reverse=True)


def test_limits_leave_parts_out_and_numbers_leave_ticks_out(three, closed):
    sizes = [one.part.size for one in chosen(three, whole(asked()), closed)]
    assert len(chosen(three, whole(asked(least_size=sizes[1])), closed)) == 2
    assert len(chosen(three, whole(asked(most_size=sizes[1])), closed)) == 2
    assert len(chosen(three, whole(asked(most=1)), closed)) == 1
    assert not chosen(three, whole(asked(least_sure=0.999)), closed)
    assert [one.used for one in chosen(three, whole(asked(left_out=(2,))), closed)] == [True, False, True]


class WithParts(ColourFinder):
    """Takes blue for a part of things."""

    parts = frozenset({"blue"})
    traits = frozenset({"blue"})

    def part_of(self, phrase):
        rest = [word for word in phrase.split() if word != "blue"]
        return (self.labels.index("blue") if "blue" in phrase.split() else None), " ".join(rest)


def test_parts_of_things_are_looked_for_round_things_and_belong_to_them():
    pack = ClosedFormPack()
    pack.finder = WithParts(pack.words)
    sheet = yard((RED, 40, 40, 180, 180), (BLUE, 80, 80, 110, 110), (BLUE, 130, 80, 150, 110), (BLUE, 330, 200, 350, 220))
    seen = parts_seen(sheet.flatten(), "blue", pack)
    mine = [part for part in seen if part.box.x1 < 200]
    # The two that lie side by side are one, as eyes are.
    assert len(mine) == 1
    assert mine[0].owner is not None
    assert mine[0].owner.label == "red"
    only = parts_seen(sheet.flatten(), "red blue", pack)
    assert [part.box.x1 < 200 for part in only] == [True]


# --- what is painted


@settings(max_examples=8)
@given(st.data())
def test_only_what_was_found_changes_and_what_is_held_does_not(data):
    closed = ClosedFormPack()
    n = data.draw(st.integers(1, 3))
    spots = [
        (data.draw(st.sampled_from((RED, BLUE))), 20 + 120 * i, (y := data.draw(st.integers(10, 150))), 90 + 120 * i, y + 80)
        for i in range(n)
    ]
    held = Mask(384, 256).dab(data.draw(st.integers(0, 384)), data.draw(st.integers(0, 256)), 60, 0.3)[0]
    sheet = replace(yard(*spots), areas=(Area(50, "held", held, hold=True),))
    how = data.draw(st.sampled_from(("each", "together", "all-but")))
    request = asked(how=how, grow=data.draw(st.integers(-5, 20)), feather=data.draw(st.integers(0, 12)))
    try:
        take = run_take(plan(sheet, request, closed), closed, 5)
    except Refused:
        return
    before, after = sheet.flatten(), kept(sheet, take).flatten()
    changed = (after != before).any(-1)
    assert not changed[held.read() >= 128].any()
    near = np.zeros((256, 384), bool)
    for _, x0, y0, x1, y1 in spots:
        near[max(0, y0 - 30) : y1 + 30, max(0, x0 - 30) : x1 + 30] = True
    if how != "all-but":
        assert not changed[~near].any()


def test_each_part_is_a_patch_of_its_own_and_all_of_it_repeats(three, closed):
    take = run_take(plan(three, asked(), closed), closed, 3)
    assert len(take.parts) == 3
    done = kept(three, take)
    assert (take.laid_on(three, "whole").flatten() == done.flatten()).all()
    for made in (done, take.laid_on(three, "whole")):
        again = repeat(picture_recipe(made), closed, [three.flatten()])
        assert (again.pixels == made.flatten()).all()
    # One bad hand goes, the rest stays.
    without = done.without_layer(done.layers[-1].key)
    outside = done.layers[-1].bounds
    same = np.ones((256, 384), bool)
    same[outside.slices] = False
    assert (without.flatten()[same] == done.flatten()[same]).all()


def test_words_of_a_part_are_told_there_and_those_of_what_it_lies_on_else(three, closed):
    stages = plan(three, asked("red = blue"), closed).stages
    assert {"blue", "red"} <= {one.phrase for one in stages[0].told}
    laid_out = replace(three, elements=(Element(9, "roof", Outline("box", (190, 140, 310, 240)), "yellow"),))
    mine = plan(laid_out, asked("red", most=1), closed).stages[0]
    assert "yellow" in {one.phrase for one in mine.told}
    assert "red" not in {one.phrase for one in mine.told}


def test_a_mask_says_where_by_itself(three, closed):
    masked = replace(three, mask=Mask(384, 256).dab(70, 70, 30, 0.2)[0])
    p = plan(masked, asked("blue"), closed)
    assert len(p.stages) == 1
    take = run_take(p, closed, 1)
    assert not take.parts
    changed = (take.laid_on(masked, "t").flatten() != masked.flatten()).any(-1)
    assert changed.any()
    assert not changed[masked.mask.read() == 0].any()


@pytest.mark.parametrize(
    ("request_", "says"),
    [
        (asked("turquoise"), "No “turquoise” was found|knows no part"),
        (asked("red", least_sure=1.0), "found of “red”, but the limits leave none"),
        (asked("red", left_out=(1, 2)), "left out"),
        (asked("elephant"), "knows no part or thing"),
        (asked("red", grow=-200), "nothing is left"),
    ],
)
def test_nothing_to_touch_up_is_said(three, closed, request_, says):
    with pytest.raises(Refused, match=says):
        plan(three, request_, closed)


def test_a_sheet_without_a_picture_is_refused(placed, closed):
    with pytest.raises(Refused, match="no picture"):
        plan(placed, asked(), closed)


def test_finer_computes_finer(three, closed):
    plain = plan(three, asked("blue"), closed).stages[0].frame
    finer = plan(three, asked("blue", finer=2.0), closed).stages[0].frame
    assert finer.rect == plain.rect
    assert finer.width == pytest.approx(2 * finer.rect.width, abs=64)


# --- habits


def test_parts_that_are_done_stay_in_sight_while_others_form(three, closed):
    steps: list[Step] = []
    take = run_take(plan(three, asked(), closed), closed, 3, Watch(steps.append))
    assert {s.part for s in steps} == {0, 1, 2}

    def middle(step: Step, part: Take) -> np.ndarray:
        """What is shown in the middle of what a part painted, (4,)."""
        ys, xs = np.nonzero(part.region == 255)
        y, x = part.frame.y0 + ys.mean() - step.frame.y0, part.frame.x0 + xs.mean() - step.frame.x0
        h, w = step.preview.shape[:2]
        return step.preview[int(y * h / step.frame.height), int(x * w / step.frame.width)]

    for step in steps:
        for part in take.parts[: step.part]:
            seen = middle(step, part)
            assert seen[3] == 255
            assert np.abs(seen[:3].astype(int) - middle(steps[-1], part)[:3]).max() <= 8


def test_every_take_goes_through_rounds_and_repeats(painted, closed):
    sheet = replace(painted, scene=SceneWords("red"))
    base = Request(
        "rework",
        PassSettings(strength=0.7, steps=4, guidance=1.5, seed=2),
        rounds=(asked("red", most_size=1.0), asked("blue"), asked("grey")),
    )
    p = plan(sheet, base, closed)
    assert any("red; blue" in sentence for sentence in p.sentences)
    take = run_take(p, closed, 2)
    assert len(take.parts) > 1
    assert request_from_json(json.loads(json.dumps(recipe_of(p, 2)))).rounds == tuple(map(whole, base.rounds))
    for done in (kept(sheet, take), take.laid_on(sheet, "whole")):
        assert (repeat(picture_recipe(done), closed, [sheet.flatten()]).pixels == done.flatten()).all()


def test_rounds_within_rounds_are_refused(painted, closed):
    recipe = recipe_of(plan(painted, replace(asked("green"), rounds=(asked("red"),)), closed), 1)
    recipe["rounds"][0]["rounds"] = recipe["rounds"]
    with pytest.raises(Refused, match="rounds within rounds"):
        request_from_json(recipe)


def test_habits_are_kept_and_damaged_ones_are_said(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    assert read_habits() == {}
    write_habits({"faces": (whole(asked("red")), whole(asked("blue")))})
    assert read_habits() == {"faces": (whole(asked("red")), whole(asked("blue")))}
    habits_file().write_text('{"faces": [{"kind": "touch-up"}]}')
    with pytest.raises(Refused):
        read_habits()
    habits_file().write_text("{")
    with pytest.raises(Refused, match="cannot be read"):
        read_habits()


# --- by command


@pytest.fixture
def yard_file(three, tmp_path, monkeypatch, closed):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    monkeypatch.setattr("waldrand.commands.options.open_pack", lambda folder=None: closed)
    path = tmp_path / "yard.png"
    write_png(path, three.flatten())
    return path


def test_touch_up_by_command(yard_file, three, capsys):
    def told(*args: str) -> dict:
        assert main(["touch-up", str(yard_file), "--scene", "green", "--steps", "4", "--json", *args]) == 0
        return json.loads(capsys.readouterr().out)

    listed = told("--parts", "red, blue", "--list", "--without", "2")["parts"]
    assert [(one["name"], one["used"]) for one in listed] == [("red", True), ("red", False), ("blue", True)]
    assert not yard_file.with_name("yard-touch-up.png").exists()
    done = told("--parts", "red, blue", "--without", "2", "--save-habit", "colours")
    assert done["parts"] == 2
    before, after = three.flatten(), read_picture(yard_file.with_name("yard-touch-up.png")).pixels
    assert (before[30:110, 30:110] == after[30:110, 30:110]).all()
    assert (before != after).any()
    out = str(yard_file.with_name("again.png"))
    assert told("--habit", "colours", "--out", out)["parts"] == 2
    assert (read_picture(yard_file.with_name("again.png")).pixels == after).all()
    assert main(["repeat", out, "--input", str(yard_file)]) == 0
    capsys.readouterr()
    shifted = told("--parts", "blue", "--by=-40,30", "--strength", "1", "--together", "--out", str(yard_file.with_name("by.png")))
    assert shifted["parts"] == 1


@pytest.mark.parametrize(
    ("args", "says"),
    [
        (["--parts", "elephant"], "knows no part or thing"),
        (["--habit", "nobody's"], "no habit called"),
        (["--parts", "red", "--least-size", "0.9"], "limits leave none"),
        (["--parts", "red", "--without", "one"], "no numbers"),
        (["--parts", "red", "--by", "4"], "point in pixels"),
        (["--parts", "red", "--strength", "2"], "Denoise strength"),
        (["--parts", ""], "which parts"),
    ],
)
def test_bad_input_is_said_and_nothing_is_written(yard_file, capsys, args, says):
    assert main(["touch-up", str(yard_file), *args]) == 2
    assert says in capsys.readouterr().err
    assert not yard_file.with_name("yard-touch-up.png").exists()


# --- in the window


@pytest.fixture
def desk(app, closed, three):
    with opened(closed) as w:
        w.document.open(three, w.opening.blank_draft())
        w.bench.habits.turn_to_touch_up()
        yield w


def ask(w, text: str) -> None:
    say_in(w, w.passes.parts, text)


def test_what_is_found_is_listed_ticked_painted_and_kept_as_a_group(desk, wait, three, tmp_path):
    ask(desk, "red, blue")
    found = desk.passes.found
    assert found.count() == 3
    assert "0." in found.item(0).text()
    found.item(1).setCheckState(Qt.CheckState.Unchecked)
    desk.refresh_forecast()
    assert desk.document.draft.value("left_out") == (2,)
    assert len(desk.planned.stages) == 2
    desk.passes.takes.setValue(1)
    run(desk, wait)
    take = desk.tray.current.take
    assert len(take.parts) == 2
    key(desk, Qt.Key.Key_K)
    made = [layer for layer in desk.document.sheet.layers if layer.recipe is not None]
    assert len(made) == 2
    assert len({layer.group for layer in made}) == 1 != made[0].group
    assert (desk.document.sheet.flatten() == take.laid_on(three, "t").flatten()).all()
    save_sheet(tmp_path / "s.ora", desk.document.sheet, desk.document.draft.to_json())
    assert (open_sheet(tmp_path / "s.ora").sheet.flatten() == desk.document.sheet.flatten()).all()
    desk.document.undo.undo()
    assert (desk.document.sheet.flatten() == three.flatten()).all()


def test_looking_does_not_keep_the_window_waiting(desk, wait):
    desk.document.set_draft(desk.document.draft.with_value("parts", "blue"), "parts")
    desk.refresh_forecast()
    assert desk.planned is None
    assert "Looking for blue" in desk.passes.forecast.text()
    wait(lambda: desk.planned is not None)
    assert desk.passes.found.count() == 1


def test_a_habit_is_kept_runs_after_takes_and_is_forgotten(desk, wait, monkeypatch, tmp_path):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    ask(desk, "blue")
    desk.dialogs.said = ["blues"]
    desk.bench.habits.keep()
    assert list(read_habits()) == ["blues"]
    desk.bench.habits.run("blues")
    wait(lambda: not desk.runner.running)
    assert len(desk.tray.takes) == 1
    desk.passes.kinds["rework"].click()
    desk.bench.habits.after_takes("blues")
    assert desk.document.draft.habit == "blues"
    desk.refresh_forecast()
    assert "Then touches up by itself: blue" in desk.passes.forecast.text()
    desk.passes.takes.setValue(1)
    run(desk, wait)
    assert len(desk.tray.takes[-1].take.parts) >= 1
    desk.bench.habits.after_takes("")
    assert desk.document.draft.rounds == ()
    desk.bench.habits.forget("blues")
    assert read_habits() == {}


def test_the_run_command_sends_every_take_through_a_habit(tmp_path, monkeypatch, capsys, closed, placed):
    from waldrand.files.layout import write_layout

    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "home"))
    monkeypatch.setattr("waldrand.commands.options.open_pack", lambda folder=None: closed)
    write_layout(tmp_path / "l.toml", placed)
    write_habits({"blues": (whole(asked("blue", most_size=1.0)),)})
    few = ["--steps", "3", "--seed", "1"]
    assert main(["run", str(tmp_path / "l.toml"), *few, "--out", str(tmp_path / "plain")]) == 0
    assert main(["run", str(tmp_path / "l.toml"), *few, "--habit", "blues", "--out", str(tmp_path / "touched")]) == 0
    plain, touched = (read_picture(tmp_path / name / "take-1.png").pixels for name in ("plain", "touched"))
    assert (plain != touched).any()
    assert "Then touches up by itself: blue" in capsys.readouterr().out
    assert main(["repeat", str(tmp_path / "touched" / "take-1.png")]) == 0
    assert main(["run", str(tmp_path / "l.toml"), "--habit", "none", "--out", str(tmp_path / "x")]) == 2


def test_what_was_drawn_into_the_picture_is_drawn_from_near_by(own):
    e = Element(1, "man", Outline("box", (40, 16, 200, 240)), "man")
    sheet = Sheet(256, 256, elements=(e,), scene=SceneWords("meadow"))
    composed = Request("compose", PassSettings(steps=2, guidance=1.0, seed=4))
    sheet = run_take(plan(sheet, composed, own), own, 4).laid_on(sheet, "take")
    masked = replace(sheet, mask=Mask.from_array(np.pad(np.full((96, 96), 255, np.uint8), ((40, 120), (60, 100)))))
    p = plan(masked, asked("man"), own)
    assert (p.request.value("sketched_by"), p.request.value("sketched")) == (4, (1,))
    assert len(p.stages[0].sketches) == 1
    assert p.stages[0].drawn is None
    moved = replace(masked, elements=(replace(e, outline=e.outline.moved(20, 0)),))
    other = plan(moved, asked("man"), own).stages[0]
    assert other.sketches == ()
    assert other.drawn is not None
    assert plan(moved, asked("man", own_lines=False), own).stages[0].drawn is None
