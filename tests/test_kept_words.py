"""Kept words: under names, used last, as text, for a folder; put into the field that was written in."""

from __future__ import annotations

import json
from contextlib import suppress

import pytest
from by_hand import key, opened, run
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import Qt

from waldrand.cli import main
from waldrand.core.refused import Refused
from waldrand.files.kept_words import (
    HOUSE_FILE,
    MOST_RECENT,
    Kept,
    KeptWords,
    as_text,
    from_text,
    house_words,
    keep_house_words,
    read_words,
    words_file,
    write_words,
)

PHRASE = st.text(st.characters(categories=["L", "N"]), min_size=1, max_size=12)
LISTS = st.dictionaries(PHRASE, st.builds(Kept, st.lists(PHRASE, min_size=1, max_size=4).map(", ".join), PHRASE | st.just("")), max_size=5)


@pytest.fixture(autouse=True)
def home(monkeypatch, tmp_path):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "home"))


@given(LISTS)
def test_lists_come_back_from_their_text(lists):
    if not lists:
        with pytest.raises(Refused):
            from_text(as_text(lists))
    else:
        assert from_text(as_text(lists)) == lists


@given(st.text(max_size=200))
def test_any_text_is_read_or_refused(text):
    lists = {}
    with suppress(Refused):
        lists = from_text(text)
    assert all(one.words or one.avoid for one in lists.values())


def test_several_lines_of_words_are_joined():
    assert from_text("# dusk\nsunset,\nlong shadows\nAvoid: rain\n") == {"dusk": Kept("sunset, long shadows", "rain")}


def test_what_was_used_last_comes_first_and_only_so_many_are_kept():
    kept = KeptWords({})
    for i in range(70):
        kept = kept.used(f"words {i}")
    kept = kept.used("words 65").used("  ")
    assert kept.recent[:2] == ("words 65", "words 69")
    assert len(kept.recent) == MOST_RECENT


def test_kept_words_are_written_and_read_and_damage_is_said():
    kept = KeptWords({"dusk": Kept("sunset", "rain", b"png")}, ("sunset",))
    write_words(kept)
    assert read_words() == kept
    words_file().write_text("{", "utf-8")
    with pytest.raises(Refused, match="cannot be read"):
        read_words()
    words_file().write_text('{"lists": {"x": {"words": 3}}}', "utf-8")
    with pytest.raises(Refused):
        read_words()


@pytest.mark.parametrize(("name", "kept"), [("", Kept("a")), ("# x", Kept("a")), ("dusk", Kept(" "))])
def test_no_list_without_name_or_words(name, kept):
    with pytest.raises(Refused):
        KeptWords({}).with_list(name, kept)


def test_a_folder_keeps_its_house_words_and_lets_them_go(tmp_path):
    keep_house_words(tmp_path, Kept("gouache grain, soft light", "fog"))
    assert house_words(tmp_path) == Kept("gouache grain, soft light", "fog")
    keep_house_words(tmp_path, Kept(""))
    assert house_words(tmp_path) == Kept("")
    (tmp_path / HOUSE_FILE).write_bytes(b"\xff\xfe\x00")
    assert house_words(tmp_path) == Kept("")
    assert house_words(None) == Kept("")


def test_the_command_keeps_lists_exports_and_takes_them_in(tmp_path, capsys):
    text = tmp_path / "words.txt"
    assert main(["kept", "--add", "dusk", "--words", "sunset, lake", "--avoid", "rain"]) == 0
    assert main(["kept", "--export", str(text)]) == 0
    assert main(["kept", "--export", str(text)]) == 2
    assert main(["kept", "--remove", "dusk"]) == 0
    assert read_words().lists == {}
    assert main(["kept", "--import", str(text), "--json"]) == 0
    assert json.loads(capsys.readouterr().out.splitlines()[-1])["lists"] == {"dusk": {"words": "sunset, lake", "avoid": "rain"}}
    for wrong in (["--remove", "dawn"], ["--import", str(tmp_path / "none.txt")], ["--add", "x"]):
        assert main(["kept", *wrong]) == 2


# --- in the window


@pytest.fixture
def desk(app, closed, placed):
    with opened(closed) as w:
        w.document.open(placed, w.opening.blank_draft())
        yield w


def page(w):
    w.bench.keeping_words.show()
    return w.dialogs.shown[-1]


def test_words_go_into_the_field_that_was_written_in(desk):
    write_words(KeptWords({"dusk": Kept("red, blue", "black")}))
    desk.scene.words.setFocus()
    shown = page(desk)
    assert "the scene" in " ".join(label.text().lower() for label in shown.findChildren(type(desk.passes.status)))
    shown.search.setText("dusk")
    shown._take()
    assert desk.document.sheet.scene.words == "white, red, blue"
    assert desk.document.sheet.scene.avoid == "black"
    desk.document.undo.undo()
    desk.document.undo.undo()
    assert desk.document.sheet.scene.words == "white"


def test_the_words_of_a_field_are_kept_with_a_picture_and_forgotten(desk, painted):
    desk.document.open(painted, desk.opening.blank_draft())
    desk.scene.words.setFocus()
    shown = page(desk)
    assert not shown.empty.isHidden()
    shown.name.setText("meadow green")
    shown.keep.click()
    kept = read_words().lists["meadow green"]
    assert kept.words == "green"
    assert kept.picture.startswith(b"\x89PNG")
    assert shown.lists.count() == 1
    shown.forget.click()
    assert read_words().lists == {}


def test_what_a_pass_used_is_offered_again(desk, wait):
    run(desk, wait)
    assert read_words().recent[0] == "white"
    assert {"blue", "red"} <= set(read_words().recent)
    assert "white" in page(desk).lists.item(0).text()


def test_new_sheets_of_a_folder_begin_with_its_house_words(desk, tmp_path):
    desk.bench.keeping_words.keep_for_folder()
    assert "Save the sheet first" in desk.passes.status.text()
    desk.dialogs.path = tmp_path / "s.ora"
    desk.document.edit(desk.document.sheet.with_element(desk.document.sheet.elements[0]), "same")
    desk.scene.house.setText("yellow")
    desk.scene.house.editingFinished.emit()
    key(desk, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    desk.bench.keeping_words.keep_for_folder()
    assert (tmp_path / HOUSE_FILE).exists()
    desk.opening.new_sheet()
    assert desk.document.sheet.scene.house == "yellow"
