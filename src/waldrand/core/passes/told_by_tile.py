"""What each tile of a picture is told: only what the elements and the finder say is in it, or a tile's thing would sprout in every tile."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

import numpy as np
from scipy import ndimage

from ..packs import Pack
from ..picture.resample import resize_mask
from ..seen.by_place import Here, Seen, seen_here, seen_in
from ..seen.find import SEEN
from ..told.said import EVERYWHERE, InElement, Said, Where, said_of_elements, said_of_scene, together
from ..told.voices import Area, Cells, element_masks
from ..values.element import Element, phrases
from ..values.frame import WorkFrame
from ..values.shaping import rounded
from ..values.sheet import Sheet
from .remembered import Remembered, picture_key
from .request import Request

#: Most things that the finder saw are told of a tile; so much of one has to be covered by an element that tells of the same.
MOST_THINGS, COVERS = 8, 0.5
#: What an element may reach beyond what is seen of its thing, in cells.
ROOM = 2

_SEEN = Remembered[Seen](4)


def looked_at(sheet: Sheet, pack: Pack) -> bool:
    """Whether the whole picture has been looked at already, or never will be."""
    return pack.finder is None or _SEEN.get(picture_key(sheet, pack)) is not None


def whole_seen(sheet: Sheet, pack: Pack) -> Seen | None:
    """What the whole picture shows; None where the pack has no finder. Remembered for the last pictures."""
    if pack.finder is None:
        return None
    key = picture_key(sheet, pack)
    return _SEEN.get(key) or _SEEN.put(key, seen_in(sheet.flatten(), pack))


@dataclass(frozen=True, eq=False)
class Told:
    """What one tile is told, what it leads away from, and where each counts."""

    told: tuple[Said, ...]
    away: tuple[Said, ...]
    areas: Callable[[Cells], Mapping[Where, Area]]


def told_of_tile(sheet: Sheet, request: Request, frame: WorkFrame, seen: Seen | None, pack: Pack) -> Told:
    """What a tile's frame is told of a sheet: of the scene's words and the pass's own what is not about a thing, or about a ground that
    it shows; the elements as far as they are seen in it; and things that the finder saw there and no element tells of."""
    cells = frame.height // pack.info.cell, frame.width // pack.info.cell
    scene, scene_away = said_of_scene(sheet.scene)
    scene += [Said("pass", "pass", p, sheet.scene.weight, EVERYWHERE) for p in phrases(request.words)]
    scene_away += [Said("pass", "pass", p, 1.0, EVERYWHERE) for p in phrases(request.avoid)]
    elements = tuple(e for e in sheet.elements if not e.hold and rounded(e.outline.box).intersect(frame.rect).area)
    outlines = {e.key: resize_mask(m, *cells) for e, m in zip(elements, element_masks(elements, frame), strict=True)}
    things: list[Here] = []
    if seen is not None:
        scene = [one for one in together(scene, pack) if _is_there(one.phrase, seen, frame, cells)]
        outlines = {e.key: _as_seen(e, outlines[e.key], seen, frame) for e in elements}
        named = [(seen.finder.labels_of(e.words)[:1], outlines[e.key]) for e in elements]
        here = seen_here(seen, frame.rect, *cells)
        things = [one for one in here if not any(labels == (one.label,) and _covers(m, one.where) for labels, m in named)][:MOST_THINGS]
    there = tuple(e for e in elements if outlines[e.key].any())
    told, away = said_of_elements(replace(sheet, elements=there))
    last = max([0, *(e.key for e in sheet.elements)])
    own: dict[Where, Area] = {InElement(e.key): Area(outlines[e.key], e.weight) for e in there}
    for i, one in enumerate(things, last + 1):
        told.append(Said("seen", "scene", one.words, 1.0, InElement(i)))
        own[InElement(i)] = Area(np.clip((one.where - 0.25) * 2, 0, 1).astype(np.float32))

    def areas(asked: Cells) -> dict[Where, Area]:
        out: dict[Where, Area] = {EVERYWHERE: Area(None, sheet.scene.weight)}
        for where, area in own.items():
            assert area.outline is not None
            out[where] = replace(area, outline=resize_mask(area.outline, *asked))
        return out

    return Told((*scene, *told), (*scene_away, *away), areas)


def _is_there(phrase: str, seen: Seen, frame: WorkFrame, cells: Cells) -> bool:
    """Whether a phrase of the scene is told of a tile: it names no thing, or a ground that the tile shows."""
    labels = seen.finder.labels_of(phrase)
    if not labels:
        return True
    if seen.finder.labels[labels[0]] not in seen.finder.grounds:
        return False
    return bool((seen.at(labels[0], frame.rect, *cells) > SEEN).any())


def _as_seen(e: Element, outline: np.ndarray, seen: Seen, frame: WorkFrame) -> np.ndarray:
    """An element's outline where its thing is seen, with a little room; as it is where the finder does not know its words."""
    labels = seen.finder.labels_of(e.words)
    if not labels:
        return outline
    solid = seen.at(labels[0], frame.rect, *outline.shape) > SEEN
    return np.asarray(outline * (ndimage.binary_dilation(solid, iterations=ROOM) if solid.any() else 0), np.float32)


def _covers(outline: np.ndarray, where: np.ndarray) -> bool:
    solid = where > SEEN
    return bool(outline[solid].mean() > COVERS)
