"""waldrand kept: words that are kept under names."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Event

from ..core.refused import Refused
from ..files.kept_words import Kept, names_of, read_list, read_words, write_list, write_words
from . import OK
from .options import refuse_existing, say, writes

HELP = "list words that are kept under names, add some, take them in from a text or write them into one"


def add(p: argparse.ArgumentParser) -> None:
    what = p.add_mutually_exclusive_group()
    what.add_argument("--add", metavar="NAME", help="keep words under a name, in place of what it had")
    what.add_argument("--remove", metavar="NAME", help="keep them no more")
    what.add_argument("--export", type=Path, metavar="FILE.txt", help="write all of them as text")
    what.add_argument("--import", dest="taken_in", type=Path, metavar="FILE.txt", help="take in text: “# name”, words, “avoid: words”")
    p.add_argument("--words", default="", help="with --add: the words")
    p.add_argument("--avoid", default="", help="with --add: what is avoided")
    writes(p)


def act(options: argparse.Namespace, stop: Event) -> int:
    kept = read_words()
    if options.add is not None:
        kept = kept.with_list(options.add, Kept(options.words, options.avoid))
        write_words(kept)
    elif options.remove is not None:
        if options.remove not in kept.lists:
            raise Refused(f"No words are kept as “{options.remove}”: there are {', '.join(names_of(kept.lists)) or 'none'}.")
        kept = kept.without(options.remove)
        write_words(kept)
    elif options.taken_in is not None:
        for name, one in read_list(options.taken_in).items():
            kept = kept.with_list(name, one)
        write_words(kept)
    elif options.export is not None:
        refuse_existing([options.export], options.force)
        write_list(options.export, kept.lists)
    values = {"lists": {name: {"words": one.words, "avoid": one.avoid} for name, one in kept.lists.items()}, "recent": list(kept.recent)}
    lines = []
    for name in names_of(kept.lists):
        one = kept.lists[name]
        lines.append(f"{name}: {one.words}" + (f" (avoids {one.avoid})" if one.avoid else ""))
    say(options, values, *(lines or ["No words are kept."]))
    return OK
