"""The elements, far to near, with the scene on top and the layers below."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QPoint, pyqtSignal
from PyQt6.QtWidgets import QFrame, QGridLayout, QVBoxLayout, QWidget

from ...core.packs import Pack
from ...core.values.element import MOST_WEIGHT
from ..document import Document, State
from .element_card import ElementCard, move_element
from .layer_row import LayerRow
from .widgets import heading, hint, labelled, number, scrolled, show_number
from .words_field import WordsField


class ElementsColumn(QWidget):
    """Signals: picked(key)."""

    picked = pyqtSignal(int)

    def __init__(self, document: Document, pack: Pack | None = None) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.document, self.pack = document, pack
        self.selected: int | None = None
        self.cards: dict[int, ElementCard] = {}
        self.rows: dict[int, LayerRow] = {}
        self._make_scene()
        layout = QVBoxLayout()
        layout.addWidget(heading("Scene"))
        layout.addWidget(self._scene_card())
        layout.addWidget(heading("Elements, far to near"))
        self._fill(layout)
        self._scroll = scrolled(layout)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(self._scroll)
        self._connect()
        document.changed.connect(self._changed)
        document.replaced.connect(self.refresh)
        self.refresh()

    def _make_scene(self) -> None:
        pack = self.pack
        self.scene = WordsField(
            "starry night, meadow, forest", "The scene: words for the whole picture, set apart by commas.", "scene words", pack, True
        )
        self.scene_avoid = WordsField(
            "nothing in particular", "Words that guidance leads away from, everywhere.", "scene avoid words", pack
        )
        self.house_avoid = WordsField("avoided everywhere", "House words to avoid, in every picture.", "house avoid words", pack)
        self.house = WordsField(
            "added everywhere", "House words: style, light or quality, added to every element.", "house words", pack, True
        )
        self.scene_weight = number(
            0, MOST_WEIGHT, 0.1, 2, "The scene's weight, 0 to 4. Too low: boxes show; too high: elements fade.", "scene weight"
        )

    def _scene_card(self) -> QFrame:
        card = QFrame()
        card.setObjectName("card")
        grid = QGridLayout(card)
        grid.setContentsMargins(8, 8, 8, 8)
        labelled(
            grid,
            ("scene", self.scene),
            ("avoid", self.scene_avoid),
            ("house", self.house),
            ("", self.house_avoid),
            ("weight", self.scene_weight),
        )
        return card

    def _fill(self, layout: QVBoxLayout) -> None:
        self.empty = hint(
            "No elements yet. Press R for a rectangle, E for an ellipse or F for a freehand outline, draw on the sheet where "
            "a thing shall stand, and say what it is. Or press I and draw lines through the sheet to divide it. Or say things in "
            "the scene, like “fox, birch”, and press Ctrl+L: each gets a place, to be moved."
        )
        self._cards = QVBoxLayout()
        self._cards.setSpacing(6)
        self._rows = QVBoxLayout()
        self.layers_heading = heading("Layers, lowest first")
        layout.addWidget(self.empty)
        layout.addLayout(self._cards)
        layout.addWidget(self.layers_heading)
        layout.addLayout(self._rows)
        layout.addStretch(1)

    def _connect(self) -> None:
        self.scene.said.connect(lambda t: self._say("scene words", words=t, emphasis=self.scene.spans))
        self.scene_avoid.said.connect(lambda t: self._say("scene avoid words", avoid=t))
        self.house_avoid.said.connect(lambda t: self._say("house avoid words", house_avoid=t))
        self.house.said.connect(lambda t: self._say("house words", house=t, house_emphasis=self.house.spans))
        self.scene_weight.valueChanged.connect(lambda v: self._say("scene weight", weight=v))

    def _say(self, what: str, **values: object) -> None:
        scene = self.document.sheet.scene
        new = replace(scene, **values)  # type: ignore[arg-type]
        if new != scene:
            self.document.edit(replace(self.document.sheet, scene=new), what, what if "weight" in values else "")

    def choose(self, key: int | None) -> None:
        self.selected = key
        self.refresh()
        if key is not None and key in self.cards:
            self._scroll.ensureWidgetVisible(self.cards[key])

    def _changed(self, before: State, after: State) -> None:
        if before.sheet is not after.sheet:
            self.refresh()

    def _drag(self, key: int, at: QPoint) -> None:
        """A card dragged past the middle of another takes its place in depth."""
        order = [e.key for e in self.document.sheet.elements]
        i = order.index(key)
        for by in (-1, 1):
            if 0 <= i + by < len(order):
                other = self.cards[order[i + by]]
                middle = other.mapToGlobal(QPoint(0, other.height() // 2)).y()
                if (by < 0 and at.y() < middle) or (by > 0 and at.y() > middle):
                    move_element(self.document, key, by)
                    return

    def refresh(self) -> None:
        """Shows the sheet as it is."""
        sheet = self.document.sheet
        self.scene.show_text(sheet.scene.words, sheet.scene.emphasis)
        self.scene_avoid.show_text(sheet.scene.avoid)
        self.house.show_text(sheet.scene.house, sheet.scene.house_emphasis)
        self.house_avoid.show_text(sheet.scene.house_avoid)
        show_number(self.scene_weight, sheet.scene.weight)
        self.empty.setVisible(not sheet.elements)
        self.layers_heading.setVisible(bool(sheet.layers))
        gone: list[QWidget] = [self.cards.pop(k) for k in [*self.cards] if all(e.key != k for e in sheet.elements)]
        gone += [self.rows.pop(k) for k in [*self.rows] if all(x.key != k for x in sheet.layers)]
        for widget in gone:
            # Deleted when there is time for it, and not to be seen until then.
            widget.hide()
            widget.deleteLater()
        for i, e in enumerate(sheet.elements):
            if e.key not in self.cards:
                self.cards[e.key] = ElementCard(self.document, e.key, self.pack)
                self.cards[e.key].picked.connect(self.picked)
                self.cards[e.key].dragged.connect(self._drag)
            card = self.cards[e.key]
            if self._cards.indexOf(card) != i:
                self._cards.removeWidget(card)
                self._cards.insertWidget(i, card)
            card.show_element(i, e.key == self.selected)
        for i, layer in enumerate(sheet.layers):
            if layer.key not in self.rows:
                self.rows[layer.key] = LayerRow(self.document, layer.key)
            row = self.rows[layer.key]
            if self._rows.indexOf(row) != i:
                self._rows.removeWidget(row)
                self._rows.insertWidget(i, row)
            self.rows[layer.key].show_layer()
