"""A pack on a server: its own few files are fetched once and kept, its graphs are asked where they are."""

from __future__ import annotations

import hashlib
import os
import re
import tomllib
from pathlib import Path

import numpy as np

from ..core.refused import Refused
from ..core.worded import worded
from .manifest import LARGEST_MANIFEST, digest_of, held
from .server import CONTENT, FILE, PLATFORM, VERSION, Access, Address, ServedSession, Server, address_of
from .sessions import Opens, Session

DESCRIPTION = "pack.toml"
#: Bytes of one of a pack's own files that are fetched at most.
LARGEST = 64_000_000


def served_folder() -> Path:
    """Where files of packs on servers are kept."""
    return Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache") / "waldrand" / "served"


def version_of(digest: str) -> str:
    """A pack's version to a server: whoever asks for another is told that it is not there."""
    return digest[:16]


def model_of(name: str, graph: str) -> str:
    """What a graph of a pack is called on a server."""
    return f"{name}.{graph}"


def served(text: str, access: Access) -> tuple[Path, Opens]:
    """Of the pack at an address: the folder with what of it is needed here, and who has its graphs ready.

    Raises:
        Refused: no server answers there, it has no such pack, or speaks another version.
    """
    address = address_of(text)
    server = Server(address, access)
    files = _Files(server, address)
    folder, version = files.fetched()

    def opens(graph: str) -> Session:
        model = model_of(address.name, graph)
        return ServedSession(server, model, version, server.described(model, version))

    return folder, opens


class _Files:
    """The files that a pack's own model gives."""

    def __init__(self, server: Server, address: Address) -> None:
        self._server, self._name = server, address.name
        self._ports = server.described(address.name)
        said = re.fullmatch(rf"{PLATFORM}-(\d+)", self._ports.platform)
        if said is None:
            raise Refused(worded("{0} on the server at {1} is no pack of Waldrand's.", address.name, address.server))
        if int(said[1]) != VERSION:
            raise Refused(
                worded(
                    "The server at {0} is of another version: it speaks version {1} of what packs are asked in, and this Waldrand {2}.",
                    address.server,
                    said[1],
                    VERSION,
                )
            )

    def _content(self, name: str, largest: int) -> bytes:
        asked = np.frombuffer(name.encode(), np.uint8)
        got = self._server.infer(self._name, "", self._ports, {FILE: asked}, [CONTENT])[0].tobytes()
        if len(got) > largest:
            raise Refused(worded("The server's file {0} is far too large.", name))
        return got

    def fetched(self) -> tuple[Path, str]:
        """The folder with what is needed here, and the pack's version to the server."""
        text = self._content(DESCRIPTION, LARGEST_MANIFEST)
        try:
            listed = {str(name): str(digest) for name, digest in tomllib.loads(text.decode("utf-8"))["files"].items()}
        except (tomllib.TOMLDecodeError, UnicodeDecodeError, KeyError, AttributeError) as error:
            raise Refused(worded("The server at {0} answered nonsense for {1}.", self._server.address.server, self._name)) from error
        digest = digest_of(text.decode("utf-8"), listed)
        folder = served_folder() / digest
        folder.mkdir(parents=True, exist_ok=True)
        for name, known in listed.items():
            if held(name):
                continue
            if Path(name).name != name or name.startswith("."):
                raise Refused(f"The pack in {folder} names a file outside itself: {name}")
            path = folder / name
            if not path.is_file() or hashlib.sha256(path.read_bytes()).hexdigest() != known:
                path.write_bytes(self._content(name, LARGEST))
        (folder / DESCRIPTION).write_bytes(text)
        return folder, version_of(digest)
