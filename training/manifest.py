"""pack.toml as the trainings write it."""

from __future__ import annotations

import hashlib
import tomllib
from collections.abc import Callable
from pathlib import Path
from typing import Any

import tomli_w

from .config import HERE, Config, arguments, load_config

#: The pack that is installed with the app.
OWN_PACK = HERE.parent / "src" / "waldrand" / "data" / "pack"


def write_manifest(out: Path, d: dict[str, Any]) -> None:
    """pack.toml with the hash of every other file."""
    files = {p.name: hashlib.sha256(p.read_bytes()).hexdigest() for p in sorted(out.iterdir()) if p.name != "pack.toml"}
    (out / "pack.toml").write_text(tomli_w.dumps(d | {"files": files}))


def renew(doc: str | None, part: str, write: Callable[[Config, Path], dict[str, Any]]) -> Path:
    """Writes one part of a pack anew, as asked for on the command line; the pack's folder. doc: what --help says; write: writes the part
    into a folder, and returns what the manifest says of it."""
    parser = arguments(doc)
    parser.add_argument("--out", type=Path, default=OWN_PACK)
    options = parser.parse_args()
    d = tomllib.loads((options.out / "pack.toml").read_text())
    d[part] = write(load_config(options.config, options.work), options.out)
    write_manifest(options.out, d)
    return Path(options.out)
