"""Rough hands: much of everything, very wide sheets, and hands that do not wait."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from by_hand import LEFT, at, drag, draw, key, opened, run, say_scene
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

from waldrand.core.values.element import Element
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.packs.closed_form import ClosedFormPack

CTRL = Qt.KeyboardModifier.ControlModifier


class Counting(ClosedFormPack):
    """Tells after how many answers something shall happen."""

    def __init__(self) -> None:
        super().__init__()
        self.answers, self.at, self.act = 0, -1, lambda: None

    def answer(self, *args):
        self.answers += 1
        if self.answers == self.at:
            self.act()
        return super().answer(*args)


@pytest.fixture
def many(window):
    """200 elements."""
    places = [(i % 20 * 12, i // 20 * 25) for i in range(200)]
    shapes = ("box", "ellipse")
    elements = tuple(Element(10 + i, f"e{i}", Outline(shapes[i % 2], (x, y, x + 11, y + 22)), "red") for i, (x, y) in enumerate(places))
    window.document.edit(replace(window.document.sheet, elements=elements), "many")
    say_scene(window, "white")
    return window


def test_200_elements_are_chosen_moved_switched_reordered_and_looked_for(many):
    w = many
    assert w.elements.ladder.count() == 200
    w.view.selection.choose(10 + 150)
    assert w.elements.ladder.selectedItems()[0].text().startswith("red")
    assert w.strip.isVisible()
    drag(w, 126, 186, 130, 190, modifier=CTRL)
    key(w, Qt.Key.Key_A, CTRL)
    assert len(w.view.selection.keys) == 200
    assert w.bench.several_strip.what.text() == "200 elements"
    w.bench.several_strip.ticks["locked"].click()
    assert all(e.locked for e in w.document.sheet.elements)
    key(w, Qt.Key.Key_Z, CTRL)
    assert not any(e.locked for e in w.document.sheet.elements)
    w.elements.search.setText("e199")
    w.document.edit(w.document.sheet.with_element(replace(w.document.sheet.element(10 + 199), words="owl")), "words")
    w.elements.search.setText("owl")
    assert [i for i in range(200) if not w.elements.ladder.item(i).isHidden()] == [199]
    w.refresh_forecast()
    assert "taught up to" in w.passes.warnings.text()
    key(w, Qt.Key.Key_Delete)
    assert not w.document.sheet.elements


@pytest.mark.parametrize("size", [(16384, 1000), (1000, 16384)])
def test_a_very_long_sheet_is_shown_laid_out_foreseen_and_painted(app, closed, wait, size):
    with opened(closed) as w:
        w.document.open(Sheet(*size), w.opening.blank_draft())
        assert w.view.scale_now * max(size) < max(w.view.width(), w.view.height())
        mid = QPointF(size[0] / 2, size[1] / 2)
        here = w.view.mapFromScene(mid)
        assert w.view.rect().contains(here)
        e = draw(w, Qt.Key.Key_R, "blue", size[0] * 0.3, size[1] * 0.3, size[0] * 0.6, size[1] * 0.7)
        assert e.outline.box[2] - e.outline.box[0] == pytest.approx(size[0] * 0.3, rel=0.15)
        say_scene(w, "white")
        w.refresh_forecast()
        assert "larger than the model can compose" in w.passes.warnings.text() or "stretched" in w.passes.warnings.text()
        w.passes.takes.setValue(1)
        w.document.set_draft(w.document.draft.with_value("steps", 2))
        run(w, wait)
        assert w.tray.takes[0].take.pixels.shape[:2] == (size[1], size[0])
        w.takes.keep()
        assert w.document.sheet.has_picture
        w.view.zoom_to(1.0)
        w.view.fit()


def test_a_stroke_goes_on_while_a_take_arrives(app, wait):
    pack = Counting()
    with opened(pack) as w:
        sheet = w.document.sheet
        w.document.edit(sheet.with_layer(PictureLayer(9, "ground", np.full((sheet.height, sheet.width, 4), 200, np.uint8))), "ground")
        say_scene(w, "white")
        w.passes.takes.setValue(1)
        w.passes.kinds["rework"].click()
        w.view.set_tool("brush")
        w.passes.kinds["rework"].click()
        port = w.view.viewport()
        w.run()
        QTest.mousePress(port, LEFT, Qt.KeyboardModifier.NoModifier, at(w, 60, 60))
        for i in range(30):
            QTest.mouseMove(port, at(w, 60 + 4 * i, 60))
            QTest.qWait(2)
        wait(lambda: not w.runner.running)
        for i in range(10):
            QTest.mouseMove(port, at(w, 180, 60 + 4 * i))
        QTest.mouseRelease(port, LEFT, Qt.KeyboardModifier.NoModifier, at(w, 180, 100))
        assert len(w.tray.takes) == 1
        mask = w.document.sheet.mask.read()
        assert min(mask[60, 70], mask[60, 170], mask[90, 180]) > 0
        # The whole stroke is one step of undo.
        key(w, Qt.Key.Key_Z, CTRL)
        assert w.document.sheet.mask is None or w.document.sheet.mask.empty


def test_undo_during_a_run_changes_the_sheet_and_not_the_take(with_take, wait):
    w = with_take
    w.tray.rest()
    before = w.document.sheet.elements
    w.passes.takes.setValue(3)
    w.run()
    for _ in range(4):
        key(w, Qt.Key.Key_Z, CTRL)
    assert w.document.sheet.elements is not before
    wait(lambda: not w.runner.running)
    assert len(w.tray.takes) == 5
    made = w.tray.takes[2:]
    assert all(t.older for t in made)
    assert all(len(t.plan.sheet.elements) == 2 for t in made)
    while w.document.undo.canRedo():
        key(w, Qt.Key.Key_Z, CTRL | Qt.KeyboardModifier.ShiftModifier)
    wait(lambda: not any(t.older for t in w.tray.takes))


def test_closing_during_a_run_asks_and_ends_it(app, wait):
    pack = Counting()
    with opened(pack) as w:
        draw(w, Qt.Key.Key_R, "blue", 10, 60, 110, 240)
        say_scene(w, "white")
        w.passes.takes.setValue(9)
        w.dialogs.leave = "cancel"
        w.run()
        wait(lambda: len(w.tray.takes) >= 1)
        w.close()
        assert w.isVisible()
        assert w.dialogs.asked == 1
        # Staying, the run goes on.
        wait(lambda: len(w.tray.takes) >= 2)
        w.dialogs.leave = "discard"
        w.close()
        assert not w.isVisible()
        assert not w.runner.running
        n = pack.answers
        QTest.qWait(50)
        assert pack.answers == n


@pytest.mark.parametrize(("width", "height"), [(900, 600), (1024, 700), (1280, 760)])
def test_in_a_small_window_everything_is_there(with_take, width, height):
    w = with_take
    w.passes.fold.unfold(False)
    w.resize(width, height)
    QTest.qWait(20)
    assert (w.width(), w.height()) == (width, height)
    for part in (w.passes.run, w.rail, w.tray, w.scene.words, w.elements, w.hints, w.view):
        corner = part.mapTo(w, part.rect().bottomRight())
        assert w.rect().contains(corner), part.accessibleName() or part
    assert w.view.width() >= 350
    assert w.view.height() >= 250
