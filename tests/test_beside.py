"""File work beside the window: what takes long shows how far it is, can be stopped, and never holds up the hand."""

from __future__ import annotations

import threading

import numpy as np
import pytest
from by_hand import draw, key
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QProgressDialog

from waldrand.core.refused import Refused
from waldrand.core.values.layers import PictureLayer
from waldrand.desk.dialogs import Dialogs
from waldrand.desk.jobs import saving
from waldrand.desk.jobs.beside import Beside
from waldrand.files.openraster import open_sheet
from waldrand.files.pictures import read_picture, write_png


class Held:
    """Work that waits until it is let go, and ticks before and after."""

    def __init__(self, result: object = None) -> None:
        self.go, self.begun, self.result = threading.Event(), threading.Event(), result

    def __call__(self, tick):
        tick()
        self.begun.set()
        assert self.go.wait(20)
        tick()
        if isinstance(self.result, BaseException):
            raise self.result
        return self.result


@pytest.fixture
def beside(app):
    made = Beside()
    yield made
    made.stop()


def test_quick_work_is_done_at_once(beside):
    got, began = [], []
    beside.began.connect(lambda *a: began.append(a))
    beside.do("Reading", lambda tick: 7, got.append, got.append)
    assert got == [7]
    assert began == []
    assert not beside.busy


def test_longer_work_goes_on_beside_and_says_so(beside, wait):
    got, began, went = [], [], []
    beside.began.connect(lambda *a: began.append(a))
    beside.went_on.connect(went.append)
    held = Held(7)
    beside.do("Reading", held, got.append, got.append, steps=2)
    assert began == [("Reading", 2)]
    assert beside.busy
    assert got == []
    held.go.set()
    wait(lambda: bool(got))
    assert got == [7]
    assert went == [0, 1]


def test_a_second_errand_waits_for_the_first(beside, wait):
    got = []
    first, second = Held(1), Held(2)
    beside.do("One", first, got.append, got.append)
    beside.do("Two", second, got.append, got.append)
    assert not second.begun.is_set()
    first.go.set()
    second.go.set()
    wait(lambda: len(got) == 2)
    assert got == [1, 2]


@pytest.mark.parametrize(
    ("error", "says"),
    [
        (Refused("Not so."), "Not so."),
        (OSError("gone"), "gone"),
        (MemoryError(), "not enough memory"),
        (KeyError("x"), "could not be done"),
    ],
)
def test_what_fails_is_told_once(beside, error, says):
    told, got = [], []

    def fail(tick):
        raise error

    beside.do("Reading", fail, got.append, told.append)
    assert len(told) == 1
    assert says in told[0]
    assert got == []


def test_it_is_stopped_at_the_next_step(beside, wait):
    told, got = [], []
    held = Held(7)
    beside.do("Reading", held, got.append, told.append)
    beside.stop()
    held.go.set()
    wait(lambda: bool(told))
    assert told == [""]
    assert got == []


def test_finishing_waits_for_all_that_is_lined_up(beside):
    got = []
    first, second = Held(1), Held(2)
    beside.do("One", first, got.append, got.append)
    beside.do("Two", second, got.append, got.append)
    first.go.set()
    second.go.set()
    beside.finish()
    assert got == [1, 2]


# --- in the window


@pytest.fixture
def hurried(two):
    """The window does not wait."""
    two.bench.beside.patience = 0.05
    return two


@pytest.fixture
def slow_saving(monkeypatch):
    """Saving waits until it is let go."""
    held, real = Held(), saving.Written.write

    def write(written, tick):
        held(tick)
        real(written, tick)

    monkeypatch.setattr(saving.Written, "write", write)
    return held


def test_the_sheet_is_worked_on_while_it_is_saved(hurried, two, slow_saving, tmp_path, wait):
    two.dialogs.path = tmp_path / "a.ora"
    assert two.save()
    assert "Saving a.ora" in two.hints.work.text()
    assert two.hints.work.isVisible()
    draw(two, Qt.Key.Key_R, "green", 100, 20, 140, 60)
    assert len(two.document.sheet.elements) == 3
    slow_saving.go.set()
    wait(lambda: not two.bench.beside.busy)
    assert not two.hints.work.isVisible()
    # What was drawn meanwhile is not in the file, and counts as unsaved.
    assert len(open_sheet(tmp_path / "a.ora").sheet.elements) == 2
    assert two.document.modified


def test_a_saving_is_stopped_and_the_file_stays_as_it_was(hurried, two, slow_saving, tmp_path, wait):
    slow_saving.go.set()
    two.dialogs.path = tmp_path / "a.ora"
    two.save()
    assert two.saving.finish_saving()
    before = (tmp_path / "a.ora").read_bytes()
    slow_saving.go.clear()
    draw(two, Qt.Key.Key_R, "green", 100, 20, 140, 60)
    two.save()
    stop = next(b for b in two.hints.findChildren(type(two.bar.clear_mask)) if b.text() == "Stop")
    stop.click()
    slow_saving.go.set()
    wait(lambda: not two.bench.beside.busy)
    assert (tmp_path / "a.ora").read_bytes() == before
    assert two.document.modified
    assert "not saved" in two.passes.status.text()


def test_closing_while_saving_waits_and_says_so(hurried, two, slow_saving, tmp_path):
    two.dialogs = Dialogs(two)
    two.document.path = tmp_path / "a.ora"
    two.save()
    seen = []

    def look() -> None:
        seen.extend(d.labelText() for d in two.findChildren(QProgressDialog) if d.isVisible())
        slow_saving.go.set()

    QTimer.singleShot(100, look)
    two.close()
    assert seen == ["Saving a.ora … The window waits for it."]
    assert not two.isVisible()
    assert len(open_sheet(tmp_path / "a.ora").sheet.elements) == 2


def test_a_sheet_that_takes_long_to_open_leaves_the_old_one_until_it_is_there(hurried, two, tmp_path, monkeypatch, wait):
    write_png(tmp_path / "b.png", np.full((64, 48, 4), 255, np.uint8))
    held, real = Held(), two.opening._found_in

    def read(path):
        held(lambda: None)
        return real(path)

    monkeypatch.setattr(two.opening, "_found_in", read)
    two.opening.drop_in(tmp_path / "b.png")
    assert "Opening b.png" in two.hints.work.text()
    assert len(two.document.sheet.elements) == 2
    held.go.set()
    wait(lambda: not two.bench.beside.busy)
    assert (two.document.sheet.width, two.document.sheet.height) == (48, 64)


def test_a_picture_is_exported_beside_the_window_as_it_was(kept, tmp_path, monkeypatch, wait):
    held, real = Held(), saving.write_png
    monkeypatch.setattr(saving, "write_png", lambda *a, **k: (held(lambda: None), real(*a, **k)))
    kept.bench.beside.patience = 0.05
    before = kept.document.sheet.flatten()
    kept.dialogs.path = tmp_path / "a.png"
    kept.saving.export_png()
    sheet = kept.document.sheet
    kept.document.edit(sheet.with_layer(PictureLayer(sheet.next_key(), "over", np.full((256, 256, 4), 255, np.uint8))), "add")
    held.go.set()
    wait(lambda: not kept.bench.beside.busy)
    assert (read_picture(tmp_path / "a.png").pixels == before).all()
    assert "Exported a.png" in kept.passes.status.text()


def test_a_pass_runs_while_files_are_written(hurried, two, slow_saving, tmp_path, wait):
    two.dialogs.path = tmp_path / "a.ora"
    two.passes.takes.setValue(1)
    two.save()
    key(two, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    wait(lambda: len(two.tray.takes) == 1 and not two.runner.running)
    slow_saving.go.set()
    QTest.qWait(20)
    wait(lambda: not two.bench.beside.busy)
