"""What the artist wants of the desk at all times: the page of settings, what is kept, the empty sheet, files of the last time."""

from __future__ import annotations

import pytest
from by_hand import draw, key, opened
from PIL import Image
from PyQt6.QtCore import QEvent, QPoint, QSettings, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu

from waldrand.desk.look.look import PARCHMENT, SPRUCE
from waldrand.desk.look.typeface import FAMILY, FILES, load_typeface
from waldrand.desk.preferences import MOST_RECENT, Preferences, note_recent, read_preferences, recent_files, write_preferences
from waldrand.desk.settings_page import SettingsPage


@pytest.fixture
def begun(window):
    window.begin()
    return window


@pytest.fixture
def page(window):
    window.show_settings()
    return window.dialogs.shown[-1]


# --- settings


def test_the_look_the_text_and_the_names_change_at_once(window, page):
    assert isinstance(page, SettingsPage)
    page.look.setCurrentIndex(1)
    assert window.look is SPRUCE
    assert window.dark_action.isChecked()
    before = window.scene.words.fontInfo().pixelSize()
    page.text.setValue(18)
    assert window.scene.words.fontInfo().pixelSize() > before
    thin = window.rail.width()
    page.names.setChecked(True)
    QTest.qWait(10)
    assert window.rail.width() > thin + 40
    assert all(b.toolButtonStyle() == Qt.ToolButtonStyle.ToolButtonTextBesideIcon for b in window.rail._buttons)
    page.names.setChecked(False)
    assert window.rail.width() == thin


def test_live_is_switched_from_the_page_too(begun):
    begun.live.switch(True)
    begun.show_settings()
    begun.dialogs.shown[-1].live.setChecked(False)
    assert not begun.live.on
    assert not begun.shown.live.isChecked()


def test_everything_is_kept_for_the_next_time(window, page, closed, tmp_path):
    page.look.setCurrentIndex(1)
    page.text.setValue(16)
    page.live.setChecked(False)
    page.threads.setValue(1)
    page.folder.setText(str(tmp_path))
    page.author.setText("Nell Quarrender")
    page.rights.setText("© 2026 Nell Quarrender")
    page.pack.setText(str(tmp_path / "pack"))
    kept = read_preferences()
    assert kept == Preferences(
        "spruce", False, 16, False, 1, str(tmp_path), "Nell Quarrender", "© 2026 Nell Quarrender", str(tmp_path / "pack")
    )
    assert kept.pack_at == tmp_path / "pack"
    with opened(closed) as other:
        other.begin()
        assert other.look is SPRUCE
        assert not other.live.on
        assert other.dialogs.folder == str(tmp_path)


def test_what_is_kept_lies_where_desktops_keep_settings(window):
    import os

    write_preferences(Preferences(author="Nell"))
    assert QSettings("Waldrand", "Waldrand").fileName().startswith(os.environ["XDG_CONFIG_HOME"])


@pytest.mark.parametrize(("name", "value"), [("text", "enormous"), ("text", 900), ("threads", -4), ("look", "tartan"), ("live", "perhaps")])
def test_damaged_settings_hurt_nothing(name, value):
    QSettings("Waldrand", "Waldrand").setValue(f"preferences/{name}", value)
    kept = read_preferences()
    assert 12 <= kept.text <= 20
    assert kept.threads >= 0
    assert kept.of_look in (PARCHMENT, SPRUCE)


def test_exported_pictures_say_who_made_them_if_that_is_wanted(kept, tmp_path):
    kept.dialogs.path = tmp_path / "a.png"
    kept.saving.export_png()
    assert not {"Author", "Copyright"} & set(Image.open(tmp_path / "a.png").text)
    kept.show_settings()
    kept.dialogs.shown[-1].author.setText("Nell Quarrender")
    kept.dialogs.shown[-1].rights.setText("© Nell")
    kept.saving.export_png()
    text = Image.open(tmp_path / "a.png").text
    assert (text["Author"], text["Copyright"]) == ("Nell Quarrender", "© Nell")


def test_the_typeface_is_shipped_with_its_licence(app):
    from importlib.resources import files

    assert load_typeface() == (FAMILY,) or FAMILY in load_typeface()
    folder = files("waldrand") / "data" / "type"
    assert "SIL OPEN FONT LICENSE" in (folder / "OFL.txt").read_text("utf-8").upper()
    assert all((folder / name).is_file() for name in FILES)


def test_figures_are_all_of_one_width(window):
    for italic in (False, True):
        font = window.passes.seed.font()
        font.setItalic(italic)
        from PyQt6.QtGui import QFontInfo, QFontMetricsF

        assert QFontInfo(font).family() == FAMILY
        assert len({QFontMetricsF(font).horizontalAdvance(d) for d in "0123456789"}) == 1


# --- the empty sheet


def test_an_empty_sheet_says_what_to_do_and_the_demo_is_one_click_away(begun, wait):
    start = begun.bench.start
    assert start.isVisible()
    demo = next(b for b in start.findChildren(type(begun.passes.run)) if b.text() == "Open the demo")
    demo.click()
    wait(lambda: len(begun.document.sheet.elements) == 5)
    assert not start.isVisible()


def test_the_hand_draws_through_what_stands_there(begun):
    start = begun.bench.start
    middle = start.geometry().center()
    label = start.childAt(start.rect().center())
    begun.view.set_tool("box")
    port = begun.view.viewport()
    over = label or start
    # What the hand presses is the page, not the sheet below.
    from_page = start.mapTo(over, QPoint(5, 5)) if over is start else over.rect().center()
    QTest.mousePress(over, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, from_page)
    assert begun.view.busy
    QTest.mouseMove(port, middle + QPoint(60, 60))
    QTest.mouseRelease(port, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, middle + QPoint(60, 60))
    assert not begun.view.busy or begun.view.words.editor is not None


def test_it_goes_with_the_first_thing_and_comes_back_when_that_is_undone(begun):
    draw(begun, Qt.Key.Key_R, "blue", 10, 10, 60, 60)
    assert not begun.bench.start.isVisible()
    while begun.document.undo.canUndo():
        key(begun, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert begun.bench.start.isVisible()


# --- files of the last time


def test_files_are_offered_again_the_last_one_first(tmp_path):
    paths = [tmp_path / f"{i}.ora" for i in range(MOST_RECENT + 3)]
    for path in paths:
        path.write_text("")
        note_recent(path)
    assert recent_files() == paths[: -MOST_RECENT - 1 : -1]
    note_recent(paths[-3])
    assert recent_files()[0] == paths[-3]
    assert len(recent_files()) == MOST_RECENT
    paths[-3].unlink()
    assert paths[-3] not in recent_files()


def test_a_saved_sheet_is_opened_again_from_the_menu_and_from_the_empty_sheet(begun, closed, tmp_path):
    draw(begun, Qt.Key.Key_R, "blue", 10, 10, 60, 60)
    begun.dialogs.path = tmp_path / "lake.ora"
    begun.save()
    assert begun.saving.finish_saving()
    begun.opening.new_sheet()
    assert not begun.document.sheet.elements
    menu = next(m for m in begun.menuBar().findChildren(QMenu) if m.title() == "Open again")
    menu.aboutToShow.emit()
    assert [a.text() for a in menu.actions()] == ["lake.ora"]
    menu.actions()[0].trigger()
    assert len(begun.document.sheet.elements) == 1
    begun.opening.new_sheet()
    assert "lake.ora" in begun.bench.start.files.text()
    begun.bench.start.files.linkActivated.emit(str(tmp_path / "lake.ora"))
    assert begun.document.path == tmp_path / "lake.ora"
    begun.show()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
