"""A stage: all that painting one frame once needs, and nothing of why. A pass is a list of them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from dataclasses import field as made_of

import numpy as np

from ..noise.guidance import Lead, leads
from ..noise.levels import spaced_levels
from ..noise.noise import noise
from ..noise.samplers import evaluations
from ..packs import Pack, PackInfo
from ..picture.infill import push_pull
from ..picture.patch_edge import KEPT_FEATHER
from ..told.guides import Sketch
from ..told.said import Said, Where
from ..told.voices import Area, Cells, Method, Voice, asked_away, speakers, voices
from ..values.frame import WorkFrame
from ..values.outline import Outline
from ..values.sheet import Sheet
from .fitting import ANEW, clothed
from .lights import Lights
from .settings import PassSettings

#: What becomes of the sheet before a stage.
Edit = Callable[[Sheet], Sheet]
#: The picture that a stage starts from, (h, w, 3) float32 sRGB 0..1 of the frame at the sheet's size; None: it starts from noise alone.
Start = Callable[[Sheet, WorkFrame], np.ndarray | None]
#: What becomes of a painted picture (h, w, 3) float32 sRGB 0..1 of the frame, of any size. sheet: as it was before.
Finish = Callable[[np.ndarray, Sheet, WorkFrame], np.ndarray]
#: Denoise strength over the frame's rectangle at a height and width, float32 0..1.
Strength = Callable[[int, int], np.ndarray]
#: Whose noise is whose: seeds and purposes, each with where it reaches, (h, w) float32 0..1 in cells.
OwnNoise = Callable[[Cells], list[tuple[int, int, np.ndarray]]]
#: Normal numbers of a shape (C, h, w) for a purpose.
Noise = Callable[[int, tuple[int, ...]], np.ndarray]

#: The most that the told level lies below the sample's, in shares of it; between which shares of the steps, and up to which level: what is
#: decided above is no texture.
TEXTURE, TEXTURED, FINE = 0.6, (0.1, 0.9), 0.3
#: How a hold goes on over its steps: from its amount to nothing, the same throughout, or from nothing to its amount.
COURSES = ("falling", "even", "rising")


@dataclass(frozen=True)
class Hold:
    """How strongly a pass that begins from the picture's own noise is pulled back to the picture's own way down. amount: 0..1; course:
    one of COURSES; begins, ends: the shares of the steps between which it holds."""

    amount: float
    course: str = "falling"
    begins: float = 0.0
    ends: float = 1.0

    def at(self, share: float) -> float:
        """How strongly at a share of the steps, 0..1; never in full, so that words count."""
        if not self.begins <= share < self.ends:
            return 0.0
        along = (share - self.begins) / (self.ends - self.begins)
        return self.amount * {"falling": 1 - along, "even": 1.0, "rising": along}[self.course]


def unchanged(sheet: Sheet) -> Sheet:
    return sheet


def finished(made: np.ndarray, sheet: Sheet, frame: WorkFrame) -> np.ndarray:
    return made


def seen(sheet: Sheet, frame: WorkFrame) -> np.ndarray | None:
    """What is seen in the frame, with colours drawn inwards where there is no picture."""
    if not sheet.has_picture:
        return None
    below = sheet.flatten(frame.rect)
    return push_pull(below[..., :3].astype(np.float32) / 255, below[..., 3].astype(np.float32) / 255)


def nobodys(cells: Cells) -> list[tuple[int, int, np.ndarray]]:
    return []


@dataclass(frozen=True, eq=False)
class Stage:
    """frame: what is computed, and how large; seed: of its noise; settings: steps, guidance, sampler and the like; method: the one really
    used; strongest: the greatest strength; told, away: what is said, and what guidance leads away from; areas: where each Where is, in
    cells; guided: the least and the greatest level at which guidance leads, None where it does not; own_noise: noise other than the
    stage's; edit: of the sheet before it; start: its picture; finish: of what was painted; blend: over how many sheet pixels inside its
    edge it is blended into what earlier stages of the pass painted; feather: over how many its edge fades on the sheet; shapes: the figures
    that it tells, on the sheet; shows: above 0 where it may show, None: where its strength is; sketches: drawings of things, far to near;
    grounds: of what lies behind them all; shadows: laid over what is painted, and what covers them; lights: what shines in
    their skies; drawn: one more sketch, nearest of all,
    that is made when it is painted; hold: how the picture's own noise is begun from and held on to, None: it begins from the seed's; field:
    its noise, where that is a part of a larger one; share: how much it counts in each row and in each column where stages lie over each
    other, 0..1: such stages know nothing of one another; texture: -1..1, above 0 the network is told of less noise than there is, and so
    makes more of it into detail; whole: the seed of the picture that it paints as a whole, or a part of; None: of one on the sheet."""

    frame: WorkFrame
    seed: int
    settings: PassSettings
    method: Method
    strongest: float
    strength: Strength
    told: tuple[Said, ...]
    away: tuple[Said, ...]
    areas: Callable[[Cells], Mapping[Where, Area]]
    guided: tuple[float, float] | None
    own_noise: OwnNoise = nobodys
    edit: Edit = unchanged
    start: Start = seen
    finish: Finish = finished
    blend: float = 0.0
    feather: float = KEPT_FEATHER
    shapes: Mapping[Where, Outline] = made_of(default_factory=dict)
    shows: Strength | None = None
    sketches: tuple[Sketch, ...] = ()
    grounds: tuple[Sketch, ...] = ()
    shadows: tuple[Sketch, ...] = ()
    lights: tuple[Lights, ...] = ()
    drawn: Callable[[Sheet, WorkFrame], Sketch] | None = None
    hold: Hold | None = None
    field: Noise | None = None
    share: tuple[np.ndarray, np.ndarray] | None = None
    texture: float = 0.0
    whole: int | None = None

    def noise(self, purpose: int, shape: tuple[int, ...]) -> np.ndarray:
        """Normal numbers of a shape (C, h, w) in cells."""
        return noise(self.seed, purpose, shape) if self.field is None else self.field(purpose, shape)

    def told_level(self, info: PackInfo, t: float, at: float) -> float:
        """The noise level that the network is told where the sample's is t, at a share of the steps, 0..1.

        Painting anew, its own errors are in a sample beside the noise that it learned with (Li et al., "Alleviating exposure bias in
        diffusion models through sampling with shifted time steps", 2024): told of less noise, it leaves more of what it has begun.
        """
        if self.strongest >= ANEW and not self.settings.quick and self.hold is None:
            return t * info.told
        return t * (1 - TEXTURE * self.texture) if TEXTURED[0] <= at <= TEXTURED[1] and t <= FINE else t

    def cells(self, info: PackInfo) -> Cells:
        """Rows and columns of latent cells that it computes."""
        return self.frame.height // info.cell, self.frame.width // info.cell

    def levels(self, info: PackInfo, strongest: float | None = None) -> np.ndarray:
        """The noise levels it goes down through."""
        top = self.strongest if strongest is None else strongest
        return spaced_levels(self.settings.steps, top, self.settings.spacing or info.spacing)

    def leads(self, levels: np.ndarray, info: PackInfo, drawing: bool = False) -> list[Lead]:
        """Whether guidance leads at each evaluation of the network, and how. drawing: whether one is told."""
        # A pack that is told how strictly words are followed leads by itself.
        guided = None if "guidance" in info.capabilities else self.guided
        if guided is not None and self.settings.quick:
            guided = info.quick.guided
        drawing = drawing and self.settings.drawing_guidance > 0
        return leads(evaluations(levels, info.schedule, self.settings.sampler), guided, info.lead_kept, drawing)

    def answers(self, info: PackInfo) -> list[int]:
        """Answers of the network at each evaluation."""
        whose = speakers(self.told, self.method)
        aways = {asked_away(self.away, where) for where in whose}
        return [len(whose) + (len(aways) if how == "asked" else 0) for how in self.leads(self.levels(info), info)]

    def voices(self, pack: Pack) -> list[Voice]:
        """What the network is asked at every step."""
        cells = self.cells(pack.info)
        areas = self.areas(cells)
        if self.settings.clothes_apart:
            areas = {where: clothed(area, self.shapes.get(where), self.frame) for where, area in areas.items()}
        return voices(self.told, self.away, areas, cells, pack, self.method)

    def region(self) -> np.ndarray:
        """Where it may show, (h, w) uint8 at the sheet's size: 255 there."""
        rect = self.frame.rect
        return np.where((self.shows or self.strength)(rect.height, rect.width) > 0, 255, 0).astype(np.uint8)
