"""waldrand words: what the model knows."""

from __future__ import annotations

import argparse
from threading import Event

from ..packs.foreign import ForeignPack
from . import OK
from .options import pack_of, say

HELP = "list what the model knows"


def add(p: argparse.ArgumentParser) -> None:
    """It takes nothing else."""


def act(options: argparse.Namespace, stop: Event) -> int:
    pack = pack_of(options)
    if isinstance(pack, ForeignPack):
        say(options, {"groups": {}, "synonyms": {}}, f"{pack.info.name} reads whole texts: it has no list of words.")
        return OK
    words = pack.words
    same: dict[str, list[str]] = {}
    for written, own in words.synonyms.items():
        same.setdefault(own, []).append(written)
    lines = []
    for group, known in words.groups.items():
        lines.append(f"{group}:")
        lines += [f"  {w}" + (f"  (also: {', '.join(same[w])})" if w in same else "") for w in known]
    say(options, {"groups": {g: list(k) for g, k in words.groups.items()}, "synonyms": words.synonyms}, *lines)
    return OK
