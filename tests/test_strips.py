"""What stands beside what is chosen, the ladders' switches, and the page of all takes."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from by_hand import LEFT, draw, key, run
from PyQt6.QtCore import QEvent, QItemSelectionModel, QPoint, QPointF, Qt
from PyQt6.QtGui import QDropEvent, QMouseEvent, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import PictureLayer
from waldrand.desk.takes_page import TakesPage

NONE, CTRL, SHIFT = (getattr(Qt.KeyboardModifier, m) for m in ("NoModifier", "ControlModifier", "ShiftModifier"))


def switch(ladder, row: int, name: str) -> None:
    """Clicks a row's switch, the pointer having come over the row before."""
    item = ladder.item(row)
    middle = ladder.visualItemRect(item).center()
    QTest.mouseMove(ladder.viewport(), middle - QPoint(30, 0))
    QTest.mouseMove(ladder.viewport(), middle)
    index = ladder.indexFromItem(item)
    (place,) = [rect for s, rect in ladder.switches_at(index) if s.name == name]
    QTest.mouseClick(ladder.viewport(), LEFT, NONE, place.center())


def wheel(port, at: QPointF) -> None:
    """One notch towards the picture."""
    there, none = QPointF(port.mapToGlobal(at.toPoint())), QPoint()
    turned = QWheelEvent(at, there, none, QPoint(0, 120), Qt.MouseButton.NoButton, NONE, Qt.ScrollPhase.NoScrollPhase, False)
    QApplication.sendEvent(port, turned)


# --- switches


@pytest.mark.parametrize(
    ("name", "attribute", "usual"), [("visible", "visible", True), ("hold", "hold", False), ("locked", "locked", False)]
)
def test_an_element_is_switched_in_its_row_without_being_chosen(two, name, attribute, usual):
    switch(two.elements.ladder, 1, name)
    assert getattr(two.document.sheet.elements[1], attribute) is not usual
    assert getattr(two.document.sheet.elements[0], attribute) is usual
    assert two.view.selection.keys == ()
    switch(two.elements.ladder, 1, name)
    assert getattr(two.document.sheet.elements[1], attribute) is usual
    key(two, Qt.Key.Key_Z, CTRL)
    key(two, Qt.Key.Key_Z, CTRL)
    assert getattr(two.document.sheet.elements[1], attribute) is usual


def test_a_switch_of_one_of_several_chosen_is_all_of_theirs(two):
    two.view.selection.choose_all()
    switch(two.elements.ladder, 0, "hold")
    assert [e.hold for e in two.document.sheet.elements] == [True, True]
    key(two, Qt.Key.Key_Z, CTRL)
    assert [e.hold for e in two.document.sheet.elements] == [False, False]


def test_what_is_unusual_stays_to_be_seen_and_the_rest_is_offered_under_the_pointer(two):
    ladder = two.elements.ladder
    e = two.document.sheet.elements[0]
    two.document.edit(two.document.sheet.with_element(replace(e, locked=True)), "lock")
    QTest.mouseMove(ladder.viewport(), QPoint(20, 300))
    QApplication.sendEvent(ladder, QEvent(QEvent.Type.Leave))
    rows = [[s.name for s, _ in ladder.switches_at(ladder.indexFromItem(ladder.item(i)))] for i in (0, 1)]
    assert rows == [["locked"], []]
    assert "locked" in ladder.item(0).text()


# --- layers


@pytest.fixture
def layered(kept):
    """A patch, and a small picture over it."""
    sheet = kept.document.sheet
    small = np.zeros((60, 40, 4), np.uint8)
    small[10:50, 10:30] = 255
    kept.document.edit(sheet.with_layer(PictureLayer(sheet.next_key(), "card", small, 180, 20)), "card")
    return kept


def test_layers_stand_in_a_ladder_with_pictures_and_are_chosen_there(layered):
    patch, card = layered.document.sheet.layers
    ladder = layered.elements.layers
    assert ladder.count() == 2
    assert ladder.item(1).text() == "picture: card"
    QTest.mouseClick(ladder.viewport(), LEFT, NONE, ladder.visualItemRect(ladder.item(1)).center() - QPoint(40, 0))
    assert layered.view.selection.layer == card.key
    strip = layered.bench.layer_strip
    assert strip.isVisible()
    assert strip.grow.isHidden()
    # Beside what is seen of it.
    assert card.seen == Rect(190, 30, 210, 70)
    seen = layered.view.mapFromScene(195.0, 35.0), layered.view.mapFromScene(205.0, 65.0)
    assert not any(strip.geometry().contains(p) for p in seen)
    ladder.setCurrentRow(0, QItemSelectionModel.SelectionFlag.ClearAndSelect)
    assert layered.view.selection.layer == patch.key
    assert not strip.opacity.isHidden()
    # Elements and layers are not chosen together.
    layered.view.selection.choose(layered.document.sheet.elements[0].key)
    assert layered.view.selection.layer is None
    assert not strip.isVisible()
    layered.view.selection.choose_layer(card.key)
    assert layered.view.selection.keys == ()
    key(layered, Qt.Key.Key_Escape)
    assert layered.view.selection.layer is None


def test_a_layer_is_hidden_dragged_lower_renamed_and_deleted(layered):
    patch, card = layered.document.sheet.layers
    ladder, strip = layered.elements.layers, layered.bench.layer_strip
    switch(ladder, 1, "visible")
    assert not layered.document.sheet.layer(card.key).visible
    assert "(hidden)" in ladder.item(1).text()
    key(layered, Qt.Key.Key_Z, CTRL)
    ladder.setCurrentRow(1, QItemSelectionModel.SelectionFlag.ClearAndSelect)
    rows = ladder.model().mimeData(ladder.selectedIndexes())
    above = ladder.visualItemRect(ladder.item(0)).topLeft() + QPoint(20, 3)
    ladder.dropEvent(QDropEvent(QPointF(above), Qt.DropAction.MoveAction, rows, LEFT, NONE))
    assert [x.key for x in layered.document.sheet.layers] == [card.key, patch.key]
    layered.view.selection.choose_layer(card.key)
    strip.name.setText("note")
    strip.name.editingFinished.emit()
    assert layered.document.sheet.layer(card.key).name == "note"
    key(layered, Qt.Key.Key_Delete)
    assert [x.key for x in layered.document.sheet.layers] == [patch.key]
    assert not strip.isVisible()
    key(layered, Qt.Key.Key_Z, CTRL)
    assert layered.document.sheet.has_layer(card.key)


# --- several elements


def test_several_elements_get_one_strip_that_says_what_they_share(two):
    strip = two.bench.several_strip
    first, second = two.document.sheet.elements
    two.document.edit(two.document.sheet.with_element(replace(first, weight=2.0, hold=True)), "weight")
    two.view.selection.choose_all()
    assert strip.isVisible()
    assert not two.strip.isVisible()
    assert strip.what.text() == "2 elements"
    assert strip.numbers["weight"].text() == ""
    assert strip.numbers["weight"].placeholderText() == "differ"
    assert strip.numbers["feather"].text() == "0"
    assert strip.ticks["hold"].checkState() == Qt.CheckState.PartiallyChecked
    assert strip.ticks["visible"].checkState() == Qt.CheckState.Checked
    strip.numbers["weight"].setText("1.5")
    strip.numbers["weight"].editingFinished.emit()
    assert [e.weight for e in two.document.sheet.elements] == [1.5, 1.5]
    strip.ticks["hold"].click()
    assert [e.hold for e in two.document.sheet.elements] == [True, True]
    strip.ticks["hold"].click()
    assert [e.hold for e in two.document.sheet.elements] == [False, False]
    strip.numbers["strength"].setText("0.4")
    strip.numbers["strength"].editingFinished.emit()
    strip.numbers["strength"].setText("")
    strip.numbers["strength"].editingFinished.emit()
    assert [e.strength for e in two.document.sheet.elements] == [None, None]
    assert second.key in two.view.selection.keys


@pytest.mark.parametrize(("name", "text"), [("weight", "9"), ("weight", "much"), ("strength", "-1"), ("feather", "")])
def test_a_value_that_cannot_be_is_put_back(two, name, text):
    two.view.selection.choose_all()
    before = two.document.sheet.elements
    field = two.bench.several_strip.numbers[name]
    field.setText(text)
    field.editingFinished.emit()
    assert two.document.sheet.elements is before
    assert field.text() == ("" if name == "strength" else f"{getattr(before[0], name):g}")


def test_several_are_aligned_and_deleted_from_their_strip(two):
    two.view.selection.choose_all()
    strip = two.bench.several_strip
    strip.aligns["top"].click()
    assert len({e.outline.box[1] for e in two.document.sheet.elements}) == 1
    strip.remove.click()
    assert two.document.sheet.elements == ()
    assert not strip.isVisible()


# --- all takes


@pytest.fixture
def five(with_take, wait):
    with_take.passes.takes.setValue(3)
    with_take.passes.next_seeds()
    run(with_take, wait)
    return with_take


@pytest.fixture
def page(five):
    five.tray.list.setCurrentRow(1)
    key(five, Qt.Key.Key_Y)
    made = five.dialogs.shown[-1]
    assert isinstance(made, TakesPage)
    made.show()
    QTest.qWait(30)
    yield made
    made.close()


def test_takes_stand_on_pages_of_any_number(page):
    assert len(page.panes) == 4
    assert page.page.text() == "page 1 of 2"
    assert page.chosen == 1
    QTest.keyClick(page, Qt.Key.Key_PageDown)
    assert len(page.panes) == 1
    assert page.chosen == 4
    assert not page.on.isEnabled()
    page.a_page.setValue(2)
    assert page.page.text() == "page 3 of 3"
    QTest.keyClick(page, Qt.Key.Key_Left)
    assert page.page.text() == "page 2 of 3"
    assert page.chosen == 3
    page.a_page.setValue(24)
    assert len(page.panes) == 5
    QTest.keyClick(page, Qt.Key.Key_PageUp)
    assert page.page.text() == "page 1 of 1"


def test_pictures_are_whole_and_zoomed_and_moved_in_step(page):
    assert page.panes[0].view.item.boundingRect().width() == 256
    first, second = page.panes[0].view, page.panes[3].view
    fitted = first.transform().m11()
    at = QPointF(first.viewport().width() / 4, first.viewport().height() / 4)
    share = first.share_at(at.toPoint())
    for _ in range(3):
        wheel(first.viewport(), at)
    assert first.transform().m11() == pytest.approx(fitted * 1.2**3, rel=0.01)
    assert second.transform().m11() == pytest.approx(first.transform().m11(), rel=0.05)
    now = first.share_at(at.toPoint())
    assert (now.x(), now.y()) == pytest.approx((share.x(), share.y()), abs=0.02)
    middle = second.share_at(second.viewport().rect().center())
    QTest.mousePress(first.viewport(), LEFT, NONE, QPoint(100, 100))
    to = QPointF(140, 120)
    there = QPointF(first.viewport().mapToGlobal(to.toPoint()))
    QApplication.sendEvent(first.viewport(), QMouseEvent(QEvent.Type.MouseMove, to, there, LEFT, LEFT, NONE))
    moved = second.share_at(second.viewport().rect().center())
    assert moved.x() < middle.x() - 0.02
    assert moved.y() < middle.y()
    QTest.keyClick(page, Qt.Key.Key_1)
    assert first.transform().m11() == pytest.approx(1.0)
    QTest.keyClick(page, Qt.Key.Key_0)
    assert first.transform().m11() == pytest.approx(fitted)


def test_takes_are_marked_and_kept_from_the_page(five, page):
    QTest.keyClick(page, Qt.Key.Key_V)
    assert five.tray.takes[1].marked
    assert page.panes[1].mark.text() == "★"
    page.panes[2].mark.click()
    assert [t.marked for t in five.tray.takes] == [False, True, True, False, False]
    page.panes[2].mark.click()
    assert not five.tray.takes[2].marked
    page.panes[3].keep.click()
    assert five.tray.takes[3].kept
    assert len(five.document.sheet.layers) == 1
    assert page.panes[3].keep.text() == "Kept ✓"
    QTest.keyClick(page, Qt.Key.Key_K)
    assert len(five.document.sheet.layers) == 2


def test_the_chosen_outlines_of_a_take_are_kept_alone(five):
    five.tray.list.setCurrentRow(0)
    e = five.document.sheet.elements[0]
    five.view.selection.choose(e.key)
    key(five, Qt.Key.Key_K, SHIFT)
    (patch,) = five.document.sheet.layers
    x0, y0, x1, y1 = (round(v) for v in e.outline.box)
    inside = np.zeros((256, 256), bool)
    inside[y0:y1, x0:x1] = True
    assert ((patch.region > 0) == inside).mean() > 0.99


def test_a_number_key_runs_so_many_takes_and_what_is_being_typed_counts(five, wait):
    draw(five, Qt.Key.Key_R, "green", 120, 10, 150, 50)
    five.view.words.edit(five.document.sheet.elements[-1].key)
    editor = five.view.words.editor
    editor.words.setText("green, red")
    before = len(five.tray.takes)
    key(five, Qt.Key.Key_3, CTRL)
    assert five.document.sheet.elements[-1].words == "green, red"
    wait(lambda: len(five.tray.takes) == before + 3 and not five.runner.running)


def test_return_puts_the_chosen_one_on_the_sheet(five, monkeypatch):
    five.dialogs.agrees = True
    five.tray.rest()

    def show(page):
        page.choose(3)
        return True

    monkeypatch.setattr(five.dialogs, "show", show)
    five.takes.show_all()
    assert five.tray.current is five.tray.takes[3]
