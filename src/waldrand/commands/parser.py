"""The whole command line, put together from what there is."""

from __future__ import annotations

import argparse
import pkgutil
from collections.abc import Callable
from functools import partial
from importlib import import_module
from threading import Event
from types import ModuleType
from typing import Any

from .. import __version__, commands
from ..core.passes.kinds import KINDS
from ..core.refused import Refused
from ..packs.opened import where_of
from . import picture

#: Modules here that are no commands.
HELPERS = ("parser", "options", "picture")
Act = Callable[[argparse.Namespace, Event], int]


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> Any:
        raise Refused(f"{message[:1].upper()}{message[1:]}. See {self.prog} --help.")


def found_commands() -> dict[str, ModuleType]:
    """Every command's module, by the command's name."""
    names = [found.name for found in pkgutil.iter_modules(commands.__path__) if found.name not in HELPERS]
    return {name.strip("_").replace("_", "-"): import_module(f"{commands.__name__}.{name}") for name in names}


def build_parser() -> argparse.ArgumentParser:
    """Reads all that can be said on the command line.

    Raises:
        Refused: from `parse_args`, for what cannot be understood.
    """
    parser = _Parser(prog="waldrand", description="Place elements on a sheet, then inpaint and composite chosen areas.")
    parser.add_argument("--version", action="version", version=f"waldrand {__version__}")
    parser.add_argument("--verbose", action="store_true", help="say on the screen what is also written to the log")
    modules = found_commands()
    parser.set_defaults(act=modules["open"].act, command="", file=None, interruptible=False)
    listed = parser.add_subparsers(title="commands", metavar="COMMAND", parser_class=_Parser)

    def command(name: str, help_: str, act: Act) -> argparse.ArgumentParser:
        p = listed.add_parser(name, help=help_, description=help_)
        p.set_defaults(act=act, command=name, interruptible=name != "open")
        p.add_argument(
            "--pack",
            type=where_of,
            metavar="DIR|ADDRESS",
            help="another pack's folder, or one on a server: http://host:port/NAME, https, grpc or grpcs (default: the installed one)",
        )
        p.add_argument("--json", action="store_true", help="print one JSON object")
        p.add_argument("--verbose", action="store_true", default=argparse.SUPPRESS, help=argparse.SUPPRESS)
        return p

    for name, module in modules.items():
        module.add(command(name, module.HELP, module.act))
    served = {getattr(module, "KIND", "") for module in modules.values()}
    for kind in KINDS.values():
        if kind.offered and kind.name not in served:
            picture.add(command(kind.name, f"{kind.tip[:1].lower()}{kind.tip[1:].rstrip('.')}", partial(picture.act, kind=kind)), kind)
    return parser
