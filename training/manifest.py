"""pack.toml as the trainings write it."""

from __future__ import annotations

import hashlib
from pathlib import Path
from typing import Any

import tomli_w

from .config import HERE

#: The pack that is installed with the app.
OWN_PACK = HERE.parent / "src" / "waldrand" / "data" / "pack"


def write_manifest(out: Path, d: dict[str, Any]) -> None:
    """pack.toml with the hash of every other file."""
    files = {p.name: hashlib.sha256(p.read_bytes()).hexdigest() for p in sorted(out.iterdir()) if p.name != "pack.toml"}
    (out / "pack.toml").write_text(tomli_w.dumps(d | {"files": files}))
