"""Masks with names: kept, used again, joined, and held."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Literal

import numpy as np

from ...core.picture.cutting import shaped
from ...core.values.area import Area
from ...core.values.masks import Mask
from ...core.values.shaping import drawn
from ...core.values.stacking import mask_of_layer
from ...core.worded import worded
from ...files.pictures import write_png
from .acting import Acting

How = Literal["instead", "add", "cut", "meet"]
MOST = 500


class Areas(Acting):
    """Every act is one undoable edit."""

    def _free_name(self, stem: str) -> str:
        taken = {a.name for a in self.document.sheet.areas}
        return next(name for i in range(1, len(taken) + 2) if (name := f"{stem} {i}") not in taken)

    def _what_is_meant(self) -> tuple[np.ndarray, str] | None:
        """The mask, the chosen outlines, or what is seen of the chosen layer, and what it is called; None, saying so, where there is
        none of them."""
        sheet, key = self.document.sheet, self.view.selection.layer
        if sheet.mask is not None and not sheet.mask.empty:
            return sheet.mask.read(), ""
        if self.chosen:
            return np.maximum.reduce([drawn(e.outline, sheet.rect) for e in self.chosen]), ", ".join(e.name for e in self.chosen)
        if key is not None and sheet.has_layer(key):
            return mask_of_layer(sheet, key), sheet.layer(key).name
        self.say(worded("Paint a mask, or choose an outline or a layer first."))
        return None

    def keep(self, hold: bool = False) -> None:
        """What is meant is kept under a name; held, no pass changes it from now on."""
        meant = self._what_is_meant()
        if meant is None:
            return
        grey, name = meant
        if not grey.any():
            self.say(worded("There is nothing of it on the sheet."))
            return
        sheet, stem = self.document.sheet, worded("hold") if hold else worded("mask")
        area = Area(sheet.next_key(), name or self._free_name(stem), Mask.from_array(grey), hold)
        gone = replace(sheet, mask=None) if hold and not name else sheet
        self.document.edit(gone.with_area(area), worded("hold “{0}”", area.name) if hold else worded("keep mask “{0}”", area.name))

    def all_but_this(self) -> None:
        """What is meant stays bit for bit, and everything round it is the mask of the next pass."""
        meant = self._what_is_meant()
        if meant is None:
            return
        grey, name = meant
        solid = grey >= 128
        if not solid.any() or solid.all():
            self.say(worded("Nothing, or everything, would be held."))
            return
        sheet = self.document.sheet
        area = Area(sheet.next_key(), name or self._free_name(worded("hold")), Mask.from_array(grey), True)
        around = Mask.from_array(np.where(solid, 0, 255).astype(np.uint8))
        self.document.edit(replace(sheet, mask=around).with_area(area), worded("all but “{0}”", area.name))

    def use(self, key: int, how: How) -> None:
        """A kept mask becomes the mask, or is added to it, cut from it, or what both cover is left."""
        sheet = self.document.sheet
        own = sheet.area(key).mask.read()
        had = np.zeros_like(own) if sheet.mask is None else sheet.mask.read()
        grey = {"instead": own, "add": np.maximum(had, own), "cut": np.minimum(had, 255 - own), "meet": np.minimum(had, own)}[how]
        self.document.edit(
            replace(sheet, mask=Mask.from_array(grey) if grey.any() else None), worded("mask from “{0}”", sheet.area(key).name)
        )

    def switch(self, key: int, hold: bool) -> None:
        area = self.document.sheet.area(key)
        self.document.edit(self.document.sheet.with_area(replace(area, hold=hold)), worded("hold of “{0}”", area.name))

    def rename(self, key: int) -> None:
        area = self.document.sheet.area(key)
        name = self._dialogs().words(worded("Name of the mask"), worded("What shall it be called?"), area.name)
        if name and name.strip() and name.strip() != area.name:
            self.document.edit(self.document.sheet.with_area(replace(area, name=name.strip())), worded("name of “{0}”", area.name))

    def grow(self, key: int, sign: int) -> None:
        """By pixels that are asked for; sign: 1 grows, -1 shrinks, to lose a pale fringe."""
        area = self.document.sheet.area(key)
        title = worded("Grow “{0}”", area.name) if sign > 0 else worded("Shrink “{0}”", area.name)
        by = self._dialogs().number(title, worded("By how many sheet pixels"), 2, 0, MOST)
        if not by:
            return
        grey = np.asarray(np.round(255 * shaped(area.mask.read().astype(np.float32) / 255, sign * by)), np.uint8)
        if not grey.any():
            self.say(worded("Nothing of it would be left."))
            return
        self.document.edit(self.document.sheet.with_area(replace(area, mask=Mask.from_array(grey))), title.lower())

    def delete(self, key: int) -> None:
        area = self.document.sheet.area(key)
        self.document.edit(self.document.sheet.without_area(key), worded("delete mask “{0}”", area.name))

    def export_mask(self) -> None:
        """The mask as a grey picture."""
        mask = self.document.sheet.mask
        if mask is None or mask.empty:
            self.say(worded("The mask is empty: paint one first."))
            return
        path = self._dialogs().save_path(worded("Export mask"), "mask.png", worded("PNG picture (*.png)"), ".png")
        if path is not None:
            self._dialogs().attempt(lambda: self._write(path, mask))

    def _write(self, path: Path, mask: Mask) -> None:
        write_png(path, mask.read())
        self.say(worded("Exported {0}.", path.name))
