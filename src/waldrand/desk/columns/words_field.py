"""A field of words, as high as they need: known ones are completed, unknown ones underlined, phrases made stronger or weaker."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QMimeData, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFocusEvent, QKeyEvent, QKeySequence, QPainter, QPaintEvent, QPalette, QPen, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QPlainTextEdit, QSizePolicy

from ...core.packs import Pack
from ...core.values.element import phrases
from ...core.values.emphasis import STEP, Span, carried, emphasised, located_phrases, weighed_phrases
from ...core.worded import worded
from .offers import Offers, unknown_in

#: Screen pixels round the words, and round the border of the field.
MARGIN, BORDER = 3, 3
#: The most rows of words that are shown at a time.
MOST_ROWS = 8
#: Colours of what counts more, and of the line under what is not known.
STRONGER, UNKNOWN = "#e0931e", "#c2412a"
EMPHASIS_TIP = " Ctrl+Up and Ctrl+Down (or the wheel with Ctrl) make the phrase at the caret stronger or weaker."


class WordsField(QPlainTextEdit):
    """worded(text) comes when it is left, Enter is pressed or an emphasis changes; `spans` are the emphasis then. editingFinished()
    comes when it is left or Enter is pressed, returnPressed() with Enter only.

    pack: whose words are completed and checked; None for a field that is no prompt.
    """

    said = pyqtSignal(str)
    editingFinished = pyqtSignal()  # noqa: N815
    returnPressed = pyqtSignal()  # noqa: N815

    def __init__(self, placeholder: str, tip: str, name: str, pack: Pack | None = None, emphasis: bool = False) -> None:
        super().__init__()
        self.setPlaceholderText(placeholder)
        self.most_rows = MOST_ROWS
        self.tip = tip + (EMPHASIS_TIP if emphasis else "")
        self.setToolTip(self.tip)
        self.setAccessibleName(name)
        self.setMinimumWidth(40)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        for set_policy in (self.setVerticalScrollBarPolicy, self.setHorizontalScrollBarPolicy):
            set_policy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setTabChangesFocus(True)
        document = self.document()
        assert document is not None
        document.setDocumentMargin(MARGIN)
        self._pack, self._emphasis = pack, emphasis
        self._spans: tuple[Span, ...] = ()
        self._text = ""
        # As it was last shown or said.
        self._settled = ""
        self._unknown: dict[str, list[tuple[int, int]]] = {}
        self.editingFinished.connect(self._say)
        self.textChanged.connect(self._changed)
        self._offers = Offers(self, () if pack is None else tuple(sorted(pack.offers())))
        self._offers.taken.connect(self.complete)
        self._fit()

    def text(self) -> str:
        return self.toPlainText()

    def setText(self, text: str) -> None:
        self.setPlainText(text)
        self._fit()

    def cursorPosition(self) -> int:
        """The characters before the caret."""
        return self.textCursor().position()

    def setCursorPosition(self, at: int) -> None:
        cursor = self.textCursor()
        cursor.setPosition(min(at, len(self.text())))
        self.setTextCursor(cursor)

    def _fit(self) -> None:
        """As high as the words need."""
        document = self.document()
        assert document is not None
        rows = max(1, min(self.most_rows, round(document.size().height())))
        height = rows * self.fontMetrics().lineSpacing() + 2 * (MARGIN + BORDER)
        if height != self.height():
            self.setFixedHeight(height)

    def sizeHint(self) -> QSize:
        return QSize(120, self.height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def insertFromMimeData(self, source: QMimeData | None) -> None:
        """What is pasted stays one row of phrases."""
        if source is not None:
            self.insertPlainText(", ".join(line.strip() for line in source.text().splitlines() if line.strip()))

    @property
    def spans(self) -> tuple[Span, ...]:
        """Where phrases count more or less."""
        if self.text() != self._text:
            self._edited(self.text())
        shift = len(self.text()) - len(self.text().lstrip())
        return tuple((max(0, a - shift), b - shift, f) for a, b, f in self._spans)

    def show_text(self, text: str, spans: tuple[Span, ...] = ()) -> None:
        """Shows words unless others are being typed just now."""
        typed = self.hasFocus() and (self.text() != self._settled or self.text().strip() == text)
        if not typed and text != self.text():
            self.setText(text)
            self.setCursorPosition(len(text))
        if text == self.text():
            self._text, self._spans, self._settled = text, spans, text
            self._hint()
            self.update()

    def _say(self) -> None:
        self._settled = self.text()
        self.said.emit(self.text().strip())

    def _changed(self) -> None:
        self._fit()
        if self.hasFocus():
            self._edited(self.text())

    def _edited(self, text: str) -> None:
        self._spans, self._text = carried(self._text, self._spans, text), text
        self._hint()
        if self.hasFocus():
            self._offers.offer(self._piece()[1].lower())

    def _hint(self) -> None:
        """The tooltip names unknown words and the nearest known ones."""
        if self._pack is None:
            return
        strange = [u for p in phrases(self.text()) for u in self._pack.read(p)[1]]
        said = [
            worded("“{0}” is not known", u.word) + (worded("; nearest: {0}", ", ".join(u.nearest)) if u.nearest else "") for u in strange
        ]
        self.setToolTip("\n".join([self.tip, *said]))

    def offered(self) -> list[str]:
        """The phrases offered just now."""
        return self._offers.shown()

    def _piece(self) -> tuple[int, str]:
        """The beginning of the phrase up to the caret, and where it starts."""
        before = self.text()[: self.cursorPosition()]
        start = max(before.rfind(c) for c in ",;") + 1
        return start + len(before[start:]) - len(before[start:].lstrip()), before[start:].lstrip()

    def complete(self, phrase: str) -> None:
        """Puts a phrase in the place of what was typed of it."""
        start, piece = self._piece()
        text = self.text()
        self.setText(text[:start] + phrase + text[start + len(piece) :])
        self.setCursorPosition(start + len(phrase))
        self._spans, self._text = carried(self._text, self._spans, self.text()), self.text()

    def stress(self, change: float) -> None:
        """Makes the phrase at the caret stronger (change > 0) or weaker."""
        if self._emphasis and self.text().strip():
            self._spans = emphasised(self.text(), self.spans, self.cursorPosition(), change)
            self._text = self.text()
            self.update()
            self._say()

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            document = self.document()
            assert document is not None
            undo, redo = (event.matches(k) for k in (QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo))
            if (undo and not document.isUndoAvailable()) or (redo and not document.isRedoAvailable()):
                # Nothing was typed: it is the sheet that is meant.
                event.ignore()
                return False
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.stress(STEP if event.key() == Qt.Key.Key_Up else -STEP)
            event.accept()
            return
        if self._offers.key(event.key()):
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.returnPressed.emit()
            self.editingFinished.emit()
            return
        if event.key() == Qt.Key.Key_Escape:
            event.ignore()
            return
        super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self._offers.withdraw()
        # A menu over the window is not leaving it.
        if event is None or event.reason() not in (Qt.FocusReason.ActiveWindowFocusReason, Qt.FocusReason.PopupFocusReason):
            self.editingFinished.emit()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None and self._emphasis and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.setTextCursor(self.cursorForPosition(event.position().toPoint()))
            self.stress(STEP if event.angleDelta().y() > 0 else -STEP)
            event.accept()
        elif event is not None:
            event.ignore()

    def unknown(self) -> list[tuple[int, int]]:
        """Where the words are that the model does not know, or that are too many for one phrase."""
        text = self.text()
        if self._pack is None:
            return []
        if text not in self._unknown:
            self._unknown = {text: unknown_in(text, self._pack)}
        return self._unknown[text]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        marked = self._emphasis and self._spans and self._text == self.text()
        # What counts more lies on amber, what counts less is faded; the more so, the farther from plain.
        if marked:
            _wash(self, self._spans, QColor(STRONGER), lambda factor: min(0.8, 0.2 + 0.5 * (factor - 1)) if factor > 1 else 0.0)
        super().paintEvent(event)
        if marked:
            paper = self.palette().color(QPalette.ColorRole.Base)
            _wash(self, self._spans, paper, lambda factor: 0.25 + 0.65 * (1 - factor) if factor < 1 else 0.0)
        p = QPainter(self.viewport())
        p.setPen(QPen(QColor(UNKNOWN), 1.4, Qt.PenStyle.DotLine))
        for place in self.unknown():
            for x0, x1, _, y1 in rows_of(self, *place):
                p.drawLine(QPointF(x0, y1 - 1), QPointF(x1, y1 - 1))
        p.end()


def _wash(field: WordsField, spans: tuple[Span, ...], colour: QColor, strength: Callable[[float], float]) -> None:
    """Lays a colour over each phrase of a field, by its emphasis."""
    text, p = field.text(), QPainter(field.viewport())
    for (a, b, _), (_, factor) in zip(located_phrases(text), weighed_phrases(text, spans), strict=True):
        colour.setAlphaF(strength(factor))
        for x0, x1, y0, y1 in rows_of(field, a, b):
            p.fillRect(QRectF(x0, y0, x1 - x0, y1 - y0), colour)
    p.end()


def rows_of(field: WordsField, a: int, b: int) -> list[tuple[float, float, float, float]]:
    """Where characters of a field stand, a row each: left, right, top and bottom in screen pixels."""
    document = field.document()
    assert document is not None
    block = document.findBlock(a)
    layout, origin = block.layout(), field.blockBoundingGeometry(block).translated(field.contentOffset()).topLeft()
    out = []
    for i in range(layout.lineCount() if layout is not None else 0):
        line = layout.lineAt(i)  # type: ignore[union-attr]
        first, last = block.position() + line.textStart(), block.position() + line.textStart() + line.textLength()
        if a < last and b > first:
            x0, x1 = (line.cursorToX(min(max(at, first), last) - block.position())[0] for at in (a, b))
            y0 = origin.y() + line.y()
            out.append((origin.x() + x0, origin.x() + x1, y0, y0 + line.height()))
    return out
