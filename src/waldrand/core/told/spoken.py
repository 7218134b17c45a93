"""Things, parts and places that are spoken of, in the words that a pack and its finder know."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..packs import Finder, Pack
from ..worded import worded
from .phrasing import AT, BESIDE, BETWEEN, NUMBERS, ON, PLURALS, REGION, RELATIONS, SIDES, SMALL

#: More of a kind are not asked for in one breath.
MOST = 10


@dataclass(frozen=True)
class Named:
    """A thing that is spoken of. words: as the model shall be told it; label: the finder's; count: how many; all: every one there is;
    which: "left", "right", "upper", "lower", "largest" or "smallest" of several, "" where nothing was said; colour: that it has;
    definite: it is taken to be there already; others: labels
    that it might be as well, where the word is that of several kinds, like “boat”."""

    words: str
    label: str
    count: int = 1
    all: bool = False
    which: str = ""
    colour: str = ""
    definite: bool = True
    others: tuple[str, ...] = ()


@dataclass(frozen=True)
class Place:
    """relation: one of the ten of `phrasing`; of: what it relates to; at: with AT where on the picture, in shares, None: anywhere along
    that side; much: how far, for moves: 1 a usual step."""

    relation: str
    of: tuple[Named, ...] = ()
    at: tuple[float | None, float | None] = (None, None)
    much: float = 1.0


class Odd(Exception):
    """A clause that is not understood: why."""


class Spoken:
    """Reads what is spoken of; what was spoken of last is "it"."""

    def __init__(self, pack: Pack) -> None:
        self._pack = pack
        self._finder: Finder | None = pack.finder
        self._last: Named | None = None

    def _regular(self, word: str) -> str:
        """A plural that the pack's words do not have, with a plain s behind a singular that they have."""
        bare = word.rstrip(",.;!")
        if bare in PLURALS or (bare.endswith("s") and self._pack.read(bare)[1]):
            ends = (("ies", "y"), ("ves", "f"), ("ves", "fe"), ("es", ""))
            singulars = [PLURALS.get(bare, bare), *(bare.removesuffix(a) + b for a, b in ends if bare.endswith(a))]
            for one in singulars:
                if one != bare and not self._pack.read(one)[1]:
                    return f"{one}s{word[len(bare) :]}"
        return word

    def _ids(self, text: str) -> tuple[int, ...]:
        return tuple(self._pack.read(text)[0])

    def _is_said(self, text: str) -> bool:
        """Whether every word of it is known."""
        ids, unknown = self._pack.read(text)
        return bool(ids) and not unknown

    def _is_whole(self, text: str) -> bool:
        """Whether it describes a whole picture."""
        if self._finder is None or not self._is_said(text):
            return False
        known = {self._ids(p) for p in self._finder.whole} | {self._ids(p) for p in self._finder.grounds}
        ids = self._ids(text)
        return any(ids[i : i + len(p)] == p for p in known if p for i in range(len(ids)))

    def _unknown(self, text: str) -> str:
        """Why words are not understood, with the nearest that would be."""
        _, unknown = self._pack.read(text)
        if not text:
            return worded("It does not say what.")
        if not unknown:
            return worded("“{0}” names no thing that can be told apart.", text)
        first = unknown[0]
        near = worded("; the nearest that is known: {0}", ", ".join(first.nearest)) if first.nearest else ""
        return worded("“{0}” is not known{1}.", first.word, near)

    # --- things and places

    def _labels(self, text: str) -> tuple[int, ...]:
        if self._finder is None:
            return ()
        return self._finder.labels_of(without_articles(text)) or self._kinds_of(without_articles(text))

    def _kinds_of(self, text: str) -> tuple[int, ...]:
        """The labels of things whose last word a phrase ends with: a boat is a rowing boat or a sailing boat."""
        ids, finder = self._ids(text), self._finder
        if not ids or finder is None:
            return ()
        found = [
            i
            for i, label in enumerate(finder.labels)
            if label not in finder.traits and len(own := self._ids(label)) > 1 and own[-1:] == ids[-1:]
        ]
        if not found:
            return ()
        said = {j for j, label in enumerate(finder.labels) if label in finder.traits and self._ids(label) and self._ids(label)[0] in ids}
        return (*found, *sorted(said))

    def _part(self, text: str) -> tuple[str, str]:
        """The part of a thing that words name, and what else they say; nothing where they name none."""
        if self._finder is None:
            return "", text
        part, rest = self._finder.part_of(without_articles(text))
        return ("", text) if part is None else (self._finder.labels[part], rest)

    def _pieces(self, text: str) -> list[str]:
        """A list with commas and "and"."""
        return [piece.strip() for piece in re.split(r",\s*(?:and\s+)?|\s+and\s+", text) if piece.strip()]

    def _things(self, text: str) -> list[Named]:
        """All things of a list."""
        text = text.strip()
        if re.fullmatch(r"it|them|this|that", text):
            if self._last is None:
                raise Odd(worded("“{0}” could be anything: name the thing.", text))
            return [self._last]
        out = [self._thing(piece) for piece in self._pieces(text)]
        if not out:
            raise Odd(worded("It does not say what."))
        return out

    def _thing(self, text: str) -> Named:
        side = re.fullmatch(r"(.+?)\s+(?:on|at|to)\s+the\s+(left|right|top|bottom)(?:\s+side)?", text)
        if side:
            of_sides = {"top": "upper", "bottom": "lower"}
            return replace(self._thing(side[1]), which=of_sides.get(side[2], side[2]))
        words = text.split()
        all_ = bool(words) and (words[0] in ("all", "every", "both") or words[:1] == ["each"])
        definite = bool(re.match(r"(?:the|this|that|these|those|all|both|every|each|my|our|his|her|its)\b", text))
        count, which = 1, ""
        kept: list[str] = []
        for i, word in enumerate(words):
            if word.isdigit() and i < 3:
                count = int(word)
            elif word in NUMBERS and i < 3 and not kept:
                count = NUMBERS[word]
            elif word in ("left", "right", "upper", "lower", "leftmost", "rightmost") and not kept and i < len(words) - 1:
                which = word.removesuffix("most")
            elif word in ("largest", "biggest", "smallest", "larger", "smaller") and not kept and i < len(words) - 1:
                which = "smallest" if word.startswith("small") else "largest"
            elif word not in SMALL and word not in ("more", "new", "other"):
                kept.append(word)
        phrase = " ".join(kept)
        labels = self._labels(phrase)
        if self._finder is None:
            raise Odd(worded("The model has no finder, so nothing in the picture can be named."))
        if not labels:
            raise Odd(self._unknown(phrase))
        if count > MOST:
            raise Odd(worded("{0} are too many at a time: at most {1}.", count, MOST))
        label = self._finder.labels[labels[0]]
        colour = next((self._finder.labels[j] for j in labels[1:] if self._finder.labels[j] in self._finder.colours), "")
        others = tuple(self._finder.labels[j] for j in labels[1:] if self._finder.labels[j] not in self._finder.traits)
        plural = kept[-1].endswith("s") and not label.endswith("s") and definite and count == 1
        return Named(_singular(phrase, label, kept), label, count, all_ or plural, which, colour, definite, others)

    def _new(self, text: str) -> str:
        """What something shall become, as the model is told it."""
        return self._thing(text).words

    def _placed(self, text: str) -> tuple[str, Place | None]:
        """What is spoken of, and where it shall be; None where nothing was said of that."""
        region = REGION.search(text)
        found = [(m.start(), m, relation) for pattern, relation in RELATIONS for m in pattern.finditer(text) if m.start()]
        for start, match, relation in sorted(found, key=lambda one: (one[0], -len(one[1][0]))):
            if region and region.start() <= start < region.end():
                continue
            rest = text[match.end() :].strip()
            if not rest:
                continue
            if relation == BETWEEN:
                of = self._things(rest)
                if len(of) == 1 and (of[0].all or of[0].count > 1):
                    of = [replace(of[0], which="left", all=False), replace(of[0], which="right", all=False)]
                if len(of) != 2:
                    raise Odd(worded("“between” needs two things: between the birch and the cottage."))
                return text[:start].strip(), Place(BETWEEN, tuple(of))
            try:
                of = self._things(rest)[:1]
            except Odd:
                if relation in (ON, BESIDE):
                    # "on" and "at" stand in phrases too; if nothing else is found, it is said then.
                    continue
                raise
            return text[:start].strip(), Place(relation, tuple(of))
        if region:
            x: float | None = None
            y: float | None = None
            for word in re.split(r"[\s-]+", region[1]):
                sx, sy = SIDES[word]
                x, y = (sx if sx is not None else x), (sy if sy is not None else y)
            if region[1] in ("middle", "centre", "center"):
                y = 0.5
            return text[: region.start()].strip() or text[region.end() :].strip(), Place(AT, (), (x, y))
        tail = [m for pattern, _ in RELATIONS for m in pattern.finditer(text) if m.start()]
        if tail:
            rest = text[min(tail, key=lambda m: m.start()).end() :].strip()
            if rest:
                raise Odd(self._unknown(without_articles(rest)))
        return text.strip(), None


def without_articles(text: str) -> str:
    """Words without articles."""
    return " ".join(w for w in text.split() if w not in ("the", "a", "an", "its", "some"))


def _singular(phrase: str, label: str, words: Sequence[str]) -> str:
    """The phrase of one thing, where several were named: its last word as the finder calls it."""
    name = label.split()
    if words and words[-1] != name[-1] and words[-1].endswith("s") and words[-1].startswith(name[-1][:-1]):
        return " ".join((*words[:-1], name[-1]))
    return phrase
