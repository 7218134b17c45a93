"""A model whose answers are exact: each cell is a Gaussian round a colour told by its words.

For trying and testing everything round a model in no time: placement, strength, masks, recipes, the window.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from ..core.noise.levels import Schedule
from ..core.packs import ELEMENT, SCENE, Finder, Guides, PackInfo, Rows, UnknownWord
from ..core.picture.resample import resize_mask
from ..core.told.figures import FigureBook
from ..core.told.grounds import GroundBook
from ..core.told.placing import PlaceBook
from ..core.values.frame import FrameLimits
from .words import Vocabulary

COLOURS = {
    "red": (0.8, 0.15, 0.15),
    "green": (0.15, 0.6, 0.2),
    "blue": (0.15, 0.25, 0.8),
    "yellow": (0.95, 0.85, 0.2),
    "white": (0.95, 0.95, 0.95),
    "black": (0.05, 0.05, 0.05),
}
SPREAD = 0.2


def mixture_mean(x: np.ndarray, alpha: float, sigma: float, means: np.ndarray, variances: np.ndarray, weights: np.ndarray) -> np.ndarray:
    """E[x0 | alpha x0 + sigma e = x] of a mixture of isotropic Gaussians.

    x: (N, D); means (K, D); variances, weights (K,). Each part's posterior mean is m + alpha v / (alpha^2 v + sigma^2)
    (x - alpha m); parts weigh by their likelihood N(x; alpha m, alpha^2 v + sigma^2).
    """
    total = alpha**2 * variances + sigma**2
    off = x[:, None] - alpha * means[None]
    log = np.log(weights) - 0.5 * (off**2).sum(-1) / total - 0.5 * x.shape[1] * np.log(total)
    share = np.exp(log - log.max(1, keepdims=True))
    share /= share.sum(1, keepdims=True)
    each = means[None] + (alpha * variances / total)[None, :, None] * off
    return np.asarray((share[..., None] * each).sum(1))


class ColourFinder:
    """Finds colours: a cell is as surely of a colour as its own is near to it."""

    labels = tuple(COLOURS)
    whole: tuple[str, ...] = ("bright", "dark")
    traits: frozenset[str] = frozenset()
    colours: frozenset[str] = frozenset()
    grounds = frozenset({"white"})
    parts: frozenset[str] = frozenset()
    near: int | None = None

    def __init__(self, words: Vocabulary) -> None:
        self._words = words

    def labels_of(self, phrase: str) -> tuple[int, ...]:
        ids = self._words.read(phrase)[0]
        return (self.labels.index(self._words.words[ids[0]]),) if ids else ()

    def part_of(self, phrase: str) -> tuple[int | None, str]:
        return None, phrase

    def look(self, picture: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        h, w = picture.shape[0] // 16, picture.shape[1] // 16
        cells = np.stack([resize_mask(picture[..., c], h, w) for c in range(3)], -1)
        far = np.linalg.norm(cells[None] - np.array(list(COLOURS.values()), np.float32)[:, None, None], axis=-1)
        bright = float(picture.mean())
        return np.asarray(np.exp(-((far / 0.36) ** 2)), np.float32), np.array([bright, 1 - bright], np.float32)


class ClosedFormPack:
    """Words are colours; cells of 16 pixels hold three channels, the colour times 2 minus 1."""

    def __init__(self) -> None:
        self.info = PackInfo(
            "closed form",
            "1",
            "GPL-3.0-or-later",
            "closed-form-1",
            channels=3,
            cell=16,
            schedule=Schedule("flow"),
            limits=FrameLimits(64, 256 * 256, 128, 512),
            best_sizes=((256, 256),),
            steps=8,
            guidance=1.5,
            capabilities=frozenset({"regions", "inpaint", "lines", "depth", "looks"}),
        )
        self.words = Vocabulary(("", *COLOURS), {"grass": "green", "rust": "red"}, frozenset({"a", "the"}), {"colours": tuple(COLOURS)})
        self.finder: Finder | None = ColourFinder(self.words)
        self.figures: FigureBook | None = None
        self.grounds: GroundBook | None = None
        self.places: PlaceBook | None = None

    def read(self, phrase: str) -> tuple[list[int], list[UnknownWord]]:
        return self.words.read(phrase)

    def groups(self) -> Mapping[str, tuple[str, ...]]:
        return self.words.groups

    def offers(self) -> tuple[str, ...]:
        return tuple(p for group in self.words.groups.values() for p in group)

    def encode(self, picture: np.ndarray) -> np.ndarray:
        h, w = picture.shape[0] // 16, picture.shape[1] // 16
        return np.asarray(np.stack([resize_mask(picture[..., c], h, w) for c in range(3)]) * 2 - 1, np.float32)

    def decode(
        self, latent: np.ndarray, painted: np.ndarray | None = None, drawing: np.ndarray | None = None, light: bool = False
    ) -> np.ndarray:
        return np.clip(np.kron(self.preview(latent), np.ones((16, 16, 1), np.float32)), 0, 1)

    def preview(self, latent: np.ndarray) -> np.ndarray:
        return np.asarray((latent.transpose(1, 2, 0) + 1) / 2, np.float32)

    def answer(
        self, x: np.ndarray, kept: np.ndarray, hole: np.ndarray, t: float, told: Sequence[Rows], guides: Guides | None = None
    ) -> list[np.ndarray]:
        schedule = self.info.schedule
        a, s = schedule.alpha(t), schedule.sigma(t)
        out = []
        for rows in told:
            goal, spread = self._goal(rows, x.shape[1:])
            goal = _guided(goal, guides, rows.drawn)
            x0 = goal + a * spread**2 / (a**2 * spread**2 + s**2) * (x - a * goal)
            x0 = hole * x0 + (1 - hole) * kept
            out.append(np.asarray((x - x0) / max(t, 1e-6), np.float32))
        return out

    def _goal(self, rows: Rows, shape: tuple[int, ...]) -> tuple[np.ndarray, float]:
        colours = np.array([(0.5, 0.5, 0.5), *COLOURS.values()], np.float32) * 2 - 1
        goal, total = np.zeros((3, *shape), np.float32), np.zeros(shape, np.float32)
        for j, (ids, said, outline, weight) in enumerate(zip(rows.ids, rows.kind, rows.outline, rows.weight, strict=True)):
            known = ids[ids > 0]
            if rows.looks is not None and rows.looks[j].any():
                # A look is told by means first; the colour is theirs.
                m = weight * (outline * 50 if said == ELEMENT else 1.0)
                goal += m * rows.looks[j, :3, None, None]
                total += m
            elif said and len(known):
                # An element's own words outweigh the scene's where it stands.
                m = weight * (outline * 50 if said == ELEMENT else 1.0) * (said in (SCENE, ELEMENT))
                goal += m * colours[known].mean(0)[:, None, None]
                total += m
        return goal / np.maximum(total, 1e-6), SPREAD if total.any() else 0.5


def _guided(goal: np.ndarray, guides: Guides | None, told: float) -> np.ndarray:
    """Colours (3, h, w) -1..1, black as far as a cell is drawn on, and lighter the nearer it is said to be."""
    if guides is None:
        return goal
    shape = goal.shape[1:]
    if guides.depth is not None:
        goal = goal + guides.depth_given * (resize_mask(guides.depth, *shape) - 0.5)
    if guides.lines is not None:
        drawn = np.clip(4 * told * resize_mask(guides.lines, *shape), 0, 1)
        goal = goal * (1 - drawn) - drawn
    return np.asarray(goal, np.float32)
