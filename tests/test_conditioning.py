"""What the model is told, where, and how strongly; and recipes as plain values."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from waldrand.core.packs import ELEMENT, SCENE, Pack
from waldrand.core.passes.kinds import kind_of
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.settings import PassSettings
from waldrand.core.passes.strength import masked_strength
from waldrand.core.told.voices import element_masks, to_rows
from waldrand.core.values.as_json import element_from_json, element_to_json, grey_from_json, grey_to_json
from waldrand.core.values.element import Element, SceneWords, phrases
from waldrand.core.values.frame import Rect, WorkFrame
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline, freehand
from waldrand.core.values.sheet import Sheet
from waldrand.desk.draft import Draft
from waldrand.packs.closed_form import ClosedFormPack

FRAME = WorkFrame(Rect(0, 0, 256, 256), 256, 256)
COMPOSE = Request("compose")


def lines_of(sheet: Sheet, request: Request, pack: Pack | None = None):
    """What a pass tells a pack, its lines' outlines in cells."""
    pack = ClosedFormPack() if pack is None else pack
    kind = kind_of(request.kind)
    if kind.masked and not sheet.has_picture:
        sheet = sheet.with_layer(PictureLayer(99, "ground", np.full((sheet.height, sheet.width, 4), 255, np.uint8)))
    return kind.stages(sheet, request, pack, request.settings.seed)[0].voices(pack)[0]


@given(st.lists(st.text(st.characters(exclude_characters=",;\n"), max_size=8), max_size=6), st.sampled_from([",", ";", "\n", " , "]))
def test_phrases_are_what_stands_between_commas(pieces, comma):
    assert phrases(comma.join(pieces)) == [p.strip() for p in pieces if p.strip()]


def test_scene_and_house_words_are_told_everywhere_and_elements_in_their_place(placed):
    sheet = replace(placed, scene=SceneWords("white, black", "yellow", "green", "red", 0.7))
    lines = lines_of(sheet, COMPOSE)
    assert [(x.owner, x.phrase, x.weight) for x in lines.told[:3]] == [
        ("scene", "white", 0.7),
        ("scene", "black", 0.7),
        ("house", "green", 0.7),
    ]
    assert all(x.outline is None for x in lines.told[:3])
    lake = next(x for x in lines.told if x.owner == "lake")
    assert lake.outline is not None
    assert lake.outline[8, 4] == 1
    assert lake.outline[8, 12] == 0
    assert [x.phrase for x in lines.away] == ["yellow", "red"]


@pytest.mark.parametrize(
    ("words", "told"),
    [
        ("girl, black hair, sitting", ["girl black hair sitting"]),
        ("black hair, girl", ["black hair girl"]),
        ("fox, sitting, cottage, lit", ["fox sitting", "cottage lit"]),
        ("lantern", ["lantern"]),
        ("flumph, lit", ["flumph lit"]),
    ],
)
def test_what_is_said_of_a_thing_is_told_with_it(own, words, told):
    e = Element(1, "one", Outline("box", (16, 64, 128, 240)), words)
    assert [x.phrase for x in lines_of(Sheet(256, 256, elements=(e,)), COMPOSE, own).told] == told
    inpaint = Request("inpaint", PassSettings(), words)
    sheet = Sheet(256, 256, mask=Mask.from_array(np.full((256, 256), 255, np.uint8)))
    assert [x.phrase for x in lines_of(sheet, inpaint, own).told] == told


def test_of_the_scene_things_take_what_is_said_of_them_and_the_whole_stays_by_itself(own):
    sheet = Sheet(256, 256, scene=SceneWords("meadow, sunset, girl, sitting, winter, flat shapes, lit, fox"))
    by_words = Request("compose", PassSettings(places=False))
    assert [x.phrase for x in lines_of(sheet, by_words, own).told] == [
        "meadow",
        "sunset",
        "girl sitting",
        "winter",
        "flat shapes",
        "lit",
        "fox",
    ]


def test_phrases_that_count_differently_or_would_be_too_long_are_told_apart(own):
    outline = Outline("box", (16, 64, 128, 240))
    louder = Element(1, "one", outline, "girl, blue dress", emphasis=((6, 16, 1.4),))
    long = Element(2, "two", outline, "woman, red dress, black hair, hat, front view, standing, smiling")
    all_over = Request("compose", PassSettings(clothes_apart=False))
    lines = lines_of(Sheet(256, 256, elements=(louder, long)), all_over, own).told
    assert [(x.phrase, x.weight) for x in lines[:2]] == [("girl", 1.0), ("blue dress", 1.4)]
    assert all(len(own.read(x.phrase)[0]) <= own.info.phrase_length for x in lines)
    assert " ".join(x.phrase for x in lines if x.owner == "two") == long.words.replace(",", "")


def test_near_outlines_are_cut_out_of_far_ones(placed):
    near = Element(9, "near", Outline("box", (16, 64, 64, 240)), "green")
    far, _, front = element_masks(placed.with_element(near).elements, FRAME)
    assert far[150, 40] == 0
    assert far[150, 100] == 1
    assert (far + front).max() <= 1


def test_feather_softens_inside_only(placed):
    e = replace(placed.elements[0], feather=20.0)
    hard, soft = (element_masks(s.elements, FRAME)[0] for s in (placed, placed.with_element(e)))
    assert (soft <= hard).all()
    assert 0 < soft[150, 20] < 1


def test_held_elements_are_not_told(placed, closed):
    lines = lines_of(placed.with_element(replace(placed.elements[0], hold=True)), COMPOSE)
    assert [x.owner for x in lines.told] == ["scene", "roof"]


def test_an_inpaint_is_one_element_smaller_than_its_hole_and_guided_towards_it(painted):
    grey = np.zeros((256, 256), np.uint8)
    grey[64:192, 64:192] = 255
    sheet = replace(painted, mask=Mask.from_array(grey))
    lines = lines_of(sheet, Request("inpaint", PassSettings(), "red", "blue"))
    (scene, thing), (kept, avoided) = lines.told, lines.away
    assert (scene.phrase, kept.phrase) == ("green", "green")
    assert avoided.phrase == "blue"
    assert thing.outline.sum() == 36
    assert thing.outline[5, 5] == 1
    assert thing.outline[4, 4] == 0


def test_text_only_has_no_outlines(placed):
    assert all(x.outline is None for x in lines_of(placed, Request("compose", PassSettings(method="text"))).told)


def test_rows_hold_ids_kinds_and_weights_and_leave_out_the_unknown(placed, closed):
    sheet = placed.with_element(Element(9, "odd", Outline("box", (0, 0, 60, 60)), "flumph", weight=2.0))
    rows = to_rows(lines_of(sheet, COMPOSE).told, closed, (16, 16))
    assert rows.kind.tolist() == [SCENE, ELEMENT, ELEMENT]
    assert rows.ids.shape == (3, 8)
    assert rows.outline[1].sum() > 0
    empty = to_rows((), closed, (16, 16))
    assert empty.kind.tolist() == [0]
    assert not empty.ids.any()


def test_more_phrases_than_the_model_reads_are_refused(placed, closed):
    sheet = replace(placed, scene=SceneWords(",".join(["red"] * 40)))
    with pytest.raises(ValueError, match="at most 32"):
        to_rows(lines_of(sheet, COMPOSE).told, closed, (16, 16))
    assert any("at most 32" in c.text for c in plan(sheet, COMPOSE, closed).warnings)


@given(st.floats(0, 1), st.integers(0, 255))
def test_strength_is_the_masks_grey_times_the_passes(strength, grey):
    layer = PictureLayer(1, "p", np.full((32, 32, 4), 255, np.uint8))
    sheet = Sheet(32, 32, (layer,), mask=Mask.from_array(np.full((32, 32), grey, np.uint8)))
    s = masked_strength(strength, sheet.mask, sheet.elements, sheet.rect, 32, 32)
    assert s == pytest.approx(np.full((32, 32), strength * grey / 255), abs=1e-6)


def test_without_a_picture_strength_is_one(placed, closed):
    stage = plan(placed, Request("compose", PassSettings(strength=0.2)), closed).stages[0]
    assert (stage.strength(256, 256) == 1).all()
    assert stage.strongest == 1


def test_shapes_that_do_not_suit_the_model_are_told(placed, closed):
    long = plan(replace(placed, width=2048, height=128), COMPOSE, closed)
    assert any("stretched" in c.text for c in long.warnings)
    assert not any("stretched" in c.text for c in plan(placed, COMPOSE, closed).warnings)


@given(hnp.arrays(np.uint8, hnp.array_shapes(min_dims=2, max_dims=2, max_side=40)))
def test_grey_pictures_come_back_from_json(a):
    assert (grey_from_json(grey_to_json(a)) == a).all()


@pytest.mark.parametrize("harm", [{"deflate": "!!"}, {"width": 9}, {"height": 0}, {"width": 10**9}])
def test_damaged_grey_pictures_are_told(harm):
    with pytest.raises(ValueError, match=r"mask"):
        grey_from_json(grey_to_json(np.zeros((4, 5), np.uint8)) | harm)


@given(st.text(max_size=20), st.floats(0, 4), st.none() | st.floats(0, 1), st.none() | st.integers(0, 2**31 - 1), st.booleans())
def test_elements_come_back_from_json(words, weight, strength, seed, hold):
    e = Element(3, "x", freehand([(0, 0), (9, 1), (4, 8)]), words, words, weight, strength, 2.5, seed, hold)
    assert element_to_json(element_from_json(element_to_json(e))) == element_to_json(e)


def test_drafts_come_back_from_json_and_damage_is_told():
    d = Draft("rework", PassSettings(steps=7, seed=3), "red", "blue", 5).with_strength(0.42)
    assert Draft.from_json(d.to_json()) == d
    assert d.request().settings.strength == 0.42
    assert Draft.from_json({}) == Draft()
    with pytest.raises(ValueError, match="damaged"):
        Draft.from_json({"pass": 3})


def test_unknown_kinds_of_pass_are_refused(placed, closed):
    with pytest.raises(ValueError, match="no kind of pass"):
        plan(placed, Request("dream"), closed)
