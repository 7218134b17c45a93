"""The desk as it is laid out: the sheet stays in its place, signs are drawn, the ladder, the strip, folds and the line of hints."""

from __future__ import annotations

from dataclasses import replace
from importlib.resources import files

import numpy as np
import pytest
from by_hand import LEFT, draw, key, opened, run, strip
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QEvent, QPoint, QPointF, QRect, QSize, Qt
from PyQt6.QtGui import QAction, QEnterEvent, QImage, QMouseEvent, QPainter, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QComboBox, QScrollArea, QStyle, QStyleOptionComboBox, QStyleOptionViewItem

from waldrand.core.passes.kinds import offered_kinds
from waldrand.core.values.element import Element
from waldrand.core.values.outline import Outline
from waldrand.desk.columns.floating import beside
from waldrand.desk.look.images import from_image
from waldrand.desk.look.look import PARCHMENT, SPRUCE
from waldrand.desk.look.signs import drawn, sign_text
from waldrand.desk.sheet_view import view
from waldrand.desk.tools import TOOLS
from waldrand.desk.tools.drawing import Rectangle

SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


def corners(window):
    """Where the sheet's two corners lie on the screen."""
    QApplication.processEvents()
    rect = window.document.sheet.rect
    return [window.view.mapToGlobal(window.view.mapFromScene(x, y)) for x, y in ((0, 0), (rect.x1, rect.y1))]


def many(window, count):
    words = ("red fox", "birch", "white cottage")
    elements = tuple(
        Element(k, f"e{k}", Outline("box", (8 * (k % 20), 8 * (k // 20), 8 * (k % 20) + 20, 8 * (k // 20) + 20)), words[k % 3])
        for k in range(1, count + 1)
    )
    window.document.edit(replace(window.document.sheet, elements=elements), "many")


# --- the sheet's place


@pytest.mark.parametrize("tool", list(TOOLS))
def test_choosing_a_tool_leaves_the_sheet_where_it_is(kept, tool):
    before = corners(kept)
    kept.rail.tools[tool].trigger()
    assert kept.view.tool == tool
    assert corners(kept) == before


@pytest.mark.parametrize("fold", [Qt.Key.Key_F6, Qt.Key.Key_F7, Qt.Key.Key_F8])
def test_folding_a_part_leaves_the_sheet_where_it_is(kept, fold):
    before, room = corners(kept), kept.view.width() * kept.view.height()
    key(kept, fold)
    QApplication.processEvents()
    assert kept.view.width() * kept.view.height() > room
    assert corners(kept) == before
    key(kept, fold)
    assert corners(kept) == before


def test_messages_takes_words_and_choices_leave_the_sheet_where_it_is(kept, wait):
    before = corners(kept)
    kept.say("Something was said that is a good deal longer than the others, so that it needs more room than they do.")
    assert corners(kept) == before
    kept.view.selection.choose(kept.document.sheet.elements[0].key)
    assert corners(kept) == before
    kept.document.edit(replace(kept.document.sheet, scene=replace(kept.document.sheet.scene, words="green, " * 60)), "words")
    assert corners(kept) == before
    kept.passes.fold.button.click()
    kept.passes.kinds["rework"].click()
    assert corners(kept) == before
    run(kept, wait)
    assert corners(kept) == before


def test_the_sheet_alone_is_as_large_as_the_window_allows(kept):
    key(kept, Qt.Key.Key_F9)
    QApplication.processEvents()
    assert not kept.elements.isVisible()
    assert not kept.passes.isVisible()
    assert not kept.tray.isVisible()
    assert kept.view.width() > 0.9 * kept.width()
    key(kept, Qt.Key.Key_F9)
    assert kept.elements.isVisible()


@pytest.mark.parametrize(("width", "height"), [(900, 600), (1280, 760), (2560, 1600)])
def test_nothing_lies_outside_the_window(kept, width, height):
    kept.resize(width, height)
    QApplication.processEvents()
    assert (kept.width(), kept.height()) == (width, height)
    for part in (kept.rail, kept.view, kept.tray, kept.passes.run, kept.hints, kept.scene, kept.tray.keep):
        place = QRect(part.mapTo(kept, QPoint(0, 0)), part.size())
        assert kept.rect().contains(place), part


@pytest.fixture
def ours(app, own):
    """The window with the pack that it comes with, which has all that a pass can be set to."""
    with opened(own) as w:
        yield w


@pytest.mark.parametrize("kind", [kind.name for kind in offered_kinds()])
def test_nothing_in_the_pass_column_is_cut_off(ours, kind):
    ours.resize(1280, 600)
    ours.passes.kinds[kind].click()
    ours.passes.fold.unfold(True)
    QTest.qWait(20)
    (area,) = ours.passes.findChildren(QScrollArea)
    inner = area.widget()
    assert area.verticalScrollBar().isVisible()
    assert inner.width() == area.viewport().width()
    assert inner.minimumSizeHint().width() <= area.viewport().width()
    for box in inner.findChildren(QComboBox):
        if box.isVisible():
            option = QStyleOptionComboBox()
            box.initStyleOption(option)
            room = box.style().subControlRect(QStyle.ComplexControl.CC_ComboBox, option, QStyle.SubControl.SC_ComboBoxEditField, box)
            assert box.fontMetrics().horizontalAdvance(box.currentText()) <= room.width(), box.currentText()


def test_the_wheel_scrolls_the_pass_column_and_changes_nothing(ours):
    ours.resize(1280, 600)
    ours.passes.fold.unfold(True)
    QTest.qWait(20)
    (area,) = ours.passes.findChildren(QScrollArea)
    before, still = ours.document.draft, (Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase)
    for box in (ours.passes.method, ours.passes.sampler, ours.passes.steps, ours.passes.ink.slider):
        area.verticalScrollBar().setValue(0)
        at = QPointF(box.rect().center())
        wheel = QWheelEvent(at, box.mapToGlobal(at), QPoint(), QPoint(0, -120), *still, False)
        QApplication.sendEvent(box, wheel)
        assert not wheel.isAccepted()
    assert ours.document.draft == before


def test_the_sheet_has_most_of_the_room(kept):
    kept.resize(1280, 800)
    QApplication.processEvents()
    assert kept.view.width() >= 800
    assert kept.view.height() >= 600


# --- signs


@pytest.mark.parametrize("name", [hand.sign or name for name, hand in TOOLS.items()])
def test_signs_are_there_in_the_colour_of_the_ink_at_every_size(app, name):
    assert (files("waldrand") / "data" / "signs" / f"{name}.svg").is_file()
    assert "currentColor" in sign_text(name)
    for look in (PARCHMENT, SPRUCE):
        for side in (22, 44):
            pixels = from_image(drawn(name, look.ink, side).toImage())
            seen = pixels[..., 3] > 200
            assert 0.02 < seen.mean() < 0.8
            ink = np.array([int(look.ink[i : i + 2], 16) for i in (1, 3, 5)])
            assert np.abs(pixels[seen][:, :3].astype(int) - ink).max() < 12


def test_every_tool_has_its_own_sign():
    texts = [sign_text(hand.sign or name) for name, hand in TOOLS.items()]
    assert len(set(texts)) == len(texts)


def test_no_key_belongs_to_two(window):
    whose: dict[str, set[str]] = {}
    for action in window.findChildren(QAction):
        for sequence in action.shortcuts():
            whose.setdefault(sequence.toString(), set()).add(action.text())
    assert {k: v for k, v in whose.items() if len(v) > 1} == {}


# --- bare pictures and the line of hints


def test_a_key_shows_the_bare_picture_while_it_is_held(kept):
    draw(kept, Qt.Key.Key_R, "red", 20, 20, 90, 90)
    QTest.keyPress(kept, Qt.Key.Key_Z)
    bare = kept.view.grab().toImage()
    QTest.keyRelease(kept, Qt.Key.Key_Z)
    assert kept.view.grab().toImage() != bare
    key(kept, Qt.Key.Key_Z, SHIFT)
    assert "only the picture (Shift+Z)" in kept.hints.text
    key(kept, Qt.Key.Key_Z, SHIFT)
    assert "only the picture" not in kept.hints.text


def test_a_held_key_counts_no_more_when_another_window_comes_to_the_front(kept):
    draw(kept, Qt.Key.Key_R, "red", 20, 20, 90, 90)
    usual = kept.view.grab().toImage()
    QTest.keyPress(kept, Qt.Key.Key_Z)
    assert kept.view.grab().toImage() != usual
    QApplication.sendEvent(kept, QEvent(QEvent.Type.WindowDeactivate))
    assert kept.view.grab().toImage() == usual


def test_unusual_modes_are_said_with_the_key_that_ends_them(window):
    key(window, Qt.Key.Key_O)
    assert "outlines hidden (O)" in window.hints.text
    key(window, Qt.Key.Key_O)
    assert "outlines hidden" not in window.hints.text
    window.rail.tools["brush"].trigger()
    key(window, Qt.Key.Key_X)
    assert "eraser on (X)" in window.hints.text
    window.rail.tools["arrange"].trigger()
    assert "eraser" not in window.hints.text


@pytest.mark.parametrize("tool", list(TOOLS))
def test_every_tool_says_what_it_does(window, tool):
    window.rail.tools[tool].trigger()
    assert window.view.hands[tool].hint
    assert window.view.hands[tool].hint in window.hints.text


# --- the ladder


def test_the_ladder_and_the_sheet_choose_the_same(two):
    first, second = (e.key for e in two.document.sheet.elements)
    ladder = two.elements.ladder
    QTest.mouseClick(ladder.viewport(), LEFT, pos=ladder.visualItemRect(ladder.item(0)).center())
    assert two.view.selection.keys == (first,)
    QTest.mouseClick(ladder.viewport(), LEFT, CTRL, ladder.visualItemRect(ladder.item(1)).center())
    assert set(two.view.selection.keys) == {first, second}
    two.view.selection.choose(second)
    assert [i.row() for i in ladder.selectedIndexes()] == [1]


def test_many_elements_can_be_looked_for(window):
    many(window, 12)
    assert not window.elements.search.isVisible()
    many(window, 200)
    assert window.elements.search.isVisible()
    QTest.keyClicks(window.elements.search, "fox")
    ladder = window.elements.ladder
    seen = [ladder.item(i).text() for i in range(ladder.count()) if not ladder.item(i).isHidden()]
    assert 60 < len(seen) < 70
    assert all("fox" in text for text in seen)
    window.elements.search.clear()
    assert not any(ladder.item(i).isHidden() for i in range(ladder.count()))


def test_what_is_unusual_about_an_element_stands_in_its_row(two):
    e = two.document.sheet.elements[0]
    two.document.edit(two.document.sheet.with_element(replace(e, locked=True, hold=True)), "lock")
    assert two.elements.ladder.item(0).text().endswith("(held, locked)")


# --- the strip


def test_the_strip_lies_beside_its_element_and_goes_while_the_hand_is_at_work(window):
    e = draw(window, Qt.Key.Key_R, "red", 20, 20, 90, 90)
    made = strip(window, e.key)
    view = window.view
    QApplication.processEvents()
    box = QRect(view.mapFromScene(20, 20), view.mapFromScene(90, 90))
    assert made.isVisible()
    assert not made.geometry().intersects(box)
    for folded in (True, False):
        made.fold.setChecked(folded)
        QTest.qWait(10)
        for part in (made.words, made.remove, made.figure if made.figure.isVisible() else made.hold, made.told if folded else made.seed):
            assert made.rect().contains(part.mapTo(made, part.rect().bottomRight())), part.accessibleName()
    at = box.center()
    QTest.mousePress(view.viewport(), LEFT, pos=at)
    assert not made.isVisible()
    QTest.mouseRelease(view.viewport(), LEFT, pos=at)
    assert made.isVisible()
    # Nor is it in the way of a hand that draws.
    for tool in ("box", "brush"):
        window.rail.tools[tool].trigger()
        assert not made.isVisible()
    window.rail.tools["arrange"].trigger()
    assert made.isVisible()
    view.selection.choose(None)
    assert not made.isVisible()


def test_the_strip_stays_where_it_was_put_until_it_is_let_go(window):
    e = draw(window, Qt.Key.Key_R, "red", 20, 20, 90, 90)
    made = strip(window, e.key)
    QApplication.processEvents()
    grip, before = made.swatch.geometry().center(), made.pos()
    QTest.mousePress(made, LEFT, pos=grip)
    to = QPointF(grip + QPoint(-40, 60))
    QApplication.sendEvent(made, QMouseEvent(QEvent.Type.MouseMove, to, LEFT, LEFT, Qt.KeyboardModifier.NoModifier))
    QTest.mouseRelease(made, LEFT, pos=grip)
    put = made.pos()
    assert put != before
    made.weight.setValue(2.0)
    assert made.pos() == put
    QTest.mouseDClick(made, LEFT, pos=made.swatch.geometry().center())
    assert made.pos() == before


@given(
    st.integers(-50, 900), st.integers(-50, 700), st.integers(10, 400), st.integers(10, 400), st.integers(600, 1600), st.integers(500, 1200)
)
def test_a_strip_covers_nothing_where_there_is_room(x, y, w, h, width, height):
    around, size, port = QRect(x, y, w, h), QSize(300, 150), QRect(0, 0, width, height)
    seen = around.intersected(port)
    place = QRect(beside(around, size, port), size)
    clamped = QRect(QPoint(min(max(0, place.x()), width - 300), min(max(0, place.y()), height - 150)), size)
    left, right, above, below = seen.left(), width - seen.right(), seen.top(), height - seen.bottom()
    if seen.isEmpty() or max(left, right) > 302 or max(above, below) > 152:
        assert not clamped.adjusted(1, 1, -1, -1).intersects(around)


# --- takes


def test_the_pointer_on_a_take_shows_it_and_takes_nothing_away(with_take, wait):
    tray = with_take.tray
    tray.rest()
    sheet, seen = with_take.document.sheet, []
    tray.hovered.connect(seen.append)
    at = tray.list.visualItemRect(tray.list.item(0)).center()
    none = Qt.MouseButton.NoButton
    QApplication.sendEvent(tray.list.viewport(), QEnterEvent(QPointF(at), QPointF(at), QPointF(at)))
    move = QMouseEvent(QEvent.Type.MouseMove, QPointF(at), none, none, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(tray.list.viewport(), move)
    wait(lambda: bool(seen))
    assert seen[-1] is tray.takes[0]
    QApplication.sendEvent(tray.list, QEvent(QEvent.Type.Leave))
    assert seen[-1] is None
    assert tray.current is None
    assert with_take.document.sheet is sheet


def test_the_strip_of_takes_can_be_made_higher(with_take):
    before = with_take.tray.list.visualItemRect(with_take.tray.list.item(0)).height()
    with_take.middle.setSizes([200, 400])
    QApplication.processEvents()
    assert with_take.tray.list.visualItemRect(with_take.tray.list.item(0)).height() > before


@pytest.mark.parametrize("place", [(0, 0, 100, 64), (20, 30, 100, 80), (5, 5, 92, 200)])
def test_a_take_and_its_line_lie_within_their_place_however_high_the_strip_became(with_take, place):
    strip, option, canvas = with_take.tray.list, QStyleOptionViewItem(), QImage(300, 300, QImage.Format.Format_ARGB32)
    canvas.fill(Qt.GlobalColor.magenta)
    option.rect = QRect(*place)
    painter = QPainter(canvas)
    painter.setFont(strip.font())
    with_take.tray.delegate.paint(painter, option, strip.model().index(0, 0))
    painter.end()
    drawn = np.argwhere((from_image(canvas)[..., :3] != (255, 0, 255)).any(-1))
    (top, left), (bottom, right) = drawn.min(0), drawn.max(0)
    assert option.rect.contains(QRect(QPoint(left, top), QPoint(right, bottom)))
    # Its picture is as high as there is room above its line.
    assert top <= option.rect.top() + 5 or option.rect.height() > option.rect.width()
    assert bottom >= option.rect.bottom() - 12


# --- the fold of settings


def test_a_fold_says_what_differs_from_what_the_model_recommends(window):
    assert "<b>" not in window.passes.fold.line.text()
    window.passes.guidance.setValue(9.0)
    assert "<b>guidance 9</b>" in window.passes.fold.line.text()
    window.passes.fold.unfold(False)
    assert not window.passes.guidance.isVisible()
    assert window.passes.takes.isVisible()
    assert window.passes.fold.line.isVisible()


def test_thirty_tools_have_room_beside_a_sheet(app, closed, monkeypatch):
    unlike = {"shortcut": "", "sign": "box"}
    more = {f"more{i}": type(f"More{i}", (Rectangle,), {"name": f"more{i}", "title": f"More {i}"} | unlike) for i in range(30 - len(TOOLS))}
    monkeypatch.setattr(view, "TOOLS", {**TOOLS, **more})
    with opened(closed) as w:
        QTest.qWait(20)
        buttons = w.rail._buttons
        assert len(buttons) == 30
        assert all(w.rail.rect().contains(b.geometry()) for b in buttons)
        places = [b.geometry() for b in buttons]
        assert not any(a.intersects(b) for i, a in enumerate(places) for b in places[:i])
        assert w.rail.width() < 90
        assert (w.width(), w.height()) == (1280, 800)
        w.resize(1280, 1400)
        QTest.qWait(20)
        assert w.rail.width() < 50
