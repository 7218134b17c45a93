"""Scenes that no training has seen, as sheets. Needs the training packages."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from pathlib import Path

import numpy as np

sys.path[:0] = [str(Path(__file__).parent), str(Path(__file__).parent.parent)]

from training.render import HELD_OUT, scene_rng
from training.world.canvas import Part
from training.world.scene import Scene, paint_scene
from waldrand.core.values.element import SceneWords
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.sheet import Sheet

SIDE = 512
#: Beyond those the training's own validation looks at.
FIRST = HELD_OUT + 500_000


def unseen(count: int, first: int = 0) -> Iterator[tuple[np.random.Generator, Scene]]:
    """Scenes and a generator for what is done to each."""
    for i in range(first, first + count):
        yield np.random.default_rng(i), paint_scene(scene_rng(FIRST + i), SIDE)


def words_of(scene: Scene) -> str:
    """What is said of a whole scene: its hour, its look, its grounds."""
    return ", ".join((*scene.words, *(p.kind for p in scene.parts if p.big)))


def as_sheet(scene: Scene, words: str) -> Sheet:
    """The scene as a sheet's picture, with words of the whole."""
    opaque = np.full((*scene.pixels.shape[:2], 1), 255, np.uint8)
    return Sheet(SIDE, SIDE, (PictureLayer(1, "scene", np.concatenate([scene.pixels, opaque], 2)),), scene=SceneWords(words))


def things_of(scene: Scene) -> list[Part]:
    """Its parts that stand, hang or lie somewhere."""
    return [p for p in scene.parts if not p.big]
