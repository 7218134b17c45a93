"""What looks wrong about holds: words that name what is held, and holds that leave no room."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from ..packs import Pack
from ..picture.resample import resize_mask
from ..refused import Refused
from ..seen.find import covered
from ..told.said import Said
from ..values.element import Element, phrases
from ..values.layers import Layer
from ..values.outline import rasterise
from ..values.sheet import Sheet
from ..worded import worded
from .cautions import Caution, percent
from .stage import Stage

#: A side of what is counted, and the least share of a frame that is room enough.
COUNTED, ROOM = 64, 0.08


def of_held(sheet: Sheet, stage: Stage, pack: Pack, masked: bool, all_of_it: bool) -> list[Caution]:
    """Words that name what is held, so that it may grow on; and holds that leave hardly any room. masked: whether only what the mask
    covers would be painted; all_of_it: whether all of the frame would be.

    Raises:
        Refused: all that the pass would paint is held.
    """
    held = tuple(e for e in sheet.elements if e.hold)
    if not held or not sheet.has_picture:
        return []
    out = []
    for name, one in _named(sheet, held, stage, pack):
        out.append(Caution(worded("“{0}” is held, and the words name it: it may grow on, or come twice.", name), one.about))
    if stage.strongest > 0:
        left = float((stage.strength(COUNTED, COUNTED) > 0).mean())
        # So coarsely a place that is partly held counts as held: only the frame's own pixels tell that nothing is left.
        if left == 0 and not (stage.strength(stage.frame.rect.height, stage.frame.rect.width) > 0).any():
            raise Refused(worded("All that would be painted is held: let go of a hold, or paint elsewhere."))
        rect = stage.frame.rect
        wanted = (
            1.0
            if sheet.mask is None or not masked
            else float((resize_mask(sheet.mask.read(rect) / np.float32(255), COUNTED, COUNTED) > 0).mean())
        )
        if (masked or all_of_it) and left < ROOM * wanted:
            text = worded(
                "What is held leaves only {0} of what would be painted: there is hardly room for anything.", percent(left / wanted)
            )
            out.append(Caution(text, held[0].key))
    return out


def _named(sheet: Sheet, held: tuple[Element, ...], stage: Stage, pack: Pack) -> list[tuple[str, Said]]:
    """What is held and named, by its name, each with the first words that name it."""
    known = _labels(sheet.width, sheet.height, sheet.layers, tuple(e for e in held if not phrases(e.words)), pack)
    names = {p.lower() for e in held for p in (phrases(e.words) or [e.name])} | known
    out: dict[str, Said] = {}
    for one in stage.told:
        labels = () if pack.finder is None else pack.finder.labels_of(one.phrase)
        said = {one.phrase.lower(), *((pack.finder.labels[i] for i in labels) if pack.finder is not None else ())}
        for name in sorted(said & names):
            out.setdefault(name, one)
    return list(out.items())


@lru_cache(maxsize=4)
def _labels(width: int, height: int, layers: tuple[Layer, ...], held: tuple[Element, ...], pack: Pack) -> frozenset[str]:
    """What is seen under holds without words. Remembered, since plans ask at every change of words."""
    if not held or pack.finder is None:
        return frozenset()
    sheet = Sheet(width, height, layers)
    solid = np.maximum.reduce([rasterise(e.outline, sheet.rect, height, width) for e in held]) > 0
    return frozenset(covered(sheet.flatten(), solid.astype(np.float32), pack))
