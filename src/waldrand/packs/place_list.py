"""A pack's places: where each kind of thing is wont to be."""

from __future__ import annotations

import json
from pathlib import Path

from ..core.packs import Spot
from ..core.refused import Refused

MOST_SPOTS, LARGEST_FILE = 50_000, 20_000_000


def read_places(listed: Path) -> tuple[dict[str, tuple[Spot, ...]], tuple[str, ...]]:
    """The spots of a pack by the things' words, and the phrases of the whole (docs/pack-format.md).

    Raises:
        Refused: the list cannot be read, or states places that cannot be.
    """
    try:
        if listed.stat().st_size > LARGEST_FILE:
            raise Refused(f"The pack's places in {listed} are far too many.")
        d = json.loads(listed.read_text("utf-8"))
        out = {str(kind): tuple(map(_spot, of)) for kind, of in d["spots"].items()}
        if sum(map(len, out.values())) > MOST_SPOTS:
            raise Refused(f"The pack's places in {listed} are far too many.")
        return out, tuple(map(str, d["whole"]))
    except (KeyError, TypeError, AttributeError, json.JSONDecodeError, UnicodeDecodeError, OSError) as error:
        raise Refused(f"The pack's places in {listed} cannot be read: {error}") from error


def _spot(d: dict[str, object]) -> Spot:
    box, horizon = [float(v) / 100 for v in d["box"]], d["horizon"]  # type: ignore[attr-defined]
    match box:
        case [x0, y0, x1, y1] if 0 <= x0 < x1 <= 1 and 0 <= y0 < y1 <= 1:
            where, needs = (frozenset(map(str, d[k])) for k in ("where", "needs"))  # type: ignore[call-overload]
            return Spot((x0, y0, x1, y1), where, needs, None if horizon is None else float(horizon) / 100)  # type: ignore[arg-type]
    raise Refused(f"The pack states a place that cannot be: {d['box']}.")
