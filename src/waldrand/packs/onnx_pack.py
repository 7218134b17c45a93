"""A pack in ONNX files, run by onnxruntime."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from importlib.resources import files
from pathlib import Path

import numpy as np
import onnxruntime as ort
from safetensors import SafetensorError
from safetensors.numpy import load_file

from ..core.packs import NONE, Figure, Finder, Guides, PackInfo, Rows, UnknownWord
from ..core.refused import Refused
from ..core.told.figures import FigureBook
from ..core.told.grounds import GroundBook
from ..core.told.guides import PER_CELL
from ..core.told.naming import named
from ..core.told.placing import PlaceBook
from ..core.worded import worded
from .add_ons import Merged, merged_digest, with_add_ons
from .figure_sheet import read_figures
from .ground_sheet import read_grounds
from .manifest import DRAWN, FINDER, LIGHT, LOOK, QUICK, FinderLabels, Manifest, read_manifest
from .place_list import read_places
from .sessions import Opens, Session, options_for, shaped
from .words import Vocabulary

THREADS = 2
#: More takes than that side by side gain little, and each takes longer to appear.
AT_ONCE = 2
#: A word as it is written.
WORD = r"[\w'-]+"
#: What processors call their units for sums of eight-bit products. Without one, eight bits are slower than all, and less exact.
EIGHT_BIT_UNITS = frozenset({"avx512_vnni", "avx_vnni", "amx_int8", "asimddp"})
CPU = Path("/proc/cpuinfo")


def own_pack_folder() -> Path:
    """The folder of the pack that is installed with the app."""
    return Path(str(files("waldrand") / "data" / "pack"))


def has_eight_bit_units(described: Path = CPU) -> bool:
    """Whether the processor has units for sums of eight-bit products, as the system describes it; no when it does not."""
    try:
        return not EIGHT_BIT_UNITS.isdisjoint(described.read_text("utf-8", "replace").split())
    except OSError:
        return False


def _one(word: str) -> str:
    """A word as it is compared: one or several of a thing are the same."""
    return word.lower().removesuffix("s")


class OnnxFinder:
    """The finder of a pack: docs/pack-format.md."""

    def __init__(self, session: Session, stated: FinderLabels, words: Vocabulary) -> None:
        self._session, self._words = session, words
        self.labels, self.whole = stated.labels, stated.whole
        self.traits, self.colours, self.grounds, self.parts = stated.traits, stated.colours, stated.grounds, stated.parts
        self.near = None if stated.near is None else self.labels.index(stated.near)
        # Parts are no words of the model's: they are known by their letters.
        apart = self.parts | {stated.near}
        self._index = {tuple(words.read(label)[0]): i for i, label in enumerate(self.labels) if label not in apart}
        self._parts = {_one(label): i for i, label in enumerate(self.labels) if label in self.parts}
        self._turned = stated.turned

    def labels_of(self, phrase: str) -> tuple[int, ...]:
        found = [self._index[label] for label in named(tuple(self._words.read(phrase)[0]), self._index)]
        things = [j for j in found if self.labels[j] not in self.traits]
        return (*things[:1], *(j for j in found if self.labels[j] in self.traits)) if things else ()

    def part_of(self, phrase: str) -> tuple[int | None, str]:
        said = phrase.split()
        at = next((i for i in reversed(range(len(said))) if _one(said[i]) in self._parts), None)
        if at is None:
            return None, phrase
        return self._parts[_one(said[at])], " ".join(w.removesuffix("'s").removesuffix("’s") for i, w in enumerate(said) if i != at)

    def look(self, picture: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        x = np.ascontiguousarray(picture.transpose(2, 0, 1)[None], np.float32)
        if self._turned is None:
            out = self._session.run(None, {"picture": x})[0][0]
        else:
            # Two looks err less than one.
            plain, mirrored = self._session.run(None, {"picture": np.concatenate([x, x[..., ::-1]])})[0]
            out = (plain + mirrored[self._turned, :, ::-1]) / 2
        k = len(self.labels)
        return out[:k], out[k:].mean((1, 2))


class OnnxPack:
    """See docs/pack-format.md for names and shapes of every graph's inputs and outputs.

    graphs: what answers for each; another may be put in its place, to watch it or to time it. figures, places: as far as the
    pack has them.
    """

    def __init__(self, folder: Path | None = None, threads: int = THREADS, exact: bool = False, opens: Opens | None = None) -> None:
        """exact: all in full precision, even where the pack has quicker graphs and the processor what those need. opens: has graphs
        ready elsewhere; then neither they nor their weights have to be in the folder.

        Raises:
            Refused: the pack is missing, damaged or not a pack.
        """
        manifest = self._manifest = read_manifest(folder or own_pack_folder(), threads, here=opens is None)
        self._served = opens is not None
        # A server shares its processor out by itself.
        self.info: PackInfo = replace(manifest.info, at_once=min(AT_ONCE, threads) if opens is None else 1)
        self._threads = threads
        self.add_ons: tuple[Merged, ...] = ()
        self.words = Vocabulary.from_json((manifest.folder / manifest.vocabulary).read_text("utf-8"))
        opens = opens or local(manifest, threads, exact)
        wanted = manifest.graphs
        # Side by side: preparing the largest takes as long as all the others.
        with ThreadPoolExecutor(2) as loading:
            sessions = dict(zip(wanted, loading.map(opens, wanted), strict=True))
        self.graphs: dict[str, Session] = {g: session for g, session in sessions.items() if g != FINDER}
        self._told_painted = "painted" in {i.name for i in sessions["decoder"].get_inputs()}
        self._told_guides = "given" in {i.name for i in sessions["denoiser"].get_inputs()}
        self._phrases: dict[bytes, np.ndarray] = {}
        self._plain = self.graphs["denoiser"]
        self.finder: Finder | None = None
        if manifest.finder is not None:
            self.finder = OnnxFinder(sessions[FINDER], manifest.finder, self.words)
        self._shapes: tuple[Figure, ...] = ()
        if manifest.figures is not None:
            drawings = None if manifest.sketches is None else manifest.folder / manifest.sketches
            picture, listed = (manifest.folder / name for name in manifest.figures)
            self._shapes = read_figures(picture, listed, drawings)
        self.figures: FigureBook | None = self._book()
        self.grounds: GroundBook | None = None
        if manifest.grounds is not None:
            grounds, means = read_grounds(*(manifest.folder / name for name in manifest.grounds))
            self.grounds = GroundBook(grounds, means, lambda phrase: self.words.read(phrase)[0])
        self.places: PlaceBook | None = None
        if manifest.places is not None:
            self.places = PlaceBook(*read_places(manifest.folder / manifest.places), self.words.read)

    def use_add_ons(self, merged: Sequence[Merged]) -> None:
        """Merges add-ons into the pack as it was installed; none takes all of them away again.

        Raises:
            Refused: one is for another model, or says what is like no word of this one; then all stays as it was.
        """
        if self._served and merged:
            raise Refused(worded("A pack on a server takes no add-ons: they are merged where its weights are."))
        width = self._text(np.zeros((1, self.info.phrase_length), np.int64)).shape[1]
        for one in merged:
            unknown = self.words.read(one.add_on.like)[1]
            if unknown or len(one.add_on.phrase) not in (0, width):
                raise Refused(worded("The add-on “{0}” is for another model: its words do not fit.", one.add_on.name))
        # In full precision: what is added may be finer than eight bits.
        session = _session(self._manifest, "denoiser", self._threads, merged) if merged else self._plain
        self.graphs["denoiser"], self.add_ons = session, tuple(merged)
        own = self._manifest.info
        said = tuple(f"{one.add_on.name} {one.weight:g}" for one in merged)
        version = " + ".join((own.version, *said))
        self.info = replace(own, digest=merged_digest(own.digest, merged), version=version, add_ons=said)
        self._phrases.clear()
        self.figures = self._book()

    def _book(self) -> FigureBook | None:
        """The figures of the pack and of what is merged into it; None where there are none."""
        shapes = (*self._shapes, *(f for one in self.add_ons for f in one.add_on.figures))
        return FigureBook(shapes, self._thing_ids) if shapes else None

    def _thing_ids(self, phrase: str) -> list[int]:
        """Word ids of a phrase by which things are told apart: an add-on's own number stands right behind the words it is like."""
        said = f" {' '.join(re.findall(WORD, phrase.lower()))} "
        for i, one in enumerate(self.add_ons):
            before, own, after = said.partition(f" {one.add_on.words} ")
            if own:
                return [*self._thing_ids(before), *self.words.read(one.add_on.like)[0], len(self.words.words) + i, *self._thing_ids(after)]
        return self.words.read(said)[0]

    def read(self, phrase: str) -> tuple[list[int], list[UnknownWord]]:
        written, own = re.findall(WORD, phrase.lower()), list[int]()
        said = f" {' '.join(written)} "
        for i, one in enumerate(self.add_ons):
            if f" {one.add_on.words} " in said:
                said = said.replace(f" {one.add_on.words} ", f" {one.add_on.like} ", 1)
                own.append(len(self.words.words) + i)
        if not own:
            return self.words.read(phrase)
        ids, unknown = self.words.read(said)
        # What an add-on adds goes along as a number beyond the words, where there is room for it.
        return [*ids[: self.info.phrase_length - len(own)], *own], unknown

    def groups(self) -> Mapping[str, tuple[str, ...]]:
        return self.words.groups

    def offers(self) -> tuple[str, ...]:
        return (*(p for group in self.words.groups.values() for p in group), *(one.add_on.words for one in self.add_ons))

    def _picture(self, graph: str, **feeds: np.ndarray) -> np.ndarray:
        out = self.graphs[graph].run(None, {name: a[None] for name, a in feeds.items()})[0]
        return np.ascontiguousarray(out[0].transpose(1, 2, 0))

    def encode(self, picture: np.ndarray) -> np.ndarray:
        x = np.ascontiguousarray(picture.transpose(2, 0, 1)[None], np.float32)
        h, w = (side // self.info.cell for side in picture.shape[:2])
        return shaped(self.graphs["encoder"].run(None, {"picture": x})[0], (1, self.info.channels, h, w))[0]

    def decode(
        self, latent: np.ndarray, painted: np.ndarray | None = None, drawing: np.ndarray | None = None, light: bool = False
    ) -> np.ndarray:
        if not self._told_painted:
            return self._picture("decoder", latent=latent)
        feeds = {"latent": latent, "painted": (np.zeros(latent.shape[1:], np.float32) if painted is None else painted)[None]}
        if light and LIGHT in self.graphs:
            h, w = (self.info.cell * side for side in latent.shape[1:])
            return self._picture(LIGHT, **feeds, lines=(np.zeros((h, w), np.float32) if drawing is None else drawing)[None])
        if drawing is None or DRAWN not in self.graphs:
            return self._picture("decoder", **feeds)
        return self._picture(DRAWN, **feeds, lines=drawing[None])

    def preview(self, latent: np.ndarray) -> np.ndarray:
        return self._picture("preview", latent=latent)

    def _text(self, ids: np.ndarray) -> np.ndarray:
        beyond = len(self.words.words)
        if (ids < beyond).all():
            return self._plain_text(ids)
        told = self._plain_text(np.where(ids < beyond, ids, 0)).copy()
        for row, column in np.argwhere(ids >= beyond):
            one = self.add_ons[ids[row, column] - beyond]
            if len(one.add_on.phrase):
                told[row] += np.float32(one.weight) * one.add_on.phrase
        return told

    def _plain_text(self, ids: np.ndarray) -> np.ndarray:
        key = ids.tobytes()
        # Another thread may ask at the same time.
        told = self._phrases.get(key)
        if told is None:
            told = self.graphs["text"].run(None, {"ids": ids})[0]
            if len(self._phrases) > 256:
                self._phrases.clear()
            self._phrases[key] = told
        return told

    def _phrases_of(self, rows: Rows) -> np.ndarray:
        """A vector for each row, (R, d): of its words, or of its look."""
        if rows.looks is None or LOOK not in self.graphs:
            return self._text(rows.ids)
        lent = np.asarray(rows.looks.any(1))
        looks = self.graphs[LOOK].run(None, {"looks": rows.looks})[0]
        return np.asarray(np.where(lent[:, None], looks, self._text(rows.ids)))

    def _guides(self, x: np.ndarray, guides: Guides | None, told: Sequence[Rows]) -> dict[str, np.ndarray]:
        """What a denoiser that can be told of guides is fed of them, for each set of rows."""
        if not self._told_guides:
            return {}
        h, w = (PER_CELL * side for side in x.shape[1:])
        lines, depth = (None, None) if guides is None else (guides.lines, guides.depth)
        said = [float(lines is not None), guides.depth_given if guides is not None and depth is not None else 0.0]
        maps = [np.zeros((h, w), np.float32) if a is None else np.asarray(a, np.float32) for a in (lines, depth)]
        drawn = np.stack([np.float32(r.drawn) * maps[0] for r in told])[:, None]
        given = np.repeat(np.array([said], np.float32), len(told), 0)
        return {"lines": drawn, "depth": np.repeat(maps[1][None, None], len(told), 0), "given": given}

    def answer(
        self, x: np.ndarray, kept: np.ndarray, hole: np.ndarray, t: float, told: Sequence[Rows], guides: Guides | None = None
    ) -> list[np.ndarray]:
        n, most = len(told), max(len(r.kind) for r in told)
        rows = [_padded(r, most) for r in told]
        feeds = {
            "noisy": np.repeat(x[None], n, 0),
            "kept": np.repeat(kept[None], n, 0),
            "hole": np.repeat(hole[None, None], n, 0),
            "level": np.full(n, t, np.float32),
            "phrases": np.stack([self._phrases_of(r) for r in rows]),
            "kind": np.stack([r.kind for r in rows]),
            "outline": np.stack([r.outline for r in rows]),
            "weight": np.stack([r.weight for r in rows]),
            **self._guides(x, guides, rows),
        }
        return list(shaped(self._asked(feeds, n), (n, *x.shape)))

    def _asked(self, feeds: Mapping[str, np.ndarray], n: int) -> np.ndarray:
        """The denoiser's answers to n questions: here side by side, for one answer gives threads little that they could share."""
        denoiser = self.graphs["denoiser"]
        at_once = 1 if self._served else min(n, self._threads)
        if at_once == 1:
            return np.asarray(denoiser.run(None, feeds)[0])
        parts = [{name: a[k] for name, a in feeds.items()} for k in np.array_split(np.arange(n), at_once)]
        # New threads each time, that count as much as the one that asks.
        with ThreadPoolExecutor(at_once) as asking:
            return np.concatenate([out[0] for out in asking.map(lambda part: denoiser.run(None, part), parts)])


def _padded(r: Rows, rows: int) -> Rows:
    more = rows - len(r.kind)
    if not more:
        return r
    return replace(
        r,
        ids=np.pad(r.ids, ((0, more), (0, 0))),
        kind=np.pad(r.kind, (0, more), constant_values=NONE),
        outline=np.pad(r.outline, ((0, more), (0, 0), (0, 0))),
        weight=np.pad(r.weight, (0, more)),
        looks=None if r.looks is None else np.pad(r.looks, ((0, more), (0, 0))),
    )


def local(manifest: Manifest, threads: int, exact: bool = False) -> Opens:
    """A pack's graphs on this machine, the quicker of two where the processor has what it needs and exact is not wanted."""
    quick = {g: q for g, q in QUICK.items() if q in manifest.weights} if not exact and has_eight_bit_units() else {}
    return lambda graph: _session(manifest, str(quick.get(graph, graph)), threads)


def _session(manifest: Manifest, graph: str, threads: int, merged: Sequence[Merged] = ()) -> ort.InferenceSession:
    options = options_for(threads)
    try:
        weights: dict[str, np.ndarray] = {}
        for shard in manifest.weights[graph]:
            weights |= load_file(manifest.folder / shard)
        weights = with_add_ons(weights, merged)
        # Kept alive until the session has read them.
        values = [
            ort.OrtValue.ortvalue_from_numpy(np.ascontiguousarray(v, v.dtype if v.dtype == np.int8 else np.float32))
            for v in weights.values()
        ]
        if values:
            options.add_external_initializers(list(weights), values)
        return ort.InferenceSession(str(manifest.folder / f"{graph}.onnx"), options, providers=["CPUExecutionProvider"])
    except Refused:
        raise
    except (SafetensorError, OSError) as error:
        raise Refused(f"The pack's weights for “{graph}” cannot be read: {error}") from error
    except Exception as error:  # onnxruntime raises its own, undocumented kinds
        raise Refused(f"The pack's graph “{graph}” cannot be loaded: {str(error).splitlines()[0]}") from error
