"""What missed its outline is rolled again: in core, from the command line, in the window."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest
from by_hand import draw, key, run, say_scene
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import Qt
from scipy import ndimage

from waldrand import cli
from waldrand.core.passes.again import from_nearer, run_until_landed, with_seeds
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_nearer, run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.passes.speed import Speed
from waldrand.core.passes.watch import Stopped, Watch
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.outline import Outline, rasterise
from waldrand.core.values.sheet import Sheet
from waldrand.desk.document import Draft
from waldrand.desk.window import MainWindow
from waldrand.packs.closed_form import ClosedFormPack, ColourFinder

COMPOSE = Request("compose", PassSettings(steps=4, seed=3, guidance=1.5))


class Blinking(ColourFinder):
    """Does not see some colours in its first looks."""

    def __init__(self, pack: ClosedFormPack, **looks: int) -> None:
        super().__init__(pack.words)
        self.left = dict(looks)

    def look(self, picture: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        maps, whole = super().look(picture)
        for colour, n in self.left.items():
            if n > 0:
                maps[self.labels.index(colour)] = 0
                self.left[colour] = n - 1
        return maps, whole


def blinking(**looks: int) -> ClosedFormPack:
    pack = ClosedFormPack()
    pack.finder = Blinking(pack, **looks)
    return pack


def test_what_landed_is_not_rolled_again(placed, closed):
    tried = run_until_landed(plan(placed, COMPOSE, closed), closed, 3, 5)
    assert tried.tries == 0
    assert tried.missed == ()
    assert [e.seed for e in tried.sheet.elements] == [None, None]
    assert (tried.take.pixels == run_take(plan(placed, COMPOSE, closed), closed, 3).pixels).all()


@pytest.mark.parametrize("misses", [1, 2])
def test_only_what_missed_gets_other_noise(placed, misses):
    pack = blinking(red=misses)
    tried = run_until_landed(plan(placed, COMPOSE, pack), pack, 3, 5)
    assert tried.tries == misses
    assert tried.missed == ()
    # The second try comes in the first one's place, which did not help.
    assert [key for key, _ in tried.plan.request.nearer] == [2]
    # What comes with it paints the very same.
    assert (tried.take.pixels == run_take(tried.plan, pack, 3).pixels).all()
    first = run_take(plan(placed, COMPOSE, pack), pack, 3)
    apart = (tried.take.pixels != first.pixels).any(-1)
    assert apart[100:200, 170:220].mean() > 0.9
    assert not apart[:, :130].any()


def test_the_best_is_kept_when_nothing_helps(placed):
    # At the second look both are missed: worse than the first, which saw blue.
    pack = blinking(red=9)
    pack.finder.left["blue"] = 0
    looks = iter((0, 1, 0))

    def worse(picture, see=pack.finder.look):
        maps, whole = see(picture)
        if next(looks):
            maps[pack.finder.labels.index("blue")] = 0
        return maps, whole

    pack.finder.look = worse
    tried = run_until_landed(plan(placed, COMPOSE, pack), pack, 3, 2)
    assert tried.tries == 2
    assert tried.missed == (2,)
    assert [e.seed for e in tried.sheet.elements] == [None, None]
    assert tried.plan.request.nearer == ()


def test_again_needs_a_finder_and_can_be_stopped(placed, closed):
    from threading import Event

    blind = ClosedFormPack()
    blind.finder = None
    with pytest.raises(ValueError, match="no finder"):
        run_until_landed(plan(placed, COMPOSE, blind), blind, 3, 2)
    stop = Event()
    stop.set()
    with pytest.raises(Stopped):
        run_until_landed(plan(placed, COMPOSE, closed), closed, 3, 2, Watch(stop=stop))


def test_seeds_are_given_by_key(placed):
    sheet = with_seeds(placed, {2: 77})
    assert [e.seed for e in sheet.elements] == [None, 77]
    assert [e.seed for e in with_seeds(placed, {}).elements] == [None, None]


def test_what_missed_in_a_take_is_rolled_again_by_a_key(with_take, wait):
    tray = with_take.tray
    entry = tray.current
    key(with_take, Qt.Key.Key_T, Qt.KeyboardModifier.ShiftModifier)
    assert "landed" in with_take.passes.status.text()
    assert len(tray.takes) == 2
    # The red one is said to lie elsewhere: other noise inside it. What had been painted over it from nearer no longer counts.
    entry.scores = (entry.scores[0], replace(entry.scores[1], score=20.0))
    key(with_take, Qt.Key.Key_T, Qt.KeyboardModifier.ShiftModifier)
    wait(lambda: len(tray.takes) == 3 and not with_take.runner.running)
    rolled_again = tray.current
    blue, red = rolled_again.plan.sheet.elements
    assert (blue.seed, red.seed is None) == (None, False)
    assert rolled_again.plan.request.nearer == ()
    assert [e.seed for e in with_take.document.sheet.elements] == [None, red.seed]
    assert rolled_again.take.seed == entry.take.seed
    apart = np.abs(rolled_again.take.pixels.astype(int) - entry.take.pixels).mean(-1)
    assert apart[100:200, 150:230].mean() > 4 * apart[100:200, 20:100].mean()
    assert not rolled_again.older
    # Now it is said not to be there at all: painted from nearer, and nothing else changes.
    rolled_again.scores = (entry.scores[0], replace(entry.scores[1], score=0.0, found=False))
    key(with_take, Qt.Key.Key_T, Qt.KeyboardModifier.ShiftModifier)
    wait(lambda: len(tray.takes) == 4 and not with_take.runner.running)
    assert [k for k, _ in tray.current.plan.request.nearer] == [red.key]
    apart = (tray.current.take.pixels != rolled_again.take.pixels).any(-1)
    assert apart[100:200, 170:220].mean() > 0.9
    assert not apart[:, :130].any()
    entry.scores = ()
    tray.show_entry(entry)
    key(with_take, Qt.Key.Key_T, Qt.KeyboardModifier.ShiftModifier)
    assert "judged" in with_take.passes.status.text()


def test_takes_roll_again_by_themselves_what_missed(window, wait, monkeypatch):
    draw(window, Qt.Key.Key_R, "blue", 10, 60, 110, 240)
    draw(window, Qt.Key.Key_E, "red", 140, 60, 240, 240)
    say_scene(window, "white")
    passes = window.passes
    assert passes.again.isVisible()
    passes.takes.setValue(2)
    window.painting.measure_speed()
    window.refresh_forecast()
    assert "misses its outline" not in passes.forecast.text()
    passes.again.setValue(3)
    window.refresh_forecast()
    assert "up to 3 more passes" in passes.forecast.text()
    monkeypatch.setattr(window.painting.pack, "finder", Blinking(window.painting.pack, red=2))
    run(window, wait)
    first, second = window.tray.takes
    assert all(s.landed for t in (first, second) for s in t.scores)
    assert [len(t.plan.request.nearer) for t in (first, second)] == [1, 0]
    # What was painted over is no other layout, and the sheet's own elements stay as they were.
    assert not first.older
    assert all(e.seed is None for e in window.document.sheet.elements)
    window.document.undo.undo()
    assert passes.again.value() == 0


def test_how_often_is_saved_with_the_sheet_and_hidden_where_nothing_is_judged(window):
    draft = replace(window.document.draft, again=2)
    assert Draft.from_json(draft.to_json()) == draft
    older = draft.to_json()
    del older["again"]
    assert Draft.from_json(older).again == 0
    window.passes.kinds["inpaint"].click()
    assert not window.passes.again.isVisible()
    blind = ClosedFormPack()
    blind.finder = None
    other = MainWindow(blind)
    other.show()
    assert not other.passes.again.isVisible()
    other.close()


def test_takes_roll_again_by_command_and_repeat(tmp_path, capsys, monkeypatch):
    layout = tmp_path / "l.toml"
    layout.write_text(
        'format = 1\n[sheet]\nwidth = 256\nheight = 256\n[scene]\nwords = "white"\n[pass]\nsteps = 4\nguidance = 1.5\n'
        '[[element]]\nname = "roof"\nwords = "red"\nbox = [0.1, 0.1, 0.6, 0.6]\n'
        '[[element]]\nname = "lake"\nwords = "blue"\nbox = [0.6, 0.6, 0.9, 0.9]\n'
    )
    pack = blinking(blue=1)
    monkeypatch.setattr("waldrand.commands.options.open_pack", lambda folder=None: pack)
    assert cli.main(["run", str(layout), "--takes", "2", "--again", "2", "--out", str(tmp_path)]) == 0
    said = capsys.readouterr().out
    assert "2 of 2 landed, tried again 1 time\n" in said
    assert "2 of 2 landed, tried again 0 times" in said
    assert cli.main(["repeat", str(tmp_path / "take-0.png")]) == 0
    capsys.readouterr()
    assert cli.main(["run", str(layout), "--again", "2", "--out", str(tmp_path / "more"), "--json"]) == 0
    values = json.loads(capsys.readouterr().out)
    (scores,) = values["scores"].values()
    assert list(values["scores"]) == values["files"]
    assert set(scores) == {"roof", "lake"}
    assert min(scores.values()) >= 50
    assert cli.main(["run", str(layout), "--again", "-1", "--out", str(tmp_path / "none")]) == 2
    assert "0 or more" in capsys.readouterr().err
    pack.finder = None
    assert cli.main(["run", str(layout), "--again", "1", "--out", str(tmp_path / "blind")]) == 2
    assert "no finder" in capsys.readouterr().err


def test_chosen_elements_are_painted_from_nearer_by_a_key(with_take, wait):
    tray = with_take.tray
    entry = tray.current
    control = Qt.KeyboardModifier.ControlModifier
    with_take.view.selection.choose(None)
    key(with_take, Qt.Key.Key_T, control)
    assert "choose the elements" in with_take.passes.status.text()
    blue = entry.plan.sheet.elements[0]
    with_take.view.selection.choose(blue.key)
    key(with_take, Qt.Key.Key_T, control)
    wait(lambda: len(tray.takes) == 3 and not with_take.runner.running)
    near = tray.current
    assert [k for k, _ in near.plan.request.nearer] == [blue.key]
    apart = (near.take.pixels != entry.take.pixels).any(-1)
    assert apart[100:200, 30:90].mean() > 0.9
    assert not apart[:, 130:].any()
    # Once more: over what was there, with noise of its own.
    key(with_take, Qt.Key.Key_T, control)
    wait(lambda: len(tray.takes) == 4 and not with_take.runner.running)
    (first, then) = (seed for _, seed in tray.current.plan.request.nearer)
    assert first is None
    assert then is not None
    # Re-rolled inside it, it is no longer covered by what was painted from nearer.
    key(with_take, Qt.Key.Key_T)
    wait(lambda: len(tray.takes) == 5 and not with_take.runner.running)
    assert tray.current.plan.request.nearer == ()


@given(
    boxes=st.lists(
        st.tuples(*(st.integers(0, 200), st.integers(0, 200), st.integers(24, 120), st.integers(24, 120))), min_size=1, max_size=3
    )
)
@settings(max_examples=25, deadline=None)
def test_from_nearer_nothing_changes_but_the_visible_part_and_a_little_room(boxes):
    pack = ClosedFormPack()
    elements = tuple(
        Element(i + 1, f"e{i}", Outline("box", (x, y, min(256, x + w), min(256, y + h))), "red") for i, (x, y, w, h) in enumerate(boxes)
    )
    sheet = Sheet(256, 256, elements=elements, scene=SceneWords("white"))
    p = plan(sheet, replace(COMPOSE, settings=replace(COMPOSE.settings, steps=2)), pack)
    take = run_take(p, pack, 1)
    own, *nearer = (rasterise(e.outline, sheet.rect, 256, 256) > 0.5 for e in elements)
    free = ~np.any([np.zeros_like(own), *nearer], axis=0)
    if not (own & free).any():
        with pytest.raises(ValueError, match="can be seen"):
            run_nearer(take, p, pack, 1, 5)
        return
    near = run_nearer(take, p, pack, 1, 5)
    changed = (near.pixels != take.pixels).any(-1)
    assert changed[own & free].mean() > 0.3
    allowed = ndimage.distance_transform_edt(~(own & free)) <= 9
    assert not changed[~(allowed & free)].any()
    # The same by the plan alone, and by the recipe.
    q = plan(sheet, from_nearer(p.request, {1: 5}), pack)
    assert (run_take(q, pack, 1).pixels == near.pixels).all()
    whole = near.laid_on(sheet, "near")
    assert (repeat(picture_recipe(whole), pack).pixels == whole.flatten()).all()


def test_what_cannot_be_painted_from_nearer_is_said(placed, closed):
    mute = replace(placed, elements=(*placed.elements, Element(3, "mute", Outline("box", (0, 0, 40, 40)), "")))
    for key_, says in ((3, "no words"), (9, "no element 9")):
        with pytest.raises(ValueError, match=says):
            plan(mute, from_nearer(COMPOSE, {key_: 1}), closed)
    with pytest.raises(ValueError, match="no elements"):
        plan(placed, from_nearer(replace(COMPOSE, kind="inpaint"), {1: 1}), closed)


def test_the_forecast_counts_what_is_painted_from_nearer(placed, closed):
    speed = Speed(0.01, 0.0, 0.0)
    bare = plan(placed, COMPOSE, closed, speed)
    near = plan(placed, from_nearer(COMPOSE, {1: 5, 2: 6}), closed, speed)
    assert near.seconds == pytest.approx(3 * bare.seconds, rel=0.2)
    assert near.expected(speed) == near.seconds
    assert "“lake”, “roof”" in near.sentences[-1]


SMALL_AND_LARGE = Sheet(
    256,
    256,
    elements=(
        Element(1, "lake", Outline("box", (0, 100, 256, 256)), "blue"),
        Element(2, "boat", Outline("box", (60, 120, 110, 170)), "red"),
        Element(3, "under it", Outline("box", (150, 150, 180, 180)), "green"),
        Element(4, "cover", Outline("box", (140, 140, 190, 190)), "yellow"),
        Element(5, "mute", Outline("box", (200, 20, 230, 50))),
        Element(6, "sign", Outline("box", (10, 10, 50, 50)), "black", hold=True),
    ),
    scene=SceneWords("white"),
)


def test_small_things_are_those_that_gain_from_a_frame_of_their_own(closed):
    p = plan(SMALL_AND_LARGE, replace(COMPOSE, small_nearer=True), closed)
    # Not the large one, nor what is hidden, has no words or is held.
    assert p.request.nearer == ((2, None), (4, None))
    assert not p.request.small_nearer
    given_ = plan(SMALL_AND_LARGE, from_nearer(replace(COMPOSE, small_nearer=True), {4: 9}), closed)
    assert given_.request.nearer == ((2, None), (4, 9))
    with pytest.raises(ValueError, match="no elements"):
        plan(SMALL_AND_LARGE, replace(COMPOSE, kind="inpaint", small_nearer=True), closed)


def test_small_things_are_painted_by_each_takes_own_seed_and_repeat(closed):
    p = plan(SMALL_AND_LARGE, replace(COMPOSE, small_nearer=True), closed)
    bare = run_take(plan(SMALL_AND_LARGE, COMPOSE, closed), closed, 3)
    one, other = run_take(p, closed, 3), run_take(p, closed, 4)
    apart = (one.pixels != bare.pixels).any(-1)
    assert apart[125:165, 65:105].mean() > 0.9
    assert not apart[:, :50].any()
    assert one.recipe["nearer"] == [[2, 3], [4, 3]]
    assert other.recipe["nearer"] == [[2, 4], [4, 4]]
    whole = one.laid_on(SMALL_AND_LARGE, "x")
    assert (repeat(picture_recipe(whole), closed).pixels == whole.flatten()).all()


def test_small_things_from_nearer_is_a_habit_of_the_pass_column(window, wait):
    draw(window, Qt.Key.Key_R, "blue", 10, 60, 60, 110)
    draw(window, Qt.Key.Key_R, "red", 100, 20, 250, 240)
    say_scene(window, "white")
    passes = window.passes
    passes.nearer.click()
    assert window.document.draft.small_nearer
    assert Draft.from_json(window.document.draft.to_json()) == window.document.draft
    window.refresh_forecast()
    assert "from nearer: “element 1”" in passes.forecast.text()
    run(window, wait)
    blue = window.document.sheet.elements[0]
    assert [dict(t.plan.request.nearer) for t in window.tray.takes] == [{blue.key: None}] * 2
    assert [t.take.recipe["nearer"] for t in window.tray.takes] == [[[blue.key, t.take.seed]] for t in window.tray.takes]
    window.document.undo.undo()
    assert not passes.nearer.isChecked()
    passes.kinds["inpaint"].click()
    assert not passes.nearer.isVisible()


def test_small_things_from_nearer_by_command(tmp_path, capsys, monkeypatch):
    layout = tmp_path / "l.toml"
    layout.write_text(
        'format = 1\n[sheet]\nwidth = 256\nheight = 256\n[scene]\nwords = "white"\n[pass]\nsteps = 2\n'
        '[[element]]\nname = "roof"\nwords = "red"\nbox = [0.1, 0.1, 0.25, 0.25]\n'
    )
    monkeypatch.setattr("waldrand.commands.options.open_pack", lambda folder=None: ClosedFormPack())
    assert cli.main(["forecast", str(layout), "--nearer"]) == 0
    assert "from nearer: “roof”" in capsys.readouterr().out
    assert cli.main(["run", str(layout), "--nearer", "--out", str(tmp_path)]) == 0
    assert cli.main(["run", str(layout), "--out", str(tmp_path / "bare")]) == 0
    assert (tmp_path / "take-0.png").read_bytes() != (tmp_path / "bare" / "take-0.png").read_bytes()
    assert cli.main(["repeat", str(tmp_path / "take-0.png")]) == 0
    assert "Identical" in capsys.readouterr().out
