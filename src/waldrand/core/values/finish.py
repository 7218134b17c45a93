"""What is done to a layer's own pixels before they are laid over what lies below; the pixels stay as they are."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import partial
from typing import Any, Protocol

import numpy as np

from ..fields import taken_list, taken_number, taken_words
from ..picture.adjusting import UNADJUSTED, Adjustment, adjusted_within, adjustment_from_json, adjustment_to_json
from ..picture.resample import resize_mask
from ..picture.warped import Corners, check_corners, warped
from ..refused import Refused
from ..worded import worded

#: Grey pictures in a file: where a layer is adjusted, and how much of it is seen.
WITHIN, COVER = "within", "cover"


class Pictures(Protocol):
    """Pictures of a file, by their names."""

    def __call__(self, name: str) -> np.ndarray:
        """A grey one, (H, W) uint8."""

    def colours(self, name: str) -> np.ndarray:
        """One in colours, (H, W, 4) uint8."""


@dataclass(frozen=True, eq=False)
class Finish:
    """adjustment: of light and colours, where `within` (h, w) uint8 says, None: everywhere; cover: (h, w) uint8, how much of the
    layer is seen, None: all; corners: where its own corners come to lie from its place on, at least (0, 0), None: as it is.

    Raises:
        Refused: corners that nothing can be drawn between.
    """

    adjustment: Adjustment = UNADJUSTED
    within: np.ndarray | None = None
    cover: np.ndarray | None = None
    corners: Corners | None = None

    def __post_init__(self) -> None:
        if self.corners is not None:
            check_corners(self.corners)

    @property
    def plain(self) -> bool:
        return self.adjustment.plain and self.cover is None and self.corners is None

    def on(self, own: np.ndarray) -> np.ndarray:
        """A layer's own pixels (h, w, 4) uint8 as they are laid over; made once for the same pixels."""
        return own if self.plain else self._once("_drawn", own, self._made)

    def colours(self, own: np.ndarray) -> np.ndarray:
        """A layer's own colours (h, w, 3) uint8, adjusted; made once for the same pixels."""
        adjusted = partial(adjusted_within, a=self.adjustment, within=self.within)
        return own if self.adjustment.plain else self._once("_tinted", own, adjusted)

    def _once(self, name: str, own: np.ndarray, make: Callable[[np.ndarray], np.ndarray]) -> np.ndarray:
        held = self.__dict__.get(name)
        if held is None or held[0] is not own:
            held = own, make(own)
            object.__setattr__(self, name, held)
        return np.asarray(held[1])

    def _made(self, own: np.ndarray) -> np.ndarray:
        made = np.dstack([adjusted_within(own[..., :3], self.adjustment, self.within), self.covered(own[..., 3])])
        return made if self.corners is None else warped(made, self.corners)

    def covered(self, alpha: np.ndarray) -> np.ndarray:
        """(h, w) uint8 as much as the cover leaves of it."""
        if self.cover is None:
            return alpha
        return np.asarray((alpha.astype(np.uint16) * self.cover + 127) // 255, np.uint8)

    def scaled(self, height: int, width: int) -> Finish:
        """The same for own pixels of another size."""
        greys = [None if g is None else _resized(g, height, width) for g in (self.within, self.cover)]
        return replace(self, within=greys[0], cover=greys[1])

    def pictures(self) -> dict[str, np.ndarray]:
        """The grey pictures that a file holds of it."""
        return {name: grey for name, grey in ((WITHIN, self.within), (COVER, self.cover)) if grey is not None}

    def to_json(self) -> dict[str, Any]:
        out: dict[str, Any] = {} if self.adjustment.plain else {"adjustment": adjustment_to_json(self.adjustment)}
        return out if self.corners is None else out | {"corners": [list(p) for p in self.corners]}

    @classmethod
    def from_json(cls, d: Mapping[str, Any], shape: tuple[int, ...], pictures: Pictures) -> Finish:
        """Raises Refused when what a file says of it is damaged."""
        greys: dict[str, np.ndarray] = {}
        for name in (WITHIN, COVER):
            if name in d:
                greys[name] = pictures(taken_words(d[name], worded("A layer's mask")))
                if greys[name].shape != shape[:2]:
                    raise Refused(worded("A layer's mask has another size than the layer."))
        what = worded("A layer's adjustment")
        adjustment = adjustment_from_json(d["adjustment"], what) if "adjustment" in d else UNADJUSTED
        corners = None
        if "corners" in d:
            said = [taken_list(p, worded("A layer's corner")) for p in taken_list(d["corners"], worded("A layer's corners"))]
            if len(said) != 4 or any(len(p) != 2 for p in said):
                raise Refused(worded("A layer has four corners of two numbers each."))
            a, b, c, e = ((taken_number(x, worded("A layer's corner")), taken_number(y, worded("A layer's corner"))) for x, y in said)
            corners = (a, b, c, e)
            if min(v for p in corners for v in p) < 0:
                raise Refused(worded("A layer's corners lie outside of its place."))
        return cls(adjustment, greys.get(WITHIN), greys.get(COVER), corners)


def _resized(grey: np.ndarray, height: int, width: int) -> np.ndarray:
    return np.asarray(resize_mask(grey.astype(np.float32) / 255, height, width) * 255 + 0.5, np.uint8)


PLAIN_FINISH = Finish()
