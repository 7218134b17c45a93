"""Pictures given away in other formats, sizes and names, with what is said of them inside."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from PIL import Image

from waldrand.cli import main
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run
from waldrand.core.passes.settings import PassSettings
from waldrand.core.refused import Refused
from waldrand.core.values.area import Area
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.masks import Mask
from waldrand.files.exporting import ENDINGS, About, export_picture, named
from waldrand.files.opened import SavedTake
from waldrand.files.openraster import save_sheet
from waldrand.files.pictures import read_grey, read_picture

ABOUT = About("Moth Night", "Nell Quarrender", "© 2026 <Nell> & co", "An owl, at night.")


@pytest.mark.parametrize("form", list(ENDINGS))
def test_every_format_holds_the_picture_and_what_is_said_of_it(tmp_path, painted, form):
    path = tmp_path / f"a{ENDINGS[form]}"
    export_picture(path, painted.flatten(), form, None, ABOUT)
    made = read_picture(path).pixels
    assert made.shape == (256, 256, 4)
    assert np.abs(made[..., :3].astype(int) - painted.flatten()[..., :3]).mean() < (6 if form in ("jpeg", "webp") else 0.01)
    with Image.open(path) as image:
        image.load()
        packet = image.tag_v2[700] if form == "tiff" else image.info["xmp"]
        said = packet.decode() if isinstance(packet, bytes) else packet
    for text in ("Moth Night", "Nell Quarrender", "An owl, at night."):
        assert text in said


@pytest.mark.parametrize("form", list(ENDINGS))
def test_transparency_is_kept_where_a_format_has_it_and_white_elsewhere(tmp_path, form):
    pixels = np.full((40, 40, 4), (20, 120, 60, 255), np.uint8)
    pixels[:20, :, 3] = 0
    path = tmp_path / f"a{ENDINGS[form]}"
    export_picture(path, pixels, form)
    made = read_picture(path).pixels
    if form == "jpeg":
        assert made[2, 2, :3].min() > 245
    else:
        assert made[2, 2, 3] == 0
    assert made[36, 20, 3] == 255


def test_a_size_is_met_and_a_wrong_one_refused(tmp_path, painted):
    export_picture(tmp_path / "a.png", painted.flatten(), "png", (100, 64))
    assert read_picture(tmp_path / "a.png").pixels.shape == (64, 100, 4)
    for size in ((0, 10), (10**6, 10)):
        with pytest.raises(Refused):
            export_picture(tmp_path / "b.png", painted.flatten(), "png", size)
    with pytest.raises(Refused, match="no format called"):
        export_picture(tmp_path / "b.png", painted.flatten(), "bmp")
    with pytest.raises(Refused, match="could not be written"):
        export_picture(tmp_path / "none" / "b.png", painted.flatten(), "png")
    assert not (tmp_path / "b.png").exists()


def test_names_follow_a_pattern():
    things = [{"sheet": "moth", "kind": "compose", "seed": s, "n": i + 1} for i, s in enumerate((7, 8))]
    assert named("{sheet}-{kind}-{seed}-{n}", ".jpg", things) == ["moth-compose-7-1.jpg", "moth-compose-8-2.jpg"]
    for pattern, says in (
        ("{sheet}", "Two files would be called “moth.jpg”"),
        ("{colour}", "not “colour”"),
        ("{n", "no pattern"),
        ("a/b", "no name"),
        ("", "no name"),
        ("..", "no name"),
    ):
        with pytest.raises(Refused, match=says):
            named(pattern, ".jpg", things)


@pytest.fixture
def saved(tmp_path, painted, round_mask, closed):
    sheet = replace(painted, mask=round_mask).with_layer(PictureLayer(5, "card", np.full((20, 30, 4), 255, np.uint8), 200, 10))
    request = Request("rework", PassSettings(steps=2, guidance=1.0, strength=0.5, seed=7))
    takes = [SavedTake(t) for t in run(plan(painted, request, closed), closed, 2)]
    save_sheet(tmp_path / "moth.ora", sheet, takes=takes)
    return tmp_path, sheet


def test_the_command_exports_picture_layers_takes_and_mask(saved, capsys):
    at, sheet = saved
    do = ["export", str(at / "moth.ora"), "--out", str(at / "out")]
    assert main(do) == 0
    assert (read_picture(at / "out" / "moth.png").pixels == sheet.flatten()).all()
    assert main([*do, "--to", "webp", "--layers", "--names", "{sheet}-{kind}"]) == 0
    card = read_picture(at / "out" / "moth-card.webp").pixels
    assert card[15, 210, 3] == 255
    assert card[100, 100, 3] == 0
    assert main([*do, "--to", "jpeg", "--takes", "--names", "{kind}-{seed}", "--size", "64x64", "--author", "Nell"]) == 0
    assert {p.name for p in (at / "out").iterdir()} >= {"rework-7.jpg", "rework-8.jpg"}
    assert main([*do, "--to", "tiff", "--mask", "--names", "m"]) == 0
    assert (read_picture(at / "out" / "m.tif").pixels[..., 0] == sheet.mask.read()).all()
    capsys.readouterr()
    for more, says in (
        ([], "exists already"),
        (["--layers", "--takes"], "Choose one"),
        (["--layers", "--names", "x"], "Two files"),
        (["--size", "big"], "width and height"),
    ):
        assert main([*do, *more]) == 2
        assert says in capsys.readouterr().err


def test_other_formats_are_exported_from_the_window(kept, tmp_path):
    for name in ("a.jpg", "b.tif", "c.webp"):
        kept.dialogs.path = tmp_path / name
        kept.saving.export_other()
        assert f"Exported {name}" in kept.passes.status.text()
        assert read_picture(tmp_path / name).pixels.shape == (256, 256, 4)


def test_kept_masks_are_given_away_by_their_names(tmp_path, painted, round_mask):
    grey = np.zeros((256, 256), np.uint8)
    grey[40:80, 50:90] = 255
    save_sheet(tmp_path / "s.ora", replace(painted, mask=round_mask, areas=(Area(9, "tent", Mask.from_array(grey), hold=True),)))
    assert main(["export", str(tmp_path / "s.ora"), "--mask", "--names", "{kind}", "--out", str(tmp_path / "out")]) == 0
    assert sorted(p.name for p in (tmp_path / "out").iterdir()) == ["mask.png", "tent.png"]
    assert (read_grey(tmp_path / "out" / "tent.png") == grey).all()
