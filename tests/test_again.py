"""What missed its outline is rolled again: in core, from the command line, in the window."""

from __future__ import annotations

import numpy as np
import pytest
from by_hand import key
from PyQt6.QtCore import Qt

from waldrand.core.again import run_until_landed, with_seeds
from waldrand.core.found import placement
from waldrand.core.plan import plan
from waldrand.core.request import PassSettings, Request
from waldrand.core.run import Stopped, run_take
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
