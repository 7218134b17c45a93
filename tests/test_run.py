"""Passes, from sheet to patch, with the closed-form model: exact answers in no time."""

from __future__ import annotations

from dataclasses import replace
from threading import Event

import numpy as np
import pytest

from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run, run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.passes.watch import Step, Stopped
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet

QUICK = PassSettings(steps=6)


def compose(sheet, pack, **settings):
    return run_take(plan(sheet, Request("compose", replace(QUICK, **settings)), pack), pack, settings.get("seed", 0))


def inpaint(sheet, pack, words="red", **settings):
    s = replace(QUICK, strength=settings.pop("strength", 1.0), **settings)
    return run_take(plan(sheet, Request("inpaint", s, words), pack), pack, s.seed)


def colour_at(take, x, y):
    return take.pixels[max(0, y - 32) : y + 32, x - 32 : x + 32].reshape(-1, 3).mean(0)


def test_elements_land_inside_their_outlines(placed, closed):
    take = compose(placed, closed)
    blue, red, white = colour_at(take, 64, 150), colour_at(take, 192, 150), colour_at(take, 128, 20)
    assert blue[2] > blue[0] + 80
    assert red[0] > red[2] + 80
    assert white.min() > 180


def test_text_only_ignores_outlines(placed, closed):
    take = compose(placed, closed, method="text")
    assert np.abs(colour_at(take, 64, 150) - colour_at(take, 192, 150)).max() < 30


def test_near_elements_cover_far_ones(placed, closed):
    near = Element(9, "sun", Outline("box", (16, 64, 112, 240)), "yellow")
    take = compose(placed.with_element(near), closed)
    assert colour_at(take, 64, 150)[0] > 180


def test_same_seed_same_pixels_whatever_ran_before(placed, closed):
    p = plan(placed, Request("compose", QUICK), closed)
    alone = run_take(p, closed, 2)
    several = list(run(p, closed, 4))
    assert (several[2].pixels == alone.pixels).all()
    assert (several[1].pixels != alone.pixels).any()


@pytest.mark.parametrize("strength", [0.3, 0.7, 1.0])
def test_inpaint_changes_nothing_outside_the_mask(painted, round_mask, closed, strength):
    sheet = replace(painted, mask=round_mask)
    take = inpaint(sheet, closed, strength=strength)
    done = sheet.with_layer(take.to_patch(9, "red"))
    before, after = painted.flatten(), done.flatten()
    outside = round_mask.read() == 0
    assert (before[outside] == after[outside]).all()
    assert (before != after).any()


def test_strength_zero_gives_the_picture_itself(painted, closed):
    p = plan(painted, Request("rework", replace(QUICK, strength=0.0), "red"), closed)
    assert p.steps == 0
    assert any("no step" in s for s in p.sentences)
    assert (run_take(p, closed, 0).pixels == painted.flatten()[..., :3]).all()


def test_rework_leaves_the_start_by_its_strength(painted, closed):
    def change(s: float) -> float:
        p = plan(painted, Request("rework", replace(QUICK, steps=20, strength=s, guidance=1.0), "red"), closed)
        return float(np.abs(run_take(p, closed, 0).pixels.astype(int) - painted.flatten()[..., :3]).mean())

    changes = [change(s) for s in (0.1, 0.4, 0.7, 1.0)]
    assert changes == sorted(changes)
    assert changes[0] < 16 < 32 < changes[-1]


def test_light_rework_carries_fine_detail_over(painted, closed):
    def detail(carry: bool) -> float:
        p = plan(painted, Request("rework", replace(QUICK, strength=0.1, carry_detail=carry)), closed)
        a = run_take(p, closed, 0).pixels.astype(float)
        return float(np.abs(np.diff(a, axis=1)).mean())

    assert detail(True) > 3 * detail(False)


def test_light_rework_changes_little_however_painted_parts_are_drawn(painted, closed):
    class Mending(type(closed)):  # type: ignore[misc]
        """What was painted is drawn darker."""

        def decode(self, latent, painted=None, drawing=None, light=False):
            made = super().decode(latent)
            return made if painted is None else made - 0.2 * np.kron(painted, np.ones((16, 16)))[..., None]

    pack = Mending()
    p = plan(painted, Request("rework", replace(QUICK, strength=0.02)), pack)
    assert np.abs(run_take(p, pack, 0).pixels.astype(float) - painted.flatten()[..., :3]).mean() < 5


def test_half_grey_keeps_more_than_white(painted, closed):
    grey = np.zeros((256, 256), np.uint8)
    grey[64:192, 32:112], grey[64:192, 144:224] = 110, 255
    sheet = replace(painted, mask=Mask.from_array(grey))
    # Without words each cell's goal is its own prior, so the pull of the noise shows.
    take = inpaint(sheet, closed, words="red", steps=20)
    r = take.frame
    moved = np.abs(take.pixels.astype(int) - painted.flatten(r)[..., :3])
    soft, full = moved[64 - r.y0 : 192 - r.y0, 32 - r.x0 : 112 - r.x0], moved[64 - r.y0 : 192 - r.y0, 144 - r.x0 : 224 - r.x0]
    assert soft.mean() < 0.9 * full.mean()


def test_element_strength_replaces_the_passes(painted, closed):
    e = Element(5, "keep this", Outline("box", (0, 0, 128, 256)), "", strength=0.0)
    p = plan(painted.with_element(e), Request("rework", replace(QUICK, strength=0.9), "red"), closed)
    take = run_take(p, closed, 0)
    moved = np.abs(take.pixels.astype(int) - painted.flatten()[..., :3])
    assert moved[:, :112].max() <= 2
    assert moved[:, 144:].mean() > 20


@pytest.mark.parametrize("kind", ["compose", "inpaint", "rework"])
def test_held_pixels_never_change(painted, round_mask, closed, kind):
    held = Element(5, "product", Outline("ellipse", (90, 70, 150, 130)), "", hold=True)
    sheet = replace(painted.with_element(held), mask=round_mask)
    p = plan(sheet, Request(kind, replace(QUICK, strength=1.0), "red"), closed)
    done = sheet.with_layer(run_take(p, closed, 0).to_patch(9, "x"))
    from waldrand.core.values.outline import rasterise

    inside = rasterise(held.outline, sheet.rect, 256, 256) > 0
    assert (done.flatten()[inside] == painted.flatten()[inside]).all()
    assert (done.flatten() != painted.flatten()).any()


def test_own_seed_rerolls_one_element_only(placed, closed):
    rough = replace(placed, scene=SceneWords(""), elements=tuple(replace(e, words=e.words) for e in placed.elements))
    a = compose(rough, closed)
    b = compose(rough.with_element(replace(rough.elements[0], seed=77)), closed)
    d = np.abs(a.pixels.astype(int) - b.pixels).max(-1)
    assert d[64:240, 32:96].max() > 0
    assert d[64:240, 160:224].max() == 0


def test_a_pinned_element_keeps_its_noise_when_another_is_pinned_too(placed, closed):
    one = placed.with_element(replace(placed.elements[1], seed=5))
    a, b = compose(one, closed), compose(one.with_element(replace(placed.elements[0], seed=6)), closed)
    assert (a.pixels[96:200, 160:224] == b.pixels[96:200, 160:224]).all()
    assert (a.pixels[96:200, 32:96] != b.pixels[96:200, 32:96]).any()


def test_strength_zero_inside_an_outline_is_bit_exact(painted, closed):
    e = Element(5, "keep this", Outline("box", (0, 0, 128, 256)), "", strength=0.0)
    sheet = painted.with_element(e)
    p = plan(sheet, Request("rework", replace(QUICK, strength=0.9), "red"), closed)
    done = sheet.with_layer(run_take(p, closed, 0).to_patch(9, "x")).flatten()
    assert (done[:, :128] == painted.flatten()[:, :128]).all()
    assert (done[:, 136:] != painted.flatten()[:, 136:]).any()


def test_progress_counts_steps_and_shows_the_forming_picture(placed, closed):
    steps: list[Step] = []
    list(run(plan(placed, Request("compose", QUICK), closed), closed, 2, steps.append))
    assert [(s.take, s.step) for s in steps] == [(t, i) for t in (0, 1) for i in range(1, 7)]
    last = steps[5].preview
    assert last.shape == (16, 16, 4)
    assert last[9, 4, 2] > last[9, 4, 0] + 60


def test_stop_in_mid_pass_keeps_finished_takes(placed, closed):
    stop = Event()

    def progress(s: Step) -> None:
        if s.take == 1 and s.step == 3:
            stop.set()

    takes = run(plan(placed, Request("compose", QUICK), closed), closed, 3, progress, stop)
    assert next(takes).seed == 0
    with pytest.raises(Stopped):
        next(takes)


def test_recipes_repeat_a_chain_of_passes_exactly(placed, closed, round_mask):
    first = placed.with_layer(compose(placed, closed, seed=3).to_patch(5, "take"))
    masked = replace(first, mask=round_mask)
    done = masked.with_layer(inpaint(masked, closed, seed=8).to_patch(6, "red"))
    again = repeat(picture_recipe(done), closed)
    assert (again.pixels == done.flatten()).all()
    assert again.notes == ()


def test_repeat_needs_the_picture_it_started_from(painted, round_mask, closed):
    masked = replace(painted, mask=round_mask)
    done = masked.with_layer(inpaint(masked, closed).to_patch(6, "red"))
    with pytest.raises(ValueError, match="missing"):
        repeat(picture_recipe(done), closed)
    assert (repeat(picture_recipe(done), closed, [painted.flatten()]).pixels == done.flatten()).all()


@pytest.mark.parametrize(
    "recipe", [{}, {"format": 1}, {"format": 9}, {"format": 1, "width": 64, "height": 64, "picture": None, "passes": [{}]}]
)
def test_damaged_recipes_are_told(recipe, closed):
    with pytest.raises(ValueError, match="recipe"):
        repeat(recipe, closed)


def test_transparent_pictures_keep_their_transparency_outside(closed):
    pixels = np.zeros((256, 256, 4), np.uint8)
    pixels[60:200, 60:200] = (10, 200, 30, 255)
    pixels[..., 0] = 7
    sheet = Sheet(256, 256, (PictureLayer(1, "cut-out", pixels),), mask=Mask(256, 256).dab(128, 128, 30, 0.2)[0])
    done = sheet.with_layer(inpaint(sheet, closed).to_patch(3, "x")).flatten()
    outside = sheet.mask.read() == 0
    assert (done[outside] == pixels[outside]).all()
    assert (done[128, 128] != pixels[128, 128]).any()


def test_larger_sheets_are_computed_in_the_frame_only(closed):
    pixels = np.full((900, 1400, 4), 255, np.uint8)
    sheet = Sheet(1400, 900, (PictureLayer(1, "p", pixels),), mask=Mask(1400, 900).dab(1380, 20, 30, 0.0)[0])
    p = plan(sheet, Request("inpaint", QUICK, "blue"), closed)
    assert p.frame.rect.area < 0.1 * 1400 * 900
    take = run_take(p, closed, 0)
    done = sheet.with_layer(take.to_patch(2, "x")).flatten()
    assert (done[100:] == 255).all()
    assert done[10, 1390, 2] > done[10, 1390, 0] + 50


# --- the forecast


def warnings_of(sheet, pack, kind="compose", **settings):
    words = settings.pop("words", "")
    return [w.text for w in plan(sheet, Request(kind, replace(QUICK, **settings), words), pack).warnings]


def test_forecast_of_a_clean_layout_has_no_warnings(placed, closed):
    p = plan(placed, Request("compose", QUICK), closed)
    assert p.warnings == ()
    assert p.calls == 12
    assert "2 elements" in p.sentences[0]


@pytest.mark.parametrize(
    ("element", "says"),
    [
        (Element(7, "ghost", Outline("box", (300, 300, 400, 400)), "red"), "wholly outside"),
        (Element(7, "edge", Outline("box", (200, 10, 300, 60)), "red"), "leaves the sheet"),
        (Element(7, "dot", Outline("box", (4, 4, 14, 14)), "red"), "smaller than"),
        (Element(7, "mute", Outline("box", (4, 4, 100, 60)), ""), "no words"),
        (Element(7, "loud", Outline("box", (4, 4, 100, 60)), "red", weight=4.0), "hard shape"),
        (Element(7, "odd", Outline("box", (4, 4, 100, 60)), "redd flumph"), "“flumph”"),
        (Element(7, "odd", Outline("box", (4, 4, 100, 60)), "yelow"), "Nearest: yellow"),
        (Element(7, "torn", Outline("box", (4, 4, 100, 60)), "red", avoid="red"), "both wanted and avoided"),
        (Element(7, "kept", Outline("box", (4, 4, 100, 60)), "red", hold=True), "no picture to keep"),
    ],
)
def test_forecast_names_what_looks_wrong(placed, closed, element, says):
    texts = warnings_of(placed.with_element(element), closed)
    assert any(says in t for t in texts), texts


def test_forecast_tells_hidden_elements_and_large_sheets(placed, closed):
    cover = Element(7, "curtain", Outline("box", (0, 40, 256, 256)), "green")
    assert any("hidden" in t and "lake" in t for t in warnings_of(placed.with_element(cover), closed))
    assert any("larger than the model" in t for t in warnings_of(replace(placed, width=2048, height=2048), closed))


def test_forecast_of_an_inpaint_tells_share_scale_and_seams(painted, round_mask, closed):
    sheet = replace(painted, mask=round_mask)
    p = plan(sheet, Request("inpaint", replace(QUICK, strength=0.62), "red"), closed)
    assert "0.62" in p.sentences[0]
    assert "stays untouched" in p.sentences[0]
    wide = Sheet(
        2000, 300, (PictureLayer(1, "p", np.full((300, 2000, 4), 255, np.uint8)),), mask=Mask(2000, 300).dab(1000, 150, 140, 0.0)[0]
    )
    tight = plan(wide, Request("inpaint", replace(QUICK, margin=0.0), "red"), closed)
    assert tight.frame.rect.width < 2000
    assert any("touches the work frame" in w.text for w in tight.warnings) or tight.frame.rect.width > 300


def test_what_cannot_run_is_refused_in_words(painted, closed):
    empty = Sheet(256, 256)
    for sheet, kind, says in (
        (empty, "compose", "no words"),
        (empty, "rework", "no picture"),
        (empty, "inpaint", "no picture"),
        (painted, "inpaint", "mask is empty"),
    ):
        with pytest.raises(ValueError, match=says):
            plan(sheet, Request(kind, QUICK), closed)


@pytest.mark.parametrize(
    "values",
    [
        {"strength": 1.5},
        {"strength": -0.1},
        {"steps": 0},
        {"guidance": 99},
        {"seed": -1},
        {"seed": 2**31},
        {"method": "magic"},
        {"sampler": "magic"},
        {"margin": -1},
    ],
)
def test_settings_out_of_range_are_refused(values):
    with pytest.raises(ValueError, match=r"from|no method|no sampler"):
        PassSettings(**values)


@pytest.mark.parametrize("values", [{"weight": 5}, {"strength": 2}, {"feather": -1}, {"seed": -3}])
def test_elements_out_of_range_are_refused_by_name(values):
    with pytest.raises(ValueError, match="“fox”"):
        Element(1, "fox", Outline("box", (0, 0, 9, 9)), **values)


def test_patch_edge_is_adjustable_after_the_take(painted, round_mask, closed):
    sheet = replace(painted, mask=round_mask)
    patch = inpaint(sheet, closed).to_patch(4, "red")
    tight = sheet.with_layer(replace(patch, grow=-10, feather=0)).flatten()
    wide = sheet.with_layer(replace(patch, grow=10, feather=0)).flatten()
    changed = [(x != painted.flatten()).any(-1).sum() for x in (tight, wide)]
    assert changed[0] < changed[1]


def test_flatten_of_a_part_is_the_part_of_the_whole(painted, round_mask, closed):
    sheet = replace(painted, mask=round_mask)
    sheet = sheet.with_layer(inpaint(sheet, closed).to_patch(4, "red"))
    part = Rect(40, 30, 200, 180)
    assert (sheet.flatten(part) == sheet.flatten()[part.slices]).all()


def test_gigantic_sheets_are_refused():
    with pytest.raises(ValueError, match="too many"):
        Sheet(30000, 200)
    with pytest.raises(ValueError, match="too small"):
        Sheet(4, 4)
