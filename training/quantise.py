"""Adds an eight-bit denoiser to a pack: quicker, and half as large as the one in half precision.

`python -m training.quantise [--out DIR]`

Static quantisation by onnxruntime: weights per channel, activations by their ranges over what the denoiser is asked in takes and
inpaints of the contact sheet's layouts, painted by the pack itself. The layers that read and write the latent stay as they are.
"""

from __future__ import annotations

import argparse
import json
import tempfile
import tomllib
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import onnx
import torch
from onnx import numpy_helper
from onnxruntime.quantization import CalibrationDataReader, QuantFormat, QuantType, quantize_static
from onnxruntime.quantization.shape_inference import quant_pre_process

from waldrand.core.element import Element, SceneWords
from waldrand.core.masks import Mask
from waldrand.core.outline import Outline
from waldrand.core.plan import plan
from waldrand.core.request import PassSettings, Request
from waldrand.core.run import run_take
from waldrand.core.sheet import Sheet
from waldrand.packs.manifest import QUICK
from waldrand.packs.onnx_pack import OnnxPack, Session

from .export import move_out, shards
from .from_pack import read_graph
from .manifest import OWN_PACK, write_manifest
from .sheet import LAYOUTS

SIDE = 512
#: Of the denoiser's inputs, every so-manieth is calibrated on.
EVERY = 7
#: Smaller tensors stay inside the graph.
LEAST_BYTES = 1000
Feeds = dict[str, np.ndarray]


class _Watched:
    """A session that keeps what it is asked."""

    def __init__(self, session: Session) -> None:
        self.session, self.asked = session, list[Feeds]()

    def run(self, names: None, feeds: Feeds) -> Any:
        self.asked.append(feeds)
        return self.session.run(names, feeds)


class _Inputs(CalibrationDataReader):  # type: ignore[misc]
    def __init__(self, asked: list[Feeds]) -> None:
        self.left = iter(asked)

    def get_next(self) -> Feeds | None:
        return next(self.left, None)


def asked_of(pack: OnnxPack, steps: int = 20, layouts: int = len(LAYOUTS)) -> list[Feeds]:
    """What the denoiser is asked while the pack composes each layout and inpaints its first element."""
    watched = _Watched(pack.graphs["denoiser"])
    pack.graphs["denoiser"] = watched
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
    return watched.asked


def whole_graph(folder: Path) -> onnx.ModelProto:
    """A pack's denoiser with its weights inside."""
    model = onnx.load(str(folder / "denoiser.onnx"), load_external_data=False)
    weights = read_graph(folder, "denoiser")
    for tensor in model.graph.initializer:
        if tensor.name in weights:
            tensor.CopyFrom(numpy_helper.from_array(weights[tensor.name].numpy(), tensor.name))
    return model


def quantise(pack_folder: Path, steps: int = 20, layouts: int = len(LAYOUTS)) -> dict[str, object]:
    """Writes the eight-bit graph and its weights into the pack; returns its size and the error of its answers."""
    pack = OnnxPack(pack_folder, exact=True)
    asked = asked_of(pack, steps, layouts)
    with tempfile.TemporaryDirectory() as temporary:
        folder = Path(temporary)
        model = whole_graph(pack_folder)
        onnx.save(model, str(folder / "whole.onnx"))
        quant_pre_process(str(folder / "whole.onnx"), str(folder / "ready.onnx"), skip_symbolic_shape=True)
        ready = onnx.load(str(folder / "ready.onnx"))
        constant = {t.name for t in ready.graph.initializer}
        ends = [n.name for n in ready.graph.node if n.op_type == "Conv" and any(part in n.name for part in ("/into/", "/out/"))]
        # Who looks at whom is told by products of two answers, and in eight bits neither well nor quickly.
        looks = [n.name for n in ready.graph.node if n.op_type == "MatMul" and constant.isdisjoint(n.input)]
        quantize_static(
            str(folder / "ready.onnx"),
            str(folder / "small.onnx"),
            _Inputs(asked[::EVERY]),
            quant_format=QuantFormat.QDQ,
            per_channel=True,
            activation_type=QuantType.QUInt8,
            weight_type=QuantType.QInt8,
            op_types_to_quantize=["Conv", "Gemm", "MatMul"],
            nodes_to_exclude=[*ends, *looks],
        )
        small = onnx.load(str(folder / "small.onnx"))
    for old in pack_folder.glob(f"{QUICK}*"):
        old.unlink()
    files = _parted(small, pack_folder)
    d = tomllib.loads((pack_folder / "pack.toml").read_text())
    d["weights"][QUICK] = files
    write_manifest(pack_folder, d)
    exact, quick = OnnxPack(pack_folder, exact=True).graphs["denoiser"], OnnxPack(pack_folder).graphs["denoiser"]
    errors = []
    for feeds in asked[EVERY // 2 :: 5 * EVERY]:
        a, b = exact.run(None, feeds)[0], quick.run(None, feeds)[0]
        errors.append(float(np.sqrt(((a - b) ** 2).mean()) / a.std()))
    size = sum((pack_folder / s).stat().st_size for s in files)
    return {"bytes": size, "calibrated on": len(asked[::EVERY]), "relative error of an answer": round(float(np.median(errors)), 4)}


def _parted(model: onnx.ModelProto, out: Path) -> list[str]:
    """Writes the graph, its larger tensors apart in shards; returns their names."""
    moved = {}
    for tensor in model.graph.initializer:
        value = numpy_helper.to_array(tensor)
        if value.nbytes >= LEAST_BYTES and value.dtype in (np.float32, np.int8):
            moved[tensor.name] = torch.from_numpy(value.copy())
            move_out(tensor, value.nbytes)
    (out / f"{QUICK}.onnx").write_bytes(model.SerializeToString())
    return shards(QUICK, moved, out)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--out", type=Path, default=OWN_PACK)
    print(json.dumps(quantise(parser.parse_args().out), indent=1))


if __name__ == "__main__":
    main()
