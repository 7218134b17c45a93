"""Emphasis: phrases that count more or less, kept as marked spans beside the plain words."""

from __future__ import annotations

import re

from ..refused import Refused
from ..worded import worded

#: From character, to character, factor on the weight of the phrase that lies there.
Span = tuple[int, int, float]
LEAST, MOST, STEP = 0.2, 2.0, 0.2
_PIECE = re.compile(r"[^,;\n]+")


def check_spans(words: str, spans: tuple[Span, ...], whose: str) -> None:
    """Raises Refused when a span lies outside the words or its factor outside its range."""
    for a, b, factor in spans:
        if not 0 <= a < b <= len(words):
            raise Refused(worded("An emphasis of {0} lies outside its words.", whose))
        if not LEAST <= factor <= MOST:
            raise Refused(worded("Emphasis goes from {0:g} to {1:g}; {2:g} ({3}) is outside.", LEAST, MOST, factor, whose))


def located_phrases(words: str) -> list[tuple[int, int, str]]:
    """Phrases with their places: cut at commas, semicolons and line ends, blanks at their ends left out."""
    out = []
    for m in _PIECE.finditer(words):
        text = m.group().strip()
        if text:
            a = m.start() + len(m.group()) - len(m.group().lstrip())
            out.append((a, a + len(text), text))
    return out


def weighed_phrases(words: str, spans: tuple[Span, ...]) -> list[tuple[str, float]]:
    """Every phrase with its factor: that of the span it shares most characters with, 1 without one."""
    out = []
    for a, b, text in located_phrases(words):
        shares = [(min(b, d) - max(a, c), factor) for c, d, factor in spans]
        best = max(shares, default=(0, 1.0))
        out.append((text, best[1] if best[0] > 0 else 1.0))
    return out


def emphasised(words: str, spans: tuple[Span, ...], at: int, change: float) -> tuple[Span, ...]:
    """The spans after the phrase at a character was made stronger (change > 0) or weaker; a factor of 1 needs no span."""
    kept = []
    for (a, b, _), (_, factor) in zip(located_phrases(words), weighed_phrases(words, spans), strict=True):
        if a <= at <= b:
            factor = min(MOST, max(LEAST, round(factor + change, 2)))
        if factor != 1:
            kept.append((a, b, factor))
    return tuple(kept)


def carried(before: str, spans: tuple[Span, ...], after: str) -> tuple[Span, ...]:
    """The spans for edited words: a phrase that is still there keeps its factor, so does the one that was edited in its place."""
    if not spans:
        return ()
    old, new = weighed_phrases(before, spans), located_phrases(after)
    by_text = dict(old)
    kept = []
    for i, (a, b, text) in enumerate(new):
        factor = by_text.get(text)
        if factor is None and len(old) == len(new):
            factor = old[i][1]
        if factor is not None and factor != 1:
            kept.append((a, b, factor))
    return tuple(kept)
