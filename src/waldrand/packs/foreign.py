"""Packs of models made elsewhere, run by onnxruntime as they are: text read as a sequence of tokens, any latent, any names."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path

import numpy as np
import onnxruntime as ort

from ..core.packs import Finder, Guides, Rows, UnknownWord
from ..core.refused import Refused
from ..core.told.figures import FigureBook
from ..core.told.grounds import GroundBook
from ..core.told.placing import PlaceBook
from .foreign_manifest import Coder, ForeignManifest, Reader
from .sessions import Opens, Session, options_for, shaped

#: onnxruntime's names of types, and NumPy's.
TYPES = {
    "tensor(float)": np.float32,
    "tensor(float16)": np.float16,
    "tensor(double)": np.float64,
    "tensor(int64)": np.int64,
    "tensor(int32)": np.int32,
    "tensor(bool)": np.bool_,
}
#: Flat colours that a rough preview of latents is fitted to.
COLOURS = np.array([(0, 0, 0), (1, 1, 1), (1, 0, 0), (0, 1, 0), (0, 0, 1), (1, 1, 0), (0, 1, 1), (1, 0, 1), (0.5, 0.5, 0.5)], np.float32)


class Graph:
    """A graph under the names that its manifest gives. What it is fed is brought to the types that it takes.

    Raises:
        Refused: it cannot be loaded, or has none of the inputs and outputs that are named.
    """

    def __init__(self, file: str, inputs: Sequence[str], outputs: Sequence[str], opens: Opens) -> None:
        self._session = opens(file)
        self.inputs = {one.name: one for one in self._session.get_inputs()}
        self.outputs = [one.name for one in self._session.get_outputs()]
        for what, named, there in (("input", inputs, list(self.inputs)), ("output", outputs, self.outputs)):
            for name in named:
                if name not in there:
                    raise Refused(f"The pack's graph {file} has no {what} “{name}”; it has {', '.join(there)}.")
        untold = [name for name in self.inputs if name not in inputs]
        if untold:
            raise Refused(f"The pack's graph {file} has an input “{untold[0]}” that pack.toml feeds nothing.")

    def run(self, feeds: Mapping[str, np.ndarray], outputs: Sequence[str]) -> list[np.ndarray]:
        """Named outputs in float32."""
        cast: dict[str, np.ndarray] = {}
        for name, value in feeds.items():
            stated = self.inputs[name]
            cast[name] = np.ascontiguousarray(value, TYPES.get(stated.type, np.float32))
            if len(stated.shape) == 0:
                cast[name] = np.asarray(cast[name].reshape(-1)[0])
        try:
            made = self._session.run(list(outputs), cast)
        except Refused:
            raise
        except Exception as error:
            raise Refused(f"The model failed: {str(error).splitlines()[0]}") from error
        return [np.asarray(one, np.float32) for one in made]


def local_foreign(folder: Path, threads: int) -> Opens:
    """Graphs by their files in a folder, on this machine."""

    def session(file: str) -> Session:
        try:
            return ort.InferenceSession(str(folder / file), options_for(threads), providers=["CPUExecutionProvider"])
        except Exception as error:  # onnxruntime raises its own, undocumented kinds
            raise Refused(f"The pack's graph {file} cannot be loaded: {str(error).splitlines()[0]}") from error

    return session


class _Words:
    """A reader of words: text to a sequence of vectors, and to one of the whole."""

    def __init__(self, folder: Path, reader: Reader, opens: Opens) -> None:
        from tokenizers import Tokenizer

        self._reader = reader
        try:
            self.tokens = Tokenizer.from_file(str(folder / reader.tokenizer))
        except Exception as error:  # the package raises plain exceptions
            raise Refused(f"The pack's tokenizer {reader.tokenizer} cannot be read: {str(error).splitlines()[0]}") from error
        self.tokens.no_padding()
        self.tokens.no_truncation()
        self._outputs = [name for name in (reader.sequence, reader.pooled) if name]
        inputs = [name for name in (reader.ids, reader.mask) if name]
        self.graph = Graph(reader.file, inputs, self._outputs, opens)
        self._known: dict[str, tuple[np.ndarray, np.ndarray]] = {}

    def ids_of(self, phrase: str) -> list[int]:
        return list(self.tokens.encode(phrase, add_special_tokens=False).ids)

    def text_of(self, ids: Sequence[int]) -> str:
        return str(self.tokens.decode(list(ids), skip_special_tokens=True)).strip()

    def _prompt(self, text: str) -> tuple[np.ndarray, np.ndarray]:
        """Tokens and mask (length,) of a text, cut where it is too long, with what begins and ends it."""
        r = self._reader
        own = r.begin is None and r.end is None
        ids = list(self.tokens.encode(text, add_special_tokens=own).ids)
        if not own:
            head, tail = ([] if n is None else [n] for n in (r.begin, r.end))
            ids = [*head, *ids[: r.length - len(head) - len(tail)], *tail]
        elif len(ids) > r.length:
            ids = [*ids[: r.length - 1], ids[-1]]
        mask = np.zeros(r.length, np.int64)
        mask[: len(ids)] = 1
        return np.array([*ids, *[r.pad] * (r.length - len(ids))], np.int64), mask

    def read(self, text: str) -> tuple[np.ndarray, np.ndarray]:
        """(tokens, d) and (d',); empty where the graph has no such output."""
        if text not in self._known:
            ids, mask = self._prompt(text)
            feeds = {self._reader.ids: ids[None]} | ({self._reader.mask: mask[None]} if self._reader.mask else {})
            try:
                made = dict(zip(self._outputs, self.graph.run(feeds, self._outputs), strict=True))
            except Refused as error:
                raise Refused(f"The pack's words cannot be read: its tokenizer and its graph may not belong together. {error}") from error
            if len(self._known) > 64:
                self._known.clear()
            nothing = np.zeros((0,), np.float32)
            sequence = made[self._reader.sequence][0] if self._reader.sequence else nothing
            self._known[text] = sequence, made[self._reader.pooled][0] if self._reader.pooled else nothing
        return self._known[text]


class ForeignPack:
    """A pack of format 2: docs/pack-format.md. It tells no places, no figures and nothing of what pictures show; elements are blended.

    Raises:
        Refused: a graph or tokenizer cannot be loaded, or does not have what the manifest names.
    """

    finder: Finder | None = None
    figures: FigureBook | None = None
    grounds: GroundBook | None = None
    places: PlaceBook | None = None

    def __init__(self, manifest: ForeignManifest, opens: Opens | None = None) -> None:
        """opens: has graphs ready elsewhere, by their files' names."""
        self.manifest, self.info = manifest, manifest.info
        opens = opens or local_foreign(manifest.folder, manifest.info.threads)
        self.readers = [_Words(manifest.folder, reader, opens) for reader in manifest.readers]
        self.denoiser = Graph(manifest.denoiser, [*manifest.inputs, *manifest.constants], [manifest.output], opens)
        self._encoder = Graph(manifest.encoder.file, [manifest.encoder.input], [manifest.encoder.output], opens)
        self._decoder = Graph(manifest.decoder.file, [manifest.decoder.input], [manifest.decoder.output], opens)
        self._colours: np.ndarray | None = None

    # --- words

    def read(self, phrase: str) -> tuple[list[int], list[UnknownWord]]:
        first = self.readers[0]
        ids = first.ids_of(phrase)
        strange = first.tokens.token_to_id("<unk>"), first.tokens.token_to_id("[UNK]")
        unknown = [UnknownWord(word, ()) for word in phrase.split() if any(i in strange for i in first.ids_of(word) if i is not None)]
        # Numbers from 1: 0 stands for nothing.
        return [i + 1 for i in ids if i not in strange], unknown

    def groups(self) -> Mapping[str, tuple[str, ...]]:
        return {}

    def offers(self) -> tuple[str, ...]:
        return ()

    def _text_of(self, rows: Rows) -> str:
        """All phrases of a voice as one prompt."""
        heard = (ids for ids, kind, w in zip(rows.ids, rows.kind, rows.weight, strict=True) if kind and w > 0)
        said = (self.readers[0].text_of([i - 1 for i in ids if i]) for ids in heard)
        return ", ".join(text for text in said if text)

    # --- pictures

    def _coded(self, graph: Graph, coder: Coder, value: np.ndarray) -> np.ndarray:
        return graph.run({coder.input: value[None]}, [coder.output])[0][0]

    def encode(self, picture: np.ndarray) -> np.ndarray:
        c = self.manifest.encoder
        x = picture.transpose(2, 0, 1) * (c.greatest - c.least) + c.least
        return np.asarray((self._coded(self._encoder, c, x) - self.manifest.shift) * self.manifest.scale, np.float32)

    def decode(
        self, latent: np.ndarray, painted: np.ndarray | None = None, drawing: np.ndarray | None = None, light: bool = False
    ) -> np.ndarray:
        c = self.manifest.decoder
        made = self._coded(self._decoder, c, latent / self.manifest.scale + self.manifest.shift)
        return np.ascontiguousarray(np.clip((made.transpose(1, 2, 0) - c.least) / (c.greatest - c.least), 0, 1), np.float32)

    def preview(self, latent: np.ndarray) -> np.ndarray:
        if self._colours is None:
            self._colours = self._fitted()
        flat = np.concatenate([latent.reshape(latent.shape[0], -1), np.ones((1, latent[0].size), np.float32)])
        return np.clip((self._colours @ flat).T.reshape(*latent.shape[1:], 3), 0, 1).astype(np.float32)

    def _fitted(self) -> np.ndarray:
        """(3, C + 1): colours of a latent's cells, fitted to what flat colours become, by least squares."""
        side = max(self.info.limits.multiple, self.info.limits.least_side // 2 // self.info.limits.multiple * self.info.limits.multiple)
        means = [self.encode(np.broadcast_to(c, (side, side, 3))).mean((1, 2)) for c in COLOURS]
        known = np.concatenate([np.stack(means), np.ones((len(COLOURS), 1), np.float32)], 1)
        return np.asarray(np.linalg.lstsq(known, COLOURS, rcond=1e-4)[0].T, np.float32)

    # --- the network

    def _level(self, t: float) -> float:
        """A level as the network is told it."""
        match self.manifest.level_told:
            case "index":
                return max(0.0, t * len(self.info.schedule.kept) - 1)
            case "thousand":
                return 1000 * t
        return t

    def answer(
        self, x: np.ndarray, kept: np.ndarray, hole: np.ndarray, t: float, told: Sequence[Rows], guides: Guides | None = None
    ) -> list[np.ndarray]:
        n, m = len(told), self.manifest
        texts = [self._text_of(rows) for rows in told]
        fed: dict[str, np.ndarray] = {
            "noisy": np.repeat(x[None], n, 0),
            "kept": np.repeat(kept[None], n, 0),
            "hole": np.repeat(hole[None, None], n, 0),
            "level": np.full(n, self._level(t)),
            "guidance": np.full(n, 1.0 if guides is None or guides.guidance is None else guides.guidance),
            "height": np.full(n, x.shape[1] * self.info.cell),
            "width": np.full(n, x.shape[2] * self.info.cell),
        }
        for i, reader in enumerate(self.readers, 1):
            read = [reader.read(text) for text in texts]
            own = "" if i == 1 else f" {i}"
            fed[f"sequence{own}"], fed[f"pooled{own}"] = (np.stack([one[k] for one in read]) for k in (0, 1))
        feeds = {name: self._joined([fed[one] for one in several]) for name, several in m.inputs.items()}
        size = {"height": fed["height"][0], "width": fed["width"][0]}
        for name, values in m.constants.items():
            feeds[name] = np.repeat(np.array([[size.get(v, v) if isinstance(v, str) else v for v in values]], np.float64), n, 0)
        for name, value in feeds.items():
            if len(self.denoiser.inputs[name].shape) == 1 and value.ndim > 1:
                feeds[name] = value[:, 0]
        return list(shaped(self.denoiser.run(feeds, [m.output])[0], (n, *x.shape)))

    @staticmethod
    def _joined(several: Sequence[np.ndarray]) -> np.ndarray:
        """One array of several: pictures by their channels, sequences and vectors by their last axis; sequences as long as the longest."""
        if len(several) == 1:
            return several[0]
        if several[0].ndim == 4:
            return np.concatenate(several, 1)
        if several[0].ndim == 3:
            longest = max(one.shape[1] for one in several)
            several = [np.pad(one, ((0, 0), (0, longest - one.shape[1]), (0, 0))) for one in several]
        return np.concatenate(several, -1)
