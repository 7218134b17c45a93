"""What an artist says about the picture: the scene, and the elements on it."""

from __future__ import annotations

from dataclasses import dataclass

from ..fields import check, flag, number, spans, text, whole
from ..noise.noise import LARGEST_SEED
from .emphasis import Span, check_spans, located_phrases
from .outline import Outline

MOST_WEIGHT = 4.0


def phrases(words: str) -> list[str]:
    """Cuts words at commas, semicolons and line ends; empty pieces are dropped."""
    return [text for _, _, text in located_phrases(words)]


@dataclass(frozen=True)
class SceneWords:
    """words: the whole picture's; house: added to everything; each with what to avoid; weight 0..4; emphasis of words and house.

    Raises:
        Refused: a weight or emphasis outside its range, in a sentence for the artist.
    """

    words: str = text()
    avoid: str = text()
    house: str = text()
    house_avoid: str = text()
    weight: float = number(1.0, 0, MOST_WEIGHT, "The scene's weight goes", label="scene weight", step=0.1, decimals=2)
    emphasis: tuple[Span, ...] = spans()
    house_emphasis: tuple[Span, ...] = spans()

    def __post_init__(self) -> None:
        check_spans(self.words, self.emphasis, "the scene")
        check_spans(self.house, self.house_emphasis, "the house words")
        check(self)


@dataclass(frozen=True, eq=False)
class Element:
    """key: unlike any other's on its sheet. strength: 0..1, or None for the pass's. feather: sheet
    pixels, inside the outline. seed: its own, or None for the pass's. hold: no pass may change it. emphasis: of its
    words. visible: whether passes hear of it (a hold counts all the same). locked: whether the hand may move it.
    figure: whether a figure of what the words name is fitted in, where the outline is a box or an ellipse.
    sketch: how much its figure's drawing counts, where the pack has one.
    take_noise: its seed is that of a take, and it begins from the noise which that take had there.

    Raises:
        Refused: a weight, strength, feather or seed outside its range, in a sentence for the artist.
    """

    key: int
    name: str
    outline: Outline
    words: str = text(told=True)
    avoid: str = text(told=True)
    weight: float = number(
        1.0,
        0,
        MOST_WEIGHT,
        "The weight of {whose} goes",
        label="weight",
        step=0.1,
        decimals=2,
        told=True,
        tip="Weight against the scene, 0 to 4. Too high shows the outline's shape.",
    )
    strength: float | None = number(
        None,
        0,
        1,
        "The denoise strength of {whose} goes",
        optional=True,
        label="strength",
        told=True,
        tip="Own denoise strength when there is a picture, 0 keeps to 1 anew; empty: the pass's.",
    )
    feather: float = number(
        0.0,
        0,
        10_000,
        "The feather of {whose} goes",
        label="feather",
        step=2,
        told=True,
        tip="Feather: width in pixels of the soft edge inside the outline.",
    )
    seed: int | None = whole(
        None,
        0,
        LARGEST_SEED,
        "The seed of {whose} is",
        optional=True,
        label="seed",
        tip="Own seed: a number keeps this element's noise while the pass's seed changes; empty: the pass's.",
    )
    hold: bool = flag(False, told=True, label="hold", tip="Hold: no pass changes what lies inside this outline, bit for bit.")
    emphasis: tuple[Span, ...] = spans(told=True)
    visible: bool = flag(True, label="used", tip="Used: passes hear of this element. Leave it out for a while without deleting it.")
    locked: bool = flag(False, label="locked", tip="Locked: the hand cannot move or reshape it on the sheet.")
    figure: bool = flag(
        True,
        label="figure",
        tip="Figure: fits the shape of what the words name into this rectangle or ellipse, as hatched on the sheet. "
        "Without, the outline says only where it shall be.",
    )
    sketch: float = number(
        1.0,
        0,
        1,
        "The sketch of {whose} counts",
        label="sketch",
        step=0.1,
        decimals=2,
        told=True,
        tip="Sketch: how much the drawing of its figure counts, as seen in pencil on the sheet. 0: none, the figure says only its outline.",
    )
    take_noise: bool = flag(False)

    def __post_init__(self) -> None:
        check_spans(self.words, self.emphasis, f"“{self.name}”")
        check(self, f"“{self.name}”")
