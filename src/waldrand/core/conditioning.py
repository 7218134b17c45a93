"""What the model is told, and where: phrases, their outlines in latent cells, their weights."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from .element import phrases
from .frame import WorkFrame
from .masks import feather_inside
from .outline import rasterise
from .pack import ELEMENT, NONE, SCENE, Pack, Rows
from .request import Request
from .resample import resize_mask
from .sheet import Sheet


@dataclass(frozen=True, eq=False)
class Line:
    """One phrase as it will be told: whose it is ("scene", "house", an element's name), and its outline in
    cells, or None for everywhere."""

    owner: str
    phrase: str
    weight: float
    outline: np.ndarray | None


@dataclass(frozen=True, eq=False)
class Conditioning:
    """told: what the picture shall show; away: what guidance leads away from."""

    told: tuple[Line, ...]
    away: tuple[Line, ...]


def element_masks(sheet: Sheet, frame: WorkFrame) -> list[np.ndarray]:
    """Each element's feathered outline in the frame, (height, width) float32, far to near; near ones cut
    into far ones."""
    masks: list[np.ndarray] = []
    free = np.ones((frame.height, frame.width), np.float32)
    for e in reversed(sheet.elements):
        m = feather_inside(rasterise(e.outline, frame.rect, frame.height, frame.width), e.feather * frame.scale)
        masks.append(m * free)
        free = free * (1 - m)
    return masks[::-1]


#: Owner, phrase, weight, and the element's index, -1 for the mask or None for everywhere.
Said = tuple[str, str, float, int | None]


def spoken(sheet: Sheet, request: Request) -> tuple[list[Said], list[Said]]:
    """All phrases of a pass: what it is told, and what it is led away from."""
    s = sheet.scene
    told: list[Said] = [("scene", p, s.weight, None) for p in phrases(s.words)]
    told += [("house", p, s.weight, None) for p in phrases(s.house)]
    away: list[Said] = [("scene", p, 1.0, None) for p in (*phrases(s.avoid), *phrases(s.house_avoid))]
    if request.kind == "inpaint":
        # Guidance would else lead away from the surroundings too, and tint the whole hole.
        away = list(told) + away
        told += [("mask", p, 1.0, -1) for p in phrases(request.words)]
        away += [("mask", p, 1.0, -1) for p in phrases(request.avoid)]
    else:
        told += [("pass", p, s.weight, None) for p in phrases(request.words)]
        away += [("pass", p, 1.0, None) for p in phrases(request.avoid)]
        for i, e in enumerate(sheet.elements):
            if not e.hold:
                told += [(e.name, p, e.weight, i) for p in phrases(e.words)]
                away += [(e.name, p, 1.0, i) for p in phrases(e.avoid)]
    if request.settings.method == "text":
        return [(o, p, w, None) for o, p, w, _ in told], [(o, p, w, None) for o, p, w, _ in away]
    return told, away


def _mask_outline(strength: np.ndarray, cells: tuple[int, int]) -> np.ndarray:
    """An inpaint's outline: the painted cells without their outermost ring, so that the new thing has air
    between itself and the hole's edge; a small mask keeps all its cells."""
    m = resize_mask((strength > 0).astype(np.float32), *cells)
    inner = ndimage.binary_erosion(m > 0.5, border_value=1)
    return np.asarray(m * inner, np.float32) if inner.sum() >= 12 else m


def condition(sheet: Sheet, request: Request, frame: WorkFrame, masks: list[np.ndarray], strength: np.ndarray, cell: int) -> Conditioning:
    """Lines for a pass; masks from `element_masks`, strength (height, width) the pass's strength map."""
    cells = (frame.height // cell, frame.width // cell)
    small = [resize_mask(m, *cells) for m in masks]

    def place(index: int | None) -> np.ndarray | None:
        if index is None:
            return None
        return _mask_outline(strength, cells) if index == -1 else small[index]

    told, away = ([Line(o, p, w, place(i)) for o, p, w, i in x] for x in spoken(sheet, request))
    return Conditioning(tuple(told), tuple(away))


def to_rows(lines: Sequence[Line], pack: Pack, cells: tuple[int, int]) -> Rows:
    """Lines as arrays; phrases without a known word are left out, and so are those outside the frame.

    Raises:
        ValueError: more phrases than the pack reads.
    """
    known = [(line, pack.read(line.phrase)[0]) for line in lines]
    known = [(line, ids) for line, ids in known if ids and (line.outline is None or line.outline.any())]
    if len(known) > pack.info.rows:
        raise ValueError(f"The model reads at most {pack.info.rows} phrases at a time; these are {len(known)}. Say less, or join elements.")
    n = max(1, len(known))
    rows = Rows(
        np.zeros((n, pack.info.phrase_length), np.int64),
        np.full(n, NONE, np.float32),
        np.zeros((n, *cells), np.float32),
        np.zeros(n, np.float32),
    )
    for j, (line, ids) in enumerate(known):
        ids = ids[: pack.info.phrase_length]
        rows.ids[j, : len(ids)] = ids
        rows.kind[j] = SCENE if line.outline is None else ELEMENT
        rows.weight[j] = line.weight
        if line.outline is not None:
            rows.outline[j] = line.outline
    return rows
