"""Tiles of passes that were stopped, kept as files where the desktop keeps what may be thrown away."""

from __future__ import annotations

import os
import re
from contextlib import suppress
from pathlib import Path

import numpy as np

from ..core.refused import Refused
from .atomic import write_atomically

#: Bytes of tiles that are kept at most; the oldest go first.
MOST = 1_000_000_000


def tiles_folder() -> Path:
    return Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache") / "waldrand" / "tiles"


class TileFiles:
    """A file for each tile, its plain bytes. What cannot be read or written is as if it had never been kept. Threads may share it."""

    def __init__(self, folder: Path | None = None, most: int = MOST) -> None:
        self._folder, self._most = folder or tiles_folder(), most

    def _file(self, key: str) -> Path:
        if not re.fullmatch(r"[0-9a-f]{64}", key):
            raise ValueError(f"{key!r} is no key of a tile.")
        return self._folder / f"{key}.rgb"

    def get(self, key: str, shape: tuple[int, ...]) -> np.ndarray | None:
        """A tile's pixels, uint8; None where there are none of that shape."""
        try:
            kept = self._file(key).read_bytes()
        except OSError:
            return None
        return np.frombuffer(kept, np.uint8).reshape(shape).copy() if len(kept) == int(np.prod(shape)) else None

    def put(self, key: str, pixels: np.ndarray) -> None:
        """Keeps a tile, and lets the oldest go where there are too many."""
        # Without it a stopped pass only begins anew.
        with suppress(OSError, Refused):
            self._folder.mkdir(parents=True, exist_ok=True)
            write_atomically(self._file(key), lambda f: f.write(np.ascontiguousarray(pixels, np.uint8).tobytes()))
            self._tidy()

    def _tidy(self) -> None:
        files = sorted(((f.stat().st_mtime, f.stat().st_size, f) for f in self._folder.glob("*.rgb")), reverse=True)
        total = 0
        for _, size, file in files:
            total += size
            if total > self._most:
                file.unlink(missing_ok=True)
