"""pack.toml: what a pack says of itself, read as if it were hostile."""

from __future__ import annotations

import hashlib
import tomllib
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..core.noise.levels import PREDICTIONS, Schedule
from ..core.packs import PackInfo, Quick
from ..core.refused import Refused
from ..core.values.fall import Fall
from ..core.values.frame import FrameLimits
from ..core.values.grain import Grain
from ..core.values.look_even import Even
from ..core.values.look_ink import LookInk

FORMAT = 1
GRAPHS = ("text", "denoiser", "encoder", "preview", "decoder")
FINDER = "finder"
#: The graph that reads looks, where a pack has it.
LOOK = "look"
#: The decoder that is told drawings, where a pack has it.
DRAWN = "drawn_decoder"
#: A narrower one of that kind, for what is wanted soon, where a pack has it.
LIGHT = "light_decoder"
#: Graphs that a pack may have a second time, in fewer bits, and under what name.
QUICK = {"denoiser": "quick_denoiser", "decoder": "quick_decoder"}
LARGEST_FILE = 4_000_000_000
LARGEST_MANIFEST = 1_000_000


@dataclass(frozen=True)
class FinderLabels:
    """What a pack's finder tells apart: see core.pack.Finder. mirrored: pairs of labels that change places in a mirror, or None where
    the pack does not say, so that the finder should not look into one; near: the label under which it tells how near everything is."""

    labels: tuple[str, ...]
    whole: tuple[str, ...]
    traits: frozenset[str]
    colours: frozenset[str]
    grounds: frozenset[str]
    mirrored: tuple[tuple[str, str], ...] | None = None
    parts: frozenset[str] = frozenset()
    near: str | None = None

    @property
    def turned(self) -> list[int] | None:
        """Which of a mirrored picture's answers belongs to each label, then to each of the whole; None where there is no mirror."""
        if self.mirrored is None:
            return None
        other = dict(self.mirrored) | {b: a for a, b in self.mirrored}
        n = len(self.labels)
        return [*(self.labels.index(other.get(label, label)) for label in self.labels), *range(n, n + len(self.whole))]


@dataclass(frozen=True)
class Manifest:
    """folder; info; files: every file's sha256 by name; weights: shards by graph, in order; vocabulary: its file; figures: the
    files of their picture and their list; places: the file of their list; sketches: of the figures' drawings; grounds: the files of
    their picture, their shapes and their list."""

    folder: Path
    info: PackInfo
    files: dict[str, str]
    weights: dict[str, tuple[str, ...]]
    vocabulary: str
    finder: FinderLabels | None = None
    figures: tuple[str, str] | None = None
    places: str | None = None
    sketches: str | None = None
    grounds: tuple[str, str, str] | None = None

    @property
    def graphs(self) -> tuple[str, ...]:
        """All that it computes with, by what they do; those in fewer bits stand for others."""
        more = (g for g in (LOOK, DRAWN, LIGHT) if g in self.weights)
        return (*GRAPHS, *more, *((FINDER,) if self.finder is not None else ()))


def _sha256(path: Path) -> str:
    with path.open("rb") as f:
        return hashlib.file_digest(f, "sha256").hexdigest()


def read_manifest(folder: Path, threads: int = 2, here: bool = True) -> Manifest:
    """Reads and checks a pack's manifest and the hash of each of its files; here: graphs and weights are among these.

    Raises:
        Refused: anything missing, damaged, or leading out of the folder, in a sentence.
    """
    text, d = read_description(folder)
    try:
        return _build(folder, text, d, threads, here)
    except (KeyError, TypeError) as error:
        raise Refused(f"{folder / 'pack.toml'} is not complete: {error} is missing or of the wrong kind.") from error


def read_description(folder: Path) -> tuple[str, dict[str, Any]]:
    """A pack's pack.toml, as text and read.

    Raises:
        Refused: it is missing, or no such file.
    """
    path = folder / "pack.toml"
    try:
        if path.stat().st_size > LARGEST_MANIFEST:
            raise Refused(f"{path} is far too large for a pack's description.")
        text = path.read_text("utf-8")
        return text, tomllib.loads(text)
    except FileNotFoundError as error:
        raise Refused(f"There is no pack in {folder}: pack.toml is missing. Install Waldrand again, or choose another pack.") from error
    except (tomllib.TOMLDecodeError, UnicodeDecodeError, OSError) as error:
        raise Refused(f"{path} cannot be read: {error}") from error


def held(name: str) -> bool:
    """Whether a file is one that only whoever computes needs: a graph, or weights."""
    return name.endswith((".onnx", ".safetensors", ".onnx_data", ".data", ".bin"))


def checked_files(folder: Path, text: str, files: dict[str, str], here: bool = True) -> str:
    """The digest of a pack, its files being what their hashes say; here: graphs and weights too.

    Raises:
        Refused: one is not, cannot be read, or leads out of the folder.
    """
    for name, digest in sorted(files.items()):
        if Path(name).name != name or name.startswith("."):
            raise Refused(f"The pack in {folder} names a file outside itself: {name}")
        try:
            path = folder / name
            if not here and held(name):
                continue
            if path.is_symlink() or path.stat().st_size > LARGEST_FILE:
                raise Refused(f"The pack's file {path} is a link or far too large.")
            if _sha256(path) != digest:
                raise Refused(f"The pack's file {path} is damaged: its hash is not what pack.toml says. Install the pack again.")
        except OSError as error:
            raise Refused(f"The pack's file {folder / name} cannot be read: {error.strerror}. Install the pack again.") from error
    return digest_of(text, files)


def digest_of(text: str, files: dict[str, str]) -> str:
    """The digest of a pack: of its description, and of the hashes that this states of its files."""
    total = hashlib.sha256(text.encode())
    for name, digest in sorted(files.items()):
        total.update(f"{name}:{digest}\n".encode())
    return total.hexdigest()


def _build(folder: Path, text: str, d: dict[str, Any], threads: int, here: bool) -> Manifest:
    if d["format"] != FORMAT:
        raise Refused(f"The pack in {folder} has format {d['format']}; this version reads format {FORMAT}.")
    if d["prediction"] not in PREDICTIONS:
        raise Refused(f"The pack in {folder} predicts “{d['prediction']}”; known are {', '.join(PREDICTIONS)}.")
    files = {str(k): str(v) for k, v in d["files"].items()}
    digest = checked_files(folder, text, files, here)
    more = (g for g in (LOOK, DRAWN, LIGHT, *QUICK.values()) if g in d["weights"])
    graphs = (*GRAPHS, *((FINDER,) if FINDER in d else ()), *more)
    weights = {g: tuple(map(str, d["weights"].get(g, ()))) for g in graphs}
    vocabulary = str(d["vocabulary"])
    figures = (str(d["figures"]["picture"]), str(d["figures"]["list"])) if "figures" in d else None
    places = str(d["places"]["list"]) if "places" in d else None
    drawn = d.get("grounds")
    grounds = (str(drawn["picture"]), str(drawn["shapes"]), str(drawn["list"])) if drawn else None
    sketches = str(d["figures"]["sketches"]) if figures and "sketches" in d["figures"] else None
    shards = [s for graph in weights.values() for s in graph]
    lists = [name for name in (places, sketches) if name]
    for name in (*(f"{g}.onnx" for g in graphs), *shards, vocabulary, *(figures or ()), *(grounds or ()), *lists):
        if name not in files:
            raise Refused(f"The pack in {folder} uses the file {name} but does not list it.")
    k, size = d["latent"], d["size"]
    stated = {k: int(size[k]) for k in ("multiple", "best_area", "least_side", "greatest_side")}
    limits = FrameLimits(**stated, placed_area=int(size.get("placed_area", size["best_area"])))
    if min(
        limits.multiple, limits.best_area, limits.placed_area, limits.least_side, int(k["cell"]), int(k["channels"])
    ) < 1 or limits.multiple % int(k["cell"]):
        raise Refused(f"The pack in {folder} states sizes that cannot be.")
    info = PackInfo(
        str(d["name"]),
        str(d["version"]),
        str(d["licence"]),
        digest,
        int(k["channels"]),
        int(k["cell"]),
        Schedule(d["prediction"]),
        limits,
        tuple((int(w), int(h)) for w, h in size["best"]),
        int(d["words"]["phrase_length"]),
        int(d["words"]["rows"]),
        int(d["words"]["elements"]),
        bool(d["words"]["avoid"]),
        frozenset(map(str, d["capabilities"])),
        int(d["recommended"]["steps"]),
        float(d["recommended"]["guidance"]),
        float(d["recommended"]["spacing"]),
        _guided(folder, d["recommended"].get("guided", [0.0, 1.0])),
        _lead_kept(folder, d["recommended"].get("lead_kept", 0.0)),
        _told(folder, d["recommended"].get("told", 1.0)),
        threads,
        _quick(folder, d["recommended"].get("quick", {})),
        grains=tuple(_grain(folder, look, stated) for look, stated in d.get("paper", {}).items()),
        inks=tuple(_look_ink(folder, look, stated) for look, stated in d.get("inked", {}).items()),
        evens=tuple(_even(folder, look, stated) for look, stated in d.get("even", {}).items()),
        worn=tuple(map(str, d["figures"].get("worn", []))) if figures else (),
        falls=tuple(_fall(folder, said, stated) for said, stated in d.get("falling", {}).items()),
    )
    finder = _finder(folder, d[FINDER]) if FINDER in d else None
    return Manifest(folder, info, files, weights, vocabulary, finder, figures, places, sketches, grounds)


def _guided(folder: Path, stated: list[Any]) -> tuple[float, float]:
    match [float(t) for t in stated]:
        case [least, greatest] if 0 <= least <= greatest <= 1:
            return least, greatest
    raise Refused(f"The pack in {folder} states noise levels for guidance that cannot be: {stated}.")


def _lead_kept(folder: Path, stated: float) -> float:
    if not 0 <= float(stated) <= 1:
        raise Refused(f"The pack in {folder} states a length for which guidance is kept that cannot be: {stated}.")
    return float(stated)


def _told(folder: Path, stated: float) -> float:
    if not 0.5 <= float(stated) <= 1.5:
        raise Refused(f"The pack in {folder} states a share of the noise to be told that cannot be: {stated}.")
    return float(stated)


def _quick(folder: Path, stated: dict[str, Any]) -> Quick:
    quick = Quick(
        int(stated.get("steps", 5)),
        float(stated.get("ahead", 0.0)),
        float(stated.get("guidance", 1.0)),
        _guided(folder, stated.get("guided", [0.0, 1.0])),
    )
    if not (1 <= quick.steps <= 200 and 0 <= quick.ahead <= 2 and 1 <= quick.guidance <= 20):
        raise Refused(f"The pack in {folder} states few steps that cannot be: {stated}.")
    return quick


def _grain(folder: Path, look: str, stated: dict[str, Any]) -> Grain:
    grain = Grain(look, *(float(stated[name]) for name in ("streaks", "grain", "side")))
    if not (0 <= grain.streaks <= 1 and 0 <= grain.grain <= 1 and 0.5 <= grain.side <= 1000):
        raise Refused(f"The pack in {folder} states a paper for “{look}” that cannot be.")
    return grain


def _even(folder: Path, look: str, stated: dict[str, Any]) -> Even:
    even = Even(look, *(float(stated[name]) for name in ("reach", "faint")))
    if not (0 < even.reach <= 100 and 0 < even.faint <= 1):
        raise Refused(f"The pack in {folder} states an evenness for “{look}” that cannot be.")
    return even


def _fall(folder: Path, said: str, stated: dict[str, Any]) -> Fall:
    count, aslant, covers = int(stated["count"]), float(stated["aslant"]), float(stated["covers"])
    match [[float(v) for v in stated[name]] for name in ("thick", "long", "colour")]:
        case [[thin, thick], [short, long], [red, green, blue]] if (
            0 < count <= 500 and 0 < thin <= thick <= 0.1 and 0 <= short <= long <= 0.5 and abs(aslant) <= 2 and 0 <= covers <= 1
        ) and all(0 <= c <= 255 for c in (red, green, blue)):
            but_in = tuple(map(str, stated.get("but_in", ())))
            return Fall(said, but_in, count, (thin, thick), (short, long), aslant, (red, green, blue), covers)
    raise Refused(f"The pack in {folder} states of “{said}” how it falls as it cannot.")


def _look_ink(folder: Path, look: str, stated: dict[str, Any]) -> LookInk:
    match float(stated["amount"]), [float(c) for c in stated["colour"]]:
        case amount, [red, green, blue] if 0 <= amount <= 1 and all(0 <= c <= 255 for c in (red, green, blue)):
            return LookInk(look, amount, (red, green, blue))
    raise Refused(f"The pack in {folder} states an ink for “{look}” that cannot be.")


def _finder(folder: Path, d: dict[str, Any]) -> FinderLabels:
    lists = {k: tuple(map(str, d[k])) for k in ("labels", "whole", "traits", "colours", "grounds")}
    known = set(lists["labels"])
    if len(known) != len(lists["labels"]) or not known or not all(set(lists[k]) <= known for k in ("traits", "colours", "grounds")):
        raise Refused(f"The pack in {folder} states labels of its finder that cannot be.")
    mirrored = None
    if "mirrored" in d:
        both = [str(label) for pair in d["mirrored"] for label in pair]
        if any(len(pair) != 2 for pair in d["mirrored"]) or len(set(both)) != len(both) or not known.issuperset(both):
            raise Refused(f"The pack in {folder} states labels of its finder that cannot change places in a mirror.")
        mirrored = tuple(zip(both[::2], both[1::2], strict=True))
    traits, colours, grounds = (frozenset(lists[k]) for k in ("traits", "colours", "grounds"))
    parts, near = frozenset(map(str, d.get("parts", ()))), d.get("near")
    if not parts <= traits or (near is not None and near not in traits):
        raise Refused(f"The pack in {folder} states parts that its finder does not know.")
    return FinderLabels(lists["labels"], lists["whole"], traits, colours, grounds, mirrored, parts, near)
