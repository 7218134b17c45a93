"""What menus and keys do to outlines."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from scipy import ndimage

from ...core.noise.noise import LARGEST_SEED
from ...core.passes.fitting import figure_of
from ...core.values.element import Element
from ...core.values.outline import Outline, same_shape
from ...core.values.shaping import drawn, grown, inverted, joined, mirrored, painted, rotated, smoothed
from ...core.worded import worded
from .acting import Acting

#: Seeds looked through for another figure.
SEEDS_TRIED = 60


class Outlines(Acting):
    """Outlines turned, mirrored, grown, joined; figures."""

    def figure_as_outline(self) -> None:
        """The figures fitted into the chosen outlines become the outlines, to be worked on by hand."""
        figures = self.view.figures()
        if self.chosen and not any(e.key in figures for e in self.chosen):
            self.say(worded("Nothing chosen has a figure: it needs a rectangle or an ellipse, and words that name a thing."))
            return
        self._each(lambda e: replace(e, outline=figures.get(e.key, e.outline)), worded("figure as outline of"))

    def another_figure(self) -> None:
        """The chosen elements get other figures, each by the next seed of its own that brings one."""
        sheet, draft, pack, had = self.document.sheet, self.document.draft, self.view.pack, self.view.figures()

        def other(e: Element) -> Element:
            if pack is None:
                return e
            first = draft.settings.seed if e.seed is None else e.seed
            seeds = range(first + 1, min(first + SEEDS_TRIED, LARGEST_SEED) + 1)
            tried = (replace(e, seed=seed) for seed in seeds)
            shapes = ((new, figure_of(new, sheet, draft.settings, pack, draft.settings.seed)) for new in tried)
            return next((new for new, shape in shapes if not same_shape(shape, had[e.key])), e)

        others = {e.key: other(e) for e in self.chosen if e.key in had}
        if self.chosen and all(e is others.get(e.key, e) for e in self.chosen):
            self.say(worded("Nothing chosen has another figure: say other words, or draw the shape by hand."))
            return
        self._each(lambda e: others.get(e.key, e), worded("another figure of"))

    def mirror(self, upside_down: bool = False) -> None:
        self._reshape(lambda o: mirrored(o, upside_down), "mirror")

    def rotate(self, degrees: float | None = None) -> None:
        if degrees is None:
            degrees = self._dialogs().number("Rotate", worded("Degrees, clockwise"), 45, -360, 360)
        if degrees is not None:
            by = degrees
            self._reshape(lambda o: rotated(o, by), "rotate")

    def grow(self, sign: int) -> None:
        pixels = self._dialogs().number("Grow" if sign > 0 else "Shrink", worded("By how many sheet pixels"), 8, 0.5, 2000)
        if pixels is not None:
            by = sign * pixels
            self._reshape(lambda o: grown(o, by), "grow" if sign > 0 else "shrink")

    def smooth(self) -> None:
        pixels = self._dialogs().number("Smooth", worded("Over how many sheet pixels"), 8, 0.5, 500)
        if pixels is not None:
            over = pixels
            self._reshape(lambda o: smoothed(o, over), "smooth")

    def invert(self) -> None:
        self._reshape(lambda o: inverted(o, self.document.sheet.rect), "invert")

    def fill(self) -> None:
        """Holes inside the outline are filled."""

        def filled(o: Outline) -> Outline:
            grey = drawn(o, self.document.sheet.rect)
            solid = ndimage.binary_fill_holes(grey > 127)
            return painted(np.maximum(grey, np.where(solid, 255, 0).astype(np.uint8)), self.document.sheet.rect)

        self._reshape(filled, worded("fill holes of"))

    def join(self) -> None:
        """All chosen become one; the one chosen last keeps its words."""
        chosen, lead = self.chosen, self.view.selection.selected
        if len(chosen) < 2 or lead is None:
            self.say(worded("Choose two or more elements to join: click one, then others with Shift."))
            return
        sheet, first = self.document.sheet, self.document.sheet.element(lead)
        outline = first.outline
        for e in chosen:
            if e.key != lead:
                outline = joined(outline, e.outline)
                sheet = sheet.without_element(e.key)
        self.document.edit(sheet.with_element(replace(first, outline=outline)), worded("join {0}", self._names()))

    def cut_out(self) -> None:
        """The one chosen last is cut out of the others."""
        lead = self.view.selection.selected
        if len(self.chosen) < 2 or lead is None:
            self.say(worded("Choose the elements to cut, then with Shift the one that cuts."))
            return
        knife = self.document.sheet.element(lead).outline
        self._each(lambda e: e if e.key == lead else replace(e, outline=joined(e.outline, knife, cut=True)), "cut")
