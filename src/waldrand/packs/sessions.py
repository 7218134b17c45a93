"""What answers for a pack's graphs: onnxruntime here, or a server."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any, Protocol

import numpy as np
import onnxruntime as ort

from ..core.refused import Refused
from ..core.worded import worded


class Port(Protocol):
    """An input or an output: type as onnxruntime writes it, "tensor(float)"; shape with what is not fixed as it may be."""

    @property
    def name(self) -> str: ...

    @property
    def type(self) -> str: ...

    @property
    def shape(self) -> Sequence[Any]: ...


class Session(Protocol):
    """A graph that is ready to answer."""

    def get_inputs(self) -> Sequence[Port]: ...

    def get_outputs(self) -> Sequence[Port]: ...

    def run(self, names: Sequence[str] | None, feeds: Mapping[str, Any]) -> Any:
        """Outputs by their names, all of them for None, of arrays by the inputs' names."""
        ...


def options_for(threads: int) -> ort.SessionOptions:
    """How onnxruntime is to compute: on a fixed number of threads that never spin, repeatable, and kind to whatever else is running."""
    options = ort.SessionOptions()
    options.intra_op_num_threads, options.inter_op_num_threads = threads, 1
    options.add_session_config_entry("session.intra_op.allow_spinning", "0")
    options.log_severity_level = 4
    return options


def shaped(value: Any, shape: tuple[int, ...]) -> np.ndarray:
    """A graph's output (shape).

    Raises:
        Refused: it is of another shape.
    """
    out = np.asarray(value)
    if out.shape != shape:
        raise Refused(worded("The model answered nonsense: numbers of the shape {0} where {1} was asked for.", out.shape, shape))
    return out


#: Has a graph ready by its name; where a pack has it in fewer bits too, that may stand for it.
Opens = Callable[[str], Session]
