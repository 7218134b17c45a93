"""The strip beside the work frame: its place and size on the sheet, and how finely it is computed."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from PyQt6.QtWidgets import QDoubleSpinBox, QHBoxLayout, QLabel, QPushButton, QVBoxLayout

from ...core.passes.plan import Plan
from ...core.passes.settings import SETTINGS
from ...core.worded import worded
from ..document import Document
from ..sheet_view.view import SheetView
from ..tools.hand import Hand
from .floating import Floating
from .size_field import SizeField

WIDTH = 268
#: Edges and sizes: a field's sign, what it is called, its least value.
PLACES = (("x", "left edge", 0), ("y", "upper edge", 0), ("w", "width", 16), ("h", "height", 16))


class FrameStrip(Floating):
    """Seen while the frame's tool is in the hand."""

    def __init__(self, document: Document, view: SheetView) -> None:
        super().__init__(view)
        self.document = document
        self._plan: Plan | None = None
        self.setFixedWidth(WIDTH)
        self.swatch.setObjectName("grip")
        self.what, self.computed = QLabel(), QLabel()
        self.computed.setObjectName("faint")
        self.computed.setWordWrap(True)
        self.sizes = {
            name: SizeField(worded("The frame's {0} in sheet pixels.", what), worded("frame {0}", what), least)
            for name, what, least in PLACES
        }
        self.scale = QDoubleSpinBox()
        self.scale.setRange(0.05, 16.0)
        self.scale.setSingleStep(0.1)
        self.scale.setDecimals(2)
        self.scale.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
        self.scale.setFixedWidth(58)
        self.scale.setAccessibleName(worded("frame scale"))
        self.scale.setKeyboardTracking(False)
        self.scale.setToolTip(
            worded(
                "How many pixels are computed for each of the sheet, a side. More is finer and slower; it goes from half to "
                "twice of what the model does best, in the steps it can compute."
            )
        )
        self.fits = QPushButton(worded("Fits itself"))
        self.fits.setToolTip(worded("Let the frame fit itself again (Delete)"))
        self._lay_out()
        self._connect()

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 6, 8, 8)
        column.setSpacing(5)
        top, places, scale = QHBoxLayout(), QHBoxLayout(), QHBoxLayout()
        for row in (top, places, scale):
            row.setSpacing(4)
            column.addLayout(row)
        top.addWidget(self.swatch)
        top.addWidget(self.what, 1)
        top.addWidget(self.fits)
        for label, field in self.sizes.items():
            places.addWidget(QLabel(label))
            places.addWidget(field)
        scale.addWidget(QLabel(worded("scale")))
        scale.addWidget(self.scale)
        scale.addWidget(self.computed, 1)
        self.hide()

    def _connect(self) -> None:
        for name, field in self.sizes.items():
            field.set_to.connect(partial(self._resize, name))
        self.scale.valueChanged.connect(self._rescale)
        self.fits.clicked.connect(lambda: self._set(None))

    def wanted_by(self, hand: Hand) -> bool:
        return hand.shows_frame

    @property
    def about(self) -> tuple[float, float, float, float] | None:
        if self._plan is None:
            return None
        r = self._plan.frame.rect
        return r.x0, r.y0, r.x1, r.y1

    def show_plan(self, plan: Plan | None) -> None:
        """The frame of the next pass, or nothing where none can run."""
        self._plan = plan
        if plan is not None:
            sheet, frame = self.document.sheet, plan.frame
            r, own = frame.rect, self.document.draft.own_frame is not None
            for name, value, whole in zip("xywh", (r.x0, r.y0, r.width, r.height), (sheet.width, sheet.height) * 2, strict=True):
                self.sizes[name].show_value(value, whole)
            self.what.setText(worded("Frame, set by hand") if own else worded("Frame, fits itself"))
            self.fits.setVisible(own)
            self.computed.setText(worded("times, computed at {0} x {1}", frame.width, frame.height))
            self.scale.blockSignals(True)
            self.scale.setValue(frame.scale)
            self.scale.blockSignals(False)
        self.place()

    def _set(self, box: tuple[int, int, int, int] | None) -> None:
        self.document.set_draft(replace(self.document.draft, own_frame=box), worded("frame of the pass"), "")

    def _resize(self, which: str, value: float) -> None:
        if self._plan is None:
            return
        r, v = self._plan.frame.rect, round(value)
        self._set(
            {
                "x": (v, r.y0, v + r.width, r.y1),
                "y": (r.x0, v, r.x1, v + r.height),
                "w": (r.x0, r.y0, r.x0 + v, r.y1),
                "h": (r.x0, r.y0, r.x1, r.y0 + v),
            }[which]
        )

    def _rescale(self, scale: float) -> None:
        if self._plan is None:
            return
        draft, detail = self.document.draft, SETTINGS["detail"]
        wanted = draft.settings.detail * scale / self._plan.frame.scale
        new = draft.with_value("detail", min(max(round(wanted, 2), detail.least), detail.most))
        self.document.set_draft(new, worded("detail of the pass"), "draft detail")
        # Shown as it is where it cannot go as far.
        self.show_plan(self._plan)
