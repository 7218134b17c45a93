"""A pack in ONNX files, run by onnxruntime."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from importlib.resources import files
from pathlib import Path
from typing import Any, Protocol

import numpy as np
import onnxruntime as ort
from safetensors import SafetensorError
from safetensors.numpy import load_file

from ..core.packs import NONE, Finder, PackInfo, Rows, UnknownWord
from ..core.refused import Refused
from ..core.told.figures import FigureBook
from ..core.told.naming import named
from ..core.told.placing import PlaceBook
from .figure_sheet import read_figures
from .manifest import FINDER, GRAPHS, QUICK, FinderLabels, Manifest, read_manifest
from .place_list import read_places
from .words import Vocabulary

THREADS = 2
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


class Session(Protocol):
    """What answers for a graph: arrays by the inputs' names -> its outputs."""

    def run(self, names: None, feeds: dict[str, np.ndarray]) -> Any: ...


class OnnxFinder:
    """The finder of a pack: docs/pack-format.md."""

    def __init__(self, session: ort.InferenceSession, stated: FinderLabels, words: Vocabulary) -> None:
        self._session, self._words = session, words
        self.labels, self.whole = stated.labels, stated.whole
        self.traits, self.colours, self.grounds = stated.traits, stated.colours, stated.grounds
        self._index = {tuple(words.read(label)[0]): i for i, label in enumerate(self.labels)}
        self._turned = stated.turned

    def labels_of(self, phrase: str) -> tuple[int, ...]:
        found = [self._index[label] for label in named(tuple(self._words.read(phrase)[0]), self._index)]
        things = [j for j in found if self.labels[j] not in self.traits]
        return (*things[:1], *(j for j in found if self.labels[j] in self.traits)) if things else ()

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

    def __init__(self, folder: Path | None = None, threads: int = THREADS, exact: bool = False) -> None:
        """exact: all in full precision, even where the pack has quicker graphs and the processor what those need.

        Raises:
            Refused: the pack is missing, damaged or not a pack.
        """
        manifest = read_manifest(folder or own_pack_folder(), threads)
        self.info: PackInfo = manifest.info
        self.words = Vocabulary.from_json((manifest.folder / manifest.vocabulary).read_text("utf-8"))
        quick = {g: q for g, q in QUICK.items() if q in manifest.weights} if not exact and has_eight_bit_units() else {}
        wanted: list[str] = [*GRAPHS, *([] if manifest.finder is None else [FINDER])]
        # Side by side: preparing the largest takes as long as all the others.
        with ThreadPoolExecutor(2) as loading:
            sessions = dict(zip(wanted, loading.map(lambda g: _session(manifest, str(quick.get(g, g)), threads), wanted), strict=True))
        self.graphs: dict[str, Session] = {g: sessions[g] for g in GRAPHS}
        self._told_painted = "painted" in {i.name for i in sessions["decoder"].get_inputs()}
        self._phrases: dict[bytes, np.ndarray] = {}
        self.finder: Finder | None = None
        if manifest.finder is not None:
            self.finder = OnnxFinder(sessions[FINDER], manifest.finder, self.words)
        self.figures: FigureBook | None = None
        if manifest.figures is not None:
            picture, listed = (manifest.folder / name for name in manifest.figures)
            self.figures = FigureBook(read_figures(picture, listed), lambda phrase: self.words.read(phrase)[0])
        self.places: PlaceBook | None = None
        if manifest.places is not None:
            self.places = PlaceBook(*read_places(manifest.folder / manifest.places), self.words.read)

    def read(self, phrase: str) -> tuple[list[int], list[UnknownWord]]:
        return self.words.read(phrase)

    def offers(self) -> tuple[str, ...]:
        return tuple(p for group in self.words.groups.values() for p in group)

    def _picture(self, graph: str, **feeds: np.ndarray) -> np.ndarray:
        out = self.graphs[graph].run(None, {name: a[None] for name, a in feeds.items()})[0]
        return np.ascontiguousarray(out[0].transpose(1, 2, 0))

    def encode(self, picture: np.ndarray) -> np.ndarray:
        x = np.ascontiguousarray(picture.transpose(2, 0, 1)[None], np.float32)
        return np.asarray(self.graphs["encoder"].run(None, {"picture": x})[0][0])

    def decode(self, latent: np.ndarray, painted: np.ndarray | None = None) -> np.ndarray:
        if not self._told_painted:
            return self._picture("decoder", latent=latent)
        where = np.zeros(latent.shape[1:], np.float32) if painted is None else painted
        return self._picture("decoder", latent=latent, painted=where[None])

    def preview(self, latent: np.ndarray) -> np.ndarray:
        return self._picture("preview", latent=latent)

    def _text(self, ids: np.ndarray) -> np.ndarray:
        key = ids.tobytes()
        # Another thread may ask at the same time.
        told = self._phrases.get(key)
        if told is None:
            told = self.graphs["text"].run(None, {"ids": ids})[0]
            if len(self._phrases) > 256:
                self._phrases.clear()
            self._phrases[key] = told
        return told

    def answer(self, x: np.ndarray, kept: np.ndarray, hole: np.ndarray, t: float, told: Sequence[Rows]) -> list[np.ndarray]:
        n, most = len(told), max(len(r.kind) for r in told)
        rows = [_padded(r, most) for r in told]
        feeds = {
            "noisy": np.repeat(x[None], n, 0),
            "kept": np.repeat(kept[None], n, 0),
            "hole": np.repeat(hole[None, None], n, 0),
            "level": np.full(n, t, np.float32),
            "phrases": np.stack([self._text(r.ids) for r in rows]),
            "kind": np.stack([r.kind for r in rows]),
            "outline": np.stack([r.outline for r in rows]),
            "weight": np.stack([r.weight for r in rows]),
        }
        return list(self.graphs["denoiser"].run(None, feeds)[0])


def _padded(r: Rows, rows: int) -> Rows:
    more = rows - len(r.kind)
    if not more:
        return r
    return Rows(
        np.pad(r.ids, ((0, more), (0, 0))),
        np.pad(r.kind, (0, more), constant_values=NONE),
        np.pad(r.outline, ((0, more), (0, 0), (0, 0))),
        np.pad(r.weight, (0, more)),
    )


def _session(manifest: Manifest, graph: str, threads: int) -> ort.InferenceSession:
    options = ort.SessionOptions()
    # A fixed number of threads that never spin: repeatable, and kind to whatever else is running.
    options.intra_op_num_threads, options.inter_op_num_threads = threads, 1
    options.add_session_config_entry("session.intra_op.allow_spinning", "0")
    options.log_severity_level = 4
    try:
        weights: dict[str, np.ndarray] = {}
        for shard in manifest.weights[graph]:
            weights |= load_file(manifest.folder / shard)
        # Kept alive until the session has read them.
        values = [
            ort.OrtValue.ortvalue_from_numpy(np.ascontiguousarray(v, v.dtype if v.dtype == np.int8 else np.float32))
            for v in weights.values()
        ]
        if values:
            options.add_external_initializers(list(weights), values)
        return ort.InferenceSession(str(manifest.folder / f"{graph}.onnx"), options, providers=["CPUExecutionProvider"])
    except (SafetensorError, OSError) as error:
        raise Refused(f"The pack's weights for “{graph}” cannot be read: {error}") from error
    except Exception as error:  # onnxruntime raises its own, undocumented kinds
        raise Refused(f"The pack's graph “{graph}” cannot be loaded: {str(error).splitlines()[0]}") from error
