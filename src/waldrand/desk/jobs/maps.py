"""Masks and colour maps, made of outlines, files and each other."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np

from ...core.values.colour_map import colour_map, colour_name, regions
from ...core.values.element import Element
from ...core.values.masks import Mask
from ...core.values.shaping import drawn, painted
from ...core.worded import worded
from ...files.layout import fitted_mask
from ...files.pictures import read_grey, read_picture, write_png
from .acting import Acting


class Maps(Acting):
    """Masks and colour maps."""

    def empty_mask(self) -> None:
        if self.document.sheet.mask is not None:
            self.document.edit(replace(self.document.sheet, mask=None), worded("clear mask"))

    def mask_from_outline(self) -> None:
        sheet = self.document.sheet
        if not self.chosen:
            self.say(worded("Choose an element first; its outline becomes the mask."))
            return
        grey = np.maximum.reduce([drawn(e.outline, sheet.rect) for e in self.chosen])
        self.document.edit(replace(sheet, mask=Mask.from_array(grey)), worded("mask from outline"))

    def outline_from_mask(self) -> None:
        sheet = self.document.sheet
        if sheet.mask is None or sheet.mask.empty:
            self.say(worded("The mask is empty: paint one first."))
            return
        self.view.laying.add_element(painted(sheet.mask.read(), sheet.rect))

    def take_mask(self, path: Path) -> None:
        """A grey picture as the mask, scaled to the sheet when it has another size."""
        sheet = self.document.sheet
        self.document.edit(replace(sheet, mask=Mask.from_array(self._read_mask(path))), worded("load mask"))

    def _read_mask(self, path: Path) -> np.ndarray:
        sheet, grey = self.document.sheet, read_grey(path)
        if grey.shape != (sheet.height, sheet.width):
            self.say(worded("The mask was {0} x {1}; it is scaled to the sheet.", grey.shape[1], grey.shape[0]))
        return fitted_mask(grey, sheet.width, sheet.height, str(path), scale=True)

    def take_outline(self, path: Path) -> None:
        """A grey picture, or a cut-out's alpha, as a new element."""
        self.view.laying.add_element(painted(self._read_mask(path), self.document.sheet.rect))

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
        self.document.edit(sheet, worded("elements from colours"))
        self.say(worded("{0} colours became elements: say what each is.", len(found)))

    def write_colours(self, path: Path) -> None:
        write_png(path, colour_map(self.document.sheet))
        self.say(worded("Exported {0}.", path.name))
