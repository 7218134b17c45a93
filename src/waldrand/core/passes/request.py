"""What an artist asks for: the kind of pass and its settings. The defaults of everything stand here."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from ..noise.noise import LARGEST_SEED
from ..noise.samplers import SAMPLERS, Sampler
from ..packs import PackInfo
from ..refused import Refused

Kind = Literal["compose", "inpaint", "rework"]
Method = Literal["steer", "blend", "text"]
METHODS: tuple[Method, ...] = ("steer", "blend", "text")
MOST_STEPS = 200
MOST_GUIDANCE = 20.0
LEAST_DETAIL, MOST_DETAIL = 0.5, 2.0


@dataclass(frozen=True)
class PassSettings:
    """steps at full strength; guidance (1: words as they are); method; sampler; strength 0..1; seed;
    margin: context round an inpaint's mask, in shares of its longer side; carry_detail: fine detail of the
    start picture stays where strength is low; spacing of the noise levels (above 1: more of them at high noise), or None for
    the pack's; figures: whether the shapes that things have are fitted into outlines that only say where (core.figures); detail: how
    finely it is computed, in sides of the size that the pack does best.

    Raises:
        Refused: a value outside its range, in a sentence for the artist.
    """

    steps: int = 20
    guidance: float = 3.0
    method: Method = "steer"
    sampler: Sampler = "second"
    strength: float = 1.0
    seed: int = 0
    margin: float = 0.5
    carry_detail: bool = True
    spacing: float | None = None
    figures: bool = True
    detail: float = 1.0

    def __post_init__(self) -> None:
        if not 1 <= self.steps <= MOST_STEPS:
            raise Refused(f"Steps go from 1 to {MOST_STEPS}; {self.steps} is outside.")
        if not 0 <= self.guidance <= MOST_GUIDANCE:
            raise Refused(f"Guidance goes from 0 to {MOST_GUIDANCE:g}; {self.guidance:g} is outside.")
        if self.method not in METHODS:
            raise Refused(f"There is no method called “{self.method}”; choose one of {', '.join(METHODS)}.")
        if self.sampler not in SAMPLERS:
            raise Refused(f"There is no sampler called “{self.sampler}”; choose one of {', '.join(SAMPLERS)}.")
        if not 0 <= self.strength <= 1:
            raise Refused(f"Denoise strength goes from 0 to 1; {self.strength:g} is outside.")
        if not 0 <= self.seed <= LARGEST_SEED:
            raise Refused(f"A seed is a whole number from 0 to {LARGEST_SEED}, not {self.seed}.")
        if self.spacing is not None and not 0.1 <= self.spacing <= 20:
            raise Refused(f"The spacing of noise levels goes from 0.1 to 20; {self.spacing:g} is outside.")
        if not LEAST_DETAIL <= self.detail <= MOST_DETAIL:
            raise Refused(f"Detail goes from {LEAST_DETAIL:g} to {MOST_DETAIL:g}; {self.detail:g} is outside.")
        if not 0 <= self.margin <= 10:
            raise Refused(f"The context margin goes from 0 to 10; {self.margin:g} is outside.")


@dataclass(frozen=True)
class Request:
    """words and avoid: an inpaint's or rework's own; nearer: keys of elements that are painted once more from nearer when the
    whole is done, one after another, each with its seed (None: the take's); small_nearer: all small ones first of all; clears: whether
    an inpaint without any words of its own leads away from what its mask covers."""

    kind: Kind
    settings: PassSettings = field(default_factory=PassSettings)
    words: str = ""
    avoid: str = ""
    nearer: tuple[tuple[int, int | None], ...] = ()
    small_nearer: bool = False
    clears: bool = True

    def __post_init__(self) -> None:
        if self.kind not in START_STRENGTH:
            raise Refused(f"There is no kind of pass called “{self.kind}”; choose one of {', '.join(START_STRENGTH)}.")
        if (self.nearer or self.small_nearer) and self.kind == "inpaint":
            raise Refused("An inpaint has no elements that could be painted from nearer.")

    def nearer_by(self, seed: int) -> tuple[tuple[int, int], ...]:
        """Keys of what a take of this seed paints from nearer, each with the seed it is painted by."""
        return tuple((key, seed if own is None else own) for key, own in self.nearer)

    def guided_at(self, t: float, info: PackInfo) -> bool:
        """Whether guidance leads beyond the words at a noise level; else they are followed as they are (Kynkäänniemi et al.,
        "Applying guidance in a limited interval", 2024). An inpaint is guided at all levels: what is new has to hold its own
        against its surroundings."""
        least, greatest = info.guided
        return self.settings.guidance != 1 and (self.kind == "inpaint" or least <= t <= greatest)


#: Strengths the kinds of pass start from; the artist's choice replaces them.
START_STRENGTH: dict[Kind, float] = {"compose": 1.0, "inpaint": 0.9, "rework": 0.35}
#: Edge of a kept inpaint, in sheet pixels.
KEPT_FEATHER = 8.0
