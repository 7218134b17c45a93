"""What is said in a pass, of what, and where it counts."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import Literal

from ..packs import Pack
from ..values.element import SceneWords, phrases
from ..values.emphasis import weighed_phrases
from ..values.sheet import Sheet
from .naming import said_of


@dataclass(frozen=True)
class Everywhere:
    """All over the frame."""


@dataclass(frozen=True)
class InElement:
    """Where an element stands."""

    key: int


@dataclass(frozen=True)
class InMask:
    """Where a mask lets the picture change."""


@dataclass(frozen=True)
class InGround:
    """Where a ground is drawn."""

    label: str


Where = Everywhere | InElement | InMask | InGround
EVERYWHERE, IN_MASK = Everywhere(), InMask()
#: Whose words they are: an element's by its key, or the scene's, the house words, those of a pass itself.
About = int | Literal["scene", "house", "pass"]


#: Where nothing is said beside what somebody said.
NOTHING: Mapping[int, str] = MappingProxyType({})


@dataclass(frozen=True)
class Said:
    """A phrase. owner: whose it is, for people; about: the same, to be found again; weight: how much it counts; where."""

    owner: str
    about: About
    phrase: str
    weight: float
    where: Where


def said_of_scene(scene: SceneWords) -> tuple[list[Said], list[Said]]:
    """What is told of the whole, and what is led away from everywhere."""
    told = [Said("scene", "scene", p, scene.weight * f, EVERYWHERE) for p, f in weighed_phrases(scene.words, scene.emphasis)]
    told += [Said("house", "house", p, scene.weight * f, EVERYWHERE) for p, f in weighed_phrases(scene.house, scene.house_emphasis)]
    away = [Said("scene", "scene", p, 1.0, EVERYWHERE) for p in phrases(scene.avoid)]
    return told, away + [Said("scene", "house", p, 1.0, EVERYWHERE) for p in phrases(scene.house_avoid)]


def said_of_elements(sheet: Sheet, shown: Mapping[int, str] = NOTHING) -> tuple[list[Said], list[Said]]:
    """What is told of each element that is not held, and what is led away from where it stands. shown: what is said of them beside, by
    their keys."""
    told, away = [], []
    for e in sheet.elements:
        if not e.hold:
            told += [Said(e.name, e.key, p, e.weight * f, InElement(e.key)) for p, f in weighed_phrases(e.words, e.emphasis)]
            told += [Said(e.name, e.key, p, e.weight, InElement(e.key)) for p in phrases(shown.get(e.key, ""))]
            away += [Said(e.name, e.key, p, 1.0, InElement(e.key)) for p in phrases(e.avoid)]
    return told, away


def together(said: Sequence[Said], pack: Pack | None) -> list[Said]:
    """Phrases as a model reads them that was taught each thing in one phrase with all that is said of it: what names no thing itself
    goes with the thing named before it in the same place, or with the first one there, as far as the model reads so many words at a
    time. What describes the whole, or counts more or less, stays by itself. Packs without a finder cannot tell.
    """
    finder = None if pack is None else pack.finder
    if pack is None or finder is None:
        return list(said)

    def ids(phrase: str) -> tuple[int, ...]:
        return tuple(pack.read(phrase)[0])

    out: list[Said] = []
    has_thing = False
    for one in said:
        is_thing = bool(finder.labels_of(one.phrase))
        before = out[-1] if out else None
        if before is not None and replace(before, phrase="") == replace(one, phrase=""):
            both = f"{before.phrase} {one.phrase}"
            if one.where == EVERYWHERE:
                belongs = has_thing and not is_thing and not said_of(finder.whole, [one.phrase], ids)
            else:
                belongs = not (has_thing and is_thing)
            if belongs and len(ids(both)) <= pack.info.phrase_length:
                out[-1] = replace(one, phrase=both)
                has_thing |= is_thing
                continue
        out.append(one)
        has_thing = is_thing
    return out


def told_at(told: Sequence[Said], key: int, pack: Pack | None) -> list[str]:
    """All the phrases that count where an element stands, in the model's order. told: all that a pass tells."""
    return [one.phrase for one in together(told, pack) if one.where in (EVERYWHERE, InElement(key))]
