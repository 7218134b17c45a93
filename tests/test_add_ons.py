"""Add-ons: small differences of a pack's weights, merged by as much as is wanted."""

from __future__ import annotations

import hashlib
import tomllib
from dataclasses import replace

import numpy as np
import pytest
from by_hand import menu, opened
from safetensors.numpy import load_file, save_file

from waldrand import cli
from waldrand.core.packs import Figure
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.refused import Refused
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.files.pictures import read_recipe
from waldrand.packs.add_ons import AddOn, Merged, read_add_on, with_add_ons, write_add_on
from waldrand.packs.installed import add_ons_folder, installed_add_ons
from waldrand.packs.onnx_pack import OnnxPack, own_pack_folder

SETTINGS = PassSettings(steps=2, guidance=1.0, seed=1)


@pytest.fixture(scope="module")
def weights() -> dict[str, np.ndarray]:
    """All weights of our own denoiser."""
    folder = own_pack_folder()
    shards = tomllib.loads((folder / "pack.toml").read_text())["weights"]["denoiser"]
    return {k: v for shard in shards for k, v in load_file(folder / shard).items()}


@pytest.fixture
def dusk(tmp_path, weights):
    """A file of an add-on that changes how words are listened to; its words are "old dusk", like sunset."""
    rng, pairs = np.random.default_rng(0), {}
    for key, w in weights.items():
        if key.startswith("look") and key.endswith("kv.weight"):
            pairs[key] = rng.normal(0, 0.3, (len(w), 2)), rng.normal(0, 0.3, (2, *w.shape[1:]))
    assert pairs
    path = tmp_path / "dusk.safetensors"
    write_add_on(path, AddOn("dusk", "old dusk", "sunset", rng.normal(0, 0.3, 160), pairs, ""))
    return path


@pytest.fixture(scope="module")
def pack() -> OnnxPack:
    return OnnxPack(exact=True)


def take(pack: OnnxPack, words: str = "sunset, lake") -> np.ndarray:
    sheet = Sheet(256, 256, scene=SceneWords(words))
    return run_take(plan(sheet, Request("compose", SETTINGS), pack), pack, 1).pixels.astype(int)


def test_an_add_on_changes_what_is_painted_as_much_as_it_is_merged_and_goes_again(pack, dusk):
    plain, digest = take(pack), pack.info.digest
    add_on = read_add_on(dusk)
    apart = []
    for weight in (0.0, 0.4, 1.0):
        pack.use_add_ons([Merged(add_on, weight)])
        assert pack.info.digest != digest
        apart.append(np.abs(take(pack) - plain).mean())
    assert apart[0] < 0.05
    assert apart[0] < apart[1] < apart[2]
    pack.use_add_ons([])
    assert pack.info.digest == digest
    assert (take(pack) == plain).all()


def test_its_words_are_read_and_told(pack, dusk):
    assert [u.word for u in pack.read(["old dusk", " lake"][0])[1]]
    pack.use_add_ons([Merged(read_add_on(dusk), 1.0)])
    ids, unknown = pack.read("old dusk")
    assert not unknown
    assert ids[0] == pack.words.read("sunset")[0][0]
    with_words = take(pack, "old dusk, lake")
    assert (with_words != take(pack, "sunset, lake")).any()
    assert pack.read("sunset")[0] == pack.words.read("sunset")[0]
    pack.use_add_ons([])


def test_a_take_with_an_add_on_repeats_and_says_with_what(pack, dusk):
    pack.use_add_ons([Merged(read_add_on(dusk), 0.7)])
    sheet = Sheet(256, 256, scene=SceneWords("old dusk, lake"))
    done = run_take(plan(sheet, Request("compose", SETTINGS), pack), pack, 1).laid_on(sheet, "take")
    recipe = picture_recipe(done)
    again = repeat(recipe, pack)
    assert (again.pixels == done.flatten()).all()
    assert not again.notes
    pack.use_add_ons([])
    assert any("dusk 0.7" in note for note in repeat(recipe, pack).notes)


def test_the_same_add_on_twice_is_as_much_as_both(weights):
    key = next(k for k in weights if k.endswith("kv.weight"))
    pair = np.ones((len(weights[key]), 1), np.float32), np.ones((1, *weights[key].shape[1:]), np.float32)
    one = AddOn("one", "x", "", np.zeros(0, np.float32), {key: pair}, "")
    twice, double = (with_add_ons(weights, m)[key] for m in ([Merged(one, 0.5), Merged(one, 0.5)], [Merged(one, 1.0)]))
    assert twice == pytest.approx(double, abs=1e-3)
    assert (weights[key] == with_add_ons(weights, [])[key]).all()


@pytest.mark.parametrize("weight", [-1.5, 2.5, float("nan")])
def test_a_weight_outside_its_range_is_refused(weight):
    with pytest.raises(Refused, match="merged by -1 to 2"):
        Merged(AddOn("one", "x", "", np.zeros(0, np.float32), {}, ""), weight)


def spoiled(path, spoil: str):
    tensors = load_file(path)
    key = next(k for k in tensors if k.endswith(".up"))
    meta = {"format": "waldrand-add-on-1", "name": "dusk", "words": "old dusk", "like": "sunset"}
    match spoil:
        case "cut":
            path.write_bytes(path.read_bytes()[:-100])
            return
        case "no shard":
            del tensors[key.removesuffix(".up") + ".down"]
        case "numbers":
            tensors[key][0, 0] = np.nan
        case "format":
            meta["format"] = "other"
        case "words":
            meta["words"] = ""
        case "model":
            tensors = {"nothing.up": np.ones((3, 1), np.float16), "nothing.down": np.ones((1, 3), np.float16)}
        case "like":
            meta["like"] = "blorp"
        case "shape":
            tensors["figure.0"] = np.ones((3, 3), np.uint8)
        case "phrase":
            tensors["phrase"] = np.ones(7, np.float16)
        case "text":
            path.write_text("no add-on at all")
            return
    save_file(tensors, path, meta)


@pytest.mark.parametrize("spoil", ["cut", "no shard", "numbers", "format", "words", "model", "like", "phrase", "shape", "text"])
def test_a_damaged_or_foreign_add_on_is_refused_by_command(tmp_path, capsys, dusk, spoil):
    spoiled(dusk, spoil)
    (tmp_path / "a.toml").write_text('format = 1\n[sheet]\nwidth = 256\nheight = 256\n[scene]\nwords = "lake"\n')
    out = tmp_path / "out"
    assert cli.main(["run", str(tmp_path / "a.toml"), "--add-on", str(dusk), "--out", str(out)]) == 2
    assert "add-on" in capsys.readouterr().err
    assert not out.exists()


def test_a_refused_add_on_leaves_the_pack_as_it_was(pack, dusk, tmp_path):
    plain = take(pack)
    spoiled(dusk, "model")
    with pytest.raises(Refused, match="for another model"):
        pack.use_add_ons([Merged(read_add_on(dusk), 1.0)])
    assert not pack.add_ons
    assert (take(pack) == plain).all()
    with pytest.raises(Refused, match="no file"):
        read_add_on(tmp_path / "none")


def test_a_file_keeps_an_add_on(dusk):
    one = read_add_on(dusk)
    assert (one.name, one.words, one.like, len(one.phrase)) == ("dusk", "old dusk", "sunset", 160)
    assert one.digest == hashlib.sha256(dusk.read_bytes()).hexdigest()
    up, down = next(iter(one.pairs.values()))
    assert up.shape[1] == down.shape[0] == 2


def test_an_add_on_is_merged_and_taken_away_by_hand(app, dusk, tmp_path):
    with opened(OnnxPack(exact=True)) as w:
        w.document.edit(replace(w.document.sheet, scene=SceneWords("old dusk, lake")), "words")
        w.refresh_forecast()
        assert "“old”" in w.passes.warnings.text()
        w.dialogs.path, w.dialogs.amount = dusk, 0.5
        menu(w, "Add-on to the model…")
        assert "With the add-on dusk 0.5" in w.passes.forecast.text()
        assert "“old”" not in w.passes.warnings.text()
        w.dialogs.amount = 0.8
        menu(w, "Add-on to the model…")
        assert w.pack.info.add_ons == ("dusk 0.8",)
        w.dialogs.path = tmp_path / "none.safetensors"
        menu(w, "Add-on to the model…")
        assert w.dialogs.told
        menu(w, "No add-ons")
        assert "With the add-on" not in w.passes.forecast.text()
        menu(w, "No add-ons")
        assert "No add-on is merged" in w.passes.status.text()


def test_a_pack_that_takes_none_says_so(window, dusk):
    window.dialogs.path, window.dialogs.amount = dusk, 0.5
    menu(window, "Add-on to the model…")
    assert "takes no add-ons" in window.passes.status.text()


# --- installed ones


@pytest.fixture
def put(dusk):
    """The add-on put where installed ones are looked for."""
    folder = add_ons_folder()
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / "dusk.safetensors"
    path.write_bytes(dusk.read_bytes())
    yield path
    path.unlink()


def test_installed_add_ons_are_named_by_command(put, tmp_path, capsys):
    (tmp_path / "a.toml").write_text('format = 1\n[sheet]\nwidth = 256\nheight = 256\n[scene]\nwords = "old dusk, lake"\n')
    out = tmp_path / "out"
    assert cli.main(["run", str(tmp_path / "a.toml"), "--add-on", "dusk:0.5", "--steps", "2", "--out", str(out)]) == 0
    recipe = read_recipe(out / "take-0.png")
    assert recipe is not None
    assert any("dusk 0.5" in note for note in repeat(recipe, OnnxPack()).notes)
    assert cli.main(["run", str(tmp_path / "a.toml"), "--add-on", "dawn", "--out", str(tmp_path / "no")]) == 2
    assert "There is no file dawn" in capsys.readouterr().err


def test_installed_add_ons_are_offered_in_the_menu(app, put, wait):
    with opened(OnnxPack(exact=True)) as w:
        w.dialogs.amount = 0.5
        w.document.edit(replace(w.document.sheet, scene=SceneWords("old dusk, lake")), "words")
        assert {"cyanotype", "snail", "dusk"} <= set(w.bench.adding_on.names())
        w.bench.adding_on.add_named("dusk")
        wait(lambda: "With the add-on dusk 0.5" in w.passes.forecast.text())


def composed(pack: OnnxPack, sheet: Sheet) -> np.ndarray:
    return run_take(plan(sheet, Request("compose", PassSettings(steps=6, seed=1)), pack), pack, 1).pixels[..., :3].astype(float)


def test_a_file_keeps_the_shapes_of_a_thing_and_they_fit_outlines(pack, tmp_path):
    mask = np.pad(np.full((20, 30), 255, np.uint8), 3)
    lines = np.pad(np.full((4, 46), 200, np.uint8), ((20, 28), (13, 13)))
    figure = Figure("old barge", frozenset({"facing right"}), frozenset({"facing left"}), frozenset(), mask, lines=lines)
    path = tmp_path / "barge.safetensors"
    write_add_on(path, AddOn("barge", "old barge", "rowing boat", np.zeros(0, np.float32), {}, "", (figure,)))
    one = read_add_on(path)
    assert (one.figures[0].mask == mask).all()
    assert (one.figures[0].lines == lines).all()
    pack.use_add_ons([Merged(one, 1.0)])
    own = {words: pack.figures.named([words]) for words in ("old barge", "red old barge facing left", "rowing boat")}
    pack.use_add_ons([])
    assert {f.label for words in ("old barge", "red old barge facing left") for f in own[words]} == {"old barge"}
    assert all("facing left" in f.traits for f in own["red old barge facing left"])
    assert {f.label for f in own["rowing boat"]} == {"rowing boat"}
    assert not any(f.label == "old barge" for f in pack.figures.named(["old barge"]))


def test_the_look_that_comes_along_is_blue_whatever_colours_are_said(pack):
    tent = Element(1, "tent", Outline("box", (60, 90, 200, 230)), "red tent")
    sheet = Sheet(256, 256, elements=(tent,), scene=SceneWords("meadow, sunset, cyanotype"))
    plain = composed(pack, replace(sheet, scene=SceneWords("meadow, sunset")))
    pack.use_add_ons([Merged(read_add_on(installed_add_ons()["cyanotype"]), 1.0)])
    made = composed(pack, sheet)
    pack.use_add_ons([])
    blue = [(p[..., 2] - p[..., 0]).mean() for p in (plain, made)]
    assert blue[1] > blue[0] + 40
    assert (made[..., 2] >= made[..., 0]).mean() > 0.9


def test_the_thing_that_comes_along_stands_where_it_is_put(pack):
    snail = Element(1, "snail", Outline("box", (60, 110, 200, 210)), "snail")
    sheet = Sheet(256, 256, elements=(snail,), scene=SceneWords("meadow, clear day"))
    assert pack.read("snail")[1]
    pack.use_add_ons([Merged(read_add_on(installed_add_ons()["snail"]), 1.0)])
    assert not pack.read("snail")[1]
    made = composed(pack, sheet)
    pack.use_add_ons([])
    # Its brown shell in the green.
    inside, outside = made[125:180, 95:165].mean((0, 1)), made[220:, :].mean((0, 1))
    assert inside[0] - inside[1] > outside[0] - outside[1] + 25
