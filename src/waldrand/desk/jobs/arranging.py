"""What menus and keys do to elements."""

from __future__ import annotations

import json
import zlib
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QMimeData
from PyQt6.QtGui import QGuiApplication

from ...core.fields import taken_list
from ...core.refused import Refused
from ...core.told.placing import placed_elsewhere, places_of, with_places
from ...core.values.as_json import element_from_json, element_to_json
from ...core.values.dividing import divide
from ...core.values.element import Element
from ...core.values.layers import PictureLayer
from ...core.values.shaping import Edge, aligned
from ...core.worded import worded
from ..columns.element_strip import move_element
from ..look.images import from_image, to_image
from .acting import Acting

ELEMENTS_MIME = "application/x-waldrand-elements+json"
SHIFT = 16


class Arranging(Acting):
    """Elements copied, aligned, divided, given places."""

    def delete(self) -> None:
        sheet, names = self.document.sheet, self._names()
        for e in self.chosen:
            sheet = sheet.without_element(e.key)
        if names:
            self.document.edit(sheet, worded("delete {0}", names))

    def edit_words(self) -> None:
        if self.view.selection.selected is not None:
            self.view.words.edit(self.view.selection.selected)

    def move_depth(self, by: int) -> None:
        if self.view.selection.selected is not None:
            move_element(self.document, self.view.selection.selected, by)

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
            self._add(self.chosen, worded("duplicate {0}", self._names()), SHIFT)

    def copy(self) -> None:
        """Chosen elements, the chosen layer, or without any the picture that is seen, to the clipboard."""
        clipboard, data = QGuiApplication.clipboard(), QMimeData()
        if clipboard is None:
            return
        sheet = self.document.sheet
        if self.chosen:
            data.setData(ELEMENTS_MIME, json.dumps([element_to_json(e) for e in self.chosen]).encode())
            data.setText(", ".join(e.words or e.name for e in self.chosen))
        elif (key := self.view.selection.layer) is not None and sheet.has_layer(key):
            data.setImageData(to_image(sheet.layer(key).shown))
        elif sheet.has_picture:
            data.setImageData(to_image(sheet.flatten()))
        else:
            self.say(worded("There is nothing to copy: choose elements, or paint a picture."))
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
                elements = [element_from_json(d) for d in taken_list(json.loads(data.data(ELEMENTS_MIME).data()), "The clipboard")]
            except (Refused, ValueError, RecursionError):
                self.say(worded("The elements on the clipboard are damaged."))
                return
            self._add(elements, worded("paste elements"), SHIFT)
        elif data is not None and clipboard is not None and data.hasImage():
            self.add_picture(from_image(clipboard.image()), worded("pasted picture"))
        else:
            self.say(worded("There is no picture and no element on the clipboard."))

    def add_picture(self, pixels: np.ndarray, name: str) -> None:
        """A picture (h, w, 4) as a layer, in the middle of the sheet."""
        sheet = self.document.sheet
        h, w = pixels.shape[:2]
        layer = PictureLayer(sheet.next_key(), name, pixels, (sheet.width - w) // 2, (sheet.height - h) // 2)
        self._add_layer(layer, worded("add “{0}”", name))

    def align(self, edge: Edge) -> None:
        """To one another; a single element to the sheet."""
        chosen = self.chosen
        if not chosen:
            self.say(worded("Choose an element first: click it on the sheet; Shift adds more."))
            return
        sheet = self.document.sheet
        boxes = np.array([e.outline.box for e in chosen])
        whole = (0.0, 0.0, float(sheet.width), float(sheet.height))
        to = whole if len(chosen) == 1 else (*boxes[:, :2].min(0).tolist(), *boxes[:, 2:].max(0).tolist())
        self._reshape(lambda o: o.with_box(aligned(o.box, to, edge)), worded("align {0}:", edge))

    def divide(self) -> None:
        """By typed shares: the chosen element, or the sheet."""
        key = self.view.selection.selected
        what = worded("the sheet") if key is None else f"“{self.document.sheet.element(key).name}”"
        shares = self._dialogs().shares(what)
        if shares is not None:
            across, down = shares
            self._try(lambda: divide(self.document.sheet, across, down, key), worded("divide {0}", what))

    def give_places(self) -> None:
        """What the scene's words name becomes elements, each where such a thing is wont to be."""
        pack, before = self.view.pack, self.document.sheet
        if pack is None:
            return
        seed, most = self.document.draft.settings.seed, pack.info.elements
        if self._try(lambda: with_places(before, places_of(pack), seed, most), worded("give places")):
            made = self.document.sheet.elements[len(before.elements) :]
            self._choose(e.key for e in made)
            self.say(
                worded("Move and scale them as you like; Ctrl+Shift+L finds others.")
                if made
                else worded("What the scene's words named is an element already: it is said there alone now.")
            )

    def other_places(self) -> None:
        """The chosen elements, or all, go elsewhere, where such things are wont to be too."""
        pack, sheet = self.view.pack, self.document.sheet
        if pack is None:
            return
        keys = frozenset(self.view.selection.keys) or frozenset(e.key for e in sheet.elements)
        # From every arrangement to another one, the same one each time.
        seed = zlib.crc32(repr([e.outline.box for e in sheet.elements]).encode())
        self._try(lambda: placed_elsewhere(sheet, keys, places_of(pack), seed), worded("other places"))
