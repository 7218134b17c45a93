"""The model's words: reading phrases, synonyms, and the nearest known word to an unknown one."""

from __future__ import annotations

import difflib
import json
import re
from dataclasses import dataclass
from functools import cached_property

from ..core.packs import UnknownWord
from ..core.refused import Refused

MOST_WORDS = 100_000


@dataclass(frozen=True)
class Vocabulary:
    """words: the model's, index = id, 0 for nothing; synonyms: written phrase -> the model's phrase; ignored:
    small words without a picture; groups: heading -> phrases, for a list an artist can read."""

    words: tuple[str, ...]
    synonyms: dict[str, str]
    ignored: frozenset[str]
    groups: dict[str, tuple[str, ...]]

    @classmethod
    def from_json(cls, text: str) -> Vocabulary:
        """Raises Refused when the text is not a vocabulary."""
        try:
            d = json.loads(text)
            out = cls(
                tuple(map(str, d["words"])),
                {str(k): str(v) for k, v in d["synonyms"].items()},
                frozenset(map(str, d["ignored"])),
                {str(k): tuple(map(str, v)) for k, v in d["groups"].items()},
            )
        except (KeyError, TypeError, AttributeError, json.JSONDecodeError) as error:
            raise Refused("The pack's word list cannot be read.") from error
        if not 1 < len(out.words) <= MOST_WORDS:
            raise Refused("The pack's word list is empty or far too long.")
        return out

    @cached_property
    def _ids(self) -> dict[str, int]:
        return {w: i for i, w in enumerate(self.words) if w}

    @cached_property
    def _longest(self) -> int:
        return max((len(s.split()) for s in self.synonyms), default=1)

    def read(self, phrase: str) -> tuple[list[int], list[UnknownWord]]:
        """Ids of the known words in order; unknown ones apart, with up to three nearest known."""
        written = re.findall(r"[\w'-]+", phrase.lower())
        ids: list[int] = []
        unknown: list[UnknownWord] = []
        i = 0
        while i < len(written):
            for n in range(min(self._longest, len(written) - i), 0, -1):
                text = " ".join(written[i : i + n])
                own = self.synonyms.get(text) or self.synonyms.get(text.removesuffix("s"))
                # A synonym must not swallow a phrase that the model knows word for word.
                if own is not None and not (n == 1 and self._known_pair(written, i)):
                    ids += [self._ids[w] for w in own.split()]
                    i += n
                    break
            else:
                word = written[i]
                i += 1
                singular = self._ids.get(word) or self._ids.get(word.removesuffix("s")) or self._ids.get(word + "s")
                if singular:
                    ids.append(singular)
                elif word not in self.ignored:
                    unknown.append(UnknownWord(word, self.nearest(word)))
        return ids, unknown

    def _known_pair(self, written: list[str], i: int) -> bool:
        pair = " ".join(written[i : i + 2])
        before = " ".join(written[max(0, i - 1) : i + 1])
        phrases = {p for g in self.groups.values() for p in g if " " in p}
        return pair in phrases or before in phrases

    def nearest(self, word: str) -> tuple[str, ...]:
        """Up to three known words or synonyms spelled most alike."""
        known = [*self._ids, *(s for s in self.synonyms if " " not in s)]
        return tuple(difflib.get_close_matches(word, known, 3, 0.55))
