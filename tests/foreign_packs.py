"""Writes two packs as if they came from elsewhere: one whose exact answers are known, and a small random one of a quite different make;
and sheets for every kind of pass with them."""

from __future__ import annotations

import hashlib
import math
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import onnx
import tomli_w
from onnx import TensorProto, helper, numpy_helper
from tokenizers import Tokenizer
from tokenizers.models import WordLevel
from tokenizers.pre_tokenizers import Whitespace
from tokenizers.processors import TemplateProcessing

from waldrand.core.passes.kinds import kind_of
from waldrand.core.passes.request import Request, with_own
from waldrand.core.passes.settings import PassSettings
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.resize import framed
from waldrand.core.values.sheet import Sheet

COLOURS = {"red": (0.8, 0.15, 0.15), "green": (0.15, 0.6, 0.2), "blue": (0.15, 0.25, 0.8)}
#: Variance of every channel round its colour, in the exact pack.
VARIANCE, CELL = 0.04, 8


def tensor(name: str, shape: list[Any], kind: int = TensorProto.FLOAT) -> onnx.ValueInfoProto:
    return helper.make_tensor_value_info(name, kind, shape)


def save(path: Path, nodes: list[onnx.NodeProto], inputs: list[Any], outputs: list[Any], weights: dict[str, np.ndarray]) -> None:
    graph = helper.make_graph(nodes, path.stem, inputs, outputs, [numpy_helper.from_array(v, n) for n, v in weights.items()])
    model = helper.make_model(graph, opset_imports=[helper.make_opsetid("", 17)], ir_version=9)
    onnx.checker.check_model(model)
    onnx.save(model, str(path))


def node(op: str, inputs: str, output: str, **more: Any) -> onnx.NodeProto:
    return helper.make_node(op, inputs.split(), [output], **more)


def tokenizer(path: Path, words: list[str], ends: bool) -> None:
    """A list of whole words; ends: with what begins and ends a prompt, added by itself."""
    vocab = {w: i for i, w in enumerate(["<pad>", "<begin>", "<end>", "<unk>", ",", *words])}
    made = Tokenizer(WordLevel(vocab, unk_token="<unk>"))
    made.pre_tokenizer = Whitespace()
    if ends:
        made.post_processor = TemplateProcessing(single="<begin> $A <end>", special_tokens=[("<begin>", 1), ("<end>", 2)])
    made.save(str(path))


def described(folder: Path, d: dict[str, Any]) -> Path:
    """Writes pack.toml with the hashes of all files beside it."""
    files = {p.name: hashlib.sha256(p.read_bytes()).hexdigest() for p in sorted(folder.iterdir()) if p.name != "pack.toml"}
    (folder / "pack.toml").write_text(tomli_w.dumps(d | {"files": files}))
    return folder


SIZE = {"multiple": 32, "best_area": 128 * 128, "least_side": 64, "greatest_side": 256, "best": [[128, 128]]}


def coders(folder: Path) -> None:
    """Latents are colours between -1 and 1, averaged over cells."""
    picture, latent = tensor("pixels", ["B", 3, "H", "W"]), tensor("made", ["B", 3, "h", "w"])
    save(
        folder / "vae_encoder.onnx",
        [node("AveragePool", "pixels", "made", kernel_shape=[CELL] * 2, strides=[CELL] * 2)],
        [picture],
        [latent],
        {},
    )
    scales = {"none": np.zeros(0, np.float32), "scales": np.array([1, 1, CELL, CELL], np.float32)}
    up = node("Resize", "latent none scales", "made", mode="nearest")
    save(folder / "vae_decoder.onnx", [up], [tensor("latent", ["B", 3, "h", "w"])], [tensor("made", ["B", 3, "H", "W"])], scales)


def exact(folder: Path, prediction: str = "eps") -> Path:
    """Cells are Gaussian round the mean of the colours that are said; the answer is exact. alpha = cos, sigma = sin."""
    folder.mkdir(parents=True)
    coders(folder)
    words = list(COLOURS)
    tokenizer(folder / "tokenizer.json", words, ends=False)
    colours = np.zeros((5 + len(words), 4), np.float32)
    for i, word in enumerate(words):
        colours[5 + i] = (*(2 * np.array(COLOURS[word]) - 1), 1)
    text = [
        node("Gather", "colours ids", "each"),
        node("ReduceSum", "each one", "total", keepdims=0),
        node("Slice", "total zero three one_", "sums"),
        node("Slice", "total three four one_", "count"),
        node("Max", "count least", "many"),
        node("Div", "sums many", "pooled"),
    ]
    axes = {n: np.array([v], np.int64) for n, v in (("zero", 0), ("three", 3), ("four", 4), ("one_", 1))}
    weights = {"colours": colours, "one": np.array([1], np.int64), "least": np.array([1], np.float32)} | axes
    save(folder / "text_reader.onnx", text, [tensor("ids", [1, 12], TensorProto.INT64)], [tensor("pooled", [1, 3])], weights)
    shape4 = {"four_": np.array([-1, 1, 1, 1], np.int64), "three_": np.array([-1, 3, 1, 1], np.int64)}
    net = [
        node("Mul", "t quarter", "angle"),
        node("Cos", "angle", "a1"),
        node("Sin", "angle", "s1"),
        node("Reshape", "a1 four_", "a"),
        node("Reshape", "s1 four_", "s"),
        node("Reshape", "told three_", "m"),
        node("Mul", "a m", "am"),
        node("Sub", "noisy am", "off"),
        node("Mul", "a a", "aa"),
        node("Mul", "aa variance", "aav"),
        node("Mul", "s s", "ss"),
        node("Add", "aav ss", "spread"),
        node("Mul", "a variance", "av"),
        node("Div", "av spread", "k"),
        node("Mul", "k off", "more"),
        node("Add", "m more", "x0"),
        node("Mul", "a x0", "ax0"),
        node("Sub", "noisy ax0", "noise"),
        node("Max", "s tiny", "s_"),
        node("Div", "noise s_", "eps"),
        *([] if prediction == "eps" else [node("Mul", "a eps", "ae"), node("Mul", "s x0", "sx"), node("Sub", "ae sx", "v")]),
    ]
    numbers = {"quarter": math.pi / 2, "variance": VARIANCE, "tiny": 1e-6}
    weights = {n: np.array([v], np.float32) for n, v in numbers.items()} | shape4
    inputs = [tensor("noisy", ["B", 3, "h", "w"]), tensor("t", ["B"]), tensor("told", ["B", 3])]
    save(folder / "denoiser.onnx", net, inputs, [tensor(prediction, ["B", 3, "h", "w"])], weights)
    coder = {"range": [-1.0, 1.0], "output": "made"}
    return described(
        folder,
        {
            "format": 2,
            "name": f"exact {prediction}",
            "version": "1",
            "licence": "CC0-1.0",
            "prediction": prediction,
            "latent": {"channels": 3, "cell": CELL},
            "size": SIZE,
            "recommended": {"steps": 8, "guidance": 1.0},
            "reader": [
                {
                    "file": "text_reader.onnx",
                    "tokenizer": "tokenizer.json",
                    "length": 12,
                    "begin": 1,
                    "end": 2,
                    "inputs": {"ids": "ids"},
                    "outputs": {"pooled": "pooled"},
                }
            ],
            "denoiser": {
                "file": "denoiser.onnx",
                "output": prediction,
                "level": "share",
                "inputs": {"noisy": "noisy", "t": "level", "told": "pooled"},
            },
            "encoder": coder | {"file": "vae_encoder.onnx", "input": "pixels"},
            "decoder": coder | {"file": "vae_decoder.onnx", "input": "latent"},
        },
    )


def odd(folder: Path) -> Path:
    """Four channels, discrete levels told as whole numbers, half precision, two readers with vocabularies of their own, one input of
    noisy picture, hole and what is kept, guidance as an input, and further numbers. All weights are random."""
    folder.mkdir(parents=True)
    rng = np.random.default_rng(5)

    def some(*shape: int, k: float = 0.2) -> np.ndarray:
        return rng.normal(0, k, shape).astype(np.float16)

    half = TensorProto.FLOAT16
    words = ["house", "tree", "red", "green", "blue", "meadow", "night", "fox"]
    tokenizer(folder / "tokenizer.json", words, ends=True)
    tokenizer(folder / "tokenizer_2.json", list(reversed(words)), ends=True)
    for name, length, wide, pooled in (("text_encoder", 16, 6, ""), ("text_encoder_2", 10, 10, "pooled")):
        nodes = [node("Gather", "table input_ids", "sequence")]
        outputs = [tensor("sequence", [1, length, wide], half)]
        if pooled:
            nodes.append(node("ReduceMean", "sequence", "pooled", axes=[1], keepdims=0))
            outputs.append(tensor("pooled", [1, wide], half))
        save(
            folder / f"{name}.onnx", nodes, [tensor("input_ids", [1, length], TensorProto.INT64)], outputs, {"table": some(13, wide, k=1.0)}
        )
    weights = {
        "first": some(8, 9, 3, 3),
        "second": some(4, 8, 3, 3),
        "of_words": some(16, 8),
        "of_whole": some(10, 8),
        "of_size": some(2, 8, k=0.001),
        "thousandth": np.array([0.001], np.float16),
        "tenth": np.array([0.1], np.float16),
        "line": np.array([-1, 1], np.int64),
        "as_map": np.array([-1, 8, 1, 1], np.int64),
    }
    net = [
        node("Conv", "sample first", "seen", pads=[1, 1, 1, 1]),
        node("ReduceMean", "encoder_hidden_states", "words", axes=[1], keepdims=0),
        node("MatMul", "words of_words", "w"),
        node("MatMul", "text_embeds of_whole", "p"),
        node("MatMul", "time_ids of_size", "z"),
        node("Cast", "timestep", "level", to=half),
        node("Mul", "level thousandth", "t1"),
        node("Reshape", "t1 line", "t"),
        node("Mul", "guidance tenth", "g1"),
        node("Reshape", "g1 line", "g"),
        node("Add", "w p", "wp"),
        node("Add", "wp z", "wpz"),
        node("Add", "wpz t", "wpzt"),
        node("Add", "wpzt g", "all"),
        node("Reshape", "all as_map", "told"),
        node("Add", "seen told", "both"),
        node("Tanh", "both", "bent"),
        node("Conv", "bent second", "out_sample", pads=[1, 1, 1, 1]),
    ]
    inputs = [
        tensor("sample", ["B", 9, "h", "w"], half),
        tensor("timestep", ["B"], TensorProto.INT64),
        tensor("encoder_hidden_states", ["B", "L", 16], half),
        tensor("text_embeds", ["B", 10], half),
        tensor("time_ids", ["B", 2], half),
        tensor("guidance", ["B"], half),
    ]
    save(folder / "unet.onnx", net, inputs, [tensor("out_sample", ["B", 4, "h", "w"], half)], weights)
    down, up = some(4, 3, CELL, CELL, k=0.05), some(4, 3, CELL, CELL, k=0.3)
    image, latent = tensor("image", ["B", 3, "H", "W"], half), tensor("latent_sample", ["B", 4, "h", "w"], half)
    to = node("Conv", "image w", "latent_sample", strides=[CELL] * 2)
    save(folder / "vae_encoder.onnx", [to], [image], [latent], {"w": down})
    back = node("ConvTranspose", "latent_sample w", "image", strides=[CELL] * 2)
    save(folder / "vae_decoder.onnx", [back], [latent], [image], {"w": up})
    reader = {"inputs": {"ids": "input_ids"}, "pad": 0}
    return described(
        folder,
        {
            "format": 2,
            "name": "odd",
            "version": "0.3",
            "licence": "CC0-1.0",
            "prediction": "eps",
            "levels": {"steps": 1000, "first": 0.00085, "last": 0.012, "curve": "quadratic"},
            "latent": {"channels": 4, "cell": CELL, "scale": 0.18, "shift": 0.1},
            "size": SIZE,
            "recommended": {"steps": 6, "guidance": 4.0},
            "reader": [
                reader | {"file": "text_encoder.onnx", "tokenizer": "tokenizer.json", "length": 16, "outputs": {"sequence": "sequence"}},
                reader
                | {
                    "file": "text_encoder_2.onnx",
                    "tokenizer": "tokenizer_2.json",
                    "length": 10,
                    "outputs": {"sequence": "sequence", "pooled": "pooled"},
                },
            ],
            "denoiser": {
                "file": "unet.onnx",
                "output": "out_sample",
                "level": "index",
                "inputs": {
                    "sample": ["noisy", "hole", "kept"],
                    "timestep": "level",
                    "encoder_hidden_states": ["sequence", "sequence 2"],
                    "text_embeds": "pooled 2",
                    "guidance": "guidance",
                },
                "constants": {"time_ids": ["height", "width"]},
            },
            "encoder": {"file": "vae_encoder.onnx", "input": "image", "output": "latent_sample", "range": [-1.0, 1.0]},
            "decoder": {"file": "vae_decoder.onnx", "input": "latent_sample", "output": "image", "range": [-1.0, 1.0]},
        },
    )


KINDS = ("compose", "rework", "inpaint", "extend", "touch-up", "refine", "shift")


def two_colours() -> Sheet:
    elements = (
        Element(1, "lake", Outline("box", (8, 24, 56, 120)), "blue"),
        Element(2, "roof", Outline("box", (72, 24, 120, 120)), "red"),
    )
    return Sheet(128, 128, elements=elements, scene=SceneWords("green"))


def with_picture(sheet: Sheet) -> Sheet:
    pixels = np.random.default_rng(2).integers(0, 255, (128, 128, 4), np.uint8)
    pixels[..., 3] = 255
    mask = Mask.from_array(np.pad(np.full((48, 48), 255, np.uint8), ((40, 40), (40, 40))))
    return replace(sheet, layers=(PictureLayer(9, "picture", pixels),), mask=mask)


def sheet_for(kind: str) -> Sheet:
    """What a kind of pass has something to do on."""
    sheet = two_colours() if kind == "compose" else with_picture(two_colours())
    if kind in ("rework", "refine"):
        return replace(sheet, mask=None)
    return framed(replace(sheet, mask=None), Rect(0, 0, 192, 128)) if kind == "extend" else sheet


def asked(kind: str, **more: Any) -> Request:
    own = {"refine": {"tile": 96, "tile_overlap": 32}, "shift": {"right": 20.0}}.get(kind, {})
    request = Request(kind, PassSettings(strength=0.7, steps=4, guidance=2.0, seed=3), more=tuple((own | more).items()))
    return replace(request, more=with_own(request.more, kind_of(kind).own))
