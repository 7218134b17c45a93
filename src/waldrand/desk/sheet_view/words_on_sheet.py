"""An element's words, typed where it stands."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QObject, QPoint, pyqtSignal
from PyQt6.QtWidgets import QWidget

from ...core.packs import Pack
from ...core.worded import worded
from ..document import Document
from .words_editor import WordsEditor


class WordsOnSheet(QObject):
    """port: what the lines open on; place: where, for an element's key. Signals: opened() and left(), when the lines come and go."""

    opened = pyqtSignal()
    left = pyqtSignal()

    def __init__(self, document: Document, pack: Pack | None, port: QWidget, place: Callable[[int], QPoint]) -> None:
        super().__init__()
        self._document, self._pack, self._port, self._place = document, pack, port, place
        self._editor: WordsEditor | None = None

    @property
    def editor(self) -> WordsEditor | None:
        """The lines that are open."""
        return self._editor

    def edit(self, key: int) -> None:
        """Opens two lines on the sheet for an element's words and avoid words."""
        self.finish()
        at = self._place(key)
        editor = WordsEditor(self._document.sheet.element(key), self._pack, self._port)
        editor.done.connect(self.finish)
        editor.given_up.connect(lambda: self.finish(keep=False))
        for line in (editor.words, editor.avoid):
            line.textChanged.connect(self._typing)
        editor.move(max(2, at.x()), max(2, at.y()))
        editor.show()
        editor.words.setFocus()
        editor.words.selectAll()
        self._editor = editor
        self.opened.emit()

    def _typing(self) -> None:
        sheet, editor = self._document.sheet, self._editor
        if editor is not None and sheet.has_element(editor.key):
            words, avoid = editor.words.text().strip(), editor.avoid.text().strip()
            new = replace(sheet.element(editor.key), words=words, avoid=avoid, emphasis=editor.words.spans)
            self._document.would_be(sheet.with_element(new))

    def finish(self, keep: bool = True) -> None:
        """Closes the lines; their words are kept unless told otherwise."""
        editor, self._editor = self._editor, None
        if editor is None:
            return
        key, words, avoid, spans = editor.key, editor.words.text().strip(), editor.avoid.text().strip(), editor.words.spans
        editor.hide()
        editor.deleteLater()
        self.left.emit()
        sheet = self._document.sheet
        if keep and sheet.has_element(key):
            element = sheet.element(key)
            if (words, avoid, spans) != (element.words, element.avoid, element.emphasis):
                new = replace(element, words=words, avoid=avoid, emphasis=spans)
                self._document.edit(sheet.with_element(new), worded("words of “{0}”", element.name))
        elif not keep:
            self._document.would_be()
