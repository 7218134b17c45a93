"""Drawings, depth and looks: pictures that passes are told of."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np

from ...core.passes.fitting import is_drawn
from ...core.picture.ink import shade_of
from ...core.picture.lines import lines_of
from ...core.picture.resample import resize_rgba
from ...core.seen.depth import depth_of
from ...core.told.guides import drawn_of
from ...core.values.layers import DEPTH, LINES, LOOK, PictureLayer, kept
from ...core.values.pencil import Pencil
from ...core.values.strokes import Stroke, traced
from ...core.worded import worded
from ...files.depths import read_depth, turned
from ...files.pictures import Picture
from ..sheet_view.drawn_next import SIDE
from .acting import Acting
from .beside import Beside

#: Of strokes that a drawing or a sketch is turned into, sheet pixels.
WIDTH = 2.5


class Guiding(Acting):
    """Every act is one undoable edit."""

    def __init__(self, acting: Acting, beside: Beside) -> None:
        super().__init__(*acting.acting)
        self._beside = beside

    def new_drawing(self) -> None:
        """An empty drawing, of the chosen element or of the whole, and the pen."""
        sheet, of = self.document.sheet, self.view.selection.selected
        name = worded("drawing") if of is None else worded("drawing of {0}", sheet.element(of).name)
        self._add_layer(Pencil.new(sheet.next_key(), name, sheet.width, sheet.height, of), worded("new drawing"))
        self.view.set_tool("pen")

    def lines_of_picture(self) -> None:
        """What a pencil would draw of the picture, or of the chosen layer, as a drawing."""
        pixels, name, at = self._looked_at()
        if pixels is None:
            return

        def lay(drawn: np.ndarray) -> None:
            if not drawn.any():
                self.say(worded("There are no lines to draw in it: it is nearly even."))
                return
            rgba = np.dstack([np.zeros((*drawn.shape, 3), np.uint8), np.asarray(np.round(255 * drawn), np.uint8)])
            key = self.document.sheet.next_key()
            self._add_layer(PictureLayer(key, worded("lines of {0}", name), rgba, *at, role=LINES), worded("lines of {0}", name))

        self._beside.do(worded("Drawing lines"), lambda _: lines_of(pixels), lay, self._told)

    def depth_of_picture(self) -> None:
        """How near everything in the picture is, as a depth that passes follow."""
        pixels, name, at = self._looked_at()
        pack = self.view.pack
        if pixels is None or pack is None:
            return

        def lay(depth: np.ndarray) -> None:
            rgba = shade_of(depth)
            key = self.document.sheet.next_key()
            self._add_layer(PictureLayer(key, worded("depth of {0}", name), rgba, *at, role=DEPTH), worded("depth of {0}", name))

        self._beside.do(worded("Looking how near everything is"), lambda _: depth_of(pixels, pack), lay, self._told)

    def depth_from_file(self, path: Path) -> None:
        """A depth that another program made, fitted to the sheet."""
        sheet = self.document.sheet

        def lay(picture: Picture) -> None:
            pixels = picture.pixels
            if pixels.shape[:2] != (sheet.height, sheet.width):
                pixels = resize_rgba(pixels, sheet.height, sheet.width)
            self._add_layer(PictureLayer(sheet.next_key(), path.stem, pixels, role=DEPTH), worded("depth of {0}", path.name))
            self.say(" ".join((*picture.notes, worded("White is near: where it is the other way round, Layer, Turn near and far."))))

        self._beside.do(worded("Reading a depth"), lambda _: read_depth(path), lay, self._told)

    def turn_depth(self) -> None:
        """Near and far change places in the chosen depth, else in the uppermost."""
        sheet, key = self.document.sheet, self.view.selection.layer
        layer = sheet.depth(key)
        if layer is None:
            self.say(worded("There is no depth yet: see Layer, Depth of this picture."))
            return
        at = layer.bounds
        made = PictureLayer(layer.key, layer.name, turned(layer.shown), at.x0, at.y0, layer.visible, **kept(layer))
        self.document.edit(sheet.with_layer(made), worded("near and far of “{0}”", layer.name))

    def _looked_at(self) -> tuple[np.ndarray | None, str, tuple[int, int]]:
        """The pixels (h, w, 4) of the chosen layer, else all that is seen; what they are called, and where they lie."""
        sheet, key = self.document.sheet, self.view.selection.layer
        if key is not None and sheet.has_layer(key) and sheet.layer(key).is_seen:
            layer = sheet.layer(key)
            return layer.shown, f"“{layer.name}”", (layer.bounds.x0, layer.bounds.y0)
        if not sheet.has_picture:
            self.say(worded("There is no picture to look at yet: open or compose one."))
            return None, "", (0, 0)
        return sheet.flatten(), worded("the picture"), (0, 0)

    def use_as_look(self) -> None:
        """The chosen layer lends its colours, light and surface: to the chosen element, or to the whole."""
        key, sheet = self.view.selection.layer, self.document.sheet
        if key is None or not sheet.has_layer(key):
            self.say(worded("Choose the layer whose look is wanted: drop a picture onto the sheet first."))
            return
        layer = sheet.layer(key)
        self.document.edit(sheet.with_layer(layer.changed(role=LOOK)), worded("the look of “{0}”", layer.name))

    def belongs_to(self, key: int | None) -> None:
        """The chosen layer belongs to an element, with which it moves, or to the whole (None)."""
        chosen, sheet = self.view.selection.layer, self.document.sheet
        if chosen is not None and sheet.has_layer(chosen):
            self.document.edit(sheet.with_layer(sheet.layer(chosen).changed(of=key)), worded("whose “{0}” is", sheet.layer(chosen).name))

    def sketches_to_strokes(self) -> None:
        """The sketches of the chosen elements, or a drawing that is chosen, as strokes of a pen, to be redrawn by hand."""
        sheet, figures = self.document.sheet, self.view.figures()
        layer = self.view.selection.layer
        if layer is not None and sheet.has_layer(layer) and sheet.layer(layer).role == LINES:
            own = sheet.layer(layer)
            if isinstance(own, Pencil):
                self.say(worded("“{0}” is made of strokes already.", own.name))
                return
            at = own.bounds
            strokes = tuple(s.moved(at.x0, at.y0) for s in traced(drawn_of(own) / np.float32(255), WIDTH))
            made = Pencil(own.key, own.name, sheet.width, sheet.height, strokes, opacity=own.opacity, role=LINES, acts=own.acts, of=own.of)
            self.document.edit(sheet.with_layer(made), worded("“{0}” as strokes", own.name))
            return
        if not self.chosen:
            self._grounds_to_strokes()
            return
        done = sheet
        for e in self.chosen:
            figure = figures.get(e.key)
            if figure is None or figure.lines is None or is_drawn(sheet, e):
                continue
            x0, y0, x1, y1 = figure.box
            h, w = figure.lines.shape
            kx, ky = (x1 - x0) / w, (y1 - y0) / h
            fine = traced(figure.lines.astype(np.float32) / 255, WIDTH / max(0.05, (kx * ky) ** 0.5))
            strokes = tuple(s.scaled(kx, ky).moved(x0, y0) for s in fine)
            drawing = Pencil.new(done.next_key(), worded("drawing of {0}", e.name), sheet.width, sheet.height, e.key)
            done = done.with_layer(replace(drawing, strokes=strokes, grey=None))
        if done is sheet:
            self.say(worded("Choose elements that have a sketch, or a drawing: these become strokes that can be redrawn."))
            return
        self.document.edit(done, worded("sketches as strokes"))
        self.view.selection.choose_layer(done.layers[-1].key)
        self.view.set_tool("pen")

    def _grounds_to_strokes(self) -> None:
        """What lies behind the things, as strokes of a drawing of the whole, which takes its place."""
        sheet = self.document.sheet
        lines = self.view.drawn.grounds.lines(sheet, SIDE)
        if lines is None:
            self.say(worded("Choose elements that have a sketch, or a drawing: these become strokes that can be redrawn."))
            return
        k = max(sheet.width, sheet.height) / SIDE
        strokes = tuple(s.scaled(k, k) for s in traced(lines, WIDTH / k))
        drawing = Pencil.new(sheet.next_key(), worded("what lies behind"), sheet.width, sheet.height)
        done = sheet.with_layer(replace(drawing, strokes=strokes, grey=None))
        self.document.edit(done, worded("grounds as strokes"))
        self.view.selection.choose_layer(done.layers[-1].key)
        self.view.set_tool("pen")

    def smooth_strokes(self) -> None:
        self._strokes(Stroke.smoothed, worded("smooth strokes"))

    def straighten_strokes(self) -> None:
        self._strokes(Stroke.straightened, worded("straighten strokes"))

    def _strokes(self, change: Callable[[Stroke], Stroke], what: str) -> None:
        key, sheet = self.view.selection.layer, self.document.sheet
        layer = sheet.layer(key) if key is not None and sheet.has_layer(key) else None
        if not isinstance(layer, Pencil) or not layer.strokes:
            self.say(worded("Choose a drawing made with the pen first: click it in the ladder of layers."))
            return
        self.document.edit(sheet.with_layer(layer.with_strokes(change)), what)
