"""What is done to the chosen layer, and with colours and letters on layers of their own."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF

from ...core.picture.adjusting import Adjustment
from ...core.picture.cutting import clean_edge
from ...core.picture.fills import tinted_noise
from ...core.picture.paper import without_paper
from ...core.picture.warped import Corners, corners_of, moved_corners
from ...core.refused import Refused
from ...core.values.belonging import rejoined
from ...core.values.layers import SEEN, Layer, PictureLayer
from ...core.values.lettering import Lettering, Letters, name_of
from ...core.values.masks import Mask
from ...core.values.paint import PaintLayer
from ...core.values.shaping import drawn
from ...core.values.stacking import mask_of_layer, merged_down, on_layer
from ...core.worded import worded
from ...files.typefaces import draw_letters
from ..tools.transforming import as_picture, set_corners
from .acting import Acting

#: The size of new letters, in shares of the sheet's height.
LETTERS = 0.1


class Layering(Acting):
    """Every act is one undoable edit of the chosen layer, or adds one."""

    @property
    def layer(self) -> Layer | None:
        """The chosen one; None, saying so, where there is none."""
        key, sheet = self.view.selection.layer, self.document.sheet
        if key is None or not sheet.has_layer(key):
            self.say(worded("Choose a layer first: click it in the ladder of layers."))
            return None
        return sheet.layer(key)

    def _change(self, layer: Layer, what: str, merge: str = "") -> None:
        """The layer as it is now, brought to what lies below it by as much as before."""
        sheet = self.document.sheet.with_layer(layer)
        self.document.edit(rejoined(sheet, layer.key, layer.brought_by), what, merge)

    def _add_layer(self, layer: Layer, what: str) -> None:
        self.document.edit(self.document.sheet.with_layer(layer), what)
        self.view.selection.choose_layer(layer.key)

    # --- colours

    def new_colours(self) -> None:
        """An empty layer to paint on."""
        sheet = self.document.sheet
        n = sum(isinstance(x, PaintLayer) for x in sheet.layers) + 1
        layer = PaintLayer(sheet.next_key(), worded("colours {0}", n), sheet.width, sheet.height)
        self._add_layer(layer, worded("new layer of colours"))
        self.view.set_tool("paint")

    def _area(self) -> np.ndarray | None:
        """The chosen outlines, else the mask, (H, W) uint8; None, saying so, where there is neither."""
        sheet = self.document.sheet
        if self.chosen:
            return np.maximum.reduce([drawn(e.outline, sheet.rect) for e in self.chosen])
        if sheet.mask is None or sheet.mask.empty:
            self.say(worded("Choose an outline or paint a mask first: that is what gets the colour."))
            return None
        return sheet.mask.read()

    def fill_with_colour(self) -> None:
        """The chosen outlines, or the mask, in the colour in the hand."""
        grey = self._area()
        if grey is not None:
            self._lay(grey, self.view.paints.colour, worded("fill with colour"))

    def fill_with_noise(self) -> None:
        """The same with seeded noise round that colour: at low strength a pass turns it into things."""
        grey = self._area()
        asked = worded("How much: 0 the colour alone, 1 as wild as can be")
        amount = None if grey is None else self._dialogs().number(worded("Coloured noise"), asked, 0.5, 0, 1)
        if grey is None or amount is None:
            return
        noise = tinted_noise(grey.shape, self.view.paints.colour, 0.0, amount, self.document.draft.settings.seed)
        self._lay(grey, noise, worded("coloured noise"))

    def _lay(self, grey: np.ndarray, colour: tuple[int, int, int] | np.ndarray, what: str) -> None:
        sheet = self.document.sheet
        found = next((x for x in reversed(sheet.layers) if x.key == self.view.selection.layer or x is sheet.layers[-1]), None)
        layer = found if isinstance(found, PaintLayer) else PaintLayer(sheet.next_key(), what, sheet.width, sheet.height)
        made = layer.painted(sheet.rect.moved(-layer.x, -layer.y), grey, colour)
        keys = self.view.selection.keys
        self.document.edit(sheet.with_layer(made), what)
        self.view.paints.used()
        if not keys:
            self.view.selection.choose_layer(made.key)

    # --- the chosen layer

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
        self._finish(layer, worded("“{0}” seen under the mask alone", layer.name), cover=lambda own: on_layer(own, mask.read()))

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
        self._finish(layer, what, within=lambda own: on_layer(own, mask.read()) if within and mask is not None else None)

    def _finish(self, layer: Layer, what: str, merge: str = "", **made: Callable[[Layer], object]) -> None:
        """Something of how a layer is finished, each made of it by name."""
        own: Layer = as_picture(layer) or layer
        if own.finished is None:
            self.say(worded("“{0}” cannot be changed so.", layer.name))
            return
        values: dict[str, Any] = {name: make(own) for name, make in made.items()}
        self._change(own.changed(finish=replace(own.finished, **values)), what, merge)

    def adjust(self, adjustment: Adjustment) -> None:
        """Other light and colours."""
        layer = self.layer
        if layer is not None:
            self._finish(layer, worded("light of “{0}”", layer.name), f"light {layer.key}", adjustment=lambda _: adjustment)

    def place(self, corners: Corners, what: str) -> None:
        """Other corners on the sheet."""
        layer = self.layer
        own = None if layer is None else as_picture(layer)
        if own is not None:
            set_corners(self.view, own, corners, worded("{0} of “{1}”", worded(what), own.name), f"{what} of layer {own.key}")

    def set_value(self, name: str, value: object, merge: str = "") -> None:
        """Opacity, blending, or what it is used as."""
        layer = self.layer
        if layer is not None and getattr(layer, name) != value:
            self._change(layer.changed(**{name: value}), worded("{0} of “{1}”", worded(name), layer.name), merge)

    def clean_edge(self) -> None:
        """The soft edge of a cut-out takes the colour of what is solid, so that no fringe of what lay behind is left."""
        layer = self.layer
        if isinstance(layer, PictureLayer):
            self._change(replace(layer, pixels=clean_edge(layer.pixels)), worded("clean edge of “{0}”", layer.name))
        elif layer is not None:
            self.say(worded("“{0}” has no edge of its own that could be cleaned.", layer.name))

    def remove_paper(self) -> None:
        """A photographed sketch without its paper."""
        layer = self.layer
        if not isinstance(layer, PictureLayer):
            if layer is not None:
                self.say(worded("Choose the layer of a photographed sketch."))
            return
        try:
            self._change(replace(layer, pixels=without_paper(layer.pixels)), worded("paper of “{0}” removed", layer.name))
        except Refused as error:
            self.say(str(error))

    def mirror(self, upside_down: bool = False) -> None:
        layer = self.layer
        own = None if layer is None else as_picture(layer)
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
        own = None if layer is None else as_picture(layer)
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
            self._change(layer.changed(group=name.strip()), worded("group of “{0}”", layer.name))

    # --- letters

    def new_letters(self, at: QPointF | None = None) -> None:
        """Lettering whose words are asked for, at a point of the sheet or in its middle."""
        words = self._dialogs().words(worded("Lettering"), worded("What shall it say?"))
        if not words or not words.strip():
            return
        sheet, paints = self.document.sheet, self.view.paints
        colour = "#{:02x}{:02x}{:02x}".format(*paints.colour)
        says = Letters(words.strip(), size=float(max(8, round(LETTERS * sheet.height))), colour=colour)
        made = self._drawn(says)
        if made is None:
            return
        h, w = made.shape[:2]
        x, y = (round(at.x()), round(at.y() - h / 2)) if at is not None else ((sheet.width - w) // 2, (sheet.height - h) // 2)
        layer = Lettering(sheet.next_key(), name_of(says), made, x, y, says=says, role=SEEN)
        self._add_layer(layer, worded("lettering"))
        self.view.set_tool("arrange")

    def set_letters(self, says: Letters) -> None:
        """Other words or looks of the chosen lettering."""
        layer = self.layer
        if isinstance(layer, Lettering) and says != layer.says:
            made = self._drawn(says)
            if made is not None:
                self._change(layer.drawn(says, made), worded("letters of “{0}”", layer.name), f"letters {layer.key}")

    def _drawn(self, says: Letters) -> np.ndarray | None:
        try:
            made, note = draw_letters(says)
        except Refused as error:
            self.say(str(error))
            return None
        if note:
            self.say(note)
        return made
