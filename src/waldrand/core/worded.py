"""What is said to people, in their language: templates with numbered places for what is known only when it is said."""

from __future__ import annotations

from collections.abc import Callable

#: Gives a template in another language; a desk puts its own in.
_translate: list[Callable[[str], str]] = [str]


def speak(translate: Callable[[str], str]) -> None:
    """From now on everything is said as this gives it. translate: a template in English to one in another language."""
    _translate[0] = translate


def worded(template: str, *values: object) -> str:
    """A sentence, with values in the places {0}, {1}, ... of its template; without values it is no template."""
    text = _translate[0](template)
    return text.format(*values) if values else text
