"""The kinds of pass there are: every module here that has a KIND. Nothing outside needs to know them by name."""

from __future__ import annotations

import pkgutil
from importlib import import_module

from ...refused import Refused
from ...worded import worded
from ..kind import Kind

#: By name, in the order in which they are offered: as their modules' names sort. Another kind may be put in.
KINDS: dict[str, Kind] = {
    module.KIND.name: module.KIND
    for module in (import_module(f"{__name__}.{found.name}") for found in pkgutil.iter_modules(__path__))
    if hasattr(module, "KIND")
}
for _kind in KINDS.values():
    _kind.meet(KINDS)


def kind_of(name: str) -> Kind:
    """Raises Refused when there is no kind of pass of that name."""
    if name not in KINDS:
        raise Refused(worded("There is no kind of pass called “{0}”; choose one of {1}.", name, ", ".join(KINDS)))
    return KINDS[name]


def offered_kinds() -> tuple[Kind, ...]:
    """Those that are chosen by themselves."""
    return tuple(kind for kind in KINDS.values() if kind.offered)


def parts_kind() -> Kind:
    """What finds parts of a picture and paints each again."""
    return next(kind for kind in KINDS.values() if "parts" in kind.own)


def first_kind() -> Kind:
    """What an empty sheet is begun with."""
    return next(kind for kind in KINDS.values() if kind.hears_elements)


def mask_kind() -> Kind:
    """What a painted mask is for."""
    return next(kind for kind in KINDS.values() if kind.masked)


def empty_kind() -> Kind:
    """What an empty part of a sheet with a picture is for."""
    return next(kind for kind in KINDS.values() if kind.fills_empty)


def picture_kind() -> Kind:
    """What a whole picture that is there already is for."""
    return next(kind for kind in KINDS.values() if kind.hears_elements and "words" in kind.fields())


def tiled_kind() -> Kind:
    """What a picture that was made larger is for."""
    return next(kind for kind in KINDS.values() if kind.tiled)
