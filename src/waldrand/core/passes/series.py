"""One pass in several settings at the same seed: ladders of strength, and what a setting does."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial
from threading import Event

from ..fields import fields_of
from ..packs import Pack
from ..refused import Refused
from ..values.element import SceneWords
from ..values.sheet import Sheet
from ..worded import worded
from .at_once import how_many, in_order
from .plan import plan
from .request import Request
from .run import run_take
from .settings import SETTINGS, PassSettings
from .take import Take
from .watch import Progress, Watch
from .wording import Change, is_said, reworded

MOST_CELLS = 100
LADDER = (0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9)


@dataclass(frozen=True, eq=False)
class Variant:
    """label: what is different here, for people."""

    label: str
    sheet: Sheet
    request: Request


@dataclass(frozen=True)
class Over:
    """What is changed, and to which values, as they were written."""

    what: str
    values: tuple[str, ...]


#: What can be varied in a pass, by name.
VARIED = (
    *("steps", "seed", "guidance", "drawing_guidance", "strength", "spacing", "detail", "ink", "margin"),
    *("method", "sampler", "figures", "grounds", "places", "weather", "carry_detail", "paper"),
)
SCENE_WEIGHT = "scene-weight"


def plain_name(what: str) -> str:
    """What can be varied, as people say it."""
    return re.sub("[-_]", " ", what)


def parse_over(text: str) -> Over:
    """ "guidance=2,4", or a phrase and others in its place: "fox=owl,hare".

    Raises:
        Refused: no "=" or nothing behind it.
    """
    what, equals, values = text.partition("=")
    given = tuple(v.strip() for v in values.split(",") if v.strip())
    if not equals or not what.strip() or not given:
        raise Refused(worded("“{0}” does not say what to change: write guidance=2,4, or a phrase and others, like fox=owl,hare.", text))
    return Over(what.strip(), given)


def _setting(what: str, value: str) -> Change:
    def change(sheet: Sheet, request: Request) -> tuple[Sheet, Request]:
        if what == SCENE_WEIGHT:
            weight = fields_of(SceneWords)["weight"].typed(value)
            return replace(sheet, scene=replace(sheet.scene, weight=weight)), request
        return sheet, replace(request, settings=replace(request.settings, **{what: SETTINGS[what].typed(value)}))

    return change


def _changes(over: Over, sheet: Sheet, request: Request) -> list[tuple[str, Change]]:
    settings = (*VARIED, SCENE_WEIGHT)
    if over.what in settings:
        return [(f"{plain_name(over.what)} {v}", _setting(over.what, v)) for v in over.values]
    if not is_said(sheet, request, over.what):
        raise Refused(worded("“{0}” is neither a setting ({1}) nor a phrase that is said on this sheet.", over.what, ", ".join(settings)))
    return [(v, partial(reworded, before=over.what, after=v)) for v in over.values]


def vary(sheet: Sheet, request: Request, overs: Sequence[Over]) -> list[list[Variant]]:
    """Rows of variants: one row for one thing varied; for two, a row for each value of the second.

    Raises:
        Refused: none or more than two things, an unknown one, a value that does not suit, or too many cells.
    """
    if not 1 <= len(overs) <= 2:
        raise Refused(worded("Vary one or two things at a time."))
    across = _changes(overs[0], sheet, request)
    down = _changes(overs[1], sheet, request) if len(overs) == 2 else [("", lambda s, r: (s, r))]
    if len(across) * len(down) > MOST_CELLS:
        raise Refused(worded("That would be {0} pictures; at most {1} at a time.", len(across) * len(down), MOST_CELLS))
    rows = []
    for label_down, change_down in down:
        row = []
        for label, change in across:
            s, r = change(*change_down(sheet, request))
            row.append(Variant(f"{label}, {label_down}" if label_down else label, s, r))
        rows.append(row)
    return rows


def ladder(sheet: Sheet, request: Request, strengths: Sequence[float] = LADDER) -> list[Variant]:
    """The same pass at rising strengths.

    Raises:
        Refused: fewer than two strengths, one outside 0..1, or nothing to start from.
    """
    if len(strengths) < 2:
        raise Refused(worded("A ladder needs at least two strengths."))
    if not sheet.has_picture:
        raise Refused(worded("A ladder shows how far a picture is left, and there is no picture on the sheet to start from."))
    settings: list[PassSettings] = [replace(request.settings, strength=s) for s in sorted(set(strengths))]
    return [Variant(worded("strength {0:.2f}", s.strength), sheet, replace(request, settings=s)) for s in settings]


def run_variants(
    variants: Sequence[Variant], pack: Pack, progress: Progress | None = None, stop: Event | None = None
) -> Iterator[tuple[Variant, Take]]:
    """A take of each, in turn.

    Raises:
        Refused: one of them cannot run.
        Stopped: `stop` was set; those yielded before stay good.
    """
    # All are planned before any costs time.
    plans = [plan(v.sheet, v.request, pack) for v in variants]
    makes = [partial(run_take, p, pack, v.request.settings.seed) for v, p in zip(variants, plans, strict=True)]
    at_once = how_many(pack.info, len(variants), max((p.memory for p in plans), default=0))
    yield from zip(variants, in_order(makes, Watch(progress, stop), at_once), strict=True)
