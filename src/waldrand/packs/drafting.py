"""Drafts a pack.toml of format 2 from a folder of graphs: what can be read off is filled in, what cannot is marked."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import onnxruntime as ort
import tomli_w

from ..core.refused import Refused

#: By what graphs are known: parts of their files' names, in the order in which they are tried.
NAMES = {
    "denoiser": ("denoiser", "unet", "transformer", "dit", "diffusion"),
    "decoder": ("decoder", "vae_dec"),
    "encoder": ("vae_enc", "image_enc", "encoder"),
    "reader": ("text", "reader", "clip", "t5", "prompt"),
}
#: What inputs of a denoiser are likely to be fed, by parts of their names.
LIKELY = (
    (("timestep", "level", "sigma", "time"), "level"),
    (("guidance",), "guidance"),
    (("pooled", "text_embeds", "vector"), "pooled"),
    (("hidden", "context", "encoder", "sequence", "prompt"), "sequence"),
    (("mask", "hole"), "hole"),
    (("masked", "kept"), "kept"),
    (("sample", "noisy", "latent", "x"), "noisy"),
)
ASK = "FILL IN"


def _stated(path: Path) -> tuple[list[Any], list[Any]]:
    """Inputs and outputs of a graph.

    Raises:
        Refused: it cannot be loaded.
    """
    options = ort.SessionOptions()
    options.log_severity_level = 4
    try:
        session = ort.InferenceSession(str(path), options, providers=["CPUExecutionProvider"])
    except Exception as error:  # onnxruntime raises its own, undocumented kinds
        raise Refused(f"{path} cannot be loaded: {str(error).splitlines()[0]}") from error
    return list(session.get_inputs()), list(session.get_outputs())


def _sorted(folder: Path) -> dict[str, list[Path]]:
    """The folder's graphs by what they seem to be for."""
    out: dict[str, list[Path]] = {what: [] for what in NAMES}
    for path in sorted(folder.glob("*.onnx")):
        name = path.stem.lower()
        # A text encoder is no encoder of pictures.
        order = ("reader", *NAMES) if any(part in name for part in NAMES["reader"]) else NAMES
        what = next((what for what in order if any(part in name for part in NAMES[what])), None)
        if what is not None:
            out[what].append(path)
    return out


def draft(folder: Path) -> str:
    """The text of a pack.toml for the graphs in a folder; lines to be filled in say so.

    Raises:
        Refused: a graph that a pack needs is not there, or cannot be loaded.
    """
    graphs = _sorted(folder)
    for what, paths in graphs.items():
        if not paths:
            raise Refused(
                f"There is no graph in {folder} that looks like a {what}: its file's name should say so ({', '.join(NAMES[what])})."
            )
    d: dict[str, Any] = {
        "format": 2,
        "name": folder.resolve().name,
        "version": "1",
        "licence": ASK,
        "prediction": "eps",
        "levels": {"steps": 1000, "first": 0.00085, "last": 0.012, "curve": "quadratic"},
    }
    encoder, decoder = (_coder(graphs[what][0]) for what in ("encoder", "decoder"))
    channels, cell = _latent(graphs)
    d["latent"] = {"channels": channels, "cell": cell, "scale": 1.0, "shift": 0.0}
    multiple = max(64, cell)
    d["size"] = {"multiple": multiple, "best_area": 512 * 512, "least_side": 4 * multiple, "greatest_side": 1024, "best": [[512, 512]]}
    d["recommended"] = {"steps": 25, "guidance": 5.0, "spacing": 1.0}
    tokenizers = sorted(folder.glob("*tokenizer*.json")) or sorted(p for p in folder.glob("*.json"))
    d["reader"] = [_reader(path, tokenizers, i) for i, path in enumerate(graphs["reader"])]
    d["denoiser"] = _denoiser(graphs["denoiser"][0])
    d["encoder"], d["decoder"] = encoder, decoder
    used = {d["denoiser"]["file"], encoder["file"], decoder["file"], *(r[k] for r in d["reader"] for k in ("file", "tokenizer"))}
    more = {p.name for p in folder.iterdir() if p.is_file() and p.name != "pack.toml" and p.suffix in (".onnx", ".data", ".bin", ".json")}
    d["files"] = {name: _sha256(folder / name) for name in sorted(used | more) if (folder / name).is_file()}
    return HEAD + tomli_w.dumps(d)


HEAD = """# A draft, read off the graphs. Look at every line: what a graph does not say is a guess.
#   prediction      "eps", "v" or "flow": what the network answers
#   levels          as the model was taught; leave the table out for "flow" and told = "share"
#   latent          scale and shift: latents go to the network as (z - shift) * scale
#   reader          length of prompts in tokens; begin, end, pad: token numbers, where the tokenizer does not add them itself
#   denoiser        what each input is fed: noisy, kept, hole, level, sequence, pooled, guidance, height, width; "sequence 2" of a second
#                   reader; several in a list are joined. level: "index", "share" or "thousand"
#   encoder, decoder  range: what black and white are to them
# Then: waldrand pack check FOLDER

"""


def _sha256(path: Path) -> str:
    with path.open("rb") as f:
        return hashlib.file_digest(f, "sha256").hexdigest()


def _coder(path: Path) -> dict[str, Any]:
    inputs, outputs = _stated(path)
    return {"file": path.name, "input": inputs[0].name, "output": outputs[0].name, "range": [-1.0, 1.0]}


def _latent(graphs: Mapping[str, list[Path]]) -> tuple[int, int]:
    """Channels and pixels of a cell's side, as far as the graphs' shapes say."""
    shape = _stated(graphs["decoder"][0])[0][0].shape
    channels = shape[1] if len(shape) == 4 and isinstance(shape[1], int) else 4
    out = _stated(graphs["encoder"][0])
    into, made = out[0][0].shape, out[1][0].shape
    cell = into[2] // made[2] if all(isinstance(v, int) for v in (into[2], made[2])) and made[2] else 8
    return channels, cell


def _reader(path: Path, tokenizers: list[Path], index: int) -> dict[str, Any]:
    inputs, outputs = _stated(path)
    length = next((s for one in inputs for s in one.shape[1:2] if isinstance(s, int)), 77)
    mask = next((one.name for one in inputs[1:] if "mask" in one.name), None)
    named = {"ids": inputs[0].name} | ({} if mask is None else {"mask": mask})
    made = {"sequence" if len(one.shape) == 3 else "pooled": one.name for one in reversed(outputs) if len(one.shape) in (2, 3)}
    tokenizer = tokenizers[min(index, len(tokenizers) - 1)].name if tokenizers else ASK
    return {"file": path.name, "tokenizer": tokenizer, "length": length, "pad": 0, "inputs": named, "outputs": made}


def _denoiser(path: Path) -> dict[str, Any]:
    inputs, outputs = _stated(path)
    fed = {}
    for one in inputs:
        # The longer a part of a name that fits, the likelier.
        likely = [(len(part), what) for parts, what in LIKELY for part in parts if part in one.name.lower()]
        fed[one.name] = max(likely)[1] if likely else ASK
    kinds = {one.name: one.type for one in inputs}
    told = next((name for name, what in fed.items() if what == "level"), "")
    return {"file": path.name, "output": outputs[0].name, "level": "index" if "int" in kinds.get(told, "") else "thousand", "inputs": fed}
