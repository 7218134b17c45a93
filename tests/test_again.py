"""What missed its outline is rolled again: in core, from the command line, in the window."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest
from by_hand import draw, key, run, say_scene
from PyQt6.QtCore import Qt

from waldrand import cli
from waldrand.core.again import run_until_landed, with_seeds
from waldrand.core.found import placement
from waldrand.core.plan import plan
from waldrand.core.request import PassSettings, Request
from waldrand.core.run import Stopped, run_take
from waldrand.desk.document import Draft
from waldrand.desk.window import MainWindow
from waldrand.packs.closed_form import ClosedFormPack, ColourFinder

COMPOSE = Request("compose", PassSettings(steps=4, seed=3))


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
    blue, red = tried.sheet.elements
    assert blue.seed is None
    assert red.seed not in (None, 3)
    # The sheet that comes with it paints the very same.
    assert (tried.take.pixels == run_take(plan(tried.sheet, COMPOSE, pack), pack, 3).pixels).all()


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


def test_again_needs_a_finder_and_can_be_stopped(placed, closed):
    from threading import Event

    blind = ClosedFormPack()
    blind.finder = None
    with pytest.raises(ValueError, match="no finder"):
        run_until_landed(plan(placed, COMPOSE, blind), blind, 3, 2)
    stop = Event()
    stop.set()
    with pytest.raises(Stopped):
        run_until_landed(plan(placed, COMPOSE, closed), closed, 3, 2, stop=stop)


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
    # The red one is said to have missed.
    pack = with_take.painting.pack
    missed = placement(entry.take.pixels * 0, entry.plan.sheet, pack)
    entry.scores = (entry.scores[0], missed[1])
    key(with_take, Qt.Key.Key_T, Qt.KeyboardModifier.ShiftModifier)
    wait(lambda: len(tray.takes) == 3 and not with_take.runner.running)
    blue, red = tray.current.plan.sheet.elements
    assert (blue.seed, red.seed is None) == (None, False)
    assert tray.current.take.seed == entry.take.seed
    apart = np.abs(tray.current.take.pixels.astype(int) - entry.take.pixels).mean(-1)
    assert apart[100:200, 150:230].mean() > 4 * apart[100:200, 20:100].mean()
    assert not tray.current.older
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
    assert "At most 4 times as long" in passes.forecast.text()
    monkeypatch.setattr(window.painting.pack, "finder", Blinking(window.painting.pack, red=2))
    run(window, wait)
    first, second = window.tray.takes
    assert all(s.landed for t in (first, second) for s in t.scores)
    assert [[e.seed is None for e in t.plan.sheet.elements] for t in (first, second)] == [[True, False], [True, True]]
    # Other noise is no other layout, and the sheet's own elements stay as they were.
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
        'format = 1\n[sheet]\nwidth = 256\nheight = 256\n[scene]\nwords = "white"\n[pass]\nsteps = 4\n'
        '[[element]]\nname = "roof"\nwords = "red"\nbox = [0.1, 0.1, 0.6, 0.6]\n'
        '[[element]]\nname = "lake"\nwords = "blue"\nbox = [0.6, 0.6, 0.9, 0.9]\n'
    )
    pack = blinking(blue=1)
    monkeypatch.setattr(cli, "OnnxPack", lambda folder=None: pack)
    assert cli.main(["run", str(layout), "--takes", "2", "--again", "2", "--out", str(tmp_path)]) == 0
    said = capsys.readouterr().out
    assert "2 of 2 landed, rolled again 1 time\n" in said
    assert "2 of 2 landed, rolled again 0 times" in said
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
