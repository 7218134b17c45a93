"""The sorts of layers there are. Another one is a class like these, and a name in this list."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..fields import needed, taken_table, taken_whole, taken_words
from ..refused import Refused
from ..worded import worded
from .finish import Pictures
from .layers import Layer, Patch, PictureLayer
from .lettering import Lettering
from .paint import PaintLayer
from .pencil import Pencil

#: By the name that files have for them. Another one may be put in.
SORTS: dict[str, type[Layer]] = {cls.sort: cls for cls in (PictureLayer, Patch, PaintLayer, Lettering, Pencil)}


def layer_from_json(d: Any, pixels: np.ndarray, pictures: Pictures) -> Layer:
    """A layer from what a file says of it. pixels: its picture (H, W, 4) uint8; pictures: reads those beside it.

    Raises:
        Refused: what is said is no layer's, or does not fit its picture.
    """
    d = taken_table(d, "A layer")
    # The first two sorts are told apart by what they have.
    sort = taken_words(d.get("sort", Patch.sort if "frame" in d else PictureLayer.sort), "A layer's sort")
    if sort not in SORTS:
        raise Refused(worded("There is no sort of layer called “{0:.40}”; known are {1}.", sort, ", ".join(SORTS)))
    key, name = taken_whole(needed(d, "key", "A layer"), "A layer's key"), taken_words(needed(d, "name", "A layer"), "A layer's name")
    return SORTS[sort].from_json(key, name, needed(d, "visible", "A layer") is True, d, pixels, pictures)
