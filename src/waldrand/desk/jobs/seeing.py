"""What is seen in the picture: masks by words or by a click, words and elements read off it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPointF

from ...core.packs import Pack
from ...core.refused import Refused
from ...core.seen.cut_out import of_found
from ...core.seen.describe import Description, as_elements, describe
from ...core.seen.find import Found, find, thing_at
from ...core.values.masks import Mask
from ...core.worded import worded
from ..dialogs import Dialogs
from ..document import Document
from .beside import Beside, Tick


class Seeing:
    """Asks the pack's finder."""

    def __init__(self, document: Document, pack: Pack, dialogs: Callable[[], Dialogs], say: Callable[[str], None], beside: Beside) -> None:
        self.document, self.pack, self._dialogs, self.say, self._beside = document, pack, dialogs, say, beside

    def _has_picture(self, so: str = "There is no picture to look in yet.") -> bool:
        if not self.document.sheet.has_picture:
            self.say(so)
        return self.document.sheet.has_picture

    def mask_by_words(self) -> None:
        """The mask becomes what is found of some words in the picture that is seen."""
        text = self._dialogs().words(worded("Mask by words"), worded("What shall be masked?")) if self._has_picture() else None
        if not text:
            return
        picture = self.document.sheet.flatten()

        def look(_: Tick) -> tuple[Found, np.ndarray]:
            found = find(picture, text, self.pack)
            if found.box is None:
                raise Refused(worded("“{0}” was not found in the picture.", text))
            return found, of_found(picture, found, self.pack, alone=False)

        self._beside.do(worded("Looking for “{0}”", text), look, lambda made: self._mask_found(made[0], made[1], add=False), self._tell)

    def mask_thing(self, at: QPointF) -> None:
        """The thing that is seen at a point is added to the mask."""
        if not self._has_picture():
            return
        picture = self.document.sheet.flatten()

        def look(_: Tick) -> tuple[Found, np.ndarray]:
            found = thing_at(picture, at.x(), at.y(), self.pack)
            if found is None:
                raise Refused(worded("Nothing the model is sure of is seen there: paint the mask by hand."))
            return found, of_found(picture, found, self.pack, alone=True)

        self._beside.do(worded("Looking at what is there"), look, lambda made: self._mask_found(made[0], made[1], add=True), self._tell)

    def _tell(self, why: str) -> None:
        if why:
            self.say(why)

    def _mask_found(self, found: Found, seen: np.ndarray, add: bool) -> None:
        sheet, mask = self.document.sheet, np.asarray(np.round(255 * seen), np.uint8)
        if mask.shape != (sheet.height, sheet.width):
            self.say(worded("The sheet got another size meanwhile: look again."))
            return
        if add and sheet.mask is not None:
            mask = np.maximum(sheet.mask.read(), mask)
        self.document.edit(replace(sheet, mask=Mask.from_array(mask)), worded("mask “{0}”", found.phrase))
        self.say(
            worded("“{0}” was found, {1:.0f} % sure. Grow or paint the mask where it is too tight.", found.phrase, 100 * found.confidence)
        )

    def _described(self) -> Description | None:
        """What the picture shows; None when that cannot be told, which is said."""
        if not self._has_picture(worded("There is no picture to read words off yet.")):
            return None
        try:
            d = describe(self.document.sheet.flatten(), self.pack)
        except Refused as error:
            self.say(str(error))
            return None
        if d.scene or d.things:
            return d
        self.say(worded("Nothing the model knows was recognised."))
        return None

    def elements_seen(self) -> None:
        """Each thing that is seen in the picture becomes an element in a box; an empty scene gets the words of the whole."""
        d = self._described()
        if d is None:
            return
        if not d.things:
            self.say(worded("No thing the model knows was recognised."))
            return
        sheet = self.document.sheet
        new = as_elements(d, self.pack.info.elements, sheet.next_key())
        scene = sheet.scene if sheet.scene.words else replace(sheet.scene, words=", ".join(d.scene))
        self.document.edit(replace(sheet, elements=(*sheet.elements, *new), scene=scene), worded("elements of what is seen"))
        self.say(worded("Seen: {0}. Move or re-word them, then run at a strength.", ", ".join(e.name for e in new)))

    def read_off_words(self) -> None:
        """The scene's words, read off the picture that is seen."""
        d = self._described()
        if d is None:
            return
        sheet, words = self.document.sheet, ", ".join(dict.fromkeys((*d.scene, *(w for w, _, _ in d.things))))
        self.document.edit(replace(sheet, scene=replace(sheet.scene, words=words, emphasis=())), worded("words read off the picture"))
