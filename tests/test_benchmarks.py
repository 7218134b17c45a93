"""What the benchmarks count with: layouts that say what they should, judges that judge known cases rightly."""

from __future__ import annotations

import itertools
import sys
from collections import Counter
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

sys.path.insert(0, str(Path(__file__).parent.parent / "benchmarks"))

from layouts import SIDE, load_layouts
from placement import share
from placement_by_colour import share_inside

from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.settings import PassSettings
from waldrand.core.values.element import Element, phrases
from waldrand.core.values.outline import Outline
from waldrand.packs.onnx_pack import own_pack_folder


def test_the_layouts_are_fifty_of_two_to_eight_things_and_lie_on_the_sheet():
    layouts, prompts = load_layouts()
    assert (len(layouts), len(prompts)) == (50, 14)
    counts = Counter(len(x.things) for x in layouts)
    assert set(counts) == set(range(2, 9))
    for layout in layouts:
        for e in layout.sheet().elements:
            x0, y0, x1, y1 = e.outline.box
            assert 0 <= x0 < x1 <= SIDE
            assert 0 <= y0 < y1 <= SIDE
            assert e.words


def test_every_layout_can_be_planned(own):
    for layout in itertools.chain(*load_layouts()):
        p = plan(layout.sheet(), Request("compose", PassSettings()), own)
        # Finer where figures say what stands where.
        assert p.frame.width == p.frame.height >= SIDE


def test_the_own_pack_and_its_finder_know_every_word_of_the_layouts(own):
    for layout in itertools.chain(*load_layouts()):
        for words in (layout.scene, *(words for words, *_ in layout.things)):
            for phrase in phrases(words):
                assert own.read(phrase)[1] == []
        for words, *_ in layout.things:
            assert own.finder.labels_of(phrases(words)[0])


@given(st.lists(st.booleans(), min_size=1, max_size=300))
def test_shares_lie_inside_their_intervals(landed):
    text = share(landed)
    low, high = (float(v) for v in text.split("(")[1].rstrip(")").split(" to "))
    assert 0 <= low <= 100 * np.mean(landed) + 0.5
    assert 100 * np.mean(landed) - 0.5 <= high <= 100
    assert f"{sum(landed)} of" in text


def test_colour_is_told_inside_and_outside():
    picture = np.full((64, 64, 3), (104, 154, 72), np.uint8)
    mask = np.zeros((64, 64), np.float32)
    mask[:32, :32] = 1
    picture[:32, :16] = (198, 52, 48)
    assert share_inside(picture, "red", mask) == (1.0, 0.5)
    picture[32:, :16] = (198, 52, 48)
    assert share_inside(picture, "red", mask) == (0.5, 0.5)
    assert share_inside(picture, "purple", mask)[0] == 0


@pytest.mark.training
class TestWithTheWorld:
    @pytest.fixture(autouse=True)
    def _packages(self):
        pytest.importorskip("torch")
        pytest.importorskip("skia")

    def test_layouts_speak_the_worlds_words(self):
        from training.world.scene import kinds
        from training.world.words import vocabulary

        words = set(vocabulary(kinds()))
        for layout in itertools.chain(*load_layouts()):
            spoken = [layout.scene, *(thing[0] for thing in layout.things)]
            assert {w for phrase in spoken for w in phrase.replace(",", " ").split()} <= words

    @given(st.integers(0, 2**31), st.floats(-3, 3), st.floats(0.5, 2))
    def test_the_distance_of_moved_and_scaled_features_is_known(self, seed, shift, scale):
        from quality import distance

        rng = np.random.default_rng(seed)
        a = rng.normal(size=(200, 3))
        b = a * scale + shift
        # Of two normal distributions whose covariances commute: |m1 - m2|^2 + sum (s1 - s2)^2.
        expected = ((a.mean(0) - b.mean(0)) ** 2).sum() + (1 - scale) ** 2 * np.trace(np.cov(a.T))
        assert distance(a, b) == pytest.approx(expected, rel=1e-4, abs=1e-6)

    def test_even_grounds_are_told_from_grain(self):
        from quality import alike

        even = np.full((32, 32, 3), 120, np.uint8)
        half = even.copy()
        half[:, 16:] = np.random.default_rng(0).integers(0, 255, (32, 16, 3))
        # Of 31 columns of steps 15 lie within the even half.
        assert alike(np.stack([even, half])) == pytest.approx([1, 15 / 31], abs=0.01)

    def test_unseen_scenes_become_sheets_and_layouts(self):
        from quality import as_layout
        from unseen import as_sheet, things_of, unseen, words_of

        for _, scene in unseen(6):
            sheet = as_sheet(scene, words_of(scene))
            assert (sheet.flatten()[..., :3] == scene.pixels).all()
            layout = as_layout(scene)
            assert len(layout.elements) <= len(things_of(scene))
            there = {p.kind for p in things_of(scene)}
            assert all(any(e.words.endswith(kind) for kind in there) for e in layout.elements)

    def test_masks_are_roomier_than_what_is_put_in(self):
        from inpaint import difference_outside, put_in
        from unseen import as_sheet, unseen

        for rng, scene in unseen(4):
            sheet, mask = put_in(as_sheet(scene, "meadow"), "owl", rng)
            x0, y0, x1, y1 = sheet.elements[-1].outline.box
            assert 0 <= x0 < x1 <= SIDE
            assert 0 <= y0 < y1 <= SIDE
            assert (mask[int(y0) : int(y1), int(x0) : int(x1)] == 255).all()
            assert mask.mean() < 0.6 * 255
            assert difference_outside(sheet, sheet, mask) == 0


def test_one_pack_can_paint_and_another_judge(own, tmp_path):
    import argparse

    from machine import judging_pack, named, pack_options

    parser = argparse.ArgumentParser()
    pack_options(parser)
    plain = judging_pack(parser.parse_args([]))
    assert plain.info.digest == own.info.digest
    folder = str(own_pack_folder())
    options = parser.parse_args(["--pack", folder, "--judge", folder])
    assert judging_pack(options).finder.labels == own.finder.labels
    assert named(plain, options).endswith(f"judged by {own.info.version}")
    everywhere = judging_pack(parser.parse_args(["--guided", "0", "1", "--lead-kept", "0"]))
    assert everywhere.info.guided == (0, 1) != plain.info.guided
    assert everywhere.info.lead_kept == 0 != plain.info.lead_kept
    with pytest.raises(SystemExit, match="no pack"):
        judging_pack(parser.parse_args(["--pack", str(tmp_path)]))


@pytest.mark.parametrize(("side", "said"), [(11.9, "under 12 %"), (12.1, "under 20 %"), (44, "under 45 %"), (80, "45 % and more")])
def test_things_are_sorted_by_the_side_of_a_square_as_large(side, said):
    pytest.importorskip("skia")
    from judge import size_of

    half, k = 0.5 * side / 100 * SIDE, 1.5
    middle = SIDE / 2
    assert size_of(Element(1, "fox", Outline("box", (middle - k * half, middle - half / k, middle + k * half, middle + half / k)))) == said
