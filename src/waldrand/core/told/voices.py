"""What the model is told, and where: phrases, their outlines in latent cells, their weights."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from ..packs import ELEMENT, NONE, SCENE, Pack, Rows
from ..passes.request import Method, Request
from ..picture.resample import resize_mask
from ..refused import Refused
from ..values.element import phrases
from ..values.emphasis import weighed_phrases
from ..values.frame import WorkFrame
from ..values.masks import feather_inside
from ..values.outline import rasterise
from ..values.sheet import Sheet
from .naming import said_of


@dataclass(frozen=True, eq=False)
class Line:
    """One phrase as it will be told: whose it is ("scene", "house", an element's name), and its outline in
    cells, or None for everywhere."""

    owner: str
    phrase: str
    weight: float
    outline: np.ndarray | None


@dataclass(frozen=True, eq=False)
class Voice:
    """One set of lines asked at a time. told: what the picture shall show; away: what guidance leads away from; share: how much
    this voice says in each cell, (h, w) float32, or None for everything."""

    told: tuple[Line, ...]
    away: tuple[Line, ...]
    share: np.ndarray | None = None


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
    """All phrases of a pass with their places: what it is told, and what it is led away from."""
    s = sheet.scene
    told: list[Said] = [("scene", p, s.weight * f, None) for p, f in weighed_phrases(s.words, s.emphasis)]
    told += [("house", p, s.weight * f, None) for p, f in weighed_phrases(s.house, s.house_emphasis)]
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
                told += [(e.name, p, e.weight * f, i) for p, f in weighed_phrases(e.words, e.emphasis)]
                away += [(e.name, p, 1.0, i) for p in phrases(e.avoid)]
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
    for owner, phrase, weight, place in said:
        is_thing = bool(finder.labels_of(phrase))
        before = out[-1] if out else None
        if before is not None and (before[0], *before[2:]) == (owner, weight, place):
            both = f"{before[1]} {phrase}"
            if place is None:
                belongs = has_thing and not is_thing and not said_of(finder.whole, [phrase], ids)
            else:
                belongs = not (has_thing and is_thing)
            if belongs and len(ids(both)) <= pack.info.phrase_length:
                out[-1] = owner, both, weight, place
                has_thing |= is_thing
                continue
        out.append((owner, phrase, weight, place))
        has_thing = is_thing
    return out


def speakers(told: list[Said], method: Method) -> list[int | None]:
    """Whose words are asked for by themselves: with "blend" the scene (None) and every place that has words, else all together."""
    return [None, *dict.fromkeys(i for _, _, _, i in told if i is not None)] if method == "blend" else [None]


def told_to(sheet: Sheet, request: Request, index: int | None, pack: Pack | None) -> list[str]:
    """All the phrases that count where an element (by its index; -1: the mask, None: the scene) stands, in the model's order."""
    return [p for _, p, _, i in together(spoken(sheet, request)[0], pack) if i is None or i == index]


def mask_outline(strength: np.ndarray, cells: tuple[int, int]) -> np.ndarray:
    """An inpaint's outline (h, w) in cells, from the pass's strength map (height, width): the painted cells without their outermost
    ring, so that the new thing has air between itself and the hole's edge; a small mask keeps all its cells."""
    m = resize_mask((strength > 0).astype(np.float32), *cells)
    inner = ndimage.binary_erosion(m > 0.5, border_value=1)
    return np.asarray(m * inner, np.float32) if inner.sum() >= 12 else m


def voices(
    sheet: Sheet, request: Request, frame: WorkFrame, masks: list[np.ndarray], mask: np.ndarray | None, pack: Pack, method: Method
) -> list[Voice]:
    """What a pack is asked at every step; masks from `element_masks`; mask (h, w): an inpaint's outline in cells, from `mask_outline`;
    None for other passes.

    "steer": one voice whose lines know their places. "text": one voice, places left out. "blend": a voice for the scene and
    one for each element (scene, house and own words), shared out by the outlines: x0 = sum(w m x0_i) / sum(w m), with m = 1 for
    the scene.
    """
    cells = (frame.height // pack.info.cell, frame.width // pack.info.cell)
    small = [resize_mask(m, *cells) for m in masks]

    def place(index: int | None) -> np.ndarray | None:
        if index is None:
            return None
        return mask if index == -1 else small[index]

    told, away = spoken(sheet, request)
    told = together(told, pack)
    if method != "blend":
        at = place if method == "steer" else lambda _: None
        lines = [tuple(Line(o, p, w, at(i)) for o, p, w, i in x) for x in (told, away)]
        return [Voice(lines[0], lines[1])]
    out = []
    everywhere = np.full(cells, sheet.scene.weight, np.float32)
    for index in speakers(told, method):
        outline = place(index)
        weight = 1.0 if index is None or index == -1 else sheet.elements[index].weight
        share = everywhere if outline is None else weight * outline
        # The element's weight is in its share already; its phrases keep only their emphasis.
        lines = [
            tuple(Line(o, p, w / weight if i is not None and weight else w, None) for o, p, w, i in x if i in (None, index))
            for x in (told, away)
        ]
        out.append(Voice(lines[0], lines[1], np.asarray(share, np.float32)))
    return out


def to_rows(lines: Sequence[Line], pack: Pack, cells: tuple[int, int]) -> Rows:
    """Lines as arrays; phrases without a known word are left out, and so are those outside the frame.

    Raises:
        Refused: more phrases than the pack reads.
    """
    known = [(line, pack.read(line.phrase)[0]) for line in lines]
    known = [(line, ids) for line, ids in known if ids and (line.outline is None or line.outline.any())]
    if len(known) > pack.info.rows:
        raise Refused(f"The model reads at most {pack.info.rows} phrases at a time; these are {len(known)}. Say less, or join elements.")
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
