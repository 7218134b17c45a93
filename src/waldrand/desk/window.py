"""The main window: the sheet in the middle, elements on its left, the pass on its right, takes below."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QFont, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import (
    QApplication,
    QDockWidget,
    QGridLayout,
    QLineEdit,
    QMainWindow,
    QSplitter,
    QToolTip,
    QUndoView,
    QVBoxLayout,
    QWidget,
)

from ..core.packs import Pack
from ..core.passes.kinds import mask_kind
from ..core.passes.plan import Plan
from ..core.values.sheet import Sheet
from ..core.worded import worded
from ..files.formats import PICTURE, format_of
from .bench import Bench
from .columns.hint_line import HintLine
from .columns.words_field import WordsField
from .dialogs import Dialogs, Shortcuts
from .document import Document
from .held_keys import HeldKeys
from .look.images import from_image
from .look.look import PARCHMENT, SPRUCE, Look, palette, style
from .look.typeface import FAMILY, load_typeface
from .menus import action, edit_menu, fill, layer_menu, mask_menu, outline_menu, pass_menu, sheet_menu, switch, takes_menu, view_menu
from .mistakes import leave
from .preferences import Preferences, read_preferences, write_preferences
from .remembered import Remembered
from .settings_page import SettingsPage
from .shown import Shown

#: The forecast follows a change at once, and words being typed when the hand rests.
FORECAST_DELAY_MS, TYPED_DELAY_MS = 40, 300
#: Screen pixels: the least of the columns beside the sheet, and of all three at first.
LEFT, RIGHT = 188, 240
WIDTHS = (LEFT, 800, RIGHT)


def _said() -> None:
    """What is just being typed counts too."""
    focused = QApplication.focusWidget()
    if isinstance(focused, (QLineEdit, WordsField)):
        focused.editingFinished.emit()


class MainWindow(QMainWindow):
    """All parts of the desk are the window's own too: window.view, window.tray, window.painting, ..."""

    def __init__(self, pack: Pack, sheet: Sheet | None = None) -> None:
        super().__init__()
        load_typeface()
        self.pack, self.preferences, self.look = pack, Preferences(), PARCHMENT
        self.document = Document(sheet or Sheet(*pack.info.best_sizes[0]))
        self.dialogs = Dialogs(self)
        self.bench = b = Bench(self.document, pack, self.look, lambda: self.dialogs, self.show_keys, self._show_title)
        self.view, self.elements, self.passes, self.tray, self.runner = b.view, b.elements, b.passes, b.tray, b.runner
        self.painting, self.series, self.takes, self.rerolling, self.seeing = b.painting, b.series, b.takes, b.rerolling, b.seeing
        self.arranging, self.outlines, self.maps, self.sizing = b.arranging, b.outlines, b.maps, b.sizing
        self.opening, self.saving, self.aside = b.opening, b.saving, b.aside
        self.live, self.bar, self.rail, self.scene, self.strip = b.live, b.bar, b.rail, b.scene, b.strip
        self.document.open(self.document.sheet, self.opening.blank_draft())
        self._build()
        self._menus()
        self._forecast_timer = QTimer(self)
        self._forecast_timer.setSingleShot(True)
        self._forecast_timer.timeout.connect(self.refresh_forecast)
        self._forecast_timer.timeout.connect(self._show_title)
        self.document.changed.connect(lambda *_: self._forecast_timer.start(FORECAST_DELAY_MS))
        self.document.typing.connect(lambda _: self._forecast_timer.start(TYPED_DELAY_MS))
        self.document.replaced.connect(self._replaced)
        self.view.tool_changed.connect(self._meet_tool)
        self.view.tool_changed.connect(lambda _: self._forecast_timer.start(0))
        self._keys = HeldKeys(self, {Qt.Key.Key_B: self._hold_before, Qt.Key.Key_Z: self.shown.hold_bare}, self._escape)
        self.setAcceptDrops(True)
        self.set_look(self.look)
        self.refresh_forecast()
        self._show_title()

    # --- building

    def _build(self) -> None:
        middle = QWidget()
        column = QVBoxLayout(middle)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.middle = QSplitter(Qt.Orientation.Vertical)
        self.middle.addWidget(self.view)
        self.middle.addWidget(self.tray)
        self.middle.setStretchFactor(0, 1)
        self.middle.setHandleWidth(5)
        self.middle.setChildrenCollapsible(False)
        column.addWidget(self.bench.scene)
        column.addWidget(self.middle, 1)
        self.split = QSplitter()
        for part in (self.elements, middle, self.passes):
            self.split.addWidget(part)
        self.split.setSizes(WIDTHS)
        self.split.setStretchFactor(1, 1)
        self.split.setHandleWidth(1)
        self.elements.setMinimumWidth(LEFT)
        self.passes.setMinimumWidth(RIGHT)
        parts = (
            (worded("Elements column"), self.elements, "F6"),
            (worded("Pass column"), self.passes, "F7"),
            (worded("Takes"), self.tray, "F8"),
        )
        self.shown = Shown(self, self.view, self.takes, self.live, parts)
        self.hints = HintLine(self.view, self.shown.unusual, self.bench.beside)
        self.shown.changed.connect(self.hints.refresh)
        self.remembered = Remembered(self, self.view, self.passes.fold, self.middle)
        whole = QWidget()
        grid = QGridLayout(whole)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(0)
        grid.addWidget(self.bench.rail, 0, 0)
        grid.addWidget(self.split, 0, 1)
        grid.addWidget(self.hints, 1, 0, 1, 2)
        self.setCentralWidget(whole)
        self.history = QDockWidget(worded("History"), self)
        self.history.setObjectName("history")
        steps = QUndoView(self.document.undo)
        steps.setEmptyLabel(worded("as it was opened"))
        steps.setAccessibleName(worded("history"))
        steps.setToolTip(worded("Click a step to go back or forward to it."))
        self.history.setWidget(steps)
        self.addDockWidget(Qt.DockWidgetArea.RightDockWidgetArea, self.history)
        self.history.hide()

    def _menus(self) -> None:
        b, with_path = self.bench, self.bench.with_path
        # Kept, because Qt leaves these two to whoever asked for them.
        self._undo_actions = undo, redo = (
            self.document.undo.createUndoAction(self, worded("Undo")),
            self.document.undo.createRedoAction(self, worded("Redo")),
        )
        history = self.history.toggleViewAction()
        assert undo is not None
        assert redo is not None
        assert history is not None
        undo.setShortcut("Ctrl+Z")
        redo.setShortcuts([QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")])
        history.setShortcut("Ctrl+H")
        self.dark_action = switch(self, worded("Dark look"), self._darken, False)
        leaving = (None, action(self, worded("Settings…"), self.show_settings, "F3"), action(self, worded("Quit"), self.close, "Ctrl+Q"))
        bar = self.menuBar()
        assert bar is not None
        self._menu_actions: list[tuple[str, list[QAction]]] = []
        for title, entries in (
            ("&Sheet", (*sheet_menu(b), *leaving)),
            ("&Edit", edit_menu(b, undo, redo, history)),
            ("&Outline", outline_menu(b, with_path)),
            ("&Layer", layer_menu(b, with_path)),
            ("&Mask", mask_menu(b, with_path)),
            ("&Pass", pass_menu(b)),
            ("&Takes", takes_menu(b, self.shown.difference)),
            ("&View", view_menu(b, *self.shown.actions, self.dark_action)),
        ):
            self._menu_actions.append((title.replace("&", ""), fill(bar, title, entries, _said)))
        for tool in self.rail.tools.values():
            self.addAction(tool)

    # --- showing

    def set_look(self, look: Look) -> None:
        """Light (parchment) or dark (spruce)."""
        self.look = look
        self.setPalette(palette(look))
        typeface = QFont(FAMILY)
        typeface.setPixelSize(self.preferences.text)
        QToolTip.setFont(typeface)
        self.setStyleSheet(style(look, self.preferences.text))
        self.view.set_look(look)
        self.rail.set_look(look)
        self.elements.set_look(look)
        self.bench.layer_strip.set_look(look)
        self.bench.several_strip.set_look(look)
        self.tray.delegate.set_look(look)
        self.passes.set_look(look)
        self.dark_action.setChecked(look is SPRUCE)

    def _darken(self, dark: bool) -> None:
        self.prefer(replace(self.preferences, look=(SPRUCE if dark else PARCHMENT).name))

    def prefer(self, preferences: Preferences) -> None:
        """What the artist wants of the desk, at work at once and kept for the next time."""
        before, self.preferences = self.preferences, preferences
        if before != preferences:
            write_preferences(preferences)
        if (preferences.of_look, preferences.text) != (self.look, before.text):
            self.set_look(preferences.of_look)
        self.rail.show_names(preferences.names)
        self.dialogs.folder = preferences.folder
        self.saving.credits = preferences.credits
        if before.live != preferences.live:
            self.live.want(preferences.live)

    def show_settings(self) -> None:
        """The page of settings."""
        page = SettingsPage(self.preferences, self.pack.info, self)
        page.changed.connect(self.prefer)
        self.dialogs.show(page)

    def say(self, text: str) -> None:
        """A sentence above the Run button."""
        self.bench.say(text)

    def _show_title(self) -> None:
        name = self.document.path.name if self.document.path else worded("untitled sheet")
        self.setWindowTitle(worded("{0}{1} — Waldrand", "• " if self.document.modified else "", name))

    def _meet_tool(self, tool: str) -> None:
        """Who takes the mask's brush into the hand wants to use a mask."""
        d = self.document.draft
        wants = self.view.hands[tool].paints_mask and self.document.sheet.has_picture and self.tray.current is None
        if wants and not d.of_kind.masked:
            self.document.set_draft(replace(d, kind=mask_kind().name), worded("kind of pass"))

    def _replaced(self) -> None:
        self.tray.clear()
        self.refresh_forecast()
        self._show_title()

    def refresh_forecast(self) -> None:
        """Plans the next pass anew and shows what it would do."""
        self.painting.refresh_forecast()

    @property
    def planned(self) -> Plan | None:
        return self.painting.planned

    def show_keys(self) -> None:
        """One sheet of all shortcuts."""

        def keys(action: QAction) -> str:
            return " or ".join(k.toString(QKeySequence.SequenceFormat.NativeText) for k in action.shortcuts())

        groups = [("Tools", [(a.text(), keys(a)) for a in self.rail.tools.values()])]
        groups += [(title, [(a.text(), keys(a)) for a in actions if a.shortcuts()]) for title, actions in self._menu_actions]
        held = (
            (worded("See before"), "B"),
            (worded("Only the picture"), "Z"),
            (worded("No snapping"), "Ctrl"),
            (worded("Wider zoom"), worded("Shift or Alt with the wheel")),
        )
        groups.append(("Held", list(held)))
        self.dialogs.show(Shortcuts(groups, self))

    # --- what is often called from outside

    def run(self) -> None:
        self.painting.run()

    def save(self) -> bool:
        return self.saving.save()

    def open_file(self, path: Path) -> None:
        """Raises Refused when it cannot be opened."""
        self.opening.open_file(path)

    def open_demo(self) -> None:
        self.opening.open_demo()

    # --- beginning and ending

    def begin(self) -> None:
        """Takes up where the last time ended, offers unsaved work, and times the machine."""
        self.remembered.take_up()
        self.prefer(read_preferences())
        self.painting.measure_speed()
        self.refresh_forecast()
        self.live.begin(self.preferences.live, self.painting.speed)
        self.bench.start.begin()
        self.aside.begin_autosave()

    # --- keys that are held, things dropped, and leaving

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None:
            data = event.mimeData()
            if data is not None and (data.hasUrls() or data.hasImage()):
                event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """A sheet or layout is opened; a picture becomes a layer."""
        data = None if event is None else event.mimeData()
        if data is None:
            return
        for url in data.urls():
            path = Path(url.toLocalFile())
            known = format_of(path)
            if known is not None and known.name != PICTURE:
                self.opening.drop_in(path)
                return
            self.bench.add_picture(path)
        if not data.hasUrls() and data.hasImage():
            self.arranging.add_picture(from_image(data.imageData()), worded("dropped picture"))

    def _hold_before(self, held: bool) -> None:
        self.live.hide(held)
        self.view.canvas.show_before(held)

    def _escape(self, event: QKeyEvent) -> None:
        """What is half drawn is given up; else the pass is stopped; else the take or the choice is left."""
        if self.view.hands[self.view.tool].key(event):
            return
        if self.runner.running:
            self.runner.stop()
        elif self.tray.current is not None:
            self.tray.rest()
        elif self.live.showing:
            self.live.clear()
        else:
            self.view.selection.choose(None)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is None:
            return
        self.view.words.finish()
        _said()
        if not self.opening.may_leave():
            event.ignore()
            return
        self._keys.let_go()
        leave(self.say)
        self.aside.end_autosave()
        self.live.end()
        self.painting.looking.end()
        self.remembered.keep()
        event.accept()
