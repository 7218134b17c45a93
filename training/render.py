"""Renders scenes into files: repeatable by seed, resumable by chunk.

`python -m training.render [--config FILE] [--work DIR]`
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path

import numpy as np
from PIL import Image
from scipy import ndimage

from .config import Config, arguments, load_config, work_folder
from .world.canvas import SHAPES, View
from .world.scene import CELLS, Scene, paint_scene
from .world.words import PARTS

MOST_PARTS = 16
HELD_OUT, SHARP, CLOSE, NEAR = 1_000_000, 2_000_000, 3_000_000, 4_000_000
#: Close views of these scenes are for judging.
UNSEEN_CLOSE, UNSEEN_NEAR = HELD_OUT + 300_000, HELD_OUT + 400_000
PER_CELL = 4
#: Close views of each scene that has any, their sides in cells, and what masks have of each cell's side while they are cut.
VIEWS, VIEW_SIDES, FINE = 2, (12.0, 22.0), 4
#: Near views show a part so many times its own size, and of a scene so many cells at least and at most.
NEAR_SIDES, NEAR_CELLS = (1.3, 3.5), (3.0, 14.0)
#: What is painted worst from afar, and is shown before the rest so often.
FINE_PARTS, FINER_FIRST = frozenset({"face", "eyes", "hands", "hair", "hat", "head"}), 0.6
#: How a scene is painted to see where its parts are: pixels, and pieces of a cell.
SCOUT, SCOUT_FINE = 256, 4
#: Shapes of the chunks in turn: squares most, every other shape as often as the rest.
TURNS = (0, 1, 0, 2, 3, 0, 4, 5, 0, 6)


def scene_rng(number: int) -> np.random.Generator:
    """The generator that scene `number` is painted from."""
    return np.random.Generator(np.random.Philox(key=[number, 0x776F726C]))


def chunk_shape(index: int) -> tuple[int, int]:
    """(width, height) in cells of a chunk's scenes."""
    return SHAPES[TURNS[index % len(TURNS)]]


def caption(scene: Scene) -> dict[str, object]:
    """What is known of a scene besides its pixels and masks, for JSON."""
    parts = [{"kind": p.kind, "before": p.before, "after": p.after, "big": p.big} for p in scene.parts[-MOST_PARTS:]]
    return {"words": scene.words, "parts": parts}


def _write(path: Path, **arrays: np.ndarray) -> None:
    partial = path.with_suffix(".partial.npz")
    np.savez(partial, **arrays)  # type: ignore[arg-type]
    partial.rename(path)


def guides(scene: Scene, by: int) -> np.ndarray:
    """A scene's drawing and depth, (4 h, 4 w, 2) uint8, of one painted `by` times as large with masks of PER_CELL pieces to a cell."""
    drawn = averaged(scene.lines()[..., None] * 255, by)
    return (np.concatenate([drawn, scene.depth()[..., None] * 255], -1) + 0.5).astype(np.uint8)


def named(scene: Scene, like: np.ndarray) -> np.ndarray:
    """A scene's masks of named parts, (len(PARTS), h, w) float32, of the size that others have."""
    return np.stack([np.asarray(scene.named.get(name, np.zeros_like(like)), np.float32) for name in PARTS])


def coarse(masks: np.ndarray, by: int) -> np.ndarray:
    """Masks (h, w) of pieces of cells as those of whole cells."""
    return np.asarray(averaged(masks[..., None], by)[..., 0])


def render_chunk(path: Path, first: int, count: int, shape: tuple[int, int] = SHAPES[0]) -> None:
    """Quarter-size pictures (count, 4 h, 4 w, 3), masks (count, MOST_PARTS, h, w), those of named parts (count, len(PARTS), h, w) and
    guides (count, 4 h, 4 w, 2), all uint8, of (w, h) cells. Painted at the size that sheets have: drawings are made of that."""
    if not path.exists():
        _paint(path, _whole(first, count), shape, side=16 * CELLS, shrink=4, guided=True)


def render_sharp(path: Path, first: int, count: int) -> None:
    """Full-size pictures (count, 512, 512, 3), the same without their paper's grain, lines (count, 512, 512) and masks as of
    `render_chunk`."""
    if not path.exists():
        _paint(path, _whole(first, count), SHAPES[0], side=512, shrink=1, sharp=True)


def _whole(first: int, count: int) -> list[tuple[int, View]]:
    """So many scenes, each as a whole."""
    return [(first + i, (0.0, 0.0, 1.0)) for i in range(count)]


def _paint(
    path: Path,
    views: Sequence[tuple[int, View]],
    shape: tuple[int, int],
    side: int,
    shrink: int,
    guided: bool = False,
    sharp: bool = False,
) -> None:
    """Views of scenes by their numbers, into a file."""
    w, h = shape
    count = len(views)
    masks = np.zeros((count, MOST_PARTS, h, w), np.uint8)
    pixels, bare, captions, told, of_parts = [], [], [], [], []
    fine = PER_CELL if guided else 1
    for i, (number, view) in enumerate(views):
        scene = paint_scene(scene_rng(number), side, shape, fine, guided, view)
        pixels.append(shrunk(scene.pixels, shrink))
        if guided:
            told.append(guides(scene, shrink))
            of_parts.append(np.stack([np.round(coarse(m, fine) * 255) for m in named(scene, scene.depth())]).astype(np.uint8))
        if sharp:
            told.append(np.round(255 * scene.lines()).astype(np.uint8))
            bare.append(scene.bare)
        for j, part in enumerate(scene.parts[-MOST_PARTS:]):
            masks[i, j] = np.round(coarse(part.mask, fine) * 255)
        captions.append(caption(scene))
    more = {("guides" if guided else "lines"): np.stack(told)} if told else {}
    if bare:
        more["bare"] = np.stack(bare)
    if of_parts:
        more["named"] = np.stack(of_parts)
    _write(path, pixels=np.stack(pixels), masks=masks, captions=np.array(json.dumps(captions)), **more)


def render_close(path: Path, first: int, count: int) -> None:
    """As `render_chunk`, of views that show a part of a scene as a close work frame does, mostly round one of its things: the
    picture's pixels are drawn out, so nothing is sharper than in the whole."""
    if path.exists():
        return
    pixels: list[np.ndarray] = []
    masks = np.zeros((count, MOST_PARTS, CELLS, CELLS), np.uint8)
    captions: list[dict[str, object]] = []
    told: list[np.ndarray] = []
    of_parts = np.zeros((count, len(PARTS), CELLS, CELLS), np.uint8)
    for number in range(first, first + count):
        rng = scene_rng(number)
        scene = paint_scene(rng, 512, fine=FINE, named=True)
        for _ in range(min(VIEWS, count - len(captions))):
            box = _view(scene, rng)
            parts = [replace(p, mask=_boxed(p.mask.astype(np.float32), CELLS, box, FINE).clip(0, 1)) for p in scene.parts]
            seen = replace(scene, parts=tuple(p for p in parts if p.mask.sum() > 1.2))
            pixels.append(_boxed(scene.pixels, CELLS * PER_CELL, box, 512 // CELLS))
            seen_there = [_boxed(a, CELLS * PER_CELL, box, of) for a, of in ((scene.lines(), 512 // CELLS), (scene.depth(), FINE))]
            told.append((np.stack(seen_there, -1).clip(0, 1) * 255 + 0.5).astype(np.uint8))
            for j, m in enumerate(named(scene, scene.depth())):
                of_parts[len(captions), j] = np.round(_boxed(m, CELLS, box, FINE).clip(0, 1) * 255)
            for j, part in enumerate(seen.parts[-MOST_PARTS:]):
                masks[len(captions), j] = np.round(part.mask * 255)
            captions.append(caption(seen))
        if len(captions) == count:
            break
    _write(path, pixels=np.stack(pixels), masks=masks, captions=np.array(json.dumps(captions)), guides=np.stack(told), named=of_parts)


def render_near(path: Path, first: int, count: int) -> None:
    """As `render_chunk`, of views of parts of things, a head, a window, a wheel, painted as large and sharp as a whole scene."""
    if path.exists():
        return
    views: list[tuple[int, View]] = []
    number = first
    while len(views) < count:
        rng = scene_rng(number)
        scene = paint_scene(rng, SCOUT, fine=SCOUT_FINE, named=True)
        views += [(number, view) for view in _part_views(scene, rng)][: count - len(views)]
        number += 1
    _paint(path, views, SHAPES[0], side=16 * CELLS, shrink=4, guided=True)


def _part_views(scene: Scene, rng: np.random.Generator) -> list[View]:
    """Views of some of the parts that a scene shows, each of another name."""
    seen = [(name, mask) for name, mask in sorted(scene.named.items()) if (mask > 0.5).sum() > SCOUT_FINE]
    rng.shuffle(seen)
    if rng.random() < FINER_FIRST:
        seen.sort(key=lambda one: one[0] not in FINE_PARTS)
    out = []
    for _, mask in seen[:VIEWS]:
        found, n = ndimage.label(mask > 0.5)
        ys, xs = np.nonzero(found == rng.integers(1, n + 1))
        own = (max(np.ptp(ys), np.ptp(xs)) + 1) / SCOUT_FINE
        side = float(np.clip(own * rng.uniform(*NEAR_SIDES), *NEAR_CELLS))
        middles = ((v.min() + v.max() + 1) / 2 / SCOUT_FINE + rng.normal(0, 0.12 * side) for v in (xs, ys))
        x, y = (float(np.clip(v - side / 2, 0, CELLS - side)) for v in middles)
        out.append((x / CELLS, y / CELLS, CELLS / side))
    return out


def _view(scene: Scene, rng: np.random.Generator) -> tuple[float, float, float, float]:
    """A square within the scene, in cells: about a thing, small ones too, and no closer than it has room."""
    side, (cx, cy) = rng.uniform(*VIEW_SIDES), rng.uniform(0, CELLS, 2)
    things = [p for p in scene.parts if not p.big]
    if things:
        ys, xs = np.nonzero(things[int(rng.integers(len(things)))].mask > 0.5)
        if len(ys):
            cx, cy = (xs.min() + xs.max() + 1) / 2 / FINE, (ys.min() + ys.max() + 1) / 2 / FINE
            side = max(side, 1.15 * max(np.ptp(xs), np.ptp(ys)) / FINE)
    side = min(side, CELLS)
    x, y = (float(np.clip(v + rng.normal(0, 0.1 * side) - side / 2, 0, CELLS - side)) for v in (cx, cy))
    return x, y, x + side, y + side


def _boxed(a: np.ndarray, side: int, box: tuple[float, float, float, float], per_cell: int) -> np.ndarray:
    """A box of cells of a picture or mask that has so many values to a cell's side, averaged or drawn out to (side, side)."""
    x0, y0, x1, y1 = (v * per_cell for v in box)
    return np.asarray(Image.fromarray(a).resize((side, side), Image.Resampling.BOX, (x0, y0, x1, y1)))


def averaged(pixels: np.ndarray, by: int) -> np.ndarray:
    """The averages of squares of `by` x `by` pixels of (..., H, W, 3)."""
    *n, h, w, c = pixels.shape
    return np.asarray(pixels.reshape(*n, h // by, by, w // by, by, c).mean((-4, -2)))


def shrunk(pixels: np.ndarray, by: int) -> np.ndarray:
    """As `averaged`, of uint8, rounded."""
    return (averaged(pixels, by) + 0.5).astype(np.uint8)


def render_all(config: Config) -> Path:
    """Renders what is missing; returns the folder."""
    c = config["render"]
    folder = work_folder(config) / "scenes"
    folder.mkdir(exist_ok=True)
    with ProcessPoolExecutor(c["processes"]) as pool:
        n = max(1, c["held_out"] // 4)
        jobs = [pool.submit(render_chunk, folder / f"held-out-{i}.npz", HELD_OUT + i * n, n, chunk_shape(i)) for i in range(4)]
        jobs += [
            pool.submit(render_chunk, folder / f"chunk-{i:04d}.npz", i * c["chunk"], c["chunk"], chunk_shape(i))
            for i in range(c["scenes"] // c["chunk"])
        ]
        jobs += [
            pool.submit(render_close, folder / f"close-{i:04d}.npz", CLOSE + i * c["chunk"], c["chunk"])
            for i in range(c["close"] // c["chunk"])
        ]
        jobs += [
            pool.submit(render_near, folder / f"near-{i:04d}.npz", NEAR + i * c["chunk"], c["chunk"])
            for i in range(c["near"] // c["chunk"])
        ]
        jobs.append(pool.submit(render_close, folder / "unseen-close.npz", UNSEEN_CLOSE, n))
        jobs.append(pool.submit(render_near, folder / "unseen-near.npz", UNSEEN_NEAR, n))
        half = c["sharp"] // 2
        jobs += [pool.submit(render_sharp, folder / f"sharp-{i}.npz", SHARP + i * half, half) for i in (0, 1)]
        for n, job in enumerate(jobs):
            job.result()
            print(f"{n + 1} of {len(jobs)} files rendered", flush=True)
    return folder


def main() -> None:
    options = arguments(__doc__).parse_args()
    render_all(load_config(options.config, options.work))


if __name__ == "__main__":
    main()
