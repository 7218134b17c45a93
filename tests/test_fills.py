"""Holes filled: smoothly, mirrored, with noise, with copied patches."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from waldrand.core.picture.copied import copied_patches
from waldrand.core.picture.fills import FILLS, coloured_noise, filled
from waldrand.core.picture.membrane import stretched
from waldrand.core.refused import Refused


def pattern(h: int = 120, w: int = 160) -> np.ndarray:
    """Stripes that lean, light and dark, over a slope of colour."""
    yy, xx = np.mgrid[:h, :w].astype(np.float32)
    stripes = ((xx + 0.5 * yy) // 8 % 2)[..., None]
    return np.clip(0.2 + 0.5 * stripes + np.dstack([0 * xx, xx / w * 0.2, yy / h * 0.2]), 0, 1).astype(np.float32)


def known_but(h: int = 120, w: int = 160, box=(40, 80, 60, 100)) -> np.ndarray:
    out = np.ones((h, w), np.float32)
    out[box[0] : box[1], box[2] : box[3]] = 0
    return out


@pytest.mark.parametrize("how", [name for name, _ in FILLS])
def test_what_is_known_stays_bit_for_bit_and_the_same_seed_fills_alike(how):
    picture, known = pattern(), known_but()
    one, two = (filled(picture, known, how, 3) for _ in range(2))
    assert (one == two).all()
    assert (one[known == 1] == picture[known == 1]).all()
    assert np.isfinite(one).all()
    assert 0 <= one.min() <= one.max() <= 1
    # What lay under the hole has no say.
    spoiled = np.where(known[..., None] == 0, 0.9, picture)
    assert np.abs(filled(spoiled, known, how, 3) - one).max() < 1e-5


def test_another_seed_gives_other_noise():
    picture, known = pattern(), known_but()
    assert (filled(picture, known, "noise", 1) != filled(picture, known, "noise", 2)).any()


@pytest.mark.parametrize("how", [name for name, _ in FILLS])
def test_nothing_known_or_all_known(how):
    picture = pattern()
    assert (filled(picture, np.ones((120, 160)), how) == picture).all()
    assert np.abs(filled(picture, np.zeros((120, 160)), how) - 0.5).max() == 0
    thin = np.zeros((120, 160), np.float32)
    thin[:, :2] = 1
    assert np.isfinite(filled(picture, thin, how)).all()


def test_there_is_no_other_fill():
    with pytest.raises(Refused, match=r"no fill called “plaid”; choose one of smooth, mirror, noise, patches"):
        filled(pattern(), known_but(), "plaid")


def test_copied_patches_go_on_with_a_pattern_where_a_membrane_is_flat():
    picture, known = pattern(), known_but()
    hole = known == 0
    copied = copied_patches(picture, known, 1)
    smooth = stretched(np.where(hole[..., None], 0, picture).astype(np.float32), hole)
    assert np.abs(copied - picture)[hole].mean() < 0.5 * np.abs(smooth - picture)[hole].mean()
    # As rough inside as outside, not smeared.
    rough = [np.abs(np.diff(x, axis=1))[45:75, 65:95].mean() for x in (picture, copied, smooth)]
    assert rough[1] > 0.7 * rough[0]
    assert rough[2] < 0.3 * rough[0]


@given(st.integers(0, 40), st.integers(0, 40), st.integers(2, 60), st.integers(2, 60), st.integers(0, 5))
@settings(max_examples=15)
def test_copied_patches_fill_holes_anywhere(y, x, h, w, seed):
    picture = pattern(64, 72)
    known = np.ones((64, 72), np.float32)
    known[y : y + h, x : x + w] = 0
    made = copied_patches(picture, known, seed)
    assert np.isfinite(made).all()
    assert (made[known == 1] == picture[known == 1]).all()


def test_a_membrane_meets_its_rim_and_is_level_inside_a_level_rim():
    flat = np.full((40, 50, 3), 0.3, np.float32)
    hole = np.zeros((40, 50), bool)
    hole[10:30, 10:40] = True
    assert np.abs(stretched(np.where(hole[..., None], 9, flat).astype(np.float32), hole) - 0.3).max() < 1e-4
    slope = np.repeat(np.linspace(0, 1, 50, dtype=np.float32)[None, :, None], 40, 0)
    # A slope is its own membrane.
    assert np.abs(stretched(np.where(hole[..., None], 0, slope).astype(np.float32), hole) - slope).max() < 1e-3


@given(st.lists(st.tuples(st.integers(0, 39), st.integers(0, 39), st.integers(1, 20), st.integers(1, 20)), min_size=1, max_size=4))
@settings(max_examples=25)
def test_a_membrane_never_goes_beyond_what_is_round_it(boxes):
    values = np.random.default_rng(1).random((48, 48, 1)).astype(np.float32)
    hole = np.zeros((48, 48), bool)
    for y, x, h, w in boxes:
        hole[y : y + h, x : x + w] = True
    made = stretched(values, hole)
    if not hole.all() and hole.any():
        known = values[~hole]
        assert known.min() - 1e-3 <= made[hole].min()
        assert made[hole].max() <= known.max() + 1e-3
    assert (made[~hole] == values[~hole]).all()


def test_a_large_membrane_is_nearly_the_exact_one():
    yy, xx = np.mgrid[:300, :300].astype(np.float32) / 300
    values = np.dstack([xx, yy, xx * yy]).astype(np.float32)
    hole = (yy - 0.5) ** 2 + (xx - 0.5) ** 2 < 0.4**2
    # Each of these is a solution of Laplace's equation itself.
    assert np.abs(stretched(np.where(hole[..., None], 0, values).astype(np.float32), hole) - values).max() < 0.03


def test_coloured_noise_is_as_coarse_as_is_wanted():
    fine, coarse = coloured_noise((128, 128), 4, 1), coloured_noise((128, 128), 4, 12)
    for made in (fine, coarse):
        assert abs(made.std() - 1) < 0.05
    assert np.abs(np.diff(coarse, axis=0)).mean() < 0.3 * np.abs(np.diff(fine, axis=0)).mean()
