"""Divisions, shares, outlines changed by hand, colour maps, emphasis: what laying out is made of."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from waldrand.core.values.colour_map import colour_map, regions
from waldrand.core.values.dividing import divide, draggable, move_line
from waldrand.core.values.division import SharesError, cuts, parse_shares
from waldrand.core.values.element import Element, SceneWords, phrases
from waldrand.core.values.emphasis import carried, emphasised, weighed_phrases
from waldrand.core.values.frame import Rect
from waldrand.core.values.outline import Outline, freehand, rasterise
from waldrand.core.values.shaping import (
    aligned,
    drawn,
    grown,
    inverted,
    joined,
    mirrored,
    polygon,
    rotated,
    smoothed,
    snap,
    with_new_point,
    with_point,
    without_point,
)
from waldrand.core.values.sheet import Sheet

SHEET = Rect(0, 0, 128, 96)
boxes = st.tuples(st.integers(2, 60), st.integers(2, 40), st.integers(8, 60), st.integers(8, 50)).map(
    lambda v: (v[0], v[1], v[0] + v[2], v[1] + v[3])
)
outlines = st.builds(Outline, st.sampled_from(["box", "ellipse"]), boxes) | boxes.map(
    lambda b: freehand([(b[0], b[1]), (b[2], b[1] + 3), (b[0] + 5, b[3])])
)


def area(o: Outline, rect: Rect = SHEET) -> float:
    return float(drawn(o, rect).sum()) / 255


def test_shares_parse_and_say_where_they_do_not():
    assert parse_shares("1, 1, 2") == (1, 1, 2)
    assert parse_shares("3;.5") == (3, 0.5)
    assert cuts((1, 1, 2)) == (0, 0.25, 0.5, 1)
    for text, at in (("1, x, 2", 3), ("1,,2", 2), ("", 0), ("1, 0", 3), ("1, -2", 3)):
        with pytest.raises(SharesError) as error:
            parse_shares(text)
        assert error.value.at == at


@given(st.lists(st.floats(0.5, 9), min_size=1, max_size=5), st.lists(st.floats(0.5, 9), min_size=1, max_size=4))
def test_parts_tile_what_was_divided(across, down):
    sheet = divide(Sheet(512, 384), tuple(across), tuple(down))
    covered = sum(rasterise(e.outline, sheet.rect, 384, 512) for e in sheet.elements)
    assert np.allclose(covered, 1, atol=1e-4)
    assert len({e.name for e in sheet.elements}) == len(across) * len(down)


def test_parts_of_a_round_element_fill_it_and_keep_its_settings():
    e = Element(3, "pond", Outline("ellipse", (20, 20, 100, 80)), "lake", weight=1.5, seed=4)
    sheet = divide(Sheet(128, 96, elements=(Element(1, "back", Outline("box", (0, 0, 128, 96))), e)), (1, 1), (1,), 3)
    assert [x.name for x in sheet.elements] == ["back", "pond 1", "pond 2"]
    assert all((x.weight, x.seed, x.words) == (1.5, 4, "") for x in sheet.elements[1:])
    together = sum(drawn(x.outline, SHEET).astype(int) for x in sheet.elements[1:])
    assert np.abs(together - drawn(e.outline, SHEET)).max() <= 2


def test_dividing_lines_stay_draggable_until_a_part_is_changed():
    sheet = divide(Sheet(200, 100), (1, 1, 2))
    (division,) = draggable(sheet)
    moved = move_line(sheet, division, "across", 1, 80)
    assert [e.outline.box for e in moved.elements] == [(0, 0, 80, 100), (80, 0, 100, 100), (100, 0, 200, 100)]
    squeezed = move_line(moved, draggable(moved)[0], "across", 1, 500)
    assert squeezed.elements[1].outline.box[0] == pytest.approx(96)
    first = moved.elements[0]
    changed = moved.with_element(replace(first, outline=first.outline.moved(1, 0)))
    assert draggable(changed) == ()
    assert draggable(moved.with_element(replace(first, words="owl")))


def test_a_part_can_be_divided_again():
    sheet = divide(Sheet(200, 100), (1, 1))
    sheet = divide(sheet, (1,), (1, 3), sheet.elements[0].key)
    assert [e.outline.box for e in sheet.elements] == [(0, 0, 100, 25), (0, 25, 100, 100), (100, 0, 200, 100)]
    with pytest.raises(ValueError, match="too small"):
        divide(sheet, (1, 1000))


@given(outlines, st.floats(-170, 170))
def test_turning_keeps_the_area_and_turning_back_the_shape(o, degrees):
    big = Rect(-80, -80, 220, 200)
    turned = rotated(o, degrees)
    assert area(turned, big) == pytest.approx(area(o, big), rel=0.05, abs=6)
    back = rotated(turned, -degrees)
    assert np.abs(np.array(back.box) - o.box).max() < 3.5 or o.shape == "freehand"


@given(outlines)
def test_mirroring_twice_is_nothing_and_inverting_covers_the_rest(o):
    assert np.abs(drawn(mirrored(mirrored(o)), SHEET).astype(int) - drawn(o, SHEET)).max() <= 1
    assert area(inverted(o, SHEET)) + area(o) == pytest.approx(SHEET.area, abs=1)


@given(outlines, st.floats(1, 5))
def test_growing_covers_and_shrinking_is_covered(o, pixels):
    assert (drawn(grown(o, pixels), SHEET) >= drawn(o, SHEET).astype(int) - 130).all()
    if min(o.box[2] - o.box[0], o.box[3] - o.box[1]) > 4 * pixels and o.shape != "freehand":
        assert area(grown(o, -pixels)) < area(o)


def test_an_outline_cannot_shrink_to_nothing():
    with pytest.raises(ValueError, match="Nothing would be left"):
        grown(Outline("box", (10, 10, 20, 20)), -6)
    with pytest.raises(ValueError, match="Nothing would be left"):
        joined(Outline("box", (10, 10, 20, 20)), Outline("box", (0, 0, 40, 40)), cut=True)


@given(outlines, outlines)
def test_joining_and_cutting_add_up(a, b):
    both = area(joined(a, b))
    only = 0.0
    if (np.minimum(drawn(a, SHEET), 255 - drawn(b, SHEET)) > 0).any():
        only = area(joined(a, b, cut=True))
    assert both >= max(area(a), area(b)) - 3
    assert only <= area(a) + 3
    assert both <= only + area(b) + 0.5 * (sum(a.box) + sum(b.box))


def test_smoothing_rounds_corners_off():
    o = Outline("box", (20, 20, 80, 80))
    soft = drawn(smoothed(o, 6), SHEET)
    assert soft[21, 21] < 128 < soft[50, 50]


def test_points_can_be_moved_added_and_taken_away():
    o = with_point(Outline("box", (10, 10, 50, 50)), 0, 0, 0)
    assert polygon(o)[0] == pytest.approx((0, 0))
    more = with_new_point(o, 50, 30)
    assert len(polygon(more)) == 5
    assert area(more) == pytest.approx(area(o), abs=1)
    assert len(polygon(without_point(more, 2))) == 4
    with pytest.raises(ValueError, match="three"):
        without_point(freehand([(0, 0), (9, 0), (0, 9)]), 0)


def test_snapping_finds_the_nearest_line_within_reach():
    assert snap((97.0, 150.0), [0, 100, 200], 5) == (3.0, 100)
    assert snap((90.0,), [0, 100, 200], 5) == (0.0, None)
    assert aligned((0, 0, 10, 10), (50, 50, 100, 100), "right") == (90, 0, 100, 10)
    assert aligned((0, 0, 10, 10), (50, 50, 100, 100), "middle") == (0, 70, 10, 80)


def flat_map() -> np.ndarray:
    picture = np.zeros((90, 120, 4), np.uint8)
    picture[...] = (250, 240, 200, 255)
    picture[20:70, 10:50] = (200, 40, 40, 255)
    picture[40:80, 60:110] = (40, 60, 200, 255)
    return picture


def test_each_colour_of_a_map_becomes_an_element_even_through_jpeg(tmp_path):
    from PIL import Image

    from waldrand.files.pictures import read_picture

    path = tmp_path / "map.jpg"
    Image.fromarray(flat_map()[..., :3]).save(path, quality=70)
    found = regions(read_picture(path).pixels)
    assert len(found) == 3
    red = next(r for r in found if r.colour[0] > 150 and r.colour[1] < 100)
    assert np.abs(np.array(red.outline.box) - (10, 20, 50, 70)).max() <= 2
    assert sum((drawn(r.outline, Rect(0, 0, 120, 90)) > 127).sum() for r in found) == 120 * 90


def test_a_written_map_reads_back_as_the_same_layout():
    elements = (Element(1, "a", Outline("ellipse", (10, 10, 70, 60))), Element(2, "b", Outline("box", (40, 30, 110, 80))))
    pixels = colour_map(Sheet(120, 90, elements=elements))
    found = {r.outline.box for r in regions(pixels)}
    assert (40, 30, 110, 80) in found
    assert len(found) == 2


def test_a_photograph_is_refused_as_a_map():
    noise = np.random.default_rng(0).integers(0, 255, (64, 64, 4)).astype(np.uint8)
    noise[..., 3] = 255
    with pytest.raises(ValueError, match="No flat colours"):
        regions(noise)
    yy, xx = np.mgrid[:200, :200]
    shaded = np.stack([xx, yy, 255 - xx, np.full_like(xx, 255)], -1).astype(np.uint8)
    with pytest.raises(ValueError, match="shaded, not flat"):
        regions(shaded)


words = st.lists(st.sampled_from(["red fox", "owl", "moon", "old birch"]), min_size=1, max_size=4, unique=True)


@given(words, st.integers(0, 40), st.floats(-1, 1))
def test_emphasis_follows_its_phrase_through_edits(said, at, change):
    text = ", ".join(said)
    spans = emphasised(text, (), min(at, len(text)), change)
    assert [p for p, _ in weighed_phrases(text, spans)] == phrases(text)
    for phrase, factor in weighed_phrases(text, spans):
        longer = f"tent, {text}, lake"
        assert dict(weighed_phrases(longer, carried(text, spans, longer)))[phrase] == factor


def test_emphasis_is_checked_and_weighs_the_phrase(closed):
    from waldrand.core.told.said import said_of_elements, said_of_scene

    e = Element(1, "x", Outline("box", (0, 0, 64, 64)), "blue, red", weight=1.5, emphasis=((6, 9, 2.0),))
    sheet = Sheet(64, 64, elements=(e,), scene=SceneWords("white", emphasis=((0, 5, 0.5),)))
    told = said_of_scene(sheet.scene)[0] + said_of_elements(sheet)[0]
    assert [(one.phrase, one.weight) for one in told] == [("white", 0.5), ("blue", 1.5), ("red", 3.0)]
    with pytest.raises(ValueError, match="outside its words"):
        SceneWords("white", emphasis=((2, 9, 1.5),))
    with pytest.raises(ValueError, match="Emphasis goes from"):
        SceneWords("white", emphasis=((0, 5, 9.0),))


@given(st.integers(1, 5000), st.integers(1, 9), st.integers(1, 9), st.integers(1, 200))
def test_sums_and_shares_are_worked_out(a, b, c, percent):
    from waldrand.desk.columns.size_field import worked_out

    assert worked_out(f"{a} * {b}/{c}", 0) == pytest.approx(a * b / c)
    assert worked_out(f"{percent}%", 800) == pytest.approx(8 * percent)
    assert worked_out(f"({a} + {b}) - 2,5", 0) == pytest.approx(a + b - 2.5)


@given(st.text(max_size=70))
def test_nonsense_is_never_worked_out_to_more_than_a_number(text):
    from waldrand.desk.columns.size_field import worked_out

    try:
        value = worked_out(text, 100)
    except ValueError:
        return
    assert abs(value) < 1e6
