"""Where guidance leads on the way down, and where it has to be asked for."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

#: "asked": the model is asked what guidance leads away from; "kept": it leads as it did at the evaluation before; "near": as it
#: last did, but only near what is drawn.
Lead = Literal["none", "asked", "kept", "near"]


def leads(levels: Sequence[float], guided: tuple[float, float] | None, kept: float = 0.0, drawing: bool = False) -> list[Lead]:
    """For each level that the model is asked at, in order, whether guidance leads there and how.

    guided: the least and the greatest level at which it leads; elsewhere words are followed as they are (Kynkäänniemi et al.,
    "Applying guidance in a limited interval", 2024). None: nowhere. Where it leads changes slowly from level to level, so it is kept for
    the next evaluation where that is less than `kept` away. That it costs nothing in placement was measured (docs/model.md). drawing:
    whether something is drawn that leads too; near it guidance leads on to the end, for fine forms are decided there, and elsewhere
    it would only make grounds uneven.
    """
    out: list[Lead] = []
    last: float | None = None
    for t in levels:
        if guided is None or not guided[0] <= t <= guided[1]:
            out.append("near" if drawing and "asked" in out else "none")
            last = None
        elif last is not None and abs(last - t) < kept:
            out.append("kept")
            last = None
        else:
            out.append("asked")
            last = t
    return out
