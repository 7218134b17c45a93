"""Exports the trained networks as a pack, and checks the pack against them.

`python -m training.export [--config FILE] [--work DIR] [--out DIR]
 [--decoder-only | --drawn-only | --light-only | --finder-only | --finder-of DIR]`
"""

from __future__ import annotations

import json
import tomllib
import warnings
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Self, TypeVar

import numpy as np
import onnx
import onnxruntime
import torch
from safetensors.torch import load_file, save_file
from torch import Tensor, nn

from waldrand.core.told import look
from waldrand.packs.manifest import DRAWN, FORMAT, GRAPHS, LIGHT, QUICK, read_manifest
from waldrand.packs.onnx_pack import OnnxPack

from . import train_finder
from .config import Config, arguments, load_config, work_folder
from .decoder import Decoder, LightDecoder
from .figures import write_figures
from .from_pack import read_drawn, read_enlarger, read_latent, read_light, with_finder
from .grounds import write_grounds
from .latent import Encoder, Latent, Preview
from .manifest import OWN_PACK, write_manifest
from .networks import DrawnEnlarger, Enlarger, Finder, LightEnlarger, Painter
from .places import write_places
from .tidied import tidied
from .train_denoiser import build, load_latent
from .world.canvas import SHAPES
from .world.finish import EVEN, INKS, PAPERS
from .world.scene import kinds
from .world.sky import FALLS
from .world.things import GROUPS
from .world.words import COLOURS, FAR, FINISHES, GROUNDS, IGNORED, INDOORS, PARTS, SEASONS, SETTINGS, SKIES, SYNONYMS, vocabulary

MOST_BYTES = 3_900_000
CELL = 16
#: How quick takes are painted (docs/pack-format.md).
QUICK_STEPS = {"steps": 3, "ahead": 1.0, "guidance": 3.0, "guided": [0.0, 0.5]}
#: What falls, and where it does not.
FALLING = {name: {**fall, "but_in": ["room", "still life"]} for name, fall in FALLS.items()}
#: How pictures are painted where nobody says otherwise (docs/pack-format.md).
RECOMMENDED = {"steps": 20, "guidance": 3.0, "spacing": 2.0, "guided": [0.2, 0.85], "lead_kept": 0.08, "told": 0.95, "quick": QUICK_STEPS}
Net = TypeVar("Net", bound=nn.Module)


def halved(net: Net) -> Net:
    """A network for use, its weights rounded to half precision as a pack keeps them."""
    for p in net.parameters():
        p.data = p.data.half().float()
    return net.eval()


class Glance(nn.Module):
    """Latents -> small pictures in 0..1."""

    def __init__(self, preview: Preview) -> None:
        super().__init__()
        self.preview = preview

    def forward(self, z: Tensor) -> Tensor:
        return (self.preview(z) * 0.5 + 0.5).clamp(0, 1)


class Seen(nn.Module):
    """Pictures in 0..1 -> certainties 0..1 of each label in each cell, then of the whole's labels, the same in every cell."""

    def __init__(self, finder: Finder, shrink: int) -> None:
        super().__init__()
        self.finder, self.shrink = finder, shrink

    def forward(self, picture: Tensor) -> Tensor:
        cells, whole = self.finder(nn.functional.avg_pool2d(picture, self.shrink) * 2 - 1)
        spread = whole[:, :, None, None] + 0 * cells[:, :1]
        return torch.cat([self.finder.certainties(cells), torch.sigmoid(spread)], 1)


#: Attributes worth offering while words are typed; all of them are said in training.
MORE = (
    "facing left",
    "facing right",
    "lit windows",
    "lit",
    "standing",
    "walking",
    "lying",
    "sitting",
    "portrait",
    "front view",
    "side view",
    "back view",
    "smiling",
    "black hair",
    "brown hair",
    "blonde hair",
    "red hair",
    "grey hair",
    "red dress",
    "blue coat",
    "green shirt",
    "yellow hat",
    "small",
    "large",
)


def load_enlarger(config: Config) -> tuple[Enlarger, dict[str, float]]:
    """The enlarger from its checkpoint, without one that of the pack that is installed with the app, without that bicubic; what it
    adds to bicubic drawn `[enlarger] sharper` times as strongly as it was trained to. And what a manifest says of it.

    Raises:
        ValueError: there is no checkpoint, and the installed pack's enlarger is of another size than the config's.
    """
    e, path = config["enlarger"], work_folder(config) / "enlarger.pt"
    enlarger, minutes = Enlarger(e["channels"], e["blocks"]), 0.0
    if path.exists():
        state = torch.load(path, weights_only=True)
        enlarger.load_state_dict(state["net"])
        minutes = round(state["before"] + state["minutes"], 1)
    elif (OWN_PACK / "pack.toml").exists():
        weights, minutes = read_enlarger(OWN_PACK)
        if {k: v.shape for k, v in weights.items()} != {k: v.shape for k, v in enlarger.state_dict().items()}:
            raise ValueError("The installed pack's enlarger is of another size. Run `python -m training.train_enlarger` first.")
        enlarger.load_state_dict(weights)
    with torch.no_grad():
        for values in enlarger.out.parameters():
            values.mul_(e["sharper"])
    return enlarger, {"enlarger_minutes": minutes, "enlarger_sharper": e["sharper"]}


def load_networks(config: Config) -> tuple[Painter, Encoder, Decoder, dict[str, Any]]:
    """The averaged denoiser from its checkpoint, and the enlarger (`load_enlarger`)."""
    folder = work_folder(config)
    painter = build(config)
    state = torch.load(folder / "denoiser.pt", weights_only=True)
    painter.load_state_dict(state["average"])
    enlarger, of_it = load_enlarger(config)
    trained = {"denoiser_minutes": round(state["minutes"], 1), "denoiser_samples": state["samples"], **of_it}
    # Rounded before as well: an enlarger that is put into a pack later finds only what lies there.
    latent = load_latent(config).rounded()
    # What is exported is what was rounded to half precision, so the check compares like with like.
    nets = painter, Encoder(latent, config["latent"]["shrink"]), Decoder(latent, config["latent"]["shrink"], enlarger)
    for net in nets:
        halved(net)
    return *nets, trained


def shards(name: str, tensors: dict[str, Tensor], out: Path) -> list[str]:
    """Weights, as they are, in files under MOST_BYTES; their names."""
    groups: list[dict[str, Tensor]] = [{}]
    size = 0
    for key, value in tensors.items():
        n = value.numel() * value.element_size()
        if size + n > MOST_BYTES and groups[-1]:
            groups.append({})
            size = 0
        groups[-1][key] = value.contiguous()
        size += n
    names = [f"{name}-{i:02d}.safetensors" for i in range(len(groups))]
    for file, group in zip(names, groups, strict=True):
        save_file(group, out / file)
        (out / file).chmod(0o644)
    return names


def move_out(initializer: onnx.TensorProto, length: int) -> None:
    """Marks a graph's tensor of so many bytes as one that is given to it from the shards."""
    for data in ("raw_data", "float_data", "int32_data"):
        initializer.ClearField(data)
    initializer.data_location = onnx.TensorProto.EXTERNAL
    for key, value in (("location", "shards"), ("offset", "0"), ("length", str(length))):
        initializer.external_data.add(key=key, value=value)


def _export(net: nn.Module, inputs: dict[str, Tensor], output: str, free: dict[str, dict[int, str]], name: str, out: Path) -> list[str]:
    path = out / f"{name}.onnx"
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        # Without folding, weights keep the names they are trained under.
        torch.onnx.export(
            net,
            tuple(inputs.values()),
            str(path),
            input_names=list(inputs),
            output_names=[output],
            dynamic_axes=free,
            opset_version=17,
            dynamo=False,
            do_constant_folding=False,
        )
    model = onnx.load(str(path))
    own = dict(net.named_parameters())
    moved = {}
    for initializer in model.graph.initializer:
        if initializer.name in own:
            moved[initializer.name] = own[initializer.name].detach().half()
            move_out(initializer, 4 * own[initializer.name].numel())
    path.write_bytes(tidied(model, {k: v.numpy() for k, v in moved.items()}, name == LIGHT).SerializeToString())
    return shards(name, moved, out)


def _export_decoder(decoder: Decoder, out: Path) -> list[str]:
    free = {0: "batch", 2: "height", 3: "width"}
    told = {"latent": torch.randn(2, decoder.preview.weight.shape[1], 8, 12), "painted": torch.ones(2, 1, 8, 12)}
    return _export(decoder, told, "picture", {"latent": free, "painted": free, "picture": free}, "decoder", out)


def drawn_decoder(config: Config, latent: Latent) -> tuple[Decoder, dict[str, float]] | None:
    """The decoder that is told drawings from its checkpoint, without one that of the installed pack, drawing `[drawn] sharper` times as
    strongly as it was trained to, and what a manifest says of it; None where neither has one of the config's size."""
    path, e = work_folder(config) / "drawn.pt", config["enlarger"]
    net = DrawnEnlarger(Enlarger(e["channels"], e["blocks"]))
    if path.exists():
        state = torch.load(path, weights_only=True)
        weights, minutes = state["net"], round(state["before"] + state["minutes"], 1)
    else:
        weights, minutes = read_drawn(OWN_PACK) if (OWN_PACK / "pack.toml").exists() else ({}, 0.0)
        if {k: v.shape for k, v in weights.items()} != {k: v.shape for k, v in net.state_dict().items()}:
            return None
    net.load_state_dict(weights)
    with torch.no_grad():
        for values in (*net.out.parameters(), *net.enlarger.out.parameters()):
            values.mul_(config["drawn"]["sharper"])
    of_it = {"drawn_minutes": minutes, "drawn_sharper": config["drawn"]["sharper"]}
    return halved(Decoder(latent, config["latent"]["shrink"], net)), of_it


def light_decoder(config: Config, latent: Latent) -> tuple[LightDecoder, dict[str, float]] | None:
    """The decoder for what is wanted soon from its checkpoint, without one that of the installed pack, and what a manifest says of it;
    None where neither has one."""
    path = work_folder(config) / "light.pt"
    if path.exists():
        state = torch.load(path, weights_only=True)
        weights, minutes = state["net"], round(state["before"] + state["minutes"], 1)
    else:
        weights, minutes = read_light(OWN_PACK) if (OWN_PACK / "pack.toml").exists() else ({}, 0.0)
    if not weights:
        return None
    net = LightEnlarger()
    net.load_state_dict(weights)
    return halved(LightDecoder(latent, net)), {"light_minutes": minutes}


def _export_told(graph: str, decoder: Decoder | LightDecoder, out: Path) -> list[str]:
    free, large = {0: "batch", 2: "height", 3: "width"}, {0: "batch", 2: "large height", 3: "large width"}
    told = {
        "latent": torch.randn(2, decoder.preview.weight.shape[1], 8, 12),
        "painted": torch.ones(2, 1, 8, 12),
        "lines": torch.rand(2, 1, CELL * 8, CELL * 12),
    }
    return _export(decoder, told, "picture", {"latent": free, "painted": free, "lines": large, "picture": large}, graph, out)


def _same(graph: str, net: nn.Module, out: Path, shards: list[str]) -> dict[str, str]:
    """Weights that the exporter left out because another has equal values: name -> that other's."""
    held = {k: v for s in shards for k, v in load_file(out / s).items()}
    return {
        f"{graph}.{k}": f"{graph}.{next(h for h, v in held.items() if v.shape == p.shape and torch.equal(v.float(), p))}"
        for k, p in net.named_parameters()
        if k not in held
    }


@dataclass(frozen=True)
class WholeFinder:
    """A pack's finder as it is: files by name, the names of its weights, which of them are the same, what the manifest states of it,
    its minutes."""

    files: dict[str, bytes]
    weights: list[str]
    same: dict[str, str]
    stated: dict[str, Any]
    minutes: float

    @classmethod
    def of(cls, pack: Path) -> Self:
        """
        Raises:
            ValueError: the pack has no finder.
        """
        d = with_finder(pack)
        names = d["weights"]["finder"]
        files = {name: (pack / name).read_bytes() for name in ("finder.onnx", *names)}
        return cls(files, names, _of_graph("finder", d["same"]), d["finder"], d["trained"]["finder_minutes"])

    def into(self, pack: Path) -> None:
        """Puts it into a pack that has none."""
        for name, content in self.files.items():
            (pack / name).write_bytes(content)
        _state(pack, "finder", self.weights, self.same, {"finder_minutes": self.minutes}, finder=self.stated)


def _of_graph(graph: str, same: dict[str, str], others: bool = False) -> dict[str, str]:
    """Of what `_same` told of all graphs, what it told of one, or of all others."""
    return {k: v for k, v in same.items() if k.startswith(f"{graph}.") != others}


def _state(
    pack: Path, graph: str, weights: list[str], same: dict[str, str], trained: dict[str, float], gone: Sequence[str] = (), **stated: Any
) -> str:
    """Says in a pack's manifest in which files a graph lies that was put there, and what is new of it; gone: graphs that are no longer
    there. Returns the pack's version."""
    d = tomllib.loads((pack / "pack.toml").read_text())
    d["weights"] = {g: shards for g, shards in d["weights"].items() if g not in gone} | {graph: weights}
    d["same"] = _of_graph(graph, d["same"], others=True) | same
    d["trained"] |= trained
    d["version"] = _version(d["trained"])
    write_manifest(pack, d | stated)
    return str(d["version"])


def export(config: Config, out: Path, finder_of: Path | None = None) -> dict[str, Any]:
    """Writes the pack, with the finder of another if given; returns what training it had and the greatest differences from the
    networks."""
    # First, because an enlarger and a finder may come from the very pack that is written over.
    painter, encoder, decoder, trained = load_networks(config)
    finder = None if finder_of is None else WholeFinder.of(finder_of)
    out.mkdir(parents=True, exist_ok=True)
    for old in out.iterdir():
        old.unlink()
    c, d = config["denoiser"], config["latent"]["channels"]
    z, rows = torch.randn(2, d, 8, 12), 5
    grid, batch = {2: "height", 3: "width"}, {0: "batch"}
    weights = {
        "text": _export(
            painter.text,
            {"ids": torch.ones(rows, c["phrase_length"], dtype=torch.long)},
            "phrases",
            {"ids": {0: "rows"}, "phrases": {0: "rows"}},
            "text",
            out,
        ),
        "look": _export(
            painter.look,
            {"looks": torch.randn(rows, look.length(d))},
            "phrases",
            {"looks": {0: "rows"}, "phrases": {0: "rows"}},
            "look",
            out,
        ),
        "denoiser": _export(
            painter.denoiser,
            {
                "noisy": z,
                "kept": z,
                "hole": torch.ones(2, 1, 8, 12),
                "level": torch.tensor([0.5, 0.6]),
                "phrases": torch.randn(2, rows, c["words"]),
                "kind": torch.ones(2, rows),
                "outline": torch.rand(2, rows, 8, 12),
                "weight": torch.ones(2, rows),
                "lines": torch.rand(2, 1, 4 * 8, 4 * 12),
                "depth": torch.rand(2, 1, 4 * 8, 4 * 12),
                "given": torch.ones(2, 2),
            },
            "flow",
            {
                "noisy": batch | grid,
                "kept": batch | grid,
                "hole": batch | grid,
                "level": batch,
                "phrases": {0: "batch", 1: "rows"},
                "kind": {0: "batch", 1: "rows"},
                "outline": {0: "batch", 1: "rows", 2: "height", 3: "width"},
                "weight": {0: "batch", 1: "rows"},
                "lines": batch | {2: "guide height", 3: "guide width"},
                "depth": batch | {2: "guide height", 3: "guide width"},
                "given": batch,
                "flow": batch | grid,
            },
            "denoiser",
            out,
        ),
        "encoder": _export(
            encoder, {"picture": torch.rand(1, 3, 128, 192)}, "latent", {"picture": batch | grid, "latent": batch | grid}, "encoder", out
        ),
        "preview": _export(
            Glance(decoder.preview), {"latent": z}, "picture", {"latent": batch | grid, "picture": batch | grid}, "preview", out
        ),
        "decoder": _export_decoder(decoder, out),
    }
    drawn, light = (made(config, load_latent(config).rounded()) for made in (drawn_decoder, light_decoder))
    if drawn is not None:
        weights[DRAWN], trained = _export_told(DRAWN, drawn[0], out), trained | drawn[1]
    if light is not None:
        weights[LIGHT], trained = _export_told(LIGHT, light[0], out), trained | light[1]
    (out / "words.json").write_text(
        json.dumps(
            {
                "words": vocabulary(kinds()),
                "synonyms": SYNONYMS,
                "ignored": IGNORED,
                "groups": {
                    "settings": SETTINGS,
                    "skies": SKIES,
                    "seasons": SEASONS,
                    "looks": FINISHES,
                    "grounds": GROUNDS,
                    "far": FAR,
                    "indoors": INDOORS,
                    **{name: tuple(t.name for t in group) for name, group in GROUPS.items()},
                    "parts": PARTS,
                    "colours": tuple(COLOURS),
                    "more": MORE,
                },
            },
            indent=1,
        )
    )
    nets: list[tuple[str, nn.Module]] = [
        ("text", painter.text),
        ("look", painter.look),
        ("denoiser", painter.denoiser),
        ("decoder", decoder),
    ]
    if drawn is not None:
        nets.append((DRAWN, drawn[0]))
    if light is not None:
        nets.append((LIGHT, light[0]))
    same = {k: v for g, net in nets for k, v in _same(g, net, out, weights[g]).items()}
    lists = {"figures": write_figures(config, out), "places": write_places(config, out), "grounds": write_grounds(config, out)}
    _manifest(config, out, weights, trained, same, lists)
    if finder is not None:
        finder.into(out)
    return trained | {"differences": check(config, out)}


def export_finder(config: Config, out: Path) -> dict[str, Any]:
    """Puts the finder from its checkpoint into a pack; everything else stays."""
    state = torch.load(work_folder(config) / "finder.pt", weights_only=True)
    net = train_finder.build(config)
    net.load_state_dict(state["net"])
    seen = halved(Seen(net, config["latent"]["shrink"]))
    for old in out.glob("finder*"):
        old.unlink()
    picture, free = torch.rand(1, 3, 256, 384), {0: "batch", 2: "height", 3: "width"}
    weights = _export(seen, {"picture": picture}, "seen", {"picture": free, "seen": free}, "finder", out)
    stated = {
        "labels": train_finder.labels(),
        "whole": train_finder.whole_labels(),
        "traits": (*COLOURS, *train_finder.ATTRIBUTES, *PARTS, train_finder.NEAR),
        "colours": tuple(COLOURS),
        "grounds": (*GROUNDS, *FAR, *INDOORS),
        "mirrored": [["facing left", "facing right"]],
        "parts": PARTS,
        "near": train_finder.NEAR,
    }
    minutes = round(state["before"] + state["minutes"], 1)
    version = _state(out, "finder", weights, _same("finder", seen, out, weights), {"finder_minutes": minutes}, finder=stated)
    finder, labels = OnnxPack(out).finder, read_manifest(out).finder
    assert finder is not None
    assert labels is not None
    with torch.no_grad():
        plain, mirrored = seen(torch.cat([picture, picture.flip(-1)])).numpy()
    expected = ((plain + mirrored[labels.turned, :, ::-1]) / 2)[: len(labels.labels)]
    apart = float(np.abs(finder.look(picture[0].permute(1, 2, 0).numpy())[0] - expected).max())
    return {"version": version, "difference": apart}


def _version(trained: dict[str, Any]) -> str:
    """Minutes of the denoiser and of the enlarger, by how many hundredths more strongly that draws, and minutes of those told drawings."""
    numbers = [trained["denoiser_minutes"], trained["enlarger_minutes"], 100 * (trained["enlarger_sharper"] - 1)]
    numbers += [trained[name] for name in ("drawn_minutes", "light_minutes") if name in trained]
    return ".".join(["0", *(f"{n:.0f}" for n in numbers)])


def _manifest(
    config: Config, out: Path, weights: dict[str, list[str]], trained: dict[str, Any], same: dict[str, str], lists: dict[str, Any]
) -> None:
    write_manifest(
        out,
        {
            "format": FORMAT,
            "name": "Lerchenmoor",
            "version": _version(trained),
            "licence": "GPL-3.0-or-later",
            "prediction": "flow",
            "vocabulary": "words.json",
            "capabilities": ["regions", "inpaint", "lines", "depth", "looks"],
            "latent": {"channels": config["latent"]["channels"], "cell": CELL},
            "size": {
                "multiple": 64,
                "best_area": 512 * 512,
                "placed_area": 640 * 640,
                "least_side": 256,
                "greatest_side": 1024,
                "best": [[CELL * w, CELL * h] for w, h in SHAPES],
            },
            "words": {"phrase_length": config["denoiser"]["phrase_length"], "rows": 32, "elements": 8, "avoid": True},
            "recommended": RECOMMENDED,
            "paper": PAPERS,
            "inked": INKS,
            "even": EVEN,
            "falling": FALLING,
            "trained": trained,
            "same": same,
            "weights": weights,
        }
        | lists,
    )


def export_decoder(config: Config, out: Path) -> dict[str, Any]:
    """Puts the enlarger (`load_enlarger`) into a pack, whose representation and denoiser stay."""
    enlarger, trained = load_enlarger(config)
    decoder = halved(Decoder(read_latent(out), config["latent"]["shrink"], enlarger))
    # One in eight bits is of the enlarger before; `training.quantise` makes it anew.
    for old in (*out.glob("decoder*"), *out.glob(f"{QUICK['decoder']}*")):
        old.unlink()
    shards = _export_decoder(decoder, out)
    version = _state(out, "decoder", shards, _same("decoder", decoder, out, shards), trained, (QUICK["decoder"],))
    with torch.no_grad():
        z, painted = torch.randn(1, config["latent"]["channels"], 16, 24), torch.rand(1, 1, 16, 24).round()
        made = OnnxPack(out).decode(z[0].numpy(), painted[0, 0].numpy())
        apart = float(np.abs(made - decoder(z, painted)[0].permute(1, 2, 0).numpy()).max())
    return {"version": version, "difference": apart}


def export_drawn(config: Config, out: Path) -> dict[str, Any]:
    """Puts the decoder that is told drawings (`drawn_decoder`) into a pack, and what the config says of papers.

    Raises:
        ValueError: there is none of the config's size.
    """
    made = drawn_decoder(config, read_latent(out))
    if made is None:
        raise ValueError("There is no enlarger that is told drawings. Run `python -m training.train_drawn` first.")
    return _put_in(DRAWN, *made, config, out, paper=PAPERS, inked=INKS, even=EVEN, falling=FALLING)


def export_light(config: Config, out: Path) -> dict[str, Any]:
    """Puts the decoder for what is wanted soon (`light_decoder`) into a pack, and how quick takes are painted.

    Raises:
        ValueError: there is none.
    """
    made = light_decoder(config, read_latent(out))
    if made is None:
        raise ValueError("There is no light enlarger. Run `python -m training.train_light` first.")
    recommended = tomllib.loads((out / "pack.toml").read_text())["recommended"] | {"quick": QUICK_STEPS}
    return _put_in(LIGHT, *made, config, out, recommended=recommended)


def _put_in(
    graph: str, decoder: Decoder | LightDecoder, of_it: dict[str, float], config: Config, out: Path, **stated: Any
) -> dict[str, Any]:
    """Puts a decoder that is told drawings into a pack; its version, and how far the pack's answer is from the network's."""
    for old in out.glob(f"{graph}*"):
        old.unlink()
    shards = _export_told(graph, decoder, out)
    version = _state(out, graph, shards, _same(graph, decoder, out, shards), of_it, **stated)
    with torch.no_grad():
        z, lines = torch.randn(1, config["latent"]["channels"], 16, 24), torch.rand(1, 1, CELL * 16, CELL * 24)
        got = OnnxPack(out).decode(z[0].numpy(), np.ones((16, 24), np.float32), lines[0, 0].numpy(), light=graph == LIGHT)
        apart = float(np.abs(got - decoder(z, torch.ones(1, 1, 16, 24), lines)[0].permute(1, 2, 0).numpy()).max())
    return {"version": version, "difference": apart}


@torch.no_grad()
def check(config: Config, pack_folder: Path) -> dict[str, float]:
    """Greatest difference of each of the pack's graphs from its network, on random inputs."""
    painter, encoder, decoder, _ = load_networks(config)
    sessions = OnnxPack(pack_folder, exact=True).graphs
    g = torch.Generator().manual_seed(3)
    c, d = config["denoiser"], config["latent"]["channels"]
    worst = dict.fromkeys((*GRAPHS, "look"), 0.0)

    def compare(graph: str, inputs: dict[str, Tensor], expected: Tensor) -> None:
        got = sessions[graph].run(None, {k: v.numpy() for k, v in inputs.items()})[0]
        worst[graph] = max(worst[graph], float(np.abs(got - expected.numpy()).max()))

    for h, w, rows in ((32, 32, 1), (16, 16, 6), (32, 48, 9)):
        z = torch.randn(2, d, h, w, generator=g)
        ids = torch.randint(0, 30, (rows, c["phrase_length"]), generator=g)
        phrases = painter.text(ids)
        compare("text", {"ids": ids}, phrases)
        looks = torch.randn(rows, look.length(d), generator=g)
        compare("look", {"looks": looks}, painter.look(looks))
        told = {
            "noisy": z,
            "kept": torch.randn(z.shape, generator=g),
            "hole": torch.rand(2, 1, h, w, generator=g).round(),
            "level": torch.rand(2, generator=g),
            "phrases": phrases.expand(2, *phrases.shape),
            "kind": torch.randint(0, 3, (2, rows), generator=g).float(),
            "outline": torch.rand(2, rows, h, w, generator=g),
            "weight": torch.rand(2, rows, generator=g) * 2,
            "lines": torch.rand(2, 1, 4 * h, 4 * w, generator=g),
            "depth": torch.rand(2, 1, 4 * h, 4 * w, generator=g),
            "given": torch.rand(2, 2, generator=g).round(),
        }
        compare("denoiser", told, painter.denoiser(*told.values()))
        picture = torch.rand(1, 3, h * CELL, w * CELL, generator=g)
        compare("encoder", {"picture": picture}, encoder(picture))
        compare("preview", {"latent": z}, Glance(decoder.preview)(z))
        painted = torch.rand(2, 1, h, w, generator=g).round()
        compare("decoder", {"latent": z, "painted": painted}, decoder(z, painted))
    return worst


def main() -> None:
    parser = arguments(__doc__)
    parser.add_argument("--out", type=Path, default=OWN_PACK)
    part = parser.add_mutually_exclusive_group()
    part.add_argument("--decoder-only", action="store_true", help="only the enlarger, into a pack that is there")
    part.add_argument("--drawn-only", action="store_true", help="only the enlarger that is told drawings, into a pack that is there")
    part.add_argument("--light-only", action="store_true", help="only the enlarger for quick takes, into a pack that is there")
    part.add_argument("--finder-only", action="store_true", help="only the finder, into a pack that is there")
    part.add_argument("--finder-of", type=Path, help="a pack whose finder is put into this one as it is")
    options = parser.parse_args()
    print(f"onnxruntime {onnxruntime.__version__}, torch {torch.__version__}")
    config = load_config(options.config, options.work)
    alone = {
        export_decoder: options.decoder_only,
        export_drawn: options.drawn_only,
        export_light: options.light_only,
        export_finder: options.finder_only,
    }
    chosen = [one for one, asked in alone.items() if asked]
    result = chosen[0](config, options.out) if chosen else export(config, options.out, options.finder_of)
    print(json.dumps(result, indent=1))


if __name__ == "__main__":
    main()
