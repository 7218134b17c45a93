"""The elements, far to near, with the scene on top and the layers below."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QCheckBox, QFrame, QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from ...core.packs import Pack
from ...core.passes.fitting import room_for_figure
from ...core.told.voices import told_to
from ...core.values.element import MOST_WEIGHT, Element
from ..document import Document, State
from ..look.look import element_colour
from .layer_row import LayerRow
from .size_field import SizeField
from .widgets import heading, hint, labelled, number, scrolled, show_checked, show_number, small_button
from .words_field import WordsField


def _written(value: float | None) -> str:
    return "" if value is None else f"{value:g}" if isinstance(value, float) else str(value)


class ElementCard(QFrame):
    """One element; shows all its fields when chosen. Signals: picked(key), dragged(key, place on the screen)."""

    picked = pyqtSignal(int)
    dragged = pyqtSignal(int, QPoint)

    def __init__(self, document: Document, key: int, pack: Pack | None) -> None:
        super().__init__()
        self.document, self.key, self._pack = document, key, pack
        self._index = -1
        self._dragging = False
        self.setObjectName("card")
        self.swatch = QLabel()
        self.swatch.setFixedSize(14, 18)
        self.swatch.setCursor(Qt.CursorShape.SizeVerCursor)
        self.swatch.setToolTip("Drag up or down to move this element farther or nearer.")
        self.name = WordsField("name", "The element's name, for you; the model does not read it.", "element name")
        self.words = WordsField(
            "what it is, for example: red fox", "Words for what stands inside this outline.", "element words", pack, True
        )
        self.avoid = WordsField("not wanted here", "Words that guidance leads away from, inside this outline.", "element avoid words", pack)
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
        self.visible_box, self.locked = QCheckBox("used"), QCheckBox("locked")
        self.visible_box.setToolTip("Used: passes hear of this element. Leave it out for a while without deleting it.")
        self.locked.setToolTip("Locked: the hand cannot move or reshape it on the sheet.")
        self.sizes = {
            name: SizeField(f"The outline's {what} in sheet pixels.", f"element {what}", least)
            for name, what, least in (("x", "left edge", -1e5), ("y", "upper edge", -1e5), ("w", "width", 1), ("h", "height", 1))
        }
        self.figure = QCheckBox("figure")
        self.figure.setToolTip(
            "Figure: fits the shape of what the words name into this rectangle or ellipse, as hatched on the sheet. "
            "Without, the outline says only where it shall be."
        )
        self.told = hint("")
        self.told.setToolTip("All words that count where this element stands: the scene's, the house words and its own.")
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
        ticks = QGridLayout()
        for i, box in enumerate((self.visible_box, self.hold, self.locked, self.figure)):
            ticks.addWidget(box, i // 3, i % 3)
        grid.addLayout(ticks, 5, 0, 1, 2)
        places = QGridLayout()
        places.setSpacing(4)
        for i, (label, field) in enumerate(self.sizes.items()):
            faint = QLabel(label)
            faint.setObjectName("faint")
            places.addWidget(faint, i // 2, 2 * (i % 2))
            places.addWidget(field, i // 2, 2 * (i % 2) + 1)
        grid.addLayout(places, 6, 0, 1, 2)
        grid.addWidget(self.told, 7, 0, 1, 2)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 6, 8, 8)
        layout.setSpacing(5)
        layout.addLayout(top)
        layout.addWidget(self.words)
        layout.addWidget(self.more)
        self.name.said.connect(lambda t: self._change("name", name=t or self.element.name))
        self.words.said.connect(lambda t: self._change("words", words=t, emphasis=self.words.spans))
        self.avoid.said.connect(lambda t: self._change("avoid words", avoid=t))
        self.weight.valueChanged.connect(lambda v: self._change("weight", weight=v))
        self.feather.valueChanged.connect(lambda v: self._change("feather", feather=v))
        self.strength.said.connect(lambda t: self._own("strength", self.strength, float))
        self.seed.said.connect(lambda t: self._own("seed", self.seed, int))
        self.hold.toggled.connect(lambda on: self._change("hold", hold=on))
        self.visible_box.toggled.connect(lambda on: self._change("use", visible=on))
        self.locked.toggled.connect(lambda on: self._change("lock", locked=on))
        self.figure.toggled.connect(lambda on: self._change("figure", figure=on))
        for name, field in self.sizes.items():
            field.set_to.connect(lambda v, n=name: self._resize(n, v))
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
            new = replace(e, **values)  # type: ignore[arg-type]
            self.document.edit(self.document.sheet.with_element(new), f"{what} of “{e.name}”", merge)

    def _own(self, what: str, field: WordsField, read: Callable[[str], float]) -> None:
        """Takes a value of the element's own, or none; one that cannot be is put back, and the tooltip says why."""
        text = field.text().strip().replace(",", ".")
        try:
            self._change(what, **{what: read(text) if text else None})
            field.setToolTip(field.tip)
        except ValueError as error:
            field.setToolTip(f"{text} was put back: {error}")
            field.setText(_written(getattr(self.element, what)))

    def _resize(self, which: str, value: float) -> None:
        x0, y0, x1, y1 = self.element.outline.box
        box = {
            "x": (value, y0, value + x1 - x0, y1),
            "y": (x0, value, x1, value + y1 - y0),
            "w": (x0, y0, x0 + value, y1),
            "h": (x0, y0, x1, y0 + value),
        }[which]
        self._change("place" if which in "xy" else "size", outline=self.element.outline.with_box(box))

    def move(self, by: int) -> None:  # type: ignore[override]
        """Moves the element one place nearer (1) or farther (-1)."""
        move_element(self.document, self.key, by)

    def show_element(self, index: int, chosen: bool) -> None:
        e = self.element
        if self._index != index:
            self._index = index
            self.swatch.setStyleSheet(f"background: {element_colour(index).name()}; border-radius: 3px;")
        self.name.show_text(e.name)
        self.words.show_text(e.words, e.emphasis)
        self.avoid.show_text(e.avoid)
        show_number(self.weight, e.weight)
        show_number(self.feather, e.feather)
        for box, on in ((self.hold, e.hold), (self.visible_box, e.visible), (self.locked, e.locked), (self.figure, e.figure)):
            show_checked(box, on)
        self.figure.setVisible(self._pack is not None and self._pack.figures is not None and room_for_figure(e.outline) is not None)
        if chosen:
            sheet = self.document.sheet
            x0, y0, x1, y1 = e.outline.box
            for name, value, whole in (
                ("x", x0, sheet.width),
                ("y", y0, sheet.height),
                ("w", x1 - x0, sheet.width),
                ("h", y1 - y0, sheet.height),
            ):
                self.sizes[name].show_value(value, whole)
            self.told.setText(self._told(index))
        self.strength.show_text(_written(e.strength))
        self.seed.show_text(_written(e.seed))
        self.more.setVisible(chosen)
        if self.property("chosen") != chosen:
            self.setProperty("chosen", chosen)
            style = self.style()
            if style is not None:
                style.unpolish(self)
                style.polish(self)

    def _told(self, index: int) -> str:
        said = told_to(self.document.sheet, replace(self.document.draft.request(), kind="compose"), index, self._pack)
        if not said:
            return ""
        most = "" if self._pack is None else f" of {self._pack.info.rows}"
        return f"Told here ({len(said)}{most} phrases): {', '.join(said)}"

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._dragging = self.swatch.geometry().adjusted(-8, -6, 6, 6).contains(event.position().toPoint())
        self.picked.emit(self.key)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._dragging:
            self.dragged.emit(self.key, event.globalPosition().toPoint())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._dragging = False


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

    def __init__(self, document: Document, pack: Pack | None = None) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.document, self.pack = document, pack
        self.selected: int | None = None
        self.cards: dict[int, ElementCard] = {}
        self.rows: dict[int, LayerRow] = {}
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
            "a thing shall stand, and say what it is. Or press I and draw lines through the sheet to divide it. Or say things in "
            "the scene, like “fox, birch”, and press Ctrl+L: each gets a place, to be moved."
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
        self.scene.said.connect(lambda t: self._say("scene words", words=t, emphasis=self.scene.spans))
        self.scene_avoid.said.connect(lambda t: self._say("scene avoid words", avoid=t))
        self.house_avoid.said.connect(lambda t: self._say("house avoid words", house_avoid=t))
        self.house.said.connect(lambda t: self._say("house words", house=t, house_emphasis=self.house.spans))
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
