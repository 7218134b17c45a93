"""The sheet's size."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np

from ...core.passes.enlarge import crisp, pieces
from ...core.passes.kind import Kind
from ...core.passes.kinds import empty_kind
from ...core.passes.watch import Stopped
from ...core.refused import Refused
from ...core.values.frame import Rect
from ...core.values.resize import drawn_sizes, framed, scaled
from ...core.values.sheet import Sheet
from ...core.worded import worded
from .acting import Acting

#: What the history calls another size of the sheet.
SIZE = "size of the sheet"


class Sizing(Acting):
    """The sheet cropped, extended and scaled."""

    def change_size(self) -> None:
        sheet = self.document.sheet
        answer = self._dialogs().sheet_size(sheet.width, sheet.height)
        if answer is not None:
            rect, way = answer
            if way == "crisp":
                self._draw_larger(rect.width, rect.height)
            else:
                self._resize(lambda: scaled(sheet, rect.width, rect.height) if way == "smooth" else framed(sheet, rect), SIZE)

    def enlarge(self, kind: Kind) -> None:
        """The sheet made larger, and turned to a kind of pass for it, in one edit."""
        sheet = self.document.sheet
        answer = self._dialogs().enlarged_size(sheet.width, sheet.height)
        if answer is None:
            return
        rect, way = answer
        if (rect.width, rect.height) == (sheet.width, sheet.height):
            self.document.set_draft(self.document.draft.turned_to(kind), worded("kind of pass"))
        elif way == "crisp":
            self._draw_larger(rect.width, rect.height, kind)
        else:
            self._resize(lambda: scaled(sheet, rect.width, rect.height), SIZE, kind)

    def _draw_larger(self, width: int, height: int, kind: Kind | None = None) -> None:
        sheet, pack = self.document.sheet, self.view.pack
        if pack is None:
            return
        count = sum(pieces(*sizes, pack) for sizes in drawn_sizes(sheet, width, height))
        try:
            with self._dialogs().steps(worded("Drawing the edges anew"), count) as tick:
                self._resize(lambda: scaled(sheet, width, height, partial(crisp, pack=pack, tick=tick)), SIZE, kind)
        except Stopped:
            self.say(worded("Stopped. The sheet is as it was."))

    def crop_to_chosen(self) -> None:
        sheet = self.document.sheet
        if not self.chosen:
            self.say(worded("Choose the element whose box the sheet shall be cropped to."))
            return
        boxes = np.array([e.outline.box for e in self.chosen])
        box = (*boxes[:, :2].min(0).tolist(), *boxes[:, 2:].max(0).tolist())
        x0, y0, x1, y1 = (round(v) for v in box)
        rect = Rect(max(x0, 0), max(y0, 0), min(x1, sheet.width), min(y1, sheet.height))
        self._resize(lambda: framed(sheet, rect), "crop")

    def _resize(self, make: Callable[[], Sheet], what: str, kind: Kind | None = None) -> None:
        before, draft = self.document.sheet, self.document.draft
        try:
            sheet = make()
        except Refused as error:
            self.say(str(error))
            return
        if kind is not None:
            draft = draft.turned_to(kind)
        elif sheet.has_picture and sheet.scale == before.scale and _has_more_room(before, sheet):
            # What is empty now is what comes next.
            draft = draft.turned_to(empty_kind())
        self.document.edit_both(sheet, draft, what)
        self.view.fit()


def _has_more_room(before: Sheet, after: Sheet) -> bool:
    """Whether a sheet reaches beyond what it was."""
    (x0, y0), (x1, y1) = before.origin, after.origin
    return x1 < x0 or y1 < y0 or x1 + after.width > x0 + before.width or y1 + after.height > y0 + before.height
