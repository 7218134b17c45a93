"""The elements, far to near, with the scene on top and the layers below."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QCheckBox, QFrame, QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from ..core.element import MOST_WEIGHT, Element
from .document import Document, State
from .layer_row import LayerRow
from .look import element_colour
from .widgets import WordsField, heading, hint, labelled, number, scrolled, show_checked, show_number, small_button


def _written(value: float | None) -> str:
    return "" if value is None else f"{value:g}" if isinstance(value, float) else str(value)


class ElementCard(QFrame):
    """One element; shows all its fields when chosen."""

    picked = pyqtSignal(int)

    def __init__(self, document: Document, key: int) -> None:
        super().__init__()
        self.document, self.key = document, key
        self._index = -1
        self.setObjectName("card")
        self.swatch = QLabel()
        self.swatch.setFixedSize(12, 12)
        self.name = WordsField("name", "The element's name, for you; the model does not read it.", "element name")
        self.name.setFrame(False)
        self.words = WordsField("what it is, for example: red fox", "Words for what stands inside this outline.", "element words")
        self.avoid = WordsField("not wanted here", "Words that guidance leads away from, inside this outline.", "element avoid words")
        self.weight = number(
            0, MOST_WEIGHT, 0.1, 2, "Weight against the scene, 0 to 4. Too high shows the outline's shape.", "element weight"
        )
        self.feather = number(0, 999, 2, 0, "Feather: width in pixels of the soft edge inside the outline.", "element feather")
        self.strength = WordsField(
            "the pass's", "Own denoise strength when there is a picture, 0 keeps to 1 anew; empty: the pass's.", "element strength"
        )
        self.seed = WordsField(
            "the pass's", "Own seed: a number keeps this element's noise while the pass's seed changes; empty: the pass's.", "element seed"
        )
        self.hold = QCheckBox("hold")
        self.hold.setToolTip("Hold: no pass changes what lies inside this outline, bit for bit.")
        self.farther, self.nearer = (
            small_button("▲", "Farther: move behind (Page Up)"),
            small_button("▼", "Nearer: move in front (Page Down)"),
        )
        self.remove = small_button("✕", "Delete this element (Delete)")
        top = QHBoxLayout()
        top.setSpacing(4)
        parts: tuple[QWidget, ...] = (self.swatch, self.name, self.farther, self.nearer, self.remove)
        for part in parts:
            top.addWidget(part)
        self.more = QWidget()
        grid = QGridLayout(self.more)
        grid.setContentsMargins(0, 0, 0, 0)
        labelled(
            grid,
            ("avoid", self.avoid),
            ("weight", self.weight),
            ("strength", self.strength),
            ("feather", self.feather),
            ("seed", self.seed),
        )
        grid.addWidget(self.hold, 5, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 6, 8, 8)
        layout.setSpacing(5)
        layout.addLayout(top)
        layout.addWidget(self.words)
        layout.addWidget(self.more)
        self.name.said.connect(lambda t: self._change("name", name=t or self.element.name))
        self.words.said.connect(lambda t: self._change("words", words=t))
        self.avoid.said.connect(lambda t: self._change("avoid words", avoid=t))
        self.weight.valueChanged.connect(lambda v: self._change("weight", weight=v))
        self.feather.valueChanged.connect(lambda v: self._change("feather", feather=v))
        self.strength.said.connect(lambda t: self._own("strength", self.strength, float))
        self.seed.said.connect(lambda t: self._own("seed", self.seed, int))
        self.hold.toggled.connect(lambda on: self._change("hold", hold=on))
        self.farther.clicked.connect(lambda: self.move(-1))
        self.nearer.clicked.connect(lambda: self.move(1))
        self.remove.clicked.connect(lambda: document.edit(document.sheet.without_element(key), f"delete “{self.element.name}”"))

    @property
    def element(self) -> Element:
        return self.document.sheet.element(self.key)

    def _change(self, what: str, **values: object) -> None:
        e = self.element
        if any(getattr(e, k) != v for k, v in values.items()):
            # Numbers turned step by step are one edit; words said twice are two.
            merge = f"{what} {self.key}" if what in ("weight", "feather") else ""
            self.document.edit(self.document.sheet.with_element(replace(e, **values)), f"{what} of “{e.name}”", merge)  # type: ignore[arg-type]

    def _own(self, what: str, field: WordsField, read: Callable[[str], float]) -> None:
        """Takes a value of the element's own, or none; one that cannot be is put back, and the tooltip says why."""
        text = field.text().strip().replace(",", ".")
        try:
            self._change(what, **{what: read(text) if text else None})
            field.setToolTip(field.tip)
        except ValueError as error:
            field.setToolTip(f"{text} was put back: {error}")
            field.setText(_written(getattr(self.element, what)))

    def move(self, by: int) -> None:  # type: ignore[override]
        """Moves the element one place nearer (1) or farther (-1)."""
        move_element(self.document, self.key, by)

    def show_element(self, index: int, chosen: bool) -> None:
        e = self.element
        if self._index != index:
            self._index = index
            self.swatch.setStyleSheet(f"background: {element_colour(index).name()}; border-radius: 3px;")
        self.name.show_text(e.name)
        self.words.show_text(e.words)
        self.avoid.show_text(e.avoid)
        show_number(self.weight, e.weight)
        show_number(self.feather, e.feather)
        show_checked(self.hold, e.hold)
        self.strength.show_text(_written(e.strength))
        self.seed.show_text(_written(e.seed))
        self.more.setVisible(chosen)
        if self.property("chosen") != chosen:
            self.setProperty("chosen", chosen)
            style = self.style()
            if style is not None:
                style.unpolish(self)
                style.polish(self)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.picked.emit(self.key)


def move_element(document: Document, key: int, by: int) -> None:
    """Moves an element in depth: by > 0 nearer."""
    elements = list(document.sheet.elements)
    i = next(i for i, e in enumerate(elements) if e.key == key)
    j = min(max(i + by, 0), len(elements) - 1)
    if i != j:
        e = elements.pop(i)
        elements.insert(j, e)
        document.edit(replace(document.sheet, elements=tuple(elements)), f"{'nearer' if by > 0 else 'farther'}: “{e.name}”")


class ElementsColumn(QWidget):
    """Signals: picked(key)."""

    picked = pyqtSignal(int)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.document = document
        self.selected: int | None = None
        self.cards: dict[int, ElementCard] = {}
        self.rows: dict[int, LayerRow] = {}
        self.scene = WordsField(
            "starry night, meadow, forest", "The scene: words for the whole picture, set apart by commas.", "scene words"
        )
        self.scene_avoid = WordsField("nothing in particular", "Words that guidance leads away from, everywhere.", "scene avoid words")
        self.house_avoid = WordsField("avoided everywhere", "House words to avoid, in every picture.", "house avoid words")
        self.house = WordsField("added everywhere", "House words: style, light or quality, added to every element.", "house words")
        self.scene_weight = number(
            0, MOST_WEIGHT, 0.1, 2, "The scene's weight, 0 to 4. Too low: boxes show; too high: elements fade.", "scene weight"
        )
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
        self.empty = hint(
            "No elements yet. Press R for a rectangle, E for an ellipse or F for a freehand outline, draw on the sheet where "
            "a thing shall stand, and say what it is."
        )
        self._cards = QVBoxLayout()
        self._cards.setSpacing(6)
        self._rows = QVBoxLayout()
        self.layers_heading = heading("Layers, lowest first")
        layout = QVBoxLayout()
        layout.addWidget(heading("Scene"))
        layout.addWidget(card)
        layout.addWidget(heading("Elements, far to near"))
        layout.addWidget(self.empty)
        layout.addLayout(self._cards)
        layout.addWidget(self.layers_heading)
        layout.addLayout(self._rows)
        layout.addStretch(1)
        scroll = scrolled(layout)
        self._scroll = scroll
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(scroll)
        self.scene.said.connect(lambda t: self._say("scene words", words=t))
        self.scene_avoid.said.connect(lambda t: self._say("scene avoid words", avoid=t))
        self.house_avoid.said.connect(lambda t: self._say("house avoid words", house_avoid=t))
        self.house.said.connect(lambda t: self._say("house words", house=t))
        self.scene_weight.valueChanged.connect(lambda v: self._say("scene weight", weight=v))
        document.changed.connect(self._changed)
        document.replaced.connect(self.refresh)
        self.refresh()

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

    def refresh(self) -> None:
        """Shows the sheet as it is."""
        sheet = self.document.sheet
        self.scene.show_text(sheet.scene.words)
        self.scene_avoid.show_text(sheet.scene.avoid)
        self.house.show_text(sheet.scene.house)
        self.house_avoid.show_text(sheet.scene.house_avoid)
        show_number(self.scene_weight, sheet.scene.weight)
        self.empty.setVisible(not sheet.elements)
        self.layers_heading.setVisible(bool(sheet.layers))
        for key in [k for k in self.cards if all(e.key != k for e in sheet.elements)]:
            self.cards.pop(key).deleteLater()
        for key in [k for k in self.rows if all(x.key != k for x in sheet.layers)]:
            self.rows.pop(key).deleteLater()
        for i, e in enumerate(sheet.elements):
            if e.key not in self.cards:
                self.cards[e.key] = ElementCard(self.document, e.key)
                self.cards[e.key].picked.connect(self.picked)
            card = self.cards[e.key]
            if self._cards.indexOf(card) != i:
                self._cards.removeWidget(card)
                self._cards.insertWidget(i, card)
            card.show_element(i, e.key == self.selected)
        for i, layer in enumerate(sheet.layers):
            if layer.key not in self.rows:
                self.rows[layer.key] = LayerRow(self.document, layer.key)
                self._rows.insertWidget(i, self.rows[layer.key])
            self.rows[layer.key].show_layer()
