"""Gives a pack's graphs and its own files to whoever asks in the Open Inference Protocol, by the package `mlserver`."""

from __future__ import annotations

import asyncio
from collections.abc import Mapping, Sequence
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
from mlserver import MLModel, MLServer, ModelSettings, Settings
from mlserver.codecs import NumpyCodec
from mlserver.errors import InferenceError
from mlserver.settings import ModelParameters
from mlserver.types import InferenceRequest, InferenceResponse, MetadataTensor, ResponseOutput

from ..packs.foreign import local_foreign
from ..packs.foreign_manifest import FORMAT, read_foreign
from ..packs.manifest import held, read_description, read_manifest
from ..packs.onnx_pack import THREADS, local
from ..packs.served import DESCRIPTION, model_of, version_of
from ..packs.server import CONTENT, FILE, PLATFORM, TYPES, VERSION
from ..packs.sessions import Opens, Port

#: Bytes of a message at most.
LARGEST_MESSAGE = 1_000_000_000
OF_TYPE = {told: name for name, (_, told) in TYPES.items()}
TENSOR = {np.dtype(of).name: told for of, told in TYPES.values()}
#: Half precision is no type of numbers that are written out, and goes as what holds it exactly.
HALF, WHOLE = "tensor(float16)", "tensor(float)"


@lru_cache(maxsize=4)
def _served(folder: str, threads: int) -> tuple[Opens, tuple[str, ...], str, frozenset[str]]:
    """How a pack's graphs are opened, their names, the pack's digest, and the files that are given away."""
    path = Path(folder)
    text, d = read_description(path)
    given = frozenset({DESCRIPTION, *(str(name) for name in d.get("files", ()) if not held(str(name)))})
    if d.get("format") == FORMAT:
        foreign = read_foreign(path, text, d, threads)
        return local_foreign(path, threads), foreign.graphs, foreign.info.digest, given
    manifest = read_manifest(path, threads)
    return local(manifest, threads), manifest.graphs, manifest.info.digest, given


def models_of(folder: Path, name: str, threads: int = THREADS) -> list[ModelSettings]:
    """What mlserver has to serve for a pack: one model with its files, and one for each graph.

    Raises:
        Refused: it is no pack, or a damaged one.
    """
    _, graphs, digest, _ = _served(str(folder), threads)

    def told(model: str, of: str, graph: str, version: str | None) -> ModelSettings:
        extra = {"folder": str(folder), "threads": threads, "graph": graph}
        parameters = ModelParameters(version=version, extra=extra)
        return ModelSettings(
            name=model, implementation=f"{__name__}.{of}", platform=f"{PLATFORM}-{VERSION}", parameters=parameters, parallel_workers=0
        )

    return [
        told(name, FilesModel.__name__, "", None),
        *(told(model_of(name, graph), GraphModel.__name__, graph, version_of(digest)) for graph in graphs),
    ]


def serve(packs: Mapping[str, Path], host: str, port: int, grpc_port: int, threads: int = THREADS) -> None:
    """Serves packs in folders, by the names that they are asked for, until it is told to end.

    Raises:
        Refused: it is no pack, or a damaged one.
    """
    models = [model for name, folder in packs.items() for model in models_of(folder, name, threads)]
    settings = Settings(
        host=host,
        http_port=port,
        grpc_port=grpc_port,
        grpc_max_message_length=LARGEST_MESSAGE,
        metrics_endpoint=None,
        parallel_workers=0,
        use_structured_logging=False,
    )
    asyncio.run(MLServer(settings).start(models))


def _tensors(ports: Sequence[Port]) -> list[MetadataTensor]:
    return [
        MetadataTensor(
            name=p.name, datatype=OF_TYPE[WHOLE if p.type == HALF else p.type], shape=[n if isinstance(n, int) else -1 for n in p.shape]
        )
        for p in ports
    ]


class _PackModel(MLModel):  # type: ignore[misc]
    """A model of a pack's."""

    @property
    def told(self) -> dict[str, Any]:
        return dict(self.settings.parameters.extra)

    def of_pack(self) -> tuple[Opens, tuple[str, ...], str, frozenset[str]]:
        return _served(self.told["folder"], int(self.told["threads"]))

    async def predict(self, payload: InferenceRequest) -> InferenceResponse:
        feeds = {}
        for one in payload.inputs:
            value = NumpyCodec.decode_input(one)
            feeds[one.name] = value.reshape(one.shape)
        try:
            made = await asyncio.to_thread(self.answer, feeds)
        except Exception as error:
            # Whoever asks wrongly is told what is wrong; the server goes on.
            raise InferenceError(str(error)) from error
        outputs = [
            ResponseOutput(name=name, datatype=OF_TYPE[TENSOR[value.dtype.name]], shape=list(value.shape), data=value.ravel().tolist())
            for name, value in made.items()
        ]
        return InferenceResponse(model_name=self.name, model_version=self.version, outputs=outputs)

    def answer(self, feeds: dict[str, np.ndarray]) -> dict[str, np.ndarray]:
        """Outputs by their names."""
        raise NotImplementedError


class GraphModel(_PackModel):
    """One of a pack's graphs."""

    async def load(self) -> bool:
        self._session = await asyncio.to_thread(self.of_pack()[0], self.told["graph"])
        self.inputs, self.outputs = _tensors(self._session.get_inputs()), _tensors(self._session.get_outputs())
        return True

    def answer(self, feeds: dict[str, np.ndarray]) -> dict[str, np.ndarray]:
        halves = {p.name for p in self._session.get_inputs() if p.type == HALF}
        fed = {name: value.astype(np.float16) if name in halves else value for name, value in feeds.items()}
        names = [p.name for p in self._session.get_outputs()]
        made = {name: np.asarray(value) for name, value in zip(names, self._session.run(names, fed), strict=True)}
        return {name: value.astype(np.float32) if value.dtype == np.float16 else value for name, value in made.items()}


class FilesModel(_PackModel):
    """A pack's own files but for its graphs and weights: a name as bytes in, what is in the file out."""

    async def load(self) -> bool:
        self.inputs = [MetadataTensor(name=FILE, datatype="UINT8", shape=[-1])]
        self.outputs = [MetadataTensor(name=CONTENT, datatype="UINT8", shape=[-1])]
        return True

    def answer(self, feeds: dict[str, np.ndarray]) -> dict[str, np.ndarray]:
        name = feeds[FILE].astype(np.uint8).tobytes().decode()
        if name not in self.of_pack()[3]:
            raise ValueError(f"There is no file {name} to give.")
        return {CONTENT: np.frombuffer((Path(self.told["folder"]) / name).read_bytes(), np.uint8)}
