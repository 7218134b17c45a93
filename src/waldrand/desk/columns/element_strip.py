"""What can be said and set for the chosen element, beside it on the sheet."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from ...core.fields import fields_of
from ...core.packs import Pack
from ...core.passes.fitting import room_for_figure
from ...core.told.said import said_of_elements, said_of_scene, told_at
from ...core.values.element import Element
from ...core.worded import worded
from ..document import Document
from ..look.look import element_colour
from ..sheet_view.view import SheetView
from .floating import Floating
from .size_field import SizeField
from .widgets import hint, labelled, number_for, show_checked, show_number, small_button, tick_for
from .words_field import WordsField

FIELDS = fields_of(Element)
#: Numbers that are the pass's unless the element has its own, turned numbers, and ticks.
OWN, TURNED, TICKS = ("strength", "seed"), ("weight", "feather"), ("visible", "hold", "locked", "figure")
#: Screen pixels.
WIDTH = 300
PLACES = (("x", "left edge", -1e5), ("y", "upper edge", -1e5), ("w", "width", 1), ("h", "height", 1))


def _written(value: float | None) -> str:
    return "" if value is None else f"{value:g}" if isinstance(value, float) else str(value)


class ElementStrip(Floating):
    """All that can be said and set for the element that is chosen, floating beside it and never over it. What of it is seldom wanted is a
    fold away."""

    def __init__(self, document: Document, view: SheetView, pack: Pack | None) -> None:
        super().__init__(view)
        self.document, self._pack = document, pack
        self.key = -1
        self._index = -1
        self.setFixedWidth(WIDTH)
        self._make_top()
        self._make_fields()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 6, 8, 7)
        layout.setSpacing(5)
        layout.addLayout(self._top())
        layout.addWidget(self.words)
        layout.addLayout(self._numbers())
        layout.addLayout(self._tick_row())
        layout.addWidget(self._more())
        self._connect()
        self.hide()

    # --- building

    def _make_top(self) -> None:
        self.name = WordsField(worded("name"), worded("The element's name, for you; the model does not read it."), worded("element name"))
        tip = worded("Words for what stands inside this outline.")
        self.words = WordsField(worded("what it is, for example: red fox"), tip, worded("element words"), self._pack, True)
        self.farther = small_button("▲", worded("Farther: move behind (Page Up)"))
        self.nearer = small_button("▼", worded("Nearer: move in front (Page Down)"))
        self.remove = small_button("✕", worded("Delete this element (Delete)"))
        self.fold = small_button("⋯", worded("More: what is not wanted there, place and size, what is told"))
        self.fold.setCheckable(True)

    def _make_fields(self) -> None:
        tip = worded("Words that guidance leads away from, inside this outline.")
        self.avoid = WordsField(worded("not wanted here"), tip, worded("element avoid words"), self._pack)
        self.weight, self.feather = (number_for(FIELDS[name], worded("element {0}", name)) for name in TURNED)
        self.sketch = number_for(FIELDS["sketch"], worded("element sketch"))
        self.strength, self.seed = (WordsField(worded("the pass's"), worded(FIELDS[name].tip), worded("element {0}", name)) for name in OWN)
        self.ticks: dict[str, QCheckBox] = {name: tick_for(FIELDS[name]) for name in TICKS}
        self.visible_box, self.hold, self.locked, self.figure = self.ticks.values()
        self.sizes = {
            name: SizeField(worded("The outline's {0} in sheet pixels.", what), worded("element {0}", what), least)
            for name, what, least in PLACES
        }
        self.told = hint("")
        self.told.setToolTip(worded("All words that count where this element stands: the scene's, the house words and its own."))

    def _top(self) -> QHBoxLayout:
        top = QHBoxLayout()
        top.setSpacing(4)
        parts: tuple[QWidget, ...] = (self.swatch, self.name, self.farther, self.nearer, self.fold, self.remove)
        for part in parts:
            top.addWidget(part)
        return top

    def _numbers(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(5)
        grid.setVerticalSpacing(1)
        fields = (("strength", self.strength), ("weight", self.weight), ("feather", self.feather), ("seed", self.seed))
        for i, (label, field) in enumerate(fields):
            faint = QLabel(worded(label))
            faint.setObjectName("faint")
            grid.addWidget(faint, 0, i)
            grid.addWidget(field, 1, i)
        return grid

    def _tick_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(8)
        for box in self.ticks.values():
            row.addWidget(box)
        row.addStretch(1)
        return row

    def _more(self) -> QWidget:
        self.more = QWidget()
        grid = QGridLayout(self.more)
        grid.setContentsMargins(0, 0, 0, 0)
        self._labels = labelled(grid, ("avoid", self.avoid), ("sketch", self.sketch))
        places = QHBoxLayout()
        places.setSpacing(4)
        for label, field in self.sizes.items():
            faint = QLabel(worded(label))
            faint.setObjectName("faint")
            places.addWidget(faint)
            places.addWidget(field)
        grid.addLayout(places, 2, 0, 1, 2)
        grid.addWidget(self.told, 3, 0, 1, 2)
        self.more.hide()
        return self.more

    def _connect(self) -> None:
        self.name.said.connect(self._rename)
        self.words.said.connect(lambda t: self._change("words", words=t, emphasis=self.words.spans))
        self.avoid.said.connect(lambda t: self._change(worded("avoid words"), avoid=t))
        self.sketch.valueChanged.connect(lambda v: self._change("sketch", sketch=v))
        self.weight.valueChanged.connect(lambda v: self._change("weight", weight=v))
        self.feather.valueChanged.connect(lambda v: self._change("feather", feather=v))
        self.strength.said.connect(lambda t: self._own("strength", self.strength, float))
        self.seed.said.connect(lambda t: self._own("seed", self.seed, int))
        for name, box in self.ticks.items():
            box.toggled.connect(partial(self._tick, name))
        for name, field in self.sizes.items():
            field.set_to.connect(partial(self._resize, name))
        self.farther.clicked.connect(lambda: self.move_depth(-1))
        self.nearer.clicked.connect(lambda: self.move_depth(1))
        self.remove.clicked.connect(self._delete)
        self.fold.toggled.connect(self._unfold)
        self.view.selection.chosen.connect(lambda _: self._chosen())
        for said in (self.words, self.avoid):
            said.textChanged.connect(self.place)
            said.textChanged.connect(self._typing)
        self.document.changed.connect(lambda *_: self.refresh())

    # --- changing

    @property
    def element(self) -> Element | None:
        """None when it is gone: what was being typed about it comes a moment later."""
        sheet = self.document.sheet
        return sheet.element(self.key) if sheet.has_element(self.key) else None

    @property
    def about(self) -> tuple[float, float, float, float] | None:
        e = self.element
        return None if e is None else e.outline.box

    def _change(self, what: str, **values: object) -> None:
        e = self.element
        if e is not None and any(getattr(e, k) != v for k, v in values.items()):
            # Numbers turned step by step are one edit; words said twice are two.
            merge = f"{what} {self.key}" if what in (*TURNED, "sketch") else ""
            new = replace(e, **values)  # type: ignore[arg-type]
            self.document.edit(self.document.sheet.with_element(new), worded("{0} of “{1}”", what, e.name), merge)

    def _typing(self) -> None:
        e = self.element
        if e is not None and (self.words.hasFocus() or self.avoid.hasFocus()):
            new = replace(e, words=self.words.text().strip(), avoid=self.avoid.text().strip(), emphasis=self.words.spans)
            self.document.would_be(self.document.sheet.with_element(new))

    def _rename(self, name: str) -> None:
        if name:
            self._change("name", name=name)

    def _tick(self, name: str, on: bool) -> None:
        self._change({"visible": "use", "locked": "lock"}.get(name, name), **{name: on})

    def _own(self, what: str, field: WordsField, read: Callable[[str], float]) -> None:
        """Takes a value of the element's own, or none; one that cannot be is put back, and the tooltip says why."""
        text, e = field.text().strip().replace(",", "."), self.element
        if e is None:
            return
        try:
            value = read(text) if text else None
            if value != getattr(e, what):
                # A seed that is typed is the element's own, not a take's.
                self._change(what, **{what: value} | ({"take_noise": False} if what == "seed" else {}))
            field.setToolTip(field.tip)
        except ValueError as error:
            field.setToolTip(worded("{0} was put back: {1}", text, error))
            field.setText(_written(getattr(e, what)))

    def _resize(self, which: str, value: float) -> None:
        e = self.element
        if e is None:
            return
        x0, y0, x1, y1 = e.outline.box
        box = {
            "x": (value, y0, value + x1 - x0, y1),
            "y": (x0, value, x1, value + y1 - y0),
            "w": (x0, y0, x0 + value, y1),
            "h": (x0, y0, x1, y0 + value),
        }[which]
        self._change("place" if which in "xy" else "size", outline=e.outline.with_box(box))

    def _delete(self) -> None:
        e = self.element
        if e is not None:
            self.document.edit(self.document.sheet.without_element(self.key), worded("delete “{0}”", e.name))

    def move_depth(self, by: int) -> None:
        """Moves the element one place nearer (1) or farther (-1)."""
        move_element(self.document, self.key, by)

    # --- showing

    def _chosen(self) -> None:
        """One alone has a strip of its own."""
        keys = self.view.selection.keys
        self.show_for(keys[0] if len(keys) == 1 else None)

    def show_for(self, key: int | None) -> None:
        """Shows one element, or none; what is just being typed is the old one's."""
        focused = self.focusWidget()
        if focused is not None and focused.hasFocus() and key != self.key:
            self.view.setFocus()
        self.key = -1 if key is None else key
        self.refresh()

    def refresh(self) -> None:
        """Shows the element as it is, beside it."""
        e = self.element
        if e is None:
            self.hide()
            return
        index = next(i for i, x in enumerate(self.document.sheet.elements) if x.key == self.key)
        if self._index != index:
            self._index = index
            self.swatch.setStyleSheet(f"background: {element_colour(index).name()}; border-radius: 3px;")
        self.name.show_text(e.name)
        self.words.show_text(e.words, e.emphasis)
        self.avoid.show_text(e.avoid)
        show_number(self.weight, e.weight)
        show_number(self.feather, e.feather)
        for name, box in self.ticks.items():
            show_checked(box, getattr(e, name))
        self.figure.setVisible(self._pack is not None and self._pack.figures is not None and room_for_figure(e.outline) is not None)
        drawn = self._pack is not None and "lines" in self._pack.info.capabilities and room_for_figure(e.outline) is not None
        for part in (self.sketch, self._labels["sketch"]):
            part.setVisible(drawn)
        show_number(self.sketch, e.sketch)
        self._show_places(e)
        self.told.setText(self._told())
        self.strength.show_text(_written(e.strength))
        self.seed.show_text(_written(e.seed))
        self.place()

    def _unfold(self, on: bool) -> None:
        self.more.setVisible(on)
        QTimer.singleShot(0, self.place)

    def _show_places(self, e: Element) -> None:
        sheet, (x0, y0, x1, y1) = self.document.sheet, e.outline.box
        for name, value, whole in zip("xywh", (x0, y0, x1 - x0, y1 - y0), (sheet.width, sheet.height) * 2, strict=True):
            self.sizes[name].show_value(value, whole)

    def _told(self) -> str:
        sheet = self.document.sheet
        said = told_at([*said_of_scene(sheet.scene)[0], *said_of_elements(sheet)[0]], self.key, self._pack)
        if not said:
            return ""
        most = "" if self._pack is None else f" of {self._pack.info.rows}"
        return worded("Told here ({0}{1} phrases): {2}", len(said), most, ", ".join(said))


def move_element(document: Document, key: int, by: int) -> None:
    """Moves an element in depth: by > 0 nearer."""
    elements = list(document.sheet.elements)
    i = next(i for i, e in enumerate(elements) if e.key == key)
    j = min(max(i + by, 0), len(elements) - 1)
    if i != j:
        e = elements.pop(i)
        elements.insert(j, e)
        document.edit(replace(document.sheet, elements=tuple(elements)), f"{'nearer' if by > 0 else 'farther'}: “{e.name}”")
