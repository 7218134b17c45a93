"""The packs and add-ons that are installed: ours, and folders where the desktop keeps programs' data."""

from __future__ import annotations

import os
from dataclasses import dataclass
from importlib.resources import files
from pathlib import Path

from ..core.refused import Refused
from .manifest import read_description


@dataclass(frozen=True)
class Installed:
    """folder: empty for the one that comes with the app; name and version as it says of itself."""

    folder: str
    name: str
    version: str


def _data() -> Path:
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local/share") / "waldrand"


def packs_folder() -> Path:
    """Where packs are put to be offered."""
    return _data() / "packs"


def add_ons_folder() -> Path:
    """Where add-ons are put to be offered."""
    return _data() / "add-ons"


def installed_add_ons() -> dict[str, Path]:
    """Files of add-ons by name: those that came with the app, and those put beside them, which come first where names are alike."""
    folders = (Path(str(files("waldrand") / "data" / "add-ons")), add_ons_folder())
    return {path.stem: path for folder in folders if folder.is_dir() for path in sorted(folder.glob("*.safetensors"))}


def installed_packs() -> list[Installed]:
    """All that are there and say what they are; what is damaged is left out."""
    out = []
    folder = packs_folder()
    for one in sorted(folder.iterdir()) if folder.is_dir() else ():
        try:
            _, d = read_description(one)
        except Refused:
            continue
        out.append(Installed(str(one), str(d.get("name", one.name)), str(d.get("version", ""))))
    return out
