"""Where guidance leads on the way down, and where it has to be asked for."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from ..packs import PackInfo
from ..passes.request import Request

#: "asked": the model is asked what guidance leads away from; "kept": it leads as it did at the evaluation before.
Lead = Literal["none", "asked", "kept"]


def leads(levels: Sequence[float], request: Request, info: PackInfo) -> list[Lead]:
    """For each level that the model is asked at, in order, whether guidance leads there and how.

    Where it leads changes slowly from level to level, so it is kept for the next evaluation where that is less than
    `info.lead_kept` away. That it costs nothing in placement was measured (docs/model.md).
    """
    out: list[Lead] = []
    last: float | None = None
    for t in levels:
        if not request.guided_at(t, info):
            out.append("none")
            last = None
        elif last is not None and abs(last - t) < info.lead_kept:
            out.append("kept")
            last = None
        else:
            out.append("asked")
            last = t
    return out
