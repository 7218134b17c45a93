"""The typefaces of this machine, and letterings drawn with them."""

from __future__ import annotations

import os
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from pathlib import Path

import numpy as np
from PIL import ImageFont

from ..core.values.lettering import Letters, colour_of
from ..core.worded import worded
from .lettered import lettered

ENDINGS = (".ttf", ".otf", ".ttc")
#: Faces that a file of several is looked at for.
MOST_FACES = 16


@dataclass(frozen=True)
class Typeface:
    """family, style: as they are called; path: of its file; face: which of those in it."""

    family: str
    style: str
    path: Path
    face: int = 0


def _folders() -> list[Path]:
    """Where typefaces lie: ours, then those of the freedesktop.org base directories."""
    home = Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local/share")
    shared = (os.environ.get("XDG_DATA_DIRS") or "/usr/local/share:/usr/share").split(":")
    return [Path(str(files("waldrand") / "data" / "type")), home / "fonts", Path.home() / ".fonts", *(Path(p) / "fonts" for p in shared)]


@cache
def typefaces() -> tuple[Typeface, ...]:
    """All that can be drawn with, ours first; looked for once."""
    found: dict[tuple[str, str], Typeface] = {}
    for folder in _folders():
        for path in sorted(folder.rglob("*")) if folder.is_dir() else ():
            if path.suffix.lower() not in ENDINGS:
                continue
            for face in range(MOST_FACES if path.suffix.lower() == ".ttc" else 1):
                try:
                    family, style = ImageFont.truetype(str(path), 12, face).getname()
                except OSError:
                    break
                if family:
                    made = Typeface(family, style or "Regular", path, face)
                    found.setdefault((made.family, made.style), made)
    return tuple(found.values())


def families() -> list[str]:
    """The names of all families, ours first."""
    return list(dict.fromkeys(t.family for t in typefaces()))


def styles(family: str) -> list[str]:
    """The styles of a family, the plain one first."""
    return sorted((t.style for t in typefaces() if t.family == family), key=lambda s: (s != "Regular", s))


def typeface_of(family: str, style: str) -> tuple[Typeface, str]:
    """The typeface that is meant, or the nearest there is; and a sentence where it is another one."""
    own = [t for t in typefaces() if t.family.lower() == family.lower()]
    found = next((t for t in own if t.style.lower() == style.lower()), None)
    if found is not None:
        return found, ""
    other = (own or [t for t in typefaces() if t.style == "Regular"] or list(typefaces()))[0]
    missing = "The typeface {0} {1} is missing on this machine; it is drawn with {2} {3}."
    return other, worded(missing, family, style, other.family, other.style)


def draw_letters(says: Letters) -> tuple[np.ndarray, str]:
    """A lettering as (h, w, 4) uint8, and a sentence where its typeface is missing here.

    Raises:
        Refused: it has no words, no colour, or would be too large.
    """
    found, note = typeface_of(says.typeface, says.style)
    return lettered(says.words, found.path, says.size, colour_of(says.colour), says.spacing, says.leading, says.align, found.face), note
