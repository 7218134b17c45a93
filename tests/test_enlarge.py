"""Pictures made larger with their edges drawn anew: the picture, the sheet, the window, the command."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtWidgets import QProgressDialog, QWidget

from waldrand import cli
from waldrand.core.passes.enlarge import BY, crisp, pieces
from waldrand.core.passes.watch import Stopped
from waldrand.core.picture.resample import resize_picture
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.resize import drawn_sizes, scaled
from waldrand.core.values.sheet import Sheet
from waldrand.desk.dialogs import Dialogs, SheetSize
from waldrand.files.pictures import read_picture, write_png
from waldrand.packs.closed_form import ClosedFormPack

CLOSED = ClosedFormPack()


def discs(height: int, width: int) -> np.ndarray:
    """Hard-edged discs on blue, (height, width, 3) float32."""
    yy, xx = np.mgrid[:height, :width]
    out = np.full((height, width, 3), (0.3, 0.5, 0.8), np.float32)
    for x, y, r, colour in ((60, 70, 50, (0.8, 0.2, 0.1)), (170, 120, 40, (0.95, 0.9, 0.5)), (90, 190, 30, (0.1, 0.3, 0.1))):
        for across in range(0, width, 240):
            out[(xx - x - across) ** 2 + (yy - y) ** 2 < r**2] = colour
    return out


def down(picture: np.ndarray) -> np.ndarray:
    h, w = picture.shape[:2]
    return picture.reshape(h // BY, BY, w // BY, BY, 3).mean((1, 3))


def test_edges_get_sharp_and_nothing_else_changes(own):
    true = discs(256, 256)
    small = down(true)
    made, smooth = crisp(small, 256, 256, own), resize_picture(small, 256, 256)
    assert made.shape == true.shape
    assert np.square(made - true).mean() < 0.5 * np.square(smooth - true).mean()
    # Brought down again it is what it was.
    assert np.abs(down(made) - small).mean() < 0.01


def test_pieces_cannot_be_seen(own):
    small = down(discs(160, 1280))
    whole, right = (crisp(p, 160, 4 * p.shape[1], own) for p in (small, small[:, 64:]))
    # There the one picture has the border of two pieces, the other has not.
    border = slice(4 * (128 - 24), 4 * (128 + 24))
    assert np.abs(whole[:, border] - right[:, border.start - 256 : border.stop - 256]).max() < 0.02


@settings(max_examples=20)
@given(st.integers(1, 200), st.integers(1, 200), st.floats(0.3, 5), st.floats(0.3, 5))
def test_as_many_pieces_are_drawn_as_were_foretold(h, w, down_by, across_by):
    ticks: list[int] = []
    height, width = max(1, round(h * down_by) % 500), max(1, round(w * across_by) % 500)
    made = crisp(np.full((h, w, 3), 0.5, np.float32), height, width, CLOSED, lambda: ticks.append(1))
    assert made.shape == (height, width, 3)
    assert len(ticks) == pieces(h, w, height, width, CLOSED)
    assert (len(ticks) == 0) == (height <= h and width <= w)
    assert made == pytest.approx(0.5, abs=0.01)


def test_a_picture_that_shrinks_is_only_brought_down():
    picture = discs(64, 96)
    assert (crisp(picture, 32, 48, CLOSED) == resize_picture(picture, 32, 48)).all()
    assert (crisp(picture, 64, 96, CLOSED) == picture).all()


def test_colours_under_clear_pixels_do_not_show_at_the_rim(own):
    pixels = np.zeros((64, 64, 4), np.uint8)
    yy, xx = np.mgrid[:64, :64]
    pixels[(xx - 32) ** 2 + (yy - 32) ** 2 < 400] = (200, 40, 30, 255)
    (layer,) = scaled(Sheet(64, 64, (PictureLayer(1, "disc", pixels),)), 256, 256, lambda p, y, x: crisp(p, y, x, own)).layers
    shown = layer.pixels[layer.pixels[..., 3] > 40]
    assert layer.pixels[0, 0, 3] == 0
    assert np.abs(shown[:, :3].astype(int) - (200, 40, 30)).max() < 12


def test_only_the_pictures_of_a_sheet_are_drawn_otherwise(placed):
    pixels = np.dstack([discs(256, 256) * 255, np.full((256, 256), 255)]).astype(np.uint8)
    sheet = replace(placed, layers=(PictureLayer(1, "ground", pixels, 4, -6),))
    drawn: list[tuple[int, ...]] = []

    def draw(picture, height, width):
        drawn.append((*picture.shape[:2], height, width))
        return resize_picture(picture, height, width)

    made, smooth = scaled(sheet, 384, 512, draw), scaled(sheet, 384, 512)
    assert drawn == drawn_sizes(sheet, 384, 512) == [(256, 256, 512, 384)]
    assert [e.outline.box for e in made.elements] == [e.outline.box for e in smooth.elements]
    assert (made.layers[0].x, made.layers[0].y) == (6, -12)
    assert (made.layers[0].pixels == smooth.layers[0].pixels).all()


def test_the_sheet_grows_with_its_edges_drawn_anew_and_one_undo_takes_it_back(kept):
    before = kept.document.sheet
    kept.dialogs.new_frame = (Rect(0, 0, 512, 384), "crisp")
    kept.sizing.change_size()
    done, count = kept.dialogs.counted
    assert done == count > 0
    sheet = kept.document.sheet
    assert (sheet.width, sheet.height) == (512, 384)
    assert sheet.layers[0].pixels.shape == (384, 512, 3)
    kept.document.undo.undo()
    assert kept.document.sheet is before


def test_stopped_halfway_the_sheet_is_as_it_was(kept):
    before = kept.document.sheet
    kept.dialogs.new_frame, kept.dialogs.patience = (Rect(0, 0, 512, 512), "crisp"), 1
    kept.sizing.change_size()
    assert kept.document.sheet is before
    assert "as it was" in kept.passes.status.text()


def test_the_dialog_offers_three_ways(app):
    dialog = SheetSize(256, 256)
    ways = []
    for i in range(dialog.way_box.count()):
        dialog.way_box.setCurrentIndex(i)
        ways.append((dialog.way, dialog.anchor.isVisibleTo(dialog)))
    assert ways == [("framed", True), ("smooth", False), ("crisp", False)]
    dialog.way_box.setCurrentIndex(0)
    assert dialog.anchor.isVisibleTo(dialog)


def test_long_work_shows_how_far_it_is(app):
    parent = QWidget()
    with Dialogs(parent).steps("Drawing", 3) as tick:
        for _ in range(3):
            tick()
        (shown,) = parent.findChildren(QProgressDialog)
        assert shown.maximum() == 3
        assert shown.value() == 2


def test_long_work_can_be_stopped(app):
    parent = QWidget()
    with Dialogs(parent).steps("Drawing", 3) as tick:
        tick()
        (shown,) = parent.findChildren(QProgressDialog)
        shown.cancel()
        with pytest.raises(Stopped):
            tick()


def test_enlarging_by_command(tmp_path, capsys, monkeypatch):
    monkeypatch.setattr("waldrand.commands.options.open_pack", lambda folder=None: CLOSED)
    source, out = tmp_path / "p.png", tmp_path / "p-enlarge.png"
    write_png(source, (discs(48, 64) * 255).astype(np.uint8))
    assert cli.main(["enlarge", str(source), "--by", "2.5", "--json"]) == 0
    assert json.loads(capsys.readouterr().out) == {"files": [str(out)], "size": [160, 120]}
    assert read_picture(out).pixels.shape[:2] == (120, 160)
    assert cli.main(["enlarge", str(source), "--by", "2"]) == cli.BAD
    assert "exists already" in capsys.readouterr().err
    assert cli.main(["enlarge", str(source), "--size", "128x96", "--smooth", "--force"]) == 0
    smooth = read_picture(out).pixels[..., :3]
    assert (smooth == np.uint8(resize_picture(read_picture(source).pixels[..., :3].astype(np.float32) / 255, 96, 128) * 255 + 0.5)).all()
    for wrong, says in (
        (["--by", "0"], "0.01 to 64"),
        (["--size", "wide"], "width and height"),
        ([], "required"),
        (["--size", "99999x999"], "too many"),
    ):
        assert cli.main(["enlarge", str(source), *wrong, "--force"]) == cli.BAD
        assert says in capsys.readouterr().err
    assert cli.main(["enlarge", str(source), "--by", "2", "--out", str(tmp_path / "large.jpg")]) == cli.BAD
    assert "ending in .png" in capsys.readouterr().err
