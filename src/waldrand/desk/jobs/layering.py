"""What is done to the chosen layer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np

from ...core.picture.adjusting import Adjustment
from ...core.picture.cutting import clean_edge
from ...core.picture.paper import without_paper
from ...core.picture.warped import Corners, corners_of, moved_corners
from ...core.refused import Refused
from ...core.values.belonging import rejoined
from ...core.values.layers import Layer
from ...core.values.masks import Mask
from ...core.values.stacking import mask_of_layer, merged_down
from ...core.worded import worded
from ..tools.transforming import set_corners
from .acting import Acting


class Layering(Acting):
    """Every act is one undoable edit of the chosen layer."""

    @property
    def layer(self) -> Layer | None:
        """The chosen one; None, saying so, where there is none."""
        key, sheet = self.view.selection.layer, self.document.sheet
        if key is None or not sheet.has_layer(key):
            self.say(worded("Choose a layer first: click it in the ladder of layers."))
            return None
        return sheet.layer(key)

    def change(self, layer: Layer, what: str, merge: str = "") -> None:
        """The layer as it is now, brought to what lies below it by as much as before."""
        sheet = self.document.sheet.with_layer(layer)
        self.document.edit(rejoined(sheet, layer.key, layer.brought_by), what, merge)

    def merge_down(self) -> None:
        layer = self.layer
        if layer is not None and self._try(lambda: merged_down(self.document.sheet, layer.key), worded("merge “{0}” down", layer.name)):
            index = min(len(self.document.sheet.layers) - 1, max(0, self._index(layer.key)))
            self.view.selection.choose_layer(self.document.sheet.layers[index].key)

    def _index(self, key: int) -> int:
        return next((i for i, x in enumerate(self.document.sheet.layers) if x.key == key), 0)

    def mask_from_layer(self) -> None:
        """What is seen of the layer becomes the mask."""
        layer = self.layer
        if layer is not None:
            sheet = self.document.sheet
            grey = mask_of_layer(sheet, layer.key)
            self.document.edit(replace(sheet, mask=Mask.from_array(grey)), worded("mask from “{0}”", layer.name))

    def cover_by_mask(self) -> None:
        """Only what the mask covers of the layer is seen; nothing of it is lost."""
        layer, mask = self.layer, self.document.sheet.mask
        if layer is None:
            return
        if mask is None or mask.empty:
            self.say(worded("The mask is empty: paint one first."))
            return
        self._finish(layer, worded("“{0}” seen under the mask alone", layer.name), cover=lambda own: own.on_own(mask.read()))

    def uncover(self) -> None:
        """All of the layer is seen again."""
        layer = self.layer
        if layer is not None:
            self._finish(layer, worded("all of “{0}” seen", layer.name), cover=lambda own: None)

    def adjust_within_mask(self, within: bool) -> None:
        """The layer is adjusted only where the mask is, or everywhere."""
        layer, mask = self.layer, self.document.sheet.mask
        if layer is None:
            return
        if within and (mask is None or mask.empty):
            self.say(worded("The mask is empty: paint one first."))
            return
        what = worded("adjusted under the mask") if within else worded("adjusted everywhere")
        self._finish(layer, what, within=lambda own: own.on_own(mask.read()) if within and mask is not None else None)

    def _finish(self, layer: Layer, what: str, merge: str = "", **made: Callable[[Layer], object]) -> None:
        """Something of how a layer is finished, each made of it by name."""
        own: Layer = layer.as_picture() or layer
        if own.finished is None:
            self.say(worded("“{0}” cannot be changed so.", layer.name))
            return
        values: dict[str, Any] = {name: make(own) for name, make in made.items()}
        self.change(own.changed(finish=replace(own.finished, **values)), what, merge)

    def adjust(self, adjustment: Adjustment) -> None:
        """Other light and colours."""
        layer = self.layer
        if layer is not None:
            self._finish(layer, worded("light of “{0}”", layer.name), f"light {layer.key}", adjustment=lambda _: adjustment)

    def place(self, corners: Corners, what: str) -> None:
        """Other corners on the sheet."""
        layer = self.layer
        own = None if layer is None else layer.as_picture()
        if own is not None:
            set_corners(self.view, own, corners, worded("{0} of “{1}”", worded(what), own.name), f"{what} of layer {own.key}")

    def set_value(self, name: str, value: object, merge: str = "") -> None:
        """Opacity, blending, or what it is used as."""
        layer = self.layer
        if layer is not None and getattr(layer, name) != value:
            self.change(layer.changed(**{name: value}), worded("{0} of “{1}”", worded(name), layer.name), merge)

    def clean_edge(self) -> None:
        """The soft edge of a cut-out takes the colour of what is solid, so that no fringe of what lay behind is left."""
        self._retouch(clean_edge, worded("clean edge"), worded("The layer has no edge of its own that could be cleaned."))

    def remove_paper(self) -> None:
        """A photographed sketch without its paper."""
        self._retouch(without_paper, worded("paper removed"), worded("Choose the layer of a photographed sketch."))

    def _retouch(self, act: Callable[[np.ndarray], np.ndarray], what: str, else_said: str) -> None:
        """The own pixels (h, w, 4) of a layer that is a picture, made anew."""
        layer = self.layer
        own = None if layer is None else layer.as_picture()
        if layer is None or own is None:
            self.say(else_said)
            return
        try:
            self.change(replace(own, pixels=act(own.pixels)), worded("{0} of “{1}”", what, layer.name))
        except Refused as error:
            self.say(str(error))

    def mirror(self, upside_down: bool = False) -> None:
        layer = self.layer
        own = None if layer is None else layer.as_picture()
        if own is None:
            return
        (a, b, c, d) = own.corners
        x, y = (sum(p[i] for p in own.corners) / 4 for i in (0, 1))

        def there(p: tuple[float, float]) -> tuple[float, float]:
            return (p[0], 2 * y - p[1]) if upside_down else (2 * x - p[0], p[1])

        set_corners(self.view, own, (there(a), there(b), there(c), there(d)), worded("mirror “{0}”", own.name))

    def as_it_was(self) -> None:
        """At its own size again, upright, its middle where it is."""
        layer = self.layer
        own = None if layer is None else layer.as_picture()
        if own is None:
            return
        h, w = own.pixels.shape[:2]
        x, y = (sum(p[i] for p in own.corners) / 4 for i in (0, 1))
        corners = moved_corners(corners_of(0, 0, w, h), round(x - w / 2), round(y - h / 2))
        set_corners(self.view, own, corners, worded("“{0}” at its own size", own.name))

    def group(self) -> None:
        """The name of the group that the layer belongs to; layers of one group are moved together."""
        layer = self.layer
        if layer is None:
            return
        asked = worded("Its name; the same for several puts them together, none takes it out")
        name = self._dialogs().words(worded("Group of “{0}”", layer.name), asked, layer.group)
        if name is not None and name.strip() != layer.group:
            self.change(layer.changed(group=name.strip()), worded("group of “{0}”", layer.name))
