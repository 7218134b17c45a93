"""Models made elsewhere as packs: exact numbers, every kind of pass, what the app does without, checking and drafting."""

from __future__ import annotations

import json
import math
import tomllib
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from by_hand import key, opened, run
from foreign_packs import COLOURS, KINDS, VARIANCE, asked, described, exact, odd, sheet_for, tokenizer, two_colours, with_picture
from PyQt6.QtCore import Qt

from waldrand.cli import main
from waldrand.core.noise.levels import Schedule, kept_after
from waldrand.core.noise.noise import START, noise
from waldrand.core.noise.samplers import sample
from waldrand.core.packs import Guides
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.refused import Refused
from waldrand.core.told.voices import Line, to_rows
from waldrand.core.values.element import SceneWords
from waldrand.core.values.sheet import Sheet
from waldrand.files.pictures import write_png
from waldrand.packs.foreign import ForeignPack
from waldrand.packs.installed import installed_packs, packs_folder
from waldrand.packs.opened import open_pack


@pytest.fixture(scope="module")
def folders(tmp_path_factory) -> dict[str, Path]:
    home = tmp_path_factory.mktemp("packs")
    return {"eps": exact(home / "eps"), "v": exact(home / "v", "v"), "odd": odd(home / "odd")}


@pytest.fixture(scope="module")
def packs(folders) -> dict[str, ForeignPack]:
    return {name: open_pack(folder) for name, folder in folders.items()}


@pytest.fixture
def empty() -> Sheet:
    return two_colours()


# --- numbers


@pytest.mark.parametrize("prediction", ["eps", "v"])
@pytest.mark.parametrize("t", [0.15, 0.5, 0.95])
def test_answers_are_what_is_known_in_closed_form(packs, prediction, t):
    pack = packs[prediction]
    x = np.random.default_rng(1).normal(size=(3, 4, 6)).astype(np.float32)
    rows = to_rows((Line("scene", "red, blue", 1.0, None),), pack, (4, 6))
    (answer,) = pack.answer(x, np.zeros_like(x), np.ones((4, 6), np.float32), t, [rows])
    mean = (2 * (np.array(COLOURS["red"]) + COLOURS["blue"]) / 2 - 1)[:, None, None]
    a, s = math.cos(math.pi / 2 * t), math.sin(math.pi / 2 * t)
    x0 = mean + a * VARIANCE / (a * a * VARIANCE + s * s) * (x - a * mean)
    eps = (x - a * x0) / s
    assert np.allclose(answer, eps if prediction == "eps" else a * eps - s * x0, atol=1e-4)
    assert np.allclose(pack.info.schedule.clean(x, answer, t), x0, atol=1e-3)


@pytest.mark.parametrize("prediction", ["eps", "v"])
def test_what_is_painted_is_what_the_closed_form_paints(packs, prediction):
    pack = packs[prediction]
    sheet = Sheet(128, 128, scene=SceneWords("blue"))
    p = plan(sheet, replace(asked("compose"), settings=PassSettings(steps=6, guidance=1.0)), pack)
    take = run_take(p, pack, 3)
    # The exact way down by the same steps, with nothing of the pack.
    mean, schedule = (2 * np.array(COLOURS["blue"]) - 1)[:, None, None], Schedule(prediction)

    def x0(x, t):
        a, s = schedule.alpha(t), schedule.sigma(t)
        clean = mean + a * VARIANCE / (a * a * VARIANCE + s * s) * (x - a * mean)
        eps = (x - a * clean) / max(s, 1e-6)
        # As far as the answer tells it: where nearly all is noise, eps tells little of the picture.
        return schedule.clean(x, np.float32(eps if prediction == "eps" else a * eps - s * clean), t)

    e = noise(3, START, (3, 16, 16))
    levels = p.stages[0].levels(pack.info)
    made = sample(x0, schedule.noised(0 * e, e, 1.0), levels, schedule, "second", lambda step, x, t, clean: x, lambda step: e)
    expected = np.clip(np.kron(made.transpose(1, 2, 0), np.ones((8, 8, 1))) / 2 + 0.5, 0, 1) * 255
    assert np.abs(take.pixels - expected).max() <= 1.5


def test_discrete_levels_are_told_by_number_and_keep_what_they_should():
    kept = kept_after(1000, 0.00085, 0.012, "quadratic")
    schedule = Schedule("eps", kept)
    assert (schedule.alpha(0), schedule.sigma(0)) == (1.0, 0.0)
    assert schedule.alpha(1) == pytest.approx(math.sqrt(kept[-1]))
    for t in (0.001, 0.3, 0.777):
        assert schedule.alpha(t) ** 2 + schedule.sigma(t) ** 2 == pytest.approx(1)
    assert [schedule.alpha(i / 10) for i in range(11)] == sorted((schedule.alpha(i / 10) for i in range(11)), reverse=True)
    for wrong in ((0, 0.1, 0.2, "linear"), (10, 0.2, 0.1, "linear"), (10, 0.1, 0.2, "bent")):
        with pytest.raises(Refused):
            kept_after(*wrong)


def test_phrases_of_a_voice_are_one_prompt_and_unknown_words_are_told(packs):
    pack = packs["odd"]
    ids, unknown = pack.read("red zebra")
    assert len(ids) == 1
    assert [u.word for u in unknown] == ["zebra"]
    z = np.zeros((4, 8, 8), np.float32)
    hole = np.ones((8, 8), np.float32)

    def answer(*words: str, guides: Guides | None = None):
        rows = to_rows(tuple(Line("scene", w, 1.0, None) for w in words), pack, (8, 8))
        return pack.answer(z, z, hole, 0.5, [rows], guides)[0]

    assert (answer("red", "tree") == answer("red, tree")).all()
    assert (answer("red") != answer("tree")).any()
    assert (answer("red", guides=Guides(guidance=9.0)) != answer("red")).any()


def test_several_voices_are_answered_as_each_by_itself(packs):
    pack = packs["odd"]
    x = np.random.default_rng(4).normal(size=(4, 8, 8)).astype(np.float32)
    hole = np.ones((8, 8), np.float32)
    rows = [to_rows((Line("scene", w, 1.0, None),), pack, (8, 8)) for w in ("red", "green fox")]
    both = pack.answer(x, 0 * x, hole, 0.4, rows)
    each = [pack.answer(x, 0 * x, hole, 0.4, [one])[0] for one in rows]
    assert np.allclose(both, each, atol=2e-3)


def test_a_rough_preview_has_the_colours_of_the_picture(packs):
    for pack in packs.values():
        flat = np.broadcast_to(np.array((0.9, 0.3, 0.1), np.float32), (64, 64, 3))
        assert np.abs(pack.preview(pack.encode(flat)).mean((0, 1)) - flat[0, 0]).max() < 0.06


# --- every kind of pass


@pytest.mark.parametrize("name", ["eps", "v", "odd"])
@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_of_pass_runs_and_repeats(packs, name, kind, empty):
    pack = packs[name]
    sheet, request = sheet_for(kind), asked(kind)
    before = sheet.flatten()
    take = run_take(plan(sheet, request, pack), pack, 3)
    assert take.pixels.std() > 0
    after = take.laid_on(sheet, "made").flatten()
    outside = np.ones(before.shape[:2], bool)
    at = take.frame
    outside[at.slices] = take.region == 0
    assert (after[outside] == before[outside]).all()
    done = sheet.with_layer(take.to_patch(sheet.next_key(), "made"))
    if kind != "extend":
        assert (repeat(json.loads(json.dumps(picture_recipe(done))), pack, [before]).pixels == done.flatten()).all()


def test_things_land_where_they_are_put_by_blending(packs, empty):
    pack = packs["eps"]
    p = plan(empty, replace(asked("compose"), settings=PassSettings(steps=8, guidance=1.0)), pack)
    assert p.method == "blend"
    take = run_take(p, pack, 3)
    left, right = take.pixels[40:104, 16:48].mean((0, 1)), take.pixels[40:104, 80:112].mean((0, 1))
    assert left[2] > right[2] + 30
    assert right[0] > left[0] + 30


def test_what_needs_a_finder_says_that_there_is_none(packs, empty):
    sheet = replace(with_picture(empty), mask=None)
    for kind, more in (("touch-up", {}), ("edit", {"sentence": "remove the fox"})):
        with pytest.raises(Refused, match="finder"):
            plan(sheet, asked(kind, **more), packs["odd"])


def test_the_window_works_with_a_foreign_pack(app, packs, empty, wait):
    with opened(packs["eps"]) as w:
        w.document.open(empty, w.opening.blank_draft())
        w.passes.takes.setValue(1)
        run(w, wait)
        assert len(w.tray.takes) == 1


# --- by command


def test_packs_are_checked(folders, capsys):
    for name in ("eps", "odd"):
        assert main(["pack", "check", str(folders[name]), "--json"]) == 0
        told = json.loads(capsys.readouterr().out)
        assert told["megabytes"] > 0
        assert any("blended" in line for line in told["can"])
    assert main(["words", "--pack", str(folders["odd"])]) == 0
    assert "whole texts" in capsys.readouterr().out


def test_our_own_pack_is_checked_too(own, capsys, monkeypatch):
    from waldrand.packs.onnx_pack import own_pack_folder

    monkeypatch.setattr("waldrand.packs.checking.open_pack", lambda folder: own)
    assert main(["pack", "check", str(own_pack_folder())]) == 0
    assert "it is told where things are" in capsys.readouterr().out


def test_a_draft_of_the_odd_pack_needs_little_to_work(folders, tmp_path, capsys):
    folder = tmp_path / "draft"
    folder.mkdir()
    for path in folders["odd"].iterdir():
        if path.name != "pack.toml":
            (folder / path.name).write_bytes(path.read_bytes())
    assert main(["pack", "new", str(folder)]) == 0
    assert main(["pack", "new", str(folder)]) == 2
    d = tomllib.loads((folder / "pack.toml").read_text())
    assert d["denoiser"]["inputs"]["timestep"] == "level"
    assert d["denoiser"]["inputs"]["encoder_hidden_states"] == "sequence"
    assert [r["length"] for r in d["reader"]] == [16, 10]
    # What no graph can say is put right by hand.
    true = tomllib.loads((folders["odd"] / "pack.toml").read_text())
    d["denoiser"] = true["denoiser"]
    d["size"] = true["size"]
    d["latent"] |= {"cell": 8}
    described(folder, {k: v for k, v in d.items() if k != "files"})
    assert main(["pack", "check", str(folder)]) == 0
    (folder / "unet.onnx").unlink()
    assert main(["pack", "new", str(folder), "--force"]) == 2
    assert "looks like a denoiser" in capsys.readouterr().err


def test_an_add_on_is_not_for_it(folders, picture_file, tmp_path, capsys):
    words = ["rework", str(picture_file), "--strength", "0.3", "--scene", "red", "--pack", str(folders["eps"]), "--add-on", "x"]
    assert main([*words, "--out", str(tmp_path / "o.png")]) == 2
    assert "Add-ons are for packs of our own make" in capsys.readouterr().err


# --- what is wrong


def changed(folders, tmp_path: Path, change) -> Path:
    """The odd pack with something of its manifest, or of its files, changed."""
    folder = tmp_path / "changed"
    folder.mkdir()
    for path in folders["odd"].iterdir():
        (folder / path.name).write_bytes(path.read_bytes())
    d = tomllib.loads((folder / "pack.toml").read_text())
    change(d, folder)
    return described(folder, {k: v for k, v in d.items() if k != "files"})


def other_words(d, folder):
    tokenizer(folder / "tokenizer.json", [f"word{i}" for i in range(200)], ends=True)


WRONG = {
    "no such input": (lambda d, f: d["denoiser"]["inputs"].update(sampel=d["denoiser"]["inputs"].pop("sample")), "has no input “sampel”"),
    "fed nothing": (lambda d, f: d["denoiser"]["inputs"].pop("text_embeds"), "“text_embeds” that pack.toml feeds nothing"),
    "no such output": (lambda d, f: d["denoiser"].update(output="made"), "has no output “made”"),
    "no such feed": (lambda d, f: d["denoiser"]["inputs"].update(guidance="wind"), "feeds its denoiser “wind”"),
    "no levels": (lambda d, f: d.pop("levels"), "states no [levels]"),
    "wrong levels": (lambda d, f: d["levels"].update(first=2.0), "cannot be"),
    "wrong prediction": (lambda d, f: d.update(prediction="dream"), "predicts what is not known"),
    "wrong size": (lambda d, f: d["size"].update(multiple=12), "sizes that cannot be"),
    "wrong range": (lambda d, f: d["decoder"].update(range=[1.0, -1.0]), "Black to white"),
    "no reader": (lambda d, f: d.update(reader=[]), "no reader of words"),
    "missing table": (lambda d, f: d.pop("latent"), "is not complete"),
    "missing file": (lambda d, f: (f / "vae_decoder.onnx").unlink(), "does not list it"),
    "no graph": (lambda d, f: (f / "unet.onnx").write_bytes(b"none"), "cannot be loaded"),
    "no tokenizer": (lambda d, f: (f / "tokenizer.json").write_text("{"), "cannot be read"),
    "short prompts": (lambda d, f: d["reader"][0].update(length=1), "3 to 4096"),
    "wrong channels": (lambda d, f: d["latent"].update(channels=5), "pack.toml says (5, 8, 8)"),
}


@pytest.mark.parametrize("what", WRONG)
def test_a_wrong_manifest_is_said_in_a_sentence(folders, tmp_path, capsys, what):
    change, why = WRONG[what]
    assert main(["pack", "check", str(changed(folders, tmp_path, change))]) == 2
    assert why in capsys.readouterr().err


def test_a_tokenizer_of_another_vocabulary_is_said(folders, tmp_path, empty):
    pack = open_pack(changed(folders, tmp_path, other_words))
    sheet = replace(empty, elements=(), scene=SceneWords("word150"))
    with pytest.raises(Refused, match="tokenizer and its graph may not belong together"):
        run_take(plan(sheet, asked("compose"), pack), pack, 3)


def test_a_damaged_file_is_known_by_its_hash(folders, tmp_path, capsys):
    folder = changed(folders, tmp_path, lambda d, f: None)
    with (folder / "unet.onnx").open("ab") as f:
        f.write(b"x")
    assert main(["pack", "check", str(folder)]) == 2
    assert "damaged" in capsys.readouterr().err
    assert main(["pack", "check", str(tmp_path / "nowhere")]) == 2


def test_pictures_are_made_by_command_with_a_foreign_pack(folders, tmp_path, empty, capsys):
    path, out = tmp_path / "p.png", tmp_path / "o.png"
    write_png(path, with_picture(empty).flatten())
    words = ["rework", str(path), "--strength", "0.5", "--scene", "red", "--steps", "3", "--pack", str(folders["eps"]), "--with-input"]
    assert main([*words, "--out", str(out)]) == 0
    assert main(["repeat", str(out), "--pack", str(folders["eps"])]) == 0


def test_installed_packs_are_offered_and_a_sheet_remembers_its_own(app, packs, empty, folders, tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    home = packs_folder()
    home.mkdir(parents=True)
    (home / "one").symlink_to(folders["eps"])
    (home / "none").mkdir()
    assert [one.name for one in installed_packs()] == ["exact eps"]
    with opened(packs["eps"]) as w:
        w.show_settings()
        page = w.dialogs.shown[-1]
        page.packs.setCurrentIndex(page.packs.count() - 1)
        assert page.preferences.pack == str(home / "one")
        page.packs.setCurrentIndex(0)
        w.document.open(empty, w.opening.blank_draft())
        w.dialogs.path = tmp_path / "s.ora"
        key(w, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
        w.bench.saving.finish_saving()
    with opened(packs["odd"]) as w:
        w.dialogs.path = tmp_path / "s.ora"
        w.opening.open_any()
        w.bench.beside.finish()
        assert "made with the pack “exact eps”" in w.passes.status.text()
