"""The scene's words over the sheet, like a title; house words beside them; what is seldom said one press away."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from ...core.fields import fields_of
from ...core.packs import Pack
from ...core.values.element import SceneWords
from ...core.worded import worded
from ..document import Document, State
from .widgets import labelled, number_for, show_number
from .words_field import WordsField

HEIGHT, ROWS = 48, 2
WEIGHT_TIP = "The scene's weight, 0 to 4. Too low: boxes show; too high: elements fade."


class SceneTitle(QWidget):
    """words, avoid, house, house_avoid, weight: the fields. Of one height whatever is said, so that the sheet stays in its place."""

    def __init__(self, document: Document, pack: Pack | None) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setFixedHeight(HEIGHT)
        self.document = document
        tip = worded("The scene: words for the whole picture, set apart by commas.")
        self.words = WordsField(worded("The scene, like: starry night, meadow, forest"), tip, worded("scene words"), pack, True)
        self.house = WordsField(
            worded("house words: style, light, quality"),
            worded("House words: style, light or quality, added to every element."),
            worded("house words"),
            pack,
            True,
        )
        self.words.setObjectName("title")
        self.avoid = WordsField(
            worded("nothing in particular"), worded("Words that guidance leads away from, everywhere."), worded("scene avoid words"), pack
        )
        self.house_avoid = WordsField(
            worded("avoided everywhere"), worded("House words to avoid, in every picture."), worded("house avoid words"), pack
        )
        self.weight = number_for(replace(fields_of(SceneWords)["weight"], tip=WEIGHT_TIP), worded("scene weight"))
        for field in (self.words, self.house):
            field.most_rows = ROWS
        self.more = QToolButton()
        self.more.setText("⋯")
        self.more.setCheckable(True)
        self.more.setAccessibleName(worded("more about the scene"))
        self.more.setToolTip(worded("What the scene and the house avoid, and the scene's weight"))
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 2, 8, 2)
        row.setSpacing(6)
        row.addWidget(self.words, 3)
        row.addWidget(self.house, 2)
        row.addWidget(self.more)
        self._made_panel()
        self._connect()
        self.refresh()

    def _made_panel(self) -> None:
        self.panel = QFrame()
        self.panel.setObjectName("floating")
        column = QVBoxLayout(self.panel)
        column.setContentsMargins(10, 8, 10, 8)
        grid = QGridLayout()
        labelled(
            grid, (worded("scene avoids"), self.avoid), (worded("house avoids"), self.house_avoid), (worded("scene weight"), self.weight)
        )
        column.addLayout(grid)
        self.panel.hide()

    def _connect(self) -> None:
        self.words.said.connect(lambda t: self._say(worded("scene words"), words=t, emphasis=self.words.spans))
        self.avoid.said.connect(lambda t: self._say(worded("scene avoid words"), avoid=t))
        self.house_avoid.said.connect(lambda t: self._say(worded("house avoid words"), house_avoid=t))
        self.house.said.connect(lambda t: self._say(worded("house words"), house=t, house_emphasis=self.house.spans))
        for field in (self.words, self.house, self.avoid, self.house_avoid):
            field.textChanged.connect(self._typing)
        self.weight.valueChanged.connect(lambda v: self._say(worded("scene weight"), weight=v))
        self.more.toggled.connect(self.show_more)
        self.document.changed.connect(self._changed)
        self.document.replaced.connect(self.refresh)

    def show_more(self, shown: bool) -> None:
        """The panel under the title, over the sheet."""
        window = self.window()
        if shown and window is not None:
            self.panel.setParent(window)
            self.panel.setFixedWidth(min(360, self.width()))
            self.panel.adjustSize()
            at = self.mapTo(window, QPoint(self.width() - self.panel.width() - 8, self.height() - 2))
            self.panel.move(at)
            self.panel.raise_()
        self.panel.setVisible(shown)
        self.more.setChecked(shown)

    def _say(self, what: str, **values: object) -> None:
        scene = self.document.sheet.scene
        new = replace(scene, **values)  # type: ignore[arg-type]
        if new != scene:
            self.document.edit(replace(self.document.sheet, scene=new), what, what if "weight" in values else "")

    def _typing(self) -> None:
        if any(field.hasFocus() for field in (self.words, self.house, self.avoid, self.house_avoid)):
            words, house = self.words.text().strip(), self.house.text().strip()
            avoided = {"avoid": self.avoid.text().strip(), "house_avoid": self.house_avoid.text().strip()}
            spans = {"emphasis": self.words.spans, "house_emphasis": self.house.spans}
            scene = replace(self.document.sheet.scene, words=words, house=house, **avoided, **spans)  # type: ignore[arg-type]
            self.document.would_be(replace(self.document.sheet, scene=scene))

    def _changed(self, before: State, after: State) -> None:
        if before.sheet.scene is not after.sheet.scene:
            self.refresh()

    def refresh(self) -> None:
        """Shows the sheet as it is."""
        scene = self.document.sheet.scene
        self.words.show_text(scene.words, scene.emphasis)
        self.house.show_text(scene.house, scene.house_emphasis)
        self.avoid.show_text(scene.avoid)
        self.house_avoid.show_text(scene.house_avoid)
        show_number(self.weight, scene.weight)
        unsaid = SceneWords(scene.words, house=scene.house, emphasis=scene.emphasis, house_emphasis=scene.house_emphasis)
        # What is not seen says that it is there.
        self.more.setText("⋯" if scene == unsaid else "⋯ •")
