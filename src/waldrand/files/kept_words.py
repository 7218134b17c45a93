"""Words that are kept under names, those used last, and the house words of a folder: for the window and for commands.

Kept words are one JSON file where the desktop keeps settings; as text they are blocks of lines: the name behind a number
sign, the words, and what is avoided behind "avoid:". A folder's house words lie in it as such a text, `house-words.txt`, so that they
go along with its sheets.
"""

from __future__ import annotations

import base64
import binascii
import io
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from PIL import Image

from ..core.fields import taken_list, taken_table, taken_words
from ..core.refused import Refused
from ..core.worded import worded
from .atomic import write_atomically
from .settings import read_table, settings_folder, write_table

LARGEST, MOST_RECENT = 16_000_000, 50
#: The longest side of a picture beside kept words, and the most bytes of it.
PICTURE_SIDE, PICTURE_BYTES = 96, 40_000
HOUSE_FILE = "house-words.txt"


@dataclass(frozen=True)
class Kept:
    """words and avoid: as they are put into fields; picture: a small PNG, empty where there is none."""

    words: str
    avoid: str = ""
    picture: bytes = b""


@dataclass(frozen=True)
class KeptWords:
    """lists: by their names; recent: what was used last, the last first."""

    lists: Mapping[str, Kept]
    recent: tuple[str, ...] = ()

    def used(self, words: str) -> KeptWords:
        """The same with some words used last of all."""
        words = words.strip()
        if not words:
            return self
        return replace(self, recent=(words, *(w for w in self.recent if w != words))[:MOST_RECENT])

    def with_list(self, name: str, kept: Kept) -> KeptWords:
        """The same with a list under a name, in place of the one that had it.

        Raises:
            Refused: a name that is none, or nothing to keep.
        """
        name = " ".join(name.split())
        if not name or "\n" in name or name.startswith("#"):
            raise Refused(worded("“{0}” is no name for words.", name))
        if not kept.words.strip() and not kept.avoid.strip():
            raise Refused(worded("There are no words to keep."))
        return replace(self, lists=dict(self.lists) | {name: kept})

    def without(self, name: str) -> KeptWords:
        return replace(self, lists={n: kept for n, kept in self.lists.items() if n != name})


def words_file() -> Path:
    return settings_folder() / "words.json"


def read_words() -> KeptWords:
    """All words that are kept; none where nothing was kept yet.

    Raises:
        Refused: the file cannot be read.
    """
    what = worded("The list of words")
    table = read_table(words_file(), LARGEST, what)
    lists = {str(name): _kept(one, what) for name, one in taken_table(table.get("lists", {}), what).items()}
    recent = tuple(taken_words(one, what) for one in taken_list(table.get("recent", []), what))
    return KeptWords(lists, recent[:MOST_RECENT])


def _kept(value: Any, what: str) -> Kept:
    d = taken_table(value, what)
    words, avoid, picture = (taken_words(d.get(k, ""), what) for k in ("words", "avoid", "picture"))
    try:
        return Kept(words, avoid, base64.b64decode(picture, validate=True))
    except (ValueError, binascii.Error):
        return Kept(words, avoid)


def write_words(kept: KeptWords) -> None:
    """Raises Refused when they cannot be written."""
    lists = {}
    for name, one in kept.lists.items():
        lists[name] = {"words": one.words, "avoid": one.avoid, "picture": base64.b64encode(one.picture).decode()}
    write_table(words_file(), {"lists": lists, "recent": list(kept.recent)})


def small_picture(rgba: Any) -> bytes:
    """A picture (H, W, 3 or 4) uint8, small, as a PNG; empty where it would be too large a file."""
    image = Image.fromarray(rgba[..., :3])
    image.thumbnail((PICTURE_SIDE, PICTURE_SIDE))
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue() if out.tell() <= PICTURE_BYTES else b""


def as_text(lists: Mapping[str, Kept]) -> str:
    """Lists as plain text, without their pictures."""
    blocks = ("\n".join((f"# {name}", one.words, *([f"avoid: {one.avoid}"] if one.avoid else []))) for name, one in lists.items())
    return "\n\n".join(blocks) + ("\n" if lists else "")


def from_text(text: str) -> dict[str, Kept]:
    """Lists from plain text; words on several lines are joined with commas.

    Raises:
        Refused: there are none in it.
    """
    out: dict[str, Kept] = {}
    name: str | None = None
    words: list[str] = []
    avoid: list[str] = []

    def close() -> None:
        if name is not None and (words or avoid):
            out[name] = Kept(", ".join(words), ", ".join(avoid))

    for line in (line.strip() for line in text.splitlines()):
        if line.startswith("#"):
            close()
            name, words, avoid = " ".join(line.lstrip("# ").split()) or None, [], []
        elif line and name is not None:
            head, colon, rest = line.partition(":")
            avoided = bool(colon) and head.strip().lower() == "avoid"
            (avoid if avoided else words).append((rest if avoided else line).strip(" ,"))
    close()
    if not out:
        raise Refused(worded("There are no words under a name in it. Write “# name” on a line, and the words below."))
    return out


def read_list(path: Path) -> dict[str, Kept]:
    """Lists from a text file.

    Raises:
        Refused: it cannot be read, or holds none.
    """
    try:
        if path.stat().st_size > LARGEST:
            raise Refused(worded("{0} is too large for a list of words.", path))
        return from_text(path.read_text("utf-8"))
    except (OSError, UnicodeDecodeError) as error:
        raise Refused(worded("{0} cannot be read as text: {1}.", path, error)) from error


def write_list(path: Path, lists: Mapping[str, Kept]) -> None:
    """Raises Refused when it cannot be written."""
    write_atomically(path, lambda f: f.write(as_text(lists).encode()))


def house_words(folder: Path | None) -> Kept:
    """The house words that sheets of a folder begin with; empty where it has none, or they cannot be read."""
    path = None if folder is None else folder / HOUSE_FILE
    if path is None or not path.is_file():
        return Kept("")
    try:
        return next(iter(read_list(path).values()))
    except Refused:
        return Kept("")


def keep_house_words(folder: Path, kept: Kept) -> None:
    """House words for all new sheets of a folder; without any words there are none any more.

    Raises:
        Refused: they cannot be written.
    """
    path = folder / HOUSE_FILE
    if kept.words or kept.avoid:
        write_list(path, {"house words": kept})
    elif path.exists():
        try:
            path.unlink()
        except OSError as error:
            raise Refused(worded("{0} cannot be removed: {1}.", path, error.strerror)) from error


def names_of(lists: Iterable[str]) -> list[str]:
    """Names as they are listed."""
    return sorted(lists, key=str.casefold)
