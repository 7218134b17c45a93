"""What an artist says about the picture: the scene, and the elements on it."""

from __future__ import annotations

from dataclasses import dataclass

from ..noise.noise import LARGEST_SEED
from ..refused import Refused
from .emphasis import Span, check_spans, located_phrases
from .outline import Outline

MOST_WEIGHT = 4.0


def phrases(words: str) -> list[str]:
    """Cuts words at commas, semicolons and line ends; empty pieces are dropped."""
    return [text for _, _, text in located_phrases(words)]


@dataclass(frozen=True)
class SceneWords:
    """words: the whole picture's; house: added to everything; each with what to avoid; weight 0..4; emphasis of words and house."""

    words: str = ""
    avoid: str = ""
    house: str = ""
    house_avoid: str = ""
    weight: float = 1.0
    emphasis: tuple[Span, ...] = ()
    house_emphasis: tuple[Span, ...] = ()

    def __post_init__(self) -> None:
        check_spans(self.words, self.emphasis, "the scene")
        check_spans(self.house, self.house_emphasis, "the house words")
        if not 0 <= self.weight <= MOST_WEIGHT:
            raise Refused(f"The scene's weight goes from 0 to {MOST_WEIGHT:g}; {self.weight:g} is outside.")


@dataclass(frozen=True, eq=False)
class Element:
    """key: unlike any other element's on its sheet. strength: 0..1, or None for the pass's. feather: sheet
    pixels, inside the outline. seed: its own, or None for the pass's. hold: no pass may change it. emphasis: of its
    words. visible: whether passes hear of it (a hold counts all the same). locked: whether the hand may move it.
    figure: whether a figure of what the words name is fitted in, where the outline is a box or an ellipse.

    Raises:
        Refused: a weight, strength, feather or seed outside its range, in a sentence for the artist.
    """

    key: int
    name: str
    outline: Outline
    words: str = ""
    avoid: str = ""
    weight: float = 1.0
    strength: float | None = None
    feather: float = 0.0
    seed: int | None = None
    hold: bool = False
    emphasis: tuple[Span, ...] = ()
    visible: bool = True
    locked: bool = False
    figure: bool = True

    def __post_init__(self) -> None:
        check_spans(self.words, self.emphasis, f"“{self.name}”")
        if not 0 <= self.weight <= MOST_WEIGHT:
            raise Refused(f"The weight of “{self.name}” goes from 0 to {MOST_WEIGHT:g}; {self.weight:g} is outside.")
        if self.strength is not None and not 0 <= self.strength <= 1:
            raise Refused(f"The denoise strength of “{self.name}” goes from 0 to 1; {self.strength:g} is outside.")
        if not 0 <= self.feather <= 10000:
            raise Refused(f"The feather of “{self.name}” is a number of pixels from 0 up, not {self.feather:g}.")
        if self.seed is not None and not 0 <= self.seed <= LARGEST_SEED:
            raise Refused(f"The seed of “{self.name}” is a whole number from 0 to {LARGEST_SEED}, not {self.seed}.")
