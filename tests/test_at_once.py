"""Takes made side by side: in their order, the same to the byte, stopped together, heard of one after another."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
from by_hand import opened, run, say_scene
from hypothesis import given
from hypothesis import strategies as st

from waldrand.core.passes.at_once import MOST_MEMORY, alone, how_many, in_order, together
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run as run_takes
from waldrand.core.passes.series import parse_over, run_variants, vary
from waldrand.core.passes.settings import PassSettings
from waldrand.core.passes.speed import Speed
from waldrand.core.passes.watch import Step, Stopped, Watch
from waldrand.core.refused import Refused
from waldrand.core.values.element import SceneWords
from waldrand.core.values.frame import Rect
from waldrand.core.values.sheet import Sheet
from waldrand.packs.closed_form import ClosedFormPack

COMPOSE = Request("compose", PassSettings(steps=4, seed=3))
SHEET = Sheet(128, 128, scene=SceneWords("green"))


def both() -> tuple[ClosedFormPack, ClosedFormPack]:
    """Packs that are told apart by how many takes they make side by side: one, and two."""
    one, two = ClosedFormPack(), ClosedFormPack()
    two.info = replace(two.info, at_once=2)
    return one, two


def painted(watch: Watch, number: int, begun: Callable[[], object] = lambda: None) -> int:
    begun()
    for k in range(3):
        watch.step(k + 1, 3, lambda: np.zeros((1, 1, 4), np.uint8), Rect(0, 0, 8, 8))
    return number


@given(st.integers(0, 7), st.integers(1, 4))
def test_all_come_in_their_order_and_are_heard_of_one_after_another(count, at_once):
    heard: list[Step] = []
    made = in_order([lambda watch, n=n: painted(watch, n) for n in range(count)], Watch(heard.append), at_once)
    done = []
    for number in made:
        # Of what is not handed out yet nobody hears but of the next one.
        assert {step.take for step in heard} <= set(range(number + 1))
        assert (heard[-1].take, heard[-1].step) == (number, 3)
        done.append(number)
    assert done == list(range(count))
    assert [step.take for step in heard] == sorted(step.take for step in heard)
    assert all(step.takes == count for step in heard)


def test_two_are_made_at_the_same_time():
    meet = threading.Barrier(2, timeout=60)
    assert list(in_order([lambda watch, n=n: painted(watch, n, meet.wait) for n in range(4)], Watch(), 2)) == [0, 1, 2, 3]


def test_what_is_wrong_with_one_is_said_in_its_turn_and_ends_the_others():
    def refused(watch: Watch) -> int:
        raise Refused("no")

    made = in_order([lambda watch: painted(watch, 0), refused, lambda watch: painted(watch, 2)], Watch(), 2)
    assert next(made) == 0
    with pytest.raises(Refused, match="no"):
        next(made)


@pytest.mark.parametrize("at_once", [1, 2])
def test_a_stop_stops_all_and_what_was_made_stays(at_once):
    stop, begun = threading.Event(), []

    def long(watch: Watch) -> int:
        begun.append(watch.take)
        while True:
            watch.check()

    made = in_order([lambda watch: painted(watch, 0), *[long] * 5], Watch(stop=stop), at_once)
    assert next(made) == 0
    stop.set()
    with pytest.raises(Stopped):
        next(made)
    assert len(begun) <= at_once


def test_whoever_wants_no_more_leaves_nothing_running():
    def endless(watch: Watch) -> int:
        while True:
            watch.check()

    before = threading.active_count()
    made = in_order([lambda watch: painted(watch, 0), endless, endless], Watch(), 2)
    assert next(made) == 0
    made.close()
    assert threading.active_count() == before


@given(st.integers(1, 9), st.integers(1, 2), st.floats(0.1, 100))
def test_takes_side_by_side_last_less_than_one_after_another(takes, at_once, seconds):
    whole = together(seconds, takes, at_once)
    assert seconds <= whole * (1 + 1e-9)
    assert whole <= seconds * takes * (1 + 1e-9)
    assert together(seconds, 1, at_once) == seconds
    if at_once == 2 and takes == 2:
        # Each was seen to last as long as both.
        assert alone(whole, at_once) == pytest.approx(seconds)
    assert alone(seconds, 1) == seconds


def test_large_takes_are_made_one_after_another():
    info = both()[1].info
    assert how_many(info, 4, 1000) == 2
    assert how_many(info, 1, 1000) == 1
    assert how_many(info, 4, MOST_MEMORY) == 1
    assert how_many(both()[0].info, 4, 1000) == 1


def test_takes_are_the_same_to_the_byte():
    one, two = both()
    p = plan(SHEET, COMPOSE, one)
    takes = [list(run_takes(p, pack, 3)) for pack in (one, two)]
    assert [t.seed for t in takes[1]] == [3, 4, 5]
    assert all((a.pixels == b.pixels).all() for a, b in zip(*takes, strict=True))
    (variants,) = vary(SHEET, COMPOSE, [parse_over("guidance=1,2,4")])
    shown = [[(v.label, t.pixels.tobytes()) for v, t in run_variants(variants, pack)] for pack in (one, two)]
    assert shown[0] == shown[1]
    assert len({pixels for _, pixels in shown[1]}) == 3


def test_the_pack_that_ships_makes_two_side_by_side_the_same_as_alone(own):
    assert own.info.at_once == 2
    sheet = Sheet(256, 256, scene=SceneWords("clear day, meadow, fox, birch"))
    p = plan(sheet, Request("compose", PassSettings(quick=True)), own)
    takes = list(run_takes(p, own, 3))
    alone_ = replace(own.info, at_once=1)
    own_info, own.info = own.info, alone_
    try:
        again = list(run_takes(p, own, 3))
    finally:
        own.info = own_info
    assert all((a.pixels == b.pixels).all() for a, b in zip(takes, again, strict=True))


def test_takes_come_into_the_tray_in_their_order(app, wait):
    with opened(both()[1]) as w:
        say_scene(w, "green")
        w.passes.takes.setValue(5)
        seed = w.document.draft.settings.seed
        run(w, wait)
        assert [t.take.seed for t in w.tray.takes] == [seed + i for i in range(5)]


def test_the_forecast_reckons_with_takes_side_by_side(app, wait):
    said = []
    for pack in both():
        with opened(pack) as w:
            w.painting.speed = Speed(10.0, 0.0, 0.0)
            say_scene(w, "green")
            w.passes.takes.setValue(4)
            wait(lambda w=w: "for 4 takes" in w.passes.forecast.text())
            said.append(int(w.passes.forecast.text().split(" MB")[0].split()[-1]))
    assert said[1] == pytest.approx(2 * said[0], abs=1)
