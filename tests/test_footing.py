"""The forecast says what would stand in the water, and gives it a bank."""

from __future__ import annotations

import re
from dataclasses import replace

import numpy as np
import pytest
from by_hand import opened, say_scene

from waldrand.core.passes.cautions import Caution
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.settings import PassSettings
from waldrand.core.told.guides import mask_on
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet

COMPOSE = Request("compose", PassSettings(seed=3))
FOX = Element(1, "reynard", Outline("box", (60, 130, 130, 200)), "red fox")


def lake(words: str = "clear day, lake", *elements: Element) -> Sheet:
    return Sheet(256, 256, elements=elements, scene=SceneWords(words))


def caution(sheet: Sheet, pack) -> Caution | None:
    return next((w for w in plan(sheet, COMPOSE, pack).warnings if "would stand in" in w.text), None)


@pytest.mark.parametrize(
    ("sheet", "said", "unsaid"),
    [
        (lake("clear day, lake, red fox, swan, birch"), ("fox", "birch"), "swan"),
        (lake("clear day, lake, bench, cloud, sun"), ("bench",), "cloud"),
        (lake("clear day, lake", FOX), ("reynard",), "swan"),
    ],
)
def test_what_would_stand_in_the_water_is_said_and_gets_a_bank(own, sheet, said, unsaid):
    found = caution(sheet, own)
    assert found is not None
    assert all(name in found.text for name in said)
    assert unsaid not in found.text
    assert found.mend is not None
    mended, request = found.mend.apply(sheet, COMPOSE)
    assert request == COMPOSE
    assert mended.elements == sheet.elements
    assert caution(mended, own) is None
    # What was said is said still, and the bank is drawn before the water.
    assert mended.scene.words.startswith(sheet.scene.words)
    before, after = (plan(s, COMPOSE, own).stages[0] for s in (sheet, mended))
    assert len(after.grounds) == len(before.grounds) + 1
    (water, bank) = (s for s in after.grounds if s.box[0] == 0 and s.box[3] == 256)
    assert water.box[1] < bank.box[1]
    assert np.median(mask_on(bank, after.frame.rect, 64, 64)[-1]) > 0.5


@pytest.mark.parametrize("seed", range(4))
@pytest.mark.parametrize("foot", [170, 200, 240])
def test_a_bank_reaches_up_to_the_feet_of_what_stands_on_it_but_leaves_some_water(own, foot, seed):
    swan = Element(2, "swan", Outline("box", (170, 110, 230, 150)), "swan")
    fox = replace(FOX, outline=Outline("box", (60, foot - 60, 130, foot)))
    stage = plan(lake("clear day, lake, river bank", fox, swan), Request("compose", PassSettings(seed=seed, figures=False)), own).stages[0]
    (water, bank) = (s.box[1] for s in stage.grounds if s.box[0] == 0 and s.box[3] == 256)
    assert bank <= max(foot - 0.03 * 256, water + 0.3 * (256 - water)) + 6
    assert bank >= water + 0.3 * (256 - water) - 6


@pytest.mark.parametrize(
    "sheet",
    [
        lake("clear day, lake, swan, sailing boat, water lily"),
        lake("clear day, meadow, red fox"),
        lake("clear day, lake, river bank, red fox"),
        lake("clear day, red fox"),
        lake("lake, moon, bird"),
        lake("lake", replace(FOX, hold=True)),
        lake("lake", FOX, Element(2, "shore", Outline("box", (0, 150, 256, 256)), "meadow")),
    ],
)
def test_nothing_is_said_where_all_have_ground(own, sheet):
    assert caution(sheet, own) is None


def test_a_pack_that_draws_no_grounds_says_nothing_of_it(closed):
    assert caution(lake("lake, fox"), closed) is None


def test_the_forecast_offers_the_bank_and_undo_takes_it_back(app, own, wait):
    with opened(own) as w:
        say_scene(w, "clear day, lake, red fox")
        wait(lambda: "would stand in" in w.passes.warnings.text())
        (link,) = re.findall(r'href="(mend:\d+)">Say “river bank” too', w.passes.warnings.text())
        w.passes.warnings.linkActivated.emit(link)
        wait(lambda: "would stand in" not in w.passes.warnings.text())
        assert w.document.sheet.scene.words == "clear day, lake, red fox, river bank"
        w.document.undo.undo()
        assert w.document.sheet.scene.words == "clear day, lake, red fox"
