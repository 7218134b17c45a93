"""Adds a denoiser and a decoder in eight bits to a pack: quicker, and half as large as those in half precision.

`python -m training.quantise [--out DIR] [--only denoiser|decoder]`

Static quantisation by onnxruntime: weights per channel, activations by their ranges over what either is asked in takes and
inpaints of the contact sheet's layouts, painted by the pack itself. The layers that read and write latents and pictures stay as
they are. In the decoder, where the least unevenness shows on even colours, what a block reads is evened out first.
"""

from __future__ import annotations

import argparse
import json
import re
import tempfile
import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import onnx
import onnxruntime as ort
import torch
from onnx import numpy_helper
from onnxruntime.quantization import CalibrationDataReader, QuantFormat, QuantType, quantize_static
from onnxruntime.quantization.shape_inference import quant_pre_process

from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.packs.manifest import QUICK
from waldrand.packs.onnx_pack import OnnxPack
from waldrand.packs.sessions import Port, Session

from .export import move_out, shards
from .from_pack import read_graph
from .manifest import OWN_PACK, write_manifest
from .sheet import LAYOUTS
from .tidied import tidied

SIDE = 512
#: Of what a graph is asked, every so-manieth is calibrated on.
EVERY = {"denoiser": 7, "decoder": 1}
#: Smaller tensors stay inside the graph.
LEAST_BYTES = 1000
Feeds = dict[str, np.ndarray]


class _Watched:
    """A session that keeps what it is asked."""

    def __init__(self, session: Session) -> None:
        self.session, self.asked = session, list[Feeds]()

    def get_inputs(self) -> Sequence[Port]:
        return self.session.get_inputs()

    def get_outputs(self) -> Sequence[Port]:
        return self.session.get_outputs()

    def run(self, names: Sequence[str] | None, feeds: Mapping[str, Any]) -> Any:
        self.asked.append(dict(feeds))
        return self.session.run(names, feeds)


class _Inputs(CalibrationDataReader):  # type: ignore[misc]
    def __init__(self, asked: list[Feeds]) -> None:
        self.left = iter(asked)

    def get_next(self) -> Feeds | None:
        return next(self.left, None)


def asked_of(pack: OnnxPack, steps: int = 20, layouts: int = len(LAYOUTS)) -> dict[str, list[Feeds]]:
    """What the pack's graphs that can be quicker are asked while it composes each layout and inpaints its first element."""
    watched = {graph: _Watched(pack.graphs[graph]) for graph in QUICK}
    pack.graphs |= watched
    settings = PassSettings(steps=steps)
    for n, layout in enumerate(LAYOUTS[:layouts]):
        elements = tuple(
            Element(i + 1, text, Outline("box", tuple(SIDE * v for v in box)), text)  # type: ignore[arg-type]
            for i, (text, box) in enumerate(layout)
            if box is not None
        )
        sheet = Sheet(SIDE, SIDE, elements=elements, scene=SceneWords(", ".join(text for text, box in layout if box is None)))
        done = run_take(plan(sheet, Request("compose", settings), pack), pack, n).laid_on(sheet, "take")
        if elements:
            x0, y0, x1, y1 = (int(v) for v in elements[0].outline.box)
            grey = np.zeros((SIDE, SIDE), np.uint8)
            grey[y0:y1, x0:x1] = 255
            masked = replace(done, mask=Mask.from_array(grey))
            run_take(plan(masked, Request("inpaint", settings, elements[0].words), pack), pack, n)
    return {graph: by.asked for graph, by in watched.items()}


def whole_graph(folder: Path, graph: str) -> onnx.ModelProto:
    """One of a pack's graphs with its weights inside."""
    model = onnx.load(str(folder / f"{graph}.onnx"), load_external_data=False)
    weights = read_graph(folder, graph)
    for tensor in model.graph.initializer:
        if tensor.name in weights:
            tensor.CopyFrom(numpy_helper.from_array(weights[tensor.name].numpy(), tensor.name))
    return model


def exact_nodes(graph: str, ready: onnx.GraphProto) -> list[str]:
    """Those that stay as they are, in a graph that is ready to be quantised."""
    convolutions = [n.name for n in ready.node if n.op_type == "Conv"]
    if graph == "decoder":
        # In all of them, eight bits would lay a faint grain over even colours: what the first and the last read is too fine for that.
        blocks = [name for name in convolutions if "/blocks." in name]
        return [name for name in convolutions if name not in blocks[3:-2]]
    ends = [name for name in convolutions if any(part in name for part in ("/into/", "/out/"))]
    # Who looks at whom is told by products of two answers, and in eight bits neither well nor quickly.
    constant = {t.name for t in ready.initializer}
    return [*ends, *(n.name for n in ready.node if n.op_type == "MatMul" and constant.isdisjoint(n.input))]


def evened(ready: onnx.ModelProto, asked: list[Feeds]) -> onnx.ModelProto:
    """The decoder with the channels that its blocks read in eight bits brought to one range, which the weights make up for: a step of
    eight bits then is as fine in all of them. (Xiao et al., "SmoothQuant", 2023, with the whole difference moved into the weights.)"""
    exact = set(exact_nodes("decoder", ready.graph))
    reads = [n.name for n in ready.graph.node if re.search(r"/blocks\.\d+/a/Conv", n.name) and n.name not in exact]
    if not reads:
        return ready
    watched, out = onnx.ModelProto(), onnx.ModelProto()
    for model in (watched, out):
        model.CopyFrom(ready)
    nodes, tensors = {n.name: n for n in out.graph.node}, {t.name: t for t in out.graph.initializer}
    del watched.graph.output[:]
    watched.graph.output.extend(onnx.ValueInfoProto(name=nodes[name].input[0]) for name in reads)
    session = ort.InferenceSession(watched.SerializeToString(), providers=["CPUExecutionProvider"])
    greatest = np.max([[np.abs(v).max((0, 2, 3)) for v in session.run(None, feeds)] for feeds in asked], 0)
    for name, of in zip(reads, greatest, strict=True):
        node, share = nodes[name], np.maximum(of / of.max(), 1e-3).astype(np.float32)
        weights = tensors[node.input[1]]
        weights.CopyFrom(numpy_helper.from_array(numpy_helper.to_array(weights) * share[:, None, None], weights.name))
        out.graph.initializer.append(numpy_helper.from_array(1 / share[None, :, None, None], f"{name}_share"))
        even = onnx.helper.make_node("Mul", [node.input[0], f"{name}_share"], [f"{name}_even"], f"{name}_even")
        node.input[0] = f"{name}_even"
        out.graph.node.insert(list(out.graph.node).index(node), even)
    return out


def in_eight_bits(pack_folder: Path, graph: str, asked: list[Feeds]) -> onnx.ModelProto:
    """One of a pack's graphs, calibrated on what it is asked."""
    with tempfile.TemporaryDirectory() as temporary:
        whole, ready, small = (str(Path(temporary) / f"{name}.onnx") for name in ("whole", "ready", "small"))
        onnx.save(whole_graph(pack_folder, graph), whole)
        quant_pre_process(whole, ready, skip_symbolic_shape=True)
        if graph == "decoder":
            onnx.save(evened(onnx.load(ready), asked), ready)
        quantize_static(
            ready,
            small,
            _Inputs(asked),
            quant_format=QuantFormat.QDQ,
            per_channel=True,
            activation_type=QuantType.QUInt8,
            weight_type=QuantType.QInt8,
            op_types_to_quantize=["Conv", "Gemm", "MatMul"],
            nodes_to_exclude=exact_nodes(graph, onnx.load(ready).graph),
        )
        return onnx.load(small)


def quantise(
    pack_folder: Path, steps: int = 20, layouts: int = len(LAYOUTS), graphs: Sequence[str] = tuple(QUICK)
) -> dict[str, dict[str, float]]:
    """Writes the eight-bit graphs and their weights into the pack; returns the size of each and the error of its answers."""
    asked = asked_of(OnnxPack(pack_folder, exact=True), steps, layouts)
    d = tomllib.loads((pack_folder / "pack.toml").read_text())
    for graph in graphs:
        name = QUICK[graph]
        small = in_eight_bits(pack_folder, graph, asked[graph][:: EVERY[graph]])
        for old in pack_folder.glob(f"{name}*"):
            old.unlink()
        d["weights"][name] = _parted(small, name, pack_folder)
    write_manifest(pack_folder, d)
    exact, quick = OnnxPack(pack_folder, exact=True).graphs, OnnxPack(pack_folder).graphs
    out = {}
    for graph in graphs:
        errors = []
        for feeds in asked[graph][EVERY[graph] // 2 :: 5 * EVERY[graph]]:
            a, b = (them[graph].run(None, feeds)[0] for them in (exact, quick))
            errors.append(float(np.sqrt(((a - b) ** 2).mean()) / a.std()))
        size = sum((pack_folder / s).stat().st_size for s in d["weights"][QUICK[graph]])
        out[graph] = {"bytes": size, "relative error of an answer": round(float(np.median(errors)), 4)}
    return out


def _parted(model: onnx.ModelProto, name: str, out: Path) -> list[str]:
    """Writes the graph, its larger tensors apart in shards; returns their names."""
    moved = {}
    for tensor in model.graph.initializer:
        value = numpy_helper.to_array(tensor)
        if value.nbytes >= LEAST_BYTES and value.dtype in (np.float32, np.int8):
            moved[tensor.name] = torch.from_numpy(value.copy())
            move_out(tensor, value.nbytes)
    short = tidied(model, {key: value.numpy() for key, value in moved.items()})
    (out / f"{name}.onnx").write_bytes(short.SerializeToString())
    return shards(name, moved, out)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--out", type=Path, default=OWN_PACK)
    parser.add_argument("--only", choices=QUICK, help="only this one; the other stays")
    options = parser.parse_args()
    print(json.dumps(quantise(options.out, graphs=(options.only,) if options.only else tuple(QUICK)), indent=1))


if __name__ == "__main__":
    main()
