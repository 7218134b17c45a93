"""How far a layer was brought to what lies below it, and what that changed: the layer's own pixels stay as they were made."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..fields import taken_number, taken_words
from ..picture.resample import resize_mask
from ..refused import Refused
from ..worded import worded

#: Grey pictures in a file: by how much each value is more, or less, than the layer's own; the three colours below one another.
MORE, LESS = "more", "less"


@dataclass(frozen=True, eq=False)
class Brought:
    """match, seamless: 0..1, see picture.matching; change: (h, w, 3) int16 that is added to the layer's own pixels, None: nothing.

    Raises:
        Refused: an amount outside 0..1.
    """

    match: float = 0.0
    seamless: float = 0.0
    change: np.ndarray | None = None

    def __post_init__(self) -> None:
        for name, v in (("match", self.match), ("seamless", self.seamless)):
            if not 0 <= v <= 1:
                raise Refused(worded("“{0}” of a layer goes from 0 to 1; {1:g} is outside.", name, v))

    def on(self, own: np.ndarray, part: tuple[slice, slice] = (slice(None), slice(None))) -> np.ndarray:
        """A layer's own pixels (h, w, 3) uint8, or those of a part of it, as they are shown."""
        return own if self.change is None else np.asarray(np.clip(own.astype(np.int16) + self.change[part], 0, 255), np.uint8)

    def off(self, shown: np.ndarray) -> np.ndarray:
        """The layer's own pixels from those that are shown, (h, w, 3 or 4) uint8."""
        if self.change is None:
            return shown
        own = shown.copy()
        own[..., :3] = np.clip(shown[..., :3].astype(np.int16) - self.change, 0, 255)
        return own

    def scaled(self, height: int, width: int) -> Brought:
        if self.change is None:
            return self
        # Resampled as two pictures, since a difference goes both ways.
        parts = [np.maximum(sign * self.change, 0).astype(np.float32) / 255 for sign in (1, -1)]
        more, less = (np.stack([resize_mask(p[..., c], height, width) for c in range(3)], -1) for p in parts)
        return Brought(self.match, self.seamless, np.round(255 * (more - less)).astype(np.int16))

    def pictures(self) -> Mapping[str, np.ndarray]:
        """The grey pictures that a file holds of it."""
        if self.change is None:
            return {}
        upright = np.concatenate([self.change[..., c] for c in range(3)])
        return {name: np.maximum(sign * upright, 0).astype(np.uint8) for name, sign in ((MORE, 1), (LESS, -1))}

    def to_json(self) -> dict[str, Any]:
        return {} if self.change is None else {"match": self.match, "seamless": self.seamless}

    @classmethod
    def from_json(cls, d: Mapping[str, Any], shape: tuple[int, ...], pictures: Callable[[str], np.ndarray]) -> Brought:
        """Raises Refused when what a file says of it is damaged."""
        if MORE not in d and LESS not in d:
            return PLAIN
        change = np.zeros((*shape[:2], 3), np.int16)
        for name, sign in ((MORE, 1), (LESS, -1)):
            grey = pictures(taken_words(d.get(name, ""), worded("A layer's change")))
            if grey.shape != (3 * shape[0], shape[1]):
                raise Refused(worded("A layer's change has another size than the layer."))
            change += sign * np.stack(np.split(grey.astype(np.int16), 3), -1)
        match, seamless = (taken_number(d.get(k, 0.0), worded("A layer's {0}", k)) for k in ("match", "seamless"))
        return cls(match, seamless, change)


PLAIN = Brought()
