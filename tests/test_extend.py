"""Extending: more room, sides one after another, what goes on and what stays."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from by_hand import at, drag, run
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import Qt

from waldrand.cli import main
from waldrand.core.passes.growing import SIDES, grown, parts, pixels_of, ratio_of, to_ratio
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe, request_from_json
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.refused import Refused
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.frame import Rect
from waldrand.core.values.outline import Outline
from waldrand.core.values.resize import framed
from waldrand.files.openraster import open_sheet, save_sheet
from waldrand.files.pictures import read_picture, read_recipe, write_png


def asked(**more) -> Request:
    own = {k: more.pop(k) for k in ("overlap", "fill", "part") if k in more}
    settings = PassSettings(steps=6, guidance=1.5, seed=2, strength=more.pop("strength", 0.85))
    return Request("extend", settings, more=tuple(own.items()), **more)


@pytest.fixture
def wider(painted):
    return framed(painted, Rect(0, 0, 352, 256))


# --- what it does


@pytest.mark.parametrize("fill", ["smooth", "mirror", "noise", "patches"])
@pytest.mark.parametrize("overlap", [0, 40])
def test_the_old_picture_stays_bit_for_bit_but_for_the_strip(wider, painted, closed, fill, overlap):
    take = run_take(plan(wider, asked(overlap=overlap, fill=fill), closed), closed, 2)
    done = take.laid_on(wider, "take").flatten()
    assert (done[..., 3] == 255).all()
    kept = 256 - overlap
    assert (done[:, :kept] == painted.flatten()[:, :kept]).all()
    if overlap:
        changed = np.abs(done[:, :256, :3].astype(int) - painted.flatten()[..., :3]).mean((0, 2))
        # Less and less, the farther from the new part.
        assert changed[250:256].mean() > changed[220:226].mean()


def test_an_overlap_makes_the_join_softer(wider, closed):
    sharp = replace(wider, scene=SceneWords("red"))

    def jump(overlap: int) -> float:
        done = run_take(plan(sharp, asked(overlap=overlap, strength=1.0), closed), closed, 2).laid_on(sharp, "take").flatten().astype(int)
        return float(np.abs(done[:, 256, :3] - done[:, 255, :3]).mean())

    assert jump(64) < 0.7 * jump(0)


def test_holes_are_filled_too_and_held_places_are_not(painted, closed):
    pixels = painted.flatten()
    pixels[100:150, 100:160, 3] = 0
    holed = replace(painted, layers=(replace(painted.layers[0], pixels=pixels),))
    p = plan(holed, asked(overlap=8), closed)
    done = run_take(p, closed, 2).laid_on(holed, "take").flatten()
    assert (done[..., 3] == 255).all()
    far = np.ones((256, 256), bool)
    far[88:162, 88:172] = False
    assert (done[far] == painted.flatten()[far]).all()
    hold = Element(50, "kept", Outline("box", (100, 100, 160, 125)), hold=True)
    done = run_take(plan(replace(holed, elements=(hold,)), asked(overlap=8), closed), closed, 2).laid_on(holed, "take").flatten()
    assert (done[100:125, 100:160, 3] == 0).all()


def test_one_part_at_a_time(painted, closed):
    sheet = framed(painted, Rect(-64, 0, 320, 256))
    p = plan(sheet, asked(part=(0, 0, 64, 256), overlap=16), closed)
    done = run_take(p, closed, 2).laid_on(sheet, "take").flatten()
    assert (done[:, :64, 3] == 255).all()
    assert (done[:, 320:, 3] == 0).all()


def test_elements_in_the_new_part_are_told_and_those_in_the_old_are_not(wider, closed):
    sheet = replace(
        wider,
        elements=(
            Element(60, "new", Outline("box", (270, 20, 340, 240)), "red"),
            Element(61, "old", Outline("box", (20, 20, 200, 240)), "blue"),
        ),
    )
    (stage,) = plan(sheet, asked(), closed).stages
    assert [s.phrase for s in stage.told if s.owner in ("new", "old")] == ["red"]


def test_the_forecast_says_what_it_will_do_and_what_looks_wrong(wider, closed):
    p = plan(wider, asked(overlap=0), closed)
    assert p.sentences[0].startswith("Extends the picture by 27 % of the sheet at 0.85")
    (caution,) = [w for w in p.warnings if "overlap" in w.text]
    sheet, request = caution.mend.apply(wider, asked(overlap=0))
    assert request.value("overlap") == 48
    assert not [w for w in plan(sheet, request, closed).warnings if "overlap" in w.text]
    huge = framed(wider, Rect(0, 0, 4000, 256))
    assert any("smaller steps" in w.text for w in plan(huge, asked(), closed).warnings)


def test_nothing_empty_is_refused_in_words(painted, placed, closed):
    with pytest.raises(Refused, match="Nothing is empty: give the sheet more room"):
        plan(painted, asked(), closed)
    with pytest.raises(Refused, match="no picture on the sheet"):
        plan(placed, asked(), closed)
    wide = framed(painted, Rect(0, 0, 400, 256))
    with pytest.raises(Refused, match="no empty place in the frame"):
        plan(wide, asked(own_frame=(0, 0, 200, 200)), closed)
    for wrong in ({"overlap": -1}, {"fill": "plaid"}):
        with pytest.raises(Refused):
            plan(wide, asked(**wrong), closed)


# --- how much room


@given(st.integers(16, 2000), st.integers(16, 2000), st.floats(0.2, 5), st.floats(0, 1), st.floats(0, 1))
def test_a_ratio_is_met_with_the_least_room_and_nothing_cut_off(w, h, ratio, x, y):
    room = to_ratio(w, h, ratio, (x, y))
    assert min(room.values()) >= 0
    width, height = w + room["left"] + room["right"], h + room["top"] + room["bottom"]
    assert width == w or height == h
    assert abs(width - height * ratio) <= 1 + ratio or abs(height - width / ratio) <= 1 + 1 / ratio


@given(st.permutations(SIDES), st.lists(st.integers(0, 50), min_size=4, max_size=4), st.integers(20, 90), st.integers(20, 90))
def test_the_parts_of_all_sides_are_the_new_room_and_do_not_overlap(order, rooms, w, h):
    room = dict(zip(SIDES, rooms, strict=True))
    if not any(rooms):
        with pytest.raises(Refused, match="No side gets any room"):
            grown(w, h, room)
        return
    whole = grown(w, h, room)
    count = np.zeros((whole.height, whole.width), int)
    count[Rect(room["left"], room["top"], room["left"] + w, room["top"] + h).slices] += 1
    for _, part in parts(w, h, room, order):
        count[part.slices] += 1
    assert (count == 1).all()


@pytest.mark.parametrize(("text", "pixels"), [("120", 120), ("25%", 100), (" 12.5 % ", 50), ("0", 0)])
def test_room_is_pixels_or_a_share(text, pixels):
    assert pixels_of(text, 400, "left") == pixels


@pytest.mark.parametrize("text", ["-4", "much", "1.5", "%", "1e9999", "25%%"])
def test_room_that_is_none_is_refused(text):
    with pytest.raises(Refused, match="no room for the left side"):
        pixels_of(text, 400, "left")


def test_ratios():
    assert ratio_of("16:9") == pytest.approx(16 / 9)
    for text in ("16", "0:9", "a:b", "16:0"):
        with pytest.raises(Refused, match="no ratio"):
            ratio_of(text)
    with pytest.raises(Refused, match="goes from 0 to 1"):
        to_ratio(100, 100, 2, (2, 0))


# --- kept


def test_it_repeats_from_the_small_picture_and_is_saved(painted, closed, tmp_path):
    sheet = framed(painted, Rect(-64, -32, 320, 256))
    sheet = replace(sheet, origin=(0, 0))
    for part in ((0, 32, 64, 288), (320, 32, 384, 288), (0, 0, 384, 32)):
        take = run_take(plan(sheet, asked(part=part, overlap=12), closed), closed, 2)
        sheet = sheet.with_layer(take.to_patch(sheet.next_key(), "side"))
    recipe = picture_recipe(sheet)
    assert recipe["at"] == [64, 32]
    assert request_from_json(recipe["passes"][0]["recipe"]).value("part") == (0, 32, 64, 288)
    assert (repeat(recipe, closed, [painted.flatten()]).pixels == sheet.flatten()).all()
    with pytest.raises(Refused, match="missing"):
        repeat(recipe | {"at": [0, 0]}, closed, [painted.flatten()])
    for wrong in ([1], "x", [10**9, 0]):
        with pytest.raises(Refused):
            repeat(recipe | {"at": wrong}, closed, [painted.flatten()])
    save_sheet(tmp_path / "a.ora", sheet)
    assert (open_sheet(tmp_path / "a.ora").sheet.flatten() == sheet.flatten()).all()


def test_the_command_extends_sides_in_order_and_repeats(tmp_path, painted, capsys):
    path, out = tmp_path / "a.png", tmp_path / "b.png"
    write_png(path, painted.flatten())
    do = ["extend", str(path), "--steps", "2", "--words", "meadow", "--seed", "4"]
    assert main([*do, "--right", "25%", "--top", "40", "--overlap", "16", "--out", str(out)]) == 0
    said = capsys.readouterr().out
    assert said.count("Extends the picture by") == 2
    done = read_picture(out).pixels
    assert done.shape[:2] == (296, 320)
    assert (done[56:, :240] == painted.flatten()[16:, :240]).all()
    assert main(["repeat", str(out), "--input", str(path)]) == 0
    assert "Identical" in capsys.readouterr().out
    assert main([*do, "--ratio", "2:1", "--at", "0,0", "--at-once", "--takes", "2", "--out", str(tmp_path / "two")]) == 0
    names = sorted(p.name for p in (tmp_path / "two").iterdir())
    assert names == ["take-4.png", "take-5.png"]
    wide = read_picture(tmp_path / "two" / "take-5.png").pixels
    assert wide.shape[:2] == (256, 512)
    assert len(read_recipe(tmp_path / "two" / "take-5.png")["passes"]) == 1


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ([], "No side gets any room"),
        (["--right", "-5"], "no room"),
        (["--right", "5", "--ratio", "2:1"], "either sides or a ratio"),
        (["--at", "0,0", "--right", "4"], "goes with --ratio"),
        (["--right", "40", "--overlap", "-1"], "overlap"),
        (["--right", "40", "--order", "left,left,top,bottom"], "each side once"),
        (["--right", "99999999"], "no room"),
        (["--right", "999999"], "too many"),
        (["--right", "40", "--takes", "0"], "at least one take"),
        (["--right", "40", "--out", "x.jpg"], "ending in .png"),
    ],
)
def test_bad_input_is_told_and_ends_with_2(tmp_path, painted, capsys, more, says):
    path = tmp_path / "a.png"
    write_png(path, painted.flatten())
    try:
        code = main(["extend", str(path), *more])
    except SystemExit as error:
        code = error.code
    assert code == 2
    assert says in capsys.readouterr().err
    assert [p.name for p in tmp_path.iterdir()] == ["a.png"]


# --- by hand


def test_a_side_is_drawn_outward_and_what_is_empty_is_painted_next(kept, wait):
    before = kept.document.sheet.flatten()
    kept.view.zoom_to(1.0)
    kept.view.fit()
    kept.view.set_tool("edges")
    kept.view.zoom_to(kept.view.scale_now / 1.6)
    drag(kept, 256, 128, 320, 128)
    sheet = kept.document.sheet
    assert (sheet.width, sheet.height) == (320, 256)
    assert kept.document.draft.kind == "extend"
    kept.refresh_forecast()
    assert "Extends the picture by 20 %" in kept.passes.forecast.text()
    kept.passes.takes.setValue(1)
    run(kept, wait)
    kept.takes.keep()
    after = kept.document.sheet.flatten()
    assert (after[..., 3] == 255).all()
    assert (after[:, :208] == before[:, :208]).all()


def test_a_corner_and_both_sides_alike_and_inward(kept):
    kept.view.set_tool("edges")
    kept.view.zoom_to(kept.view.scale_now / 1.8)
    drag(kept, 0, 0, -40, -24)
    assert (kept.document.sheet.width, kept.document.sheet.height) == (296, 280)
    kept.document.undo.undo()
    assert kept.document.draft.kind != "extend"
    drag(kept, 256, 128, 288, 128, modifier=Qt.KeyboardModifier.ShiftModifier)
    assert kept.document.sheet.width == 320
    assert kept.document.sheet.layers[0].bounds.x0 == 32
    kept.document.undo.undo()
    drag(kept, 256, 128, 200, 128)
    assert kept.document.sheet.width == 200
    assert kept.document.draft.kind != "extend"
    kept.document.undo.undo()
    drag(kept, 100, 100, 140, 140)
    assert kept.document.sheet.width == 256
    assert "side or a corner" in kept.passes.status.text()
    assert at(kept, 0, 0) is not None
