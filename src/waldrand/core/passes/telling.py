"""Where a stage is told something."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..packs import Pack
from .stage import Stage


def where_told(phrase: str, stage: Stage, pack: Pack) -> np.ndarray:
    """How much it is told in each cell of a stage, (h, w) 0..1."""
    cells = stage.cells(pack.info)
    asked, where = pack.read(phrase)[0], np.zeros(cells, np.float32)
    for one in stage.told:
        if _holds(pack.read(one.phrase)[0], asked):
            outline = stage.areas(cells)[one.where].outline
            where = np.maximum(where, min(1.0, one.weight) * (1 if outline is None else outline))
    return where


def _holds(ids: Sequence[int], asked: Sequence[int]) -> bool:
    """Whether some words are said one after the other."""
    n = len(asked)
    return n > 0 and any(list(ids[i : i + n]) == list(asked) for i in range(len(ids) - n + 1))
