"""The settings of a pass: their defaults, ranges, names and tooltips, which the window, the command line and files read from here."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import get_args

from ..fields import Field, check, choice, fields_of, flag, number, whole
from ..noise.noise import LARGEST_SEED
from ..noise.samplers import SAMPLERS, Sampler
from ..told.voices import Method

METHODS: tuple[Method, ...] = get_args(Method)
METHOD_NAMES: dict[str, str] = {"steer": "steered", "blend": "blended", "text": "text only"}
SAMPLER_NAMES: dict[str, str] = {
    "second": "second order",
    "first": "first order",
    "heun": "Heun",
    "ancestral": "ancestral",
    "ancestral-second": "ancestral, second order",
}


@dataclass(frozen=True)
class PassSettings:
    """steps at full strength; guidance (1: words as they are); drawing_guidance: the share of it by which drawings lead too; method;
    sampler; strength 0..1; seed; margin: context round an inpaint's mask, in shares of its longer side; carry_detail: fine detail of the
    start picture stays where strength is low; ink: how strongly the lines of what is drawn go over what is painted; paper: whether the
    grain of a look's paper, and the ink of one that is drawn in ink, are laid over it; spacing of the noise levels (above 1: more of them
    at high noise), or None for the pack's; figures: whether the shapes that things have are fitted into outlines that only say where
    (passes.fitting); near_views: whether a place that looks so gets one of a thing seen from near by; clothes_apart: whether clothes are
    told only below a figure's head; sketches: whether the drawings of these are told; grounds: whether those of what lies behind are;
    places: whether things that only words name get places of their own; weather: whether what falls, and stars, are laid over it;
    quick: the pack's fewest steps instead of `steps`, guided as it says;
    detail: how finely it is computed, in sides of the size that the pack does best.

    Raises:
        Refused: a value outside its range, in a sentence for the artist.
    """

    steps: int = whole(
        20,
        1,
        200,
        "Steps go",
        label="steps",
        tip="Steps at full strength: more is slower, about 20 is enough.",
        option="steps at full strength",
    )
    guidance: float = number(
        3.0,
        0,
        20,
        "Guidance goes",
        label="guidance",
        tip="Guidance: how strictly words are followed. 1 to 4 is usual; 1 is quickest.",
        option="how strictly the words are followed; 1: as they are",
        step=0.25,
        decimals=2,
    )
    method: Method = choice(
        "steer",
        METHOD_NAMES.items(),
        "There is no method called",
        label="method",
        tip="Steered: each thing inside its outline. Blended: a prediction for each element, slower, for packs that cannot steer. "
        "Text only: all words in one prompt, outlines ignored, to compare.",
        option="steer: by outlines; blend: a prediction for each element, slower; text: all words in one prompt, outlines ignored",
    )
    sampler: Sampler = choice(
        "second",
        ((s, SAMPLER_NAMES[s]) for s in SAMPLERS),
        "There is no sampler called",
        label="sampler",
        tip="How noise levels are stepped through. Second order needs few steps; Heun is as exact at twice the cost; ancestral ones draw "
        "fresh noise at each step, which mends what earlier steps got wrong, and more steps give another picture.",
        option="how noise levels are stepped through",
    )
    strength: float = number(
        1.0,
        0,
        1,
        "Denoise strength goes",
        label="strength",
        tip="Denoise strength: 0 keeps the picture, about 0.3 unites it, 0.6 repaints in place, 1 starts anew.",
        option="denoise strength, 0 to 1",
        step=0.05,
        decimals=2,
    )
    seed: int = whole(
        0,
        0,
        LARGEST_SEED,
        "A seed is",
        label="seed",
        tip="Seed of the first take. The same seed and settings paint the same picture.",
        option="seed (default: the file's, else 0)",
    )
    margin: float = number(
        0.5,
        0,
        10,
        "The context margin goes",
        label="context",
        tip="Context: how much round the mask is looked at, in shares of its longer side.",
        option="how much round the mask is looked at, in shares of its longer side",
        step=0.25,
        decimals=2,
    )
    drawing_guidance: float = number(
        1.0,
        0,
        2,
        "Guidance by drawings goes",
        label="drawings",
        tip="How strictly drawings and sketches are followed: 0 as the model takes them, 1 as strictly as guidance has words followed, "
        "2 crisp to the last line, where grounds get less even. Less gives a clumsy hand more leave.",
        option="how strictly drawings and sketches are followed, 0 to 2; 1: as words are",
        step=0.25,
        decimals=2,
    )
    carry_detail: bool = flag(
        True,
        label="fine detail",
        tip="Carry fine detail of the picture over where the strength is low, so that a light rework keeps its sharpness.",
        option="carry fine detail of the picture over where the strength is low",
    )
    ink: float = number(
        0.0,
        0,
        1,
        "Ink goes",
        label="ink",
        tip="How strongly the lines of sketches and drawings go over what is painted, as ink in a darker tone: 0 not at all. Small faces, "
        "paws and windows can be told from afar by it.",
        option="how strongly the lines of sketches and drawings go over what is painted, as ink: 0 (not at all) to 1",
        step=0.1,
        decimals=2,
    )
    paper: bool = flag(
        True,
        label="grain, ink, evenness",
        tip="Give what is painted what its look is made of: the grain of gouache's paper, the same under the whole sheet, so that what is "
        "painted in parts joins; the lines of ink wash, along all that is drawn; the evenness of flat shapes.",
        option="give what is painted the grain of its look's paper, its ink, its evenness",
    )
    spacing: float | None = number(
        None,
        0.1,
        20,
        "The spacing of noise levels goes",
        optional=True,
        label="spacing",
        tip="Spacing of noise levels: above 1 more steps go to the rough beginning.",
        option="spacing of the noise levels: above 1 more steps go to the rough beginning",
        step=0.25,
        decimals=2,
    )
    figures: bool = flag(
        True,
        label="figures",
        tip="Fit the shape of what is named into rectangles, ellipses and masks that only say where, wherever the picture is painted anew. "
        "Another seed stands or looks another way.",
        option="fit the shapes of things into loose outlines",
    )
    near_views: bool = flag(True)
    clothes_apart: bool = flag(True)
    sketches: bool = flag(
        True,
        label="pencil drawings",
        tip="Tell the model a drawing of each figure that is fitted in, seen on the sheet as a pencil sketch: things get their inner form, "
        "eyes, windows and wheels, where the sketch has them. What is drawn by hand takes its place.",
        option="tell a drawing of each figure that is fitted in",
    )
    grounds: bool = flag(
        True,
        label="ground drawings",
        tip="Tell the model a drawing of what the scene's words put behind the things: mountains, a town, a forest, a street, a floor, "
        "round a horizon that suits what stands on the sheet. Another seed is another place. A drawing of the whole takes its place.",
        option="tell a drawing of the grounds that the scene's words name",
    )
    places: bool = flag(
        True,
        label="given to things",
        tip="Give things that only words name, the scene's or an extension's, a place of their own, where such things are wont to be: seen "
        "in pencil, another one with every seed. Ctrl+L makes elements of the scene's. Without, the model puts them anywhere, some twice.",
        option="give things that only words name a place of their own, another one with every seed",
    )
    weather: bool = flag(
        True,
        label="flakes, drops, stars",
        tip="Lay flakes of snow or drops of rain before the picture where the scene's words say that they fall, and stars into a drawn "
        "night: others with every seed of the whole, and the same when a part is painted again.",
        option="lay flakes of snow, drops of rain and stars over the picture where the words say so",
    )
    quick: bool = flag(
        False,
        label="few steps",
        tip="As few steps as the model can do with, guided only in the last: many times quicker, to try things out. A drawing or "
        "sketches leave least to chance.",
        option="as few steps as the model can do with, hardly guided: many times quicker",
    )
    detail: float = number(
        1.0,
        0.5,
        2.0,
        "Detail goes",
        label="detail",
        tip="Detail: how finely the pass is computed, 1 as the model does best. More makes finer things where figures or outlines say what "
        "stands where, and takes longer; from words alone it makes more things.",
        option="how finely it is computed, 0.5 to 2; 1: as the pack does best",
        step=0.1,
        decimals=2,
    )

    def __post_init__(self) -> None:
        check(self)


SETTINGS: Mapping[str, Field] = fields_of(PassSettings)
