"""Masks that fit the picture, and what they cover as a layer of its own."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from ...core.picture.cutting import border, shaped, smooth
from ...core.seen.cut_out import fitted, subject
from ...core.values.layers import PictureLayer
from ...core.values.masks import Mask
from ...core.worded import worded
from ..dialogs import Dialogs
from ..document import Document
from ..sheet_view.view import SheetView
from .acting import Acting
from .beside import Beside

#: Sheet pixels that a mask is grown or feathered by at the most.
MOST = 500


class Cutting(Acting):
    """What is made of masks and of the picture under them."""

    def __init__(
        self, document: Document, view: SheetView, dialogs: Callable[[], Dialogs], say: Callable[[str], None], beside: Beside
    ) -> None:
        super().__init__(document, view, dialogs, say)
        self._beside = beside

    def mask_subject(self) -> None:
        """The mask becomes the whole subject, so that what is left is its background."""
        pack = self.view.pack
        if pack is None or not self._has_picture():
            return
        picture = self.document.sheet.flatten()
        self._mask(lambda: subject(picture, pack), worded("mask of the subject"))

    def fit_mask(self) -> None:
        """The mask is made to fit the thing that it covers roughly, hair by hair."""
        grey = self._grey()
        if grey is not None and self._has_picture():
            picture = self.document.sheet.flatten()
            self._mask(lambda: fitted(picture, grey), worded("fit mask"))

    def invert_mask(self) -> None:
        grey = self._grey()
        if grey is not None:
            self._mask(lambda: 1 - grey, worded("invert mask"))

    def grow_mask(self, sign: int) -> None:
        """By pixels that are asked for; sign: 1 grows, -1 shrinks."""
        grey = self._grey()
        title = worded("Grow mask") if sign > 0 else worded("Shrink mask")
        by = None if grey is None else self._dialogs().number(title, worded("By how many sheet pixels"), 4, 0, MOST)
        if by and grey is not None:
            self._mask(lambda: shaped(grey, sign * by), title.lower())

    def feather_mask(self) -> None:
        grey = self._grey()
        by = None if grey is None else self._dialogs().number(worded("Feather mask"), worded("Over how many sheet pixels"), 8, 0, MOST)
        if by and grey is not None:
            self._mask(lambda: shaped(grey, feather=by), worded("feather mask"))

    def smooth_mask(self) -> None:
        """Corners rounded over pixels that are asked for."""
        grey = self._grey()
        by = None if grey is None else self._dialogs().number(worded("Smooth mask"), worded("Over how many sheet pixels"), 8, 0, MOST)
        if by and grey is not None:
            self._mask(lambda: smooth(grey, by), worded("smooth mask"))

    def border_mask(self) -> None:
        """A ring along the mask's edge, as wide as is asked for."""
        grey = self._grey()
        by = (
            None
            if grey is None
            else self._dialogs().number(worded("Border of the mask"), worded("How many sheet pixels wide"), 12, 1, MOST)
        )
        if by and grey is not None:
            self._mask(lambda: border(grey, by), worded("border of the mask"))

    def grey_mask(self) -> None:
        """All that is masked at one grey: a share of the strength."""
        grey = self._grey()
        asked = worded("A share of the strength, 0 to 1, wherever it is masked")
        share = None if grey is None else self._dialogs().number(worded("Grey of the mask"), asked, 0.5, 0, 1)
        if share and grey is not None:
            self._mask(lambda: grey / max(float(grey.max()), 1e-6) * share, worded("grey of the mask"))

    def layer_from_mask(self) -> None:
        """What the mask covers of the picture, as a layer that can be moved; the mask goes."""
        grey, sheet = self._grey(), self.document.sheet
        if grey is None or not self._has_picture():
            return
        assert sheet.mask is not None
        box = sheet.mask.box()
        pixels = sheet.flatten(box)
        pixels[..., 3] = np.round(grey[box.slices] * pixels[..., 3])
        if not pixels[..., 3].any():
            self.say(worded("There is no picture under the mask."))
            return
        layer = PictureLayer(sheet.next_key(), worded("cut out"), pixels, box.x0, box.y0)
        self.document.edit(replace(sheet, mask=None).with_layer(layer), worded("cut out as a layer"))
        self.view.set_tool(next(iter(self.view.hands)))
        self.view.selection.choose_layer(layer.key)

    def _has_picture(self) -> bool:
        if not self.document.sheet.has_picture:
            self.say(worded("There is no picture to cut from yet."))
        return self.document.sheet.has_picture

    def _grey(self) -> np.ndarray | None:
        """The mask, (H, W) float32 0..1; None, saying so, where it is empty."""
        mask = self.document.sheet.mask
        if mask is None or mask.empty:
            self.say(worded("The mask is empty: paint one first."))
            return None
        return mask.read().astype(np.float32) / 255

    def _mask(self, make: Callable[[], np.ndarray], what: str) -> None:
        """The mask becomes what is made, (H, W) 0..1; on a large sheet that takes a while."""

        def lay(made: np.ndarray) -> None:
            sheet, grey = self.document.sheet, np.asarray(np.round(255 * np.clip(made, 0, 1)), np.uint8)
            if grey.shape != (sheet.height, sheet.width):
                self.say(worded("The sheet got another size meanwhile, so the mask was left as it is."))
            elif not grey.any():
                self.say(worded("Nothing of the mask would be left."))
            else:
                self.document.edit(replace(sheet, mask=Mask.from_array(grey)), what)

        self._beside.do(what.capitalize(), lambda _: make(), lay, self._told)
