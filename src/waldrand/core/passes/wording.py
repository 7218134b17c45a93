"""Other words in a phrase's place, wherever on a sheet it is said."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace

from ..values.emphasis import carried
from ..values.sheet import Sheet
from .request import Request

#: Another sheet and request made of a sheet and a request.
Change = Callable[[Sheet, Request], tuple[Sheet, Request]]


def _whole_words(phrase: str) -> re.Pattern[str]:
    return re.compile(rf"(?i)(?<!\w){re.escape(phrase)}(?!\w)")


def is_said(sheet: Sheet, request: Request, phrase: str) -> bool:
    """Whether a phrase stands in the scene's, the house, the pass's or any element's words."""
    pattern = _whole_words(phrase)
    said = (sheet.scene.words, sheet.scene.house, request.words, *(e.words for e in sheet.elements))
    return any(pattern.search(words) for words in said)


def reworded(sheet: Sheet, request: Request, before: str, after: str) -> tuple[Sheet, Request]:
    """Says `after` wherever `before` was said; emphasis stays with what is said in its place."""
    pattern = _whole_words(before)

    def said(words: str) -> str:
        return pattern.sub(lambda _: after, words)

    s = sheet.scene
    scene = replace(
        s,
        words=said(s.words),
        emphasis=carried(s.words, s.emphasis, said(s.words)),
        house=said(s.house),
        house_emphasis=carried(s.house, s.house_emphasis, said(s.house)),
    )
    elements = tuple(replace(e, words=said(e.words), emphasis=carried(e.words, e.emphasis, said(e.words))) for e in sheet.elements)
    return replace(sheet, scene=scene, elements=elements), replace(request, words=said(request.words))
