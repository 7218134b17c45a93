"""Saving and exporting."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path

from ...core.passes.recipe import picture_recipe
from ...core.worded import worded
from ...files.exporting import OF_ENDING, About, export_picture
from ...files.layout import write_layout, written_files
from ...files.pictures import write_png
from ..dialogs import Dialogs
from ..document import Document
from ..preferences import note_recent
from .aside import Aside
from .beside import Beside, Tick
from .filed import FiledTakes, Written, written_now


class Saving:
    """The document's way to files."""

    def __init__(
        self,
        document: Document,
        dialogs: Callable[[], Dialogs],
        say: Callable[[str], None],
        finish: Callable[[], None],
        takes: FiledTakes,
        aside: Aside,
        beside: Beside,
    ) -> None:
        """finish: called before the sheet is saved."""
        self.document, self._dialogs, self.say, self._finish, self._tray, self._aside = document, dialogs, say, finish, takes, aside
        self._beside = beside
        self._went_wrong = False
        #: Who made it and whose it is, as exported pictures say it.
        self.credits: Mapping[str, str] = {}

    def save(self) -> bool:
        """Begins to save, asking where if that is not known; False: the artist thought better of it."""
        if self.document.path is None:
            return self.save_as()
        self._save_to(self.document.path)
        return True

    def save_as(self) -> bool:
        start = str(self.document.path or "sheet.ora")
        path = self._dialogs().save_path(worded("Save sheet"), start, worded("OpenRaster sheet (*.ora)"), ".ora")
        if path is not None:
            self._save_to(path)
        return path is not None

    def _save_to(self, path: Path) -> None:
        self._finish()
        saving = written_now(self.document, self._tray, path)
        self._went_wrong = False
        self.say(worded("Saving {0} …", path.name))
        self._beside.do(worded("Saving {0}", path.name), saving.write, lambda _: self._saved(saving), self._not_saved, saving.steps)

    def _saved(self, saving: Written) -> None:
        self.document.saved(saving.path, saving.moment)
        self._tray.saved(saving.takes)
        if not self.document.modified:
            self._aside.discard_autosave()
        note_recent(saving.path)
        self.say(worded("Saved {0}.", saving.path.name))

    def _not_saved(self, why: str) -> None:
        self._went_wrong = True
        if why:
            self._dialogs().tell(why)
        else:
            self.say(worded("Stopped. The file is as it was; the sheet is not saved."))

    def finish_saving(self) -> bool:
        """Waits for what is being written, saying so; whether all of it went well. What was changed meanwhile stays unsaved."""
        if self._beside.busy:
            self._dialogs().wait_for(self._beside)
        went_wrong, self._went_wrong = self._went_wrong, False
        return not went_wrong

    def saved_at_once(self) -> bool:
        """Saves and waits for it; False: it could not be saved, or the artist thought better of it."""
        return self.save() and self.finish_saving()

    def export_png(self) -> None:
        """Writes what is seen as a PNG with its recipe inside."""
        sheet = self.document.sheet
        if not sheet.has_picture:
            self.say(worded("There is no picture to export yet: run a pass and keep a take."))
            return
        path = self._dialogs().save_path(worded("Export PNG"), "picture.png", worded("PNG picture (*.png)"), ".png")
        if path is not None:
            credits = self.credits
            self._export(path, lambda: write_png(path, sheet.flatten(), picture_recipe(sheet), credits=credits))

    def export_other(self) -> None:
        """Writes what is seen in a format without a recipe, by the ending of its name."""
        sheet = self.document.sheet
        if not sheet.has_picture:
            self.say(worded("There is no picture to export yet: run a pass and keep a take."))
            return
        kind = worded("JPEG, TIFF or WebP picture ({0})", "*.jpg *.tif *.webp")
        path = self._dialogs().save_path(worded("Export picture"), "picture.jpg", kind, (".jpg", ".jpeg", ".tif", ".tiff", ".webp"))
        if path is not None:
            about = About(author=self.credits.get("Author", ""), rights=self.credits.get("Copyright", ""))
            self._export(path, lambda: export_picture(path, sheet.flatten(), OF_ENDING[path.suffix.lower()], about=about))

    def _export(self, path: Path, write: Callable[[], object]) -> None:
        def work(tick: Tick) -> None:
            tick()
            write()

        self._beside.do(
            worded("Exporting {0}", path.name), work, lambda _: self.say(worded("Exported {0}.", path.name)), self._not_exported
        )

    def _not_exported(self, why: str) -> None:
        if why:
            self._dialogs().tell(why)

    def export_layout(self) -> None:
        """Writes words, elements and the pass; pictures of painted outlines beside it, over others only when told to."""
        sheet, settings = self.document.sheet, self.document.draft.request().settings
        path = self._dialogs().save_path(worded("Export layout"), "layout.toml", worded("Layout (*.toml)"), ".toml")
        if path is None:
            return
        there = [f.name for f in written_files(path, sheet)[1:] if f.exists()]
        ask = worded("{0}: there already, and would be written over by painted outlines.", ", ".join(there))
        if there and not self._dialogs().yes(ask, worded("Write over"), worded("Leave as it is")):
            return
        self._export(path, lambda: write_layout(path, sheet, settings, force=True))
