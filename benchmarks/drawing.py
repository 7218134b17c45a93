"""How well what is painted lies on a drawing, how a pose is kept while clothes change, and what own noise keeps.

Unseen scenes, told by their words, each thing's exact outline, and: their whole drawing, that of their things alone, one that a
clumsy hand made of it, or none. Followed: the share of drawn lines with a painted edge within two pixels; on lines: the share of painted
edges that lie on a line. An edge counts above a fixed slope of colour.
People: a scene with one person, its drawing told, its clothes said in another colour; right is where most of the finder's certainty
of that colour, of all colours in the person's place, is the wanted one's.
Own noise: scenes reworked with another sky, begun from noise, told their own lines or not, or from their own noise at several
holds; kept: as followed, of the scene's own lines; changed: the mean difference of colours from the scene.
Looks: scenes painted from their things' words alone, with and without the look of another scene; the distance of colours is Frechet's
between normal distributions of OKLab colours, of what is painted and of the picture whose look is lent.
Needs the training packages.
`python benchmarks/drawing.py [--scenes N] [--looks N] [--people N] [--own N] [--steps N] [--quick] [--save DIR] [--pack DIR] [--judge DIR]`
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
from PIL import Image
from scipy import ndimage

sys.path.insert(0, str(Path(__file__).parent))
from machine import describe, drawing_option, judging_pack, named, pack_options
from unseen import SIDE, as_sheet, things_of, unseen, words_of

from training.clumsy import drawn as clumsily
from training.world.scene import Scene
from training.world.things import GROUPS
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.picture.cutting import oklab
from waldrand.core.seen.find import finder_of, looked
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.layers import LINES, LOOK, PictureLayer
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.packs.onnx_pack import OnnxPack

#: Slopes of colour above which an edge counts: near a line, and by itself; and how near is near, in pixels.
NEAR, EDGE, WITHIN = 60.0, 120.0, 2
COLOURS = ("red", "blue", "green", "yellow")


def slope(pixels: np.ndarray) -> np.ndarray:
    soft = ndimage.gaussian_filter(pixels[..., :3].astype(np.float32), (1, 1, 0))
    return np.asarray(np.sqrt(sum(ndimage.sobel(soft, axis) ** 2 for axis in (0, 1)).sum(-1)))


def followed(pixels: np.ndarray, lines: np.ndarray) -> float:
    near = ndimage.maximum_filter(slope(pixels), 2 * WITHIN + 1) > NEAR
    return float(near[lines > 0.5].mean())


def on_lines(pixels: np.ndarray, lines: np.ndarray) -> float:
    edges = slope(pixels) > EDGE
    return float((edges & ndimage.binary_dilation(lines > 0.35, iterations=WITHIN + 1)).sum() / max(1, edges.sum()))


def told_sheet(scene: Scene, recoloured: dict[int, str] | None = None) -> Sheet:
    """The scene's words and things, by their own outlines. recoloured: other words for some of them, by their number."""
    elements = []
    for i, part in enumerate(things_of(scene)):
        words = " ".join((*(w for w, _ in part.before), part.kind, *(w for w, _ in part.after)))
        mask = np.asarray(Image.fromarray(np.round(part.mask * 255).astype(np.uint8)).resize((SIDE, SIDE), Image.Resampling.BICUBIC))
        elements.append(Element(i + 2, part.kind, Outline("mask", (0, 0, SIDE, SIDE), mask=mask), (recoloured or {}).get(i, words)))
    return Sheet(SIDE, SIDE, elements=tuple(elements), scene=SceneWords(words_of(scene)))


def with_drawing(sheet: Sheet, lines: np.ndarray | None) -> Sheet:
    if lines is None:
        return sheet
    ink = np.dstack([np.zeros((*lines.shape, 3), np.uint8), np.round(255 * lines).astype(np.uint8)])
    return sheet.with_layer(PictureLayer(sheet.next_key(), "drawing", ink, role=LINES))


def made(sheet: Sheet, pack: OnnxPack, seed: int, settings: PassSettings, kind: str = "compose", **more: object) -> np.ndarray:
    return run_take(plan(sheet, Request(kind, settings, more=tuple(more.items())), pack), pack, seed).pixels


def of_things(scene: Scene, lines: np.ndarray) -> np.ndarray:
    masks = [p.mask for p in things_of(scene)]
    if not masks:
        return np.zeros_like(lines)
    near = np.kron(np.max(masks, 0) > 0.2, np.ones((SIDE // masks[0].shape[0],) * 2, bool))
    return np.asarray(lines * ndimage.binary_dilation(near, iterations=6))


def clumsy(lines: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """What the training's clumsy hand makes of a drawing at a quarter of its size, where that hand was taught, drawn large again."""
    small = lines.reshape(SIDE // 4, 4, SIDE // 4, 4).mean((1, 3))
    return np.asarray(np.clip(ndimage.zoom(clumsily(small, rng), 4, order=1, grid_mode=True, mode="nearest") * 1.5, 0, 1))


def drawings(pack: OnnxPack, count: int, settings: PassSettings, save: Path | None) -> None:
    ways: dict[str, Callable[[Scene, np.ndarray, np.random.Generator], np.ndarray | None]] = {
        "whole": lambda scene, lines, rng: lines,
        "things only": lambda scene, lines, rng: of_things(scene, lines),
        "clumsy": lambda scene, lines, rng: clumsy(lines, rng),
        "none": lambda scene, lines, rng: None,
    }
    found: dict[str, list[tuple[float, float]]] = {name: [] for name in (*ways, "rendered")}
    for n, (rng, scene) in enumerate(unseen(count)):
        lines, sheet, row = scene.lines(), told_sheet(scene), []
        found["rendered"].append((followed(scene.pixels, lines), on_lines(scene.pixels, lines)))
        for name, way in ways.items():
            told = way(scene, lines, rng)
            pixels = made(with_drawing(sheet, told), pack, n, settings)
            # What is measured by is the true drawing, of things where only these are drawn.
            true = lines if name != "things only" else told
            assert true is not None
            if (true > 0.5).any():
                found[name].append((followed(pixels, true), on_lines(pixels, lines)))
            row.append(pixels)
        if save is not None:
            page = np.concatenate([np.dstack([np.round(255 * (1 - lines)).astype(np.uint8)] * 3), *row, scene.pixels], 1)
            Image.fromarray(page).save(save / f"drawing-{n:03d}.png")
    print(f"\n{count} scenes{'':12s} drawn lines followed   painted edges on lines")
    for name, each in found.items():
        print(f"{name:22s} {np.mean([a for a, _ in each]):12.3f} {np.mean([b for _, b in each]):22.3f}")


def people(pack: OnnxPack, count: int, settings: PassSettings, save: Path | None) -> None:
    names, finder = {t.name for t in GROUPS["people"]}, finder_of(pack)
    right, kept, done, first = 0, [], 0, 1000
    while done < count and first < 6000:
        for rng, scene in unseen(20, first):
            things = things_of(scene)
            who = [i for i, p in enumerate(things) if p.kind in names and p.mask.sum() > 40]
            if len(who) != 1 or done == count:
                continue
            i = who[0]
            said = dict(things[i].before)
            was = next((w for w in said if any(w.startswith(c) for c in COLOURS)), "")
            colour = str(rng.choice([c for c in COLOURS if not was.startswith(c)]))
            words = f"{colour} coat {things[i].kind}"
            lines = scene.lines()
            pixels = made(with_drawing(told_sheet(scene, {i: words}), lines), pack, done, settings)
            maps, _ = looked(pixels, pack)
            place = np.asarray(Image.fromarray(things[i].mask.astype(np.float32)).resize(maps.shape[2:0:-1], Image.Resampling.BOX)) > 0.5
            sure = {c: float(maps[finder.labels.index(c)][place].mean()) for c in COLOURS if c in finder.labels}
            right += max(sure, key=sure.__getitem__) == colour
            kept.append(followed(pixels, of_things(scene, lines)))
            if save is not None:
                Image.fromarray(np.concatenate([scene.pixels, pixels], 1)).save(save / f"person-{done:02d}-{colour}.png")
            done += 1
        first += 20
    print(f"\n{done} people recoloured by words, their drawing told: colours right {right} of {done}, lines followed {np.mean(kept):.3f}")


def own_noise(pack: OnnxPack, count: int, settings: PassSettings, save: Path | None) -> None:
    ways: dict[str, tuple[float, dict[str, object]]] = {f"from noise at {s:g}": (s, {"own_lines": False}) for s in (0.4, 0.55, 0.7, 1.0)}
    ways |= {f"its lines told, {s:g}": (s, {"own_lines": True}) for s in (0.4, 0.55, 0.7)}
    ways |= {f"own noise, hold {h:g}": (1.0, {"own_noise": True, "hold": h}) for h in (0.0, 0.15, 0.3, 0.5)}
    found: dict[str, list[tuple[float, float]]] = {name: [] for name in ways}
    for n, (_, scene) in enumerate(unseen(count, 200)):
        words = "sunset" if "sunset" not in scene.words else "clear day"
        said = ", ".join((words, *(p.kind for p in scene.parts if p.big), *(p.kind for p in things_of(scene))))
        sheet, lines, row = as_sheet(scene, said), scene.lines(), [scene.pixels]
        for name, (strength, more) in ways.items():
            pixels = made(sheet, pack, n, replace(settings, strength=strength), "rework", **more)
            found[name].append((followed(pixels, lines), float(np.abs(pixels.astype(int) - scene.pixels).mean())))
            row.append(pixels)
        if save is not None:
            Image.fromarray(np.concatenate(row, 1)).save(save / f"own-{n:02d}.png")
    print(f"\n{count} scenes under another sky: lines kept, colours changed by (of 255)")
    for name, each in found.items():
        print(f"{name:22s} {np.mean([a for a, _ in each]):.3f} {np.mean([b for _, b in each]):6.1f}")


def colours_apart(a: np.ndarray, b: np.ndarray) -> float:
    """Of two pictures (H, W, 3) uint8, in hundredths of OKLab."""
    labs = [oklab(p.astype(np.float32) / 255) for p in (a, b)]
    means, deviations = ([of((0, 1)) for of in ofs] for ofs in ((x.mean for x in labs), (x.std for x in labs)))
    return float(100 * np.sqrt(((means[0] - means[1]) ** 2).sum() + ((deviations[0] - deviations[1]) ** 2).sum()))


def looks(pack: OnnxPack, count: int, settings: PassSettings, save: Path | None) -> None:
    scenes = [scene for _, scene in unseen(2 * count, 400)]
    found: dict[str, list[float]] = {"without": [], "lent": [], "lent, no words of the whole": []}
    for n, (scene, other) in enumerate(zip(scenes[::2], scenes[1::2], strict=True)):
        sheet, lent = told_sheet(scene), np.dstack([other.pixels, np.full(other.pixels.shape[:2], 255, np.uint8)])
        grounds = ", ".join(p.kind for p in scene.parts if p.big)
        layer = PictureLayer(sheet.next_key(), "look", lent, role=LOOK)
        bare = replace(sheet, scene=SceneWords(grounds))
        row = [other.pixels]
        for name, told in (("without", sheet), ("lent", sheet.with_layer(layer)), ("lent, no words of the whole", bare.with_layer(layer))):
            row.append(made(told, pack, n, settings))
            found[name].append(colours_apart(row[-1], other.pixels))
        if save is not None:
            Image.fromarray(np.concatenate(row, 1)).save(save / f"look-{n:02d}.png")
    print(f"\n{count} looks lent: distance of colours from the picture that lends")
    for name, each in found.items():
        print(f"{name:28s} {np.mean(each):6.1f}")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--scenes", type=int, default=100)
    parser.add_argument("--people", type=int, default=20)
    parser.add_argument("--own", type=int, default=12)
    parser.add_argument("--looks", type=int, default=16)
    parser.add_argument("--steps", type=int, default=20)
    parser.add_argument("--quick", action="store_true", help="as few steps as the pack can do with, without guidance")
    parser.add_argument("--save", type=Path)
    drawing_option(parser)
    pack_options(parser)
    options = parser.parse_args()
    pack = judging_pack(options)
    print(f"{describe()}; {named(pack, options)}")
    settings = PassSettings(steps=options.steps, quick=options.quick, sketches=False, drawing_guidance=options.drawing_guidance)
    if options.save is not None:
        options.save.mkdir(parents=True, exist_ok=True)
    if options.scenes:
        drawings(pack, options.scenes, settings, options.save)
    if options.people:
        people(pack, options.people, settings, options.save)
    if options.own:
        own_noise(pack, options.own, settings, options.save)
    if options.looks:
        looks(pack, options.looks, settings, options.save)


if __name__ == "__main__":
    main()
