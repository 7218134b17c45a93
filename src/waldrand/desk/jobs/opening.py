"""Opening sheets, layouts and pictures, and leaving one for another."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from ...core.packs import Pack
from ...core.passes.kinds import mask_kind
from ...core.passes.recipe import last_recipe, recipe_frame, request_from_json, settings_of_last, sheet_before
from ...core.refused import Refused
from ...core.values.element import SceneWords
from ...core.values.sheet import Sheet
from ...core.worded import worded
from ...demo import load_demo
from ...files.formats import format_of, open_file
from ...files.kept_words import house_words
from ...files.opened import SavedTake
from ...files.pictures import read_recipe
from ..dialogs import Dialogs
from ..document import Document
from ..draft import Draft
from ..preferences import note_recent
from .aside import Aside
from .beside import Beside
from .filed import FiledTakes
from .saving import Saving


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


class Opening:
    """The document's way from files. leave: called when the sheet is left for another."""

    def __init__(
        self,
        document: Document,
        pack: Pack,
        dialogs: Callable[[], Dialogs],
        say: Callable[[str], None],
        leave: Callable[[], None],
        takes: FiledTakes,
        saving: Saving,
        aside: Aside,
        beside: Beside,
    ) -> None:
        self._beside = beside
        self.document, self.pack, self._dialogs, self.say, self._leave = document, pack, dialogs, say, leave
        self._tray, self._saving, self._aside = takes, saving, aside

    def blank_draft(self) -> Draft:
        d = Draft()
        settings = replace(d.settings, steps=self.pack.info.steps, guidance=self.pack.info.guidance)
        return replace(d, settings=settings, model=self.pack.info.name)

    def _after(self, sheet: Sheet) -> Draft:
        """The draft of a sheet that was saved without one: set as its last pass was."""
        blank = self.blank_draft()
        try:
            settings = settings_of_last(sheet)
        except Refused:
            return blank
        return blank if settings is None else replace(blank, settings=replace(settings, strength=blank.settings.strength))

    def may_leave(self) -> bool:
        """Asks about unsaved work and takes nobody kept; False: stay."""
        self._saving.finish_saving()
        stake = self._tray.at_stake()
        if self.document.modified:
            answer = self._dialogs().unsaved(self.document.path.name if self.document.path else worded("untitled sheet"))
            if answer == "cancel" or (answer == "save" and not self._saving.saved_at_once()):
                return False
        elif stake and not self._dialogs().yes(worded("{0} neither kept nor saved with the sheet.", _counted(stake)), "Leave", "Stay"):
            return False
        self._leave()
        return True

    def new_sheet(self) -> None:
        size = self._dialogs().new_size(self.pack.info)
        if size is not None:
            self._dialogs().attempt(lambda: self._change_to(Found(self._begun(*size), self.blank_draft())))

    def _begun(self, width: int, height: int) -> Sheet:
        """An empty sheet with the house words of the folder that is worked in."""
        path, folder = self.document.path, self._dialogs().folder
        house = house_words(path.parent if path is not None else Path(folder) if folder else None)
        return Sheet(width, height, scene=SceneWords(house=house.words, house_avoid=house.avoid))

    def open_any(self) -> None:
        self._with_path(self._found_in)

    def start_from_recipe(self) -> None:
        self._with_path(self._from_recipe)

    def _with_path(self, read: Callable[[Path], Found]) -> None:
        path = self._dialogs().open_path()
        if path is not None:
            self._open(path, read)

    def _open(self, path: Path, read: Callable[[Path], Found]) -> None:
        """Reads beside the window; the sheet is left only when the other one is there."""

        def found(what: Found) -> None:
            if self._change_to(what):
                note_recent(path)

        self._beside.do(worded("Opening {0}", path.name), lambda tick: read(path), found, self._not_opened)

    def _not_opened(self, why: str) -> None:
        self._dialogs().tell(why)

    def drop_in(self, path: Path) -> None:
        """Opens a file that was dropped on the window, or chosen among those that were opened lately."""
        self._open(path, self._found_in)

    def open_demo(self) -> None:
        demo = load_demo()
        self._change_to(
            Found(demo.layout.sheet, replace(Draft(), settings=demo.layout.settings, takes=demo.takes, small_nearer=demo.finer))
        )

    def open_file(self, path: Path) -> None:
        """Opens a sheet (.ora), a layout (.toml) or a picture.

        Raises:
            Refused: it cannot be opened; the sheet stays as it was.
        """
        self._show(self._found_in(path))
        note_recent(path)

    def take_recipe(self, path: Path) -> None:
        """An empty sheet with the words, elements and settings a picture was made with.

        Raises:
            Refused: the picture holds no recipe, or a damaged one.
        """
        self._show(self._from_recipe(path))

    def _change_to(self, found: Found) -> bool:
        """Leaves the sheet for another, if that may be: nothing is left before the other is there."""
        if not self.may_leave():
            return False
        self._aside.discard_autosave()
        self._show(found)
        return True

    def _show(self, found: Found) -> None:
        self.document.open(found.sheet, found.draft, found.path)
        self._tray.show(found.takes)
        if found.hint:
            self.say(found.hint)
        if found.notes:
            self._dialogs().tell("\n".join(found.notes))

    def _found_in(self, path: Path) -> Found:
        opened, known = open_file(path), format_of(path)
        draft = Draft.from_json(opened.settings) if opened.settings else self._after(opened.sheet)
        if opened.asked is not None:
            draft = replace(draft, settings=opened.asked, own_frame=opened.own_frame).with_strength(opened.asked.strength)
        if opened.picture:
            draft = replace(draft, kind=mask_kind().name)
        own = path if known is not None and known.saved else None
        hint = opened.hint
        if draft.model and draft.model != self.pack.info.name:
            said = worded("This sheet was made with the pack “{0}”; the window works with “{1}”.", draft.model, self.pack.info.name)
            hint = said + worded(" F3 has the packs that are there.") + (f" {hint}" if hint else "")
        return Found(opened.sheet, draft, own, opened.takes, opened.notes, hint)

    def _from_recipe(self, path: Path) -> Found:
        recipe = read_recipe(path)
        last = last_recipe(recipe)
        if recipe is None or last is None:
            raise Refused(worded("{0} holds no recipe to start from.", path))
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


def _counted(takes: Sequence[SavedTake]) -> str:
    marked, n = sum(t.marked for t in takes), len(takes)
    return worded("{0} take{1}{2}", n, " is" if n == 1 else "s are", f" ({marked} of them marked)" if marked else "")
