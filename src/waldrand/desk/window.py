"""The main window: the sheet in the middle, elements on its left, the pass on its right, takes below."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QEvent, QObject, QSettings, Qt, QTimer
from PyQt6.QtGui import QAction, QActionGroup, QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import (
    QApplication,
    QCheckBox,
    QComboBox,
    QDockWidget,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMainWindow,
    QSplitter,
    QToolButton,
    QUndoView,
    QVBoxLayout,
    QWidget,
)

from ..core.packs import Pack
from ..core.passes.plan import Plan
from ..core.values.sheet import Sheet
from ..files.openraster import SavedTake
from ..files.pictures import read_picture
from .columns.elements_column import ElementsColumn
from .columns.pass_column import PassColumn
from .columns.tray import Tray
from .columns.widgets import Dial
from .columns.words_field import WordsField
from .dialogs import Dialogs, Shortcuts
from .document import Document
from .jobs.arranging import Arranging
from .jobs.filing import Filing
from .jobs.painting import Painting
from .jobs.runner import Runner
from .look.images import from_image
from .look.look import PARCHMENT, SPRUCE, Look, palette, style
from .sheet_view.view import Joining, SheetView
from .tools.hand import Tool

FORECAST_DELAY_MS = 40
TOOLS: tuple[tuple[Tool, str, str, str], ...] = (
    ("arrange", "Arrange", "A", "Choose, move, resize, turn elements (Shift: several, Alt: the one beneath); drag empty places to pan"),
    ("box", "Rectangle", "R", "Draw an element's outline as a rectangle (Shift: square)"),
    ("ellipse", "Ellipse", "E", "Draw an element's outline as an ellipse (Shift: circle)"),
    ("polygon", "Polygon", "G", "Click an outline's corners; Enter closes it"),
    ("freehand", "Freehand", "F", "Draw an element's outline by hand"),
    ("points", "Points", "P", "Move an outline's corners; double-click adds one, Alt takes one away"),
    ("shape", "Brush", "S", "Paint the chosen element's outline with a soft brush, or a new one; X erases"),
    ("divide", "Divide", "I", "Draw a line through the sheet or an element to divide it; lines stay draggable"),
    ("brush", "Mask", "M", "Paint what an inpaint may change; soft edges keep partly; Alt and a click masks the thing seen there"),
)
JOINING: tuple[tuple[Joining, str], ...] = (
    ("new", "as a new element"),
    ("add", "added to the chosen one"),
    ("cut", "cut from the chosen one"),
)
DRAWING = ("box", "ellipse", "polygon", "freehand")
Entry = QAction | None


def _said() -> None:
    """What is just being typed counts too."""
    focused = QApplication.focusWidget()
    if isinstance(focused, (QLineEdit, WordsField)):
        focused.editingFinished.emit()


class MainWindow(QMainWindow):
    def __init__(self, pack: Pack, sheet: Sheet | None = None) -> None:
        super().__init__()
        self.pack = pack
        w, h = pack.info.best_sizes[0]
        self.document = Document(sheet or Sheet(w, h))
        self.dialogs = Dialogs(self)
        self.runner = Runner()
        self.look = PARCHMENT
        self.view = SheetView(self.document, self.look, pack)
        self.elements = ElementsColumn(self.document, pack)
        self.passes = PassColumn(self.document, pack)
        self.tray = Tray()

        # The dialogs are looked up each time: another set of answers may stand in for them.
        def dialogs() -> Dialogs:
            return self.dialogs

        self.painting = Painting(self.document, pack, self.view, self.passes, self.tray, self.runner, dialogs)
        self.arranging = Arranging(self.document, self.view, dialogs, self.say)
        p = self.painting
        self.filing = Filing(
            self.document, pack, dialogs, self.say, p.forget, self.view.finish_words, p.saved_takes, p.show_saved, self._after_saving
        )
        self.document.open(self.document.sheet, self.filing.blank_draft())
        self._build()
        self._menus()
        self._connect()
        self._forecast_timer = QTimer(self)
        self._forecast_timer.setSingleShot(True)
        self._forecast_timer.timeout.connect(self.refresh_forecast)
        self._forecast_timer.timeout.connect(self._show_title)
        self.setAcceptDrops(True)
        self.set_look(self.look)
        self.refresh_forecast()
        self._show_title()

    # --- building

    def _build(self) -> None:
        bar, row = QWidget(), QHBoxLayout()
        bar.setObjectName("panel")
        bar.setLayout(row)
        row.setContentsMargins(8, 5, 8, 5)
        row.setSpacing(3)
        self.tool_actions: dict[str, QAction] = {}
        group = QActionGroup(self)
        for tool, text, key, tip in TOOLS:
            action = QAction(text, self)
            action.setCheckable(True)
            action.setShortcut(key)
            action.setToolTip(f"{tip} ({key})")
            action.triggered.connect(partial(self.view.set_tool, tool))
            group.addAction(action)
            self.addAction(action)
            self.tool_actions[tool] = action
            button = QToolButton()
            button.setObjectName("tool")
            button.setDefaultAction(action)
            row.addWidget(button)
        self.tool_actions["arrange"].setChecked(True)
        self.brush_bar, brush = self._bar()
        self.radius = Dial("Brush radius in sheet pixels (Q smaller, W larger).", "brush size", 1, 500, 5, 0)
        self.softness = Dial("Soft edge of the brush, 0 to 1 (Shift+Q harder, Shift+W softer).", "brush softness", 0, 1, 0.1, 2)
        for dial, label in ((self.radius, "size"), (self.softness, "softness")):
            dial.setFixedWidth(170)
            brush.addWidget(QLabel(label))
            brush.addWidget(dial)
        self.eraser = QCheckBox("eraser")
        self.clear_mask = QToolButton()
        self.clear_mask.setText("clear mask")
        self.eraser.setToolTip("Take away instead of adding (X)")
        self.clear_mask.setToolTip("Empty the mask")
        brush.addWidget(self.eraser)
        brush.addWidget(self.clear_mask)
        brush.addStretch(1)
        self.shape_bar, shape = self._bar()
        self.joining = QComboBox()
        self.joining.setAccessibleName("what a drawn outline becomes")
        self.joining.setToolTip("What a drawn outline becomes (J goes on to the next).")
        for joining, text in JOINING:
            self.joining.addItem(text, joining)
        shape.addWidget(QLabel("drawn outlines count"))
        shape.addWidget(self.joining)
        shape.addStretch(1)
        row.addStretch(1)
        self.zoom_label = QLabel("100 %")
        self.zoom_label.setToolTip("Zoom: wheel, or + and −")
        row.addWidget(self.zoom_label)
        for text, tip, act in (
            ("Fit", "Show the whole sheet (0)", self.view.fit),
            ("1:1", "One sheet pixel on one screen pixel (1)", self.view.actual),
        ):
            button = QToolButton()
            button.setObjectName("tool")
            button.setText(text)
            button.setToolTip(tip)
            button.clicked.connect(act)
            row.addWidget(button)
        middle, column = QWidget(), QVBoxLayout()
        middle.setLayout(column)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for part in (bar, self.brush_bar, self.shape_bar):
            column.addWidget(part)
        column.addWidget(self.view, 1)
        column.addWidget(self.tray)
        self.split = QSplitter()
        for part in (self.elements, middle, self.passes):
            self.split.addWidget(part)
        self.split.setSizes([276, 706, 298])
        self.split.setStretchFactor(1, 1)
        self.split.setHandleWidth(1)
        self.elements.setMinimumWidth(250)
        self.passes.setMinimumWidth(270)
        self.setCentralWidget(self.split)
        self.history = QDockWidget("History", self)
        self.history.setObjectName("history")
        steps = QUndoView(self.document.undo)
        steps.setEmptyLabel("as it was opened")
        steps.setAccessibleName("history")
        steps.setToolTip("Click a step to go back or forward to it.")
        self.history.setWidget(steps)
        self.addDockWidget(Qt.DockWidgetArea.RightDockWidgetArea, self.history)
        self.history.hide()

    @staticmethod
    def _bar() -> tuple[QWidget, QHBoxLayout]:
        bar = QWidget()
        bar.setObjectName("panel")
        row = QHBoxLayout(bar)
        row.setContentsMargins(10, 0, 8, 5)
        bar.hide()
        return bar, row

    def _action(self, text: str, act: Callable[[], object], *keys: str, tip: str = "") -> QAction:
        action = QAction(text, self)
        action.setShortcuts([QKeySequence(k) for k in keys])
        action.setToolTip(tip or text)
        action.setStatusTip(tip)

        def acted() -> None:
            _said()
            act()

        action.triggered.connect(lambda _=False: acted())
        return action

    def _switch(self, text: str, act: Callable[[bool], object], on: bool, *keys: str) -> QAction:
        action = QAction(text, self)
        action.setShortcuts([QKeySequence(k) for k in keys])
        action.setCheckable(True)
        action.setChecked(on)
        action.toggled.connect(act)
        return action

    def _menus(self) -> None:
        a, v, t, p, f, x = self.arranging, self.view, self.tray, self.painting, self.filing, self._action
        # Kept, because Qt leaves these two to whoever asked for them.
        self._undo_actions = undo, redo = self.document.undo.createUndoAction(self), self.document.undo.createRedoAction(self)
        assert undo is not None
        assert redo is not None
        undo.setShortcut("Ctrl+Z")
        redo.setShortcuts([QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")])
        self.dark_action = self._switch("Dark look", lambda on: self.set_look(SPRUCE if on else PARCHMENT), False)
        self.outlines_action = self._switch("Show outlines and mask", v.show_outlines, True, "O")
        self.difference_action = self._switch("Show the difference", p.show_difference, False, "Shift+C")
        history = self.history.toggleViewAction()
        assert history is not None
        history.setShortcut("Ctrl+H")
        menus: tuple[tuple[str, tuple[Entry, ...]], ...] = (
            (
                "&Sheet",
                (
                    x("New…", f.new_sheet, "Ctrl+N"),
                    x("Open…", f.open_any, "Ctrl+O"),
                    x("Open the demo", f.open_demo),
                    x("Start from a picture's recipe…", f.start_from_recipe),
                    x("Add a picture as a layer…", partial(self._with_path, self._add_picture)),
                    None,
                    x("Size of the sheet…", a.change_size),
                    x("Crop to the chosen element", a.crop_to_chosen),
                    None,
                    x("Save", self.save, "Ctrl+S"),
                    x("Save as…", f.save_as, "Ctrl+Shift+S"),
                    x("Export PNG…", f.export_png, "Ctrl+E"),
                    x("Export layout…", f.export_layout),
                    x("Export colour map…", self._export_colours),
                    None,
                    x("Quit", self.close, "Ctrl+Q"),
                ),
            ),
            (
                "&Edit",
                (
                    undo,
                    redo,
                    history,
                    None,
                    x("Cut", a.cut, "Ctrl+X"),
                    x("Copy", a.copy, "Ctrl+C"),
                    x("Paste", a.paste, "Ctrl+V"),
                    x("Duplicate", a.duplicate, "Ctrl+D"),
                    x("Delete element", a.delete, "Delete"),
                    None,
                    x("Choose all", v.choose_all, "Ctrl+A"),
                    x("Edit words on the sheet", a.edit_words, "F2"),
                    x("Nearer", lambda: a.move_depth(1), "PgDown"),
                    x("Farther", lambda: a.move_depth(-1), "PgUp"),
                ),
            ),
            (
                "&Outline",
                (
                    x("Give places to what the scene names", a.give_places, "Ctrl+L"),
                    x("Other places", a.other_places, "Ctrl+Shift+L"),
                    x("Divide by shares…", a.divide, "Shift+I"),
                    x("Elements from a colour map…", partial(self._with_path, a.take_colours)),
                    x("Element from a mask or cut-out…", partial(self._with_path, a.take_outline)),
                    None,
                    x("Figure as outline", a.figure_as_outline, "Shift+F"),
                    x("Another figure", a.another_figure, "Ctrl+Shift+F"),
                    x("Smooth…", a.smooth),
                    x("Grow…", lambda: a.grow(1)),
                    x("Shrink…", lambda: a.grow(-1)),
                    x("Invert", a.invert),
                    x("Fill holes", a.fill),
                    x("Mirror", a.mirror, "H"),
                    x("Mirror upside down", lambda: a.mirror(True), "Shift+H"),
                    x("Rotate…", a.rotate),
                    None,
                    x("Join the chosen", a.join, "Ctrl+J"),
                    x("Cut the last chosen out of the others", a.cut_out),
                    None,
                    x("Align left", lambda: a.align("left")),
                    x("Align centre", lambda: a.align("centre")),
                    x("Align right", lambda: a.align("right")),
                    x("Align top", lambda: a.align("top")),
                    x("Align middle", lambda: a.align("middle")),
                    x("Align bottom", lambda: a.align("bottom")),
                ),
            ),
            (
                "&Mask",
                (
                    x("Brush smaller", lambda: v.set_brush(radius=v.brush_radius / 1.25), "Q"),
                    x("Brush larger", lambda: v.set_brush(radius=v.brush_radius * 1.25), "W"),
                    x("Brush harder", lambda: v.set_brush(softness=v.brush_softness - 0.1), "Shift+Q"),
                    x("Brush softer", lambda: v.set_brush(softness=v.brush_softness + 0.1), "Shift+W"),
                    x("Eraser", lambda: v.set_brush(erasing=not v.erasing), "X"),
                    x("What drawn outlines become", self._next_joining, "J"),
                    None,
                    x("Mask from the chosen outline", a.mask_from_outline),
                    x("Element from the mask", a.outline_from_mask),
                    x("Mask by words…", p.mask_by_words, "Shift+M"),
                    x("Load mask picture…", self.load_mask),
                    x("Clear mask", a.empty_mask),
                ),
            ),
            (
                "&Pass",
                (
                    x("Run, or line up", p.run, "Ctrl+Return", "Ctrl+Enter"),
                    x("Stop", p.stop),
                    x("Next seeds", self.passes.next_seeds, "N"),
                    None,
                    x("Scene words read off the picture", p.read_off_words),
                    x("Elements of what is seen", p.elements_seen, "Ctrl+Shift+M"),
                    None,
                    x("Ladder of strengths", p.run_ladder, "L"),
                    x("Try other words…", p.try_other_words),
                    x("Try one or two settings…", p.vary, "Shift+L"),
                    x("What does guidance do?", lambda: p.show_setting("guidance")),
                    x("What does the scene's weight do?", lambda: p.show_setting("scene-weight")),
                ),
            ),
            (
                "&Takes",
                (
                    x("Keep take", p.keep, "K"),
                    x("Keep only what the mask covers", lambda: p.keep(part=True), "Shift+K"),
                    x("Drop take", p.drop_current, "D"),
                    x("Bring back dropped takes", p.bring_back, "Shift+D"),
                    x("Mark take", t.mark_current, "V"),
                    x("Drop unmarked takes", p.drop_unmarked, "Shift+V"),
                    None,
                    x("Use the take's seed and settings", p.use, "U"),
                    x("Keep the chosen elements' noise", p.use_for_chosen, "Shift+U"),
                    x("Re-roll", p.reroll, "T"),
                    x("Try again what missed", p.reroll_missed, "Shift+T"),
                    x("Paint the chosen from nearer", p.paint_nearer, "Ctrl+T"),
                    None,
                    x("Sort by placement", t.sort_by_placement),
                    x("Next take", lambda: t.step(1), "."),
                    x("Last take", lambda: t.step(-1), ","),
                    x("Compare others with this take", t.compare, "C"),
                    self.difference_action,
                    x("All takes side by side…", p.show_all, "Y"),
                ),
            ),
            (
                "&View",
                (
                    x("Fit", v.fit, "0"),
                    x("100 %", v.actual, "1"),
                    x("Closer", lambda: v.zoom_to(v.scale_now * 1.25), "+", "="),
                    x("Farther off", lambda: v.zoom_to(v.scale_now / 1.25), "-"),
                    self.outlines_action,
                    self.dark_action,
                    None,
                    x("All keys", self.show_keys, "F1"),
                ),
            ),
        )
        self._menu_actions = menus
        bar = self.menuBar()
        assert bar is not None
        for title, actions in menus:
            menu = bar.addMenu(title)
            assert menu is not None
            for action in actions:
                if action is None:
                    menu.addSeparator()
                else:
                    menu.addAction(action)

    def _connect(self) -> None:
        self.document.changed.connect(lambda *_: self._forecast_timer.start(FORECAST_DELAY_MS))
        self.document.replaced.connect(self._replaced)
        self.view.chosen.connect(self.elements.choose)
        self.elements.picked.connect(self.view.choose)
        self.passes.about_wanted.connect(self._show_about)
        self.view.zoomed.connect(lambda s: self.zoom_label.setText(f"{100 * s:.0f} %"))
        self.view.said.connect(self.say)
        self.view.tool_changed.connect(self._show_tool)
        self.view.brush_changed.connect(self._show_brush)
        self.radius.turned.connect(lambda r: self.view.set_brush(radius=r))
        self.softness.turned.connect(lambda s: self.view.set_brush(softness=s))
        self.eraser.toggled.connect(lambda on: self.view.set_brush(erasing=on))
        self.joining.currentIndexChanged.connect(lambda _: setattr(self.view, "joining", self.joining.currentData()))
        self.clear_mask.clicked.connect(self.arranging.empty_mask)
        self._show_brush()
        app = QApplication.instance()
        assert app is not None
        app.installEventFilter(self)

    # --- showing

    def set_look(self, look: Look) -> None:
        """Light (parchment) or dark (spruce)."""
        self.look = look
        self.setPalette(palette(look))
        self.setStyleSheet(style(look))
        self.view.set_look(look)
        self.passes.set_look(look)
        self.dark_action.setChecked(look is SPRUCE)

    def say(self, text: str) -> None:
        """A sentence above the Run button."""
        self.passes.status.setText(text)

    def _show_about(self, what: int | str) -> None:
        """What a warning is about: an element is chosen, words are ready to be typed."""
        if isinstance(what, int):
            self.view.choose(what)
        else:
            field = {"scene": self.elements.scene, "house": self.elements.house, "pass": self.passes.words}[what]
            field.setFocus()
            field.selectAll()

    def _after_saving(self, takes: Sequence[SavedTake]) -> None:
        self.painting.mark_saved(takes)
        self._show_title()

    def _show_title(self) -> None:
        name = self.document.path.name if self.document.path else "untitled sheet"
        self.setWindowTitle(f"{'• ' if self.document.modified else ''}{name} — Waldrand")

    def _show_tool(self, tool: str) -> None:
        self.tool_actions[tool].setChecked(True)
        self.brush_bar.setVisible(tool in ("brush", "shape"))
        self.clear_mask.setVisible(tool == "brush")
        self.shape_bar.setVisible(tool in DRAWING)
        d = self.document.draft
        if tool == "brush" and d.kind != "inpaint" and self.document.sheet.has_picture and self.tray.current is None:
            self.document.set_draft(replace(d, kind="inpaint"), "kind of pass")

    def _show_brush(self) -> None:
        self.radius.show_value(self.view.brush_radius)
        self.softness.show_value(self.view.brush_softness)
        self.eraser.setChecked(self.view.erasing)

    def _next_joining(self) -> None:
        self.joining.setCurrentIndex((self.joining.currentIndex() + 1) % self.joining.count())

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

        groups = [("Tools", [(a.text(), keys(a)) for a in self.tool_actions.values()])]
        for title, actions in self._menu_actions:
            rows = [(a.text(), keys(a)) for a in actions if a is not None and a.shortcuts()]
            groups.append((title.replace("&", ""), rows))
        groups.append(("Held", [("See before", "B"), ("No snapping", "Ctrl"), ("Wider zoom", "Shift or Alt with the wheel")]))
        self.dialogs.show(Shortcuts(groups, self))

    # --- what is often called from outside

    def run(self) -> None:
        self.painting.run()

    def stop(self) -> None:
        self.painting.stop()

    def keep(self) -> None:
        self.painting.keep()

    def save(self) -> bool:
        return self.filing.save()

    def open_file(self, path: Path) -> None:
        """Raises Refused when it cannot be opened."""
        self.filing.open_file(path)

    def open_demo(self) -> None:
        self.filing.open_demo()

    def _with_path(self, act: Callable[[Path], object]) -> None:
        path = self.dialogs.open_path()
        if path is not None:
            self.filing.attempt(lambda: act(path))

    def load_mask(self) -> None:
        """A grey picture as the mask."""
        self._with_path(self.arranging.take_mask)

    def _add_picture(self, path: Path) -> None:
        picture = read_picture(path)
        self.arranging.add_picture(picture.pixels, path.stem)
        self.say(" ".join(picture.notes))

    def _export_colours(self) -> None:
        path = self.dialogs.save_path("Export colour map", "map.png", "PNG picture (*.png)", ".png")
        if path is not None:
            self.filing.attempt(lambda: self.arranging.write_colours(path))

    # --- beginning and ending

    def begin(self) -> None:
        """Takes up where the last time ended, offers unsaved work, and times the machine."""
        settings = QSettings("Waldrand", "Waldrand")
        geometry = settings.value("geometry")
        if geometry is not None:
            self.restoreGeometry(geometry)
        if settings.value("look") == SPRUCE.name:
            self.set_look(SPRUCE)
        self.view.set_brush(float(settings.value("radius", 32.0)), float(settings.value("softness", 0.5)))
        tool = str(settings.value("tool", "arrange"))
        if tool in self.tool_actions:
            self.view.set_tool(next(name for name, *_ in TOOLS if name == tool))
        self.painting.measure_speed()
        self.refresh_forecast()
        self.filing.begin_autosave()

    def remember(self) -> None:
        """Keeps the window's place, look and tools for the next time."""
        settings = QSettings("Waldrand", "Waldrand")
        for key, value in (
            ("geometry", self.saveGeometry()),
            ("look", self.look.name),
            ("radius", self.view.brush_radius),
            ("softness", self.view.brush_softness),
            ("tool", self.view.tool),
        ):
            settings.setValue(key, value)

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
            if path.suffix.lower() in (".ora", ".toml"):
                if self.filing.may_leave():
                    self.filing.attempt(partial(self.open_file, path))
                return
            self.filing.attempt(partial(self._add_picture, path))
        if not data.hasUrls() and data.hasImage():
            self.arranging.add_picture(from_image(data.imageData()), "dropped picture")

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and isinstance(watched, QWidget) and watched.window() is self and not event.isAutoRepeat():
            typing = isinstance(QApplication.focusWidget(), (QLineEdit, WordsField))
            if event.key() == Qt.Key.Key_B and not typing and event.modifiers() == Qt.KeyboardModifier.NoModifier:
                if event.type() in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
                    self.view.show_before(event.type() == QEvent.Type.KeyPress)
                    return True
            elif event.key() == Qt.Key.Key_Escape and event.type() == QEvent.Type.KeyPress and not typing:
                if self.view.hands[self.view.tool].key(event):
                    return True
                if self.runner.running:
                    self.stop()
                elif self.tray.current is not None:
                    self.tray.rest()
                else:
                    self.view.choose(None)
                return True
        return super().eventFilter(watched, event)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is None:
            return
        self.view.finish_words()
        _said()
        unkept = sum(1 for t in self.tray.takes if t.marked and not t.kept and not t.saved)
        if self.filing.may_leave(unkept):
            app = QApplication.instance()
            if app is not None:
                app.removeEventFilter(self)
            self.filing.end_autosave()
            self.remember()
            event.accept()
        else:
            event.ignore()
