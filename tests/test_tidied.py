"""Graphs put short; needs the training packages."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

pytest.importorskip("torch")
pytest.importorskip("onnx")
pytestmark = pytest.mark.training

import onnx
import onnxruntime
import torch
from torch import nn

from training.networks import Attention, DrawnEnlarger, Enlarger, LightEnlarger
from training.tidied import tidied


class Looking(nn.Module):
    """Cells that look at each other and at phrases, beside a drawing in pieces."""

    def __init__(self) -> None:
        super().__init__()
        self.look, self.lines = Attention(64, 16), nn.Conv2d(16, 64, 3, padding=1)

    def forward(self, cells, phrases, bias, lines):
        return self.look(cells + self.lines(nn.functional.pixel_unshuffle(lines, 4)), phrases, bias)


def looking_feeds(rng, batch, rows, height, width):
    shapes = {"cells": (64, height, width), "phrases": (rows, 16), "bias": (1, rows), "lines": (1, 4 * height, 4 * width)}
    return {name: rng.random((batch, *shape), np.float32) for name, shape in shapes.items()}


def enlarging_feeds(rng, batch, rows, height, width):
    shapes = {"small": (3, height, width), "painted": (1, height, width), "lines": (1, 4 * height, 4 * width)}
    return {name: rng.random((batch, *shape), np.float32) for name, shape in shapes.items()}


GRID, GUIDE = {0: "batch", 2: "height", 3: "width"}, {0: "batch", 2: "guide height", 3: "guide width"}
ENLARGED = {"small": GRID, "painted": GRID, "lines": GUIDE}
LOOKED = {"cells": GRID, "phrases": {0: "batch", 1: "rows"}, "bias": {0: "batch", 2: "rows"}, "lines": GUIDE}
MADE = {
    "looking": (Looking, looking_feeds, LOOKED),
    "drawn": (lambda: DrawnEnlarger(Enlarger(8, 2), 12, 1), enlarging_feeds, ENLARGED),
    "light": (lambda: LightEnlarger(12, 16, 16, 1), enlarging_feeds, ENLARGED),
}


def exported(name, folder) -> onnx.ModelProto:
    torch.manual_seed(0)
    make, feeds, free = MADE[name]
    net = make().eval()
    with torch.no_grad():
        for p in net.parameters():
            p.normal_(0, 0.2)
    given_ = {k: torch.from_numpy(v) for k, v in feeds(np.random.default_rng(0), 2, 3, 8, 12).items()}
    path = folder / f"{name}.onnx"
    more = {"input_names": list(given_), "output_names": ["out"], "dynamic_axes": free, "opset_version": 17, "dynamo": False}
    torch.onnx.export(net, tuple(given_.values()), str(path), **more)
    return onnx.load(str(path))


def session(model: onnx.ModelProto) -> onnxruntime.InferenceSession:
    options = onnxruntime.SessionOptions()
    options.log_severity_level = 4
    return onnxruntime.InferenceSession(model.SerializeToString(), options, providers=["CPUExecutionProvider"])


@pytest.fixture(scope="module", params=MADE)
def graphs(request, tmp_path_factory):
    """What makes its questions; a graph as it is exported, put short, and put short again with whole blocks."""
    model = exported(request.param, tmp_path_factory.mktemp("graphs"))
    short = tidied(model, {})
    return MADE[request.param][1], model, short, tidied(short, {}, blocks=True)


@settings(max_examples=12)
@given(batch=st.integers(1, 3), rows=st.integers(1, 5), height=st.integers(1, 5), width=st.integers(1, 5), seed=st.integers(0, 99))
def test_a_graph_put_short_answers_the_same_at_any_size(graphs, batch, rows, height, width, seed):
    feeds_of, model, short, blocks = graphs
    feeds = feeds_of(np.random.default_rng(seed), batch, rows, 4 * height, 4 * width)
    whole, same, nearly = (session(m).run(None, feeds)[0] for m in (model, short, blocks))
    assert (whole == same).all()
    assert nearly == pytest.approx(whole, abs=1e-4 * float(np.abs(whole).max()))


def test_it_has_fewer_steps_and_its_shapes_said_once(graphs):
    _, model, short, blocks = graphs
    assert len(short.graph.node) < len(model.graph.node)
    # What is short stays so, but for what fills up blocks.
    added = [n.op_type for n in blocks.graph.node]
    for node in short.graph.node:
        added.remove(node.op_type)
    assert set(added) <= {"Pad"}
    turned = [len(n.attribute[0].ints) for n in short.graph.node if n.op_type == "Transpose"]
    assert 6 not in turned
    assert sum(n.op_type == "SpaceToDepth" for n in short.graph.node) == 1


def test_an_axis_that_nobody_knows_is_named():
    model = onnx.helper.make_model(
        onnx.helper.make_graph(
            [onnx.helper.make_node("Shape", ["x"], ["s"]), onnx.helper.make_node("Reshape", ["x", "s"], ["y"])],
            "odd",
            [onnx.helper.make_tensor_value_info("x", onnx.TensorProto.FLOAT, ["moons"])],
            [onnx.helper.make_tensor_value_info("y", onnx.TensorProto.FLOAT, None)],
        )
    )
    with pytest.raises(ValueError, match="moons"):
        tidied(model, {})
