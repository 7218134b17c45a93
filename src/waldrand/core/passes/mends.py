"""Ways to put right what cautions are about: each makes another sheet and request of a sheet and a request."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from ..packs import Pack, Places
from ..seen.describe import describe
from ..told.placing import with_places
from ..values.element import Element, phrases
from ..values.emphasis import carried
from ..values.outline import Box
from ..values.resize import scaled
from ..values.sheet import Sheet
from ..worded import worded
from .request import Request
from .wording import Change

Both = tuple[Sheet, Request]
#: From this detail on things come twice where no figures are told.
FINER = 1.1


def not_avoided(sheet: Sheet, request: Request, phrase: str) -> Both:
    """A phrase is avoided nowhere any more."""

    def without(words: str) -> str:
        return ", ".join(p for p in phrases(words) if p.lower() != phrase.lower())

    scene = replace(sheet.scene, avoid=without(sheet.scene.avoid), house_avoid=without(sheet.scene.house_avoid))
    elements = tuple(replace(e, avoid=without(e.avoid)) for e in sheet.elements)
    return replace(sheet, scene=scene, elements=elements), replace(request, avoid=without(request.avoid))


def strength(sheet: Sheet, request: Request, value: float) -> Both:
    return sheet, replace(request, settings=replace(request.settings, strength=value))


def usual_detail(sheet: Sheet, request: Request) -> Both:
    return sheet, replace(request, settings=replace(request.settings, detail=1.0))


def from_nearer(sheet: Sheet, request: Request) -> Both:
    return sheet, replace(request, small_nearer=True)


def more_context(sheet: Sheet, request: Request) -> Both:
    return sheet, replace(request, settings=replace(request.settings, margin=min(10.0, request.settings.margin + 0.25)))


def frame_fits_itself(sheet: Sheet, request: Request) -> Both:
    return sheet, replace(request, own_frame=None)


def given_places(sheet: Sheet, request: Request, places: Places, most: int) -> Both:
    return with_places(sheet, places, request.settings.seed, most), request


def said_too(sheet: Sheet, request: Request, words: str) -> Both:
    """The scene says something more."""
    before = sheet.scene
    said = ", ".join((*phrases(before.words), words))
    return replace(sheet, scene=replace(before, words=said, emphasis=carried(before.words, before.emphasis, said))), request


def read_off(sheet: Sheet, request: Request, pack: Pack) -> Both:
    """The scene's words as the finder sees them; without the things, of which small copies would sprout in the hole."""
    words = ", ".join(describe(sheet.flatten(), pack).scene)
    return replace(sheet, scene=replace(sheet.scene, words=words, emphasis=())), request


def fitting(sheet: Sheet, pack: Pack) -> tuple[str, Change] | None:
    """Scaling the sheet to the model's best size of nearest shape, and what to call that; a picture is never scaled unasked."""
    if sheet.has_picture:
        return None
    ratio = sheet.width / sheet.height
    w, h = min(pack.info.best_sizes, key=lambda size: abs(np.log(size[0] / size[1] / ratio)))
    return worded("Make it {0} x {1}", w, h), lambda s, r: (scaled(s, w, h), r)


def _changed(sheet: Sheet, key: int, change: Callable[[Element], Element]) -> Sheet:
    return sheet.with_element(change(sheet.element(key)))


def moved_inside(sheet: Sheet, request: Request, key: int) -> Both:
    def inside(e: Element) -> Element:
        x0, y0, x1, y1 = e.outline.box
        w, h = min(x1 - x0, sheet.width), min(y1 - y0, sheet.height)
        x, y = min(max(x0, 0), sheet.width - w), min(max(y0, 0), sheet.height - h)
        return replace(e, outline=e.outline.with_box((x, y, x + w, y + h)))

    return _changed(sheet, key, inside), request


def enlarged(sheet: Sheet, request: Request, key: int, least: float) -> Both:
    def larger(e: Element) -> Element:
        x0, y0, x1, y1 = e.outline.box
        k = max(1.0, least / (x1 - x0), least / (y1 - y0))
        cx, cy, w, h = (x0 + x1) / 2, (y0 + y1) / 2, k * (x1 - x0) / 2, k * (y1 - y0) / 2
        return replace(e, outline=e.outline.with_box((cx - w, cy - h, cx + w, cy + h)))

    return _changed(sheet, key, larger), request


def fitted_to(sheet: Sheet, request: Request, key: int, box: Box) -> Both:
    return _changed(sheet, key, lambda e: replace(e, outline=replace(e.outline, shape="box", box=box))), request


def nearest(sheet: Sheet, request: Request, key: int) -> Both:
    rest = tuple(e for e in sheet.elements if e.key != key)
    return replace(sheet, elements=(*rest, sheet.element(key))), request


def weighed(sheet: Sheet, request: Request, key: int) -> Both:
    return _changed(sheet, key, lambda e: replace(e, weight=max(sheet.scene.weight, 0.1))), request
