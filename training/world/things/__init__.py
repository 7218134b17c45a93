"""Every kind of thing the world has."""

from __future__ import annotations

from .animals import ANIMALS
from .buildings import BUILDINGS
from .kit import Light, Look, Thing, Traits
from .outdoors import OUTDOORS
from .people import PEOPLE, PORTRAIT_TRAITS
from .plants import PLANTS
from .rooms import FURNITURE, ON_WALL, RUG, SMALL
from .sky import SKY_THINGS
from .vehicles import VEHICLES

__all__ = ["GROUPS", "PORTRAIT_TRAITS", "THINGS", "Light", "Look", "Thing", "Traits"]

GROUPS: dict[str, tuple[Thing, ...]] = {
    "plants": PLANTS,
    "buildings": BUILDINGS,
    "outdoors": OUTDOORS,
    "animals": ANIMALS,
    "people": PEOPLE,
    "vehicles": VEHICLES,
    "in the sky": SKY_THINGS,
    "in rooms": (*FURNITURE, *ON_WALL, RUG),
    "small things": SMALL,
}
THINGS = {t.name: t for group in GROUPS.values() for t in group}
