"""What is painted from nearer keeps the form that it has in the whole: same figure, same sketch, and first its colours."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest
from by_hand import opened
from hypothesis import given
from hypothesis import strategies as st
from scipy import ndimage
from test_figures import with_shapes
from test_guides import cross, rgba

from waldrand.core.passes.again import from_nearer
from waldrand.core.passes.fitting import fitted_figures
from waldrand.core.passes.nearer import KEEPING, STRENGTH
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe, request_from_json
from waldrand.core.passes.repeat import repeat, reroll
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_nearer, run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.passes.watch import Painted, Step, Watch
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import LINES, PictureLayer
from waldrand.core.values.outline import Outline, rasterise
from waldrand.core.values.sheet import Sheet
from waldrand.desk.window import MainWindow

COMPOSE = Request("compose", PassSettings(steps=4))
LAKE = Element(7, "lake", Outline("box", (60, 60, 180, 180)), "blue")
SHEET = Sheet(256, 256, elements=(LAKE,), scene=SceneWords("white"))
#: Sketch pixels round a figure of this size that may change with it, and a pixel for rounding.
ROOM = 9


def near_figure(sheet: Sheet, pack, seed: int, key: int) -> np.ndarray:
    figure = fitted_figures(sheet, COMPOSE.settings, pack, seed)[key]
    return np.asarray(ndimage.distance_transform_edt(~(rasterise(figure, sheet.rect, 256, 256) > 0.5)) <= ROOM)


@pytest.mark.parametrize("seed", range(4))
@pytest.mark.parametrize("own", [None, 77])
def test_its_figure_is_the_one_of_the_whole(seed, own):
    pack = with_shapes()
    p = plan(SHEET, COMPOSE, pack)
    take = run_take(p, pack, seed)
    near = run_nearer(take, p, pack, 7, seed if own is None else own)
    changed = (near.pixels != take.pixels).any(-1)
    assert changed.any()
    assert not changed[~near_figure(SHEET, pack, seed, 7)].any()
    # The same by the plan alone, and by its recipe.
    q = plan(SHEET, from_nearer(COMPOSE, {7: own}), pack)
    assert (run_take(q, pack, seed).pixels == near.pixels).all()
    whole = near.laid_on(SHEET, "near")
    assert (repeat(picture_recipe(whole), pack).pixels == whole.flatten()).all()


def test_first_it_keeps_its_colours_then_it_is_another():
    pack = with_shapes()
    at = {
        own: plan(SHEET, from_nearer(replace(COMPOSE, settings=replace(COMPOSE.settings, seed=3)), {7: own}), pack).stages[1]
        for own in (None, 3, 4)
    }
    assert [at[own].strongest for own in (None, 3, 4)] == [KEEPING, KEEPING, STRENGTH]
    take = run_take(plan(SHEET, COMPOSE, pack), pack, 3).laid_on(SHEET, "take")
    seeds = []
    for _ in range(3):
        take, _, seed = reroll(picture_recipe(take), pack, "lake", nearer=True)
        seeds.append(seed)
    assert seeds == [3, 4, 5]


@pytest.mark.parametrize(("whole", "of_it", "strength"), [(0.3, None, 0.3), (1.0, None, KEEPING), (0.3, 0.6, 0.6)])
def test_over_a_picture_it_is_painted_no_more_strongly_than_the_whole(painted, closed, whole, of_it, strength):
    key = painted.next_key()
    sheet = replace(painted, elements=(replace(LAKE, key=key, strength=of_it),))
    request = Request("rework", PassSettings(steps=4, strength=whole, seed=5))
    near, again = (plan(sheet, from_nearer(request, {key: own}), closed).stages[1] for own in (None, 6))
    assert near.strongest == pytest.approx(strength)
    assert again.strongest == STRENGTH


def test_older_recipes_fit_in_another_figure_as_they_did():
    pack = with_shapes()
    take = run_take(plan(SHEET, from_nearer(COMPOSE, {7: 77}), pack), pack, 0)
    recipe = json.loads(json.dumps(take.recipe))
    assert request_from_json(recipe).keeps_form
    del recipe["keeps_form"]
    old = request_from_json(recipe)
    assert not old.keeps_form
    before = run_take(plan(SHEET, old, pack), pack, 0)
    bare = run_take(plan(SHEET, COMPOSE, pack), pack, 0)
    assert (before.pixels != bare.pixels).any(-1)[~near_figure(SHEET, pack, 0, 7)].any()


def test_while_it_forms_the_whole_is_seen_under_it(closed):
    p = plan(replace(SHEET, elements=(replace(LAKE, figure=False),)), from_nearer(COMPOSE, {7: None}), closed)
    steps: list[Step] = []
    run_take(p, closed, 0, Watch(steps.append))
    of_whole, of_nearer = ([s for s in steps if (s.preview.shape[0] > 128) == large] for large in (False, True))
    assert of_whole
    assert of_nearer
    assert {s.frame for s in steps} == {SHEET.rect}
    for step in of_nearer:
        assert (step.preview[..., 3] == 255).all()
        assert (step.preview[:40] == of_nearer[0].preview[:40]).all()
    assert any((step.preview != of_nearer[0].preview).any() for step in of_nearer)


@given(st.tuples(*[st.integers(0, 60)] * 2, *[st.integers(1, 3000)] * 2), st.tuples(*[st.integers(0, 60)] * 2, *[st.integers(1, 90)] * 2))
def test_what_forms_lies_over_what_was_painted(below, above):
    frame, at = (Rect(x, y, x + w, y + h) for x, y, w, h in (below, above))
    painted = Painted(np.full((frame.height, frame.width, 3), 7, np.uint8), frame)
    preview = np.full((3, 2, 4), 200, np.uint8)
    seen, rect = painted.with_forming(preview, at)
    assert rect == frame.around(at)
    assert max(seen.shape[:2]) <= 1024
    assert set(np.unique(seen[..., 0])) <= {0, 7, 200}
    share, scale = (seen[..., 0] == 200).sum(), max(1, max(rect.width, rect.height) / 1024)
    assert abs(share * scale**2 - at.width * at.height) <= scale * (at.width + at.height) + scale**2
    # Where the forming one is clear, what is under it is seen.
    clear, _ = painted.with_forming(preview * np.uint8([1, 1, 1, 0]), at)
    assert not (clear[..., 0] == 200).any()


def test_a_box_in_front_hides_no_more_than_its_figure_does():
    pack = with_shapes()
    front = Element(8, "pond", Outline("box", (60, 60, 180, 180)), "blue, left")
    behind = replace(LAKE, outline=Outline("box", (40, 40, 200, 200)), words="white", name="snow")
    sheet = Sheet(256, 256, elements=(behind, front), scene=SceneWords("red"))
    (_, stage) = plan(sheet, from_nearer(COMPOSE, {7: None}), pack).stages
    region = np.zeros((256, 256), np.uint8)
    region[stage.frame.rect.slices] = stage.region()
    pond = rasterise(fitted_figures(sheet, COMPOSE.settings, pack, 0)[8], sheet.rect, 256, 256) > 0.5
    assert not region[pond].any()
    assert (region[60:180, 60:180] > 0).any()


def test_the_same_sketch_is_told_unless_somebody_drew_it(own):
    owl = Element(1, "owl", Outline("box", (96, 96, 352, 352)), "owl", sketch=0.6)
    sheet = Sheet(512, 512, elements=(owl,), scene=SceneWords("meadow"))
    whole, near = plan(sheet, from_nearer(COMPOSE, {1: None}), own).stages
    (a,), (b,) = whole.sketches, near.sketches
    assert (a.box, a.weight) == (b.box, b.weight)
    assert (a.lines == b.lines).all()
    assert near.guided == whole.guided
    drawn = sheet.with_layer(PictureLayer(2, "by hand", rgba(255 - cross()), 96, 96, role=LINES, of=1))
    assert [stage.sketches for stage in plan(drawn, from_nearer(COMPOSE, {1: None}), own).stages] == [(), ()]
    bare = replace(COMPOSE, settings=replace(COMPOSE.settings, sketches=False))
    assert [stage.sketches for stage in plan(sheet, from_nearer(bare, {1: None}), own).stages] == [(), ()]


def test_many_things_are_forecast_to_get_lost_and_a_link_paints_them_from_nearer(app, own):
    with opened(own) as window:
        _crowd_is_mended(window)


def _crowd_is_mended(window: MainWindow) -> None:
    words = ("owl", "fox", "dog", "hare", "cat")
    elements = tuple(Element(i + 1, w, Outline("box", (20 + 95 * i, 200, 110 + 95 * i, 330)), w) for i, w in enumerate(words))
    window.document.edit(Sheet(512, 512, elements=elements, scene=SceneWords("meadow")), "lay out")
    window.refresh_forecast()
    assert "5 things share the picture" in window.passes.warnings.text()
    links = window.passes.warnings.text().split('href="mend:')[1:]
    (number,) = [link.split('"')[0] for link in links if "Paint things from nearer" in link]
    window.passes.warnings.linkActivated.emit(f"mend:{number}")
    assert window.passes.nearer.isChecked()
    window.refresh_forecast()
    assert "share the picture" not in window.passes.warnings.text()
    assert "from nearer: “owl”" in window.passes.forecast.text()
    window.document.undo.undo()
    assert not window.passes.nearer.isChecked()
    window.document.edit(window.document.sheet.without_element(5), "take away")
    window.refresh_forecast()
    assert "share the picture" not in window.passes.warnings.text()
