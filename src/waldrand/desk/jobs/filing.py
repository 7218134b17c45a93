"""Opening, saving, exporting, and never losing work."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from PyQt6.QtCore import QTimer

from ...core.packs import Pack
from ...core.passes.kinds import mask_kind
from ...core.passes.recipe import last_recipe, picture_recipe, recipe_frame, request_from_json, sheet_before
from ...core.refused import Refused
from ...core.values.layers import PictureLayer
from ...core.values.sheet import Sheet
from ...demo import load_demo
from ...files.layout import read_layout, write_layout, written_files
from ...files.openraster import SavedTake, open_sheet, save_sheet
from ...files.pictures import read_picture, read_recipe, write_png
from ..dialogs import Dialogs
from ..document import Document
from ..draft import Draft
from .safekeeping import Safe, autosave_path
from .writer import Writer

AUTOSAVE_MS = 60_000


@dataclass(frozen=True, eq=False)
class Found:
    """What a file holds. path: where it is saved again, where that is known; notes: what the artist should know; hint: the same, not so
    important."""

    sheet: Sheet
    draft: Draft
    path: Path | None = None
    takes: tuple[SavedTake, ...] = ()
    notes: tuple[str, ...] = ()
    hint: str = ""


@dataclass(frozen=True, eq=False)
class Saving:
    """What is being written where: the sheet as it was at a moment."""

    path: Path
    moment: object
    sheet: Sheet
    draft: Draft
    takes: Sequence[SavedTake]

    def write(self) -> None:
        save_sheet(self.path, self.sheet, self.draft.to_json(), self.takes)


@dataclass(frozen=True, eq=False)
class Tray:
    """The takes, as far as files have to do with them: takes: those there, as they are saved; at_stake: those that are neither kept nor
    saved; show: puts saved ones there; saved: marks them as such."""

    takes: Callable[[], Sequence[SavedTake]]
    at_stake: Callable[[], Sequence[SavedTake]]
    show: Callable[[Sequence[SavedTake]], None]
    saved: Callable[[Sequence[SavedTake]], None]


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
        tray: Tray,
    ) -> None:
        """leave: called when the sheet is left for another; finish: before it is saved."""
        self.document, self.pack, self._dialogs, self.say, self._leave, self._finish = document, pack, dialogs, say, leave, finish
        self._tray = tray
        self._aside: tuple[object, ...] = ()
        self._safe = Safe(autosave_path())
        self._keeper, self._saver = Writer(), Writer()
        self._keeper.ended.connect(self._kept_aside)
        self._saver.ended.connect(self._saving_ended)
        self._saving: Saving | None = None
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

    def may_leave(self) -> bool:
        """Asks about unsaved work and takes nobody kept; False: stay."""
        self.finish_saving()
        stake = self._tray.at_stake()
        if self.document.modified:
            answer = self._dialogs().unsaved(self.document.path.name if self.document.path else "untitled sheet")
            if answer == "cancel" or (answer == "save" and not self._saved_at_once()):
                return False
        elif stake and not self._dialogs().yes(f"{_counted(stake)} neither kept nor saved with the sheet.", "Leave", "Stay"):
            return False
        self._leave()
        return True

    # --- opening

    def new_sheet(self) -> None:
        size = self._dialogs().new_size(self.pack.info)
        if size is not None:
            self.attempt(lambda: self._change_to(Found(Sheet(*size), self.blank_draft())))

    def open_any(self) -> None:
        self._with_path(self._found_in)

    def start_from_recipe(self) -> None:
        self._with_path(self._from_recipe)

    def _with_path(self, read: Callable[[Path], Found]) -> None:
        path = self._dialogs().open_path()
        if path is not None:
            self.attempt(lambda: self._change_to(read(path)))

    def drop_in(self, path: Path) -> None:
        """Opens a file that was dropped on the window."""
        self.attempt(lambda: self._change_to(self._found_in(path)))

    def open_demo(self) -> None:
        demo = load_demo()
        self._change_to(Found(demo.layout.sheet, replace(Draft(), settings=demo.layout.settings, takes=demo.takes)))

    def open_file(self, path: Path) -> None:
        """Opens a sheet (.ora), a layout (.toml) or a picture.

        Raises:
            Refused: it cannot be opened; the sheet stays as it was.
        """
        self._show(self._found_in(path))

    def take_recipe(self, path: Path) -> None:
        """An empty sheet with the words, elements and settings a picture was made with.

        Raises:
            Refused: the picture holds no recipe, or a damaged one.
        """
        self._show(self._from_recipe(path))

    def _change_to(self, found: Found) -> None:
        """Leaves the sheet for another, if that may be: nothing is left before the other is there."""
        if self.may_leave():
            self.discard_autosave()
            self._show(found)

    def _show(self, found: Found) -> None:
        self.document.open(found.sheet, found.draft, found.path)
        self._tray.show(found.takes)
        if found.hint:
            self.say(found.hint)
        if found.notes:
            self._dialogs().tell("\n".join(found.notes))

    def _found_in(self, path: Path) -> Found:
        match path.suffix.lower():
            case ".ora":
                opened = open_sheet(path)
                draft = Draft.from_json(opened.settings) if opened.settings else self.blank_draft()
                return Found(opened.sheet, draft, path, opened.takes, opened.notes)
            case ".toml":
                layout = read_layout(path)
                draft = replace(self.blank_draft(), settings=layout.settings)
                return Found(layout.sheet, draft.with_strength(layout.settings.strength))
            case _:
                picture = read_picture(path)
                h, w = picture.pixels.shape[:2]
                hint = "This picture holds a recipe: Sheet, Start from a picture's recipe brings back words, elements and settings."
                told = hint if last_recipe(read_recipe(path)) is not None else ""
                draft = replace(self.blank_draft(), kind=mask_kind().name)
                return Found(Sheet(w, h, (PictureLayer(1, path.stem, picture.pixels),)), draft, notes=picture.notes, hint=told)

    def _from_recipe(self, path: Path) -> Found:
        recipe = read_recipe(path)
        last = last_recipe(recipe)
        if recipe is None or last is None:
            raise Refused(f"{path} holds no recipe to start from.")
        try:
            sheet = sheet_before(last, int(recipe["width"]), int(recipe["height"]), ())
            request = request_from_json(last)
            recipe_frame(last)
        except (Refused, KeyError, TypeError, ValueError) as error:
            raise Refused(f"The recipe in {path} is damaged. {error if isinstance(error, Refused) else ''}".strip()) from error
        # Without the picture it started from, an inpaint's words are the scene's.
        scene = sheet.scene if sheet.scene.words or not request.words else replace(sheet.scene, words=request.words, emphasis=())
        draft = replace(self.blank_draft(), settings=replace(request.settings, strength=1.0), takes=1)
        return Found(replace(sheet, scene=scene, mask=None), draft)

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
        self._saving = self._now(path)
        self.say(f"Saving {path.name} …")
        self._saver.begin(self._saving.write)

    def _now(self, path: Path) -> Saving:
        d = self.document
        return Saving(path, d.moment, d.sheet, d.draft, self._tray.takes())

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
        """Writes words, elements and the pass; pictures of painted outlines beside it, over others only when told to."""
        sheet, settings = self.document.sheet, self.document.draft.request().settings
        path = self._dialogs().save_path("Export layout", "layout.toml", "Layout (*.toml)", ".toml")
        if path is None:
            return
        there = [f.name for f in written_files(path, sheet)[1:] if f.exists()]
        ask = f"{', '.join(there)}: there already, and would be written over by painted outlines."
        if there and not self._dialogs().yes(ask, "Write over", "Leave as it is"):
            return
        if self.attempt(lambda: write_layout(path, sheet, settings, force=True)):
            self.say(f"Exported {path.name}.")

    # --- never losing work

    def begin_autosave(self) -> None:
        """Work unsaved from an earlier time is offered; from now on it is kept every minute."""
        try:
            self._safe = Safe.open()
        except OSError as error:
            self.say(f"Unsaved work cannot be kept aside: {error}")
        for left in self._safe.left:
            match self._dialogs().bring_back(left.stat().st_mtime):
                case "bring":
                    if self.attempt(lambda left=left: self._recover(left)):  # type: ignore[misc]
                        self._safe.adopt(left)
                        break
                case "drop":
                    left.unlink(missing_ok=True)
                case "later":
                    if left == self._safe.path:
                        self._safe.set_aside()
        self._timer.start()

    def _recover(self, path: Path) -> None:
        opened = open_sheet(path)
        self.document.open(Sheet(opened.sheet.width, opened.sheet.height))
        draft = Draft.from_json(opened.settings) if opened.settings else self.blank_draft()
        # As an edit, so that it counts as unsaved.
        self.document.edit_both(opened.sheet, draft, "bring back unsaved work")
        self._tray.show(opened.takes)

    def _unsaved(self) -> tuple[object, ...]:
        """What would be lost, to be known again: nothing when nothing would."""
        stake = self._tray.at_stake()
        if not self.document.modified and not stake:
            return ()
        return (self.document.moment, *(x for s in self._tray.takes() for x in (s.take, s.marked, s.kept)))

    def autosave(self) -> None:
        """Begins to keep unsaved work aside, takes too; a failure is only said, since nobody asked for it."""
        unsaved = self._unsaved()
        if not unsaved or unsaved == self._aside or self._keeper.writing:
            return
        path = self._safe.path
        saving = self._now(path)

        def write() -> None:
            path.parent.mkdir(parents=True, exist_ok=True)
            saving.write()

        self._aside = unsaved
        self._keeper.begin(write)

    def _kept_aside(self) -> None:
        if self._keeper.error:
            self._aside = ()
            self.say(f"Unsaved work could not be kept aside: {self._keeper.error}")

    def finish_autosave(self) -> None:
        """Blocks until what is being kept aside is written."""
        self._keeper.wait()

    def end_autosave(self) -> None:
        """The window is closed: nothing is left aside, and another may use the place."""
        self._timer.stop()
        self.discard_autosave()
        self._safe.close()

    def discard_autosave(self) -> None:
        self.finish_autosave()
        self._aside = ()
        self._safe.discard()


def _counted(takes: Sequence[SavedTake]) -> str:
    marked, n = sum(t.marked for t in takes), len(takes)
    return f"{n} take{' is' if n == 1 else 's are'}{f' ({marked} of them marked)' if marked else ''}"
