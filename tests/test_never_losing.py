"""Ways in which work could be lost or the window could end, each made to happen."""

from __future__ import annotations

import sys
import threading
from dataclasses import replace

import numpy as np
import pytest
from by_hand import LEFT, at, draw, key, opened, run, say_scene, strip
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from waldrand.core.passes.cautions import Caution
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.values.frame import Rect
from waldrand.core.values.masks import Mask
from waldrand.desk.jobs import beside, saving
from waldrand.desk.jobs.runner import Job, Runner, Work
from waldrand.desk.jobs.safekeeping import autosave_path
from waldrand.desk.mistakes import leave, survive
from waldrand.files.openraster import open_sheet
from waldrand.log import log_path

NONE, SHIFT = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def mistakes(monkeypatch):
    """Errors that nothing caught, as the window says them."""
    said: list[str] = []
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    survive(said.append)
    yield said
    leave(said.append)


@pytest.fixture
def two(window):
    draw(window, Qt.Key.Key_R, "blue", 10, 60, 110, 240)
    draw(window, Qt.Key.Key_E, "red", 140, 60, 240, 240)
    say_scene(window, "white")
    return window


# --- passes that end while others begin


def test_a_pass_that_ends_while_the_next_is_planned_keeps_its_takes(app, closed, placed, wait):
    runner = Runner()
    taken, ended = [], []
    runner.taken.connect(taken.append)
    runner.ended.connect(ended.append)
    jobs = [Job(str(i), (Work(plan(placed, Request("compose", PassSettings(steps=2)), closed), i),)) for i in range(3)]
    runner.submit(jobs[0], closed)
    # The thread is done, and the window has not heard of it yet, being busy with a plan.
    runner.wait()
    assert runner.running
    runner.submit(jobs[1], closed)
    runner.submit(jobs[2], closed)
    wait(lambda: len(ended) == 3)
    assert [made.take.seed for made in taken] == [0, 1, 2]
    assert not runner.running


def test_another_pass_lined_up_in_the_last_moment_gives_all_takes(two, wait, monkeypatch):
    two.passes.steps.setValue(2)
    two.passes.takes.setValue(1)
    two.run()
    two.runner.wait()
    two.passes.seed.setValue(9)
    two.run()
    wait(lambda: not two.runner.running and not two.passes.stop.isVisible())
    assert [t.take.seed for t in two.tray.takes] == [0, 9]


def test_what_a_pass_still_makes_after_its_sheet_was_left_comes_to_nobody(two, wait):
    two.passes.steps.setValue(2)
    two.run()
    two.runner.wait()
    two.opening.new_sheet()
    QTest.qWait(30)
    assert two.tray.takes == []
    assert not two.passes.stop.isVisible()
    say_scene(two, "red")
    run(two, wait)
    assert len(two.tray.takes) == 2


# --- saving


class Held:
    """Saving that waits until it is let go, and counts what it was given."""

    def __init__(self, monkeypatch):
        self.go, self.begun, self._real = threading.Event(), threading.Event(), saving.Written.write
        monkeypatch.setattr(saving.Written, "write", lambda written, tick: self._write(written, tick))

    def _write(self, written, tick):
        self.begun.set()
        assert self.go.wait(10)
        self._real(written, tick)


@pytest.mark.parametrize("error", [MemoryError(), RuntimeError("odd")])
def test_a_saving_that_fails_in_any_way_is_told_and_nothing_counts_as_saved(two, tmp_path, monkeypatch, error):
    def fail(written, tick):
        raise error

    two.aside.begin_autosave()
    two.aside.autosave()
    two.aside.finish_autosave()
    monkeypatch.setattr(saving.Written, "write", fail)
    two.dialogs.path = tmp_path / "a.ora"
    ended = []
    two.bench.beside.over.connect(lambda: ended.append(1))
    assert two.save()
    two.bench.beside.finish()
    assert ended == [1]
    assert len(two.dialogs.told) == 1
    assert two.document.modified
    assert autosave_path().exists()
    two.dialogs.leave = "cancel"
    two.close()
    assert two.isVisible()
    if isinstance(error, MemoryError):
        assert two.dialogs.told == [beside.NO_MEMORY]
    else:
        assert "RuntimeError: odd" in log_path().read_text()


def test_what_counts_as_saved_is_what_the_file_holds(two, tmp_path, monkeypatch):
    two.dialogs.path = tmp_path / "a.ora"
    two.save()
    assert two.saving.finish_saving()
    first = two.document.sheet
    two.document.edit(replace(first, scene=replace(first.scene, words="second")), "second")
    two.bench.beside.patience = 0.05
    held = Held(monkeypatch)
    two.save()
    assert held.begun.wait(10)
    two.document.edit(replace(two.document.sheet, scene=replace(first.scene, words="third")), "third")
    held.go.set()
    assert two.saving.finish_saving()
    assert open_sheet(tmp_path / "a.ora").sheet.scene.words == "second"
    assert two.document.modified
    two.document.undo.undo()
    assert not two.document.modified
    two.document.undo.undo()
    assert two.document.sheet.scene.words == "white"
    assert two.document.modified


# --- leaving, and what is kept aside


def test_takes_are_asked_about_before_new_and_open(two, wait, tmp_path):
    run(two, wait)
    two.dialogs.path = tmp_path / "a.ora"
    two.save()
    assert two.saving.finish_saving()
    asked = two.dialogs.asked
    two.opening.new_sheet()
    assert two.dialogs.asked == asked
    assert two.tray.takes == []


@pytest.mark.parametrize("leave_by", ["new", "open", "demo", "drop"])
def test_unkept_takes_are_asked_about_however_a_sheet_is_left(two, wait, tmp_path, leave_by):
    two.dialogs.path = tmp_path / "a.ora"
    two.save()
    assert two.saving.finish_saving()
    run(two, wait)
    two.tray.mark_current()
    assert not two.document.modified
    for agrees, left in ((False, 2), (True, 0)):
        two.dialogs.agrees = agrees
        asked = two.dialogs.asked
        {
            "new": two.opening.new_sheet,
            "open": two.opening.open_any,
            "demo": two.open_demo,
            "drop": lambda: two.opening.drop_in(tmp_path / "a.ora"),
        }[leave_by]()
        assert two.dialogs.asked == asked + 1
        assert len(two.tray.takes) == left


def test_a_file_that_cannot_be_opened_leaves_takes_and_queue_alone(two, wait, tmp_path):
    run(two, wait)
    two.dialogs.path = tmp_path / "none.ora"
    two.opening.open_any()
    assert len(two.tray.takes) == 2
    assert len(two.dialogs.told) == 1


def test_takes_alone_are_kept_aside_and_come_back(app, closed, two, wait, tmp_path):
    two.aside.begin_autosave()
    two.dialogs.path = tmp_path / "a.ora"
    two.save()
    assert two.saving.finish_saving()
    run(two, wait)
    assert not two.document.modified
    two.aside.autosave()
    two.aside.finish_autosave()
    assert len(open_sheet(autosave_path()).takes) == 2
    two.tray.mark_current()
    two.aside.autosave()
    two.aside.finish_autosave()
    assert [t.marked for t in open_sheet(autosave_path()).takes].count(True) == 1


def left_behind(closed, words: str) -> None:
    """A window that is no more, with unsaved work."""
    with opened(closed) as w:
        w.aside.begin_autosave()
        say_scene(w, words)
        w.aside.autosave()
        w.aside.finish_autosave()
        w.aside._timer.stop()
        # As if the process had ended: its lock goes, its file stays.
        w.aside._safe.close()
        w.aside._safe = type(w.aside._safe)(autosave_path().with_name("gone.ora"))
        w.document.saved(autosave_path(), w.document.moment)


def brought_back(closed, answer: str) -> tuple[str, int]:
    """The scene's words in a new window that is asked so often."""
    with opened(closed) as w:
        w.dialogs.back = answer
        w.aside.begin_autosave()
        found = w.document.sheet.scene.words, w.dialogs.asked
        w.aside._safe.close()
        w.aside._safe = type(w.aside._safe)(autosave_path().with_name("gone.ora"))
        w.document.saved(autosave_path(), w.document.moment)
    return found


def test_what_a_second_window_kept_aside_is_offered_too(app, closed):
    for left in autosave_path().parent.glob("unsaved-work*.ora"):
        left.unlink()
    with opened(closed) as first:
        first.aside.begin_autosave()
        left_behind(closed, "from the second window")
    assert brought_back(closed, "bring") == ("from the second window", 1)


def test_escape_at_the_question_keeps_the_work_for_another_time(app, closed):
    for left in autosave_path().parent.glob("unsaved-work*.ora"):
        left.unlink()
    left_behind(closed, "mine")
    assert brought_back(closed, "later") == ("", 1)
    assert brought_back(closed, "bring") == ("mine", 1)
    assert brought_back(closed, "drop") == ("", 1)
    assert brought_back(closed, "bring") == ("", 0)


def test_the_real_question_lets_escape_decide_nothing(app, window):
    from PyQt6.QtCore import QTimer

    from waldrand.desk.dialogs import Dialogs

    answers = []
    for press in (Qt.Key.Key_Escape, Qt.Key.Key_Return):
        QTimer.singleShot(100, lambda press=press: QTest.keyClick(QApplication.activeModalWidget(), press))
        answers.append(Dialogs(window).bring_back(1_700_000_000))
    assert answers == ["later", "bring"]


# --- the hand, rough


def test_deleting_what_is_just_being_dragged_ends_nothing(two, mistakes):
    port = two.view.viewport()
    key(two, Qt.Key.Key_A)
    two.view.selection.choose(two.document.sheet.elements[0].key)
    QTest.mousePress(port, LEFT, NONE, at(two, 60, 150))
    for x in (70, 80):
        here = at(two, x, 150)
        QApplication.sendEvent(port, QMouseEvent(QEvent.Type.MouseMove, QPointF(here), QPointF(port.mapToGlobal(here)), LEFT, LEFT, NONE))
        if x == 70:
            key(two, Qt.Key.Key_Delete)
    QTest.mouseRelease(port, LEFT, NONE, at(two, 90, 150))
    QTest.qWait(20)
    assert mistakes == []
    assert [e.words for e in two.document.sheet.elements] == ["red"]


@pytest.mark.parametrize("tool", [Qt.Key.Key_A, Qt.Key.Key_P, Qt.Key.Key_S, Qt.Key.Key_M])
def test_undoing_in_the_middle_of_a_drag_ends_nothing(two, mistakes, tool):
    port = two.view.viewport()
    key(two, tool)
    two.view.selection.choose(two.document.sheet.elements[1].key)
    QTest.mousePress(port, LEFT, NONE, at(two, 190, 61))
    for step in range(4):
        here = at(two, 190, 70 + 10 * step)
        QApplication.sendEvent(port, QMouseEvent(QEvent.Type.MouseMove, QPointF(here), QPointF(port.mapToGlobal(here)), LEFT, LEFT, NONE))
        two.document.undo.undo()
    QTest.mouseRelease(port, LEFT, NONE, at(two, 190, 120))
    QTest.qWait(20)
    assert mistakes == []


def test_deleting_an_element_while_its_words_are_typed_ends_nothing(two, mistakes):
    e = two.document.sheet.elements[0]
    two.view.selection.choose(e.key)
    card = strip(two, e.key)
    for field in (card.words, card.name, card.seed):
        field.setFocus()
        QTest.keyClicks(field, "7")
    QTest.mouseClick(card.remove, LEFT)
    QTest.qWait(30)
    assert mistakes == []
    assert [e.words for e in two.document.sheet.elements] == ["red"]


def test_deleting_a_layer_while_its_numbers_are_typed_ends_nothing(kept, mistakes):
    layer = kept.document.sheet.layers[0]
    kept.view.selection.choose_layer(layer.key)
    row = kept.bench.layer_strip
    row.opacity.setFocus()
    row.opacity.selectAll()
    QTest.keyClicks(row.opacity, "0.5")
    kept.document.edit(kept.document.sheet.without_layer(layer.key), "delete")
    kept.view.setFocus()
    QTest.qWait(30)
    assert mistakes == []


def test_a_mistake_of_ours_is_written_down_and_said_and_the_window_goes_on(two, mistakes, monkeypatch):
    def broken(*args):
        raise KeyError("what nobody thought of")

    monkeypatch.setattr(two.document, "edit", broken)
    key(two, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    key(two, Qt.Key.Key_Delete)
    QTest.qWait(20)
    assert len(mistakes) == 1
    assert "what nobody thought of" in mistakes[0]
    assert "Your work is kept" in mistakes[0]
    assert "Traceback" in log_path().read_text()
    monkeypatch.undo()
    key(two, Qt.Key.Key_Delete)
    assert two.document.sheet.elements == ()


# --- takes of a sheet that has changed since


def test_a_key_is_never_given_out_twice(two):
    last = two.document.sheet.elements[1].key
    two.view.selection.choose(last)
    key(two, Qt.Key.Key_Delete)
    assert draw(two, Qt.Key.Key_R, "green", 140, 60, 240, 240).key > last


@pytest.mark.parametrize("back", ["delete", "undo"])
def test_an_old_take_does_not_take_another_element_for_its_own(two, wait, back):
    owl = draw(two, Qt.Key.Key_R, "green", 20, 5, 100, 55)
    two.passes.takes.setValue(1)
    run(two, wait)
    if back == "delete":
        two.view.selection.choose(owl.key)
        key(two, Qt.Key.Key_Delete)
    else:
        while two.document.sheet.has_element(owl.key):
            two.document.undo.undo()
    new = draw(two, Qt.Key.Key_R, "black", 140, 5, 240, 55)
    assert new.key != owl.key
    two.tray.list.setCurrentRow(0)
    two.view.selection.choose(new.key)
    key(two, Qt.Key.Key_T)
    wait(lambda: len(two.tray.takes) == 2 and not two.runner.running)
    # What is chosen is not in the take: it is rolled as a whole.
    assert two.tray.takes[1].special == "re-rolled"
    assert [e.seed for e in two.tray.takes[1].plan.sheet.elements] == [None] * 3


def test_keys_stay_given_out_when_a_sheet_is_saved(tmp_path, placed):
    from waldrand.files.openraster import save_sheet

    bare = placed.without_element(2)
    save_sheet(tmp_path / "a.ora", bare)
    assert open_sheet(tmp_path / "a.ora").sheet.next_key() == 3


def test_taking_over_an_inpaint_without_words_leaves_nobody_elses_words(kept, wait):
    grey = np.zeros((256, 256), np.uint8)
    grey[60:240, 10:110] = 255
    kept.document.edit(replace(kept.document.sheet, mask=Mask.from_array(grey)), "mask")
    kept.passes.kinds["inpaint"].click()
    kept.passes.strength.box.setValue(1.0)
    kept.passes.takes.setValue(1)
    run(kept, wait)
    entry = kept.tray.takes[-1]
    assert entry.plan.request.avoid == "blue"
    kept.tray.show_entry(entry)
    key(kept, Qt.Key.Key_U)
    assert kept.document.draft.avoid == ""
    # Asked for again from its recipe, it leads away from the same.
    again = replace(kept.document.draft.request(), settings=entry.plan.request.settings)
    assert plan(kept.document.sheet, again, kept.pack).request.avoid == "blue"


@pytest.mark.parametrize("rect", [Rect(-64, 0, 256, 256), Rect(0, -32, 256, 288), Rect(40, 30, 256, 256)])
def test_an_older_take_is_kept_where_it_was_made(two, wait, tmp_path, rect):
    two.passes.takes.setValue(1)
    run(two, wait)
    take = two.tray.takes[0].take
    two.dialogs.new_frame = (rect, "framed")
    two.sizing.change_size()
    two.tray.list.setCurrentRow(0)
    shown = two.view.canvas._overlay.boundingRect()
    assert (shown.left(), shown.top()) == (-rect.x0, -rect.y0)
    two.takes.keep()
    (patch,) = two.document.sheet.layers
    assert patch.bounds == Rect(0, 0, 256, 256).moved(-rect.x0, -rect.y0)
    seen = two.document.sheet.flatten(patch.bounds)
    inside = patch.bounds.intersect(two.document.sheet.rect).moved(-patch.bounds.x0, -patch.bounds.y0)
    assert (seen[inside.slices][..., :3] == take.pixels[inside.slices]).all()
    # The same after the sheet was saved and opened again.
    two.document.undo.undo()
    two.dialogs.path = tmp_path / "a.ora"
    two.save()
    assert two.saving.finish_saving()
    two.open_file(tmp_path / "a.ora")
    two.tray.list.setCurrentRow(0)
    two.takes.keep()
    assert two.document.sheet.layers[0].bounds == patch.bounds


def test_two_elements_of_one_name_are_each_told_of_and_mended_for_themselves(placed, closed):
    twins = tuple(replace(e, name="twin", words="flumph" if e.key == 1 else "bluu") for e in placed.elements)
    sheet = replace(placed, elements=twins)
    cautions: dict[int, Caution] = {c.about: c for c in plan(sheet, Request("compose"), closed).warnings if "does not know" in c.text}
    assert set(cautions) == {1, 2}
    mended, _ = cautions[2].mend.apply(sheet, Request("compose"))
    assert (mended.element(1).words, mended.element(2).words) == ("flumph", "blue")
    same = replace(placed, elements=tuple(replace(e, name="twin", words="bluu") for e in placed.elements))
    assert [c.about for c in plan(same, Request("compose"), closed).warnings if "does not know" in c.text] == [1, 2]


@pytest.mark.parametrize("sampler", ["second", "ancestral"])
def test_the_noise_an_element_has_in_a_take_is_kept_whatever_seed_comes_next(two, wait, sampler):
    two.passes.sampler.setCurrentIndex(two.passes.sampler.findData(sampler))
    two.passes.takes.setValue(1)
    two.passes.seed.setValue(5)
    run(two, wait)
    two.tray.list.setCurrentRow(0)
    first = two.tray.takes[0].take.pixels.astype(int)
    blue = two.document.sheet.elements[0]
    two.view.selection.choose(blue.key)
    key(two, Qt.Key.Key_U, SHIFT)
    kept = two.document.sheet.element(blue.key)
    assert (kept.seed, kept.take_noise) == (5, True)
    request = replace(two.document.draft.request(), settings=replace(two.document.draft.request().settings, seed=77))
    again = run_take(plan(two.document.sheet, request, two.pack), two.pack, 77).pixels.astype(int)
    apart = np.abs(again - first).max(-1)
    inside = apart[80:220, 32:96]
    assert inside.max() <= 2
    assert apart[80:220, 150:230].mean() > 5
    # Typed by hand a seed is the element's own again.
    card = strip(two, blue.key)
    card.seed.setText("9")
    card.seed.editingFinished.emit()
    assert two.document.sheet.element(blue.key).take_noise is False


# --- samplers that ask more or less often than was foreseen


@pytest.mark.parametrize("often", [1, -1])
def test_a_sampler_that_asks_another_number_of_times_is_loud(placed, closed, monkeypatch, often):
    from waldrand.core.noise import samplers
    from waldrand.core.passes import painting

    def odd(denoise, x, levels, *more):
        if often < 0:
            return samplers.sample(denoise, x, levels[:-1], *more)
        denoise(x, float(levels[0]))
        return samplers.sample(denoise, x, levels, *more)

    monkeypatch.setattr(painting, "sample", odd)
    with pytest.raises(AssertionError, match="foreseen"):
        run_take(plan(placed, Request("compose", PassSettings(steps=4)), closed), closed, 1)


def test_a_pass_with_a_mistake_in_it_is_told_and_the_sheet_is_as_it_was(two, wait, monkeypatch):
    from waldrand.core.passes import painting

    def broken(*args):
        raise ZeroDivisionError("by nothing")

    before = two.document.sheet
    monkeypatch.setattr(painting, "sample", broken)
    run(two, wait)
    assert "ZeroDivisionError: by nothing" in two.passes.status.text()
    assert two.document.sheet is before
    monkeypatch.undo()
    run(two, wait)
    assert len(two.tray.takes) == 2
