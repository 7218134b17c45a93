"""Graphs with less to do, that compute the same: what the exporter writes out at length, put short.

`python -m training.tidied [--out DIR]` does it to all graphs of a pack, whose weights stay as they are; the export and the
quantisation do it themselves.

- Sizes are computed once: `training/sized.py`.
- Cells and channels change places once where an attention's heads are told apart or joined.
- A channel is cut into pieces, and two pictures are added and laid out from their channels, in one step.
- Channels that a convolution reads are filled up with zeros to whole blocks, which onnxruntime needs to be quick.
"""

from __future__ import annotations

import argparse
import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import onnx
from onnx import helper, numpy_helper
from safetensors.numpy import load_file

from waldrand.packs.manifest import LIGHT

from .manifest import OWN_PACK, write_manifest
from .sized import looked_at, sized

#: What says sizes anew, and nothing else.
RESHAPES = ("Reshape", "Unsqueeze", "Squeeze")
#: Channels that onnxruntime computes at a time, at most.
BLOCK = 16


@dataclass
class _Steps:
    """A graph's steps by what they make and by what they read."""

    graph: onnx.GraphProto
    made: dict[str, onnx.NodeProto] = field(init=False)
    read: dict[str, list[onnx.NodeProto]] = field(init=False)

    def __post_init__(self) -> None:
        self.made = {out: node for node in self.graph.node for out in node.output}
        self.read = {}
        for node in self.graph.node:
            for name in node.input:
                self.read.setdefault(name, []).append(node)

    def only(self, name: str, kind: str) -> onnx.NodeProto | None:
        """The step of a kind that makes something which but one reads."""
        node = self.made.get(name)
        return node if node is not None and node.op_type == kind and len(self.read[name]) == 1 else None

    def instead(self, old: onnx.NodeProto, *new: onnx.NodeProto) -> None:
        at = list(self.graph.node).index(old)
        for node in reversed(new):
            self.graph.node.insert(at, node)
        self.graph.node.remove(old)


def _attributes(node: onnx.NodeProto) -> dict[str, Any]:
    return {a.name: helper.get_attribute_value(a) for a in node.attribute}


def _order(turning: onnx.NodeProto) -> list[int]:
    return list(_attributes(turning)["perm"])


def turned_once(model: onnx.ModelProto, weights: Mapping[str, np.ndarray]) -> None:
    """Cells and channels change places once where heads of an attention are told apart or joined, not twice."""
    graph, steps = model.graph, _Steps(model.graph)
    found = []
    for last in [n for n in graph.node if n.op_type == "Transpose"]:
        between = steps.only(last.input[0], "Reshape")
        first = None if between is None else steps.only(between.input[0], "Transpose")
        if between is not None and first is not None:
            found.append((first, between, last))
    if not found:
        return
    seen = looked_at(model, weights, [name for first, between, _ in found for name in (first.input[0], between.output[0])])
    for first, between, last in found:
        both = list(zip(seen[first.input[0]], seen[between.output[0]], strict=True))
        channels = {b.shape[2:] for _, b in both}
        match _order(first), _order(last):
            # (B, n d, L), turned, cut to (B, L, n, d), turned to (B, n, L, d) or (B, n, d, L): the channels can be cut before.
            case [0, 2, 1], [0, 2, 1 | 3, 1 | 3] if len(channels) == 1 and all(a.shape[1] == b.shape[2] * b.shape[3] for a, b in both):
                _say(graph, between, first.input[0], [0, *channels.pop(), -1])
                if _order(last)[2] == 1:
                    _turn(last, [0, 1, 3, 2])
                else:
                    steps.instead(last, helper.make_node("Identity", [between.output[0]], list(last.output), last.name))
            # (B, n, L, d), turned, joined to (B, L, n d), turned to (B, n d, L).
            case [0, 2, 1, 3], [0, 2, 1] if len(channels) == 1:
                _turn(first, [0, 1, 3, 2])
                _say(graph, between, first.output[0], [0, *channels.pop(), -1])
                steps.instead(last, helper.make_node("Identity", [between.output[0]], list(last.output), last.name))


def _say(graph: onnx.GraphProto, reshape: onnx.NodeProto, data: str, shape: Sequence[int]) -> None:
    name = f"{reshape.name} shape"
    graph.initializer.append(numpy_helper.from_array(np.array(shape, np.int64), name))
    reshape.input[:] = [data, name]


def _turn(node: onnx.NodeProto, perm: Sequence[int]) -> None:
    del node.attribute[:]
    node.attribute.append(helper.make_attribute("perm", perm))


def _copied(node: onnx.NodeProto, inputs: Sequence[str], outputs: Sequence[str], name: str) -> onnx.NodeProto:
    """The same step between other tensors."""
    out = helper.make_node(node.op_type, inputs, outputs, name)
    out.attribute.extend(node.attribute)
    return out


def in_pieces(model: onnx.ModelProto, weights: Mapping[str, np.ndarray]) -> None:
    """One channel cut into small squares, whose pixels become channels: one step instead of three."""
    steps, found = _Steps(model.graph), []
    for turned in [n for n in model.graph.node if n.op_type == "Transpose" and _order(n) == [0, 1, 3, 5, 2, 4]]:
        whole, last = turned.input[0], turned
        while any(steps.only(whole, kind) for kind in RESHAPES):
            whole = steps.made[whole].input[0]
        while len(steps.read[last.output[0]]) == 1 and steps.read[last.output[0]][0].op_type in RESHAPES:
            last = steps.read[last.output[0]][0]
        found.append((whole, last))
    if not found:
        return
    seen = looked_at(model, weights, [name for whole, last in found for name in (whole, last.output[0])])
    for whole, last in found:
        by = {a.shape[-1] // b.shape[-1] for a, b in zip(seen[whole], seen[last.output[0]], strict=True)}
        k = by.pop()
        if not by and all(
            b.shape == (len(a), k * k, a.shape[2] // k, a.shape[3] // k) for a, b in zip(seen[whole], seen[last.output[0]], strict=True)
        ):
            steps.instead(last, helper.make_node("SpaceToDepth", [whole], list(last.output), f"{last.name} pieces", blocksize=k))


def added_before(model: onnx.ModelProto) -> None:
    """Channels of two pictures are added before they are laid out, instead of the pictures."""
    steps = _Steps(model.graph)
    for node in [n for n in model.graph.node if n.op_type == "Add"]:
        a, b = (steps.only(name, "DepthToSpace") for name in node.input)
        if a is not None and b is not None and _attributes(a) == _attributes(b):
            both = f"{node.name} channels"
            steps.instead(
                node,
                helper.make_node("Add", [a.input[0], b.input[0]], [both], both),
                _copied(a, [both], list(node.output), f"{node.name} laid out"),
            )


def in_blocks(model: onnx.ModelProto) -> None:
    """Channels that a convolution reads, beyond a first block, are filled up with zeros to whole blocks; so are its weights. Sums are then
    made in another order, so that their last digits may differ."""
    steps, shapes = _Steps(model.graph), {t.name: tuple(t.dims) for t in model.graph.initializer}
    for node in [n for n in model.graph.node if n.op_type == "Conv" and n.input[1] in shapes]:
        shape, group = shapes[node.input[1]], _attributes(node).get("group", 1)
        more = -shape[1] % BLOCK
        if group != 1 or not more or shape[1] < BLOCK:
            continue
        pads = f"{node.name} channels"
        model.graph.initializer.append(numpy_helper.from_array(np.array([0, 0, 0, 0, 0, more, 0, 0], np.int64), pads))
        wide = [f"{node.name} {what} in blocks" for what in ("input", "weights")]
        new = [helper.make_node("Pad", [name, pads], [out], out) for name, out in zip(node.input[:2], wide, strict=True)]
        steps.instead(node, *new, _copied(node, [*wide, *node.input[2:]], list(node.output), node.name))


def without_rest(model: onnx.ModelProto) -> None:
    """Steps and constants that nothing needs any more are left out."""
    graph, wanted = model.graph, {o.name for o in model.graph.output}
    kept = []
    for node in reversed(graph.node):
        if wanted.intersection(node.output):
            wanted.update(node.input)
            kept.append(node)
    constants = [t for t in graph.initializer if t.name in wanted]
    del graph.node[:], graph.initializer[:]
    graph.node.extend(reversed(kept))
    graph.initializer.extend(constants)


def tidied(model: onnx.ModelProto, weights: Mapping[str, np.ndarray], blocks: bool = False) -> onnx.ModelProto:
    """A graph that computes the same in fewer steps. weights: its tensors that lie outside of it, by name; blocks: also where last digits
    may differ."""
    out = onnx.ModelProto()
    out.CopyFrom(model)
    weights = {name: v if v.dtype == np.int8 else v.astype(np.float32) for name, v in weights.items()}
    sized(out, weights)
    without_rest(out)
    turned_once(out, weights)
    in_pieces(out, weights)
    added_before(out)
    if blocks:
        in_blocks(out)
    without_rest(out)
    return out


def tidy(pack: Path) -> dict[str, str]:
    """Makes all graphs of a pack do less; returns for each how many steps it had, and has."""
    d = tomllib.loads((pack / "pack.toml").read_text())
    said = {}
    for graph, files in d["weights"].items():
        path = pack / f"{graph}.onnx"
        model = onnx.load(str(path), load_external_data=False)
        short = tidied(model, {name: value for file in files for name, value in load_file(pack / file).items()}, graph == LIGHT)
        path.write_bytes(short.SerializeToString())
        said[graph] = f"{len(model.graph.node)} steps, now {len(short.graph.node)}"
    write_manifest(pack, d)
    return said


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--out", type=Path, default=OWN_PACK)
    print("\n".join(f"{graph}: {said}" for graph, said in tidy(parser.parse_args().out).items()))


if __name__ == "__main__":
    main()
