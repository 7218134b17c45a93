"""Making a picture again from its recipe, and saying whether it is identical."""

from __future__ import annotations

from collections.abc import Generator, Sequence
from dataclasses import dataclass, replace
from threading import Event
from typing import Any

import numpy as np

from ..fields import needed, taken_list, taken_table, taken_whole
from ..noise.noise import LARGEST_SEED
from ..packs import Pack
from ..refused import Refused
from ..values.belonging import belonging
from ..values.element import Element
from ..values.layers import FARTHEST, Patch, PictureLayer
from ..values.sheet import Sheet
from ..worded import worded
from .again import from_nearer, next_nearer, rolled
from .lifting import Move, laid_down, lifted
from .plan import plan
from .recipe import THIS, Entry, entries_of, pixels_hash, recipe_frame, request_from_json, sheet_before, sheet_size
from .request import Request
from .run import run_take
from .take import Take
from .watch import Progress, Watch

#: Under which a picture's recipe says what was moved in it after its passes.
MOVED = "moved"


@dataclass(frozen=True)
class Repeated:
    """pixels: (H, W, 4) uint8 as made again; notes: what differs in pack, version or threads."""

    pixels: np.ndarray
    notes: tuple[str, ...]


@dataclass(frozen=True, eq=False)
class Made:
    """A pass of a recipe, ready to be made once more. before: the sheet it ran on; request: what was asked; entry: how it was laid over."""

    before: Sheet
    request: Request
    entry: Entry

    def patch(self, take: Take) -> Patch:
        one = self.entry
        return replace(take.to_patch(self.before.next_key(), "again"), grow=one.grow, feather=one.feather, opacity=one.opacity)


def _place_in(recipe: dict[str, Any]) -> tuple[int, int]:
    """Where the picture that was begun with lies on the recipe's sheet."""
    listed = taken_list(recipe.get("at", [0, 0]), worded("The place of the picture"))
    if len(listed) != 2:
        raise Refused(worded("The place of the picture has to be two numbers."))
    x, y = (taken_whole(v, worded("The place of the picture")) for v in listed)
    if max(abs(x), abs(y)) > FARTHEST:
        raise Refused(worded("The picture lies too far outside its sheet."))
    return x, y


def _passes(recipe: dict[str, Any], inputs: Sequence[np.ndarray]) -> Generator[Made, Patch, Sheet]:
    """Every pass of a recipe; each is sent its patch before the next. Returns the whole sheet."""
    entries = entries_of(recipe)
    width, height = (taken_whole(needed(recipe, k, THIS), f"The recipe's {k}") for k in ("width", "height"))
    sheet, wanted = Sheet(width, height), needed(recipe, "picture", THIS)
    if wanted is not None:
        x, y = _place_in(recipe)
        laid = (sheet.with_layer(PictureLayer(sheet.next_key(), "picture", p, x, y)) for p in inputs)
        # What was stored with it may be the whole sheet as it was.
        whole = (sheet.with_layer(PictureLayer(sheet.next_key(), "picture", p)) for p in inputs)
        found = next((s for s in (*laid, *whole) if pixels_hash(s.flatten()) == wanted), None)
        if found is None:
            raise Refused(
                worded("The picture this was made from is missing: its sha256 begins with {0}. Give it with --input.", str(wanted)[:12])
            )
        sheet = found
    move = None if MOVED not in recipe else Move.from_json(recipe[MOVED], height, width)
    thing = None if move is None else lifted(sheet, move)
    for entry in entries:
        x, y = entry.at
        there = tuple(layer.moved(-x, -y) for layer in sheet.layers) if (x, y) != (0, 0) else sheet.layers
        before = sheet_before(entry.recipe, *sheet_size(entry.recipe, width, height), there)
        start = needed(entry.recipe, "start", THIS)
        frame = recipe_frame(entry.recipe)
        if start is not None and pixels_hash(before.flatten(frame.intersect(before.rect))) != start:
            raise Refused(
                worded(
                    "A pass started from a picture that is no longer part of this one (a patch that was hidden or deleted "
                    "afterwards), so it cannot be repeated from this file alone."
                )
            )
        if start is None:
            before = replace(before, layers=before.guides())
        # A key that nothing has, also when the pass began on a bare sheet.
        patch = yield Made(before, request_from_json(entry.recipe), entry)
        key = sheet.next_key()
        sheet = belonging(sheet.with_layer(replace(patch, key=key).moved(x, y)), key, entry.match, entry.seamless)
    return sheet if move is None or thing is None else laid_down(sheet, thing, move)


def _made(one: Made, pack: Pack, progress: Progress | None, stop: Event | None) -> Patch:
    request = one.request
    return one.patch(run_take(plan(one.before, request, pack), pack, request.settings.seed, Watch(progress, stop)))


def repeat(
    recipe: dict[str, Any], pack: Pack, inputs: Sequence[np.ndarray] = (), progress: Progress | None = None, stop: Event | None = None
) -> Repeated:
    """Runs every pass of a picture's recipe again.

    inputs: pictures (H, W, 4) uint8 that may be what the recipe started from; the right one is known by its hash.

    Raises:
        Refused: a recipe that cannot be read, or an input picture that is missing.
    """
    notes = dict.fromkeys(n for entry in entries_of(recipe) for n in _differences(entry.recipe, pack))
    passes = _passes(recipe, inputs)
    try:
        one = next(passes)
        while True:
            one = passes.send(_made(one, pack, progress, stop))
    except StopIteration as done:
        sheet: Sheet = done.value
    return Repeated(sheet.flatten(), tuple(notes))


def reroll(
    recipe: dict[str, Any],
    pack: Pack,
    element: int | str,
    seed: int | None = None,
    inputs: Sequence[np.ndarray] = (),
    progress: Progress | None = None,
    stop: Event | None = None,
    nearer: bool = False,
) -> tuple[Sheet, Element, int]:
    """The picture's last pass once more with other noise inside one element, or with it painted over from nearer; the others keep
    theirs. Returns the sheet, the element, and the seed it was painted with.

    element: counted from 1 in file order, or a name; seed: of its noise, or one that follows from the one it had.

    Raises:
        Refused: a recipe that cannot be read, no such element, or one that cannot be painted from nearer.
    """
    passes = _passes(recipe, inputs)
    one = next(passes, None)
    if one is None:
        raise Refused(worded("Nothing was painted in this picture, so there is nothing to roll again."))
    for _ in entries_of(recipe)[1:]:
        one = passes.send(_made(one, pack, progress, stop))
    chosen, request = find_element(one.before, element), one.request
    takes = request.settings.seed
    had = takes if chosen.seed is None else chosen.seed
    follows = next_nearer(request, chosen.key) if nearer else (had + 1) % (LARGEST_SEED + 1)
    new = seed if seed is not None else takes if follows is None else follows
    if nearer:
        again = replace(one, request=from_nearer(request, {chosen.key: new}))
    else:
        before, request = rolled(one.before, request, {chosen.key: new})
        again = replace(one, before=before, request=request)
    patch = _made(again, pack, progress, stop)
    return again.before.with_layer(replace(patch, name=f"{chosen.name}, seed {new}")), chosen, new


def find_element(sheet: Sheet, which: int | str) -> Element:
    """An element by its number, counted from 1 in file order, or by its name.

    Raises:
        Refused: there is none such.
    """
    text = str(which).strip()
    named = [e for e in sheet.elements if e.name == text]
    if named:
        return named[0]
    if text.isdigit() and 1 <= int(text) <= len(sheet.elements):
        return sheet.elements[int(text) - 1]
    known = ", ".join(f"{i + 1} ({e.name})" for i, e in enumerate(sheet.elements)) or "none"
    raise Refused(worded("There is no element “{0}”. There are: {1}.", text, known))


def _differences(recipe: dict[str, Any], pack: Pack) -> list[str]:
    out, made, info = [], taken_table(needed(recipe, "pack", THIS), "The recipe's pack"), pack.info
    if made.get("digest") != info.digest:
        out.append(
            worded("It was made with the pack {0} {1}; this is {2} {3}.", made.get("name"), made.get("version"), info.name, info.version)
        )
    if made.get("threads") != info.threads:
        out.append(worded("It was computed on {0} threads; this is {1}.", made.get("threads"), info.threads))
    return out
