"""What the artist wants of the desk at all times, whatever the sheet: kept where the desktop keeps settings."""

from __future__ import annotations

import os
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, fields, replace
from pathlib import Path

from PyQt6.QtCore import QSettings

from ..packs.opened import Where, where_of
from ..packs.server import Access, access_of_environment
from .look.look import PARCHMENT, SPRUCE, Look

#: Pixels of the text: least, usual, most.
TEXT_SIZES = (12, 14, 20)
#: Files that are offered to be opened again.
MOST_RECENT = 8
LOOKS = (PARCHMENT, SPRUCE)


@dataclass(frozen=True)
class Preferences:
    """look: a look's name; names: whether tools have theirs beside their signs; text: pixels of the text; live: whether pictures form
    while the hand works; threads: that the model computes on, 0: as the pack says; folder: where files are looked for first, empty: where
    the last one was; author, rights: written into exported pictures; pack: a folder or a server's address, empty: the one that is
    installed; token, certificates: how a server lets in, and is trusted, empty: as the environment says."""

    look: str = PARCHMENT.name
    names: bool = False
    text: int = TEXT_SIZES[1]
    live: bool = True
    threads: int = 0
    folder: str = ""
    author: str = ""
    rights: str = ""
    pack: str = ""
    token: str = ""
    certificates: str = ""

    @property
    def of_look(self) -> Look:
        return next((look for look in LOOKS if look.name == self.look), PARCHMENT)

    @property
    def credits(self) -> dict[str, str]:
        """What exported pictures say of who made them, under the keywords of the PNG standard."""
        return {key: said for key, said in (("Author", self.author), ("Copyright", self.rights)) if said}

    @property
    def pack_at(self) -> Where:
        return where_of(self.pack) if self.pack else None

    @property
    def access(self) -> Access:
        """How a server is reached: as is said here, else as the environment says.

        Raises:
            Refused: the environment says what cannot be.
        """
        said = access_of_environment()
        return Access(self.token or said.token, self.certificates or said.certificates, said.wait)


def _stored() -> QSettings:
    return QSettings("Waldrand", "Waldrand")


def read_preferences() -> Preferences:
    """What was kept; what is damaged counts as if it had never been said."""
    stored, said = _stored(), Preferences()
    for f in fields(Preferences):
        usual = getattr(said, f.name)
        value = stored.value(f"preferences/{f.name}", usual)
        try:
            taken = str(value).lower() == "true" if isinstance(usual, bool) else type(usual)(value)
        except (TypeError, ValueError):
            continue
        said = replace(said, **{f.name: taken})  # type: ignore[arg-type]
    least, _, most = TEXT_SIZES
    return replace(said, text=min(max(said.text, least), most), threads=min(max(said.threads, 0), os.cpu_count() or 1))


def write_preferences(preferences: Preferences) -> None:
    stored = _stored()
    for f in fields(Preferences):
        stored.setValue(f"preferences/{f.name}", getattr(preferences, f.name))
    if preferences.token:
        # A token is nobody else's to read.
        stored.sync()
        with suppress(OSError):
            Path(stored.fileName()).chmod(0o600)


def recent_files() -> list[Path]:
    """Files opened or saved lately and still there, the last one first."""
    listed = _stored().value("recent", []) or []
    names: Sequence[object] = [listed] if isinstance(listed, str) else listed
    return [path for path in (Path(str(name)) for name in names) if path.is_file()]


def note_recent(path: Path) -> None:
    """A file was opened or saved."""
    path = path.absolute()
    rest = [p for p in recent_files() if p != path]
    _stored().setValue("recent", [str(p) for p in (path, *rest)][:MOST_RECENT])
