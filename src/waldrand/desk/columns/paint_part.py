"""What is set for tools that lay colours, in the bar over the sheet."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QColor, QIcon, QPixmap
from PyQt6.QtWidgets import QCheckBox, QColorDialog, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QMenu, QToolButton, QWidget, QWidgetAction

from ...core.picture.palette import main_colours
from ...core.refused import Refused
from ...core.values.lettering import colour_of
from ...core.worded import worded
from ..sheet_view.paints import OF_PICTURE, Colour
from ..sheet_view.view import SheetView
from .widgets import Dial, show_checked

SWATCH, COLUMNS = 20, 8


class PaintPart(QWidget):
    """The colour in the hand, those used lately and the picture's own, how much of it is laid, and what counts as alike."""

    def __init__(self, view: SheetView) -> None:
        super().__init__()
        self._view, self._paints = view, view.paints
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        self.swatch = QToolButton()
        self.swatch.setObjectName("small")
        self.swatch.setIconSize(QSize(SWATCH, SWATCH))
        self.swatch.setToolTip(
            worded("The colour in the hand: click for any other; with Alt or Ctrl every tool that lays colours picks one.")
        )
        self.swatch.setAccessibleName(worded("colour"))
        self.swatch.clicked.connect(self._ask)
        self.typed = QLineEdit()
        self.typed.setFixedWidth(70)
        self.typed.setAccessibleName(worded("colour, typed"))
        self.typed.setToolTip(worded("The colour as red, green and blue: #rrggbb"))
        self.typed.editingFinished.connect(self._take_typed)
        self.lately = QToolButton()
        self.lately.setObjectName("small")
        self.lately.setText("▾")
        self.lately.setAccessibleName(worded("other colours"))
        self.lately.setToolTip(worded("Colours used lately, and the picture's own"))
        self.lately.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.menu = QMenu(self)
        self.lately.setMenu(self.menu)
        self.menu.aboutToShow.connect(self._offer)
        self.opacity = Dial(worded("How much of the colour is laid: 1 covers."), worded("colour opacity"))
        self.opacity.setFixedWidth(124)
        self.opacity.turned.connect(lambda v: self._paints.set(opacity=v))
        self.tolerance = Dial(worded("What counts as alike: 0 only the same colour, 1 all."), worded("tolerance"))
        self.tolerance.setFixedWidth(124)
        self.tolerance.turned.connect(lambda v: self._paints.set(tolerance=v))
        self.joined = QCheckBox(worded("joined"))
        self.joined.setToolTip(worded("Only what hangs together with where you click; else alike anywhere."))
        self.joined.toggled.connect(lambda on: self._paints.set(joined=on))
        self._opaque, self._alike = QLabel(worded("opacity")), QLabel(worded("alike"))
        for part in (self.swatch, self.typed, self.lately, self._opaque, self.opacity, self._alike, self.tolerance, self.joined):
            row.addWidget(part)
        self._paints.changed.connect(self.refresh)
        self.refresh()

    def show_for(self, lays: bool, alike: bool) -> None:
        """lays: whether the tool lays colours; alike: whether it takes what is of like colour."""
        laying: tuple[QWidget, ...] = (self.swatch, self.typed, self.lately, self._opaque, self.opacity)
        taking: tuple[QWidget, ...] = (self._alike, self.tolerance, self.joined)
        for parts, on in ((laying, lays), (taking, alike)):
            for part in parts:
                part.setVisible(on)

    def refresh(self) -> None:
        """Shows what is in the hand."""
        colour = QColor(*self._paints.colour)
        self.swatch.setIcon(_icon(self._paints.colour))
        if not self.typed.hasFocus():
            self.typed.setText(colour.name())
        self.opacity.show_value(self._paints.opacity)
        self.tolerance.show_value(self._paints.tolerance)
        show_checked(self.joined, self._paints.joined)

    def _take_typed(self) -> None:
        try:
            self._paints.set(colour=colour_of(self.typed.text()))
        except Refused as error:
            self._view.said.emit(str(error))
            self.typed.setText(QColor(*self._paints.colour).name())

    def _ask(self) -> None:
        found = QColorDialog.getColor(QColor(*self._paints.colour), self, worded("Colour"))
        if found.isValid():
            self._paints.set(colour=(found.red(), found.green(), found.blue()))

    def _offer(self) -> None:
        """The colours to choose from, as they are when it is opened."""
        self.menu.clear()
        sheet = self._view.document.sheet
        own: list[Colour] = []
        if sheet.has_picture:
            step = max(1, max(sheet.width, sheet.height) // 256)
            pixels = sheet.flatten()[::step, ::step]
            own = main_colours(pixels[..., :3][pixels[..., 3] > 127], OF_PICTURE)
        for title, colours in ((worded("Used lately"), self._paints.recent), (worded("In the picture"), own)):
            if colours:
                self.menu.addSection(title)
                action = QWidgetAction(self.menu)
                action.setDefaultWidget(self._grid(colours))
                self.menu.addAction(action)

    def _grid(self, colours: list[Colour]) -> QWidget:
        part = QWidget()
        grid = QGridLayout(part)
        grid.setContentsMargins(8, 4, 8, 4)
        grid.setSpacing(3)
        for i, colour in enumerate(colours):
            button = QToolButton()
            button.setObjectName("small")
            button.setIcon(_icon(colour))
            button.setIconSize(QSize(SWATCH, SWATCH))
            button.setToolTip(QColor(*colour).name())
            button.setAccessibleName(QColor(*colour).name())
            button.clicked.connect(partial(self._take, colour))
            grid.addWidget(button, i // COLUMNS, i % COLUMNS)
        return part

    def _take(self, colour: Colour) -> None:
        self._paints.set(colour=colour)
        self.menu.close()


def _icon(colour: Colour) -> QIcon:
    picture = QPixmap(SWATCH, SWATCH)
    picture.fill(QColor(*colour))
    return QIcon(picture)
