"""A control for each field of a pass, made from what the field says of itself."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from PyQt6.QtCore import QObject, QSignalBlocker, pyqtSignal

from ...core.fields import Field
from ...core.packs import Pack
from ...core.worded import worded
from .numbers_field import NumbersField
from .order_list import OrderList
from .parts_list import PartsList
from .widgets import Dial, choice_for, number_for, show_checked, show_number, tick_for, whole_for
from .words_field import WordsField

#: What stands in an empty field of words.
EMPTY = {"words": "what is wanted there", "avoid": "not wanted", "parts": "face, hands, windows", "sentence": "turn the owl into a deer"}
#: Names for those who hear the window, where they are not the field's own.
SPOKEN = {"words": "pass words", "avoid": "pass avoid words", "small_nearer": "from nearer", "strength": "denoise strength"}
#: Numbers that are ticks in a list; others are typed.
LISTED = ("left_out",)
#: Words that are not the model's own: nothing is completed or underlined in them.
PLAIN = ("sentence", "parts")
#: What stands beside a tick, where it is not the field's own label: short, for it stands between a label and what asks about it.
TICKED = {
    "figures": "of things",
    "sketches": "in pencil",
    "grounds": "drawn",
    "places": "given",
    "weather": "laid over",
    "drawn": "what is new",
    "form": "only",
    "paper": "of the look",
    "own_lines": "followed",
    "keep_lines": "followed",
    "own_noise": "begun with",
}


class FieldRow(QObject):
    """label: beside it; field: the control. Signals: changed(its value), when it is changed by hand."""

    changed = pyqtSignal(object)

    def __init__(self, label: str, field: Any, show: Callable[[Any], None]) -> None:
        super().__init__()
        self.label, self.field, self._show = label, field, show

    def show_value(self, value: Any) -> None:
        """Shows a value without saying that it changed."""
        self._show(value)


def field_row(name: str, field: Field, pack: Pack | None, usual: float | None = None) -> FieldRow:
    """usual: what is shown for a number that may be left open."""
    spoken = worded(SPOKEN.get(name, field.label))
    match field.read:
        case "words":
            line = WordsField(worded(EMPTY.get(name, "")), worded(field.tip), spoken, None if name in PLAIN else pack)
            row = FieldRow(field.label, line, line.show_text)
            line.said.connect(row.changed.emit)
        case "flag":
            tick = tick_for(replace(field, label=TICKED.get(name, field.label)), spoken)
            row = FieldRow(field.label, tick, lambda on: show_checked(tick, on))
            tick.toggled.connect(row.changed.emit)
        case "choice":
            combo = choice_for(field, spoken)

            def show_choice(value: str) -> None:
                with QSignalBlocker(combo):
                    combo.setCurrentIndex(combo.findData(value))

            row = FieldRow(field.label, combo, show_choice)
            combo.currentIndexChanged.connect(lambda _: row.changed.emit(combo.currentData()))
        case "order":
            order = OrderList(field, spoken)
            row = FieldRow(field.label, order, order.show_order)
            order.ordered.connect(row.changed.emit)
        case "numbers" if name in LISTED:
            listed = PartsList(worded(field.tip), spoken)
            row = FieldRow(field.label, listed, listed.show_numbers)
            listed.left_out.connect(row.changed.emit)
        case "numbers":
            typed = NumbersField(worded(field.tip), spoken)
            row = FieldRow(field.label, typed, typed.show_numbers)
            typed.said.connect(row.changed.emit)
        case "whole":
            whole = whole_for(field, spoken)
            row = FieldRow(field.label, whole, lambda v: show_number(whole, v))
            whole.valueChanged.connect(row.changed.emit)
        case _ if (field.least, field.most) == (0, 1):
            dial = Dial(worded(field.tip), spoken, step=field.step, decimals=field.decimals)
            row = FieldRow(field.label, dial, dial.show_value)
            dial.turned.connect(row.changed.emit)
        case _:
            number = number_for(field, spoken)
            row = FieldRow(field.label, number, lambda v: show_number(number, (usual or 0.0) if v is None else v))
            number.valueChanged.connect(row.changed.emit)
    return row
