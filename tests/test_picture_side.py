"""Masks, outlines, frames, scaling and compositing: mostly properties."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp
from scipy import ndimage

from waldrand.core.picture.composite import lay_over
from waldrand.core.picture.infill import push_pull
from waldrand.core.picture.patch_edge import edge_alpha
from waldrand.core.picture.resample import largest_in_cells, resize_mask, resize_picture, to_linear, to_srgb
from waldrand.core.picture.spread import spread
from waldrand.core.values.frame import FrameLimits, Rect, fitted_frame, whole_frame
from waldrand.core.values.masks import Mask, feather_inside
from waldrand.core.values.outline import Outline, freehand, rasterise

LIMITS = FrameLimits(64, 512 * 512, 256, 1024)
WHOLE = Rect(0, 0, 64, 64)
bytes_ = st.integers(0, 255)
regions = hnp.arrays(np.uint8, (24, 30), elements=st.sampled_from([0, 0, 0, 1, 128, 255]))


@given(
    hnp.arrays(np.uint8, (9, 11, 4), elements=bytes_),
    hnp.arrays(np.uint8, (9, 11, 3), elements=bytes_),
    hnp.arrays(np.uint8, (9, 11), elements=st.sampled_from([0, 0, 255, 90])),
)
def test_compositing_is_bit_exact_outside_and_the_patch_inside(below, patch, alpha):
    out = lay_over(below, patch, alpha)
    assert (out[alpha == 0] == below[alpha == 0]).all()
    assert (out[alpha == 255][..., :3] == patch[alpha == 255]).all()
    assert (out[alpha == 255][..., 3] == 255).all()


@given(bytes_, bytes_, st.integers(1, 255))
def test_compositing_equal_colours_changes_nothing_and_mixes_lie_between(a, b, alpha):
    below, patch = np.full((1, 1, 4), a, np.uint8), np.full((1, 1, 3), b, np.uint8)
    below[..., 3] = 255
    out = int(lay_over(below, patch, np.full((1, 1), alpha, np.uint8))[0, 0, 0])
    assert min(a, b) <= out <= max(a, b)


@given(regions, st.floats(0, 6), st.floats(0, 8))
def test_edge_stays_inside_its_grown_region(region, grow, feather):
    alpha = edge_alpha(region, grow, feather)
    assert (edge_alpha(region, 0, feather)[region == 0] == 0).all()
    assert (alpha >= edge_alpha(region, 0, feather)).all()
    if not region.any():
        assert not alpha.any()


@given(regions)
def test_plain_edge_is_the_region(region):
    assert ((edge_alpha(region) == 255) == (region > 0)).all()


def test_growing_follows_exact_distance_and_shrinking_undoes_a_disc():
    yy, xx = np.mgrid[:81, :81]
    d = np.hypot(yy - 40, xx - 40)
    region = (d <= 20).astype(np.uint8)
    grown = edge_alpha(region, 10) > 0
    assert grown[d <= 28.5].all()
    assert not grown[d > 31.5].any()
    assert not (edge_alpha(region, -10) > 0)[d > 11.5].any()


def test_region_reaching_the_border_is_opaque_there():
    region = np.zeros((40, 40), np.uint8)
    region[:, :20] = 255
    alpha = edge_alpha(region, 0, 8)
    assert alpha[20, 0] == 255
    assert alpha[0, 0] == 255
    assert 0 < alpha[20, 19] < 255


strokes = st.lists(st.tuples(st.floats(-20, 620), st.floats(-20, 420), st.floats(1, 60), st.floats(0, 1), st.booleans()), max_size=6)


@given(strokes)
@settings(max_examples=40)
def test_mask_reads_back_whole_and_in_parts_and_survives_arrays(dabs):
    mask = Mask(600, 400)
    for x, y, r, soft, erase in dabs:
        before = mask.read()
        mask, changed = mask.dab(x, y, r, soft, erase)
        outside = np.ones((400, 600), bool)
        outside[changed.slices] = False
        assert (mask.read()[outside] == before[outside]).all()
    full = mask.read()
    part = Rect(100, 50, 420, 399)
    assert (mask.read(part) == full[part.slices]).all()
    assert (Mask.from_array(full).read() == full).all()
    ys, xs = np.nonzero(full)
    box = mask.box()
    assert mask.empty == (not full.any())
    if len(ys):
        assert (box.x0, box.y0, box.x1, box.y1) == (xs.min(), ys.min(), xs.max() + 1, ys.max() + 1)


def test_painting_shares_untouched_tiles_and_erasing_clears():
    a, _ = Mask(1024, 1024).dab(100, 100, 50, 0.3)
    b, _ = a.dab(900, 900, 50, 0.3)
    assert b.tiles[0, 0] is a.tiles[0, 0]
    c, _ = b.dab(100, 100, 200, 0.0, erase=True)
    assert c.box().x0 > 800
    assert not a.empty


def test_soft_brush_is_grey_at_its_edge_and_does_not_harden():
    a, _ = Mask(200, 200).dab(100, 100, 50, 1.0)
    b, _ = a.dab(100, 100, 50, 1.0)
    assert (a.read() == b.read()).all()
    assert 60 < a.read()[100, 125] < 200


def test_stroke_has_no_gaps():
    mask, changed = Mask(300, 100).stroke(20, 50, 280, 50, 10, 0.0)
    assert (mask.read()[50, 20:280] == 255).all()
    assert changed.area > 0


boxes = st.tuples(st.floats(-20, 80), st.floats(-20, 80), st.floats(1, 80), st.floats(1, 80))


@given(boxes, st.sampled_from(["box", "ellipse"]))
def test_outlines_cover_their_area_inside_the_sheet(b, shape):
    x, y, w, h = b
    m = rasterise(Outline(shape, (x, y, x + w, y + h)), WHOLE, 64, 64)
    assert m.min() >= 0
    assert m.max() <= 1.0001
    inside = max(0, min(64, x + w) - max(0, x)) * max(0, min(64, y + h) - max(0, y))
    if shape == "box":
        assert m.sum() == pytest.approx(inside, abs=0.1)
    elif x >= 0 and y >= 0 and x + w <= 64 and y + h <= 64 and min(w, h) > 6:
        assert m.sum() == pytest.approx(np.pi / 4 * w * h, rel=0.03)


def test_freehand_triangle_has_half_its_box():
    m = rasterise(freehand([(0, 0), (40, 0), (0, 40)]), WHOLE, 64, 64)
    assert m.sum() == pytest.approx(800, rel=0.01)


def test_mask_outline_follows_its_box_when_moved_and_scaled():
    o = Outline("mask", (0, 0, 10, 10), mask=np.full((5, 5), 255, np.uint8)).moved(20, 10).with_box((20, 10, 50, 30))
    m = rasterise(o, WHOLE, 64, 64)
    assert m.sum() == 600
    assert m[10:30, 20:50].all()


def test_rasterising_a_part_at_another_scale_agrees_with_the_whole():
    o = Outline("ellipse", (8, 8, 56, 56))
    part = rasterise(o, Rect(0, 0, 32, 32), 64, 64)
    whole = rasterise(o, WHOLE, 128, 128)[:64, :64]
    assert np.abs(part - whole).max() < 1e-5


@pytest.mark.parametrize(
    "make", [lambda: Outline("box", (0, 0, 0, 5)), lambda: Outline("freehand", (0, 0, 1, 1)), lambda: freehand([(0, 0), (5, 0), (9, 0)])]
)
def test_outlines_without_area_are_refused(make):
    with pytest.raises(ValueError, match=r"box|points|area"):
        make()


@given(st.integers(200, 4000), st.integers(200, 3000), st.data())
def test_fitted_frames_hold_the_mask_stay_inside_and_suit_the_pack(w, h, data):
    x0, y0 = data.draw(st.integers(0, w - 2)), data.draw(st.integers(0, h - 2))
    box = Rect(x0, y0, data.draw(st.integers(x0 + 1, w)), data.draw(st.integers(y0 + 1, h)))
    f = fitted_frame(box, w, h, LIMITS)
    assert f.rect.intersect(box) == box
    assert f.rect.intersect(Rect(0, 0, w, h)) == f.rect
    assert f.width % 64 == 0 == f.height % 64
    assert min(f.width, f.height) >= 256


@given(st.integers(64, 6000), st.integers(64, 6000))
def test_whole_frame_suits_the_pack(w, h):
    f = whole_frame(w, h, LIMITS)
    assert f.width % 64 == 0 == f.height % 64
    assert 256 <= f.width <= 1024


@given(st.integers(3, 40), st.integers(3, 40), st.integers(3, 60), st.integers(3, 60), st.floats(0, 1))
def test_scaling_keeps_flat_colours_and_mask_area(h, w, h2, w2, v):
    flat = np.full((h, w, 3), v, np.float32)
    assert resize_picture(flat, h2, w2) == pytest.approx(np.full((h2, w2, 3), v), abs=2e-3)
    m = (np.arange(h * w).reshape(h, w) % 3 == 0).astype(np.float32)
    assert resize_mask(m, h2, w2).mean() == pytest.approx(m.mean(), abs=0.02 if min(h2, w2) > 2 else 1)


@given(hnp.arrays(np.float32, hnp.array_shapes(min_dims=2, max_dims=2), elements=st.floats(0, 1, width=32)), st.integers(0, 12))
def test_what_is_spread_has_the_largest_value_of_each_window(m, reach):
    assert np.array_equal(spread(m, reach), ndimage.maximum_filter(m, 2 * reach + 1, mode="constant"))


def test_black_and_white_average_in_linear_light():
    x = np.zeros((8, 8, 3), np.float32)
    x[:, ::2] = 1
    assert resize_picture(x, 2, 2).mean() == pytest.approx(float(to_srgb(np.float32(0.5))), abs=0.06)


@given(st.floats(0, 1))
def test_srgb_and_linear_are_inverse(v):
    assert float(to_srgb(to_linear(np.float32(v)))) == pytest.approx(v, abs=1e-4)


def test_cells_take_the_largest_value():
    a = np.zeros((8, 8), np.float32)
    a[3, 5] = 0.4
    assert largest_in_cells(a, 2, 2)[0, 1] == np.float32(0.4)
    with pytest.raises(ValueError, match="cells"):
        largest_in_cells(a, 3, 2)


def test_infill_keeps_what_is_known_and_continues_it():
    p = np.zeros((33, 20, 3), np.float32)
    p[:, :10] = (0.2, 0.4, 0.6)
    known = np.zeros((33, 20), np.float32)
    known[:, :10] = 1
    out = push_pull(p, known)
    assert (out[:, :10] == p[:, :10]).all()
    assert out[:, 10:] == pytest.approx(np.broadcast_to((0.2, 0.4, 0.6), (33, 10, 3)), abs=1e-4)


@given(st.floats(0, 12))
def test_feather_lies_inside(pixels):
    m = np.zeros((40, 40), np.float32)
    m[10:30, 10:30] = 1
    f = feather_inside(m, pixels)
    assert (f <= m).all()
    assert (f[m == 0] == 0).all()
    assert f[20, 20] == pytest.approx(min(1, 10 / (pixels + 1)), abs=0.02) if pixels else (f == m).all()
