"""Add-ons to a pack: small differences of its weights, with words of their own, merged at load by as much as is wanted."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from safetensors import SafetensorError, safe_open

from ..core.packs import Figure
from ..core.refused import Refused
from ..core.worded import worded
from .figure_sheet import LARGEST_SIDE

FORMAT, LARGEST_FILE, MOST_WORDS = "waldrand-add-on-1", 64_000_000, 8
#: By how much an add-on may be merged.
LEAST, MOST = -1.0, 2.0
UP, DOWN, PHRASE = ".up", ".down", "phrase"
SHAPE, LINES = "figure.", ".lines"


@dataclass(frozen=True, eq=False)
class AddOn:
    """name; words: what is said for it; like: words of the pack's that they stand for besides; phrase: (d,) what they add to a phrase's
    vector; pairs: by the name of one of the denoiser's weights (out, in, ...), up (out, r) and down (r, in ...) whose product is added to
    it; digest: sha256 of its file; figures: the shapes of a thing, for outlines that only say where."""

    name: str
    words: str
    like: str
    phrase: np.ndarray
    pairs: Mapping[str, tuple[np.ndarray, np.ndarray]]
    digest: str
    figures: tuple[Figure, ...] = ()


@dataclass(frozen=True, eq=False)
class Merged:
    """An add-on, and by how much it is merged.

    Raises:
        Refused: a weight outside its range.
    """

    add_on: AddOn
    weight: float = 1.0

    def __post_init__(self) -> None:
        if not LEAST <= self.weight <= MOST:
            raise Refused(worded("An add-on is merged by {0:g} to {1:g}; {2:g} is outside.", LEAST, MOST, self.weight))


def read_add_on(path: Path) -> AddOn:
    """
    Raises:
        Refused: it cannot be read, or is no add-on.
    """
    try:
        if path.stat().st_size > LARGEST_FILE:
            raise Refused(worded("{0} is far too large for an add-on.", path))
        with safe_open(path, framework="numpy") as opened:
            said = dict(opened.metadata() or {})
            plain = {key: opened.get_tensor(key) for key in opened.keys()}  # noqa: SIM118
        shapes = {key: plain.pop(key) for key in list(plain) if key.startswith(SHAPE)}
        tensors = {key: np.asarray(value, np.float32) for key, value in plain.items()}
        digest = hashlib.sha256(path.read_bytes()).hexdigest()
    except FileNotFoundError as error:
        raise Refused(worded("There is no file {0}.", path)) from error
    except (SafetensorError, OSError, ValueError, TypeError) as error:
        raise Refused(worded("The add-on {0} is damaged, or no add-on: {1}.", path, str(error).splitlines()[0])) from error
    if said.get("format") != FORMAT:
        raise Refused(worded("{0} is no add-on of a kind that is known.", path))
    words, like, phrase = said.get("words", ""), said.get("like", ""), tensors.pop(PHRASE, np.zeros(0, np.float32))
    pairs = {key.removesuffix(UP): (v, tensors.get(key.removesuffix(UP) + DOWN)) for key, v in tensors.items() if key.endswith(UP)}
    whole = {key: (up, down) for key, (up, down) in pairs.items() if down is not None}
    fit = all(up.ndim == 2 and down.ndim >= 2 and up.shape[1] == down.shape[0] for up, down in whole.values())
    if 2 * len(whole) != len(tensors) or not fit or not 1 <= len(words.split()) <= MOST_WORDS or phrase.ndim != 1:
        raise Refused(worded("The add-on {0} is damaged: its parts do not fit each other.", path))
    if not all(np.isfinite(a).all() for a in (phrase, *(a for pair in whole.values() for a in pair))):
        raise Refused(worded("The add-on {0} is damaged: it holds what are no numbers.", path))
    try:
        figures = _figures(words.lower(), json.loads(said.get("figures", "[]")), shapes)
    except (KeyError, TypeError, ValueError) as error:
        raise Refused(worded("The add-on {0} is damaged: its shapes are none.", path)) from error
    return AddOn(said.get("name", path.stem), words.lower(), like.lower(), phrase, whole, digest, figures)


def _figures(label: str, listed: Sequence[Mapping[str, Sequence[str]]], shapes: Mapping[str, np.ndarray]) -> tuple[Figure, ...]:
    """The figures that a file lists.

    Raises:
        KeyError, TypeError, ValueError: one is missing, or cannot be.
    """
    out = []
    if 2 * len(listed) != len(shapes):
        raise ValueError
    for i, one in enumerate(listed):
        mask, lines = shapes[f"{SHAPE}{i}"], shapes[f"{SHAPE}{i}{LINES}"]
        h, w = mask.shape
        if not (1 <= max(h, w) <= LARGEST_SIDE and lines.shape == (2 * h, 2 * w) and mask.dtype == lines.dtype == np.uint8 and mask.any()):
            raise ValueError
        traits, mirrored = (frozenset(map(str, one[k])) for k in ("traits", "mirrored"))
        out.append(Figure(label, traits, mirrored, frozenset(), np.where(mask > 127, 255, 0).astype(np.uint8), lines=lines))
    return tuple(out)


def write_add_on(path: Path, add_on: AddOn) -> None:
    """Writes one in half precision."""
    from safetensors.numpy import save_file

    tensors = {PHRASE: add_on.phrase.astype(np.float16)}
    for key, (up, down) in add_on.pairs.items():
        tensors[key + UP], tensors[key + DOWN] = (np.ascontiguousarray(a, np.float16) for a in (up, down))
    listed = []
    for i, figure in enumerate(add_on.figures):
        lines = np.zeros([2 * n for n in figure.mask.shape], np.uint8) if figure.lines is None else figure.lines
        tensors[f"{SHAPE}{i}"], tensors[f"{SHAPE}{i}{LINES}"] = np.ascontiguousarray(figure.mask), np.ascontiguousarray(lines)
        listed.append({"traits": sorted(figure.traits), "mirrored": sorted(figure.mirrored)})
    said = {"format": FORMAT, "name": add_on.name, "words": add_on.words, "like": add_on.like, "figures": json.dumps(listed)}
    save_file(tensors, path, said)


def with_add_ons(weights: Mapping[str, np.ndarray], merged: Sequence[Merged]) -> dict[str, np.ndarray]:
    """A denoiser's weights with the add-ons' differences added.

    Raises:
        Refused: an add-on is for another network.
    """
    out = dict(weights)
    for one in merged:
        for key, (up, down) in one.add_on.pairs.items():
            had = out.get(key)
            if had is None or had.shape != (len(up), *down.shape[1:]):
                raise Refused(worded("The add-on “{0}” is for another model: {1} does not fit.", one.add_on.name, key))
            difference = (up @ down.reshape(len(down), -1)).reshape(had.shape)
            out[key] = np.asarray(had + np.float32(one.weight) * difference, np.float32)
    return out


def merged_digest(digest: str, merged: Sequence[Merged]) -> str:
    """A pack's digest with what was merged into it; its own where nothing was."""
    if not merged:
        return digest
    told = [[one.add_on.digest, one.weight] for one in merged]
    return hashlib.sha256(f"{digest}\n{json.dumps(told)}".encode()).hexdigest()
