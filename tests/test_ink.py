"""Ink: the lines of what is drawn go over what is painted, where it is painted anew."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest
from by_hand import drag, opened
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from test_guides import commands_and_layouts_know, cross, files, rgba, told  # noqa: F401

from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe, settings_from_json
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.picture.inking import inked
from waldrand.core.refused import Refused
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.layers import LINES
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet

sides = st.integers(6, 40)
shares = st.floats(0, 1, width=32)


def made(sheet: Sheet, pack, kind: str = "compose", **more) -> np.ndarray:
    request = Request(kind, PassSettings(**({"steps": 4, "seed": 3} | more)))
    return run_take(plan(sheet, request, pack), pack, 3).laid_on(sheet, "take").flatten()[..., :3].astype(int)


@given(st.data(), sides, sides)
def test_ink_only_darkens_and_only_at_lines(data, h, w):
    picture = data.draw(arrays(np.float32, (h, w, 3), elements=shares))
    lines = data.draw(arrays(np.float32, (h, w), elements=st.sampled_from([0.0, 0.0, 0.0, 0.5, 1.0])))
    amount = data.draw(arrays(np.float32, (h, w), elements=shares))
    out = inked(picture, lines, amount)
    assert (out <= picture + 1e-6).all()
    assert (out >= 0).all()
    far = np.ones((h, w), bool)
    for y, x in np.argwhere(lines > 0):
        far[max(0, y - 3) : y + 4, max(0, x - 3) : x + 4] = False
    assert (out[far] == picture[far]).all()
    assert (out[amount == 0] == picture[amount == 0]).all()
    assert (inked(picture, 0 * lines, amount) == picture).all()


def test_lines_get_darker_the_more_ink_there_is(closed):
    # Told for the first steps only, so that the model itself paints no line.
    sheet = told(LINES, rgba(255 - cross()), acts=(0.0, 0.1))
    pictures = [made(sheet, closed, ink=much) for much in (0.0, 0.5, 1.0)]
    on = cross() > 128
    dark = [p[on].mean() for p in pictures]
    assert dark[0] > dark[1] + 10 > dark[2] + 20
    assert all((p[10:80, 10:80] == pictures[0][10:80, 10:80]).all() for p in pictures)


def test_the_sketch_of_a_figure_is_inked_but_not_what_lies_behind_it(own):
    e = Element(1, "owl", Outline("box", (64, 64, 192, 192)), "owl")
    sheet = Sheet(256, 256, elements=(e,), scene=SceneWords("meadow"))
    plain, ink = (made(sheet, own, steps=3, ink=much) for much in (0.0, 1.0))
    changed = (plain != ink).any(-1)
    assert changed[64:192, 64:192].mean() > 0.02
    outside = changed.copy()
    outside[56:200, 56:200] = False
    assert not outside.any()
    assert not (made(sheet, own, steps=3, ink=1.0, sketches=False) != made(sheet, own, steps=3, sketches=False)).any()


def test_what_an_inpaint_does_not_cover_gets_no_ink(painted, closed):
    mask = np.zeros((256, 256), np.uint8)
    mask[:, :128] = 255
    drawn = told(LINES, rgba(255 - cross()), acts=(0.0, 0.1)).layers[0]
    sheet = replace(painted.with_layer(replace(drawn, key=painted.next_key())), mask=Mask.from_array(mask))
    before = sheet.flatten()[..., :3].astype(int)
    after = made(sheet, closed, "inpaint", ink=1.0)
    assert (after[:, 128:] == before[:, 128:]).all()
    assert (after[:, :128] != made(sheet, closed, "inpaint")[:, :128]).any()


def test_recipes_repeat_it_and_older_ones_have_none(closed):
    assert settings_from_json({"steps": 5}).ink == 0
    sheet = told(LINES, rgba(255 - cross()))
    done = run_take(plan(sheet, Request("compose", PassSettings(steps=4, ink=0.7)), closed), closed, 3).laid_on(sheet, "take")
    recipe = json.loads(json.dumps(picture_recipe(done)))
    assert (repeat(recipe, closed).pixels == done.flatten()).all()


@pytest.mark.parametrize("much", [-0.1, 1.5, float("nan")])
def test_what_is_outside_its_range_is_refused(much):
    with pytest.raises(Refused, match="Ink goes"):
        PassSettings(ink=much)


def test_commands_and_layouts_know_it(files, capsys):  # noqa: F811
    commands_and_layouts_know(files, capsys, "ink", "0", "0.8", "3")


def test_the_window_offers_ink_where_something_is_drawn(app, painted, closed, wait):
    with opened(closed) as desk:
        desk.document.edit(Sheet(256, 256, scene=SceneWords("white")), "begin")
        column = desk.passes
        assert not column.ink.isVisibleTo(column)
        desk.rail.tools["pen"].trigger()
        drag(desk, 40, 100, 200, 100)
        assert column.ink.isVisibleTo(column)
        column.takes.setValue(1)
        column.ink.box.setValue(0.6)
        assert desk.document.draft.settings.ink == 0.6
        column.askers["ink"].click()
        wait(lambda: not desk.runner.running and len(desk.tray.takes) == 4)
        dark = [t.take.pixels[98:103, 60:180].mean() for t in desk.tray.takes]
        assert [t.special for t in desk.tray.takes] == [f"ink {v}" for v in ("0", "0.3", "0.6", "1")]
        assert dark == sorted(dark, reverse=True)
        assert dark[0] > dark[3] + 10
        desk.document.undo.undo()
        assert desk.document.draft.settings.ink == 0
        column.kinds["refine"].click()
        assert not column.ink.isVisibleTo(column)
