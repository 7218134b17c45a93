"""Chooses how one thing looks, and what may be said of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .canvas import Said
from .pen import Colour
from .things import GROUPS, Light, Look, Thing, Traits
from .things.people import eyes
from .words import COLOURS

SHADES: dict[tuple[str, str], Colour] = {
    ("fox", "red"): (208, 84, 36),
    ("cat", "orange"): (222, 140, 66),
    ("bear", "white"): (236, 232, 222),
    ("dog", "beige"): (220, 186, 136),
    ("tree", "green"): (96, 152, 64),
}


@dataclass(frozen=True)
class Dressed:
    look: Look
    flip: bool
    colour: str
    before: tuple[Said, ...]
    after: tuple[Said, ...]


def dressed(
    rng: np.random.Generator, thing: Thing, light: Light, season: str = "", size: float = 1.0, traits: Traits | None = None
) -> Dressed:
    """size: its height against what is usual, said when it is far from 1."""
    colour = str(rng.choice(thing.colours)) if thing.colours and rng.random() < 0.8 else ""
    flip = bool(rng.random() < 0.5)
    lit = bool(thing.lights and light.night > 0.2 and rng.random() < 0.8)
    tint: Colour | None = SHADES.get((thing.name, colour), COLOURS[colour]) if colour else None
    if tint is not None:
        tint = tuple(v + rng.normal(0, 6) for v in tint)  # type: ignore[assignment]
    pick = traits or thing.traits
    own = pick(rng) if pick else {}
    look = Look(tint, lit, light, tuple(float(v) for v in rng.random(8)), own, season)
    before: list[Said] = []
    if size < 0.75 or size > 1.25:
        before.append(("small" if size < 1 else "large", 0.3))
    if lit:
        before.append(("lit", 0.35))
    if colour:
        before.append((colour, 0.9))
    frontal = own.get("view", "") in ("front view", "back view")
    after: list[Said] = [(v, 0.5 if slot != "wear" else 0.75) for slot, v in own.items()]
    if thing.faces and not frontal:
        after.insert(0, ("facing left" if flip else "facing right", 0.65))
    if lit and thing.name in ("cottage", "town house", "barn", "church"):
        after.append(("lit windows", 0.3))
    if thing in GROUPS["people"] and "hair" in own and own["view"] != "back view":
        # Said of the eyes alone, where they are seen from near by.
        after.append((eyes(look), 0.0))
    return Dressed(look, flip, colour, tuple(before), tuple(after))
