"""Writes into a pack where the world's things are wont to be: boxes of whole, large ones of many scenes.

`python -m training.places [--config FILE] [--out DIR]`
"""

from __future__ import annotations

import json
from collections import Counter, defaultdict
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from waldrand.packs.place_list import read_places

from .config import Config
from .manifest import renew
from .render import scene_rng
from .world.canvas import Part
from .world.scene import Scene, paint_scene
from .world.words import FAR, FINISHES, GROUNDS, INDOORS, SEASONS, SETTINGS, SKIES

LIST, PORTRAIT = "places.json", "portrait"
#: Scenes that nothing else uses; pixels they are painted at; how many at a time.
FIRST, SIZE, BATCH = 4_000_000, 256, 60
#: Spots kept of a kind or its portraits, and on the same ground.
MOST, MOST_ALIKE = 40, 16
#: Things of less than this share of the picture's side are left out; boxes that reach so near its edges may be cut by it.
LEAST_SIDE, EDGE = 0.1, 0.02
#: So much of a thing's box and its surroundings, a share of the picture's side wide, may lie in the boxes of nearer things, which
#: else may have cut it; nor may its width against its height be so far from its kind's median.
HIDDEN, ROUND, ODD = 0.12, 0.03, 1.6
#: What of its surroundings a thing's place depends on: not what is far off.
MATTERS = frozenset({*SETTINGS, *GROUNDS, "river bank", "wall", "floor", "tabletop"})
Box = tuple[float, float, float, float]


@dataclass(frozen=True)
class Seen:
    """A thing that stood somewhere: hundredths of the picture's sides."""

    kind: str
    box: tuple[int, int, int, int]
    where: tuple[str, ...]
    needs: tuple[str, ...]
    horizon: int | None

    @property
    def ratio(self) -> float:
        """Width against height."""
        x0, y0, x1, y1 = self.box
        return (x1 - x0) / (y1 - y0)


def _box(p: Part) -> Box | None:
    ys, xs = np.nonzero(p.mask > 0.35)
    h, w = p.mask.shape
    return (xs.min() / w, ys.min() / h, (xs.max() + 1) / w, (ys.max() + 1) / h) if len(ys) else None


def _shared(a: Box, b: Box) -> float:
    """The share of one box that lies in another."""
    w, h = min(a[2], b[2]) - max(a[0], b[0]), min(a[3], b[3]) - max(a[1], b[1])
    return max(0.0, w) * max(0.0, h) / ((a[2] - a[0]) * (a[3] - a[1]))


def seen_in(scene: Scene) -> list[Seen]:
    """The things of a scene that are whole and large enough."""
    boxes = [_box(p) for p in scene.parts]
    around = tuple(dict.fromkeys(w for w in (*scene.words, *(p.kind for p in scene.parts if p.big)) if w in MATTERS))
    ground = [b[1] for p, b in zip(scene.parts, boxes, strict=True) if b and p.kind in GROUNDS]
    horizon = round(100 * min(ground)) if ground else None
    out = []
    for i, (p, box) in enumerate(zip(scene.parts, boxes, strict=True)):
        # A portrait ends at the picture's edges.
        needs = tuple(t for t, _ in (*p.before, *p.after) if t == PORTRAIT)
        if p.big or box is None or ((min(box[:2]) < EDGE or max(box[2:]) > 1 - EDGE) and not needs):
            continue
        nearer = (b for q, b in zip(scene.parts[i + 1 :], boxes[i + 1 :], strict=True) if b and not q.big)
        side = ((box[2] - box[0]) * (box[3] - box[1])) ** 0.5
        wider = box[0] - ROUND, box[1] - ROUND, box[2] + ROUND, box[3] + ROUND
        if side < LEAST_SIDE or any(_shared(wider, b) > HIDDEN for b in nearer):
            continue
        x0, y0, x1, y1 = (round(100 * v) for v in box)
        out.append(Seen(p.kind, (x0, y0, x1, y1), around, needs, horizon))
    return out


def _batch(first: int) -> list[Seen]:
    return [seen for n in range(first, first + BATCH) for seen in seen_in(paint_scene(scene_rng(n), SIZE, fine=2))]


def kept(seen: Sequence[Seen]) -> dict[str, list[Seen]]:
    """Of each kind, portraits for themselves, some spots on every kind of ground."""
    ratios: dict[tuple[str, ...], list[float]] = defaultdict(list)
    for s in seen:
        ratios[s.kind, *s.needs].append(s.ratio)
    usual = {sort: float(np.median(of)) for sort, of in ratios.items()}
    out: dict[tuple[str, ...], list[Seen]] = defaultdict(list)
    alike: Counter[tuple[str, ...]] = Counter()
    for s in seen:
        sort = s.kind, *s.needs
        ground = *sort, *(w for w in s.where if w in (*GROUNDS, *SETTINGS))
        whole = 1 / ODD <= s.ratio / usual[sort] <= ODD
        if whole and len(out[sort]) < MOST and alike[ground] < MOST_ALIKE:
            alike[ground] += 1
            out[sort].append(s)
    kinds: dict[str, list[Seen]] = defaultdict(list)
    for (kind, *_), of in sorted(out.items()):
        kinds[kind] += of
    return dict(kinds)


def write_places(config: Config, folder: Path) -> dict[str, str]:
    """Writes them into a folder; what a pack's manifest says of them."""
    c = config["places"]
    with ProcessPoolExecutor(c["processes"]) as pool:
        spots = kept([s for batch in pool.map(_batch, range(FIRST, FIRST + c["scenes"], BATCH)) for s in batch])
    whole = json.dumps([*SKIES, *GROUNDS, *FAR, *INDOORS, *SETTINGS, *SEASONS, *FINISHES])
    kinds = ",\n".join(
        f"{json.dumps(kind)}: [\n"
        + ",\n".join(json.dumps({"box": s.box, "where": s.where, "needs": s.needs, "horizon": s.horizon}) for s in of)
        + "]"
        for kind, of in spots.items()
    )
    (folder / LIST).write_text(f'{{"whole": {whole},\n"spots": {{\n{kinds}}}}}\n')
    return {"list": LIST}


def main() -> None:
    out = renew(__doc__, "places", write_places)
    spots, _ = read_places(out / LIST)
    print(f"{sum(map(len, spots.values()))} places of {len(spots)} kinds in {out}")


if __name__ == "__main__":
    main()
