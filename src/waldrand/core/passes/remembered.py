"""What was worked out last, under keys of what it depends on: planning asks for the same at every change."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Hashable
from threading import Lock
from typing import Generic, TypeVar

from ..packs import Pack
from ..values.layers import Layer
from ..values.sheet import Sheet

T = TypeVar("T")


class Remembered(Generic[T]):
    """The last few values; threads may share it."""

    def __init__(self, most: int) -> None:
        self._most, self._lock = most, Lock()
        self._kept: OrderedDict[Hashable, T] = OrderedDict()

    def get(self, key: Hashable) -> T | None:
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
            return self._kept.get(key)

    def put(self, key: Hashable, value: T) -> T:
        with self._lock:
            self._kept[key] = value
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)
        return value


def picture_key(sheet: Sheet, pack: Pack) -> Hashable:
    """What a pack's finder sees depends on: the picture on a sheet, and the pack."""
    seen: tuple[Layer, ...] = tuple(layer for layer in sheet.layers if layer.is_seen)
    return (sheet.width, sheet.height, seen, pack, pack.finder)
