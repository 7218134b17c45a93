"""Blended predictions, ladders, variants, re-rolls, forecasts with mends and seconds: without a window."""

from __future__ import annotations

import itertools
import json
from dataclasses import replace

import numpy as np
import pytest

from waldrand.core.noise.guidance import leads
from waldrand.core.noise.samplers import ANCESTRAL, SAMPLERS
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe
from waldrand.core.passes.repeat import repeat, reroll
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run, run_take
from waldrand.core.passes.series import ladder, parse_over, run_variants, vary
from waldrand.core.passes.settings import PassSettings
from waldrand.core.passes.speed import Speed, measure
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.resize import framed, scaled
from waldrand.core.values.sheet import Sheet
from waldrand.packs.closed_form import COLOURS, ClosedFormPack

LEFT_BOX, RIGHT_BOX = (slice(80, 220), slice(32, 96)), (slice(120, 180), slice(170, 214))


def composed(sheet, pack, **settings):
    return run_take(plan(sheet, Request("compose", PassSettings(**settings)), pack), pack, settings.get("seed", 0)).pixels


def near(pixels, where, colour) -> bool:
    return bool(np.abs(pixels[where].mean((0, 1)) / 255 - COLOURS[colour]).max() < 0.16)


def test_blended_predictions_place_elements_too(placed, closed):
    pixels = composed(placed, closed, method="blend", guidance=1.0, steps=12)
    assert near(pixels, LEFT_BOX, "blue") or pixels[LEFT_BOX].mean((0, 1)).argmax() == 2
    assert pixels[RIGHT_BOX].mean((0, 1)).argmax() == 0
    text = composed(placed, closed, method="text", guidance=1.0, steps=12)
    assert np.abs(text[LEFT_BOX].mean((0, 1)) - text[RIGHT_BOX].mean((0, 1))).max() < 25


def test_blending_asks_once_for_each_element_and_the_scene(placed, closed):
    def calls(sheet, **settings):
        return plan(sheet, Request("compose", PassSettings(steps=10, **settings)), closed).calls

    assert calls(placed, method="blend", guidance=1.0) == 30
    assert calls(placed, method="blend", guidance=2.0) == 40
    avoiding = placed.with_element(replace(placed.elements[0], avoid="black"))
    assert calls(avoiding, method="blend", guidance=2.0) == 50
    assert calls(avoiding, method="steer", guidance=2.0) == 20


def test_guidance_leads_only_at_the_levels_that_a_pack_states(placed):
    class Watched(ClosedFormPack):
        def __init__(self, *guided):
            super().__init__()
            self.info = replace(self.info, guided=guided)
            self.asked = []

        def answer(self, x, kept, hole, t, told, guides=None):
            self.asked.append((t, len(told)))
            return super().answer(x, kept, hole, t, told, guides)

    def made(guidance, *guided):
        pack = Watched(*guided)
        p = plan(placed, Request("compose", PassSettings(steps=10, guidance=guidance)), pack)
        pixels = run_take(p, pack, 0).pixels
        assert sum(n for _, n in pack.asked) == p.calls
        return pixels, pack.asked

    middle, asked = made(3.0, 0.3, 0.8)
    assert {n for t, n in asked if 0.3 <= t <= 0.8} == {2}
    assert {n for t, n in asked if not 0.3 <= t <= 0.8} == {1}
    everywhere, plain = made(3.0, 0.0, 1.0)[0], made(1.0, 0.0, 1.0)[0]
    assert (middle != everywhere).any()
    assert (middle != plain).any()
    assert (made(3.0, 0.0, 0.0)[0] == plain).all()
    pack = Watched(0.3, 0.8)
    done = run_take(plan(placed, Request("compose", PassSettings(steps=2)), pack), pack, 0).laid_on(placed, "take")
    masked = replace(done, mask=Mask.from_array(np.full((256, 256), 255, np.uint8)))

    def guided(kind, guidance):
        return plan(masked, Request(kind, PassSettings(guidance=guidance), "red"), pack).stages[0].guided

    # An inpaint is guided at all levels: what is new has to hold its own against its surroundings.
    assert guided("inpaint", 3.0) == (0.0, 1.0)
    assert guided("rework", 3.0) == (0.3, 0.8)
    assert guided("inpaint", 1.0) is None


@pytest.mark.parametrize("sampler", SAMPLERS)
def test_where_guidance_leads_is_kept_for_the_next_level_when_that_is_near(placed, sampler):
    class Keeping(ClosedFormPack):
        def __init__(self, kept):
            super().__init__()
            self.info = replace(self.info, guided=(0.2, 0.85), lead_kept=kept)
            self.asked = []

        def answer(self, x, kept, hole, t, told, guides=None):
            self.asked.append((t, len(told)))
            return super().answer(x, kept, hole, t, told, guides)

    made = {}
    for kept in (0.0, 0.08):
        pack = Keeping(kept)
        p = plan(placed, Request("compose", PassSettings(steps=20, sampler=sampler)), pack)
        made[kept] = run_take(p, pack, 0).pixels.astype(int), pack.asked
        assert sum(n for _, n in pack.asked) == p.calls
    (always, all_asked), (sometimes, asked) = made.values()
    assert [t for t, _ in asked] == [t for t, _ in all_asked]
    led, still = ([i for i, (_, n) in enumerate(calls) if n == 2] for calls in (all_asked, asked))
    assert len(still) <= 0.6 * len(led)
    # Never twice in a row, and nearly the same picture.
    assert all(before in still or i in still for before, i in itertools.pairwise(led))
    if sampler not in ANCESTRAL:
        assert np.abs(always - sometimes).mean() < 3


def test_the_lead_is_asked_for_wherever_levels_are_far_apart():
    assert leads([0.9, 0.8, 0.7, 0.6], (0.0, 1.0), 0.08) == ["asked"] * 4
    assert leads([0.9, 0.85, 0.8, 0.7], (0.0, 1.0), 0.08) == ["asked", "kept", "asked", "asked"]
    assert leads([0.9, 0.85], None, 0.08) == ["none", "none"]


def test_the_calls_that_are_forecast_are_the_ones_made(placed):
    class Counting(ClosedFormPack):
        asked = 0

        def answer(self, x, kept, hole, t, told, guides=None):
            self.asked += len(told)
            return super().answer(x, kept, hole, t, told, guides)

    for method, sampler in (("steer", "second"), ("blend", "ancestral"), ("text", "heun")):
        for sheet in (placed, placed.with_element(replace(placed.elements[0], avoid="black"))):
            pack = Counting()
            p = plan(sheet, Request("compose", PassSettings(steps=4, method=method, sampler=sampler)), pack)
            run_take(p, pack, 0)
            assert pack.asked == p.calls


def test_a_pack_that_cannot_steer_or_inpaint_falls_back(placed, painted, round_mask):
    pack = ClosedFormPack()
    pack.info = replace(pack.info, capabilities=frozenset())
    p = plan(placed, Request("compose"), pack)
    assert p.method == "blend"
    assert any("cannot steer" in s for s in p.sentences)
    sheet = replace(painted, mask=round_mask)
    take = next(run(plan(sheet, Request("inpaint", PassSettings(strength=1.0), "red"), pack), pack))
    done = sheet.with_layer(take.to_patch(9, "x")).flatten()
    assert (done[round_mask.read() == 0] == painted.flatten()[round_mask.read() == 0]).all()
    assert not (done == painted.flatten()).all()


def test_an_element_left_out_is_not_told_but_its_hold_holds(painted, closed):
    e = Element(5, "x", Outline("box", (0, 0, 128, 256)), "red", visible=False)
    sheet = painted.with_element(e)
    p = plan(sheet, Request("compose", PassSettings(strength=0.8)), closed)
    assert p.sheet.elements == ()
    held = painted.with_element(replace(e, hold=True))
    take = run_take(plan(held, Request("rework", PassSettings(strength=0.8)), closed), closed, 1)
    done = held.with_layer(take.to_patch(9, "x")).flatten()
    assert (done[:, :128] == painted.flatten()[:, :128]).all()


def test_a_ladder_rises_on_one_seed(painted, closed):
    rungs = ladder(painted, Request("rework", PassSettings(seed=3)), (0.9, 0.2, 0.5))
    assert [v.request.settings.strength for v in rungs] == [0.2, 0.5, 0.9]
    takes = [t for _, t in run_variants(rungs, closed)]
    assert {t.seed for t in takes} == {3}
    start = painted.flatten()[..., :3].astype(int)
    apart = [np.abs(t.pixels - start).mean() for t in takes]
    assert apart[0] < apart[1] < apart[2]
    with pytest.raises(ValueError, match="no picture"):
        ladder(Sheet(64, 64), Request("rework"))
    with pytest.raises(ValueError, match="at least two"):
        ladder(painted, Request("rework"), (0.5,))


def test_figures_are_switched_on_and_off(placed):
    ((on, off),) = vary(placed, Request("compose"), [parse_over("figures=on,off")])
    assert (on.request.settings.figures, off.request.settings.figures) == (True, False)
    with pytest.raises(ValueError, match="on or off"):
        vary(placed, Request("compose"), [parse_over("figures=often")])


def test_variants_are_a_grid_of_two_things(placed, closed):
    rows = vary(placed, Request("compose"), [parse_over("guidance=2,4"), parse_over("steps=4,8,12")])
    assert [len(r) for r in rows] == [2, 2, 2]
    assert rows[1][1].label == "guidance 4, steps 8"
    assert (rows[1][1].request.settings.guidance, rows[1][1].request.settings.steps) == (4, 8)
    (words,) = vary(placed, Request("compose"), [parse_over("blue=yellow,black")])
    assert [v.sheet.elements[0].words for v in words] == ["yellow", "black"]
    (weights,) = vary(placed, Request("compose"), [parse_over("scene-weight=0.5,2")])
    assert [v.sheet.scene.weight for v in weights] == [0.5, 2]


@pytest.mark.parametrize(
    ("over", "says"),
    [
        ("guidance", "does not say"),
        ("owl=fox", "neither a setting"),
        ("steps=many", "not a number"),
        ("strength=7", "outside"),
        ("method=x", "no method"),
    ],
)
def test_what_cannot_be_varied_is_said(placed, over, says):
    with pytest.raises(ValueError, match=says):
        vary(placed, Request("compose"), [parse_over(over)])


def test_re_rolling_one_element_changes_it_and_hardly_the_rest(placed, closed):
    take = run_take(plan(placed, Request("compose"), closed), closed, 4)
    whole = placed.with_layer(take.to_patch(9, "x"))
    recipe = picture_recipe(whole)
    again, element, seed = reroll(recipe, closed, "roof")
    assert (element.key, seed) == (2, 5)
    apart = np.abs(again.flatten().astype(int) - whole.flatten())[..., :3].mean(-1)
    assert apart[RIGHT_BOX].mean() > 10 * (apart[LEFT_BOX].mean() + 0.01)
    assert (reroll(recipe, closed, 2, 5)[0].flatten() == again.flatten()).all()
    assert (repeat(picture_recipe(again), closed).pixels == again.flatten()).all()
    near, element, seed = reroll(picture_recipe(again), closed, "roof", nearer=True)
    assert (element.key, seed) == (2, 4)
    apart = (near.flatten() != again.flatten()).any(-1)
    assert apart[RIGHT_BOX].mean() > 0.8
    assert not apart[LEFT_BOX].any()
    assert reroll(picture_recipe(near), closed, "roof", nearer=True)[2] == 5
    assert (reroll(picture_recipe(near), closed, "roof", 5)[0].flatten() == again.flatten()).all()
    with pytest.raises(ValueError, match="no element “owl”"):
        reroll(recipe, closed, "owl")


def mended(sheet, request, pack, label):
    p = plan(sheet, request, pack)
    mend = next(w.mend for w in p.warnings if w.mend is not None and w.mend.label == label)
    sheet, request = mend.apply(sheet, request)
    after = plan(sheet, request, pack)
    assert all(w.mend is None or w.mend.label != label for w in after.warnings)
    return sheet, request


def test_every_mend_silences_its_warning(placed, painted, closed):
    compose = Request("compose")
    first = placed.elements[0]

    def with_first(**values):
        return placed.with_element(replace(first, **values))

    assert mended(with_first(words="bleu"), compose, closed, "Say “blue”")[0].elements[0].words == "blue"
    mended(with_first(avoid="blue"), compose, closed, "Do not avoid it")
    mended(with_first(outline=first.outline.moved(-60, 0)), compose, closed, "Move it inside")
    mended(with_first(outline=first.outline.moved(-600, 0)), compose, closed, "Bring it back")
    mended(with_first(outline=first.outline.with_box((10, 10, 20, 20))), compose, closed, "Make it larger")
    mended(with_first(weight=4.0), compose, closed, "Weigh it like the scene")
    hidden = placed.with_element(replace(placed.elements[1], outline=Outline("box", (0, 0, 256, 256))))
    assert mended(hidden, compose, closed, "Bring it nearest")[0].elements[-1].name == "lake"
    big = replace(placed, width=1024, height=1024)
    assert mended(big, compose, closed, "Make it 256 x 256")[0].width == 256
    mended(painted, Request("rework", PassSettings(strength=0.05)), closed, "Use 0.35")
    grey = np.zeros((1024, 1024), np.uint8)
    grey[256:512, 320:576] = 255
    layer = PictureLayer(1, "p", np.full((1024, 1024, 4), 255, np.uint8))
    wide = Sheet(1024, 1024, (layer,), scene=SceneWords("green"), mask=Mask.from_array(grey))
    _, request = mended(wide, Request("inpaint", PassSettings(margin=0.0), "red"), closed, "More context")
    assert request.settings.margin > 0


def test_too_many_words_in_a_phrase_are_said(placed, closed):
    long = placed.with_element(replace(placed.elements[0], words="red " * 9))
    assert any("more words than the model reads" in w.text for w in plan(long, Request("compose"), closed).warnings)


def test_seconds_follow_calls_and_frame(placed, closed):
    speed = Speed(0.1, 0.001, 0.01)
    assert speed.seconds(10, 100) == pytest.approx(10 * 0.2 + 1)
    p = plan(placed, Request("compose", PassSettings(steps=10)), closed, speed)
    assert p.seconds == pytest.approx(speed.seconds(p.calls, 256))
    assert plan(placed, Request("compose"), closed).seconds is None
    assert p.memory > 0
    slower = speed.corrected(expected=1.0, took=4.0)
    assert slower.seconds(10, 100) == pytest.approx(2 * speed.seconds(10, 100))
    assert measure(closed).seconds(10, 100) > 0
    # What draws quick passes is timed for itself.
    quick = replace(speed, quick=0.001).corrected(expected=1.0, took=4.0)
    p = plan(placed, Request("compose", PassSettings(quick=True)), closed, quick)
    assert p.seconds == pytest.approx(quick.answers(p.calls, 256) + 2 * 0.001 * 256)
    assert measure(closed).quick is not None


@pytest.mark.parametrize("sampler", ["heun", "ancestral"])
def test_every_sampler_repeats_and_re_rolls_one_element_alone(placed, closed, sampler):
    first = composed(placed, closed, sampler=sampler, seed=3)
    assert (first == composed(placed, closed, sampler=sampler, seed=3)).all()
    pinned = placed.with_element(replace(placed.elements[1], seed=77))
    apart = np.abs(composed(pinned, closed, sampler=sampler, seed=3).astype(int) - first).mean(-1)
    assert apart[RIGHT_BOX].mean() > 10 * (apart[LEFT_BOX].mean() + 0.01)


def test_spacing_of_levels_changes_the_take_and_is_checked(placed, closed):
    assert (composed(placed, closed, spacing=4.0) != composed(placed, closed)).any()
    with pytest.raises(ValueError, match="spacing"):
        PassSettings(spacing=0.0)


def test_detail_computes_finer_says_so_and_repeats(placed, closed):
    request = Request("compose", PassSettings(detail=1.5))
    p = plan(placed, request, closed)
    assert (p.frame.width, p.frame.height) == (384, 384)
    assert any("computed at 384 x 384" in s for s in p.sentences)
    assert p.calls == plan(placed, Request("compose"), closed).calls
    caution = next(c for c in p.warnings if "finer than" in c.text)
    assert caution.mend.apply(placed, request) == (placed, Request("compose"))
    take = run_take(p, closed, 5)
    assert take.pixels.shape == (256, 256, 3)
    done = take.laid_on(placed, "take")
    assert (repeat(picture_recipe(done), closed).pixels == done.flatten()).all()
    # A light rework is told by its picture what stands where; a strong one composes anew.
    cautioned = [
        any("finer than" in c.text for c in plan(done, Request("rework", PassSettings(detail=1.5, strength=s)), closed).warnings)
        for s in (0.4, 1.0)
    ]
    assert cautioned == [False, True]
    masked = replace(done, mask=Mask.from_array(np.pad(np.full((60, 60), 255, np.uint8), 98)))
    coarse, fine = (plan(masked, Request("inpaint", PassSettings(detail=d)), closed).frame for d in (1.0, 1.5))
    assert fine.scale > 1.3 * coarse.scale
    with pytest.raises(ValueError, match="Detail goes from"):
        PassSettings(detail=3.0)


def test_older_recipes_without_detail_are_computed_as_before(placed, closed):
    done = run_take(plan(placed, Request("compose"), closed), closed, 5).laid_on(placed, "take")
    recipe = json.loads(json.dumps(picture_recipe(done)))
    del recipe["passes"][0]["recipe"]["settings"]["detail"]
    assert (repeat(recipe, closed).pixels == done.flatten()).all()


def test_cropping_keeps_what_is_seen_and_what_lies_outside(placed, closed):
    take = run_take(plan(placed, Request("compose"), closed), closed, 4)
    whole = placed.with_layer(take.to_patch(9, "x"))
    cut = framed(whole, Rect(32, 16, 192, 240))
    assert (cut.flatten() == whole.flatten(Rect(32, 16, 192, 240))).all()
    assert (framed(cut, Rect(-32, -16, 224, 240)).flatten() == whole.flatten()).all()
    recipe = picture_recipe(cut)
    assert recipe["passes"][0]["at"] == [-32, -16]
    assert recipe["passes"][0]["recipe"]["sheet"] == [256, 256]
    with pytest.raises(ValueError, match="too small"):
        framed(whole, Rect(0, 0, 4, 4))


def test_scaling_there_and_back_hardly_changes_a_smooth_picture():
    yy, xx = np.mgrid[:64, :96]
    pixels = np.stack([xx * 2, yy * 3, xx + yy, np.full_like(xx, 255)], -1).astype(np.uint8)
    e = Element(2, "e", Outline("ellipse", (10, 10, 40, 40)), feather=4)
    sheet = Sheet(96, 64, (PictureLayer(1, "p", pixels),), (e,), SceneWords("x"))
    big = scaled(sheet, 192, 128)
    assert big.elements[0].outline.box == (20, 20, 80, 80)
    assert big.elements[0].feather == 8
    back = scaled(big, 96, 64).flatten().astype(int)
    assert np.abs(back - pixels)[4:-4, 4:-4].max() <= 4
