"""All parts of the desk, put together: what the menus and the window reach for."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from ..core.packs import Pack
from ..core.worded import worded
from ..files.opened import SavedTake
from ..files.pictures import Picture, read_picture
from .columns.element_strip import ElementStrip
from .columns.elements_column import ElementsColumn
from .columns.frame_strip import FrameStrip
from .columns.layer_strip import LayerStrip
from .columns.pass_column import PassColumn
from .columns.rail import Rail
from .columns.scene_title import SceneTitle
from .columns.several_strip import SeveralStrip
from .columns.start_page import StartPage
from .columns.tool_bar import ToolBar
from .columns.tray import Tray
from .dialogs import Dialogs
from .document import Document
from .jobs.adding_on import AddingOn
from .jobs.areas import Areas
from .jobs.arranging import Arranging
from .jobs.aside import Aside
from .jobs.beside import Beside
from .jobs.colouring import Colouring
from .jobs.cutting import Cutting
from .jobs.filed import FiledTakes
from .jobs.guiding import Guiding
from .jobs.habits import Habits
from .jobs.keeping_words import KeepingWords, Place
from .jobs.layering import Layering
from .jobs.live import Live
from .jobs.looking_back import LookingBack
from .jobs.maps import Maps
from .jobs.opening import Opening
from .jobs.outlines import Outlines
from .jobs.passes import Passes
from .jobs.refining import Refining
from .jobs.rerolling import Rerolling
from .jobs.runner import Runner
from .jobs.saving import Saving
from .jobs.seeing import Seeing
from .jobs.series import Series
from .jobs.sizing import Sizing
from .jobs.takes import Takes
from .jobs.uniting import Uniting
from .jobs.writing import Writing
from .look.look import Look
from .preferences import recent_files
from .sheet_view.view import SheetView


class Bench:
    """dialogs: looked up each time, so that another set of answers may stand in for them; show_keys: all keys are wanted; saved: called
    after the sheet was saved."""

    def __init__(
        self,
        document: Document,
        pack: Pack,
        look: Look,
        dialogs: Callable[[], Dialogs],
        show_keys: Callable[[], None],
        saved: Callable[[], None],
    ) -> None:
        self.document, self._dialogs, self.show_keys, self._after_saving = document, dialogs, show_keys, saved
        self.view = SheetView(document, look, pack)
        self.elements = ElementsColumn(document, self.view, pack)
        self.passes = PassColumn(document, pack)
        self.tray, self.runner = Tray(), Runner()
        self.rail, self.bar, self.scene = Rail(self.view), ToolBar(self.view), SceneTitle(document, pack)
        self.painting = Passes(document, pack, self.view, self.passes, self.tray, self.runner)
        self.series = Series(self.painting, dialogs)
        self.beside = Beside()
        self.takes = Takes(self.painting, dialogs, self.beside)
        self.rerolling = Rerolling(self.painting)
        self.seeing = Seeing(document, pack, dialogs, self.say, self.beside)
        acting = document, self.view, dialogs, self.say
        self.arranging, self.outlines, self.maps, self.sizing = Arranging(*acting), Outlines(*acting), Maps(*acting), Sizing(*acting)
        self.cutting, self.layering, self.areas = Cutting(*acting, self.beside), Layering(*acting), Areas(*acting)
        self.guiding = Guiding(self.layering, self.beside)
        self.colouring, self.writing, self.looking_back = Colouring(*acting), Writing(self.layering), LookingBack(*acting)
        filed = FiledTakes(self.takes.to_save, self.takes.at_stake, self.takes.show_saved, self._saved)
        self.aside = Aside(document, dialogs, self.say, filed)
        self.saving = Saving(document, dialogs, self.say, self.view.words.finish, filed, self.aside, self.beside)
        self.opening = Opening(document, pack, dialogs, self.say, self.painting.forget, filed, self.saving, self.aside, self.beside)
        self.uniting = Uniting(self.painting, self.beside, dialogs, self.say)
        self.refining = Refining(self.painting, self.sizing, self.beside, self.say)
        self.habits = Habits(self.painting, dialogs, self.say)
        self.adding_on = AddingOn(self.painting, self.beside, dialogs, self.say)
        self.live = Live(document, pack, self.view, self.tray, self.runner)
        self.live.said.connect(self.say)
        self.strip = ElementStrip(document, self.view, pack)
        self.layer_strip = LayerStrip(document, self.view, self.layering, self.writing)
        self.several_strip = SeveralStrip(document, self.view, self.arranging.align, self.arranging.delete)
        self.keeping_words = KeepingWords(document, self._places_for_words(), self.runner, dialogs, self.say)
        self.start = StartPage(document, self.view, recent_files)
        self.start.demo_wanted.connect(self.opening.open_demo)
        self.start.open_wanted.connect(self.opening.open_any)
        self.start.file_wanted.connect(self.opening.drop_in)
        self.frame_strip = FrameStrip(document, self.view)
        self.passes.foreseen.connect(self.frame_strip.show_plan)
        self.tray.shown.connect(lambda entry: self.elements.show_landed({s.key: s.landed for s in entry.scores} if entry else {}))
        for field in (self.scene.words, self.scene.house, self.passes.words, self.passes.avoid, self.strip.words, self.strip.avoid):
            # What was said is done with: the next key is the sheet's.
            field.returnPressed.connect(self.view.setFocus)
        self.passes.about_wanted.connect(self.show_about)
        self.view.said.connect(self.say)
        self.view.thing_wanted.connect(self.seeing.mask_thing)
        self.view.letters_wanted.connect(self.writing.new_letters)
        self.elements.areas.switched.connect(self.areas.switch)
        self.elements.areas.used.connect(self.areas.use)
        self.elements.areas.renamed.connect(self.areas.rename)
        self.elements.areas.deleted.connect(self.areas.delete)
        self.elements.areas.grown.connect(self.areas.grow)
        self.bar.clear_mask.clicked.connect(self.maps.empty_mask)

    def _places_for_words(self) -> tuple[Place, ...]:
        """The fields that kept words are put into."""
        return (
            Place(self.scene.words, self.scene.avoid, worded("the scene")),
            Place(self.scene.house, self.scene.house_avoid, worded("the house words")),
            Place(self.strip.words, self.strip.avoid, worded("the element")),
            Place(self.passes.words, self.passes.avoid, worded("the pass")),
        )

    def say(self, text: str) -> None:
        """A sentence above the Run button."""
        self.passes.status.setText(text)

    def delete(self) -> None:
        """What the tool works on goes, or the chosen elements, or the chosen layer."""
        if self.view.hands[self.view.tool].delete():
            return
        if self.view.selection.layer is not None:
            self.layer_strip.delete()
        else:
            self.arranging.delete()

    def show_about(self, what: int | str) -> None:
        """What a warning is about: an element is chosen, words are ready to be typed."""
        if isinstance(what, int):
            self.view.selection.choose(what)
        else:
            field = {"scene": self.scene.words, "house": self.scene.house, "pass": self.passes.words}[what]
            field.setFocus()
            field.selectAll()

    def _saved(self, takes: Sequence[SavedTake]) -> None:
        self.takes.mark_saved(takes)
        self._after_saving()

    def with_path(self, act: Callable[[Path], object]) -> None:
        """Does something with a file that is asked for."""
        path = self._dialogs().open_path()
        if path is not None:
            self._dialogs().attempt(lambda: act(path))

    def ask_for_picture(self) -> None:
        """A picture that is asked for, as a layer."""
        path = self._dialogs().open_path()
        if path is not None:
            self.add_picture(path)

    def add_picture(self, path: Path) -> None:
        """A picture as a layer."""

        def add(picture: Picture) -> None:
            self.arranging.add_picture(picture.pixels, path.stem)
            self.say(" ".join(picture.notes))

        attempt = self._dialogs().attempt
        self.beside.do(
            worded("Opening {0}", path.name), lambda tick: read_picture(path), lambda made: attempt(lambda: add(made)), self._dialogs().tell
        )

    def export_colours(self) -> None:
        path = self._dialogs().save_path(worded("Export colour map"), "map.png", worded("PNG picture (*.png)"), ".png")
        if path is not None:
            self._dialogs().attempt(lambda: self.maps.write_colours(path))
