"""Things that only the scene's words name, in places that each take gives them by itself: where such things are wont to be."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import lru_cache

from ..packs import Pack
from ..told.footing import hangs
from ..told.placing import as_elements_say, things_to_place, with_places
from ..values.element import Element, SceneWords, phrases
from ..values.frame import Rect
from ..values.outline import Box, Outline
from ..values.sheet import Sheet
from .fitting import sketches_of
from .grounded import Grounded, painted_anew
from .settings import PassSettings

#: A part of a sheet that is less wide or high, in pixels, has no room for things; so far below a horizon, in shares of a part's height,
#: what stands there has its foot.
LEAST_ROOM, FOOT = 64, 0.04


def with_given_places(sheet: Sheet, settings: PassSettings, pack: Pack, seed: int, in_part: bool = False) -> Sheet:
    """The sheet with an element more for each thing that its scene's words name, as far as the model can place so many: those that
    `with_places` makes of this seed; what an element is already is not said twice. The same sheet where no places are to be given:
    something of a picture stays, or the pack does not steer, or knows none. in_part: whether the pass is over a part of the sheet only."""
    steers = settings.method == "steer" and "regions" in pack.info.capabilities
    if in_part or pack.places is None or not settings.places or not steers or not painted_anew(sheet, settings, in_part=False):
        return sheet
    sheet = as_elements_say(sheet, pack.places)
    if len(sheet.elements) >= pack.info.elements or not things_to_place(sheet, pack.places):
        return sheet
    there = tuple((e.name, e.outline.box) for e in sheet.elements)
    scene, made = _made(sheet.width, sheet.height, sheet.scene, there, pack, seed)
    # By what a recipe says, so that a repetition has the same ones: figures differ by key.
    first = 1 + max((e.key for e in sheet.elements), default=0)
    return replace(sheet, scene=scene, elements=(*sheet.elements, *(replace(e, key=first + i) for i, e in enumerate(made))))


def of_own(
    sheet: Sheet, laid_out: Sheet, settings: PassSettings, shapes: Mapping[int, Outline], behind: Grounded
) -> tuple[dict[int, Outline], Grounded]:
    """The figures of a sheet's own elements, and all else that is drawn: what lies behind, and things on the sheet as it is laid out."""
    given = {key: shape for key, shape in shapes.items() if not sheet.has_element(key)}
    own = {key: shape for key, shape in shapes.items() if key not in given}
    return own, replace(behind, things=sketches_of(laid_out, settings, given))


def with_places_in(sheet: Sheet, words: str, part: Rect, pack: Pack, seed: int, horizon: float | None) -> tuple[Sheet, str]:
    """The sheet with an element more for each thing that some words name, inside a part of it, and what the words say beside that. What
    stands has its foot below a horizon, what hangs is above it. Both as they were where that part is too small or the pack knows no
    places."""
    places, room = pack.places, pack.info.elements - len(sheet.elements)
    if places is None or room < 1 or min(part.width, part.height) < LEAST_ROOM:
        return sheet, words
    told = places.told(words)
    if not told.things:
        return sheet, words
    # Where things are wont to be differs with what is said of the whole.
    scene = SceneWords(", ".join((words, *phrases(places.told(sheet.scene.words).rest))))
    there = tuple((e.name, e.outline.moved(-part.x0, -part.y0).box) for e in sheet.elements)
    _, made = _made(part.width, part.height, scene, there, pack, seed)
    first, out = 1 + max((e.key for e in sheet.elements), default=0), list(sheet.elements)
    for i, e in enumerate(made):
        x0, y0, x1, y1 = e.outline.moved(part.x0, part.y0).box
        down = 0.0 if horizon is None else _to_horizon(y0, y1, part, horizon, hangs(e, pack))
        out.append(replace(e, key=first + i, outline=e.outline.with_box((x0, y0 + down, x1, y1 + down))))
    left = [said for said, _ in told.things[len(made) :]]
    return replace(sheet, elements=tuple(out)), ", ".join((*left, *phrases(told.rest)))


def _to_horizon(y0: float, y1: float, part: Rect, horizon: float, hangs: bool) -> float:
    """How far down a thing has to go to be on its side of a horizon, inside a part of the sheet as far as it can."""
    if hangs:
        return max(min(0.0, horizon - y1), part.y0 - y0)
    return min(max(0.0, horizon + FOOT * part.height - y1), part.y1 - y1)


@lru_cache(maxsize=32)
def _made(
    width: int, height: int, scene: SceneWords, there: tuple[tuple[str, Box], ...], pack: Pack, seed: int
) -> tuple[SceneWords, tuple[Element, ...]]:
    """What the scene still says, and the new elements, beside those there: their names and boxes. A forecast, the pencil on the sheet and
    the take all ask for the same ones."""
    bare = Sheet(width, height, scene=scene)
    for name, box in there:
        bare = bare.with_element(Element(bare.next_key(), name, Outline("box", box)))
    assert pack.places is not None
    done = with_places(bare, pack.places, seed, pack.info.elements)
    return done.scene, done.elements[len(there) :]
