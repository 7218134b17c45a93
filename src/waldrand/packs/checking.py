"""Tries a pack: its files, what it says of itself, and one small pass, with what that costs."""

from __future__ import annotations

import resource
import time
from dataclasses import dataclass

import numpy as np

from ..core.packs import Pack
from ..core.passes.plan import plan
from ..core.passes.request import Request
from ..core.passes.run import run_take
from ..core.passes.settings import PassSettings
from ..core.refused import Refused
from ..core.values.element import Element, SceneWords
from ..core.values.outline import Outline
from ..core.values.sheet import Sheet
from .opened import Where, open_pack

#: Steps of the small pass.
STEPS = 2


@dataclass(frozen=True)
class Checked:
    """name, version, licence of the pack; can: what it is able to do, and what the app does without, in sentences; side: of the picture
    that was painted; loading, encoding, answering, decoding: seconds; megabytes: the most memory that the process had."""

    name: str
    version: str
    licence: str
    can: tuple[str, ...]
    side: int
    loading: float
    encoding: float
    answering: float
    decoding: float
    megabytes: float


def checked(where: Where) -> Checked:
    """Loads a pack and paints with it.

    Raises:
        Refused: something of it is wrong, in a sentence.
    """
    begun = time.perf_counter()
    pack = open_pack(where)
    loading = time.perf_counter() - begun
    limits = pack.info.limits
    side = limits.least_side + -limits.least_side % limits.multiple
    picture = np.random.default_rng(1).random((side, side, 3)).astype(np.float32)
    begun = time.perf_counter()
    z = pack.encode(picture)
    encoding = time.perf_counter() - begun
    cells = side // pack.info.cell
    if z.shape != (pack.info.channels, cells, cells):
        raise Refused(f"A picture of {side} x {side} becomes a latent of {z.shape}; pack.toml says {(pack.info.channels, cells, cells)}.")
    begun = time.perf_counter()
    back = pack.decode(z)
    decoding = time.perf_counter() - begun
    if back.shape != picture.shape or not np.isfinite(back).all():
        raise Refused(f"The decoder makes {back.shape} of a picture of {picture.shape}, or numbers that are none.")
    if pack.preview(z).shape[2:] != (3,):
        raise Refused("The preview is no picture of three colours.")
    answering = _tried(pack, side)
    most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    info = pack.info
    return Checked(info.name, info.version, info.licence, tuple(_able(pack)), side, loading, encoding, answering, decoding, most)


def _tried(pack: Pack, side: int) -> float:
    """Seconds for an answer of the network, in a small pass.

    Raises:
        Refused: it cannot be run, or answers nonsense.
    """
    words = next(iter(pack.offers()), "house")
    box = Element(1, "one", Outline("box", (side / 4, side / 4, side * 3 / 4, side * 3 / 4)), words)
    sheet = Sheet(side, side, elements=(box,), scene=SceneWords(words))
    request = Request("compose", PassSettings(steps=STEPS, guidance=pack.info.guidance, figures=False))
    p = plan(sheet, request, pack)
    begun = time.perf_counter()
    take = run_take(p, pack, 0)
    seconds = time.perf_counter() - begun
    if take.pixels.std() == 0:
        raise Refused("A pass of two steps gives a picture of one single colour: the network answers nonsense.")
    return seconds / max(1, p.calls)


def _able(pack: Pack) -> list[str]:
    """What it can do, and what the app does where it cannot."""
    has = pack.info.capabilities
    return [
        "Places: it is told where things are." if "regions" in has else "Places: elements are painted each by itself and blended.",
        "Inpainting: it was taught to." if "inpaint" in has else "Inpainting: what has to stay is set back at every step.",
        "Finder: it tells what a picture shows." if pack.finder is not None else "Finder: none, so nothing is found by words or scored.",
        "Figures: it has shapes of things." if pack.figures is not None else "Figures: none; outlines are told as they are.",
        "Drawings: it follows lines." if "lines" in has else "Drawings: it cannot be told any.",
        "Looks: pictures lend theirs." if "looks" in has else "Looks: none are lent.",
    ]
