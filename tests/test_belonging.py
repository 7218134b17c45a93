"""Layers brought to what lies below them: colour and light, no seam, and how visible an edge is."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from by_hand import drag, key
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import QPointF, QRect, Qt
from PyQt6.QtGui import QColor, QImage
from PyQt6.QtTest import QTest

from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.picture.matching import brought_to, seam
from waldrand.core.refused import Refused
from waldrand.core.values.belonging import belonging, seam_of, worst_of
from waldrand.core.values.brought import Brought
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import Patch, PictureLayer
from waldrand.core.values.masks import Mask
from waldrand.core.values.resize import framed, scaled
from waldrand.core.values.sheet import Sheet
from waldrand.desk.look.look import PARCHMENT
from waldrand.files.openraster import open_sheet, save_sheet


def ground(seed: int = 0, h: int = 120, w: int = 140) -> np.ndarray:
    yy, xx = np.mgrid[:h, :w]
    rng = np.random.default_rng(seed)
    base = np.dstack([90 + xx * 0.3, 120 + yy * 0.2, 70 + 0 * xx]) + rng.normal(0, 5, (h, w, 3))
    return np.clip(base, 0, 255).astype(np.uint8)


def disc(h: int = 120, w: int = 140) -> np.ndarray:
    yy, xx = np.mgrid[:h, :w]
    return (yy - 60) ** 2 + (xx - 70) ** 2 < 34**2


ALL = np.ones((120, 140), bool)


@pytest.fixture
def pasted() -> Sheet:
    """The ground, and over it a disc of the same ground, much lighter and bluer."""
    below = ground()
    light = np.clip(below.astype(int) + np.array([60, 20, 90]), 0, 255).astype(np.uint8)
    over = np.dstack([light, np.where(disc(), 255, 0).astype(np.uint8)])
    layers = (PictureLayer(1, "ground", np.dstack([below, np.full((120, 140), 255, np.uint8)])), PictureLayer(2, "disc", over))
    return Sheet(140, 120, layers)


def apart(sheet: Sheet) -> float:
    """How far the disc's colours are from those round it."""
    seen, d = sheet.flatten()[..., :3].astype(float), disc()
    return float(np.abs(seen[d].mean(0) - ground()[~d].mean(0)).mean())


def test_match_brings_colours_and_no_seam_brings_the_edge(pasted):
    before = seam_of(pasted, 2)
    assert before > 3
    matched = belonging(pasted, 2, 1.0, 0.0)
    assert apart(matched) < 0.25 * apart(pasted)
    smooth = belonging(pasted, 2, 0.0, 1.0)
    assert seam_of(smooth, 2) < 1.4
    both = belonging(pasted, 2, 1.0, 1.0)
    assert seam_of(both, 2) < 1.4
    half = belonging(pasted, 2, 0.5, 0.0)
    assert apart(matched) < apart(half) < apart(pasted)


def test_the_own_pixels_stay_and_come_back(pasted):
    done = belonging(belonging(pasted, 2, 0.7, 1.0), 2, 0.2, 0.4)
    assert (done.layer(2).pixels == pasted.layer(2).pixels).all()
    assert done.layer(2).brought_by == {"match": 0.2, "seamless": 0.4}
    # However it was changed in between.
    assert (done.flatten() == belonging(pasted, 2, 0.2, 0.4).flatten()).all()
    assert (belonging(done, 2, 0, 0).flatten() == pasted.flatten()).all()
    assert (done.flatten()[~disc()] == pasted.flatten()[~disc()]).all()


@given(st.floats(0, 1), st.floats(0, 1), st.integers(0, 3))
@settings(max_examples=20)
def test_only_the_region_changes(match, seamless, seed):
    below, over = ground(), ground(seed + 9)
    made = brought_to(over, disc(), below, ALL, match, seamless)
    assert (made[~disc()] == over[~disc()]).all()
    if match == seamless == 0:
        assert (made == over).all()


@pytest.mark.parametrize("amounts", [(1.0, 0.0), (0.0, 1.0), (1.0, 1.0)])
def test_with_nothing_round_it_it_stays_as_it_is(amounts):
    over = ground(3)
    assert (brought_to(over, ALL, ground(), ALL, *amounts) == over).all()
    assert (brought_to(over, disc(), ground(), ~ALL, *amounts) == over).all()
    empty = np.zeros((120, 140), bool)
    assert (brought_to(over, empty, ground(), ALL, *amounts) == over).all()


def test_what_is_alike_already_is_hardly_changed():
    below = ground()
    made = brought_to(below, disc(), below, ALL, 1.0, 1.0)
    assert np.abs(made.astype(int) - below).mean() < 1.5


def test_the_seam_is_1_where_there_is_none_and_grows_with_the_step():
    below = ground()
    assert seam(below, disc()) == pytest.approx(1.0, abs=0.15)
    steps = [seam(np.where(disc()[..., None], np.clip(below.astype(int) + n, 0, 255), below).astype(np.uint8), disc()) for n in (0, 10, 40)]
    assert steps[0] < steps[1] < steps[2]
    assert seam(below, ALL) is None


def test_amounts_outside_their_range_are_refused(pasted):
    for amounts in ((1.5, 0), (0, -0.1)):
        with pytest.raises(Refused, match="goes from 0 to 1"):
            belonging(pasted, 2, *amounts)


# --- kept


def test_it_is_saved_and_other_programs_see_it(pasted, tmp_path):
    done = belonging(pasted, 2, 0.8, 1.0)
    save_sheet(tmp_path / "a.ora", done)
    again = open_sheet(tmp_path / "a.ora").sheet
    assert (again.flatten() == done.flatten()).all()
    assert again.layer(2).brought_by == {"match": 0.8, "seamless": 1.0}
    assert (again.layer(2).pixels == done.layer(2).pixels).all()
    assert (belonging(again, 2, 0, 0).flatten() == pasted.flatten()).all()
    import io
    import zipfile

    from PIL import Image

    with zipfile.ZipFile(tmp_path / "a.ora") as z:
        seen = np.asarray(Image.open(io.BytesIO(z.read("data/layer-002.png"))))
    assert (seen == done.layer(2).shown).all()


@pytest.mark.parametrize("spoil", ["size", "name", "amount"])
def test_a_damaged_change_is_refused(pasted, tmp_path, spoil):
    import json
    import zipfile

    done = belonging(pasted, 2, 0.8, 1.0)
    save_sheet(tmp_path / "a.ora", done)
    with zipfile.ZipFile(tmp_path / "a.ora") as z:
        parts = {n: z.read(n) for n in z.namelist()}
    ours = json.loads(parts["waldrand/sheet.json"])
    layer = ours["layers"][1]
    match spoil:
        case "size":
            layer["more"] = layer["src"]
        case "name":
            del layer["less"]
        case "amount":
            layer["match"] = 7
    parts["waldrand/sheet.json"] = json.dumps(ours).encode()
    with zipfile.ZipFile(tmp_path / "b.ora", "w") as z:
        for name, data in parts.items():
            z.writestr(name, data)
    with pytest.raises(Refused):
        open_sheet(tmp_path / "b.ora")


def test_it_goes_with_the_layer_when_the_sheet_is_moved_or_scaled(pasted):
    done = belonging(pasted, 2, 1.0, 1.0)
    moved = framed(done, Rect(-8, -8, 140, 120))
    assert (moved.flatten()[8:, 8:] == done.flatten()).all()
    larger = scaled(done, 280, 240)
    assert np.abs(larger.flatten()[::2, ::2, :3].astype(int) - done.flatten()[..., :3]).mean() < 8


def test_a_recipe_with_it_repeats(painted, round_mask, closed):
    sheet = replace(painted, mask=round_mask)
    request = Request("inpaint", PassSettings(steps=4, guidance=1.0, strength=0.9), words="red")
    take = run_take(plan(sheet, request, closed), closed, 0)
    done = belonging(sheet.with_layer(take.to_patch(9, "red")), 9, 0.6, 1.0)
    recipe = picture_recipe(done)
    assert recipe["passes"][0]["seamless"] == 1.0
    assert (repeat(recipe, closed, [painted.flatten()]).pixels == done.flatten()).all()


# --- by hand


@pytest.fixture
def carded(kept):
    """A pale card over the picture, chosen."""
    sheet = kept.document.sheet
    card = np.zeros((60, 60, 4), np.uint8)
    card[10:50, 10:50] = (250, 240, 250, 255)
    kept.document.edit(sheet.with_layer(PictureLayer(sheet.next_key(), "card", card, 80, 80)), "card")
    kept.view.selection.choose_layer(kept.document.sheet.layers[-1].key)
    return kept


def test_a_chosen_layer_is_moved_by_hand_and_by_arrows_and_belongs_there_anew(carded):
    carded.bench.layer_strip.seamless.setValue(1.0)
    before = carded.document.sheet.layers[-1]
    drag(carded, 100, 100, 150, 70)
    moved = carded.document.sheet.layers[-1]
    assert (moved.x, moved.y) == pytest.approx((130, 50), abs=1)
    assert (moved.pixels == before.pixels).all()
    assert (carded.document.sheet.flatten() == belonging(carded.document.sheet, moved.key, 0.0, 1.0).flatten()).all()
    carded.view.setFocus()
    QTest.keyClick(carded.view, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert carded.document.sheet.layers[-1].x == moved.x + 10
    key(carded, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    key(carded, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert carded.document.sheet.layers[-1].x == 80
    assert carded.view.selection.layer is not None
    # Beside it the sheet is dragged as ever, and elements are chosen.
    drag(carded, 60, 150, 62, 152)
    assert carded.view.selection.layer is None


def test_what_the_mask_covers_becomes_a_layer(kept):
    before = kept.document.sheet.flatten()
    mask, _ = Mask(256, 256).dab(60, 150, 30, 0)
    kept.document.edit(replace(kept.document.sheet, mask=mask), "mask")
    key(kept, Qt.Key.Key_J, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    layer = kept.document.sheet.layers[-1]
    assert kept.view.selection.layer == layer.key
    assert kept.document.sheet.mask is None
    assert (kept.document.sheet.flatten() == before).all()
    r = layer.bounds
    solid = layer.pixels[..., 3] == 255
    assert (layer.pixels[solid] == before[r.slices][solid]).all()


def test_masks_are_inverted_grown_feathered_and_fitted(kept):
    cutting = kept.bench.cutting
    for act in (cutting.invert_mask, cutting.fit_mask, cutting.feather_mask, cutting.layer_from_mask, lambda: cutting.grow_mask(1)):
        act()
        assert "mask is empty" in kept.passes.status.text()
        kept.say("")
    mask, _ = Mask(256, 256).dab(60, 150, 30, 0)
    kept.document.edit(replace(kept.document.sheet, mask=mask), "mask")
    size = (mask.read() > 127).sum()
    kept.dialogs.amount = 5.0
    cutting.grow_mask(1)
    assert (kept.document.sheet.mask.read() > 127).sum() > size
    cutting.grow_mask(-1)
    assert (kept.document.sheet.mask.read() > 127).sum() == pytest.approx(size, rel=0.1)
    cutting.feather_mask()
    assert len(np.unique(kept.document.sheet.mask.read())) > 10
    cutting.invert_mask()
    assert kept.document.sheet.mask.read()[0, 0] == 255
    cutting.invert_mask()
    cutting.fit_mask()
    assert not kept.document.sheet.mask.empty
    kept.dialogs.amount = 400.0
    cutting.grow_mask(-1)
    assert "Nothing of the mask" in kept.passes.status.text()
    cutting.mask_subject()


def test_it_is_turned_on_the_layers_strip_and_undone(kept):
    sheet = kept.document.sheet
    card = np.zeros((90, 90, 4), np.uint8)
    card[10:80, 10:80] = (250, 240, 250, 255)
    kept.document.edit(sheet.with_layer(PictureLayer(sheet.next_key(), "card", card, 80, 80)), "card")
    layer = kept.document.sheet.layers[-1]
    kept.view.selection.choose_layer(layer.key)
    strip = kept.bench.layer_strip
    before = float(strip.seam.text().split()[-1])
    strip.seamless.setValue(1.0)
    assert float(strip.seam.text().split()[-1]) < before
    strip.match.setValue(0.5)
    assert kept.document.sheet.layers[-1].brought_by == {"match": 0.5, "seamless": 1.0}
    key(kept, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    key(kept, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert (kept.document.sheet.layers[-1].shown == card).all()
    assert strip.seamless.value() == 0
    assert Brought().change is None


ACCENT = QColor(PARCHMENT.accent)


def round_it(image: QImage, colour: QColor) -> list[bool]:
    spots = [image.pixelColor(x, y) for x in range(image.width()) for y in range(image.height())]
    return [max(abs(a - b) for a, b in zip(c.getRgb(), colour.getRgb(), strict=True)) < 24 for c in spots]


def test_the_worst_of_an_edge_is_found_and_marked(carded, closed):
    sheet = carded.document.sheet
    card = sheet.layers[-1]
    pale = np.full((60, 60, 3), 240, np.uint8)
    patch = Patch(card.key, "patch", card.bounds, pale, card.pixels[..., 3], recipe={"kind": "inpaint", "frame": [80, 80, 140, 140]})
    carded.document.edit(sheet.with_layer(patch), "patch")
    sheet, b = carded.document.sheet, card.bounds
    x, y = worst_of(sheet, card.key)
    assert b.x0 - 2 <= x <= b.x1 + 2
    assert b.y0 - 2 <= y <= b.y1 + 2
    seam = seam_of(sheet, card.key)
    assert seam > 1.6
    # A ring shows where; without a seam it goes.
    carded.view.selection.choose_layer(card.key)
    at = carded.view.mapFromScene(QPointF(x, y))
    part = QRect(at.x() - 12, at.y() - 12, 24, 24)
    accent = sum(round_it(carded.view.grab(part).toImage(), ACCENT))
    carded.bench.layer_strip.seamless.setValue(1.0)
    assert sum(round_it(carded.view.grab(part).toImage(), ACCENT)) < accent
    key(carded, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    request = Request("rework", PassSettings(strength=0.3))
    (caution,) = [w for w in plan(sheet, request, closed).warnings if "shows (seam" in w.text]
    mended, request = caution.mend.apply(sheet, request)
    assert seam_of(mended, card.key) < seam
    assert not [w for w in plan(mended, request, closed).warnings if "shows (seam" in w.text]


def test_the_worst_lies_where_the_step_is_greatest():
    ground = np.full((80, 100, 4), 255, np.uint8)
    ground[..., :3] = np.linspace(40, 200, 100, dtype=np.uint8)[None, :, None]
    card = np.full((40, 60, 4), 255, np.uint8)
    card[..., :3] = 60
    sheet = Sheet(100, 80, (PictureLayer(1, "g", ground), PictureLayer(2, "c", card, 20, 20)))
    x, y = worst_of(sheet, 2)
    assert x == pytest.approx(79, abs=2)
    assert 20 <= y <= 60
    assert worst_of(sheet, 1) is None
    assert worst_of(sheet.with_layer(sheet.layer(2).changed(visible=False)), 2) is None
