"""Which things a phrase names: rows of word ids within others."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from ..packs import Ids


def contains(ids: Ids, part: Ids) -> bool:
    """Whether words stand in a row within others."""
    return bool(part) and any(ids[i : i + len(part)] == part for i in range(len(ids)))


def named(ids: Ids, labels: Iterable[Ids]) -> tuple[Ids, ...]:
    """The labels that a row of word ids names, in its order, longer ones first where several begin."""
    known, out, i = tuple(labels), [], 0
    while i < len(ids):
        longest = max((label for label in known if label and ids[i : i + len(label)] == label), key=len, default=())
        if longest:
            out.append(longest)
        i += max(1, len(longest))
    return tuple(out)


def said_of(known: Iterable[str], said: Iterable[str], read: Callable[[str], Ids]) -> set[str]:
    """Of some known phrases those that are said, by themselves or within others. read: a phrase's word ids."""
    rows = [read(phrase) for phrase in said]
    return {phrase for phrase in known if any(contains(ids, read(phrase)) for ids in rows)}
