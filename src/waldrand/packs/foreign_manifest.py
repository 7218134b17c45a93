"""pack.toml of models made elsewhere (format 2): what their graphs' inputs and outputs are called, and what they mean."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..core.noise.levels import PREDICTIONS, Schedule, kept_after
from ..core.packs import PackInfo
from ..core.refused import Refused
from ..core.values.frame import FrameLimits
from .manifest import checked_files

FORMAT = 2
#: What an input of the denoiser may be fed; several in a list are joined: pictures by their channels, phrases by their last axis.
FEEDS = ("noisy", "kept", "hole", "level", "sequence", "pooled", "guidance", "height", "width")
#: How a level is told: as a number of the taught steps, as the share 0..1, or as a thousandth of it.
LEVELS_TOLD = ("index", "share", "thousand")


@dataclass(frozen=True)
class Reader:
    """A graph that reads words. tokenizer: its file; length: tokens of a prompt; ids, mask: its inputs, mask "" where it has none;
    sequence, pooled: its outputs, "" where it has none; begin, end, pad: token numbers, None: as the tokenizer does it."""

    file: str
    tokenizer: str
    length: int
    ids: str
    mask: str
    sequence: str
    pooled: str
    begin: int | None
    end: int | None
    pad: int


@dataclass(frozen=True)
class Coder:
    """A graph from pictures to latents or back. least, greatest: what black and white are to it."""

    file: str
    input: str
    output: str
    least: float
    greatest: float


@dataclass(frozen=True)
class ForeignManifest:
    """inputs: of the denoiser, by name, what each is fed; constants: numbers for further ones; latents go in as (z - shift) * scale."""

    folder: Path
    info: PackInfo
    readers: tuple[Reader, ...]
    denoiser: str
    inputs: dict[str, tuple[str, ...]]
    output: str
    constants: dict[str, tuple[Any, ...]]
    level_told: str
    encoder: Coder
    decoder: Coder
    scale: float
    shift: float

    @property
    def graphs(self) -> tuple[str, ...]:
        """The files of all that it computes with."""
        return (*(r.file for r in self.readers), self.denoiser, self.encoder.file, self.decoder.file)


def read_foreign(folder: Path, text: str, d: dict[str, Any], threads: int, here: bool = True) -> ForeignManifest:
    """A manifest of format 2, its files checked; here: graphs among them.

    Raises:
        Refused: something that it states cannot be.
        KeyError, TypeError: something is missing, or of the wrong kind.
    """
    files = {str(k): str(v) for k, v in d["files"].items()}
    digest = checked_files(folder, text, files, here)
    readers = tuple(_reader(one) for one in d["reader"])
    net = d["denoiser"]
    inputs = {str(name): tuple(map(str, fed if isinstance(fed, list) else [fed])) for name, fed in net["inputs"].items()}
    encoder, decoder = _coder(d["encoder"]), _coder(d["decoder"])
    used = [str(net["file"]), encoder.file, decoder.file, *(r.file for r in readers), *(r.tokenizer for r in readers)]
    for name in used:
        if name not in files:
            raise Refused(f"The pack in {folder} uses the file {name} but does not list it.")
    if not readers or d["prediction"] not in PREDICTIONS:
        raise Refused(f"The pack in {folder} has no reader of words, or predicts what is not known: {', '.join(PREDICTIONS)} are.")
    known = {*FEEDS, *(f"{told} {i}" for told in ("sequence", "pooled") for i in range(2, len(readers) + 1))}
    strange = sorted({fed for several in inputs.values() for fed in several} - known)
    if strange:
        raise Refused(f"The pack in {folder} feeds its denoiser “{strange[0]}”; known are {', '.join(sorted(known))}.")
    fed = {one for several in inputs.values() for one in several}
    if not {"noisy", "level"} <= fed:
        raise Refused(f"The pack in {folder} feeds its denoiser no noisy picture, or no level.")
    told = str(net.get("level", "index"))
    if told not in LEVELS_TOLD:
        raise Refused(f"The pack in {folder} tells levels as “{told}”; known are {', '.join(LEVELS_TOLD)}.")
    schedule = _schedule(d)
    if told == "index" and not schedule.kept:
        raise Refused(f"The pack in {folder} tells levels by number, but states no [levels] with steps.")
    k = d["latent"]
    info = _info(folder, d, digest, schedule, readers, fed, threads)
    constants = {str(n): tuple(v) if isinstance(v, list) else (v,) for n, v in net.get("constants", {}).items()}
    return ForeignManifest(
        folder, info, readers, str(net["file"]), inputs, str(net["output"]), constants, told, encoder, decoder,
        float(k.get("scale", 1.0)), float(k.get("shift", 0.0)),
    )  # fmt: skip


def _schedule(d: dict[str, Any]) -> Schedule:
    levels = d.get("levels")
    if levels is None:
        return Schedule(d["prediction"])
    if "kept" in levels:
        kept = tuple(float(v) for v in levels["kept"])
        if not kept or not all(0 < b < a <= 1 for a, b in zip((1.0, *kept), kept, strict=False)):
            raise Refused("The pack's [levels] state what is kept after each step; it has to fall from below 1 to above 0.")
    else:
        kept = kept_after(int(levels["steps"]), float(levels["first"]), float(levels["last"]), str(levels.get("curve", "linear")))
    return Schedule(d["prediction"], kept)


def _info(
    folder: Path, d: dict[str, Any], digest: str, schedule: Schedule, readers: tuple[Reader, ...], fed: set[str], threads: int
) -> PackInfo:
    k, size, wanted = d["latent"], d["size"], d.get("recommended", {})
    limits = FrameLimits(**{n: int(size[n]) for n in ("multiple", "best_area", "least_side", "greatest_side")})
    if min(limits.multiple, limits.best_area, limits.least_side, int(k["cell"]), int(k["channels"])) < 1 or limits.multiple % int(
        k["cell"]
    ):
        raise Refused(f"The pack in {folder} states sizes that cannot be.")
    best = tuple((int(w), int(h)) for w, h in size.get("best", [[int(limits.best_area**0.5)] * 2]))
    capabilities = {name for name, need in (("inpaint", {"kept", "hole"}), ("guidance", {"guidance"})) if need <= fed}
    return PackInfo(
        str(d["name"]),
        str(d["version"]),
        str(d["licence"]),
        digest,
        int(k["channels"]),
        int(k["cell"]),
        schedule,
        limits,
        best,
        phrase_length=max(1, min(r.length for r in readers) - 2),
        rows=int(d.get("words", {}).get("rows", 32)),
        elements=int(d.get("words", {}).get("elements", 8)),
        avoids=bool(d.get("words", {}).get("avoid", True)),
        capabilities=frozenset(capabilities),
        steps=int(wanted.get("steps", 25)),
        guidance=float(wanted.get("guidance", 5.0)),
        spacing=float(wanted.get("spacing", 1.0)),
        threads=threads,
    )


def _reader(d: dict[str, Any]) -> Reader:
    inputs = d["inputs"]
    outputs = d["outputs"]
    number = {k: None if d.get(k) is None else int(d[k]) for k in ("begin", "end")}
    length = int(d["length"])
    if not 3 <= length <= 4096:
        raise Refused(f"A reader's prompts are 3 to 4096 tokens long, not {length}.")
    return Reader(
        str(d["file"]),
        str(d["tokenizer"]),
        length,
        str(inputs["ids"]),
        str(inputs.get("mask", "")),
        str(outputs.get("sequence", "")),
        str(outputs.get("pooled", "")),
        number["begin"],
        number["end"],
        int(d.get("pad", 0)),
    )


def _coder(d: dict[str, Any]) -> Coder:
    least, greatest = (float(v) for v in d.get("range", [0.0, 1.0]))
    if not least < greatest:
        raise Refused(f"Black to white goes upwards, not from {least:g} to {greatest:g}.")
    return Coder(str(d["file"]), str(d["input"]), str(d["output"]), least, greatest)
