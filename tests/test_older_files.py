"""Sheets, layouts and recipes that an older Waldrand wrote (format 1, before passes were cut into stages) still open and repeat."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from waldrand.core.passes.recipe import picture_recipe
from waldrand.core.passes.repeat import repeat
from waldrand.core.values.dividing import draggable
from waldrand.files.layout import read_layout
from waldrand.files.openraster import open_sheet, save_sheet
from waldrand.files.pictures import read_picture, read_recipe, read_start

BEFORE = Path(__file__).parent / "data" / "before"
PICTURES = sorted(BEFORE.glob("*.png"))


@pytest.mark.parametrize("path", PICTURES, ids=lambda p: p.stem)
def test_recipes_repeat_to_the_same_pixels(path, closed):
    start = read_start(path)
    made = repeat(read_recipe(path), closed, [] if start is None else [start])
    apart = np.abs(made.pixels.astype(int) - read_picture(path).pixels)
    # Another kind of processor may round differently, by one and seldom.
    assert apart.max() <= 1
    assert (apart > 0).mean() < 0.001
    assert made.notes == ()


def test_every_way_to_paint_is_among_them():
    assert {p.stem for p in PICTURES} >= {"compose", "blend", "text", "nearer", "rework", "inpaint", "clear", "inpaint-picture"}


def test_a_sheet_opens_with_all_that_was_on_it(tmp_path, closed):
    opened = open_sheet(BEFORE / "sheet.ora")
    sheet = opened.sheet
    assert [e.name for e in sheet.elements] == ["lake", "roof 1", "roof 2", "roof 3", "roof 4", "small"]
    assert sheet.element(1).seed == 5
    assert not sheet.element(1).take_noise
    assert len(sheet.layers) == 3
    assert len(draggable(sheet)) == 1
    assert not sheet.mask.empty
    assert [(t.marked, t.kept) for t in opened.takes] == [(True, False), (False, True), (False, True)]
    assert (repeat(picture_recipe(sheet), closed).pixels == sheet.flatten()).mean() > 0.999
    # Saved again it is the same sheet.
    save_sheet(tmp_path / "again.ora", sheet, opened.settings, opened.takes)
    again = open_sheet(tmp_path / "again.ora")
    assert (again.sheet.flatten() == sheet.flatten()).all()
    assert again.settings == opened.settings
    assert [t.take.seed for t in again.takes] == [t.take.seed for t in opened.takes]


def test_a_sheets_takes_and_settings_are_shown_in_the_window(window):
    window.open_file(BEFORE / "sheet.ora")
    assert window.document.draft.kind == "inpaint"
    assert window.document.draft.words == "blue"
    assert [t.special for t in window.tray.takes] == ["", "from nearer", ""]
    assert "left out" not in window.passes.status.text()


def test_a_layout_opens_as_it_was():
    layout = read_layout(BEFORE / "layout.toml")
    assert (layout.settings.steps, layout.settings.spacing, layout.settings.detail) == (6, 3.0, 1.2)
    lake, roof, small = layout.sheet.elements
    assert (lake.seed, roof.weight, roof.feather, small.strength) == (5, 1.3, 6, 0.7)
    assert (lake.outline.shape, roof.outline.shape, small.outline.shape) == ("box", "ellipse", "freehand")
