"""Opening, saving, exporting, and never losing work."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from PyQt6.QtCore import QLockFile, QStandardPaths, QTimer

from ...core.packs import Pack
from ...core.passes.recipe import last_recipe, picture_recipe, recipe_frame, request_from_json, sheet_before
from ...core.refused import Refused
from ...core.values.sheet import Layer, Sheet
from ...demo import load_demo
from ...files.layout import read_layout, write_layout
from ...files.openraster import SavedTake, open_sheet, save_sheet
from ...files.pictures import read_picture, read_recipe, write_png
from ..dialogs import Dialogs
from ..document import Document, Draft, State
from .writer import Writer

AUTOSAVE_MS = 60_000


def autosave_path() -> Path:
    """Where unsaved work is kept from time to time."""
    folder = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.AppLocalDataLocation)
    return Path(folder) / "unsaved-work.ora"


@dataclass(frozen=True, eq=False)
class Saving:
    """What is being written where."""

    path: Path
    state: State
    takes: Sequence[SavedTake]


class Filing:
    """The document's way to files and back."""

    def __init__(
        self,
        document: Document,
        pack: Pack,
        dialogs: Callable[[], Dialogs],
        say: Callable[[str], None],
        leave: Callable[[], None],
        finish: Callable[[], None],
        takes: Callable[[], Sequence[SavedTake]],
        show_takes: Callable[[Sequence[SavedTake]], None],
        saved: Callable[[Sequence[SavedTake]], None],
    ) -> None:
        """leave: called when the sheet is left for another; finish: before it is saved; takes: those in the tray; show_takes: puts
        them there; saved: called after the sheet was saved with these takes."""
        self._takes, self._show_takes, self._saved = takes, show_takes, saved
        self.document, self.pack, self._dialogs, self.say, self._leave, self._finish = document, pack, dialogs, say, leave, finish
        self._autosaved: object = document.state
        self._aside = autosave_path()
        self._keeper, self._saver = Writer(), Writer()
        self._keeper.ended.connect(self._kept_aside)
        self._saver.ended.connect(self._saving_ended)
        self._saving: Saving | None = None
        self._lock = QLockFile(str(self._aside.with_suffix(".lock")))
        self._timer = QTimer()
        self._timer.setInterval(AUTOSAVE_MS)
        self._timer.timeout.connect(self.autosave)

    def blank_draft(self) -> Draft:
        d = Draft()
        return replace(d, settings=replace(d.settings, steps=self.pack.info.steps, guidance=self.pack.info.guidance))

    def attempt(self, act: Callable[[], object]) -> bool:
        """Does something with a file; a failure is told in its own sentence."""
        try:
            act()
        except Refused as error:
            self._dialogs().tell(str(error))
            return False
        return True

    def may_leave(self, unkept: int = 0) -> bool:
        """Asks about unsaved work and takes nobody kept; False: stay."""
        self.finish_saving()
        if self.document.modified:
            answer = self._dialogs().unsaved(self.document.path.name if self.document.path else "untitled sheet")
            if answer == "cancel" or (answer == "save" and not self._saved_at_once()):
                return False
        elif unkept and not self._dialogs().yes(
            f"{unkept} take{' is' if unkept == 1 else 's are'} marked but neither kept nor saved with the sheet.", "Leave", "Stay"
        ):
            return False
        self._leave()
        return True

    # --- opening

    def new_sheet(self) -> None:
        if self.may_leave():
            size = self._dialogs().new_size(self.pack.info)
            if size is not None:
                self.attempt(lambda: self.document.open(Sheet(*size), self.blank_draft()))

    def open_any(self) -> None:
        path = self._dialogs().open_path()
        if path is not None and self.may_leave():
            self.attempt(lambda: self.open_file(path))

    def open_file(self, path: Path) -> None:
        """Opens a sheet (.ora), a layout (.toml) or a picture.

        Raises:
            Refused: it cannot be opened; the sheet stays as it was.
        """
        suffix = path.suffix.lower()
        notes: tuple[str, ...] = ()
        if suffix == ".ora":
            opened = open_sheet(path)
            self.document.open(opened.sheet, Draft.from_json(opened.settings) if opened.settings else self.blank_draft(), path)
            self._show_takes(opened.takes)
            notes = opened.notes
        elif suffix == ".toml":
            layout = read_layout(path)
            draft = replace(self.blank_draft(), settings=layout.settings)
            self.document.open(layout.sheet, draft.with_strength(layout.settings.strength))
        else:
            picture = read_picture(path)
            h, w = picture.pixels.shape[:2]
            self.document.open(Sheet(w, h, (Layer(1, path.stem, picture.pixels),)), replace(self.blank_draft(), kind="inpaint"))
            notes = picture.notes
            if last_recipe(read_recipe(path)) is not None:
                self.say("This picture holds a recipe: Sheet, Start from a picture's recipe brings back words, elements and settings.")
        if notes:
            self._dialogs().tell("\n".join(notes))

    def open_demo(self) -> None:
        if self.may_leave():
            demo = load_demo()
            self.document.open(demo.layout.sheet, replace(Draft(), settings=demo.layout.settings, takes=demo.takes))

    def start_from_recipe(self) -> None:
        path = self._dialogs().open_path()
        if path is not None and self.may_leave():
            self.attempt(lambda: self.take_recipe(path))

    def take_recipe(self, path: Path) -> None:
        """An empty sheet with the words, elements and settings a picture was made with.

        Raises:
            Refused: the picture holds no recipe, or a damaged one.
        """
        recipe = read_recipe(path)
        last = last_recipe(recipe)
        if recipe is None or last is None:
            raise Refused(f"{path} holds no recipe to start from.")
        try:
            sheet = sheet_before(last, int(recipe["width"]), int(recipe["height"]), ())
            request = request_from_json(last)
            recipe_frame(last)
        except (KeyError, TypeError) as error:
            raise Refused(f"The recipe in {path} is damaged.") from error
        # Without the picture it started from, an inpaint's words are the scene's.
        scene = sheet.scene if sheet.scene.words or not request.words else replace(sheet.scene, words=request.words, emphasis=())
        draft = replace(self.blank_draft(), settings=replace(request.settings, strength=1.0), takes=1)
        self.document.open(replace(sheet, scene=scene, mask=None), draft)

    # --- saving

    def save(self) -> bool:
        """Begins to save, asking where if that is not known; False: the artist thought better of it."""
        if self.document.path is None:
            return self.save_as()
        self._save_to(self.document.path)
        return True

    def save_as(self) -> bool:
        start = str(self.document.path or "sheet.ora")
        path = self._dialogs().save_path("Save sheet", start, "OpenRaster sheet (*.ora)", ".ora")
        if path is not None:
            self._save_to(path)
        return path is not None

    def _save_to(self, path: Path) -> None:
        self._finish()
        self.finish_saving()
        self._saving = saving = Saving(path, self.document.state, self._takes())
        self.say(f"Saving {path.name} …")
        self._saver.begin(lambda: save_sheet(path, saving.state.sheet, saving.state.draft.to_json(), saving.takes))

    def finish_saving(self) -> bool:
        """Waits for a saving under way and tells how it went; True when there was none. What was changed meanwhile stays unsaved."""
        if self._saving is None:
            return True
        self._saver.wait()
        saving, self._saving = self._saving, None
        if self._saver.error:
            self._dialogs().tell(self._saver.error)
            return False
        self.document.saved(saving.path, saving.state)
        self._saved(saving.takes)
        if not self.document.modified:
            self.discard_autosave()
        self.say(f"Saved {saving.path.name}.")
        return True

    def _saving_ended(self) -> None:
        # The artist may have saved again since.
        if not self._saver.writing:
            self.finish_saving()

    def _saved_at_once(self) -> bool:
        return self.save() and self.finish_saving()

    def export_png(self) -> None:
        """Writes what is seen as a PNG with its recipe inside."""
        sheet = self.document.sheet
        if not sheet.has_picture:
            self.say("There is no picture to export yet: run a pass and keep a take.")
            return
        path = self._dialogs().save_path("Export PNG", "picture.png", "PNG picture (*.png)", ".png")
        if path is not None and self.attempt(lambda: write_png(path, sheet.flatten(), picture_recipe(sheet))):
            self.say(f"Exported {path.name}.")

    def export_layout(self) -> None:
        path = self._dialogs().save_path("Export layout", "layout.toml", "Layout (*.toml)", ".toml")
        if path is not None and self.attempt(lambda: write_layout(path, self.document.sheet, self.document.draft.request().settings)):
            self.say(f"Exported {path.name}.")

    # --- never losing work

    def begin_autosave(self) -> None:
        """Work unsaved from an earlier time is offered; from now on it is kept every minute."""
        path = self._aside
        path.parent.mkdir(parents=True, exist_ok=True)
        if not self._lock.tryLock(0):
            # Another window keeps its work there.
            self._aside = path.with_name(f"unsaved-work-{os.getpid()}.ora")
        elif path.exists() and self._dialogs().yes("Waldrand was left with unsaved work. Bring it back?", "Bring it back", "Let it go"):
            self.attempt(lambda: self._recover(path))
        else:
            self.discard_autosave()
        self._timer.start()

    def _recover(self, path: Path) -> None:
        opened = open_sheet(path)
        self.document.open(Sheet(opened.sheet.width, opened.sheet.height))
        draft = Draft.from_json(opened.settings) if opened.settings else self.blank_draft()
        # As an edit, so that it counts as unsaved.
        self.document.edit_both(opened.sheet, draft, "bring back unsaved work")
        self._show_takes(opened.takes)

    def autosave(self) -> None:
        """Begins to keep unsaved work aside; a failure is only said, since nobody asked for it."""
        state = self.document.state
        if not self.document.modified or state is self._autosaved or self._keeper.writing:
            return
        path, takes = self._aside, self._takes()

        def write() -> None:
            path.parent.mkdir(parents=True, exist_ok=True)
            save_sheet(path, state.sheet, state.draft.to_json(), takes)

        self._autosaved = state
        self._keeper.begin(write)

    def _kept_aside(self) -> None:
        if self._keeper.error:
            self._autosaved = None
            self.say(f"Unsaved work could not be kept aside: {self._keeper.error}")

    def finish_autosave(self) -> None:
        """Blocks until what is being kept aside is written."""
        self._keeper.wait()

    def end_autosave(self) -> None:
        """The window is closed: nothing is left aside, and another may use the place."""
        self._timer.stop()
        self.discard_autosave()
        self._lock.unlock()

    def discard_autosave(self) -> None:
        self.finish_autosave()
        self._aside.unlink(missing_ok=True)
