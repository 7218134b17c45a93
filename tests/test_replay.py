"""Passes of one sheet done to another picture, and what a layout puts beside elements."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from waldrand.cli import main
from waldrand.core.passes.plan import plan
from waldrand.core.passes.replay import chain, replayed
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.values.area import Area
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.lettering import Lettering
from waldrand.core.values.masks import Mask
from waldrand.core.values.resize import framed
from waldrand.core.values.sheet import Sheet
from waldrand.files.layout import read_layout
from waldrand.files.openraster import open_sheet, save_sheet
from waldrand.files.pictures import read_picture, write_png


def done_with(sheet: Sheet, pack, kind: str, words: str, strength: float, seed: int) -> Sheet:
    request = Request(kind, PassSettings(steps=4, guidance=1.0, seed=seed, strength=strength), words)
    return run_take(plan(sheet, request, pack), pack, seed).laid_on(sheet, words or kind)


@pytest.fixture
def day(painted, round_mask, closed) -> Sheet:
    """A picture inpainted, reworked, and extended to the right."""
    sheet = replace(painted, mask=round_mask)
    sheet = done_with(sheet, closed, "inpaint", "red", 0.9, 3)
    layer = sheet.layers[-1]
    sheet = replace(sheet.with_layer(layer.changed(opacity=0.7, feather=6.0)), mask=None)
    sheet = done_with(sheet, closed, "rework", "", 0.3, 4)
    return done_with(framed(sheet, Rect(0, 0, 320, 256)), closed, "extend", "", 0.9, 5)


def test_all_of_it_is_done_to_a_picture_of_the_same_size_as_it_was(day, painted, closed):
    *_, done = replayed(day, painted, closed)
    assert (done.width, done.height) == (320, 256)
    assert (done.flatten() == day.flatten()).all()


def test_another_picture_gets_the_same_at_its_own_size(day, closed):
    grey = np.full((512, 512, 4), 255, np.uint8)
    grey[..., :3] = 120
    other = Sheet(512, 512, (PictureLayer(1, "other", grey),))
    *_, done = replayed(day, other, closed)
    assert (done.width, done.height) == (640, 512)
    first = done.layers[1]
    assert first.edge["opacity"] == pytest.approx(0.7)
    assert first.edge["feather"] == pytest.approx(12, abs=1)
    seen = done.layers[1].seen
    assert (seen.x0 + seen.x1) / 2 == pytest.approx(240, abs=24)


def test_steps_are_left_out_by_number(day, painted, closed):
    assert [s.number for s in chain(day)] == [1, 2, 3]
    *_, done = replayed(day, painted, closed, without=(1, 3))
    assert (done.width, len(done.layers)) == (256, 2)


def test_the_command(day, painted, tmp_path, capsys, monkeypatch):
    monkeypatch.chdir(tmp_path)
    own = done_with(painted, None or _own(), "rework", "", 0.4, 2)
    save_sheet(tmp_path / "s.ora", own)
    write_png(tmp_path / "p.png", painted.flatten())
    assert main(["replay", "s.ora", "--list"]) == 0
    assert "1. Rework" in capsys.readouterr().out
    assert main(["replay", "s.ora", "--on", "p.png", "--out", "o.png"]) == 0
    assert main(["repeat", "o.png"]) == 0
    assert main(["replay", "s.ora", "--on", "p.png", "--out", "o.ora"]) == 0
    assert len(open_sheet(tmp_path / "o.ora").sheet.layers) == 2
    capsys.readouterr()
    for more, says in (([], "Say which picture"), (["--on", "p.png", "--without", "two"], "numbers apart by commas")):
        assert main(["replay", "s.ora", *more]) == 2
        assert says in capsys.readouterr().err


def _own():
    from waldrand.packs.onnx_pack import OnnxPack

    return OnnxPack()


# --- layouts

LAYOUT = """format = 1
[sheet]
width = 200
height = 160
[[layer]]
picture = "card.png"
at = [0.25, 0.5]
scale = 0.5
turn = 90
opacity = 0.6
blend = "multiply"
use = "feeds"
[[hold]]
name = "corner"
box = [0.0, 0.0, 0.25, 0.25]
[[hold]]
box = [0.5, 0.5, 1.0, 1.0]
shape = "ellipse"
hold = false
[[lettering]]
words = "Moth Night"
size = 20
colour = "#aa2211"
at = [0.5, 0.2]
[frame]
box = [0.0, 0.0, 0.5, 1.0]
"""


def test_layers_holds_letters_and_a_frame(tmp_path):
    card = np.full((40, 20, 4), 255, np.uint8)
    write_png(tmp_path / "card.png", card)
    (tmp_path / "l.toml").write_text(LAYOUT)
    layout = read_layout(tmp_path / "l.toml")
    picture, letters = layout.sheet.layers
    assert (picture.blend, picture.role, picture.opacity) == ("multiply", "feeds", 0.6)
    b = picture.bounds
    assert ((b.x0 + b.x1) / 2, (b.y0 + b.y1) / 2) == pytest.approx((50, 80), abs=1)
    assert (b.width, b.height) == pytest.approx((20, 10), abs=1)
    assert isinstance(letters, Lettering)
    assert letters.says.words == "Moth Night"
    assert [(a.name, a.hold) for a in layout.sheet.areas] == [("corner", True), ("hold 2", False)]
    assert layout.sheet.areas[0].mask.read()[20, 20] == 255
    assert layout.sheet.areas[0].mask.read()[60, 60] == 0
    assert layout.own_frame == (0, 0, 100, 160)


@pytest.mark.parametrize(
    ("before", "after", "says"),
    [
        ("at = [0.25, 0.5]", "at = [0.25]", "has to be two numbers"),
        ("scale = 0.5", "scale = 0", "goes from 0.001 to 1000"),
        ('blend = "multiply"', 'blend = "dodge"', "no way of blending"),
        ("opacity = 0.6", "opacity = 2", "Opacity goes from 0 to 1"),
        ("hold = false", "hold = 1", "is true or false"),
        ("size = 20", "size = 0", "ize"),
        ("#aa2211", "beige-ish", "colour"),
        ("[frame]\nbox = [0.0, 0.0, 0.5, 1.0]", "[frame]\nbox = [0.5, 0.0, 0.5, 1.0]", "needs box"),
        ("[[hold]]\nname", "[[hold]]\ncolour = 1\nname", "colour"),
        ('picture = "card.png"', 'picture = "none.png"', "There is no file"),
        ("[[layer]]", "[layer]", "written as"),
    ],
)
def test_what_is_wrong_in_a_layout_is_told(tmp_path, before, after, says):
    write_png(tmp_path / "card.png", np.full((40, 20, 4), 255, np.uint8))
    assert before in LAYOUT
    (tmp_path / "l.toml").write_text(LAYOUT.replace(before, after, 1))
    with pytest.raises(ValueError, match=says):
        read_layout(tmp_path / "l.toml")


def test_a_run_keeps_its_layouts_holds_and_frame(tmp_path):
    pixels = np.random.default_rng(1).integers(0, 255, (128, 128, 4), dtype=np.uint8)
    pixels[..., 3] = 255
    write_png(tmp_path / "start.png", pixels)
    (tmp_path / "l.toml").write_text(
        'format = 1\n[sheet]\nstart = "start.png"\n[scene]\nwords = "meadow"\n[[hold]]\nbox = [0, 0, 0.5, 0.5]\n'
        "[frame]\nbox = [0, 0, 1, 0.75]\n[pass]\nstrength = 0.6\nsteps = 2\n"
    )
    assert main(["run", str(tmp_path / "l.toml"), "--out", str(tmp_path / "takes")]) == 0
    (file,) = (tmp_path / "takes").glob("*.png")
    made = read_picture(file).pixels
    assert (made[:64, :64] == pixels[:64, :64]).all()
    assert (made[96:] == pixels[96:]).all()
    assert (made[70:90] != pixels[70:90]).any()


def test_a_hold_grown_or_not_is_what_is_seen(painted):
    grey = np.zeros((256, 256), np.uint8)
    grey[50:100, 60:120] = 200
    area = Area(3, "h", Mask.from_array(grey), hold=True)
    seen = replace(painted, areas=(area,)).as_passes_see_it()
    (held,) = [e for e in seen.elements if e.hold]
    assert held.outline.box == (60, 50, 120, 100)
