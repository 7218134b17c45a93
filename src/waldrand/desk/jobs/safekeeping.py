"""Unsaved work kept aside, and brought back: a file for each window, which nobody else touches while that window is open."""

from __future__ import annotations

import itertools
import os
from dataclasses import dataclass, field
from pathlib import Path

from PyQt6.QtCore import QLockFile, QStandardPaths

NAME = "unsaved-work"


def autosave_path() -> Path:
    """Where unsaved work is kept from time to time; beside it where several windows are open."""
    folder = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.AppLocalDataLocation)
    return Path(folder) / f"{NAME}.ora"


def _locked(path: Path) -> QLockFile | None:
    """The lock of a file of a window that is no more; None while a window has it."""
    lock = QLockFile(str(path.with_suffix(".lock")))
    return lock if lock.tryLock(0) else None


@dataclass
class Safe:
    """A window's own file. path: where it keeps its work; left: files that windows left behind which are no more, newest first."""

    path: Path
    left: list[Path] = field(default_factory=list)
    _lock: QLockFile | None = None

    @classmethod
    def open(cls) -> Safe:
        """Takes a file that no other window has."""
        first = autosave_path()
        first.parent.mkdir(parents=True, exist_ok=True)
        free = (first, *(first.with_name(f"{NAME}-{os.getpid()}-{i}.ora") for i in range(1000)))
        path, lock = next((path, lock) for path in free if (lock := _locked(path)) is not None)
        left = []
        for other in first.parent.glob(f"{NAME}*.ora"):
            if other != path and (theirs := _locked(other)) is not None:
                theirs.unlock()
                left.append(other)
        if path.exists():
            left.append(path)
        return cls(path, sorted(left, key=lambda p: p.stat().st_mtime, reverse=True), lock)

    def adopt(self, left: Path) -> None:
        """A file that was left behind becomes this window's own; one that was there already stands back for it."""
        if left != self.path:
            self.set_aside()
            os.replace(left, self.path)

    def set_aside(self) -> None:
        """What is in this window's file is left for another time, and the file is free."""
        if self.path.exists():
            names = (self.path.with_name(f"{NAME}-left-{i}.ora") for i in itertools.count(1))
            os.replace(self.path, next(name for name in names if not name.exists()))

    def discard(self) -> None:
        """What is kept aside is no longer needed."""
        self.path.unlink(missing_ok=True)

    def close(self) -> None:
        """Another window may use the file."""
        if self._lock is not None:
            self._lock.unlock()
            self._lock = None
