"""Saving and exporting."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from ...core.passes.recipe import picture_recipe
from ...files.layout import write_layout, written_files
from ...files.pictures import write_png
from ..dialogs import Dialogs
from ..document import Document
from .aside import Aside
from .filed import FiledTakes, Written, written_now
from .writer import Writer


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
    ) -> None:
        """finish: called before the sheet is saved."""
        self.document, self._dialogs, self.say, self._finish, self._tray, self._aside = document, dialogs, say, finish, takes, aside
        self._saver = Writer()
        self._saver.ended.connect(self._saving_ended)
        self._saving: Written | None = None

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
        self._saving = written_now(self.document, self._tray, path)
        self.say(f"Saving {path.name} …")
        self._saver.begin(self._saving.write)

    def finish_saving(self) -> bool:
        """Waits for a saving under way and tells how it went; True when there was none. What was changed meanwhile stays unsaved."""
        if self._saving is None:
            return True
        self._saver.wait()
        saving, self._saving = self._saving, None
        if self._saver.error:
            self._dialogs().tell(self._saver.error)
            return False
        self.document.saved(saving.path, saving.moment)
        self._tray.saved(saving.takes)
        if not self.document.modified:
            self._aside.discard_autosave()
        self.say(f"Saved {saving.path.name}.")
        return True

    def _saving_ended(self) -> None:
        # The artist may have saved again since.
        if not self._saver.writing:
            self.finish_saving()

    def saved_at_once(self) -> bool:
        """Saves and waits for it; False: it could not be saved, or the artist thought better of it."""
        return self.save() and self.finish_saving()

    def export_png(self) -> None:
        """Writes what is seen as a PNG with its recipe inside."""
        sheet = self.document.sheet
        if not sheet.has_picture:
            self.say("There is no picture to export yet: run a pass and keep a take.")
            return
        path = self._dialogs().save_path("Export PNG", "picture.png", "PNG picture (*.png)", ".png")
        if path is not None and self._dialogs().attempt(lambda: write_png(path, sheet.flatten(), picture_recipe(sheet))):
            self.say(f"Exported {path.name}.")

    def export_layout(self) -> None:
        """Writes words, elements and the pass; pictures of painted outlines beside it, over others only when told to."""
        sheet, settings = self.document.sheet, self.document.draft.request().settings
        path = self._dialogs().save_path("Export layout", "layout.toml", "Layout (*.toml)", ".toml")
        if path is None:
            return
        there = [f.name for f in written_files(path, sheet)[1:] if f.exists()]
        ask = f"{', '.join(there)}: there already, and would be written over by painted outlines."
        if there and not self._dialogs().yes(ask, "Write over", "Leave as it is"):
            return
        if self._dialogs().attempt(lambda: write_layout(path, sheet, settings, force=True)):
            self.say(f"Exported {path.name}.")
