"""What the core asks of an image model, whoever provides it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Protocol

import numpy as np

from .noise.levels import Schedule
from .values.fall import Fall
from .values.frame import FrameLimits
from .values.grain import Grain
from .values.look_even import Even
from .values.look_ink import LookInk
from .values.outline import Box

NONE, SCENE, ELEMENT = 0.0, 1.0, 2.0


@dataclass(frozen=True)
class Quick:
    """How few steps do; how far beyond each answer they are led, in shares of what it changed, 0..2; how strictly words are followed, and
    the least and the greatest noise level at which that leads."""

    steps: int = 5
    ahead: float = 0.0
    guidance: float = 1.0
    guided: tuple[float, float] = (0.0, 1.0)


@dataclass(frozen=True)
class PackInfo:
    """What a pack says of itself. digest: sha256 over its description and its files; channels: of a latent; cell: pixels along a latent
    cell's side; rows: most phrases at a time; capabilities: of "regions", "inpaint", "lines", "depth", "looks", "guidance"; guided:
    the least and the greatest noise level at which guidance leads (see Request.guided_at); lead_kept: over how much of a level it
    leads as before without being asked for (see guidance.leads); told: which share of the noise the network is told of where a picture
    is painted anew; threads it computes on;
    quick: how quick passes are painted; add_ons: what is merged into it, and by how much, as it is said; grains: of the papers of its
    looks; inks: of its looks that are drawn in ink; evens: of those of even shapes; falls: what may fall before a picture; worn: the words
    for what figures wear, below their heads; at_once: how
    many takes are made soonest side by side."""

    name: str
    version: str
    licence: str
    digest: str
    channels: int
    cell: int
    schedule: Schedule = field(default_factory=Schedule)
    limits: FrameLimits = field(default_factory=FrameLimits)
    best_sizes: tuple[tuple[int, int], ...] = ((512, 512),)
    phrase_length: int = 8
    rows: int = 32
    elements: int = 8
    avoids: bool = True
    capabilities: frozenset[str] = frozenset({"regions", "inpaint"})
    steps: int = 20
    guidance: float = 3.0
    spacing: float = 2.0
    guided: tuple[float, float] = (0.0, 1.0)
    lead_kept: float = 0.0
    told: float = 1.0
    threads: int = 2
    quick: Quick = field(default_factory=Quick)
    add_ons: tuple[str, ...] = ()
    grains: tuple[Grain, ...] = ()
    inks: tuple[LookInk, ...] = ()
    evens: tuple[Even, ...] = ()
    falls: tuple[Fall, ...] = ()
    worn: tuple[str, ...] = ()
    at_once: int = 1


@dataclass(frozen=True, eq=False)
class Rows:
    """Phrases with their places. ids (R, L) int64, 0 for nothing; kind (R,) float32 of NONE, SCENE, ELEMENT;
    outline (R, h, w) float32 0..1 in latent cells; weight (R,) float32 0..4; looks (R, S) float32 as `told.look` tells them, in the
    place of words in rows where any of it is not 0; drawn: how much of a drawing that all are told these are told, 0..1."""

    ids: np.ndarray
    kind: np.ndarray
    outline: np.ndarray
    weight: np.ndarray
    looks: np.ndarray | None = None
    drawn: float = 1.0


@dataclass(frozen=True, eq=False)
class Guides:
    """lines, depth: (4 h, 4 w) float32 0..1, four values to a cell's side, None where they are not told; depth_given: how much the depth
    counts, 0..1; guidance: for packs that are told how strictly words are followed (capability "guidance"); behind: of the lines, those
    of grounds."""

    lines: np.ndarray | None = None
    depth: np.ndarray | None = None
    depth_given: float = 1.0
    guidance: float | None = None
    behind: np.ndarray | None = None

    @property
    def lines_of_things(self) -> np.ndarray | None:
        """The lines without those of grounds."""
        return self.lines if self.lines is None or self.behind is None else np.where(self.lines > self.behind, self.lines, np.float32(0))


@dataclass(frozen=True)
class UnknownWord:
    """A word the model was never taught, with the nearest ones it was."""

    word: str
    nearest: tuple[str, ...]


#: The ids of a row of words.
Ids = tuple[int, ...]


@dataclass(frozen=True, eq=False)
class Figure:
    """The shape of a thing. label: the thing's words; traits: phrases of what else is true of it; mirrored: those that are true of its
    mirror image; needs: of the traits, those without whose being said it is not meant; mask: (h, w) uint8, cut to the figure, 255
    inside; hangs: whether it hangs in the middle of its place, or stands at its foot; rows: whether several side by side fill a wide
    place; lines: (2 h, 2 w) uint8, its drawing, 255 where a line is, None where the pack has none; below: from which share of its height
    down it wears what it wears, 0: it wears nothing, or all over."""

    label: str
    traits: frozenset[str]
    mirrored: frozenset[str]
    needs: frozenset[str]
    mask: np.ndarray
    hangs: bool = False
    rows: bool = False
    lines: np.ndarray | None = None
    below: float = 0.0

    @property
    def ratio(self) -> float:
        """Width against height."""
        return float(self.mask.shape[1] / self.mask.shape[0])

    def flipped(self) -> Figure:
        """Its mirror image."""
        lines = None if self.lines is None else self.lines[:, ::-1]
        return replace(self, traits=self.mirrored, mirrored=self.traits, mask=self.mask[:, ::-1], lines=lines)


#: Where a ground's drawing lies: it stands on the horizon, or fills what is below or above it.
STANDS, BELOW, ABOVE = "stands", "below", "above"


@dataclass(frozen=True, eq=False)
class Ground:
    """The drawing of what fills a picture behind its things. label: its words; number: that of its label; way: STANDS, BELOW or ABOVE;
    lines: (h, w) uint8, 255 where a line is; mask: (h / 2, w / 2) uint8, 255 where it covers what lies behind; unit: pixels of lines to the
    side of a square picture; at: of what stands, how far its foot lies below the horizon, in such sides; of what lies below, how far
    down it begins, in shares of what is left; between: of a picture's main ground, between which shares of the height its upper edge may
    lie, None for others; needs: the labels of which one has to be named as well, none: any; told: whether its words are told
    where it is drawn, or, of a sky, everywhere; wet: whether what stands in it casts no shadow on it; over: whether it hides another main
    ground that is named too, as a table hides the meadow behind it; light: of a sky, the colour (sRGB 0..255) of what is drawn in it, which
    shines: stars; None: nothing does."""

    label: str
    number: int
    way: str
    lines: np.ndarray
    mask: np.ndarray
    unit: int
    at: float = 0.0
    between: tuple[float, float] | None = None
    needs: tuple[str, ...] = ()
    told: bool = True
    wet: bool = False
    over: bool = False
    light: tuple[float, float, float] | None = None


@dataclass(frozen=True)
class Spot:
    """Where a thing of some kind once stood, on a square of side 1 with the origin at the upper left. where: phrases of what was
    round it; needs: those that have to be said for it to be meant; horizon: from above, or None where none is seen."""

    box: Box
    where: frozenset[str] = frozenset()
    needs: frozenset[str] = frozenset()
    horizon: float | None = None


@dataclass(frozen=True)
class Told:
    """Words taken apart. things: (words, label) of each thing; rest: what is left for the scene."""

    things: tuple[tuple[str, Ids], ...]
    rest: str


class Figures(Protocol):
    """The shapes that a pack knows of things."""

    def named(self, own: Sequence[str], scene: Sequence[str] = (), near: bool = False) -> tuple[Figure, ...]:
        """The figures of the one thing that some phrases name, as far as they and the scene's phrases say how it is. near: its place looks
        like that of one seen from near by."""
        ...


class Grounds(Protocol):
    """The drawings that a pack has of grounds."""

    def named(self, scene: Sequence[str]) -> tuple[Ground, ...]:
        """The drawings of all grounds that a scene's phrases name, far to near, each label's in all its forms."""
        ...

    def label(self, phrase: str) -> str | None:
        """The one ground that a phrase itself names; None where it names none, or several, or only means some."""
        ...

    def beside(self, label: str) -> str | None:
        """The ground that is there only beside another one, and below it as that is, like the bank of a lake; None where there is none."""
        ...


class Places(Protocol):
    """Where a pack knows things to be wont to stand."""

    def told(self, words: str) -> Told:
        """Words taken apart: what is said of a thing goes with it, what is said of the whole stays."""
        ...

    def spots(self, label: Ids, said: Sequence[str]) -> list[Spot]:
        """Where things of a kind stood that suit best what some phrases say."""
        ...

    def label(self, words: str) -> Ids | None:
        """The one thing that an element's words name; None where they name none, or several."""
        ...


class Finder(Protocol):
    """Tells what is seen where. labels: what is told apart in every cell; whole: of the whole picture; of the labels, traits are
    what a thing can be (colours among them), grounds what fills a picture."""

    def __hash__(self) -> int: ...

    @property
    def labels(self) -> tuple[str, ...]: ...

    @property
    def whole(self) -> tuple[str, ...]: ...

    @property
    def traits(self) -> frozenset[str]: ...

    @property
    def colours(self) -> frozenset[str]: ...

    @property
    def grounds(self) -> frozenset[str]: ...

    @property
    def parts(self) -> frozenset[str]:
        """Of the traits, those that are parts of things."""
        ...

    @property
    def near(self) -> int | None:
        """The label under which it tells how near everything is, None where it does not."""
        ...

    def labels_of(self, phrase: str) -> tuple[int, ...]:
        """The labels a phrase names, the thing first; none when it names no thing."""
        ...

    def part_of(self, phrase: str) -> tuple[int | None, str]:
        """The label of the part that a phrase names, and what else it says: whose part, perhaps."""
        ...

    def look(self, picture: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """How surely each label is seen in each cell of a picture (H, W, 3) float32 0..1, (K, h, w), and each of the whole's, (S,)."""
        ...


class Pack(Protocol):
    """Pictures are (H, W, 3) float32 sRGB 0..1, sides multiples of info.limits.multiple; latents (C, h, w)."""

    def __hash__(self) -> int: ...

    @property
    def info(self) -> PackInfo: ...

    @property
    def finder(self) -> Finder | None:
        """What tells things apart in pictures, where the pack has it."""
        ...

    @property
    def figures(self) -> Figures | None:
        """The shapes of things, where the pack has them."""
        ...

    @property
    def grounds(self) -> Grounds | None:
        """The drawings of grounds, where the pack has them."""
        ...

    @property
    def places(self) -> Places | None:
        """Where things are wont to be, where the pack says it."""
        ...

    def read(self, phrase: str) -> tuple[list[int], list[UnknownWord]]:
        """Word ids of a phrase, and the words left out because the model does not know them."""
        ...

    def offers(self) -> tuple[str, ...]:
        """Phrases worth offering while words are typed."""
        ...

    def groups(self) -> Mapping[str, tuple[str, ...]]:
        """All phrases that it knows, under headings; of those under one heading that describe the whole, a picture is one at a time."""
        ...

    def encode(self, picture: np.ndarray) -> np.ndarray: ...

    def decode(
        self, latent: np.ndarray, painted: np.ndarray | None = None, drawing: np.ndarray | None = None, light: bool = False
    ) -> np.ndarray:
        """The picture of a latent. painted: (h, w) float32, 1 where it was painted, 0 where it is a picture encoded; None: nowhere.
        drawing: (H, W) float32 0..1 of the picture's size: where edges are to lie, for packs that can be told. light: soon rather than
        as finely as can be, for packs that can do either."""
        ...

    def preview(self, latent: np.ndarray) -> np.ndarray:
        """A quick small picture (h', w', 3) of a latent."""
        ...

    def answer(
        self, x: np.ndarray, kept: np.ndarray, hole: np.ndarray, t: float, told: Sequence[Rows], guides: Guides | None = None
    ) -> list[np.ndarray]:
        """What the network says of a noisy x (C, h, w) at level t, once for each set of rows, in one call.

        kept (C, h, w): the picture where hole (h, w) is 0, else 0; guides: what all sets are told by pictures.
        """
        ...
