"""What a pass found and would paint, one by one, for a list and on the sheet."""

from __future__ import annotations

from dataclasses import dataclass

from ..values.outline import Outline


@dataclass(frozen=True, eq=False)
class Listed:
    """number: its place in the list, from 1; text: in a line; tip: with words for the figures; used: whether it is ticked; outline: on the
    sheet."""

    number: int
    text: str
    tip: str
    used: bool
    outline: Outline
