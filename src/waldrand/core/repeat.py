"""Making a picture again from its recipe, and saying whether it is identical."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from threading import Event
from typing import Any

import numpy as np

from .pack import Pack
from .plan import plan
from .recipe import FORMAT, pixels_hash, recipe_frame, request_from_json, sheet_before
from .run import Progress, run_take
from .sheet import Layer, Sheet


@dataclass(frozen=True)
class Repeated:
    """pixels: (H, W, 4) uint8 as made again; notes: what differs in pack, version or threads."""

    pixels: np.ndarray
    notes: tuple[str, ...]


def repeat(
    recipe: dict[str, Any], pack: Pack, inputs: Sequence[np.ndarray] = (), progress: Progress | None = None, stop: Event | None = None
) -> Repeated:
    """Runs every pass of a picture's recipe again.

    inputs: pictures (H, W, 4) uint8 that may be what the recipe started from; the right one is known by its hash.

    Raises:
        ValueError: a recipe that cannot be read, or an input picture that is missing.
    """
    try:
        if recipe["format"] != FORMAT:
            raise ValueError(f"This recipe has format {recipe['format']}; this version reads format {FORMAT}.")
        sheet = Sheet(int(recipe["width"]), int(recipe["height"]))
        wanted = recipe["picture"]
        if wanted is not None:
            found = next((p for p in inputs if pixels_hash(p) == wanted), None)
            if found is None:
                raise ValueError(f"The picture this was made from is missing: its sha256 begins with {wanted[:12]}. Give it with --input.")
            sheet = sheet.with_layer(Layer(sheet.next_key(), "picture", found))
        notes: dict[str, None] = {}
        for entry in recipe["passes"]:
            one = entry["recipe"]
            notes |= dict.fromkeys(_differences(one, pack))
            before = sheet_before(one, sheet.width, sheet.height, sheet.layers)
            frame = recipe_frame(one)
            if one["start"] is not None and pixels_hash(before.flatten(frame.intersect(before.rect))) != one["start"]:
                raise ValueError(
                    "A pass started from a picture that is no longer part of this one (a patch that was "
                    "hidden or deleted afterwards), so it cannot be repeated from this file alone."
                )
            if one["start"] is None:
                before = replace(before, layers=())
            request = request_from_json(one)
            take = run_take(plan(before, request, pack), pack, request.settings.seed, progress, stop)
            patch = replace(take.to_patch(sheet.next_key(), "again"), grow=entry["grow"], feather=entry["feather"])
            sheet = sheet.with_layer(patch)
    except (KeyError, TypeError, IndexError) as error:
        raise ValueError("The recipe in this picture is damaged or was not written by Waldrand.") from error
    return Repeated(sheet.flatten(), tuple(notes))


def _differences(recipe: dict[str, Any], pack: Pack) -> list[str]:
    out, made, info = [], recipe["pack"], pack.info
    if made["digest"] != info.digest:
        out.append(f"It was made with the pack {made['name']} {made['version']}; this is {info.name} {info.version}.")
    if made["threads"] != info.threads:
        out.append(f"It was computed on {made['threads']} threads; this is {info.threads}.")
    return out
