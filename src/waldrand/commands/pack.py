"""waldrand pack: tries a model pack, drafts the description of one, or gives one to other machines."""

from __future__ import annotations

import argparse
from dataclasses import asdict
from pathlib import Path
from threading import Event

from ..core.refused import Refused
from ..packs.checking import checked
from ..packs.drafting import draft
from ..packs.manifest import read_description
from ..packs.onnx_pack import own_pack_folder
from ..packs.opened import where_of
from . import OK
from .options import refuse_existing, say, writes

HELP = "check a model pack (its files, its shapes, a small pass), draft pack.toml for graphs made elsewhere, or serve one to other machines"


def add(p: argparse.ArgumentParser) -> None:
    p.add_argument(
        "what",
        choices=("check", "new", "serve"),
        help="check: tries it; new: drafts pack.toml from the graphs in the folder; serve: answers for it until Ctrl+C",
    )
    p.add_argument("folder", type=where_of, nargs="?", metavar="DIR", help="the pack's folder, or for check a server's address")
    p.add_argument("--name", help="what it is called on the server (default: as its folder)")
    p.add_argument("--host", default="127.0.0.1", help="whom it answers: 127.0.0.1 this machine alone, 0.0.0.0 everybody who reaches it")
    p.add_argument("--port", type=int, default=8080, help="for HTTP")
    p.add_argument("--grpc-port", type=int, default=8081, help="for gRPC")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    if options.what == "serve":
        return _served(options)
    folder = options.folder
    if folder is None:
        raise Refused(f"pack {options.what} needs a folder.")
    if isinstance(folder, str) and options.what == "new":
        raise Refused("pack new needs a folder with graphs; a server's pack is described there.")
    if isinstance(folder, Path) and not folder.is_dir():
        raise Refused(f"{folder} is no folder.")
    if options.what == "new":
        path = folder / "pack.toml"
        refuse_existing([path], options.force)
        path.write_text(draft(folder), "utf-8")
        say(options, {"file": str(path)}, f"{path} is drafted. Look at every line, then: waldrand pack check {folder}")
        return OK
    c = checked(folder)
    costs = (
        f"loaded in {c.loading:.1f} s; a picture of {c.side} x {c.side}: in {c.encoding:.2f} s, out {c.decoding:.2f} s, "
        f"an answer {c.answering:.2f} s; {c.megabytes:.0f} MB at the most"
    )
    say(options, asdict(c), f"{c.name} {c.version} ({c.licence}) works.", *c.can, costs)
    return OK


def _served(options: argparse.Namespace) -> int:
    """Answers for a pack until it is interrupted."""
    folder = options.folder or own_pack_folder()
    if not isinstance(folder, Path) or not folder.is_dir():
        raise Refused(f"{folder} is no folder.")
    read_description(folder)
    try:
        from ..far.serving import serve
    except ImportError as error:
        raise Refused(
            'Serving needs the package “mlserver”, which runs on Python 3.11 and 3.12: pip install "waldrand[serving]".'
        ) from error
    name = options.name or (folder.name if options.folder else "lerchenmoor")
    say(
        options,
        {"http": f"http://{options.host}:{options.port}/{name}", "grpc": f"grpc://{options.host}:{options.grpc_port}/{name}"},
        f"Serving {folder} as {name}. Elsewhere: waldrand run LAYOUT --pack grpc://{options.host}:{options.grpc_port}/{name}",
    )
    serve({name: folder}, options.host, options.port, options.grpc_port)
    return OK
