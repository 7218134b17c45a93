"""Kept words: put into whatever field was written in last, kept from it, and remembered when a pass has used them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QApplication, QWidget

from ...core.refused import Refused
from ...core.worded import worded
from ...files.kept_words import Kept, KeptWords, keep_house_words, read_list, read_words, small_picture, write_list, write_words
from ..columns.words_field import WordsField
from ..dialogs import Dialogs
from ..document import Document
from ..kept_page import KeptPage
from .runner import Job, Runner


@dataclass(frozen=True, eq=False)
class Place:
    """A field of words, that of what is avoided beside it, and what they are called."""

    words: WordsField
    avoid: WordsField
    name: str


class KeepingWords(QObject):
    """The file is read whenever it is needed, for commands write it too."""

    def __init__(
        self, document: Document, places: Sequence[Place], runner: Runner, dialogs: Callable[[], Dialogs], say: Callable[[str], None]
    ) -> None:
        super().__init__()
        self._document, self._places, self._dialogs, self.say = document, places, dialogs, say
        self._place = places[0]
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.focusChanged.connect(self._focused)
        runner.began.connect(self._used)

    def _focused(self, _: QWidget | None, now: QWidget | None) -> None:
        for place in self._places:
            if now in (place.words, place.avoid):
                self._place = place

    def _used(self, job: Job) -> None:
        plan = job.works[0].plan
        try:
            kept = before = read_words()
            for words in (*(e.words for e in plan.sheet.elements), plan.request.words, plan.sheet.scene.words):
                kept = kept.used(words)
            if kept != before:
                write_words(kept)
        except Refused as error:
            self.say(str(error))

    def show(self) -> None:
        """The page, for the field that was written in last."""
        try:
            page = KeptPage(read_words(), self._place.name, self._dialogs().parent)
        except Refused as error:
            self.say(str(error))
            return
        page.wanted.connect(self.put)
        page.keep_wanted.connect(lambda name: self._changed(page, lambda kept: self._with(kept, name)))
        page.forget_wanted.connect(lambda name: self._changed(page, lambda kept: kept.without(name)))
        page.import_wanted.connect(lambda: self._import(page))
        page.export_wanted.connect(self._export)
        self._dialogs().show(page)

    def put(self, kept: Kept) -> None:
        """Words behind those that the field has, and likewise what is avoided."""
        for field, more in ((self._place.words, kept.words), (self._place.avoid, kept.avoid)):
            there = field.text().strip().rstrip(",")
            if more and more not in there:
                field.setText(f"{there}, {more}" if there else more)
                field.editingFinished.emit()

    def _with(self, kept: KeptWords, name: str) -> KeptWords:
        sheet = self._document.sheet
        picture = small_picture(sheet.flatten()) if sheet.has_picture and sheet.rect.area <= 4_000_000 else b""
        return kept.with_list(name, Kept(self._place.words.text().strip(), self._place.avoid.text().strip(), picture))

    def _changed(self, page: KeptPage, change: Callable[[KeptWords], KeptWords]) -> None:
        def act() -> None:
            kept = change(read_words())
            write_words(kept)
            page.show_kept(kept)

        self._dialogs().attempt(act)

    def _import(self, page: KeptPage) -> None:
        path = self._dialogs().any_path(worded("Take in kept words"), worded("Text ({0})", "*.txt"))
        if path is not None:

            def with_all(kept: KeptWords) -> KeptWords:
                for name, one in read_list(path).items():
                    kept = kept.with_list(name, one)
                return kept

            self._changed(page, with_all)

    def _export(self) -> None:
        path = self._dialogs().save_path(worded("Write kept words"), "words.txt", worded("Text ({0})", "*.txt"), ".txt")
        if path is not None:
            self._dialogs().attempt(lambda: write_list(path, read_words().lists))

    def keep_for_folder(self) -> None:
        """The sheet's house words become those that new sheets of its folder begin with; empty ones end that."""
        path = self._document.path
        if path is None:
            self.say(worded("Save the sheet first: its folder is what the house words are kept for."))
            return
        scene = self._document.sheet.scene
        self._dialogs().attempt(lambda: self._keep_for(path.parent, Kept(scene.house, scene.house_avoid)))

    def _keep_for(self, folder: Path, kept: Kept) -> None:
        keep_house_words(folder, kept)
        text = (
            "New sheets in {0} begin with these house words."
            if kept.words or kept.avoid
            else "New sheets in {0} begin without house words."
        )
        self.say(worded(text, folder.name))
