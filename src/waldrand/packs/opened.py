"""A pack of whatever format, opened."""

from __future__ import annotations

from pathlib import Path

from ..core.refused import Refused
from .foreign import ForeignPack
from .foreign_manifest import FORMAT, read_foreign
from .manifest import read_description
from .onnx_pack import THREADS, OnnxPack
from .served import served
from .server import Access, access_of_environment, is_address

#: A folder, or a server's address as it is written; None: the pack that is installed.
Where = Path | str | None


def where_of(text: str) -> Path | str:
    """A pack's place as it is written: an address stays as it is, all else is a folder."""
    return text if is_address(text) else Path(text)


def open_pack(where: Where = None, threads: int = THREADS, access: Access | None = None) -> OnnxPack | ForeignPack:
    """The pack at a place. access: how a server is reached; None: as the environment says.

    Raises:
        Refused: it is missing, damaged or no pack, or no server answers.
    """
    if where is None:
        return OnnxPack(threads=threads)
    folder, opens = Path(where), None
    if isinstance(where, str) and is_address(where):
        folder, opens = served(where, access or access_of_environment())
    text, d = read_description(folder)
    if d.get("format") != FORMAT:
        return OnnxPack(folder, threads, opens=opens)
    try:
        return ForeignPack(read_foreign(folder, text, d, threads, here=opens is None), opens)
    except Refused:
        raise
    except (KeyError, TypeError, ValueError) as error:
        raise Refused(f"{folder / 'pack.toml'} is not complete: {error} is missing or of the wrong kind.") from error
