"""A small grammar for what shall be done to a picture: one sentence, or several, into wishes about things, colours and places.

Sentences are cut into clauses where a verb follows a comma, "and" or "then". A clause is a verb, what it is done to, and where, or what it
shall become. Things, parts and colours are those that a pack's finder knows; everything else is asked of the pack's words.
"""

from __future__ import annotations

import difflib
import re
from dataclasses import dataclass, replace

from ..packs import Pack
from ..worded import worded
from .phrasing import AT, BESIDE, CUT, EVERYTHING, GONE, INSTEAD, LITTLE, MUCH, POLITE, SHALL, SIZES, STANDING, VERBS, WAYS, WISHED
from .spoken import Named, Odd, Place, Spoken, without_articles

#: What can be wished for.
ADD, REMOVE, ALTER, REPLACE, MOVE, SIZE, WHOLE, TOUCH = "add", "remove", "alter", "replace", "move", "size", "whole", "touch"


@dataclass(frozen=True)
class Wish:
    """verb: one of the eight above; said: the clause; thing: what it is about, None: the whole, or, after an earlier wish, what that made;
    new: what it shall become, or what is said of it; place; times: how many times as large; part: of the thing, that is changed."""

    verb: str
    said: str
    thing: Named | None = None
    new: str = ""
    place: Place | None = None
    times: float = 1.0
    part: str = ""


@dataclass(frozen=True)
class Unclear:
    """A clause that was not understood, why, and what would be."""

    said: str
    why: str


@dataclass(frozen=True)
class Sentence:
    """What was understood, in its order, and what was not."""

    wishes: tuple[Wish, ...]
    unclear: tuple[Unclear, ...]


def read_sentence(text: str, pack: Pack) -> Sentence:
    """What a sentence wishes. Nothing is refused: what is not understood is told."""
    return _Reader(pack).read(text)


class _Reader(Spoken):
    """Reads clause after clause."""

    def read(self, text: str) -> Sentence:
        wishes: list[Wish] = []
        unclear: list[Unclear] = []
        plain = " ".join(map(self._regular, re.sub(r"[“”\"?]", "", text.lower().replace("’", "'")).split()))
        for clause in CUT.split(INSTEAD.sub(r"replace \1 with ", plain)):
            said = POLITE.sub("", clause.strip(" ,.!")).strip()
            if not said:
                continue
            try:
                for wish in self._clause(said):
                    wishes.append(wish)
                    if wish.thing is not None:
                        self._last = replace(wish.thing, words=wish.new or wish.thing.words) if wish.verb == REPLACE else wish.thing
            except Odd as odd:
                unclear.append(Unclear(said, str(odd)))
        return Sentence(tuple(wishes), tuple(unclear))

    # --- clauses

    def _clause(self, said: str) -> list[Wish]:
        if shall := SHALL.fullmatch(said):
            # "The fence has to go", "the tent should be yellow".
            return self._clause(f"remove {shall[1]}" if GONE.match(shall[2]) else f"make {shall[1]} {shall[2]}")
        if wished := WISHED.fullmatch(said):
            return self._clause(f"make {wished[1]} {wished[2]}")
        if standing := STANDING.fullmatch(said):
            return self._clause(f"add {standing[1]} {standing[2]}")
        first = (self._adding,) if said.startswith("let there be") else ()
        for read in (
            *first,
            self._removing,
            self._replacing,
            self._touching,
            self._moving,
            self._sizing,
            self._giving,
            self._making,
            self._adding,
        ):
            found = read(said)
            if found:
                return [replace(wish, said=said) for wish in found]
        word = said.split()[0]
        near = difflib.get_close_matches(word, VERBS, 1, 0.6)
        if near and near[0] != word:
            raise Odd(worded("“{0}” is not understood; did you mean “{1}”?", word, near[0]))
        raise Odd(worded("It says nothing of what shall be done: begin with add, take away, make, turn, move or replace."))

    def _removing(self, said: str) -> list[Wish]:
        for pattern in (
            r"(?:remove|delete|erase|clear away|wipe out|wipe away|hide|cut out|take away|take out|take off|get rid of|drop|cut|clear|lose)"
            r"\s+(.+)",
            r"take\s+(.+?)\s+(?:away|out|off)(?:\s+.*)?",
            r"(?:let|make|have)\s+(.+?)\s+(disappear|vanish|go|go away|leave|be gone)",
            r"i\s+(?:do not|don't|no longer)\s+(?:want|need|like)\s+(.+)",
            r"(?:there\s+should\s+be\s+)?no\s+(?:more\s+)?(.+)",
        ):
            if match := re.fullmatch(pattern, said):
                what = re.sub(
                    r"\s+(?:from|out of)\s+(?:it|the\s+(?:picture|scene|image|sheet))$|\s+(?:please|entirely|completely)$", "", match[1]
                )
                plural = not re.match(r"(?:a|an|one|two|three|the)\b", what) and what.endswith("s")
                return [Wish(REMOVE, said, replace(thing, all=thing.all or plural)) for thing in self._things(what)]
        return []

    def _replacing(self, said: str) -> list[Wish]:
        for pattern in (
            r"make\s+(?P<new>an?\s+.+?)\s+(?:out\s+of|from)\s+(?P<old>.+)",
            r"(?:replace|substitute|exchange|swap|switch)\s+(.+?)\s+(?:with|by|for|against|to)\s+(.+)",
            r"(?:turn|change|transform|convert|make)\s+(.+?)\s+in(?:to)?\s+(?!the\b)(.+)",
            r"(?:change)\s+(.+?)\s+to\s+(.+)",
            r"(?:make)\s+(.+?)\s+(?:be\s+)?(an?\s+.+)",
            r"(?:have|let)\s+(.+?)\s+(?:be|become)\s+(an?\s+.+)",
        ):
            match = re.fullmatch(pattern, said)
            if match is not None and "old" in match.groupdict():
                return [Wish(REPLACE, said, thing, self._new(match["new"])) for thing in self._things(match["old"])]
            if match is None or re.fullmatch(EVERYTHING, match[1]) or "colour of" in match[1] or "color of" in match[1]:
                continue
            if re.match(r"an?\s+(?:bit|little|lot|touch)\b", match[2]) or not self._labels(match[2]):
                continue
            return [Wish(REPLACE, said, thing, self._new(match[2])) for thing in self._things(match[1])]
        if match := re.fullmatch(
            r"(?:put|paint|draw|place|set|i want|show|use|add)\s+(.+?)\s+"
            r"(?:instead\s+of|in\s+place\s+of|where)\s+(.+?)(?:\s+(?:is|was|stands|are))?",
            said,
        ):
            return [Wish(REPLACE, said, thing, self._new(match[1])) for thing in self._things(match[2])]
        return []

    def _touching(self, said: str) -> list[Wish]:
        match = re.fullmatch(
            r"(?:touch\s+up|sharpen|repaint|redo|improve|fix|retouch|refine)\s+(.+?)(?:\s+(?:up|again|from near|from nearer))?", said
        )
        if match is None:
            return []
        out = []
        for piece in self._pieces(match[1]):
            bare = without_articles(re.sub(r"^(.+?)\s+of\s+(?:the\s+)?(.+)$", r"\2 \1", piece))
            part, of = self._part(bare)
            if not part and not self._labels(bare):
                raise Odd(self._unknown(bare))
            out.append(Wish(TOUCH, said, None, part=f"{of} {part}".strip() if part else self._new(piece)))
        return out

    def _moving(self, said: str) -> list[Wish]:
        if match := re.fullmatch(r"(raise|lift|lower)\s+(.+?)(\s+(?:a\s+(?:little|bit)|slightly|up|down|higher))*", said):
            much = 0.5 if LITTLE.search(said) else 1.0
            at = (None, -1.0 if match[1] != "lower" else 1.0)
            what = LITTLE.sub("", match[2]).strip()
            return [Wish(MOVE, said, thing, place=Place(AT, (), at, much)) for thing in self._things(what)]
        match = re.fullmatch(r"(move|shift|push|pull|drag|slide|bring|carry|nudge|put|place|set)\s+(.+)", said)
        if match is None:
            return []
        rest = match[2]
        if match[1] in ("put", "place", "set", "bring") and not re.match(r"(?:the|this|that|it|them|these|those|his|her|its)\b", rest):
            return []
        much = 0.5 if LITTLE.search(rest) else 1.8 if MUCH.search(rest) else 1.0
        plain = MUCH.sub("", LITTLE.sub("", rest))
        way = re.search(
            r"(?:^|\s)(?:to\s+the\s+|towards?\s+the\s+)?(" + "|".join(WAYS) + r")(?!\s+(?:of|side\s+of|edge|corner|half|\w+\s+of))\s*$",
            plain,
        )
        if way and not re.search(r"\b(?:in|into|at|on)\s+the\s+$", plain[: way.start(1)]):
            dx, dy = WAYS[way[1]]
            place = Place(AT, (), (float(dx) or None, float(dy) or None), much)
            return [Wish(MOVE, said, thing, place=place) for thing in self._things(plain[: way.start()])]
        what, found = self._placed(plain)
        if found is None:
            raise Odd(worded("It does not say where to: to the left, higher, next to the birch, into the upper right corner."))
        return [Wish(MOVE, said, thing, place=found) for thing in self._things(what)]

    def _sizing(self, said: str) -> list[Wish]:
        if match := re.fullmatch(
            r"(enlarge|grow|shrink|double|halve|scale)\s+(?:the\s+size\s+of\s+)?(.+?)(?:\s+by\s+(?:a\s+factor\s+of\s+)?([\d.]+)(?:\s+times)?)?(?:\s+(?:a\s+(?:little|bit)|up|down))*",
            said,
        ):
            times = {"enlarge": 1.4, "grow": 1.4, "shrink": 0.7, "double": 2.0, "halve": 0.5, "scale": 1.4}[match[1]]
            if match[3]:
                times = float(match[3]) if match[1] != "shrink" else 1 / max(0.1, float(match[3]))
            return [Wish(SIZE, said, thing, times=min(4.0, max(0.2, times))) for thing in self._things(match[2])]
        sizes = "|".join(SIZES)
        match = re.fullmatch(
            rf"(?:make|let|turn|have)\s+(.+?)\s+(?:be\s+)?((?:a\s+(?:little|bit|lot)|slightly|much|far|twice|half|three\s+times)\s+(?:as\s+)?)?({sizes})",
            said,
        )
        if match is None or (re.fullmatch(EVERYTHING, match[1]) and self._last is None):
            return []
        how, times = (match[2] or "").strip(), SIZES[match[3]]
        if how.startswith(("twice", "half", "three")):
            times = 2.0 if how.startswith("twice") else 3.0 if how.startswith("three") else 0.5
        elif LITTLE.search(how):
            times = times**0.5
        elif how:
            times = times**1.7
        return [Wish(SIZE, said, thing, times=min(4.0, max(0.2, times))) for thing in self._things(match[1])]

    def _giving(self, said: str) -> list[Wish]:
        match = re.fullmatch(r"(?:give)\s+((?:the|this|that|her|him|it|them|all|both|every)\b.*?)\s+((?:an?\s+)?\S+(?:\s+\S+)?)", said)
        colour = re.fullmatch(
            r"(?:make|paint|colour|color|dye|turn|change)\s+(?:the\s+)?(\S+?)(?:'s)?\s+(?:of\s+(?:the\s+)?)?(\S+)\s+(?:to\s+|into\s+)?(\S+)",
            said,
        )
        if colour and not match:
            # "the girl's hair red", "the hair of the girl red", "the cottage roof red".
            for part, owner in ((colour[2], colour[1]), (colour[1], colour[2])):
                name, _ = self._part(part)
                if name and self._labels(owner.removesuffix("'s")) and self._is_said(colour[3]):
                    thing = self._thing(f"the {owner.removesuffix(chr(39) + 's')}")
                    return [Wish(TOUCH, said, thing, f"{colour[3]} {name}", part=f"{thing.label} {name}")]
        if match is None:
            return []
        bare = without_articles(match[2])
        part, _ = self._part(bare)
        if not part:
            raise Odd(self._unknown(bare))
        return [Wish(TOUCH, said, thing, bare, part=f"{thing.label} {part}") for thing in self._things(match[1])]

    def _making(self, said: str) -> list[Wish]:
        if match := re.fullmatch(r"(?:change|turn|set)\s+(?:the\s+)?colou?r\s+of\s+(.+?)\s+(?:in)?to\s+(.+)", said):
            return self._altered(said, match[1], match[2])
        if match := re.fullmatch(
            rf"(?:make|turn|change|let|have|set|convert|paint|draw|show)\s+{EVERYTHING}\s+(?:be\s+|become\s+|look\s+like\s+|look\s+)?(?:in\s+|into\s+|to\s+|as\s+)?(.+)",
            said,
        ):
            if self._last is not None and re.match(r"\w+\s+it\b", said) and not self._is_whole(match[1]):
                return [Wish(ALTER, said, self._last, self._said_of(match[1]))]
            return [self._of_whole(said, match[1])]
        if match := re.fullmatch(
            r"let\s+it\s+(.+)|it\s+(?:should|shall|must|has\s+to|is\s+to)\s+(?:be\s+)?(.+)|it(?:'s|\s+is)\s+(.+)", said
        ):
            return [self._of_whole(said, next(g for g in match.groups() if g))]
        if match := re.fullmatch(r"(?:make|paint|colour|color|dye|tint|turn|recolour|recolor|change|let|have)\s+(.+)", said):
            words = re.sub(r"\s+(?:be|become|in|into|to)\s+(?=\S+(?:\s+\S+)?$)", " ", match[1]).split()
            # The longest beginning that names a thing is what it is about; what follows is said of it.
            for cut in range(len(words) - 1, 0, -1):
                about, new = " ".join(words[:cut]), " ".join(words[cut:])
                if (self._labels(without_articles(about)) or about in ("it", "them")) and self._is_said(new) and not self._labels(new):
                    return self._altered(said, about, new)
            if re.match(r"(?:the|this|that|all|both|every)\b", match[1]) and not self._labels(without_articles(match[1])):
                raise Odd(self._unknown(without_articles(" ".join(words[:-1])) or match[1]))
        return []

    def _adding(self, said: str) -> list[Wish]:
        match = re.fullmatch(
            r"(?:add|put\s+in|put|place|draw|paint\s+in|paint|insert|bring\s+in|bring|plant|give\s+me|(?:i|we)\s+(?:want|need|would\s+like)|i'd\s+like|show|set"
            r"|there\s+(?:should|shall|must)\s+be|there\s+is|there\s+are|let\s+there\s+be|have)\s+(.+)",
            said,
        )
        if match is None:
            if copy := re.fullmatch(r"(?:copy|duplicate)\s+(.+)", said):
                thing = self._thing(copy[1])
                return [Wish(ADD, said, replace(thing, definite=False), place=Place(BESIDE, (thing,)))]
            return []
        what, place = self._placed(match[1])
        things = [replace(thing, definite=False) for thing in self._things(what)]
        return [Wish(ADD, said, thing, place=place) for thing in things]

    # --- what is said of things and of the whole

    def _altered(self, said: str, about: str, new: str) -> list[Wish]:
        return [Wish(ALTER, said, thing, self._said_of(new)) for thing in self._things(about)]

    def _said_of(self, text: str) -> str:
        """What shall be true of a thing, in words that the model knows."""
        bare = without_articles(text)
        if not self._is_said(bare):
            raise Odd(self._unknown(bare))
        return bare

    def _of_whole(self, said: str, text: str) -> Wish:
        bare = without_articles(re.sub(r"^(?:in|into|to|as|like)\s+", "", text))
        if not self._is_whole(bare):
            if self._labels(bare):
                raise Odd(worded("“{0}” is a thing, not how the whole can be: say “add {0}”.", bare))
            raise Odd(self._unknown(bare))
        return Wish(WHOLE, said, None, bare)
