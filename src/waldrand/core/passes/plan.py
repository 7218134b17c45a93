"""Plans a pass before it costs time: its frame, its steps, and what looks wrong."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache, partial
from typing import Literal

import numpy as np

from ..noise.guidance import leads
from ..noise.levels import executed_steps, spaced_levels
from ..noise.samplers import evaluations
from ..packs import Finder, Pack, PackInfo
from ..refused import Refused
from ..seen.found import covered, describe
from ..told.placing import Places, things_to_place, with_places
from ..told.voices import mask_outline, speakers, spoken, together
from ..values.element import Element, phrases
from ..values.frame import Rect, WorkFrame, fitted_frame, whole_frame
from ..values.masks import Mask
from ..values.outline import Box, Outline, area, rasterise
from ..values.resize import scaled
from ..values.sheet import Layer, Patch, Sheet
from .fitting import ANEW, figures_for, fitted_figures, mask_figure
from .nearer import nearer_pass, small_ones
from .request import Method, Request
from .speed import BYTES_PER_ANSWER, BYTES_PER_PICTURE, Speed
from .strength import strength_map
from .wording import Change, reworded

#: From this detail on things come twice where no figures are told.
FINER = 1.1
#: A figure that fills less of its outline's box is worth a word.
LEAST_FILLED = 0.55
#: Words that are no element's: the scene's, the house words, those of an inpaint or rework itself.
Field = Literal["scene", "house", "pass"]


@dataclass(frozen=True, eq=False)
class Mend:
    """A way to put right what a caution is about. label: what a button for it says."""

    label: str
    apply: Change


@dataclass(frozen=True, eq=False)
class Caution:
    """Something that looks wrong. about: an element's key, or the words it is about; mend: how to put it right, where there is one way."""

    text: str
    about: int | Field | None = None
    mend: Mend | None = None


@dataclass(frozen=True, eq=False)
class Plan:
    """A pass ready to run. request: with every element named that is painted from nearer, and
    what an inpaint without words leads away from;
    method: the one really used; steps: those really run; calls: of the network; changed: share of
    the sheet 0..1; seconds: a take will take, None while the machine's speed is not known; memory: bytes the network needs;
    mask_figure: what an inpaint's first take fits into its mask, on the sheet."""

    sheet: Sheet
    request: Request
    info: PackInfo
    frame: WorkFrame
    method: Method
    steps: int
    calls: int
    changed: float
    seconds: float | None
    memory: int
    sentences: tuple[str, ...]
    warnings: tuple[Caution, ...]
    mask_figure: Outline | None = None

    def expected(self, speed: Speed) -> float:
        """Seconds a take would take at a speed."""
        whole = (self.calls, _cells(self.frame, self.info))
        return sum(speed.seconds(*one) for one in (whole, *_nearer(self.sheet, self.request, self.info)))


def _cells(frame: WorkFrame, info: PackInfo) -> int:
    return (frame.width // info.cell) * (frame.height // info.cell)


def plan(sheet: Sheet, request: Request, pack: Pack, speed: Speed | None = None) -> Plan:
    """What the next pass will do. Elements that are not visible take no part, except that a hold still holds.

    Raises:
        Refused: the pass cannot run at all, or an element cannot be painted from nearer, in a sentence that says what to do.
    """
    info, settings = pack.info, request.settings
    limits = info.limits.at(settings.detail)
    sheet = replace(sheet, elements=tuple(e for e in sheet.elements if e.visible or e.hold))
    strongest = settings.strength
    shapes = {} if request.kind == "inpaint" else fitted_figures(sheet, request, pack, settings.seed)
    if request.kind == "compose":
        if not any((*phrases(sheet.scene.words), *(p for e in sheet.elements for p in phrases(e.words)))):
            raise Refused("There are no words yet: say what the scene is, or give an element words.")
        strongest = settings.strength if sheet.has_picture else 1.0
    elif not sheet.has_picture:
        raise Refused("There is no picture on the sheet to start from: compose one, or open one.")
    elif request.kind == "inpaint":
        if sheet.mask is None or sheet.mask.empty:
            raise Refused("The mask is empty: paint where the picture may change.")
        frame = fitted_frame(sheet.mask.box(), sheet.width, sheet.height, limits, settings.margin)
        strongest = settings.strength * int(sheet.mask.read(frame.rect).max()) / 255
    if request.kind != "inpaint":
        if sheet.has_picture:
            strongest = max([strongest, *(e.strength for e in sheet.elements if e.strength is not None and not e.hold)])
        frame = whole_frame(sheet.width, sheet.height, limits.placed if _settled(sheet, strongest, shapes) else limits)
    if gone := _gone(sheet, request, frame, pack):
        request = replace(request, avoid=", ".join(gone))
    steps = executed_steps(settings.steps, strongest)
    method: Method = "blend" if settings.method == "steer" and "regions" not in info.capabilities else settings.method
    changed = _changed(sheet, request, frame)
    levels = spaced_levels(settings.steps, strongest, settings.spacing or info.spacing)
    asked = _asked(sheet, request, info, method, levels)
    calls, cells = sum(asked), _cells(frame, info)
    if request.small_nearer:
        small = tuple((key, None) for key in small_ones(sheet, frame, limits, settings.margin) if key not in dict(request.nearer))
        request = replace(request, nearer=(*small, *request.nearer), small_nearer=False)
    near = _nearer(sheet, request, info)
    said = _sentences(sheet, request, frame, steps, changed, method)
    if gone:
        said = (*said, f"Leads away from what stands there: {', '.join(gone)}.")
    in_mask = _mask_figure(sheet, request, frame, pack)
    if shapes:
        said = (*said, f"Fits a figure of {', '.join(f'“{sheet.element(key).name}”' for key in shapes)}.")
    elif in_mask is not None:
        said = (*said, f"Fits a figure of “{request.words}” into the mask.")
    if request.nearer:
        names = dict.fromkeys(f"“{sheet.element(key).name}”" for key, _ in request.nearer)
        said = (*said, f"Then paints from nearer: {', '.join(names)}.")
    return Plan(
        sheet,
        request,
        info,
        frame,
        method,
        steps,
        calls,
        changed,
        None if speed is None else sum(speed.seconds(*one) for one in ((calls, cells), *near)),
        cells * max(BYTES_PER_ANSWER * max(asked, default=0), BYTES_PER_PICTURE),
        said,
        _warnings(sheet, request, frame, pack, strongest, shapes),
        in_mask,
    )


def _nearer(sheet: Sheet, request: Request, info: PackInfo) -> list[tuple[int, int]]:
    """Network calls and cells of each element that is painted once more from nearer."""
    out = []
    for key, _ in request.nearer:
        seen, near = nearer_pass(sheet, request, sheet, key)
        assert seen.mask is not None
        limits = info.limits.at(near.settings.detail)
        frame = fitted_frame(seen.mask.box(), sheet.width, sheet.height, limits, near.settings.margin)
        levels = spaced_levels(near.settings.steps, near.settings.strength, near.settings.spacing or info.spacing)
        out.append((sum(_asked(seen, near, info, near.settings.method, levels)), _cells(frame, info)))
    return out


def _asked(sheet: Sheet, request: Request, info: PackInfo, method: Method, levels: np.ndarray) -> list[int]:
    """Answers of the network at each evaluation."""
    told, away = spoken(sheet, request)
    voices = speakers(told, method)
    aways = {tuple((p, w) for _, p, w, i in away if i in (None, v)) for v in voices}
    at = evaluations(levels, info.schedule, request.settings.sampler)
    return [len(voices) + (len(aways) if how == "asked" else 0) for how in leads(at, request, info)]


def _changed(sheet: Sheet, request: Request, frame: WorkFrame) -> float:
    """Share of the sheet a pass may change; holds are counted coarsely."""
    if request.kind == "inpaint":
        assert sheet.mask is not None
        painted = sum(int((t > 0).sum()) for t in sheet.mask.tiles.values())
        return painted / (sheet.width * sheet.height)
    grid = np.zeros((64, 64), np.float32)
    for e in sheet.elements:
        if e.hold and sheet.has_picture:
            grid = np.maximum(grid, rasterise(e.outline, sheet.rect, 64, 64))
    return float(1 - grid.mean())


def _gone(sheet: Sheet, request: Request, frame: WorkFrame, pack: Pack) -> tuple[str, ...]:
    """What an inpaint without words of its own takes away: the things that its mask covers. Else they would be continued too, from
    what is left of their shadows and reflections."""
    said = phrases(request.words) or phrases(request.avoid)
    if (
        request.kind != "inpaint"
        or not request.clears
        or said
        or pack.finder is None
        or not pack.info.avoids
        or request.settings.strength < ANEW
    ):
        return ()
    assert sheet.mask is not None
    return _covered(sheet.width, sheet.height, sheet.layers, sheet.mask, frame.rect, pack, pack.finder)


@lru_cache(maxsize=1)
def _covered(
    width: int, height: int, layers: tuple[Layer | Patch, ...], mask: Mask, rect: Rect, pack: Pack, finder: Finder
) -> tuple[str, ...]:
    """What a mask covers of the picture in a frame. Remembered: a look costs far more than the rest of a plan, and one is made anew
    at every change of words and settings. finder: the pack's, so that another one looks for itself."""
    return covered(Sheet(width, height, layers).flatten(rect), np.asarray(mask.read(rect) > 0, np.float32), pack)


def _mask_figure(sheet: Sheet, request: Request, frame: WorkFrame, pack: Pack) -> Outline | None:
    """An inpaint's figure, on the sheet."""
    if request.kind != "inpaint" or figures_for(request, pack) is None:
        return None
    h, w = frame.height // pack.info.cell, frame.width // pack.info.cell
    place = mask_outline(strength_map(sheet, request, frame, frame.height, frame.width), (h, w))
    shape, r = mask_figure(place, sheet, request, pack, request.settings.seed), frame.rect
    if shape is None:
        return None
    x0, y0, x1, y1 = shape.box
    kx, ky = r.width / w, r.height / h
    return shape.with_box((r.x0 + x0 * kx, r.y0 + y0 * ky, r.x0 + x1 * kx, r.y0 + y1 * ky))


def _percent(share: float) -> str:
    value = 100 * share
    return f"{value:.1f} %" if 0 < value < 10 else f"{value:.0f} %"


def _sentences(sheet: Sheet, request: Request, frame: WorkFrame, steps: int, changed: float, method: Method) -> tuple[str, ...]:
    s = request.settings
    scale = f"at {frame.width} x {frame.height}" + (f", {frame.scale:.2g} times the sheet's size" if abs(frame.scale - 1) > 0.02 else "")
    out = []
    if request.kind == "compose":
        placed = sum(1 for e in sheet.elements if phrases(e.words) and not e.hold)
        out.append(f"Composes the whole sheet with {placed} element{'' if placed == 1 else 's'}, computed {scale}.")
        if method == "text" and placed:
            out.append("Outlines are ignored: all words go into one prompt.")
        elif method == "blend" and placed:
            asked = "" if s.method == "blend" else " (this pack cannot steer)"
            out.append(f"One prediction for the scene and one for each element, blended by their outlines{asked}.")
    elif request.kind == "inpaint":
        out.append(
            f"Inpaints {_percent(changed)} of the sheet at {s.strength:.2f}, computed {scale}; {_percent(1 - changed)} stays untouched."
        )
    else:
        out.append(f"Reworks {_percent(changed)} of the sheet at {s.strength:.2f}, computed {scale}.")
    if steps == 0:
        out.append("Strength is 0: no step is run, and the take is what is there already.")
    else:
        out.append(
            f"Runs {steps} step{'' if steps == 1 else 's'}" + (f" of {s.steps}" if steps != s.steps else "") + f", guidance {s.guidance:g}."
        )
    return tuple(out)


def _settled(sheet: Sheet, strongest: float, shapes: dict[int, Outline]) -> bool:
    """Whether figures say what stands where, or the picture that is reworked: then more pixels make finer things, else more things."""
    return bool(shapes) or (sheet.has_picture and strongest < ANEW)


def _warnings(
    sheet: Sheet, request: Request, frame: WorkFrame, pack: Pack, strongest: float, shapes: dict[int, Outline]
) -> tuple[Caution, ...]:
    out: list[Caution] = []
    told, away = spoken(sheet, request)
    by_name: dict[str, int | Field] = {"scene": "scene", "house": "house", "mask": "pass", "pass": "pass"}
    by_name |= {e.name: e.key for e in sheet.elements}
    for owner, phrase, _, _ in (*told, *away):
        for u in pack.read(phrase)[1]:
            near = f" Nearest: {', '.join(u.nearest)}." if u.nearest else ""
            text = f"The model does not know “{u.word}” ({owner}).{near}"
            if all(w.text != text for w in out):
                mend = Mend(f"Say “{u.nearest[0]}”", partial(reworded, before=u.word, after=u.nearest[0])) if u.nearest else None
                out.append(Caution(text, by_name.get(owner), mend))
        ids = pack.read(phrase)[0]
        if len(ids) > pack.info.phrase_length:
            text = (
                f"“{phrase}” ({owner}) has more words than the model reads in one phrase: {pack.info.phrase_length}. Cut it with a comma."
            )
            if all(w.text != text for w in out):
                out.append(Caution(text, by_name.get(owner)))
    wanted = {(p.lower(), i) for _, p, _, i in told}
    for owner, phrase, _, i in away:
        if (phrase.lower(), i) in wanted and request.kind != "inpaint":
            mend = Mend("Do not avoid it", partial(_not_avoided, phrase=phrase))
            out.append(Caution(f"“{phrase}” is both wanted and avoided ({owner}).", by_name.get(owner), mend))
    if (count := len(together(told, pack))) > pack.info.rows:
        out.append(Caution(f"The model reads at most {pack.info.rows} phrases; these are {count}.", "scene"))
    if request.kind == "inpaint":
        assert sheet.mask is not None
        out += _frame_warnings(sheet.mask.box(), sheet, frame)
        if not phrases(sheet.scene.words) and not phrases(request.words):
            mend = Mend("Read the scene off the picture", partial(_read_off, pack=pack)) if pack.finder is not None else None
            out.append(Caution("No words at all: the surroundings are continued as well as the model can.", "pass", mend))
    else:
        out += _element_warnings(sheet, request, frame, pack, shapes)
        if request.settings.detail > FINER and not _settled(sheet, strongest, shapes):
            text = "Computed finer than the model composes best where nothing tells it the shapes of things: things may come twice."
            out.append(Caution(text, None, Mend("Use detail 1", _usual_detail)))
    if request.kind != "compose" and 0 < strongest < 0.1:
        out.append(Caution(f"At strength {strongest:.2f} hardly anything changes.", None, Mend("Use 0.35", partial(_strength, value=0.35))))
    if request.kind == "rework" and strongest > 0.85:
        mend = Mend("Use 0.35", partial(_strength, value=0.35))
        out.append(Caution(f"At strength {strongest:.2f} hardly anything of the picture stays.", None, mend))
    stretch = frame.width * frame.rect.height / (frame.height * frame.rect.width)
    if max(stretch, 1 / stretch) > 1.15:
        out.append(
            Caution(
                f"This shape does not suit the model: it is computed at {frame.width} x {frame.height} and stretched, so things will "
                "look squeezed or drawn out.",
                None,
                _fitting(sheet, pack),
            )
        )
    if request.kind != "inpaint" and frame.scale < 0.6:
        out.append(
            Caution(
                f"The sheet is larger than the model can compose: it is computed at {frame.width} x {frame.height} "
                "and enlarged, so fine detail will be missing.",
                None,
                _fitting(sheet, pack),
            )
        )
    return tuple(out)


def _frame_warnings(box: Rect, sheet: Sheet, frame: WorkFrame) -> list[Caution]:
    r, out = frame.rect, []
    for side, touches, border in (
        ("left", box.x0 <= r.x0, r.x0 == 0),
        ("upper", box.y0 <= r.y0, r.y0 == 0),
        ("right", box.x1 >= r.x1, r.x1 == sheet.width),
        ("lower", box.y1 >= r.y1, r.y1 == sheet.height),
    ):
        if touches and not border:
            mend = Mend("More context", _more_context)
            out.append(Caution(f"The mask touches the work frame's {side} edge: a seam may show. Give more context.", None, mend))
    if frame.scale < 0.6:
        out.append(
            Caution(
                f"The mask is large: it is computed at {frame.scale:.2g} times the sheet's size and enlarged, "
                "so fine detail will be missing."
            )
        )
    return out


def _element_warnings(sheet: Sheet, request: Request, frame: WorkFrame, pack: Pack, shapes: dict[int, Outline]) -> list[Caution]:
    out = []
    placed = [e for e in sheet.elements if phrases(e.words) and not e.hold]
    if len(placed) > pack.info.elements:
        out.append(Caution(f"The model was taught up to {pack.info.elements} elements; with {len(placed)} some may fail."))
    n = 96
    drawn = {e.key: rasterise(e.outline, sheet.rect, n, n) for e in sheet.elements}
    for i, e in enumerate(sheet.elements):
        m = drawn[e.key]
        if not m.any():
            mend = Mend("Bring it back", partial(_moved_inside, key=e.key))
            out.append(Caution(f"“{e.name}” lies wholly outside the sheet and will not be painted.", e.key, mend))
            continue
        if e.hold:
            if not sheet.has_picture:
                out.append(Caution(f"“{e.name}” is held, but there is no picture to keep yet.", e.key))
            continue
        if not phrases(e.words):
            out.append(Caution(f"“{e.name}” has no words yet.", e.key))
        x0, y0, x1, y1 = e.outline.box
        if x0 < 0 or y0 < 0 or x1 > sheet.width or y1 > sheet.height:
            mend = Mend("Move it inside", partial(_moved_inside, key=e.key))
            out.append(Caution(f"The outline of “{e.name}” leaves the sheet.", e.key, mend))
        cell = pack.info.cell / frame.scale
        if min(x1 - x0, y1 - y0) < 3 * cell:
            mend = Mend("Make it larger", partial(_enlarged, key=e.key, least=3 * cell))
            out.append(Caution(f"“{e.name}” is smaller than the model can draw well: at least {3 * cell:.0f} pixels a side.", e.key, mend))
        if (shape := shapes.get(e.key)) is not None and (share := area(shape.box) / area(e.outline.box)) < LEAST_FILLED:
            text = f"“{e.name}” has another form than its outline, and fills only {_percent(share)} of it."
            out.append(Caution(text, e.key, Mend("Fit the outline to it", partial(_fitted_to, key=e.key, box=shape.box))))
        cover = np.maximum.reduce([np.zeros_like(m), *(drawn[o.key] for o in sheet.elements[i + 1 :])])
        hidden = float((m * cover).sum() / m.sum())
        if hidden > 0.7:
            mend = Mend("Bring it nearest", partial(_nearest, key=e.key))
            out.append(Caution(f"“{e.name}” is hidden to {_percent(hidden)} by nearer elements.", e.key, mend))
        if sheet.scene.weight > 0 and e.weight / sheet.scene.weight > 2.5:
            mend = Mend("Weigh it like the scene", partial(_weighed, key=e.key))
            out.append(Caution(f"The weight of “{e.name}” is high against the scene's: a hard shape may show.", e.key, mend))
    if request.kind == "compose" and pack.places is not None and request.settings.method == "steer":
        out += _unplaced(sheet, pack.places, pack.info.elements)
    if request.kind == "compose" and placed and not phrases(sheet.scene.words):
        free = 1 - np.maximum.reduce(list(drawn.values())).mean()
        if free > 0.02:
            text = f"The scene has no words: the {_percent(float(free))} that no element covers is left to the model."
            out.append(Caution(text, "scene"))
    return out


def _unplaced(sheet: Sheet, places: Places, most: int) -> list[Caution]:
    """Things that are only named, so that they land anywhere."""
    named = things_to_place(sheet, places)
    if not named:
        return []
    said, one = ", ".join(f"“{words}”" for words in named), len(named) == 1
    lacks = "has no place of its own" if one else "have no places of their own"
    text = f"{said} {lacks}: what only the scene names lands anywhere, or comes twice."
    mend = Mend("Give it a place" if one else "Give them places", partial(_given_places, places=places, most=most))
    return [Caution(text, "scene", mend if len(sheet.elements) < most else None)]


def _given_places(sheet: Sheet, request: Request, places: Places, most: int) -> tuple[Sheet, Request]:
    return with_places(sheet, places, request.settings.seed, most), request


def _read_off(sheet: Sheet, request: Request, pack: Pack) -> tuple[Sheet, Request]:
    """The scene's words as the finder sees them; without the things, of which small copies would sprout in the hole."""
    words = ", ".join(describe(sheet.flatten(), pack).scene)
    return replace(sheet, scene=replace(sheet.scene, words=words, emphasis=())), request


def _fitting(sheet: Sheet, pack: Pack) -> Mend | None:
    """Scaling the sheet to the model's best size of nearest shape; a picture is never scaled unasked."""
    if sheet.has_picture:
        return None
    ratio = sheet.width / sheet.height
    w, h = min(pack.info.best_sizes, key=lambda size: abs(np.log(size[0] / size[1] / ratio)))
    return Mend(f"Make it {w} x {h}", lambda s, r: (scaled(s, w, h), r))


def _not_avoided(sheet: Sheet, request: Request, phrase: str) -> tuple[Sheet, Request]:
    def without(words: str) -> str:
        return ", ".join(p for p in phrases(words) if p.lower() != phrase.lower())

    scene = replace(sheet.scene, avoid=without(sheet.scene.avoid), house_avoid=without(sheet.scene.house_avoid))
    elements = tuple(replace(e, avoid=without(e.avoid)) for e in sheet.elements)
    return replace(sheet, scene=scene, elements=elements), replace(request, avoid=without(request.avoid))


def _strength(sheet: Sheet, request: Request, value: float) -> tuple[Sheet, Request]:
    return sheet, replace(request, settings=replace(request.settings, strength=value))


def _usual_detail(sheet: Sheet, request: Request) -> tuple[Sheet, Request]:
    return sheet, replace(request, settings=replace(request.settings, detail=1.0))


def _more_context(sheet: Sheet, request: Request) -> tuple[Sheet, Request]:
    return sheet, replace(request, settings=replace(request.settings, margin=min(10.0, request.settings.margin + 0.25)))


def _changed_element(sheet: Sheet, key: int, change: Callable[[Element], Element]) -> Sheet:
    return sheet.with_element(change(sheet.element(key)))


def _moved_inside(sheet: Sheet, request: Request, key: int) -> tuple[Sheet, Request]:
    def inside(e: Element) -> Element:
        x0, y0, x1, y1 = e.outline.box
        w, h = min(x1 - x0, sheet.width), min(y1 - y0, sheet.height)
        x, y = min(max(x0, 0), sheet.width - w), min(max(y0, 0), sheet.height - h)
        return replace(e, outline=e.outline.with_box((x, y, x + w, y + h)))

    return _changed_element(sheet, key, inside), request


def _enlarged(sheet: Sheet, request: Request, key: int, least: float) -> tuple[Sheet, Request]:
    def larger(e: Element) -> Element:
        x0, y0, x1, y1 = e.outline.box
        k = max(1.0, least / (x1 - x0), least / (y1 - y0))
        cx, cy, w, h = (x0 + x1) / 2, (y0 + y1) / 2, k * (x1 - x0) / 2, k * (y1 - y0) / 2
        return replace(e, outline=e.outline.with_box((cx - w, cy - h, cx + w, cy + h)))

    return _changed_element(sheet, key, larger), request


def _fitted_to(sheet: Sheet, request: Request, key: int, box: Box) -> tuple[Sheet, Request]:
    return _changed_element(sheet, key, lambda e: replace(e, outline=replace(e.outline, shape="box", box=box))), request


def _nearest(sheet: Sheet, request: Request, key: int) -> tuple[Sheet, Request]:
    rest = tuple(e for e in sheet.elements if e.key != key)
    return replace(sheet, elements=(*rest, sheet.element(key))), request


def _weighed(sheet: Sheet, request: Request, key: int) -> tuple[Sheet, Request]:
    return _changed_element(sheet, key, lambda e: replace(e, weight=max(sheet.scene.weight, 0.1))), request
