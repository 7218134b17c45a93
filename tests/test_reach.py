"""Whoever sits before it: other languages, large screens, no mouse, no eyes."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import pytest
from by_hand import draw, key, opened, run
from PyQt6.QtCore import QLocale, Qt
from PyQt6.QtGui import QAction
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractSlider,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QListView,
    QPlainTextEdit,
    QSizePolicy,
    QToolButton,
    QWidget,
)

from waldrand.core.worded import speak, worded
from waldrand.desk.settings_page import SettingsPage
from waldrand.desk.tongue import speak_as
from waldrand.files.typefaces import families, styles


def cut_off(window: QWidget) -> list[str]:
    """What is seen with less room than its text needs, or lies partly outside the window."""
    out = []
    for w in window.findChildren(QWidget):
        if not w.isVisible() or not isinstance(w, QLabel | QAbstractButton):
            continue
        text = w.text()
        if not text or w.sizePolicy().horizontalPolicy() == QSizePolicy.Policy.Ignored:
            continue
        if isinstance(w, QLabel) and w.wordWrap():
            if w.heightForWidth(w.width()) > w.height() + 1:
                out.append(f"{text[:60]}: {w.height()} pixels high, {w.heightForWidth(w.width())} needed")
        elif isinstance(w, QToolButton) and w.toolButtonStyle() == Qt.ToolButtonStyle.ToolButtonIconOnly and not w.icon().isNull():
            continue
        elif w.fontMetrics().horizontalAdvance(text.replace("&", "")) > w.width():
            out.append(f"{text[:60]}: {w.width()} pixels wide, {w.fontMetrics().horizontalAdvance(text)} needed")
        at = w.mapTo(window, w.rect().topLeft())
        inside_scroll = any(type(p).__name__ == "QScrollArea" for p in _above(w))
        if not inside_scroll and not window.rect().contains(at.x() + w.width() // 2, at.y() + w.height() // 2):
            out.append(f"{text[:60]}: outside the window")
    return out


def _above(w: QWidget) -> list[QWidget]:
    out = []
    while (w := w.parentWidget()) is not None:
        out.append(w)
    return out


def longer(template: str) -> str:
    """A language a third longer that marks whatever it says; templates keep their places."""
    letters = sum(c.isalpha() for c in template)
    return "⟦" + template + "~" * round(letters / 3) + "⟧"


@pytest.fixture
def pseudo(app):
    speak(longer)
    yield
    speak(str)


# --- other languages


def texts_of(w: QWidget) -> list[str]:
    out = [w.toolTip(), w.accessibleName()]
    if isinstance(w, QLabel | QAbstractButton):
        out.append(w.text())
    if isinstance(w, QLineEdit | QPlainTextEdit):
        out.append(w.placeholderText())
    if isinstance(w, QComboBox):
        out += [w.itemText(i) for i in range(w.count())]
    return out


#: Texts of Qt's own parts, which Qt translates.
QTS = {"Float", "Close"}


def said_in_english(top: QWidget) -> list[str]:
    """What a window says that goes through no translation: more than signs and numbers, and not the artist's own words."""
    own = (
        {e.words for e in top.document.sheet.elements} | {e.name for e in top.document.sheet.elements}
        if hasattr(top, "document")
        else set()
    )
    # Typefaces have names of their own.
    own |= {name for family in families() for name in (family, *styles(family))}
    listed = [t for w in top.findChildren(QWidget) for t in texts_of(w)]
    listed += [t for a in top.findChildren(QAction) for t in (a.text(), a.toolTip())]
    plain = (t.replace("&", "").strip() for t in listed)
    return sorted({t for t in plain if sum(c.isalpha() for c in t) > 2 and "⟦" not in t.upper() and t not in QTS | own})


def test_everything_the_window_says_can_be_translated(pseudo, own):
    with opened(own) as w:
        w.open_demo()
        w.view.selection.choose(w.document.sheet.elements[0].key)
        w.refresh_forecast()
        QTest.qWait(20)
        assert said_in_english(w) == []
        assert "⟦Composes" in w.passes.forecast.text()
        page = SettingsPage(w.preferences, own.info, w)
        assert [t for t in said_in_english(page) if "Lerchenmoor" not in t] == []


def test_refusals_and_warnings_are_translated_with_their_values_in_place(pseudo, window):
    draw(window, Qt.Key.Key_R, "blorb", 10, 10, 60, 60)
    window.refresh_forecast()
    assert "⟦The model does not know “blorb”" in window.passes.warnings.text()
    assert worded("Take {0} of {1}", 2, 5).startswith("⟦Take 2 of 5~")


def test_nothing_is_cut_off_in_a_language_a_third_longer(pseudo, own):
    with opened(own) as w:
        w.passes.fold.unfold(False)
        w.resize(1280, 800)
        w.open_demo()
        w.view.selection.choose(w.document.sheet.elements[0].key)
        w.refresh_forecast()
        QTest.qWait(30)
        assert cut_off(w) == []
        assert (w.width(), w.height()) == (1280, 800)
        w.view.selection.choose_all()
        QTest.qWait(30)
        assert cut_off(w.bench.several_strip) == []
        w.view.set_tool("frame")
        w.refresh_forecast()
        QTest.qWait(30)
        assert cut_off(w.bench.frame_strip) == []


def test_without_a_translation_all_is_english(app):
    assert not speak_as(QLocale("tlh"))
    assert worded("Saved {0}.", "a.ora") == "Saved a.ora."
    speak(str)


def test_a_list_of_all_that_is_said_is_written_for_translators(tmp_path):
    script = Path(__file__).parent.parent / "scripts" / "strings.py"
    path = tmp_path / "waldrand_de.ts"
    for _ in range(2):
        out = subprocess.run([sys.executable, script, path], capture_output=True, text=True, check=True).stdout
    text = path.read_text("utf-8")
    for said in ("Composes {0} with {1} element{2}, computed {3}.", "Saved {0}.", "Rectangle", "Line up", "Bring back dropped takes"):
        assert f"<source>{said}</source>" in text
    assert "0 of them translated" in out
    done = text.replace(
        '<source>Line up</source>\n      <translation type="unfinished" />', "<source>Line up</source><translation>Anstellen</translation>"
    )
    path.write_text(done, "utf-8")
    out = subprocess.run([sys.executable, script, path], capture_output=True, text=True, check=True).stdout
    assert "1 of them translated" in out
    assert "<translation>Anstellen</translation>" in path.read_text("utf-8")


# --- large screens

SCALED = """
import sys
sys.path.insert(0, {tests!r})
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication
from PyQt6.QtTest import QTest
from by_hand import draw, opened
from test_reach import cut_off
from waldrand.packs.closed_form import ClosedFormPack
app = QApplication([])
app.setStyle("Fusion")
with opened(ClosedFormPack()) as w:
    w.passes.fold.unfold(False)
    w.resize({width}, {height})
    QTest.qWait(20)
    e = draw(w, Qt.Key.Key_R, "blue", 30, 40, 120, 160)
    w.view.selection.choose(e.key)
    QTest.qWait(20)
    print(w.devicePixelRatioF())
    print([round(v) for v in w.document.sheet.elements[0].outline.box])
    print(cut_off(w))
    icon = w.rail.tools["box"].icon().pixmap(22, 22, )
    print(w.rail.tools["box"].icon().availableSizes()[-1].width())
    shot = w.grab()
    print(shot.width(), shot.height())
    print(w.rect().contains(w.strip.geometry()), w.width(), w.height())
"""


@pytest.mark.parametrize(("factor", "width", "height"), [(1.5, 1280, 800), (2, 1280, 800), (2, 1024, 700)])
def test_on_large_screens_things_land_where_they_are_put_and_nothing_is_cut_off(factor, width, height):
    code = SCALED.format(tests=str(Path(__file__).parent), width=width, height=height)
    more = {"QT_SCALE_FACTOR": str(factor), "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, env=os.environ | more, check=False)
    assert done.returncode == 0, done.stderr
    ratio, box, cut, side, size, last = done.stdout.strip().splitlines()
    assert float(ratio) == factor
    assert eval(box) == pytest.approx([30, 40, 120, 160], abs=1)
    assert cut == "[]"
    assert int(side) >= 44
    assert size == f"{round(width * factor)} {round(height * factor)}"
    assert last == f"True {width} {height}"


# --- no mouse


def test_everything_that_can_be_pressed_can_be_reached_without_a_mouse(with_take):
    """Each has the focus by Tab, or an action with a key, or does what a menu's entry does."""
    w = with_take
    w.view.selection.choose(w.document.sheet.elements[0].key)
    QTest.qWait(20)
    seen = set()
    w.passes.takes.setFocus()
    for _ in range(400):
        focused = QApplication.focusWidget()
        if focused is None or focused in seen:
            break
        seen.add(focused)
        QTest.keyClick(focused, Qt.Key.Key_Tab)
    with_keys = {a.toolTip().split(" (")[0] for a in w.findChildren(QAction) if a.shortcuts()}
    unreached = []
    for b in w.findChildren(QAbstractButton):
        if not b.isVisible() or not b.isEnabled() or b in seen or b.focusPolicy() & Qt.FocusPolicy.TabFocus:
            continue
        group = b.group()
        if group is not None and group.exclusive() and seen & set(group.buttons()):
            # Of those of which one is chosen the arrow keys reach the others.
            continue
        action = b.defaultAction() if isinstance(b, QToolButton) else None
        tip = b.toolTip()
        if (action is not None and action.shortcuts()) or "(" in tip or tip.split(" (")[0] in with_keys:
            continue
        unreached.append(b.accessibleName() or b.text())
    assert unreached == []


def test_a_picture_is_made_without_a_mouse(own, wait):
    with opened(own) as w:
        w.activateWindow()
        w.scene.words.setFocus()
        QTest.keyClicks(w.scene.words, "meadow, red fox")
        QTest.keyClick(w.scene.words, Qt.Key.Key_Return)
        # What was said is done with: the next key is the sheet's.
        assert QApplication.focusWidget() is w.view
        key(w, Qt.Key.Key_L, Qt.KeyboardModifier.ControlModifier)
        (e,) = w.document.sheet.elements
        key(w, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
        before = e.outline.box
        key(w, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
        assert w.document.sheet.elements[0].outline.box[0] == pytest.approx(before[0] + 10)
        w.passes.takes.setValue(1)
        w.document.set_draft(w.document.draft.with_value("steps", 2))
        run(w, wait)
        key(w, Qt.Key.Key_K)
        assert w.document.sheet.has_picture


# --- no eyes


def test_every_control_has_a_name_that_can_be_read_out(own):
    with opened(own) as w:
        w.open_demo()
        w.view.selection.choose(w.document.sheet.elements[0].key)
        QTest.qWait(20)
        nameless = []
        kinds = (QAbstractButton, QAbstractSpinBox, QAbstractSlider, QComboBox, QLineEdit, QPlainTextEdit, QListView)
        for c in w.findChildren(QWidget):
            if not isinstance(c, kinds) or c.objectName().startswith("qt_") or type(c).__name__ in ("QScrollBar", "ExpandingLineEdit"):
                continue
            inside = any(isinstance(p, QAbstractSpinBox | QComboBox) for p in _above(c))
            named = c.accessibleName() or (isinstance(c, QAbstractButton) and sum(x.isalpha() for x in c.text()) > 1)
            if not named and not inside:
                nameless.append(f"{type(c).__name__} {c.toolTip()[:40]}")
        assert nameless == []


def test_every_control_says_what_it_does(own):
    with opened(own) as w:
        silent = []
        for c in w.findChildren(QWidget):
            if isinstance(c, QAbstractButton | QAbstractSpinBox | QComboBox | QPlainTextEdit | QLineEdit) and not c.toolTip():
                inside = any(isinstance(p, QAbstractSpinBox | QComboBox) for p in _above(c))
                if not inside and not c.objectName().startswith("qt_") and "dockwidget" not in c.objectName():
                    silent.append(f"{type(c).__name__} {c.accessibleName() or getattr(c, 'text', str)()}")
        assert silent == []
