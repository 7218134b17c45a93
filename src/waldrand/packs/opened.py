"""A pack of whatever format, opened."""

from __future__ import annotations

from pathlib import Path

from ..core.refused import Refused
from .foreign import ForeignPack
from .foreign_manifest import FORMAT, read_foreign
from .manifest import read_description
from .onnx_pack import THREADS, OnnxPack


def open_pack(folder: Path | None = None, threads: int = THREADS) -> OnnxPack | ForeignPack:
    """The pack in a folder; None: the one that is installed.

    Raises:
        Refused: it is missing, damaged or no pack.
    """
    if folder is None:
        return OnnxPack(threads=threads)
    text, d = read_description(folder)
    if d.get("format") != FORMAT:
        return OnnxPack(folder, threads)
    try:
        return ForeignPack(read_foreign(folder, text, d, threads))
    except (KeyError, TypeError, ValueError) as error:
        raise Refused(f"{folder / 'pack.toml'} is not complete: {error} is missing or of the wrong kind.") from error
