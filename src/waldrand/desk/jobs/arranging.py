"""What menus and keys do to elements, outlines and the sheet's size."""

from __future__ import annotations

import json
import zlib
from collections.abc import Callable, Iterable
from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QMimeData
from PyQt6.QtGui import QGuiApplication
from scipy import ndimage

from ...core.noise.noise import LARGEST_SEED
from ...core.passes.enlarge import crisp, pieces
from ...core.passes.fitting import figure_of, figures_for
from ...core.passes.recipe import element_from_json, element_to_json
from ...core.passes.run import Stopped
from ...core.refused import Refused
from ...core.told.placing import placed_elsewhere, places_of, with_places
from ...core.values.colour_map import colour_map, colour_name, regions
from ...core.values.division import divide
from ...core.values.element import Element
from ...core.values.masks import Mask
from ...core.values.outline import Outline, same_shape
from ...core.values.resize import drawn_sizes, framed, scaled
from ...core.values.shaping import Edge, aligned, drawn, grown, inverted, joined, mirrored, painted, rotated, smoothed
from ...core.values.sheet import Layer, Sheet
from ...files.layout import fitted_mask
from ...files.pictures import read_grey, read_picture, write_png
from ..columns.elements_column import move_element
from ..dialogs import Dialogs
from ..document import Document
from ..look.images import from_image, to_image
from ..sheet_view.view import SheetView

ELEMENTS_MIME = "application/x-waldrand-elements+json"
SHIFT = 16
#: What the history calls another size of the sheet.
SIZE = "size of the sheet"
#: Seeds looked through for another figure.
SEEDS_TRIED = 60


class Arranging:
    """Acts on what is chosen on the sheet; every act is one undoable edit."""

    def __init__(self, document: Document, view: SheetView, dialogs: Callable[[], Dialogs], say: Callable[[str], None]) -> None:
        self.document, self.view, self._dialogs, self.say = document, view, dialogs, say

    @property
    def chosen(self) -> list[Element]:
        """The chosen elements, far to near."""
        return [e for e in self.document.sheet.elements if e.key in self.view.selection]

    def _names(self) -> str:
        return ", ".join(f"“{e.name}”" for e in self.chosen)

    def _each(self, change: Callable[[Element], Element], what: str) -> None:
        """Changes every chosen element that is not locked."""
        sheet, names = self.document.sheet, self._names()
        if not self.chosen:
            self.say("Choose an element first: click it on the sheet.")
            return
        try:
            for e in self.chosen:
                if not e.locked:
                    sheet = sheet.with_element(change(e))
        except Refused as error:
            self.say(str(error))
            return
        self.document.edit(sheet, f"{what} {names}")

    def _try(self, make: Callable[[], Sheet], what: str) -> bool:
        """An edit to what is made; or why it cannot be made is said."""
        try:
            self.document.edit(make(), what)
        except Refused as error:
            self.say(str(error))
            return False
        return True

    def reshape(self, change: Callable[[Outline], Outline], what: str) -> None:
        self._each(lambda e: replace(e, outline=change(e.outline)), what)

    def figure_as_outline(self) -> None:
        """The figures fitted into the chosen outlines become the outlines, to be worked on by hand."""
        figures = self.view.figures()
        if self.chosen and not any(e.key in figures for e in self.chosen):
            self.say("Nothing chosen has a figure: it needs a rectangle or an ellipse, and words that name a thing.")
            return
        self._each(lambda e: replace(e, outline=figures.get(e.key, e.outline)), "figure as outline of")

    def another_figure(self) -> None:
        """The chosen elements get other figures, each by the next seed of its own that brings one."""
        sheet, draft, pack, had = self.document.sheet, self.document.draft, self.view.pack, self.view.figures()
        figures = None if pack is None else figures_for(draft.request(), pack)

        def other(e: Element) -> Element:
            first = draft.settings.seed if e.seed is None else e.seed
            seeds = range(first + 1, min(first + SEEDS_TRIED, LARGEST_SEED) + 1)
            tried = (replace(e, seed=seed) for seed in seeds)
            return next((new for new in tried if not same_shape(figure_of(new, sheet, figures, draft.settings.seed), had[e.key])), e)

        others = {e.key: other(e) for e in self.chosen if e.key in had}
        if self.chosen and all(e is others.get(e.key, e) for e in self.chosen):
            self.say("Nothing chosen has another figure: say other words, or draw the shape by hand.")
            return
        self._each(lambda e: others.get(e.key, e), "another figure of")

    # --- places

    def give_places(self) -> None:
        """What the scene's words name becomes elements, each where such a thing is wont to be."""
        pack, before = self.view.pack, self.document.sheet
        if pack is None:
            return
        seed, most = self.document.draft.settings.seed, pack.info.elements
        if self._try(lambda: with_places(before, places_of(pack), seed, most), "give places"):
            self._choose(e.key for e in self.document.sheet.elements[len(before.elements) :])
            self.say("Move and scale them as you like; Ctrl+Shift+L finds others.")

    def other_places(self) -> None:
        """The chosen elements, or all, go elsewhere, where such things are wont to be too."""
        pack, sheet = self.view.pack, self.document.sheet
        if pack is None:
            return
        keys = frozenset(self.view.selection) or frozenset(e.key for e in sheet.elements)
        # From every arrangement to another one, the same one each time.
        seed = zlib.crc32(repr([e.outline.box for e in sheet.elements]).encode())
        self._try(lambda: placed_elsewhere(sheet, keys, places_of(pack), seed), "other places")

    def _choose(self, keys: Iterable[int]) -> None:
        self.view.choose(None)
        for key in keys:
            self.view.choose_also(key)

    # --- elements

    def delete(self) -> None:
        sheet, names = self.document.sheet, self._names()
        for e in self.chosen:
            sheet = sheet.without_element(e.key)
        if names:
            self.document.edit(sheet, f"delete {names}")

    def edit_words(self) -> None:
        if self.view.selected is not None:
            self.view.edit_words(self.view.selected)

    def move_depth(self, by: int) -> None:
        if self.view.selected is not None:
            move_element(self.document, self.view.selected, by)

    def _add(self, elements: list[Element], what: str, shift: float) -> None:
        sheet, keys = self.document.sheet, []
        for e in elements:
            name = e.name if all(o.name != e.name for o in sheet.elements) else sheet.free_name(e.name)
            new = replace(e, key=sheet.next_key(), name=name, outline=e.outline.moved(shift, shift))
            sheet = sheet.with_element(new)
            keys.append(new.key)
        self.document.edit(sheet, what)
        self._choose(keys)

    def duplicate(self) -> None:
        if self.chosen:
            self._add(self.chosen, f"duplicate {self._names()}", SHIFT)

    def copy(self) -> None:
        """Chosen elements, or without any the picture that is seen, to the clipboard."""
        clipboard, data = QGuiApplication.clipboard(), QMimeData()
        if clipboard is None:
            return
        sheet = self.document.sheet
        if self.chosen:
            data.setData(ELEMENTS_MIME, json.dumps([element_to_json(e) for e in self.chosen]).encode())
            data.setText(", ".join(e.words or e.name for e in self.chosen))
        elif sheet.has_picture:
            data.setImageData(to_image(sheet.flatten()))
        else:
            self.say("There is nothing to copy: choose elements, or paint a picture.")
            return
        clipboard.setMimeData(data)

    def cut(self) -> None:
        if self.chosen:
            self.copy()
            self.delete()

    def paste(self) -> None:
        """Elements, or a picture as a layer, from the clipboard."""
        clipboard = QGuiApplication.clipboard()
        data = None if clipboard is None else clipboard.mimeData()
        if data is not None and data.hasFormat(ELEMENTS_MIME):
            try:
                elements = [element_from_json(d) for d in json.loads(data.data(ELEMENTS_MIME).data())]
            except (Refused, KeyError, TypeError):
                self.say("The elements on the clipboard are damaged.")
                return
            self._add(elements, "paste elements", SHIFT)
        elif data is not None and clipboard is not None and data.hasImage():
            self.add_picture(from_image(clipboard.image()), "pasted picture")
        else:
            self.say("There is no picture and no element on the clipboard.")

    def add_picture(self, pixels: np.ndarray, name: str) -> None:
        """A picture (h, w, 4) as a layer, in the middle of the sheet."""
        sheet = self.document.sheet
        h, w = pixels.shape[:2]
        layer = Layer(sheet.next_key(), name, pixels, (sheet.width - w) // 2, (sheet.height - h) // 2)
        self.document.edit(sheet.with_layer(layer), f"add “{name}”")

    def align(self, edge: Edge) -> None:
        """To one another; a single element to the sheet."""
        chosen = self.chosen
        if not chosen:
            self.say("Choose an element first: click it on the sheet; Shift adds more.")
            return
        sheet = self.document.sheet
        boxes = np.array([e.outline.box for e in chosen])
        whole = (0.0, 0.0, float(sheet.width), float(sheet.height))
        to = whole if len(chosen) == 1 else (*boxes[:, :2].min(0).tolist(), *boxes[:, 2:].max(0).tolist())
        self.reshape(lambda o: o.with_box(aligned(o.box, to, edge)), f"align {edge}:")

    # --- outlines

    def mirror(self, upside_down: bool = False) -> None:
        self.reshape(lambda o: mirrored(o, upside_down), "mirror")

    def rotate(self, degrees: float | None = None) -> None:
        if degrees is None:
            degrees = self._dialogs().number("Rotate", "Degrees, clockwise", 45, -360, 360)
        if degrees is not None:
            by = degrees
            self.reshape(lambda o: rotated(o, by), "rotate")

    def grow(self, sign: int) -> None:
        pixels = self._dialogs().number("Grow" if sign > 0 else "Shrink", "By how many sheet pixels", 8, 0.5, 2000)
        if pixels is not None:
            by = sign * pixels
            self.reshape(lambda o: grown(o, by), "grow" if sign > 0 else "shrink")

    def smooth(self) -> None:
        pixels = self._dialogs().number("Smooth", "Over how many sheet pixels", 8, 0.5, 500)
        if pixels is not None:
            over = pixels
            self.reshape(lambda o: smoothed(o, over), "smooth")

    def invert(self) -> None:
        self.reshape(lambda o: inverted(o, self.document.sheet.rect), "invert")

    def fill(self) -> None:
        """Holes inside the outline are filled."""

        def filled(o: Outline) -> Outline:
            grey = drawn(o, self.document.sheet.rect)
            solid = ndimage.binary_fill_holes(grey > 127)
            return painted(np.maximum(grey, np.where(solid, 255, 0).astype(np.uint8)), self.document.sheet.rect)

        self.reshape(filled, "fill holes of")

    def join(self) -> None:
        """All chosen become one; the one chosen last keeps its words."""
        chosen, lead = self.chosen, self.view.selected
        if len(chosen) < 2 or lead is None:
            self.say("Choose two or more elements to join: click one, then others with Shift.")
            return
        sheet, first = self.document.sheet, self.document.sheet.element(lead)
        outline = first.outline
        for e in chosen:
            if e.key != lead:
                outline = joined(outline, e.outline)
                sheet = sheet.without_element(e.key)
        self.document.edit(sheet.with_element(replace(first, outline=outline)), f"join {self._names()}")

    def cut_out(self) -> None:
        """The one chosen last is cut out of the others."""
        lead = self.view.selected
        if len(self.chosen) < 2 or lead is None:
            self.say("Choose the elements to cut, then with Shift the one that cuts.")
            return
        knife = self.document.sheet.element(lead).outline
        self._each(lambda e: e if e.key == lead else replace(e, outline=joined(e.outline, knife, cut=True)), "cut")

    def divide(self) -> None:
        """By typed shares: the chosen element, or the sheet."""
        key = self.view.selected
        what = "the sheet" if key is None else f"“{self.document.sheet.element(key).name}”"
        shares = self._dialogs().shares(what)
        if shares is not None:
            across, down = shares
            self._try(lambda: divide(self.document.sheet, across, down, key), f"divide {what}")

    # --- masks and maps

    def empty_mask(self) -> None:
        if self.document.sheet.mask is not None:
            self.document.edit(replace(self.document.sheet, mask=None), "clear mask")

    def mask_from_outline(self) -> None:
        sheet = self.document.sheet
        if not self.chosen:
            self.say("Choose an element first; its outline becomes the mask.")
            return
        grey = np.maximum.reduce([drawn(e.outline, sheet.rect) for e in self.chosen])
        self.document.edit(replace(sheet, mask=Mask.from_array(grey)), "mask from outline")

    def outline_from_mask(self) -> None:
        sheet = self.document.sheet
        if sheet.mask is None or sheet.mask.empty:
            self.say("The mask is empty: paint one first.")
            return
        self.view.add_element(painted(sheet.mask.read(), sheet.rect))

    def take_mask(self, path: Path) -> None:
        """A grey picture as the mask, scaled to the sheet when it has another size."""
        sheet = self.document.sheet
        self.document.edit(replace(sheet, mask=Mask.from_array(self._read_mask(path))), "load mask")

    def _read_mask(self, path: Path) -> np.ndarray:
        sheet, grey = self.document.sheet, read_grey(path)
        if grey.shape != (sheet.height, sheet.width):
            self.say(f"The mask was {grey.shape[1]} x {grey.shape[0]}; it is scaled to the sheet.")
        return fitted_mask(grey, sheet.width, sheet.height, str(path), scale=True)

    def take_outline(self, path: Path) -> None:
        """A grey picture, or a cut-out's alpha, as a new element."""
        self.view.add_element(painted(self._read_mask(path), self.document.sheet.rect))

    def take_colours(self, path: Path) -> None:
        """A flat-colour picture: one new element for each colour."""
        sheet, picture = self.document.sheet, read_picture(path)
        h, w = picture.pixels.shape[:2]
        kx, ky = sheet.width / w, sheet.height / h
        found = regions(picture.pixels)
        for r in found:
            x0, y0, x1, y1 = r.outline.box
            outline = r.outline.with_box((x0 * kx, y0 * ky, x1 * kx, y1 * ky))
            sheet = sheet.with_element(Element(sheet.next_key(), colour_name(r.colour), outline))
        self.document.edit(sheet, "elements from colours")
        self.say(f"{len(found)} colours became elements: say what each is.")

    def write_colours(self, path: Path) -> None:
        write_png(path, colour_map(self.document.sheet))
        self.say(f"Exported {path.name}.")

    # --- the sheet's size

    def change_size(self) -> None:
        sheet = self.document.sheet
        answer = self._dialogs().sheet_size(sheet.width, sheet.height)
        if answer is not None:
            rect, way = answer
            if way == "crisp":
                self._draw_larger(rect.width, rect.height)
            else:
                self._resize(lambda: scaled(sheet, rect.width, rect.height) if way == "smooth" else framed(sheet, rect), SIZE)

    def _draw_larger(self, width: int, height: int) -> None:
        sheet, pack = self.document.sheet, self.view.pack
        if pack is None:
            return
        count = sum(pieces(*sizes, pack) for sizes in drawn_sizes(sheet, width, height))
        try:
            with self._dialogs().steps("Drawing the edges anew", count) as tick:
                self._resize(lambda: scaled(sheet, width, height, partial(crisp, pack=pack, tick=tick)), SIZE)
        except Stopped:
            self.say("Stopped. The sheet is as it was.")

    def crop_to_chosen(self) -> None:
        sheet = self.document.sheet
        if not self.chosen:
            self.say("Choose the element whose box the sheet shall be cropped to.")
            return
        boxes = np.array([e.outline.box for e in self.chosen])
        box = (*boxes[:, :2].min(0).tolist(), *boxes[:, 2:].max(0).tolist())
        x0, y0, x1, y1 = (round(v) for v in box)
        rect = type(sheet.rect)(max(x0, 0), max(y0, 0), min(x1, sheet.width), min(y1, sheet.height))
        self._resize(lambda: framed(sheet, rect), "crop")

    def _resize(self, make: Callable[[], Sheet], what: str) -> None:
        if self._try(make, what):
            self.view.fit()
