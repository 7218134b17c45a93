"""What the model is told, and where: phrases, their outlines in latent cells, their weights."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from scipy import ndimage

from ..packs import ELEMENT, NONE, SCENE, Pack, Rows
from ..picture.resample import resize_mask
from ..refused import Refused
from ..values.element import Element
from ..values.frame import Rect, WorkFrame
from ..values.masks import feather_inside
from ..values.outline import rasterise
from ..values.shaping import rounded
from ..worded import worded
from .said import EVERYWHERE, Everywhere, InMask, Said, Where, together

#: "steer": the graph is told where; "blend": a prediction for each place, mixed by the outlines; "text": places left out.
Method = Literal["steer", "blend", "text"]
#: Rows and columns of latent cells.
Cells = tuple[int, int]


@dataclass(frozen=True)
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


@dataclass(frozen=True, eq=False)
class Area:
    """Where words count: outline (h, w) float32 0..1 in cells, None for everywhere; how much against other places; and which part of the
    outline, (h, w) likewise, wears what is worn, None: it is not known."""

    outline: np.ndarray | None
    weight: float = 1.0
    worn: np.ndarray | None = None


def element_masks(elements: Sequence[Element], frame: WorkFrame) -> list[np.ndarray]:
    """Each element's feathered outline in the frame, (height, width) float32, far to near; near ones cut
    into far ones."""
    masks: list[np.ndarray] = []
    free = np.ones((frame.height, frame.width), np.float32)
    kx, ky = frame.width / frame.rect.width, frame.height / frame.rect.height
    for e in reversed(elements):
        m = feather_inside(rasterise(e.outline, frame.rect, frame.height, frame.width), e.feather * frame.scale)
        # Elsewhere it is 0, and most things are small.
        (x0, y0, x1, y1), rect = e.outline.box, frame.rect
        box = (x0 - rect.x0) * kx, (y0 - rect.y0) * ky, (x1 - rect.x0) * kx, (y1 - rect.y0) * ky
        at = rounded(box, 1).intersect(Rect(0, 0, frame.width, frame.height)).slices
        seen, unseen = m[at] * free[at], 1 - m[at]
        free[at] *= unseen
        m[at] = seen
        masks.append(m)
    return masks[::-1]


def speakers(told: Iterable[Said], method: Method) -> list[Where]:
    """Whose words are asked for by themselves: with "blend" the scene's and every place's that has words, else all together."""
    places = (one.where for one in told if one.where != EVERYWHERE)
    return [EVERYWHERE, *dict.fromkeys(places)] if method == "blend" else [EVERYWHERE]


def asked_away(away: Sequence[Said], where: Where) -> tuple[tuple[str, float], ...]:
    """What a voice is led away from."""
    return tuple((one.phrase, one.weight) for one in away if one.where in (EVERYWHERE, where))


def mask_outline(strength: np.ndarray, cells: Cells) -> np.ndarray:
    """An inpaint's outline (h, w) in cells, from the pass's strength map (height, width): the painted cells without their outermost
    ring, so that the new thing has air between itself and the hole's edge; a small mask keeps all its cells."""
    m = resize_mask((strength > 0).astype(np.float32), *cells)
    inner = ndimage.binary_erosion(m > 0.5, border_value=1)
    return np.asarray(m * inner, np.float32) if inner.sum() >= 12 else m


def voices(
    told: Sequence[Said], away: Sequence[Said], areas: Mapping[Where, Area], cells: Cells, pack: Pack, method: Method
) -> list[Voice]:
    """What a pack is asked at every step.

    "steer": one voice whose lines know their places. "text": one voice, places left out. "blend": a voice for the scene and
    one for each place (scene, house and own words), shared out by the outlines: x0 = sum(w m x0_i) / sum(w m), with m = 1 for
    the scene.
    """
    told = together(told, pack)
    if method != "blend":

        def line(one: Said) -> Line:
            return Line(one.owner, one.phrase, one.weight, areas[one.where].outline if method == "steer" else None)

        whole = tuple(map(line, told))
        if method == "steer":
            apart = tuple(part for one, all_of in zip(told, whole, strict=True) for part in _clothed(all_of, areas[one.where], pack))
            whole = apart if len(apart) <= pack.info.rows else whole
        return [Voice(whole, tuple(map(line, away)))]
    out = []
    for where in speakers(told, method):
        area = areas[where]
        full = np.full(cells, area.weight, np.float32)
        share = full if area.outline is None else area.weight * area.outline
        lines = [tuple(_blended(one, areas[one.where]) for one in said if one.where in (EVERYWHERE, where)) for said in (told, away)]
        out.append(Voice(lines[0], lines[1], np.asarray(share, np.float32)))
    return out


def _clothed(line: Line, area: Area, pack: Pack) -> list[Line]:
    """A line about somebody whose clothes are named, twice: about head and all without them, and about the clothed part with them. Told
    over all of somebody, a red dress would make red hair."""
    if area.worn is None or area.outline is None or (bare := without_worn(line.phrase, pack)) == line.phrase:
        return [line]
    worn = replace(line, outline=area.worn)
    return [replace(line, phrase=bare, outline=np.maximum(0, area.outline - area.worn)), worn] if bare else [worn]


def without_worn(phrase: str, pack: Pack) -> str:
    """A phrase without the clothes in it, and their colours."""
    worn, colours = ({tuple(pack.read(w)[0]) for w in words} for words in (pack.info.worn, pack.finder.colours if pack.finder else ()))
    out: list[str] = []
    for word in phrase.split():
        ids = tuple(pack.read(word)[0])
        if ids not in worn:
            out.append(word)
        elif out and tuple(pack.read(out[-1])[0]) in colours:
            out.pop()
    return " ".join(out)


def _blended(one: Said, area: Area) -> Line:
    # A place's weight is in its share already; its phrases keep only their emphasis.
    shared = not isinstance(one.where, Everywhere | InMask) and area.weight
    return Line(one.owner, one.phrase, one.weight / area.weight if shared else one.weight, None)


def to_rows(lines: Sequence[Line], pack: Pack, cells: Cells) -> Rows:
    """Lines as arrays; phrases without a known word are left out, and so are those outside the frame.

    Raises:
        Refused: more phrases than the pack reads.
    """
    known = [(line, pack.read(line.phrase)[0]) for line in lines]
    known = [(line, ids) for line, ids in known if ids and (line.outline is None or line.outline.any())]
    if len(known) > pack.info.rows:
        raise Refused(
            worded("The model reads at most {0} phrases at a time; these are {1}. Say less, or join elements.", pack.info.rows, len(known))
        )
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
