"""Sizes in a graph: the exporter computes them anew beside every layer, a dozen small steps each time. What is the same at any size becomes
a constant, and the rest comes from the inputs' sizes once. Which is which is told from what they are at several sizes."""

from __future__ import annotations

import itertools
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
import onnx
import onnxruntime as ort
from onnx import helper, numpy_helper

#: At which sizes a graph is looked at, by how its free axes are called; pictures that it reads are larger than that, and so are axes whose
#: names begin so, by so much.
SIZES = (
    {"batch": 1, "rows": 3, "height": 32, "width": 48},
    {"batch": 2, "rows": 5, "height": 48, "width": 16},
    {"batch": 3, "rows": 4, "height": 16, "width": 64},
)
PICTURE, LARGER = 4, {"guide": 4, "large": 16}
#: Which input of a node says sizes or places.
SAYS = {"Reshape": (1,), "Slice": (1, 2, 3), "Expand": (1,)}


@dataclass(frozen=True)
class _Size:
    """One of the inputs' sizes, or two multiplied, times a share."""

    of: tuple[str, ...]
    share: Fraction


class _Sizes:
    """Makes tensors of sizes, each only once. ports: for each free size's name the input and the axis that tell it; taken: names that are
    given already."""

    def __init__(self, ports: Mapping[str, tuple[str, int]], taken: Collection[str]) -> None:
        self._ports = ports
        self._free = (name for name in (f"size {n}" for n in itertools.count()) if name not in taken)
        self.nodes: list[onnx.NodeProto] = []
        self.constants: list[onnx.TensorProto] = []
        self._made: dict[object, str] = {}

    def constant(self, values: Sequence[int]) -> str:
        key = tuple(values)
        if key not in self._made:
            self._made[key] = next(self._free)
            self.constants.append(numpy_helper.from_array(np.array(key, np.int64), self._made[key]))
        return self._made[key]

    def vector(self, parts: Sequence[int | _Size]) -> str:
        """Several of them, as one tensor."""
        fixed = [p for p in parts if not isinstance(p, _Size)]
        if len(fixed) == len(parts):
            return self.constant(fixed)
        each = [self._one(p) if isinstance(p, _Size) else self.constant([p]) for p in parts]
        return each[0] if len(each) == 1 else self._node("Concat", tuple(each), axis=0)

    def _one(self, size: _Size) -> str:
        made = [self._node("Shape", (self._ports[s][0],), start=self._ports[s][1], end=self._ports[s][1] + 1) for s in size.of]
        out = made[0] if len(made) == 1 else self._node("Mul", tuple(made))
        if size.share.numerator != 1:
            out = self._node("Mul", (out, self.constant([size.share.numerator])))
        return out if size.share.denominator == 1 else self._node("Div", (out, self.constant([size.share.denominator])))

    def _node(self, kind: str, inputs: tuple[str, ...], **more: int) -> str:
        key = kind, inputs, tuple(more.items())
        if key not in self._made:
            self._made[key] = next(self._free)
            node = helper.make_node(kind, inputs, [self._made[key]], self._made[key])
            node.attribute.extend(helper.make_attribute(name, value) for name, value in more.items())
            self.nodes.append(node)
        return self._made[key]


def _called(weights: Mapping[str, np.ndarray], model: onnx.ModelProto) -> ort.InferenceSession:
    """A graph with its weights, ready; nothing in it is made simpler by onnxruntime, so that every step can be asked for."""
    options = ort.SessionOptions()
    options.graph_optimization_level, options.log_severity_level = ort.GraphOptimizationLevel.ORT_DISABLE_ALL, 4
    values = [ort.OrtValue.ortvalue_from_numpy(np.ascontiguousarray(v)) for v in weights.values()]
    if values:
        options.add_external_initializers(list(weights), values)
    return ort.InferenceSession(model.SerializeToString(), options, providers=["CPUExecutionProvider"])


def _axis(port: onnx.ValueInfoProto, name: str, sizes: Mapping[str, int]) -> int:
    """How long a free axis of an input is."""
    known = next((k for k in sizes if name.endswith(k)), None)
    if known is None:
        raise ValueError(f"The input “{port.name}” has an axis of the unknown name “{name}”.")
    larger = PICTURE if port.name == "picture" and known in ("height", "width") else 1
    return sizes[known] * larger * next((k for begin, k in LARGER.items() if name.startswith(begin)), 1)


def feeds_of(model: onnx.ModelProto, sizes: Mapping[str, int], rng: np.random.Generator) -> dict[str, np.ndarray]:
    """Something that a graph can be asked, at these sizes."""
    out = {}
    for port in model.graph.input:
        of = port.type.tensor_type
        shape = [d.dim_value or _axis(port, d.dim_param, sizes) for d in of.shape.dim]
        out[port.name] = np.ones(shape, np.int64) if of.elem_type == onnx.TensorProto.INT64 else rng.random(shape, np.float32)
    return out


def looked_at(model: onnx.ModelProto, weights: Mapping[str, np.ndarray], names: Sequence[str]) -> dict[str, list[np.ndarray]]:
    """What some of a graph's steps give, at each of the SIZES."""
    names = list(dict.fromkeys(names))
    watched = onnx.ModelProto()
    watched.CopyFrom(model)
    there = {port.name for port in model.graph.input}
    del watched.graph.output[:]
    watched.graph.output.extend(onnx.ValueInfoProto(name=name) for name in names if name not in there)
    session, rng = _called(weights, watched), np.random.default_rng(0)
    out: dict[str, list[np.ndarray]] = {name: [] for name in names}
    for sizes in SIZES:
        feeds = feeds_of(model, sizes, rng)
        given = dict(zip((o.name for o in watched.graph.output), session.run(None, feeds), strict=True)) | feeds
        for name in names:
            out[name].append(given[name])
    return out


def _told(values: Sequence[int], known: Mapping[str, Sequence[int]]) -> int | _Size | None:
    """What a number is that has such values at the SIZES: always the same, a share of the known ones, or of two of them; None if nothing
    that is known."""
    if len(set(values)) == 1:
        return values[0]
    for n in (1, 2):
        for names in itertools.combinations_with_replacement(known, n):
            shares = {Fraction(v, int(np.prod([known[name][i] for name in names]))) for i, v in enumerate(values)}
            if len(shares) == 1:
                return _Size(names, shares.pop())
    return None


def _by_size_alone(graph: onnx.GraphProto) -> set[str]:
    """What depends on sizes and on nothing else that is asked."""
    constant, out = {t.name for t in graph.initializer} | {""}, set[str]()
    for node in graph.node:
        if node.op_type == "Shape":
            out.update(node.output)
        elif constant.issuperset(node.input):
            constant.update(node.output)
        elif (constant | out).issuperset(node.input):
            out.update(node.output)
    return out


def sized(model: onnx.ModelProto, weights: Mapping[str, np.ndarray]) -> None:
    """What depends on sizes alone becomes a constant where it is the same at all of them; sizes that are not are computed from the
    inputs' once."""
    graph = model.graph
    ports = {
        d.dim_param: (port, i)
        for port in reversed(graph.input)
        for i, d in reversed(list(enumerate(port.type.tensor_type.shape.dim)))
        if d.dim_param
    }
    known = {name: [_axis(port, name, sizes) for sizes in SIZES] for name, (port, _) in ports.items()}
    alone = _by_size_alone(graph)
    said = [(node, k) for node in graph.node for k in SAYS.get(node.op_type, ()) if k < len(node.input) and node.input[k] in alone]
    if not said:
        return
    reshaped = [node.input[0] for node, _ in said if node.op_type == "Reshape"]
    seen = looked_at(model, weights, [*(node.input[k] for node, k in said), *reshaped])
    taken = {name for node in graph.node for name in node.output} | {t.name for t in graph.initializer}
    made = _Sizes({name: (port.name, i) for name, (port, i) in ports.items()}, taken)
    for node, k in said:
        values = np.stack(seen[node.input[k]])
        parts = [_told([int(v) for v in column], known) for column in values.T]
        if None not in parts:
            if node.op_type == "Reshape":
                parts = _short(parts, values, seen[node.input[0]])
            node.input[k] = made.vector([p for p in parts if p is not None])
    graph.initializer.extend(made.constants)
    nodes = [*made.nodes, *graph.node]
    del graph.node[:]
    graph.node.extend(nodes)


def _short(parts: list[int | _Size | None], values: np.ndarray, data: Sequence[np.ndarray]) -> list[int | _Size | None]:
    """A new shape with as few sizes as can be: what stays as it is and what is left over need not be said."""
    out = list(parts)
    for i, part in enumerate(parts):
        if isinstance(part, _Size) and all(i < d.ndim and d.shape[i] == v for d, v in zip(data, values[:, i], strict=True)):
            out[i] = 0
    if -1 not in out:
        left = next((i for i, part in enumerate(out) if isinstance(part, _Size)), None)
        if left is not None:
            out[left] = -1
    return out
