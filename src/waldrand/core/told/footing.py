"""What things stand on: where a picture's ground is water, some stand in it, and others on a bank."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..packs import Ground, Grounds, Ids, Pack, Places
from ..values.element import Element, phrases
from ..values.sheet import Sheet
from .grounds import main_ground


@dataclass(frozen=True)
class Footless:
    """Elements, by their keys, that are wont to stand on another ground than the picture's main one; bank: that other one's words."""

    keys: tuple[int, ...]
    ground: str
    bank: str


def footless(sheet: Sheet, pack: Pack) -> Footless | None:
    """The elements that would stand in the water of a scene, where the pack knows what such things stand on there; None where there are
    none, or a bank is said, or a ground is drawn as an element."""
    if pack.grounds is None:
        return None
    named = pack.grounds.named(phrases(sheet.scene.words))
    both = water_and_bank(named, pack.grounds)
    if both is None or any(g.label == both[1] for g in named):
        return None
    if any(pack.grounds.label(p) for e in sheet.elements for p in phrases(e.words)):
        return None
    keys = tuple(e.key for e in ashore(sheet, *both, pack))
    return Footless(keys, *both) if keys else None


def water_and_bank(named: Sequence[Ground], grounds: Grounds) -> tuple[str, str] | None:
    """The words of a picture's main ground, where that is water, and of the bank beside it; None where there is no such."""
    main = main_ground(named)
    bank = None if main is None or not main.wet else grounds.beside(main.label)
    return None if main is None or bank is None else (main.label, bank)


def ashore(sheet: Sheet, ground: str, bank: str, pack: Pack) -> tuple[Element, ...]:
    """The elements that were never seen standing on a ground without its bank; what is held stays as it is."""
    if pack.places is None:
        return ()
    standing = [(e, label) for e in sheet.elements if not e.hold and (label := pack.places.label(e.words)) and not hangs(e, pack)]
    return tuple(e for e, label in standing if not _floats(label, ground, bank, pack.places))


def _floats(label: Ids, ground: str, bank: str, places: Places) -> bool:
    return any(ground in s.where and bank not in s.where for s in places.spots(label, (ground,)))


def hangs(e: Element, pack: Pack) -> bool:
    """Whether an element is of a kind that stands on nothing."""
    figures = () if pack.figures is None else pack.figures.named(phrases(e.words))
    return bool(figures) and figures[0].hangs
