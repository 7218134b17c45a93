"""Files: whole or not at all, valid for others, and read as if they were hostile."""

from __future__ import annotations

import io
import json
import zipfile
from dataclasses import replace
from pathlib import Path
from xml.etree import ElementTree as ET

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline, freehand
from waldrand.core.values.sheet import Sheet
from waldrand.files.atomic import write_atomically
from waldrand.files.contact import contact_sheet
from waldrand.files.layout import read_layout
from waldrand.files.openraster import open_sheet, save_sheet
from waldrand.files.pictures import read_grey, read_picture, read_recipe, read_start, write_png


@pytest.fixture
def full(painted, round_mask, closed) -> Sheet:
    """A sheet with everything on it."""
    elements = (
        Element(11, "lake", Outline("box", (1.5, 2, 90, 80)), "blue", "red", 1.5, 0.4, 6.0, 12),
        Element(12, "hand", freehand([(10, 10), (90, 20), (40, 120)]), "green", hold=True),
        Element(13, "cut", Outline("mask", (5, 5, 60, 60), mask=np.arange(255, dtype=np.uint8).reshape(15, 17)), "red"),
        Element(14, "disc", Outline("ellipse", (100, 100, 300, 220)), "ünïcode “words”"),
    )
    sheet = replace(painted, elements=elements, scene=SceneWords("green", "red", "white", "black", 0.8), mask=round_mask)
    take = run_take(plan(sheet, Request("inpaint", PassSettings(steps=3), "red"), closed), closed, 0)
    return sheet.with_layer(replace(take.to_patch(20, "red"), grow=-3.0, feather=5.5, visible=True))


def test_a_sheet_comes_back_whole(full, tmp_path):
    path = tmp_path / "a.ora"
    save_sheet(path, full, {"pass": {"steps": 9}})
    back = open_sheet(path)
    s = back.sheet
    assert (s.flatten() == full.flatten()).all()
    assert (s.mask.read() == full.mask.read()).all()
    assert s.scene == full.scene
    assert back.settings == {"pass": {"steps": 9}}
    assert back.notes == ()
    for a, b in zip(full.elements, s.elements, strict=True):
        assert (a.key, a.name, a.words, a.avoid, a.weight, a.strength, a.feather, a.seed, a.hold) == (
            b.key,
            b.name,
            b.words,
            b.avoid,
            b.weight,
            b.strength,
            b.feather,
            b.seed,
            b.hold,
        )
        assert (a.outline.shape, a.outline.box, a.outline.points) == (b.outline.shape, b.outline.box, b.outline.points)
        assert a.outline.mask is None or (a.outline.mask == b.outline.mask).all()
    patch, again = full.layers[-1], s.layers[-1]
    assert (patch.pixels == again.pixels).all()
    assert (patch.grow, patch.feather, patch.recipe) == (again.grow, again.feather, again.recipe)


def test_the_file_is_valid_openraster(full, tmp_path):
    path = tmp_path / "a.ora"
    save_sheet(path, full)
    raw = path.read_bytes()
    assert raw[30:38] == b"mimetype"
    assert raw[38:54] == b"image/openraster"
    with zipfile.ZipFile(path) as z:
        assert z.testzip() is None
        assert z.getinfo("mimetype").compress_type == zipfile.ZIP_STORED
        stack = ET.fromstring(z.read("stack.xml"))
        assert (stack.tag, stack.get("w"), stack.get("h")) == ("image", "256", "256")
        layers = stack.findall("stack/layer")
        assert [x.get("name") for x in layers] == ["red", "ground"]
        for x in layers:
            assert Image.open(io.BytesIO(z.read(x.get("src")))).mode == "RGBA"
        merged = np.asarray(Image.open(io.BytesIO(z.read("mergedimage.png"))))
        assert (merged == full.flatten()).all()
        assert max(Image.open(io.BytesIO(z.read("Thumbnails/thumbnail.png"))).size) <= 256


def rewrite(path: Path, drop=(), change=None) -> None:
    with zipfile.ZipFile(path) as z:
        parts = {n: z.read(n) for n in z.namelist() if n not in drop}
    parts |= change or {}
    with zipfile.ZipFile(path, "w") as z:
        for n, data in parts.items():
            z.writestr(n, data)


def test_saved_by_another_program_it_opens_as_plain_layers_and_says_so(full, tmp_path):
    path = tmp_path / "a.ora"
    save_sheet(path, full)
    rewrite(path, drop=("waldrand/sheet.json", "waldrand/mask.png"))
    back = open_sheet(path)
    assert "plain layers" in back.notes[0]
    assert back.sheet.elements == ()
    assert (back.sheet.flatten() == full.flatten()).all()


def test_layers_changed_elsewhere_win_over_our_part(full, tmp_path):
    path = tmp_path / "a.ora"
    save_sheet(path, full)
    out = io.BytesIO()
    Image.new("RGBA", (256, 256), (9, 9, 9, 255)).save(out, "PNG")
    rewrite(path, change={"data/layer-001.png": out.getvalue()})
    back = open_sheet(path)
    assert "changed in another program" in back.notes[0]
    assert (back.sheet.layers[0].pixels[..., 0] == 9).all()
    assert len(back.sheet.layers) == 2


def test_groups_opacity_and_hidden_layers_of_other_programs(tmp_path):
    path, out = tmp_path / "o.ora", io.BytesIO()
    Image.new("RGBA", (10, 10), (200, 0, 0, 255)).save(out, "PNG")
    xml = (
        '<image w="32" h="32"><stack><stack x="4" y="0"><layer name="in" src="data/a.png" x="1" y="2" opacity="0.5"/></stack>'
        '<layer name="off" src="data/a.png" visibility="hidden" composite-op="svg:multiply"/></stack></image>'
    )
    with zipfile.ZipFile(path, "w") as z:
        for n, d in (("mimetype", b"image/openraster"), ("stack.xml", xml), ("data/a.png", out.getvalue())):
            z.writestr(n, d)
    back = open_sheet(path)
    assert back.sheet.flatten()[5, 8].tolist() == [200, 0, 0, 128]
    assert back.sheet.flatten()[0, 0, 3] == 0
    assert [(x.visible, x.blend) for x in back.sheet.layers] == [(False, "multiply"), (True, "normal")]
    assert not any("blend" in n for n in back.notes)


@given(cut=st.floats(0, 1), flip=st.integers(0, 10**6))
@settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_mangled_sheets_are_told_not_crashed_on(full, tmp_path, cut, flip):
    path = tmp_path / "m.ora"
    save_sheet(path, full)
    raw = bytearray(path.read_bytes())
    raw[flip % len(raw)] ^= 0x5A
    path.write_bytes(raw[: int(len(raw) * cut)])
    told = ""
    try:
        assert open_sheet(path).sheet.width > 0
    except ValueError as error:
        told = str(error)
    assert not told or str(path) in told


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"mimetype": b"text/plain"}, "not an OpenRaster"),
        ({"waldrand/sheet.json": b"{"}, "own part"),
        ({"waldrand/sheet.json": b'{"format": 99}'}, "newer"),
        ({"waldrand/sheet.json": b'{"format": 1, "layers": []}'}, "own part"),
    ],
)
def test_damaged_parts_are_named(full, tmp_path, change, says):
    path = tmp_path / "a.ora"
    save_sheet(path, full)
    rewrite(path, change=change)
    with pytest.raises(ValueError, match=says):
        open_sheet(path)


def test_entity_bombs_are_refused(tmp_path):
    path = tmp_path / "b.ora"
    with zipfile.ZipFile(path, "w") as z:
        z.writestr("mimetype", "image/openraster")
        z.writestr("stack.xml", '<!DOCTYPE x [<!ENTITY a "aaaa">]><image w="32" h="32"><stack/></image>')
    with pytest.raises(ValueError, match="declarations"):
        open_sheet(path)


def test_a_failed_write_leaves_the_old_file(tmp_path):
    path = tmp_path / "a.bin"
    path.write_bytes(b"old")

    def full_disk(f):
        f.write(b"new")
        raise OSError(28, "No space left on device")

    with pytest.raises(ValueError, match="No space left"):
        write_atomically(path, full_disk)
    assert path.read_bytes() == b"old"
    assert list(tmp_path.iterdir()) == [path]


def test_writing_where_there_is_no_folder_is_told(painted, tmp_path):
    with pytest.raises(ValueError, match="could not be written"):
        save_sheet(tmp_path / "none" / "a.ora", painted)


# --- pictures


def test_png_keeps_bytes_recipe_and_start(painted, tmp_path):
    path = tmp_path / "p.png"
    recipe = picture_recipe(painted) | {"words": "füchse"}
    write_png(path, painted.flatten(), recipe, painted.flatten()[:20, :30])
    assert (read_picture(path).pixels == painted.flatten()).all()
    assert read_recipe(path) == json.loads(json.dumps(recipe))
    assert (read_start(path) == painted.flatten()[:20, :30]).all()


def test_exif_turn_is_applied_and_alpha_kept(tmp_path):
    image = Image.new("RGB", (40, 20), (255, 0, 0))
    exif = image.getexif()
    exif[0x0112] = 6
    image.save(tmp_path / "t.jpg", exif=exif)
    assert read_picture(tmp_path / "t.jpg").pixels.shape == (40, 20, 4)
    Image.new("RGBA", (20, 20), (1, 2, 3, 0)).save(tmp_path / "a.png")
    assert (read_picture(tmp_path / "a.png").pixels == (1, 2, 3, 0)).all()


def test_sixteen_bits_are_converted_saying_so(tmp_path):
    Image.fromarray(np.full((20, 20), 0x8000, np.uint16)).save(tmp_path / "g.png")
    picture = read_picture(tmp_path / "g.png")
    assert "16 bits" in picture.notes[0]
    assert (picture.pixels[..., 0] == 128).all()


def test_masks_come_from_grey_or_from_alpha(tmp_path):
    a = np.zeros((20, 20), np.uint8)
    a[5:] = 200
    Image.fromarray(a).save(tmp_path / "g.png")
    Image.fromarray(np.dstack([a * 0, a * 0, a * 0, a])).save(tmp_path / "a.png")
    assert (read_grey(tmp_path / "g.png") == a).all()
    assert (read_grey(tmp_path / "a.png") == a).all()


@pytest.mark.parametrize(
    ("make", "says"),
    [
        (lambda p: None, "no file"),
        (lambda p: p.mkdir(), "folder"),
        (lambda p: p.write_bytes(b""), "not a picture"),
        (lambda p: p.write_bytes(b"\x89PNG\r\n\x1a\n" + b"x" * 50), "damaged"),
        (lambda p: Image.new("L", (20000, 8)).save(p), "too many"),
    ],
)
def test_bad_pictures_are_told(tmp_path, make, says):
    path = tmp_path / "bad.png"
    make(path)
    with pytest.raises(ValueError, match=says):
        read_picture(path)


@given(st.floats(0.05, 0.95))
@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_truncated_pictures_are_told(painted, tmp_path, share):
    path = tmp_path / "cut.png"
    write_png(path, painted.flatten())
    raw = path.read_bytes()
    path.write_bytes(raw[: int(len(raw) * share)])
    with pytest.raises(ValueError, match="damaged"):
        read_picture(path)


def test_a_damaged_recipe_is_told(tmp_path):
    from PIL import PngImagePlugin

    info = PngImagePlugin.PngInfo()
    info.add_itxt("waldrand-recipe", "{")
    Image.new("RGB", (20, 20)).save(tmp_path / "r.png", pnginfo=info)
    with pytest.raises(ValueError, match="recipe"):
        read_recipe(tmp_path / "r.png")


def test_contact_sheet_shows_all():
    pictures = [(np.full((30, 40, 3), v, np.uint8), f"seed {v}") for v in (10, 90, 200)]
    page = contact_sheet(pictures, 2)
    assert all((page == v).all(-1).sum() >= 1200 for v in (10, 90, 200))
    with pytest.raises(ValueError, match="at least one"):
        contact_sheet([], 2)


# --- layouts

LAYOUT = """format = 1
[sheet]
width = 300
height = 200
[scene]
words = "starry night, meadow"
avoid = "fog"
house = "calm"
weight = 0.9
[[element]]
name = "fox"
words = "red fox"
box = [0.5, 0.5, 1.0, 1.0]
depth = 3
weight = 1.5
feather = 4
seed = 7
strength = 0.4
[[element]]
words = "moon"
box = [0, 0, 0.5, 0.5]
shape = "ellipse"
depth = 1
hold = true
[pass]
steps = 12
guidance = 1.5
method = "text"
sampler = "first"
strength = 0.8
seed = 9
"""


def layout(tmp_path: Path, text: str):
    path = tmp_path / "l.toml"
    path.write_text(text)
    return read_layout(path)


def test_layout_says_everything(tmp_path):
    got = layout(tmp_path, LAYOUT)
    moon, fox = got.sheet.elements
    assert (moon.words, moon.outline.shape, moon.outline.box, moon.hold) == ("moon", "ellipse", (0, 0, 150, 100), True)
    assert (fox.name, fox.weight, fox.feather, fox.seed, fox.strength, fox.outline.box) == ("fox", 1.5, 4, 7, 0.4, (150, 100, 300, 200))
    assert got.sheet.scene == SceneWords("starry night, meadow", "fog", "calm", "", 0.9)
    assert got.settings == PassSettings(12, 1.5, "text", "first", 0.8, 9)


def test_layout_takes_start_picture_and_masks_from_its_folder(tmp_path, painted):
    write_png(tmp_path / "start.png", painted.flatten())
    grey = np.zeros((256, 256), np.uint8)
    grey[100:150, 60:90] = 255
    write_png(tmp_path / "m.png", grey)
    got = layout(tmp_path, 'format = 1\n[sheet]\nstart = "start.png"\n[[element]]\nwords = "red"\nmask = "m.png"\n')
    assert isinstance(got.sheet.layers[0], PictureLayer)
    assert got.sheet.elements[0].outline.box == (60, 100, 90, 150)


def test_masks_of_another_size_are_refused_or_scaled(tmp_path):
    write_png(tmp_path / "m.png", np.full((50, 50), 255, np.uint8))
    text = 'format = 1\n[[element]]\nwords = "red"\nmask = "m.png"\n'
    with pytest.raises(ValueError, match="50 x 50"):
        layout(tmp_path, text)
    assert read_layout(tmp_path / "l.toml", scale_masks=True).sheet.elements[0].outline.box == (0, 0, 512, 512)


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (("format = 1", ""), "format = 1"),
        (("format = 1", "format = 2"), "format = 1"),
        (("width = 300", "widht = 300"), "widht"),
        (('name = "fox"', 'colour = "fox"'), "colour"),
        (("steps = 12", "step = 12"), "step"),
        (("steps = 12", "steps = 1.5"), "whole number"),
        (("box = [0, 0, 0.5, 0.5]", "box = [0, 0, 0.5]"), "four numbers"),
        (("box = [0, 0, 0.5, 0.5]", "box = [0.5, 0, 0.5, 0.5]"), "width and a height"),
        (('shape = "ellipse"', 'shape = "star"'), "star"),
        (("strength = 0.4", "strength = 1.4"), "0 to 1"),
        (('words = "moon"', "words = 3"), "words in quotes"),
        (("width = 300", "width = 300000"), "too many"),
        (("hold = true", "hold = 1"), "true or false"),
        (("[scene]", "[scene"), "not a layout"),
        (("box = [0, 0, 0.5, 0.5]", 'mask = "none.png"'), r"no shape|no file"),
    ],
)
def test_layout_mistakes_are_told_by_name(tmp_path, change, says):
    with pytest.raises(ValueError, match=says):
        layout(tmp_path, LAYOUT.replace(*change, 1))


def test_black_masks_are_refused(tmp_path):
    write_png(tmp_path / "m.png", np.zeros((512, 512), np.uint8))
    with pytest.raises(ValueError, match="black all over"):
        layout(tmp_path, 'format = 1\n[[element]]\nwords = "red"\nmask = "m.png"\n')


def test_mask_pictures_and_masks_agree(round_mask, tmp_path):
    write_png(tmp_path / "m.png", round_mask.read())
    assert (Mask.from_array(read_grey(tmp_path / "m.png")).read() == round_mask.read()).all()


def test_colour_profiles_are_applied(tmp_path):
    from PIL import Image, ImageCms

    lab = ImageCms.ImageCmsProfile(ImageCms.createProfile("LAB"))
    srgb = ImageCms.createProfile("sRGB")
    plain = Image.new("RGBA", (8, 8), (200, 60, 40, 128))
    plain.save(tmp_path / "srgb.png", icc_profile=ImageCms.ImageCmsProfile(srgb).tobytes())
    read = read_picture(tmp_path / "srgb.png")
    assert np.abs(read.pixels.astype(int) - (200, 60, 40, 128)).max() <= 1
    assert read.notes == ()
    plain.save(tmp_path / "wrong.png", icc_profile=lab.tobytes())
    assert "could not be applied" in read_picture(tmp_path / "wrong.png").notes[0]
    plain.save(tmp_path / "broken.png", icc_profile=b"no profile")
    assert (read_picture(tmp_path / "broken.png").pixels == (200, 60, 40, 128)).all()
