"""Cut out, laid in, adjusted, moved, kept while all round it is new: by their own functions and by command."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from waldrand.cli import main
from waldrand.core.passes.lifting import Move, laid_down, lifted
from waldrand.core.passes.moving import filled_behind
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.picture.adjusting import Adjustment, adjusted, curve_of, from_oklab
from waldrand.core.picture.cutting import guided, like_colour, oklab, shaped, softened, told_by_colours
from waldrand.core.picture.placed import placed, turned, visible_box
from waldrand.core.refused import Refused
from waldrand.core.seen.cut_out import subject
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.masks import Mask
from waldrand.core.values.sheet import Sheet
from waldrand.files.openraster import open_sheet
from waldrand.files.pictures import read_picture, write_png
from waldrand.packs.closed_form import ClosedFormPack


def scene(h: int = 128, w: int = 160) -> tuple[np.ndarray, np.ndarray]:
    """A red disc on a green ground with grain, (H, W, 4) uint8, and where the disc is."""
    yy, xx = np.mgrid[:h, :w]
    disc = (yy - 60) ** 2 + (xx - 80) ** 2 < 30**2
    rgb = np.where(disc[..., None], (190, 50, 40), (60, 130, 70)) + np.random.default_rng(3).normal(0, 9, (h, w, 3))
    return np.dstack([np.clip(rgb, 0, 255), np.full((h, w), 255)]).astype(np.uint8), disc


def overlap(a: np.ndarray, b: np.ndarray) -> float:
    return float((a & b).sum() / (a | b).sum())


# --- cutting out


def test_like_colours_are_taken_where_they_are_joined_or_everywhere():
    pixels, disc = scene()
    pixels[5:12, 5:12, :3] = (190, 50, 40)
    joined, everywhere = like_colour(pixels, 80, 60, 0.3), like_colour(pixels, 80, 60, 0.3, True)
    assert overlap(joined, disc) > 0.97
    assert not joined[8, 8]
    assert everywhere[8, 8]
    assert like_colour(pixels, 80, 60, 0.0).sum() <= disc.sum()
    assert like_colour(pixels, 80, 60, 1.0).all()
    for x, y, tolerance in ((-1, 0, 0.1), (160, 0, 0.1), (1, 1, 1.5)):
        with pytest.raises(Refused):
            like_colour(pixels, x, y, tolerance)


def test_a_rough_guess_is_made_to_fit():
    pixels, disc = scene()
    guess = np.zeros((128, 160), np.float32)
    guess[24:104, 44:128] = 1
    fitted = told_by_colours(pixels, guess)
    assert overlap(guess > 0.5, disc) < 0.5
    assert overlap(fitted > 0.5, disc) > 0.75
    none, everything = np.zeros_like(guess), np.ones_like(guess)
    assert (told_by_colours(pixels, none) == none).all()
    assert (told_by_colours(pixels, everything) == everything).all()


def test_the_subject_is_what_is_unlike_the_rim_where_there_is_no_finder():
    blind = ClosedFormPack()
    blind.finder = None
    pixels, disc = scene()
    assert overlap(subject(pixels, blind) > 0.5, disc) > 0.9
    with pytest.raises(Refused, match="Nothing stands out"):
        subject(np.full((64, 64, 4), 128, np.uint8), blind)


@given(st.floats(-12, 12), st.floats(0, 12))
@settings(max_examples=20)
def test_a_mask_is_grown_and_feathered(grow, feather):
    _, disc = scene()
    made = shaped(disc.astype(np.float32), grow, feather)
    assert made.min() >= 0
    assert made.max() <= 1.001
    radius = np.sqrt((made > 0.5).sum() / np.pi)
    assert radius == pytest.approx(30 + grow, abs=1.5)


def test_an_edge_becomes_soft_only_beside_it():
    pixels, disc = scene()
    soft = softened(pixels, disc.astype(np.float32), 4)
    yy, xx = np.mgrid[:128, :160]
    away = np.abs(np.sqrt((yy - 60) ** 2 + (xx - 80) ** 2) - 30)
    assert (soft[away > 8] == disc[away > 8]).all()
    assert overlap(soft > 0.5, disc) > 0.95
    flat = np.full((40, 40), 0.5, np.float32)
    assert np.abs(guided(flat, flat, 3, 1e-3) - 0.5).max() < 1e-4


# --- laying in


def test_the_middle_of_what_is_visible_comes_to_lie_at_the_point():
    cut = np.zeros((50, 60, 4), np.uint8)
    cut[10:30, 20:50] = (200, 100, 50, 255)
    pixels, x, y = placed(cut, (100, 80))
    assert pixels.shape == (20, 30, 4)
    assert (x, y) == (85, 70)
    assert (pixels == cut[10:30, 20:50]).all()
    larger, x, y = placed(cut, (100, 80), 2.0)
    assert larger.shape == (40, 60, 4)
    assert (x, y) == (70, 60)
    with pytest.raises(Refused, match="empty"):
        visible_box(np.zeros((4, 4, 4), np.uint8))
    for scale in (0, -1, 1000):
        with pytest.raises(Refused, match="scale"):
            placed(cut, (0, 0), scale)


def test_quarters_are_turned_exactly_and_others_keep_their_colours_and_size():
    cut = np.random.default_rng(1).integers(0, 255, (12, 20, 4)).astype(np.uint8)
    assert (turned(turned(cut, 90), 270) == cut).all()
    assert (turned(cut, 90) == np.rot90(cut, -1)).all()
    assert (turned(cut, 360) == cut).all()
    solid = np.full((40, 60, 4), 255, np.uint8)
    solid[..., :3] = (200, 100, 50)
    made = turned(solid, 30)
    inside = made[..., 3] == 255
    assert inside.sum() == pytest.approx(40 * 60, rel=0.08)
    assert np.abs(made[inside][:, :3].astype(int) - (200, 100, 50)).max() <= 2


# --- adjusting


@given(st.integers(0, 40))
@settings(max_examples=10)
def test_colours_come_back_from_oklab(seed):
    rgb = np.random.default_rng(seed).random((20, 20, 3)).astype(np.float32)
    assert np.abs(from_oklab(oklab(rgb)) - rgb).max() < 2e-3


def test_each_number_does_what_it_says():
    rgb = np.random.default_rng(0).random((40, 40, 3)).astype(np.float32) * 0.8 + 0.1

    def mean(**given) -> np.ndarray:
        return adjusted(rgb, Adjustment(**given)).mean((0, 1))

    plain = rgb.mean((0, 1))
    assert (adjusted(rgb, Adjustment()) == rgb).all()
    assert (mean(exposure=1) > plain).all()
    assert (mean(exposure=-1) < plain).all()
    assert adjusted(rgb, Adjustment(contrast=0.5)).std() > rgb.std() > adjusted(rgb, Adjustment(contrast=-0.5)).std()
    assert adjusted(rgb, Adjustment(saturation=-1)).std(-1).max() < 0.02
    warm = mean(temperature=0.6) - plain
    assert warm[0] > 0 > warm[2]
    pink = mean(tint=0.6) - plain
    assert pink[1] < 0 < pink[0]
    assert np.abs(adjusted(rgb, Adjustment(hue=40)) - rgb).mean() > 0.05
    assert np.abs(adjusted(rgb, Adjustment(curve=curve_of("0,0 1,1"))) - rgb).max() < 1e-3
    assert (mean(curve=curve_of("0,0 .3,.6 1,1")) > plain).all()


@pytest.mark.parametrize("curve", ["0,0 .5,.2 .4,.9 1,1", "0,0 .5,.8 1,.4", "0,0", "0,0 1,2"])
def test_a_curve_that_falls_or_leaves_the_square_is_refused(curve):
    with pytest.raises(Refused, match="curve"):
        Adjustment(curve=curve_of(curve))


def test_what_is_no_curve_and_what_is_out_of_range_is_refused():
    for text in ("a,b", "0;0", "0,0,0"):
        with pytest.raises(Refused, match="no point of a curve"):
            curve_of(text)
    for wrong in ({"exposure": 99}, {"hue": 200}, {"tint": 2}):
        with pytest.raises(Refused, match="goes from"):
            Adjustment(**wrong)


# --- filling, moving


def test_an_inpaint_starts_from_copied_patches_and_at_strength_0_that_is_all(painted, closed, round_mask):
    sheet = replace(painted, mask=round_mask)

    def made(fill: str, strength: float) -> np.ndarray:
        request = Request("inpaint", PassSettings(steps=4, guidance=1.0, strength=strength), more=(("fill", fill),))
        return run_take(plan(sheet, request, closed), closed, 0).laid_on(sheet, "take").flatten()

    before, hole = painted.flatten(), round_mask.read() > 0
    assert (made("picture", 0.0) == before).all()
    filled = made("patches", 0.0)
    assert (filled[~hole] == before[~hole]).all()
    assert (filled[hole] != before[hole]).any()
    assert (made("patches", 0.8) != made("picture", 0.8)).any()
    with pytest.raises(Refused, match="no fill called"):
        made("plaid", 0.5)


def test_a_thing_is_moved_and_its_old_place_filled(closed):
    pixels, disc = scene()
    sheet = Sheet(160, 128, (PictureLayer(1, "scene", pixels),))
    request = Request("inpaint", PassSettings(steps=2, guidance=1.0, strength=0.0), more=(("fill", "patches"),))
    move = Move(np.uint8(255 * disc), (40, 20))
    done = laid_down(filled_behind(sheet, move, request, closed), lifted(sheet, move), move)
    seen = done.flatten()[..., :3].astype(int)
    assert np.abs(seen[80, 120] - (190, 50, 40)).max() < 40
    assert seen[60, 60, 1] > seen[60, 60, 0] + 30
    far = np.ones((128, 160), bool)
    far[14:128, 34:160] = False
    assert (done.flatten()[far] == pixels[far]).all()
    for mask in (np.zeros((128, 160)), np.ones((128, 160))):
        with pytest.raises(Refused, match="nothing to move"):
            lifted(sheet, Move(np.uint8(255 * mask), (1, 1)))
    with pytest.raises(Refused, match="wholly outside"):
        lifted(sheet, Move(np.uint8(255 * disc), (999, 0)))


# --- by command


@pytest.fixture
def files(tmp_path):
    pixels, disc = scene()
    write_png(tmp_path / "p.png", pixels)
    write_png(tmp_path / "m.png", np.where(disc, 255, 0).astype(np.uint8))
    return tmp_path, pixels, disc


def test_cut_out_and_place_in(files, capsys):
    at, pixels, disc = files
    assert main(["cut-out", str(at / "p.png"), "--like", "80,60", "--tolerance", "0.3", "--out", str(at / "c.png")]) == 0
    cut = read_picture(at / "c.png").pixels
    assert cut.shape == pixels.shape
    assert overlap(cut[..., 3] > 127, disc) > 0.95
    assert (cut[cut[..., 3] == 255] == pixels[cut[..., 3] == 255]).all()
    do = ["place-in", str(at / "p.png"), str(at / "c.png"), "--at", "120,100", "--scale", "0.5", "--turn", "20", "--match", "0.3"]
    assert main([*do, "--no-seam", "1", "--out", str(at / "o.ora")]) == 0
    assert "Its edge steps" in capsys.readouterr().out
    sheet = open_sheet(at / "o.ora").sheet
    assert sheet.layers[1].brought_by == {"match": 0.3, "seamless": 1.0}
    assert (sheet.flatten()[:40] == pixels[:40]).all()
    assert main([*do, "--out", str(at / "o.png")]) == 0


def test_adjust_and_noise_leave_the_rest_bit_for_bit(files):
    at, pixels, disc = files
    for do in (
        ["adjust", str(at / "p.png"), "--exposure", "1", "--curve", "0,0 .5,.6 1,1"],
        ["noise", str(at / "p.png"), "--tint", "#406080", "--amount", "0.8", "--lightness", "0.1", "--seed", "4"],
    ):
        out = at / f"{do[0]}.png"
        assert main([*do, "--mask", str(at / "m.png"), "--out", str(out)]) == 0
        made = read_picture(out).pixels
        assert (made[~disc] == pixels[~disc]).all()
        assert (made[disc] != pixels[disc]).any()


def test_around_keeps_what_is_held_bit_for_bit(files, capsys):
    at, pixels, disc = files
    do = [
        "around",
        str(at / "p.png"),
        "--hold",
        str(at / "m.png"),
        "--words",
        "meadow",
        "--scene",
        "meadow",
        "--strength",
        "0.9",
        "--steps",
        "2",
    ]
    assert main([*do, "--takes", "2", "--out", str(at / "two")]) == 0
    one, two = (read_picture(p).pixels for p in sorted((at / "two").iterdir()))
    for made in (one, two):
        assert (made[disc] == pixels[disc]).all()
        assert np.abs(made[~disc].astype(int) - pixels[~disc]).mean() > 5
    assert (one != two).any()
    assert main([*do, "--shrink", "5", "--out", str(at / "s.png")]) == 0
    assert (read_picture(at / "s.png").pixels[disc] != pixels[disc]).any()
    capsys.readouterr()


def test_move_by_command(files):
    at, *_ = files
    do = ["move", str(at / "p.png"), "--mask", str(at / "m.png"), "--by=40,20", "--fill", "patches", "--strength", "0"]
    assert main([*do, "--out", str(at / "v.png")]) == 0
    made = read_picture(at / "v.png").pixels.astype(int)
    assert made[80, 120, 0] > made[80, 120, 1]
    assert made[60, 60, 1] > made[60, 60, 0]


@pytest.mark.parametrize(
    ("do", "says"),
    [
        (["cut-out", "p.png", "--like", "80,60", "--tolerance", "7"], "tolerance goes from 0 to 1"),
        (["cut-out", "p.png", "--like", "middle"], "write a point"),
        (["cut-out", "p.png", "--at", "4,4"], "Nothing is surely seen"),
        (["cut-out", "p.png", "--words", "blorb"], "does not know"),
        (["cut-out", "p.png", "--like", "80,60", "--grow", "-90"], "Nothing would be left"),
        (["cut-out", "p.png"], "One of the arguments"),
        (["adjust", "p.png"], "Nothing would change"),
        (["adjust", "p.png", "--curve", "0,0 1,.5 .5,1"], "rise"),
        (["adjust", "p.png", "--exposure", "70"], "Exposure goes"),
        (["noise", "p.png", "--mask", "m.png", "--tint", "sky"], "no colour"),
        (["noise", "p.png", "--mask", "m.png", "--amount", "3"], "goes from 0 to 1"),
        (["place-in", "p.png", "p.png", "--at", "here"], "write a point"),
        (["place-in", "p.png", "p.png", "--at", "1,1", "--match", "4"], "goes from 0 to 1"),
        (["around", "p.png", "--hold", "m.png", "--shrink", "99", "--strength", "0.5"], "Nothing would be held"),
        (["around", "p.png", "--hold", "white.png", "--strength", "0.5"], "Everything would be held"),
        (["move", "p.png", "--mask", "m.png", "--by", "far"], "write a point"),
        (["move", "p.png", "--mask", "m.png", "--by", "9999,0"], "wholly outside"),
    ],
)
def test_bad_input_is_told_in_words_and_ends_with_2(files, monkeypatch, capsys, do, says):
    at, *_ = files
    write_png(at / "white.png", np.full((128, 160), 255, np.uint8))
    monkeypatch.chdir(at)
    before = sorted(p.name for p in at.iterdir())
    try:
        code = main([*do, "--out", "o.png"])
    except SystemExit as error:
        code = error.code
    assert code == 2
    assert says in capsys.readouterr().err
    assert sorted(p.name for p in at.iterdir()) == before


def test_words_that_name_what_is_held_are_warned_of(own, tmp_path, capsys):
    from waldrand.demo import load_demo

    sheet = load_demo().layout.sheet
    request = Request("compose", PassSettings(steps=8, seed=3))
    done = run_take(plan(sheet, request, own), own, 3).laid_on(sheet, "t").flatten()
    write_png(tmp_path / "p.png", done)
    mask = Mask(512, 512).dab(400, 430, 90, 0)[0].read()
    write_png(tmp_path / "m.png", mask)
    do = ["around", str(tmp_path / "p.png"), "--hold", str(tmp_path / "m.png"), "--strength", "0.4", "--steps", "2", "--words", "fox"]
    assert main([*do, "--out", str(tmp_path / "o.png")]) == 0
    assert "names “fox”" in capsys.readouterr().out.replace("name “fox”", "names “fox”")
