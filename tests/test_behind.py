"""What stands behind what is taken away, and what of a mask changes where something is put in."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from waldrand.core.passes.behind import painted_by
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import recipe_of, request_from_json
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.picture.joining import joined_in
from waldrand.core.told.guides import sketched_lines
from waldrand.core.told.said import InElement
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import Patch, PictureLayer
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline, rasterise
from waldrand.core.values.sheet import Sheet

SIDE, SEED = 512, 4
COTTAGE = Element(1, "cottage", Outline("box", (120, 170, 400, 380)), "white cottage")
MEADOW = SceneWords("clear day, meadow")


def settings_of(**more) -> PassSettings:
    return PassSettings(**{"steps": 8, "seed": SEED} | more)


@pytest.fixture(scope="module")
def painted(own) -> Sheet:
    """A cottage on a meadow, as a pass painted it."""
    sheet = Sheet(SIDE, SIDE, elements=(COTTAGE,), scene=MEADOW)
    return run_take(plan(sheet, Request("compose", settings_of()), own), own, SEED).laid_on(sheet, "composed")


def holed(sheet: Sheet, box: tuple[int, int, int, int]) -> Sheet:
    x0, y0, x1, y1 = box
    grey = np.zeros((SIDE, SIDE), np.uint8)
    grey[y0:y1, x0:x1] = 255
    return replace(sheet, mask=Mask.from_array(grey))


CORNER = (300, 260, 470, 460)


def taken_away(**more) -> Request:
    return Request("inpaint", settings_of(strength=1.0, seed=2), **more)


def test_an_element_that_a_hole_cuts_goes_on_in_it_in_its_form(own, painted):
    sheet = holed(painted, CORNER)
    p = plan(sheet, taken_away(), own)
    assert p.request.restored == ((1, SEED),)
    assert "Goes on behind it: “cottage”" in " ".join(p.sentences)
    (stage,) = p.stages
    # The very form that it was painted in, where it was.
    (form,) = plan(Sheet(SIDE, SIDE, elements=(COTTAGE,), scene=MEADOW), Request("compose", settings_of()), own).stages[0].shapes.values()
    inside = rasterise(form, sheet.rect, SIDE, SIDE) > 0.5
    assert stage.sketches[0].box == form.box
    told = {one.phrase for one in stage.told if one.where == InElement(1)}
    assert told == {"white cottage"}
    after = run_take(p, own, 2).laid_on(sheet, "away").flatten().astype(int)
    was, mask = painted.flatten().astype(int), sheet.mask.read() > 0
    assert (after[~mask] == was[~mask]).all()
    # Part of the cottage again, not meadow: nearer to what stood there than the same hole without it is.
    bare = run_take(plan(sheet, taken_away(restores=False), own), own, 2).laid_on(sheet, "away").flatten().astype(int)
    off = [np.abs(x - was)[inside & mask][:, :3].mean() for x in (after, bare)]
    assert off[0] < 0.8 * off[1]


def test_its_shadow_goes_on_below_it_where_the_hole_is(own, painted):
    def dark(request: Request) -> np.ndarray:
        (stage,) = plan(holed(painted, CORNER), request, own).stages
        return sketched_lines(stage.shadows, painted.rect, SIDE, SIDE) if stage.shadows else np.zeros((SIDE, SIDE))

    below, (x0, y0, x1, y1) = dark(taken_away()), CORNER
    assert below[y0:y1, x0:x1].max() > 0.2
    below[y0:y1, x0:x1] = 0
    # But for the last pixel, which the drawing of its edge may touch.
    assert below.max() < 0.1
    assert not dark(taken_away(restores=False)).any()


@given(st.floats(-0.2, 0.2), st.floats(-0.08, 0.08))
def test_what_goes_on_keeps_its_own_tone_and_the_ground_its_own(off_thing, off_ground):
    old = np.full((64, 96, 3), 0.5, np.float32)
    hole, thing = np.zeros((2, 64, 96), bool)
    hole[16:48, 32:80], thing[24:64, :56] = True, True
    made = old + np.where(hole & thing, off_thing, np.where(hole, off_ground, 0))[..., None].astype(np.float32)
    after = joined_in(made, old, hole, (thing,))
    assert (after[~hole] == made[~hole]).all()
    assert np.abs(after - old).max() < 0.01


def test_what_is_taken_away_itself_does_not_come_back(own, painted):
    whole = plan(holed(painted, (90, 130, 430, 410)), taken_away(), own)
    assert whole.request.restored == ()
    assert InElement(1) not in {one.where for one in whole.stages[0].told}
    assert plan(holed(painted, (420, 400, 500, 500)), taken_away(), own).request.restored == ()
    # Nor what is no longer there: somebody painted it over.
    over = np.full((SIDE, SIDE, 4), (90, 160, 80, 255), np.uint8)
    hidden = painted.with_layer(PictureLayer(painted.next_key(), "over", over))
    assert plan(holed(hidden, CORNER), taken_away(), own).request.restored == ()
    # With words of its own a hole gets what they say.
    assert plan(holed(painted, CORNER), taken_away(words="fox"), own).request.restored == ()


def test_recipes_repeat_what_came_back_and_older_ones_without(own, painted):
    sheet = holed(painted, CORNER)
    p = plan(sheet, taken_away(), own)
    recipe = recipe_of(p, 2)
    again = request_from_json(recipe)
    assert again.restored == p.request.restored
    # On a picture that nobody knows the passes of, too.
    flat = replace(sheet, layers=(PictureLayer(1, "flat", painted.flatten()),))
    assert plan(flat, again, own).request.restored == ((1, SEED),)
    assert plan(flat, taken_away(), own).request.restored == ()
    assert np.array_equal(run_take(plan(flat, again, own), own, 2).pixels, run_take(p, own, 2).pixels)
    for name in ("restores", "restored"):
        del recipe[name]
    assert plan(sheet, request_from_json(recipe), own).request.restored == ()


odd = st.none() | st.integers() | st.text(max_size=5) | st.booleans()
tables = st.dictionaries(st.sampled_from(["seed", "key", "words"]), odd)


@given(
    st.fixed_dictionaries(
        {}, optional={"kind": odd | st.just("compose"), "elements": odd | st.lists(odd | tables), "settings": odd | tables}
    )
)
def test_whoever_painted_an_element_is_told_by_sound_recipes_only(recipe):
    pixels = np.zeros((16, 16, 4), np.uint8)
    patch = Patch(2, "p", Rect(0, 0, 16, 16), pixels, np.full((16, 16), 255, np.uint8), recipe=recipe)
    sheet = Sheet(16, 16, (patch,), elements=(COTTAGE,))
    seed = painted_by(sheet, 1)
    assert seed is None or (recipe["kind"] == "compose" and seed == recipe["settings"]["seed"])
    assert painted_by(sheet, 9) is None
    sound = {"kind": "compose", "elements": [{"key": 1, "words": "white cottage"}], "settings": {"seed": 7}}
    layer = replace(patch, recipe=sound)
    assert painted_by(replace(sheet, layers=(layer,)), 1) == 7
    assert painted_by(replace(sheet, layers=(layer.changed(visible=False),)), 1) is None


# --- putting in


def test_only_the_form_of_what_is_put_in_changes_and_a_rim_round_it(own, painted):
    sheet = holed(painted, (20, 300, 120, 480))
    p = plan(sheet, taken_away(words="red fox"), own)
    assert p.request.value("form") is True
    (stage,), was = p.stages, painted.flatten().astype(int)
    (form,) = stage.shapes.values()
    laid = run_take(p, own, 2).laid_on(sheet, "fox")
    done, patch = laid.flatten().astype(int), laid.layers[-1]
    changed = (done != was).any(-1)
    far = rasterise(form, sheet.rect, SIDE, SIDE) == 0
    x0, y0, x1, y1 = form.box
    rim = 0.1 * max(x1 - x0, y1 - y0) + 4
    ys, xs = np.nonzero(changed & far)
    assert xs.min() >= x0 - rim
    assert xs.max() <= x1 + rim
    assert ys.min() >= y0 - rim
    whole = replace(taken_away(words="red fox"), more=(("form", False),))
    every = (run_take(plan(sheet, whole, own), own, 2).laid_on(sheet, "fox").flatten() != was).any(-1)
    mask = sheet.mask.read() > 0
    assert changed.sum() < 0.8 * every.sum()
    # The forecast says how much is laid over; where its rim fades on a meadow like itself, a pixel may come out as it was.
    assert p.changed == pytest.approx((patch.alpha() > 0).sum() / SIDE**2, rel=0.01)
    assert changed.sum() / SIDE**2 <= p.changed
    assert plan(sheet, whole, own).changed == pytest.approx(mask.sum() / SIDE**2, rel=0.01)
    assert not (changed & ~mask).any()


def test_where_something_has_to_go_all_of_the_mask_changes(own, painted):
    sheet = holed(painted, (90, 130, 430, 410))
    p = plan(sheet, taken_away(words="red fox"), own)
    assert p.request.value("form") is False
    assert request_from_json(recipe_of(p, 2)).value("form") is False
    (stage,) = p.stages
    assert (stage.strength(64, 64) > 0).sum() == (plan(sheet, taken_away(), own).stages[0].strength(64, 64) > 0).sum()
