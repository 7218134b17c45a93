"""What passes are told by pictures, as recipes hold it; and what is to be said of it beforehand."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache, partial
from typing import Any

import numpy as np

from ..fields import needed, taken_list, taken_number, taken_table, taken_whole, taken_words
from ..packs import Pack, PackInfo
from ..picture.ink import LEAST_DRAWN, flat, looks_photographed, nearness
from ..picture.resample import resize_rgba
from ..refused import Refused
from ..seen.find import looked
from ..told.guides import LOOKED_AT, drawing_in, drawn_of
from ..values.as_json import grey_from_json, grey_to_json
from ..values.element import phrases
from ..values.frame import Rect, WorkFrame
from ..values.layers import DEPTH, GUIDES, LINES, LOOK, Layer, PictureLayer
from ..values.outline import rasterise
from ..values.sheet import Sheet
from ..worded import worded
from .cautions import Caution, Mend
from .mends import fitted_to

WHAT = "A guide of the recipe"
#: Capabilities of packs, and what of a sheet each is for.
NEEDS = {LINES: "lines", DEPTH: "depth", LOOK: "looks"}
#: Of an element's drawing, the least share that lies in its outline; and how sure a finder has to be of what a look shows.
INSIDE, SURE = 0.4, 0.7
#: How the forecast says what is told: its name, how much it counts, and at which steps.
TOLD = {
    LINES: "Follows the drawing “{0}” at {1:.2g}{2}.",
    DEPTH: "Follows the depth “{0}” at {1:.2g}{2}.",
    LOOK: "Takes its look from “{0}” at {1:.2g}{2}.",
}


@lru_cache(maxsize=8)
def _settled(layer: Layer, sheet: Rect) -> Layer:
    """A layer that is told to passes as a recipe holds it, as far as it lies on the sheet: a drawing as black by its alpha; of a look its
    whole picture, as large as it is looked at. The same again, settled once more."""
    if layer.ink is not None and layer.role == LINES:
        return layer
    if layer.role == LOOK:
        pixels, at = _looked_at(layer.shown), layer.bounds
    else:
        at = layer.bounds.intersect(sheet)
        here = at.moved(-layer.bounds.x0, -layer.bounds.y0).slices
        pixels = layer.shown[here]
        if layer.role == LINES:
            grey = drawn_of(layer)[here]
            pixels = np.dstack([np.zeros((*grey.shape, 3), np.uint8), grey])
    if not pixels.size:
        pixels = np.zeros((1, 1, 4), np.uint8)
    common = {name: getattr(layer, name) for name in ("opacity", "role", "acts", "of")}
    return PictureLayer(layer.key, layer.name, np.ascontiguousarray(pixels), at.x0, at.y0, **common)


def guide_to_json(layer: Layer, sheet: Rect) -> dict[str, Any]:
    """A layer that is told to passes."""
    layer = _settled(layer, sheet)
    pixels, at = layer.shown, layer.bounds
    if layer.ink is not None:
        # Black, as it comes back.
        pixels = np.dstack([np.zeros((*layer.ink.shape, 3), np.uint8), layer.ink])
    out = {"what": layer.role, "name": layer.name, "at": [at.x0, at.y0], "weight": layer.opacity, "acts": list(layer.acts)}
    if layer.of is not None:
        out["of"] = layer.of
    h, w = pixels.shape[:2]
    return out | {"pixels": grey_to_json(pixels.reshape(h, 4 * w))}


def guide_from_json(value: Any, key: int) -> Layer:
    """The inverse of `guide_to_json`, as a layer of its own key.

    Raises:
        Refused: it is none.
    """
    d = taken_table(value, WHAT)
    role = taken_words(needed(d, "what", WHAT), WHAT)
    if role not in GUIDES:
        raise Refused(worded("A guide is one of {0}, not “{1:.40}”.", ", ".join(GUIDES), role))
    x, y = _numbers(d.get("at"), True)
    acts = _numbers(d.get("acts", [0.0, 1.0]), False)
    of = None if d.get("of") is None else taken_whole(d["of"], WHAT)
    rows = grey_from_json(needed(d, "pixels", WHAT))
    if rows.shape[1] % 4:
        raise Refused(worded("A guide of the recipe is damaged: its picture has no four values a pixel."))
    pixels = rows.reshape(rows.shape[0], -1, 4)
    weight = taken_number(d.get("weight", 1.0), WHAT)
    name = taken_words(d.get("name", ""), WHAT)
    return PictureLayer(key, name, pixels, int(x), int(y), opacity=weight, role=role, acts=acts, of=of)


def _numbers(value: Any, whole: bool) -> tuple[float, float]:
    listed = [taken_whole(v, WHAT) if whole else taken_number(v, WHAT) for v in taken_list(value, WHAT)]
    if len(listed) != 2:
        raise Refused(worded("{0} has to be two numbers.", WHAT))
    return listed[0], listed[1]


def _looked_at(pixels: np.ndarray) -> np.ndarray:
    k = min(1.0, LOOKED_AT / max(pixels.shape[:2]))
    h, w = (max(1, round(n * k)) for n in pixels.shape[:2])
    return resize_rgba(pixels, h, w)


def settled_guides(sheet: Sheet) -> Sheet:
    """The sheet whose guides are as a recipe would hold them, so that a pass repeats from it."""
    if not sheet.guides():
        return sheet
    layers = tuple(_settled(x, sheet.rect) if x.visible and x.role in GUIDES else x for x in sheet.layers)
    return replace(sheet, layers=layers)


def guides_told(sheet: Sheet, info: PackInfo) -> list[str]:
    """What passes are told by pictures, and what was merged into the model, in sentences."""
    out = [worded("With the add-on {0}.", ", ".join(info.add_ons))] if info.add_ons else []
    for layer in sheet.guides():
        if NEEDS[layer.role] not in info.capabilities:
            left = worded("The pack {0} cannot be told a {1}: “{2}” is left out.", info.name, worded(layer.role), layer.name)
            out.append(left)
            continue
        often = "" if layer.acts == (0.0, 1.0) else worded(", from {0:.0%} to {1:.0%} of the steps", *layer.acts)
        out.append(worded(TOLD[layer.role], layer.name, layer.opacity, often))
    return out


def of_guides(sheet: Sheet, frame: WorkFrame, pack: Pack) -> list[Caution]:
    """What looks wrong with what passes are told by pictures."""
    out, info = _strays(sheet), pack.info
    for layer in sheet.guides():
        if NEEDS[layer.role] not in info.capabilities or not layer.opacity:
            continue
        if layer.role != LOOK and not layer.bounds.intersect(frame.rect).area:
            out.append(Caution(worded("“{0}” lies outside of what is computed: nothing of it is told.", layer.name)))
        elif layer.role == LINES:
            drawn = drawn_of(layer)[:: _step(layer), :: _step(layer)] / np.float32(255)
            if looks_photographed(drawn):
                text = worded("“{0}” hardly looks like a drawing: much of it is neither line nor paper. ", layer.name)
                out.append(Caution(text + worded("Make lines of it first (Layer, Lines of this picture).")))
            elif not drawn.max(initial=0) > LEAST_DRAWN:
                out.append(Caution(worded("Nothing is drawn in “{0}”.", layer.name)))
        elif layer.role == DEPTH and flat(nearness(layer.shown)):
            out.append(Caution(worded("“{0}” says that all is equally near: it tells nothing.", layer.name)))
        elif layer.role == LOOK and float(np.ptp(layer.shown[..., :3], axis=(0, 1)).max()) < 6:
            out.append(Caution(worded("“{0}” is of one colour: its look is that colour, and a smooth ground.", layer.name)))
        elif layer.role == LOOK and (seen := _other_hour(layer, sheet, pack)):
            text = worded("“{0}” looks like {1}, the words say {2}: they pull against each other.", layer.name, *seen)
            out.append(Caution(text, "scene"))
    return out


def _step(layer: Layer) -> int:
    """Every so-manieth pixel of a large drawing is enough to judge it by."""
    return max(1, max(layer.bounds.width, layer.bounds.height) // 1024)


def _strays(sheet: Sheet) -> list[Caution]:
    """Drawings of elements that lie mostly beside their outlines."""
    out = []
    for layer in sheet.guides(LINES):
        if layer.of is None or not sheet.has_element(layer.of):
            continue
        e, drawn = sheet.element(layer.of), drawing_in(layer, sheet.rect)
        total = float(drawn.sum())
        inside = rasterise(e.outline, sheet.rect, sheet.height, sheet.width) > 0
        if total and float(drawn[inside].sum()) < INSIDE * total:
            ys, xs = np.nonzero(drawn > LEAST_DRAWN)
            box = float(xs.min()), float(ys.min()), float(xs.max() + 1), float(ys.max() + 1)
            text = worded("The drawing of “{0}” lies mostly beside its outline.", e.name)
            out.append(Caution(text, e.key, Mend(worded("Fit the outline to it"), partial(fitted_to, key=e.key, box=box))))
    return out


def _other_hour(layer: Layer, sheet: Sheet, pack: Pack) -> tuple[str, str] | None:
    """What a look's picture shows as a whole, and what the scene says instead; None where they agree, or nobody knows."""
    if pack.finder is None:
        return None
    said = [p.lower() for p in phrases(sheet.scene.words)]
    known = [i for i, label in enumerate(pack.finder.whole) if label in said]
    if not known:
        return None
    sure = _whole_of(layer, pack)
    best = int(sure.argmax())
    if sure[best] < SURE or best in known:
        return None
    return pack.finder.whole[best], pack.finder.whole[known[0]]


@lru_cache(maxsize=8)
def _whole_of(layer: Layer, pack: Pack) -> np.ndarray:
    """How surely each of the finder's labels of a whole picture is seen in a layer's own, (S,)."""
    return looked(layer.shown, pack)[1]
