"""Some words in an order that is changed by dragging them, or all of them at once."""

from __future__ import annotations

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import QCheckBox, QListView, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from ...core.fields import Field
from ...core.worded import worded

#: The word that an item stands for.
WORD = Qt.ItemDataRole.UserRole


class _Row(QListWidget):
    """The words side by side. Signals: moved(), when their order was changed by hand."""

    moved = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setFlow(QListView.Flow.LeftToRight)
        self.setDragDropMode(QListWidget.DragDropMode.InternalMove)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setWrapping(True)
        self.setResizeMode(QListView.ResizeMode.Adjust)
        self.setObjectName("order")
        model = self.model()
        assert model is not None
        model.rowsMoved.connect(lambda *_: self.moved.emit())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        # As many lines as the words need, so that none is cut off.
        self.scheduleDelayedItemsLayout()
        self.executeDelayedItemsLayout()
        lowest = max((self.visualItemRect(item).bottom() for i in range(self.count()) if (item := self.item(i)) is not None), default=0)
        self.setFixedHeight(max(lowest + self.verticalOffset(), self.fontMetrics().height()) + 2 * self.frameWidth() + 3)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        way = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0)
        if way and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.put(way)
        else:
            super().keyPressEvent(event)

    def put(self, way: int) -> None:
        """The current word nearer to the front (-1) or the back (1)."""
        row = self.currentRow()
        if 0 <= row + way < self.count():
            item = self.takeItem(row)
            self.insertItem(row + way, item)
            self.setCurrentRow(row + way)
            self.moved.emit()


class OrderList(QWidget):
    """Signals: ordered(the words in their order, or none: all at once), when it is changed by hand."""

    ordered = pyqtSignal(object)

    def __init__(self, field: Field, spoken: str) -> None:
        super().__init__()
        self._choices = dict(field.choices)
        self.one_by_one, self.row = QCheckBox(worded("one after the other")), _Row()
        self.one_by_one.setToolTip(worded(field.tip))
        self.one_by_one.setAccessibleName(worded("{0} one after the other", spoken))
        self.row.setToolTip(worded("{0} Drag them into another order, or use Alt+Left and Alt+Right.", worded(field.tip)))
        self.row.setAccessibleName(worded("order of {0}", spoken))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(3)
        layout.addWidget(self.one_by_one)
        layout.addWidget(self.row)
        self.one_by_one.toggled.connect(self._toggled)
        self.row.moved.connect(lambda: self.ordered.emit(self._shown()))
        self.show_order(())

    def show_order(self, words: tuple[str, ...]) -> None:
        """Shows an order without saying that it changed; what it lacks comes last."""
        if words != self._shown() or not self.row.count():
            with QSignalBlocker(self.row), QSignalBlocker(self.one_by_one):
                self.row.clear()
                for word in (*words, *(w for w in self._choices if w not in words)):
                    item = QListWidgetItem(worded(self._choices[word]))
                    item.setData(WORD, word)
                    self.row.addItem(item)
                self.one_by_one.setChecked(bool(words))
        self.row.setVisible(bool(words))

    def _shown(self) -> tuple[str, ...]:
        return tuple(self.row.item(i).data(WORD) for i in range(self.row.count())) if self.one_by_one.isChecked() else ()  # type: ignore[union-attr]

    def _toggled(self, on: bool) -> None:
        self.row.setVisible(on)
        self.ordered.emit(self._shown())
