"""The main window: the sheet in the middle, elements on its left, the pass on its right, takes below."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtGui import QAction, QActionGroup, QCloseEvent, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import (
    QApplication,
    QCheckBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMainWindow,
    QSplitter,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ..core.masks import Mask
from ..core.pack import Pack
from ..core.plan import Plan, plan
from ..core.recipe import picture_recipe
from ..core.run import Step, Take
from ..core.sheet import Layer, Sheet
from ..demo import load_demo
from ..files.layout import fitted_mask, read_layout
from ..files.openraster import open_sheet, save_sheet
from ..files.pictures import read_grey, read_picture, write_png
from .dialogs import Dialogs
from .document import Document, Draft
from .elements_column import ElementsColumn, move_element
from .look import PARCHMENT, SPRUCE, Look, palette, style
from .pass_column import PassColumn
from .runner import Runner
from .tray import Tray
from .view import SheetView, Tool
from .widgets import Dial

FORECAST_DELAY_MS = 40
TOOLS: tuple[tuple[Tool, str, str, str], ...] = (
    ("arrange", "Arrange", "A", "Choose, move and resize elements; drag empty places to pan; double-click to edit words"),
    ("box", "Rectangle", "R", "Draw an element's outline as a rectangle"),
    ("ellipse", "Ellipse", "E", "Draw an element's outline as an ellipse"),
    ("freehand", "Freehand", "F", "Draw an element's outline by hand"),
    ("brush", "Mask", "M", "Paint what an inpaint may change; soft edges keep partly"),
)


class MainWindow(QMainWindow):
    def __init__(self, pack: Pack, sheet: Sheet | None = None) -> None:
        super().__init__()
        self.pack = pack
        w, h = pack.info.best_sizes[0]
        self.document = Document(sheet or Sheet(w, h))
        self.dialogs = Dialogs(self)
        self.runner = Runner()
        self.look = PARCHMENT
        self.planned: Plan | None = None
        self._starting = self._blank_draft()
        self.document.open(self.document.sheet, self._starting)
        self.view = SheetView(self.document, self.look)
        self.elements = ElementsColumn(self.document)
        self.passes = PassColumn(self.document)
        self.tray = Tray()
        self._running_plan: Plan | None = None
        self._shown_take: Take | None = None
        self._build()
        self._connect()
        self._forecast_timer = QTimer(self)
        self._forecast_timer.setSingleShot(True)
        self._forecast_timer.timeout.connect(self.refresh_forecast)
        self._forecast_timer.timeout.connect(self._show_title)
        self.set_look(self.look)
        self.refresh_forecast()
        self._show_title()

    def _blank_draft(self) -> Draft:
        d = Draft()
        return replace(d, settings=replace(d.settings, steps=self.pack.info.steps, guidance=self.pack.info.guidance))

    # --- building

    def _build(self) -> None:
        bar, row = QWidget(), QHBoxLayout()
        bar.setObjectName("panel")
        bar.setLayout(row)
        row.setContentsMargins(8, 5, 8, 5)
        row.setSpacing(5)
        self.tool_actions: dict[str, QAction] = {}
        group = QActionGroup(self)
        for tool, text, key, tip in TOOLS:
            action = QAction(text, self)
            action.setCheckable(True)
            action.setShortcut(key)
            action.setToolTip(f"{tip} ({key})")
            action.triggered.connect(lambda _=False, t=tool: self.view.set_tool(t))
            group.addAction(action)
            self.addAction(action)
            self.tool_actions[tool] = action
            button = QToolButton()
            button.setDefaultAction(action)
            row.addWidget(button)
        self.tool_actions["arrange"].setChecked(True)
        self.brush_bar = QWidget()
        brush = QHBoxLayout(self.brush_bar)
        brush.setContentsMargins(10, 0, 8, 5)
        self.radius = Dial("Brush radius in sheet pixels (Q smaller, W larger).", "brush size", 1, 500, 5, 0)
        self.softness = Dial("Soft edge of the brush, 0 to 1 (Shift+Q harder, Shift+W softer).", "brush softness", 0, 1, 0.1, 2)
        for dial, label in ((self.radius, "size"), (self.softness, "softness")):
            dial.setFixedWidth(170)
            brush.addWidget(QLabel(label))
            brush.addWidget(dial)
        self.eraser = QCheckBox("eraser")
        self.clear_mask = QToolButton()
        self.clear_mask.setText("clear mask")
        self.eraser.setToolTip("Take away from the mask instead of adding (X)")
        self.clear_mask.setToolTip("Empty the mask")
        brush.addWidget(self.eraser)
        brush.addWidget(self.clear_mask)
        brush.addStretch(1)
        self.brush_bar.setObjectName("panel")
        self.brush_bar.hide()
        row.addStretch(1)
        self.zoom_label = QLabel("100 %")
        self.zoom_label.setToolTip("Zoom: wheel, or + and −")
        row.addWidget(self.zoom_label)
        for text, tip, act in (
            ("Fit", "Show the whole sheet (0)", self.view.fit),
            ("1:1", "One sheet pixel on one screen pixel (1)", self.view.actual),
        ):
            button = QToolButton()
            button.setText(text)
            button.setToolTip(tip)
            button.clicked.connect(act)
            row.addWidget(button)
        middle, column = QWidget(), QVBoxLayout()
        middle.setLayout(column)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(bar)
        column.addWidget(self.brush_bar)
        column.addWidget(self.view, 1)
        column.addWidget(self.tray)
        split = QSplitter()
        for part in (self.elements, middle, self.passes):
            split.addWidget(part)
        split.setSizes([270, 720, 290])
        split.setStretchFactor(1, 1)
        split.setHandleWidth(1)
        self.elements.setMinimumWidth(220)
        self.passes.setMinimumWidth(260)
        self.setCentralWidget(split)
        self._menus()

    def _action(self, text: str, act: Callable[[], object], *keys: str, tip: str = "") -> QAction:
        action = QAction(text, self)
        action.setShortcuts([QKeySequence(k) for k in keys])
        action.setToolTip(tip or text)
        action.setStatusTip(tip)
        action.triggered.connect(lambda _=False: act())
        return action

    def _menus(self) -> None:
        bar = self.menuBar()
        assert bar is not None
        # Kept, because Qt leaves these two to whoever asked for them.
        self._undo_actions = undo, redo = self.document.undo.createUndoAction(self), self.document.undo.createRedoAction(self)
        assert undo is not None
        assert redo is not None
        undo.setShortcut("Ctrl+Z")
        redo.setShortcuts([QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")])
        self.dark_action = self._action("Dark look", lambda: self.set_look(SPRUCE if self.look is PARCHMENT else PARCHMENT))
        self.dark_action.setCheckable(True)
        self.outlines_action = self._action(
            "Show outlines and mask", lambda: self.view.show_outlines(self.outlines_action.isChecked()), "O"
        )
        self.outlines_action.setCheckable(True)
        self.outlines_action.setChecked(True)
        v, t, p = self.view, self.tray, self.passes
        menus: tuple[tuple[str, tuple[QAction | None, ...]], ...] = (
            (
                "&Sheet",
                (
                    self._action("New…", self.new_sheet, "Ctrl+N"),
                    self._action("Open…", self.open_any, "Ctrl+O"),
                    self._action("Open the demo", self.open_demo),
                    None,
                    self._action("Save", self.save, "Ctrl+S"),
                    self._action("Save as…", self.save_as, "Ctrl+Shift+S"),
                    self._action("Export PNG…", self.export_png, "Ctrl+E"),
                    None,
                    self._action("Quit", self.close, "Ctrl+Q"),
                ),
            ),
            (
                "&Edit",
                (
                    undo,
                    redo,
                    None,
                    self._action("Delete element", self.delete_chosen, "Delete"),
                    self._action("Edit words on the sheet", self.edit_chosen_words, "F2"),
                    self._action("Nearer", lambda: self._move_chosen(1), "PgDown"),
                    self._action("Farther", lambda: self._move_chosen(-1), "PgUp"),
                ),
            ),
            (
                "&Mask",
                (
                    self._action("Brush smaller", lambda: v.set_brush(radius=v.brush_radius / 1.25), "Q"),
                    self._action("Brush larger", lambda: v.set_brush(radius=v.brush_radius * 1.25), "W"),
                    self._action("Brush harder", lambda: v.set_brush(softness=v.brush_softness - 0.1), "Shift+Q"),
                    self._action("Brush softer", lambda: v.set_brush(softness=v.brush_softness + 0.1), "Shift+W"),
                    self._action("Eraser", lambda: v.set_brush(erasing=not v.erasing), "X"),
                    None,
                    self._action("Load mask picture…", self.load_mask),
                    self._action("Clear mask", self.empty_mask),
                ),
            ),
            (
                "&Pass",
                (
                    self._action("Run", self.run, "Ctrl+Return", "Ctrl+Enter"),
                    self._action("Stop", self.stop),
                    self._action("Next seeds", p.next_seeds, "N"),
                    None,
                    self._action("Keep take", self.keep, "K"),
                    self._action("Drop take", t.drop_current, "D"),
                    self._action("Bring back dropped take", t.bring_back, "Shift+D"),
                    self._action("Use the take's seed", self.use_seed, "U"),
                    self._action("Next take", lambda: t.step(1), "."),
                    self._action("Last take", lambda: t.step(-1), ","),
                ),
            ),
            (
                "&View",
                (
                    self._action("Fit", v.fit, "0"),
                    self._action("100 %", v.actual, "1"),
                    self._action("Closer", lambda: v.zoom_to(v.scale_now * 1.25), "+", "="),
                    self._action("Farther off", lambda: v.zoom_to(v.scale_now / 1.25), "-"),
                    self.outlines_action,
                    self.dark_action,
                ),
            ),
        )
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
        self.passes.about_wanted.connect(self.view.choose)
        self.view.zoomed.connect(lambda s: self.zoom_label.setText(f"{100 * s:.0f} %"))
        self.view.said.connect(self.say)
        self.view.tool_changed.connect(self._show_tool)
        self.view.brush_changed.connect(self._show_brush)
        self.radius.turned.connect(lambda r: self.view.set_brush(radius=r))
        self.softness.turned.connect(lambda s: self.view.set_brush(softness=s))
        self.eraser.toggled.connect(lambda on: self.view.set_brush(erasing=on))
        self.clear_mask.clicked.connect(self.empty_mask)
        self.passes.run_wanted.connect(self.run)
        self.passes.stop_wanted.connect(self.stop)
        self.tray.shown.connect(self._show_take)
        self.tray.keep_wanted.connect(self.keep)
        self.tray.seed_wanted.connect(self.use_seed)
        self.runner.stepped.connect(self._stepped)
        self.runner.taken.connect(self._taken)
        self.runner.ended.connect(self._ended)
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
        self.dark_action.setChecked(look is SPRUCE)

    def say(self, text: str) -> None:
        """A sentence above the Run button."""
        self.passes.status.setText(text)

    def _show_title(self) -> None:
        name = self.document.path.name if self.document.path else "untitled sheet"
        self.setWindowTitle(f"{'• ' if self.document.modified else ''}{name} — Waldrand")

    def _show_tool(self, tool: str) -> None:
        self.tool_actions[tool].setChecked(True)
        self.brush_bar.setVisible(tool == "brush")
        if tool == "brush" and self.document.draft.kind != "inpaint" and self.document.sheet.has_picture:
            self.document.set_draft(replace(self.document.draft, kind="inpaint"), "kind of pass")

    def _show_brush(self) -> None:
        self.radius.show_value(self.view.brush_radius)
        self.softness.show_value(self.view.brush_softness)
        self.eraser.setChecked(self.view.erasing)

    def _replaced(self) -> None:
        self.tray.clear()
        self.refresh_forecast()
        self._show_title()

    def refresh_forecast(self) -> None:
        """Plans the next pass anew and shows what it would do."""
        try:
            self.planned = plan(self.document.sheet, self.document.draft.request(), self.pack)
            self.passes.show_forecast(self.planned)
            fitted = self.planned.request.kind == "inpaint"
            self.view.show_frame(self.planned.frame.rect if fitted else None)
        except ValueError as error:
            self.planned = None
            self.passes.show_forecast(None, str(error))
            self.view.show_frame(None)

    # --- passes

    def run(self) -> None:
        """Runs the planned pass; the sheet stays free meanwhile."""
        self.view.finish_words()
        focused = QApplication.focusWidget()
        if isinstance(focused, QLineEdit):
            focused.clearFocus()
        if self.runner.running:
            return
        self.refresh_forecast()
        if self.planned is None:
            return
        self._running_plan = self.planned
        self.tray.rest()
        self.passes.show_running(True)
        self.runner.start(self.planned, self.pack, self.document.draft.takes)

    def stop(self) -> None:
        self.runner.stop()

    def _stepped(self, step: Step) -> None:
        if self._running_plan is None or not self.runner.running:
            return
        self.passes.show_step(step)
        if self._shown_take is None and self._running_plan.sheet.rect == self.document.sheet.rect:
            self.view.show_overlay(step.preview, self._running_plan.frame.rect)

    def _taken(self, take: Take) -> None:
        if self._running_plan is not None:
            self.tray.add(take, show=self.tray.current is None)

    def _ended(self, message: str) -> None:
        self.runner.wait()
        self._running_plan = None
        self.passes.show_running(False)
        self.say(message)
        if self._shown_take is None:
            self._show_take(None)

    def _show_take(self, take: Take | None) -> None:
        self._shown_take = take
        if take is None:
            self.view.show_overlay(None, self.document.sheet.rect)
        else:
            self.view.show_overlay(take.to_patch(0, "").shown(), take.frame)

    def keep(self) -> None:
        """Keeps the shown take as a patch."""
        entry, sheet = self.tray.current, self.document.sheet
        if entry is None:
            self.say("There is no take to keep: run a pass, or step to a take.")
            return
        take = entry.take
        if take.frame.intersect(sheet.rect) != take.frame:
            self.say("That take belongs to a sheet of another size.")
            return
        name = str(take.recipe["words"]) or f"{take.recipe['kind']}, seed {take.seed}"
        self.document.edit(sheet.with_layer(take.to_patch(sheet.next_key(), name)), "keep take")
        self.tray.mark_kept()
        self.tray.rest()

    def use_seed(self) -> None:
        entry = self.tray.current
        if entry is not None:
            d = self.document.draft
            self.document.set_draft(replace(d, settings=replace(d.settings, seed=entry.take.seed)), "seed")

    # --- elements and mask

    def delete_chosen(self) -> None:
        key = self.view.selected
        if key is not None:
            self.document.edit(self.document.sheet.without_element(key), f"delete “{self.document.sheet.element(key).name}”")

    def edit_chosen_words(self) -> None:
        if self.view.selected is not None:
            self.view.edit_words(self.view.selected)

    def _move_chosen(self, by: int) -> None:
        if self.view.selected is not None:
            move_element(self.document, self.view.selected, by)

    def empty_mask(self) -> None:
        if self.document.sheet.mask is not None:
            self.document.edit(replace(self.document.sheet, mask=None), "clear mask")

    def load_mask(self) -> None:
        """A grey picture as the mask, scaled to the sheet when it has another size."""
        path = self.dialogs.open_path()
        if path is not None:
            self._try(lambda: self.take_mask(path))

    def take_mask(self, path: Path) -> None:
        sheet, grey = self.document.sheet, read_grey(path)
        if grey.shape != (sheet.height, sheet.width):
            self.say(f"The mask was {grey.shape[1]} x {grey.shape[0]}; it is scaled to the sheet.")
        mask = Mask.from_array(fitted_mask(grey, sheet.width, sheet.height, str(path), scale=True))
        self.document.edit(replace(sheet, mask=mask), "load mask")

    # --- files

    def _try(self, act: Callable[[], object]) -> bool:
        """Does something with a file; a failure is told in its own sentence."""
        try:
            act()
        except ValueError as error:
            self.dialogs.tell(str(error))
            return False
        return True

    def may_leave(self) -> bool:
        """Asks about unsaved work and a running pass; False: stay."""
        if self.document.modified:
            answer = self.dialogs.unsaved(self.document.path.name if self.document.path else "untitled sheet")
            if answer == "cancel" or (answer == "save" and not self.save()):
                return False
        if self.runner.running:
            # Takes that are still on their way belong to the sheet that is left.
            self._running_plan = None
            self.runner.stop()
            self.runner.wait()
        return True

    def new_sheet(self) -> None:
        if self.may_leave():
            size = self.dialogs.new_size(self.pack.info)
            if size is not None:
                self._try(lambda: self.document.open(Sheet(*size), self._blank_draft()))

    def open_any(self) -> None:
        path = self.dialogs.open_path()
        if path is not None and self.may_leave():
            self._try(lambda: self.open_file(path))

    def open_file(self, path: Path) -> None:
        """Opens a sheet (.ora), a layout (.toml) or a picture.

        Raises:
            ValueError: it cannot be opened; the sheet stays as it was.
        """
        suffix = path.suffix.lower()
        if suffix == ".ora":
            opened = open_sheet(path)
            self.document.open(opened.sheet, Draft.from_json(opened.settings) if opened.settings else self._blank_draft(), path)
            notes = opened.notes
        elif suffix == ".toml":
            layout = read_layout(path)
            draft = replace(self._blank_draft(), settings=layout.settings)
            self.document.open(layout.sheet, draft.with_strength(layout.settings.strength))
            notes = ()
        else:
            picture = read_picture(path)
            h, w = picture.pixels.shape[:2]
            self.document.open(Sheet(w, h, (Layer(1, path.stem, picture.pixels),)), replace(self._blank_draft(), kind="inpaint"))
            notes = picture.notes
        if notes:
            self.dialogs.tell("\n".join(notes))

    def open_demo(self) -> None:
        if self.may_leave():
            demo = load_demo()
            self.document.open(demo.layout.sheet, replace(Draft(), settings=demo.layout.settings, takes=demo.takes))

    def save(self) -> bool:
        if self.document.path is None:
            return self.save_as()
        return self._save_to(self.document.path)

    def save_as(self) -> bool:
        start = str(self.document.path or "sheet.ora")
        path = self.dialogs.save_path("Save sheet", start, "OpenRaster sheet (*.ora)", ".ora")
        return path is not None and self._save_to(path)

    def _save_to(self, path: Path) -> bool:
        self.view.finish_words()
        if not self._try(lambda: save_sheet(path, self.document.sheet, self.document.draft.to_json())):
            return False
        self.document.saved(path)
        self._show_title()
        self.say(f"Saved {path.name}.")
        return True

    def export_png(self) -> None:
        """Writes what is seen as a PNG with its recipe inside."""
        sheet = self.document.sheet
        if not sheet.has_picture:
            self.say("There is no picture to export yet: run a pass and keep a take.")
            return
        path = self.dialogs.save_path("Export PNG", "picture.png", "PNG picture (*.png)", ".png")
        if path is not None and self._try(lambda: write_png(path, sheet.flatten(), picture_recipe(sheet))):
            self.say(f"Exported {path.name}.")

    # --- keys that are held, and leaving

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and isinstance(watched, QWidget) and watched.window() is self and not event.isAutoRepeat():
            typing = isinstance(QApplication.focusWidget(), QLineEdit)
            if event.key() == Qt.Key.Key_B and not typing and event.modifiers() == Qt.KeyboardModifier.NoModifier:
                if event.type() in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
                    self.view.show_before(event.type() == QEvent.Type.KeyPress)
                    return True
            elif event.key() == Qt.Key.Key_Escape and event.type() == QEvent.Type.KeyPress and not typing:
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
        if self.may_leave():
            app = QApplication.instance()
            if app is not None:
                app.removeEventFilter(self)
            event.accept()
        else:
            event.ignore()
