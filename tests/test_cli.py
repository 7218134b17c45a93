"""The commands, as they are typed."""

from __future__ import annotations

import json
import threading
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from waldrand import cli
from waldrand.cli import main
from waldrand.demo import load_demo, output_names
from waldrand.files.layout import read_layout, write_layout
from waldrand.files.openraster import open_sheet
from waldrand.files.pictures import read_picture, read_recipe, write_png

LAYOUT = """format = 1
[scene]
words = "clear day, meadow"
[[element]]
name = "tent"
words = "red tent"
box = [0.1, 0.4, 0.6, 0.9]
[pass]
steps = 3
"""


@pytest.fixture
def layout(tmp_path) -> Path:
    path = tmp_path / "l.toml"
    path.write_text(LAYOUT)
    return path


@pytest.fixture
def picture(tmp_path) -> Path:
    yy, xx = np.mgrid[:300, :360]
    pixels = np.dstack([xx % 256, yy % 256, (xx * yy) % 256, np.full(xx.shape, 255)]).astype(np.uint8)
    write_png(tmp_path / "p.png", pixels)
    return tmp_path / "p.png"


@pytest.fixture
def mask(tmp_path) -> Path:
    a = np.zeros((300, 360), np.uint8)
    a[100:200, 120:240] = 255
    Image.fromarray(a).save(tmp_path / "m.png")
    return tmp_path / "m.png"


def json_of(capsys) -> dict:
    return json.loads(capsys.readouterr().out)


def test_run_writes_takes_that_repeat(layout, tmp_path, capsys):
    assert cli.main(["run", str(layout), "--takes", "2", "--seed", "5", "--out", str(tmp_path / "o"), "--json"]) == 0
    files = json_of(capsys)["files"]
    assert [Path(f).name for f in files] == ["take-5.png", "take-6.png"]
    assert read_picture(Path(files[0])).pixels.shape == (512, 512, 4)
    assert cli.main(["repeat", files[1]]) == 0
    assert "Identical" in capsys.readouterr().out


def test_repeat_finds_a_difference(layout, tmp_path, capsys):
    cli.main(["run", str(layout), "--out", str(tmp_path)])
    path = tmp_path / "take-0.png"
    pixels = read_picture(path).pixels.copy()
    pixels[7, 9, 0] ^= 1
    write_png(path, pixels, read_recipe(path))
    capsys.readouterr()
    assert cli.main(["repeat", str(path), "--json"]) == 1
    assert "1 pixels, by 1" in json_of(capsys)["says"]


def test_existing_files_are_not_overwritten_without_force(layout, tmp_path, capsys):
    (tmp_path / "take-0.png").write_bytes(b"mine")
    assert cli.main(["run", str(layout), "--out", str(tmp_path)]) == 2
    assert (tmp_path / "take-0.png").read_bytes() == b"mine"
    assert "--force" in capsys.readouterr().err
    assert cli.main(["run", str(layout), "--out", str(tmp_path), "--force"]) == 0
    assert read_picture(tmp_path / "take-0.png").pixels.shape[0] == 512


def test_inpaint_is_bit_exact_outside_and_repeats_with_its_input(picture, mask, tmp_path, capsys):
    args = ["inpaint", str(picture), "--mask", str(mask), "--words", "owl", "--scene", "meadow", "--strength", "1", "--steps", "2"]
    assert cli.main([*args, "--out", str(tmp_path / "o.png")]) == 0
    before, after = read_picture(picture).pixels, read_picture(tmp_path / "o.png").pixels
    outside = np.asarray(Image.open(mask)) == 0
    assert (before[outside] == after[outside]).all()
    assert (before[~outside] != after[~outside]).any()
    assert cli.main(["repeat", str(tmp_path / "o.png")]) == 2
    assert cli.main(["repeat", str(tmp_path / "o.png"), "--input", str(picture)]) == 0
    assert cli.main([*args, "--with-input", "--out", str(tmp_path / "w.png")]) == 0
    assert cli.main(["repeat", str(tmp_path / "w.png")]) == 0
    capsys.readouterr()


def test_rework_names_its_output_after_the_picture(picture, capsys):
    assert cli.main(["rework", str(picture), "--words", "sunset, lake", "--strength", "0.3", "--steps", "4", "--json"]) == 0
    out = json_of(capsys)
    assert out["file"] == str(picture.with_name("p-rework.png"))
    assert out["forecast"]["steps"] == 1
    assert out["greatest_change"] > 0


def test_forecast_names_unknown_words(tmp_path, capsys):
    path = tmp_path / "l.toml"
    path.write_text(LAYOUT.replace("red tent", "red tennt"))
    assert cli.main(["forecast", str(path)]) == 0
    out = capsys.readouterr().out
    assert "tennt" in out
    assert "tent" in out


def test_words_lists_the_world(capsys):
    assert cli.main(["words"]) == 0
    out = capsys.readouterr().out
    for word in ("cottage", "starry night", "sailing boat", "also: house"):
        assert word in out
    assert cli.main(["words", "--json"]) == 0
    assert "fox" in json_of(capsys)["groups"]["animals"]


def test_demo_runs_whole(tmp_path, capsys):
    out = tmp_path / "demo"
    assert cli.main(["demo", "--out", str(out)]) == 0
    assert sorted(p.name for p in out.iterdir()) == sorted(output_names(load_demo()))
    opened = open_sheet(out / "moth-night.ora")
    assert len(opened.sheet.layers) == 2
    assert len(opened.sheet.elements) == 5
    assert (opened.sheet.flatten() == read_picture(out / "moth-night.png").pixels).all()
    assert cli.main(["repeat", str(out / "moth-night.png")]) == 0
    assert cli.main(["demo", "--out", str(out)]) == 2
    capsys.readouterr()


@pytest.mark.parametrize(
    ("args", "says"),
    [
        (["run", "none.toml"], "no file"),
        (["run", "none.ora"], "no file"),
        (["frobnicate"], "invalid choice"),
        (["inpaint"], "required"),
        (["rework", "{p}", "--words", "x", "--strength", "1.5"], "0 to 1"),
        (["rework", "{p}", "--words", "x", "--strength", "much"], "invalid float"),
        (["rework", "none.png", "--words", "x", "--strength", "0.5"], "no file"),
        (["rework", "{p}", "--words", "x", "--strength", "0.5", "--out", "a.jpg"], "PNG"),
        (["inpaint", "{p}", "--mask", "{small}", "--words", "x", "--strength", "0.5"], "--scale-mask"),
        (["inpaint", "{p}", "--mask", "{black}", "--words", "x", "--strength", "0.5"], "mask is empty"),
        (["run", "{empty}"], "no words"),
        (["run", "{layout}", "--takes", "0"], "at least one"),
        (["run", "{layout}", "--seed", "-4"], "seed"),
        (["run", "{layout}", "--pack", "/nowhere"], "no pack"),
        (["run", "{outside}"], "wholly outside"),
        (["repeat", "{p}"], "no recipe"),
        (["forecast", "{p}"], "not a sheet"),
    ],
)
def test_bad_input_ends_with_a_sentence_and_2(args, says, picture, layout, tmp_path, capsys, monkeypatch):
    monkeypatch.chdir(tmp_path)
    Image.new("L", (20, 20), 255).save(tmp_path / "small.png")
    Image.new("L", (360, 300)).save(tmp_path / "black.png")
    (tmp_path / "empty.toml").write_text("format = 1\n")
    (tmp_path / "outside.toml").write_text(LAYOUT.replace("[0.1, 0.4, 0.6, 0.9]", "[1.1, 0.4, 1.6, 0.9]"))
    before = sorted(p.name for p in tmp_path.iterdir())
    names = {
        "p": picture,
        "layout": layout,
        "small": tmp_path / "small.png",
        "black": tmp_path / "black.png",
        "empty": tmp_path / "empty.toml",
        "outside": tmp_path / "outside.toml",
    }
    assert cli.main([a.format(**names) for a in args]) == 2
    err = capsys.readouterr().err
    assert says in err
    assert "Traceback" not in err
    assert sorted(p.name for p in tmp_path.iterdir()) == before


def test_without_a_display_the_window_is_refused_in_words(monkeypatch, capsys):
    for v in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"):
        monkeypatch.delenv(v, raising=False)
    assert cli.main([]) == 2
    assert "no display" in capsys.readouterr().err


def test_interrupt_stops_with_130_and_keeps_finished_takes(layout, tmp_path, monkeypatch, capsys):
    import signal

    def show(options):
        def progress(step):
            if step.take == 1:
                signal.raise_signal(signal.SIGINT)

        return progress

    monkeypatch.setattr("waldrand.commands.run.progress_of", show)
    assert threading.current_thread() is threading.main_thread()
    assert cli.main(["run", str(layout), "--takes", "3", "--out", str(tmp_path / "o")]) == 130
    # What was done before, or beside it, stays.
    assert {"take-0.png"} <= {p.name for p in (tmp_path / "o").iterdir()} <= {"take-0.png", "take-1.png"}
    assert "stopped" in capsys.readouterr().err


def layout_file(tmp_path: Path) -> Path:
    path = tmp_path / "l.toml"
    path.write_text(
        'format = 1\n[sheet]\nwidth = 256\nheight = 256\n[scene]\nwords = "clear day, meadow"\n'
        '[[element]]\nname = "tent"\nwords = "blue tent"\nbox = [0.1, 0.4, 0.5, 0.9]\n'
        '[[element]]\nname = "owl"\nwords = "owl"\nbox = [0.6, 0.4, 0.95, 0.9]\n[pass]\nsteps = 3\n'
    )
    return path


def test_divide_writes_a_layout_that_reads_back(tmp_path, capsys):
    out = tmp_path / "parts.toml"
    assert main(["divide", str(layout_file(tmp_path)), "--across", "1,1,2", "--down", "1,2", "--element", "tent", "--out", str(out)]) == 0
    assert len(read_layout(out).sheet.elements) == 7
    assert main(["divide", str(layout_file(tmp_path)), "--across", "1,x", "--out", str(tmp_path / "no.toml")]) == 2
    assert "“x” is not a share" in capsys.readouterr().err
    assert main(["divide", str(layout_file(tmp_path)), "--across", "1,1", "--out", str(out)]) == 2
    assert "exists already" in capsys.readouterr().err


def test_colour_maps_there_and_back(tmp_path, capsys):
    assert main(["to-colours", str(layout_file(tmp_path)), "--out", str(tmp_path / "map.png")]) == 0
    capsys.readouterr()
    assert main(["from-colours", str(tmp_path / "map.png"), "--out", str(tmp_path / "m.toml"), "--json"]) == 0
    assert len(json.loads(capsys.readouterr().out)["elements"]) == 2
    found = sorted(tuple(round(v) for v in e.outline.box) for e in read_layout(tmp_path / "m.toml").sheet.elements)
    assert np.abs(np.array(found) - [(26, 102, 128, 230), (154, 102, 243, 230)]).max() <= 1


def test_vary_ladder_and_reroll_to_files(tmp_path, capsys):
    layout, out = layout_file(tmp_path), tmp_path / "v"
    assert main(["vary", str(layout), "--over", "guidance=1,3", "--over", "blue=red,green", "--out", str(out)]) == 0
    assert len(list(out.glob("*.png"))) == 5
    assert main(["run", str(layout), "--out", str(tmp_path), "--method", "blend"]) == 0
    take = tmp_path / "take-0.png"
    assert main(["ladder", str(take), "--strengths", ".3,.6", "--steps", "4", "--out", str(tmp_path / "l")]) == 0
    assert len(list((tmp_path / "l").glob("*.png"))) == 3
    capsys.readouterr()
    assert main(["reroll", str(take), "--element", "2", "--out", str(tmp_path / "again.png"), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["element"] == "owl"
    assert main(["repeat", str(tmp_path / "again.png")]) == 0
    assert main(["reroll", str(take), "--element", "2", "--nearer", "--seed", "3", "--out", str(tmp_path / "near.png")]) == 0
    assert "from nearer with seed 3" in capsys.readouterr().out
    assert main(["repeat", str(tmp_path / "near.png")]) == 0
    assert main(["reroll", str(take), "--element", "9", "--out", str(tmp_path / "no.png")]) == 2


def test_forecast_says_seconds_and_memory(tmp_path, capsys):
    assert main(["forecast", str(layout_file(tmp_path)), "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert said["seconds"] > 0
    assert said["memory"] > 0


def test_layouts_know_every_setting_of_an_element(tmp_path):
    path = layout_file(tmp_path)
    text = path.read_text().replace('words = "owl"', 'words = "owl"\nemphasis = [[0, 3, 1.4]]\nvisible = false\nlocked = true')
    text += '[[element]]\nwords = "moon"\npoints = [[0.1, 0.1], [0.3, 0.1], [0.2, 0.3]]\n'
    path.write_text(text.replace("[pass]\nsteps = 3\n", "") + "[pass]\nsteps = 3\nspacing = 1.5\ndetail = 1.2\n")
    layout = read_layout(path)
    owl = layout.sheet.elements[1]
    assert (owl.emphasis, owl.visible, owl.locked) == (((0, 3, 1.4),), False, True)
    assert layout.sheet.elements[2].outline.shape == "freehand"
    assert (layout.settings.spacing, layout.settings.detail) == (1.5, 1.2)
    write_layout(tmp_path / "copy.toml", layout.sheet, layout.settings)
    again = read_layout(tmp_path / "copy.toml")
    assert again.settings == layout.settings
    for a, b in zip(layout.sheet.elements, again.sheet.elements, strict=True):
        assert (a.name, a.words, a.emphasis, a.visible, a.locked) == (b.name, b.words, b.emphasis, b.visible, b.locked)
        assert np.array(a.outline.box) == pytest.approx(np.array(b.outline.box), abs=1e-3)


def test_finding_scoring_and_describing_by_command(tmp_path, capsys, monkeypatch, closed):
    monkeypatch.setattr("waldrand.commands.options.open_pack", lambda folder=None: closed)
    pixels = np.full((256, 256, 4), 242, np.uint8)
    pixels[64:128, 64:128] = (204, 38, 38, 255)
    pixels[..., 3] = 255
    write_png(tmp_path / "p.png", pixels)
    assert main(["find", str(tmp_path / "p.png"), "--words", "red", "--out", str(tmp_path / "m.png"), "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert said["box"] == [64, 64, 128, 128]
    assert read_picture(tmp_path / "m.png").pixels[90, 90, 0] == 255
    assert main(["describe", str(tmp_path / "p.png"), "--json"]) == 0
    assert [t["words"] for t in json.loads(capsys.readouterr().out)["things"]] == ["red"]
    assert main(["describe", str(tmp_path / "p.png"), "--out", str(tmp_path / "seen.toml")]) == 0
    capsys.readouterr()
    seen = read_layout(tmp_path / "seen.toml").sheet
    assert [(e.words, e.outline.box) for e in seen.elements] == [("red", (64, 64, 128, 128))]
    assert (seen.width, seen.height, seen.scene.words) == (256, 256, "bright, white")
    assert main(["describe", str(tmp_path / "p.png"), "--out", str(tmp_path / "seen.toml")]) == 2
    assert "seen.toml" in capsys.readouterr().err
    layout = tmp_path / "l.toml"
    layout.write_text(
        'format = 1\n[sheet]\nwidth = 256\nheight = 256\n[[element]]\nname = "roof"\nwords = "red"\nbox = [0.2, 0.2, 0.6, 0.6]\n'
        '[[element]]\nname = "lake"\nwords = "blue"\nbox = [0.6, 0.6, 0.9, 0.9]\n'
    )
    assert main(["score", str(tmp_path / "p.png"), "--layout", str(layout)]) == 0
    out = capsys.readouterr().out
    assert "roof 100" in out
    assert "“lake” was not found" in out
    assert main(["find", str(tmp_path / "p.png"), "--words", "castle"]) == 2


@pytest.mark.parametrize(
    ("command", "says"),
    [
        ("divide nofile.toml --across 1,1 --out x.toml", "There is no file"),
        ("divide l.toml --across 1,,2 --out x.toml", "A share is missing here"),
        ("divide l.toml --across 1,1 --element castle --out x.toml", "There are: 1 (tent), 2 (owl)"),
        ("divide l.toml --across 1,1000 --element tent --out x.toml", "too small"),
        ("from-colours plain.png --tolerance 900 --out x.toml", "goes from 1 to 200"),
        ("from-colours shaded.png --out x.toml", "shaded, not flat"),
        ("to-colours l.toml --out plain.png", "exists already"),
        ("ladder plain.png --strengths a,b --out v", "write numbers from 0 to 1"),
        ("ladder plain.png --strengths 0.5 --out v", "at least two strengths"),
        ("ladder plain.png --strengths 0.5,7 --out v", "outside"),
        ("ladder l.toml --out v", "no picture on the sheet"),
        ("vary l.toml --over banana=apple --out v", "neither a setting"),
        ("vary l.toml --over guidance=1 --over steps=2 --over seed=1 --out v", "one or two things"),
        ("vary l.toml --over guidance --out v", "does not say what to change"),
        ("reroll plain.png --element 1 --out x.png", "holds no recipe"),
        ("run l.toml --method mixed --out v", "invalid choice"),
        ("score plain.png --layout l.toml", "pixels"),
    ],
)
def test_bad_input_is_said_and_nothing_is_written(tmp_path, capsys, monkeypatch, command, says):
    monkeypatch.chdir(tmp_path)
    layout_file(tmp_path)
    yy, xx = np.mgrid[:128, :128]
    write_png(tmp_path / "shaded.png", np.stack([2 * xx, 2 * yy, 255 - 2 * xx], -1).astype(np.uint8))
    write_png(tmp_path / "plain.png", np.full((128, 128, 3), 200, np.uint8))
    before = sorted(p.name for p in tmp_path.rglob("*"))
    assert main(command.split()) == 2
    assert says in capsys.readouterr().err
    assert sorted(p.name for p in tmp_path.rglob("*") if p.name != "v") == before
